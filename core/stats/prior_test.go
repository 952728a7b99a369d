package stats

import (
	"math"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// From 20,000 groups whose variances are drawn from a prior, the prior is found again.
func TestFitPriorFindsThePrior(t *testing.T) {
	rng := rand.New(rand.NewPCG(3, 4))
	chi2 := func(n int) float64 {
		sum := 0.0
		for range n {
			z := rng.NormFloat64()
			sum += z * z
		}
		return sum
	}
	for _, want := range []Prior{{0.04, 6}, {0.01, 12}} {
		var variances, freedoms []float64
		for range 20000 {
			d := 3 + rng.IntN(5)
			variance := want.SD * want.SD * want.Weight / chi2(int(want.Weight))
			variances = append(variances, variance*chi2(d)/float64(d))
			freedoms = append(freedoms, float64(d))
		}
		got, ok := FitPrior(variances, freedoms, 5, 20)
		require.True(t, ok)
		assert.InEpsilon(t, want.SD, got.SD, 0.02)
		assert.InEpsilon(t, want.Weight, got.Weight, 0.1)
	}
}

func TestFitPriorKeepsItsBounds(t *testing.T) {
	alike, ok := FitPrior([]float64{1, 1, 1, 1}, []float64{2, 2, 2, 2}, 5, 20)
	require.True(t, ok)
	assert.Equal(t, 20.0, alike.Weight, "they differ by less than chance")
	wild, ok := FitPrior([]float64{1e-9, 1, 1e9, 1e-6, 1e6}, []float64{9, 9, 9, 9, 9}, 5, 20)
	require.True(t, ok)
	assert.Equal(t, 5.0, wild.Weight)
	_, ok = FitPrior([]float64{0, 0, 4}, []float64{2, 2, 2}, 5, 20)
	assert.False(t, ok, "a single one that tells something")
}

// Worked out with mpmath at 30 digits: ψ and ψ′ of the moments, and a root finder.
func TestFitPriorWorkedExample(t *testing.T) {
	p, ok := FitPrior([]float64{0.0001, 0.0016, 0.04, 0.0005}, []float64{2, 4, 3, 6}, 0.1, 20)
	require.True(t, ok)
	assert.InEpsilon(t, 0.958748445291041146, p.Weight, 1e-9)
	assert.InEpsilon(t, 0.0223414763419969057, p.SD, 1e-9)
	_, ok = FitPrior([]float64{0.1, 0.2}, []float64{2, 2}, 5, 20)
	assert.True(t, ok, "of two")
	half, ok := FitPrior([]float64{0.1, 0.2, 0.3}, []float64{0.5, 2, 2}, 5, 20)
	require.True(t, ok)
	without, _ := FitPrior([]float64{0.2, 0.3}, []float64{2, 2}, 5, 20)
	assert.NotEqual(t, without, half, "half a degree of freedom is one")
}

// trigamma(1) = π²/6, trigamma(1/2) = π²/2 (Abramowitz and Stegun, 6.4.4).
func TestTrigamma(t *testing.T) {
	assert.InDelta(t, math.Pi*math.Pi/6, trigamma(1), 1e-12)
	assert.InDelta(t, math.Pi*math.Pi/2, trigamma(0.5), 1e-12)
	for _, x := range []float64{0.01, 0.5, 1, 2.5, 10, 400} {
		assert.InEpsilon(t, x, inverseTrigamma(trigamma(x)), 1e-8)
	}
	assert.InEpsilon(t, 1e7, inverseTrigamma(1e-7), 1e-6)
	assert.InEpsilon(t, 1e-4, inverseTrigamma(1e8), 1e-6)
}
