package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A station fits about two screens of a laptop and three of a phone, with the demonstration's largest job.
func TestStationsFitTheirScreens(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var board struct {
		Cards []struct{ ID, Customer string }
	}
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	id := ""
	for _, c := range board.Cards {
		if strings.HasPrefix(c.Customer, "Ottilie") { // who has the most tests, runs and steps
			id = c.ID
		}
	}
	require.NotEmpty(t, id)
	const about = 1.15
	for _, screen := range []struct {
		wide, high, screens int
	}{{1280, 800, 2}, {390, 844, 3}} {
		p := open(t, s.base, screen.wide, screen.high)
		for _, station := range []struct{ name, see string }{{"intake", "Everyday laptop"},
			{"then", "Sustained writing"}, {"prepare", "Will it fit in"}, {"swap", "Photo of the inside, screws sorted"}, {"now",
				"Sustained writing"}} {
			p.goTo("/jobs/" + id + "/" + station.name)
			p.see(station.see)
			high, err := chromedp.Run(p.ctx, chromedp.Evaluate[float64](`document.documentElement.scrollHeight`))
			require.NoError(t, err)
			t.Logf("%s at %d×%d: %.2f screens", station.name, screen.wide, screen.high, high/float64(screen.high))
			assert.LessOrEqual(t, high/float64(screen.high), about*float64(screen.screens),
				fmt.Sprintf("%s at %d×%d", station.name, screen.wide, screen.high))
		}
	}
}

// No station of the demonstration's jobs is a wall: 700 words at most, and at most two primary acts in view.
func TestStationsAreShort(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var board struct {
		Cards []struct{ ID, Customer string }
	}
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	p := open(t, s.base, 1280, 800)
	for _, c := range board.Cards {
		p.goTo("/jobs/" + c.ID + "/intake")
		p.poll("the stations", `document.querySelectorAll('nav[aria-label="Stations of the job"] a').length > 2`)
		stations, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('nav[aria-label="Stations of the job"] a')].map(a => a.pathname)`))
		require.NoError(t, err)
		for _, station := range stations {
			p.goTo(station)
			p.poll("the station", `document.querySelector('main h1') && !document.querySelector('main [aria-busy=true]') && document.querySelector('[aria-label=Docket]')`)
			// The customer's paper is no station's text.
			const count = `(() => { const m = document.querySelector('main');
				const paper = [...m.querySelectorAll('[data-paper]')].map(e => e.innerText).join(' ');
				const words = t => t.split(/\s+/).filter(w => /[\p{L}\d]/u.test(w)).length;
				const acts = [...m.querySelectorAll('.btn-primary')].filter(e => { const r = e.getBoundingClientRect(); return r.width > 0 && r.top < innerHeight && r.bottom > 0 && !e.disabled && !e.querySelector('input') && !e.hasAttribute('aria-pressed') });
				return {Words: words(m.innerText) - words(paper), Acts: acts.length} })()`
			type counted struct{ Words, Acts int }
			var seen counted
			for before := (counted{Words: -1}); seen != before; { // until all of it is drawn
				before = seen
				for range 5 {
					p.painted()
				}
				seen, err = chromedp.Run(p.ctx, chromedp.Evaluate[counted](count))
				require.NoError(t, err)
			}
			at := c.Customer + ", " + station
			t.Logf("%s: %d words, %d primary acts", at, seen.Words, seen.Acts)
			assert.LessOrEqual(t, seen.Words, 700, at)
			assert.LessOrEqual(t, seen.Acts, 2, at)
		}
	}
}

// At 200 % zoom and on a phone nothing scrolls sideways, and every page has its heading.
func TestNothingScrollsSideways(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var board struct {
		Cards []struct{ ID, Customer string }
	}
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	paths := []string{"/", "/new", "/settings", "/reach", "/reaction"}
	unfinished := ""
	for _, c := range board.Cards {
		if strings.HasPrefix(c.Customer, "Fernbank") {
			unfinished = c.ID
		}
		if strings.HasPrefix(c.Customer, "Ottilie") || strings.HasPrefix(c.Customer, "Tidepool") || strings.HasPrefix(c.Customer, "Fernbank") {
			for _, station := range []string{"intake", "then", "prepare", "swap", "now", "compare", "report"} {
				paths = append(paths, "/jobs/"+c.ID+"/"+station)
			}
		}
	}
	for _, screen := range [][2]int{{640, 400}, {390, 844}} {
		p := open(t, s.base, screen[0], screen[1])
		for _, path := range paths {
			p.goTo(path)
			p.poll("the heading of "+path, `document.querySelector('main h1')`)
			p.painted()
			over, err := chromedp.Run(p.ctx, chromedp.Evaluate[int](`document.documentElement.scrollWidth - innerWidth`))
			require.NoError(t, err)
			assert.LessOrEqual(t, over, 0, "%s at %d px", path, screen[0])
			if screen[0] < 640 && strings.HasPrefix(path, "/jobs/"+unfinished+"/") {
				p.poll("one bar with the next act at the lower edge of "+path, `(() => { const bars = [...document.querySelectorAll('[data-thumb]')].filter(e => e.getBoundingClientRect().width > 0);
					return bars.length === 1 && Math.abs(bars[0].getBoundingClientRect().bottom - innerHeight) < 2 && bars[0].querySelectorAll('.btn').length === 1 })()`)
				p.poll("the end of "+path+" above the bar", `(() => { scrollTo({top: 1e6, behavior: 'instant'});
					return Math.max(...[...document.querySelectorAll('main button, main a, main input')].filter(e => !e.closest('[data-thumb]') && e.checkVisibility()).map(e => e.getBoundingClientRect().bottom)) <= document.querySelector('[data-thumb]').getBoundingClientRect().top })()`)
			}
		}
	}
}
