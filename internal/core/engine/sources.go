package engine

import "strings"

// SourceID names a document of a sheet.
type SourceID string

// SourceKind is what kind of document a value comes from.
type SourceKind string

// The kinds of document.
const (
	Letter      SourceKind = "letter"
	Bulletin    SourceKind = "bulletin"
	PlanDrawing SourceKind = "drawing"
	Standard    SourceKind = "standard"
	Measurement SourceKind = "measurement"
)

// Choices are the kinds of document.
func (SourceKind) Choices() []string {
	return []string{string(Letter), string(Bulletin), string(PlanDrawing), string(Standard), string(Measurement)}
}

// Source is a document that values of the sheet come from.
type Source struct {
	ID     SourceID   `json:"id"`
	Number string     `json:"number"`
	Kind   SourceKind `json:"kind"`
	// Name is what it is about, Issuer who gave it out, On when, as 2024-02-12.
	Name   string `json:"name,omitzero"`
	Issuer string `json:"issuer,omitzero"`
	On     string `json:"on,omitzero"`
	// Replaced is the document that stands in its place, where it holds no more.
	Replaced SourceID `json:"replaced,omitzero"`
}

// Words is the document as it is cited: letter EL-0418.
func (s *Source) Words() string {
	return strings.TrimSpace(string(s.Kind) + " " + s.Number)
}

// Source finds a document, nil for none.
func (x *Index) Source(id SourceID) *Source {
	if i, ok := x.sources[id]; ok {
		return &x.Sheet.Sources[i]
	}
	return nil
}

// Cited is where a value comes from, in words: its document with the place in it, or what was
// written for it.
func (x *Index) Cited(p Proof) string {
	s := x.Source(p.In)
	if s == nil {
		return p.Source
	}
	if p.Place == "" {
		return s.Words()
	}
	return s.Words() + ", " + p.Place
}

// HoldsNow is the document that stands in place of one, the last of a chain; the document
// itself where it holds, and where a chain leads back to itself.
func (x *Index) HoldsNow(id SourceID) SourceID {
	now := id
	for range x.Sheet.Sources {
		s := x.Source(now)
		if s == nil || s.Replaced == "" || x.Source(s.Replaced) == nil {
			return now
		}
		now = s.Replaced
	}
	return id
}
