package desk_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/core/page/procedure"
	"inklatch/internal/core/review/adapt"
	"inklatch/internal/core/review/latch"
	"inklatch/internal/desk"
)

// held is the release of TQ4-18P that holds in the demo.
const held = 3

// answered takes what is proposed and says of the rest that it is not there.
func answered(c *desk.Copied) map[string]string {
	out := map[string]string{}
	for _, p := range c.Pairs {
		switch p.How {
		case adapt.Proposed:
			out[p.Ref()] = p.To
		case adapt.Asked:
			out[p.Ref()] = adapt.None
		}
	}
	return out
}

func TestAPageIsCopiedToAnotherCode(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	count := func() (n int) {
		require.NoError(t, h.s.SQL().QueryRow("SELECT count(*) FROM procedures").Scan(&n))
		return n
	}
	before := count()
	try, err := h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TV6-27D", Trial: true})
	require.NoError(t, err)
	assert.Positive(t, try.Open)
	assert.Zero(t, try.Revision)
	_, err = h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TV6-27D"})
	assert.ErrorContains(t, err, "Not yet: say first what stands for engine mount, TL-118 engine support bar, upper timing cover, and ")
	assert.Equal(t, before, count(), "nothing is begun before everything is matched")

	// What is answered makes more be proposed: go on until nothing is open.
	answers := map[string]string{}
	for i := 0; try.Open > 0; i++ {
		require.Less(t, i, 9)
		for k, v := range answered(try) {
			answers[k] = v
		}
		try, err = h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TV6-27D", Answers: answers, Trial: true})
		require.NoError(t, err)
	}
	c, err := h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TV6-27D", Title: "Renew belt, copied", Answers: answers})
	require.NoError(t, err)
	assert.Equal(t, before+1, count())
	r := h.open(ines, c.Revision)
	assert.Equal(t, []any{"Renew belt, copied", "TV6-27D", 1, "draft", "Copied from TQ4-18P, “Renew timing belt and tensioner”, revision 3."}, []any{r.Meta.Title, r.Meta.Engine, r.Meta.Number, r.Meta.State, r.Meta.Reason})
	assert.Len(t, r.View.Rows, c.Steps)
	assert.Equal(t, c.Blocking, r.View.Blocking, "what the trial found is what is found")

	// What has to be asked stands at its steps, as questions of whoever copied it.
	line := h.redline(ines, c.Revision, 0)
	asked := map[string]bool{}
	for _, m := range line.Remarks {
		assert.Equal(t, []any{desk.Question, "open", "Ines Okafor", true}, []any{m.Kind, m.State, m.By, m.Mine})
		asked[string(m.Step)] = true
		if m.Step == "" {
			continue
		}
		assert.Positive(t, m.Number)
		assert.False(t, m.Changed)
	}
	for _, n := range c.Asks {
		assert.True(t, asked[string(n.Step)], n.Says)
	}
	assert.Len(t, r.Meta.Spoken, len(asked))
	assert.Contains(t, line.Remarks[0].Body, "These steps of TQ4-18P were left out. What is done in their place on TV6-27D?\n3. Remove the engine mount. TV6-27D does not have the engine mount.")
	for _, n := range c.Left {
		assert.Contains(t, line.Remarks[0].Body, n.Says+" "+n.Why)
	}
	_, err = h.close(ines, c.Revision, latch.ByAuthor)
	assert.Error(t, err)
	for _, w := range h.open(ines, c.Revision).Meta.Latches[0].Wants {
		if w.What == "questions" {
			assert.Equal(t, len(line.Remarks), w.Left, "the author latch waits for them")
		}
	}
	// Nobody has read a copy by making it.
	assert.Len(t, h.redline(h.user("jonas"), c.Revision, 0).Reading.Unread, len(r.View.Rows)+1)

	all, err := h.d.Review.RecordOf(t.Context(), ines, desk.RecordAsk{Limit: 200, Procedure: r.Meta.Procedure})
	require.NoError(t, err)
	assert.Equal(t, "started the copy: "+r.Meta.Reason, all[len(all)-1].Says)
	assert.NotEmpty(t, h.where(ines, "renew belt, copied", ""), "what is copied is found")
	h.intact()
}

