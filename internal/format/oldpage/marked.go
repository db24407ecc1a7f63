package oldpage

import (
	"bytes"
	"regexp"
	"slices"
	"strings"
	"unicode"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"inklatch/internal/core/page/quickline"
)

// markdown reads CommonMark with the tables of GFM.
func (r *reader) markdown(b []byte) error {
	var out bytes.Buffer
	if err := goldmark.New(goldmark.WithExtensions(extension.Table)).Convert(b, &out); err != nil {
		return err
	}
	return r.html(out.Bytes())
}

// html reads a page of HTML as a browser would lay it out.
func (r *reader) html(b []byte) error {
	doc, err := html.ParseWithOptions(bytes.NewReader(b), html.ParseOptionEnableScripting(false))
	if err != nil {
		return wrong("The page is damaged: %v.", err)
	}
	w := &htmlWalk{reader: r}
	if err := w.walk(doc, Line{Kind: Paragraph}); err != nil {
		return err
	}
	return w.flush()
}

type htmlWalk struct {
	*reader
	text strings.Builder
	as   Line
	box  Kind
}

// flush ends the line that is being gathered.
func (w *htmlWalk) flush() error {
	l := w.as
	l.Text = w.text.String()
	w.text.Reset()
	if kind := boxWord(l.Text); kind != "" && l.Kind != Heading {
		w.box = kind
		return nil
	}
	if w.box != "" && squeeze(l.Text) != "" {
		l.Kind, w.box = w.box, ""
	}
	return w.add(l)
}

// block is a line of its own, or several.
func (w *htmlWalk) block(n *html.Node, as Line) error {
	if err := w.flush(); err != nil {
		return err
	}
	before := w.as
	w.as = as
	for k := n.FirstChild; k != nil; k = k.NextSibling {
		if err := w.walk(k, as); err != nil {
			return err
		}
	}
	err := w.flush()
	w.as = before
	return err
}

func (w *htmlWalk) walk(n *html.Node, as Line) error {
	if n.Type == html.TextNode {
		w.as = as
		w.text.WriteString(n.Data)
		return nil
	}
	if n.Type == html.ElementNode {
		switch n.DataAtom {
		case atom.Script, atom.Style, atom.Head, atom.Template, atom.Noscript, atom.Del:
			return nil
		case atom.Nav:
			return w.add(Line{Kind: Furniture, Text: wordsOf(n)})
		case atom.Br:
			w.text.WriteByte(' ')
			return nil
		case atom.Img, atom.Svg, atom.Picture, atom.Video:
			says := squeeze(attrOf(n, "alt"))
			if says == "" {
				says = "a picture"
			}
			return w.add(Line{Kind: Picture, Text: says})
		case atom.H1, atom.H2, atom.H3, atom.H4, atom.H5, atom.H6:
			return w.block(n, Line{Kind: Heading, Level: int(n.Data[1] - '0')})
		case atom.Ol, atom.Ul:
			deep := as.Level
			if as.Kind != Item {
				deep = 0
			}
			return w.block(n, Line{Kind: Item, Level: deep + 1})
		case atom.Table:
			if err := w.flush(); err != nil {
				return err
			}
			return w.tables(n)
		case atom.Aside, atom.Blockquote:
			if as.Kind == Paragraph || as.Kind == Item {
				if kind := classOf(n); kind != "" {
					return w.block(n, Line{Kind: kind})
				}
			}
			return w.block(n, as)
		case atom.P, atom.Div, atom.Li, atom.Section, atom.Article, atom.Dl, atom.Dt, atom.Dd, atom.Pre, atom.Figure, atom.Figcaption, atom.Main, atom.Header, atom.Footer, atom.Body, atom.Address, atom.Form, atom.Fieldset, atom.Details, atom.Summary, atom.Hr:
			if kind := classOf(n); kind != "" && n.DataAtom != atom.Body {
				return w.block(n, Line{Kind: kind})
			}
			return w.block(n, as)
		}
	}
	for k := n.FirstChild; k != nil; k = k.NextSibling {
		if err := w.walk(k, as); err != nil {
			return err
		}
	}
	return nil
}

