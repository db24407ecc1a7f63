package engine

import (
	"encoding/json"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/unit"
)

// CaseLine is a case as people write it, a line for each part; empty stands for
// all.
type CaseLine struct {
	// Years and Builds are ranges: "2019–2021", "2023–", "–500".
	Years  string `json:"years"`
	Builds string `json:"builds"`
	// With and Without are options with commas between.
	With    string `json:"with"`
	Without string `json:"without"`
	// Then is what holds: the stages of a fastener, "42 N·m", values by their
	// field, "play 0.4, tool tl-3", or "not fitted".
	Then string `json:"then"`
	// Says is the case in words.
	Says string `json:"says"`
}

// Lines writes the cases of a variation.
func (v *Variation) Lines() []CaseLine {
	out := []CaseLine{}
	for i := range v.Cases {
		c := &v.Cases[i]
		out = append(out, CaseLine{
			rangeText(c.When.Years.From, c.When.Years.To), rangeText(c.When.Builds.From, c.When.Builds.To),
			strings.Join(c.When.With, ", "), strings.Join(c.When.Without, ", "), v.thenText(c), c.When.String(),
		})
	}
	return out
}

func rangeText(from, to int) string {
	if from == 0 && to == 0 {
		return ""
	}
	part := func(n int) string {
		if n == 0 {
			return ""
		}
		return strconv.Itoa(n)
	}
	return part(from) + "–" + part(to)
}

// notFitted is how a case says that the thing is not there.
const notFitted = "not fitted"

func (v *Variation) thenText(c *Case) string {
	if c.Unfitted {
		return notFitted
	}
	if raw, ok := c.Set["spec"]; ok && strings.HasPrefix(v.Of, "fasteners/") {
		var stages []Stage
		if json.Unmarshal(raw, &stages) == nil {
			return StagesText(stages)
		}
	}
	var parts []string
	for _, k := range slices.Sorted(keysOf(c.Set)) {
		word := string(c.Set[k])
		var s string
		if json.Unmarshal(c.Set[k], &s) == nil {
			word = s
		}
		parts = append(parts, k+" "+word)
	}
	return strings.Join(parts, ", ")
}

func keysOf(m map[string]json.RawMessage) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

// FirstCases are two cases to start from for a thing of the sheet: the first
// half of the years, and the rest. A code that is still made is cut after its
// fourth year, to be typed over.
func FirstCases(s *Sheet) []Case {
	last := s.Years.To
	if last == 0 {
		last = s.Years.From + 7
	}
	mid := max(s.Years.From, min(last-1, (s.Years.From+last)/2))
	return []Case{
		{When: When{Years: Years{From: s.Years.From, To: mid}}, Set: map[string]json.RawMessage{}},
		{When: When{Years: Years{From: mid + 1, To: s.Years.To}}, Set: map[string]json.RawMessage{}},
	}
}

// caseWritten reads the parts of cases that were written as lines; of is the
// thing they are of.
func caseWritten(path, of string, value any) error {
	cases, _ := value.([]any)
	for i, v := range cases {
		c, ok := v.(object)
		if !ok {
			continue
		}
		when, ok := c["when"].(object)
		if !ok {
			when = object{}
			c["when"] = when
		}
		for _, k := range []string{"years", "builds"} {
			if line, ok := when[k].(string); ok {
				r, err := rangeOf(line)
				if err != nil {
					return &EditError{path, fmt.Sprintf("case %d: %v", i+1, err)}
				}
				put(when, k, r)
			}
		}
		for _, k := range []string{"with", "without"} {
			if line, ok := when[k].(string); ok {
				put(when, k, listOf(line))
			}
		}
		if line, ok := c["set"].(string); ok {
			delete(c, "unfitted")
			if strings.EqualFold(strings.TrimSpace(line), notFitted) {
				c["set"], c["unfitted"] = object{}, true
				continue
			}
			set, err := thenOf(of, line)
			if err != nil {
				return &EditError{path, fmt.Sprintf("case %d: %v", i+1, err)}
			}
			c["set"] = set
		}
	}
	return nil
}

func put(o object, k string, v any) {
	if reflect.ValueOf(v).Len() == 0 {
		delete(o, k)
		return
	}
	o[k] = v
}

func listOf(line string) []any {
	out := []any{}
	for p := range strings.SplitSeq(line, ",") {
		if p = strings.TrimSpace(p); p != "" {
			out = append(out, p)
		}
	}
	return out
}

// rangeOf reads a closed range; an empty line is no range.
func rangeOf(line string) (object, error) {
	out := object{}
	line = strings.TrimSpace(line)
	if line == "" {
		return out, nil
	}
	from, to, ok := strings.Cut(strings.NewReplacer("—", "–", "-", "–", " to ", "–").Replace(line), "–")
	if !ok {
		to = from
	}
	for _, p := range []struct{ key, text string }{{"from", from}, {"to", to}} {
		text := strings.TrimSpace(p.text)
		if text == "" {
			continue
		}
		n, err := strconv.Atoi(text)
		if err != nil || n < 1 {
			return nil, fmt.Errorf("“%s” is no range; write 2019–2021, 2023– or –500", line)
		}
		out[p.key] = float64(n)
	}
	if a, b := out["from"], out["to"]; a != nil && b != nil && a.(float64) > b.(float64) {
		return nil, fmt.Errorf("“%s” ends before it begins", line)
	}
	return out, nil
}

// thenOf reads what holds in a case of a thing.
func thenOf(of, line string) (object, error) {
	out := object{}
	line = strings.TrimSpace(line)
	if line == "" {
		return out, nil
	}
	list, _, _ := strings.Cut(of, "/")
	if list == "fasteners" {
		if stages, err := ParseStages(unit.Bare(line, unit.NewtonMetre)); err == nil {
			return object{"spec": again(stages)}, nil
		}
	}
	fields := fieldsOf(list)
	for _, p := range listOf(line) {
		key, word, _ := strings.Cut(p.(string), " ")
		if !slices.Contains(fields, key) {
			return nil, fmt.Errorf("“%s” is no value of it; it has %s", key, strings.Join(fields, ", "))
		}
		word = strings.TrimSpace(word)
		if word == "" {
			return nil, fmt.Errorf("“%s” needs its value behind it", key)
		}
		var v any
		if err := json.Unmarshal([]byte(word), &v); err != nil {
			v = word
		}
		out[key] = v
	}
	return out, nil
}

// fieldsOf are the names of the values a thing of a list has, but for its id and
// name.
func fieldsOf(list string) []string {
	t := reflect.TypeFor[Sheet]()
	for i := range t.NumField() {
		if name, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ","); name != list || t.Field(i).Type.Kind() != reflect.Slice {
			continue
		}
		var out []string
		e := t.Field(i).Type.Elem()
		for k := range e.NumField() {
			if name, _, _ := strings.Cut(e.Field(k).Tag.Get("json"), ","); name != "" && name != "id" && name != "name" {
				out = append(out, name)
			}
		}
		return out
	}
	return nil
}
