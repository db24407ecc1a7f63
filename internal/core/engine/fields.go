package engine

import (
	"fmt"
	"math"
	"reflect"
	"strconv"
	"strings"
	"unicode"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/unit"
)

// FieldKind says how a value of a thing is typed.
type FieldKind string

// The kinds of field.
const (
	WordsField    FieldKind = "words"
	FigureField   FieldKind = "figure"
	WholeField    FieldKind = "whole"
	QuantityField FieldKind = "quantity"
	TickField     FieldKind = "tick"
	ChoiceField   FieldKind = "choice"
	// OneField names one thing of the list Of, SeveralField some of them.
	OneField     FieldKind = "one"
	SeveralField FieldKind = "several"
	// LineField is a list that is written as one line and read by the server.
	LineField FieldKind = "line"
)

// Field is one value of a kind of thing on the sheet.
type Field struct {
	// List is the list of the thing, empty for a value of the sheet itself, Key the path
	// of the value in it: "frequency/note".
	List  string    `json:"list"`
	Key   string    `json:"key"`
	Label string    `json:"label"`
	Kind  FieldKind `json:"kind"`
	// Of is the list whose things it names; Choices what it may be.
	Of      string   `json:"of,omitzero"`
	Choices []string `json:"choices,omitzero"`
	// Called are what choices are called on the screens, where that is another word.
	Called map[string]string `json:"called,omitempty"`
	Unit   unit.Unit         `json:"unit,omitzero"`
	Hint   string            `json:"hint,omitzero"`
}

