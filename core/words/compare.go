package words

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/stats"
)

// Times writes a factor: two digits below 10, whole numbers from 10 on, two
// decimals between 0.95 and 1.05.
func Times(f float64) string {
	switch {
	case f >= 0.95 && f <= 1.05:
		return fixed(f, 2) + "×"
	case f >= 9.95:
		return fixed(f, 0) + "×"
	case f >= 0.995:
		return fixed(f, 1) + "×"
	}
	// Two significant digits, however small.
	return fixed(f, 1-int(math.Floor(math.Log10(f)))) + "×"
}

// fixed writes v with that many decimals. Halves go away from zero in the decimal
// figure (1.045 is 1.05), as on a pocket calculator. The pages round in the same way;
// testdata/figures.json holds both to it.
func fixed(v float64, decimals int) string {
	digits, exponent, _ := strings.Cut(strconv.FormatFloat(math.Abs(v), 'e', -1, 64), "e")
	e, _ := strconv.Atoi(exponent)                                           // as it was written
	scaled, _ := strconv.ParseFloat(digits+"e"+strconv.Itoa(e+decimals), 64) // of a number
	back, _ := strconv.ParseFloat(strconv.FormatFloat(math.Round(scaled), 'f', 0, 64)+"e"+strconv.Itoa(-decimals), 64)
	text := strconv.FormatFloat(back, 'f', decimals, 64)
	if v < 0 && back != 0 {
		return "-" + text
	}
	return text
}

// FactorWords says a factor in words: "2.5× as fast", and below 1 "1.3× slower".
func FactorWords(f float64) string {
	if f < 1 {
		if t := Times(1 / f); t != "1.00×" {
			return t + " slower"
		}
		return "1.00× as fast"
	}
	return Times(f) + " as fast"
}

// WaitingWords says how much less waiting there is: "60 % less waiting".
func WaitingWords(then, now float64) string {
	share := (then - now) / then * 100
	switch {
	case share > 99 && now > 0: // something always remains
		return "99 % less waiting"
	case share >= 0.5:
		return fixed(share, 0) + " % less waiting"
	case share <= -0.5:
		return fixed(-share, 0) + " % more waiting"
	}
	return "the same waiting"
}

// SavesWords says what each time saves: "saves 54 s each time".
func SavesWords(saves float64) string {
	if saves < 0 {
		return "takes " + Seconds(-saves) + " longer each time"
	}
	return "saves " + Seconds(saves) + " each time"
}

// Seconds writes a time: "0.82 s", "5.4 s", "54 s", "3 min 20 s".
func Seconds(s float64) string {
	switch {
	case s < 0.995:
		return fixed(s, 2) + " s"
	case s < 9.95:
		return fixed(s, 1) + " s"
	case s < 119.5:
		return fixed(s, 0) + " s"
	}
	whole := int(math.Round(s))
	if whole%60 == 0 {
		return fmt.Sprintf("%d min", whole/60)
	}
	return fmt.Sprintf("%d min %d s", whole/60, whole%60)
}

// Figure writes a value with its unit, three digits or more: "92.4 s",
// "108 MB/s", "0.820 s". The factor shown beside two figures is that of the
// figures shown, within their last digit.
func Figure(v float64, unit string) string {
	digits := 0
	switch a := math.Abs(v); {
	case a == 0:
	case a < 1:
		digits = min(4, 2-int(math.Floor(math.Log10(a))))
	case a < 9.995:
		digits = 2
	case a < 99.95:
		digits = 1
	}
	return fixed(v, digits) + " " + unit
}

// largeFile is from which size on, on average, files are large, bytes.
const largeFile = 1 << 20

// FileRates writes what runs of a file test moved per second, for sides whose
// sets of files differ, so that their times say nothing of each other
// (calculations, section 8): "92 files/s" of small files, "310 MB/s" of large
// ones; "" where the runs do not tell.
func FileRates(runs []job.Run) string {
	var mbs, files []float64
	large := false
	for _, r := range runs {
		if !r.Kept() || r.Files == 0 || r.Bytes == 0 || r.Value <= 0 {
			continue
		}
		mbs, files = append(mbs, float64(r.Bytes)/r.Value/1e6), append(files, float64(r.Files)/r.Value)
		large = r.Bytes/r.Files >= largeFile
	}
	switch {
	case len(mbs) == 0:
		return ""
	case large:
		return Figure(stats.Median(mbs), "MB/s")
	}
	return Figure(stats.Median(files), "files/s")
}

