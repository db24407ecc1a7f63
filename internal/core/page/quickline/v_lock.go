package quickline

import (
	"slices"
	"strings"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

var lockGrammar = &grammar{
	read: func(l *Line) step.Action {
		a := &step.Lock{}
		var locks []engine.LockID
		var held []engine.ShaftID
		l.Clauses(
			func() bool {
				if l.phrase != "lock" || len(held) > 0 || len(locks) > 0 {
					return false
				}
				held = l.shaftsNamed()
				return len(held) > 0 && l.Say("with", "using", "by", "in position with", "in place with")
			},
			Several(l, &locks, engine.KindLock),
			l.numbersOf(func() []engine.LockID { return locks }),
			func() bool {
				if len(held) > 0 || !l.Say("into the slots of", "into the slot of", "into the slots in", "into the slot in", "in the slots of", "in the slots in", "into the ends of", "into the flats of", "onto the flats of", "over") {
					return false
				}
				held = l.shaftsNamed()
				return len(held) > 0
			},
			l.Filler("by hand", "into the block", "in the block", "into the cylinder block", "in the cylinder block", "into its hole", "into the hole", "in its hole", "in its place", "into place", "in place", "into its slot", "into the slots", "in the slots", "into its slots", "fully home", "right home", "home", "fully in", "fully", "all the way in", "again"),
		)
		a.Lock, a.Also = parted(locks)
		for _, s := range held {
			if !l.asking() && !slices.ContainsFunc(locks, func(id engine.LockID) bool {
				k := l.x.Lock(id)
				return k != nil && slices.Contains(k.Holds, s)
			}) {
				l.refuse("that lock does not hold the " + l.x.NameOf("shafts", string(s)))
			}
		}
		return a
	},
}

// parted is the other way round: the first thing and the rest.
func parted[T ~string](all []T) (one T, also []T) {
	if len(all) == 0 {
		return "", nil
	}
	if len(all) == 1 {
		return all[0], nil
	}
	return all[0], all[1:]
}

// numbersOf is a clause that reads the number of a named lock's tool.
func (l *Line) numbersOf(locks func() []engine.LockID) func() bool {
	return func() bool {
		l.Say("with", "using")
		l.Say("tool", "special tool")
		if l.end() {
			return false
		}
		for _, id := range locks() {
			lock := l.x.Lock(id)
			if lock == nil {
				continue
			}
			if t := l.x.Tool(lock.Tool); t != nil && strings.EqualFold(t.Number, l.tokens[l.pos].word) {
				l.pos++
				return true
			}
		}
		return false
	}
}

// shaftsNamed reads names of shafts: "the crank", "both cams".
func (l *Line) shaftsNamed() []engine.ShaftID {
	var out []engine.ShaftID
	for {
		at := l.pos
		if len(out) > 0 && !l.Say("and", ",") {
			break
		}
		all := l.Say("both", "all")
		l.Say("the")
		found := false
		if l.Say("cams") || all && l.Say("cam") {
			for i := range l.x.Sheet.Shafts {
				if s := &l.x.Sheet.Shafts[i]; s.Kind.IsCam() {
					out = append(out, s.ID)
					found = true
				}
			}
		}
		if !found && l.phrase == "lock" && (l.at(l.pos, "flywheel with") > 0 || l.at(l.pos, "flywheel using") > 0) {
			// Only a flywheel lock locks the flywheel; it holds the crank.
			l.pos++
			if id, ok := (&Line{x: l.x, lex: l.lex, text: l.text, tokens: l.tokens, pos: l.pos + 1}).One(engine.KindLock); ok {
				if k := l.x.Lock(engine.LockID(id)); k != nil && k.Kind == engine.FlywheelLock {
					out = append(out, engine.CrankID)
					found = true
				}
			}
		}
		for n := min(3, len(l.tokens)-l.pos); n > 0 && !found; n-- {
			var words []string
			for _, t := range l.tokens[l.pos : l.pos+n] {
				words = append(words, t.word)
			}
			name := strings.Join(words, " ")
			for known, id := range l.lex.shafts {
				if known == name || known+" cam" == name {
					out = append(out, id)
					l.pos += n
					found = true
				}
			}
		}
		if !found {
			l.pos = at
			break
		}
	}
	return out
}
