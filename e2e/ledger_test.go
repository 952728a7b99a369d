package e2e

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// list evaluates an expression that gives texts.
func (p *page) list(expression string) []string {
	p.t.Helper()
	l, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](expression))
	require.NoError(p.t, err)
	return l
}

// The ledger says each finding once, begins its remedy for the side that can still be measured,
// opens a line in place, by keys as well, and sets the candidates beside each other.
func TestTheLedger(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.press("Bindery on Salt Row")
	p.press("Result")
	p.see("3.8 times as fast")
	job := p.jobHere()

	// Battery against mains blocks the drive's lines and qualifies the others: one finding.
	assert.Len(t, p.list(`[...document.querySelectorAll('[data-finding=power]')].map(e => e.innerText)`), 1)
	p.see("Not comparable: 4 lines")
	p.see("With a caveat: 5 lines")
	p.press("5 lines")
	p.see("Cold start to desktop, Main program, first time since the start")
	assert.Equal(t, []string{"Finding 1, not comparable", "Finding 2, with a caveat"},
		p.list(`[...document.querySelectorAll('article[aria-label="Long write"] a[href^="#finding"]')].map(e => e.getAttribute('aria-label')).slice(0, 2)`))
	assert.Contains(t, p.text(), "lines not comparable")

	// A line opens by keys, with what it rests on; the address keeps it.
	p.key("f")
	p.poll("the finding to have the focus", `document.activeElement?.dataset.finding === 'power'`)
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`document.activeElement.blur()`))
	require.NoError(t, err)
	p.key(kb.ArrowDown)
	p.poll("the first line to have the focus",
		`document.activeElement?.closest('article')?.getAttribute('aria-label') === 'Cold start to desktop'`)
	p.key(enter)
	p.see("Its uncertainty comes")
	p.see("Then: conditions")
	p.poll("the address to say so", `new URLSearchParams(location.search).get('line') === 't-start'`)
	// A run of it is set aside by keys, with a reason, and undone.
	p.key("e")
	p.poll("the first run to have the focus", `document.activeElement?.dataset.run`)
	run := p.list(`[document.activeElement.dataset.run]`)[0]
	p.key("s")
	p.poll("the reason to be asked", `document.activeElement?.getAttribute('aria-label') === 'Why it is set aside'`)
	p.fill("Why it is set aside", "a phone rang")
	p.do(chromedp.KeyEvent("\r"))
	p.see("Set aside: a phone rang")
	aside := func() string {
		var view struct {
			Job struct {
				Runs []struct {
					ID       string
					SetAside any `json:"set_aside"`
				}
			}
		}
		s.ask("GET", "/api/jobs/"+job, nil, &view)
		for _, r := range view.Job.Runs {
			if r.ID == run && r.SetAside != nil {
				return fmt.Sprint(r.SetAside)
			}
		}
		return ""
	}
	assert.Contains(t, aside(), "a phone rang")
	p.key("e")
	p.poll("a run to have the focus", `document.activeElement?.dataset.run === '`+run+`'`)
	p.key("s")
	p.gone("Set aside: a phone rang")
	assert.Empty(t, aside())
	_, err = chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-toggle]').focus()`))
	require.NoError(t, err)
	p.key(enter)
	p.gone("Its uncertainty comes")

	// What a drive test's runs tell beyond their values is drawn in the opened line, and read off by keys.
	p.goTo("/jobs/" + job + "/ledger?line=t-scattered")
	p.see("The wider and the further to the right")
	p.poll("the drawing", `document.querySelector('[role=slider] canvas')`)
	_, err = chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`document.querySelector('[role=slider]').focus()`))
	require.NoError(t, err)
	for range 3 {
		p.key(kb.ArrowRight)
	}
	p.poll("a figure", `/ms: /.test(document.querySelector('[role=slider]').getAttribute('aria-valuetext'))`)

	// The candidates, no more said of them than the intervals carry.
	p.see("The drives that were tried, each against Then")
	p.see("Price per TB")
	p.press("Compare the small one with Then")
	p.poll("that one to be compared", `new URLSearchParams(location.search).has('with')`)
	p.poll("its drive at the head", `document.querySelector('h1').parentElement.innerText.includes('500 GB SATA SSD')`)

	// What is taken along is what its name says.
	_, err = chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ window.saved = {}; const make = URL.createObjectURL
		URL.createObjectURL = (b) => { b.arrayBuffer().then(a => { window.saved[b.type] = new TextDecoder('latin1').decode(a) }); return make.call(URL, b) } }`))
	require.NoError(t, err)
	for button, begins := range map[string]struct{ kind, text string }{
		"Save CSV": {"text/csv", `"test","unit","then"`},
		"Save SVG": {"image/svg+xml", "<svg xmlns="},
		"Save PNG": {"image/png", "PNG"},
	} {
		p.press(button)
		p.poll(button, fmt.Sprintf("(window.saved[%q] ?? '').slice(0, 40).includes('%s')", begins.kind, begins.text))
	}

	// The remedy begins just that: on the side that can still be measured, the lines it touches.
	p.goTo("/jobs/" + job + "/ledger")
	p.see("caveats")
	p.press("Measure Now like Then")
	p.poll("the round's page", `location.pathname.endsWith('/measure/now')`)
	p.poll("the tests to be picked", `document.querySelectorAll('form input[type=checkbox]:checked').length === 5`)
	assert.ElementsMatch(t,
		[]string{"t-copy-small", "t-long-write", "t-long-read", "t-scattered", "t-scattered-existing"},
		p.list(`[...document.querySelectorAll('form input[type=checkbox]:checked')].map(e => e.value)`))
}

// Whatever figures a file brings, no page says that something is not a number, and none fails.
func TestFiguresOfAnyKind(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	var file map[string]any
	require.NoError(t, json.Unmarshal(much(t, "2026-0001", 9, 36, 0), &file))
	odd := []float64{1e-6, 0.001, 1e5, 1, 1, 0.5, 86400, 1e-300, 3600} // as far as a file is taken
	for i, r := range file["runs"].([]any) {
		r.(map[string]any)["value"] = odd[(i*5+i/9)%len(odd)]
		delete(r.(map[string]any), "u")
	}
	data, err := json.Marshal(file)
	require.NoError(t, err)
	id := s.take(data)
	p := open(t, s.base, 1280, 800)
	for _, path := range []string{"/ledger", "/ledger?line=t2", "/ledger?then=now&with=then", "/then", "/now",
		"/report", "/tests/t2", "/race/t0"} {
		p.goTo("/jobs/" + id + path)
		p.poll("the page", `document.querySelector('h1') && !document.querySelector('[role=status] .loading-dots')`)
		text := p.text()
		for _, no := range []string{"NaN", "Infinity", "∞", "undefined", "can’t be shown"} {
			assert.NotContains(t, text, no, path)
		}
	}
}
