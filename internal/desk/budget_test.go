package desk

import (
	"errors"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// Work that does not end is given up with a sentence; a panic in it is an error and takes
// nothing else down.
func TestWorkIsGivenUp(t *testing.T) {
	never := make(chan struct{})
	defer close(never)
	_, err := workedWithin(time.Millisecond, func() (int, error) { <-never; return 1, nil })
	assert.ErrorIs(t, err, errSpent)
	_, err = worked(func() (int, error) { panic("no such wheel") })
	assert.ErrorContains(t, err, "no such wheel")
	own := errors.New("own")
	v, err := worked(func() (int, error) { return 7, own })
	assert.Equal(t, 7, v)
	assert.ErrorIs(t, err, own)
}
