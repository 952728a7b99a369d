package drivetest

import (
	"math"

	"gonum.org/v1/gonum/stat/distuv"
)

// Bounds of the batches of a run.
const (
	minBatches = 20 // fewer do not tell whether neighbours go together
	maxBatches = 80 // more would be no surer
	// independent is the correlation of neighbouring batches under which they are taken
	// not to go together.
	independent = 0.1
	// dependent is the most that is made up for by widening the interval.
	dependent = 0.9
)

// HalfWidth is the relative half-width of the 95 % interval of the mean of equally long
// counts, by the method of batch means (Law and Kelton, Simulation Modeling and
// Analysis, 9.5.3), NaN where there are too few. Neighbouring counts are joined to
// batches, as long as it takes until the means of neighbouring batches no longer go
// together: their correlation is under 0.1, and there are 20 of them at least; settled is
// false where they go together at any length. The interval is widened by what is left.
func HalfWidth(counts []int64) (half float64, settled bool) {
	half = math.NaN()
	size := (len(counts) + maxBatches - 1) / maxBatches
	for ; size > 0 && len(counts)/size >= minBatches; size *= 2 {
		n := len(counts) / size
		mean, spread, correlation := batches(counts, size, n)
		if mean <= 0 {
			return math.NaN(), false
		}
		v := spread / float64(n-1) / float64(n)
		if correlation > 0 {
			v *= (1 + correlation) / (1 - min(correlation, dependent))
		}
		half = quantiles[n] * math.Sqrt(v) / mean
		if correlation < independent {
			return half, true
		}
	}
	return half, false
}

// batches returns the mean of n batches of that size, the sum of squares of their means
// about it, and the correlation of neighbouring ones.
func batches(counts []int64, size, n int) (mean, spread, correlation float64) {
	var means [maxBatches]float64
	for i := range n {
		sum := int64(0)
		for _, c := range counts[i*size : (i+1)*size] {
			sum += c
		}
		means[i] = float64(sum) / float64(size)
		mean += means[i] / float64(n)
	}
	lag := 0.0
	for i := range n {
		d := means[i] - mean
		spread += d * d
		if i > 0 {
			lag += d * (means[i-1] - mean)
		}
	}
	if spread > 0 {
		correlation = lag / spread
	}
	return mean, spread, correlation
}

// predicted is the relative half-width of the mean that counts would have if there were
// until of them: half, which is that of their mean so far, with what the straight line
// through them (least squares) would make of it, and how well that line is known.
func predicted(counts []int64, until int, half float64) float64 {
	n := float64(len(counts))
	ahead := (float64(until) - n) / 2 // how far the line goes on, on average
	if n < minBatches || ahead <= 0 {
		return half
	}
	sum, slope := 0.0, 0.0
	for i, c := range counts {
		sum += float64(c)
		slope += (float64(i) - (n-1)/2) * float64(c)
	}
	slope /= n * (n*n - 1) / 12
	// The variance of a slope is 12 ÷ n² times that of the mean.
	return math.Hypot(half, math.Hypot(slope*ahead/(sum/n), half*math.Sqrt(12)/n*ahead))
}

// quantiles of Student's t at 97.5 % for n batches, worked out once: the engine
// looks at them while requests run.
var quantiles = func() (q [maxBatches + 1]float64) {
	for n := minBatches; n <= maxBatches; n++ {
		q[n] = distuv.StudentsT{Mu: 0, Sigma: 1, Nu: float64(n - 1)}.Quantile(0.975)
	}
	return q
}()
