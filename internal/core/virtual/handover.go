package virtual

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// Standing is how an engine stands between two pages of one job: what is off, in
// and slack. What it does not name is on, out and tight.
type Standing struct {
	// Off are parts that are off, LoopsOff belts and chains.
	Off      []engine.PartID `json:"off,omitempty"`
	LoopsOff []engine.LoopID `json:"loopsOff,omitempty"`
	// In are locks that are in.
	In []engine.LockID `json:"in,omitempty"`
	// Onto are those of them that are stops and that the crank stands against.
	Onto []engine.LockID `json:"onto,omitempty"`
	// Slack are fasteners that are there and not tight.
	Slack []engine.FastenerID `json:"slack,omitempty"`
	// Pinned are tensioners held back by their pin, Relieved those that are slack
	// without one.
	Pinned   []engine.TensionerID `json:"pinned,omitempty"`
	Relieved []engine.TensionerID `json:"relieved,omitempty"`
	// Unproved are belts and chains that are on and tensioned, and with which nobody has
	// turned the engine yet; Drained are fluids that are out.
	Unproved []engine.LoopID  `json:"unproved,omitempty"`
	Drained  []engine.FluidID `json:"drained,omitempty"`
	// Marks are timing marks that stand.
	Marks []engine.MarkID `json:"marks,omitempty"`
}

// named is one list of a standing: how its things are, and the list of the sheet
// they are on.
type named struct {
	is, list string
	ids      []string
}

// lists are all of a standing, in the order a page says them.
func (s Standing) lists() []named {
	return []named{
		{"off", "parts", ids(s.Off)}, {"off", "loops", ids(s.LoopsOff)}, {"in", "locks", ids(s.In)}, {"met", "locks", ids(s.Onto)},
		{"slack", "fasteners", ids(s.Slack)}, {"pinned", "tensioners", ids(s.Pinned)}, {"relieved", "tensioners", ids(s.Relieved)}, {"not proved", "loops", ids(s.Unproved)}, {"drained", "fluids", ids(s.Drained)}, {"standing", "marks", ids(s.Marks)},
	}
}

// Whole reports whether everything is on, out and tight.
func (s Standing) Whole() bool {
	return !slices.ContainsFunc(s.lists(), func(n named) bool { return len(n.ids) > 0 })
}

// StandingOf is how an engine stands in a state, as far as a page can say it.
func StandingOf(x *engine.Index, st *State) Standing {
	var s Standing
	sh := x.Sheet
	for i := range sh.Parts {
		if st.Parts[i].Off && sh.Parts[i].Kind != engine.LoopPart {
			s.Off = append(s.Off, sh.Parts[i].ID)
		}
	}
	for i := range sh.Loops {
		if !st.Loops[i].On {
			s.LoopsOff = append(s.LoopsOff, sh.Loops[i].ID)
		}
	}
	for i := range sh.Locks {
		if st.Locks[i].In {
			s.In = append(s.In, sh.Locks[i].ID)
			if sh.Locks[i].Kind == engine.StopLock && st.Locks[i].Met {
				s.Onto = append(s.Onto, sh.Locks[i].ID)
			}
		}
	}
	for i := range sh.Fasteners {
		if f := st.Fasteners[i]; f.Touched && f.Stage > Out && f.Stage < Final {
			s.Slack = append(s.Slack, sh.Fasteners[i].ID)
		}
	}
	for i := range sh.Tensioners {
		if st.Dismounted(x, i) && st.Tensioners[i].Now == Relieved {
			continue // it is off, and slack by that
		}
		switch st.Tensioners[i].Now {
		case Pinned:
			s.Pinned = append(s.Pinned, sh.Tensioners[i].ID)
		case Relieved:
			s.Relieved = append(s.Relieved, sh.Tensioners[i].ID)
		}
	}
	for i := range sh.Loops {
		if l := st.Loops[i]; l.On && l.Refitted && l.Turned < wholeTurn && st.LooseTension(x, i) == "" {
			s.Unproved = append(s.Unproved, sh.Loops[i].ID)
		}
	}
	for i := range sh.Fluids {
		if st.Fluids[i].Out {
			s.Drained = append(s.Drained, sh.Fluids[i].ID)
		}
	}
	if s.Whole() {
		return s // an engine that is closed need stand nowhere
	}
	for i := range sh.Marks {
		m := &sh.Marks[i]
		if m.Kind != engine.TimingMark || !st.Found {
			continue
		}
		if k := x.ShaftAt(x.MarkShaft(m)); k >= 0 && math.Abs(engine.Wrap(st.Shafts[k]-m.At, 360)) <= hair {
			s.Marks = append(s.Marks, m.ID)
		}
	}
	return s
}

