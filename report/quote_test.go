package report

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/catalogue"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/words"
)

// A quote says what each drive brings and costs, what is uncertain and until when it is valid, in
// both languages; of what
// is not known it says so.
func TestAQuote(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90}, nil)
	j.Head.Quote = &job.Quote{Until: "2026-12-31"}
	then, share := 90.0, 0.8
	perTB := 74.4583
	f := &forecast.Forecast{Candidates: []forecast.Candidate{
		{New: "Brightwater Kestrel", Kind: job.SataSSD, Price: &job.Price{Amount: "71.48", Currency: "EUR"},
			PricePerTB: &perTB,
			Waits: []forecast.Wait{{Test: catalogue.ColdStart, Then: &then, NowLow: 12.2, NowHigh: 21.4,
				Jobs: 23}},
			HoursPerYear: &forecast.Ends{Low: 6.04, High: 12.4}, PaybackWeeks: &forecast.Ends{Low: 20.4, High: 41.2}},
		{New: string(job.NVMe), Kind: job.NVMe, Waits: []forecast.Wait{}},
	}, OtherCause: []string{forecast.MemoryFull}, Refused: []forecast.Refused{{Test: catalogue.ColdStart, Why: "x"}},
		Record: forecast.Record{Forecasts: 40, Held: 32, Share: &share}}
	said := func(l *words.Language) (d *Document, all string) {
		d = Quote(j, f, Options{Language: l})
		for _, p := range d.Parts {
			all += p.Title + "\n" + strings.Join(p.Lines, "\n") + "\n"
		}
		return d, all
	}
	d, all := said(words.English)
	assert.Equal(t, "Valid until 31 December 2026.", d.Lead)
	for _, want := range []string{"Brightwater Kestrel, 71.48 EUR\n",
		"From switching on until you can work: 12 to 21 seconds instead of 90 seconds.",
		"Saves 6.0 to 12 hours a year, at the use that was assumed or that you told us.", "It pays for itself in 20 " +
			"to 41 weeks.", "That is 74.46 EUR per TB.",
		"NVMe SSD\nToo few earlier jobs tell what it would bring.", "up to 23 finished jobs",
		"32 of 40 such forecasts were right.",
		"the memory was full"} {
		assert.Contains(t, all, want)
	}
	assert.NotContains(t, all, "Too little is known", "the refused test is said of another drive")
	d, all = said(words.German)
	assert.Equal(t, "Gültig bis 31.12.2026.", d.Lead)
	for _, want := range []string{"Brightwater Kestrel, 71,48 EUR\n",
		"Vom Einschalten, bis Sie arbeiten können: 12 bis 21 Sekunden statt 90 Sekunden.",
		"Spart 6,0 bis 12 Stunden im Jahr", "74,46 EUR je TB"} {
		assert.Contains(t, all, want)
	}
	f.Record.Share, f.Candidates[0].HoursPerYear.Low = nil, -1
	_, all = said(words.English)
	assert.Contains(t, all, "How often such forecasts were right is not known yet.")
	assert.Contains(t, all, "It does not clearly save time.")
	assert.Empty(t, document(visit(map[string]float64{catalogue.ColdStart: 90},
		map[string]float64{catalogue.ColdStart: 30})).Parts,
		"a report has none")
}
