package sim

import (
	"math"
	"time"
)

// heatSpec is how a drive warms up: by what it moves, and back to its idle
// temperature with a time constant. Above slowAt it slows itself down until it
// has cooled by calm.
type heatSpec struct {
	perGB  float64 // °C that a GB moved adds
	coolS  float64 // s, the time constant
	slowAt float64 // °C; 0: it never slows down
	calm   float64 // °C
	slowTo float64 // share of its rate that is left
}

type heat struct {
	heatSpec
	idle, now float64 // °C
	seen      time.Duration
	slow      bool
}

func (h *heat) at(t time.Duration) float64 {
	if h.coolS > 0 && t > h.seen {
		h.now = h.idle + (h.now-h.idle)*math.Exp(-(t-h.seen).Seconds()/h.coolS)
		h.seen = t
	}
	return h.now
}

// moved warms the drive by n bytes.
func (h *heat) moved(t time.Duration, n int64) {
	if h.perGB == 0 {
		return
	}
	if t-h.seen > time.Millisecond { // cooling is slow; working it out each time is not
		h.at(t)
	}
	h.now += h.perGB * float64(n) / 1e9
	switch {
	case h.slowAt == 0:
	case h.now >= h.slowAt:
		h.slow = true
	case h.now < h.slowAt-h.calm:
		h.slow = false
	}
}

// slowed is the share of its rate at which the drive works.
func (h *heat) slowed() float64 {
	if h.slow {
		return h.slowTo
	}
	return 1
}

// loadedC is by how much a computer's own heat warms a drive that rests while the processor works, °C.
const loadedC = 9

// LoadProcessor lets the processor of the drive's computer work until end is called, which warms what lies beside it.
func (d *Drive) LoadProcessor() (end func()) {
	warm := func(by float64) {
		d.mu.Lock()
		defer d.mu.Unlock()
		d.heat.at(d.now)
		d.heat.idle += by
	}
	warm(loadedC)
	return func() { warm(-loadedC) }
}
