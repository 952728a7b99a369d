package sittings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/sittings"
	"nowthen/core/job"
)

// A sitting is for a question once somebody says which; where it was is kept as it was said.
func TestWhatASittingIsFor(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	v, err := b.Sittings.Sit(ctx, nil, id, "then", bench.Conditions{})
	require.NoError(t, err)
	sitting := v.Job.Sittings[0].ID
	where := &sittings.Where{Computer: "bench", Port: "usb", DriveDigest: "0123", CapacityBytes: 5e11, Kind: job.HDD}
	v, err = b.Sittings.SetPurpose(ctx, nil, id, sitting,
		sittings.Purpose{Purpose: job.ForQuestion, Question: " on battery ", Where: where})
	require.NoError(t, err)
	s := v.Job.Sitting(sitting)
	assert.Equal(t, []any{job.ForQuestion, "on battery", job.Where(*where)}, []any{s.For(), s.Question, *s.Where})
	v, err = b.Sittings.SetPurpose(ctx, nil, id, sitting,
		sittings.Purpose{Purpose: job.ForCheckUp, Question: "left over"})
	require.NoError(t, err)
	s = v.Job.Sitting(sitting)
	assert.Equal(t, []any{job.ForCheckUp, "", true}, []any{s.For(), s.Question, s.Where == nil})
	for name, in := range map[string]sittings.Purpose{
		"a purpose":  {Purpose: "fun"},
		"a question": {Purpose: job.ForQuestion, Question: "  "},
		"a computer": {Where: &sittings.Where{Computer: "c9"}},
		"no where":   {Where: &sittings.Where{}},
		"a port":     {Where: &sittings.Where{Computer: "bench", Port: "parallel"}},
	} {
		_, err := b.Sittings.SetPurpose(ctx, nil, id, sitting, in)
		assert.NotEmpty(t, desktest.Refusal(t, err, bench.Invalid).Fields, name)
	}
	_, err = b.Sittings.SetPurpose(ctx, nil, id, "s9", sittings.Purpose{})
	desktest.Refusal(t, err, bench.Missing)
}