// Differs says what stands so in s and not in o, a phrase for each; name calls the
// things of each list by name.
func (s Standing) Differs(o Standing, name func(list, id string) string) []string {
	var out []string
	others := o.lists()
	for i, n := range s.lists() {
		for _, id := range n.ids {
			if !slices.Contains(others[i].ids, id) {
				out = append(out, name(n.list, id)+" "+n.is)
			}
		}
	}
	return out
}

// Says is a standing in words; name calls the things of each list by name. Empty
// where everything is on, out and tight.
func (s Standing) Says(name func(list, id string) string) string {
	var out []string
	was := ""
	for _, n := range s.lists() {
		var names []string
		for _, id := range n.ids {
			names = append(names, name(n.list, id))
		}
		switch said := strings.Join(names, ", "); {
		case said == "":
			continue
		case n.is == was:
			out[len(out)-1] += ", " + said
		default:
			out = append(out, n.is+": "+said)
		}
		was = n.is
	}
	text := strings.Join(out, "; ")
	if text == "" {
		return ""
	}
	return strings.ToUpper(text[:1]) + text[1:]
}

func ids[T ~string](list []T) []string {
	out := make([]string, len(list))
	for i, id := range list {
		out[i] = string(id)
	}
	return out
}

// Stood is an engine as a page finds it that goes on from another: as a standing
// says, found so many turns of the crank earlier than it usually is, of those at
// which the locks that are in go in, with their shafts at home: the page before
// brought them there. It is an error when they go in nowhere together, or the
// standing names what the sheet does not have; the engine then stands as near to it
// as it can.
func Stood(x *engine.Index, turns int64, s Standing) (*Machine, error) {
	if s.Whole() {
		return Found(x, turns), nil
	}
	m := NewMachine(x)
	err := m.turnTo(s, turns)
	for _, id := range s.Off {
		m.RemovePart(id)
	}
	for _, id := range s.LoopsOff {
		m.LoopOff(id)
	}
	for _, id := range s.Slack {
		m.Slacken(id, "")
	}
	for i := range x.Sheet.Tensioners {
		m.tensioners()[i] = TensionState{} // a slack bolt alone relieves nothing
		if m.cur.Dismounted(x, i) {
			m.tensioners()[i].Now = Relieved
		}
	}
	for _, id := range s.Marks {
		if mark := x.Mark(id); mark == nil {
			m.Unknown(string(id))
		} else if shaft := x.MarkShaft(mark); shaft != "" {
			m.cur.Found = true
			m.bring(shaft, mark.At)
		}
	}
	for _, id := range s.In {
		i := x.LockAt(id)
		if i < 0 {
			m.Unknown(string(id))
			continue
		}
		l := &x.Sheet.Locks[i]
		m.locks()[i] = LockState{In: true, Met: slices.Contains(s.Onto, id)}
		if s.holds(l) {
			m.cur.Found = true
			for _, h := range l.Holds {
				m.bring(h, l.At)
			}
		}
	}
	for _, id := range s.Pinned {
		m.PinTensioner(id)
	}
	for _, id := range s.Relieved {
		if i := x.TensionerAt(id); i >= 0 {
			m.tensioners()[i] = TensionState{Now: Relieved}
		} else {
			m.Unknown(string(id))
		}
	}
	for _, id := range s.Unproved {
		if i := x.LoopAt(id); i >= 0 {
			m.loops()[i].Refitted = true
		} else {
			m.Unknown(string(id))
		}
	}
	for _, id := range s.Drained {
		if i := x.FluidAt(id); i >= 0 {
			m.fluids()[i].Out = true
		} else {
			m.Unknown(string(id))
		}
	}
	for i := range m.cur.Loops {
		if m.cur.Loops[i].On && m.cur.LooseTension(x, i) != "" {
			m.loops()[i].Refitted = true // the page before laid it, and nothing has proved it
		}
	}
	for _, e := range m.events {
		if u, ok := e.(UnknownThing); ok && err == nil {
			err = fmt.Errorf("“%s” is not on the engine sheet", u.Name)
		}
	}
	m.events, m.own = nil, 0
	return m, err
}