func TestWhoMayCopyAndWhereTo(t *testing.T) {
	h := open(t)
	for _, who := range []string{"pavel", "mirja", "teodor", "aiko", "sunniva"} {
		_, err := h.d.Drafts.Copy(t.Context(), h.user(who), held, desk.CopyAsk{Engine: "TV6-27D", Trial: true})
		assert.Equal(t, 403, problemOf(t, err).Status, who)
	}
	ines := h.user("ines")
	_, err := h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TQ4-18P", Trial: true})
	assert.Equal(t, "engine", problemOf(t, err).Field)
	_, err = h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "NOPE-1", Trial: true})
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = h.d.Drafts.Copy(t.Context(), ines, 999, desk.CopyAsk{Engine: "TV6-27D", Trial: true})
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = h.d.Drafts.Copy(t.Context(), ines, held, desk.CopyAsk{Engine: "TV6-27D", Title: strings.Repeat("x", 5000), Trial: true})
	assert.Equal(t, 422, problemOf(t, err).Status)
	// A draft may be copied as well, as it stands.
	c, err := h.d.Drafts.Copy(t.Context(), ines, draft, desk.CopyAsk{Engine: "TP4-20M", Trial: true})
	require.NoError(t, err)
	assert.Equal(t, "TQ4-18P", c.From)
}

// The engine at a step is drawn as it is and as it was, with what differs in words.
func TestTheEngineBeforeAndAfter(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	const oil = 18
	e, err := h.d.Engines.EnginesBeside(t.Context(), mirja, oil, 0, "t28")
	require.NoError(t, err)
	require.NotNil(t, e.Now)
	require.NotNil(t, e.Was)
	assert.Empty(t, e.Differs, "a note moves nothing")
	// The pin is left out of one step: from there on the engine stands otherwise.
	at := h.open(ines, oil).View.Rows
	var pin procedure.Edit
	for _, r := range at {
		if strings.HasPrefix(r.Sentence, "Fit the crank pin") {
			pin = procedure.Edit{Op: procedure.Remove, ID: r.Step.ID}
			break
		}
	}
	require.NotEmpty(t, pin.ID)
	require.NoError(t, h.edits(ines, oil, pin))
	e, err = h.d.Engines.EnginesBeside(t.Context(), mirja, oil, 0, "t28")
	require.NoError(t, err)
	assert.Contains(t, e.Differs, "crank pin: out, was in")
	assert.Equal(t, e.Was.Number-1+1, e.Now.Number, "one step was new before it, one is gone")
	e, err = h.d.Engines.EnginesBeside(t.Context(), mirja, oil, 0, pin.ID)
	require.NoError(t, err)
	assert.Nil(t, e.Now, "the step is gone")
	assert.NotNil(t, e.Was)
	e, err = h.d.Engines.EnginesBeside(t.Context(), ines, oil, 0, "")
	require.NoError(t, err)
	assert.Zero(t, e.Now.Number, "the end of the page")
	e, err = h.d.Engines.EnginesBeside(t.Context(), mirja, v6, 0, "v02")
	require.NoError(t, err)
	assert.Nil(t, e.Was, "a first revision has nothing before it")
	_, err = h.d.Engines.EnginesBeside(t.Context(), mirja, oil, 0, "none")
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = h.d.Engines.EnginesBeside(t.Context(), h.user("pavel"), oil, 0, "")
	assert.Equal(t, 403, problemOf(t, err).Status)
	// What is said of a thing on the drawing is said of the page, and called by its name.
	m := h.say(mirja, oil, desk.Said{Kind: desk.Question, Place: "drawing", Step: "t28", Part: "locks/crank-pin", Body: "Does it reach?"})
	assert.Equal(t, []any{"crank pin", "locks/crank-pin", ""}, []any{m.Quoted, m.Part, string(m.Step)})
	_, err = h.d.Review.Say(t.Context(), mirja, oil, desk.Said{Kind: desk.Question, Place: "drawing", Part: "locks/none", Body: "?"})
	assert.Equal(t, "part", problemOf(t, err).Field)
}

