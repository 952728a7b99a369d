package answers

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// told is a pass in words: its kind, its progress, how long it takes.
func told(p *job.Pass) string {
	if p == nil {
		return "none"
	}
	s := string(p.Kind)
	if p.DonePct != nil {
		s += fmt.Sprintf(" %.1f %%", *p.DonePct)
	}
	if p.MinutesLeft != nil {
		s += fmt.Sprintf(" %.1f min", *p.MinutesLeft)
	}
	return s
}

func TestArrayPass(t *testing.T) {
	for name, c := range map[string]struct{ action, completed, speed, want string }{
		"nothing goes over it":         {"idle\n", "none\n", "none\n", "none"},
		"it stands still":              {"frozen", "12 / 100", "1", "none"},
		"no array":                     {"", "", "", "none"},
		"a new drive is filled":        {"recover\n", "244195328 / 976781312\n", "122097\n", "array 25.0 % 50.0 min"},
		"it is checked, just begun":    {"check", "0 / 976781312", "0", "array 0.0 %"},
		"it has not said how far":      {"resync", "none", "none", "array"},
		"a delayed one":                {"resync", "delayed", "none", "array"},
		"more is done than there is":   {"reshape", "5 / 3", "10", "array"},
		"no sizes":                     {"repair", "0 / 0", "10", "array"},
		"a speed that cannot be":       {"repair", "1 / 4", "-3", "array 25.0 %"},
		"a speed that is not a number": {"repair", "1 / 4", "NaN", "array 25.0 %"},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, told(ArrayPass(c.action, c.completed, c.speed))) })
	}
}

func TestVaultPass(t *testing.T) {
	for text, want := range map[string]string{
		"FileVault is On.\n":  "none",
		"FileVault is Off.\n": "none",
		"FileVault is On.\nEncryption in progress: Percent completed = 43.2\n":  "encryption 43.2 %",
		"FileVault is Off.\nDecryption in progress: Percent completed = 7\n":    "decryption 7.0 %",
		"FileVault is On.\nEncryption in progress: Percent completed = \n":      "encryption",
		"FileVault is On.\nEncryption in progress: Percent completed = 430.2\n": "encryption",
		"": "none",
	} {
		assert.Equal(t, want, told(VaultPass(text)), text)
	}
}

func TestWindowsPass(t *testing.T) {
	for name, c := range map[string]struct {
		status int
		pct    float64
		want   string
	}{
		"not encrypted":                 {0, 0, "none"},
		"encrypted":                     {1, 100, "none"},
		"being encrypted":               {2, 43, "encryption 43.0 %"},
		"being decrypted":               {3, 43, "decryption 57.0 %"},
		"paused":                        {4, 43, "none"},
		"a number that is none":         {-1, 0, "none"},
		"a share that cannot be":        {2, 143, "encryption"},
		"a share that cannot be, of it": {3, -1, "decryption"},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, told(WindowsPass(c.status, c.pct))) })
	}
}

// How long a pass takes is told from how far it came, once that is more than rounding, and never of another pass.
func TestPace(t *testing.T) {
	start := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	at := func(kind job.PassKind, pct float64) *job.Pass { return &job.Pass{Kind: kind, DonePct: &pct} }
	var pace Pace
	for _, look := range []struct {
		name    string
		pass    *job.Pass
		seconds int
		want    string
	}{
		{"first", at("encryption", 40), 0, "encryption 40.0 %"},
		{"too soon", at("encryption", 41), 10, "encryption 41.0 %"},
		{"a minute later", at("encryption", 42), 60, "encryption 42.0 % 29.0 min"},
		{"it went faster", at("encryption", 50), 120, "encryption 50.0 % 10.0 min"},
		{"it was begun again", at("encryption", 3), 180, "encryption 3.0 %"},
		{"nothing moves", at("encryption", 3), 260, "encryption 3.0 %"},
		{"it is taken back", at("decryption", 90), 300, "decryption 90.0 %"},
		{"over", nil, 400, "none"},
		{"a new one", at("decryption", 95), 500, "decryption 95.0 %"},
	} {
		pace.See(look.pass, start.Add(time.Duration(look.seconds)*time.Second))
		assert.Equal(t, look.want, told(look.pass), look.name)
	}
	own := 7.0
	p := at("array", 99)
	p.MinutesLeft = &own
	pace.See(at("array", 10), start)
	pace.See(p, start.Add(time.Minute))
	require.NotNil(t, p.MinutesLeft)
	assert.Equal(t, 7.0, *p.MinutesLeft, "what the system says itself stays")
}

func FuzzPass(f *testing.F) {
	f.Add("recover", "244195328 / 976781312", "122097")
	f.Add("check", "1e308 / 1e308", "1e-300")
	f.Fuzz(func(t *testing.T, action, completed, speed string) {
		for _, p := range []*job.Pass{ArrayPass(action, completed, speed), VaultPass(action + completed + speed)} {
			if p == nil {
				continue
			}
			if p.DonePct != nil && !(*p.DonePct >= 0 && *p.DonePct <= 100) {
				t.Errorf("%v %% done", *p.DonePct)
			}
			if p.MinutesLeft != nil && !(*p.MinutesLeft >= 0 && *p.MinutesLeft < 1e16) {
				t.Errorf("%v minutes", *p.MinutesLeft)
			}
		}
	})
}
