package finding

// House is what a house chooses of what is found in pages and sheets: its schools, its limits
// and what its rules weigh.
type House struct {
	// Backwards is whether the crank may be turned backwards at all.
	Backwards Backwards `json:"backwards"`
	// BackOff is how far it may be, degrees of the crank, where the sheet sets no limit;
	// default 5.
	BackOff float64 `json:"backOff"`
	// Meeting is how the crank comes to a stop, PassBy how far it may be turned back onto
	// one, degrees of the crank, where it is passed first; default 30.
	Meeting Meeting `json:"meeting"`
	PassBy  float64 `json:"passBy"`
	// Sprockets is how wheels that can float stand while a loop is laid.
	Sprockets Sprockets `json:"sprockets"`
	// MinTurns is the least number of proving turns; default 2. ThenTurns is how many more
	// follow after what is checked there, 0 for none.
	MinTurns  int `json:"minTurns"`
	ThenTurns int `json:"thenTurns"`
	// Evidence is what proves where a shaft stands.
	Evidence Evidence `json:"evidence"`
	// CrankHold is what holds the crank against its own bolt.
	CrankHold CrankHold `json:"crankHold"`
	// Rollers is when tensioners and rollers on a route are renewed.
	Rollers Rollers `json:"rollers"`
	// TakingOff is what keeps the timing while a loop comes off.
	TakingOff TakingOff `json:"takingOff"`
	// FirstLook is how an engine is looked at before it is closed up.
	FirstLook FirstLook `json:"firstLook"`
	// UsedBelt is whether a belt that has run goes back.
	UsedBelt UsedBelt `json:"usedBelt"`
	// TorqueOff is how far a torque or angle may be off the sheet's, percent, before it
	// blocks, where the sheet gives no tolerance; default 10.
	TorqueOff float64 `json:"torqueOff"`
	// MaxWords is the longest instruction in words; default 20. Vague are words and phrases
	// that leave an instruction to whoever reads it; none until a house lists them.
	MaxWords int      `json:"maxWords"`
	Vague    []string `json:"vague,omitempty"`
	// Severities overrides what a rule asks for: a rule of pages by its id, one of
	// engine sheets by sheet:ID.
	Severities map[string]Severity `json:"severities,omitempty"`
}

// Backwards is a school of turning the crank backwards.
type Backwards string

// The schools of turning backwards.
const (
	// AFewDegrees allows the limit.
	AFewDegrees Backwards = "a few degrees"
	// NeverBackwards allows none.
	NeverBackwards Backwards = "never"
)

// Choices are the schools, the default first.
func (Backwards) Choices() []string { return []string{string(AFewDegrees), string(NeverBackwards)} }

// Meeting is a school of coming to a stop.
type Meeting string

// The schools of meeting a stop.
const (
	// ComeUp comes up to it in running direction.
	ComeUp Meeting = "come up to it"
	// PassAndBack passes it, fits it and turns back onto it.
	PassAndBack Meeting = "pass it and turn back"
)

// Choices are the schools, the default first.
func (Meeting) Choices() []string { return []string{string(ComeUp), string(PassAndBack)} }

// Sprockets is a school of how wheels stand while a loop is laid.
type Sprockets string

// The schools of sprockets while fitting.
const (
	// AsWritten leaves it to each page.
	AsWritten Sprockets = "as the page says"
	// Floated has every wheel free that can be.
	Floated Sprockets = "floating"
	// Clamped has none free.
	Clamped Sprockets = "clamped"
)

// Choices are the schools, the default first.
func (Sprockets) Choices() []string {
	return []string{string(AsWritten), string(Floated), string(Clamped)}
}

// Evidence is a school of what proves timing.
type Evidence string

// The schools of evidence.
const (
	// ByLocks has locks refitted where the code has them, marks as a second look.
	ByLocks Evidence = "locks"
	// ByMarks takes marks alone.
	ByMarks Evidence = "marks"
)

// Choices are the schools, the default first.
func (Evidence) Choices() []string { return []string{string(ByLocks), string(ByMarks)} }

// CrankHold is a school of holding the crank against its bolt.
type CrankHold string

// The schools of holding.
const (
	// LockOrHolder takes either.
	LockOrHolder CrankHold = "flywheel lock or holder"
	// LockOnly takes the flywheel lock.
	LockOnly CrankHold = "flywheel lock"
	// HolderOnly takes a holder at the pulley.
	HolderOnly CrankHold = "pulley holder"
	// GunToSlacken cracks the bolt with an impact gun and holds it for its torque.
	GunToSlacken CrankHold = "impact gun to slacken"
)

// Choices are the schools, the default first.
func (CrankHold) Choices() []string {
	return []string{string(LockOrHolder), string(LockOnly), string(HolderOnly), string(GunToSlacken)}
}

// Rollers is a school of renewing what a loop runs over.
type Rollers string

// The schools of tensioners and rollers.
const (
	// BySheet renews what the sheet says is always new, and looks at the rest.
	BySheet Rollers = "as the sheet says"
	// AlwaysRenewed renews all with the loop.
	AlwaysRenewed Rollers = "always renew"
	// IfWorn renews what is found worn.
	IfWorn Rollers = "renew if found worn"
)

// Choices are the schools, the default first.
func (Rollers) Choices() []string {
	return []string{string(BySheet), string(AlwaysRenewed), string(IfWorn)}
}

// TakingOff is a school of what keeps the timing while a loop comes off.
type TakingOff string

// The schools of taking off.
const (
	// WithLocks locks what can be locked.
	WithLocks TakingOff = "lock"
	// WithPaint paints and does not move.
	WithPaint TakingOff = "paint and do not move"
)

// Choices are the schools, the default first.
func (TakingOff) Choices() []string { return []string{string(WithLocks), string(WithPaint)} }

// FirstLook is a school of looking before an engine is closed up.
type FirstLook string

// The schools of a first look.
const (
	// ByHand turns it by hand only.
	ByHand FirstLook = "hand turns only"
	// BriefStart starts it briefly with covers off.
	BriefStart FirstLook = "brief start with covers off"
)

// Choices are the schools, the default first.
func (FirstLook) Choices() []string { return []string{string(ByHand), string(BriefStart)} }

// UsedBelt is a school of belts that have run.
type UsedBelt string

// The schools of used belts.
const (
	// MayGoBack lets one go back where its sheet does.
	MayGoBack UsedBelt = "may go back"
	// NeverBack renews every belt that comes off.
	NeverBack UsedBelt = "never"
)

// Choices are the schools, the default first.
func (UsedBelt) Choices() []string { return []string{string(MayGoBack), string(NeverBack)} }

// DefaultHouse is the house before anybody chooses.
func DefaultHouse() House {
	return House{
		Backwards: AFewDegrees, BackOff: 5, Meeting: ComeUp, PassBy: 30, Sprockets: AsWritten, MinTurns: 2, Evidence: ByLocks, CrankHold: LockOrHolder,
		Rollers: BySheet, TakingOff: WithLocks, FirstLook: ByHand, UsedBelt: MayGoBack, TorqueOff: 10, MaxWords: 20,
	}
}
