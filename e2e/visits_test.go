package e2e

import (
	"fmt"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/testscale"
)

// The operators of the keystroke-level model, in s (Card, Moran and Newell, 1980, as the project's
// table takes them), and
// how long it takes to walk from one computer to the other.
const (
	klmKey    = 0.28
	klmPoint  = 1.1
	klmButton = 0.1
	klmHome   = 0.4 // between keyboard and pointer
	klmMental = 1.35
	klmWalk   = 5
)

// hand is a technician's hand on a page: what it does is done in the browser, and adds up to how long a person takes.
type hand struct {
	*page
	s        *server
	job      string
	touches  bool
	acts     int     // presses and fields typed into, but for those of timed runs
	seconds  float64 // hands-on
	timing   float64 // of it, starting and stopping timed runs, and the way there and back
	watching float64 // how long the timed runs took that somebody had to watch
	paper    float64 // how long the same visit takes with paper and stopwatch, s
	keyboard bool    // where the hand lies
	probe    bool    // the customer's computer joins with the probe
	state    string  // where the probe keeps what it must not lose
}

func (h *hand) lies(onKeyboard bool) {
	if h.keyboard != onKeyboard && !h.touches {
		h.seconds += klmHome
	}
	h.keyboard = onKeyboard
}

// press presses what has that name, by mouse or by finger.
func (h *hand) press(name string) {
	h.t.Helper()
	h.poll(fmt.Sprintf("%q to press", name), find(name)+" !== undefined")
	next, err := chromedp.Run(h.ctx, chromedp.Evaluate[bool](find(name)+"?.classList.contains('btn-primary') ?? false"))
	require.NoError(h.t, err)
	if h.touches {
		h.touch(name)
	} else {
		h.page.press(name)
	}
	h.lies(false)
	h.acts++
	h.seconds += klmPoint + klmButton
	if !next { // the primary button needs no thought
		h.seconds += klmMental
	}
}

// fill types into a field.
func (h *hand) fill(label, value string) {
	h.t.Helper()
	h.page.fill(label, value)
	h.lies(false)
	h.seconds += klmMental + klmPoint + klmButton
	h.lies(true)
	h.seconds += klmKey * float64(len([]rune(value)))
	h.acts++
}

// walk goes to the other computer.
func (h *hand) walk() { h.seconds += klmWalk }

// timed lets the simulated computer do what a test times, and adds what that takes by hand: going
// there and back, and for
// every run each press with a thought before it, and the one that keeps it. spoilt: the first start
// after the swap is set
// aside by itself.
func (h *hand) timed(test string, runs int, spoilt bool) {
	h.t.Helper()
	h.press("Open the timer")
	h.see("0 of ")
	var v struct {
		Job struct {
			Tests []struct {
				Name, Follows string
				Phases        []struct{}
			}
		}
	}
	h.s.ask("GET", "/api/jobs/"+h.job+"?runs=none", nil, &v)
	presses := 0
	for _, t := range v.Job.Tests {
		if t.Name == test {
			presses = max(2, len(t.Phases)+1)
			if t.Follows == "" { // what follows is timed in the same visit to the computer
				h.seconds += 2 * klmWalk
				h.timing += 2 * klmWalk
			}
		}
	}
	require.NotZero(h.t, presses, test)
	one := klmKey
	if h.touches {
		one = klmButton // the pad lies under the thumb
	}
	run := func() {
		if h.probe { // the computer is a real one to the bench, and the presses are
			const said = `document.querySelector('main [role=status]')?.innerText ?? ''`
			h.see("or a tap starts")
			for range presses {
				before := h.list("[" + said + "]")[0]
				h.page.key(space)
				h.poll("the press to be taken", said+" !== "+quote(before))
				h.hand()
			}
			h.see("give or take")
			h.page.key("a")
		} else {
			h.page.press("Let the simulated computer do it")
		}
		h.timing += float64(presses) * (klmMental + one)
		h.seconds += float64(presses)*(klmMental+one) + one // the last one keeps it
	}
	if spoilt {
		run()
		h.see("(set aside)")
	}
	for n := range runs {
		h.see(fmt.Sprintf("%d of ", n))
		run()
	}
	h.see(fmt.Sprintf("%d of %d runs kept", runs, runs))
	h.page.press("Leave; a running timer keeps running") // the last "keep" leads there by itself
}

