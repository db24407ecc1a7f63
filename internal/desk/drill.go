package desk

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strconv"
	"time"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/desk/view"
	"inklatch/internal/format/grid"
	"inklatch/internal/store"
)

// DrillLook is a step at which a mistake shows.
type DrillLook struct {
	Step step.ID `json:"step"`
	// Number is the step’s, from 1.
	Number int    `json:"number"`
	Says   string `json:"says"`
	// Sure is false where the look may miss it.
	Sure bool `json:"sure"`
}

// DrillMistake is a mistake that was made on a page. Severity, Occurrence and Detection run from
// 1 to 10, Risk is their product.
type DrillMistake struct {
	ID      string        `json:"id"`
	Family  string        `json:"family"`
	What    string        `json:"what"`
	Size    string        `json:"size"`
	MadeAt  step.ID       `json:"madeAt"`
	Number  int           `json:"number"`
	Outcome drill.Outcome `json:"outcome"`
	// Good is set where the engine comes to no harm by it.
	Good bool `json:"good"`
	// Missed is set where the page needs to catch it and does not.
	Missed bool `json:"missed"`
	// Accepted is the reason why somebody keeps it, empty for none.
	Accepted string `json:"accepted"`
	// AcceptAs is what its step accepts to keep it, AcceptAllAs to keep all of its family there.
	AcceptAs    string      `json:"acceptAs"`
	AcceptAllAs string      `json:"acceptAllAs"`
	Seen        []DrillLook `json:"seen"`
	Why         string      `json:"why"`
	// On says where it comes to that, where it does not everywhere.
	On          string `json:"on"`
	Consequence string `json:"consequence"`
	Severity    int    `json:"severity"`
	Occurrence  int    `json:"occurrence"`
	Detection   int    `json:"detection"`
	Risk        int    `json:"risk"`
}

// DrillFamily is a kind of mistake.
type DrillFamily struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Doc    string `json:"doc"`
	Needed bool   `json:"needed"`
}

// DrillStep is a step that shows at least one mistake.
type DrillStep struct {
	Step   step.ID `json:"step"`
	Number int     `json:"number"`
	Says   string  `json:"says"`
}

// Drilled is a page with the mistakes of the trade made on it.
type Drilled struct {
	Families []DrillFamily  `json:"families"`
	Steps    []DrillStep    `json:"steps"`
	Mistakes []DrillMistake `json:"mistakes"`
	Caught   int            `json:"caught"`
	Of       int            `json:"of"`
	Missed   int            `json:"missed"`
	Accepted int            `json:"accepted"`
	// Part is set where the page has so many that only the first of them were made.
	Part bool `json:"part,omitzero"`
}

// mostDrill is how long a page is drilled at the most.
const mostDrill = 20 * time.Second

// mostDrilled is how many drills are kept.
const mostDrilled = 64

// report is the drill of an opened revision, made once for what it says now.
func (d *library) report(ctx context.Context, o *opened) (*drill.Report, error) {
	return d.reportUnder(ctx, o, d.ruled())
}

// reportUnder is report under some rules; what lists say is kept of those that hold.
func (d *library) reportUnder(ctx context.Context, o *opened, rules *ruled) (*drill.Report, error) {
	key := shownKey{pageKey{o.rev.ID, o.rev.Version}, o.k.id, rules.version}
	if r, ok := d.drilled.Get(key); ok {
		return r, nil
	}
	r, err, _ := d.flight.Do(fmt.Sprint("drill", key), func() (any, error) {
		return worked(func() (*drill.Report, error) {
			within, done := context.WithTimeout(context.WithoutCancel(ctx), mostDrill)
			defer done()
			return drill.Run(within, o.k.index, o.p, drill.Options{House: rules.Drill}), nil
		})
	})
	if err != nil {
		return nil, err
	}
	d.drilled.Add(key, r.(*drill.Report))
	if !r.(*drill.Report).Whole || rules.version != d.ruled().version {
		return r.(*drill.Report), nil // figures of a part, or of other rules, say nothing in a list
	}
	d.tell("keeping the figures of a drill", d.keepDrill(ctx, o, r.(*drill.Report))) // what cannot be written is read all the same
	return r.(*drill.Report), nil
}

// Count is what came of the mistakes on a version of a page.
type DrillCount struct {
	Version int64 `json:"version"`
	// Caught come to no harm, Of were made; Missed get through and the page needs to catch
	// them, Accepted are kept with a reason.
	Caught   int `json:"caught"`
	Of       int `json:"of"`
	Missed   int `json:"missed"`
	Accepted int `json:"accepted"`
	// Older is set where the page, its engine sheet or the drill is newer than this.
	Older bool `json:"older,omitzero"`
}

