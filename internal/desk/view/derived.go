package view

import (
	"fmt"
	"math"
	"strings"

	"inklatch/internal/core/bolt"
	"inklatch/internal/core/engine"
	"inklatch/internal/core/engine/piston"
	"inklatch/internal/core/engine/resolution"
	"inklatch/internal/core/engine/route"
	"inklatch/internal/core/engine/tension"
	"inklatch/internal/core/unit"
)

// Derived is what follows from the sheet by arithmetic.
type Derived struct {
	Shafts []DerivedShaft `json:"shafts"`
	Homes  []Home         `json:"homes"`
	Loops  []DerivedLoop  `json:"loops"`
	Errors Errors         `json:"errors"`
	Piston []PistonAt     `json:"piston"`
	// Stroke and Rod are millimetres, 0 where one of them is missing.
	Stroke float64 `json:"stroke"`
	Rod    float64 `json:"rod"`
	// Sources are the safety-relevant things and where each comes from.
	Sources []Source `json:"sources"`
	// Units are what bare numbers mean, by place.
	Units map[string]unit.Unit `json:"units"`
	// Texts are the lists that are typed as one line, by their path.
	Texts map[string]string `json:"texts"`
	// Bolts are what the fasteners’ torques do to them, by id; without those whose thread or
	// class is not known.
	Bolts map[string]DerivedBolt `json:"bolts"`
	// Cases lays each list of cases along the model years.
	Cases []CasesByYear `json:"cases"`
	// FirstCases are what cases of another thing would start from.
	FirstCases []engine.Case `json:"firstCases"`
	// Cycle is the number of crank turns after which everything stands again as
	// at the timing position, loops not counted.
	Cycle int64 `json:"cycle"`
}

// DerivedBolt is what its torque does to a fastener.
type DerivedBolt struct {
	// Clamp is the clamp load, kN, and OfYield the share of yielding it is taken to by its
	// last torque, each from the greatest friction to the least: “19–35”. Where nobody says
	// how the thread is the band is too wide for a share to tell anything.
	Clamp   string `json:"clamp"`
	OfYield string `json:"ofYield,omitzero"`
	// On says how far it is turned on after that: “90 ±5°”.
	On string `json:"on,omitzero"`
	// Verdict is what speaks against it, empty for nothing.
	Verdict bolt.Verdict `json:"verdict,omitzero"`
	// Reuse is what the angle behind the torque takes it to, where that is known.
	Reuse bolt.Reuse `json:"reuse,omitzero"`
}

// boltsOf are the fasteners that can be worked out.
func boltsOf(s *engine.Sheet) map[string]DerivedBolt {
	out := map[string]DerivedBolt{}
	for i := range s.Fasteners {
		f := &s.Fasteners[i]
		b, known := f.Bolt()
		if !known {
			continue
		}
		for k := len(f.Spec) - 1; k >= 0; k-- {
			low, high, ok := bolt.Ends(f.Spec[k].Torque)
			if !ok {
				continue
			}
			c := b.Clamp(low)
			c.High = b.Clamp(high).High
			of := b.OfYield(low)
			of.High = b.OfYield(high).High
			d := DerivedBolt{Clamp: fmt.Sprintf("%s–%s", unit.Number(unit.Round(float64(c.Low)/1000)), unit.Number(unit.Round(float64(c.High)/1000))), Verdict: b.Judge(low, high, k < len(f.Spec)-1)}
			if f.Lubricant != "" {
				d.OfYield = fmt.Sprintf("%.2f–%.2f", of.Low, of.High)
			}
			if k < len(f.Spec)-1 {
				d.On = engine.StagesText(f.Spec[k+1:])
			}
			if steps, ok := engine.WrenchSteps(f.Spec); ok && f.Lubricant != "" {
				if c, ok := b.Through(f.Joint(), steps); ok && d.On != "" {
					d.On, d.OfYield, d.Reuse = "", "", c.Reuse
					d.Clamp = fmt.Sprintf("%s–%s", unit.Number(unit.Round(float64(c.Final.Low)/1000)), unit.Number(unit.Round(float64(c.Final.High)/1000)))
				}
			}
			out[string(f.ID)] = d
			break
		}
	}
	return out
}

