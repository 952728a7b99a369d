// Package sim simulates customers' computers and drives: models on a virtual clock, driven by
// events, deterministic by seed, for demonstration, training and tests. Its results must be marked as
// simulated.
//
// A request passes a bridge (with a queue depth and a cost per request), a medium (a disk or
// flash, or both for a drive with a cache) and a link with a maximum rate. It knows the core's
// volume interface and nothing of the real world.
package sim

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"sync"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// Drive is a simulated drive. Its methods and those of its files and queues may
// be called from several goroutines; a single one gives the same figures each
// time.
type Drive struct {
	spec Spec
	rng  *rand.Rand

	mu     sync.Mutex
	now    time.Duration
	events events
	seq    uint64
	next   int64 // where the next file begins
	open   int   // files

	held     []*op // waiting to be let in by the bridge
	inside   int   // let in and not ended
	lanes    []*lane
	route    func(*op) int // which lane an op takes
	linkFree time.Duration
	heat     heat
}

// Spec is what a simulated drive is, and what its label would say.
type Spec struct {
	Name     string // names the model, for example "worn-disk"
	Title    string // for people
	Label    job.Drive
	Attached job.Attached
	FillPct  float64
	TempC    float64 // when idle

	disk   *diskSpec
	flash  *flashSpec
	cache  *cacheSpec // with both: flash in front of a disk
	link   float64    // MB/s, what the link carries; 0: no ceiling
	bridge bridgeSpec
	heat   heatSpec
}

// bridgeSpec is what sits between computer and drive.
type bridgeSpec struct {
	depth    int     // requests at once; 0: any number
	overhead float64 // s for each
}

// Open returns the simulated drive of that name. Drives with the same name and
// seed behave alike.
func Open(name string, seed uint64) (*Drive, error) {
	for _, s := range specs {
		if s.Name == name {
			return newDrive(s, seed), nil
		}
	}
	return nil, fmt.Errorf("there is no simulated drive %q; there are %v", name, Names())
}

func newDrive(s Spec, seed uint64) *Drive {
	d := &Drive{spec: s, rng: rand.New(rand.NewPCG(seed, 0x7468656e)), route: func(*op) int { return 0 }}
	if s.disk != nil {
		d.lanes = append(d.lanes, &lane{medium: &disk{diskSpec: *s.disk, size: s.Label.CapacityBytes}})
	}
	if s.flash != nil {
		d.lanes = append(d.lanes, &lane{medium: &flash{flashSpec: *s.flash}})
	}
	if s.cache != nil {
		d.route = newCache(*s.cache).route
	}
	d.heat = heat{heatSpec: s.heat, idle: s.TempC, now: s.TempC}
	d.next = int64(float64(s.Label.CapacityBytes)*s.FillPct/100) &^ 4095
	return d
}

// Names lists the simulated drives.
func Names() []string {
	names := make([]string, len(specs))
	for i, s := range specs {
		names[i] = s.Name
	}
	return names
}

// Spec says what the drive is.
func (d *Drive) Spec() Spec { return d.spec }

// Now is the drive's virtual clock.
func (d *Drive) Now() time.Duration {
	d.mu.Lock()
	defer d.mu.Unlock()
	return d.now
}

// Work lets virtual time pass, in which the processor works and requests that
// are under way continue.
func (d *Drive) Work(t time.Duration) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.pass(d.now + t)
}

// Rest leaves the drive idle for a while.
func (d *Drive) Rest(ctx context.Context, t time.Duration) error {
	d.Work(t)
	return ctx.Err()
}

// pass lets time pass up to a moment.
func (d *Drive) pass(until time.Duration) {
	for len(d.events) > 0 && d.events[0].at <= until {
		d.step()
	}
	d.now = max(d.now, until)
}

// Facts says what the volume on the drive is.
func (d *Drive) Facts() drivetest.Facts {
	total := d.spec.Label.CapacityBytes
	return drivetest.Facts{FileSystem: "simulated", TotalBytes: total, AlignBytes: 512, Simulated: true,
		FreeBytes: int64(float64(total) * (1 - d.spec.FillPct/100))}
}

// Temperature is what the drive's sensor would say, and its limit, °C.
func (d *Drive) Temperature() (celsius, limit float64) {
	d.mu.Lock()
	defer d.mu.Unlock()
	limit = 0
	if r := d.spec.Label.Rated; r != nil {
		limit = r.MaxTempC
	}
	return math.Round(d.heat.at(d.now)), limit
}

// Can says what else the drive can do.
func (d *Drive) Can() drivetest.Capabilities {
	return drivetest.Capabilities{Existing: d.Existing, Sample: d.Sample, Temperature: d.Temperature, Rest: d.Rest,
		Load: d.LoadProcessor, Placement: placement}
}

// Create makes a test file behind what fills the drive.
func (d *Drive) Create(_ context.Context, size int64) (drivetest.File, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if d.next+size > d.spec.Label.CapacityBytes {
		d.next = 0 // a stretch as long as the drive begins at its beginning
	}
	f := &file{d: d, base: d.next, size: size}
	d.next += (size + 4095) &^ 4095
	d.open++
	return f, nil
}

// Existing opens a stretch of what fills the drive, read-only.
func (d *Drive) Existing(_ context.Context, span int64) (drivetest.File, error) {
	if filled := d.spec.Label.CapacityBytes - d.Facts().FreeBytes; span > filled {
		return nil, fmt.Errorf("the drive holds %d MiB, fewer than the %d MiB that are to be read", filled>>20,
			span>>20)
	}
	d.mu.Lock()
	defer d.mu.Unlock()
	d.open++
	return &file{d: d, size: span, readOnly: true}, nil
}

// Sample opens the drive's content, up to the limit.
func (d *Drive) Sample(_ context.Context, _ uint64, most int64) (drivetest.File, []drivetest.SampleFile, error) {
	filled := d.spec.Label.CapacityBytes - d.Facts().FreeBytes
	size := min(most, filled) &^ 4095
	d.mu.Lock()
	defer d.mu.Unlock()
	d.open++
	// Its places cover all of the used space; the bytes have no meaning.
	return &file{d: d, size: size, over: filled, readOnly: true},
		[]drivetest.SampleFile{{Path: "simulated", Bytes: size}}, nil
}

// seconds converts, rounding to the clock's nanosecond.
func seconds(s float64) time.Duration { return time.Duration(math.Round(s * 1e9)) }
