package stats

import (
	"cmp"
	"slices"
)

// Holm reports which of many hypotheses are rejected where at most alpha of all such
// families may contain a wrong rejection, by the step-down procedure (Holm 1979, A
// simple sequentially rejective multiple test procedure, Scandinavian Journal of
// Statistics 6). The smallest of m p-values is held against alpha ÷ m, the next against
// alpha ÷ (m − 1), and so on, until one is not rejected. divisors are those by which
// alpha was, or would have been, divided for each; equal p-values are in their order.
func Holm(p []float64, alpha float64) (rejected []bool, divisors []int) {
	order := make([]int, len(p))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(p[a], p[b]) })
	rejected, divisors = make([]bool, len(p)), make([]int, len(p))
	going := true
	for rank, i := range order {
		divisors[i] = len(p) - rank
		going = going && p[i] <= alpha/float64(divisors[i])
		rejected[i] = going
	}
	return rejected, divisors
}
