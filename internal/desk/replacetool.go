package desk

import (
	"cmp"
	"context"
	"slices"
	"strings"
	"time"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/proof/pageproof"
	"inklatch/internal/store"
)

// ChangeThen is what proof and drill find on a page of a code once its sheet, changed, is in
// use: of a tool that comes in place of another and is looser, or tighter.
type ChangeThen struct {
	Revision int64  `json:"revision"`
	Title    string `json:"title"`
	Number   int    `json:"number"`
	State    string `json:"state"`
	// New and Settled are findings that come and go, mistakes that are missed and no more among
	// them; Blocks is set where more findings block release.
	New     []string `json:"new"`
	Settled []string `json:"settled"`
	Blocks  bool     `json:"blocks,omitzero"`
	// Unread is set where there was no time to look.
	Unread bool `json:"unread,omitzero"`
}

// looserOrTighter are the tools whose locks have another play on a sheet that was changed.
func looserOrTighter(was, now *engine.Sheet) []engine.ToolID {
	var out []engine.ToolID
	for i := range was.Locks {
		if a, b := &was.Locks[i], &now.Locks[i]; a.Freedom() != b.Freedom() && a.Tool != "" {
			out = append(out, a.Tool)
		}
	}
	return out
}

// thenOn is what comes of the change of a tool on the open and latched pages of its code.
func (d *Engines) thenOn(ctx context.Context, r store.Reads, k *known, now *engine.Index, end time.Time) ([]ChangeThen, error) {
	tools := looserOrTighter(k.sheet, now.Sheet)
	if len(tools) == 0 {
		return nil, nil
	}
	revs, err := r.Open(k.sheet.Code)
	if err != nil {
		return nil, err
	}
	var out []ChangeThen
	for i := range revs {
		o, err := d.open(r, revs[i].ID)
		if err != nil {
			return nil, err
		}
		if !slices.ContainsFunc(o.p.Steps, func(s step.Step) bool {
			return slices.ContainsFunc(s.ToolsUsed(o.k.index), func(id engine.ToolID) bool { return slices.Contains(tools, id) })
		}) {
			continue
		}
		then := ChangeThen{Revision: o.rev.ID, Title: o.p.Title, Number: o.rev.Number, State: o.rev.State, New: []string{}, Settled: []string{}}
		if then.Unread = time.Now().After(end); !then.Unread {
			if err := d.under(ctx, o, k.index, now, &then); err != nil {
				return nil, err
			}
		}
		out = append(out, then)
	}
	slices.SortFunc(out, func(a, b ChangeThen) int {
		return cmp.Or(strings.Compare(a.Title, b.Title), cmp.Compare(a.Revision, b.Revision))
	})
	return out, nil
}

// under says what is found on a page with one sheet of its code and not with another.
func (d *Engines) under(ctx context.Context, o *opened, was, now *engine.Index, then *ChangeThen) error {
	rules := d.ruled()
	_, err := worked(func() (struct{}, error) {
		a, b := pageproof.Found(was, o.p, nil, rules.Proof), pageproof.Found(now, o.p, nil, rules.Proof)
		then.New, then.Settled = openOnly(b, a), openOnly(a, b)
		then.Blocks = pageproof.Blocking(b) > pageproof.Blocking(a)
		within, cancel := context.WithTimeout(ctx, mostDrill)
		defer cancel()
		before, after := drill.Run(within, was, o.p, drill.Options{House: rules.Drill}), drill.Run(within, now, o.p, drill.Options{House: rules.Drill})
		then.New = append(then.New, missedMore(after, before)...)
		then.Settled = append(then.Settled, missedMore(before, after)...)
		return struct{}{}, nil
	})
	return err
}

// openOnly are the sentences of open findings whose subject others do not speak of.
func openOnly(fs, others []pageproof.Finding) []string {
	had := map[finding.Subject]bool{}
	for i := range others {
		had[others[i].Subject()] = true
	}
	out := []string{}
	for i := range fs {
		if fs[i].Accepted == "" && !had[fs[i].Subject()] {
			out = append(out, fs[i].What)
		}
	}
	return out
}
