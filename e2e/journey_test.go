package e2e

import (
	"bytes"
	"compress/gzip"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"nowthen/testscale"

	cdpage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Keys.
const (
	enter  = "\r"
	escape = "\x1b"
	space  = " "
)

// timeByHand starts, splits and stops the timer with the space bar.
func (p *page) timeByHand() {
	p.t.Helper()
	p.see("starts when you press the power button")
	for _, next := range []string{"ends “to the sign-in”", "ends “password”", "stops when the pointer moves freely",
		"give or take"} {
		p.key(space)
		p.see(next)
		p.hand()
	}
}

// pdf prints the page and returns how many sheets it takes and what a PDF
// reader reads on them.
func (p *page) pdf() (sheets int, text string) {
	p.t.Helper()
	yes := true
	res, err := chromedp.Call(p.ctx, cdpage.PrintToPDF,
		cdpage.PrintToPDFParams{PreferCSSPageSize: &yes, PrintBackground: &yes})
	require.NoError(p.t, err)
	path := filepath.Join(p.t.TempDir(), "report.pdf")
	require.NoError(p.t, os.WriteFile(path, res.Data, 0o600))
	out, err := exec.Command("pdftotext", "-layout", path, "-").Output()
	require.NoError(p.t, err, "pdftotext (poppler-utils) reads the printed report")
	return strings.Count(string(out), "\f"), strings.Join(strings.Fields(string(out)), " ")
}

// onDrive makes a folder on the drive that this test runs from.
func onDrive(t *testing.T) string {
	t.Helper()
	dir, err := os.MkdirTemp(".", "measured-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	dir, err = filepath.Abs(dir)
	require.NoError(t, err)
	return dir
}

func empty(t *testing.T, dir string) {
	t.Helper()
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left, "no test file is left")
}

// oldDriveOut says that the new drive replaces the old one and passes the checkpoint. Where this computer's own drive was
// measured, it may be faster than the drive on the docket can be, and then the checkpoint asks why.
func (s *server) oldDriveOut(p *page) {
	p.t.Helper()
	p.press("Replaces the old one")
	p.gone("whether the new drive replaces the old one is not noted")
	var job struct{ Lost []struct{ What string } }
	s.ask("GET", "/api/jobs/"+p.jobHere(), nil, &job)
	if len(job.Lost) > 0 {
		p.fill("Reason for going ahead", "the drive of this computer stands for it")
	}
	p.press("Old drive is out")
}

func TestTheWholeJobOnASimulatedComputer(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "60")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")

	// Intake.
	p.key("n")
	p.see("New job")
	p.see("The minimum: a cold start")
	p.press("An old laptop")
	p.see("Time 3 runs (Then): cold start to desktop.")
	p.see("simulated")
	p.see("Charger is in")

	// Then: a start by hand, three by the simulated computer.
	p.key(enter)
	p.see("Test conditions")
	p.press("Mains")
	p.press("Save and go to the timer")
	p.timeByHand()
	p.key("u")
	p.see("stops when the pointer moves freely")
	p.key(space)
	p.see("give or take")
	p.key("a")
	for _, kept := range []string{"1", "2", "3"} {
		p.see(kept + " of 3 runs kept")
		p.press("Let the simulated computer do it")
	}
	p.see("4 of 3 runs kept")
	p.key(escape)

	// The drive, watched live.
	p.see("Measure the drive (Then)")
	p.key(enter)
	p.see("runs done and kept")
	p.see("Measured: 9 of 9 runs saved.")
	p.press("Back to the job")

	// The gate.
	p.see("the backup is not ticked off")
	p.press("Backup is made, and one file of it was opened")
	p.gone("the backup is not ticked off")
	s.oldDriveOut(p)
	p.see("Power is off, cable and battery are disconnected")
	p.key(enter)
	p.see("Tick off: photo of the inside")
	p.key(enter)
	p.press("Tick all 4")
	p.press("Case is closed")
	p.see("Open the timer")

	// Now: by the same plan. The first start after the swap does not count.
	p.key(enter)
	p.see("Test conditions")
	p.press("Mains")
	p.press("Save and go to the timer")
	p.press("Let the simulated computer do it")
	p.see("(set aside)")
	for _, kept := range []string{"1", "2", "3"} {
		p.press("Let the simulated computer do it")
		p.see(kept + " of 3 runs kept")
	}
	p.key(escape)
	p.see("Measure the drive (Now)")
	p.key(enter)
	p.see("Measured: 9 of 9 runs saved.")
	p.press("Back to the job")
	// The ledger: a second by hand does not belong to the others.
	p.see("what the customer feels")
	p.see("One run stands far from the others.")
	p.press("Show the run")
	p.press("Set aside")
	p.fill("Why it is set aside", "pressed for practice")
	p.key(enter)
	p.see("Set aside: pressed for practice")
	p.gone("One run stands far from the others.")
	p.see("less waiting, saves")
	p.press("Restore")
	p.see("One run stands far from the others.")
	p.press("Set aside")
	p.fill("Why it is set aside", "pressed for practice")
	p.key(enter)
	p.gone("One run stands far from the others.")

	// The report, on two sheets at most, and marked.
	p.key("r")
	p.see("A draft: it changes with the figures")
	p.press("Issue")
	p.see("An issued report doesn’t change.")
	sheets, text := p.pdf()
	assert.LessOrEqual(t, sheets, 2)
	for _, words := range []string{"instead of", "less waiting", "What was done", "The drive itself",
		"What you should know",
		"How it was measured", "simulated", "2 runs were set aside"} {
		assert.Contains(t, text, words)
	}
	assert.NotContains(t, text, "Show it as of now", "what is for the screen is not on paper")

	// Back to its owner.
	p.key(escape)
	p.press("Returned")
	p.press("Hand back")
	p.see("Handed back:")
	p.key("b")
	p.see("No computer is on the bench.")
	p.press("Finished")
	p.see("Practice")
	p.see("Finished.")
}

