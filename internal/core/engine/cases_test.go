package engine_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
)

func sheet(t testing.TB, name string) *engine.Sheet {
	t.Helper()
	return &fixture.Document(name).Engine
}

func years(from, to int) engine.When { return engine.When{Years: engine.Years{From: from, To: to}} }

func TestCasesThatCoverEachEngineOnce(t *testing.T) {
	s := &engine.Sheet{Years: engine.Years{From: 2019, To: 2024}}
	option := func(with, without string) engine.When {
		var w engine.When
		if with != "" {
			w.With = []string{with}
		}
		if without != "" {
			w.Without = []string{without}
		}
		return w
	}
	builds := func(w engine.When, from, to int) engine.When { w.Builds = engine.Builds{From: from, To: to}; return w }
	for _, c := range []struct {
		name         string
		when         []engine.When
		gap, overlap bool
	}{
		{"two spans that meet", []engine.When{years(2019, 2021), years(2022, 2024)}, false, false},
		{"a year left out", []engine.When{years(2019, 2020), years(2022, 2024)}, true, false},
		{"a year twice", []engine.When{years(2019, 2022), years(2022, 2024)}, false, true},
		{"open at both ends", []engine.When{{}}, false, false},
		{"ends too early", []engine.When{years(2019, 2023)}, true, false},
		{"an option and its absence", []engine.When{option("cold pack", ""), option("", "cold pack")}, false, false},
		{"an option only", []engine.When{option("cold pack", "")}, true, false},
		{"two options that meet on one engine", []engine.When{option("a", ""), option("b", ""), {Without: []string{"a", "b"}}}, false, true},
		{"builds inside a year", []engine.When{years(2019, 2021), builds(years(2022, 2022), 1, 500), builds(years(2022, 2022), 501, 0), years(2023, 0)}, false, false},
		{"a build left out", []engine.When{builds(engine.When{}, 0, 500), builds(engine.When{}, 502, 0)}, true, false},
		{"nothing at all", nil, true, false},
	} {
		v := engine.Variation{Of: "fasteners/x"}
		for _, w := range c.when {
			v.Cases = append(v.Cases, engine.Case{When: w})
		}
		gap, overlap, err := v.Check(s)
		require.NoError(t, err, c.name)
		assert.Equal(t, c.gap, gap != nil, "%s: gap %v", c.name, gap)
		assert.Equal(t, c.overlap, overlap != nil, "%s: overlap %v", c.name, overlap)
	}
	many := engine.Variation{Cases: []engine.Case{{When: engine.When{With: []string{"a", "b", "c", "d", "e", "f", "g", "h", "i", "j", "k"}}}}}
	_, _, err := many.Check(s)
	assert.ErrorContains(t, err, "too many")
}

// The cells that Check tries against every car there is, one by one.
func TestCasesAgainstEveryCar(t *testing.T) {
	s := &engine.Sheet{Years: engine.Years{From: 2019, To: 2024}}
	options := []string{"a", "b"}
	rapid.Check(t, func(t *rapid.T) {
		var v engine.Variation
		for range rapid.IntRange(0, 4).Draw(t, "cases") {
			from := rapid.SampledFrom([]int{0, 2019, 2020, 2021, 2022, 2023}).Draw(t, "from")
			w := years(from, max(from, rapid.SampledFrom([]int{0, 2020, 2022, 2024}).Draw(t, "to")))
			if w.Years.From == 0 && w.Years.To == 0 || rapid.Bool().Draw(t, "builds") {
				lo := rapid.IntRange(0, 3).Draw(t, "lo")
				w.Builds = engine.Builds{From: lo, To: max(lo, rapid.IntRange(0, 5).Draw(t, "hi"))}
			}
			for _, o := range options {
				switch rapid.IntRange(0, 2).Draw(t, o) {
				case 1:
					w.With = append(w.With, o)
				case 2:
					w.Without = append(w.Without, o)
				}
			}
			v.Cases = append(v.Cases, engine.Case{When: w})
		}
		gap, overlap, err := v.Check(s)
		require.NoError(t, err)
		anyGap, anyOverlap := false, false
		for y := 2019; y <= 2024; y++ {
			for b := 1; b <= 7; b++ {
				for set := range 4 {
					car := engine.Car{Year: y, Build: b}
					for i, o := range options {
						if set>>i&1 == 1 {
							car.Options = append(car.Options, o)
						}
					}
					n := 0
					for i := range v.Cases {
						if v.Cases[i].When.Covers(car) {
							n++
						}
					}
					anyGap, anyOverlap = anyGap || n == 0, anyOverlap || n > 1
				}
			}
		}
		assert.Equal(t, anyGap, gap != nil)
		assert.Equal(t, anyOverlap, overlap != nil)
	})
}

