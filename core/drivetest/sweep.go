package drivetest

import (
	"context"
	"fmt"
	"math"
	"time"

	"github.com/HdrHistogram/hdrhistogram-go"
)

// sweep runs a sequential workload over its block sizes in turn; time and bytes
// bound it as a whole. An error ends it with the sizes that were finished.
func (s *Session) sweep(ctx context.Context, w Workload, file File, tell func(Progress)) (*Reading, error) {
	n := float64(len(w.Sweep))
	out := &Reading{Workload: w, HalfWidth: math.NaN(), Slowest: math.NaN(), Stopped: StoppedAtTime,
		Facts:   s.vol.Facts(),
		Latency: hdrhistogram.New(100, int64(10*time.Minute), 3)}
	slowness := 0.0
	for i, size := range w.Sweep {
		one := w
		one.Sweep, one.BlockBytes, one.StopHalfWidth = nil, size, 0
		one.MaxSeconds, one.WarmSeconds, one.MaxBytes = w.Seconds()/n, w.WarmSeconds/n, w.MaxBytes/int64(len(w.Sweep))
		if one.MaxBytes > 0 {
			one.MaxBytes = max(one.MaxBytes, 4*size*int64(one.Depth))
		}
		part, err := s.measure(ctx, one, file, func(p Progress) {
			p.Done = (float64(i) + p.Done) / n
			p.BlockBytes, p.HalfWidth = size, math.NaN()
			p.Elapsed, p.Bytes = p.Elapsed+out.Elapsed, p.Bytes+out.Bytes
			tell(p)
		})
		if part != nil && err == nil {
			out.Curve = append(out.Curve, SizeRate{size, part.MBs})
			out.IOs, out.Bytes, out.Elapsed = out.IOs+part.IOs, out.Bytes+part.Bytes, out.Elapsed+part.Elapsed
			out.Temps = append(out.Temps, part.Temps...)
			out.RelU = max(out.RelU, part.RelU)
			out.Latency.Merge(part.Latency)
			slowness += 1 / part.MBs
			out.MBs = float64(len(out.Curve)) / slowness
			out.IOPS = float64(out.IOs) / out.Elapsed.Seconds()
		}
		if err != nil {
			err = fmt.Errorf("blocks of %d KiB: %w", size>>10, err)
			if len(out.Curve) == 0 || ctx.Err() != nil {
				return nil, err
			}
			out.Stopped = StoppedByError
			if part != nil {
				out.Stopped = part.Stopped
			}
			return out, err
		}
	}
	return out, nil
}
