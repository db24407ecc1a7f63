package document

import "inklatch/internal/core/page/step"

// Flat is a block as one record, for what renders a document and knows no types of Go. The
// rows of the tables and the steps are not in it: they are those of the Page the document
// was laid out with, by their kind and by the step's id.
type Flat struct {
	Kind  FlatKind  `json:"kind"`
	Grade Grade     `json:"grade,omitzero"`
	Level int       `json:"level,omitzero"`
	Lead  string    `json:"lead,omitzero"`
	Text  string    `json:"text,omitzero"`
	Items []string  `json:"items,omitempty"`
	Rows  []FlatRow `json:"rows,omitempty"`
	Step  step.ID   `json:"step,omitzero"`
}

// FlatRow is a name with what stands behind it, and when that was.
type FlatRow struct {
	Name string `json:"name"`
	Text string `json:"text"`
	When string `json:"when,omitzero"`
}

// FlatKind says which block it is.
type FlatKind string

// The kinds, one for each type of Block.
const (
	StripKind     FlatKind = "strip"
	NoticeKind    FlatKind = "notice"
	HeadingKind   FlatKind = "heading"
	ParagraphKind FlatKind = "paragraph"
	BoxesKind     FlatKind = "boxes"
	TermsKind     FlatKind = "terms"
	ListKind      FlatKind = "list"
	DriveKind     FlatKind = "drive"
	ToolsKind     FlatKind = "tools"
	PartsKind     FlatKind = "parts"
	TorqueKind    FlatKind = "torque"
	WorkKind      FlatKind = "work"
	RecordKind    FlatKind = "record"
)

// Choices are the kinds.
func (FlatKind) Choices() []string {
	var out []string
	for _, k := range []FlatKind{StripKind, NoticeKind, HeadingKind, ParagraphKind, BoxesKind, TermsKind, ListKind, DriveKind, ToolsKind, PartsKind, TorqueKind, WorkKind, RecordKind} {
		out = append(out, string(k))
	}
	return out
}

// Flat are the blocks of a document as records, in their order.
func (d *Document) Flat() []Flat {
	named := func(rows []Named) []FlatRow {
		out := make([]FlatRow, len(rows))
		for i, r := range rows {
			out[i] = FlatRow{Name: r.Name, Text: r.Text}
		}
		return out
	}
	out := make([]Flat, 0, len(d.Blocks))
	for _, b := range d.Blocks {
		var f Flat
		switch b := b.(type) {
		case Strip:
			f = Flat{Kind: StripKind, Rows: named(b.Fields)}
		case Notice:
			f = Flat{Kind: NoticeKind, Grade: b.Grade, Text: b.Text}
		case Heading:
			f = Flat{Kind: HeadingKind, Level: b.Level, Text: b.Text}
		case Paragraph:
			f = Flat{Kind: ParagraphKind, Lead: b.Lead, Text: b.Text}
		case Boxes:
			f = Flat{Kind: BoxesKind, Items: b.Items}
		case Terms:
			f = Flat{Kind: TermsKind, Rows: named(b.Rows)}
		case List:
			f = Flat{Kind: ListKind, Items: b.Items}
		case Drive:
			f = Flat{Kind: DriveKind, Text: b.Says}
		case ToolTable:
			f = Flat{Kind: ToolsKind}
		case PartTable:
			f = Flat{Kind: PartsKind}
		case TorqueTable:
			f = Flat{Kind: TorqueKind}
		case Work:
			f = Flat{Kind: WorkKind, Step: b.ID}
		case Record:
			f = Flat{Kind: RecordKind}
			for _, r := range b.Rows {
				f.Rows = append(f.Rows, FlatRow{Name: r.What, Text: r.By, When: r.When})
			}
		}
		out = append(out, f)
	}
	return out
}
