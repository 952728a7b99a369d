package forms

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/report"
)

func TestLanesStandOnOneScale(t *testing.T) {
	wait := func(then, now float64) report.Figure { return report.Figure{Unit: "s", Then: &then, Now: &now} }
	pct := func(list []lane) (p [][2]float64) {
		for _, l := range list {
			p = append(p, [2]float64{l.ThenPct, l.NowPct})
		}
		return p
	}
	assert.Equal(t, [][2]float64{{100, 20}, {30, 10}}, pct(lanes([]report.Figure{wait(90, 18), wait(27, 9)})))
	broken := lanes([]report.Figure{wait(90, 15), wait(10, 5.625)})
	assert.Equal(t, [][2]float64{{100, 100}, {66.66666666666666, 37.5}}, pct(broken))
	assert.True(t, broken[0].ThenBroken)
	assert.False(t, broken[0].NowBroken)
	assert.False(t, broken[1].ThenBroken)
	assert.InDelta(t, 90, broken[0].ThenS, 0, "the race takes as long as the wait")
	none := report.Figure{Unit: "s"}
	assert.Equal(t, [][2]float64{{0, 0}}, pct(lanes([]report.Figure{none})))
}
