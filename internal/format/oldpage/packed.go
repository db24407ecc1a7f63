package oldpage

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"io"
	"strconv"
	"strings"

	"inklatch/internal/core/message"
	"inklatch/internal/format/grid"
)

// packed reads what is packed as a ZIP archive: word processors' documents and spreadsheets.
func (r *reader) packed(b []byte) error {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return wrong("The file is damaged: it was not fetched to its end, or something else was written over it.")
	}
	all := uint64(0)
	files := map[string]*zip.File{}
	for _, f := range z.File {
		all += f.UncompressedSize64
		files[f.Name] = f
		if strings.HasSuffix(strings.ToLower(f.Name), "vbaproject.bin") {
			return wrong("The document carries macros. Save it as a document without them (.docx), and look at what they were for.")
		}
	}
	if all > 20*mostUnpacked {
		return wrong("Unpacked, the file would have %d MB. That is no page.", all>>20)
	}
	switch {
	case files["word/document.xml"] != nil:
		return r.docx(files)
	case files["EncryptedPackage"] != nil:
		return wrong("The document has a password. Take it off and save it again.")
	case files["content.xml"] != nil:
		if m := files["META-INF/manifest.xml"]; m != nil {
			if text, err := unpack(m); err == nil && bytes.Contains(text, []byte("encryption-data")) {
				return wrong("The document has a password. Take it off and save it again.")
			}
		}
		return r.odt(files["content.xml"])
	case files["xl/workbook.xml"] != nil:
		sheets := 0
		for name := range files {
			if strings.HasPrefix(name, "xl/worksheets/sheet") {
				sheets++
			}
		}
		if err := r.table(b); err != nil || sheets < 2 {
			return err
		}
		return r.add(Line{Kind: Paragraph, Text: "[The workbook has " + strconv.Itoa(sheets) + " sheets; the first was read.]"})
	}
	return wrong("This archive is neither a document nor a table that is read.")
}

// unpack is a file of an archive, at most as much as is read of one: what its head says of its
// size is not believed.
func unpack(f *zip.File) ([]byte, error) {
	in, err := f.Open()
	if err != nil {
		return nil, err
	}
	defer in.Close()
	b, err := io.ReadAll(io.LimitReader(in, mostUnpacked+1))
	if len(b) > mostUnpacked {
		return nil, wrong("Unpacked, the text of the file would have more than %d MB. That is no page.", mostUnpacked>>20)
	}
	return b, err
}

// node is an element of a document with what it holds: text, or other elements.
type node struct {
	name  string // with no prefix
	attrs map[string]string
	text  string // of a node without a name
	kids  []*node
}

func (n *node) attr(name string) string { return n.attrs[name] }

// child is the first element of a name within, at any depth; nil for none.
func (n *node) child(name string) *node {
	for _, k := range n.kids {
		if k.name == name {
			return k
		}
		if d := k.child(name); d != nil {
			return d
		}
	}
	return nil
}

// words is all text within.
func (n *node) words() string {
	if n.name == "" {
		return n.text
	}
	var b strings.Builder
	for _, k := range n.kids {
		b.WriteString(k.words())
	}
	return b.String()
}

// tree reads XML. Entities that are declared in the file are not followed.
func tree(b []byte) (*node, error) {
	d := xml.NewDecoder(bytes.NewReader(b))
	d.Strict = true
	d.Entity = xml.HTMLEntity
	d.CharsetReader = func(charset string, in io.Reader) (io.Reader, error) {
		return nil, wrong("The file is written in %s. Save it as UTF-8.", charset)
	}
	root := &node{name: "root"}
	open := []*node{root}
	for n := 0; ; n++ {
		t, err := d.Token()
		if n > mostNodes {
			return nil, wrong("The file has more than %d elements. That is no page.", mostNodes)
		}
		if errors.Is(err, io.EOF) {
			return root, nil
		}
		if err != nil {
			var e *Error
			if errors.As(err, &e) {
				return nil, e
			}
			if len(open) > 1 && strings.Contains(err.Error(), "unexpected EOF") {
				return nil, wrong("The file is not whole: it ends within “%s”.", open[len(open)-1].name)
			}
			return nil, wrong("The file is damaged: %v.", err)
		}
		top := open[len(open)-1]
		switch t := t.(type) {
		case xml.StartElement:
			n := &node{name: t.Name.Local, attrs: make(map[string]string, len(t.Attr))}
			for _, a := range t.Attr {
				n.attrs[a.Name.Local] = a.Value
			}
			top.kids = append(top.kids, n)
			if open = append(open, n); len(open) > mostDeep {
				return nil, wrong("The file is damaged: things lie in one another more than %d deep.", mostDeep)
			}
		case xml.EndElement:
			open = open[:len(open)-1]
		case xml.CharData:
			top.kids = append(top.kids, &node{text: string(t)})
		}
	}
}

