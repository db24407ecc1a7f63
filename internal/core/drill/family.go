package drill

// Family is one kind of mistake.
type Family struct {
	ID string
	// Name is what somebody does, Doc where it comes from and how large it is.
	Name, Doc string
	// Least is which share of them a page has to catch, percent: 100 for every one, 0 for
	// those that are only counted.
	Least int
	// Occurrence is how often it is made, 1 to 10: our own guess until a house says
	// otherwise.
	Occurrence int
	// Sizes are how large it is made, in Unit; none where it has one size, or what is written
	// on page and sheet. Those of ours are assumptions.
	Sizes []float64
	Unit  string

	makes func(*gen)
}

// Needed reports whether a page has to catch any of them.
func (f *Family) Needed() bool { return f.Least > 0 }

// Families are all kinds of mistake, in the order in which a page meets them.
var Families = []Family{
	{"stroke", "Locked on the other stroke", "where the crank is brought to its place, one turn too far: 360° of the crank", 100, 4, nil, "", strokes},
	{"stop", "Stopped short of its stop", "where the crank comes up to a stop: so many degrees short of it", 100, 5, []float64{2, 4}, "°", stops},
	{"look-alike", "A look-alike taken for the mark", "where a mark is come to that has a look-alike on the sheet", 100, 3, nil, "", lookAlikes},
	{"tooth", "A belt or chain a tooth out", "where a loop is laid: every toothed wheel of its route, so many teeth either way, 360° over its teeth", 100, 6, []float64{1, 2}, "teeth", teeth},
	{"slack", "The slack left on the wrong run", "where a loop is laid: on the run before every driven wheel of its route, which comes late by so much of a tooth when tension comes on", 0, 4, []float64{0.5}, "of a tooth", slacks},
	{"phaser", "A phaser off its stop", "where a loop is laid over a phaser that stands at its home stop: by so many degrees of its shaft, which come out once it finds the stop", 0, 3, []float64{3}, "°", phasers},
	{"reversed", "A used belt the other way round", "where a used belt or chain goes back on: it then runs against the way it has worn", 0, 4, nil, "", turnedOver},
	{"half", "A pump or balance shaft half a turn out", "where a loop is laid: every such shaft of its route with an even number of teeth, 180° of it", 100, 3, nil, "", halves},
	{"slip", "A wheel slipped as it was clamped", "where a floating wheel is clamped: by the play of its lock, and by so many degrees either way", 0, 5, []float64{1, 3}, "°", slips},
	{"lock", "A lock left out", "where a lock is fitted", 100, 4, nil, "", locksOut},
	{"left-in", "A lock or pin left in", "where a lock comes out, or the pin of a tensioner", 100, 4, nil, "", leftIn},
	{"left-off", "A part left off", "where a part goes back", 0, 3, nil, "", leftOff},
	{"old", "An old part back in", "where a new part, seal or belt goes in", 0, 4, nil, "", oldParts},
	{"bolt", "A bolt forgotten", "where a bolt is taken to its end: not done, or finger tight", 0, 5, nil, "", bolts},
	{"value", "A bolt at another value", "where a bolt is taken to its end: the angle left out, the figure in another unit, the value of the step before or after", 0, 5, nil, "", values},
	{"hold", "Nothing held against the torque", "where a step holds a shaft against its bolt", 0, 4, nil, "", holds},
	{"year", "The value of another engine", "where a bolt has another value on each kind of engine", 0, 4, nil, "", otherYears},
	{"tension", "A tensioner set otherwise", "where a tensioner is set: to the place of another temperature, past its place and back; where its bolt drags it along: not held", 0, 4, nil, "", tensions},
	{"wait", "A time not kept", "where a tensioner has to settle: half the time, none; where sealant is put on: half as long again as it may stay open", 0, 5, nil, "", waits},
	{"twin", "One taken for the other", "where a lock or a bolt has its like on another shaft of its kind", 0, 3, nil, "", twins},
	{"paint", "An own mark painted beside its place", "where marks are painted on toothed wheels: so many teeth either way, 360° over its teeth", 0, 3, []float64{1}, "teeth", paints},
	{"turns", "Too few or too many turns", "where the engine is turned by whole turns: one less, one more, and the wrong way round", 0, 4, nil, "", turns},
	{"left-out", "A step left out", "every other step that does something to the engine", 0, 3, nil, "", leftOut},
	{"early", "A step done too early", "where a lock or a pin comes out, a bolt that clamps a wheel is taken to its end or a cover goes back: so many steps before its time", 0, 3, []float64{3, 6}, "steps", tooEarly},
	{"passed-over", "A failed look passed over", "where steps are written for when a look fails, on an engine where it does: they are not done, and the work goes on behind them", 0, 4, nil, "", passedOver},
	{"exchanged", "Two neighbouring steps exchanged", "every step with the one after it", 0, 2, nil, "", exchanged},
}

// FamilyOf is the family of an id, nil for none.
func FamilyOf(id string) *Family {
	for i := range Families {
		if Families[i].ID == id {
			return &Families[i]
		}
	}
	return nil
}
