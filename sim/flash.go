package sim

import (
	"math"
	"math/rand/v2"
	"time"
)

// flashSpec is flash behind a controller: many channels, one way in and out.
type flashSpec struct {
	channels          int
	readLat, writeLat float64 // s before data flows, or until it is taken
	aheadLat          float64 // s, of a read that goes on where the last one ended; 0: readLat
	spread            float64 // standard deviation of a latency as a share of it
	tail              float64 // share of requests that wait for housekeeping
	tailLat           float64 // s, on average, that they wait
	readMBs           float64 // what the channels give together; 0: whatever the link carries
	writeMBs          float64 // into the write cache; 0: whatever the link carries
	cacheBytes        int64   // size of the write cache; 0: all writing goes at writeMBs
	afterMBs          float64 // once the write cache is full
	emptyMBs          float64 // at which the cache is emptied while nothing is written
	flushLat          float64 // s
}

type flash struct {
	flashSpec
	cached    float64 // bytes in the write cache
	lastWrite time.Duration
	readUpTo  int64 // where the last read ended
}

func (m *flash) slots() int { return m.channels }

func (m *flash) pick([]*op, time.Duration) int { return 0 }

func (m *flash) serve(o *op, now time.Duration, rng *rand.Rand) (done, data time.Duration) {
	lat := m.readLat
	switch {
	case o.req.Write:
		lat = m.writeLat
	case m.aheadLat > 0 && o.at == m.readUpTo:
		lat = m.aheadLat
	}
	if !o.req.Write {
		m.readUpTo = o.at + o.n
	}
	if m.spread > 0 {
		lat *= max(0.1, 1+m.spread*rng.NormFloat64())
	}
	if m.tail > 0 && rng.Float64() < m.tail {
		lat += rng.ExpFloat64() * m.tailLat
	}
	return now + seconds(lat), 0
}

// rate of a write is that of the write cache as far as it has room, and that
// behind it for the rest.
func (m *flash) rate(o *op) float64 {
	if !o.req.Write {
		return m.readMBs
	}
	if m.cacheBytes == 0 {
		return m.writeMBs
	}
	n := float64(o.n)
	in := min(n, max(0, float64(m.cacheBytes)-m.cached))
	fast := 0.0 // s per MB into the cache
	if m.writeMBs > 0 {
		fast = in / m.writeMBs
	}
	t := fast + (n-in)/m.afterMBs
	if t == 0 {
		return 0
	}
	return n / t
}

// wrote fills the write cache; what was idle before has emptied it.
func (m *flash) wrote(o *op, now time.Duration) {
	if m.cacheBytes == 0 {
		return
	}
	if idle := (now - m.lastWrite).Seconds(); idle > 0.5 {
		m.cached = max(0, m.cached-idle*m.emptyMBs*1e6)
	}
	m.cached = math.Min(float64(m.cacheBytes), m.cached+float64(o.n))
	m.lastWrite = now
}

func (m *flash) flush() time.Duration { return seconds(m.flushLat) }
