package store

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestListsAreKeptUntilTheirDay(t *testing.T) {
	s, _ := openNew(t)
	day := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	const a, b = "A", "B"
	for i, id := range []string{a, b} {
		require.NoError(t, s.Add(t.Context(), id, visit(fmt.Sprint(i), "Ottilie")))
	}
	require.NoError(t, s.KeepLists(t.Context(), a, day.Add(time.Hour), []byte(`{"missing":["x"]}`)))
	require.NoError(t, s.KeepLists(t.Context(), a, day.Add(2*time.Hour), []byte(`{"missing":["y"]}`)),
		"a newer comparison replaces it")
	require.NoError(t, s.KeepLists(t.Context(), b, day.Add(9*time.Hour), []byte(`{}`)))
	body, until, err := s.Lists(t.Context(), a, day)
	require.NoError(t, err)
	assert.JSONEq(t, `{"missing":["y"]}`, string(body))
	assert.True(t, until.Equal(day.Add(2*time.Hour)))
	n, err := s.DropLists(t.Context(), day)
	require.NoError(t, err)
	assert.Zero(t, n, "no day has come")
	_, _, err = s.Lists(t.Context(), a, day.Add(2*time.Hour))
	assert.ErrorIs(t, err, ErrNotFound, "at its time it is kept no more, even before it is deleted")
	n, err = s.DropLists(t.Context(), day.Add(2*time.Hour))
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, _, err = s.Lists(t.Context(), a, day)
	assert.ErrorIs(t, err, ErrNotFound)
	_, _, err = s.Lists(t.Context(), b, day)
	assert.NoError(t, err, "the other's day has not come")
}

// A model is the same, however its name was typed, and another maker's is another.
func TestWhatIsKnownOfAModel(t *testing.T) {
	s, _ := openNew(t)
	known, err := s.Model(t.Context(), "Ostrand", "Front Desk 3")
	require.NoError(t, err)
	assert.Nil(t, known)
	require.NoError(t, s.KeepModel(t.Context(), "Ostrand", "Front Desk 3", []byte(`{"minutes":20}`)))
	require.NoError(t, s.KeepModel(t.Context(), " ostrand", "Front  desk 3 ", []byte(`{"minutes":25}`)))
	known, err = s.Model(t.Context(), "OSTRAND", "front desk 3")
	require.NoError(t, err)
	assert.JSONEq(t, `{"minutes":25}`, string(known))
	known, err = s.Model(t.Context(), "Ostrand Front", "Desk 3")
	require.NoError(t, err)
	assert.Nil(t, known)
}
