package sittings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/core/job"
)

// How far a pass was, the system told: whoever corrects the conditions says that one ran, and not how far it was again.
func TestConditionsSaidAnewKeepWhatWasSeenOfAPass(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Real(t, b, 1)
	left := 25.0
	_, err := b.Jobs.Change(ctx, nil, id, func(j *job.Job) error {
		j.Sitting("s1").Conditions.Pass = &job.Pass{Kind: job.EncryptionPass, MinutesLeft: &left}
		return nil
	})
	require.NoError(t, err)
	yes, no := true, false
	v, err := b.Sittings.Amend(ctx, nil, id, "s1", bench.Conditions{Power: job.Mains, Encrypting: &yes})
	require.NoError(t, err)
	kept := v.Job.Sitting("s1").Conditions.Pass
	require.NotNil(t, kept)
	assert.Equal(t, 25.0, *kept.MinutesLeft)
	v, err = b.Sittings.Amend(ctx, nil, id, "s1", bench.Conditions{Power: job.Mains, Encrypting: &no})
	require.NoError(t, err)
	assert.Nil(t, v.Job.Sitting("s1").Conditions.Pass, "none ran, somebody says")
}
