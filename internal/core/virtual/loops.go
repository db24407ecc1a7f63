package virtual

import (
	"slices"

	"inklatch/internal/core/engine"
)

// LoopOff takes a belt or chain off.
func (m *Machine) LoopOff(id engine.LoopID) {
	i := m.Index.LoopAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	l := &m.Index.Sheet.Loops[i]
	if !m.cur.Loops[i].On {
		m.note(AlreadyOff{Loop: id})
		return
	}
	m.behindOthers(l, false)
	m.covered(i)
	m.shaftsFixed(i, func(s engine.ShaftID) Event { return LoopOffUnlocked{Loop: id, Shaft: s} })
	m.seated()
	m.slackEnough(l)
	for _, id := range l.Tensioners() {
		if t := m.Index.TensionerAt(id); t >= 0 && m.springy(t) {
			m.note(NotHeldBack{Loop: l.ID, Tensioner: id})
		}
	}
	for _, id := range l.Tensioners() {
		if t := m.Index.TensionerAt(id); t >= 0 && m.cur.Tensioners[t].Stop {
			m.tensioners()[t].Stop = false
		}
	}
	m.phasers(i, func(w int) { m.away()[w] = true })
	m.loops()[i] = LoopState{OffAt: m.cur.Crank, Refitted: m.cur.Loops[i].Refitted}
	m.thrown(i)
	if p := m.Index.PartAt(l.Part); p >= 0 {
		m.parts()[p] = PartState{Off: true, Touched: true}
	}
	for k := range m.cur.Paints {
		if m.cur.Paints[k].Loop == id && m.cur.Paints[k].Travel != 0 {
			claim(m, ownPaints, &m.cur.Paints)[k].Travel = 0 // a loop that is laid again has not travelled
		}
	}
}

// behindOthers notes what has to be off before a loop comes off, or is in its way when it
// goes back: a cover, another loop before it.
func (m *Machine) behindOthers(l *engine.Loop, refit bool) {
	p := m.Index.Part(l.Part)
	if p == nil {
		return
	}
	for _, id := range p.After {
		if k := m.Index.PartAt(id); k >= 0 && !m.cur.Parts[k].Off {
			m.note(InTheWay{Part: id, Refit: refit})
		}
	}
}

// springy reports whether a tensioner that is slack comes out as soon as its loop is off:
// its pin is not in, or nothing clamps it where it was pushed back.
func (m *Machine) springy(i int) bool {
	t := &m.Index.Sheet.Tensioners[i]
	switch m.cur.Tensioners[i].Now {
	case Relieved:
		return t.Pin != ""
	case Pinned:
		return t.Pin == "" && t.Method.Of().BySpring && !m.cur.clamped(m.Index, t)
	}
	return false
}

// LoopOn fits a belt or chain, leaving its slack on the run of a wheel.
func (m *Machine) LoopOn(id engine.LoopID, fresh bool, slackAt engine.WheelID) {
	i := m.Index.LoopAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	l := &m.Index.Sheet.Loops[i]
	if m.cur.Loops[i].On {
		m.note(NotOff{Loop: id})
		return
	}
	m.behindOthers(l, true)
	m.covered(i)
	m.shaftsFixed(i, func(s engine.ShaftID) Event { return LoopOnUnlocked{Loop: id, Shaft: s} })
	m.phasers(i, func(w int) {
		if m.cur.Away[w] {
			m.note(PhaserAway{Wheel: m.Index.Sheet.Wheels[w].ID, Loop: id})
		}
	})
	m.slackEnough(l)
	for _, stop := range l.Route {
		if w := m.Index.Wheel(stop.Wheel); w != nil {
			if sh := m.Index.Shaft(w.Shaft); sh != nil && m.cur.Missing(m.Index, m.Index.WheelAt(stop.Wheel)) == "" {
				if caps := m.Index.Part(sh.Part); caps != nil {
					m.capsTight(caps, func(f engine.FastenerID) { m.note(CapsLoose{Shaft: sh.ID, Loop: id, Fastener: f}) })
				}
			}
		}
	}
	if t := m.Index.Tensioner(l.Tensioner); t != nil && slackAt != "" && t.Wheel != "" && slackAt != t.Wheel && !m.slackWheel(l, slackAt) {
		m.note(SlackElsewhere{Loop: id, Wheel: slackAt, Tensioner: t.ID})
		m.jump(i)
	}
	if p := m.Index.PartAt(l.Part); p >= 0 {
		if fresh = fresh || m.cur.Parts[p].Fresh; !fresh && m.Index.Sheet.Parts[p].Policy == engine.AlwaysNew {
			m.note(OldPart{Part: l.Part, Loop: id})
		}
		m.parts()[p] = PartState{Touched: true, Fresh: fresh}
	}
	m.loops()[i] = LoopState{On: true, Refitted: true, SlackAt: slackAt, New: fresh, Copied: m.cur.Loops[i].Copied}
	m.note(Laid{Loop: id})
	m.laid(i)
}

