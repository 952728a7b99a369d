package catalogue

import (
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
)

func TestInSentence(t *testing.T) {
	for _, tt := range []struct{ name, want string }{
		{"Cold start to desktop", "cold start to desktop"},
		{"Game: load a save", "game: load a save"},
		{"Cold start of the till", "cold start of the till"},
		{"Öffnen der Kasse", "Öffnen der Kasse"},
		{"Export der Bilder", "Export der Bilder"},
		{"Kaltstart", "Kaltstart"},
		{"SSD check", "SSD check"},
		{"Game of the Ledger Works", "Game of the Ledger Works"},
		{"ß", "ß"},
		{"", ""},
		{"  ", "  "},
		{"- - -", "- - -"},
	} {
		assert.Equal(t, tt.want, InSentence(tt.name), tt.name)
	}
	for _, e := range All() {
		r, _ := utf8.DecodeRuneInString(InSentence(e.Test.Name))
		assert.True(t, unicode.IsLower(r), e.Test.Name)
	}
}
