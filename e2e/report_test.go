package e2e

import (
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// finishedJob is the id of the demonstration's job that was handed back.
func (s *server) finishedJob() string {
	s.t.Helper()
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs?state=finished", nil, &board)
	require.NotEmpty(s.t, board.Cards)
	return board.Cards[0].ID
}

// A report is drafted in German, issued as a second revision, shared, read by the customer on a
// phone, and the link is revoked.
func TestAReportIsIssuedAndShared(t *testing.T) {
	t.Parallel()
	s := demo(t)
	id := s.finishedJob()
	p := open(t, s.base, 1280, 900)
	p.goTo("/jobs/" + id + "/report")
	p.press("Show current draft")
	p.goTo("/jobs/" + id + "/report?lang=de")
	p.press("Show current draft")
	p.see("Das ist jedes Mal")
	p.press("Issue")
	p.see("Fassung 2")
	var report struct {
		Issued struct {
			Lang, Headline string
			Revision       int
		}
	}
	s.ask("GET", "/api/jobs/"+id+"/report", nil, &report)
	assert.Equal(t, []any{"de", 2}, []any{report.Issued.Lang, report.Issued.Revision})
	p.press("Create link")
	p.see("It is shown only once")
	p.accessible()
	text := p.text()
	link := strings.Fields(text[strings.Index(text, "http://"):])[0]
	require.Contains(t, link, "/r/")

	phone := open(t, s.base, 390, 844)
	phone.do(chromedp.Navigate(link))
	phone.see(report.Issued.Headline)
	phone.see("Was gemacht wurde")
	phone.accessible()
	wide, err := chromedp.Run(phone.ctx, chromedp.Evaluate[float64]("document.documentElement.scrollWidth"))
	require.NoError(t, err)
	assert.LessOrEqual(t, wide, 390.0, "nothing lies beside a phone's screen")

	// At home the customer times three starts; the shop has them, and no figure of the report changes.
	var before, after struct {
		Rows []struct{ Line map[string]any }
		Job  struct {
			Runs []struct {
				By       string
				SetAside any `json:"set_aside"`
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id+"/ledger", nil, &before)
	phone.press("Zu Hause nachmessen")
	phone.see("Messung 1 von 3")
	phone.accessible()
	for range 3 {
		phone.press("Ich schalte jetzt ein")
		phone.see("Die Zeit läuft.")
		phone.hand()
		phone.press("Ich kann jetzt arbeiten")
		phone.see("Gemessen:")
	}
	phone.press("An die Werkstatt senden")
	phone.see("Die Werkstatt hat Ihre Zeiten.")
	// They count only once the technician has accepted them.
	told := func() (n int) {
		s.ask("GET", "/api/jobs/"+id, nil, &after)
		for _, r := range after.Job.Runs {
			if r.By == "customer" && r.SetAside != nil {
				n++
			}
		}
		return n
	}
	assert.Zero(t, told())
	p.goTo("/jobs/" + id + "/report")
	p.see("Runs to check")
	p.press("Discard")
	p.see("1 discarded run")
	for n := range 2 {
		p.press("Accept")
		p.until("one more run is stored", func() bool { return told() == n+1 })
		p.poll("the run to leave the list",
			fmt.Sprintf(`[...document.querySelectorAll('button')].filter(b => b.innerText.trim() === 'Discard').length === %d`, 1-n))
	}
	p.press("1 discarded run")
	p.press("Accept")
	p.until("the discarded one is stored", func() bool { return told() == 3 })
	s.ask("GET", "/api/jobs/"+id+"/ledger", nil, &after)
	require.NotEmpty(t, before.Rows)
	assert.Equal(t, before.Rows, after.Rows)
	phone.do(chromedp.Navigate(link + "/card"))
	// this bench is not reached from outside
	phone.see("Messen Sie zu Hause drei Starts, schreiben Sie sie auf und sagen Sie sie uns:")
	phone.accessible()

	// What was promised is in a list with its day, and its answer beside it.
	p.press("Add a follow-up")
	p.fill("In words", "again with the new setting")
	p.press("Note it")
	p.see("again with the new setting")
	p.goTo("/")
	p.see("Coming follow-ups")
	p.press(time.Now().AddDate(0, 0, 7).Format("2 January 2006"))
	p.fill("Result: again with the new setting", "as quick as before")
	p.do(chromedp.KeyEvent("\r"))
	p.see("as quick as before (")
	var due []struct{ Promise struct{ What string } }
	s.ask("GET", "/api/due", nil, &due)
	require.Len(t, due, 1, "the demonstration's own")
	assert.Equal(t, "test", due[0].Promise.What)
	p.goTo("/jobs/" + id + "/report")
	p.goTo("/jobs/" + id + "/report")
	p.see("opened once")
	p.press("Revoke")
	p.see("revoked")
	phone.do(chromedp.Navigate(link))
	phone.see("Dieser Link gilt nicht mehr")
}

// The report as one file opens from a stick without a network and says what the report says.
func TestTheReportAsOneFile(t *testing.T) {
	t.Parallel()
	s := demo(t)
	id := s.finishedJob()
	var report struct {
		Issued struct{ Headline, Week string }
	}
	s.ask("GET", "/api/jobs/"+id+"/report", nil, &report)
	res, err := http.Get(s.base + "/api/jobs/" + id + "/report/file?form=html&length=full")
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Contains(t, res.Header.Get("Content-Disposition"), "attachment")
	html, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "report.html")
	require.NoError(t, os.WriteFile(path, html, 0o600))
	p := open(t, s.base, 1280, 900)
	p.do(chromedp.Navigate("file://" + path))
	p.see(report.Issued.Headline)
	p.see(report.Issued.Week)
	p.see("All runs")
	// The race runs as long as the waits took, without script.
	p.press("See both in real time, side by side")
	p.poll("the race to run",
		`document.getAnimations().some(a => a.playState === 'running' && a.animationName === 'run')`)
	lengths, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[[]float64](`document.getAnimations().filter(a => a.animationName === 'run').map(a => a.effect.getTiming().duration / 1000)`))
	require.NoError(t, err)
	require.Len(t, lengths, 2)
	assert.InDelta(t, 90.4, lengths[0], 0.5)
	assert.InDelta(t, 15.2, lengths[1], 0.5)
	asked, err := chromedp.Run(p.ctx, chromedp.Evaluate[int]("performance.getEntriesByType('resource').length"))
	require.NoError(t, err)
	assert.Zero(t, asked, "it asks for nothing, so that it needs no network")
}

// What the technician chooses shows on the draft at once, and the next revision says what changed.
func TestTheReportIsAdjusted(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	p.press("Bindery on Salt Row")
	p.poll("the job's page", `location.pathname.startsWith('/jobs/')`)
	job := p.jobHere()
	p.goTo("/jobs/" + job + "/report")
	p.see("A draft: it changes with the figures until it is issued.")
	p.press("Issue")
	p.see("An issued report doesn’t change.")
	p.press("Show current draft")
	p.press("Adjust the report")
	p.fill("Note to the customer", "Come back in a week for the fan.")
	p.press("Open a document or project")
	p.press("Move The morning's pages up") // past the one that is left out
	p.press("Move The morning's pages up")
	p.press("Save choices")
	p.poll("the note on the sheet",
		`document.querySelector('article[lang]').innerText.includes('Come back in a week for the fan.')`)
	p.poll("the line to be named as left out",
		`document.querySelector('article[lang]').innerText.includes('Measured, but not shown here: Open a document or project.')`)
	var now struct {
		Draft struct{ Waiting []struct{ Name string } }
	}
	s.ask("GET", "/api/jobs/"+job+"/report", nil, &now)
	var waits []string
	for _, w := range now.Draft.Waiting {
		waits = append(waits, w.Name)
	}
	assert.Equal(t, []string{"From switching on until you can work", "Opening the morning’s pages",
		"Opening the main program for the first time", "Make and copy a folder of many small files"}, waits)
	p.press("Issue")
	p.see("2 reports were issued")
	p.see("What changed since the last revision")
	p.see("Open a document or project is no longer shown.")
	p.press("2 reports were issued")
	p.see("Revision 1")

	var revisions []struct {
		Revision int
		Changes  []string
	}
	s.ask("GET", "/api/jobs/"+job+"/reports", nil, &revisions)
	require.Len(t, revisions, 2)
	assert.Empty(t, revisions[0].Changes)
	assert.Contains(t, revisions[1].Changes, "The technician’s note has changed.")
	var first struct{ Note string }
	s.ask("GET", "/api/jobs/"+job+"/report/file?form=json&revision=1", nil, &first)
	assert.Empty(t, first.Note, "what was issued stays as it was")
}

// What came across: the probe's manifest of the old folder, held against the new one, with one
// file lost and one changed; the page says it, the report says it, no name of a file is kept.
func TestWhatCameAcrossIsSaid(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	probe, before, after, list := filepath.Join(dir, "nowthen-probe"), filepath.Join(dir, "before"),
		filepath.Join(dir, "after"), filepath.Join(dir, "old.gz")
	out, err := exec.Command("go", "build", "-o", probe, "../cmd/nowthen-probe").CombinedOutput()
	require.NoError(t, err, string(out))
	for _, to := range []string{before, after} {
		require.NoError(t, os.MkdirAll(filepath.Join(to, "letters"), 0o700))
		for i := range 20 {
			require.NoError(t, os.WriteFile(filepath.Join(to, "letters", fmt.Sprintf("letter %d.txt", i)),
				[]byte(strings.Repeat("x", 100+i)), 0o600))
		}
	}
	require.NoError(t, os.Remove(filepath.Join(after, "letters", "letter 3.txt")))
	require.NoError(t, os.WriteFile(filepath.Join(after, "letters", "letter 4.txt"), []byte(strings.Repeat("y", 104)),
		0o600))
	out, err = exec.Command(probe, "manifest", "--of", before, "--out", list).CombinedOutput()
	require.NoError(t, err, string(out))
	told, err := exec.Command(probe, "manifest", "--against", list, "--of", after, "--json").Output()
	require.NoError(t, err)
	carried := filepath.Join(dir, "carried.json")
	require.NoError(t, os.WriteFile(carried, told, 0o600))

	s := demo(t)
	p := open(t, s.base, 1280, 900)
	p.press("Bindery on Salt Row")
	p.poll("the job's page", `location.pathname.startsWith('/jobs/')`)
	job := p.jobHere()
	p.goTo("/jobs/" + job + "/swap")
	p.press("What came across")
	p.do(chromedp.SetUploadFiles(`input[aria-label="Comparison of the manifest"]`, []string{carried}))
	p.see("20 files: 18 unchanged, 1 missing, 1 changed.")
	p.press("Missing")
	p.see("letters/letter 3.txt")
	var view struct {
		Job struct {
			Job struct {
				Carried struct{ Files, Unchanged, Missing, Changed int }
			}
		}
	}
	s.ask("GET", "/api/jobs/"+job, nil, &view)
	assert.Equal(t, struct{ Files, Unchanged, Missing, Changed int }{20, 18, 1, 1}, view.Job.Job.Carried)
	var report struct{ Draft struct{ Done []string } }
	s.ask("GET", "/api/jobs/"+job+"/report", nil, &report)
	assert.Contains(t, strings.Join(report.Draft.Done, " "),
		"20 files, 2.19 kB: 18 came across unchanged; 1 missing and 1 with different content.")
	res, err := http.Get(s.base + "/api/jobs/" + job + "/export")
	require.NoError(t, err)
	defer res.Body.Close()
	all, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(all), "letter 3.txt")
}

