package store

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// next takes a number as the bench does.
func next(t *testing.T, s *Store) (n string) {
	t.Helper()
	require.NoError(t, s.Write(t.Context(), nil, func(tx *Tx) (err error) {
		n, err = tx.NextNumber(t.Context(), "2026-")
		return err
	}))
	return n
}

// Numbers come from the shop's own counter, whatever numbers jobs from elsewhere have.
func TestNextNumber(t *testing.T) {
	for name, tt := range map[string]struct {
		there []string
		want  []string
	}{
		"nothing there":    {nil, []string{"2026-0001", "2026-0002"}},
		"its own go on":    {[]string{"2026-0007", "2025-0900"}, []string{"2026-0008", "2026-0009"}},
		"five digits":      {[]string{"2026-12345"}, []string{"2026-12346"}},
		"the largest ever": {[]string{"2026-9223372036854775807", "2026-0003"}, []string{"2026-0004"}},
		"beyond an int":    {[]string{"2026-99999999999999999999999"}, []string{"2026-0001"}},
		"negative":         {[]string{"2026--5", "2026-0x10", "2026-1e9", "2026-"}, []string{"2026-0001"}},
	} {
		t.Run(name, func(t *testing.T) {
			s, _ := openNew(t)
			for i, n := range tt.there {
				require.NoError(t, s.Add(t.Context(), fmt.Sprint("J", i), visit(n, "x")))
			}
			for _, want := range tt.want {
				assert.Equal(t, want, next(t, s))
			}
		})
	}
	s, _ := openNew(t)
	assert.Equal(t, "2026-0001", next(t, s))
	require.NoError(t, s.Add(t.Context(), "A", visit("2026-0002", "from elsewhere")))
	require.NoError(t, s.Add(t.Context(), "B", visit("2026-0900", "from elsewhere")))
	assert.Equal(t, "2026-0003", next(t, s), "what is taken is left out, and what came later moves nothing")
}
