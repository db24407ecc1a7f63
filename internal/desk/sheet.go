package desk

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/document"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/review/redline"
	"inklatch/internal/core/virtual"
	"inklatch/internal/format/svg"
)

// Sheet is what a technician reads and prints.
type Sheet struct {
	Meta    *Meta            `json:"meta"`
	Header  procedure.Header `json:"header"`
	Code    string           `json:"code"`
	Maker   string           `json:"maker"`
	View    string           `json:"view"`
	Sides   string           `json:"sides"`
	Running string           `json:"running"`
	// Drawing is the drive with its locks in, as SVG; empty where the sheet has
	// no wheel.
	Drawing string `json:"drawing"`
	Safety  string `json:"safety"`
	// Notice says that nobody is to work by the sheet, and why; empty for a release that
	// holds. Opens and Closes say with what engine it begins and how it leaves it, empty
	// for a complete one.
	Notice string `json:"notice,omitzero"`
	Opens  string `json:"opens,omitzero"`
	Closes string `json:"closes,omitzero"`
	// Blocks are the whole sheet from top to bottom; the rows of its tables and its steps
	// are those below.
	Blocks []document.Flat `json:"blocks"`
	*document.Page
	// Picks are its tools as they are fetched, by kit.
	Picks []document.Pick `json:"picks"`
	Kept  []Kept          `json:"kept,omitzero"`
	// Since is the last release before this revision, 0 where there was none, and
	// Changes what is not as it was there, a line each.
	Since   int      `json:"since,omitzero"`
	Changes []string `json:"changes,omitempty"`
	// Anchor is the entry of the record a released sheet can be held against, and
	// Signer who signed it; both empty before release.
	Anchor string `json:"anchor,omitzero"`
	Signer string `json:"signer,omitzero"`
}

// Kept is a finding somebody accepted.
type Kept struct {
	Step   int    `json:"step"`
	Rule   string `json:"rule"`
	What   string `json:"what"`
	Reason string `json:"reason"`
}

// Sheet lays a revision out for the bench.
func (d *Drafts) Sheet(ctx context.Context, u *User, id int64) (*Sheet, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	t := o.p.Trace(o.k.index, 0, o.p.First(o.k.index.Sheet))
	rules, err := d.ruledFor(ctx, o)
	if err != nil {
		return nil, err
	}
	fs := pageproof.Findings(o.k.index, o.p, t, rules.Proof)
	m, err := d.meta(ctx, u, o, pageproof.Blocking(fs))
	if err != nil {
		return nil, err
	}
	x := o.k.index
	s := &Sheet{Meta: m, Safety: document.Safety, Header: o.p.Header, Code: x.Sheet.Code, Maker: x.Sheet.Maker, View: x.Sheet.View, Sides: x.Sheet.Sides, Running: string(x.Sheet.Running)}
	if b, err := svg.Draw(x, svg.Options{Labels: true, State: document.Held(x, t)}); err == nil {
		s.Drawing = string(b)
	}
	s.Page = document.Of(x, o.p)
	is := document.Issue{State: m.State}
	if w := m.Withdrawn; w != nil {
		is.Withdrawn = fmt.Sprintf("Withdrawn by %s, %s. Do not work by this sheet: %s", w.By, w.At.Format("2 January 2006"), w.Reason)
	}
	s.Notice, s.Opens, s.Closes = is.Standing(), s.Page.Opens(&o.p.Header), s.Page.Closes(&o.p.Header)
	if u.Units == Imperial {
		s.Swapped()
	}
	if err := d.bars(ctx, u, s, o); err != nil {
		return nil, err
	}
	anchor, err := d.store.Reads(ctx).AnchorOf(id)
	if err != nil {
		return nil, err
	}
	if anchor != nil {
		s.Anchor, s.Signer = anchor.Mark(), anchor.Signer()
	}
	for _, f := range fs {
		if f.Accepted != "" {
			s.Kept = append(s.Kept, Kept{o.p.At(f.Steps[0]) + 1, f.Rule, f.What, f.Accepted})
		}
	}
	of := s.issue(is.Withdrawn)
	if of.Kept, of.Drilled, err = d.keptMistakes(ctx, o, rules, of.Kept); err != nil {
		return nil, err
	}
	if rules.version > 0 {
		of.Rules = fmt.Sprintf("proved with version %d", rules.version)
	}
	doc := s.Page.Lay(x, o.p, t, of)
	s.Blocks = doc.Flat()
	for _, b := range doc.Blocks {
		w, ok := b.(document.Work)
		if !ok || w.Picture == nil {
			continue
		}
		v := w.Picture
		says := fmt.Sprintf("Step %d: %s", v.Step+1, v.Says)
		if b, err := svg.Draw(x, svg.Options{State: v.State, Focus: v.Wheels, Title: says, ID: fmt.Sprintf("at%d", v.Step+1)}); err == nil {
			st := s.Step(v.Step)
			st.Picture, st.Shows = string(b), v.Says
		}
	}
	if err := d.pairs(ctx, s, o, rules); err != nil {
		return nil, err
	}
	return s, d.picks(ctx, s, document.Picks(x, o.p, t), x)
}