// slackWheel reports whether one of a loop's further tensioners takes its slack at
// a wheel.
func (m *Machine) slackWheel(l *engine.Loop, id engine.WheelID) bool {
	return slices.ContainsFunc(l.Then, func(t engine.TensionerID) bool {
		v := m.Index.Tensioner(t)
		return v != nil && v.Wheel == id
	})
}

// phasers calls f for every phaser that loop i runs over.
func (m *Machine) phasers(i int, f func(wheel int)) {
	for _, stop := range m.Index.Sheet.Loops[i].Route {
		if w := m.Index.WheelAt(stop.Wheel); w >= 0 && m.Index.Sheet.Wheels[w].Mount == engine.Phaser {
			f(w)
		}
	}
}

// SetPhaser brings a phaser to its home stop.
func (m *Machine) SetPhaser(id engine.WheelID) {
	w := m.Index.WheelAt(id)
	if w < 0 || m.Index.Sheet.Wheels[w].Mount != engine.Phaser {
		m.Unknown(string(id))
		return
	}
	m.away()[w] = false
}

// shaftsFixed notes the shafts on loop i that nothing holds, as what they are met as.
func (m *Machine) shaftsFixed(i int, as func(engine.ShaftID) Event) {
	s := m.Index.Sheet
	if !m.drivesCam(i) {
		return
	}
	var on []engine.ShaftID // what the loop still, or already, hangs on
	cam := false
	for _, stop := range s.Loops[i].Route {
		w := m.Index.WheelAt(stop.Wheel)
		if w < 0 || m.cur.Missing(m.Index, w) != "" {
			continue
		}
		k := m.Index.ShaftAt(s.Wheels[w].Shaft)
		if k < 0 || (s.Shafts[k].Kind != engine.Crankshaft && !s.Shafts[k].Kind.IsCam()) {
			continue
		}
		cam = cam || s.Shafts[k].Kind.IsCam()
		if !m.Fixed(s.Shafts[k].ID) {
			on = append(on, s.Shafts[k].ID)
		}
	}
	for _, id := range on {
		if cam { // a crank that drives no cam just now is nobody's concern
			m.note(as(id))
		}
	}
}

// slackEnough notes a loop all of whose tensioners work: one that is relieved lets
// it off.
func (m *Machine) slackEnough(l *engine.Loop) {
	tight := engine.TensionerID("")
	for _, id := range l.Tensioners() {
		t := m.Index.TensionerAt(id)
		if t < 0 {
			continue
		}
		if m.cur.Tensioners[t].Slack() || m.cur.Dismounted(m.Index, t) {
			return
		}
		if tight == "" {
			tight = id
		}
	}
	if tight != "" {
		m.note(LoopTight{Loop: l.ID, Tensioner: tight})
	}
}

// PinTensioner holds a tensioner retracted with its pin.
func (m *Machine) PinTensioner(id engine.TensionerID) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.movable(i)
	m.tension(i, Pinned)
}

// springs lets a tensioner that its spring sets go, once none of its bolts clamps it any
// more; with a pin in it stays.
func (m *Machine) springs(i int) {
	t := &m.Index.Sheet.Tensioners[i]
	if m.cur.Dismounted(m.Index, i) || m.cur.clamped(m.Index, t) || m.cur.Tensioners[i].Now == Pinned && t.Pin != "" || !m.cur.Tensioners[i].Slack() {
		return
	}
	m.tensionOn(i)
	m.tension(i, Working)
}

// movable notes a tensioner whose part is off, or that its bolts still clamp. A
// tensioner whose bolts only hold its body moves with them tight.
func (m *Machine) movable(i int) {
	t := &m.Index.Sheet.Tensioners[i]
	m.coveredTensioner(t.ID)
	if m.cur.Dismounted(m.Index, i) {
		m.note(PartGone{Part: t.Part, Tensioner: t.ID})
		return
	}
	if !t.Method.Of().ByBolts {
		return
	}
	least := Final
	if t.Method.Of().BySpring || m.cur.Tensioners[i].Stop {
		least = Snug // nipped up, its spring does not move it either, nor a hand from its stop
	}
	for _, b := range t.Bolts {
		if k := m.Index.FastenerAt(b); k >= 0 && m.cur.Fasteners[k].Stage >= least {
			m.note(TensionerClamped{Tensioner: t.ID, Fastener: b})
			return
		}
	}
}

