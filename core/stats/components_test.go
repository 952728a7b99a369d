package stats

import (
	"fmt"
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
)

// The expected figures of these tests were computed with 30 digits by another program
// (mpmath: order statistics integrated one value at a time, t by the incomplete beta
// function), not with this package.

func TestMedianVariance(t *testing.T) {
	for n, want := range map[int]float64{1: 1, 2: 1, 3: 1.34601331373462, 4: 1.19279847374084, 5: 1.43416830802938,
		6: 1.28845599948908, 9: 1.49491153222847, 25: 1.54365642579766} {
		assert.InDelta(t, want, MedianVariance(n), 1e-9, "of %d", n)
	}
	// Towards π/2, from below, in steps that get smaller; odd and even numbers apart.
	for _, first := range []int{3, 4} {
		last := MedianVariance(first)
		for n := first + 2; n < 60; n += 2 {
			now := MedianVariance(n)
			assert.Greater(t, now, last, "of %d", n)
			assert.Less(t, now, math.Pi/2, "of %d", n)
			last = now
		}
	}
	for _, n := range []int{200, 201, 1000, 10_001} {
		assert.InDelta(t, math.Pi/2, MedianVariance(n), 3/float64(n), "of %d", n)
	}
	assert.Panics(t, func() { MedianVariance(0) })
}

var twoSittings = [][]float64{{0.10, 0.14, 0.12}, {0.20, 0.18}}

func TestModerated(t *testing.T) {
	within := Within(twoSittings, Prior{0.04, 6})
	assert.InDelta(t, 0.00117777777777778, within.Variance, 1e-15)
	assert.Equal(t, 9.0, within.Freedom)
	between := Between(twoSittings, within.Variance, Prior{0.02, 6})
	assert.InDelta(t, 0.000622751322751323, between.Variance, 1e-15)
	assert.Equal(t, 7.0, between.Freedom)

	alone := Within([][]float64{{3}}, Prior{0.04, 6})
	assert.InDelta(t, 0.0016, alone.Variance, 1e-15, "one value says nothing of its spread")
	assert.Equal(t, 6.0, alone.Freedom)
	alone = Between([][]float64{{3, 4}}, 1, Prior{0.02, 6})
	assert.InDelta(t, 0.0004, alone.Variance, 1e-15, "nor one sitting of the others")
	assert.Equal(t, 6.0, alone.Freedom)
	same := Between([][]float64{{1, 3}, {1, 3}}, 2, Prior{0.02, 6})
	assert.InDelta(t, 6*0.0004/7, same.Variance, 1e-18,
		"means that are closer than the values within allow: not below 0")
}

func TestCombine(t *testing.T) {
	inf := math.Inf(1)
	tests := []struct {
		name                      string
		of                        []Component
		sigma, freedom, half, far float64 // far: the p-value of 0.1
	}{
		{"one t", []Component{{0.0016, 8}}, 0.04, 8, 0.0922401654081667, 0.0369420377136241},
		{"two", []Component{{0.0016, 8}, {0.0004, 6}}, 0.0465615771574322, 9.66947723440135, 0.104228361906387,
			0.0582003593887092},
		{"and one that is known for sure", []Component{{0.0016, 8}, {0.0004, 6}, {0.0001, inf}}, 0.0476636886982025,
			10.0919055649241, 0.106070365342909, 0.0620339571781793},
		{"two of a kind", []Component{{1, 6}, {1, 6}}, 1.5, 8, 3.45900620280625, 0.94848305774419},
		{"nothing that is not known", []Component{{0.0004, inf}, {0, 6}}, 0.02, inf, 0.02 * 1.959963984540054,
			2 * 2.866515718791939e-07},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			s := Combine(tt.of...)
			assert.InDelta(t, tt.sigma, s.Sigma, 1e-9)
			if math.IsInf(tt.freedom, 1) {
				assert.Equal(t, tt.freedom, s.Freedom)
			} else {
				assert.InDelta(t, tt.freedom, s.Freedom, 1e-9)
			}
			assert.InDelta(t, tt.half, s.HalfWidth(0.95), 1e-9)
			assert.InDelta(t, tt.far, s.Exceeds(0.1), 1e-9)
			assert.InDelta(t, tt.far, s.Exceeds(-0.1), 1e-9, "on either side")
			assert.InDelta(t, 0.05, s.Exceeds(s.HalfWidth(0.95)), 1e-9)
		})
	}
	assert.Equal(t, 0.0, Combine().HalfWidth(0.95))
	assert.Equal(t, 1.0, Combine().Exceeds(0))
	assert.Equal(t, 0.0, Combine().Exceeds(1))
	assert.Panics(t, func() { Combine(Component{1, 4}) }, "it has no fourth moment")
}

