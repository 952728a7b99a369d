package sim

import (
	"math"
	"math/rand/v2"
	"time"
)

// diskSpec is a hard disk: one arm, one turn at a time.
type diskSpec struct {
	rpm               float64
	zones             []float64 // MB/s of each zone, from the outer to the inner; all hold as much
	shortSeek, stroke float64   // s: to the next track, and over the whole disk
	overhead          float64   // s per request that is not a continuation
	stumble           float64   // share of requests that need further turns
	rereads           float64   // how much longer a worn surface takes at most, as a share
	buffer            int64     // bytes that are read ahead into the track cache
}

type disk struct {
	diskSpec
	size int64
	head int64         // where the arm stands: the byte after the last request
	last time.Duration // when it got there
	read bool          // the last request was a read, which is read ahead of
}

func (m *disk) slots() int { return 1 }

func (m *disk) mbs(at int64) float64 {
	z := int(float64(at) / float64(m.size) * float64(len(m.zones)))
	return m.zones[min(max(z, 0), len(m.zones)-1)]
}

func (m *disk) turn() float64 { return 60 / m.rpm }

// pick takes the request that the head reaches first, by seek and rotation.
func (m *disk) pick(waiting []*op, now time.Duration) int {
	best, least := 0, math.Inf(1)
	for i, o := range waiting {
		if t := m.position(o.at, now); t < least {
			best, least = i, t
		}
	}
	return best
}

// position is how long it takes until the head is over a place, s: the seek,
// which grows with the root of the distance, then the rotation up to it.
func (m *disk) position(at int64, now time.Duration) float64 {
	if at == m.head {
		return 0
	}
	far := math.Abs(float64(at-m.head)) / float64(m.size)
	seek := m.overhead + m.shortSeek + (m.stroke-m.shortSeek)*math.Sqrt(far)
	turn := m.turn()
	track := m.mbs(at) * 1e6 * turn // bytes
	_, target := math.Modf(float64(at) / track)
	_, angle := math.Modf((now.Seconds() + seek) / turn)
	wait := target - angle
	if wait < 0 {
		wait++
	}
	return seek + wait*turn
}

func (m *disk) serve(o *op, now time.Duration, rng *rand.Rand) (done, data time.Duration) {
	rate := m.mbs(o.at) * 1e6
	t := m.position(o.at, now)
	flow := float64(o.n) / rate
	if t > 0 && m.stumble > 0 && rng.Float64() < m.stumble {
		t += m.turn() * math.Ceil(9*rng.Float64())
	}
	if t == 0 {
		if m.rereads > 0 {
			flow *= 1 + m.rereads*rng.Float64()
		}
		if m.read && !o.req.Write {
			// The head has read on since then; what it has is in the track cache.
			ahead := min(float64(m.buffer), (now-m.last).Seconds()*rate)
			flow = max(0, flow-ahead/rate)
		}
	}
	done = now + seconds(t+flow)
	m.head, m.last, m.read = o.at+o.n, done, !o.req.Write
	return done, seconds(flow)
}

func (m *disk) rate(*op) float64 { return 0 }

func (m *disk) wrote(*op, time.Duration) {}

func (m *disk) flush() time.Duration { return seconds(m.turn() * 2) }
