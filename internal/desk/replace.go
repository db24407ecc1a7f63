package desk

import (
	"cmp"
	"context"
	"crypto/rand"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/proof/sheetproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/replace"
	"inklatch/internal/core/review/whereused"
	"inklatch/internal/store"
)

// ChangeAsk is one term or value that is to become another wherever it stands.
type ChangeAsk struct {
	From string `json:"from"`
	To   string `json:"to"`
	// Engine leaves all but one code out.
	Engine string `json:"engine,omitzero"`
}

// ChangePlan is where it stands and what would become of that.
type ChangePlan struct {
	From string `json:"from"`
	To   string `json:"to"`
	// Value is set where a value is changed, and not a term.
	Value bool `json:"value,omitzero"`
	// Bare is set for a value that sheets have as bare figures as well, which are not
	// looked at: degrees and millimetres of locks, marks and wheels.
	Bare   bool         `json:"bare,omitzero"`
	Pages  []ChangePage `json:"pages"`
	Places int          `json:"places"`
	// More is set where there are more pages than are listed; Behind where pages are
	// still being looked through, so that some places may be missing.
	More   bool `json:"more,omitzero"`
	Behind bool `json:"behind,omitzero"`
	// Near are values that come near and are left alone: the same amount with a tolerance,
	// in a range, or in another unit.
	Near []string `json:"near"`
}

