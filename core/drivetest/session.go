package drivetest

import (
	"context"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"github.com/HdrHistogram/hdrhistogram-go"
)

// EngineVersion changes whenever the same drive would give different figures.
const EngineVersion = "5"

// sampleSeed is the same for all, so that both sides read the same files.
const sampleSeed = 1

// layBlock is the block in which the test file is written.
const layBlock = 1 << 20

// Session holds one test file on a volume over several runs.
type Session struct {
	// MaxTempC is the drive's limit from its label, °C; a run stops when the
	// drive reaches it. 0 leaves it to what the volume says.
	MaxTempC float64

	vol  Volume
	file File // nil where no workload needs a file that is laid out
	span int64
	seed uint64
	rng  *rand.Rand
	laid bool
	// sample are files of the customer's that are being read, else nil.
	sample File
	// startC is the drive's temperature as the first run began, NaN where it is not known.
	startC float64
	mark   uint64 // makes every written page different from every other
}

// Open makes a test file of span bytes on the volume; span 0 makes none, for
// workloads that bring their own ([Workload.OwnFile]). The seed makes places
// and data repeatable.
func Open(ctx context.Context, vol Volume, span int64, seed uint64) (*Session, error) {
	s := &Session{vol: vol, span: span, seed: seed, startC: math.NaN(), mark: seed,
		rng: rand.New(rand.NewPCG(seed, 0x6e6f77))}
	if span == 0 {
		return s, nil
	}
	if span < layBlock || span%layBlock != 0 || span > MaxSpan {
		return nil, fmt.Errorf("the test file's size %d is not a multiple of 1 MiB up to 1 TiB", span)
	}
	if err := CheckRoom(vol.Facts(), span); err != nil {
		return nil, err
	}
	f, err := vol.Create(ctx, span)
	if err != nil {
		return nil, err
	}
	s.file = f
	return s, nil
}

// SpanOf is the size of the test file that a round of workloads shares: whole
// MiB, 0 where each brings its own. extra is the largest file that one of them
// makes beside it.
func SpanOf(ws []Workload) (span, extra int64) {
	for _, w := range ws {
		size := (w.SpanBytes + layBlock - 1) &^ (layBlock - 1)
		switch {
		case w.Fresh:
			extra = max(extra, size)
		case !w.Existing:
			span = max(span, size)
		}
	}
	return span, extra
}

// keepFree is the free space that a volume keeps: a tenth of its size or 2 GB, whichever is less.
func keepFree(f Facts) int64 { return min(f.TotalBytes/10, 2e9) }

// Room is how large a test file may be on a volume, bytes.
func Room(f Facts) int64 { return max(0, f.FreeBytes-keepFree(f)) }

// CheckRoom reports whether a test file of span bytes leaves the volume what has to stay free.
func CheckRoom(f Facts, span int64) error {
	if keep := keepFree(f); f.FreeBytes-span < keep {
		return fmt.Errorf("%w: a test file of %d MiB would leave %d MiB free, and %d MiB must stay free",
			ErrNoRoom, span>>20, max(0, f.FreeBytes-span)>>20, keep>>20)
	}
	return nil
}

// File is the session's test file, or nil.
func (s *Session) File() File { return s.file }

// Close removes the test file.
func (s *Session) Close() error {
	if s.file == nil {
		return nil
	}
	return s.file.Close()
}

// Lay fills the test file: reads then find data, and writes find allocated space. It does nothing the second
// time.
func (s *Session) Lay(ctx context.Context, tell func(Progress)) error {
	if s.laid || s.file == nil {
		return nil
	}
	w := Workload{Pattern: Sequential, Op: Write, BlockBytes: layBlock, Depth: 4, SpanBytes: s.span,
		Data: Incompressible, Flush: FlushAtEnd}
	r := s.newRun(w, s.file, func(p Progress) {
		p.Laying = true
		tell(p)
	})
	limit := LayingTime(s.span)
	r.stopBytes, r.stopAfter, r.ramp, r.latency = s.span, limit, 0, nil
	if err := r.do(ctx); err != nil {
		return fmt.Errorf("laying out the test file: %w", err)
	}
	if r.stopped == StoppedAtTime {
		return fmt.Errorf("%w: %d of %d MiB in %.0f s; take a smaller test file", ErrTooSlow, r.moved>>20, s.span>>20,
			limit.Seconds())
	}
	s.laid = true
	return s.rest(ctx, PauseAfterLaying(s.span))
}

const (
	// slowestLaying is the rate, MB/s, below which laying out is given up.
	slowestLaying = 10
	// coolTo is within how many °C of its first start a run begins, if that is so within
	// mostCooling.
	coolTo = 3
	// MostCooling is how long a run waits at most for the drive to cool.
	MostCooling = time.Minute
)

// LayingTime is how long laying out a test file takes at most, before it is given up.
func LayingTime(span int64) time.Duration {
	return max(30*time.Second, time.Duration(float64(span)/(slowestLaying*1e6)*float64(time.Second)))
}

// PauseAfterLaying is how long the drive is left alone once its file is written, so that
// what it still does with it is not measured: three seconds, and less for a file of less
// than 1 GiB.
func PauseAfterLaying(span int64) time.Duration {
	return time.Duration(3 * min(1, float64(span)/(1<<30)) * float64(time.Second))
}

// rest leaves the drive idle, if the volume can.
func (s *Session) rest(ctx context.Context, d time.Duration) error {
	if rest := s.vol.Can().Rest; rest != nil && d > 0 {
		return rest(ctx, d)
	}
	return nil
}

// temperature is the drive's, °C, NaN if not known.
func (s *Session) temperature() float64 {
	if temperature := s.vol.Can().Temperature; temperature != nil {
		c, _ := temperature()
		return c
	}
	return math.NaN()
}

