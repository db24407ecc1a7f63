package en

import (
	"slices"
	"strings"

	"inklatch/internal/core/page/lang"
	"inklatch/internal/core/page/step"
)

type roles = map[step.Role]lang.Phrase

// shared are phrases that all verbs have.
var shared = roles{
	step.RoleWhat:    {One: "%s"},
	step.RoleWay:     {One: "%s"},
	step.RoleFrom:    {One: "seen from %s", Sentence: "seen from the %s"},
	step.RoleOther:   {One: "seen from the other end", Line: "seen from other end"},
	step.RolePattern: {One: "%s"},
	step.RoleReach:   {One: "%s"},
	step.RoleTurns:   {One: "%s", Figure: true},
	step.RoleFinal:   {One: "to %s", Figure: true},
	step.RoleFurther: {One: "by a further %s", Figure: true},
	step.RoleByCase:  {One: "to %s", Figure: true},
	step.RoleHeld:    {One: ", held with %s"},
	step.RoleBolts:   {One: "-", Row: "%s", Figure: true},
	step.RoleTools:   {One: "(%s)", Line: "-", Row: "%s", Figure: true, Plain: true, Join: ", "},
	step.RoleTo:      {One: "to %s"},
}

// verbs are the verbs of a page. In a sentence the things have their articles.
var verbs = map[string]lang.Verb{
	"remove":      {Verb: "Remove"},
	"remove/out":  {Verb: "Take out"},
	"remove/lead": {Verb: "Disconnect"},
	"refit": {Verb: "Refit", Roles: roles{
		step.RoleNewSeal: {One: "with a %s", Figure: true, Says: "new seal"},
		step.RoleNeeds:   {One: "-", Row: "-", Sentence: ", %s"},
	}},
	"refit/new":  {Verb: "Fit"},
	"refit/lead": {Verb: "Connect"},
	"renew":      {Verb: "Renew"},
	"turn": {Verb: "Turn", Roles: roles{
		step.RoleDegrees: {One: "%s", Figure: true, Beside: map[step.Role]string{step.RoleTurns: "and %s"}},
		step.RoleOn:      {One: "on %s", Row: "-"},
		step.RolePainted: {One: "until the paint marks stand", Line: "until paint marks stand"},
		step.RoleOnto:    {One: "onto %s"},
		step.RoleInto:    {One: "until %s goes in"},
		step.RoleMeets:   {One: "until %s reads so", Beside: map[step.Role]string{step.RoleReads: "until %s reads"}},
		step.RoleReads:   {One: "%s", Figure: true},
		step.RoleShort:   {One: "and stop just short"},
	}},
	"lock": {Verb: "Fit", Roles: roles{
		step.RoleByHand: {One: "-", Row: "-", Sentence: "by hand"},
	}},
	"unlock": {Verb: "Take out"},
	"free": {Verb: "Free", Roles: roles{
		step.RoleSprockets: {One: "%s sprocket"},
		step.RoleGears:     {One: "%s gear"},
		step.RoleSeats:     {One: "from its seat", More: "from their seats", Row: "-", Line: "-"},
	}},
	"clean":   {Verb: "Clean", Roles: roles{step.RoleFaces: {One: "the faces of", Line: "faces of"}}},
	"slacken": {Verb: "Slacken", Roles: roles{step.RoleSome: {One: "%s of"}}},
	"tighten": {Verb: "Tighten", Roles: roles{
		step.RoleSome:    {One: "%s of"},
		step.RoleHolding: {One: "while holding %s"},
		step.RoleHeldAt:  {One: "at %s"},
	}},
	"tighten/snug": {Verb: "Nip up", Brief: "Tighten", Roles: roles{
		step.RoleSome:    {One: "%s of"},
		step.RoleReach:   {One: "-", Row: "%s"},
		step.RoleHolding: {One: "while holding %s"},
		step.RoleHeldAt:  {One: "at %s"},
	}},
	"take-off": {Verb: "Take off"},
	"fit": {Verb: "Fit", Roles: roles{
		step.RoleOrder: {One: "starting at %s", More: "in the order %s", Row: ", %s", RowJoin: " → ", Plain: true},
		step.RoleSlack: {One: "and leave the slack at %s", Beside: map[step.Role]string{step.RoleOrder: ", and leave the slack at %s"}, Row: "slack at %s", Figure: true},
	}},
	"pin": {Verb: "Retract", Brief: "Pin", Line: "Pin", Roles: roles{
		step.RoleKeepIn: {One: "and hold it with its pin", More: "and hold them with their pins", Row: "-", Line: "-"},
	}},
	"release": {Verb: "Let", Brief: "Release", Line: "Release", Roles: roles{
		step.RoleWhat: {One: "%s", Sentence: "%s go"},
	}},
	"release/pin": {Verb: "Pull", Brief: "Release", Line: "Release", Roles: roles{
		step.RoleWhat: {One: "the pin and let %s move out slowly", More: "the pins and let %s move out slowly", Row: "%s pin", Line: "%s"},
	}},
	"set": {Verb: "Set", Roles: roles{
		step.RolePhaser: {By: func(_ lang.Style, name string) string {
			if strings.Contains(name, "phaser") || strings.Contains(name, "actuator") {
				return "%s"
			}
			return "%s phaser"
		}},
		step.RoleGoal: {One: "to its %s"},
		step.RolePlace: {By: func(style lang.Style, place string) string {
			where, pointer := strings.CutPrefix(place, "pointer ")
			switch {
			case LeadsItself(place), pointer && style == lang.Row:
				return "%s"
			case pointer:
				return "until the pointer stands " + where
			}
			return "to %s"
		}},
		step.RoleAt: {One: "at %s", Row: "at %s", Figure: true},
	}},
	"settle": {Verb: "Settle", Roles: roles{
		step.RoleDrive: {One: "%s", Sentence: "the %s"},
		step.RoleTurns: {One: "%s", Sentence: ": turn the crank %s", Figure: true},
		step.RoleWay:   {One: "-", Row: "-", Sentence: "%s"},
	}},
	"wait": {Verb: "Wait", Roles: roles{
		step.RoleFor:   {One: "%s", Figure: true},
		step.RoleUntil: {One: "until %s"},
	}},
	"measure": {Verb: "Measure", Roles: roles{
		step.RoleWhat: {By: func(style lang.Style, what string) string {
			if style == lang.Sentence && !strings.HasPrefix(what, "the ") {
				return "the %s"
			}
			return "%s"
		}},
		step.RoleMeets: {One: "%s"},
		step.RoleLoops: {One: "of %s"},
		step.RolePlace: {By: func(_ lang.Style, place string) string {
			if first, _, _ := strings.Cut(place, " "); slices.Contains([]string{"at", "in", "on", "between", "near", "behind"}, strings.ToLower(first)) {
				return "%s"
			}
			return "at %s"
		}},
		step.RoleReadings: {One: "%s times"},
		step.RolePasses:   {One: "; it passes at %s", Figure: true},
		step.RoleWithin:   {One: "; readings within %s", Figure: true},
	}},
	"check": {Verb: "Check", Lead: "that", Next: ", and that", Roles: roles{
		step.RoleMarks: {One: "%s stands", More: "%s stand"},
		step.RoleMarks + step.Role("/"+step.FoundHidden): {One: "%s is hidden", More: "%s are hidden"},
		step.RoleMarks + step.Role("/"+step.FoundOut):    {One: "%s does not stand", More: "%s do not stand"},
		step.RoleLocks: {One: "%s goes in by hand", More: "%s go in by hand"},
		step.RoleLocks + step.Role("/"+step.FoundIn):  {One: "%s is in", More: "%s are in"},
		step.RoleLocks + step.Role("/"+step.FoundOut): {One: "%s is out", More: "%s are out"},
		step.RoleParts: {One: "%s is fitted", More: "%s are fitted"},
		step.RoleParts + step.Role("/"+step.FoundOut): {One: "%s is not fitted", More: "%s are not fitted"},
		step.RoleLoops: {One: "%s is on", More: "%s are on"},
		step.RoleLoops + step.Role("/"+step.FoundOut): {One: "%s is off", More: "%s are off"},
		step.RolePointer:             {One: "the pointer of %s stands in its notch", Line: "pointer of %s stands in its notch"},
		step.RolePointer + "/as set": {One: "the pointer of %s stands where it was set", Line: "pointer of %s stands where it was set"},
		step.RolePins:                {One: "%s pin goes into its hole by hand", More: "%s pins go into their holes by hand"},
		step.RolePainted:             {One: "the paint marks stand", Line: "paint marks stand"},
		step.RoleKit:                 {One: "every tool is back in its kit"},
		step.RoleThat:                {One: "%s"},
	}},
	"apply": {Verb: "Apply", Roles: roles{
		step.RoleStuffs: {One: "%s"},
		step.RoleWithin: {One: "and close within %s", Figure: true},
	}},
	"inspect": {Verb: "Inspect", Roles: roles{
		step.RoleFor:  {By: unlessLed("for ", "for %s")},
		step.RoleThen: {By: unlessLed("then ", ", then %s")},
	}},
	"paint": {Verb: "Paint", Roles: roles{
		step.RoleAcross: {One: "a mark across %s", More: "marks across %s"},
		step.RoleAlso:   {One: "and %s"},
		step.RoleOn:     {One: "a mark on %s", More: "marks on %s"},
	}},
	"paint/copy": {Verb: "Copy", Roles: roles{step.RolePainted: {One: "the paint marks"}}},
	"swing": {Verb: "Swing", Roles: roles{
		step.RoleAmount:   {One: "%s", Figure: true},
		step.RoleToAndFro: {One: "to and fro"},
	}},
	"drain": {Verb: "Drain"},
	"fill": {Verb: "Fill in", Roles: roles{
		step.RoleAmount: {One: "%s", Figure: true},
		step.RoleWhat:   {One: "%s", Beside: map[step.Role]string{step.RoleAmount: "of %s"}},
	}},
	"reset": {Verb: "Reset", Roles: roles{
		step.RoleCounter:   {One: "%s"},
		step.RoleCounterOf: {One: "counter of %s", Sentence: "the counter of %s"},
	}},
	"start": {Verb: "Start", Roles: roles{
		step.RoleEngine: {One: "engine", Sentence: "the engine"},
		step.RoleFor:    {One: "and run it for %s", Figure: true, Beside: map[step.Role]string{step.RoleThen: ", run it for %s"}},
		step.RoleThen: {By: func(_ lang.Style, then string) string {
			if first, _, _ := strings.Cut(then, " "); strings.HasSuffix(first, "ly") {
				return "%s"
			}
			return "and %s"
		}},
	}},
	"do": {Roles: roles{step.RoleText: {One: "%s"}}},
}

// unlessLed is a pattern for words that may begin with its own lead already.
func unlessLed(lead, pattern string) func(lang.Style, string) string {
	return func(_ lang.Style, words string) string {
		if strings.HasPrefix(words, lead) {
			return strings.Replace(pattern, lead, "", 1)
		}
		return pattern
	}
}

// SetLeads are words a place to set to may begin with instead of "to".
var SetLeads = []string{"until", "till", "so", "with", "by", "against", "onto", "using"}
