package finding_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/message"
	"inklatch/internal/core/proof/finding"
)

type page struct{ seen []string }

func rule(id string, reads finding.Reads) finding.Rule[*page] {
	return finding.Rule[*page]{ID: id, Severity: finding.ShouldFix, Reads: reads, Check: func(p *page) { p.seen = append(p.seen, id) }}
}

func TestThroughTheRulesThatRead(t *testing.T) {
	families := []finding.Family[*page]{{rule("a", finding.Run), rule("b", finding.Written)}, {rule("c", finding.Starts), rule("d", finding.Run)}}
	var p page
	look := func(r *finding.Rule[*page]) { r.Check(&p) }
	finding.Through(families, look, finding.Run)
	finding.Through(families, look, finding.Written, finding.Starts)
	assert.Equal(t, []string{"a", "d", "b", "c"}, p.seen)
	r, ok := finding.ReadBy(families, "c")
	assert.True(t, ok)
	assert.Equal(t, finding.Starts, r)
	_, ok = finding.ReadBy(families, "x")
	assert.False(t, ok)
}

// A finding is known again by its rule and the things it speaks of: when steps have
// moved and a thing has another name it is the same one, of another thing it is not.
func TestKnownByWhatItSpeaksOf(t *testing.T) {
	r := rule("left-in", finding.Run)
	at := func(step, number, thing, name string) finding.Finding {
		return finding.New(&r, finding.DefaultHouse(), r.ID, message.F("%s leaves the %s in", message.StepAt(step, number), message.Named(thing, name)), message.F("It bends."))
	}
	a := at("s1", "Step 4", "locks/pin", "cam pin")
	moved, called, other := at("s1", "Step 5", "locks/pin", "cam pin"), at("s1", "Step 4", "locks/pin", "long pin"), at("s1", "Step 4", "locks/bar", "cam pin")
	assert.Equal(t, "Step 4 leaves the cam pin in", a.What)
	assert.Equal(t, a.Subject(), moved.Subject())
	assert.Equal(t, a.Subject(), called.Subject())
	assert.NotEqual(t, a.Subject(), other.Subject())
	a.Says(message.F("If step %d fails: ", 3))
	assert.Equal(t, "If step 3 fails: step 4 leaves the cam pin in", a.What)
	assert.NotEqual(t, a.Subject(), moved.Subject())
	b, err := json.Marshal(a.Message)
	require.NoError(t, err)
	assert.JSONEq(t, `{"what":{"id":"If step %d fails: %s leaves the %s in","args":["3","step 4","cam pin"]},"why":{"id":"It bends."}}`, string(b))
	var back finding.Message
	require.NoError(t, json.Unmarshal(b, &back))
	assert.Equal(t, a.What, back.What.String())
}

func TestSortedAndNamed(t *testing.T) {
	mk := func(id string, sev finding.Severity, at string) placed {
		return placed{finding.Finding{Rule: id, Severity: sev}, at}
	}
	fs := []placed{mk("x", finding.Look, "s1"), mk("y", finding.Blocks, "s2"), mk("y", finding.Blocks, "s2"), mk("z", finding.Blocks, ""), mk("w", finding.Blocks, "s1")}
	finding.Sort(fs, func(p *placed) *finding.Finding { return &p.Finding }, func(p *placed) int {
		return map[string]int{"s1": 0, "s2": 1, "": 9}[p.at]
	}, func(p *placed) string { return p.at })
	var ids []string
	for _, f := range fs {
		ids = append(ids, f.ID)
	}
	assert.Equal(t, []string{"w@s1", "y@s2", "y@s2.2", "z", "x@s1"}, ids)
	assert.Equal(t, -1, finding.Severity("shout").Rank())
}

type placed struct {
	finding.Finding
	at string
}

// A house may ask for more or less than a rule does.
func TestAHouseHasItsSeverities(t *testing.T) {
	r := rule("sides", finding.Run)
	house := finding.DefaultHouse()
	house.Severities = map[string]finding.Severity{"sheet:sides": finding.Blocks}
	assert.Equal(t, finding.Blocks, finding.New(&r, house, "sheet:sides", message.As("x"), message.As("y")).Severity)
	assert.Equal(t, finding.ShouldFix, finding.New(&r, house, "sides", message.As("x"), message.As("y")).Severity)
}