func TestTheWholeJobOnThisComputer(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	p := open(t, s.base, 1280, 800)
	dir := onDrive(t)

	p.press("New job")
	p.press("Open job")
	p.see("Enter the customer’s name or the computer")
	p.fill("Customer", "Ottilie Brandvold")
	p.press("hard disk")
	p.fill("In the customer’s words", "slow start")
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](
		`[...document.querySelectorAll('section')].find(s => s.innerText.startsWith('Now:')).querySelectorAll('input[type=radio]')[1].click()`))
	require.NoError(t, err)
	p.press("It is this computer: fill it in")
	p.fill("Capacity", "480")
	p.press("Open job")
	p.see("480 GB or 480 TB? Add the unit.")
	p.fill("Capacity", "500 GB")
	p.press("Open job")
	p.see("Time 3 runs (Then): cold start to desktop.")

	// A start by hand, three times.
	p.key(enter)
	p.see("Save and go to the timer")
	p.press("Mains")
	p.press("Save and go to the timer")
	for _, kept := range []string{"1", "2", "3"} {
		p.timeByHand()
		p.key("a")
		p.see(kept + " of 3 runs kept")
	}
	p.key(escape)
	p.see("Measure the drive (Then)")
	p.key(enter)

	// Wrong folders say what is wrong, and nothing is lost.
	p.fill("Folder on the drive", filepath.Join(dir, "gone"))
	p.fill("Test file", "16")
	p.fill("At most", "0,3")
	p.fill("Folder on the drive", filepath.Join(dir, "gone"))
	p.see("16 MiB is made")
	p.press("Measure")
	p.see("There is no folder")
	p.fill("Folder on the drive", "/dev/shm")
	p.press("Measure")
	p.see("does not do direct I/O")
	p.see("you would measure the memory")
	p.fill("Folder on the drive", dir)
	p.press("Measure")
	p.see("Measured: 9 of 9 runs saved.")
	empty(t, dir)

	// Cancelled in the middle: what was finished stays.
	p.fill("Runs of each", "20")
	p.press("Measure")
	p.see("runs done and kept")
	p.key("c")
	p.see("Cancelled: ")
	empty(t, dir)
	p.press("Back to the job")
	p.press("Backup is made, and one file of it was opened")
	p.see("the space used on the drive is not noted")
	p.fill("In use on Then", "120")
	p.key("\t") // leaves the field
	s.oldDriveOut(p)
	p.see("Power is off, cable and battery are disconnected")
	p.key(enter)
	p.see("Tick off: photo of the inside")
	p.key(enter)
	p.press("Tick all 4")
	p.press("Case is closed")
	p.see("Open the timer")

	p.key(enter)
	p.see("Save and go to the timer")
	p.press("Mains")
	p.press("Save and go to the timer")
	for _, kept := range []string{"0", "1", "2", "3"} { // the first after the swap is set aside
		p.timeByHand()
		p.key("a")
		p.see(kept + " of 3 runs kept")
	}
	p.key(escape)
	p.see("Measure the drive (Now)")
	p.key(enter)
	p.fill("Folder on the drive", dir) // each side has its own
	p.see("are written in all.")
	p.press("Measure")
	p.see("Measured: 9 of 9 runs saved.")
	p.press("Back to the job")
	p.see("what the customer feels")
	assert.NotContains(t, p.text(), "simulated")
	p.key("r")
	p.see("How it was measured")
	p.press("Issue")
	p.see("An issued report doesn’t change.")
	sheets, text := p.pdf()
	assert.LessOrEqual(t, sheets, 2)
	assert.Contains(t, text, "with a stopwatch by hand")
	assert.NotContains(t, text, "simulated")
	empty(t, dir)
}