func TestTheSheetForOneEngine(t *testing.T) {
	s := sheet(t, "renew-belt-in-oil-r1.latch.json")
	torque := func(year int) string {
		one, err := s.For(engine.Car{Year: year})
		require.NoError(t, err)
		assert.Empty(t, one.Varies)
		return engine.NewIndex(one).Fastener("idler-bolt").Spec[0].Torque.String()
	}
	assert.Equal(t, "40 N·m", torque(2021))
	assert.Equal(t, "40 N·m", torque(2022))
	assert.Equal(t, "45 N·m", torque(2023))
	assert.Equal(t, "45 N·m", torque(2040), "still made")
	_, err := s.For(engine.Car{Year: 2019})
	assert.ErrorContains(t, err, "outside")
	s.Varies[0].Cases = s.Varies[0].Cases[:1]
	_, err = s.For(engine.Car{Year: 2024})
	assert.ErrorContains(t, err, "0 cases cover 2024")
}

func TestWhenInWords(t *testing.T) {
	assert.Equal(t, "all", engine.When{}.String())
	assert.Equal(t, "2019–2021, from build 40, with cold pack, without tow bar", engine.When{
		Years: engine.Years{From: 2019, To: 2021}, Builds: engine.Builds{From: 40}, With: []string{"cold pack"}, Without: []string{"tow bar"}}.String())
	assert.Equal(t, "up to 2020", years(0, 2020).String())
	assert.Equal(t, "2020", years(2020, 2020).String())
	assert.Equal(t, "2020, build 7, with x", engine.Car{Year: 2020, Build: 7, Options: []string{"x"}}.String())
}

func edit(path, value string) engine.Edit {
	e := engine.Edit{Path: path}
	if value != "" {
		e.Value = json.RawMessage(value)
	}
	return e
}

func TestEdits(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	out, err := engine.Apply(s, []engine.Edit{
		edit("wheels/tensioner-wheel/x", "-50.5"), edit("bore", `"83 mm"`), edit("limits/backOff", "3"),
		edit("fasteners/idler-bolt/spec", `[{"torque":"45 Nm"}]`), edit("marks/dot", `{"name":"dot","kind":"timing","wheel":"crank-wheel","at":0}`),
		edit("evidence/cam-bar", `{"source":"D-1"}`), edit("use", ""),
	})
	require.NoError(t, err)
	x := engine.NewIndex(out)
	assert.InDelta(t, -50.5, x.Wheel("tensioner-wheel").X, 0)
	assert.Equal(t, "83 mm", out.Bore.String())
	assert.InDelta(t, 3, out.Limits.BackOff, 0)
	assert.Equal(t, "45 N·m", x.Fastener("idler-bolt").Spec[0].Torque.String())
	assert.Equal(t, "dot", x.Mark("dot").Name)
	assert.Equal(t, "D-1", out.Evidence["cam-bar"].Source)
	assert.Empty(t, out.Use)
	assert.InDelta(t, -45, engine.NewIndex(s).Wheel("tensioner-wheel").X, 0, "the sheet it came from stays")
}

func TestEditsThatCannotBe(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	for _, c := range []struct{ path, value, why string }{
		{"", "1", "not the place"},
		{"wheels//x", "1", "not the place"},
		{"a/b/c/d/e/f/g", "1", "not the place"},
		{"wheels/nothing/x", "1", "no \"nothing\""},
		{"wheels/nothing", "", "no \"nothing\""},
		{"wheels/crank-wheel/id", `"x"`, "stays as it is"},
		{"wheels/crank-wheel/teeth", `"many"`, "takes a whole number, not a string"},
		{"wheels/crank-wheel/teeth", `2.5`, "whole number"},
		{"wheels/crank-wheel/colour", `"red"`, "no value"},
		{"wheels/crank-wheel", `7`, "an object"},
		{"bore", `"wide"`, "not a value with a unit"},
		{"bore/x", `1`, "has no parts"},
		{"code", `" "`, "needs its code"},
		{"bore", `{`, "not JSON"},
	} {
		_, err := engine.Apply(s, []engine.Edit{edit(c.path, c.value)})
		var bad *engine.EditError
		require.ErrorAs(t, err, &bad, "%s = %s", c.path, c.value)
		assert.Contains(t, bad.Error(), c.why, c.path)
	}
}

