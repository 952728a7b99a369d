package words

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestCleared(t *testing.T) {
	assert.Equal(t, "Test files removed.", Cleared(false, false, nil))
	assert.Equal(t, "Test files removed, freed blocks trimmed.", Cleared(false, true, nil))
	assert.Equal(t, "Test files removed; freed blocks not trimmed: that needs administrator rights.",
		Cleared(false, false, errors.New("that needs administrator rights")))
	assert.Contains(t, Cleared(true, false, nil), "at the next start")
}