// copyTo copies a page, taking what is proposed and saying of the rest that it is not
// there.
func (h house) copyTo(u *desk.User, id int64, code string) *desk.Copied {
	h.Helper()
	answers := map[string]string{}
	for range 12 {
		c, err := h.d.Drafts.Copy(h.Context(), u, id, desk.CopyAsk{Engine: code, Answers: answers, Trial: true})
		require.NoError(h, err)
		if c.Open == 0 {
			out, err := h.d.Drafts.Copy(h.Context(), u, id, desk.CopyAsk{Engine: code, Answers: answers})
			require.NoError(h, err)
			assert.Equal(h, []int{c.Steps, c.Findings, c.Blocking}, []int{out.Steps, out.Findings, out.Blocking}, "what was tried is what comes of it")
			return out
		}
		for k, v := range answered(c) {
			answers[k] = v
		}
	}
	require.Fail(h, "there is always something left to say")
	return nil
}

// Every page of the demo can be copied to some other code, and what comes of it is a
// page like any other: it is shown, printed, redlined and found, and copied on.
func TestEveryPageIsCopiedOn(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	rows, err := h.list(ines)
	require.NoError(t, err)
	codes := []string{}
	for _, r := range rows {
		if len(codes) == 0 || codes[len(codes)-1] != r.Engine {
			codes = append(codes, r.Engine)
		}
	}
	require.Greater(t, len(codes), 6)
	for i, r := range rows {
		to := codes[(i+1)%len(codes)]
		if to == r.Engine {
			to = codes[(i+2)%len(codes)]
		}
		c := h.copyTo(ines, r.Revision, to)
		v := h.open(ines, c.Revision)
		assert.Equal(t, []any{to, c.Steps, c.Blocking}, []any{v.Meta.Engine, len(v.View.Rows), v.View.Blocking}, "%s to %s", r.Title, to)
		assert.NotEmpty(t, h.redline(ines, c.Revision, 0).Head)
		sheet, err := h.d.Drafts.Sheet(t.Context(), ines, c.Revision)
		require.NoError(t, err)
		assert.Equal(t, to, sheet.Meta.Engine)
		_, name, err := h.d.Drafts.Export(t.Context(), ines, c.Revision)
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(name, to))
		if i == 0 {
			on := h.copyTo(ines, c.Revision, codes[(i+3)%len(codes)])
			assert.Equal(t, to, on.From)
		}
	}
	h.intact()
}

// What was asked of a copy is settled one by one, and then the author latch wants
// nothing of that kind any more.
func TestWhatACopyAsksIsSettled(t *testing.T) {
	h := open(t)
	ines, mirja := h.user("ines"), h.user("mirja")
	c := h.copyTo(ines, held, "TP4-20M")
	left := func() int {
		for _, w := range h.open(ines, c.Revision).Meta.Latches[0].Wants {
			if w.What == latch.NoQuestions {
				return w.Left
			}
		}
		return -1
	}
	all := h.redline(ines, c.Revision, 0).Remarks
	require.Equal(t, len(all), left())
	require.NotEmpty(t, all)
	assert.Error(t, h.answer(mirja, all[0].ID, "settle", ""), "whoever copied it says so, or a lead")
	for i, m := range all {
		require.NoError(t, h.answer(ines, m.ID, "settle", "Looked up in the manual of the engine."))
		assert.Equal(t, len(all)-1-i, left())
	}
	assert.Empty(t, h.open(ines, c.Revision).Meta.Spoken)
	// A step that is taken out takes its question with it to where it was said.
	other := h.copyTo(ines, held, "TV6-27D")
	for _, m := range h.redline(ines, other.Revision, 0).Remarks {
		if m.Step == "" {
			continue
		}
		require.NoError(t, h.edits(ines, other.Revision, procedure.Edit{Op: procedure.Remove, ID: m.Step}))
		gone := h.remark(ines, other.Revision, m.ID)
		assert.Zero(t, gone.Number)
		assert.Equal(t, "open", gone.State, "a question is not settled by taking its step out")
		assert.NotEmpty(t, gone.Quoted)
		break
	}
	h.intact()
}
