package job

import (
	"math"

	"github.com/HdrHistogram/hdrhistogram-go"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
)

// FromReading makes a run from the reading of a drive test. The caller sets its id, sitting and time. The value
// is in the test's unit: the rate
// (MB/s), the requests per second (IOPS) or the median time of one (ms); of
// streams that must be kept up with it is the slowest second. U is the reading's
// own uncertainty in the test's unit: the standard error of the rate within the run
// (JCGM 100, 4.2.3), and the clock's.
func FromReading(t *Test, rd *drivetest.Reading) Run {
	r := Run{Test: t.ID, Value: rd.MBs, Method: Automatic, Warmth: t.Warmth, IOs: rd.IOs, Bytes: rd.Bytes,
		Stopped: rd.Stopped, Engine: drivetest.EngineVersion, Simulated: rd.Facts.Simulated}
	if !math.IsNaN(rd.Slowest) {
		r.Slowest = rd.Slowest
	}
	u := rd.RelU
	if !math.IsNaN(rd.HalfWidth) {
		u = math.Hypot(u, rd.HalfWidth/normal95)
	}
	switch {
	case t.Unit == "IOPS":
		r.Value = rd.IOPS
	case t.Unit == "ms":
		r.Value = float64(rd.Latency.ValueAtQuantile(50)) / 1e6
		u = histogramU
	case rd.Workload.Streams != nil && r.Slowest > 0:
		r.Value = r.Slowest
		u = float64(rd.Workload.BlockBytes) / (r.Slowest * 1e6) / math.Sqrt(12)
	}
	u *= r.Value
	r.U = &u
	r.Seconds = rd.Elapsed.Seconds()
	if !math.IsNaN(rd.HalfWidth) && t.Unit != "ms" {
		pct := rd.HalfWidth * 100
		r.HalfWidthPct = &pct
	}
	for _, f := range rd.Sample {
		r.Sample = append(r.Sample, SampleFile(f))
	}
	if !math.IsNaN(rd.StartTempC) {
		r.StartTempC = &rd.StartTempC
	}
	if !math.IsNaN(rd.FromPct) {
		r.Placement = &Placement{FromPct: rd.FromPct, ToPct: rd.ToPct}
	}
	if !math.IsNaN(rd.CorePct) {
		r.EngineCPU = &EngineCPU{Core: rd.CorePct, All: rd.AllPct}
	}
	if peak := rd.PeakTempC(); !math.IsNaN(peak) {
		r.PeakTempC = &peak
	}
	if len(rd.Series) > 0 {
		r.Series = &Series{EveryS: 1, MBs: rd.Series, TempC: rd.Temps}
	}
	for _, p := range rd.Curve {
		r.Curve = append(r.Curve, SizeRate(p))
	}
	if h := rd.Latency; h != nil && h.TotalCount() > 0 && len(rd.Curve) == 0 {
		ms := func(q float64) float64 { return float64(h.ValueAtQuantile(q)) / 1e6 }
		r.Latency = &Latency{MedianMS: ms(50), P99MS: ms(99), P999MS: ms(99.9), MaxMS: float64(h.Max()) / 1e6,
			Spread: spreadOf(h)}
	}
	return r
}

// normal95 is by how much the half-width of a 95 % interval is more than a standard
// error.
const normal95 = 1.96

// histogramU is the relative standard uncertainty of a figure out of a
// histogram of three digits: 0.1 % ÷ √12.
const histogramU = 0.001 / 3.4641016151377544

// perDecade is how finely a distribution is kept.
const perDecade = 10

// spreadOf condenses a histogram of ns to a logarithmic scale of ms.
func spreadOf(h *hdrhistogram.Histogram) *Spread {
	bin := func(ns int64) int { return int(math.Floor(math.Log10(float64(max(ns, 1))/1e6) * perDecade)) }
	first, last := bin(h.Min()), bin(h.Max())
	s := &Spread{FromMS: math.Pow(10, float64(first)/perDecade), PerDecade: perDecade,
		Counts: make([]int64, last-first+1)}
	for _, b := range h.Distribution() {
		if b.Count > 0 {
			s.Counts[min(max(bin((b.From+b.To)/2), first), last)-first] += b.Count
		}
	}
	return s
}

// clockU is the standard uncertainty of a time that the program takes itself: a
// millisecond ÷ √12, s.
const clockU = 0.001 / 3.4641016151377544

// FromFiles makes a run from the reading of a file test.
func FromFiles(t *Test, rd *filetest.Reading) Run {
	u := clockU
	r := Run{Test: t.ID, Value: rd.Seconds, Method: Automatic, Warmth: t.Warmth, U: &u, Files: rd.Files,
		Bytes:         rd.Bytes,
		ContentDigest: rd.Digest, Engine: drivetest.EngineVersion, Simulated: rd.Facts.Simulated, Note: rd.Note}
	for id, s := range rd.Phases {
		if t.hasPhase(id) {
			if r.Phases == nil {
				r.Phases = map[string]float64{}
			}
			r.Phases[id] = s
		}
	}
	return r
}

// Phases of the processor control.
const (
	PhaseOneCore  = "one"
	PhaseAllCores = "all"
)

// ProcessorWork is the result of the processor control: a fixed amount of work that doesn't depend on the
// drive. If its time differs on the second side, something other than the drive has changed.
type ProcessorWork struct {
	OneS, AllS float64 // s, the same work on one core and on all of them
	// Digest represents the work's result, which is always the same.
	Digest string
}

// FromProcessor makes a run from the result of the processor control.
func FromProcessor(t *Test, rd *ProcessorWork, simulated bool) Run {
	u := clockU
	r := Run{Test: t.ID, Value: rd.OneS + rd.AllS, Method: Automatic, U: &u, ContentDigest: rd.Digest,
		Engine: drivetest.EngineVersion, Simulated: simulated}
	if t.hasPhase(PhaseOneCore) && t.hasPhase(PhaseAllCores) {
		r.Phases = map[string]float64{PhaseOneCore: rd.OneS, PhaseAllCores: rd.AllS}
	}
	return r
}

// CliffOf is where a run of sustained writing dropped to a lower rate, or nil.
// limit is the drive's temperature limit, °C, 0 where it is not known.
func CliffOf(r *Run, limit float64) *drivetest.Cliff {
	if r.Series == nil || r.Series.EveryS != 1 {
		return nil
	}
	return drivetest.FindCliff(r.Series.MBs, r.Series.TempC, limit)
}
