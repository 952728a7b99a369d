package forms

import (
	"strings"
	"sync"
	"unicode"

	"github.com/go-json-experiment/json"

	"github.com/go-fonts/dejavu/dejavusans"
	"github.com/go-fonts/dejavu/dejavusansbold"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/text/unicode/bidi"

	"nowthen/report"
)

// typeface is what paper and picture are set in, free to embed. Its figures have one width.
type typeface struct {
	regular, bold []byte

	mu     sync.Mutex // guards the buffer
	buffer sfnt.Buffer
	font   *sfnt.Font
}

func newTypeface(regular, bold []byte) func() *typeface {
	return sync.OnceValue(func() *typeface {
		f, err := sfnt.Parse(regular)
		if err != nil {
			panic("forms: the typeface cannot be read: " + err.Error())
		}
		return &typeface{regular: regular, bold: bold, font: f}
	})
}

var (
	usual = newTypeface(goregular.TTF, gobold.TTF)
	// wide has letters of more scripts, Hebrew and Arabic among them, and runs wider.
	wide = newTypeface(dejavusans.TTF, dejavusansbold.TTF)
)

// missing stands for a character that the typeface lacks.
const missing = '□'

// has reports whether the typeface has a character.
func (t *typeface) has(r rune) bool {
	t.mu.Lock()
	defer t.mu.Unlock()
	i, err := t.font.GlyphIndex(&t.buffer, r)
	return err == nil && i != 0 && r <= 0xffff
}

// typefaceFor is the one in which a report is set as a whole: the usual one, but where a name or a
// note in it is written in
// letters that only the wide one has.
func typefaceFor(d *report.Document) *typeface {
	text, err := json.Marshal(d)
	if err != nil {
		return usual() // it cannot be written either, and says so there
	}
	for _, r := range string(text) {
		if r > 0x7f && unicode.IsLetter(r) && !usual().has(r) && wide().has(r) {
			return wide()
		}
	}
	return usual()
}

// printable prepares a text for paper and picture: in visual order, with a box for missing characters.
func (t *typeface) printable(s string) string {
	s = inOrder(clean(s))
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
		if !t.has(r) {
			return missing
		}
		return r
	}, s)
}

// inOrder converts right-to-left text to visual order (Unicode standard annex 9).
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