// tables reads the rows of a table.
func (w *htmlWalk) tables(n *html.Node) error {
	for k := n.FirstChild; k != nil; k = k.NextSibling {
		if k.DataAtom != atom.Tr {
			if k.Type == html.ElementNode {
				if err := w.tables(k); err != nil {
					return err
				}
			}
			continue
		}
		var cells []*html.Node
		for c := k.FirstChild; c != nil; c = c.NextSibling {
			if c.DataAtom == atom.Td || c.DataAtom == atom.Th {
				cells = append(cells, c)
			}
		}
		if len(cells) == 1 {
			if err := w.block(cells[0], Line{Kind: Paragraph}); err != nil {
				return err
			}
			continue
		}
		var out []string
		for _, c := range cells {
			out = append(out, squeeze(wordsOf(c)))
		}
		if err := w.cells(out); err != nil {
			return err
		}
	}
	return nil
}

func wordsOf(n *html.Node) string {
	if n.Type == html.TextNode {
		return n.Data
	}
	var b strings.Builder
	for k := n.FirstChild; k != nil; k = k.NextSibling {
		b.WriteString(wordsOf(k))
		if k.Type == html.ElementNode && (k.DataAtom == atom.P || k.DataAtom == atom.Br || k.DataAtom == atom.Div) {
			b.WriteByte(' ')
		}
	}
	return b.String()
}

func attrOf(n *html.Node, name string) string {
	for _, a := range n.Attr {
		if a.Key == name {
			return a.Val
		}
	}
	return ""
}

// classOf is the kind of box that an element says it is.
func classOf(n *html.Node) Kind {
	for c := range strings.FieldsFuncSeq(strings.ToLower(attrOf(n, "class")+" "+attrOf(n, "role")), func(r rune) bool { return !unicode.IsLetter(r) }) {
		if kind := boxWord(c); kind != "" {
			return kind
		}
	}
	return ""
}

// dita reads a task of DITA 1.2 (OASIS), and what other topics have in common with one.
func (r *reader) dita(b []byte) error {
	doc, err := tree(b)
	if err != nil {
		return err
	}
	root := (*node)(nil)
	for _, k := range doc.kids {
		if k.name != "" {
			root = k
		}
	}
	if root == nil || !slices.Contains([]string{"task", "topic", "concept", "reference", "dita", "generalTask"}, root.name) {
		return wrong("This XML is no topic of DITA. Bring a task, or the page as .docx, .odt or .html.")
	}
	return r.topic(root, 1, 0)
}

