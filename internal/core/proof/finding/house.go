package finding

// House is the team's choice among the schools of the trade.
type House struct {
	// MinTurns is the least number of proving turns; default 2.
	MinTurns int `json:"minTurns"`
	// BackOff is how far the crank may be turned backwards, degrees, where the
	// sheet sets no limit; default 5.
	BackOff float64 `json:"backOff"`
	// TorqueOff is how far a torque or angle may be off the sheet's, percent, before it
	// blocks, where the sheet gives no tolerance; default 10.
	TorqueOff float64 `json:"torqueOff"`
	// MaxWords is the longest instruction in words; default 20.
	MaxWords int `json:"maxWords"`
	// AuthorMayEdit lets one person close the author and the editorial latch.
	AuthorMayEdit bool `json:"authorMayEdit"`
	// Severities overrides what a rule asks for: a rule of pages by its id, one of
	// engine sheets by sheet:ID.
	Severities map[string]Severity `json:"severities,omitempty"`
	// ReadingPace is how many words a minute somebody reads who weighs each of them;
	// default 150. A step that stood in view for as long counts as read.
	ReadingPace int `json:"readingPace"`
	// LastLatchReleases lets the last latch that is closed release the revision, as
	// nobody else has to be asked; without it a lead does.
	LastLatchReleases bool `json:"lastLatchReleases"`
}

// DefaultHouse is the house before anybody chooses.
func DefaultHouse() House {
	return House{MinTurns: 2, BackOff: 5, TorqueOff: 10, MaxWords: 20, ReadingPace: 150}
}