func TestTakingAThingOutTakesOutWhatSpeaksOfIt(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	for _, c := range []struct {
		path string
		gone func(*engine.Sheet, *engine.Index) bool
	}{
		{"wheels/exhaust-wheel", func(s *engine.Sheet, x *engine.Index) bool {
			return len(s.Loops[0].Route) == 5 && x.Mark("exhaust-mark") == nil
		}},
		{"shafts/inlet", func(s *engine.Sheet, x *engine.Index) bool {
			return x.Wheel("inlet-wheel").Shaft == "" && len(x.Lock("cam-bar").Holds) == 1 && x.Fastener("inlet-sprocket-bolt").OnShaft == ""
		}},
		{"loops/timing-belt", func(s *engine.Sheet, x *engine.Index) bool { return x.Mark("belt-lines") == nil }},
		{"locks/flywheel-lock", func(s *engine.Sheet, x *engine.Index) bool { return x.Fastener("crank-bolt").HoldWith == "" }},
		{"tensioners/tensioner", func(s *engine.Sheet, x *engine.Index) bool { return s.Loops[0].Tensioner == "" }},
		{"fasteners/inlet-sprocket-bolt", func(s *engine.Sheet, x *engine.Index) bool {
			return len(x.Wheel("inlet-wheel").Clamps) == 0 && s.Evidence["inlet-sprocket-bolt"].Source == ""
		}},
		{"parts/engine-mount", func(s *engine.Sheet, x *engine.Index) bool { return len(x.Part("upper-cover").After) == 0 }},
		{"parts/block-plug", func(s *engine.Sheet, x *engine.Index) bool { return x.Lock("crank-pin").Access == "" }},
		{"tools/tl-105", func(s *engine.Sheet, x *engine.Index) bool { return x.Tensioner("tensioner").Pin == "" }},
	} {
		out, err := engine.Apply(s, []engine.Edit{{Path: c.path}})
		require.NoError(t, err, c.path)
		assert.True(t, c.gone(out, engine.NewIndex(out)), c.path)
		back, err := engine.Apply(out, engine.Diff(out, s))
		require.NoError(t, err)
		assert.Equal(t, s, back, "undo brings all of it back: %s", c.path)
	}
}

// For any edits, Diff leads there and back.
func TestDiffLeadsThereAndBack(t *testing.T) {
	s := sheet(t, "renew-belt-both-banks-r1.latch.json")
	rapid.Check(t, func(t *rapid.T) {
		now := s
		for range rapid.IntRange(1, 8).Draw(t, "edits") {
			var e engine.Edit
			w := now.Wheels[rapid.IntRange(0, len(now.Wheels)-1).Draw(t, "wheel")]
			switch rapid.IntRange(0, 5).Draw(t, "what") {
			case 0:
				e = edit("wheels/"+string(w.ID)+"/x", "12.5")
			case 1:
				if len(now.Wheels) > 3 {
					e = engine.Edit{Path: "wheels/" + string(w.ID)}
				} else {
					e = edit("cylinders", "5")
				}
			case 2:
				e = edit("wheels/new-"+rapid.StringMatching("[a-z]{3}").Draw(t, "id"), `{"name":"new","mount":"idle","diameter":30,"x":1,"y":2}`)
				e.Before = string(w.ID)
			case 3:
				e = edit("limits/rest", "7")
			case 4:
				e = edit("use", "")
			case 5:
				e = edit("evidence/limits/source", `"measured"`)
			}
			next, err := engine.Apply(now, []engine.Edit{e})
			require.NoError(t, err, e.Path)
			now = next
		}
		there, err := engine.Apply(s, engine.Diff(s, now))
		require.NoError(t, err)
		assert.Equal(t, now, there)
		back, err := engine.Apply(now, engine.Diff(now, s))
		require.NoError(t, err)
		assert.Equal(t, s, back)
	})
}

