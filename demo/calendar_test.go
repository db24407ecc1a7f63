package demo

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// The clock of a lived demo goes forward only, in steps of mornings on working days and
// of hours, and never beyond now.
func TestTheCalendarGoesForward(t *testing.T) {
	today := time.Date(2026, 11, 27, 16, 0, 0, 0, time.UTC)
	c := &calendar{today: today}
	last := time.Time{}
	for _, days := range []int{150, 120, 98, 90, 58, 12, 13, 4, 3, 1} {
		c.back(days)
		now := c.now()
		assert.False(t, now.Before(last), "%d days ago, it goes back", days)
		assert.NotContains(t, []time.Weekday{time.Saturday, time.Sunday}, now.Weekday())
		assert.False(t, now.After(today))
		last = now
		c.pass(3 * time.Hour)
		assert.WithinDuration(t, last.Add(3*time.Hour), c.now(), time.Second)
		last = c.now()
	}
	c.pass(48 * time.Hour)
	assert.WithinDuration(t, last, c.now(), time.Second, "beyond now it does not go")
	assert.Equal(t, time.Thursday, c.now().Weekday())

	var wall *calendar // the clock on the wall is set by nobody
	wall.back(3)
	wall.pass(time.Hour)
}