// keepDrill keeps the figures of a drill for lists, unless they are kept already.
func (d *library) keepDrill(ctx context.Context, o *opened, r *drill.Report) error {
	now := store.Drill{RevisionID: o.rev.ID, Version: o.rev.Version, SheetID: o.k.id.sheet, Edition: d.drillEdition(), Caught: r.Caught, Made: r.Of, Missed: r.Missed, Accepted: r.Accepted}
	was, err := d.store.Reads(ctx).DrillOf(o.rev.ID)
	switch {
	case err != nil && !errors.Is(err, store.ErrNotFound):
		return err
	case err == nil && (*was == now || was.Version > now.Version):
		return nil // somebody's older page
	}
	return d.store.KeepDrill(context.WithoutCancel(ctx), now)
}

// lastDrill are the figures of the last drill of a revision, nil for none.
func (d *library) lastDrill(r store.Reads, o *opened) (*DrillCount, error) {
	v, err := r.DrillOf(o.rev.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return &DrillCount{v.Version, v.Caught, v.Made, v.Missed, v.Accepted, v.Version != o.rev.Version || v.SheetID != o.k.id.sheet || v.Edition != d.drillEdition()}, nil
}

// Count makes the mistakes of the trade on a revision and counts what comes of them.
func (d *Drills) Count(ctx context.Context, u *User, id int64) (*DrillCount, error) {
	o, r, err := d.opened(ctx, u, id)
	if err != nil {
		return nil, err
	}
	n := countOf(o, r)
	return &n, nil
}

// opened is a revision that somebody may read, with its drill.
func (d *Drills) opened(ctx context.Context, u *User, id int64) (*opened, *drill.Report, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, nil, err
	}
	r, err := d.report(ctx, o)
	return o, r, err
}

// mistake is one of a revision that somebody may read, by its id.
func (d *Drills) mistake(ctx context.Context, u *User, id int64, mistake string) (*opened, *drill.Mistake, error) {
	o, r, err := d.opened(ctx, u, id)
	if err != nil {
		return nil, nil, err
	}
	i := slices.IndexFunc(r.Mistakes, func(m drill.Mistake) bool { return m.ID == mistake })
	if i < 0 {
		return nil, nil, notFound("mistake on this page any more")
	}
	return o, &r.Mistakes[i], nil
}

// Of makes the mistakes of the trade on a revision.
func (d *Drills) Of(ctx context.Context, u *User, id int64) (*Meta, *Drilled, error) {
	o, r, err := d.opened(ctx, u, id)
	if err != nil {
		return nil, nil, err
	}
	_, _, meta, err := d.shownTo(ctx, u, id) // with the figures that were just kept
	if err != nil {
		return nil, nil, err
	}
	out := &Drilled{Families: []DrillFamily{}, Steps: []DrillStep{}, Mistakes: make([]DrillMistake, len(r.Mistakes)), Caught: r.Caught, Of: r.Of, Missed: r.Missed, Accepted: r.Accepted, Part: !r.Whole}
	for i := range drill.Families {
		f := &drill.Families[i]
		if slices.ContainsFunc(r.Mistakes, func(m drill.Mistake) bool { return m.Family == f }) {
			out.Families = append(out.Families, DrillFamily{f.ID, f.Name, f.Doc, f.Needed()})
		}
	}
	shows := map[int]bool{}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		v := DrillMistake{
			ID: m.ID, Family: m.Family.ID, What: m.What.String(), Size: m.Size, MadeAt: m.MadeAt, Number: m.Place + 1, Outcome: m.Outcome, Good: m.Outcome.Good(), Missed: m.Missed(), Accepted: m.Accepted,
			Seen: []DrillLook{}, Consequence: m.Comes.String(), Severity: m.Severity, Occurrence: m.Family.Occurrence, Detection: m.Detection(), Risk: m.Risk(),
		}
		v.On = m.On.String()
		v.AcceptAs, v.AcceptAllAs = m.Rules()
		if m.Outcome == drill.Absorbed {
			v.Why = m.Why.String()
		}
		for _, l := range m.Seen {
			v.Seen = append(v.Seen, DrillLook{l.Step, l.Place + 1, l.Says.String(), l.Sure})
			shows[l.Place] = true
		}
		out.Mistakes[i] = v
	}
	for i := range o.p.Steps {
		if shows[i] {
			out.Steps = append(out.Steps, DrillStep{o.p.Steps[i].ID, i + 1, en.Sentence(o.k.index, o.p.Steps[i].Action)})
		}
	}
	return meta, out, nil
}