// cool waits until the drive is about as cool as it was when the first run began, and
// returns how warm it is then.
func (s *Session) cool(ctx context.Context) (float64, error) {
	c := s.temperature()
	if math.IsNaN(s.startC) {
		s.startC = c
	}
	for waited := time.Duration(0); c > s.startC+coolTo && waited < MostCooling; waited += time.Second {
		if err := s.rest(ctx, time.Second); err != nil {
			return c, err
		}
		c = s.temperature()
	}
	return c, nil
}

// Measure lays the test file out if need be and runs the workload once. tell
// is called from this goroutine about ten times a second of the volume's clock.
// A cancelled context ends it within one request with the context's error. An
// error of the drive, or its reaching its temperature limit, is a result: it
// comes with the reading up to it, where anything was measured.
func (s *Session) Measure(ctx context.Context, w Workload, tell func(Progress)) (*Reading, error) {
	if err := w.Check(); err != nil {
		return nil, err
	}
	if !w.OwnFile() && w.SpanBytes > s.span {
		return nil, fmt.Errorf("the workload spans %d bytes, the test file has %d", w.SpanBytes, s.span)
	}
	if a := s.vol.Facts().AlignBytes; a > 0 {
		for _, b := range w.sizes() {
			if b%a != 0 {
				return nil, fmt.Errorf("blocks of %d bytes cannot be read directly here: the drive wants multiples of %d", b, a)
			}
		}
	}
	var sample []SampleFile
	if w.Sample {
		take := s.vol.Can().Sample
		if take == nil {
			return nil, errors.New("existing files cannot be sampled here")
		}
		file, list, err := take(ctx, sampleSeed, w.SpanBytes)
		if err != nil {
			return nil, err
		}
		sample, w.SpanBytes = list, 0
		for _, f := range list {
			w.SpanBytes += f.Bytes
		}
		s.sample = file
		defer func() { s.sample = nil }()
	}
	file, done, err := s.fileFor(ctx, w, tell)
	if err != nil {
		return nil, err
	}
	start, err := s.cool(ctx)
	if err != nil {
		return nil, errors.Join(err, done())
	}
	core, all := math.NaN(), math.NaN()
	ended := func() (float64, float64) { return core, all }
	if watch := s.vol.Can().WatchWork; watch != nil {
		ended = watch()
	}
	r, err := s.measure(ctx, w, file, tell)
	core, all = ended()
	if r != nil {
		r.Sample = sample
		r.StartTempC, r.CorePct, r.AllPct = start, core, all
		r.FromPct, r.ToPct = math.NaN(), math.NaN()
		if place := s.vol.Can().Placement; place != nil {
			if from, to, ok := place(file); ok {
				r.FromPct, r.ToPct = from*100, to*100
			}
		}
	}
	return r, errors.Join(err, done())
}

// fileFor returns the file that a workload runs on and how to be done with it.
func (s *Session) fileFor(ctx context.Context, w Workload, tell func(Progress)) (File, func() error, error) {
	nothing := func() error { return nil }
	switch {
	case s.sample != nil:
		return s.sample, s.sample.Close, nil
	case w.Existing:
		open := s.vol.Can().Existing
		if open == nil {
			return nil, nothing, errors.New("existing files cannot be read here")
		}
		f, err := open(ctx, w.SpanBytes)
		if err != nil {
			return nil, nothing, err
		}
		return f, f.Close, nil
	case w.Fresh:
		span := (w.SpanBytes + layBlock - 1) &^ (layBlock - 1)
		if err := CheckRoom(s.vol.Facts(), s.span+span); err != nil {
			return nil, nothing, err
		}
		create := s.vol.Create
		if grow := s.vol.Can().Grow; grow != nil && w.Streams != nil {
			create = grow
		}
		f, err := create(ctx, span)
		if err != nil {
			return nil, nothing, err
		}
		return f, f.Close, nil
	}
	return s.file, nothing, s.Lay(ctx, tell)
}

func (s *Session) measure(ctx context.Context, w Workload, file File, tell func(Progress)) (*Reading, error) {
	if len(w.Sweep) > 0 {
		return s.sweep(ctx, w, file, tell)
	}
	r := s.newRun(w, file, tell)
	if err := r.do(ctx); err != nil {
		err = fmt.Errorf("%s %s: %w", w.Pattern, w.Op, err)
		if r.ios == 0 || ctx.Err() != nil {
			return nil, err
		}
		if r.stopped != StoppedByHeat {
			r.stopped = StoppedByError
		}
		return r.reading(s.vol.Facts()), err
	}
	if r.ios == 0 { // nothing is a result here, not even a rate of zero
		return nil, fmt.Errorf("%s %s: nothing ended within the measured time; give the test more seconds or bytes",
			w.Pattern, w.Op)
	}
	return r.reading(s.vol.Facts()), nil
}

// forever is a time limit that no run reaches.
const forever = time.Duration(math.MaxInt64 / 4)

// newRun prepares one pass of a workload on a file.
func (s *Session) newRun(w Workload, f File, tell func(Progress)) *run {
	r := &run{s: s, w: w, file: f, tell: tell, stopBytes: w.MaxBytes, ramp: int64(w.Depth),
		stopAfter: time.Duration(w.Seconds() * float64(time.Second)),
		warm:      time.Duration(w.WarmSeconds * float64(time.Second)),
		latency:   hdrhistogram.New(100, int64(10*time.Minute), 3)}
	if r.stopBytes == 0 {
		r.stopBytes = math.MaxInt64
	}
	if w.Fresh {
		r.ramp = 0 // every byte counts towards where the cliff is
	}
	return r
}
