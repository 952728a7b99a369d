package probes

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/order"
)

// Known folder sizes aren't lost when a later attempt fails.
func TestWhatWasSeenOfFoldersStays(t *testing.T) {
	at := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	films := []order.Folder{{Path: "films", Files: 1, Bytes: 5}}
	r := &record{}
	r.weigh("then", order.Weighed{Refused: "no right to look"}, at)
	assert.Equal(t, "no right to look", r.Weighed["then"].Refused)
	r.weigh("then", order.Weighed{Bytes: 5, Largest: films}, at.Add(time.Minute))
	assert.Equal(t, Weighed{order.Weighed{Bytes: 5, Largest: films}, at.Add(time.Minute)}, r.Weighed["then"])
	r.weigh("then", order.Weighed{Refused: "something is being measured"}, at.Add(time.Hour))
	assert.Equal(t, Weighed{order.Weighed{Bytes: 5, Largest: films, Refused: "something is being measured"},
		at.Add(time.Minute)}, r.Weighed["then"])
	r.weigh("then", order.Weighed{Bytes: 7, Largest: films}, at.Add(2*time.Hour))
	assert.Empty(t, r.Weighed["then"].Refused)
	assert.Len(t, r.Weighed, 1)
}
