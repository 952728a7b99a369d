package figures

import (
	"fmt"
	"regexp"
	"strings"
)

// Given is a figure as somebody wrote it, in the unit of its test: a value, a range (the value is its middle),
// or a bound.
type Given struct {
	Value float64
	Range *[2]float64
	Bound string // below, above or ""
	// Other is the value in the other reading of a comma or point before three digits (thousands for decimals); 0
	// if there is only one reading.
	Other float64
}

// rangeMark stands between the ends of a range: "260-270", "260 – 270", "4 to 5 min", "260…270".
var rangeMark = regexp.MustCompile(`\s*(?:[-–—]|…|\.\.\.?|\s(?:to|bis)\s)\s*`)

// twoWays is a number that is read in two ways: "4,950" is 4.95 or 4950.
var twoWays = regexp.MustCompile(`^[-+]?[1-9][0-9]{0,2}[.,][0-9]{3}(?:[^0-9.,]|$)`)

// ReadGiven reads a figure of a test as people write it: what [Read] reads, "260-270 MB/s", "> 30", "not finished
// after 10 min". A figure without a unit is in the given one; the test's is what it is converted to.
func ReadGiven(text, unit, test string) (Given, error) {
	rest, bound := Bound(text)
	if low, high, ok := ends(rest); ok && bound == "" {
		return readRange(low, high, unit, test)
	}
	v, err := in(rest, unit, test)
	if err != nil {
		return Given{}, err
	}
	g := Given{Value: v, Bound: bound}
	if twoWays.MatchString(rest) {
		g.Other = v * 1000
	}
	return g, nil
}

// in reads a figure and converts it to the unit of its test.
func in(text, unit, test string) (float64, error) {
	q, err := Read(text, unit)
	if err != nil {
		return 0, err
	}
	return Convert(q.Value, q.Unit, test)
}

// ends are the two ends of a range as they were written.
func ends(text string) (low, high string, ok bool) {
	text = strings.TrimSpace(text)
	for _, at := range rangeMark.FindAllStringIndex(text, -1) {
		if at[0] > 0 { // a sign before a number marks no range
			return text[:at[0]], text[at[1]:], at[1] < len(text)
		}
	}
	return "", "", false
}

func readRange(low, high, unit, test string) (Given, error) {
	q, err := Read(high, unit)
	if err != nil {
		return Given{}, err
	}
	from, err := in(low, q.Unit, test) // "260-270 MB/s": the unit is that of both
	if err != nil {
		return Given{}, err
	}
	to, err := Convert(q.Value, q.Unit, test)
	if err != nil {
		return Given{}, err
	}
	if from >= to {
		return Given{}, fmt.Errorf("a range goes from the lower figure to the higher one; this one goes from %s to %s",
			strings.TrimSpace(low), strings.TrimSpace(high))
	}
	return Given{Value: (from + to) / 2, Range: &[2]float64{from, to}}, nil
}
