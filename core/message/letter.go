package message

import (
	"unicode"
	"unicode/utf8"
)

// Capital returns a text with its first letter in upper case.
func Capital(s string) string {
	r, n := utf8.DecodeRuneInString(s)
	if r == utf8.RuneError {
		return s
	}
	return string(unicode.ToTitle(r)) + s[n:]
}

// Lower returns a text with its first letter in lower case. A text that begins with an
// acronym or a name written in capitals ("TRIM is on", "NVMe") stays as it is: the second
// letter of its first word, or one after it, is a capital or a digit.
func Lower(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if first == utf8.RuneError {
		return s
	}
	for _, r := range s[n:] {
		if !unicode.IsLetter(r) && !unicode.IsDigit(r) {
			break
		}
		if !unicode.IsLower(r) {
			return s
		}
	}
	return string(unicode.ToLower(first)) + s[n:]
}
