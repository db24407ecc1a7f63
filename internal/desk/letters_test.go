package desk_test

import (
	"context"
	"errors"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"inklatch/internal/desk"
	"inklatch/internal/store"
)

// box keeps letters; it takes none for an address that is closed.
type box struct {
	mu     sync.Mutex
	sent   map[string][]string
	closed string
}

func (b *box) Send(_ context.Context, to, subject, body string) error {
	b.mu.Lock()
	defer b.mu.Unlock()
	if to == b.closed {
		return errors.New("no such box")
	}
	b.sent[to] = append(b.sent[to], subject+"\n"+body)
	return nil
}

// One letter a day, to whom something waits for, from whichever of several servers;
// to nobody who is away, wants none, or for whom nothing waits.
func TestOneLetterADay(t *testing.T) {
	h := open(t)
	never, until := "never", store.Now().AddDate(0, 0, 2).Format(time.DateOnly)
	_, err := h.d.Access.ChangeOwn(t.Context(), h.user("teodor"), desk.Own{Letters: &never})
	require.NoError(t, err)
	_, err = h.d.Access.ChangeOwn(t.Context(), h.user("aiko"), desk.Own{AwayUntil: &until})
	require.NoError(t, err)
	bad := "hourly"
	_, err = h.d.Access.ChangeOwn(t.Context(), h.user("aiko"), desk.Own{Letters: &bad})
	assert.Equal(t, "letters", problemOf(t, err).Field)

	b := &box{sent: map[string][]string{}, closed: "jonas@tarn.example"}
	var wg sync.WaitGroup
	for range 3 {
		d := desk.New(h.s)
		d.Jobs.MailBy(b, "https://latch.example")
		for range 2 {
			wg.Go(func() { assert.NoError(t, d.Jobs.WriteLetters(t.Context())) })
		}
	}
	wg.Wait()
	assert.Len(t, b.sent, 3, "ines, mirja and rosalind: %v", b.sent)
	for to, letters := range b.sent {
		assert.Len(t, letters, 1, to)
	}
	mirja := strings.Join(b.sent["mirja@tarn.example"], "")
	for _, want := range []string{
		"Ink Latch: 3 things wait for you", "Good morning, Mirja Salmela.", "- Settle: TQ3-10W Renew timing belt in oil, revision 5, by ",
		"Workshop 4 heard the chain", "- Review: TV6-27D Renew timing belt, both banks", "technical latch: 67 steps to read", "https://latch.example", "once a day",
	} {
		assert.Contains(t, mirja, want)
	}
	assert.Contains(t, strings.Join(b.sent["ines@tarn.example"], ""), ", late")
	assert.NotContains(t, mirja, "Engine sheet", "what only lies there is no reason for a letter")

	left, err := h.s.Reads(t.Context()).Unlettered(store.Now())
	require.NoError(t, err)
	assert.Empty(t, left, "the day is taken, whether something waited or the box was closed")
	next, err := h.s.Reads(t.Context()).Unlettered(store.Now().AddDate(0, 0, 1))
	require.NoError(t, err)
	assert.Len(t, next, 6, "tomorrow is another day")
	h.intact()
}

// Who has forgotten a password has a link sent; nobody hears whether there is such a
// person, and a house without letters says who makes the link.
func TestAForgottenPassword(t *testing.T) {
	h := open(t)
	assert.Equal(t, 409, problemOf(t, h.d.Access.Forgotten(t.Context(), "ines@tarn.example")).Status)
	b := &box{sent: map[string][]string{}}
	d := desk.New(h.s)
	d.Jobs.MailBy(b, "https://latch.example")
	for _, who := range []string{"nobody@tarn.example", " Ines@tarn.example ", "no address"} {
		assert.NoError(t, d.Access.Forgotten(t.Context(), who))
	}
	letters := func() int {
		b.mu.Lock()
		defer b.mu.Unlock()
		return len(b.sent)
	}
	require.Eventually(t, func() bool { return letters() == 1 }, 10*time.Second, 20*time.Millisecond)
	assert.Contains(t, b.sent["ines@tarn.example"][0], "https://latch.example/enter#")
	assert.EqualValues(t, 1, d.Jobs.LettersSent())
	assert.Zero(t, d.Jobs.LettersFailed())
	h.intact()
}

// A page cannot be started on a code whose sheet is a draft, and it is said what is
// missing, not that there is no such code.
func TestACodeWithOnlyADraft(t *testing.T) {
	h := open(t)
	ines := h.user("ines")
	_, err := h.d.Engines.NewEngine(t.Context(), ines, "NEW-7", "TQ4-18P", "")
	require.NoError(t, err)
	_, err = h.d.Drafts.NewProcedure(t.Context(), ines, "NEW-7", "Renew the belt")
	assert.ErrorContains(t, err, "is a draft still")
	_, err = h.d.Drafts.NewProcedure(t.Context(), ines, "NONE-7", "Renew the belt")
	assert.ErrorContains(t, err, "no such engine code")
}
