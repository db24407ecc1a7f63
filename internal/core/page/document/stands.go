package document

import (
	"fmt"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
)

// Line is one thing the engine sheet puts on the page with a step, in words.
type Line struct {
	What string `json:"what"`
	Text string `json:"text"`
}

// The names of what the sheet puts on the page with a step.
const (
	InSentence  = "what the sheet calls it"
	InCondition = "how its threads are"
	InDangers   = "its dangers"
	InTools     = "the tools it takes"
	InTorque    = "its line in the torque table"
	InParts     = "the new parts it takes"
	InOrder     = "the order of its bolts"
	InReading   = "what is written in"
)

// Stands is all that the engine sheet makes of one step on the printed page, beside
// what its author wrote: the generated sentence, the state of the threads, dangers,
// tools, torque, new parts and the order of bolts. Two sheets that print a step alike
// give the same lines; there is a line for each thing, empty where there is nothing.
func Stands(x *engine.Index, s *step.Step) []Line {
	out := []Line{{InSentence, en.Sentence(x, s.Action)}, {InCondition, en.Condition(x, s)}}
	var dangers, used, values, fresh, order []string
	for _, h := range s.Hazards(x) {
		dangers = append(dangers, string(h))
	}
	for _, id := range s.ToolsUsed(x) {
		if t := x.Tool(id); t != nil {
			used = append(used, strings.TrimSpace(t.Number+" "+t.Name+kitOf(t)))
		}
	}
	for _, v := range s.Torques() {
		value, other := inBoth(v.Stages)
		for _, id := range v.Fasteners {
			if f := x.Fastener(id); f != nil {
				values = append(values, joined(f.Name, fmt.Sprintf("%d off", max(f.Count, 1)), threadOf(f), value, other, f.Lubricant))
			}
		}
	}
	ps, fs := s.NewParts(x)
	for _, id := range ps {
		if q := x.Part(id); q != nil {
			fresh = append(fresh, joined(q.Name, q.Number, string(q.Policy)))
		}
	}
	for _, id := range fs {
		if f := x.Fastener(id); f != nil {
			once := ""
			if f.SingleUse {
				once = "single use"
			}
			fresh = append(fresh, joined(f.Name, fmt.Sprintf("%d off", max(f.Count, 1)), once))
		}
	}
	for _, f := range figures(x, s) {
		order = append(order, fmt.Sprint(f.Name, f.Places))
	}
	add := func(what string, lines []string) { out = append(out, Line{what, strings.Join(lines, "; ")}) }
	add(InDangers, dangers)
	add(InTools, used)
	add(InTorque, values)
	add(InParts, fresh)
	add(InOrder, order)
	return append(out, Line{InReading, s.Reading()})
}

// StandsAlike reports whether two sheets print a step alike.
func StandsAlike(a, b *engine.Index, s *step.Step) bool {
	if a == b {
		return true
	}
	was, now := Stands(a, s), Stands(b, s)
	for i := range was {
		if was[i] != now[i] {
			return false
		}
	}
	return true
}

func kitOf(t *engine.Tool) string {
	if t.Kit == "" {
		return ""
	}
	return ", of kit " + t.Kit
}

// threadOf is a fastener's thread with its hand, where that is the unusual one.
func threadOf(f *engine.Fastener) string {
	if t := strings.ToLower(f.Thread); !f.LeftHand || strings.HasSuffix(t, "lh") || strings.Contains(t, "left") {
		return f.Thread
	}
	return joined(f.Thread, "left-hand")
}

// joined joins what is not empty with commas.
func joined(parts ...string) string {
	var out []string
	for _, p := range parts {
		if p != "" {
			out = append(out, p)
		}
	}
	return strings.Join(out, ", ")
}
