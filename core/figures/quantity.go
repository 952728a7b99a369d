package figures

import (
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// Quantity is a figure as somebody wrote it: a value in a unit, and what its last
// digit is worth in that unit ("36.0" has a digit more than "36").
type Quantity struct {
	Value float64
	Unit  string
	Step  float64
}

var (
	numberAndUnit = regexp.MustCompile(`^([-+]?[0-9][0-9 .,'\x{a0}\x{202f}]*)\s*(\S.*)?$`)
	clockTime     = regexp.MustCompile(`^(?:([0-9]{1,3}):)?([0-9]{1,4}):([0-5][0-9](?:[.,][0-9]+)?)$`)
	durationPart  = regexp.MustCompile(`^([0-9]+(?:[.,][0-9]+)?)\s*(h|min|s|ms)$`)
	betweenParts  = regexp.MustCompile(`(h|min|s)\s*([0-9])`)
)

// Read reads a figure as people write it: "92,4", "1.5 min", "830 Mbit/s", a time
// as a clock shows it ("1:32", "1:32.9", "1:02:03") or in parts ("1 min 32 s").
// Without a unit it is in the given one. A clock's time is in minutes and seconds,
// and in hours and minutes where minutes are given.
func Read(text, unit string) (Quantity, error) {
	text = strings.TrimSpace(text)
	if c := clockTime.FindStringSubmatch(text); c != nil {
		return readClock(text, c, unit)
	}
	if q, ok := readParts(text); ok {
		return q, nil
	}
	m := numberAndUnit.FindStringSubmatch(text)
	if m == nil {
		return Quantity{}, fmt.Errorf("%q is no number", text)
	}
	v, err := Number(m[1])
	if err != nil {
		return Quantity{}, err
	}
	if said := strings.TrimSpace(m[2]); said != "" {
		unit = said
	}
	return Quantity{Value: v, Unit: unit, Step: step(m[1])}, nil
}

// bounds are what comes before a figure that is a bound.
var bounds = [][2]string{{"<", "below"}, {"≤", "below"}, {"below ", "below"}, {"under ", "below"},
	{"less than ", "below"}, {"at most ", "below"}, {">", "above"}, {"≥", "above"}, {"above ", "above"},
	{"over ", "above"}, {"more than ", "above"}, {"at least ", "above"}, {"not finished after ", "above"},
	{"unfinished after ", "above"}}

// Bound takes the sign off a figure that is a bound: "< 30" and "below 30" are below it, "> 30" and "not finished
// after 30" above. side is "below", "above" or "".
func Bound(text string) (rest, side string) {
	text = strings.TrimSpace(text)
	for _, b := range bounds {
		if len(text) > len(b[0]) && strings.EqualFold(text[:len(b[0])], b[0]) {
			return strings.TrimSpace(text[len(b[0]):]), b[1]
		}
	}
	return text, ""
}

// Example reports how a figure in a unit is written.
func Example(unit string) string {
	if unit == "s" {
		return "Write a time such as 92.4, 1:32 or 1 min 32 s."
	}
	return fmt.Sprintf("Write a number in %s, such as 12.5.", unit)
}

func readClock(text string, c []string, unit string) (Quantity, error) {
	if u, ok := units[unit]; !ok || u.base != "s" {
		return Quantity{}, fmt.Errorf("%q is a time, and this is in %s", text, unit)
	}
	last := strings.Replace(c[3], ",", ".", 1)
	s, _ := strconv.ParseFloat(last, 64) // digits
	middle, _ := strconv.ParseFloat(c[2], 64)
	hours := 0.0
	if c[1] != "" {
		hours, _ = strconv.ParseFloat(c[1], 64)
		if middle >= 60 {
			return Quantity{}, fmt.Errorf("%q has more than 59 minutes", text)
		}
	}
	if unit == "min" && c[1] == "" {
		return Quantity{Value: middle*60 + s, Unit: "min", Step: step(last)}, nil
	}
	return Quantity{Value: hours*3600 + middle*60 + s, Unit: "s", Step: step(last)}, nil
}

// readParts reads a time of two parts or more, the larger first.
func readParts(text string) (Quantity, bool) {
	words := betweenParts.ReplaceAllString(text, "$1|$2")
	parts := strings.Split(words, "|")
	if len(parts) < 2 {
		return Quantity{}, false
	}
	q := Quantity{Unit: "s"}
	before := math.Inf(1)
	for _, p := range parts {
		m := durationPart.FindStringSubmatch(strings.TrimSpace(p))
		if m == nil {
			return Quantity{}, false
		}
		u := units[m[2]].times
		v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64)
		if err != nil || u >= before {
			return Quantity{}, false
		}
		q.Value += v * u
		q.Step, before = step(m[1])*u, u
	}
	return q, true
}

// step is what the last digit of a number is worth.
func step(number string) float64 {
	number = strings.TrimSpace(number)
	comma, point := strings.LastIndex(number, ","), strings.LastIndex(number, ".")
	at := max(comma, point)
	if at < 0 {
		return 1
	}
	digits := 0
	for _, c := range number[at+1:] {
		if c >= '0' && c <= '9' {
			digits++
		}
	}
	return math.Pow(10, -float64(digits))
}
