package drivetest

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"math"
	"time"

	"github.com/HdrHistogram/hdrhistogram-go"
)

// progressEvery is the interval of progress calls, on the volume's clock.
const progressEvery = 100 * time.Millisecond

// Unanswered is how much longer than its time a run may continue of which not one request
// was counted yet; then it ends with an error.
const Unanswered = time.Minute

// ErrClock means that time did not pass evenly: the clock was set back, or the
// computer slept. A rate over such a time is meaningless. A drive that lets a request wait, however long, is
// slow; that is no such error.
var ErrClock = errors.New("the time that passed is not known")

// ErrTooHot means that the drive reached its temperature limit.
var ErrTooHot = errors.New("the drive has reached its temperature limit")

// run is one pass of a workload.
type run struct {
	s         *Session
	w         Workload
	file      File
	stopBytes int64
	stopAfter time.Duration
	ramp      int64         // requests that end before measuring begins
	warm      time.Duration // time that passes before measuring begins
	tell      func(Progress)
	latency   *hdrhistogram.Histogram

	begun     time.Duration // the first request
	from, to  time.Duration // the measured time
	warmed    bool          // measuring has begun
	awake     Wakefulness   // of the computer
	looked    time.Duration // when that was determined
	ended     int64         // requests that have ended, ramp included
	moved     int64         // bytes of those
	ios       int64         // requests within the measured time
	bytes     int64         // bytes of those
	ticks     []int64       // bytes by tenth of a second of the measured time
	stopped   StopReason
	lastSure  time.Duration
	predicted float64       // half-width of the rate that the whole time would give, relative
	lastEnd   time.Duration // of the last request that counted
	next      int64         // next sequential offset
	lane      int           // the stream whose turn it is
	lastTold  time.Duration
	lastBytes int64
	waited    time.Duration // what the requests since then took together
	waits     int64         // and how many they were
	temps     []float64     // °C by second
	tempC     float64       // the last one
	tempLimit float64
}

// do keeps depth requests in flight until a limit is reached, then lets the
// last ones end and flushes. What ends after the limit, when fewer than depth
// are in flight, does not count; but where one flush at the end makes writes
// durable, everything up to the end of that flush does, because a write that is
// not on the drive is not done.
func (r *run) do(ctx context.Context) error {
	reqs := make([]Request, r.w.Depth)
	for i := range reqs {
		reqs[i] = Request{Data: r.file.Buffer(r.w.BlockBytes)}
		if r.w.Writes() {
			r.fill(reqs[i].Data)
		}
	}
	if r.stopAfter < time.Hour { // room beforehand: nothing is allocated while requests run
		r.ticks = make([]int64, 0, int(r.stopAfter/tick)+64)
		r.temps = make([]float64, 0, int(r.stopAfter/time.Second)+8)
	}
	q := r.file.Queue(r.w.Depth)
	defer q.Close()

	clock := r.s.vol.Now
	r.awake = WatchSleep(r.s.vol.Can().Slept)
	r.begun = clock()
	r.from, r.lastTold, r.looked = r.begun, r.begun, r.begun
	r.takeTemperature()
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
		if failed == nil {
			failed = r.fault(ctx, req)
		}
		if failed != nil {
			continue // let the others end, start no more
		}
		if req.Write && r.w.Flush == FlushEach {
			if err := r.file.Flush(); err != nil {
				failed = fmt.Errorf("flush: %w", err)
				continue
			}
			req.Ended = clock()
		}
		r.count(req, started)
		ended := req.Ended // once started again, the request is the queue's
		switch {
		case r.stopped != "":
		case r.ios > 0 && (ended-r.from >= r.stopAfter || ended-r.begun >= r.warm+r.stopAfter),
			ended-r.begun >= r.warm+r.stopAfter+Unanswered:
			r.stop(StoppedAtTime, ended)
		case started >= r.stopBytes:
			r.stop(StoppedAtBytes, ended)
		case r.sure(ended):
			r.stop(StoppedWhenSure, ended)
		case r.tooHot():
			r.stop(StoppedByHeat, ended)
		default:
			start(q, req)
		}
		if ended-r.lastTold >= progressEvery {
			r.progress(ended)
		}
	}
	if failed == nil {
		failed = r.awake.Check()
	}
	if failed != nil {
		r.to = max(r.lastEnd, r.from)
		return failed
	}
	if r.w.Writes() && r.w.Flush != FlushEach && r.w.Flush != FlushNone {
		if err := r.file.Flush(); err != nil {
			return fmt.Errorf("flush: %w", err)
		}
		if err := r.awake.Check(); err != nil {
			r.to = max(r.lastEnd, r.from)
			return err
		}
		r.to = clock()
	}
	if r.stopped == StoppedByHeat {
		return fmt.Errorf("%w: %.0f °C, and %.0f °C is the limit", ErrTooHot, r.tempC, r.tempLimit)
	}
	return nil
}

func (r *run) stop(why StopReason, at time.Duration) { r.stopped, r.to = why, at }

// fault reports what is wrong with a request that has ended, or with the run.
func (r *run) fault(ctx context.Context, req *Request) error {
	if req.Err != nil {
		return fmt.Errorf("at byte %d of the test file: %w", req.Offset, req.Err)
	}
	if req.Ended < req.Started {
		return fmt.Errorf("%w: the clock was set back by %.0f s", ErrClock, (req.Started - req.Ended).Seconds())
	}
	if req.Ended-r.looked >= progressEvery {
		r.looked = req.Ended
		if err := r.awake.Check(); err != nil {
			return err
		}
	}
	return ctx.Err()
}

