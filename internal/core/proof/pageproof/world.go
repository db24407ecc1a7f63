package pageproof

import (
	"math"
	"reflect"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/unit"
)

// worldRules hold the figures of a page against what happens at an engine at all.
var worldRules = finding.Family[*proving]{
	{ID: "out-of-world", Family: "wording", Severity: finding.Blocks, Reads: finding.Written, Check: outOfWorld,
		Doc: "a figure that no engine and no day has: a slip of the keys that every reader carries on"},
}

// worlds are the least and the most of a kind of quantity that work at an engine's drive
// knows, in its base unit; what lies beyond was mistyped. Common practice, no source.
var worlds = map[unit.Kind]struct {
	least, most float64
	in          unit.Unit
}{
	unit.KindTorque:      {0.1, 3000, unit.NewtonMetre},
	unit.KindAngle:       {0.05, 3600, unit.Degree},
	unit.KindLength:      {0.001, 5000, unit.Millimetre},
	unit.KindTime:        {1.0 / 60, 72 * 60, unit.Minute},
	unit.KindTemperature: {-60, 350, unit.Celsius},
	unit.KindFrequency:   {3, 2000, unit.Hertz},
	unit.KindVolume:      {0.001, 500, unit.Litre},
}

// The most turns of a crank, turns a bolt is slackened by, and readings that a step asks
// for; common practice, no source.
const (
	mostTurns    = 200
	mostSlacken  = 25
	mostReadings = 30
)

// inWorld reports whether a quantity can be one of an engine's; a kind of which nothing
// is known can.
func inWorld(q unit.Quantity) bool {
	w, ok := worlds[q.Kind()]
	if !ok || q.IsZero() && q.Unit == "" {
		return true
	}
	v, err := unit.Convert(q.Nominal(), q.Unit, w.in)
	if k := q.Kind(); k == unit.KindAngle || k == unit.KindLength {
		if v == 0 {
			return err == nil // no run-out, no play: a reading may pass at none
		}
		v = math.Abs(v)
	}
	return err == nil && !math.IsNaN(v) && v >= w.least && v <= w.most
}

// outOfWorld finds the first figure of a step that cannot be.
func outOfWorld(c *proving) {
	if c.trying {
		return // no mend puts such a figure in, or takes it out
	}
	for i := range c.Page.Steps {
		if q, ok := beyondWorld(c.Page.Steps[i].Action); ok {
			c.find(message.F("%s says %s", c.num(i), q), message.F("No work at an engine’s drive has such a figure: it is mistyped, or in another unit."), []int{i})
		}
	}
}

// beyondWorld is the first figure of an action that cannot be, as it is written.
func beyondWorld(a step.Action) (message.Text, bool) {
	v := reflect.ValueOf(a).Elem()
	for i := range v.NumField() {
		if v.Type().Field(i).PkgPath != "" {
			continue
		}
		switch f := v.Field(i).Interface().(type) {
		case unit.Quantity:
			if f.Unit != "" && !inWorld(f) {
				return message.F("%s", f), true
			}
		case []engine.Stage:
			if q, ok := stageBeyond(f); ok {
				return q, true
			}
		case []step.StagesFor:
			for k := range f {
				if q, ok := stageBeyond(f[k].Stages); ok {
					return q, true
				}
			}
		case float64:
			most := float64(mostTurns)
			if a.Verb() == "slacken" {
				most = mostSlacken
			}
			if f < 0 || f > most {
				return turns(f), true
			}
		case int:
			if f < 0 || f > mostReadings {
				return message.F("%d readings", f), true
			}
		}
	}
	return message.Text{}, false
}

func stageBeyond(stages []engine.Stage) (message.Text, bool) {
	for _, s := range stages {
		for _, q := range []unit.Quantity{s.Torque, s.Angle, s.Wait} {
			if q.Unit != "" && !inWorld(q) {
				return message.F("%s", q), true
			}
		}
	}
	return message.Text{}, false
}
