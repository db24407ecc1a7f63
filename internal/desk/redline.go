package desk

import (
	"context"

	"inklatch/internal/core/proof"
	"inklatch/internal/core/redline"
)

// Redlined is what lies between an earlier revision and one that is read.
type Redlined struct {
	Meta *Meta `json:"meta"`
	// Against is the earlier revision; absent for the first of its procedure, which
	// has nothing before it.
	Against *Sibling         `json:"against,omitempty"`
	Redline *redline.Redline `json:"redline"`
	// New are the findings that were not there before, Settled those that are no more,
	// each as its sentence.
	New     []string `json:"new"`
	Settled []string `json:"settled"`
}

// Redline draws the redline of a revision against an earlier one of its procedure:
// against 0 is the last that was released before it, or the one before where none
// was. Both must be ones that the person may read.
func (d *Desk) Redline(ctx context.Context, u *User, id, against int64) (*Redlined, error) {
	o, err := d.readable(ctx, u, id)
	if err != nil {
		return nil, err
	}
	fs := proof.Prove(o.k.index, o.p, d.house)
	m, err := d.meta(ctx, u, o, proof.Blocking(fs))
	if err != nil {
		return nil, err
	}
	out := &Redlined{Meta: m, New: []string{}, Settled: []string{}}
	now := redline.State{Index: o.k.index, Procedure: o.p}
	earlier := earlierOf(m, against)
	if earlier == nil {
		if against != 0 {
			return nil, notFound("revision of this procedure")
		}
		out.Redline = redline.Between(now, now)
		return out, nil
	}
	was, err := d.readable(ctx, u, earlier.ID)
	if err != nil {
		return nil, err
	}
	out.Against = earlier
	out.Redline = redline.Between(redline.State{Index: was.k.index, Procedure: was.p}, now)
	before := proof.Prove(was.k.index, was.p, d.house)
	out.New, out.Settled = sayings(fs, before), sayings(before, fs)
	return out, nil
}

// earlierOf is the revision that a redline is drawn against; nil where there is none.
func earlierOf(m *Meta, against int64) *Sibling {
	var best *Sibling
	for i := range m.Siblings {
		s := &m.Siblings[i]
		if against != 0 {
			if s.ID == against && s.ID != m.ID {
				return s
			}
			continue
		}
		released := func(v *Sibling) bool { return v.State == "latched" || v.State == "superseded" }
		if s.Number < m.Number && s.State != "deleted" && (best == nil || released(s) && !released(best) || released(s) == released(best) && s.Number > best.Number) {
			best = s
		}
	}
	return best
}

// sayings are the sentences of findings that are among a and not among b, by what
// they say without the numbers of their steps.
func sayings(a, b []proof.Finding) []string {
	had := map[string]int{}
	for i := range b {
		had[b[i].Rule+" "+b[i].Why]++
	}
	out := []string{}
	for i := range a {
		if a[i].Accepted != "" || a[i].Cause != "" {
			continue
		}
		key := a[i].Rule + " " + a[i].Why
		if had[key] > 0 {
			had[key]--
			continue
		}
		out = append(out, a[i].What)
	}
	return out
}