// topic reads the elements of a topic: level is that of the next title, deep how deep in lists.
func (r *reader) topic(n *node, level, deep int) error {
	for _, k := range n.kids {
		var err error
		switch k.name {
		case "":
			if deep == 0 {
				err = r.add(Line{Kind: Paragraph, Text: k.text})
			} else {
				err = r.add(Line{Kind: Item, Level: deep, Text: k.text})
			}
		case "title":
			err = r.add(Line{Kind: Heading, Level: level, Text: k.words()})
		case "task", "topic", "concept", "reference", "section":
			err = r.topic(k, level+1, 0)
		case "steps", "steps-unordered", "ol", "ul", "substeps", "choices", "steps-informal":
			err = r.topic(k, level+1, deep+1)
		case "cmd":
			err = r.add(Line{Kind: Item, Level: max(deep, 1), Text: k.words()})
		case "note", "hazardstatement":
			kind := Note
			if t := boxWord(k.attr("type")); t != "" {
				kind = t
			} else if k.name == "hazardstatement" {
				kind = Caution
			}
			err = r.add(Line{Kind: kind, Text: k.words()})
		case "info", "stepresult", "stepxmp", "result", "postreq":
			if k.child("note") != nil || k.child("ol") != nil || k.child("ul") != nil {
				err = r.topic(k, level, deep)
			} else {
				err = r.add(Line{Kind: Note, Text: k.words()})
			}
		case "p", "shortdesc", "abstract":
			l := Line{Kind: Paragraph, Text: k.words()}
			if deep > 0 {
				l.Kind, l.Level = Item, deep
			}
			err = r.add(l)
		case "row", "sthead", "strow", "chrow", "chhead", "properties", "property":
			var out []string
			for _, c := range k.kids {
				if c.name != "" {
					out = append(out, squeeze(c.words()))
				}
			}
			err = r.cells(out)
		case "image", "fig", "object":
			says := squeeze(k.words())
			if says == "" {
				says = "a picture"
			}
			err = r.add(Line{Kind: Picture, Text: says})
		case "prolog", "titlealts", "related-links", "data", "draft-comment", "colspec":
		default:
			if k.attr("conref") != "" || k.attr("conkeyref") != "" {
				err = r.add(Line{Kind: Paragraph, Text: "[taken from another file: " + k.attr("conref") + k.attr("conkeyref") + "]"})
				break
			}
			err = r.topic(k, level, deep)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

var (
	numbered  = regexp.MustCompile(`^(\s*)(?:\(?\d{1,3}(?:\.\d{1,2})*[.):]|(?i:step)\s+\d{1,3}\s*[.):]|\(?[a-z][.)]|[-*•–])\s+`)
	furniture = regexp.MustCompile(`(?i)^(?:page|sheet|p\.)\s*\d+(?:\s*(?:of|/)\s*\d+)?$|^[-–—]?\s*\d{1,4}\s*[-–—]?$|^\d+\s*/\s*\d+$|\bpage\s+\d+\s*(?:of|/)\s*\d+$`)
	underline = regexp.MustCompile(`^(?:={3,}|-{3,}|_{3,}|\*{3,})$`)
	article   = regexp.MustCompile(`^(?:\d{1,2}(?:\.\d{1,2})*\.?\s+)?[A-Z][A-Za-z /&-]{2,60}:?$`)
)

// goesOn is how long a line is at least that was broken where the paper ended.
const goesOn = 40

// plain reads a text whose lines were broken by hand, by mail or by text recognition.
func (r *reader) plain(b []byte) error {
	if bytes.ContainsRune(b, 0) {
		return wrong("This is no text file.")
	}
	text := strings.NewReplacer("\r\n", "\n", "\r", "\n", "\f", "\n\n").Replace(strings.ToValidUTF8(string(b), "\ufffd"))
	all := strings.Split(text, "\n")
	said := map[string]int{}
	for _, l := range all {
		said[squeeze(l)]++
	}
	var line Line
	indent := 0
	blank, items := true, false
	end := func() error {
		l := line
		line = Line{}
		return r.add(l)
	}
	for i, raw := range all {
		t := squeeze(raw)
		switch {
		case t == "" || underline.MatchString(t):
			if err := end(); err != nil {
				return err
			}
			blank = true
			continue
		case furniture.MatchString(t), said[t] > 2 && len(t) > 8 && !numbered.MatchString(t) && boxWord(t) == "" && !quickline.Instructs(t):
			if err := r.add(Line{Kind: Furniture, Text: t}); err != nil {
				return err
			}
			continue // what was broken over the end of a page goes on behind it
		}
		if m := numbered.FindStringSubmatch(raw); m != nil {
			if err := end(); err != nil {
				return err
			}
			level := 1
			in := len(strings.ReplaceAll(m[1], "\t", "    "))
			if items && in > indent+1 {
				level = 2
			} else {
				indent = in
			}
			items = true
			line = Line{Kind: Item, Level: level, Text: squeeze(raw[len(m[0]):])}
			blank = false
			continue
		}
		kind, _ := aside(Paragraph, t)
		before := line.Text
		switch {
		case line.Text != "" && strings.HasSuffix(before, "-") && unicode.IsLower([]rune(t)[0]) && len(before) > 1 && unicode.IsLetter([]rune(before)[len([]rune(before))-2]):
			line.Text = strings.TrimSuffix(before, "-") + t
		case line.Text != "" && kind == Paragraph && (unicode.IsSpace([]rune(raw)[0]) && line.Kind == Item || !unicode.IsUpper([]rune(t)[0]) || len(before) >= goesOn && !strings.HasSuffix(before, ".") && !strings.HasSuffix(before, ":")):
			line.Text += " " + t
		default:
			if err := end(); err != nil {
				return err
			}
			line = Line{Kind: Paragraph, Text: t}
			next := ""
			if i+1 < len(all) {
				next = squeeze(all[i+1])
			}
			if blank && article.MatchString(t) && len(strings.Fields(t)) <= 7 && (next == "" || underline.MatchString(next) || t == strings.ToUpper(t)) {
				line = Line{Kind: Heading, Level: 2, Text: strings.TrimSuffix(t, ":")}
				if err := end(); err != nil {
					return err
				}
			}
		}
		blank = false
	}
	return end()
}
