package quickline_test

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

// The corpus: lines the way authors write them, beginners', workshop and maker's
// style, over the six demo codes, each with the sentence it becomes, those it comes apart into, or "text".
// They are ours; read each file with an editor's eye when a line of it changes.
// What stands before the step is part of the sentence.
// A line whose sentence differs is a wrong reading, and there are none.
func TestCorpus(t *testing.T) {
	files, err := filepath.Glob("testdata/corpus/*.txt")
	require.NoError(t, err)
	require.Len(t, files, 8)
	all, read, apart := 0, 0, 0
	for _, f := range files {
		b, err := os.ReadFile(f)
		require.NoError(t, err)
		lines := strings.Split(strings.TrimSpace(string(b)), "\n")
		d := fixture.Document(strings.TrimPrefix(lines[0], "# "))
		x := engine.NewIndex(&d.Engine)
		lex := quickline.NewLexicon(x)
		for _, l := range lines[1:] {
			line, want, ok := strings.Cut(l, " => ")
			require.True(t, ok, l)
			all++
			r := quickline.Read(lex, line)
			got := "text"
			if r.Read() {
				read++
				got = r.Sentence(x)
			} else {
				assert.Equal(t, quickline.Plain(line), r.Action.(*step.Do).Text, "nothing typed is lost")
				var says []string
				for _, part := range r.Parts {
					one := quickline.Read(lex, part)
					require.True(t, one.Read(), part)
					says = append(says, one.Sentence(x))
				}
				if len(says) > 0 {
					apart++
					got = strings.Join(says, " | ")
				}
			}
			assert.Equal(t, want, got, "%s: %s (%s)", filepath.Base(f), line, r.Problem)
			for _, c := range r.Choices {
				again := quickline.Read(lex, c)
				assert.True(t, again.Read() || len(again.Choices) > 0, "%q offers %q, which does not read: %s", line, c, again.Problem)
			}
		}
	}
	t.Logf("%d lines, %d read (%.1f %%), none wrongly; %d more are taken apart into steps that read", all, read, 100*float64(read)/float64(all), apart)
	assert.GreaterOrEqual(t, all, 600)
	assert.GreaterOrEqual(t, float64(read+apart)/float64(all), 0.80)
}

// Words that turn a sentence round never go missing: put into a line that reads,
// at any place, they leave it text or stand in its sentence.
func TestWordsThatTurnASentenceRound(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	b, err := os.ReadFile("testdata/corpus/tq4.txt")
	require.NoError(t, err)
	tried := 0
	for _, l := range strings.Split(strings.TrimSpace(string(b)), "\n")[1:] {
		line, want, _ := strings.Cut(l, " => ")
		if want == "text" {
			continue
		}
		words := strings.Fields(quickline.Plain(line))
		for _, turning := range []string{"not", "never", "no", "without", "except", "unless", "only", "before", "after", "if", "either", "instead of", "until"} {
			for i := range words {
				turned := strings.Join(words[:i], " ") + " " + turning + " " + strings.Join(words[i:], " ")
				tried++
				r := quickline.Read(lex, turned)
				if !r.Read() {
					continue
				}
				s := strings.ToLower(en.Sentence(x, r.Action))
				_, checks := r.Action.(*step.Check)
				_, turns := r.Action.(*step.Turn)
				_, tightens := r.Action.(*step.Tighten)
				kept := strings.Contains(s, turning) || checks && strings.Contains(s, "is out") || checks && strings.Contains(s, "are out") || checks && (strings.Contains(s, "not") || strings.Contains(s, "off")) ||
					turns && turning == "until" || tightens && (turning == "only" || turning == "until")
				assert.True(t, kept, "%q is read as %q", turned, s)
				for _, c := range r.Choices {
					assert.Contains(t, c, turning)
				}
			}
		}
	}
	t.Logf("%d lines turned round", tried)
}
