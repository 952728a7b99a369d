// Package sim stands in for customers' computers and drives: models on a
// virtual clock, deterministic by seed, for demonstration, training and tests.
// Whatever it gives is marked as simulated by those who keep it.
//
// It knows the core's volume interface and nothing of the real world.
package sim

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// Drive is a simulated drive. It is used by one goroutine.
type Drive struct {
	spec  Spec
	now   time.Duration
	rng   *rand.Rand
	model model
}

// Spec is what a simulated drive is, and what its label would say.
type Spec struct {
	Name     string // names the model, for example "worn-disk"
	Title    string // for people
	Label    job.Drive
	Attached job.Attached
	FillPct  float64
	TempC    float64

	disk  *diskSpec
	flash *flashSpec
}

// model says how long a drive works on a request and how many at once.
type model interface {
	// servers is how many requests are worked on at once.
	servers() int
	// pick chooses which of the waiting requests is next.
	pick(waiting []*drivetest.Request) int
	// serve is when a request ends that is begun now.
	serve(r *drivetest.Request, now time.Duration, rng *rand.Rand) time.Duration
	// flush is how long it takes to make everything durable.
	flush() time.Duration
}

// Open returns the simulated drive of that name. Drives with the same name and
// seed behave alike.
func Open(name string, seed uint64) (*Drive, error) {
	for _, s := range specs {
		if s.Name == name {
			d := &Drive{spec: s, rng: rand.New(rand.NewPCG(seed, 0x7468656e))}
			if s.disk != nil {
				d.model = &disk{diskSpec: *s.disk, size: s.Label.CapacityBytes}
			} else {
				d.model = &flash{flashSpec: *s.flash}
			}
			return d, nil
		}
	}
	return nil, fmt.Errorf("there is no simulated drive %q; there are %v", name, Names())
}

// Names lists the simulated drives.
func Names() []string {
	names := make([]string, len(specs))
	for i, s := range specs {
		names[i] = s.Name
	}
	return names
}

// Spec returns what the drive is.
func (d *Drive) Spec() Spec { return d.spec }

// Now is the virtual clock.
func (d *Drive) Now() time.Duration { return d.now }

// Work lets time pass without I/O.
func (d *Drive) Work(t time.Duration) { d.now += t }

// Facts says what the volume on the drive is.
func (d *Drive) Facts() drivetest.Facts {
	total := d.spec.Label.CapacityBytes
	return drivetest.Facts{FileSystem: "simulated", TotalBytes: total, AlignBytes: 512, Simulated: true,
		FreeBytes: int64(float64(total) * (1 - d.spec.FillPct/100))}
}

// Create makes a test file behind what fills the drive.
func (d *Drive) Create(_ context.Context, size int64) (drivetest.File, error) {
	base := int64(float64(d.spec.Label.CapacityBytes)*d.spec.FillPct/100) &^ 4095
	if base+size > d.spec.Label.CapacityBytes {
		base = 0 // a stretch as long as the drive begins at its beginning
	}
	return &file{d: d, base: base, size: size}, nil
}

// file is a stretch of a simulated drive.
type file struct {
	d          *Drive
	base, size int64
}

func (f *file) Buffer(n int64) []byte { return make([]byte, n) }

func (f *file) Queue(depth int) drivetest.Queue { return &queue{f: f, depth: depth} }

func (f *file) Flush() error {
	f.d.now += f.d.model.flush()
	return nil
}

func (f *file) Close() error { return nil }

// queue works requests off on the virtual clock.
type queue struct {
	f       *file
	depth   int
	waiting []*drivetest.Request
	working []*drivetest.Request // Ended is set when work begins
}

func (q *queue) Start(r *drivetest.Request) {
	r.Started = q.f.d.now
	r.Err = nil
	if end := r.Offset + int64(len(r.Data)); r.Offset < 0 || end > q.f.size {
		r.Err = fmt.Errorf("bytes %d to %d are outside the test file of %d", r.Offset, end, q.f.size)
	}
	q.waiting = append(q.waiting, r)
	q.dispatch()
}

