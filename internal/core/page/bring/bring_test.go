package bring_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/bring"
	"inklatch/internal/core/page/quickline"
	"inklatch/internal/core/page/step"
)

func page(lines ...bring.Line) *bring.Brought {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	return bring.Page(x, quickline.NewLexicon(x), lines)
}

func head(level int, s string) bring.Line {
	return bring.Line{Kind: bring.Heading, Level: level, Text: s}
}
func item(s string) bring.Line { return bring.Line{Kind: bring.Item, Level: 1, Text: s} }
func para(s string) bring.Line { return bring.Line{Kind: bring.Paragraph, Text: s} }
func row(cells ...string) bring.Line {
	return bring.Line{Kind: bring.Cells, Text: strings.Join(cells, " | "), Cells: cells}
}

func outcomes(b *bring.Brought) (out []bring.Outcome) {
	for _, r := range b.Rows {
		out = append(out, r.Outcome)
	}
	return out
}

func TestLinesBecomeStepsWithWhatStandsBesideThem(t *testing.T) {
	b := page(
		head(1, "Renewing the belt"), para("The belt is a wearing part."), head(2, "Locking the engine"),
		bring.Line{Kind: bring.Caution, Text: "The springs throw the cams."}, item("Fit the crank pin."),
		bring.Line{Kind: bring.Note, Text: "It is felt to go home."}, item("Fit the goblin."),
		head(2, "Goblins"), item("The crank pin is taken out, and then the upper timing cover is refitted."),
		bring.Line{Kind: bring.Picture, Text: "a picture"}, bring.Line{Kind: bring.Furniture, Text: "Page 1 of 2"},
		bring.Line{Kind: bring.Caution, Text: "The end is near."},
	)
	assert.Equal(t, []bring.Outcome{bring.Titled, bring.Left, bring.Titled, bring.Beside, bring.Read, bring.Beside, b.Rows[6].Outcome, bring.Left, b.Rows[8].Outcome, bring.Left, bring.Left, bring.Left}, outcomes(b))
	p := b.Procedure
	assert.Equal(t, []string{"Renewing the belt", "TQ4-18P"}, []string{p.Title, p.Engine})
	s := p.Steps[0]
	assert.Equal(t, []any{step.Verb("lock"), step.Phase("lock"), "It is felt to go home."}, []any{s.Action.Verb(), s.Phase, s.Note})
	require.Len(t, s.Cautions, 1)
	assert.Equal(t, "The springs throw the cams.", s.Cautions[0].Text)
	assert.Equal(t, []step.ID{s.ID}, b.Rows[3].Steps)
	// What was not understood is kept as it stood, with the reason.
	free := p.Steps[1].Action.(*step.Do)
	assert.Equal(t, "Fit the goblin", free.Text)
	assert.Contains(t, []bring.Outcome{bring.Text, bring.Asked}, b.Rows[6].Outcome)
	assert.NotEmpty(t, b.Rows[6].Says)
	assert.Equal(t, "There is no step behind it that it warns of.", b.Rows[11].Says)
}

func TestProseIsAStepOnlyWhereItInstructs(t *testing.T) {
	b := page(item("Fit the crank pin"), para("The belt runs for 120 000 km."), para("Remove the upper timing cover."))
	assert.Equal(t, []bring.Outcome{bring.Read, bring.Left, bring.Read}, outcomes(b))
	// Without lists lines are steps where they are understood.
	b = page(para("Fit the crank pin"), para("A word about the maker"))
	assert.Equal(t, []bring.Outcome{bring.Read, bring.Left}, outcomes(b))
}

// On a page whose steps are set as headings they are steps; one with a list under it is a title.
func TestStepsThatAreSetAsHeadings(t *testing.T) {
	b := page(head(1, "Renewing the belt"), head(2, "Remove the upper timing cover"), para("It is held by five bolts."), head(2, "Fit the crank pin"),
		head(2, "Remove the timing belt"), item("Slacken the tensioner bolt"), item("Take off the timing belt"))
	assert.Equal(t, []bring.Outcome{bring.Titled, bring.Read, bring.Left, bring.Read, bring.Titled, bring.Read, bring.Read}, outcomes(b))
	assert.Equal(t, step.Phase("take-off"), b.Procedure.Steps[2].Phase)
}

