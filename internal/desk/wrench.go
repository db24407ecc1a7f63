package desk

import (
	"inklatch/internal/core/bolt"
	"inklatch/internal/core/message"
	"inklatch/internal/core/tool"
	"inklatch/internal/core/unit"
)

// WrenchAsk asks what a wrench is set to.
type WrenchAsk struct {
	// Torque is the value for the bolt, with its unit; a bare figure is newton metres.
	Torque string `json:"torque"`
	// Length is from the middle of the grip to the square, Reach from there to the bolt, mm,
	// and Angle between the two, degrees; Reach 0 for no adapter.
	Length float64 `json:"length"`
	Reach  float64 `json:"reach"`
	Angle  float64 `json:"angle"`
	// Ratio and Efficiency are a multiplier's; Ratio 0 for none.
	Ratio      float64 `json:"ratio"`
	Efficiency float64 `json:"efficiency"`
	// Full is the wrench's full scale, N·m; 0 where it does not matter.
	Full float64 `json:"full"`
}

// WrenchAnswer is what the wrench is set to, as it can be set in each unit.
type WrenchAnswer struct {
	// Set are the settings, “88.5 lbf·in”, each within the tolerance of the value.
	Set []string `json:"set"`
	// Gives is what comes to the bolt for what the wrench shows.
	Gives float64 `json:"gives"`
	// Trouble is why the wrench does not do it, empty where it does.
	Trouble string `json:"trouble"`
}

// WrenchOf answers a WrenchAsk.
func WrenchOf(a WrenchAsk) (*WrenchAnswer, error) {
	q, err := unit.Parse(unit.Bare(a.Torque, unit.NewtonMetre))
	if err != nil {
		return nil, bad("torque", fullStop(err.Error()))
	}
	low, high, ok := bolt.Ends(q)
	if !ok || low <= 0 || high > 10_000 {
		return nil, bad("torque", "A torque lies between 0 and 10 000 N·m.")
	}
	for field, v := range map[string]float64{"length": a.Length, "reach": a.Reach, "full": a.Full} {
		if !(v >= 0) || v > 20_000 {
			return nil, bad(field, "This lies between 0 and 20 000.")
		}
	}
	if !(a.Angle >= -180 && a.Angle <= 180) {
		return nil, bad("angle", "An adapter stands between −180° and 180° to its wrench.")
	}
	m := tool.Multiplier{Ratio: a.Ratio, Efficiency: a.Efficiency}
	if a.Ratio == 0 {
		m = tool.Multiplier{}
	}
	mid := (low + high) / 2
	set, err := tool.Setting(mid, unit.Length(a.Length), tool.Adapter{Reach: unit.Length(a.Reach), Angle: unit.Angle(a.Angle)}, m)
	if err != nil {
		return nil, bad(map[error]string{tool.ErrLength: "length", tool.ErrBack: "angle", tool.ErrMultiplier: "ratio"}[err], fullStop(message.Capital(err.Error())))
	}
	by := set / mid
	out := &WrenchAnswer{Set: []string{}, Gives: float64(1 / by)}
	for _, u := range []unit.Unit{unit.NewtonMetre, unit.PoundForceFoot, unit.PoundForceInch} {
		out.Set = append(out.Set, tool.SetIn(low*by, high*by, u).String())
	}
	if a.Full > 0 {
		if err := tool.Reach(set, unit.Torque(a.Full)); err != nil {
			out.Trouble = err.Error()
		}
	}
	return out, nil
}
