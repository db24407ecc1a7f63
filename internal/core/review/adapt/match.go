package adapt

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"inklatch/internal/core/engine"
)

// Match finds for each thing the one it stands for on the other sheet: by its name
// and kind, and from what is matched already by where it sits. answers are what
// somebody said, by Ref: an id of the other sheet, or None.
func Match(from, to *engine.Index, things []Thing, answers map[string]string) []Pair {
	m := matching{from: sideOf(from), to: sideOf(to), pairs: map[string]*Pair{}, taken: map[string]How{}}
	out := make([]Pair, len(things))
	for i := range things {
		out[i] = Pair{Thing: things[i], How: Asked, Apart: []string{}, Others: []Other{}}
		m.pairs[things[i].Ref()] = &out[i]
	}
	m.crank()
	for i := range out {
		m.said(&out[i], answers[out[i].Ref()])
	}
	// Everything else on the sheet is matched too where that is plain: what a page does
	// not name holds together what it does.
	m.names(append(m.from.all(), m.strange(things)...))
	for m.structure() {
	}
	for i := range out {
		p := &out[i]
		if p.To != "" && p.To != None {
			p.Becomes, p.Apart = m.to.name(p.List, p.To), m.apart(p.List, p.ID, p.To)
		}
		p.Others = m.others(p)
	}
	return out
}

type matching struct {
	from, to *side
	pairs    map[string]*Pair
	// taken is how each thing of the other sheet was matched; what somebody said keeps
	// nothing of its own name from it: two may be one there.
	taken map[string]How
}

// all are the things of a sheet.
func (s *side) all() []Thing {
	var out []Thing
	for _, l := range lists {
		for _, id := range s.ids[l] {
			out = append(out, Thing{List: l, ID: id, Name: s.name(l, id)})
		}
	}
	return out
}

// strange are the options a page speaks of that its own sheet does not have.
func (m *matching) strange(things []Thing) []Thing {
	var out []Thing
	for i := range things {
		if t := things[i]; t.List == "options" && !m.from.has(t.List, t.ID) {
			out = append(out, t)
		}
	}
	return out
}

// lists are matched in this order: what others hang on comes first.
var lists = func() []string {
	out := []string{"options"}
	for _, k := range engine.Kinds {
		out = append(out, k.List)
	}
	return out
}()

// nameOn is what a thing is called on a sheet, in the words its list has it by.
func nameOn(x *engine.Index, list, id string) string {
	switch list {
	case "options":
		return id
	case "wheels":
		if w := x.Wheel(engine.WheelID(id)); w != nil {
			return w.Name
		}
		return ""
	case "tools":
		if t := x.Tool(engine.ToolID(id)); t != nil {
			return strings.TrimSpace(t.Number + " " + t.Name)
		}
		return ""
	}
	return x.NameOf(list, id)
}

// crank is the crank of both: its id is fixed.
func (m *matching) crank() {
	if m.from.has("shafts", string(engine.CrankID)) && m.to.has("shafts", string(engine.CrankID)) {
		m.pair("shafts", string(engine.CrankID), string(engine.CrankID), Same, "The crank.")
	}
}

func (m *matching) said(p *Pair, answer string) {
	switch {
	case answer == None:
		p.How, p.To, p.Why = Said, None, ""
	case answer != "" && m.to.has(p.List, answer):
		p.How, p.To, p.Why = Said, answer, ""
		m.taken[p.List+"/"+answer] = Said
	}
}

// pair matches two things unless the first has a match, or the second stands for
// another. It reports whether it did.
func (m *matching) pair(list, id, to string, how How, why string) bool {
	ref := list + "/" + id
	p := m.pairs[ref]
	if p == nil {
		p = &Pair{Thing: Thing{List: list, ID: id}, How: Asked}
		m.pairs[ref] = p
	}
	by := m.taken[list+"/"+to]
	if id == "" || to == "" || p.To != "" || by != "" && (by != Said || how != Same) {
		return false
	}
	p.To, p.How, p.Why = to, how, why
	m.taken[list+"/"+to] = how
	return true
}

// is is what a thing is matched to; empty for nothing.
func (m *matching) is(list, id string) string { return Matched(m.pairs).to(list, id) }

