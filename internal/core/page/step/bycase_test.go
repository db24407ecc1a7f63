package step_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/lang/en"
	"inklatch/internal/core/page/step"
	"inklatch/internal/core/unit"
)

func stages(q string) []engine.Stage {
	s, err := engine.ParseStages(q)
	if err != nil {
		panic(err)
	}
	return s
}

func TestValuesByCaseAsTheyAreTyped(t *testing.T) {
	early, late := engine.When{Years: engine.Years{To: 2021}}, engine.When{Years: engine.Years{From: 2022}}
	for typed, want := range map[string][]step.StagesFor{
		"45 N·m up to 2021; 60 N·m from 2022":        {{When: early, Stages: stages("45 N·m")}, {When: late, Stages: stages("60 N·m")}},
		"45 up to 2021; 60 from 2022":                {{When: early, Stages: stages("45 N·m")}, {When: late, Stages: stages("60 N·m")}},
		"60 N·m + 90° from 2022":                     {{When: late, Stages: stages("60 N·m + 90°")}},
		"60 N·m with cold pack;":                     {{When: engine.When{With: []string{"cold pack"}}, Stages: stages("60 N·m")}},
		"60 N·m from build 1200, without cold pack ": {{When: engine.When{Builds: engine.Builds{From: 1200}, Without: []string{"cold pack"}}, Stages: stages("60 N·m")}},
		"": {},
	} {
		got, err := step.ParseBy(typed, unit.NewtonMetre, nil)
		require.NoError(t, err, typed)
		assert.Equal(t, want, got, typed)
		again, err := step.ParseBy(step.ByText(got), unit.NewtonMetre, nil)
		require.NoError(t, err, step.ByText(got))
		assert.Equal(t, got, again)
	}
	for _, typed := range []string{"45 N·m", "from 2022", "45 N·m from 2022; 60", "45 litres from 2022", "45 N·m for the red ones"} {
		_, err := step.ParseBy(typed, unit.NewtonMetre, nil)
		assert.Error(t, err, typed)
	}
	_, err := step.ParseBy("60 N·m with wings", unit.NewtonMetre, []string{"cold pack"})
	assert.Error(t, err, "the sheet has no such option")
}

// On one engine a step has the values of that engine, and the step itself stays.
func TestAStepOnOneEngine(t *testing.T) {
	by := []step.StagesFor{{When: engine.When{Years: engine.Years{To: 2021}}, Stages: stages("45 N·m")}, {When: engine.When{Years: engine.Years{From: 2022}}, Stages: stages("60 N·m")}}
	s := step.Step{ID: "a", Action: &step.Tighten{Fasteners: []engine.FastenerID{"x"}, By: by}}
	assert.True(t, s.ForSome())
	assert.Len(t, s.Whens(), 2)
	for year, want := range map[int]string{2020: "45 N·m", 2021: "45 N·m", 2022: "60 N·m"} {
		got := s.On(engine.Car{Year: year})
		assert.Equal(t, want, engine.StagesText(got.Action.(*step.Tighten).Stages))
		assert.False(t, got.ForSome())
	}
	assert.Equal(t, by, s.Action.(*step.Tighten).By)
	plain := step.Step{ID: "b", Action: &step.Wait{}}
	assert.Equal(t, plain, plain.On(engine.Car{Year: 2020}))
	assert.False(t, plain.ForSome())
}

// For which engines a step of any verb is, is a field like others.
func TestTheWhenField(t *testing.T) {
	r, err := step.ReadField("remove", "when", " 2019 to 2021, with tow bar ")
	require.NoError(t, err)
	assert.Equal(t, engine.When{Years: engine.Years{From: 2019, To: 2021}, With: []string{"tow bar"}}, r.Value)
	assert.Equal(t, "2019–2021, with tow bar", r.Text)
	r, err = step.ReadField("remove", "when", "the red ones")
	require.NoError(t, err)
	assert.Contains(t, r.Problem, "from 2022")
	r, err = step.ReadField("remove", "when", "")
	require.NoError(t, err)
	assert.Equal(t, engine.When{}, r.Value)
}

func TestWhatStandsBeforeAStep(t *testing.T) {
	late := engine.When{Years: engine.Years{From: 2022}}
	for _, c := range []struct {
		s    step.Step
		want string
	}{
		{step.Step{}, ""}, {step.Step{IfNot: true}, "If not:"}, {step.Step{When: late}, "From 2022:"}, {step.Step{When: late, IfNot: true}, "From 2022, if not:"},
	} {
		assert.Equal(t, c.want, en.Lead(&c.s))
	}
	own := step.Step{IfNot: true, Wording: "TL-104 goes on first."}
	assert.Equal(t, "If not: TL-104 goes on first.", en.Full(nil, &own), "a number keeps its capitals")
	own.Wording = "Start again."
	assert.Equal(t, "If not: start again.", en.Full(nil, &own))
	assert.Equal(t, []string{"once", "once", "twice at most", "3 times at most"}, []string{en.Often(0), en.Often(1), en.Often(2), en.Often(3)})
	for times, most := range map[int]int{-3: 1, 0: 1, 2: 2, 99: step.MostTimes} {
		assert.Equal(t, most, (&step.Step{Again: &step.Again{Times: times}}).Most())
	}
}
