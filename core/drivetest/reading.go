package drivetest

import (
	"math"
	"time"

	"github.com/HdrHistogram/hdrhistogram-go"
)

// StopReason says why a run ended.
type StopReason string

// Reasons for the end of a run.
const (
	StoppedAtTime   StopReason = "time"
	StoppedAtBytes  StopReason = "bytes"
	StoppedWhenSure StopReason = "sure"
	StoppedByError  StopReason = "error"
	StoppedByHeat   StopReason = "heat" // the drive reached its temperature limit
)

// Reading is the result of one run of a workload.
type Reading struct {
	Workload Workload
	// MBs is the rate in MB/s (10^6 bytes); IOPS the requests per second. Of a
	// sweep MBs is the rate at which an equal amount at every size would go.
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
	Series []float64
	// Slowest is the slowest second, MB/s, over windows that begin every tenth
	// of one; NaN of a run that was shorter.
	Slowest float64
	// Temps are the drive's temperatures, °C, one a second; nil where the system
	// does not tell.
	Temps   []float64
	Latency *hdrhistogram.Histogram // ns
	// StartTempC is the drive's temperature as the run began, °C; FromPct and ToPct are
	// where on the drive the file lay, % of its capacity; CorePct and AllPct how busy the
	// engine kept one core and all of them, %. NaN if not known.
	StartTempC      float64
	FromPct, ToPct  float64
	CorePct, AllPct float64
	// Sample are the files that were read, of a workload that reads a sample of them.
	Sample []SampleFile
	// Curve is the rate by block size, of a sweep.
	Curve   []SizeRate
	Stopped StopReason
	Facts   Facts
}

// SizeRate is one point of a sweep: MB/s with blocks of that many bytes.
type SizeRate struct {
	BlockBytes int64
	MBs        float64
}

// PeakTempC is the highest temperature of the run, °C, or NaN.
func (r *Reading) PeakTempC() float64 {
	peak := math.NaN()
	for _, t := range r.Temps {
		if !(t <= peak) {
			peak = t
		}
	}
	return peak
}

// Progress is the progress of a running workload.
type Progress struct {
	Laying bool    // the test file is being laid out; nothing is measured yet
	Done   float64 // 0…1
	MBs    float64 // over the last interval
	// LatencyMS is what a request took on average over the last interval, ms.
	LatencyMS float64
	// TempC is the drive's temperature, °C; NaN if the system does not report it.
	TempC float64
	// HalfWidth is the precision of the rate so far; NaN if not known yet.
	HalfWidth float64
	Elapsed   time.Duration
	Bytes     int64
	// BlockBytes is the block size under way in a sweep, else 0.
	BlockBytes int64
}

// tick is the time over which bytes are counted for the series and the batch
// means.
const tick = 100 * time.Millisecond

const ticksPerSecond = int(time.Second / tick)

func (r *run) reading(f Facts) *Reading {
	out := &Reading{Workload: r.w, IOs: r.ios, Bytes: r.bytes, Elapsed: r.to - r.from,
		Latency: r.latency, Stopped: r.stopped, Temps: r.temps, Facts: f, Slowest: math.NaN()}
	ticks := r.ticks[:min(len(r.ticks), int(out.Elapsed/tick))]
	out.HalfWidth, _ = HalfWidth(ticks)
	if r.stopped == StoppedWhenSure { // of the rate that its whole time would give
		out.HalfWidth = r.predicted
	}
	if sec := out.Elapsed.Seconds(); sec > 0 && r.ios > 0 {
		out.MBs = float64(out.Bytes) / sec / 1e6
		out.IOPS = float64(out.IOs) / sec
		out.RelU = 1 / float64(r.ios) / math.Sqrt(12)
	}
	// The last second is rarely whole; a part of one would look like a dip.
	sum := int64(0)
	for i, b := range ticks {
		sum += b
		if i+1 < ticksPerSecond {
			continue
		}
		if i+1 > ticksPerSecond {
			sum -= ticks[i-ticksPerSecond]
		}
		mbs := float64(sum) / 1e6
		if !(out.Slowest <= mbs) {
			out.Slowest = mbs
		}
		if (i+1)%ticksPerSecond == 0 {
			out.Series = append(out.Series, mbs)
		}
	}
	return out
}