// labels are what the values are called on the screens, by list and path. A value
// that has none is not typed there: ids, places that are dragged, routes.
var labels = map[string]struct{ label, hint string }{
	"shafts/name": {"Name", ""}, "shafts/kind": {"Kind", ""}, "shafts/bank": {"Bank", ""}, "shafts/part": {"Part, where it comes out", ""}, "shafts/rests": {"Rests at, degrees of the cam", "−20, 160"},
	"shafts/lobes": {"Lobes for each valve, where more than one", ""}, "shafts/contact": {"Valves meet pistons from, degrees of the cam", ""}, "shafts/valves/opens": {"Valves open, crank degrees from gas-exchange TDC", "−12"}, "shafts/valves/closes": {"Valves close", "228"},
	"shafts/valves/lift": {"Valve lift", "9.2 mm"}, "shafts/valves/clear": {"Piston to valve at TDC", "3.4 mm"},

	"wheels/name": {"Name", ""}, "wheels/shaft": {"Shaft", ""}, "wheels/mount": {"Mount", ""}, "wheels/teeth": {"Teeth", ""}, "wheels/diameter": {"Diameter, mm", ""},
	"wheels/clamps": {"Clamped by", ""}, "wheels/part": {"Part", ""}, "wheels/taper": {"Sits fast until it is broken loose", ""}, "wheels/puller": {"Broken loose with", ""}, "wheels/seat": {"Phaser sits on its shaft by", ""}, "wheels/lip": {"Has a lip the loop goes over first", ""}, "wheels/range": {"Phaser’s range, degrees of the shaft", "50"}, "wheels/home": {"Phaser rests", ""},
	"loops/name": {"Name", ""}, "loops/kind": {"Kind", ""}, "loops/pitch": {"Pitch, mm", ""}, "loops/teeth": {"Teeth or links", ""}, "loops/thickness": {"Pitch line to back, mm", "1.4"},
	"loops/width": {"Width, mm", ""}, "loops/mass": {"Mass, g/m", ""}, "loops/standard": {"Standard", ""}, "loops/tensioner": {"Tensioner", ""}, "loops/part": {"Part", ""}, "loops/then": {"Then also tensioned by", ""}, "loops/half": {"Has a half link", ""}, "loops/starts": {"Laid first on", ""},
	"gears/name": {"Name", ""}, "gears/driver": {"Driver", ""}, "gears/driven": {"Driven", ""}, "gears/idlers": {"Idle gears between", ""}, "gears/module": {"Module, mm", ""}, "gears/inside": {"Inside a casing", ""},
	"marks/name": {"Name", ""}, "marks/kind": {"Kind", ""}, "marks/wheel": {"Wheel", ""}, "marks/loop": {"Belt or chain", ""}, "marks/at": {"Shaft angle at home, degrees", ""},
	"marks/clock": {"Pointer, degrees from twelve o’clock", ""}, "marks/link": {"Tooth or link", ""}, "marks/pointer": {"Meets", ""}, "marks/look": {"Looks like", ""},
	"marks/shows": {"Smallest error it shows, degrees", ""}, "marks/behind": {"Hidden by", ""}, "marks/shaft": {"On the shaft, if on no wheel", ""}, "marks/on": {"Pointer is on", ""},
	"locks/name": {"Name", ""}, "locks/kind": {"Kind", ""}, "locks/holds": {"Holds", ""}, "locks/at": {"Shaft angle where it goes in, degrees", ""}, "locks/repeats": {"Goes in, per turn", ""},
	"locks/play": {"Play, degrees", ""}, "locks/playMM": {"Play at a radius, mm", ""}, "locks/radius": {"Radius of that play, mm", ""}, "locks/carriesTorque": {"Carries bolt torque", ""},
	"locks/tool": {"Tool", ""}, "locks/access": {"Behind", ""}, "locks/screws": {"Own screws", ""}, "locks/also": {"Behind these too", ""}, "locks/wheel": {"Holds the wheel itself", ""}, "locks/meets": {"Met in", ""}, "locks/note": {"Note", "to the cam first, then to the head"},
	"tensioners/name": {"Name", ""}, "tensioners/method": {"Method", ""}, "tensioners/wheel": {"Wheel", ""}, "tensioners/pin": {"Pin", ""}, "tensioners/turn": {"Turned", ""},
	"tensioners/bolts": {"Bolts", ""}, "tensioners/part": {"Part", ""}, "tensioners/pointer": {"Pointer by temperature", "−20 °C: low of the notch; 10 °C: in the notch"},
	"tensioners/travel": {"Travel either side, mm", ""}, "tensioners/moves": {"Moves, degrees from twelve o’clock", ""}, "tensioners/settle": {"Turns to settle", ""}, "tensioners/wait": {"Wait after them", ""},
	"tensioners/length": {"Length before it is fitted", "68 mm"}, "tensioners/hold": {"Held with", "14 N·m"}, "tensioners/drags": {"Held while its bolt is tightened", ""}, "tensioners/gap": {"Gap to find", "4 ±0.5 mm"},
	"tensioners/frequency/from": {"Run from", ""}, "tensioners/frequency/to": {"Run to", ""}, "tensioners/frequency/note": {"Tone of the run", "116 ±8 Hz"}, "tensioners/frequency/first": {"First tone, before it settles", "138 Hz"},
	"tensioners/frequency/at": {"Crank angle when it is read, degrees", ""}, "tensioners/frequency/readings": {"Readings", "5"}, "tensioners/frequency/within": {"Readings lie within", "6 Hz"},
	"fasteners/name": {"Name", ""}, "fasteners/count": {"How many", ""}, "fasteners/thread": {"Thread", "M10×1.25"}, "fasteners/class": {"Class", "10.9"}, "fasteners/across": {"Across flats, mm", ""},
	"fasteners/grip": {"Clamped length, mm", ""}, "fasteners/plain": {"Shank without thread in it, mm", ""}, "fasteners/engaged": {"Thread in the part, mm", ""}, "fasteners/clamped": {"Clamps", ""}, "fasteners/into": {"Screwed into", ""}, "fasteners/ring": {"Passes torque on at a radius of, mm", ""},
	"fasteners/leftHand": {"Left-hand thread", ""}, "fasteners/onShaft": {"Turns the shaft", ""}, "fasteners/singleUse": {"Single use", ""}, "fasteners/lubricant": {"Lubrication", "oiled"},
	"fasteners/spec": {"Torque and angle", "60 N·m + 90°"}, "fasteners/pattern": {"Order of tightening", "crosswise"}, "fasteners/holdWith": {"Held with", ""}, "fasteners/part": {"New part", ""}, "fasteners/access": {"Behind", ""}, "fasteners/hazard": {"Danger", ""}, "fasteners/places": {"Where they sit, in order, mm", "0 0; 40 0; 40 60"}, "fasteners/nip": {"Nipped up first, to", "24 N·m"}, "fasteners/again": {"Tightened once more after the turns", ""}, "fasteners/after": {"Tightened after", ""},
	"parts/name": {"Name", ""}, "parts/kind": {"Kind", ""}, "parts/policy": {"Policy", ""}, "parts/if": {"Look for", ""}, "parts/held": {"Held by", ""}, "parts/seal": {"Seal renewed with it", ""},
	"parts/after": {"Comes off after", ""}, "parts/needs": {"Goes back", "with its arrow in running direction"}, "parts/hazard": {"Danger", ""}, "parts/sealant": {"Sealant, closed within", "10 min"},
	"parts/face": {"Goes on", ""}, "parts/with": {"Renewed with it", ""}, "parts/number": {"Part number", "20-0411"}, "parts/replaces": {"Replaces the numbers", "20-0398, 20-0402"}, "parts/every": {"Due every", "1500 h or 5 years"}, "parts/reset": {"Counter set back", "belt counter"}, "parts/hides": {"Covers the wheels", ""}, "parts/spills": {"Lets out", ""},
	"sources/number": {"Number", "EL-0418"}, "sources/kind": {"Kind", ""}, "sources/name": {"What it is about", ""}, "sources/issuer": {"Issued by", ""}, "sources/on": {"Date", "2024-02-12"}, "sources/replaced": {"Replaced by", ""},
	"fluids/name": {"Name", ""}, "fluids/amount": {"Amount", "6.5 L"}, "fluids/grade": {"Grade", ""}, "fluids/drain": {"Let out by", ""},
	"tools/number": {"Number", ""}, "tools/name": {"Name", ""}, "tools/kit": {"Kit", ""}, "tools/equivalents": {"May be replaced by", "TL-909 ±0.4"}, "tools/least": {"Least torque", ""}, "tools/most": {"Largest torque", ""}, "tools/lever": {"Grip to square, mm", ""}, "tools/reach": {"Adapter reaches further by, mm", ""}, "tools/bend": {"At this angle to the wrench, °", "0"}, "tools/ratio": {"Multiplies, times", ""}, "tools/efficiency": {"Share that comes through", ""},
	"readings/name": {"Name", "backlash of the pump gears"}, "readings/value": {"Passes at", "0.05–0.15 mm"}, "readings/place": {"Measured at", "three places"}, "readings/readings": {"Readings", ""}, "readings/shaft": {"Shows the place of", ""}, "readings/at": {"Shaft angle where it reads so, degrees", ""},
	"readings/shows": {"Smallest error it shows, degrees", ""}, "readings/gear": {"Tells of the gears", ""}, "readings/loop": {"Tells of the tension of", ""}, "readings/part": {"Tells of the seat of", ""}, "readings/behind": {"Hidden by", ""}, "readings/tool": {"Tool", ""},
	"banks/name": {"Name", ""}, "banks/cylinders": {"Cylinders", "1, 2, 3"},
}

