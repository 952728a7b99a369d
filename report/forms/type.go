package forms

import (
	"strings"
	"sync"

	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/unicode/bidi"
)

// The typeface that paper and picture are set in, which is free to embed. Its figures have one
// width.
var (
	regular = goregular.TTF
	bold    = gobold.TTF
)

// missing stands for a character that the typeface lacks.
const missing = '□'

var face = sync.OnceValue(func() *sfnt.Font {
	f, err := sfnt.Parse(regular)
	if err != nil {
		panic("forms: the typeface cannot be read: " + err.Error())
	}
	return f
})

// glyphs guards the typeface's buffer.
var glyphs struct {
	sync.Mutex
	sfnt.Buffer
}

// printable is a text as paper and picture can carry it: in the order in which it is read from
// left to right, with a box for what the typeface lacks.
func printable(s string) string {
	s = inOrder(clean(s))
	glyphs.Lock()
	defer glyphs.Unlock()
	joined := false
	return strings.Map(func(r rune) rune {
		switch {
		case r == 0x200d || r >= 0xfe00 && r <= 0xfe0f: // joins signs, or says how one looks
			joined = r == 0x200d
			return -1
		case joined:
			joined = false
			return -1
		}
		if i, err := face().GlyphIndex(&glyphs.Buffer, r); err != nil || i == 0 || r > 0xffff {
			return missing
		}
		return r
	}, s)
}

// inOrder puts what is written from right to left into the order of the eye (Unicode standard
// annex 9).
func inOrder(s string) string {
	var p bidi.Paragraph
	if _, err := p.SetString(s); err != nil {
		return s
	}
	order, err := p.Order()
	if err != nil {
		return s
	}
	var b strings.Builder
	for i := range order.NumRuns() {
		run := order.Run(i)
		if text := run.String(); run.Direction() == bidi.RightToLeft {
			b.WriteString(bidi.ReverseString(text))
		} else {
			b.WriteString(text)
		}
	}
	return b.String()
}