// names matches what has one name and one kind, alone on both sheets.
func (m *matching) names(things []Thing) {
	for i := range things {
		t := &things[i]
		var fit []string
		for _, id := range m.to.ids[t.List] {
			if plain(m.to.name(t.List, id)) == plain(t.Name) {
				fit = append(fit, id)
			}
		}
		twins := 0
		for _, id := range m.from.ids[t.List] {
			if plain(m.from.name(t.List, id)) == plain(t.Name) {
				twins++
			}
		}
		if len(fit) != 1 || twins > 1 {
			continue
		}
		if m.from.kind(t.List, t.ID) == m.to.kind(t.List, fit[0]) {
			m.pair(t.List, t.ID, fit[0], Same, "The same name and kind.")
		} else {
			m.pair(t.List, t.ID, fit[0], Proposed, "The same name, but another kind.")
		}
	}
	// A thing of one name that sits elsewhere is no plain match.
	for _, p := range m.pairs {
		if p.How == Same && m.elsewhere(p.List, p.ID, p.To) {
			p.How, p.Why = Proposed, "The same name, but it sits elsewhere."
		}
	}
}

// elsewhere reports whether two things of one name hold, or sit on, different things,
// as far as those are matched.
func (m *matching) elsewhere(list, id, to string) bool {
	a, b := m.from.ties[list+"/"+id], m.to.ties[list+"/"+to]
	for _, t := range a {
		want := m.is(t.list, t.id)
		if want == "" {
			continue
		}
		same := func(o tie) bool { return o.is == t.is && o.list == t.list }
		if slices.ContainsFunc(b, same) && !slices.ContainsFunc(b, func(o tie) bool { return same(o) && o.id == want }) {
			return true
		}
	}
	return false
}

// structure matches by where things sit: those that are tied in the same way to what
// is matched, and are alone in that on both sheets. It reports whether it found one.
func (m *matching) structure() bool {
	found := false
	for _, list := range lists {
		for _, id := range m.from.ids[list] {
			if m.is(list, id) != "" || m.pairs[list+"/"+id] != nil && m.pairs[list+"/"+id].To == None {
				continue
			}
			to, why := m.likely(list, id)
			found = to != "" && m.pair(list, id, to, Proposed, why) || found
		}
	}
	return found
}

// likely is the one thing that is of its kind and tied to what is matched as the
// first is; empty where there is none, or several.
func (m *matching) likely(list, id string) (to, why string) {
	ties := m.from.ties[list+"/"+id]
	best, most, even := "", 0, false
	for _, o := range m.to.ids[list] {
		if m.taken[list+"/"+o] != "" || m.from.kind(list, id) != m.to.kind(list, o) {
			continue
		}
		others, n := m.to.ties[list+"/"+o], 0
		for _, t := range ties {
			if want := m.is(t.list, t.id); want != "" && slices.Contains(others, tie{t.is, t.list, want}) {
				if n++; n > most {
					why = "It " + t.is + " the " + m.to.name(t.list, want) + ", as there."
				}
			}
		}
		if n > most {
			best, most, even = o, n, false
		} else if n == most {
			even = true
		}
	}
	if best != "" && !even {
		// The first has to be alone in it as well.
		for _, o := range m.from.ids[list] {
			if o != id && m.is(list, o) == "" && m.from.kind(list, o) == m.from.kind(list, id) && m.shared(list, o, best) >= most {
				return "", ""
			}
		}
		return best, why
	}
	return m.only(list, id)
}

// shared counts the matched things that both are tied to in the same way.
func (m *matching) shared(list, id, to string) int {
	others, n := m.to.ties[list+"/"+to], 0
	for _, t := range m.from.ties[list+"/"+id] {
		if want := m.is(t.list, t.id); want != "" && slices.Contains(others, tie{t.is, t.list, want}) {
			n++
		}
	}
	return n
}

// only is the one thing of a kind that is left on the other sheet, where the first is
// the only one of it that is left here; for kinds that tell something.
func (m *matching) only(list, id string) (to, why string) {
	if !slices.Contains([]string{"shafts", "loops", "tensioners"}, list) {
		return "", ""
	}
	kind := m.from.kind(list, id)
	left := func(s *side, free func(string) bool) []string {
		var out []string
		for _, o := range s.ids[list] {
			if s.kind(list, o) == kind && free(o) {
				out = append(out, o)
			}
		}
		return out
	}
	here := left(m.from, func(o string) bool { return m.is(list, o) == "" })
	there := left(m.to, func(o string) bool { return m.taken[list+"/"+o] == "" })
	if len(here) != 1 || len(there) != 1 {
		return "", ""
	}
	return there[0], "The only one of its kind that is left: " + kind + "."
}

