package engine_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
)

func TestReadWhen(t *testing.T) {
	options := []string{"cold pack", "tow bar"}
	for said, want := range map[string]engine.When{
		"from 2022":                    {Years: engine.Years{From: 2022}},
		"From 2022 on":                 {Years: engine.Years{From: 2022}},
		"from 2022 onwards":            {Years: engine.Years{From: 2022}},
		"up to 2021":                   {Years: engine.Years{To: 2021}},
		"until 2021":                   {Years: engine.Years{To: 2021}},
		"2019 to 2021":                 {Years: engine.Years{From: 2019, To: 2021}},
		"from 2019 to 2021":            {Years: engine.Years{From: 2019, To: 2021}},
		"2019–2021":                    {Years: engine.Years{From: 2019, To: 2021}},
		"2019-2021":                    {Years: engine.Years{From: 2019, To: 2021}},
		"in 2020":                      {Years: engine.Years{From: 2020, To: 2020}},
		"from build 1200":              {Builds: engine.Builds{From: 1200}},
		"up to build 1199":             {Builds: engine.Builds{To: 1199}},
		"builds 10 to 20":              {Builds: engine.Builds{From: 10, To: 20}},
		"with cold pack":               {With: []string{"cold pack"}},
		"with the Cold Pack":           {With: []string{"cold pack"}},
		"from 2020,  without tow bar":  {Years: engine.Years{From: 2020}, Without: []string{"tow bar"}},
		"with cold pack, with tow bar": {With: []string{"cold pack", "tow bar"}},
	} {
		got, ok := engine.ReadWhen(said, options)
		assert.True(t, ok, said)
		assert.Equal(t, want, got, said)
	}
	// What is no case, or says one thing twice, is not understood.
	for _, said := range []string{
		"", "from", "2021 to 2019", "from 1200", "45", "in 45", "with wings", "with", "from 2019, from 2020", "from build 1, up to build 9", "with cold pack, with cold pack",
		"the red ones", "from 2022 and up", "before 2020", "from 20222", "-5", "from build 0",
	} {
		_, ok := engine.ReadWhen(said, options)
		assert.False(t, ok, said)
	}
}

// Every case reads back from its own words.
func TestACaseReadsBack(t *testing.T) {
	options := []string{"cold pack", "tow bar", "east"}
	rapid.Check(t, func(t *rapid.T) {
		span := func(name string, least, most int) (from, to int) {
			from, to = rapid.IntRange(least, most).Draw(t, name+" from"), rapid.IntRange(least, most).Draw(t, name+" to")
			if from > to {
				from, to = to, from
			}
			switch rapid.IntRange(0, 3).Draw(t, name) {
			case 0:
				return 0, 0
			case 1:
				return from, 0
			case 2:
				return 0, to
			}
			return from, to
		}
		var w engine.When
		w.Years.From, w.Years.To = span("years", 1950, 2100)
		w.Builds.From, w.Builds.To = span("builds", 1, 99999)
		for _, o := range options {
			switch rapid.IntRange(0, 2).Draw(t, o) {
			case 1:
				w.With = append(w.With, o)
			case 2:
				w.Without = append(w.Without, o)
			}
		}
		got, ok := engine.ReadWhen(w.Said(), options)
		if w.All() {
			assert.Empty(t, w.Said())
			assert.False(t, ok)
			return
		}
		if !ok {
			t.Fatalf("%q does not read", w.Said())
		}
		assert.Equal(t, w, got, w.Said())
	})
}

// Cells are named by the years they stand for, and by what else tells them apart.
func TestCellNames(t *testing.T) {
	s := &engine.Sheet{Years: engine.Years{From: 2018, To: 2025}}
	named := func(within engine.Years, whens ...engine.When) []string {
		cells, all := s.Cells(within, whens...)
		assert.Len(t, cells, all)
		return s.CellNames(cells, within)
	}
	from2022 := engine.When{Years: engine.Years{From: 2022}}
	assert.Equal(t, []string{"2018–2021", "2022–2025"}, named(engine.Years{}, from2022))
	assert.Equal(t, []string{"2020–2021", "2022–2023"}, named(engine.Years{From: 2020, To: 2023}, from2022))
	assert.Equal(t, []string{"2018–2019", "2020", "2021–2025"}, named(engine.Years{}, engine.When{Years: engine.Years{From: 2020, To: 2020}}))
	assert.Equal(t, []string{"without options", "with cold pack"}, named(engine.Years{}, engine.When{With: []string{"cold pack"}}))
	s.Years.To = 0
	assert.Equal(t, []string{"2018–2021", "from 2022"}, named(engine.Years{}, from2022))
	assert.Empty(t, named(engine.Years{}))
}
