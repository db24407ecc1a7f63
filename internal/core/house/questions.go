package house

import (
	"fmt"

	"inklatch/internal/core/proof/finding"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/core/unit"
)

// Choice is one school.
type Choice struct {
	ID string `json:"id"`
	// Why is its reason, as those say who choose it.
	Why string `json:"why"`
}

// Question is something practitioners answer in more ways than one, or a house in its own. The
// schools and their reasons are common practice, no source.
type Question struct {
	// ID is its name in the JSON of rules.
	ID      string   `json:"id"`
	Asks    string   `json:"asks"`
	Choices []Choice `json:"choices"`
	// Team is set for those of who signs, rather than of the work.
	Team bool `json:"team,omitzero"`
	of   func(*Rules) string
}

// Questions are what a house is asked, the default choice of each first.
var Questions = []Question{
	{"backwards", "Turning the crank backwards", []Choice{
		{string(finding.AFewDegrees), "A few degrees seat a mark or a pin, and slack is taken back by as little."},
		{string(finding.NeverBackwards), "Slack moves to the wrong run and a tooth can jump: what is passed is come round to again."},
	}, false, func(r *Rules) string { return string(r.Proof.Backwards) }},
	{"meeting", "Meeting the crank pin", []Choice{
		{string(finding.ComeUp), "The pulling run stays tight, and nothing is turned backwards."},
		{string(finding.PassAndBack), "The pin is fitted where there is room for it, and the crank rests on it without a wrench."},
	}, false, func(r *Rules) string { return string(r.Proof.Meeting) }},
	{"sprockets", "Sprockets while a belt or chain is laid", []Choice{
		{string(finding.AsWritten), "The engine decides: each page says it."},
		{string(finding.Floated), "Floating cancels the tolerance of belt and tools: a sprocket that can float is free."},
		{string(finding.Clamped), "What is clamped cannot slip: marks and keys place it."},
	}, false, func(r *Rules) string { return string(r.Proof.Sprockets) }},
	{"evidence", "What proves the timing", []Choice{
		{string(finding.ByLocks), "A tool that goes in shows less than a mark does: locks where the code has them, marks as a second look."},
		{string(finding.ByMarks), "Tools are not in every workshop, and the maker's marks are meant to be read."},
	}, false, func(r *Rules) string { return string(r.Proof.Evidence) }},
	{"crankHold", "Holding the crank against its bolt", []Choice{
		{string(finding.LockOrHolder), "Either takes the torque at the shaft itself."},
		{string(finding.LockOnly), "The flywheel has the longest arm, and nothing is strained at the pulley."},
		{string(finding.HolderOnly), "The pulley is within reach, and no tool is forgotten behind the engine."},
		{string(finding.GunToSlacken), "The gun cracks the bolt before anything can turn. It has no torque value: tightened is with a hold."},
	}, false, func(r *Rules) string { return string(r.Proof.CrankHold) }},
	{"rollers", "Old tensioners and rollers", []Choice{
		{string(finding.BySheet), "The maker's policy stands on the sheet, part by part."},
		{string(finding.AlwaysRenewed), "They are as old as the belt, and the work to reach them is done."},
		{string(finding.IfWorn), "What runs quietly and without play has life left."},
	}, false, func(r *Rules) string { return string(r.Proof.Rollers) }},
	{"takingOff", "Taking a belt or chain off", []Choice{
		{string(finding.WithLocks), "What is locked cannot be thrown: paint is a second look."},
		{string(finding.WithPaint), "Painted and not moved is enough where nothing presses on a cam. A cam that the springs throw is found all the same."},
	}, false, func(r *Rules) string { return string(r.Proof.TakingOff) }},
	{"firstLook", "First look before closing up", []Choice{
		{string(finding.ByHand), "A start with parts open needs hands away from what runs: turned by hand nothing can happen."},
		{string(finding.BriefStart), "The tensioner is seen at work. The step has a caution, and is brief."},
	}, false, func(r *Rules) string { return string(r.Proof.FirstLook) }},
	{"usedBelt", "A belt that has run", []Choice{
		{string(finding.MayGoBack), "Where its sheet lets it, and in its old running direction."},
		{string(finding.NeverBack), "A new one costs less than the work to renew it later."},
	}, false, func(r *Rules) string { return string(r.Proof.UsedBelt) }},
	{"bench", "The bench latch", []Choice{
		{string(latch.BenchWhenWorkChanged), "What is done at the engine is new or changed: somebody has been at one."},
		{string(latch.BenchAlways), "Words mislead hands too."},
		{string(latch.BenchNever), "There is no bench here; the virtual engine and the editors have to do."},
	}, true, func(r *Rules) string { return string(r.Latches.Bench) }},
	{"editorial", "The editorial latch", []Choice{
		{string(latch.EditorialAlways), "Somebody reads it for its words alone."},
		{string(latch.EditorialNever), "Nobody here edits for words; the technical editor reads it all."},
	}, true, func(r *Rules) string { return string(r.Latches.Editorial) }},
}

// Limit is a number a house sets.
type Limit struct {
	// ID is its name in the JSON of rules.
	ID   string `json:"id"`
	Says string `json:"says"`
	Unit string `json:"unit"`
	// Least and Most are its bounds; Whole is set where it is counted.
	Least float64 `json:"least"`
	Most  float64 `json:"most"`
	Whole bool    `json:"whole,omitzero"`
	Why   string  `json:"why"`
	of    func(*Rules) float64
}

func (l *Limit) bounds() string {
	s := fmt.Sprintf("From %s to %s %s.", unit.Number(l.Least), unit.Number(l.Most), l.Unit)
	if l.Whole {
		s = fmt.Sprintf("A whole number from %s to %s.", unit.Number(l.Least), unit.Number(l.Most))
	}
	return s
}

// Limits are the numbers a house sets.
var Limits = []Limit{
	{"minTurns", "Proving turns at least", "turns", 2, 20, true, "More where that brings every proved mark home: the smallest such count is asked for.", func(r *Rules) float64 { return float64(r.Proof.MinTurns) }},
	{"thenTurns", "And after the look, again", "turns", 0, 20, true, "0 for none. “6, then 2”: a tension settles in the first turns and is proved in the last.", func(r *Rules) float64 { return float64(r.Proof.ThenTurns) }},
	{"backOff", "Turned backwards at most", "°", 0, 45, false, "Where the sheet sets no limit.", func(r *Rules) float64 { return r.Proof.BackOff }},
	{"passBy", "Turned back onto a stop at most", "°", 0, 90, false, "Where stops are passed and turned back onto.", func(r *Rules) float64 { return r.Proof.PassBy }},
	{"torqueOff", "A torque may be off its sheet by", "%", 0, 50, false, "Where the sheet gives no tolerance; beyond it blocks.", func(r *Rules) float64 { return r.Proof.TorqueOff }},
	{"maxWords", "An instruction has at most", "words", 8, 60, true, "Longer is not kept in mind with both hands full.", func(r *Rules) float64 { return float64(r.Proof.MaxWords) }},
	{"readingPace", "A step counts as read at", "words a minute", 40, 250, true, "Reading that weighs each word is slower than reading.", func(r *Rules) float64 { return float64(r.Latches.ReadingPace) }},
}
