package desk

import (
	"inklatch/internal/core/bolt"
	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// ConvertAsk asks what a value is in the other units of the trade.
type ConvertAsk struct {
	Value string `json:"value"`
}

// Converted is a value in one unit: as it is, with its tolerance, and for a torque as it can be
// set on a wrench, where that is another figure.
type Converted struct {
	Is  string `json:"is"`
	Set string `json:"set"`
}

// ConvertAnswer is a value in every unit of its kind, its own first.
type ConvertAnswer struct {
	Kind string      `json:"kind"`
	Same []Converted `json:"same"`
}

// ConvertOf answers a ConvertAsk.
func ConvertOf(a ConvertAsk) (*ConvertAnswer, error) {
	if err := holdText(a.Value, "value", 100); err != nil {
		return nil, err
	}
	q, err := unit.Judge(unit.Bare(a.Value, unit.NewtonMetre))
	if err != nil {
		return nil, bad("value", fullStop(err.Error()))
	}
	out := &ConvertAnswer{Kind: q.Kind().String(), Same: []Converted{}}
	low, high, torque := bolt.Ends(q)
	for _, u := range append([]unit.Unit{q.Unit}, q.Kind().Units()...) {
		if u == q.Unit && len(out.Same) > 0 {
			continue
		}
		in, err := q.First().In(u)
		if err != nil {
			return nil, bad("value", fullStop(err.Error()))
		}
		c := Converted{Is: in.String()}
		if torque && low > 0 {
			if set := tool.SetIn(low, high, u); in.Range || set.Value != in.Value {
				c.Set = set.String()
			}
		}
		out.Same = append(out.Same, c)
	}
	return out, nil
}