// ReleaseTensioner pulls the pin, or lets an unpinned tensioner go.
func (m *Machine) ReleaseTensioner(id engine.TensionerID) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if now := m.cur.Tensioners[i].Now; now == Working || now == Set || now == Relieved && m.Index.Sheet.Tensioners[i].Pin != "" {
		m.note(NotPinned{Tensioner: id})
	}
	m.movable(i)
	// What its bolts hold while it pushes; an arm without a pin is set with its bolt slack.
	if t := &m.Index.Sheet.Tensioners[i]; t.Method.Of().Plunger || t.Pin != "" && !t.Method.Of().ByBolts {
		for _, f := range t.Bolts {
			if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Stage < Final && m.cur.Fasteners[k].Stage > Out {
				m.note(LetGoLoose{Tensioner: id, Fastener: f})
			}
		}
	}
	m.tensionOn(i)
	m.tension(i, Working)
}

// SetTensioner brings a tensioner to its pointer, gauge or length; stop says that it
// is to its stop, which is no setting yet.
func (m *Machine) SetTensioner(id engine.TensionerID, stop bool) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	if m.cur.Tensioners[i].Now == Pinned && m.Index.Sheet.Tensioners[i].Pin != "" {
		m.note(PinStillIn{Tensioner: id})
	}
	m.movable(i)
	if m.cur.Tensioners[i].Now == Relieved && !m.cur.Tensioners[i].Stop {
		m.tensionOn(i) // on the way back from its stop it has been on
	}
	if m.Index.Sheet.Tensioners[i].Method.Of().StopFirst && !stop && !m.cur.Tensioners[i].Stop {
		m.note(StopSkipped{Tensioner: id})
	}
	was := m.cur.Tensioners[i].Stop
	m.tension(i, Set)
	m.tensioners()[i].Stop = was || stop
}

// EaseTensioner takes a tensioner back to where it leaves its loop slack: overshot, it is
// set again from there.
func (m *Machine) EaseTensioner(id engine.TensionerID) {
	i := m.Index.TensionerAt(id)
	if i < 0 {
		m.Unknown(string(id))
		return
	}
	m.movable(i)
	m.tension(i, Relieved)
}

// tension moves a tensioner.
func (m *Machine) tension(i int, to Tension) {
	if to != Relieved && to != Pinned {
		m.inOrder(i)
	}
	m.tensioners()[i] = TensionState{Now: to}
}

// inOrder notes a tensioner that comes on before another of its loop that comes on
// first.
func (m *Machine) inOrder(i int) {
	s := m.Index.Sheet
	for l := range s.Loops {
		if !m.cur.Loops[l].On || !s.Loops[l].Tensions(s.Tensioners[i].ID) {
			continue
		}
		for _, id := range s.Loops[l].Tensioners() {
			if id == s.Tensioners[i].ID {
				break
			}
			if k := m.Index.TensionerAt(id); k >= 0 && m.cur.Tensioners[k].Slack() {
				m.note(TensionOrder{Tensioner: s.Tensioners[i].ID, Before: s.Tensioners[k].ID, Loop: s.Loops[l].ID})
			}
		}
	}
}

// Slack reports whether a tensioner leaves its loop slack.
func (t TensionState) Slack() bool { return t.Now == Relieved || t.Now == Pinned }

// SlackOn reports whether something leaves a loop that is on slack: one of its
// tensioners, or a wheel of its route that is off.
func (st *State) SlackOn(x *engine.Index, loop int) bool {
	l := &x.Sheet.Loops[loop]
	for _, id := range l.Tensioners() {
		if t := x.TensionerAt(id); t >= 0 && st.Tensioners[t].Slack() {
			return true
		}
	}
	for _, stop := range l.Route {
		if w := x.Wheel(stop.Wheel); w != nil {
			if p := x.PartAt(w.Part); p >= 0 && st.Parts[p].Off {
				return true
			}
		}
	}
	return false
}

// onLoop reports whether a loop of a tensioner is on.
func (m *Machine) onLoop(i int) bool {
	s := m.Index.Sheet
	for l := range s.Loops {
		if m.cur.Loops[l].On && s.Loops[l].Tensions(s.Tensioners[i].ID) {
			return true
		}
	}
	return false
}