// Source is a safety-relevant thing and where its values come from.
type Source struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Source string `json:"source"`
	By     string `json:"by"`
	On     string `json:"on"`
	// In is the document of the sheet that it stands in, and Place where.
	In    engine.SourceID `json:"in,omitzero"`
	Place string          `json:"place,omitzero"`
}

// CasesByYear is one list of cases along the model years; empty where a year
// alone does not tell.
type CasesByYear struct {
	ID    string             `json:"id"`
	Years []engine.YearCases `json:"years"`
	// Lines are the cases as they are typed.
	Lines []engine.CaseLine `json:"lines"`
}

// Pluck is the run whose note is read, with what its tension follows from.
type Pluck struct {
	Length    float64 `json:"length"`
	Mass      float64 `json:"mass"`
	Note      float64 `json:"note"`
	Tolerance float64 `json:"tolerance"`
}

// DerivedShaft is a shaft's ratio to the crank and what one tooth is worth.
type DerivedShaft struct {
	ID    string `json:"id"`
	Name  string `json:"name"`
	Ratio string `json:"ratio"`
	Way   string `json:"way"`
	Tooth string `json:"tooth"`
	Every int64  `json:"every"`
}

// Home is how often a mark or lock stands home.
type Home struct {
	Ref   string `json:"ref"`
	Name  string `json:"name"`
	Kind  string `json:"kind"`
	Every int64  `json:"every"`
	Says  string `json:"says"`
	// Stroke is set when it tells TDC firing from TDC exhaust.
	Stroke bool `json:"stroke"`
}

// DerivedLoop holds the way round the wheels against the loop's own length, mm.
type DerivedLoop struct {
	ID     string  `json:"id"`
	Name   string  `json:"name"`
	Teeth  int     `json:"teeth"`
	Pitch  float64 `json:"pitch"`
	Length float64 `json:"length"`
	Path   float64 `json:"path"`
	Least  float64 `json:"least"`
	Most   float64 `json:"most"`
	Sits   float64 `json:"sits"`
	Travel float64 `json:"travel"`
	Closes bool    `json:"closes"`
	// Stretch is per cent of the length.
	Stretch float64 `json:"stretch"`
	Ease    float64 `json:"ease"`
	Says    string  `json:"says"`
	// Closings are the counts that close with the wheels where they stand, or the
	// nearest that would.
	Closings []DerivedClosing `json:"closings"`
	Wheels   []DerivedWheel   `json:"wheels"`
	Runs     []DerivedRun     `json:"runs"`
	Links    []DerivedLink    `json:"links"`
	Wear     []DerivedLag     `json:"wear"`
	// Worn says how worn the loop is that Wear speaks of.
	Worn  string `json:"worn"`
	Note  string `json:"note,omitzero"`
	Pluck *Pluck `json:"pluck,omitempty"`
}

// DerivedClosing is a count of teeth or links and where the roller stands with it.
type DerivedClosing struct {
	Teeth int  `json:"teeth"`
	Fits  bool `json:"fits"`
	// Off is how much longer the way round is with the roller in its middle, Sits how
	// far from there it would stand, mm; Found is false where no place of it closes.
	Off   float64 `json:"off"`
	Sits  float64 `json:"sits"`
	Found bool    `json:"found"`
	// Wheel is moved to X and Y for this count, mm.
	Wheel string  `json:"wheel"`
	X     float64 `json:"x"`
	Y     float64 `json:"y"`
}

// DerivedWheel is how a wheel sits in a loop.
type DerivedWheel struct {
	Wheel  string  `json:"wheel"`
	Name   string  `json:"name"`
	Wrap   float64 `json:"wrap"`
	InMesh float64 `json:"inMesh"`
	Way    string  `json:"way"`
}

