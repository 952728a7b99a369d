package stats

import (
	"math"

	"gonum.org/v1/gonum/mathext"
)

// FitPrior estimates from sample variances of many groups, each with its degrees of
// freedom, what such variances usually are, by the first two moments of their logarithms
// (Smyth 2004, section 6.2). Its weight is kept between least and most; where the
// variances differ by no more than chance it is most. Variances of zero tell nothing and
// are left out; ok is false where fewer than two are left.
func FitPrior(variances, freedoms []float64, least, most float64) (p Prior, ok bool) {
	var e, expected []float64
	for i, v := range variances {
		if v > 0 && freedoms[i] > 0 {
			half := freedoms[i] / 2
			e = append(e, math.Log(v)-mathext.Digamma(half)+math.Log(half))
			expected = append(expected, trigamma(half))
		}
	}
	n := float64(len(e))
	if n < 2 {
		return Prior{}, false
	}
	mean, spread := 0.0, 0.0
	for _, x := range e {
		mean += x / n
	}
	for i, x := range e {
		spread += (x-mean)*(x-mean)/(n-1) - expected[i]/n
	}
	weight := most
	if spread > 0 {
		weight = min(most, max(least, 2*inverseTrigamma(spread)))
	}
	variance := math.Exp(mean + mathext.Digamma(weight/2) - math.Log(weight/2))
	return Prior{SD: math.Sqrt(variance), Weight: weight}, true
}

// trigamma is the second derivative of the logarithm of the gamma function.
func trigamma(x float64) float64 { return mathext.Zeta(2, x) }

// inverseTrigamma solves trigamma(x) = y for y > 0 by Newton's method on its reciprocal
// (Smyth 2004, appendix).
func inverseTrigamma(y float64) float64 {
	switch {
	case y > 1e7:
		return 1 / math.Sqrt(y)
	case y < 1e-6:
		return 1 / y
	}
	x := 0.5 + 1/y
	for range 50 {
		t := trigamma(x)
		step := t * (1 - t/y) / (-2 * mathext.Zeta(3, x)) // the derivative of trigamma is −2·ζ(3, x)
		x += step
		if math.Abs(step) < 1e-10*x {
			break
		}
	}
	return x
}