// pairs draws, beside the steps whose author wants it, how it looks there as it should and how
// with a mistake. What cannot be made any more, or shows elsewhere, is left out.
func (d *Drafts) pairs(ctx context.Context, s *Sheet, o *opened, rules *ruled) error {
	if !slices.ContainsFunc(o.p.Steps, func(s step.Step) bool { return s.Pair != "" }) {
		return nil
	}
	r, err := d.reportUnder(ctx, o, rules)
	if err != nil {
		return err
	}
	x := o.k.index
	for i := range o.p.Steps {
		p := &o.p.Steps[i]
		m := slices.IndexFunc(r.Mistakes, func(m drill.Mistake) bool { return m.ID == p.Pair })
		if p.Pair == "" || m < 0 {
			continue
		}
		f := drill.Telling(drill.Film(x, o.p, &r.Mistakes[m]))
		if f == nil || f.Step != p.ID {
			continue
		}
		what := r.Mistakes[m].What.String()
		pair := &document.Pair{When: what, Shows: f.Says.String()}
		for _, one := range []struct {
			to    *string
			state *virtual.State
			says  string
		}{{&pair.Right, &f.Right, "as it should"}, {&pair.Wrong, &f.Wrong, "when " + what}} {
			b, err := svg.Draw(x, svg.Options{State: one.state, Focus: f.Wheels(x), Title: fmt.Sprintf("Step %d: so it looks %s", i+1, one.says), ID: fmt.Sprintf("pair%d%c", i+1, one.says[0])})
			if err != nil {
				return nil // a sheet without wheels has no mistakes of this kind
			}
			*one.to = string(b)
		}
		s.Step(i).Pair = pair
	}
	return nil
}

// picks draws where each tool goes, and adds the pictures that the house keeps of them.
func (d *Drafts) picks(ctx context.Context, s *Sheet, picks []document.Pick, x *engine.Index) error {
	numbers := []string{}
	for i := range picks {
		k := &picks[i]
		numbers = append(numbers, strings.ToLower(k.Number))
		if k.At == nil {
			continue
		}
		says := fmt.Sprintf("%s at step %d", k.At.Says, k.At.Step+1)
		if b, err := svg.Draw(x, svg.Options{State: k.At.State, Focus: k.At.Wheels, Title: says, ID: fmt.Sprintf("pick%d", i+1)}); err == nil {
			k.Picture, k.Shows = string(b), says
		}
	}
	files, err := d.store.Reads(ctx).ShelfFiles("tool", numbers)
	for i := range picks {
		for _, f := range files {
			if strings.EqualFold(f.Number, picks[i].Number) {
				picks[i].File = f.ID
			}
		}
	}
	s.Picks = picks
	return err
}

// issue is what is known of the revision beside what its author wrote.
func (s *Sheet) issue(withdrawn string) *document.Issue {
	m := s.Meta
	is := &document.Issue{
		Number: m.Number, State: m.State, Withdrawn: withdrawn, Applies: m.Applies, Reason: m.Reason, SHA256: m.SHA256,
		Anchor: s.Anchor, Signer: s.Signer, Since: s.Since, Changes: s.Changes,
	}
	for _, l := range m.Latches {
		row := document.Done{What: message.Capital(string(l.Latch)) + " latch", By: "open"}
		if l.Closed {
			row.By = "closed by " + l.By
		}
		if l.At != nil {
			row.When = l.At.Format(time.RFC3339)
		}
		is.Latches = append(is.Latches, row)
	}
	for _, k := range s.Kept {
		is.Kept = append(is.Kept, document.Done{What: fmt.Sprintf("Accepted, step %d", k.Step), By: k.What, When: k.Reason})
	}
	return is
}

// bars marks what is not as it was in the last release before a revision, where its
// reader may read that: bars at the steps, and a list.
func (d *Drafts) bars(ctx context.Context, u *User, s *Sheet, o *opened) error {
	last := earlierOf(s.Meta, 0)
	if last == nil || !latch.State(last.State).Frozen() {
		return nil
	}
	was, err := d.readable(ctx, u, last.ID)
	var refused *Problem
	if errors.As(err, &refused) {
		return nil // what somebody may not read is not told of either
	}
	if err != nil {
		return err
	}
	s.Since = last.Number
	r := redline.Between(was.state(), o.state())
	s.Changes = r.Lines()
	for _, w := range r.Rows {
		if w.Kind != redline.Same && w.Now > 0 {
			s.Step(w.Now - 1).Changed = string(w.Kind)
		}
	}
	return nil
}