// ownLabels are what the values that belong to no thing are called on the screens.
var ownLabels = map[string]string{
	"limits/camError": "greatest cam error, degrees", "limits/safeWindow": "safe window, degrees", "limits/rest": "rest position, degrees", "limits/tdc": "top dead centre, degrees", "limits/backOff": "allowed back-off, degrees",
	"years/from": "first year", "years/to": "last year", "firingOrder": "firing order", "firingAngles": "firing angles", "rod": "connecting rod", "running": "runs", "cycle": "cycle", "view": "seen from", "otherView": "other end",
	"sides": "left and right", "interference": "valves meet pistons", "use": "used in",
}

// called are what choices are called on the screens, by list, path and value.
var called = map[string]map[string]string{
	"marks/kind": {string(LoopMark): "on the belt or chain"},
	"parts/kind": {string(LoopPart): "belt or chain"},
}

// offered are words that are offered for a value that may be any other too.
var offered = map[string][]string{
	"fasteners/class":     bolt.Names(),
	"fasteners/lubricant": {"dry", "oiled", "greased", "thread lock"},
	"loops/standard":      {"ISO 9010", "ISO 5296", "ISO 13050", "ISO 17396", "ISO 606"},
}

// Label is what a value of a thing is called on the screens, by its list and path, in
// small letters; the path itself where it has no name of its own. A value that belongs
// to no thing goes by the name of it as its list, and what of it there is as its path.
func Label(list, key string) string {
	if l := ownLabels[strings.TrimSuffix(list+"/"+key, "/")]; l != "" {
		return l
	}
	if l, ok := labels[list+"/"+key]; ok {
		r := []rune(l.label)
		return strings.ToLower(string(r[:1])) + string(r[1:])
	}
	return key
}