// bring puts a shaft that nothing drives home.
func (m *Machine) bring(id engine.ShaftID, at float64) {
	i := m.Index.ShaftAt(id)
	if i < 0 || id == engine.CrankID {
		return
	}
	if d := m.Index.Drive(i); !m.follows(d) {
		m.shafts()[i] -= engine.Wrap(m.cur.Shafts[i]-at, 360)
	}
}

// home is a shaft and the angle at which a standing has it.
type home struct {
	shaft engine.ShaftID
	at    float64
}

// holds reports whether a lock that is in holds its shafts where it goes in.
func (s *Standing) holds(l *engine.Lock) bool {
	return l.Kind.ForPosition() && (l.Kind != engine.StopLock || slices.Contains(s.Onto, l.ID))
}

// homes are where the locks and marks of a standing have their shafts.
func (s *Standing) homes(x *engine.Index) []home {
	var out []home
	for _, id := range s.In {
		if l := x.Lock(id); l != nil && s.holds(l) {
			for _, h := range l.Holds {
				out = append(out, home{h, l.At})
			}
		}
	}
	for _, id := range s.Marks {
		if m := x.Mark(id); m != nil {
			if shaft := x.MarkShaft(m); shaft != "" {
				out = append(out, home{shaft, m.At})
			}
		}
	}
	return out
}

// turnTo turns the crank to where all that a standing has at home is: the usual
// place, or the one so many places earlier.
func (m *Machine) turnTo(s Standing, turns int64) error {
	x := m.Index
	homes := s.homes(x)
	at, any := float64(StartAngle), false
	if len(homes) > 0 {
		at = 0
	}
	for _, id := range s.In {
		if l := x.Lock(id); l != nil && l.Kind == engine.StopLock && !slices.Contains(s.Onto, id) {
			at = l.At - ShortBy
		}
	}
	for _, h := range homes {
		if h.shaft == engine.CrankID {
			at = h.at
		}
	}
	off := map[int]bool{}
	for _, id := range s.LoopsOff {
		off[x.LoopAt(id)] = true
	}
	for k := range max(x.CycleHome()*2, 2) {
		crank := at - 360*float64(k)
		if !m.fit(homes, off, crank) {
			continue
		}
		any = true
		if turns > 0 {
			turns--
			continue
		}
		m.standAt(crank)
		return nil
	}
	m.standAt(at)
	if !any {
		return errors.New("its locks and marks are home together at no turn of the crank")
	}
	return nil
}

func (m *Machine) standAt(crank float64) {
	m.cur.Crank = crank
	for i := range m.cur.Shafts {
		if d := m.Index.Drive(i); d.Driven {
			m.shafts()[i] = crank * d.Ratio.Float()
		}
	}
}

// fit reports whether shafts are home with the crank at an angle and some loops
// off: one that is not driven then is brought there by hand.
func (m *Machine) fit(homes []home, off map[int]bool, crank float64) bool {
	return !slices.ContainsFunc(homes, func(h home) bool {
		i := m.Index.ShaftAt(h.shaft)
		if i < 0 {
			return false
		}
		d := m.Index.Drive(i)
		if !d.Driven || slices.ContainsFunc(d.Loops, func(l int) bool { return off[l] }) {
			return false
		}
		return math.Abs(engine.Wrap(crank*d.Ratio.Float()-h.at, 360)) > markSlack
	})
}
