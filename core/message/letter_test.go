package message

import (
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
)

func TestLetters(t *testing.T) {
	for _, tt := range []struct{ give, lower, capital string }{
		{"", "", ""},
		{"Cold start", "cold start", "Cold start"},
		{"cold start", "cold start", "Cold start"},
		{"Öffnen", "öffnen", "Öffnen"},
		{"über", "über", "Über"},
		{"Łódź", "łódź", "Łódź"},
		{"TRIM is on", "TRIM is on", "TRIM is on"},
		{"NVMe", "NVMe", "NVMe"},
		{"M2 slot", "M2 slot", "M2 slot"},
		{"A start", "a start", "A start"},
		{"ǆ", "ǆ", "ǅ"}, // has a title case of its own
		{"日本", "日本", "日本"},
		{"\xff broken", "\xff broken", "\xff broken"},
		{"7 pages", "7 pages", "7 pages"},
	} {
		assert.Equal(t, tt.lower, Lower(tt.give), tt.give)
		assert.Equal(t, tt.capital, Capital(tt.give), tt.give)
	}
}

func FuzzLetters(f *testing.F) {
	f.Add("Öffnen der Kasse")
	f.Fuzz(func(t *testing.T, s string) {
		if utf8.ValidString(s) {
			assert.True(t, utf8.ValidString(Lower(s)))
			assert.True(t, utf8.ValidString(Capital(s)))
		}
	})
}
