package e2e

import (
	"fmt"
	"math/rand/v2"
	"os"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// counted is a page on which every press and every field typed into is counted, but for
// those on the glass of the timer and on what the simulated computer does: the timed runs
// themselves.
type counted struct {
	*page
	n int
}

func (c *counted) press(name string) { c.t.Helper(); c.page.press(name); c.n++ }
func (c *counted) key(k string)      { c.t.Helper(); c.page.key(k); c.n++ }
func (c *counted) fill(label, value string) {
	c.t.Helper()
	c.page.fill(label, value)
	c.n++
}

// timed lets the simulated computer do what is timed by hand, as often as it is wanted;
// that is not counted.
func (c *counted) timed(runs int) {
	c.t.Helper()
	for i := range runs {
		c.page.see(fmt.Sprintf("%d of ", i))
		c.page.press("Let the simulated computer do it")
	}
	c.page.see(fmt.Sprintf("%d of %d runs kept", runs, runs))
	c.page.key(escape)
}

// From "a computer comes in" to "handed over", counted as the table in the documentation
// says.
func TestHowManyPressesAJobTakes(t *testing.T) {
	t.Parallel()
	table, err := os.ReadFile("../docs/clicks.md")
	require.NoError(t, err)
	said := map[string]int{}
	for _, m := range regexp.MustCompile(`(?m)^\| ([A-Z][^|]*?) \| (\d+) \| (\d+) \|$`).FindAllStringSubmatch(string(table), -1) {
		said[m[1]], _ = strconv.Atoi(m[2])
	}
	tests := []struct {
		template string
		most     int
		byHand   []int // runs of each test that is timed by hand
		swap     bool  // it has steps between
		typed    []string
	}{
		{"Quick check in ten minutes", 25, []int{1}, false, nil},
		{"Everyday laptop", 60, []int{3, 3, 3, 3, 2, 2}, true,
			[]string{"Battery life as the system says in min", "Noise at the seat in dB(A)"}},
	}
	for _, tc := range tests {
		t.Run(tc.template, func(t *testing.T) {
			t.Parallel()
			s := serve(t, t.TempDir(), "serve", "--pace", "0")
			c := &counted{page: open(t, s.base, 1280, 800)}
			c.see("No computer is on the bench.")
			c.key("n")
			c.see("New job")
			c.press("Slow to start")
			c.press(tc.template)
			c.press("An old laptop")
			c.see("Then: cold start to desktop")
			side := func(first bool) {
				for i, runs := range tc.byHand {
					c.see("Open the timer")
					c.key(enter)
					if first && i == 0 { // the first start after the swap is set aside by itself
						c.page.see("0 of ")
						c.page.press("Let the simulated computer do it")
						c.page.see("(set aside)")
					}
					c.timed(runs)
				}
				for _, field := range tc.typed {
					c.see("enter " + strings.ToLower(field[:1]) + strings.Split(field[1:], " in ")[0])
					c.key(enter)
					c.fill(field, "31")
					c.key(enter)
					c.see("31.0")
					c.poll("the row to close", "document.activeElement?.tagName !== 'INPUT'")
				}
				c.see(map[bool]string{false: "Then", true: "Now"}[first] + ": measure the drive")
				c.key(enter)
				c.see("runs saved.")
				c.press("Back to the job")
			}
			// Conditions on Then, once.
			c.press("Enter conditions")
			c.press("Mains")
			c.press("nothing")
			c.press("Save and continue")
			c.see("on mains")
			side(false)
			c.see("Checkpoint: old drive out")
			c.press("Backup is made, and one file of it was opened")
			c.press("Replaces the old one")
			c.see("Everything in the plan was measured on it.")
			c.press("Old drive is out")
			if tc.swap {
				c.see("Power is off, cable and battery are disconnected")
				c.key(enter)
				c.see("Swap: photo of the inside")
				c.key(enter)
				c.press("Tick all 4")
				c.press("Case is closed")
			}
			c.see("Now: cold start to desktop")
			c.press("Same as last time")
			c.see("on mains")
			side(true)
			c.see("what the customer feels")
			c.press("Report")
			c.see("A draft")
			c.press("Issue")
			c.see("it stays as it was.")
			c.press("Solved")
			c.press("Save answers")
			c.gone("no answer yet")
			c.press("Returned")
			c.press("Hand back")
			c.see("Handed back:")
			t.Logf("%s: %d presses and typed fields", tc.template, c.n)
			assert.LessOrEqual(t, c.n, tc.most)
			assert.Equal(t, said[tc.template], c.n, "docs/clicks.md says what was counted")
		})
	}
}

// A whole job without a mouse: every press is a key, every control is reached by Tab.
func TestAWholeJobByKeyboardAlone(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	// tab goes on with Tab until what has the focus has that name, and presses it.
	tab := func(name, with string) {
		t.Helper()
		is := `(() => { const e = document.activeElement; if (!e || e === document.body) return false;
			const n = (e.getAttribute('aria-label') || [...(e.labels ?? [])].map(l => l.innerText).join(' ') || e.innerText || '').replace(/\s+/g, ' ').trim();
			return n.startsWith(` + quote(name) + `) })()`
		p.poll(fmt.Sprintf("%q in sight", name),
			`[...document.querySelectorAll('button, a, input, summary')].some(e => ((e.getAttribute('aria-label') || [...(e.labels ?? [])].map(l => l.innerText).join(' ') || e.innerText || '').replace(/\s+/g, ' ').trim()).startsWith(`+quote(name)+`) && !e.disabled)`)
		for range 200 {
			here, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](is))
			require.NoError(t, err)
			if here {
				p.key(with)
				return
			}
			p.key("\t")
		}
		t.Fatalf("Tab does not come to %q", name)
	}
	p.see("No computer is on the bench.")
	p.key("n")
	p.see("New job")
	tab("Slow to start", space)
	tab("An old laptop", enter)
	p.see("Then: cold start to desktop, 3 times.")
	tab("Enter conditions", enter)
	tab("Save and continue", enter)
	p.see("not known: power")
	p.key(enter)
	p.timeByHandTimes(3)
	p.key(escape)
	p.see("Then: measure the drive")
	p.key(enter)
	p.see("Measured: 9 of 9 runs saved.")
	tab("Back to the job", enter)
	p.see("Checkpoint: old drive out")
	tab("Backup is made", space)
	p.see("mains or battery is not noted")
	tab("Reason for going ahead", "practice")
	tab("Old drive is out", enter)
	p.see("Power is off, cable and battery are disconnected")
	tab("Done", enter)
	p.see("Swap: photo of the inside")
	tab("Done", enter)
	tab("Tick all 4", enter)
	tab("Case is closed", enter)
	p.see("Now: cold start to desktop")
	tab("Same as last time", enter)
	p.see("not known")
	p.key(enter)
	p.timeByHandTimes(4)
	p.key(escape)
	p.see("Now: measure the drive")
	p.key(enter)
	p.see("Measured: 9 of 9 runs saved.")
	tab("Back to the job", enter)
	p.see("what the customer feels")
	p.key("r")
	p.see("A draft")
	tab("Issue", enter)
	p.see("it stays as it was.")
	tab("Solved", space)
	tab("Save answers", enter)
	p.gone("no answer yet")
	tab("Returned", space)
	tab("Hand back", enter)
	p.see("Handed back:")
	var board struct{ Total int }
	s.ask("GET", "/api/jobs?state=finished", nil, &board)
	assert.Equal(t, 1, board.Total)
}