// Fields are the values of the things of a sheet, list by list in the order the
// types have them: what a screen needs to let all of them be typed.
func Fields() []Field {
	var out []Field
	t := reflect.TypeFor[Sheet]()
	for i := range t.NumField() {
		list, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		switch e := t.Field(i).Type; {
		case e.Kind() == reflect.Slice && KindOn(list) != nil:
			out = fieldsIn(out, list, "", e.Elem())
		case ChoicesOf(e) != nil:
			out = append(out, Field{Key: list, Label: ownLabels[list], Kind: ChoiceField, Choices: ChoicesOf(e)})
		}
	}
	return out
}

func fieldsIn(out []Field, list, under string, t reflect.Type) []Field {
	for i := range t.NumField() {
		key, _, _ := strings.Cut(t.Field(i).Tag.Get("json"), ",")
		if key == "" {
			continue
		}
		key = under + key
		ft := t.Field(i).Type
		if ft.Kind() == reflect.Pointer && ft.Elem().Kind() == reflect.Struct {
			out = fieldsIn(out, list, key+"/", ft.Elem())
			continue
		}
		l, ok := labels[list+"/"+key]
		if !ok {
			continue
		}
		f := Field{List: list, Key: key, Called: called[list+"/"+key], Label: l.label, Hint: l.hint, Unit: BareUnits[list+"/*/"+key]}
		switch {
		case ft == reflect.TypeFor[unit.Quantity]():
			f.Kind = QuantityField
		case listNamed(ft) != "":
			f.Kind, f.Of = OneField, listNamed(ft)
		case ft == reflect.TypeFor[Hazard]():
			f.Kind = ChoiceField
			for _, h := range Hazards {
				f.Choices = append(f.Choices, string(h))
			}
		case ChoicesOf(ft) != nil:
			f.Kind, f.Choices = ChoiceField, ChoicesOf(ft)
		case offered[list+"/"+key] != nil:
			f.Kind, f.Choices = ChoiceField, offered[list+"/"+key]
		case ft.Kind() == reflect.Slice && listNamed(ft.Elem()) != "":
			f.Kind, f.Of = SeveralField, listNamed(ft.Elem())
		case ft.Kind() == reflect.Slice:
			f.Kind = LineField
		case ft.Kind() == reflect.Bool:
			f.Kind = TickField
		case ft.Kind() == reflect.Int:
			f.Kind = WholeField
		case ft.Kind() == reflect.Float64:
			f.Kind = FigureField
		default:
			f.Kind = WordsField
		}
		out = append(out, f)
	}
	return out
}

// Texts are the values that are written as one line, by their path.
func (s *Sheet) Texts() map[string]string {
	out := map[string]string{}
	for i := range s.Fasteners {
		out["fasteners/"+string(s.Fasteners[i].ID)+"/spec"] = StagesText(s.Fasteners[i].Spec)
	}
	for i := range s.Tensioners {
		var parts []string
		for _, p := range s.Tensioners[i].Pointer {
			parts = append(parts, p.From.String()+": "+p.Place)
		}
		out["tensioners/"+string(s.Tensioners[i].ID)+"/pointer"] = strings.Join(parts, "; ")
	}
	for i := range s.Tools {
		var parts []string
		for _, e := range s.Tools[i].Equivalents {
			parts = append(parts, fmt.Sprintf("%s ±%g", e.Number, e.Play))
		}
		out["tools/"+string(s.Tools[i].ID)+"/equivalents"] = strings.Join(parts, ", ")
	}
	for i := range s.Shafts {
		var parts []string
		for _, a := range s.Shafts[i].Rests {
			parts = append(parts, unit.Number(a))
		}
		out["shafts/"+string(s.Shafts[i].ID)+"/rests"] = strings.Join(parts, ", ")
	}
	for i := range s.Fasteners {
		var parts []string
		for _, p := range s.Fasteners[i].Places {
			parts = append(parts, unit.Number(p.X)+" "+unit.Number(p.Y))
		}
		out["fasteners/"+string(s.Fasteners[i].ID)+"/places"] = strings.Join(parts, "; ")
	}
	for i := range s.Banks {
		var parts []string
		for _, n := range s.Banks[i].Cylinders {
			parts = append(parts, fmt.Sprint(n))
		}
		out["banks/"+string(s.Banks[i].ID)+"/cylinders"] = strings.Join(parts, ", ")
	}
	return out
}

