package forms

import (
	"bytes"
	"context"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/words"
)

func TestPieces(t *testing.T) {
	one := func(_, _ rune) float64 { return 1 }
	for _, tt := range []struct {
		word string
		room float64
		want []string
	}{
		{"", 3, []string{""}},
		{"abc", 3, []string{"abc"}},
		{"abcd", 3, []string{"abc", "d"}},
		{"äöüäöü", 2, []string{"äö", "üä", "öü"}},
		{"abc", 0.5, []string{"a", "b", "c"}},
		{"日本語", 1, []string{"日", "本", "語"}},
	} {
		assert.Equal(t, tt.want, pieces(tt.word, tt.room, one), tt.word)
	}
}

// A word of any length is measured once a letter.
func TestPiecesAreCutInOnePass(t *testing.T) {
	asked := 0
	parts := pieces(strings.Repeat("x", 100_000), 50, func(_, _ rune) float64 { asked++; return 1 })
	assert.Len(t, parts, 2000)
	assert.LessOrEqual(t, asked, 2*100_000)
}

// Text without a blank ends in every form, and a report that nobody waits for any more is not drawn.
func TestAWordOfFiveThousandLetters(t *testing.T) {
	d := document(visit(3, strings.Repeat("ß", 5000)), words.English)
	for _, ending := range Endings {
		var b bytes.Buffer
		require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{Length: Full}), ending)
		assert.NotZero(t, b.Len(), ending)
	}
	gone, leave := context.WithCancel(t.Context())
	leave()
	for _, ending := range []string{".pdf", ".png"} {
		assert.ErrorIs(t, Write(gone, &bytes.Buffer{}, "x"+ending, d, Options{}), context.Canceled, ending)
	}
}
