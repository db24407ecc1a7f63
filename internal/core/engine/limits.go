package engine

// Limits are the code's own limits, in degrees.
type Limits struct {
	// CamError is the greatest cam error passed.
	CamError float64 `json:"camError,omitzero"`
	// SafeWindow is how far the crank may be turned either way with a loop off.
	SafeWindow float64 `json:"safeWindow,omitzero"`
	// Rest is the crank angle at which the cams rest without being thrown.
	Rest float64 `json:"rest,omitzero"`
	// BackOff is how far the crank may be turned backwards.
	BackOff float64 `json:"backOff,omitzero"`
	// TDC is the crank angle at which number one is at top dead centre, firing; 0
	// where that is the timing position.
	TDC float64 `json:"tdc,omitzero"`
}

// Proof says where a safety-relevant value comes from.
type Proof struct {
	Source string `json:"source"`
	// In is the document of the sheet it stands in, and Place where in it; Source says the same
	// in words.
	In    SourceID `json:"in,omitzero"`
	Place string   `json:"place,omitzero"`
	By    string   `json:"by,omitzero"`
	On    string   `json:"on,omitzero"`
}

// Hazard is a danger a step can carry; see the cautions of package step.
type Hazard string

// The hazards every page owes its reader a caution for.
const (
	HazardBattery   Hazard = "battery"
	HazardSupport   Hazard = "support"
	HazardHot       Hazard = "hot"
	HazardSpring    Hazard = "spring force"
	HazardTaper     Hazard = "taper"
	HazardBreaker   Hazard = "breaker bar"
	HazardHands     Hazard = "hands in drive"
	HazardLeftHand  Hazard = "left-hand thread"
	HazardLocksOut  Hazard = "locks out"
	HazardSealant   Hazard = "sealant"
	HazardFirstTime Hazard = "first start"
)

// Hazards are all of them.
var Hazards = []Hazard{HazardBattery, HazardSupport, HazardHot, HazardSpring, HazardTaper, HazardBreaker, HazardHands, HazardLeftHand, HazardLocksOut, HazardSealant, HazardFirstTime}
