package words

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"nowthen/core/compare"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
)

// Times writes a factor: two digits below 10, whole numbers from 10 on, two
// decimals between 0.95 and 1.05.
func Times(f float64) string { return fixed(f, decimals(f)) + "×" }

// decimals is how many a factor is written with.
func decimals(f float64) int {
	switch {
	case f >= 0.95 && f <= 1.05:
		return 2
	case f >= 9.95:
		return 0
	case f >= 0.995:
		return 1
	}
	return 1 - int(math.Floor(math.Log10(f))) // two significant digits, however small
}

// fixed writes v with that many decimals. Halves go away from zero in the decimal
// figure (1.045 is 1.05), as on a pocket calculator. The pages round in the same way;
// testdata/figures.json holds both to it.
func fixed(v float64, decimals int) string {
	if v < 0 {
		if text := rounded(-v, decimals, math.Round); strings.ContainsAny(text, "123456789") {
			return "-" + text
		}
		return rounded(-v, decimals, math.Round)
	}
	return rounded(v, decimals, math.Round)
}

// rounded writes v, which is not negative, with that many decimals, to which it is
// brought by a rounding of its decimal figure.
func rounded(v float64, decimals int, by func(float64) float64) string {
	digits, exponent, _ := strings.Cut(strconv.FormatFloat(v, 'e', -1, 64), "e")
	e, _ := strconv.Atoi(exponent)                                           // as it was written
	scaled, _ := strconv.ParseFloat(digits+"e"+strconv.Itoa(e+decimals), 64) // of a number
	back, _ := strconv.ParseFloat(strconv.FormatFloat(by(scaled), 'f', 0, 64)+"e"+strconv.Itoa(-decimals), 64)
	return strconv.FormatFloat(back, 'f', decimals, 64)
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
func FileRates(r *side.Rates) string {
	switch {
	case r == nil:
		return ""
	case r.MBs*1e6/r.FilesS >= largeFile:
		return Figure(r.MBs, "MB/s")
	}
	return Figure(r.FilesS, "files/s")
}

// LineInWords is a line in words.
type LineInWords struct {
	Then    string `json:"then"`    // "92.4 s", "" where not measured
	With    string `json:"with"`    // "36.0 s"
	Factor  string `json:"factor"`  // "2.5× as fast", "too close to call"
	Waiting string `json:"waiting"` // "60 % less waiting"
	Saves   string `json:"saves"`   // "saves 54 s each time"
	Range   string `json:"range"`   // "between 2.3× and 2.7× as fast"
	Doubt   string `json:"doubt"`   // why the difference is not claimed, ""
	Further string `json:"further"` // what would decide it, "" where it is decided
	Share   string `json:"share"`   // how much of the wait was the drive's, ""
	KeepsUp string `json:"keeps_up"`
}

// Sides are what the two sides of a comparison are called.
type Sides struct{ Then, With string }

// Line says a line in words. Waiting and Saves stand only for times whose
// difference is decided; rates get "×" alone.
func Line(l *compare.Line, t *job.Test, names Sides) LineInWords {
	var w LineInWords
	w.Then, w.With = centre(l.Then, t), centre(l.With, t)
	if k := l.KeepsUp; k != nil {
		w.KeepsUp = keepsUp(*k, names)
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
		switch {
		case l.Equal:
			w.Factor = "as good as equal"
		case l.Then.Bound+l.With.Bound != "":
			w.Factor = "a bound, not compared"
		}
	default:
		w.Factor = verdict(l, t)
		w.Doubt = Doubt(l, t)
		if l.Saves != nil {
			w.Waiting = WaitingWords(l.Then.Centre, l.With.Centre)
			w.Saves = SavesWords(*l.Saves)
		}
	}
	if l.Low != nil {
		w.Range = rangeWords(*l.Factor, *l.Low, *l.High, t.Unit == "s")
	}
	w.Further, w.Share = further(l, t, names), Share(l)
	return w
}

// centre writes what a side comes to: "92.4 s", "below 30.0 dB(A)".
func centre(s *side.Side, t *job.Test) string {
	if s == nil {
		return ""
	}
	return strings.TrimSpace(s.Bound + " " + Figure(s.Centre, t.Unit))
}

// verdict says a decided difference: a factor, or of readings whose ratio says nothing
// their difference.
func verdict(l *compare.Line, t *job.Test) string {
	if l.Factor == nil {
		more := l.With.Centre - l.Then.Centre
		if more < 0 {
			return Figure(-more, t.Unit) + " less"
		}
		return Figure(more, t.Unit) + " more"
	}
	if t.Unit != "s" && l.Verdict == compare.Faster {
		return Times(*l.Factor) // a rate is no waiting: "×" alone
	}
	return FactorWords(*l.Factor)
}

// Doubt says why a difference that was found is not claimed, "" where it is. Controls
// and notes claim nothing and are not in doubt.
func Doubt(l *compare.Line, t *job.Test) string {
	switch {
	case l.Verdict != compare.Faster && l.Verdict != compare.Slower:
		return ""
	case t.Kind == job.Control || t.Kind == job.Note:
		return ""
	case l.Indicative:
		return "a single run on a side: indicative"
	case !l.HoldsAfterAll:
		return "does not hold once all lines are considered"
	}
	return ""
}

// further says what would decide a line that is not decided.
func further(l *compare.Line, t *job.Test, names Sides) string {
	if l.Factor == nil || t.Kind == job.Control || t.Kind == job.Note {
		return ""
	}
	if l.FurtherRuns == nil {
		return "Further runs will not decide it; a second sitting might."
	}
	on := names.Then
	if l.FurtherRunsOn != nil && *l.FurtherRunsOn == compare.OnWith {
		on = names.With
	}
	switch n := *l.FurtherRuns; n {
	case 0:
		return ""
	case 1:
		return fmt.Sprintf("One more run on %s would decide it.", on)
	default:
		return fmt.Sprintf("%d more runs on %s would decide it.", n, on)
	}
}

// Share says how much of a wait was the drive's, and on what that rests; "" where it is
// not known.
func Share(l *compare.Line) string {
	if l.DriveShare == nil {
		return ""
	}
	then := l.Then.Centre
	about, low, high := Seconds(then**l.DriveShare), Seconds(then**l.DriveShareLow), Seconds(then**l.DriveShareHigh)
	words := fmt.Sprintf("Of the %s, about %s (%s to %s) were waiting for the drive, if it reads as in the test of scattered reads", Seconds(then), about, low, high)
	more := l.With.Centre - *l.Floor
	if more < 0.005 {
		return words + "."
	}
	return words + fmt.Sprintf("; a drive that took no time would save about another %s.", Seconds(more))
}

var keepsUpWords = map[string]string{
	drivetest.KeepsUp:     "keeps up with the recordings",
	drivetest.JustKeepsUp: "only just keeps up with the recordings",
	drivetest.FallsBehind: "does not keep up with the recordings",
}

func keepsUp(k compare.KeepsUp, names Sides) string {
	var said []string
	for _, s := range [][2]string{{names.Then, k.Then}, {names.With, k.With}} {
		if s[1] != "" {
			said = append(said, s[0]+" "+keepsUpWords[s[1]])
		}
	}
	return strings.Join(said, ", ")
}

// rangeWords writes the ends of an interval, rounded outwards, with as many decimals as
// its factor. Ends below 1 are turned over, as the factor is.
func rangeWords(factor, low, high float64, wait bool) string {
	faster := ""
	if wait {
		faster = " as fast"
	}
	places := decimals(max(factor, 1/factor))
	down := func(v float64) string { return rounded(v, places, math.Floor) + "×" }
	up := func(v float64) string { return rounded(v, places, math.Ceil) + "×" }
	switch {
	case low >= 1:
		return "between " + down(low) + " and " + up(high) + faster
	case high <= 1:
		return "between " + down(1/high) + " and " + up(1/low) + " slower"
	}
	return "between " + up(1/low) + " slower and " + up(high) + " as fast"
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

// wide is from which share of it on an interval is said instead of the figure.
const wide = 0.2

// Savings says what the waiting lines save in a week and a year, or "" where no line
// counts.
func Savings(s *compare.Savings) string {
	switch {
	case s == nil:
		return ""
	case !s.Clear:
		return "No clear saving: what was timed comes to " + lessOrMore(s.Low, s.High) + " a week."
	case s.SecondsPerWeek < 0:
		return capital(about(-s.SecondsPerWeek, -s.High, -s.Low)) + " more waiting a week."
	}
	return capital(about(s.SecondsPerWeek, s.Low, s.High)) + " less waiting a week: " + hours(s.HoursPerYear) + " a year."
}

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// about says a length of time, or where its interval is wide from where to where.
func about(v, low, high float64) string {
	a, b := span(low), span(high)
	if high-low <= wide*v || a == b {
		return "about " + span(v)
	}
	// One unit for both: "between 10 and 18 min".
	if n, unit, ok := strings.Cut(a, " "); ok && strings.HasSuffix(b, " "+unit) {
		a = n
	}
	return "between " + a + " and " + b
}

func lessOrMore(low, high float64) string {
	say := func(v float64) string {
		if v < 0 {
			return span(-v) + " more waiting"
		}
		return span(v) + " less waiting"
	}
	return "between " + say(low) + " and " + say(high)
}

// span writes a length of time in whole seconds or minutes.
func span(s float64) string {
	if s < 119.5 {
		return fixed(s, 0) + " s"
	}
	return fixed(s/60, 0) + " min"
}

func hours(h float64) string {
	switch {
	case h < 1:
		return "about " + fixed(h*60, 0) + " minutes"
	case h < 1.5:
		return "about an hour"
	}
	return "about " + fixed(h, 0) + " hours"
}