// DerivedRun is a straight part of a loop.
type DerivedRun struct {
	From   string  `json:"from"`
	To     string  `json:"to"`
	Length float64 `json:"length"`
	Role   string  `json:"role"`
}

// DerivedLink is a coloured link by the geometry and by the sheet.
type DerivedLink struct {
	Mark string  `json:"mark"`
	Name string  `json:"name"`
	Want float64 `json:"want"`
	Says int     `json:"says"`
}

// DerivedLag is how late a shaft runs with the loop worn.
type DerivedLag struct {
	Shaft string  `json:"shaft"`
	Of    float64 `json:"of"`
	Crank float64 `json:"crank"`
}

// Errors is the table “error × can be seen by”.
type Errors struct {
	Sights []Sight     `json:"sights"`
	Rows   []ErrorSeen `json:"rows"`
}

// Sight is a column: a lock, an equivalent tool or a mark.
type Sight struct {
	Name  string  `json:"name"`
	Shaft string  `json:"shaft"`
	Least float64 `json:"least"`
	Crank float64 `json:"crank"`
}

// ErrorSeen is a row of it; Seen runs beside the sights.
type ErrorSeen struct {
	Name  string   `json:"name"`
	Shaft string   `json:"shaft"`
	Of    float64  `json:"of"`
	Crank float64  `json:"crank"`
	Seen  []string `json:"seen"`
	// Room is what is left between valves and pistons then, mm, below zero where they
	// meet; absent where the sheet does not say enough.
	Room *float64 `json:"room,omitempty"`
}

// PistonAt is where the piston stands near top dead centre.
type PistonAt struct {
	Deg   float64 `json:"deg"`
	Drop  float64 `json:"drop"`
	Slope float64 `json:"slope"`
}

// round keeps a figure to d decimals, so that what is shown is what is sent.
func round(v float64, d int) float64 {
	k := math.Pow10(d)
	v = math.Round(v*k) / k
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return 0
	}
	return v
}

// DerivedOf works the arithmetic of a sheet out.
func DerivedOf(x *engine.Index) *Derived {
	s := x.Sheet
	d := &Derived{Shafts: []DerivedShaft{}, Homes: []Home{}, Loops: []DerivedLoop{}, Piston: []PistonAt{}, Cycle: x.CycleHome()}
	teeth := resolution.Teeth(x)
	for i := range s.Shafts {
		d.Shafts = append(d.Shafts, shaftOf(x, i, teeth))
	}
	d.homes(x)
	for i := range s.Loops {
		d.Loops = append(d.Loops, derivedLoop(x, &s.Loops[i]))
	}
	d.Errors = errorsOf(x)
	d.Sources, d.Cases = []Source{}, []CasesByYear{}
	for _, r := range s.SafetyRelevant() {
		e := s.Evidence[r.ID]
		d.Sources = append(d.Sources, Source{r.ID, r.Name, x.Cited(e), e.By, e.On, e.In, e.Place})
	}
	d.Units, d.Texts = engine.BareUnits, s.Texts()
	d.FirstCases, d.Bolts = engine.FirstCases(s), boltsOf(s)
	for i := range s.Varies {
		d.Cases = append(d.Cases, CasesByYear{s.Varies[i].ID, append([]engine.YearCases{}, s.Varies[i].ByYear(s)...), s.Varies[i].Lines()})
	}
	if g, ok := piston.GearOf(s); ok {
		d.Stroke, d.Rod = g.Stroke, g.Rod
		for _, a := range []float64{1, 2, 5, 10, 20, 30} {
			at := float64(g.Top()) + a
			d.Piston = append(d.Piston, PistonAt{a, round(float64(g.Drop(unit.Angle(at))), 3), round(-float64(g.Slope(unit.Angle(at))), 4)})
		}
	}
	return d
}

