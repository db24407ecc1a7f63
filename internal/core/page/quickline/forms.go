package quickline

import (
	"regexp"
	"slices"
	"strconv"
	"strings"

	"inklatch/internal/core/message"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

// Lines in other forms than a verb with what it is done to: a maker's manual (the belt must be
// renewed), the shorthand of a workshop (crank pin out), speech (whip the belt off). Each is
// put into the form its verb knows and read by that verb, whole or not at all: what stands here
// only proposes. A word that is put away is one that says nothing, or stands in a note of the
// step. Common practice, no source.

// short are shortened words and what they stand for; one that may stand for several is read as
// each, and asked about where more than one reads.
var short = map[string][]string{
	"crk": {"crank"}, "crkshft": {"crank"}, "cshaft": {"crank", "cam"}, "c/shaft": {"crank", "cam"}, "inl": {"inlet"}, "int": {"inlet"}, "ex": {"exhaust"}, "exh": {"exhaust"},
	"tens": {"tensioner"}, "tensr": {"tensioner"}, "sprkt": {"sprocket"}, "spkt": {"sprocket"}, "sprckt": {"sprocket"}, "upr": {"upper"}, "uppr": {"upper"}, "lwr": {"lower"}, "lowr": {"lower"},
	"blt": {"bolt", "belt"}, "blts": {"bolts"}, "bt": {"bolt"}, "f/w": {"flywheel"}, "fw": {"flywheel"}, "flywhl": {"flywheel"}, "w/": {"with"}, "w/o": {"without"}, "chk": {"check"}, "ck": {"check"},
	"batt": {"battery"}, "bat": {"battery"}, "t/belt": {"timing belt"}, "tb": {"timing belt"}, "t/chain": {"timing chain"}, "t/cover": {"timing cover"}, "cvr": {"cover"}, "cov": {"cover"},
	"deg": {"degrees"}, "degs": {"degrees"}, "assy": {"assembly"}, "aux": {"accessory"}, "acc": {"accessory"}, "alt": {"alternator"}, "mtg": {"mounting"}, "mnt": {"mount"}, "brkt": {"bracket"},
	"rem": {"remove"}, "rmv": {"remove"}, "refit/": {"refit"}, "rplc": {"renew"}, "repl": {"renew"}, "tq": {"torque"}, "trq": {"torque"}, "lck": {"lock"}, "pmp": {"pump"}, "w/p": {"water pump"}, "wp": {"water pump"},
	"hyd": {"hydraulic"}, "bal": {"balance"}, "thrm": {"thermostat"}, "adj": {"adjust"}, "mk": {"mark"}, "mks": {"marks"}, "rev": {"turn"}, "revs": {"turns"}, "turn's": {"turns"}, "eng": {"engine"}, "ctr": {"centre"},
}

// spoken are words of speech and of manuals, and those the verbs know.
var spoken = []struct {
	said *regexp.Regexp
	read string
}{
	{regexp.MustCompile(`(?i)\btill\b`), "until"},
	{regexp.MustCompile(`(?i)\bthe pointer['’]s\b`), "the pointer is"},
	{regexp.MustCompile(`(?i)\btop (cover|timing cover|cam cover)\b`), "upper $1"},
	{regexp.MustCompile(`(?i)\bbottom (cover|timing cover)\b`), "lower $1"},
	{regexp.MustCompile(`(?i)^(?:whip|get|pull|slip|lift|work|ease|slide|drop) (.+) off$`), "take off $1"},
	{regexp.MustCompile(`(?i)^(?:whip|get|fish|pop|slip|drop|draw|knock) (.+) out$`), "take out $1"},
	{regexp.MustCompile(`(?i)^(?:pop|stick|get|slip|put|ease|work|bolt|screw|clip) (.+) (?:back on|back in|back)$`), "refit $1"},
	{regexp.MustCompile(`(?i)^(?:pop|stick|slip|push|drop|get|slide|put|offer|whack|tap|knock|shove|bung|press) (.+) in$`), "fit $1"},
	{regexp.MustCompile(`(?i)^(?:pop|get|slip|work|ease) (.+) on$`), "fit $1"},
	{regexp.MustCompile(`(?i)^crack (.+?) loose\b`), "slacken $1"},
	{regexp.MustCompile(`(?i)^(?:crack off|crack|break) (.+ bolts?)$`), "slacken $1"},
	{regexp.MustCompile(`(?i)^(?:undo|back off|slack off) (.+ bolts?) (?:a|one) turn$`), "slacken $1 1 turn"},
	{regexp.MustCompile(`(?i)^give (the (?:crank|crankshaft|engine|motor)) (.+)$`), "turn $1 $2"},
	{regexp.MustCompile(`(?i)^(?:spin|turn|wind|bar) (?:it|the lot) over\b`), "turn the engine"},
	{regexp.MustCompile(`(?i)^(?:spin|crank|wind|pull|run) (the (?:crank|crankshaft|engine|motor)) (?:over|round|through)\b`), "turn $1"},
	{regexp.MustCompile(`(?i)^spin (the (?:crank|crankshaft|engine|motor))\b`), "turn $1"},
	{regexp.MustCompile(`(?i)^(?:spin|turn|wind|bar) over\b`), "turn the engine"},
	{regexp.MustCompile(`(?i)^(turn the engine\b.*?) twice\b`), "$1 2 turns"},
	{regexp.MustCompile(`(?i)^(turn the engine\b.*?) once\b`), "$1 1 turn"},
	{regexp.MustCompile(`(?i)^(?:have a look (?:that|whether)|look (?:that|whether)|see to it that|satisfy yourself that|double-check that|check whether)\b`), "check that"},
	{regexp.MustCompile(`(?i)^(?:leave it|leave|let it stand|let it sit|give it|hang on|hold on) (?:for )?(.*\b(?:minutes?|mins?|hours?|h|seconds?|s)\b.*)$`), "wait $1"},
	{regexp.MustCompile(`(?i)^bring (.+ marks?)(?: round)? to (?:its|the) pointers?,? ((?:counter|anti)?-?clockwise|cw|ccw|acw|in running direction)$`), "turn the crank $2 to $1"},
	{regexp.MustCompile(`(?i)^bring (.+ marks?) round to (?:its|the) pointers?$`), "turn the crank to $1"},
	{regexp.MustCompile(`(?i)^wind (the tensioner|tensioner)\b`), "turn $1"},
	{regexp.MustCompile(`(?i)^((?:fit|lay|put|position) .+?) (?:on|over|round|onto|around) (.+?),? in (?:that|this) order$`), "$1 in the order $2"},
	{regexp.MustCompile(`(?i)^(disconnect|remove|detach) (.+? (?:lead|cable|terminal)) from the battery$`), "$1 $2"},
	{regexp.MustCompile(`(?i), (?:with )?(?:the )?flywheel (?:locked|held)$`), ", held with the flywheel lock"},
	{regexp.MustCompile(`(?i) with (?:the )?flywheel (?:locked|held)$`), ", held with the flywheel lock"},
	{regexp.MustCompile(`(?i)^(?:take|pull|lift) (.+) (?:away|clear)$`), "remove $1"},
	{regexp.MustCompile(`(?i)^position (.+)$`), "fit $1"},
	{regexp.MustCompile(`(?i)^place (.+) in (?:position|place)$`), "fit $1"},
	{regexp.MustCompile(`(?i)^withdraw (.+)$`), "take out $1"},
	{regexp.MustCompile(`(?i)^(?:torque|pull|run|nip|do) (.+ bolts?) (?:down|up) to\b`), "tighten $1 to"},
	{regexp.MustCompile(`(?i)^snug (.+)$`), "tighten $1 finger tight"},
	{regexp.MustCompile(`(?i)\b(?:her|him)\b`), "it"},
	{regexp.MustCompile(`(?i)^(?:run|start|fire)(?: (?:it|the engine|the motor))?(?: up)?(?: for)? (\d.*|half a minute.*|a minute.*)$`), "start the engine for $1"},
	{regexp.MustCompile(`(?i)\bhalf a minute\b`), "30 s"},
	{regexp.MustCompile(`(?i)^check (.+ (?:pump|roller|idler|seal|belt|chain|tensioner)),? (leaks|play|wear|cracks|noise)$`), "check $1 for $2"},
	{regexp.MustCompile(`(?i)^(.{2,60}) new$`), "renew $1"},
	{regexp.MustCompile(`(?i)^((?:re)?connect|refit|put back) (.+) again$`), "$1 $2"},
	{regexp.MustCompile(`(?i)^(apply .+ to )(?:the )?threads? of (.+)$`), "$1$2"},
	{regexp.MustCompile(`(?i)\bthe bolts of (both|the) (.+?) sprockets\b`), "$1 $2 sprocket bolts"},
	{regexp.MustCompile(`(?i), (?:while )?(?:counter)?holding(?: them| it)? (?:with|by)\b`), ", held with"},
	{regexp.MustCompile(`(?i)^up cover\b`), "upper cover"},
	{regexp.MustCompile(`(?i)^rear cover\b`), "rear cam cover"},
	{regexp.MustCompile(`(?i)^(\w+) \+ (\w+) (bolts?|marks?|sprocket bolts)\b`), "$1 and $2 $3"},
	{regexp.MustCompile(`(?i)^(?:fit|put|use) (?:a )?new (?:seal|gasket) (?:to|on|in|for) (?:the )?(.+)$`), "renew the $1 seal"},
	{regexp.MustCompile(`(?i)\bthe motor\b`), "the engine"},
	{regexp.MustCompile(`(?i)\b(until .+ )(?:drops|slips|slides|pops|falls) in\b`), "${1}goes in"},
	{regexp.MustCompile(`(?i)\b(?:retaining|securing|fixing|clamping) (bolts?|screws?|nuts?)\b`), "$1"},
	{regexp.MustCompile(`(?i),? and (?:replace|renew) (?:it |them )?(if (?:necessary|required|needed|worn|damaged))$`), "; renew it $1"},
	{regexp.MustCompile(`(?i) to (?:the|its|their) (?:specified|prescribed|correct|stated) torque$`), ""},
	{regexp.MustCompile(`(?i)^(?:slide|slip|ease|lift|work|pull) (.+ (?:belt|chain)|the belt|the chain) off (?:the )?(?:.*sprockets?|wheels?|pulleys?|gears?)$`), "take off $1"},
	{regexp.MustCompile(`(?i)\binto the (?:cam|camshaft) slots$`), "into the slots of both camshafts"},
	{regexp.MustCompile(`(?i)^lock (?:the )?flywheel(?: up)?$`), "fit the flywheel lock"},
	{regexp.MustCompile(`(?i)^rot\b`), "turn"},
	{regexp.MustCompile(`(?i)\b(\d) ?x\b`), "$1 turns"},
	{regexp.MustCompile(`(?i)^turn (\d+ turns?\b)`), "turn the crank $1"},
	{regexp.MustCompile(`(?i)^(.{2,40}) (?:chk|check)$`), "check $1"},
	{regexp.MustCompile(`(?i)^check (?:that )?nothing(?:['’]s| is) left in (?:the engine|there)$`), "check that no locking tool is left in the engine"},
	{regexp.MustCompile(`(?i)^do (.+?) up to (\d)`), "tighten $1 to $2"},
	{regexp.MustCompile(`(?i)^(.+ turns?) (?:on|of|at) the (?:crank|crankshaft|engine)\b`), "turn the crank $1"},
	{regexp.MustCompile(`(?i)^(.+?) (?:should|must|has to) (?:now |then )?(?:drop|go|slide|slip)(?: straight| easily| freely)? in$`), "check that $1 goes in"},
	{regexp.MustCompile(`(?i)\b(\w+) (?:belt|chain) tensioner\b`), "$1 tensioner"},
	{regexp.MustCompile(`(?i),? and (?:renewed|replaced) (if (?:necessary|required|needed|worn|damaged))$`), "; renew it $1"},
	{regexp.MustCompile(`(?i)^(?:get|bring) (the (?:crank|crankshaft|engine)) round to\b`), "turn $1 to"},
	{regexp.MustCompile(`(?i)^give it (.+ turns?\b.*)$`), "turn the engine $1"},
	{regexp.MustCompile(`(?i)['’]s on (?:its|the) pointer$`), " stands"},
	{regexp.MustCompile(`(?i)\ball (?:of )?(?:the )?paint marks\b`), "the paint marks"},
	{regexp.MustCompile(`(?i)^(?:renew|replace) the (?:seal|gasket) (?:of|on) the ([a-z ]+)$`), "renew the $1 seal"},
	{regexp.MustCompile(`(?i)\bx-?wise\b`), "crosswise"},
	{regexp.MustCompile(`(?i)^clean the (?:sealing|mating|joint) (?:surfaces?|faces?) (?:of|on) (.+)$`), "clean $1"},
	{regexp.MustCompile(`(?i)^(?:press|push|squeeze|compress) (the .*tensioner)(?: piston| plunger)? (?:back|in|home) and (?:insert|fit) (?:the|its) (?:locking )?pin$`), "pin $1"},
	{regexp.MustCompile(`(?i)^(?:press|push|squeeze|compress) (the .*tensioner)(?: piston| plunger)? (?:back|in|home) and pin it$`), "pin $1"},
	{regexp.MustCompile(`(?i)^try ((?:the |both )?[^,]+?)(?: in)?(?: again)?$`), "check that $1 goes in"},
	{regexp.MustCompile(`(?i)^always (renew|replace|fit)\b`), "$1"},
	{regexp.MustCompile(`(?i)^stick (?:a )?new (?:seal|gasket) (?:on|in) (?:the )?(.+)$`), "renew the $1 seal"},
}

// participles are verbs as a manual says them of a thing.
var participles = map[string]string{
	"removed": "remove", "renewed": "renew", "replaced": "replace", "tightened": "tighten", "torqued": "tighten", "slackened": "slacken", "loosened": "slacken", "fitted": "fit", "refitted": "refit",
	"installed": "install", "reinstalled": "reinstall", "inserted": "insert", "locked": "lock", "unlocked": "unlock", "released": "release", "set": "set", "turned": "turn", "rotated": "turn",
	"checked": "check", "measured": "measure", "drained": "drain", "cleaned": "clean", "degreased": "degrease", "disconnected": "disconnect", "connected": "connect", "reconnected": "connect",
	"taken off": "take off", "taken out": "take out", "put back": "put back", "put on": "put on", "laid": "lay", "laid on": "lay on", "undone": "undo", "pinned": "pin", "unscrewed": "unscrew",
	"screwed in": "screw in", "withdrawn": "withdraw", "detached": "detach", "lifted off": "lift off", "pulled out": "pull out", "inspected": "inspect", "examined": "inspect", "adjusted": "adjust",
	"brought": "bring", "painted": "paint", "marked": "mark", "pushed in": "push in", "reset": "reset", "nipped up": "nip up", "retightened": "retighten", "started": "start", "slid on": "slide on", "slipped on": "slip on",
}

var (
	passive = regexp.MustCompile(`(?i)^(.{2,120}?),? (?:must|has to|have to|should|needs to|need to|shall|is to|are to|is always to|are always to|must always|is now to|are now to) be (?:then |now |always |also )?([a-z]+(?: (?:off|out|back|on|in|up))?)\b(.*)$`)
	stated  = regexp.MustCompile(`(?i)^(.{2,120}?) (?:is|are)(?: then| now| always| next)? ([a-z]+(?: (?:off|out|back|on|in|up))?)\b(.*)$`)
	allowed = regexp.MustCompile(`(?i)^(.{2,120}?) (?:can|may)(?: then| now) be ([a-z]+(?: (?:off|out|back|on|in|up))?)\b(.*)$`)
	// objectFirst is a thing and where it goes: crank pin out, new belt on.
	objectFirst = regexp.MustCompile(`(?i)^(.{2,80}?),? (?:comes |come |goes |go |to come |to go )?(out|off|in|home|back on|back in|on|back|slack|loose|slackened)(?: now)?((?:[ ,].*)?)$`)
	// turnFirst is a turn without its verb: 2 turns cw by hand.
	turnFirst = regexp.MustCompile(`(?i)^((?:\d|one|two|three|four|six|eight|ten|half|a (?:full |whole )?(?:turn|rev))[^,]*?(?:turns?|revs?|revolutions?|°|degrees)\b.*)$`)
	// shaftFirst is a shaft and its way: crank cw to inlet mark.
	shaftFirst = regexp.MustCompile(`(?i)^((?:the )?(?:crank|crankshaft|engine|motor) (?:cw|ccw|acw|clockwise|counterclockwise|anticlockwise|round|to|over|on to|\d).*)$`)
	movesIn    = regexp.MustCompile(`(?i)\b(?:goes|go) in\b`)
	ofBolt     = regexp.MustCompile(`(?i)\b(?:bolts?|screws?|nuts?|idler|roller|tensioner|pump)\b`)
	setTo      = regexp.MustCompile(`(?i)^tensioner (?:to|until|in|on|at) `)
	wayRound   = regexp.MustCompile(`(?i)\b(?:cw|ccw|acw|clockwise|counterclockwise|anticlockwise|by hand|in running direction)\b`)
	ofPart     = regexp.MustCompile(`(?i)^(tighten|tighten up|do up|torque|slacken|loosen|slacken off) ((?:the )?[^\d,]{3,40}?)((?: to \d.*)?)$`)
	newValue   = regexp.MustCompile(`(?i)^new ([^\d,]{3,50}?),? (\d.*)$`)
	backValue  = regexp.MustCompile(`(?i)^([^\d]{3,60}? (?:back on|back in|back|on|in)),? (\d.*)$`)
	valueFirst = regexp.MustCompile(`(?i)^([^\d,:]{3,80}?),?:? ((?:to )?\d.*)$`)
	// fronted is what stands before the instruction and belongs to it, trailed what stands
	// behind.
	fronted    = regexp.MustCompile(`(?i)^((?:before|after|once|in order to|to|with|prior to|following|having) [^,]{3,120}), +(.{4,})$`)
	trailed    = regexp.MustCompile(`(?i)^(.{4,}?),? +((?:taking care|being careful|take care|making sure|ensuring|so as not to|so that|to avoid|to prevent|in order not to|and take care|for later|as it)\b.{3,})$`)
	behind     = regexp.MustCompile(`(?i)^(.{4,}?),? ((?:before|after|prior to|following) .{4,})$`)
	heldBehind = regexp.MustCompile(`(?i)^(.{6,}?)(?:, (?:while )?| while )(?:holding|counterholding|locking|steadying) (.{3,60}?) (?:with|using|by) (.{3,60}?)$`)
	atLeast    = regexp.MustCompile(`(?i)^(.{4,}?) (at least|at the least|no less than) (.+)$`)
	firstOf    = regexp.MustCompile(`(?i)^(.{4,}?),? first$`)
	state      = regexp.MustCompile(`(?i)^with the (?:engine|ignition) (?:cold|warm|off|switched off|stopped)$`)
	// turnable is what is held against a bolt.
	turnable = regexp.MustCompile(`(?i)^(?:the |both |both the )?(?:(?:inlet|exhaust|left|right|cam|camshaft|crank|crankshaft) ?)*(?:crank|crankshaft|engine|flywheel|cams?|camshafts?|sprockets?|pulley)$`)
	holding  = regexp.MustCompile(`(?i)^(?:while )?(?:holding|counterholding|locking|retaining|securing) (.{3,60}?) (?:with|using|by) (.{3,60}?), +(.{4,})$`)
	said     = regexp.MustCompile(`(?i)^(?:now|right|ok|okay|so|then|next|first|first of all|finally|just)[,:]? +`)
	fillers  = regexp.MustCompile(`(?i)[,]? (?:now|please|again now|then)$`)
)

// whither are the verbs of where a thing goes.
var whither = map[string][]string{
	"out": {"take out", "remove"}, "off": {"take off", "remove", "disconnect"}, "in": {"fit", "insert"}, "home": {"fit"}, "on": {"fit", "connect"}, "back": {"refit", "connect"}, "back on": {"refit", "connect"}, "back in": {"refit"},
	"slack": {"slacken"}, "loose": {"slacken"}, "slackened": {"slacken"},
}

// turnsRound are words with which a line is read in its own form or not at all.
var turnsRound = regexp.MustCompile(`(?i)\b(?:not|never|no|nor|neither|without|except|unless|only|instead|rather|don['’]?t|doesn['’]t|cannot|can['’]t|but|or|either|if|when|avoid|until after|keep|otherwise|lest|than|about|approximately|old|optional(?:ly)?|possibly|perhaps|maybe)\b`)

// form is a line in the form its verb knows, and what of it stands in a note.
type form struct {
	line, note string
	// ask is set where it is a question: what it says may be meant otherwise.
	ask bool
}

// mostForms bounds how many forms of one line are read.
const mostForms = 40

// forms are the forms a line may be read in, the nearest first.
func (lex *Lexicon) forms(line string) []form {
	var out []form
	add := func(f form) {
		f.line = strings.TrimRight(strings.Join(strings.Fields(strings.ReplaceAll(f.line, " The ", " the ")), " "), " .,")
		if len(out) < mostForms && f.line != "" && f.line != line && !slices.ContainsFunc(out, func(o form) bool { return o.line == f.line && o.note == f.note }) {
			out = append(out, f)
		}
	}
	// What stands beside the instruction is put into a note first; the rest is a line.
	bodies := []form{{line: line}}
	if m := holding.FindStringSubmatch(line); m != nil && turnable.MatchString(m[1]) {
		bodies = append(bodies, form{line: m[3] + ", held with " + m[2]})
	}
	if m := heldBehind.FindStringSubmatch(line); m != nil && turnable.MatchString(m[2]) {
		bodies = append(bodies, form{line: m[1] + ", held with " + m[3]})
	}
	if m := trailed.FindStringSubmatch(line); m != nil && !lex.reads(m[2]) {
		bodies = append(bodies, form{line: m[1], note: m[2]})
	}
	if m := behind.FindStringSubmatch(line); m != nil && lex.beside(m[2]) {
		bodies = append(bodies, form{line: m[1], note: m[2]})
	}
	if m := atLeast.FindStringSubmatch(line); m != nil {
		bodies = append(bodies, form{line: m[1] + " " + m[3], note: m[2] + " " + m[3]})
	}
	if m := firstOf.FindStringSubmatch(line); m != nil {
		bodies = append(bodies, form{line: m[1], note: "first of all"})
	}
	for _, b := range bodies {
		if m := fronted.FindStringSubmatch(b.line); m != nil && lex.beside(m[1]) {
			bodies = append(bodies, form{line: m[2], note: joinNotes(m[1], b.note)})
		}
	}
	for _, b := range bodies {
		if turnsRound.MatchString(b.line) {
			continue
		}
		for _, v := range lex.spelt(b.line) {
			if v != line || b.note != "" {
				add(form{v, b.note, false})
			}
			lex.ordered(v, func(l string, ask bool) {
				// With a note behind it, what stands so is to be done; what is allowed stays allowed.
				if ask && b.note != "" && allowed.MatchString(v) {
					return
				}
				add(form{l, b.note, ask && b.note == ""})
			})
		}
	}
	return out
}

// gerunds are verbs as they stand behind before and after.
var gerunds = map[string]string{
	"removing": "remove", "renewing": "renew", "replacing": "replace", "tightening": "tighten", "slackening": "slacken", "loosening": "slacken", "fitting": "fit", "refitting": "refit", "installing": "install",
	"reinstalling": "reinstall", "inserting": "insert", "locking": "lock", "unlocking": "unlock", "releasing": "release", "setting": "set", "turning": "turn", "rotating": "turn", "checking": "check",
	"draining": "drain", "disconnecting": "disconnect", "connecting": "connect", "reconnecting": "connect", "taking off": "take off", "taking out": "take out", "putting back": "put back", "undoing": "undo", "pinning": "pin",
	"starting": "start", "measuring": "measure", "cleaning": "clean", "laying": "lay", "withdrawing": "take out",
}

var (
	beforeAfter = regexp.MustCompile(`(?i)^(?:before|after|following|prior to|having) ([a-z]+(?: (?:off|out|back))?) (.+)$`)
	beforeNoun  = regexp.MustCompile(`(?i)^(?:before|after|following|prior to) (?:the )?(removal|replacement|renewal) of (.+)$`)
	beforeFit   = regexp.MustCompile(`(?i)^(?:before|after|following|prior to) (?:the )?(?:installation|refitting|fitting|insertion) of (.+)$`)
	untilIs     = regexp.MustCompile(`(?i)^(?:before|after) (.+)$`)
	inOrder     = regexp.MustCompile(`(?i)^(?:in order )?to (.+)$`)
	withFitted  = regexp.MustCompile(`(?i)^(?:with|once) (.+?) (?:is |are |has been |have been )?(fitted|removed|installed|inserted|in place|in|off|out|slackened|loose|released|locked|refitted|renewed|tightened)$`)
)

// beside reports whether what stands before an instruction is another one whole: before
// removing the belt, with the crank pin fitted, in order to fit the pin. It says when, or with
// what, and stands in a note.
func (lex *Lexicon) beside(clause string) bool {
	whole := func(line string) bool {
		r := read(lex, line)
		return r.Read() && r.Action.Verb() != "do" || r.best != nil && len(r.best.left) == 0
	}
	if turnsRound.MatchString(clause) {
		return false
	}
	if state.MatchString(clause) {
		return true
	}
	if m := beforeAfter.FindStringSubmatch(clause); m != nil {
		first, more, _ := strings.Cut(m[1], " ")
		verb, ok := gerunds[strings.ToLower(m[1])]
		if !ok {
			if verb, ok = gerunds[strings.ToLower(first)]; ok && more != "" {
				verb += " " + more
			}
		}
		if ok {
			return whole(verb + " " + m[2])
		}
	}
	if m := withFitted.FindStringSubmatch(clause); m != nil {
		state := strings.ToLower(m[2])
		if v, ok := participles[state]; ok {
			return whole(v + " " + m[1])
		}
		for _, v := range append(whither[state], "fit") {
			if whole(v + " " + m[1]) {
				return true
			}
		}
		return false
	}
	if m := beforeNoun.FindStringSubmatch(clause); m != nil {
		return whole(map[string]string{"removal": "remove", "replacement": "renew", "renewal": "renew"}[strings.ToLower(m[1])] + " " + m[2])
	}
	if m := beforeFit.FindStringSubmatch(clause); m != nil {
		return whole("fit " + m[1])
	}
	if m := untilIs.FindStringSubmatch(clause); m != nil {
		if m := stated.FindStringSubmatch(m[1]); m != nil {
			verb, ok := participles[strings.ToLower(m[2])]
			return ok && m[3] == "" && whole(verb+" "+m[1])
		}
		return false
	}
	if m := inOrder.FindStringSubmatch(clause); m != nil {
		return whole(m[1])
	}
	return false
}

func joinNotes(a, b string) string {
	if b == "" {
		return a
	}
	return a + "; " + b
}

// spelt is a line with its shortened and its spoken words written out, in every way that they
// may be; the line itself comes first.
func (lex *Lexicon) spelt(line string) []string {
	out := []string{line}
	line = digits(line)
	plain := fillers.ReplaceAllString(said.ReplaceAllString(line, ""), "")
	words := strings.Fields(plain)
	lines := []string{""}
	for _, w := range words {
		key := strings.ToLower(strings.TrimRight(w, ".,;:"))
		end := strings.TrimLeft(w[len(key):], ".")
		full, ok := short[key]
		if !ok || lex.knows(key) {
			full = []string{w}
			end = ""
		}
		var next []string
		for _, l := range lines {
			for _, f := range full {
				if len(next) < 6 {
					next = append(next, strings.TrimSpace(l+" "+f+end))
				}
			}
		}
		lines = next
	}
	for _, l := range lines {
		l = strings.ReplaceAll(l, " & ", " and ")
		was := ""
		for pass := 0; pass < 4 && l != was && len(l) <= maxLine; pass++ { // one may make room for another
			was = l
			for i := range spoken {
				if spoken[i].said.MatchString(l) {
					l = spoken[i].said.ReplaceAllString(l, spoken[i].read)
				}
			}
		}
		if !slices.Contains(out, l) {
			out = append(out, l)
		}
	}
	return out
}

var (
	ones    = []string{"", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve", "thirteen", "fourteen", "fifteen", "sixteen", "seventeen", "eighteen", "nineteen"}
	tens    = []string{"", "", "twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"}
	numbers = regexp.MustCompile(`(?i)\b(?:(a |one )?hundred(?: and)? ?)?(?:(twenty|thirty|forty|fifty|sixty|seventy|eighty|ninety)(?:[- ](one|two|three|four|five|six|seven|eight|nine))?|(ten|eleven|twelve|thirteen|fourteen|fifteen|sixteen|seventeen|eighteen|nineteen|one|two|three|four|five|six|seven|eight|nine))?( (?:newton|nm|n·m|degrees?|minutes?|mins?|seconds?|pound))`)
)

// digits writes numbers that are said in words before a unit as figures.
func digits(line string) string {
	return numbers.ReplaceAllStringFunc(line, func(m string) string {
		p := numbers.FindStringSubmatch(m)
		if p == nil {
			return m // a unit alone
		}
		n := 0
		if strings.Contains(strings.ToLower(m), "hundred") {
			n = 100
		}
		n += 10 * max(slices.Index(tens, strings.ToLower(p[2])), 0)
		if p[3] != "" {
			n += slices.Index(ones, strings.ToLower(p[3]))
		}
		if p[4] != "" {
			n += slices.Index(ones, strings.ToLower(p[4]))
		}
		if n == 0 {
			return m
		}
		return strconv.Itoa(n) + p[5]
	})
}

// ordered gives a line with its verb put first.
func (lex *Lexicon) ordered(line string, add func(line string, ask bool)) {
	for k, re := range []*regexp.Regexp{passive, stated, allowed} {
		if m := re.FindStringSubmatch(line); m != nil {
			verb, ok := participles[strings.ToLower(m[2])]
			rest := m[3]
			if !ok { // the second word was no particle
				first, more, _ := strings.Cut(m[2], " ")
				if verb, ok = participles[strings.ToLower(first)]; ok {
					rest = " " + more + rest
				}
			}
			if ok {
				// What is allowed may be left; what stands so may be how it is found.
				add(verb+" "+m[1]+rest, k == 2 || k == 1 && strings.TrimSpace(rest) == "")
			}
		}
	}
	if m := objectFirst.FindStringSubmatch(line); m != nil {
		for _, v := range whither[strings.ToLower(m[2])] {
			add(v+" "+m[1]+m[3], false)
		}
		if strings.EqualFold(m[2], "in") && movesIn.MatchString(line) { // or whether it does
			add("check that "+line, false)
		}
	}
	if turnFirst.MatchString(line) && !ofBolt.MatchString(line) && (!strings.Contains(line, "deg") && !strings.Contains(line, "°") || wayRound.MatchString(line)) {
		add("turn the crank "+line, false)
	}
	if shaftFirst.MatchString(line) {
		add("turn "+line, false)
	}
	if setTo.MatchString(line) {
		add("set "+line, false)
	}
	if m := ofPart.FindStringSubmatch(line); m != nil { // what is tightened of a part is what holds it
		add(m[1]+" "+m[2]+" bolts"+m[3], true)
		add(m[1]+" "+m[2]+" bolt"+m[3], true)
	}
	if m := valueFirst.FindStringSubmatch(line); m != nil {
		add("tighten "+m[1]+" "+m[2], false)
	}
}

// formed reads a line in another form than its own: as the one step that all its forms read as,
// or with a question where they differ.
func (lex *Lexicon) formed(line string) (Reading, bool) {
	var found []Reading
	var lines []string
	var choices, parts []string
	ask := false
	forms := lex.forms(line)
	for _, f := range forms {
		r := read(lex, f.line)
		if !r.Read() && r.best != nil && f.note == "" && len(choices) == 0 {
			choices = r.best.choices(lex) // it lacks an answer, and no word
		}
		if !r.Read() || r.Action.Verb() == "do" {
			continue
		}
		if c, ok := r.Action.(*step.Check); ok && len(step.Refs(c)) == 0 && (f.note != "" || strings.HasSuffix(c.That, "goes in")) {
			continue // words of its own: that is not what was typed
		}
		if v := r.Action.Verb(); (v == "slacken" || v == "tighten") && strings.HasPrefix(strings.ToLower(f.note), "with ") {
			continue // what is in may be meant to hold it: the verb knows that form, and refused it
		}
		if f.note != "" {
			r.Note = strings.TrimSpace(r.Note + " " + message.Capital(f.note) + ".")
		}
		if slices.ContainsFunc(found, func(o Reading) bool { return step.SameAction(o.Action, r.Action) }) {
			continue
		}
		ask = ask || f.ask
		found, lines = append(found, r), append(lines, f.line)
	}
	switch {
	case len(found) == 0 && len(choices) > 0:
		return Reading{Action: &step.Do{Text: line, Unread: true}, Line: line, Problem: "several things are called so", Unread: [][2]int{{0, len(line)}}, Choices: choices}, true
	case len(found) == 0:
		for _, f := range forms {
			if f.note == "" && parts == nil {
				parts = lex.parts(f.line)
			}
		}
		if parts == nil {
			parts = lex.pieces(line)
		}
		if parts == nil {
			return Reading{}, false
		}
		return Reading{Action: &step.Do{Text: line, Unread: true}, Line: line, Problem: "it gives " + unit.Number(float64(len(parts))) + " instructions, and a step is one", Parts: parts}, true
	case len(found) == 1 && !ask:
		return Reading{Action: found[0].Action, Phase: found[0].Phase, Line: line, Note: found[0].Note}, true
	}
	if slices.ContainsFunc(found, func(r Reading) bool { return r.Note != "" }) {
		return Reading{}, false // an answer would be without what stands beside it
	}
	why := "it can be read in more than one way"
	if len(found) == 1 {
		why = "it may be meant otherwise"
	}
	return Reading{Action: &step.Do{Text: line, Unread: true}, Line: line, Problem: why, Unread: [][2]int{{0, len(line)}}, Choices: lines}, true
}

var joints = regexp.MustCompile(`(?i)\s*(?:[,;]|\band then\b|\band\b|\bthen\b)\s+`)

// pieces takes a line of several instructions in other forms apart: cam bar out, crank pin out.
// A value alone is that of the bolts of what stands before it. Nothing of the line is lost.
func (lex *Lexicon) pieces(line string) []string {
	all := joints.Split(line, -1)
	if m := newValue.FindStringSubmatch(line); m != nil { // a new bolt, and what it is tightened to
		if _, renews := lex.one("renew " + m[1]); renews || lex.reads("renew "+m[1]) {
			all = []string{"renew " + m[1], "tighten " + m[1] + " to " + m[2]}
		}
	} else if m := backValue.FindStringSubmatch(line); m != nil && len(all) == 1 {
		all = []string{m[1], m[2]}
	}
	if len(all) < 2 || len(all) > maxCuts || turnsRound.MatchString(line) {
		return nil
	}
	var before step.Action
	for i, p := range all {
		if p = strings.TrimSpace(p); before != nil && p != "" {
			if p[0] >= '0' && p[0] <= '9' {
				p = "tighten its bolts to " + p
			}
			said, ok := lex.named(p, before)
			if !ok {
				return nil
			}
			p = said
		}
		r := read(lex, p)
		if !r.Read() {
			f, ok := lex.one(p)
			if !ok {
				return nil
			}
			r = f
		}
		if r.Action.Verb() == "do" {
			return nil
		}
		all[i], before = p, r.Action
	}
	return all
}

// one is a line in another form, where it reads as one step.
func (lex *Lexicon) one(line string) (Reading, bool) {
	var out *Reading
	for _, f := range lex.forms(line) {
		if r := read(lex, f.line); r.Read() && r.Action.Verb() != "do" && f.note == "" && !f.ask {
			if out != nil && !step.SameAction(out.Action, r.Action) {
				return Reading{}, false
			}
			out = &r
		}
	}
	if out == nil {
		return Reading{}, false
	}
	return *out, true
}