// docx reads a document of WordprocessingML (ECMA-376 part 1, as far as text goes).
func (r *reader) docx(files map[string]*zip.File) error {
	b, err := unpack(files["word/document.xml"])
	if err != nil {
		return err
	}
	doc, err := tree(b)
	if err != nil {
		return err
	}
	d := &docx{reader: r, heads: map[string]int{}, lists: map[string]bool{}, feet: map[string]string{}}
	for part, ref := range map[string]string{"word/footnotes.xml": "footnoteReference", "word/endnotes.xml": "endnoteReference"} {
		if err := d.footnotes(files[part], ref); err != nil {
			return err
		}
	}
	if f := files["word/styles.xml"]; f != nil {
		if b, err = unpack(f); err != nil {
			return err
		}
		styles, err := tree(b)
		if err != nil {
			return err
		}
		d.styles(styles)
	}
	if body := doc.child("body"); body != nil {
		return d.blocks(body)
	}
	return nil
}

type docx struct {
	*reader
	// heads are the levels of styles that are headings, lists the styles of list items.
	heads map[string]int
	lists map[string]bool
	box   Kind // of the title of a box that the next paragraph is in
	// feet are the notes at the foot of pages and at the end, by what refers to them.
	feet map[string]string
}

// footnotes reads the notes of a part of the document.
func (d *docx) footnotes(f *zip.File, ref string) error {
	if f == nil {
		return nil
	}
	b, err := unpack(f)
	if err != nil {
		return err
	}
	root, err := tree(b)
	if err != nil {
		return err
	}
	var walk func(n *node)
	walk = func(n *node) {
		for _, k := range n.kids {
			if k.name == "footnote" || k.name == "endnote" {
				var text strings.Builder
				pictures := 0
				runs(k, &text, &pictures)
				d.feet[ref+k.attr("id")] = text.String()
				continue
			}
			walk(k)
		}
	}
	walk(root)
	return nil
}

func (d *docx) styles(root *node) {
	var walk func(n *node)
	walk = func(n *node) {
		for _, k := range n.kids {
			if k.name != "style" {
				walk(k)
				continue
			}
			id := k.attr("styleId")
			if name := k.child("name"); name != nil {
				said := strings.ToLower(name.attr("val"))
				switch {
				case said == "title":
					d.heads[id] = 1
				case strings.HasPrefix(said, "heading "):
					if n, err := strconv.Atoi(strings.TrimPrefix(said, "heading ")); err == nil {
						d.heads[id] = n
					}
				}
			}
			if o := k.child("outlineLvl"); o != nil && d.heads[id] == 0 {
				if n, err := strconv.Atoi(o.attr("val")); err == nil && n < 9 {
					d.heads[id] = n + 1
				}
			}
			d.lists[id] = k.child("numPr") != nil
		}
	}
	walk(root)
}

