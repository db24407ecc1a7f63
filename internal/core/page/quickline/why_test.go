package quickline_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/fixture"
	"inklatch/internal/core/page/quickline"
)

// A line that is not read says the words that were in the way, and blames none that are read.
func TestTheReasonIsTheWordInTheWay(t *testing.T) {
	d := fixture.Document("renew-timing-belt-r3.latch.json")
	lex := quickline.NewLexicon(engine.NewIndex(&d.Engine))
	for line, want := range map[string]struct {
		why    string
		unread []string
	}{
		"Turn crank until the flag is visible":               {"“flag” and “visible” are not on this engine’s sheet and no part of “turn …”", []string{"until the flag is visible"}},
		"Turn the crankshaft clockwise to TDC":               {"“TDC” is not on this engine’s sheet and no part of “turn …”", []string{"to TDC"}},
		"Remove the alternator":                              {"“alternator” is not on this engine’s sheet and no part of “remove …”", []string{"the alternator"}},
		"Replace the water pump if it leaks":                 {"“leaks” is not on this engine’s sheet and no part of “replace …”", []string{"if it leaks"}},
		"The goblin is held and the sprocket bolt slackened": {"it begins with a thing: write first what is done to it", []string{"The goblin is held and the sprocket bolt slackened"}},
		"Hook the belt over the pump first":                  {"it does not start with a verb this page knows", []string{"Hook"}},
	} {
		r := quickline.Read(lex, line)
		assert.Equal(t, want.why, r.Problem, line)
		assert.Equal(t, want.unread, r.Words(), line)
	}
}