// Mends are edits with which a revision catches one of its mistakes; none where no look
// was found that does. Each was tried.
func (d *Drills) Mends(ctx context.Context, u *User, id int64, mistake string) ([]drill.Mend, error) {
	o, m, err := d.mistake(ctx, u, id, mistake)
	if err != nil {
		return nil, err
	}
	out := []drill.Mend{}
	if m.Outcome.Good() {
		return out, nil
	}
	found, err := worked(func() ([]drill.Mend, error) {
		return drill.Mends(ctx, o.k.index, o.p, m, d.house()), nil
	})
	return append(out, found...), err
}

// DrillSettled are edits with which a revision catches what a page needs to catch, in the order
// they are made, and the mistakes that no look was found for.
type DrillSettled struct {
	Mends []drill.Mend `json:"mends"`
	// AtLeast is how many of all that were tried are needed: as many as there are mends where
	// no smaller set settles as much.
	AtLeast int      `json:"atLeast"`
	Left    []string `json:"left"`
}

// Settle looks for edits with which a revision catches all that a page needs to catch.
func (d *Drills) Settle(ctx context.Context, u *User, id int64) (*DrillSettled, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return worked(func() (*DrillSettled, error) {
		s := drill.Settle(ctx, o.k.index, o.p, d.house(), d.ruled().Drill)
		out := &DrillSettled{Mends: append([]drill.Mend{}, s.Mends...), AtLeast: s.AtLeast, Left: []string{}}
		for i := range s.Left {
			out.Left = append(out.Left, s.Left[i].What.String())
		}
		return out, nil
	})
}

// DrillFrame is the engine after a step of a page on which a mistake was made, Right as it
// stands there without.
type DrillFrame struct {
	Step step.ID `json:"step"`
	// Number is the step’s, from 1.
	Number int        `json:"number"`
	Says   string     `json:"says"`
	Wrong  view.State `json:"wrong"`
	Right  view.State `json:"right"`
	// Off are shafts that stand otherwise, the furthest off first.
	Off []DrillOff `json:"off"`
	// Seen is what is seen there, empty where nothing is; Sure is false where it may be missed,
	// Breaks is set where something breaks.
	Seen   string `json:"seen"`
	Sure   bool   `json:"sure"`
	Breaks bool   `json:"breaks"`
}

// DrillOff is a shaft that stands otherwise than it should.
type DrillOff struct {
	Shaft string `json:"shaft"`
	Name  string `json:"name"`
	// Degrees of the shaft; above zero it is early.
	Degrees float64 `json:"degrees"`
	// Held is set while a lock still holds it where it belongs.
	Held bool `json:"held"`
}

// Film is a mistake step by step on the drawing of the drive.
type DrillFilm struct {
	Drawing *view.Drawing `json:"drawing"`
	Frames  []DrillFrame  `json:"frames"`
	// Tells is the step at which the two engines are told from one another, nil where no look is
	// sure to.
	Tells *DrillTells `json:"tells,omitempty"`
}

// DrillTells is a step at which a mistake is sure to be seen on the drawing.
type DrillTells struct {
	Step   step.ID `json:"step"`
	Number int     `json:"number"`
	// Shafts are those that stand otherwise.
	Shafts []string `json:"shafts"`
	// Printed is set where the job sheet shows both beside that step.
	Printed bool `json:"printed,omitzero"`
}