func TestTorquesAreHeldAgainstTheSheet(t *testing.T) {
	b := page(row("Bolt", "Torque (Nm)"), row("Idler bolt", "39"), row("Idler bolt", "28.8 lbf·ft"), row("Idler bolt", "45 Nm"), row("Goblin bolt", "45 Nm"), row("", "45 Nm"))
	assert.Equal(t, []bring.Outcome{bring.Left, bring.Agrees, bring.Agrees, bring.Differs, bring.Left, bring.Left}, outcomes(b))
	assert.Equal(t, "The engine sheet says 39 N·m for the idler bolt.", b.Rows[3].Says)
	assert.Empty(t, b.Procedure.Steps, "a table is no step")
}

// A table of steps is steps: of each row the one cell that instructs. A row of a bolt and its torque
// is none.
func TestTablesOfSteps(t *testing.T) {
	b := page(row("No.", "Step", "Tool"), row("1", "Remove the upper timing cover", ""), row("2", "Fit the crank pin", "TL-101"), row("3", "Idler bolt 39 Nm", ""))
	assert.Equal(t, []bring.Outcome{bring.Left, bring.Read, bring.Read, b.Rows[3].Outcome}, outcomes(b))
	assert.Equal(t, []string{"Fit the crank pin"}, b.Rows[2].Parts())
	require.Len(t, b.Procedure.Steps, 2)
}

func TestHeadingsOfTheTradeArePhases(t *testing.T) {
	for said, want := range map[string]step.Phase{
		"Lock": "lock", "Find position": "find", "Preparation": "prepare", "Dismantling": "strip", "Removal of the belt": "take-off", "Installation": "fit",
		"Tensioning the belt": "tension", "Adjustment": "tension", "Final check": "prove", "Checking the timing": "prove", "Completing the work": "close", "Locking the engine": "lock",
		"Relieving the tension": "relieve", "Inspection": "inspect", "Goblins": "", "Setting the belt tension": "tension", "Removing the accessory belt": "strip", "Checking the timing position": "prove", "Position": "find", "Removing the timing belt": "take-off", "Bringing the engine to the timing position": "find", "Unlocked": "", "A belt at rest": "",
	} {
		assert.Equal(t, want, bring.PhaseOf(said), said)
	}
}

// Every line of a page has a row, in its order, with an outcome and, but for steps, a reason; every
// step stands in a row.
func TestNoLineIsLost(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	texts := []string{"Fit the crank pin", "Remove it", "Hot parts", "The crank pin is to be taken out, then turn the crank twice", "1. Do nothing", "Do not turn the engine", "39 Nm", "caution: hot", "note: cold", "Idler bolt 39 Nm"}
	kinds := bring.Kind("").Choices()
	rapid.Check(t, func(t *rapid.T) {
		lines := rapid.SliceOfN(rapid.Custom(func(t *rapid.T) bring.Line {
			l := bring.Line{Kind: bring.Kind(rapid.SampledFrom(kinds).Draw(t, "kind")), Level: rapid.IntRange(0, 3).Draw(t, "level"), Text: rapid.SampledFrom(texts).Draw(t, "text")}
			if l.Kind == bring.Cells {
				l.Cells = rapid.SliceOfN(rapid.SampledFrom(texts), 1, 4).Draw(t, "cells")
			}
			return l
		}), 1, 12).Draw(t, "lines")
		b := bring.Page(x, lex, lines)
		require.Len(t, b.Rows, len(lines))
		in := map[step.ID]bool{}
		for i, r := range b.Rows {
			require.Equal(t, lines[i].Text, r.Text)
			require.NotEmpty(t, r.Outcome)
			require.NotEmpty(t, r.Says)
			require.True(t, utf8.ValidString(r.Says), r.Says)
			for _, id := range r.Steps {
				in[id] = true
			}
		}
		for _, s := range b.Procedure.Steps {
			require.True(t, in[s.ID], s.ID)
		}
	})
}

// BenchmarkPage is a pasted page of 400 lines.
func BenchmarkPage(b *testing.B) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	x := engine.NewIndex(&d.Engine)
	lex := quickline.NewLexicon(x)
	var lines []bring.Line
	for len(lines) < 400 {
		lines = append(lines, item("Fit the crank pin."), item("The upper timing cover is removed."), item("Idler bolt 39 Nm"), item("Something nobody knows is done to the goblin"))
	}
	for b.Loop() {
		bring.Page(x, lex, lines)
	}
}