// lineWritten reads a list that was typed as one line; false where the place
// takes no line.
func lineWritten(path, line string) (any, bool, error) {
	keys := strings.Split(path, "/")
	if len(keys) != 3 {
		return nil, false, nil
	}
	var out any
	var err error
	switch keys[0] + "/" + keys[2] {
	case "tensioners/pointer":
		out, err = pointerOf(line)
	case "tools/equivalents":
		out, err = equivalentsOf(line)
	case "shafts/rests":
		out, err = anglesOf(line)
	case "fasteners/places":
		out, err = placesOf(line)
	case "banks/cylinders":
		out, err = countsOf(line)
	default:
		return nil, false, nil
	}
	if err != nil {
		return nil, true, &EditError{path, err.Error()}
	}
	if reflect.ValueOf(out).Len() == 0 {
		return nil, true, nil
	}
	return again(out), true, nil
}

func pointerOf(line string) ([]PointerAt, error) {
	out := []PointerAt{}
	for p := range strings.SplitSeq(line, ";") {
		if strings.TrimSpace(p) == "" {
			continue
		}
		from, place, ok := strings.Cut(p, ":")
		q, err := unit.Judge(unit.Bare(strings.TrimSpace(from), unit.Celsius))
		if !ok || err != nil || q.Kind() != unit.KindTemperature || strings.TrimSpace(place) == "" {
			return nil, fmt.Errorf("“%s” is no place by temperature; write “10 °C: pointer in the notch; 30 °C: pointer high of it”", strings.TrimSpace(p))
		}
		out = append(out, PointerAt{q, strings.TrimSpace(place)})
	}
	return out, nil
}

func equivalentsOf(line string) ([]Equivalent, error) {
	out := []Equivalent{}
	for _, p := range listOf(line) {
		number, play, _ := strings.Cut(p.(string), "±")
		e := Equivalent{Number: strings.TrimSpace(number)}
		if play = strings.TrimSuffix(strings.TrimSpace(play), "°"); play != "" {
			if _, err := fmt.Sscanf(strings.ReplaceAll(play, ",", "."), "%g", &e.Play); err != nil {
				return nil, fmt.Errorf("“%s” is no play in degrees; write “TL-909 ±0.4”", play)
			}
		}
		if !strings.ContainsFunc(e.Number, unicode.IsLetter) {
			return nil, fmt.Errorf("“%s” is no number of a tool; write “TL-909 ±0.4, TL-910 ±0.6”", p)
		}
		out = append(out, e)
	}
	return out, nil
}

func anglesOf(line string) ([]float64, error) {
	out := []float64{}
	for _, p := range listOf(line) {
		a, err := figureOf(strings.TrimSuffix(p.(string), "°"))
		if err != nil || math.Abs(a) > 360 {
			return nil, fmt.Errorf("“%s” is no angle of a cam; write “−20, 160”", p)
		}
		out = append(out, a)
	}
	return out, nil
}

func placesOf(line string) ([]Place, error) {
	out := []Place{}
	for p := range strings.SplitSeq(line, ";") {
		if strings.TrimSpace(p) == "" {
			continue
		}
		xy := strings.Fields(p)
		if len(xy) != 2 {
			return nil, fmt.Errorf("“%s” is no place; write across and up in millimetres, “0 0; 40 0; 40 60”, in the order of tightening", strings.TrimSpace(p))
		}
		x, errX := figureOf(xy[0])
		y, errY := figureOf(xy[1])
		if errX != nil || errY != nil {
			return nil, fmt.Errorf("“%s” is no place; write across and up in millimetres, “0 0; 40 0; 40 60”, in the order of tightening", strings.TrimSpace(p))
		}
		out = append(out, Place{x, y})
	}
	return out, nil
}

// figureOf reads a bare figure, with either minus.
func figureOf(s string) (float64, error) {
	return strconv.ParseFloat(strings.ReplaceAll(strings.TrimSpace(s), "−", "-"), 64)
}

func countsOf(line string) ([]int, error) {
	out := []int{}
	for _, p := range listOf(line) {
		n := 0
		if _, err := fmt.Sscanf(p.(string), "%d", &n); err != nil || n < 1 {
			return nil, fmt.Errorf("“%s” is no number of a cylinder", p)
		}
		out = append(out, n)
	}
	return out, nil
}
