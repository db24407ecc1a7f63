package drill

// Family is one kind of mistake.
type Family struct {
	ID string
	// Name is what somebody does, Doc where it comes from and how large it is.
	Name, Doc string
	// Needed is set where a page has to catch every one of them.
	Needed bool
	// Occurrence is how often it is made, 1 to 10: our own guess until a house says
	// otherwise.
	Occurrence int

	makes func(*gen)
}

// Families are all kinds of mistake, in the order in which a page meets them.
var Families = []Family{
	{"stroke", "Locked on the other stroke", "where the crank is brought to its place, one turn too far: 360° of the crank", true, 4, strokes},
	{"stop", "Stopped short of its stop", "where the crank comes up to a stop: 2° and 4° short (an assumption of ours)", true, 5, stops},
	{"look-alike", "A look-alike taken for the mark", "where a mark is come to that has a look-alike on the sheet", true, 3, lookAlikes},
	{"tooth", "A belt or chain a tooth out", "where a loop is laid: every toothed wheel of its route, one and two teeth either way, 360° over its teeth", true, 6, teeth},
	{"half", "A pump or balance shaft half a turn out", "where a loop is laid: every such shaft of its route with an even number of teeth, 180° of it", true, 3, halves},
	{"slip", "A wheel slipped as it was clamped", "where a floating wheel is clamped: by the play of its lock, 1° and 3° either way (the last two are assumptions of ours)", false, 5, slips},
	{"lock", "A lock left out", "where a lock is fitted", true, 4, locksOut},
	{"left-in", "A lock or pin left in", "where a lock comes out, or the pin of a tensioner", true, 4, leftIn},
	{"left-off", "A part left off", "where a part goes back", false, 3, leftOff},
	{"old", "An old part back in", "where a new part, seal or belt goes in", false, 4, oldParts},
	{"bolt", "A bolt forgotten", "where a bolt is taken to its end: not done, or finger tight", false, 5, bolts},
	{"value", "A bolt at another value", "where a bolt is taken to its end: the angle left out, the figure in another unit, the value of the step before or after", false, 5, values},
	{"hold", "Nothing held against the torque", "where a step holds a shaft against its bolt", false, 4, holds},
	{"year", "The value of another engine", "where a bolt has another value on each kind of engine", false, 4, otherYears},
	{"tension", "A tensioner set otherwise", "where a tensioner is set: to the place of another temperature, past its place and back; where its bolt drags it along: not held", false, 4, tensions},
	{"wait", "A time not kept", "where a tensioner has to settle: half the time, none; where sealant is put on: half as long again as it may stay open", false, 5, waits},
	{"twin", "One taken for the other", "where a lock or a bolt has its like on another shaft of its kind", false, 3, twins},
	{"paint", "An own mark painted beside its place", "where marks are painted on toothed wheels: a tooth either way, 360° over its teeth", false, 3, paints},
	{"turns", "Too few or too many turns", "where the engine is turned by whole turns: one less, one more, and the wrong way round", false, 4, turns},
	{"left-out", "A step left out", "every other step that does something to the engine", false, 3, leftOut},
	{"exchanged", "Two neighbouring steps exchanged", "every step with the one after it", false, 2, exchanged},
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
