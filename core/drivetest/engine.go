package drivetest

import (
	"context"
	"encoding/binary"
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"github.com/HdrHistogram/hdrhistogram-go"
)

// EngineVersion changes whenever the same drive would give other figures.
const EngineVersion = "2"

// layBlock is the block in which the test file is laid out.
const layBlock = 1 << 20

// progressEvery is how often, on the volume's clock, progress is told.
const progressEvery = 100 * time.Millisecond

// StopReason says why a run ended.
type StopReason string

// Reasons for the end of a run.
const (
	StoppedAtTime   StopReason = "time"
	StoppedAtBytes  StopReason = "bytes"
	StoppedWhenSure StopReason = "sure"
	StoppedByError  StopReason = "error"
)

// Reading is what one run of a workload gave.
type Reading struct {
	Workload Workload
	// MBs is the rate in MB/s (10^6 bytes); IOPS the requests per second.
	MBs, IOPS float64
	// RelU is the relative standard uncertainty of the rate from the counting
	// itself: one block more or less in the measured time, ÷ √12 (JCGM 100, 4.3.7).
	RelU float64
	// HalfWidth is the relative half-width of the 95 % interval of the rate within
	// the run, from batch means; NaN where the run was too short for it.
	HalfWidth float64
	IOs       int64
	Bytes     int64
	Elapsed   time.Duration // the measured time, ramp left out, flush included
	// Series is the rate of each whole second, MB/s.
	Series  []float64
	Latency *hdrhistogram.Histogram // ns
	Stopped StopReason
	Facts   Facts
}

// Progress is what a running workload tells of itself.
type Progress struct {
	Laying bool    // the test file is being laid out; nothing is measured yet
	Done   float64 // 0…1
	MBs    float64 // over the last interval
	// HalfWidth is how sure the rate is so far; NaN where it cannot be told yet.
	HalfWidth float64
	Elapsed   time.Duration
	Bytes     int64
}

// Session holds one test file on a volume over several runs.
type Session struct {
	vol  Volume
	file File
	span int64
	rng  *rand.Rand
	laid bool
	mark uint64 // makes every written page different from every other
}

// Open makes a test file of span bytes on the volume. The seed makes places
// and data repeatable.
func Open(ctx context.Context, vol Volume, span int64, seed uint64) (*Session, error) {
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
	return &Session{vol: vol, file: f, span: span, rng: rand.New(rand.NewPCG(seed, 0x6e6f77)), mark: seed}, nil
}

// CheckRoom tells whether a test file of span bytes leaves the volume at least
// a tenth of its space or 2 GB free, whichever is less.
func CheckRoom(f Facts, span int64) error {
	if keep := min(f.TotalBytes/10, 2e9); f.FreeBytes-span < keep {
		return fmt.Errorf("%w: a test file of %d MiB would leave %d MiB free, and %d MiB must stay free",
			ErrNoRoom, span>>20, max(0, f.FreeBytes-span)>>20, keep>>20)
	}
	return nil
}

// File is the session's test file.
func (s *Session) File() File { return s.file }

// Close removes the test file.
func (s *Session) Close() error { return s.file.Close() }

// Lay fills the test file, so that reads find data and writes find room that
// is already theirs. It does nothing the second time.
func (s *Session) Lay(ctx context.Context, tell func(Progress)) error {
	if s.laid {
		return nil
	}
	w := Workload{Pattern: Sequential, Op: Write, BlockBytes: layBlock, Depth: 4, SpanBytes: s.span, Data: Incompressible, Flush: FlushAtEnd}
	r := &run{s: s, w: w, stopBytes: s.span, stopAfter: math.MaxInt64, tell: func(p Progress) {
		p.Laying = true
		tell(p)
	}}
	if err := r.do(ctx); err != nil {
		return fmt.Errorf("laying out the test file: %w", err)
	}
	s.laid = true
	return nil
}

// Measure lays the test file out if need be and runs the workload once. tell
// is called from this goroutine about ten times a second of the volume's clock.
// A cancelled context ends it within one request with the context's error. An
// error of the drive is a result: it comes with the reading up to it, where
// anything was measured.
func (s *Session) Measure(ctx context.Context, w Workload, tell func(Progress)) (*Reading, error) {
	if err := w.Check(); err != nil {
		return nil, err
	}
	if w.SpanBytes > s.span {
		return nil, fmt.Errorf("the workload spans %d bytes, the test file has %d", w.SpanBytes, s.span)
	}
	if a := s.vol.Facts().AlignBytes; a > 0 {
		for _, b := range append([]BlockShare{{Bytes: w.BlockBytes}}, w.Blocks...) {
			if b.Bytes%a != 0 {
				return nil, fmt.Errorf("blocks of %d bytes cannot be read directly here: the drive wants multiples of %d", b.Bytes, a)
			}
		}
	}
	if err := s.Lay(ctx, tell); err != nil {
		return nil, err
	}
	r := &run{s: s, w: w, stopBytes: w.MaxBytes, stopAfter: time.Duration(w.Seconds() * float64(time.Second)), tell: tell,
		ramp: w.Depth, latency: hdrhistogram.New(100, int64(10*time.Minute), 3)}
	if r.stopBytes == 0 {
		r.stopBytes = math.MaxInt64
	}
	if err := r.do(ctx); err != nil {
		err = fmt.Errorf("%s %s: %w", w.Pattern, w.Op, err)
		if r.ios == 0 || ctx.Err() != nil {
			return nil, err
		}
		r.stopped = StoppedByError
		return r.reading(s.vol.Facts()), err
	}
	if r.ios == 0 { // nothing is a result here, not even a rate of zero
		return nil, fmt.Errorf("%s %s: nothing ended within the measured time; give the test more seconds or bytes", w.Pattern, w.Op)
	}
	return r.reading(s.vol.Facts()), nil
}