// What the work cost is entered where it is shown; the ledger and the report say what it bought.
// The shop's own head is on the
// report.
func TestTheBillAndTheShopsHead(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	p.goTo("/settings")
	p.fill("Name", "Quayside Repairs")
	p.fill("Header colour", "#ffcc00")
	p.fill("Terms, at the end of a report", "Two years on parts, one on work.")
	p.press("Save")
	p.see("too light for white paper")
	p.fill("Header colour", "#7a2e0e")
	p.press("Save")
	p.see("Saved.")
	p.goTo("/")
	p.press("Bindery on Salt Row")
	p.poll("the job's page", `location.pathname.startsWith('/jobs/')`)
	job := p.jobHere()
	p.goTo("/jobs/" + job + "/ledger")
	p.press("Change the bill")
	p.accessible()
	p.fill("Item 1", "adapter and labour")
	p.fill("Amount of item 1", "62")
	p.fill("Value of an hour of the customer’s time", "12,50")
	p.fill("A comparable new computer costs", "800")
	p.press("Save")
	p.see("The total cost was 200.00 EUR.")
	p.see("per second saved at each start")
	p.see("If an hour of your time is worth 12.50 EUR, it pays for itself in")
	p.see("this was 25 % of that")
	p.goTo("/jobs/" + job + "/report")
	p.see("The total cost was 200.00 EUR.")
	p.see("Two years on parts, one on work.")
	p.accessible()
	var kept struct {
		Job struct {
			Job struct {
				Bill struct {
					Items []struct {
						What  string
						Price struct{ Amount, Currency string }
					}
				}
			}
		}
	}
	s.ask("GET", "/api/jobs/"+job, nil, &kept)
	require.Len(t, kept.Job.Job.Bill.Items, 1)
	assert.Equal(t, "62.00", kept.Job.Job.Bill.Items[0].Price.Amount)
}