// tensionOn notes tension that comes on too early.
func (m *Machine) tensionOn(i int) {
	s := m.Index.Sheet
	for k := range s.Loops {
		if !s.Loops[k].Tensions(s.Tensioners[i].ID) {
			continue
		}
		m.rollersTight(k, s.Tensioners[i].ID)
		st := m.cur.Loops[k]
		switch {
		case !st.On:
			m.note(ReleasedWithoutLoop{Tensioner: s.Tensioners[i].ID, Loop: s.Loops[k].ID})
		case m.incomplete(k) != "":
			m.whole(k)
		case st.Refitted && !st.Looked && !m.stillLocked(k):
			m.note(ReleasedUnchecked{Tensioner: s.Tensioners[i].ID, Loop: s.Loops[k].ID})
		case st.Refitted && st.Looked:
			for _, id := range m.unseen(k) {
				m.note(ReleasedUnchecked{Tensioner: s.Tensioners[i].ID, Loop: s.Loops[k].ID, Shaft: id})
			}
		}
	}
}

// unseen are crank and cams on a loop that no lock holds and nobody has looked at since
// it was laid, though something in view tells how they stand.
func (m *Machine) unseen(loop int) []engine.ShaftID {
	s := m.Index.Sheet
	var out []engine.ShaftID
	for _, stop := range s.Loops[loop].Route {
		w := m.Index.Wheel(stop.Wheel)
		if w == nil || w.Teeth == 0 {
			continue
		}
		k := m.Index.ShaftAt(w.Shaft)
		if k < 0 || s.Shafts[k].Kind != engine.Crankshaft && !s.Shafts[k].Kind.IsCam() || m.cur.Loops[loop].Seen&(1<<k) != 0 || slices.Contains(out, w.Shaft) {
			continue
		}
		held := slices.ContainsFunc(s.Locks, func(l engine.Lock) bool { return m.cur.Locks[m.Index.LockAt(l.ID)].In && holds(&l, w.Shaft) })
		if !held && m.shown(k) {
			out = append(out, w.Shaft)
		}
	}
	return out
}

// shown reports whether a timing mark in view tells how a shaft stands.
func (m *Machine) shown(shaft int) bool {
	return slices.ContainsFunc(m.Index.Sheet.Marks, func(mark engine.Mark) bool {
		p, on := m.Index.PartAt(mark.Behind), m.Index.PartAt(mark.On)
		k := m.Index.ShaftAt(m.Index.MarkShaft(&mark))
		return mark.Kind == engine.TimingMark && k >= 0 && m.Index.Geared(k, shaft) && (p < 0 || m.cur.Parts[p].Off) && (on < 0 || !m.cur.Parts[on].Off) && m.listed(mark.Wheel) == ""
	})
}

// rollersTight notes rollers and rails of a loop whose bolts are not tight when its
// tension comes on.
func (m *Machine) rollersTight(loop int, by engine.TensionerID) {
	s := m.Index.Sheet
	for _, stop := range s.Loops[loop].Route {
		w := m.Index.Wheel(stop.Wheel)
		if w == nil || w.Shaft != "" {
			continue
		}
		p := m.Index.Part(w.Part)
		own := slices.ContainsFunc(s.Tensioners, func(t engine.Tensioner) bool { return t.Wheel == w.ID || t.Part != "" && t.Part == w.Part })
		if p == nil || own || m.cur.Parts[m.Index.PartAt(p.ID)].Off {
			continue
		}
		for _, f := range p.Held {
			if k := m.Index.FastenerAt(f); k >= 0 && m.cur.Fasteners[k].Touched && m.cur.Fasteners[k].Stage > Out && m.cur.Fasteners[k].Stage < Snug {
				m.note(LetGoLoose{Tensioner: by, Fastener: f, Part: p.ID})
			}
		}
	}
}

// stillLocked reports whether every cam and the crank on a loop are held.
func (m *Machine) stillLocked(loop int) bool {
	s := m.Index.Sheet
	for _, stop := range s.Loops[loop].Route {
		w := m.Index.Wheel(stop.Wheel)
		if w == nil {
			continue
		}
		k := m.Index.ShaftAt(w.Shaft)
		if k >= 0 && (s.Shafts[k].Kind == engine.Crankshaft || s.Shafts[k].Kind.IsCam()) && !m.Fixed(w.Shaft) {
			return false
		}
	}
	return true
}
