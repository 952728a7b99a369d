package stats

import (
	"math"

	"gonum.org/v1/gonum/stat"
	"gonum.org/v1/gonum/stat/distuv"
)

// Component is one part of what makes a quantity uncertain: a variance and the degrees
// of freedom with which it is known, +Inf where it is known for sure (JCGM 100, the
// GUM, 4.2 and G.6.4).
type Component struct{ Variance, Freedom float64 }

// Times is the component of a quantity that is factor times the one that it is a
// component of; with a partial derivative as factor it is the delta method (JCGM 100,
// 5.1.2).
func (c Component) Times(factor float64) Component {
	return Component{c.Variance * factor * factor, c.Freedom}
}

// Prior is what such values usually show: a standard deviation that is worth so many
// degrees of freedom.
type Prior struct{ SD, Weight float64 }

// Moderate returns a variance from a sum of squares about means and its degrees of
// freedom, drawn towards what is usual (Smyth 2004, Linear models and empirical Bayes
// methods, section 3: the posterior variance of a scaled inverse χ² prior). Without
// values of its own it is the prior.
func (p Prior) Moderate(squares, freedom float64) Component {
	return Component{(p.Weight*p.SD*p.SD + squares) / (p.Weight + freedom), p.Weight + freedom}
}

// Within returns the variance of values within their groups, drawn towards the usual
// one.
func Within(groups [][]float64, usual Prior) Component {
	squares, freedom := 0.0, 0.0
	for _, g := range groups {
		m := stat.Mean(g, nil)
		for _, v := range g {
			squares += (v - m) * (v - m)
		}
		freedom += math.Max(0, float64(len(g)-1))
	}
	return usual.Moderate(squares, freedom)
}

// Between returns the variance of the groups' own offsets, drawn towards the usual one:
// the sample variance of their means, less what is to be expected of it from the
// variance within (the analysis-of-variance estimate, not below 0). Of a single group
// it is the usual one.
func Between(groups [][]float64, within float64, usual Prior) Component {
	n := float64(len(groups))
	if n < 2 {
		return usual.Moderate(0, 0)
	}
	means, share := make([]float64, len(groups)), 0.0
	for i, g := range groups {
		means[i] = stat.Mean(g, nil)
		share += 1 / float64(len(g)) / n
	}
	m, squares := stat.Mean(means, nil), 0.0
	for _, v := range means {
		squares += (v - m) * (v - m)
	}
	return usual.Moderate(math.Max(0, squares-(n-1)*within*share), n-1)
}

// Spread is the distribution of a quantity about its value: a Student's t with so many
// degrees of freedom, Sigma wide.
type Spread struct{ Sigma, Freedom float64 }

// Combine returns how a quantity is spread whose components are independent and known
// with few degrees of freedom: a sum of scaled t's (the Behrens–Fisher distribution),
// by the one t that has its second and fourth moments (Patil 1965, Approximation to the
// Behrens–Fisher distributions, Biometrika 52). Each component must have more than 4
// degrees of freedom, without which it has no fourth moment; Combine panics otherwise.
func Combine(components ...Component) Spread {
	a, q := 0.0, 0.0
	for _, c := range components {
		switch {
		case c.Variance == 0:
		case math.IsInf(c.Freedom, 1):
			a += c.Variance
		case c.Freedom <= 4:
			panic("stats: a component of 4 or fewer degrees of freedom")
		default:
			v := c.Variance * c.Freedom / (c.Freedom - 2)
			a += v
			q += v * v / (c.Freedom - 4)
		}
	}
	if q == 0 {
		return Spread{math.Sqrt(a), math.Inf(1)}
	}
	f := 4 + a*a/q
	return Spread{math.Sqrt(a * (f - 2) / f), f}
}

// HalfWidth is half of the width of the interval that holds the truth with probability
// p, such as 0.95.
func (s Spread) HalfWidth(p float64) float64 {
	if s.Sigma == 0 {
		return 0
	}
	return Student((1+p)/2, s.Freedom) * s.Sigma
}

// Exceeds is the probability that a quantity without any effect lies as far from 0 as
// this one, on either side: the p-value of a two-sided test.
func (s Spread) Exceeds(value float64) float64 {
	value = math.Abs(value)
	switch {
	case value == 0:
		return 1
	case s.Sigma == 0:
		return 0
	case math.IsInf(s.Freedom, 1):
		return 2 * distuv.UnitNormal.Survival(value/s.Sigma)
	}
	return 2 * distuv.StudentsT{Mu: 0, Sigma: 1, Nu: s.Freedom}.Survival(value/s.Sigma)
}
