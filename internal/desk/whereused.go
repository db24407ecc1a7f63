package desk

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/readstate"
	"inklatch/internal/core/review/whereused"
	"inklatch/internal/store"
)

// usesEdition names the rules by which uses are found; another makes all of them
// be found again.
const usesEdition = "2"

// WhereUsed is where a term stands.
type WhereUsed struct {
	Pages []UsedOn `json:"pages"`
	// Places is how many there are; More is set where there are more than are listed.
	Places int  `json:"places"`
	More   bool `json:"more,omitzero"`
}

// UsedOn is one page or engine sheet on which something is used.
type UsedOn struct {
	Revision int64    `json:"revision,omitzero"`
	Engine   string   `json:"engine"`
	Title    string   `json:"title"`
	Number   int      `json:"number"`
	State    string   `json:"state"`
	Places   []UsedAt `json:"places"`
	sheet    int64
}

// UsedAt is one place of it.
type UsedAt struct {
	Step step.ID `json:"step,omitzero"`
	// Terms are what of it was found: names, numbers and values, or that it is a note, a
	// caution or the title; none where it is the words of the step alone.
	Terms []string `json:"terms"`
	Said  string   `json:"said"`
	kind  whereused.Kind
	pos   float64
}

// mostFound is how many places one answer has.
const mostFound = 500

// Where finds where a tool, a part, a fastener, a value, a lock or words are used,
// on pages that are open or hold and on sheets in use; for readers on those that
// hold. kind and code may be empty.
func (d *Engines) Where(ctx context.Context, u *User, term, kind, code string) (*WhereUsed, error) {
	if err := holdText(term, "q", 200); err != nil {
		return nil, err
	}
	key := whereused.Key(term)
	if key == "" {
		return &WhereUsed{Pages: []UsedOn{}}, nil
	}
	q := store.FindQuery{Key: key, Engine: code, Drafts: !isReader(u), Most: mostFound}
	if kind != "" {
		if !slices.Contains(whereused.Kinds, whereused.Kind(kind)) {
			return nil, &Problem{Status: 422, Title: "There is no such kind of thing.", Field: "kind"}
		}
		q.Kinds = []string{kind}
	}
	found, more, err := d.store.Reads(ctx).Find(q)
	if err != nil {
		return nil, err
	}
	out := &WhereUsed{Pages: []UsedOn{}, More: more}
	at := map[[2]int64]int{}
	for i := range found {
		f := &found[i]
		id := [2]int64{f.RevisionID, f.SheetID}
		k, ok := at[id]
		if !ok {
			k = len(out.Pages)
			at[id] = k
			out.Pages = append(out.Pages, UsedOn{f.RevisionID, f.Engine, f.Title, f.Number, f.State, []UsedAt{}, f.SheetID})
		}
		out.Pages[k].Places = append(out.Pages[k].Places, UsedAt{step.ID(f.StepID), []string{f.Term}, f.Said, whereused.Kind(f.Kind), f.Pos})
	}
	out.Places = 0
	for i := range out.Pages {
		p := &out.Pages[i]
		slices.SortStableFunc(p.Places, func(a, b UsedAt) int {
			return cmp.Or(cmp.Compare(a.pos, b.pos), strings.Compare(a.Said, b.Said), cmp.Compare(slices.Index(whereused.Kinds, a.kind), slices.Index(whereused.Kinds, b.kind)), strings.Compare(a.Terms[0], b.Terms[0]))
		})
		p.Places = together(p.Places)
		out.Places += len(p.Places)
	}
	slices.SortStableFunc(out.Pages, func(a, b UsedOn) int {
		return cmp.Or(cmp.Compare(b2i(a.Revision == 0), b2i(b.Revision == 0)), strings.Compare(a.Engine, b.Engine), strings.Compare(a.Title, b.Title), b.Number-a.Number)
	})
	return out, nil
}