func TestTheTimerOnAPhone(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs", nil, &board)
	p := open(t, s.base, 390, 844)
	p.do(chromedp.EmulateViewport(390, 844, chromedp.EmulateMobile, chromedp.EmulateTouch))
	p.goTo("/jobs/" + board.Cards[0].ID)
	p.see("runs (Then): cold start to desktop")
	wide, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool]("document.documentElement.scrollWidth > screen.width"))
	require.NoError(t, err)
	assert.False(t, wide, "nothing lies beside the screen")
	p.press("Open the timer")
	p.press("Battery")
	p.press("Save and go to the timer")
	p.see("A tap starts")
	for _, next := range []string{"ends “to the sign-in”", "does not count", "stops when", "give or take"} {
		p.do(chromedp.MouseClickXY(195, 300))
		p.see(next)
		p.hand()
	}
	p.press("Set aside")
	p.press("Pressed wrong")
	p.see("A tap starts")
	p.see("0 of 3 runs kept")
	var v struct {
		Job struct {
			Runs []struct {
				SetAside *struct{ Reason string } `json:"set_aside"`
			}
		}
	}
	s.ask("GET", "/api/jobs/"+board.Cards[0].ID, nil, &v)
	require.Len(t, v.Job.Runs, 1, "what was timed is kept")
	require.NotNil(t, v.Job.Runs[0].SetAside)
	assert.Equal(t, "Pressed wrong", v.Job.Runs[0].SetAside.Reason)
	p.press("Leave; a running timer keeps running")
	p.see("on battery")
}

func TestKeysAndHelp(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.see("Fernbank Allotments")
	p.key("?")
	p.see("Keys on this page")
	p.see("New job")
	p.press("Close")
	p.key("j")
	p.key("j")
	p.key(enter)
	p.poll("a job's page", `/^\/jobs\/.*\/then$/.test(location.pathname) && document.querySelector('h1')`)
	p.key("b")
	p.poll("the bench", `location.pathname === '/' && document.querySelector('[data-job]')`)
	p.key("/")
	p.poll("the search to have the focus", "document.activeElement?.type === 'search'")
	p.fill("Search the jobs", "bindery")
	p.see("Bindery on Salt Row")
	p.gone("Emeka Straum")
	p.key("x")
	p.see("No job has “binderyx” in it.")
}

func TestTakingAJobFileIn(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	file, err := os.ReadFile("../core/jobfile/testdata/visit.nowthen.json")
	require.NoError(t, err)
	half := filepath.Join(t.TempDir(), "half.nowthen.json")
	require.NoError(t, os.WriteFile(half, file[:1000], 0o600))
	p.see("Import job")
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{half}))
	p.see("half.nowthen.json")
	p.see("was it cut off?")
	p.see("Nothing was imported")
	whole := filepath.Join(t.TempDir(), "whole.nowthen.json")
	require.NoError(t, os.WriteFile(whole, file, 0o600))
	p.do(chromedp.SetUploadFiles(`input[type=file]`, []string{whole}))
	p.see("2026-0147")
	p.press("Intake")
	p.see("slow start")
}

