package quickline

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"inklatch/internal/core/engine"
	"inklatch/internal/core/page/step"
)

// A verb is read by one grammar, which makes steps of that verb.
func TestEveryVerbHasItsGrammar(t *testing.T) {
	for _, s := range step.Specs {
		g := grammars[s.Verb]
		if assert.NotNil(t, g, "%s has no grammar", s.Verb) && assert.NotNil(t, g.read, "%s is not read", s.Verb) {
			x := engine.NewIndex(&engine.Sheet{})
			assert.Equal(t, s.Verb, g.read(&Line{x: x, lex: NewLexicon(x)}).Verb())
		}
	}
	assert.Len(t, grammars, len(step.Specs), "a grammar of no verb")
}
