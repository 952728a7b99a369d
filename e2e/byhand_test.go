package e2e

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A whole job without a mouse: every press is a key, every control is reached by Tab.
func TestAWholeJobByKeyboardAlone(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	// tab continues with Tab until what has the focus has that name, and presses it.
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
	p.see("Time 3 runs (Then): cold start to desktop.")
	tab("Enter conditions", enter)
	tab("Save and continue", enter)
	p.see("not known: power")
	p.key(enter)
	p.timeByHandTimes(3)
	p.key(escape)
	p.see("Measure the drive (Then)")
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
	p.see("Tick off: photo of the inside")
	tab("Done", enter)
	tab("Tick all 4", enter)
	tab("Case is closed", enter)
	p.see("runs (Now): cold start to desktop")
	tab("Same as last time", enter)
	p.see("not known")
	p.key(enter)
	p.timeByHandTimes(4)
	p.key(escape)
	p.see("Measure the drive (Now)")
	p.key(enter)
	p.see("Measured: 9 of 9 runs saved.")
	tab("Back to the job", enter)
	p.see("what the customer feels")
	p.key("r")
	p.see("A draft")
	tab("Issue", enter)
	p.see("An issued report doesn’t change.")
	tab("Solved", space)
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

// touch taps with a finger on what has that name, where it is stopped.
func (p *page) touch(name string) {
	p.t.Helper()
	p.poll(fmt.Sprintf("%q to touch", name), find(name)+" !== undefined")
	p.hit(name, func(at box) {
		assert.GreaterOrEqual(p.t, at.H, 30.0, "%q is large enough for a finger", name)
		p.tap(at.X+at.W/2, at.Y+at.H/2)
	})
}

// tapPad taps on the press pad of the timer, at a place from 0 to 1 across and down.
func (p *page) tapPad(across, down float64) {
	p.t.Helper()
	at, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[[]float64](`(() => { const r = document.querySelector('[data-pad]').getBoundingClientRect(); return [r.x, r.y, r.width, r.height] })()`))
	require.NoError(p.t, err)
	p.tap(at[0]+at[2]*across, at[1]+at[3]*down)
}

// The lower part of the timer on a phone is one pad: whatever a thumb does there, the page stays, nothing
// pauses and nothing is lost.
func TestAThumbOnTheTimer(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	var job struct{ ID string }
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Thumb"}, "simulated": "laptop"},
		&job)
	s.ask("POST", "/api/jobs/"+job.ID+"/sittings",
		map[string]any{"setup": "then", "conditions": map[string]any{"power": "mains"}}, nil)
	p := open(t, s.base, 390, 844)
	path := "/jobs/" + job.ID + "/timer/then/t-start"
	p.goTo(path)
	p.see("A tap starts")
	at, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[[]float64](`(() => { const r = document.querySelector('[data-pad]').getBoundingClientRect(); return [r.y, r.height, document.elementsFromPoint(195, r.y + r.height / 2)[0].querySelectorAll('a').length] })()`))
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