// dispatch begins work on waiting requests while the drive has a server free.
func (q *queue) dispatch() {
	d := q.f.d
	for len(q.waiting) > 0 && len(q.working) < d.model.servers() {
		i := d.model.pick(q.waiting)
		r := q.waiting[i]
		q.waiting = slices.Delete(q.waiting, i, i+1)
		r.Offset += q.f.base // the model sees places on the drive
		r.Ended = d.model.serve(r, d.now, d.rng)
		r.Offset -= q.f.base
		q.working = append(q.working, r)
	}
}

func (q *queue) Wait() *drivetest.Request {
	first := 0
	for i, r := range q.working {
		if r.Ended < q.working[first].Ended {
			first = i
		}
	}
	r := q.working[first]
	q.working = slices.Delete(q.working, first, first+1)
	q.f.d.now = max(q.f.d.now, r.Ended)
	q.dispatch()
	return r
}

func (q *queue) Close() {}

// seconds converts, rounding to the clock's nanosecond.
func seconds(s float64) time.Duration { return time.Duration(math.Round(s * 1e9)) }

// diskSpec is a hard disk: one arm, one turn at a time.
type diskSpec struct {
	rpm                float64
	outerMBs, innerMBs float64 // rate of the first and the last zone
	shortSeek, stroke  float64 // s: to the next track, and over the whole disk
	overhead           float64 // s per request that is not a continuation
	stumble            float64 // share of requests that need another turn or ten
}

type disk struct {
	diskSpec
	size int64
	head int64 // where the arm stands: the byte after the last request
}

func (m *disk) servers() int { return 1 }

// pick continues where the arm stands if it can, else takes the nearest.
func (m *disk) pick(waiting []*drivetest.Request) int {
	best, dist := 0, int64(math.MaxInt64)
	for i, r := range waiting {
		if d := abs(r.Offset - m.head); d < dist {
			best, dist = i, d
		}
	}
	return best
}

func abs(n int64) int64 { return max(n, -n) }

func (m *disk) serve(r *drivetest.Request, now time.Duration, rng *rand.Rand) time.Duration {
	at := float64(r.Offset) / float64(m.size)
	rate := m.outerMBs + (m.innerMBs-m.outerMBs)*at
	t := float64(len(r.Data)) / (rate * 1e6)
	if r.Offset != m.head {
		// A seek grows with the root of the distance, then half a turn on average.
		far := float64(abs(r.Offset-m.head)) / float64(m.size)
		turn := 60 / m.rpm
		t += m.overhead + m.shortSeek + (m.stroke-m.shortSeek)*math.Sqrt(far) + rng.Float64()*turn
		if rng.Float64() < m.stumble {
			t += turn * (1 + 9*rng.Float64())
		}
	} else {
		t *= 1 + 0.04*rng.Float64() // a worn surface reads some tracks twice
	}
	m.head = r.Offset + int64(len(r.Data))
	return now + seconds(t)
}

func (m *disk) flush() time.Duration { return seconds(60 / m.rpm * 2) }

// flashSpec is a solid-state drive: many channels behind one link.
type flashSpec struct {
	channels            int
	readLat, writeLat   float64 // s before data flows
	channelMBs, linkMBs float64
	tail                float64 // share of requests that wait for housekeeping
	tailLat             float64 // s, on average, that they wait
	flushLat            float64 // s
}

type flash struct {
	flashSpec
	linkFree time.Duration
}

func (m *flash) servers() int { return m.channels }

func (m *flash) pick([]*drivetest.Request) int { return 0 }

func (m *flash) serve(r *drivetest.Request, now time.Duration, rng *rand.Rand) time.Duration {
	lat := m.readLat
	if r.Write {
		lat = m.writeLat
	}
	lat *= 1 + 0.08*rng.NormFloat64()
	if rng.Float64() < m.tail {
		lat += rng.ExpFloat64() * m.tailLat
	}
	n := float64(len(r.Data))
	ready := now + seconds(math.Max(lat, 1e-6)+n/(m.channelMBs*1e6))
	// The link carries one request after another.
	begin := max(ready-seconds(n/(m.linkMBs*1e6)), m.linkFree)
	m.linkFree = begin + seconds(n/(m.linkMBs*1e6))
	return max(ready, m.linkFree)
}

func (m *flash) flush() time.Duration { return seconds(m.flushLat) }
