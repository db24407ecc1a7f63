// Package adapt takes a page over to another engine code: it matches what the page
// names to the things of the other sheet, says what it could not match, and writes the
// page anew with the other sheet's values. Whatever stands as it was said of the first
// engine is listed, to be asked.
package adapt

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/page/step"
)

// None is the answer that the other engine has no such thing: what names it is left
// out.
const None = "-"

// Thing is something that a page names: a thing of the sheet, or an option.
type Thing struct {
	// List is the list of the sheet it is on, "options" for an option; ID what it is
	// called there.
	List string `json:"list"`
	ID   string `json:"id"`
	Name string `json:"name"`
	// Steps are the places of the steps that name it, from 0; none where only what
	// stands above the steps does.
	Steps []int `json:"steps"`
}

// Ref is the thing by list and id: "locks/crank-pin".
func (t *Thing) Ref() string { return t.List + "/" + t.ID }

// How says how sure a match is.
type How string

// How things are matched.
const (
	// Same things have one name and one kind on both sheets, and nothing else has it.
	Same How = "same"
	// Proposed is what follows from what else is matched; somebody has to say so.
	Proposed How = "proposed"
	// Asked is what nothing could be found for.
	Asked How = "asked"
	// Said is what somebody answered.
	Said How = "said"
)

// Pair is a thing of a page and the one it stands for on the other engine.
type Pair struct {
	Thing
	How How `json:"how"`
	// To is the thing on the other sheet, None where somebody said that it has none,
	// empty where it is asked; Becomes its name.
	To      string `json:"to,omitzero"`
	Becomes string `json:"becomes,omitzero"`
	// Why says what a match rests on; Apart in what the two differ.
	Why   string   `json:"why,omitzero"`
	Apart []string `json:"apart"`
	// Others are what it could be, the likeliest first.
	Others []Other `json:"others"`
}

// Other is a thing of the other sheet.
type Other struct {
	ID   string `json:"id"`
	Name string `json:"name"`
}

// Things are what a page names, in the order of its steps.
func Things(x *engine.Index, p *procedure.Procedure) []Thing {
	g := gathering{x: x, at: map[string]int{}}
	for i := range p.Steps {
		s := p.Steps[i]
		for _, r := range step.Refs(s.Action) {
			g.add(r.Kind.List(), r.ID, i)
		}
		for _, t := range s.Tools {
			g.add("tools", string(t), i)
		}
		for _, w := range s.Whens() {
			for _, o := range slices.Concat(w.With, w.Without) {
				g.add("options", o, i)
			}
		}
	}
	h := p.Header
	h.Prelims.Tools = unused(x, p)
	engine.Rename(&h, func(list, id string) string {
		g.add(list, id, -1)
		return id
	})
	return g.out
}

// used are the tools that the steps of a page need, in their order.
func used(x *engine.Index, p *procedure.Procedure) []engine.ToolID {
	var out []engine.ToolID
	for i := range p.Steps {
		for _, t := range p.Steps[i].ToolsUsed(x) {
			if !slices.Contains(out, t) {
				out = append(out, t)
			}
		}
	}
	return out
}

// unused are the tools a page lists above its steps that no step needs: the others
// follow from the steps.
func unused(x *engine.Index, p *procedure.Procedure) []engine.ToolID {
	all := used(x, p)
	return slices.DeleteFunc(slices.Clone(p.Prelims.Tools), func(t engine.ToolID) bool { return slices.Contains(all, t) })
}

// Matched are the pairs of Match by what they are of.
type Matched map[string]*Pair

// to is what a thing stands for on the other engine; empty for nothing.
func (m Matched) to(list, id string) string {
	if p := m[list+"/"+id]; p != nil && p.To != None {
		return p.To
	}
	return ""
}

// Open are the pairs that nobody has said anything of and that are not plain.
func Open(pairs []Pair) []string {
	var out []string
	for i := range pairs {
		if h := pairs[i].How; h == Asked || h == Proposed {
			out = append(out, pairs[i].Name)
		}
	}
	return out
}

type gathering struct {
	x   *engine.Index
	at  map[string]int
	out []Thing
}

func (g *gathering) add(list, id string, place int) {
	key := list + "/" + id
	k, ok := g.at[key]
	if !ok {
		k = len(g.out)
		g.at[key] = k
		name := id
		if n := g.x.NameOf(list, id); n != "" {
			name = n
		}
		g.out = append(g.out, Thing{List: list, ID: id, Name: name, Steps: []int{}})
	}
	if at := &g.out[k].Steps; place >= 0 && !slices.Contains(*at, place) {
		*at = append(*at, place)
	}
}

// plain is a name as it is compared: in small letters, without an article, in the
// singular.
func plain(name string) string {
	words := strings.Fields(strings.ToLower(name))
	if len(words) > 1 && words[0] == "the" {
		words = words[1:]
	}
	if n := len(words); n > 0 {
		words[n-1] = strings.TrimSuffix(words[n-1], "s")
	}
	return strings.Join(words, " ")
}