// ChangePage is a page or an engine sheet with its places.
type ChangePage struct {
	// Revision is 0 for an engine sheet.
	Revision int64  `json:"revision,omitzero"`
	Engine   string `json:"engine"`
	Title    string `json:"title"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	Version  int64  `json:"version"`
	// Starts is set where the change starts a new draft; otherwise it goes into this one.
	Starts bool            `json:"starts,omitzero"`
	Places []replace.Place `json:"places"`
	// Opens are closed latches that would open; New and Settled findings that would come
	// and go, and Blocks that more would block. Until are findings that are there only
	// until the sheet of the code, changed in the same way, is in use.
	Opens   []latch.Latch `json:"opens"`
	New     []string      `json:"new"`
	Until   []string      `json:"until"`
	Settled []string      `json:"settled"`
	Blocks  bool          `json:"blocks,omitzero"`
	// Then are, of the sheet of a tool that others come in place of, the pages that use it.
	Then []ChangeThen `json:"then,omitempty"`
}

// mostChanged is how many pages and sheets one plan lists, mostSought how many pages are
// read for it: of those that the index names, some do not have it.
const (
	mostChanged = 200
	mostSought  = 2000
)

// mostPlanning is how many plans are made at once, planPatience how long one waits for its
// turn, and planTime how long it looks through pages: what it has not come to then is said
// to be more.
const (
	mostPlanning = 2
	planPatience = 10 * time.Second
	planTime     = 8 * time.Second
)

// plans waits for its turn among those who plan.
func (d *Engines) plans(ctx context.Context) (done func(), err error) {
	ctx, cancel := context.WithTimeout(ctx, planPatience)
	defer cancel()
	select {
	case d.planning <- struct{}{}:
		return func() { <-d.planning }, nil
	case <-ctx.Done():
		return nil, problem(503, "Others are looking through all pages just now. Try again in a moment; nothing was changed.")
	}
}

// PlanChange finds where a term or value stands, on pages that are open or hold and on
// engine sheets, and what would come of changing it. Nothing is changed.
func (d *Engines) PlanChange(ctx context.Context, u *User, a ChangeAsk) (*ChangePlan, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	c, err := readChange(a)
	if err != nil {
		return nil, err
	}
	done, err := d.plans(ctx)
	if err != nil {
		return nil, err
	}
	defer done()
	end := time.Now().Add(planTime)
	r := d.store.Reads(ctx)
	behind, err := d.caughtUp(ctx)
	if err != nil {
		return nil, err
	}
	prefix, words, literal := c.Sought()
	holders, more, err := r.Holders(store.Sought{Prefix: whereused.Key(prefix), Words: words, Literal: literal}, a.Engine, mostSought)
	if err != nil {
		return nil, err
	}
	out := &ChangePlan{From: c.From(), To: c.To(), Value: c.Value(), Bare: c.Bare(), Pages: []ChangePage{}, More: more, Behind: behind, Near: []string{}}
	sheets := map[string]*engine.Index{} // they come first
	for _, h := range holders {
		if len(out.Pages) == mostChanged || time.Now().After(end) {
			out.More = true
			break
		}
		var p *ChangePage
		var near []string
		if h.RevisionID != 0 {
			p, near, err = d.planPage(r, c, h.RevisionID, sheets[h.Code])
		} else {
			p, sheets[h.Code], err = d.planSheet(ctx, u, c, h.Code, end)
		}
		if err != nil {
			return nil, err
		}
		for _, n := range near {
			if !slices.Contains(out.Near, n) && len(out.Near) < 20 {
				out.Near = append(out.Near, n)
			}
		}
		if p != nil {
			out.Pages = append(out.Pages, *p)
			out.Places += len(p.Places)
		}
		if ctx.Err() != nil {
			return nil, ctx.Err()
		}
	}
	slices.SortStableFunc(out.Pages, func(a, b ChangePage) int {
		return cmp.Or(cmp.Compare(b2i(a.Revision != 0), b2i(b.Revision != 0)), strings.Compare(a.Engine, b.Engine), strings.Compare(a.Title, b.Title))
	})
	return out, nil
}

// fewLeft is how many pages and sheets are looked through while somebody waits.
const fewLeft = 50

// caughtUp finds the uses of the few pages and sheets whose uses are missing; behind is
// set where they are too many to wait for.
func (d *Engines) caughtUp(ctx context.Context) (behind bool, err error) {
	revs, sheets, err := d.store.Reads(ctx).Unindexed(usesEdition, 0, 0, fewLeft)
	if err != nil || len(revs)+len(sheets) == 0 {
		return false, err
	}
	if len(revs) == fewLeft || len(sheets) == fewLeft {
		return true, nil
	}
	return false, d.indexStale(ctx)
}

func readChange(a ChangeAsk) (*replace.Change, error) {
	for field, v := range map[string]string{"from": a.From, "to": a.To} {
		if err := holdText(v, field, 200); err != nil {
			return nil, err
		}
	}
	c, err := replace.Of(a.From, a.To)
	if err != nil {
		return nil, &Problem{Status: 422, Title: fullStop(message.Capital(err.Error())), Field: "to"}
	}
	return c, nil
}

// planPage is what a change would do to a page; nil where it does not stand there.
// sheet is the sheet of its code changed in the same way, nil where nothing of it is.
func (d *Engines) planPage(r store.Reads, c *replace.Change, id int64, sheet *engine.Index) (*ChangePage, []string, error) {
	o, err := d.open(r, id)
	if err != nil {
		return nil, nil, err
	}
	k := o.k
	state := latch.State(o.rev.State)
	if state.Frozen() { // its next draft is of the sheet in use
		if k, err = d.engine(r, o.p.Engine); err != nil {
			return nil, nil, err
		}
	}
	places, edits := c.OnPage(k.index, o.p, nil)
	near := c.Near(o.p)
	if len(places) == 0 {
		return nil, near, nil
	}
	after, _, err := procedure.Apply(o.p, edits)
	if err != nil {
		return nil, nil, err
	}
	was, now := pageproof.Prove(k.index, o.p, d.house()), pageproof.Prove(k.index, after, d.house())
	out := &ChangePage{
		Revision: id, Engine: o.p.Engine, Title: o.p.Title, Number: o.rev.Number, State: o.rev.State, Version: o.rev.Version, Starts: state.Frozen(), Places: places,
		Opens: []latch.Latch{}, New: sayings(now, was), Until: []string{}, Settled: sayings(was, now), Blocks: pageproof.Blocking(now) > pageproof.Blocking(was),
	}
	if sheet != nil && len(out.New) > 0 {
		then := pageproof.Prove(sheet, after, d.house())
		out.Until = sayings(now, slices.Concat(was, then))
		out.New = slices.DeleteFunc(out.New, func(s string) bool { return slices.Contains(out.Until, s) })
	}
	if state.Open() {
		closed, err := r.ClosingsOf(id)
		if err != nil {
			return nil, nil, err
		}
		out.Opens = append(out.Opens, latch.Reopened(latch.Changes(o.p, after), closings(closed))...)
	}
	return out, near, nil
}

// planSheet is what a change would do to the sheet of a code: its draft, or the one in
// use, and that sheet; nil where it does not stand there.
func (d *Engines) planSheet(ctx context.Context, u *User, c *replace.Change, code string, end time.Time) (*ChangePage, *engine.Index, error) {
	r := d.store.Reads(ctx)
	v, _, k, err := d.numbered(r, u, code, 0)
	if err != nil {
		return nil, nil, err
	}
	places, after, err := c.OnSheet(k.sheet, nil)
	if err != nil || len(places) == 0 {
		return nil, nil, err
	}
	x := engine.NewIndex(after)
	was, now := sheetproof.Prove(k.index, d.house()), sheetproof.Prove(x, d.house())
	then, err := d.thenOn(ctx, r, k, x, end)
	if err != nil {
		return nil, nil, err
	}
	return &ChangePage{
		Engine: code, Title: "Engine sheet", Number: v.Number, State: v.State, Version: v.Version, Starts: v.State != "draft", Places: places,
		Opens: []latch.Latch{}, New: sheetSayings(now, was), Until: []string{}, Settled: sheetSayings(was, now), Blocks: sheetproof.Blocking(now) > sheetproof.Blocking(was), Then: then,
	}, x, nil
}

// sheetSayings are the sentences of findings of a sheet that are among a and not
// among b.
func sheetSayings(a, b []sheetproof.Finding) []string {
	out := []string{}
	for i := range a {
		if !slices.ContainsFunc(b, func(f sheetproof.Finding) bool { return f.Rule == a[i].Rule && f.What == a[i].What }) {
			out = append(out, a[i].What)
		}
	}
	return out
}

// ChangeDo makes a change on one page or sheet, at some of its places.
type ChangeDo struct {
	From string `json:"from"`
	To   string `json:"to"`
	// Reason is why: of a new draft, readers see it.
	Reason string `json:"reason"`
	// Revision is the page, 0 for the sheet of Engine; Number, of a sheet, and Version are
	// what the plan said of it.
	Revision int64  `json:"revision,omitzero"`
	Engine   string `json:"engine,omitzero"`
	Number   int    `json:"number,omitzero"`
	Version  int64  `json:"version"`
	// Places are the keys of the places that are changed.
	Places []string `json:"places"`
}

// Changed is what came of it: the draft that says it now.
type Changed struct {
	Revision int64  `json:"revision,omitzero"`
	Engine   string `json:"engine"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	Places   int    `json:"places"`
	Blocking int    `json:"blocking"`
}

