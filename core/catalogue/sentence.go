package catalogue

import (
	"strings"
	"sync"
	"unicode"

	"nowthen/core/message"
)

// openings are the first words of the catalogue's own names.
var openings = sync.OnceValue(func() map[string]bool {
	words := map[string]bool{}
	for _, e := range All() {
		words[firstWord(e.Test.Name)] = true
	}
	return words
})

func firstWord(s string) string {
	return strings.FieldsFunc(s+" -", func(r rune) bool { return !unicode.IsLetter(r) && r != '-' })[0]
}

// InSentence returns a test's English name as it stands within a sentence. Only a name that
// begins like one of the catalogue's is put in lower case: another one was typed by a person
// and may be a German noun or a proper name, and so may one with further capitals in it
// ("Export der Bilder").
func InSentence(name string) string {
	words := strings.Fields(name)
	if len(words) == 0 || !openings()[firstWord(name)] {
		return name
	}
	for _, w := range words[1:] {
		if message.Lower(w) != w {
			return name
		}
	}
	return message.Lower(name)
}