// others are what a thing could be: those of its list, by the words they share, then
// by their kind.
func (m *matching) others(p *Pair) []Other {
	out := []Other{}
	like := func(o string) int {
		n := 0
		for _, w := range strings.Fields(plain(p.Name)) {
			if slices.Contains(strings.Fields(plain(m.to.name(p.List, o))), w) {
				n += 2
			}
		}
		if m.from.kind(p.List, p.ID) == m.to.kind(p.List, o) {
			n++
		}
		return n + 4*m.shared(p.List, p.ID, o)
	}
	ids := slices.Clone(m.to.ids[p.List])
	slices.SortStableFunc(ids, func(a, b string) int {
		return cmp.Or(like(b)-like(a), strings.Compare(m.to.name(p.List, a), m.to.name(p.List, b)))
	})
	for _, o := range ids {
		out = append(out, Other{o, m.to.name(p.List, o)})
	}
	return out
}

// apart says in what two things that are matched differ, as far as a page minds.
func (m *matching) apart(list, id, to string) []string {
	out := []string{}
	if !m.from.has(list, id) || !m.to.has(list, to) {
		return out
	}
	add := func(what, was, is string) {
		if was != is {
			out = append(out, fmt.Sprintf("%s: %s there, %s here", what, cmp.Or(was, "nothing"), cmp.Or(is, "nothing")))
		}
	}
	add("kind", m.from.kind(list, id), m.to.kind(list, to))
	switch list {
	case "fasteners":
		a, b := m.from.x.Fastener(engine.FastenerID(id)), m.to.x.Fastener(engine.FastenerID(to))
		add("torque", engine.StagesText(a.Spec), engine.StagesText(b.Spec))
		add("number", fmt.Sprint(a.Count), fmt.Sprint(b.Count))
		add("thread", a.Thread, b.Thread)
		add("left-hand thread", yes(a.LeftHand), yes(b.LeftHand))
		add("used once", yes(a.SingleUse), yes(b.SingleUse))
		add("lubrication", a.Lubricant, b.Lubricant)
	case "locks":
		a, b := m.from.x.Lock(engine.LockID(id)), m.to.x.Lock(engine.LockID(to))
		add("carries bolt torque", yes(a.CarriesTorque), yes(b.CarriesTorque))
		add("goes in at", degrees(a.At), degrees(b.At))
		add("play", degrees(float64(a.Freedom())), degrees(float64(b.Freedom())))
		add("tool", m.from.name("tools", string(a.Tool)), m.to.name("tools", string(b.Tool)))
	case "parts":
		a, b := m.from.x.Part(engine.PartID(id)), m.to.x.Part(engine.PartID(to))
		add("is renewed", string(a.Policy), string(b.Policy))
		add("fasteners", fmt.Sprint(len(a.Held)), fmt.Sprint(len(b.Held)))
	case "loops":
		a, b := m.from.x.Loop(engine.LoopID(id)), m.to.x.Loop(engine.LoopID(to))
		add("teeth or links", fmt.Sprint(a.Teeth), fmt.Sprint(b.Teeth))
		add("wheels", fmt.Sprint(len(a.Route)), fmt.Sprint(len(b.Route)))
	case "tensioners":
		a, b := m.from.x.Tensioner(engine.TensionerID(id)), m.to.x.Tensioner(engine.TensionerID(to))
		add("is turned", string(a.Turn), string(b.Turn))
	case "wheels":
		a, b := m.from.x.Wheel(engine.WheelID(id)), m.to.x.Wheel(engine.WheelID(to))
		add("mount", string(a.Mount), string(b.Mount))
	}
	return out
}

func yes(v bool) string {
	if v {
		return "yes"
	}
	return "no"
}

func degrees(v float64) string {
	if v == 0 {
		return "0°"
	}
	return strings.TrimRight(strings.TrimRight(fmt.Sprintf("%.2f", v), "0"), ".") + "°"
}
