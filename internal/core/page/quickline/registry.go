package quickline

import (
	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// grammar is how the line of a verb is read.
type grammar struct {
	// read fills an action from what stands behind the phrase.
	read func(*Line) step.Action
	// next offers what may be typed next; nil for nothing of the verb's own.
	next func(x *engine.Index, a step.Action) []string
}

// grammars are those of all verbs.
var grammars map[step.Verb]*grammar

func init() {
	// Here and not above: the readers of some verbs read lines of others.
	grammars = map[step.Verb]*grammar{
		"free":     freeGrammar,
		"clean":    cleanGrammar,
		"apply":    applyGrammar,
		"check":    checkGrammar,
		"do":       doGrammar,
		"drain":    drainGrammar,
		"fill":     fillGrammar,
		"fit":      fitGrammar,
		"inspect":  inspectGrammar,
		"lock":     lockGrammar,
		"measure":  measureGrammar,
		"paint":    paintGrammar,
		"pin":      pinGrammar,
		"refit":    refitGrammar,
		"release":  releaseGrammar,
		"remove":   removeGrammar,
		"renew":    renewGrammar,
		"reset":    resetGrammar,
		"set":      setGrammar,
		"settle":   settleGrammar,
		"slacken":  slackenGrammar,
		"start":    startGrammar,
		"swing":    swingGrammar,
		"take-off": takeOffGrammar,
		"tighten":  tightenGrammar,
		"turn":     turnGrammar,
		"unlock":   unlockGrammar,
		"wait":     waitGrammar,
	}
}

// specText is what the sheet gives a fastener to be tightened to; empty for nothing.
func specText(x *engine.Index, id engine.FastenerID) string {
	stages, by := step.SpecFor(x, id)
	if len(by) > 0 {
		return step.ByText(by)
	}
	return engine.StagesText(stages)
}
