package stats

import (
	"math"
	"sync"

	"gonum.org/v1/gonum/integrate/quad"
)

// MedianVariance returns the ratio of the variance of the median of n independent
// normal values to that of their mean: 1 for one and two, 1.346 for three, towards
// π/2. It is exact, up to 1e-9, by integration over the order statistics (David and
// Nagaraja, Order Statistics, 3rd edition, 2003, equations 2.1.6 and 2.2.1); the
// median of an even number is the mean of the two in the middle, as [Median] has it.
// It panics where n < 1.
func MedianVariance(n int) float64 {
	if n < 1 {
		panic("stats: the median of no values")
	}
	if n <= 2 {
		return 1
	}
	if known, ok := medianVariances.Load(n); ok {
		return known.(float64)
	}
	ratio := float64(n) * medianSquare(n)
	medianVariances.Store(n, ratio)
	return ratio
}

var medianVariances sync.Map // int -> float64, for those that were asked for

// medianSquare is the mean square of the median of n standard normal values, whose
// mean is 0.
func medianSquare(n int) float64 {
	// What lies beyond weighs less than 1e-15 of the whole.
	far := math.Min(9, 12/math.Sqrt(float64(n)))
	if n%2 == 1 {
		k := float64(n-1) / 2 // values on each side
		scale := logFactorial(n) - 2*logFactorial((n-1)/2)
		return 2 * quad.Fixed(func(x float64) float64 {
			return x * x * math.Exp(scale+k*(logPhi(x)+logPhi(-x))+logDensity(x))
		}, 0, far, 120, quad.Legendre{}, 0)
	}
	k := float64(n-2) / 2
	scale := logFactorial(n) - 2*logFactorial((n-2)/2)
	apart := math.Min(18, 100/float64(n)) // the most that the two in the middle lie apart
	// Over the middle c of the two and half their distance h: x = c − h, y = c + h.
	return 2 * quad.Fixed(func(c float64) float64 {
		return c * c * quad.Fixed(func(h float64) float64 {
			x, y := c-h, c+h
			return 2 * math.Exp(scale+k*(logPhi(x)+logPhi(-y))+logDensity(x)+logDensity(y))
		}, 0, apart/2, 80, quad.Legendre{}, 0)
	}, 0, far, 80, quad.Legendre{}, 0)
}

// logPhi is the logarithm of the standard normal distribution function, exact in its
// lower tail too.
func logPhi(x float64) float64 { return math.Log(math.Erfc(-x/math.Sqrt2) / 2) }

func logDensity(x float64) float64 { return -x*x/2 - math.Log(2*math.Pi)/2 }

func logFactorial(n int) float64 {
	v, _ := math.Lgamma(float64(n) + 1)
	return v
}
