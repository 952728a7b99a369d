package drivetest

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// Bounds of the batches of a run.
const (
	minBatches = 8  // fewer say nothing of a spread
	maxBatches = 20 // more would be short and depend on one another
)

// HalfWidth is the relative half-width of the 95 % interval of the mean of
// equally long counts, by the method of batch means (Law and Kelton, Simulation
// Modeling and Analysis, 9.5.3): neighbouring counts are joined to batches, twice
// as long again as long as the batches still depend on one another, and the
// batches' means are taken for independent. NaN where there are too few.
func HalfWidth(counts []int64) float64 {
	var means [maxBatches]float64
	for n := min(maxBatches, len(counts)); n >= minBatches; n /= 2 {
		size := len(counts) / n
		mean := 0.0
		for i := range n {
			sum := int64(0)
			for _, c := range counts[i*size : (i+1)*size] {
				sum += c
			}
			means[i] = float64(sum) / float64(size)
			mean += means[i] / float64(n)
		}
		if mean <= 0 {
			return math.NaN()
		}
		spread, lag := 0.0, 0.0
		for i := range n {
			d := means[i] - mean
			spread += d * d
			if i > 0 {
				lag += d * (means[i-1] - mean)
			}
		}
		// Batches that follow their neighbours are not independent: make them
		// longer. With as few as may be, widen the interval by what is left.
		correlation := 0.0
		if spread > 0 {
			correlation = lag / spread
		}
		if correlation > 0.25 && n/2 >= minBatches {
			continue
		}
		v := spread / float64(n-1) / float64(n)
		if correlation > 0 {
			v *= (1 + correlation) / (1 - math.Min(correlation, 0.9))
		}
		return quantiles[n] * math.Sqrt(v) / mean
	}
	return math.NaN()
}

// quantiles of Student's t at 97.5 % for n batches, worked out once: the engine
// looks at them while requests run.
var quantiles = func() (q [maxBatches + 1]float64) {
	for n := minBatches; n <= maxBatches; n++ {
		q[n] = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(n - 1)}.Quantile(0.975)
	}
	return q
}()