// Film shows how a mistake goes on, from the step it is made at to the one that shows it.
func (d *Drills) Film(ctx context.Context, u *User, id int64, mistake string) (*DrillFilm, error) {
	o, m, err := d.mistake(ctx, u, id, mistake)
	if err != nil {
		return nil, err
	}
	return worked(func() (*DrillFilm, error) {
		x := o.k.index
		out := &DrillFilm{Drawing: view.DrawingOf(x), Frames: []DrillFrame{}}
		frames := drill.Film(x, o.p, m)
		if f := drill.Telling(frames); f != nil {
			out.Tells = &DrillTells{Step: f.Step, Number: f.Place + 1, Shafts: []string{}}
			if at := o.p.At(f.Step); at >= 0 {
				out.Tells.Printed = o.p.Steps[at].Pair == m.ID
			}
			for i := range x.Sheet.Shafts {
				if _, off := f.Off[x.Sheet.Shafts[i].ID]; off && x.TimedBy(x.Sheet.Shafts[i].ID) != nil {
					out.Tells.Shafts = append(out.Tells.Shafts, string(x.Sheet.Shafts[i].ID))
				}
			}
		}
		for k := range frames {
			f := &frames[k]
			v := DrillFrame{Step: f.Step, Number: f.Place + 1, Wrong: view.StateOf(x, &f.Wrong), Right: view.StateOf(x, &f.Right), Off: []DrillOff{}, Seen: f.Says.String(), Sure: f.Sure, Breaks: f.Breaks}
			if at := o.p.At(f.Step); at >= 0 {
				v.Says = en.Sentence(x, o.p.Steps[at].Action)
			}
			for i := range x.Sheet.Shafts {
				s := &x.Sheet.Shafts[i]
				if by, ok := f.Off[s.ID]; ok {
					v.Off = append(v.Off, DrillOff{string(s.ID), s.Name, math.Round(float64(by)*10) / 10, f.Held[s.ID]})
				}
			}
			slices.SortStableFunc(v.Off, func(a, b DrillOff) int { return cmp.Compare(math.Abs(b.Degrees), math.Abs(a.Degrees)) })
			out.Frames = append(out.Frames, v)
		}
		return out, nil
	})
}

// Worksheet is the drill of a revision as the worksheet of a failure mode and effects
// analysis (the columns of IEC 60812, from memory), csv or xlsx, and its name. Occurrence is the
// house’s guess; risk is severity × occurrence × detection.
func (d *Drills) Worksheet(ctx context.Context, u *User, id int64, format string) ([]byte, string, error) {
	o, r, err := d.opened(ctx, u, id)
	if err != nil {
		return nil, "", err
	}
	s := grid.Sheet{
		Title: fmt.Sprintf("%s, %s, revision %d: mistakes", o.k.sheet.Code, o.p.Title, o.rev.Number),
		Head:  []string{"Step", "What is done there", "Mistake", "Kind", "Size", "On", "Effect", "Severity", "Occurrence", "Outcome", "Shown at step", "What is seen", "Detection", "Risk", "Needed", "Accepted because"},
		Right: []bool{true, false, false, false, false, false, false, true, true, false, true, false, true, true, false, false},
	}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		at, seen := "", ""
		if k := max(slices.IndexFunc(m.Seen, func(l drill.Look) bool { return l.Sure }), 0); k < len(m.Seen) {
			at, seen = strconv.Itoa(m.Seen[k].Place+1), m.Seen[k].Says.String()
			if !m.Seen[k].Sure {
				seen = "perhaps: " + seen
			}
		}
		effect := m.Comes.String()
		if m.Outcome == drill.Absorbed {
			effect = "none: " + m.Why.String()
		}
		needed := ""
		if m.Family.Needed() {
			needed = "yes"
		}
		s.Rows = append(s.Rows, []string{
			strconv.Itoa(m.Place + 1), en.Sentence(o.k.index, o.p.Steps[m.Place].Action), message.Capital(m.What.String()), m.Family.Name, m.Size, m.On.String(), effect,
			strconv.Itoa(m.Severity), strconv.Itoa(m.Family.Occurrence), string(m.Outcome), at, seen, strconv.Itoa(m.Detection()), strconv.Itoa(m.Risk()), needed, m.Accepted,
		})
	}
	name := fmt.Sprintf("%s mistakes.%s", o.k.sheet.Code, format)
	if format == "xlsx" {
		b, err := s.XLSX()
		return b, name, err
	}
	b, err := s.CSV()
	return b, name, err
}

// keptMistakes adds the mistakes that get through and are kept with a reason to what is kept, those
// of one step and reason once, and says how many are caught. A page whose mistakes were never
// made says nothing of them.
func (d *library) keptMistakes(ctx context.Context, o *opened, rules *ruled, kept []document.Done) ([]document.Done, string, error) {
	r, err := d.reportUnder(ctx, o, rules)
	if err != nil || r.Of == 0 {
		return kept, "", err
	}
	type one struct {
		place  int
		reason string
	}
	seen := map[one]bool{}
	for i := range r.Mistakes {
		m := &r.Mistakes[i]
		k := one{m.Place, m.Accepted}
		if m.Accepted == "" || seen[k] {
			continue
		}
		seen[k] = true
		kept = append(kept, document.Done{What: fmt.Sprintf("Accepted, step %d", m.Place+1), By: m.Family.Name, When: m.Accepted})
	}
	says := fmt.Sprintf("%d of %d mistakes come to no harm", r.Caught, r.Of)
	if r.Accepted > 0 {
		says += fmt.Sprintf(", accepted with a reason: %d", r.Accepted)
	}
	return kept, says, nil
}

