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
			{"then", "Sustained writing"}, {"prepare", "Will it go in"}, {"swap", "Photo of the inside, screws sorted"}, {"now",
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
