package words

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
	"nowthen/core/message"
)

// German as it is read to a customer: figures, grammar and plurals.
func TestGerman(t *testing.T) {
	for want, said := range map[string]string{
		"92,4 s":                      German.Figure(92.4, "s"),
		"108 MB/s":                    German.Figure(108.2, "MB/s"),
		"12,5 Dateien/s":              German.Figure(12.5, "files/s"),
		"2,5-mal so schnell":          German.FactorWords(2.5),
		"dauert 1,3-mal so lange":     German.FactorWords(1 / 1.3),
		"1,00-mal so schnell":         German.FactorWords(1),
		"60 % weniger Wartezeit":      German.WaitingWords(90, 36),
		"spart jedes Mal 5,4 s":       German.SavesWords(5.4),
		"3 min 20 s":                  German.Seconds(200),
		"2,3- bis 2,7-mal so schnell": German.rangeWords(2.5, 2.31, 2.69, true),
		"500-GB-Festplatte, Halden Turnstone": German.DriveName(&job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD,
			CapacityBytes: 500e9, Maker: "Halden", Model: "Turnstone"}}),
		"1,5-TB-Festplatte": German.DriveName(&job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD,
			CapacityBytes: 1.5e12}}),
		"Kaltstart bis zum Desktop": German.TestName("cold-start", "Cold start to desktop"),
		"Mein Spiel":                German.TestName("game-menu", "Mein Spiel"),
		"a, b und c":                German.List([]string{"a", "b", "c"}),
		"Noch eine Messung (Vorher) würde es entscheiden.": German.Say("further-runs",
			message.Values{"Count": 1, "On": "Vorher"}),
		"Noch 3 Messungen (Vorher) würden es entscheiden.": German.Say("further-runs",
			message.Values{"Count": 3, "On": "Vorher"}),
	} {
		assert.Equal(t, want, said)
	}
	assert.Equal(t, "a, b and c", English.List([]string{"a", "b", "c"}))
	assert.Equal(t, "Cold start to desktop", English.TestName("cold-start", "Cold start to desktop"))
}

// What the catalogue of tests calls its tests, the catalogue of words knows.
func TestEveryTestOfTheCatalogueHasAName(t *testing.T) {
	for _, name := range []string{"cold-start", "long-read", job.ScatteredRead, job.ScatteredReadOwn, job.Processor} {
		assert.True(t, German.Has("test."+name), name)
	}
	for _, what := range append(slices.Clone(job.WorkKinds), "x") {
		assert.Equal(t, what != "x", English.Has("term.work."+string(what)), what)
	}
	for _, what := range job.ReasonKinds {
		assert.True(t, English.Has("why."+string(what)), what)
	}
	for _, kind := range job.DriveKinds {
		assert.NotEmpty(t, English.Say("kind."+string(kind)))
		assert.True(t, German.Has("kind."+string(kind)), fmt.Sprint(kind))
	}
}