// run is one pass of a workload.
type run struct {
	s         *Session
	w         Workload
	stopBytes int64
	stopAfter time.Duration
	ramp      int // requests that end before measuring begins
	tell      func(Progress)
	latency   *hdrhistogram.Histogram

	begun     time.Duration // the first request
	from, to  time.Duration // the measured time
	ended     int64         // requests that have ended, ramp included
	moved     int64         // bytes of those
	ios       int64         // requests within the measured time
	bytes     int64         // bytes of those
	ticks     []int64       // bytes by tenth of a second of the measured time
	stopped   StopReason
	lastSure  time.Duration
	lastEnd   time.Duration // of the last request that counted
	next      int64         // next sequential offset
	lastTold  time.Duration
	lastBytes int64
}

// do keeps depth requests in flight until a limit is reached, then lets the
// last ones end and flushes. Of a read, what ends after the limit does not
// count; of a write everything up to the end of the flush does, because a
// write that is not on the drive is not done.
func (r *run) do(ctx context.Context) error {
	reqs := make([]Request, r.w.Depth)
	for i := range reqs {
		reqs[i] = Request{Data: r.s.file.Buffer(r.w.BlockBytes)}
		if r.w.Writes() {
			r.fill(reqs[i].Data)
		}
	}
	if r.w.SpanBytes > 0 && r.stopAfter < time.Hour { // room beforehand: nothing is allocated while requests run
		r.ticks = make([]int64, 0, int(r.stopAfter/tick)+64)
	}
	q := r.s.file.Queue(r.w.Depth)
	defer q.Close()

	clock := r.s.vol.Now
	r.begun = clock()
	r.from, r.lastTold = r.begun, r.begun
	inFlight, started := 0, int64(0)
	start := func(q Queue, req *Request) {
		r.aim(req)
		q.Start(req)
		inFlight++
		started += int64(len(req.Data))
	}
	for i := range reqs {
		if started < r.stopBytes {
			start(q, &reqs[i])
		}
	}
	var failed error
	for inFlight > 0 {
		req := q.Wait()
		inFlight--
		if req.Err != nil && failed == nil {
			failed = fmt.Errorf("at byte %d of the test file: %w", req.Offset, req.Err)
		}
		if failed == nil {
			failed = ctx.Err()
		}
		if failed != nil {
			continue // let the others end, start no more
		}
		if req.Write && r.w.Flush == FlushEach {
			if err := r.s.file.Flush(); err != nil {
				failed = fmt.Errorf("flush: %w", err)
				continue
			}
			req.Ended = clock()
		}
		r.count(req)
		ended := req.Ended // once started again, the request is the queue's
		switch {
		case r.stopped != "":
		case ended-r.begun >= r.stopAfter:
			r.stopped = StoppedAtTime
			r.to = ended
		case started >= r.stopBytes:
			r.stopped = StoppedAtBytes
			r.to = ended
		case r.sure(ended):
			r.stopped = StoppedWhenSure
			r.to = ended
		default:
			start(q, req)
		}
		if ended-r.lastTold >= progressEvery {
			r.progress(ended)
		}
	}
	if failed != nil {
		r.to = max(r.lastEnd, r.from)
		return failed
	}
	if r.w.Writes() {
		if r.w.Flush == FlushAtEnd {
			if err := r.s.file.Flush(); err != nil {
				return fmt.Errorf("flush: %w", err)
			}
		}
		r.to = clock()
	}
	return nil
}