func shaftOf(x *engine.Index, i int, teeth []resolution.Tooth) DerivedShaft {
	sh := &x.Sheet.Shafts[i]
	r := DerivedShaft{ID: string(sh.ID), Name: sh.Name, Ratio: "not driven", Way: string(x.Direction(i)), Every: x.ShaftHomeEvery(sh.ID, 1)}
	if dr := x.Drive(i); dr.Driven {
		r.Ratio = dr.Ratio.Abs().String()
	}
	for _, v := range teeth {
		if v.Shaft != sh.ID {
			continue
		}
		if r.Tooth = fmt.Sprintf("%.1f°", v.OfShaft); v.OfCrank != v.OfShaft {
			r.Tooth += fmt.Sprintf(" (%.1f° crank)", v.OfCrank)
		}
		break
	}
	return r
}

func (d *Derived) homes(x *engine.Index) {
	s := x.Sheet
	for i := range s.Locks {
		if n := x.LockHomeEvery(&s.Locks[i]); n > 0 {
			d.Homes = append(d.Homes, Home{"lock:" + string(s.Locks[i].ID), s.Locks[i].Name, string(s.Locks[i].Kind), n, every(n), s.TellsStroke(n)})
		}
	}
	for i := range s.Marks {
		m := &s.Marks[i]
		if n := x.MarkHomeEvery(m); n > 0 && m.Kind != engine.LookAlike {
			kind := "mark"
			if m.Kind == engine.LoopMark {
				kind = "mark on the belt or chain"
			}
			d.Homes = append(d.Homes, Home{"mark:" + string(m.ID), m.Name, kind, n, every(n), m.Kind == engine.TimingMark && s.TellsStroke(n)})
		}
	}
}

func derivedLoop(x *engine.Index, l *engine.Loop) DerivedLoop {
	r := DerivedLoop{ID: string(l.ID), Name: l.Name, Teeth: l.Teeth, Pitch: l.Pitch, Length: round(float64(l.Length()), 1), Closings: []DerivedClosing{}, Wheels: []DerivedWheel{}, Runs: []DerivedRun{}, Links: []DerivedLink{}, Wear: []DerivedLag{}}
	p, err := route.Of(x, l)
	if err != nil {
		r.Says = err.Error()
		return r
	}
	r.Path = round(float64(p.Length()), 1)
	if t := x.Tensioner(l.Tensioner); t != nil {
		r.Travel = t.Travel
		r.Note, r.Pluck = noteOf(x, l, t, p)
	}
	if k, err := route.Take(x, l); err == nil {
		r.Least, r.Most, r.Sits, r.Closes = round(k.Least, 1), round(k.Most, 1), round(k.Sits, 2), k.Closes
		r.Stretch, r.Ease = round(k.Stretch, 2), round(k.Ease, 1)
		r.Says = closing(l, k)
	}
	if cs, err := route.Closings(x, l); err == nil {
		for _, c := range cs {
			v := DerivedClosing{Teeth: c.Teeth, Fits: c.Fits, Off: round(c.Off, 1), Sits: round(c.Sits, 1), Found: c.Found, X: round(c.At.X, 1), Y: round(c.At.Y, 1)}
			if c.Found {
				v.Wheel = string(x.Tensioner(l.Tensioner).Wheel)
			}
			r.Closings = append(r.Closings, v)
		}
	}
	for _, m := range route.Meetings(x, p) {
		r.Wheels = append(r.Wheels, DerivedWheel{string(m.Wheel), wheelName(x, m.Wheel), round(m.Wrap, 1), round(m.InMesh, 1), string(m.Way)})
	}
	for _, v := range p.Runs {
		r.Runs = append(r.Runs, DerivedRun{wheelName(x, v.From), wheelName(x, v.To), round(float64(v.Length()), 1), string(v.Role)})
	}
	if ls, err := route.Coloured(x, l); err == nil {
		for _, k := range ls {
			r.Links = append(r.Links, DerivedLink{string(k.Mark), x.Mark(k.Mark).Name, round(k.Want, 1), k.Says})
		}
	}
	percent := 1.0
	r.Worn = "One per cent longer"
	if l.Kind == engine.Chain {
		percent, r.Worn = resolution.Links(2, l), "Two links longer in all"
	}
	if lags, err := resolution.Wear(x, l, percent); err == nil {
		for _, g := range lags {
			r.Wear = append(r.Wear, DerivedLag{x.Shaft(g.Shaft).Name, round(g.OfShaft, 2), round(g.OfCrank, 2)})
		}
	}
	return r
}

