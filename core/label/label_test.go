package label

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestCheckNew(t *testing.T) {
	for name, c := range map[string]struct {
		code, number string
		wrong        string // part of the error, "" for none
	}{
		"as it is printed":        {"0147 NEW", "2026-0147", ""},
		"typed small":             {" 147-new ", "2026-0147", ""},
		"without the number":      {"NEW", "2026-0147", ""},
		"the job is not known":    {"0147 NEW", "", ""},
		"the old drive's":         {"0147 OLD", "2026-0147", "old drive"},
		"of another job":          {"0148 NEW", "2026-0147", "another job"},
		"a number alone":          {"0147", "2026-0147", "no code"},
		"nothing":                 {"", "2026-0147", "no code"},
		"old and new":             {"OLD NEW", "", "no code"},
		"a number without a year": {"7 NEW", "0007", ""},
	} {
		t.Run(name, func(t *testing.T) {
			err := CheckNew(c.code, c.number)
			if c.wrong == "" {
				assert.NoError(t, err)
			} else {
				assert.ErrorContains(t, err, c.wrong)
			}
		})
	}
	assert.ErrorIs(t, CheckNew("old", ""), ErrOld)
}

func FuzzCheckNew(f *testing.F) {
	f.Add("0147 NEW", "2026-0147")
	f.Add("OLD", "")
	f.Fuzz(func(t *testing.T, code, number string) {
		if CheckNew(code, number) == nil {
			assert.Regexp(t, `(?i)new\s*$`, code)
		}
	})
}
