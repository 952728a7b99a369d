package server

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
	"nowthen/core/order"
)

// That the graphics worked is known where a page on that computer has said so for usually,
// and of no other computer.
func TestWhetherTheGraphicsWorked(t *testing.T) {
	nine := time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	l := &loads{}
	for i := range 12 { // a minute of it
		l.mark("10.0.0.7", nine.Add(time.Duration(i)*loadMark))
	}
	for name, c := range map[string]struct {
		address  string
		from, to time.Duration
		worked   bool
	}{
		"all the time":         {"10.0.0.7", 0, time.Minute, true},
		"for three quarters":   {"10.0.0.7", 0, 80 * time.Second, true},
		"for less":             {"10.0.0.7", 0, 81 * time.Second, false},
		"before that":          {"10.0.0.7", -time.Minute, -time.Second, false},
		"after it":             {"10.0.0.7", time.Minute, 2 * time.Minute, false},
		"on another computer":  {"10.0.0.8", 0, time.Minute, false},
		"a part in the middle": {"10.0.0.7", 10 * time.Second, 40 * time.Second, true},
	} {
		assert.Equal(t, c.worked, l.during(c.address, nine.Add(c.from), nine.Add(c.to)), name)
	}
	// However many say so, and however often, not more is kept than can be.
	for i := range 3 * mostLoads {
		l.mark(fmt.Sprint("10.1.0.", i), nine.Add(time.Duration(i)*time.Second))
	}
	assert.Len(t, l.marks, mostLoads)
	assert.NotContains(t, l.marks, "10.1.0.0", "the one that was silent for the longest is forgotten")
	for i := range 3 * mostMarks {
		l.mark("10.1.0.599", nine.Add(time.Duration(i)*time.Hour))
	}
	assert.Len(t, l.marks["10.1.0.599"], mostMarks)
}

func TestGraphicsAreNotedBesideALoadedPart(t *testing.T) {
	s := &Server{}
	checked := func(parts ...job.SustainedPart) *order.Checked {
		return &order.Checked{Sustained: &job.Sustained{Parts: parts}}
	}
	c := checked(job.SustainedPart{Loaded: true, Seconds: 10})
	s.noteGraphics("10.0.0.7", c)
	assert.Nil(t, c.Sustained.Graphics, "nobody said")
	for range 4 {
		s.loads.mark("10.0.0.7", time.Now())
	}
	s.noteGraphics("10.0.0.8", c)
	assert.Nil(t, c.Sustained.Graphics)
	s.noteGraphics("10.0.0.7", c)
	require.NotNil(t, c.Sustained.Graphics)
	assert.True(t, *c.Sustained.Graphics)
	alone := checked(job.SustainedPart{Seconds: 10})
	s.noteGraphics("10.0.0.7", alone)
	assert.Nil(t, alone.Sustained.Graphics, "nothing was loaded")
	s.noteGraphics("10.0.0.7", &order.Checked{})
}