// ChangeOn makes a change on one page or sheet: in the draft there is, or in a new one
// that starts from what holds. It is refused where the page has changed since the plan
// was made, and nothing is changed then.
func (d *Engines) ChangeOn(ctx context.Context, u *User, a ChangeDo) (*Changed, error) {
	if err := MayWrite(u); err != nil {
		return nil, err
	}
	c, err := readChange(ChangeAsk{From: a.From, To: a.To})
	if err != nil {
		return nil, err
	}
	if a.Reason = strings.TrimSpace(a.Reason); a.Reason == "" {
		return nil, &Problem{Status: 422, Title: "Say why: readers of the new revisions see it.", Field: "reason"}
	}
	if err := holdText(a.Reason, "reason", 1000); err != nil {
		return nil, err
	}
	if len(a.Places) == 0 {
		return nil, &Problem{Status: 422, Title: "Choose a place to change.", Field: "places"}
	}
	if a.Revision == 0 {
		return d.changeSheet(ctx, u, c, a)
	}
	return d.changePage(ctx, u, c, a)
}

// ownName is the name of one change as a batch and as a client: were two changes one
// client, neither would be held against the other.
func ownName() string { return "everywhere-" + strings.ToLower(rand.Text()[:12]) }

// movedOn is the problem of a plan that is older than what it is about.
func movedOn(what string) error {
	return problem(409, "%s has changed since this was looked at. Look again: nothing of it was changed.", what)
}

