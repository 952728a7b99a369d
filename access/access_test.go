package access

import (
	"fmt"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/store"
)

const good = "a long shop password"

func guard(t *testing.T) (*Guard, *time.Time) {
	t.Helper()
	s, err := store.Open(filepath.Join(t.TempDir(), "x.db"), store.Options{Migrate: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	g := New(s)
	now := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	g.now = func() time.Time { return now }
	return g, &now
}

func TestThePassword(t *testing.T) {
	g, _ := guard(t)
	ctx := t.Context()
	set, err := g.Set(ctx)
	require.NoError(t, err)
	assert.False(t, set)
	_, err = g.SignIn(ctx, good, slow.Client{Key: "a"})
	assert.ErrorIs(t, err, ErrNoneSet)
	assert.ErrorIs(t, g.SetPassword(ctx, "short"), ErrShort)
	assert.ErrorIs(t, g.SetPassword(ctx, strings.Repeat("x", 2000)), ErrShort)
	require.NoError(t, g.SetPassword(ctx, good))
	stored, err := g.store.Setting(ctx, passwordSetting)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(stored, "$argon2id$v=19$m=65536,t=3,p=2$"), stored)
	assert.NotContains(t, stored, good)
	_, err = g.SignIn(ctx, good+"!", slow.Client{Key: "a"})
	assert.ErrorIs(t, err, ErrWrong)
	secret, err := g.SignIn(ctx, good, slow.Client{Key: "a"})
	require.NoError(t, err)
	in, err := g.SignedIn(ctx, secret)
	require.NoError(t, err)
	assert.True(t, in)
	for _, other := range []string{"", "x", secret + "x", token.Hash(secret)} {
		in, err := g.SignedIn(ctx, other)
		require.NoError(t, err)
		assert.False(t, in, other)
	}
	require.NoError(t, g.store.SaveSetting(ctx, passwordSetting, "plain"))
	assert.ErrorContains(t, g.Verify(ctx, good, slow.Client{Key: "b"}), "stored password")
}

func TestSessionsEnd(t *testing.T) {
	g, now := guard(t)
	ctx := t.Context()
	require.NoError(t, g.SetPassword(ctx, good))
	var tokens []string
	for i := range 3 {
		token, err := g.SignIn(ctx, good, slow.Client{Key: fmt.Sprint(i)})
		require.NoError(t, err)
		tokens = append(tokens, token)
	}
	in := func(i int) bool {
		ok, err := g.SignedIn(ctx, tokens[i])
		require.NoError(t, err)
		return ok
	}
	require.True(t, in(0) && in(1) && in(2))
	require.NoError(t, g.End(ctx, tokens[0]))
	assert.False(t, in(0))
	for range 5 { // used, it stays
		*now = now.Add(6 * 24 * time.Hour)
		if now.Sub(time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)) <= longest {
			assert.True(t, in(1))
		}
	}
	assert.False(t, in(2), "unused for longer than a week")
	*now = now.Add(time.Hour)
	assert.False(t, in(1), "thirty days are the most")
	token, err := g.SignIn(ctx, good, slow.Client{Key: "x"})
	require.NoError(t, err)
	tokens[0] = token
	require.True(t, in(0))
	require.NoError(t, g.EndAll(ctx))
	assert.False(t, in(0), "everywhere, at once")
	token, err = g.SignIn(ctx, good, slow.Client{Key: "x"})
	require.NoError(t, err)
	require.NoError(t, g.SetPassword(ctx, good+"2"))
	ok, err := g.SignedIn(ctx, token)
	require.NoError(t, err)
	assert.False(t, ok, "a new password ends the sessions of the old one")
}

// Twenty wrong passwords from anywhere keep nobody else out, and a new password forgets all attempts.
func TestOthersKeepNobodyOut(t *testing.T) {
	g, _ := guard(t)
	ctx := t.Context()
	require.NoError(t, g.SetPassword(ctx, good))
	for i := range 24 {
		from := slow.Client{Key: fmt.Sprint("192.0.2.", i%4)}
		_, err := g.SignIn(ctx, "wrong wrong", from)
		assert.Error(t, err)
	}
	for _, from := range []slow.Client{{Key: "here", Here: true}, {Key: "192.0.2.99"}} {
		_, err := g.SignIn(ctx, good, from)
		require.NoError(t, err)
	}
	held := slow.Client{Key: "192.0.2.1"}
	var tooOften slow.Error
	_, err := g.SignIn(ctx, good, held)
	require.ErrorAs(t, err, &tooOften)
	require.NoError(t, g.SetPassword(ctx, good+"2"))
	_, err = g.SignIn(ctx, good+"2", held)
	require.NoError(t, err)
}