func (d *docx) blocks(n *node) error {
	for _, k := range n.kids {
		var err error
		switch k.name {
		case "p":
			err = d.paragraph(k)
		case "tbl":
			err = d.tbl(k)
		case "sectPr", "":
		default: // content controls, insertions
			err = d.blocks(k)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func (d *docx) paragraph(p *node) error {
	l := Line{Kind: Paragraph}
	if pr := p.child("pPr"); pr != nil {
		style := ""
		if s := pr.child("pStyle"); s != nil {
			style = s.attr("val")
		}
		num := pr.child("numPr")
		switch {
		case d.heads[style] > 0:
			l.Kind, l.Level = Heading, d.heads[style]
		case num != nil && !none(num) || num == nil && d.lists[style]:
			l.Kind, l.Level = Item, 1
			if num != nil {
				if v := num.child("ilvl"); v != nil {
					if n, err := strconv.Atoi(v.attr("val")); err == nil && n < 9 {
						l.Level = n + 1
					}
				}
			}
		}
	}
	for _, box := range textBoxes(p) {
		if err := d.blocks(box); err != nil {
			return err
		}
	}
	var text strings.Builder
	pictures := 0
	runs(p, &text, &pictures)
	for range pictures {
		if err := d.add(Line{Kind: Picture, Text: "a picture"}); err != nil {
			return err
		}
	}
	l.Text = text.String()
	if kind := boxWord(l.Text); kind != "" {
		d.box = kind
		return nil
	}
	if d.box != "" && squeeze(l.Text) != "" {
		l.Kind, d.box = d.box, ""
	}
	if err := d.add(l); err != nil {
		return err
	}
	return d.noted(p)
}

// noted adds the notes at the foot that a paragraph refers to.
func (d *docx) noted(n *node) error {
	for _, k := range n.kids {
		if k.name == "footnoteReference" || k.name == "endnoteReference" {
			if err := d.add(Line{Kind: Note, Text: d.feet[k.name+k.attr("id")]}); err != nil {
				return err
			}
		}
		if err := d.noted(k); err != nil {
			return err
		}
	}
	return nil
}

// textBoxes are the texts of boxes that are drawn over a paragraph; of what is there twice, for old
// programs and for new, the one for new.
func textBoxes(n *node) (out []*node) {
	for i, k := range n.kids {
		switch {
		case k.name == "txbxContent":
			out = append(out, k)
		case k.name == "Fallback" && i > 0:
		default:
			out = append(out, textBoxes(k)...)
		}
	}
	return out
}

// none reports whether a numbering takes a paragraph out of its list.
func none(num *node) bool {
	v := num.child("numId")
	return v != nil && v.attr("val") == "0"
}

// runs writes the text of a paragraph as it stands once all changes are accepted.
func runs(n *node, to *strings.Builder, pictures *int) {
	for _, k := range n.kids {
		switch k.name {
		case "t":
			to.WriteString(k.words())
		case "tab", "br", "cr":
			to.WriteByte(' ')
		case "noBreakHyphen":
			to.WriteByte('-')
		case "del", "moveFrom", "pPr", "rPr", "instrText", "Fallback", "":
		case "drawing", "pict", "object":
			if len(textBoxes(k)) == 0 {
				*pictures++
			}
		default:
			runs(k, to, pictures)
		}
	}
}

// tbl is a table: one cell is a box of its own, more are rows.
func (d *docx) tbl(t *node) error {
	for _, row := range t.kids {
		if row.name != "tr" {
			continue
		}
		var cells []*node
		for _, c := range row.kids {
			if c.name == "tc" {
				cells = append(cells, c)
			}
		}
		if err := d.row(cells, d.blocks, func(c *node) string {
			var text strings.Builder
			pictures := 0
			for _, p := range c.kids {
				runs(p, &text, &pictures)
				text.WriteByte(' ')
			}
			return text.String()
		}); err != nil {
			return err
		}
	}
	d.box = ""
	return nil
}

// row is a row of a table. A single cell is what stands in it; a cell with the word of a box beside
// another is a box.
func (r *reader) row(cells []*node, blocks func(*node) error, words func(*node) string) error {
	if len(cells) == 1 {
		return blocks(cells[0])
	}
	out := make([]string, 0, len(cells))
	for _, c := range cells {
		out = append(out, squeeze(words(c)))
	}
	return r.cells(out)
}

// cells adds a row of a table.
func (r *reader) cells(out []string) error {
	if strings.Join(out, "") == "" {
		return nil
	}
	if len(out) == 2 {
		if kind := boxWord(out[0]); kind != "" && out[1] != "" {
			return r.add(Line{Kind: kind, Text: out[1]})
		}
	}
	return r.add(Line{Kind: Row, Text: strings.Join(out, " | "), Cells: out})
}

// odt reads a text of OpenDocument (ISO/IEC 26300, as far as text goes).
func (r *reader) odt(f *zip.File) error {
	b, err := unpack(f)
	if err != nil {
		return err
	}
	doc, err := tree(b)
	if err != nil {
		return err
	}
	body := doc.child("text")
	if body == nil {
		return wrong("This is no text document: nothing of it is read.")
	}
	return r.odtBlocks(body, 0)
}

func (r *reader) odtBlocks(n *node, deep int) error {
	box := Kind("")
	for _, k := range n.kids {
		var err error
		switch k.name {
		case "h":
			level, _ := strconv.Atoi(k.attr("outline-level"))
			err = r.add(Line{Kind: Heading, Level: max(level, 1), Text: odtWords(k)})
		case "p":
			if k.child("image") != nil {
				err = r.add(Line{Kind: Picture, Text: "a picture"})
			}
			l := Line{Kind: Paragraph, Text: odtWords(k)}
			if deep > 0 {
				l.Kind, l.Level = Item, deep
			}
			if kind := boxWord(l.Text); kind != "" {
				box = kind
				continue
			}
			if box != "" && squeeze(l.Text) != "" {
				l.Kind, box = box, ""
			}
			if err == nil {
				err = r.add(l)
			}
			if foot := k.child("note-body"); foot != nil && err == nil {
				err = r.add(Line{Kind: Note, Text: odtWords(foot)})
			}
		case "list":
			err = r.odtBlocks(k, deep+1)
		case "table-row":
			var cells []*node
			for _, c := range k.kids {
				if c.name == "table-cell" {
					cells = append(cells, c)
				}
			}
			err = r.row(cells, func(c *node) error { return r.odtBlocks(c, 0) }, odtWords)
		case "tracked-changes", "annotation", "sequence-decls", "":
		default:
			err = r.odtBlocks(k, deep)
		}
		if err != nil {
			return err
		}
	}
	return nil
}

func odtWords(n *node) string {
	if n.name == "" {
		return n.text
	}
	var b strings.Builder
	for _, k := range n.kids {
		switch k.name {
		case "annotation", "note", "tracked-changes":
		case "tab", "line-break", "s":
			b.WriteByte(' ')
		case "p", "h":
			b.WriteString(odtWords(k) + " ")
		default:
			b.WriteString(odtWords(k))
		}
	}
	return b.String()
}

// table reads the rows of a spreadsheet, or of values with commas between them.
func (r *reader) table(b []byte) error {
	rows, err := grid.Read(b)
	if err != nil {
		return wrong("%s.", message.Capital(err.Error()))
	}
	for _, row := range rows {
		for i := range row {
			row[i] = squeeze(row[i])
		}
		if len(row) == 1 {
			if err := r.add(Line{Kind: Paragraph, Text: row[0]}); err != nil {
				return err
			}
			continue
		}
		if err := r.cells(row); err != nil {
			return err
		}
	}
	return nil
}
