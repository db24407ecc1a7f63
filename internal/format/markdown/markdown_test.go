package markdown_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	east "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/document"
	"inklatch/internal/format/markdown"
)

// read parses what was written with another's reader of CommonMark and GFM.
func read(t require.TestingT, d *document.Document) (ast.Node, []byte) {
	var b bytes.Buffer
	require.NoError(t, markdown.Write(&b, d))
	md := goldmark.New(goldmark.WithExtensions(extension.GFM))
	return md.Parser().Parse(text.NewReader(b.Bytes())), b.Bytes()
}

// words are the words of a node as they are read, spaces run together.
func words(n ast.Node, src []byte) string {
	var b strings.Builder
	_ = ast.Walk(n, func(n ast.Node, in bool) (ast.WalkStatus, error) {
		if !in {
			return ast.WalkContinue, nil
		}
		switch n := n.(type) {
		case *ast.Text:
			b.Write(unescaped(n.Segment.Value(src)))
			if n.SoftLineBreak() || n.HardLineBreak() {
				b.WriteByte(' ')
			}
		case *ast.String:
			b.Write(n.Value)
		case *ast.AutoLink:
			b.Write(n.URL(src))
		}
		return ast.WalkContinue, nil
	})
	return strings.Join(strings.Fields(b.String()), " ")
}

// unescaped takes the backslashes out that stand before punctuation.
func unescaped(b []byte) []byte {
	out := make([]byte, 0, len(b))
	for i := 0; i < len(b); i++ {
		if b[i] == '\\' && i+1 < len(b) && strings.IndexByte("!\"#$%&'()*+,-./:;<=>?@[\\]^_`{|}~", b[i+1]) >= 0 {
			i++
		}
		out = append(out, b[i])
	}
	return out
}

func all[N ast.Node](root ast.Node) (out []N) {
	_ = ast.Walk(root, func(n ast.Node, in bool) (ast.WalkStatus, error) {
		if v, ok := n.(N); ok && in {
			out = append(out, v)
		}
		return ast.WalkContinue, nil
	})
	return out
}

// Every page of the demo is read back by another's reader: its headings, a box for each
// step and condition, a row for each torque, tool and part, and every sentence whole.
func TestEveryPageIsReadBack(t *testing.T) {
	for _, name := range fixture.Documents() {
		f := fixture.Document(name)
		x := engine.NewIndex(&f.Engine)
		p := &f.Procedure
		page := document.Of(x, p)
		d := document.Lay(x, p, p.Trace(x, 0, p.First(x.Sheet)), &document.Issue{Number: 3, State: "latched", Applies: "2019–2024"}, false)
		root, src := read(t, d)
		said := words(root, src)
		steps := 0
		for _, ph := range page.Phases {
			for _, s := range ph.Steps {
				steps++
				assert.Contains(t, said, strings.Join(strings.Fields(s.Text), " "), name)
				for _, c := range s.Cautions {
					assert.Contains(t, said, strings.Join(strings.Fields(c), " "), name)
				}
			}
		}
		assert.Len(t, all[*east.TaskCheckBox](root), steps+len(p.Prelims.Conditions), name)
		heads := all[*ast.Heading](root)
		require.NotEmpty(t, heads)
		assert.Equal(t, p.Title, words(heads[0], src), name)
		rows := 2 + len(page.Tools) + len(page.Parts) + len(page.Torque) // the strip stands twice
		assert.Len(t, all[*east.TableRow](root), rows, name)
		for _, r := range all[*east.TableRow](root) {
			assert.Contains(t, []int{3, 4, 5, 7}, r.ChildCount(), name)
		}
		assert.Equal(t, 2, strings.Count(said, strings.Join(strings.Fields(document.Safety), " ")), name)
		assert.NotContains(t, said, "Do not work by this page", name)
	}
}

// A page that nobody is to work by says so before anything else.
func TestStopStandsFirst(t *testing.T) {
	f := fixture.Document("renew-timing-belt-r4.latch.json")
	x := engine.NewIndex(&f.Engine)
	for state, says := range map[string]string{"": "still being written", "on review": "on review", "superseded": "a newer revision", "deleted": "no longer"} {
		d := document.Lay(x, &f.Procedure, f.Procedure.Trace(x, 0, nil), &document.Issue{State: state}, true)
		root, src := read(t, d)
		said := words(root, src)
		at := strings.Index(said, "Do not work by this page.")
		require.GreaterOrEqual(t, at, 0, state)
		assert.Contains(t, said, says)
		assert.Less(t, at, strings.Index(said, "Before you start"))
	}
	d := document.Lay(x, &f.Procedure, f.Procedure.Trace(x, 0, nil), &document.Issue{State: "latched", Withdrawn: "Withdrawn by Mirja: wrong torque."}, false)
	root, src := read(t, d)
	assert.Contains(t, words(root, src), "Withdrawn by Mirja: wrong torque.")
}

// Whatever an author writes stands on the page as it was written, and opens no list, link,
// table or heading of its own.
func TestWordsStandForThemselves(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		s := rapid.StringMatching(`[ -~µ°–“”é]{1,40}`).Draw(r, "words")
		s = strings.Join(strings.Fields(s), " ")
		if s == "" || strings.Contains(s, "://") || strings.Contains(s, "www.") || strings.Contains(s, "@") {
			return // an address may be made one
		}
		d := &document.Document{Blocks: []document.Block{
			document.Paragraph{Text: s}, document.Boxes{Items: []string{s}}, document.Work{Step: document.Step{Number: 1, Text: s, Note: s, Cautions: []string{s}}},
			document.ToolTable{Rows: []document.Tool{{Number: s, Name: s, Steps: []int{1}}}},
		}}
		root, src := read(r, d)
		if n := strings.Count(words(root, src), s); n < 7 {
			// Words at the seams may run into one another, so each place is looked at.
			for _, p := range all[*ast.Paragraph](root) {
				r.Logf("%q", words(p, src))
			}
			r.Fatalf("%q stands %d times of 7 in\n%s", s, n, src)
		}
		require.Empty(r, all[*ast.Heading](root))
		require.Empty(r, all[*ast.Link](root))
		require.Empty(r, all[*ast.CodeSpan](root))
		require.Len(r, all[*ast.Emphasis](root), 2, "the caution’s and the number of the step")
	})
}
