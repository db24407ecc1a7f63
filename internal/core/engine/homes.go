package engine

import "slices"

// Direction is the sense shaft i turns in, seen from the sheet's view; empty
// for a shaft nothing drives.
func (x *Index) Direction(i int) Way {
	switch d := &x.drives[i]; {
	case !d.Driven:
		return ""
	case d.Ratio.Num < 0:
		return x.Sheet.Running.Opposite()
	}
	return x.Sheet.Running
}

// Inverse is 1/r; it panics for zero.
func (r Ratio) Inverse() Ratio { return NewRatio(r.Den, r.Num) }

// Abs is r without its sign.
func (r Ratio) Abs() Ratio { return Ratio{abs(r.Num), r.Den} }

// Part is r less its whole turns, in [0, 1): where a shaft stands that has
// turned r times.
func (r Ratio) Part() Ratio {
	n := r.Num % r.Den
	if n < 0 {
		n += r.Den
	}
	return NewRatio(n, r.Den)
}

// At is where shaft i stands after n crank turns from the timing position, in
// exact turns of its own, [0, 1).
func (x *Index) At(i int, n Ratio) Ratio {
	d := &x.drives[i]
	if !d.Driven {
		return Ratio{0, 1}
	}
	return d.Ratio.Mul(n).Part()
}

// Meets is the crank travel, in turns, from one meeting of a feature that
// repeats k times a turn of shaft i to the next, wherever the crank stands
// then: 1/(k·|ratio|). False for a shaft nothing drives or that stands still.
func (x *Index) Meets(i, k int) (Ratio, bool) {
	if i < 0 || i >= len(x.drives) {
		return Ratio{}, false
	}
	d := &x.drives[i]
	if !d.Driven || d.Ratio.Num == 0 {
		return Ratio{}, false
	}
	return d.Ratio.Abs().Mul(Ratio{int64(max(k, 1)), 1}).Inverse(), true
}

// NextHome is the first multiple of every after count n; 0 when every is 0.
func NextHome(every, n int64) int64 {
	if every < 1 {
		return 0
	}
	return (n/every + 1) * every
}

// TellsStroke reports whether something that is home every so many crank turns
// tells top dead centre firing from top dead centre exhaust: on a four-stroke
// it is home at the one and not, a turn later, at the other. A two-stroke has
// one top dead centre a cycle and nothing to tell.
func (s *Sheet) TellsStroke(every int64) bool {
	return s.Cycle == FourStroke && every > 1 && every%2 == 0
}

// IsRead reports whether something of the sheet tells how a shaft stands, or has to: it
// is the crank or a cam, a lock for position holds it, or a timing mark is on it. An
// intermediate shaft is read only where a lock holds it.
func (x *Index) IsRead(i int) bool {
	s := &x.Sheet.Shafts[i]
	if s.Kind == Crankshaft || s.Kind.IsCam() {
		return true
	}
	if slices.ContainsFunc(x.Sheet.Locks, func(l Lock) bool { return l.Kind.ForPosition() && slices.Contains(l.Holds, s.ID) }) {
		return true
	}
	if slices.ContainsFunc(x.Sheet.Readings, func(r Reading) bool { return r.Shaft == s.ID }) {
		return true
	}
	return s.Kind != Intermediate && slices.ContainsFunc(x.Sheet.Marks, func(m Mark) bool { return m.Kind == TimingMark && x.MarkShaft(&m) == s.ID })
}

// CycleHome is the number of crank turns after which every driven shaft that anybody
// reads stands as at the timing position. A shaft that only carries the drive on counts
// for nothing: a dot of an idler is read when it is laid, not at every home.
func (x *Index) CycleHome() int64 {
	n := int64(1)
	for i := range x.drives {
		if x.drives[i].Driven && x.IsRead(i) {
			n = LCM(n, x.drives[i].Ratio.HomeEvery(1))
		}
	}
	return n
}
