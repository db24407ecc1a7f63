package readstate

import (
	"regexp"
	"strings"
	"time"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Asks is what one thing asks of its reader before it counts as read.
type Asks struct {
	// Own says why it is read only when its reader says so; empty where standing in view
	// for a time is enough.
	Own string
	// For is how long it has to stand in view, at the pace of the house.
	For time.Duration
}

// leastStand is the shortest time anything has to stand in view: shorter, an eye does
// not rest on it. An assumption of ours.
const leastStand = 1500 * time.Millisecond

// figure is a number in words of an author's that is no part of a name, as of a tool.
var figure = regexp.MustCompile(`(?:^|[^\pL\pN-])\d`)

// AsksOf is what a step asks: a word of its reader's where it has a value or a caution,
// where its author's own words tell what to do, or where it has changed; otherwise to stand in view for as long as its words take at
// pace, in words a minute.
func AsksOf(x *engine.Index, s *step.Step, changed bool, pace int) Asks {
	text := en.Full(x, s) + " " + s.Note
	switch {
	case changed:
		return Asks{Own: "it has changed"}
	case len(s.Cautions) > 0:
		return Asks{Own: "it has a caution"}
	case s.Wording != "":
		return Asks{Own: "it is in its author’s own words"}
	case s.Action.Verb() == "do":
		return Asks{Own: "it is free text"}
	case len(unit.Find(text)) > 0 || figure.MatchString(s.Note):
		return Asks{Own: "it has a value"}
	case quickline.Instructs(s.Note):
		return Asks{Own: "its note gives an instruction"}
	}
	words := len(strings.Fields(text))
	return Asks{For: max(leastStand, time.Duration(float64(words)/float64(max(pace, 1))*float64(time.Minute)))}
}