func wheelName(x *engine.Index, id engine.WheelID) string {
	if w := x.Wheel(id); w != nil {
		return w.Name
	}
	return string(id)
}

func closing(l *engine.Loop, k *route.TakeUp) string {
	if !k.Closes {
		return minus(fmt.Sprintf("does not close: the way round is %.1f mm off, about %.1f teeth", float64(k.Off()), float64(k.Off())/l.Pitch))
	}
	if k.Most == k.Least {
		return fmt.Sprintf("closes within %.1f mm", math.Abs(float64(k.Off())))
	}
	return minus(fmt.Sprintf("closes with the tensioner %+.1f mm from the middle; %.1f %% of stretch can be taken up", k.Sits, k.Stretch))
}

// minus writes a true minus sign.
func minus(s string) string { return strings.ReplaceAll(s, " -", " −") }

// noteOf is the tension the note of a run stands for.
func noteOf(x *engine.Index, l *engine.Loop, t *engine.Tensioner, p *route.Path) (string, *Pluck) {
	f := t.Frequency
	if f == nil || l.Mass <= 0 || f.Note.Kind() != unit.KindFrequency {
		return "", nil
	}
	for _, r := range p.Runs {
		if (r.From == f.From && r.To == f.To) || (r.From == f.To && r.To == f.From) {
			run := tension.Run{Length: float64(r.Length()), Mass: l.Mass}
			v := f.Note.Nominal()
			least, most := f.Note.Bounds()
			tol := (most - least) / 2
			says := fmt.Sprintf("%s on the run %s–%s of %.1f mm stands for %.0f N; the window is %.0f to %.0f N", f.Note, wheelName(x, f.From), wheelName(x, f.To), float64(r.Length()), float64(run.Tension(unit.Frequency(v))), float64(run.Tension(unit.Frequency(least))), float64(run.Tension(unit.Frequency(most))))
			return says, &Pluck{round(float64(r.Length()), 1), l.Mass, v, tol}
		}
	}
	return "", nil
}

func errorsOf(x *engine.Index) Errors {
	t := resolution.TableOf(x)
	out := Errors{Sights: []Sight{}, Rows: []ErrorSeen{}}
	seen := map[string]int{}
	for i := range t.Sights {
		seen[t.Sights[i].Name]++
	}
	for i := range t.Sights {
		g := &t.Sights[i]
		name := g.Name
		if seen[name] > 1 {
			name += ", " + x.Shaft(g.Shaft).Name
		}
		out.Sights = append(out.Sights, Sight{name, x.Shaft(g.Shaft).Name, round(g.Least, 2), round(g.OfCrank, 2)})
	}
	for i := range t.Errors {
		e := &t.Errors[i]
		r := ErrorSeen{e.Name, x.Shaft(e.Shaft).Name, round(e.OfShaft, 2), round(e.OfCrank, 2), []string{}, nil}
		if e.Valves {
			room := round(e.Room, 1)
			r.Room = &room
		}
		for _, a := range e.Seen {
			r.Seen = append(r.Seen, string(a))
		}
		out.Rows = append(out.Rows, r)
	}
	return out
}

func every(n int64) string {
	if n == 1 {
		return "every turn"
	}
	return fmt.Sprintf("every %d turns", n)
}
