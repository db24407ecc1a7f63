// Package markdown writes a printed page as Markdown (CommonMark 0.31 with the tables
// of GFM): a job sheet for a telephone, a ticket or a wiki. It has the words of the page
// and none of its drawings, and says where one stands.
package markdown

import (
	"bufio"
	"fmt"
	"io"
	"strconv"
	"strings"

	"inklatch/internal/core/page/document"
)

// Write writes a document. Every error is one of the writer.
func Write(w io.Writer, d *document.Document) error {
	out := &writer{Writer: bufio.NewWriter(w)}
	for _, b := range d.Blocks {
		out.block(b)
	}
	return out.Flush()
}

type writer struct{ *bufio.Writer }

func (w *writer) line(format string, args ...any) { fmt.Fprintf(w, format+"\n", args...) }

func (w *writer) block(b document.Block) {
	switch b := b.(type) {
	case document.Strip:
		var names, texts []string
		for _, f := range b.Fields {
			names, texts = append(names, f.Name), append(texts, f.Text)
		}
		w.table(names, [][]string{texts})
	case document.Notice:
		w.line("> **%s** %s\n", map[document.Grade]string{document.Stop: "Do not work by this page.", document.Care: "Note."}[b.Grade], plain(b.Text))
	case document.Heading:
		w.line("%s %s\n", strings.Repeat("#", b.Level), plain(b.Text))
	case document.Paragraph:
		if b.Lead != "" {
			w.line("**%s** %s\n", plain(b.Lead), plain(b.Text))
		} else {
			w.line("%s\n", plain(b.Text))
		}
	case document.Boxes:
		for _, i := range b.Items {
			w.line("- [ ] %s", plain(i))
		}
		w.line("")
	case document.List:
		for _, i := range b.Items {
			w.line("- %s", plain(i))
		}
		w.line("")
	case document.Terms:
		for _, r := range b.Rows {
			w.line("- **%s:** %s", plain(r.Name), plain(r.Text))
		}
		w.line("")
	case document.Drive:
		w.line("*Drawing: %s.*\n", plain(b.Says))
	case document.Work:
		w.step(&b)
	case document.ToolTable, document.PartTable, document.TorqueTable, document.Record:
		w.rows(b)
	}
}

// step is one step: its cautions before it, then its number and its words.
func (w *writer) step(s *document.Work) {
	for _, c := range s.Cautions {
		w.line("> **Caution.** %s\n", plain(c))
	}
	text := plain(s.Text)
	if s.Fails > 0 {
		text = fmt.Sprintf("*If step %d fails:* %s", s.Fails, text)
	}
	w.line("- [ ] **%d.** %s", s.Number, text)
	more := []string{}
	for _, f := range s.Free {
		more = append(more, "("+f+")")
	}
	if s.Back != "" {
		more = append(more, strings.ToUpper(s.Back[:1])+s.Back[1:]+".")
	}
	more = append(more, s.Condition, s.Note)
	if s.Reading != "" {
		more = append(more, "Read off: ________ "+s.Reading)
	}
	for _, f := range s.Figures {
		more = append(more, fmt.Sprintf("Drawing: the order of the %s.", f.Name))
	}
	if s.Picture != nil {
		more = append(more, "Drawing: "+s.Picture.Says+".")
	}
	for _, m := range more {
		if m != "" {
			w.line("  \\\n  %s", plain(m))
		}
	}
	w.line("")
}

func (w *writer) rows(b document.Block) {
	var rows [][]string
	switch b := b.(type) {
	case document.ToolTable:
		for _, t := range b.Rows {
			var steps []string
			for _, n := range t.Steps {
				steps = append(steps, strconv.Itoa(n))
			}
			rows = append(rows, []string{t.Number, t.Name, strings.Join(steps, ", ")})
		}
		w.table([]string{"Number", "Tool", "Steps"}, rows)
	case document.PartTable:
		for _, p := range b.Rows {
			why := p.Why
			if p.Every != "" {
				why += ", due every " + p.Every
			}
			rows = append(rows, []string{p.Name, p.Number, strconv.Itoa(p.Count), why})
		}
		w.table([]string{"Part", "Number", "Count", "Why"}, rows)
	case document.TorqueTable:
		for _, t := range b.Rows {
			value := t.Value
			if t.For != "" {
				value += ", " + t.For
			}
			rows = append(rows, []string{strconv.Itoa(t.Step), t.Name, strconv.Itoa(t.Count), t.Thread, value, t.Other, t.Lubricant})
		}
		w.table([]string{"Step", "Fastener", "Count", "Thread", "Value", "Other unit", "Lubrication"}, rows)
	case document.Record:
		for _, r := range b.Rows {
			rows = append(rows, []string{r.What, r.By, r.When})
		}
		w.table([]string{"What", "By", "When"}, rows)
	}
}

func (w *writer) table(head []string, rows [][]string) {
	if len(rows) == 0 {
		w.line("None.\n")
		return
	}
	w.line("| %s |", strings.Join(head, " | "))
	w.line("|%s", strings.Repeat("---|", len(head)))
	for _, r := range rows {
		for i := range r {
			r[i] = plain(r[i])
		}
		w.line("| %s |", strings.Join(r, " | "))
	}
	w.line("")
}

// marks are the characters that mean something in Markdown anywhere in a line.
var marks = strings.NewReplacer(`\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, ">", `\>`, "|", `\|`, "~", `\~`, "#", `\#`, "&", `\&`, "!", `\!`, "\n", " ", "\r", " ", "\t", " ")

// plain is a text that stands for itself.
func plain(s string) string {
	s = marks.Replace(s)
	// At the beginning of a line a number with a point, a dash or a plus opens a list.
	if s != "" && strings.ContainsRune("-+=", rune(s[0])) {
		s = `\` + s
	}
	i := strings.IndexFunc(s, func(r rune) bool { return r < '0' || r > '9' })
	if i > 0 && (s[i] == '.' || s[i] == ')') && (i+1 == len(s) || s[i+1] == ' ') {
		s = s[:i] + `\` + s[i:]
	}
	return s
}
