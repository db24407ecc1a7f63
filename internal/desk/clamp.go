package desk

import (
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

// ClampAsk asks what a torque does to a bolt.
type ClampAsk struct {
	// Thread and Class are as they are written: M10, 10.9; no class for the strongest.
	Thread string `json:"thread"`
	Class  string `json:"class"`
	// Lubrication is the state of thread and head; empty where nobody says.
	Lubrication string `json:"lubrication"`
	// Torque is a value with its unit; a bare figure is newton metres. Across is the width
	// across flats, mm, 0 for the usual one.
	Torque string  `json:"torque"`
	Across float64 `json:"across"`
}

// Ends are the two ends of a band, the lesser first.
type Ends struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// ClampAnswer is the clamp load of a torque and how far it takes the bolt. Loads are kN,
// torques N·m.
type ClampAnswer struct {
	Thread   string  `json:"thread"`
	Area     float64 `json:"area"`
	Class    string  `json:"class"`
	Friction Ends    `json:"friction"`
	K        Ends    `json:"k"`
	Torque   float64 `json:"torque"`
	Clamp    Ends    `json:"clamp"`
	OfYield  Ends    `json:"ofYield"`
	Yields   Ends    `json:"yields"`
	Breaks   Ends    `json:"breaks"`
	Proof    float64 `json:"proof"`
	// YieldLoad is the load at which it yields, at the greatest friction and at the least.
	YieldLoad Ends         `json:"yieldLoad"`
	Verdict   bolt.Verdict `json:"verdict"`
	// Meant are values that may have been meant where the verdict is against it.
	Meant []string `json:"meant"`
}

// ClampOf answers a ClampAsk.
func ClampOf(a ClampAsk) (*ClampAnswer, error) {
	th, err := bolt.Parse(a.Thread)
	if err != nil {
		return nil, bad("thread", fullStop(err.Error()))
	}
	class, ok := bolt.ClassOf(a.Class, th)
	switch {
	case !ok && strings.TrimSpace(a.Class) != "":
		return nil, bad("class", "“"+a.Class+"” is no property class: "+strings.Join(bolt.Names(), ", ")+".")
	case !ok:
		class = bolt.Strongest
	}
	q, err := unit.Parse(unit.Bare(a.Torque, unit.NewtonMetre))
	if err != nil {
		return nil, bad("torque", fullStop(err.Error()))
	}
	low, high, ok := bolt.Ends(q)
	if !ok || low < 0 || high > 10_000 {
		return nil, bad("torque", "A torque lies between 0 and 10 000 N·m.")
	}
	if !(a.Across >= 0) || a.Across > 200 {
		return nil, bad("across", "A head is between 0 and 200 mm across flats.")
	}
	b := bolt.Bolt{Thread: th, Class: class, Friction: bolt.FrictionOf(a.Lubrication), Across: unit.Length(a.Across)}
	out := &ClampAnswer{
		Thread: th.String(), Area: float64(th.StressArea()), Class: class.Name, Friction: endsOf(b.Friction), K: Ends{b.K(b.Friction.Low), b.K(b.Friction.High)},
		Torque: float64(low+high) / 2, Clamp: kilo(bolt.Band[unit.Force]{Low: b.Clamp(low).Low, High: b.Clamp(high).High}), OfYield: Ends{b.OfYield(low).Low, b.OfYield(high).High},
		Yields: endsOf(b.Yields()), Breaks: endsOf(b.Breaks()), Proof: float64(b.ProofLoad()) / 1000, YieldLoad: kilo(b.YieldLoad()),
		Verdict: b.Judge(low, high, false), Meant: []string{},
	}
	if out.Verdict != bolt.Fine {
		for _, s := range b.Slips(q) {
			out.Meant = append(out.Meant, s.String())
		}
	}
	return out, nil
}

func endsOf[T ~float64](b bolt.Band[T]) Ends { return Ends{float64(b.Low), float64(b.High)} }

func kilo(b bolt.Band[unit.Force]) Ends { return Ends{float64(b.Low) / 1000, float64(b.High) / 1000} }