// timeByHandTimes times a start by the space bar so often, each kept with a key.
func (p *page) timeByHandTimes(n int) {
	p.t.Helper()
	for range n {
		p.timeByHand()
		p.key("a")
		p.see("starts when you press the power button")
	}
}

// touch taps with a finger on what has that name, where it stands still.
func (p *page) touch(name string) {
	p.t.Helper()
	p.poll(fmt.Sprintf("%q to touch", name), find(name)+" !== undefined")
	p.hit(name, func(at box) {
		assert.GreaterOrEqual(p.t, at.H, 30.0, "%q is large enough for a finger", name)
		p.tap(at.X+at.W/2, at.Y+at.H/2)
	})
}

// touchAny touches what is there of several names.
func (p *page) touchAny(names ...string) {
	p.t.Helper()
	var any []string
	for _, n := range names {
		any = append(any, find(n)+" !== undefined")
	}
	p.poll(fmt.Sprintf("one of %q", names), strings.Join(any, " || "))
	for _, n := range names {
		is, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](find(n)+" !== undefined"))
		require.NoError(p.t, err)
		if is {
			p.touch(n)
			return
		}
	}
}

// tapPad taps on the press pad of the timer, at a place from 0 to 1 across and down.
func (p *page) tapPad(across, down float64) {
	p.t.Helper()
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]float64](`(() => { const r = document.querySelector('[data-pad]').getBoundingClientRect(); return [r.x, r.y, r.width, r.height] })()`))
	require.NoError(p.t, err)
	p.tap(at[0]+at[2]*across, at[1]+at[3]*down)
}

