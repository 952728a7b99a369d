package e2e

import (
	"bytes"
	"os"
	"os/exec"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A quote becomes a job, and what was forecast then is beside what is measured. Drives may be priced in several
// currencies: what an hour is worth in one is set against no price in another.
func TestAQuoteBecomesAJob(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "demo", "--joined", "", "--pace", "0")
	list := filepath.Join(t.TempDir(), "prices.csv")
	head := "kind,maker,model,capacity_gb,price,currency,read_mb_s,write_mb_s\n"
	p := open(t, s.base, 1280, 800)
	p.goTo("/settings")
	p.see("Halden Plover 480")
	upload := func(rows string) {
		t.Helper()
		require.NoError(t, os.WriteFile(list, []byte(head+rows), 0o600))
		p.do(chromedp.SetUploadFiles(`input[type=file][aria-label="Price list"]`, []string{list}))
	}
	upload("drum,Halden,Plover 480,480,61.00,USD,,\n")
	p.see("is no kind of drive")
	upload("sata-ssd,Brightwater,Kestrel S1 960,960,71.50,EUR,,\nsata-ssd,Halden,Plover 480,480,61.00,USD,,\n")
	p.see("61.00 USD")
	p.accessible()
	type quoted struct {
		ID, State string
		Job       struct {
			Job struct {
				Quote struct {
					Until, New string
					Drives     []string
					Waits      []struct {
						Test      string
						Low, High float64
					}
				}
			}
		}
	}
	var v quoted
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]string{"name": "Quarry Road Theatre"}, "simulated": "laptop",
			"quoted": true}, &v)
	s.ask("PUT", "/api/jobs/"+v.ID+"/bill", map[string]any{"hour_worth": "15"}, nil)
	// Then is measured while the computer is there anyway; so the forecast is this computer's own.
	s.started(v.ID, "then", "s1", 3)

	p.goTo("/")
	p.press("Quarry Road Theatre")
	p.see("Work starts when the customer accepts.")
	p.see("Brightwater Kestrel S1 960")
	p.see("61.00 USD")
	p.see("What we know")
	p.accessible()
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = document.querySelector('input[type=date]');
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, '2027-01-31');
		e.dispatchEvent(new Event('input', {bubbles: true})) }`))
	require.NoError(t, err)
	p.press("Save")
	p.until("the day to be stored", func() bool {
		s.ask("GET", "/api/jobs/"+v.ID, nil, &v)
		return v.Job.Job.Quote.Until == "2027-01-31"
	})
	path := filepath.Join(t.TempDir(), "quote.pdf")
	require.NoError(t, os.WriteFile(path, s.file("/api/jobs/"+v.ID+"/quote/file?form=pdf&lang=de"), 0o600))
	out, err := exec.Command("pdftotext", "-layout", path, "-").Output()
	require.NoError(t, err)
	assert.Equal(t, 1, bytes.Count(out, []byte("\f")), "one page")
	for _, words := range []string{"Gültig bis 31.1.2027", "71,50 EUR", "61,00 USD", "macht sich in", "keine Zusagen"} {
		assert.Contains(t, string(out), words)
	}
	text := s.file("/api/jobs/" + v.ID + "/quote/file?form=txt&lang=en")
	assert.Equal(t, 1, bytes.Count(text, []byte("It pays for itself")),
		"an hour's worth in EUR is set against EUR alone")

	p.press("Accepted: Brightwater Kestrel S1 960")
	p.gone("Work starts when the customer accepts.")
	s.ask("GET", "/api/jobs/"+v.ID, nil, &v)
	assert.Equal(t, "open", v.State)
	assert.Equal(t, "Brightwater Kestrel S1 960", v.Job.Job.Quote.New)
	require.NotEmpty(t, v.Job.Job.Quote.Waits, "what was forecast is kept")
	s.ask("POST", "/api/jobs/"+v.ID+"/gates", map[string]any{"gate": "old-drive-out", "why": "a journey"}, nil)
	s.started(v.ID, "now", "s2", 4) // the first after the swap is set aside
	p.goTo("/jobs/" + v.ID + "/compare")
	p.see("Forecast and measured")
	p.poll("the forecast beside the figure", `/\d of 1 held/.test(`+pageText+`)`)
	p.accessible()

	p.goTo("/known")
	p.see("Cold start to desktop")
	p.see("These jobs count only for simulated computers.")
	p.see("Measure more often")
	p.accessible()
	p.press("All 61 jobs")
	var known struct {
		Simulated []struct{ Jobs []struct{ Number string } }
	}
	s.ask("GET", "/api/known", nil, &known)
	p.press(known.Simulated[0].Jobs[5].Number)
	p.see("what the customer feels")
}

// In a shop without finished jobs a quote says that nothing can be said yet.
func TestAQuoteInAnEmptyShop(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	p := open(t, s.base, 1280, 800)
	p.press("New job")
	p.see("Who and why")
	p.fill("Customer", "Quarry Road Theatre")
	p.press("hard disk")
	p.press("Quote only")
	p.see("Work starts when the customer accepts.")
	p.see("No forecast yet")
	var board struct {
		Cards []struct{ ID, State string }
	}
	s.ask("GET", "/api/jobs", nil, &board)
	require.Len(t, board.Cards, 1)
	assert.Equal(t, "quoted", board.Cards[0].State)
	assert.Contains(t, string(s.file("/api/jobs/"+board.Cards[0].ID+"/quote/file?form=txt")), "not promises")
	p.goTo("/known")
	p.see("No finished job to learn from yet.")
}