// do1 runs JavaScript on the page.
func (h *hand) do1(script string) {
	h.t.Helper()
	_, err := chromedp.Run(h.ctx, chromedp.Evaluate[chromedp.Void](script))
	require.NoError(h.t, err)
}

// join lets the probe of the customer's computer join: the line is typed there, and its question answered.
func (h *hand) join() {
	h.t.Helper()
	h.press("Join with a code")
	h.see("start it with this line")
	line := h.list(`[...document.querySelectorAll('code')].map(e => e.textContent)`)[0]
	words := strings.Fields(line)
	h.walk()
	h.seconds += klmMental + klmKey*float64(len(line)+1)
	h.prompt()
	joins(h.t, h.state, "--sim", "reception", "--pace", "0", words[2], words[3])
	h.walk()
	h.see("Ostrand Front Desk 3")
}

// prompt answers the question of the system whether the probe may run.
func (h *hand) prompt() { h.seconds += klmMental + klmPoint + klmButton; h.acts++ }

// detected takes the conditions from the probe.
func (h *hand) detected() {
	h.t.Helper()
	h.press("Detect automatically")
	h.see("on mains")
}

// conditions notes under which it is measured.
func (h *hand) conditions() {
	h.t.Helper()
	if h.probe {
		h.join()
		h.detected()
		return
	}
	h.press("Enter conditions")
	h.press("Mains")
	h.press("nothing")
	h.press("Save and continue")
	h.see("on mains")
}

// intake takes the computer in. What is typed of its drives is counted; the simulated computer brings its own.
func (h *hand) intake(template string, reason string, more ...string) {
	h.t.Helper()
	h.press("New job")
	h.see("Who and why")
	h.fill("Customer", "Ida Brandvold")
	h.press(reason)
	for _, m := range more {
		h.press(m)
	}
	if template != "" {
		h.press(template)
	}
	if h.probe { // the probe knows the rest
		h.press("hard disk")
		h.do1(`[...document.querySelectorAll('section')].findLast(e => e.innerText.startsWith('Now: ')).querySelectorAll('label').forEach(l => l.setAttribute('aria-label', 'new: ' + l.innerText))`)
		h.press("new: SATA SSD")
		h.press("Open job")
	} else {
		before, acts := h.seconds, h.acts
		h.press("hard disk")
		h.fill("Capacity", "500 GB")
		h.seconds += h.seconds - before // the new drive takes the same again
		h.acts += h.acts - acts
		h.press("An old laptop")
	}
	h.opened()
}