// The lower part of the timer on a phone is one pad: whatever a thumb does there, the page stays, nothing pauses and
// nothing is thrown away.
func TestAThumbOnTheTimer(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	var job struct{ ID string }
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Thumb"}, "simulated": "laptop"}, &job)
	s.ask("POST", "/api/jobs/"+job.ID+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{"power": "mains"}}, nil)
	p := open(t, s.base, 390, 844)
	path := "/jobs/" + job.ID + "/timer/then/t-start"
	p.goTo(path)
	p.see("A tap starts")
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]float64](`(() => { const r = document.querySelector('[data-pad]').getBoundingClientRect(); return [r.y, r.height, document.elementsFromPoint(195, r.y + r.height / 2)[0].querySelectorAll('a').length] })()`))
	require.NoError(t, err)
	assert.Less(t, at[0], 844*0.56, "it begins at the middle of the screen")
	assert.InDelta(t, 844, at[0]+at[1], 1, "and reaches to its end")
	assert.Zero(t, at[2], "no link is in it")
	rng := rand.New(rand.NewPCG(1, 1))
	for range 40 {
		p.tapPad(0.03+0.94*rng.Float64(), 0.03+0.94*rng.Float64())
	}
	p.see("give or take")
	here, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	assert.Equal(t, path, here)
	var timer struct {
		State string
		Holds []struct{}
	}
	s.ask("GET", "/api/jobs/"+job.ID+"/timer", nil, &timer)
	assert.Equal(t, "stopped", timer.State, "it is not discarded")
	assert.Empty(t, timer.Holds, "and was never paused")
	p.touch("Keep, next")
	p.see("A tap starts")
	p.tapPad(0.5, 0.5)
	p.see("ends “to the sign-in”")
	p.hand()
	p.touch("Pause for the user")
	p.see("A tap resumes")
	p.tapPad(0.5, 0.5)
	p.see("ends “to the sign-in”")
	s.ask("GET", "/api/jobs/"+job.ID+"/timer", nil, &timer)
	assert.Len(t, timer.Holds, 1, "the press ended the pause and marked nothing")
	assert.Equal(t, "running", timer.State)
}

// A whole job on a phone, by touch alone.
func TestAWholeJobByTouchAlone(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 390, 844)
	p.do(chromedp.EmulateViewport(390, 844, chromedp.EmulateMobile, chromedp.EmulateTouch))
	p.goTo("/")
	narrow := func() {
		t.Helper()
		wide, err := chromedp.Run(p.ctx, chromedp.Evaluate[int]("document.documentElement.scrollWidth"))
		require.NoError(t, err)
		if wide > 390 {
			beside, _ := chromedp.Run(p.ctx,
				chromedp.Evaluate[string](`[...document.querySelectorAll('main *')].filter(e => e.getBoundingClientRect().right > 391).map(e => e.outerHTML.slice(0, 90)).slice(0, 12).join('\n')`))
			assert.LessOrEqual(t, wide, 390, "nothing lies beside the screen:\n%s", beside)
		}
	}
	timed := func(n int) {
		t.Helper()
		for range n {
			p.see("A tap starts")
			for _, next := range []string{"ends “to the sign-in”", "ends “password”", "stops when the pointer moves freely",
				"give or take"} {
				p.tapPad(0.5, 0.5)
				p.see(next)
				p.hand()
			}
			p.touchAny("Keep, next", "Keep and run again")
		}
		p.see("A tap starts")
		p.touch("Leave")
	}
	p.touch("New job")
	p.see("New job")
	narrow()
	p.touch("Slow to start")
	p.touch("An old laptop")
	p.see("Then: cold start to desktop, 3 times.")
	narrow()
	p.touch("Enter conditions")
	p.touch("Mains")
	p.touch("Save and continue")
	p.see("on mains")
	p.touch("Open the timer")
	timed(3)
	p.see("Then: measure the drive")
	p.touch("Measure")
	p.see("Measured: 9 of 9 runs saved.")
	p.see("once more at the end") // the last run has come in
	narrow()
	p.touch("Back to the job")
	p.touch("Backup is made")
	p.touch("Replaces the old one")
	p.see("Everything in the plan was measured on it.")
	p.touch("Old drive is out")
	p.see("Power is off, cable and battery are disconnected")
	narrow()
	p.touch("Done")
	p.see("Swap: photo of the inside")
	p.touch("Done")
	p.touch("Tick all 4")
	p.touch("Case is closed")
	p.touch("Same as last time")
	p.see("on mains")
	p.touch("Open the timer")
	timed(4) // the first after the swap is set aside
	p.see("Now: measure the drive")
	p.touch("Measure")
	p.see("Measured: 9 of 9 runs saved.")
	p.see("once more at the end") // the last run has come in
	narrow()
	p.touch("Back to the job")
	p.see("what the customer feels")
	narrow()
	p.touch("Report")
	p.see("A draft")
	p.touch("Issue")
	p.see("it stays as it was.")
	narrow()
	p.touch("Solved")
	p.touch("Save answers")
	p.gone("no answer yet")
	p.touch("Returned")
	p.touch("Hand back")
	p.see("Handed back:")
}
