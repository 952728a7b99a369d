package launch

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestParseSign(t *testing.T) {
	for _, tt := range []struct{ give, says, refused string }{
		{"exit", "the program's end", ""},
		{"line:ready", `a line with "ready"`, ""},
		{"line:a:b", `a line with "a:b"`, ""},
		{"file:/a/b c", "the file /a/b c", ""},
		{"port:8080", "an answer at port 8080", ""},
		{"port:0080", "an answer at port 80", ""},
		{"window", "a window", ""},
		{"window:Ledger", `a window with "Ledger" in its title`, ""},
		{"quiet", "quiet", ""},
		{"", "", `"" is no sign`},
		{"Exit", "", `"Exit" is no sign`},
		{"exit:0", "", "takes nothing behind it"},
		{"quiet:", "", "takes nothing behind it"},
		{"line", "", "wants one text"},
		{"line:", "", "wants one text"},
		{"line:a\nb", "", "wants one text"},
		{"file:", "", "wants one text"},
		{"port", "", "a number from 1 to 65535"},
		{"port:0", "", "a number from 1 to 65535"},
		{"port:65536", "", "a number from 1 to 65535"},
		{"port:-1", "", "a number from 1 to 65535"},
		{"port:+1", "", "a number from 1 to 65535"},
		{"window:", "", "wants a part of the title"},
	} {
		s, err := ParseSign(tt.give)
		if tt.refused != "" {
			assert.ErrorContains(t, err, tt.refused, tt.give)
			continue
		}
		require.NoError(t, err, tt.give)
		assert.Equal(t, tt.says, s.String())
	}
}

func FuzzParseSign(f *testing.F) {
	for _, s := range []string{"exit", "line:x", "port:80", "window:", "quiet", "file:/x"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		s, err := ParseSign(text)
		if err != nil {
			assert.Equal(t, Sign{}, s)
			return
		}
		assert.NotEmpty(t, s.String())
		assert.Positive(t, s.resolution())
	})
}