// opened waits until the new job is shown.
func (h *hand) opened() {
	h.t.Helper()
	h.poll("the job", "location.pathname.startsWith('/jobs/')")
	path, err := chromedp.Run(h.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(h.t, err)
	h.job = strings.Split(path, "/")[2]
}

// measured lets the drive be measured.
func (h *hand) measured(side string) {
	h.t.Helper()
	h.poll("the drive's turn", `/(Measure the drive|Run the unattended tests) \(`+side+`\)/.test(`+pageText+`)`)
	h.press("Measure")
	h.poll("all runs to be saved", `/Measured: (\d+) of \1 runs saved/.test(`+pageText+`)`)
	h.press("Back to the job")
}

// typedIn notes a figure that was read off.
func (h *hand) typedIn(field, value string) {
	h.t.Helper()
	h.see("): " + strings.ToLower(field[:1]) + strings.Split(field[1:], " in ")[0])
	h.press("Enter")
	h.fill(field, value)
	h.page.key(enter)
	h.seconds += klmKey
	h.poll("the row to close", "document.activeElement?.tagName !== 'INPUT'")
}

// restarts lets the probe time the restarts.
func (h *hand) restarts(again bool, runs int) {
	h.t.Helper()
	if !again {
		h.press("Restart to desktop")
		h.press("Let the probe time it")
	}
	h.see("): restart, timed by the probe")
	h.press("Restart")
	h.press(fmt.Sprintf("Restart it %d times", runs))
	h.see(fmt.Sprintf("%d of %d runs saved", runs, runs))
	h.press("Back to the job")
}

// everyday measures one side of the everyday laptop.
func (h *hand) everyday(side string) {
	h.t.Helper()
	first := side == "Now"
	for i, t := range []struct {
		name string
		runs int
	}{{"Cold start to desktop", 3}, {"Main program, first time since the start", 3}, {"The morning's pages",
		3}, {"Wake from sleep", 3},
		{"Shut-down", 2}, {"Restart to desktop", 2}} {
		_ = i
		if h.probe && t.name == "Restart to desktop" {
			h.restarts(first, 3)
			continue
		}
		h.timed(t.name, t.runs, first && i == 0)
	}
	h.typedIn("Battery life as the system says in min", "191")
	h.typedIn("Noise at the seat in dB(A)", "38")
	h.measured(side)
}

// plain measures one side of a plan that times a start, so many times, and then the drive.
func (h *hand) plain(side string, runs int) {
	h.t.Helper()
	h.timed("Cold start to desktop", runs, side == "Now")
	h.measured(side)
}

// swapped is the work between the checkpoints.
func (h *hand) swapped() {
	h.t.Helper()
	h.otherDrive()
	h.see("Power is off, cable and battery are disconnected")
	h.press("Done")
	h.see("Tick off: photo of the inside")
	h.press("Done")
	h.press("Tick all")
	h.press("Case is closed")
	h.walk()
}

// otherDrive goes to the customer's computer and changes its drive; its probe is started again there by a double click.
func (h *hand) otherDrive() {
	h.t.Helper()
	h.walk()
	if !h.probe {
		return
	}
	var probes []struct{ ID string }
	h.s.ask("GET", "/api/jobs/"+h.job+"/probes", nil, &probes)
	require.Len(h.t, probes, 1)
	for _, what := range []string{"swap", "grow"} {
		h.s.ask("POST", "/api/jobs/"+h.job+"/probes/"+probes[0].ID+"/doings", map[string]any{"do": what}, nil)
	}
	h.seconds += klmMental + klmPoint + 2*klmButton
	h.prompt()
}

// checkpoint passes the one between Then and Now.
func (h *hand) checkpoint(relation, verb string) {
	h.t.Helper()
	h.press("Backup is made")
	if relation != "" {
		h.press(relation)
	}
	h.see("Everything in the plan was measured")
	h.press(verb)
}

// sameAgain notes the conditions of Now.
func (h *hand) sameAgain() {
	h.t.Helper()
	if h.probe {
		h.detected()
		return
	}
	h.press("Same as last time")
	h.see("on mains")
}

// visits are whole visits, from "a computer arrives" to "it is handed back".
var visits = []struct {
	name string
	does func(h *hand)
}{
	{"Everyday laptop", func(h *hand) {
		h.intake("Everyday laptop", "Slow to start")
		h.conditions()
		h.everyday("Then")
		h.checkpoint("Replaces the old one", "Old drive is out")
		h.swapped()
		h.sameAgain()
		h.everyday("Now")
		h.handBack("Returned", "Solved")
	}},
	{"Quick check", func(h *hand) {
		h.intake("Quick check in ten minutes", "Slow to start")
		h.conditions()
		h.plain("Then", 1)
		h.checkpoint("Replaces the old one", "Old drive is out")
		h.otherDrive()
		h.walk()
		h.sameAgain()
		h.plain("Now", 1)
		h.handBack("Returned", "Solved")
	}},
	{"An added drive", func(h *hand) {
		h.intake("", "Slow to start", "Added beside it")
		h.conditions()
		h.plain("Then", 3)
		h.checkpoint("", "New drive goes in")
		h.swapped()
		h.sameAgain()
		h.plain("Now", 3)
		h.handBack("", "Solved")
	}},
	{"A failing drive", func(h *hand) {
		h.intake("", "The drive is failing")
		h.see("back the data up before anything else")
		h.press("Done")
		h.gone("back the data up before anything else")
		h.conditions()
		h.timed("Cold start to desktop", 1, false)
		h.typedIn("Noise at the seat in dB(A)", "38")
		h.measured("Then")
		h.press("Replaces the old one")
		h.press("Old drive is out")
		h.swapped()
		h.sameAgain()
		h.timed("Cold start to desktop", 1, true)
		h.typedIn("Noise at the seat in dB(A)", "31")
		h.measured("Now")
		h.handBack("Destroyed", "Solved")
	}},
}

// screens are those on which a visit is tried.
var screens = []struct {
	name       string
	wide, high int
	touches    bool
}{{"laptop", 1280, 800, false}, {"phone", 390, 844, true}, {"laptop at 200 %", 640, 400, false}}

// enters takes a seat at a bench of its own.
func enters(t *testing.T, at int) *hand {
	t.Helper()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	sc := screens[at]
	p := open(t, s.base, sc.wide, sc.high)
	if sc.touches {
		p.do(chromedp.EmulateViewport(int64(sc.wide), int64(sc.high), chromedp.EmulateMobile, chromedp.EmulateTouch))
		p.goTo("/")
	}
	return &hand{page: p, s: s, touches: sc.touches, state: t.TempDir()}
}

// Whole visits on a phone by one thumb, and at 200 % zoom; on a laptop they are [TestHandsOn]'s.
// One is tried always, the
// others in the long run.
func TestWholeVisits(t *testing.T) {
	t.Parallel()
	for i, v := range visits {
		for at, sc := range screens {
			if at == 0 {
				continue
			}
			t.Run(v.name+" on a "+sc.name, func(t *testing.T) {
				if i != 0 || !sc.touches {
					testscale.Rare(t)
				}
				t.Parallel()
				h := enters(t, at)
				v.does(h)
				var job struct {
					Job struct {
						Job struct {
							Gates []struct{ Name string }
						}
					}
				}
				h.s.ask("GET", "/api/jobs/"+h.job, nil, &job)
				assert.Equal(t, "handed-back", job.Job.Job.Gates[len(job.Job.Job.Gates)-1].Name, "stored")
				var issued []struct{ Revision int }
				h.s.ask("GET", "/api/jobs/"+h.job+"/reports", nil, &issued)
				assert.Len(t, issued, 1)
			})
		}
	}
}

// Somebody who was here before is known while the name is typed; and handing back can be undone.
func TestAReturningCustomerAndHandingBackUndone(t *testing.T) {
	t.Parallel()
	for at, sc := range screens {
		t.Run("on a "+sc.name, func(t *testing.T) {
			if at != 2 {
				testscale.Rare(t)
			}
			t.Parallel()
			h := enters(t, at)
			h.s.ask("POST", "/api/jobs",
				map[string]any{"customer": map[string]string{"name": "Ida Brandvold", "contact": "desk 4"},
					"computer": map[string]string{"maker": "Ostrand",
						"model": "Desk Tower 4"}, "old_drive": map[string]string{"kind": "hdd"}}, nil)
			h.press("New job")
			h.see("Who and why")
			h.fill("Customer", "Ida")
			h.press("Use this customer and computer")
			h.press("Slow to start")
			h.press("hard disk")
			h.press("Quick check in ten minutes")
			h.poll("the computer that is known",
				`[...document.querySelectorAll('input')].some(e => e.value === 'Desk Tower 4')`)
			h.press("Open job")
			h.opened()
			var v struct {
				Job struct {
					Job struct {
						Customer struct{ Name, Contact string }
						Gates    []struct{ Name string }
					}
					Computers []struct{ Model string }
				}
			}
			h.s.ask("GET", "/api/jobs/"+h.job, nil, &v)
			assert.Equal(t, "Ida Brandvold", v.Job.Job.Customer.Name)
			assert.Equal(t, "desk 4", v.Job.Job.Customer.Contact)
			assert.Equal(t, "Desk Tower 4", v.Job.Computers[0].Model)

			h.goTo("/")
			visits[1].does(h)
			h.goTo("/jobs/" + h.job + "/report")
			h.press("Undo the checkpoint Handed back")
			h.gone("Handed back:")
			h.s.ask("GET", "/api/jobs/"+h.job, nil, &v)
			for _, g := range v.Job.Job.Gates {
				assert.NotEqual(t, "handed-back", g.Name)
			}
			h.press("Hand back")
			h.see("Handed back:")
		})
	}
}

// handBack issues the report and hands the computer back.
func (h *hand) handBack(fate, outcome string) {
	h.t.Helper()
	h.see("what the customer feels")
	h.press("Report")
	h.see("A draft")
	h.press("Issue")
	h.see("An issued report doesn’t change.")
	h.press(outcome)
	h.gone("no answer yet")
	if fate != "" {
		h.press(fate)
	}
	h.press("Hand back")
	h.see("Handed back:")
	h.watched()
}

// watched adds up how long the timed runs took, and works out what the same visit takes with paper,
// a stopwatch and a word
// processor: a figure is written down for every run, the drive's program is started for every test,
// medians and factors are
// worked out on a calculator, and the report is typed.
func (h *hand) watched() {
	h.t.Helper()
	var v struct {
		Job struct {
			Runs []struct {
				Test, Method string
				Value, Held  float64
			}
			Tests []struct{ ID, Kind string }
			Plan  struct {
				Steps []struct {
					Done *struct{ By string }
				}
			}
		}
	}
	h.s.ask("GET", "/api/jobs/"+h.job, nil, &v)
	kinds := map[string]string{}
	for _, t := range v.Job.Tests {
		kinds[t.ID] = t.Kind
	}
	write := func(letters int) float64 { return klmMental + klmKey*float64(letters) }
	const press = klmMental + klmPoint + klmButton
	h.paper = h.timing + write(60) + 2*write(20) // the slip, and the conditions of both sides
	for _, r := range v.Job.Runs {
		h.paper += write(5)
		if r.Method == "stopwatch" || r.Method == "automatic" && kinds[r.Test] == "timed" {
			h.watching += r.Value + r.Held
		}
	}
	for _, t := range v.Job.Tests {
		if t.Kind == "drive" {
			h.paper += 2 * (3*press + 2*klmWalk) // its program is chosen and started on both sides
		}
		h.paper += 3*write(4) + write(45) // two medians and a factor; a line of the report
	}
	for _, step := range v.Job.Plan.Steps {
		if step.Done != nil {
			h.paper += klmMental + klmButton
		}
	}
	h.paper += write(700) + 3*press // what was done and what it means, printed
}

// minutes is a time as the table has it.
func minutes(seconds float64) string { return fmt.Sprintf("%d:%02d", int(seconds)/60, int(seconds)%60) }

// The table of the documentation says how long a whole visit takes somebody's hands, with the probe and without, beside
// paper and stopwatch; it fails when a visit takes longer.
func TestHandsOn(t *testing.T) {
	t.Parallel()
	table, err := os.ReadFile("../docs/hands-on.md")
	require.NoError(t, err)
	for i, v := range visits {
		for _, probe := range []bool{false, true} {
			how := map[bool]string{false: "without the probe", true: "with the probe"}[probe]
			t.Run(v.name+" "+how, func(t *testing.T) {
				if probe && i != 1 {
					testscale.Rare(t)
				}
				t.Parallel()
				h := enters(t, 0)
				h.probe = probe
				v.does(h)
				t.Logf("measure: | %s | %s | %d | %s | %s | %s |", v.name, how, h.acts, minutes(h.seconds),
					minutes(h.paper), minutes(h.watching))
				row := regexp.MustCompile(`(?m)^\| ` + v.name + ` \| ` + how +
					` \| (\d+) \| (\d+):(\d+) \|`).FindStringSubmatch(string(table))
				require.Len(t, row, 4, "docs/hands-on.md has a row of it")
				number := func(s string) float64 {
					n, err := strconv.Atoi(s)
					require.NoError(t, err)
					return float64(n)
				}
				assert.LessOrEqual(t, float64(h.acts), number(row[1]), "presses and fields")
				assert.InDelta(t, number(row[2])*60+number(row[3]), h.seconds, 3, "the table says what was counted")
				assert.Less(t, h.seconds, h.paper, "less than with paper")
				most := map[bool]float64{false: 8 * 60, true: 6 * 60}[probe]
				assert.LessOrEqual(t, h.seconds, most)
			})
		}
	}
}