// LineInWords is a line in words.
type LineInWords struct {
	Then    string `json:"then"`    // "92.4 s", "" where not measured
	With    string `json:"with"`    // "36.0 s"
	Factor  string `json:"factor"`  // "2.5× as fast", "too close to call"
	Waiting string `json:"waiting"` // "60 % less waiting"
	Saves   string `json:"saves"`   // "saves 54 s each time"
	Range   string `json:"range"`   // "between 2.3× and 2.7×"
}

// Line says a line in words. Waiting and Saves stand only for times whose
// difference is decided; rates get "×" alone.
func Line(l *compare.Line, t *job.Test) LineInWords {
	var w LineInWords
	if l.Then != nil {
		w.Then = Figure(l.Then.Centre, t.Unit)
	}
	if l.With != nil {
		w.With = Figure(l.With.Centre, t.Unit)
	}
	switch l.Verdict {
	case compare.NotMeasured:
		switch {
		case l.Then == nil && l.With == nil:
			w.Factor = "not measured"
		case l.Then == nil:
			w.Factor = "not measured on the first side"
		default:
			w.Factor = "not measured on the second side"
		}
		return w
	case compare.NotComparable:
		w.Factor = "not comparable"
		return w
	case compare.TooClose:
		w.Factor = "too close to call"
	default:
		w.Factor = FactorWords(*l.Factor)
		if t.Unit != "s" && l.Verdict == compare.Faster {
			w.Factor = Times(*l.Factor) // a rate is no waiting: "×" alone
		}
		if l.Saves != nil {
			w.Waiting = WaitingWords(l.Then.Centre, l.With.Centre)
			w.Saves = SavesWords(*l.Saves)
		}
	}
	if l.Low != nil {
		w.Range = rangeWords(*l.Low, *l.High)
	}
	return w
}

// rangeWords writes an interval, with as many digits as tell its ends apart.
func rangeWords(low, high float64) string {
	a, b := Times(low), Times(high)
	for digits := 2; a == b && digits <= 4; digits++ {
		a, b = fixed(low, digits)+"×", fixed(high, digits)+"×"
	}
	if a == b {
		return "very nearly " + Times(low)
	}
	return "between " + a + " and " + b
}

// Waits says a group of times in words: "2.5× as fast", or "" without lines.
func Waits(g compare.Group) string { return group(g, FactorWords) }

// Rates says a group of rates in words, "5.1×" alone where it is faster.
func Rates(g compare.Group) string {
	return group(g, func(f float64) string {
		if f < 1 {
			return FactorWords(f)
		}
		return Times(f)
	})
}

func group(g compare.Group, say func(float64) string) string {
	switch {
	case g.Factor == nil:
		return ""
	case *g.Low <= 1 && *g.High >= 1:
		return "too close to call"
	}
	return say(*g.Factor)
}

// Savings says what the waiting lines save in a week and a year, or "" where
// nothing was decided or nobody said how often each is used.
func Savings(s compare.Savings) string {
	switch {
	case s.SecondsPerWeek == 0:
		return ""
	case s.SecondsPerWeek < 0:
		return fmt.Sprintf("About %s more waiting a week.", span(-s.SecondsPerWeek))
	}
	words := fmt.Sprintf("About %s less waiting a week", span(s.SecondsPerWeek))
	if low, high := span(s.Low), span(s.High); s.Low > 0 && low != high {
		words += fmt.Sprintf(" (between %s and %s)", low, high)
	}
	return words + fmt.Sprintf(": %s a year.", hours(s.HoursPerYear))
}

// span writes a length of time in whole seconds or minutes.
func span(s float64) string {
	if s < 119.5 {
		return fmt.Sprintf("%.0f s", s)
	}
	return fmt.Sprintf("%.0f min", s/60)
}

func hours(h float64) string {
	switch {
	case h < 1:
		return fmt.Sprintf("%.0f minutes", h*60)
	case h < 1.5:
		return "about an hour"
	}
	return fmt.Sprintf("about %.0f hours", h)
}
