package job

import (
	"math"

	"nowthen/core/drivetest"
)

// FromReading makes a run of what a drive test gave. Its id, sitting and time
// are the caller's to give. U is the reading's own uncertainty in the test's unit.
func FromReading(t *Test, rd *drivetest.Reading) Run {
	r := Run{Test: t.ID, Value: rd.MBs, Method: Automatic, Warmth: t.Warmth, IOs: rd.IOs, Bytes: rd.Bytes,
		Stopped: string(rd.Stopped), Engine: drivetest.EngineVersion, Simulated: rd.Facts.Simulated}
	if t.Unit == "IOPS" {
		r.Value = rd.IOPS
	}
	u := rd.RelU * r.Value
	r.U = &u
	if !math.IsNaN(rd.HalfWidth) {
		pct := rd.HalfWidth * 100
		r.HalfWidthPct = &pct
	}
	if len(rd.Series) > 0 {
		r.Series = &Series{EveryS: 1, MBs: rd.Series}
	}
	if h := rd.Latency; h != nil && h.TotalCount() > 0 {
		ms := func(q float64) float64 { return float64(h.ValueAtQuantile(q)) / 1e6 }
		r.Latency = &Latency{MedianMS: ms(50), P99MS: ms(99), P999MS: ms(99.9), MaxMS: float64(h.Max()) / 1e6}
	}
	return r
}