// together makes one place of what was found in one sentence.
func together(all []UsedAt) []UsedAt {
	var out []UsedAt
	for _, v := range all {
		term := v.Terms[0]
		if v.kind == whereused.Words && term == "step" {
			term = ""
		}
		if n := len(out); n == 0 || out[n-1].Step != v.Step || out[n-1].Said != v.Said {
			v.Terms = []string{}
			out = append(out, v)
		}
		if at := &out[len(out)-1]; term != "" && !slices.Contains(at.Terms, term) {
			at.Terms = append(at.Terms, term)
		}
	}
	return out
}

func useRows(all []whereused.Use) []store.UseRow {
	out := make([]store.UseRow, 0, len(all))
	for _, u := range all {
		keys := whereused.KeysOf(u.Kind, u.Term)
		if u.Kind == whereused.Words {
			keys = []string{""} // words are found as words
		}
		for _, key := range keys {
			out = append(out, store.UseRow{StepID: string(u.Step), Kind: string(u.Kind), Term: u.Term, Key: key, Said: u.Said})
		}
	}
	return out
}

// indexEdits keeps the index of a draft in step with a batch of edits.
func indexEdits(w *store.Draft, after *opened, edits []procedure.Edit) error {
	done, err := w.Indexed(w.Revision.ID, usesEdition)
	if err != nil {
		return err
	}
	if !done {
		return w.Index(nil, useRows(whereused.OfPage(after.k.index, after.p)), after.k.id.sheet, usesEdition)
	}
	var steps []string
	var rows []store.UseRow
	for i := range edits {
		id := readstate.Head
		if edits[i].Op != procedure.SetHeader {
			id = edits[i].Target()
		}
		if slices.Contains(steps, string(id)) {
			continue
		}
		steps = append(steps, string(id))
		if id == readstate.Head {
			rows = append(rows, useRows(whereused.OfHeader(after.k.index, after.p))...)
		} else if at := after.p.At(id); at >= 0 {
			rows = append(rows, useRows(whereused.OfStep(after.k.index, &after.p.Steps[at]))...)
		}
	}
	return w.Index(steps, rows, after.k.id.sheet, usesEdition)
}

// indexRevision finds the uses of a revision and keeps them.
func (d *Engines) indexRevision(ctx context.Context, id int64) error {
	o, err := d.open(d.store.Reads(ctx), id)
	if err != nil || !latch.State(o.rev.State).Open() && o.rev.State != string(latch.Latched) {
		return err
	}
	return d.store.IndexRevision(ctx, id, useRows(whereused.OfPage(o.k.index, o.p)), max(o.k.id.sheet, 0), usesEdition)
}

// indexSheet finds the uses of a sheet in use and keeps them.
func (d *Engines) indexSheet(ctx context.Context, id int64) error {
	r := d.store.Reads(ctx)
	v, err := r.SheetHead(id)
	if err != nil {
		return err
	}
	k, err := d.knowSheet(r, v)
	if err != nil {
		return err
	}
	return d.store.IndexSheet(ctx, id, useRows(whereused.OfSheet(k.sheet)))
}

// indexStale finds the uses of everything whose uses are missing or old: pages of an
// older program, of a code whose sheet has changed, and sheets in use.
func (d *Engines) indexStale(ctx context.Context) error {
	if err := d.store.Unindex(ctx); err != nil {
		return err
	}
	revision, sheet := int64(0), int64(0)
	for ctx.Err() == nil {
		revs, sheets, err := d.store.Reads(ctx).Unindexed(usesEdition, revision, sheet, 50)
		if err != nil || len(revs)+len(sheets) == 0 {
			return err
		}
		// One that cannot be read keeps nothing from the others.
		for _, revision = range revs {
			if err := d.indexRevision(ctx, revision); err != nil {
				d.tell(fmt.Sprintf("finding the uses of revision %d", revision), err)
			}
		}
		for _, sheet = range sheets {
			if err := d.indexSheet(ctx, sheet); err != nil {
				d.tell(fmt.Sprintf("finding the uses of sheet %d", sheet), err)
			}
		}
	}
	return ctx.Err()
}