func FuzzApply(f *testing.F) {
	f.Add("wheels/crank-wheel/x", "1")
	f.Add("varies/v", `{"of":"loops/timing-belt","cases":[{"when":{},"set":{"teeth":1}}]}`)
	f.Add("tensioners/tensioner/frequency", `{"from":"a","to":"b","note":"110 Hz"}`)
	s := &fixture.Document("renew-timing-belt-r3.latch.json").Engine
	f.Fuzz(func(t *testing.T, path, value string) {
		out, err := engine.Apply(s, []engine.Edit{edit(path, value)})
		if err == nil {
			back, err := engine.Apply(out, engine.Diff(out, s))
			if err != nil || back.Code != s.Code {
				t.Fatalf("%q = %q does not come back: %v", path, value, err)
			}
		}
	})
}

// The index for one engine is that of the sheet for it, and the same one for every
// engine of its kind.
func TestIndexForOneEngine(t *testing.T) {
	s := sheet(t, "renew-belt-in-oil-r1.latch.json")
	x := engine.NewIndex(s)
	seen := map[*engine.Index]bool{}
	for year := s.Years.From; year <= max(s.Years.To, s.Years.From+6); year++ {
		car := engine.Car{Year: year}
		of, err := x.For(car)
		want, wantErr := s.For(car)
		require.Equal(t, wantErr, err)
		if err != nil {
			continue
		}
		assert.Equal(t, want, of.Sheet)
		again, err := x.For(car)
		require.NoError(t, err)
		assert.Same(t, of, again)
		seen[of] = true
	}
	assert.Len(t, seen, 2, "the years fall into two kinds")
	_, err := x.For(engine.Car{Year: 1900})
	require.Error(t, err, "it was not made then, whatever the cases say")
	plain := engine.NewIndex(sheet(t, "renew-timing-belt-r3.latch.json"))
	of, err := plain.For(engine.Car{Year: 2020})
	require.NoError(t, err)
	assert.Same(t, plain, of)
}

// A thing that some engines do not have is gone from their sheet, with what names it, also
// where another list of cases is of it.
func TestNotFitted(t *testing.T) {
	s := sheet(t, "renew-timing-belt-r3.latch.json")
	out, err := engine.Apply(s, []engine.Edit{
		edit("options", `["short block"]`),
		edit("varies/a", `{"id":"a","of":"locks/cam-bar","cases":[{"when":{"with":["short block"]},"set":{}},{"when":{"without":["short block"]},"set":{"play":0.4}}]}`),
		edit("varies/a/cases", `[{"when":{"with":"short block"},"set":"not fitted"},{"when":{"without":"short block"},"set":"play 0.4"}]`),
	})
	require.NoError(t, err)
	v := &out.Varies[len(out.Varies)-1]
	assert.True(t, v.Cases[0].Unfitted)
	assert.Equal(t, "not fitted", v.Lines()[0].Then)
	with, without := engine.Car{Year: s.Years.From, Options: []string{"short block"}}, engine.Car{Year: s.Years.From}
	assert.NotNil(t, v.Lacking(with))
	assert.Nil(t, v.Lacking(without))
	x, err := engine.NewIndex(out).For(with)
	require.NoError(t, err)
	assert.Nil(t, x.Lock("cam-bar"))
	for i := range x.Sheet.Fasteners {
		assert.NotEqual(t, engine.LockID("cam-bar"), x.Sheet.Fasteners[i].HoldWith)
	}
	x, err = engine.NewIndex(out).For(without)
	require.NoError(t, err)
	assert.InDelta(t, 0.4, x.Lock("cam-bar").Play, 1e-9)
	out, err = engine.Apply(out, []engine.Edit{edit("varies/a/cases", `[{"when":{"with":"short block"},"set":"play 0.2"},{"when":{"without":"short block"},"set":"play 0.4"}]`)})
	require.NoError(t, err)
	assert.False(t, out.Varies[len(out.Varies)-1].Cases[0].Unfitted)
}
