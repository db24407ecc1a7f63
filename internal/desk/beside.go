package desk

import (
	"encoding/json"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/virtual"
	"inklatch/internal/store"
)

// Beside is another page of the same code that begins or ends in the middle of a
// job.
type Beside struct {
	Revision int64  `json:"revision"`
	Title    string `json:"title"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	// Ends is how it leaves the engine, Says the same in words; empty for one that
	// closes it.
	Ends virtual.Standing `json:"ends"`
	Says string           `json:"says,omitzero"`
	// Apart are the things in which its end and the page's beginning, or its
	// beginning and the page's end, are not the same; only for a page that this one
	// goes on from, or that goes on from it.
	Apart []string `json:"apart"`
}

// mostBeside is how many pages are listed beside one; those it names come first.
const mostBeside = 100

// beside lists the pages that a page can go on from, or that can go on from it.
func (d *library) beside(r store.Reads, u *User, o *opened) ([]Beside, error) {
	out := []Beside{}
	all, err := r.Parts(o.p.Engine, []string{o.p.After, o.p.Before}, mostBeside)
	if err != nil {
		return nil, err
	}
	for i := range all {
		v := &all[i]
		if v.ProcedureID == o.rev.ProcedureID || mayRead(u, v) != nil {
			continue
		}
		var h procedure.Header
		if err := json.Unmarshal([]byte(v.Header), &h); err != nil {
			return nil, err
		}
		b := Beside{Revision: v.ID, Title: h.Title, Number: v.Number, State: v.State, Ends: h.Ends, Says: h.Ends.Says(o.k.index.NameOf), Apart: []string{}}
		if h.Title == o.p.After {
			b.Apart = append(b.Apart, pageproof.Meet(o.k.index, &h, &o.p.Header)...)
		}
		if h.Title == o.p.Before {
			b.Apart = append(b.Apart, pageproof.Meet(o.k.index, &o.p.Header, &h)...)
		}
		out = append(out, b)
	}
	return out, nil
}

// meets is the problem of a page whose ends and those of the pages beside it are
// not the same, or that names a page which is not there; nil for none.
func (d *library) meets(r store.Reads, u *User, o *opened) error {
	if o.p.After == "" && o.p.Before == "" {
		return nil
	}
	all, err := d.beside(r, u, o)
	if err != nil {
		return err
	}
	for _, title := range []string{o.p.After, o.p.Before} {
		found := title == ""
		for _, b := range all {
			if b.Title != title {
				continue
			}
			if found = true; len(b.Apart) > 0 {
				return problem(409, "Not yet: %s.", b.Apart[0])
			}
		}
		if !found {
			return problem(409, "Not yet: there is no page “%s” of this code that begins or ends in the middle of a job.", title)
		}
	}
	return nil
}
