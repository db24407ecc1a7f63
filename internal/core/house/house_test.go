package house_test

import (
	"encoding/json"
	"maps"
	"reflect"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/drill"
	"inklatch/internal/core/house"
	"inklatch/internal/core/proof/finding"
)

// Rules are read as they were written, and what a file leaves out is as by default.
func TestRulesAreReadAsWritten(t *testing.T) {
	r := house.Default()
	r.Proof.CrankHold, r.Proof.MinTurns, r.Proof.Vague = finding.LockOnly, 4, []string{"as required"}
	r.Proof.Severities = map[string]finding.Severity{"backwards": finding.Blocks, "sheet:sides": finding.Look}
	r.Latches.AuthorMayEdit = true
	r.Drill = drill.House{"tooth": {Least: 80, Occurrence: 7, Sizes: []float64{1}}, "old": {Off: true, Occurrence: 1}}
	b, err := r.Write()
	require.NoError(t, err)
	back, err := house.Read(strings.NewReader(string(b)))
	require.NoError(t, err)
	assert.Equal(t, r, back)
	assert.Empty(t, r.Changes(&back))

	part, err := house.Read(strings.NewReader(`{"minTurns": 6, "severities": {"backwards": "look"}}`))
	require.NoError(t, err)
	assert.Equal(t, 6, part.Proof.MinTurns)
	assert.Equal(t, []string{"Proving turns at least: 2 turns → 6 turns", "“a jumped tooth: the crank turned back beyond the allowed back-off”: should fix → check"}, changes(house.Default(), part))
}

func changes(a, b house.Rules) []string { return a.Changes(&b) }

// What is wrong with rules is said with its place, and nothing of it is taken.
func TestRulesThatAreNone(t *testing.T) {
	for text, says := range map[string]string{
		`{"minTurns": 1}`:                                         "minTurns: A whole number from 2 to 20.",
		`{"minTurns": 2.5}`:                                       "no house rules",
		`{"backOff": 46}`:                                         "backOff: From 0 to 45 °.",
		`{"backwards": "sometimes"}`:                              "backwards: “sometimes” is no choice here.",
		`{"severities": {"no-such": "look"}}`:                     "severities/no-such: There is no such rule.",
		`{"severities": {"backwards": "hush"}}`:                   "severities/backwards: A rule blocks",
		`{"vague": [""]}`:                                         "vague: A word",
		`{"vague": ["tight", "Tight "]}`:                          "vague: “Tight” stands there twice.",
		`{"drill": {"gremlins": {"occurrence": 1}}}`:              "drill/gremlins: There is no such kind",
		`{"drill": {"tooth": {"least": 101}}}`:                    "drill/tooth: A share",
		`{"drill": {"tooth": {"occurrence": 11}}}`:                "drill/tooth: Occurrence",
		`{"drill": {"stop": {"occurrence": 1, "sizes": [1, 1]}}}`: "drill/stop: 1 stands there twice.",
		`{"drill": {"stop": {"occurrence": 1, "sizes": [400]}}}`:  "drill/stop: A size is above 0",
		`{"drill": {"tooth": {"occurrence": 1, "sizes": [1.5]}}}`: "drill/tooth: A size is whole teeth.",
		`{"drill": {"stroke": {"occurrence": 1, "sizes": [1]}}}`:  "drill/stroke: This kind",
		`{"loudness": 11}`:                                        "no house rules",
		`[]`:                                                      "no house rules",
		``:                                                        "no house rules",
		`{"vague": ["` + strings.Repeat("a", 2<<20) + `"]}`:       "at most",
	} {
		_, err := house.Read(strings.NewReader(text))
		assert.ErrorContains(t, err, says, text[:min(len(text), 60)])
	}
}

// Every value of the rules is asked about on the screen or has a place of its own there: none
// can be set by a file alone.
func TestEveryRuleIsAsked(t *testing.T) {
	asked := map[string]bool{"authorMayEdit": true, "lastLatchReleases": true, "vague": true, "severities": true, "drill": true}
	for i := range house.Questions {
		asked[house.Questions[i].ID] = true
	}
	for i := range house.Limits {
		asked[house.Limits[i].ID] = true
	}
	r := house.Default()
	r.Proof.Vague, r.Proof.Severities, r.Drill = []string{"x"}, map[string]finding.Severity{"backwards": finding.Look}, drill.House{"tooth": {Occurrence: 1}}
	b, err := r.Write()
	require.NoError(t, err)
	var all map[string]any
	require.NoError(t, json.Unmarshal(b, &all))
	assert.ElementsMatch(t, slices.Collect(maps.Keys(asked)), slices.Collect(maps.Keys(all)))
}

// The first choice of each question is the one that holds by default, each has its reason, and
// another choice is a change that is said.
func TestQuestions(t *testing.T) {
	for i := range house.Questions {
		q := &house.Questions[i]
		for k, c := range q.Choices {
			assert.NotEmpty(t, c.Why, c.ID)
			raw, err := json.Marshal(map[string]string{q.ID: c.ID})
			require.NoError(t, err)
			r, err := house.Read(strings.NewReader(string(raw)))
			require.NoError(t, err)
			if k == 0 {
				assert.Empty(t, changes(house.Default(), r))
				continue
			}
			assert.Equal(t, []string{q.Asks + ": " + q.Choices[0].ID + " → " + c.ID}, changes(house.Default(), r))
		}
	}
	r := house.Default()
	assert.Empty(t, r.Check())
}

// What says no more than what holds by itself is left out; everything else is kept.
func TestTidied(t *testing.T) {
	r := house.Default()
	r.Proof.Severities = map[string]finding.Severity{"backwards": finding.ShouldFix, "proving-turns": finding.Look}
	tooth := drill.FamilyOf("tooth")
	r.Drill = drill.House{"tooth": {Least: tooth.Least, Occurrence: tooth.Occurrence, Sizes: slices.Clone(tooth.Sizes)}, "old": {Off: true}}
	r.Proof.Vague = []string{" as  required "}
	out := r.Tidied()
	assert.Equal(t, map[string]finding.Severity{"proving-turns": finding.Look}, out.Proof.Severities)
	assert.Equal(t, drill.House{"old": {Off: true}}, out.Drill)
	assert.Equal(t, []string{"as required"}, out.Proof.Vague)
	assert.Len(t, r.Proof.Severities, 2, "what was given stays")
	d := house.Default()
	assert.True(t, reflect.DeepEqual(d, d.Tidied()))
}

func FuzzRead(f *testing.F) {
	f.Add(`{"minTurns": 6}`)
	f.Add(`{"drill": {"tooth": {"least": 80, "occurrence": 7, "sizes": [1]}}}`)
	f.Fuzz(func(t *testing.T, text string) {
		r, err := house.Read(strings.NewReader(text))
		if err != nil {
			return
		}
		assert.Empty(t, r.Check())
		b, err := r.Write()
		require.NoError(t, err)
		back, err := house.Read(strings.NewReader(string(b)))
		require.NoError(t, err)
		assert.Empty(t, r.Changes(&back))
	})
}