func TestTwoPagesSeeTheSame(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs", nil, &board)
	a, b := open(t, s.base, 1280, 800), open(t, s.base, 1280, 800)
	timer := "/jobs/" + board.Cards[0].ID + "/timer/then/t-start"
	a.goTo(timer)
	a.press("Mains")
	a.press("Save and go to the timer")
	a.see("starts when")
	// The help explains the timer's words. A press on it doesn't start the timer, and it can't cover one that runs.
	a.key("?")
	a.see("Left out of the result")
	a.do(chromedp.Click("dialog[open] dd"))
	a.press("Close")
	a.see("starts when")
	b.goTo(timer)
	b.see("starts when")
	a.key(space)
	b.see("ends “to the sign-in”")
	b.poll("no help", "!document.querySelector('[aria-label=Help]')")
	b.key(space)
	a.see("ends “password”")
}

// inSight tells a page whether it is visible, as a browser does when its tab is left or opened again.
func (p *page) inSight(state string) {
	p.t.Helper()
	p.do(chromedp.Evaluate[chromedp.Void](`Object.defineProperty(document, 'visibilityState', {configurable: true, get: () => '` + state + `'}); document.dispatchEvent(new Event('visibilitychange'))`))
}

// A browser has six connections to a server for all its tabs. Hidden tabs use none, and are up to date when
// they are opened again.
func TestManyTabsStayOpen(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	first := open(t, s.base, 1280, 800)
	first.see("The bench")
	first.inSight("hidden")
	for range 8 {
		ctx, end := chromedp.NewContext(first.ctx)
		t.Cleanup(end)
		tab := &page{t: t, ctx: ctx, base: s.base}
		tab.goTo("/")
		tab.see("Emeka Straum")
		tab.inSight("hidden")
	}
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]string{"name": "Came in meanwhile"}, "simulated": "laptop"}, nil)
	first.inSight("visible")
	first.see("Came in meanwhile")
}

func TestAServerThatIsGoneIsSaid(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.see("Fernbank Allotments")
	s.stop()
	p.press("Finished")
	p.see("Can’t reach the bench.")
	p.see("Everything that was stored before is kept.")
}

// The longest report of the demonstration fits on two sheets.
func TestALongReportFitsOnTwoSheets(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	p := open(t, s.base, 1280, 800)
	for i, card := range board.Cards {
		p.goTo("/jobs/" + card.ID + "/report")
		p.see("How it was measured")
		sheets, _ := p.pdf()
		assert.LessOrEqual(t, sheets, 2, "job %d", i)
	}
}

// The first load of the bench page is at most 150 KB of JavaScript, compressed.
func TestFirstLoad(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.see("Fernbank Allotments")
	loaded, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[[]string](`performance.getEntriesByType('resource').map(r => new URL(r.name).pathname).filter(n => n.endsWith('.js'))`))
	require.NoError(t, err)
	require.NotEmpty(t, loaded)
	var all bytes.Buffer
	for _, path := range loaded {
		data, err := os.ReadFile(filepath.Join("../web/dist", path))
		require.NoError(t, err)
		w := gzip.NewWriter(&all)
		_, err = w.Write(data)
		require.NoError(t, err)
		require.NoError(t, w.Close())
	}
	t.Logf("first load: %.0f KB of JavaScript, compressed", float64(all.Len())/1000)
	assert.LessOrEqual(t, all.Len(), 150_000)
}

// The settings page says which backups there are; a demonstration has none.
func TestSettingsSayWhatIsBackedUp(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	p := open(t, s.base, 1280, 800)
	p.press("Settings")
	p.see("Backup")
	today := "nowthen-" + time.Now().Format(time.DateOnly) + ".zip"
	require.Eventually(t, func() bool { _, err := os.Stat(filepath.Join(s.data, "backups", today)); return err == nil },
		patience, 20*time.Millisecond)
	p.goTo("/settings")
	p.see(today)
	d := open(t, demo(t).base, 1280, 800)
	d.goTo("/settings")
	d.see("Demo data is not backed up.")
}
