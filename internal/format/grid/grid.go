// Package grid writes and reads tables of texts as CSV and as XLSX. What it writes holds no
// formula, and what it reads is not run: a cell that is one is refused.
package grid

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"path"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/xuri/excelize/v2"
)

// Sheet is a table with its head.
type Sheet struct {
	Title string
	Head  []string
	// Right are the columns of figures.
	Right []bool
	Rows  [][]string
}

// The most that is read: rows, columns, characters of a cell, bytes of a file and of what is
// packed in it.
const (
	MostRows    = 20_000
	MostColumns = 100
	mostCell    = 4_000
	MostBytes   = 8 << 20
	mostPacked  = 64 << 20
)

// mark tells a spreadsheet that the file is UTF-8.
const mark = "\ufeff"

// guarded keeps a text from being taken for a formula by a spreadsheet: an apostrophe before
// what begins like one (common practice against CSV injection).
func guarded(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

// CSV is the table with commas between, in UTF-8 with a byte order mark (RFC 4180).
func (s *Sheet) CSV() ([]byte, error) {
	var b bytes.Buffer
	b.WriteString(mark)
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	for _, r := range append([][]string{s.Head}, s.Rows...) {
		line := make([]string, len(r))
		for i := range r {
			line[i] = guarded(r[i])
		}
		if err := w.Write(line); err != nil {
			return nil, fmt.Errorf("csv: %w", err)
		}
	}
	w.Flush()
	return b.Bytes(), w.Error()
}

// XLSX is the table as a workbook of one sheet (ECMA-376): texts as texts, figures as
// figures, the head frozen.
func (s *Sheet) XLSX() ([]byte, error) {
	f := excelize.NewFile()
	defer f.Close()
	name := f.GetSheetName(0)
	w, err := f.NewStreamWriter(name)
	if err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	bold, err := f.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}, Border: []excelize.Border{{Type: "bottom", Style: 1, Color: "131C26"}}})
	if err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	for c := range s.Head {
		if err := w.SetColWidth(c+1, c+1, s.width(c)); err != nil {
			return nil, fmt.Errorf("xlsx: %w", err)
		}
	}
	if err := w.SetPanes(&excelize.Panes{Freeze: true, XSplit: 1, YSplit: 1, TopLeftCell: "B2", ActivePane: "bottomRight"}); err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	for i, r := range append([][]string{s.Head}, s.Rows...) {
		cells := make([]any, len(r))
		for c, v := range r {
			cells[c] = v
			if n, err := strconv.ParseFloat(v, 64); err == nil && i > 0 && c < len(s.Right) && s.Right[c] {
				cells[c] = n
			}
			if i == 0 {
				cells[c] = excelize.Cell{StyleID: bold, Value: v}
			}
		}
		if err := w.SetRow("A"+strconv.Itoa(i+1), cells); err != nil {
			return nil, fmt.Errorf("xlsx: %w", err)
		}
	}
	if err := w.Flush(); err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	if err := f.SetDocProps(&excelize.DocProperties{Title: s.Title, Creator: "Ink Latch"}); err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	b, err := f.WriteToBuffer()
	if err != nil {
		return nil, fmt.Errorf("xlsx: %w", err)
	}
	return b.Bytes(), nil
}

// width is how wide a column is, characters.
func (s *Sheet) width(c int) float64 {
	n := utf8.RuneCountInString(s.Head[c])
	for _, r := range s.Rows {
		n = max(n, utf8.RuneCountInString(r[c]))
	}
	return float64(min(max(n+2, 7), 46))
}

// Read is the first table of a CSV or XLSX file, its head first. Its errors are sentences for
// whoever sent it.
func Read(b []byte) ([][]string, error) {
	switch {
	case len(b) > MostBytes:
		return nil, errors.New("the file is larger than 8 MB")
	case bytes.HasPrefix(b, []byte("PK")):
		return readXLSX(b)
	case !utf8.Valid(b) || bytes.IndexByte(b, 0) >= 0:
		return nil, errors.New("this is neither an XLSX file nor a CSV file in UTF-8: save it as one of them")
	}
	return readCSV(b)
}

