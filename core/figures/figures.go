// Package figures parses figures from elsewhere: numbers with a decimal point or comma, units
// and their conversion, and CSV files of runs. It also detects values that are probably wrong
// by a factor that people confuse.
//
// It is pure and knows nothing of jobs, screens or files.
package figures

import (
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"nowthen/core/stats"
)

// unit is what a unit is in its base unit.
type unit struct {
	base  string
	times float64
}

// units that are read; names are compared without regard to capitals, but for
// those in which they mean something (Mbit is no MB).
var units = map[string]unit{
	"s": {"s", 1}, "ms": {"s", 1e-3}, "min": {"s", 60}, "h": {"s", 3600},
	"MB/s": {"MB/s", 1}, "MiB/s": {"MB/s", 1.048576}, "GB/s": {"MB/s", 1000}, "Mbit/s": {"MB/s", 0.125},
	"IOPS": {"IOPS", 1},
}

// Units lists the units that are read.
func Units() []string {
	return []string{"s", "ms", "min", "h", "MB/s", "MiB/s", "GB/s", "Mbit/s", "IOPS"}
}

// Convert turns a value into the unit of its test. A test's unit that is read as
// it is written (dB(A), °C …) is taken as it is.
func Convert(value float64, from, to string) (float64, error) {
	if from == to {
		return value, nil
	}
	u, ok := units[from]
	if !ok {
		for name, other := range units {
			if strings.EqualFold(name, from) && !strings.ContainsAny(name, "bB") {
				u, ok = other, true
			}
		}
	}
	v, known := units[to]
	switch {
	case !ok:
		return 0, fmt.Errorf("the unit %q is not read; %s are", from, strings.Join(Units(), ", "))
	case !known || u.base != v.base:
		return 0, fmt.Errorf("%s cannot be turned into %s", from, to)
	}
	return value * u.times / v.times, nil
}

// Number reads a number with a decimal point or comma. Where both stand, the
// last one is the decimal sign. One group of three digits behind a single comma
// or point is not told apart from decimals and is taken as such.
func Number(text string) (float64, error) {
	s := strings.NewReplacer(" ", "", "\u00a0", "", "\u202f", "", "'", "").Replace(strings.TrimSpace(text))
	comma, point := strings.LastIndex(s, ","), strings.LastIndex(s, ".")
	switch {
	case comma >= 0 && point >= 0 && comma > point:
		s = strings.ReplaceAll(s, ".", "")
	case comma >= 0 && point >= 0:
		s = strings.ReplaceAll(s, ",", "")
	}
	if strings.Count(s, ",") > 1 || strings.Count(s, ".") > 1 {
		return 0, fmt.Errorf("%q is no number", text)
	}
	v, err := strconv.ParseFloat(strings.Replace(s, ",", ".", 1), 64)
	if err != nil || math.IsInf(v, 0) || math.IsNaN(v) || strings.ContainsAny(s, "xXpP_") {
		return 0, fmt.Errorf("%q is no number", text)
	}
	return v, nil
}

// Doubt is a figure that looks wrong by a factor that people confuse.
type Doubt struct {
	Factor float64 `json:"factor"` // what it would have to be multiplied by
	Value  float64 `json:"value"`  // what it would be then
	Why    string  `json:"why"`
}

// confusions are factors by which figures are wrong, in the order in which they
// are asked about.
var confusions = []struct {
	unit   string // of the test; "" is any
	factor float64
	why    string
}{
	{"MB/s", 1.0 / 8, "megabits taken for megabytes"},
	{"MB/s", 8, "megabytes taken for megabits"},
	{"s", 60, "minutes taken for seconds"},
	{"s", 1.0 / 60, "seconds taken for minutes"},
	{"", 1.0 / 1000, "a unit a thousand times as small, or a comma taken for nothing"},
	{"", 1000, "a unit a thousand times as large, or a comma for thousands"},
	{"", 0.1, "a lost decimal sign"},
	{"", 10, "a decimal sign one place too far"},
	{"", 0.01, "a lost decimal sign"},
	{"", 100, "a decimal sign two places too far"},
}

// Bounds of a doubt: a figure this many times away from the middle of its
// neighbours is checked, and a factor that brings it this near explains it.
const (
	far  = 4
	near = 1.45
	// A MiB for a MB is a difference of 4.9 %: it can be told just where neighbours
	// agree better than that.
	mebi   = 1.048576
	closer = 0.012
)

// Beyond reports whether a first value in a unit is far beyond what can be, between low and high, and a factor that
// people confuse would bring it back; else it is nil.
func Beyond(value float64, unit string, low, high float64) *Doubt {
	if !(value > 0) || value*far > low && value < high*far {
		return nil
	}
	for _, exact := range []bool{true, false} { // a unit a thousand times as large or small comes first
		for _, c := range confusions {
			thousand := c.factor == 1000 || c.factor == 1.0/1000
			if v := value * c.factor; thousand == exact && (c.unit == "" || c.unit == unit) && v >= low && v <= high {
				return &Doubt{c.factor, v, c.why}
			}
		}
	}
	return nil
}

// Thousands is the question what a comma or point before three digits is, of a value that would be other in the other
// reading; nil where a value like its neighbours tells, or where the other reading cannot be.
func Thousands(value, other, low, high float64, neighbours []float64) *Doubt {
	if other == 0 || len(neighbours) > 0 || other < low || other > high {
		return nil
	}
	return &Doubt{other / value, other, "a comma or point for thousands"}
}

// Suspect reports whether a value in a unit looks wrong compared with its neighbours
// (other runs of the same test on the same side), or returns nil.
func Suspect(value float64, unit string, neighbours []float64) *Doubt {
	list := slices.DeleteFunc(slices.Clone(neighbours), func(v float64) bool { return !(v > 0) })
	if len(list) == 0 || !(value > 0) {
		return nil
	}
	slices.Sort(list)
	mid := stats.Median(list)
	away := func(v float64) float64 { return math.Exp(math.Abs(math.Log(v / mid))) }
	if away(value) < far {
		if unit == "MB/s" && len(list) >= 2 && list[len(list)-1]/list[0] < 1+closer {
			for factor, why := range map[float64]string{mebi: "MiB/s taken for MB/s",
				1 / mebi: "MB/s taken for MiB/s"} {
				if away(value) > 1.03 && away(value*factor) < 1+closer {
					return &Doubt{factor, value * factor, why}
				}
			}
		}
		return nil
	}
	for _, c := range confusions {
		if (c.unit == "" || c.unit == unit) && away(value*c.factor) < near {
			return &Doubt{c.factor, value * c.factor, c.why}
		}
	}
	return nil
}