func (d *Engines) changePage(ctx context.Context, u *User, c *replace.Change, a ChangeDo) (*Changed, error) {
	r := d.store.Reads(ctx)
	o, err := d.open(r, a.Revision)
	if err != nil {
		return nil, err
	}
	if o.rev.Version != a.Version {
		return nil, movedOn(o.p.Title)
	}
	_, edits := c.OnPage(o.k.index, o.p, func(key string) bool { return slices.Contains(a.Places, key) })
	if len(edits) != len(a.Places) || len(edits) == 0 {
		return nil, movedOn(o.p.Title)
	}
	id, base := a.Revision, a.Version
	switch state := latch.State(o.rev.State); {
	case state == latch.Latched:
		if id, err = d.rooms.Drafts.NewDraft(ctx, u, o.rev.ProcedureID, a.Reason, o.rev.ID); err != nil {
			return nil, err
		}
		rev, err := r.RevisionByID(id)
		if err != nil {
			return nil, err
		}
		base = rev.Version
	case !state.Open():
		return nil, movedOn(o.p.Title)
	}
	own := ownName()
	b := Batch{Name: own, Client: own, Base: base, Edits: edits, Also: map[string]any{"everywhere": c.From() + " to " + c.To()}}
	saved, err := d.rooms.Drafts.Save(ctx, u, id, b)
	if err != nil {
		if id != a.Revision { // a draft in which nothing is new is of no use
			return nil, cmp.Or(d.rooms.Drafts.Delete(ctx, u, id), err)
		}
		return nil, err
	}
	return &Changed{Revision: id, Engine: o.p.Engine, Number: saved.Meta.Number, State: saved.Meta.State, Places: len(edits), Blocking: saved.Meta.Blocking}, nil
}

func (d *Engines) changeSheet(ctx context.Context, u *User, c *replace.Change, a ChangeDo) (*Changed, error) {
	r := d.store.Reads(ctx)
	v, _, k, err := d.numbered(r, u, a.Engine, 0)
	if err != nil {
		return nil, err
	}
	if v.Version != a.Version || v.Number != a.Number {
		return nil, movedOn("The sheet of " + a.Engine)
	}
	n := 0
	_, after, err := c.OnSheet(k.sheet, func(key string) bool {
		if slices.Contains(a.Places, key) {
			n++
			return true
		}
		return false
	})
	if err != nil {
		return nil, err
	}
	if n != len(a.Places) {
		return nil, movedOn("The sheet of " + a.Engine)
	}
	if v.State != "draft" {
		if err := d.NewSheetDraft(ctx, u, a.Engine, a.Reason); err != nil {
			return nil, err
		}
		if v, _, _, err = d.numbered(r, u, a.Engine, 0); err != nil {
			return nil, err
		}
	}
	own := ownName()
	saved, err := d.SaveSheet(ctx, u, a.Engine, SheetBatch{Name: own, Client: own, Base: v.Version, Edits: engine.Diff(k.sheet, after)})
	if err != nil {
		return nil, err
	}
	return &Changed{Engine: a.Engine, Number: saved.Meta.Number, State: saved.Meta.State, Places: n, Blocking: sheetproof.Blocking(saved.Findings)}, nil
}