func readCSV(b []byte) ([][]string, error) {
	text := strings.TrimPrefix(string(b), mark)
	head, _, _ := strings.Cut(text, "\n")
	r := csv.NewReader(strings.NewReader(text))
	r.FieldsPerRecord, r.LazyQuotes = -1, true
	for _, sep := range []rune{';', '\t'} {
		if strings.ContainsRune(head, sep) && !strings.ContainsRune(head, ',') {
			r.Comma = sep
		}
	}
	var out [][]string
	for {
		rec, err := r.Read()
		if errors.Is(err, io.EOF) {
			return out, nil
		}
		if err != nil {
			return nil, fmt.Errorf("the table cannot be read: %w", err)
		}
		if out, err = take(out, rec); err != nil {
			return nil, err
		}
	}
}

// take is a row more, within what a table may be.
func take(out [][]string, rec []string) ([][]string, error) {
	if len(out) == MostRows {
		return nil, fmt.Errorf("the table has more than %d rows", MostRows)
	}
	if len(rec) > MostColumns {
		return nil, fmt.Errorf("row %d has more than %d columns", len(out)+1, MostColumns)
	}
	line := make([]string, len(rec))
	for i, v := range rec {
		if len(v) > mostCell {
			return nil, fmt.Errorf("a cell of row %d is longer than %d characters", len(out)+1, mostCell)
		}
		v = strings.TrimSpace(v)
		if len(v) > 1 && v[0] == '\'' && strings.ContainsRune("=+-@\t\r", rune(v[1])) {
			v = v[1:]
		}
		line[i] = v
	}
	return append(out, line), nil
}

func readXLSX(b []byte) ([][]string, error) {
	if cell, err := formulaIn(b); err != nil || cell != "" {
		if err == nil {
			err = fmt.Errorf("cell %s is a formula; put its value there and send the file again", cell)
		}
		return nil, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(b), excelize.Options{RawCellValue: true, UnzipSizeLimit: mostPacked, UnzipXMLSizeLimit: mostPacked / 4})
	if err != nil {
		return nil, errors.New("the workbook cannot be read: save it again as XLSX, without a password")
	}
	defer f.Close()
	rows, err := f.Rows(f.GetSheetName(0))
	if err != nil {
		return nil, errors.New("the workbook has no table on its first sheet")
	}
	defer rows.Close()
	var out [][]string
	for rows.Next() {
		rec, err := rows.Columns()
		if err != nil {
			return nil, fmt.Errorf("row %d cannot be read", len(out)+1)
		}
		if out, err = take(out, rec); err != nil {
			return nil, err
		}
	}
	return out, rows.Error()
}

// formulaIn is the first cell of a workbook that is a formula.
func formulaIn(b []byte) (string, error) {
	z, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		return "", errors.New("the workbook cannot be read: it is cut short, or no XLSX file")
	}
	var packed uint64
	for _, file := range z.File {
		packed += file.UncompressedSize64
		if packed > mostPacked {
			return "", errors.New("the workbook is too large when it is unpacked")
		}
	}
	for _, file := range z.File {
		if path.Dir(file.Name) != "xl/worksheets" {
			continue
		}
		cell, err := formula(file)
		if err != nil || cell != "" {
			return cell, err
		}
	}
	return "", nil
}

func formula(file *zip.File) (string, error) {
	r, err := file.Open()
	if err != nil {
		return "", errors.New("the workbook cannot be read: it is cut short")
	}
	defer r.Close()
	d := xml.NewDecoder(io.LimitReader(r, mostPacked))
	cell := "?"
	for {
		t, err := d.RawToken()
		if errors.Is(err, io.EOF) {
			return "", nil
		}
		if err != nil {
			return "", errors.New("the workbook cannot be read: a sheet in it is no XML")
		}
		e, ok := t.(xml.StartElement)
		if !ok {
			continue
		}
		switch e.Name.Local {
		case "c":
			for _, a := range e.Attr {
				if a.Name.Local == "r" {
					cell = a.Value
				}
			}
		case "f":
			return cell, nil
		}
	}
}