// A quantity is spread as its parts say, whatever it is multiplied by.
func TestTimes(t *testing.T) {
	parts := []Component{{0.0016, 8}, {0.0004, 6}}
	scaled := []Component{parts[0].Times(-3), parts[1].Times(-3)}
	a, b := Combine(parts...), Combine(scaled...)
	assert.InDelta(t, 3*a.Sigma, b.Sigma, 1e-12)
	assert.InDelta(t, a.Freedom, b.Freedom, 1e-9)
}

// Over many quantities whose variances are drawn from their priors, intervals hold the
// truth as often as they say.
func TestIntervalsHoldTheTruth(t *testing.T) {
	rng := rand.New(rand.NewPCG(9, 1))
	chi := func(nu int) (sum float64) {
		for range nu {
			v := rng.NormFloat64()
			sum += v * v
		}
		return sum
	}
	const all = 20_000
	held := 0
	for range all {
		truth := rng.NormFloat64()
		value := truth
		var parts []Component
		for _, prior := range []Prior{{0.04, 6}, {0.02, 6}, {0.04, 6}, {0.02, 6}} {
			variance := prior.SD * prior.SD * prior.Weight / chi(int(prior.Weight)) // scaled inverse χ²
			value += math.Sqrt(variance) * rng.NormFloat64()
			parts = append(parts, prior.Moderate(0, 0))
		}
		if math.Abs(value-truth) <= Combine(parts...).HalfWidth(0.95) {
			held++
		}
	}
	assert.InDelta(t, 0.95, float64(held)/all, 0.006)
}

func TestHolm(t *testing.T) {
	tests := []struct {
		name     string
		p        []float64
		rejected []bool
		divisors []int
	}{
		{"none", nil, []bool{}, []int{}},
		{"one", []float64{0.05}, []bool{true}, []int{1}},
		{"the procedure stops at the first that stays", []float64{0.04, 0.001, 0.03, 0.02},
			[]bool{false, true, false, false}, []int{1, 4, 2, 3}},
		{"all", []float64{0.0125, 0.05, 0.025, 0.016}, []bool{true, true, true, true}, []int{4, 1, 2, 3}},
		{"equal ones", []float64{0.02, 0.02}, []bool{true, true}, []int{2, 1}},
		{"the last is held against the whole of it", []float64{0.0251, 0.001}, []bool{true, true}, []int{1, 2}},
		{"not one", []float64{0.026, 0.9}, []bool{false, false}, []int{2, 1}},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			rejected, divisors := Holm(tt.p, 0.05)
			assert.Equal(t, tt.rejected, rejected)
			assert.Equal(t, tt.divisors, divisors)
		})
	}
}

func ExampleCombine() {
	// Three starts in one sitting, on the logarithmic scale.
	starts := [][]float64{{math.Log(91.4), math.Log(92.0), math.Log(91.7)}}
	within := Within(starts, Prior{SD: 0.04, Weight: 6})
	between := Between(starts, within.Variance, Prior{SD: 0.02, Weight: 6})
	s := Combine(within.Times(math.Sqrt(MedianVariance(3)/3)), between)
	fmt.Printf("known to ± %.1f %%", 100*s.HalfWidth(0.95))
	// Output: known to ± 7.2 %
}

func ExampleHolm() {
	rejected, _ := Holm([]float64{0.04, 0.001, 0.03}, 0.05)
	fmt.Println(rejected)
	// Output: [false true false]
}