// Change is what a change does to what a page catches.
type DrillChange struct {
	// Lost are mistakes that came to no harm, or were not made, and now get through: those that
	// the page needs to catch, and those that it caught. Won are caught now.
	Lost []DrillChanged `json:"lost"`
	Won  []DrillChanged `json:"won"`
	Was  *DrillCount    `json:"was,omitempty"`
	Now  DrillCount     `json:"now"`
}

// DrillChanged is a mistake that comes out otherwise than it did.
type DrillChanged struct {
	ID     string `json:"id"`
	Number int    `json:"number"`
	What   string `json:"what"`
	// Was and Is are its outcomes; Was is empty for one that was not made.
	Was string `json:"was"`
	Is  string `json:"is"`
}

// Change says which mistakes a revision catches no more, and which it catches now, against an
// earlier one; against is as in Redline.
func (d *Drills) Change(ctx context.Context, u *User, id, against int64) (*DrillChange, error) {
	o, _, m, err := d.shownTo(ctx, u, id)
	if err != nil {
		return nil, err
	}
	now, err := d.report(ctx, o)
	if err != nil {
		return nil, err
	}
	out := &DrillChange{Lost: []DrillChanged{}, Won: []DrillChanged{}, Now: countOf(o, now)}
	was, err := d.earlier(ctx, u, o, m, against, &Redlined{})
	if err != nil || was == nil {
		return out, err
	}
	var before *drill.Report
	if against == SinceRead { // what somebody has read is no revision, and kept by nobody
		before, err = worked(func() (*drill.Report, error) {
			return drill.Run(ctx, was.k.index, was.p, drill.Options{House: d.ruled().Drill}), nil
		})
	} else {
		before, err = d.report(ctx, was)
	}
	if err != nil {
		return nil, err
	}
	n := countOf(was, before)
	out.Was = &n
	out.between(before, now)
	return out, nil
}

func countOf(o *opened, r *drill.Report) DrillCount {
	return DrillCount{Version: o.rev.Version, Caught: r.Caught, Of: r.Of, Missed: r.Missed, Accepted: r.Accepted}
}

func (c *DrillChange) between(before, now *drill.Report) {
	had := make(map[string]*drill.Mistake, len(before.Mistakes))
	for i := range before.Mistakes {
		had[before.Mistakes[i].ID] = &before.Mistakes[i]
	}
	for i := range now.Mistakes {
		m := &now.Mistakes[i]
		b := had[m.ID]
		one := DrillChanged{ID: m.ID, Number: m.Place + 1, What: message.Capital(m.What.String()), Is: string(m.Outcome)}
		if b != nil {
			one.Was = string(b.Outcome)
		}
		switch {
		case m.Outcome.Good() && b != nil && !b.Outcome.Good():
			c.Won = append(c.Won, one)
		case !m.Outcome.Good() && m.Accepted == "" && (b != nil && b.Outcome.Good() || b == nil && m.Family.Needed()):
			c.Lost = append(c.Lost, one)
		}
	}
}

// mostPairs is how many pairs of mistakes are made at once.
const mostPairs = 400

// DrillPair is two mistakes that are noticed alone and get through together.
type DrillPair struct {
	First       string `json:"first"`
	FirstAt     int    `json:"firstAt"`
	Second      string `json:"second"`
	SecondAt    int    `json:"secondAt"`
	Outcome     string `json:"outcome"`
	Consequence string `json:"consequence"`
}

// DrillPairs are pairs of mistakes made at once.
type DrillPairs struct {
	Tried   int         `json:"tried"`
	Through []DrillPair `json:"through"`
}

// Pairs makes pairs of mistakes on a revision that are each noticed alone: the same ones every
// time.
func (d *Drills) Pairs(ctx context.Context, u *User, id int64) (*DrillPairs, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	return worked(func() (*DrillPairs, error) {
		through, tried := drill.Pairs(ctx, o.k.index, o.p, mostPairs, d.ruled().Drill)
		out := &DrillPairs{Tried: tried, Through: []DrillPair{}}
		for i := range through {
			p := &through[i]
			out.Through = append(out.Through, DrillPair{message.Capital(p.First.What.String()), p.First.Place + 1, p.Second.What.String(), p.Second.Place + 1, string(p.Outcome), p.Comes.String()})
		}
		return out, nil
	})
}