// tailCounts reports whether requests count that end after the stop.
func (r *run) tailCounts() bool {
	return r.w.Writes() && r.w.Flush != FlushEach && r.w.Flush != FlushNone
}

// count adds a request that has ended. The ramp (the first depth requests,
// begun together) and the warm-up are left out; so is the tail.
func (r *run) count(req *Request, started int64) {
	r.ended++
	r.moved += int64(len(req.Data))
	r.waited += req.Ended - req.Started
	r.waits++
	if !r.warmed {
		// A warm-up must not use up the bytes that may be moved.
		if r.ended <= r.ramp || req.Ended-r.begun < r.warm && started < r.stopBytes/4 {
			r.from = req.Ended
			return
		}
		r.warmed = true
	}
	if r.stopped != "" && !r.tailCounts() {
		return
	}
	r.lastEnd = max(r.lastEnd, req.Ended)
	r.ios++
	r.bytes += int64(len(req.Data))
	if r.latency != nil {
		// Out of range is cut off at the histogram's end: ten minutes.
		_ = r.latency.RecordValue(min(int64(req.Ended-req.Started), r.latency.HighestTrackableValue()))
	}
	// Workers may hand requests back out of order, the first even before the
	// ramp's last.
	at := int(max(0, req.Ended-r.from) / tick)
	for len(r.ticks) <= at {
		r.ticks = append(r.ticks, 0)
	}
	r.ticks[at] += int64(len(req.Data))
}

// takeTemperature notes the drive's temperature, where the volume tells it.
func (r *run) takeTemperature() {
	r.tempC = math.NaN()
	temperature := r.s.vol.Can().Temperature
	if temperature == nil {
		return
	}
	r.tempC, r.tempLimit = temperature()
	if r.s.MaxTempC > 0 {
		r.tempLimit = r.s.MaxTempC
	}
}

// tooHot reports whether the drive has reached its limit; it looks with every
// progress. Both are NaN or 0 if not known.
func (r *run) tooHot() bool { return r.tempLimit > 0 && r.tempC >= r.tempLimit }

// lookEvery is the interval of the stop rule. Checking at every moment would stop at a lucky one.
const lookEvery = time.Second

// sure reports whether the stop rule ends the run now: after MinSeconds, once the rate is
// known well enough from batches that do not depend on one another, and with what its
// trend would make of it by the end of the run's time. Writing is never sure: a cache can
// end at any moment.
func (r *run) sure(now time.Duration) bool {
	if r.w.StopHalfWidth == 0 || r.w.Writes() || now-r.from < MinSeconds*time.Second || now-r.lastSure < lookEvery {
		return false
	}
	r.lastSure = now
	ticks := r.ticks[:min(len(r.ticks), int((now-r.from)/tick))]
	h, settled := HalfWidth(ticks)
	r.predicted = predicted(ticks, int(r.stopAfter/tick), h)
	return settled && r.predicted <= r.w.StopHalfWidth
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
		r.aimSequential(req, size, span)
	}
	if req.Write && r.w.Data != Zero {
		// A drive that deduplicates must find no equal blocks: stamp every page.
		for at := 0; at+8 <= len(req.Data); at += 4096 {
			r.s.mark++
			binary.LittleEndian.PutUint64(req.Data[at:], r.s.mark)
		}
	}
}

// aimSequential gives the next place; several streams take turns, each recording in a
// part of the span of its own, each playback in that of a recording, a while behind it.
func (r *run) aimSequential(req *Request, size, span int64) {
	s := r.w.Streams
	if s == nil {
		req.Offset = r.next
		if r.next += size; r.next+size > span {
			r.next = 0
		}
		return
	}
	span = span / int64(s.Count) &^ 4095
	behind := playedBehind(size, span)
	req.Offset = int64(r.lane%s.Count)*span + r.next
	if r.lane >= s.Count {
		req.Write, req.Offset = false, req.Offset-behind
	}
	lanes := s.Count
	if r.next >= behind {
		lanes += s.Plays
	}
	if r.lane++; r.lane < lanes {
		return
	}
	r.lane = 0
	if r.next += size; r.next+size > span {
		r.next = 0
	}
}

// playedBehind is how far a playback is behind its recording, in bytes of it: far enough that what
// it reads was written,
// and has left what a drive remembers.
func playedBehind(size, span int64) int64 {
	const requests, part = 16, 64
	return max(requests*size, span/part/size*size)
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
	r.takeTemperature()
	if second := int((now - r.from) / time.Second); r.warmed && !math.IsNaN(r.tempC) && second >= len(r.temps) {
		r.temps = append(r.temps, r.tempC)
	}
	p := Progress{Elapsed: now - r.begun, Bytes: r.moved, TempC: r.tempC}
	p.HalfWidth, _ = HalfWidth(r.ticks[:max(0, len(r.ticks)-1)])
	p.Done = float64(r.moved) / float64(r.stopBytes)
	if r.warmed {
		p.Done = max(p.Done, float64(now-r.from)/float64(r.stopAfter))
	}
	p.Done = min(1, p.Done)
	if dt := (now - r.lastTold).Seconds(); dt > 0 {
		p.MBs = float64(r.moved-r.lastBytes) / dt / 1e6
	}
	if r.waits > 0 {
		p.LatencyMS = r.waited.Seconds() * 1e3 / float64(r.waits)
	}
	r.lastTold, r.lastBytes, r.waited, r.waits = now, r.moved, 0, 0
	r.tell(p)
}