// count adds a request that has ended. The ramp (the first depth requests,
// begun together) is left out; of a read also what ends after the stop.
func (r *run) count(req *Request) {
	r.ended++
	r.moved += int64(len(req.Data))
	if r.ended <= int64(r.ramp) {
		r.from = req.Ended
		return
	}
	if r.stopped != "" && !r.w.Writes() {
		return
	}
	r.lastEnd = req.Ended
	r.ios++
	r.bytes += int64(len(req.Data))
	if r.latency != nil {
		// Out of range is cut off at the histogram's end: ten minutes.
		_ = r.latency.RecordValue(min(int64(req.Ended-req.Started), r.latency.HighestTrackableValue()))
	}
	at := int((req.Ended - r.from) / tick)
	for len(r.ticks) <= at {
		r.ticks = append(r.ticks, 0)
	}
	r.ticks[at] += int64(len(req.Data))
}

// tick is the time over which bytes are counted for the series and the batch
// means.
const tick = 100 * time.Millisecond

// sure tells whether the stop rule ends the run now: after MinSeconds, once the
// rate is known well enough. It looks once a tick.
func (r *run) sure(now time.Duration) bool {
	if r.w.StopHalfWidth == 0 || now-r.from < MinSeconds*time.Second || now-r.lastSure < tick {
		return false
	}
	r.lastSure = now
	h := HalfWidth(r.ticks[:min(len(r.ticks), int((now-r.from)/tick))])
	return h <= r.w.StopHalfWidth // false for NaN
}

// aim gives a request its place, and a write new content.
func (r *run) aim(req *Request) {
	rng := r.s.rng
	req.Write = r.w.Op == Write || r.w.Op == Mix && rng.Float64() >= r.w.ReadShare
	size := r.w.BlockBytes
	if len(r.w.Blocks) > 0 {
		size = pickBlock(r.w.Blocks, rng.Float64())
	}
	req.Data = req.Data[:size]
	span := r.w.SpanBytes
	switch r.w.Pattern {
	case Hot:
		// Most requests fall within the hot part, the others anywhere.
		if hot := int64(float64(span) * r.w.HotPart); rng.Float64() < r.w.HotShare && hot >= size {
			span = hot
		}
		req.Offset = rng.Int64N(span/size) * size
	case Random:
		req.Offset = rng.Int64N(span/size) * size
	default:
		req.Offset = r.next
		if r.next += size; r.next+size > span {
			r.next = 0
		}
	}
	if req.Write && r.w.Data != Zero {
		// A drive that folds equal blocks into one must find none: stamp every page.
		for at := 0; at+8 <= len(req.Data); at += 4096 {
			r.s.mark++
			binary.LittleEndian.PutUint64(req.Data[at:], r.s.mark)
		}
	}
}

// pickBlock chooses a block size by a number in 0…1.
func pickBlock(blocks []BlockShare, at float64) int64 {
	for _, b := range blocks {
		if at -= b.Share; at < 0 {
			return b.Bytes
		}
	}
	return blocks[len(blocks)-1].Bytes
}

// fill writes the workload's data: random bytes, which no drive can make
// smaller, in the first part of every page, zeros in the rest.
func (r *run) fill(b []byte) {
	random := 4096
	switch r.w.Data {
	case Zero:
		return
	case Compressible:
		random = int(4096 * r.w.CompressTo)
	}
	for at := 0; at+8 <= len(b); at += 8 {
		if at%4096 < random {
			binary.LittleEndian.PutUint64(b[at:], r.s.rng.Uint64())
		}
	}
}

func (r *run) progress(now time.Duration) {
	bytes := r.moved
	p := Progress{Elapsed: now - r.begun, Bytes: bytes, HalfWidth: HalfWidth(r.ticks[:max(0, len(r.ticks)-1)])}
	p.Done = math.Max(float64(p.Elapsed)/float64(r.stopAfter), float64(bytes)/float64(r.stopBytes))
	p.Done = math.Min(1, p.Done)
	if dt := (now - r.lastTold).Seconds(); dt > 0 {
		p.MBs = float64(bytes-r.lastBytes) / dt / 1e6
	}
	r.lastTold, r.lastBytes = now, bytes
	r.tell(p)
}

func (r *run) reading(f Facts) *Reading {
	out := &Reading{Workload: r.w, IOs: r.ios, Bytes: r.bytes, Elapsed: r.to - r.from,
		Latency: r.latency, Stopped: r.stopped, Facts: f}
	out.HalfWidth = HalfWidth(r.ticks[:min(len(r.ticks), int(out.Elapsed/tick))])
	if sec := out.Elapsed.Seconds(); sec > 0 && r.ios > 0 {
		out.MBs = float64(out.Bytes) / sec / 1e6
		out.IOPS = float64(out.IOs) / sec
		out.RelU = 1 / float64(r.ios) / math.Sqrt(12)
	}
	// The last second is rarely whole; a part of one would look like a dip.
	const perSecond = int(time.Second / tick)
	for at := 0; at+perSecond <= min(len(r.ticks), int(out.Elapsed/tick)); at += perSecond {
		sum := int64(0)
		for _, b := range r.ticks[at : at+perSecond] {
			sum += b
		}
		out.Series = append(out.Series, float64(sum)/1e6)
	}
	return out
}
