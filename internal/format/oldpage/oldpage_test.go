package oldpage_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/format/oldpage"
)

// said are the lines of a page, each with its kind.
func said(t *testing.T, name string, b []byte) []string {
	t.Helper()
	p, err := oldpage.Read(name, b)
	require.NoError(t, err)
	assert.Len(t, p.SHA256, 64)
	var out []string
	for _, l := range p.Lines {
		at := string(l.Kind)
		if l.Level > 0 {
			at += fmt.Sprint(" ", l.Level)
		}
		out = append(out, at+": "+l.Text)
	}
	return out
}

func file(t *testing.T, name string) []string {
	b, err := os.ReadFile("testdata/" + name)
	require.NoError(t, err)
	return said(t, name, b)
}

// pack is an archive of files.
func pack(t *testing.T, files ...string) []byte {
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		require.NoError(t, err)
		_, err = w.Write([]byte(files[i+1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return b.Bytes()
}

const w = `xmlns:w="http://schemas.openxmlformats.org/wordprocessingml/2006/main"`

func para(style, list, text string) string {
	pr := ""
	if style != "" {
		pr += `<w:pStyle w:val="` + style + `"/>`
	}
	if list != "" {
		pr += `<w:numPr><w:ilvl w:val="` + list + `"/><w:numId w:val="3"/></w:numPr>`
	}
	return "<w:p><w:pPr>" + pr + "</w:pPr><w:r><w:t>" + text + "</w:t></w:r></w:p>"
}

func document(body string) string {
	return "<w:document " + w + "><w:body>" + body + "</w:body></w:document>"
}

const styles = `<w:styles ` + w + `><w:style w:styleId="berschrift1"><w:name w:val="heading 1"/></w:style><w:style w:styleId="Phase"><w:name w:val="House phase"/><w:pPr><w:outlineLvl w:val="1"/></w:pPr></w:style><w:style w:styleId="Num"><w:name w:val="List Number"/><w:pPr><w:numPr><w:numId w:val="2"/></w:numPr></w:pPr></w:style></w:styles>`

func TestWordDocuments(t *testing.T) {
	body := para("berschrift1", "", "Renewing the belt") + para("Phase", "", "Locking") +
		para("Num", "", "Remove the upper") +
		"<w:tbl><w:tr><w:tc>" + para("", "", "Warning") + para("", "", "Springs throw the cams.") + "</w:tc></w:tr></w:tbl>" +
		`<w:p><w:pPr><w:numPr><w:ilvl w:val="1"/><w:numId w:val="3"/></w:numPr></w:pPr><w:r><w:t xml:space="preserve">Fit the </w:t></w:r><w:del><w:r><w:delText>cam bar</w:delText></w:r></w:del><w:ins><w:r><w:t>crank pin</w:t></w:r></w:ins><w:r><w:tab/><w:t>now</w:t></w:r><w:r><w:drawing/></w:r></w:p>` +
		"<w:tbl><w:tr><w:tc>" + para("", "", "Idler bolt") + "</w:tc><w:tc>" + para("", "", "39 Nm") + "</w:tc></w:tr><w:tr><w:tc>" + para("", "", "Note") + "</w:tc><w:tc>" + para("", "", "Dry.") + "</w:tc></w:tr></w:tbl>" +
		para("Num", "", "") + `<w:p><w:pPr><w:pStyle w:val="Num"/><w:numPr><w:numId w:val="0"/></w:numPr></w:pPr><w:r><w:t>No item.</w:t></w:r></w:p>`
	assert.Equal(t, []string{
		"heading 1: Renewing the belt", "heading 2: Locking", "item 1: Remove the upper", "caution: Springs throw the cams.",
		"picture: a picture", "item 2: Fit the crank pin now", "row: Idler bolt | 39 Nm", "note: Dry.", "paragraph: No item.",
	}, said(t, "page.docx", pack(t, "word/document.xml", document(body), "word/styles.xml", styles)))
}

// Text that stands in drawn boxes and at the foot of pages is not lost, and what is there twice is
// read once.
func TestBoxesAndNotesAtTheFoot(t *testing.T) {
	box := `<w:p><w:r><mc:AlternateContent xmlns:mc="mc"><mc:Choice><w:drawing><w:txbxContent>` + para("", "", "CAUTION: sharp edges.") + `</w:txbxContent></w:drawing></mc:Choice><mc:Fallback><w:pict><w:txbxContent>` + para("", "", "CAUTION: sharp edges.") + `</w:txbxContent></w:pict></mc:Fallback></mc:AlternateContent></w:r></w:p>`
	foot := `<w:footnotes ` + w + `><w:footnote w:id="2">` + para("", "", "Only on early engines.") + `</w:footnote></w:footnotes>`
	body := box + `<w:p><w:pPr><w:numPr><w:numId w:val="3"/></w:numPr></w:pPr><w:r><w:t>Fit the pin</w:t></w:r><w:r><w:footnoteReference w:id="2"/></w:r></w:p>`
	assert.Equal(t, []string{"caution: sharp edges.", "item 1: Fit the pin", "note: Only on early engines."},
		said(t, "page.docx", pack(t, "word/document.xml", document(body), "word/footnotes.xml", foot)))
	const ns = `xmlns:office="o" xmlns:text="t"`
	content := `<office:document-content ` + ns + `><office:body><office:text><text:p>Fit the pin<text:note><text:note-citation>1</text:note-citation><text:note-body><text:p>Only on early engines.</text:p></text:note-body></text:note></text:p></office:text></office:body></office:document-content>`
	assert.Equal(t, []string{"paragraph: Fit the pin", "note: Only on early engines."}, said(t, "page.odt", pack(t, "content.xml", content)))
}

// A line that is repeated is what paper repeats, unless it is an instruction.
func TestRepeatedInstructionsStay(t *testing.T) {
	page := strings.Repeat("Turn the crank 2 turns clockwise.\n\nWorkshop manual of the engine\n\n", 3)
	var kinds []string
	for _, l := range said(t, "a.txt", []byte(page)) {
		kind, _, _ := strings.Cut(l, ":")
		kinds = append(kinds, kind)
	}
	assert.Equal(t, []string{"paragraph", "furniture", "paragraph", "furniture", "paragraph", "furniture"}, kinds)
}

func TestOpenDocuments(t *testing.T) {
	const ns = `xmlns:office="o" xmlns:text="t" xmlns:table="b" xmlns:draw="d"`
	content := `<office:document-content ` + ns + `><office:body><office:text><text:tracked-changes><text:p>gone</text:p></text:tracked-changes>
<text:h text:outline-level="1">Renewing the belt</text:h>
<text:list><text:list-item><text:p>Remove the <text:span>upper</text:span><text:s/>cover</text:p><text:list><text:list-item><text:p>Fit the pin<office:annotation><text:p>why?</text:p></office:annotation></text:p></text:list-item></text:list></text:list-item></text:list>
<text:p>Caution: hot.</text:p><text:p><draw:frame><draw:image/></draw:frame></text:p>
<table:table><table:table-row><table:table-cell><text:p>Idler bolt</text:p></table:table-cell><table:table-cell><text:p>39 Nm</text:p></table:table-cell></table:table-row></table:table></office:text></office:body></office:document-content>`
	assert.Equal(t, []string{"heading 1: Renewing the belt", "item 1: Remove the upper cover", "item 2: Fit the pin", "caution: hot.", "picture: a picture", "row: Idler bolt | 39 Nm"},
		said(t, "page.odt", pack(t, "mimetype", "application/vnd.oasis.opendocument.text", "content.xml", content)))
}

func TestPagesOfTheWeb(t *testing.T) {
	assert.Equal(t, []string{
		"furniture: Home", "heading 1: Renewing the timing belt", "paragraph: The belt is renewed every 120 000 km.", "heading 2: Locking the engine",
		"item 1: Remove the upper timing cover.", "item 1: Turn the crank clockwise to the inlet cam mark.", "item 2: Fit the crank pin.",
		"picture: the pin in its hole", "item 1: Turn the crank clockwise onto the crank pin.", "caution: The cams are thrown by their springs.", "item 1: Fit the cam bar.",
		"heading 2: Torques", "row: Bolt | Torque (Nm)", "row: Idler bolt | 39", "row: Tensioner bolt | 1 Nm", "row: Flange bolt of the lamp | 8 Nm",
	}, file(t, "page.html"))
	assert.Equal(t, []string{
		"heading 1: Renewing the timing belt", "heading 2: Strip", "item 1: Remove the upper timing cover.", "item 1: Remove the accessory belt.", "item 2: Remove the rear cam cover.",
		"caution: Hot parts.", "heading 2: Fit", "item 1: Fit the new timing belt.", "item 1: The crank pin is to be taken out, then turn the crank 2 turns clockwise.",
		"row: Bolt | Torque", "row: Idler bolt | 39 N·m",
	}, file(t, "page.md"))
}

func TestTasksOfDita(t *testing.T) {
	assert.Equal(t, []string{
		"heading 1: Renewing the timing belt", "paragraph: How the belt is renewed.", "paragraph: The engine is cold.",
		"caution: Hands stay out of the drive.", "item 1: Remove the upper timing cover.", "item 1: Fit the crank pin.", "note: It is felt to go home.",
		"item 1: Fit the cam bar.", "item 2: Fit the flywheel lock.", "note: The engine is locked.",
	}, file(t, "task.dita"))
}

func TestTextWithBrokenLines(t *testing.T) {
	assert.Equal(t, []string{
		"heading 2: RENEWING THE TIMING BELT", "furniture: Engine TQ4-18P Page 1 of 2", "heading 2: PREPARATION",
		"item 1: Disconnect the battery lead.", "item 1: Remove the upper timing cover and the accessory belt.", "heading 2: LOCKING",
		"item 1: Turn the crank clockwise until the inlet cam mark stands against its pointer.", "item 1: Fit the crank pin (TL-101).",
		"caution: The crank pin may not take the torque of a bolt.", "item 1: Turn the crank clockwise onto the crank pin.",
		"furniture: Workshop manual, timing drive Page 2 of 2", "heading 2: REMOVAL", "item 1: Slacken the tensioner bolt.", "item 1: Take off the timing belt.",
		"note: Mark its running direction if it is used again.", "item 2: Remove the idler roller.",
		"item 1: The belt is a wearing part of the finest quality and was developed together with its maker.",
	}, file(t, "scanned.txt"))
}

func TestTables(t *testing.T) {
	assert.Equal(t, []string{"row: Bolt | Thread | Torque (Nm) | Remark", "row: Idler bolt | M8 | 39 |", "row: Idler bolt | M8 | 45 | old letter", "row: Bolt of nothing | M8 | 9 |"}, file(t, "torques.csv"))
}

// What cannot be read gets a sentence that says what to do, and never more than it is worth.
func TestBadFiles(t *testing.T) {
	bomb := strings.Repeat("<w:p><w:r><w:t>x</w:t></w:r></w:p>", 40_000)
	deep := strings.Repeat("<w:p>", 400)
	for name, c := range map[string]struct {
		file string
		b    []byte
		want string
	}{
		"empty":         {"a.txt", []byte(" \n"), "empty"},
		"too large":     {"a.txt", make([]byte, oldpage.MostBytes+1), "at most 16 MB"},
		"old binary":    {"a.doc", []byte("\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"), "save it as .docx"},
		"pdf":           {"a.pdf", []byte("%PDF-1.7"), "PDF"},
		"rtf":           {"a.rtf", []byte("{\\rtf1 x}"), "RTF"},
		"renamed":       {"a.docx", []byte("hello"), "no .docx file"},
		"unknown":       {"a.xyz", []byte("hello"), "are not read"},
		"cut off":       {"a.docx", []byte("PK\x03\x04 and nothing more"), "damaged"},
		"macros":        {"a.docm", pack(t, "word/document.xml", document(""), "word/vbaProject.bin", "x"), "macros"},
		"password":      {"a.odt", pack(t, "content.xml", "x", "META-INF/manifest.xml", "<m:encryption-data/>"), "password"},
		"nothing known": {"a.zip", pack(t, "a.txt", "x"), "archive"},
		"no text":       {"a.docx", pack(t, "word/document.xml", document("")), "no text"},
		"too many":      {"a.docx", pack(t, "word/document.xml", document(bomb)), "more than 20000 lines"},
		"too deep":      {"a.docx", pack(t, "word/document.xml", "<w:document "+w+">"+deep), "deep"},
		"not whole":     {"a.docx", pack(t, "word/document.xml", "<w:document "+w+"><w:body>"), "ends within"},
		"not DITA":      {"a.xml", []byte("<html/>"), "no topic of DITA"},
		"entities":      {"a.dita", []byte(`<!DOCTYPE task [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><task><title>&b;</title></task>`), "damaged"},
		"many elements": {"a.docx", pack(t, "word/document.xml", "<w:document "+w+">"+strings.Repeat("<w:a/>", 800_000)), "elements"},
		"charset":       {"a.dita", []byte(`<?xml version="1.0" encoding="ebcdic"?><task/>`), "Save it as UTF-8"},
		"binary text":   {"a.txt", []byte("a\x00b"), "no text file"},
	} {
		_, err := oldpage.Read(c.file, c.b)
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.want, name)
			var e *oldpage.Error
			assert.ErrorAs(t, err, &e, name)
		}
	}
	var bombed bytes.Buffer
	z := zip.NewWriter(&bombed)
	f, err := z.Create("word/document.xml")
	require.NoError(t, err)
	zeros := make([]byte, 1<<20)
	for range 80 {
		_, err = f.Write(zeros)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	require.Less(t, bombed.Len(), 1<<20)
	_, err = oldpage.Read("bomb.docx", bombed.Bytes())
	assert.ErrorContains(t, err, "Unpacked")
}

// Whatever the bytes are, there is a page or a sentence, and no word of a text is lost.
func FuzzRead(f *testing.F) {
	for _, name := range []string{"scanned.txt", "page.html", "page.md", "task.dita", "torques.csv"} {
		b, err := os.ReadFile("testdata/" + name)
		require.NoError(f, err)
		f.Add(name, b)
	}
	f.Fuzz(func(t *testing.T, name string, b []byte) {
		p, err := oldpage.Read(name, b)
		if err != nil {
			var e *oldpage.Error
			require.ErrorAs(t, err, &e)
			return
		}
		require.NotEmpty(t, p.Lines)
		for _, l := range p.Lines {
			require.True(t, l.Text != "" || len(l.Cells) > 0)
		}
	})
}
