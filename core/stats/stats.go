// Package stats holds the statistics: centres, quantiles and intervals. Its values are plain
// numbers; callers know their meaning.
//
// It is pure and imports none of our packages.
package stats

import (
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// Median returns the middle of values, or the mean of the two in the middle; NaN
// where there is none. The values may be in any order and stay as they are.
func Median(values []float64) float64 {
	n := len(values)
	if n == 0 {
		return math.NaN()
	}
	sorted := slices.Sorted(slices.Values(values))
	return (sorted[(n-1)/2] + sorted[n/2]) / 2
}

// Student returns the quantile of Student's t distribution with nu degrees of
// freedom at probability p; an infinite nu is the normal distribution.
func Student(p, nu float64) float64 {
	if math.IsInf(nu, 1) || nu > 1e6 {
		return distuv.UnitNormal.Quantile(p)
	}
	return distuv.StudentsT{Mu: 0, Sigma: 1, Nu: nu}.Quantile(p)
}
