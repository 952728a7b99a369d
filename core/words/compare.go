package words

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/side"

	"golang.org/x/text/language"
	printer "golang.org/x/text/message"
	"golang.org/x/text/number"
)

// Times writes a factor: two digits below 10, whole numbers from 10 on, two
// decimals between 0.95 and 1.05.
func (in *Language) Times(f float64) string { return in.fixed(f, decimals(f)) + "×" }

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
func (in *Language) fixed(v float64, decimals int) string {
	if v < 0 {
		if text := in.rounded(-v, decimals, math.Round); strings.ContainsAny(text, "123456789") {
			return "-" + text
		}
		return in.rounded(-v, decimals, math.Round)
	}
	return in.rounded(v, decimals, math.Round)
}

// rounded writes v, which is not negative, with that many decimals, to which it is
// brought by a rounding of its decimal figure.
func (in *Language) rounded(v float64, decimals int, by func(float64) float64) string {
	digits, exponent, _ := strings.Cut(strconv.FormatFloat(v, 'e', -1, 64), "e")
	e, _ := strconv.Atoi(exponent)                                           // as it was written
	scaled, _ := strconv.ParseFloat(digits+"e"+strconv.Itoa(e+decimals), 64) // of a number
	back, _ := strconv.ParseFloat(strconv.FormatFloat(by(scaled), 'f', 0, 64)+"e"+strconv.Itoa(-decimals), 64)
	if back >= 1000 {
		return in.grouped(back, max(decimals, 0))
	}
	return in.Number(strconv.FormatFloat(back, 'f', max(decimals, 0), 64))
}

// grouped writes a large number with its thousands grouped as the language does it.
func (in *Language) grouped(v float64, decimals int) string {
	return printer.NewPrinter(language.MustParse(in.Tag)).Sprint(number.Decimal(v, number.Scale(decimals)))
}

// FactorWords says a factor in words: "2.5 times as fast", and below 1 "takes 1.3 times as long".
func (in *Language) FactorWords(f float64) string {
	if f < 1 {
		if t := in.times(1 / f); t != in.Number("1.00") {
			return in.Say("slower", message.Values{"Factor": t})
		}
		f = 1
	}
	return in.Say("as-fast", message.Values{"Factor": in.times(f)})
}

// times is a factor as a number, with the digits of [Language.Times].
func (in *Language) times(f float64) string { return in.fixed(f, decimals(f)) }

// WaitingWords reports how much less waiting there is: "60 % less waiting".
func (in *Language) WaitingWords(then, now float64) string {
	share := (then - now) / then * 100
	switch {
	case share > 99 && now > 0: // something always remains
		return in.Say("less-waiting", message.Values{"Percent": "99"})
	case share >= 0.5:
		return in.Say("less-waiting", message.Values{"Percent": in.fixed(share, 0)})
	case share <= -0.5:
		return in.Say("more-waiting", message.Values{"Percent": in.fixed(-share, 0)})
	}
	return in.Say("same-waiting")
}

// SavesWords says what each time saves: "saves 54 s each time".
func (in *Language) SavesWords(saves float64) string {
	if saves < 0 {
		return in.Say("takes-longer", message.Values{"Time": in.Seconds(-saves)})
	}
	return in.Say("saves", message.Values{"Time": in.Seconds(saves)})
}

// Seconds writes a time: "0.82 s", "5.4 s", "54 s", "3 min 20 s".
func (in *Language) Seconds(s float64) string {
	switch {
	case s < 0.995:
		return in.fixed(s, 2) + " s"
	case s < 9.95:
		return in.fixed(s, 1) + " s"
	case s < 119.5:
		return in.fixed(s, 0) + " s"
	}
	whole := int(math.Round(s))
	if whole%60 == 0 {
		return fmt.Sprintf("%d min", whole/60)
	}
	return in.Say("minutes-seconds", message.Values{"Minutes": whole / 60, "Seconds": whole % 60})
}

// SecondsLong writes a time as in a heading: "15 seconds", else as [Language.Seconds].
func (in *Language) SecondsLong(s float64) string {
	if s < 9.95 || s >= 119.5 {
		return in.Seconds(s)
	}
	return in.Say("seconds", message.Values{"N": in.fixed(s, 0)})
}

// Figure writes a value with its unit and three significant digits: "92.4 s", "108 MB/s", "0.820 s", "11,500 a second".
// The factor shown beside two figures is that of the figures shown, within their last digit.
func (in *Language) Figure(v float64, unit string) string {
	return in.fixed(v, threeDigits(v)) + " " + in.Term("unit", unit, unit)
}

// threeDigits is the number of decimals that show three significant digits of a value, below zero for large ones.
func threeDigits(v float64) int {
	switch a := math.Abs(v); {
	case a == 0:
		return 0
	case a < 1:
		return min(4, 2-int(math.Floor(math.Log10(a))))
	case a < 9.995:
		return 2
	case a < 99.95:
		return 1
	case a < 999.5:
		return 0
	default:
		return 2 - int(math.Floor(math.Log10(a*1.0005))) // 9,995 is 10,000
	}
}

// difference writes the difference of two values, no finer than the coarser of them is written.
func (in *Language) difference(a, b float64, unit string) string {
	return in.fixed(math.Abs(a-b), min(threeDigits(a), threeDigits(b))) + " " + in.Term("unit", unit, unit)
}

// largeFile is from which size on, on average, files are large, bytes.
const largeFile = 1 << 20

// FileRates writes what runs of a file test moved per second, for sides whose
// sets of files differ, so that their times say nothing of each other
// (calculations, section 8): "92 files/s" of small files, "310 MB/s" of large
// ones; "" where the runs do not tell.
func (in *Language) FileRates(r *side.Rates) string {
	switch {
	case r == nil:
		return ""
	case r.FilesS == nil || r.MBs*1e6 / *r.FilesS >= largeFile:
		return in.Figure(r.MBs, "MB/s")
	}
	return in.Figure(*r.FilesS, "files/s")
}

// LineInWords is a line in words.
type LineInWords struct {
	Then    string `json:"then"`    // "92.4 s", "" where not measured
	With    string `json:"with"`    // "36.0 s"
	Factor  string `json:"factor"`  // "2.5 times as fast", "too close to call"
	Waiting string `json:"waiting"` // "60 % less waiting"
	Saves   string `json:"saves"`   // "saves 54 s each time"
	Range   string `json:"range"`   // "between 2.3 and 2.7 times as fast"
	Doubt   string `json:"doubt"`   // why the difference is not claimed, ""
	Further string `json:"further"` // what would decide it, "" where it is decided
	Share   string `json:"share"`   // how much of the wait was the drive's, ""
	KeepsUp string `json:"keeps_up"`
}

// Sides are what the two sides of a comparison are called.
type Sides struct{ Then, With string }

// Line says a line in words. Waiting and Saves stand only for times whose
// difference is decided; rates get "×" alone.
func (in *Language) Line(l *compare.Line, t *job.Test, names Sides) LineInWords {
	var w LineInWords
	w.Then, w.With = in.centre(l.Then, t), in.centre(l.With, t)
	if k := l.KeepsUp; k != nil {
		w.KeepsUp = in.keepsUp(*k, names)
	}
	switch l.Verdict {
	case compare.NotMeasured:
		switch {
		case l.Then == nil && l.With == nil:
			w.Factor = in.Say("not-measured")
		case l.Then == nil:
			w.Factor = in.Say("not-measured-first")
		default:
			w.Factor = in.Say("not-measured-second")
		}
		return w
	case compare.NotComparable:
		w.Factor = in.Say("not-comparable")
		if bounded(l) && len(l.Findings) == 0 {
			w.Factor = in.Say("bound")
		}
		return w
	case compare.TooClose:
		w.Factor = in.Say("too-close")
		if l.Equal {
			w.Factor = in.Say("equal")
		}
	default:
		w.Factor = in.verdict(l, t)
		w.Doubt = in.Doubt(l, t)
		if l.Saves != nil {
			w.Waiting = in.WaitingWords(l.Then.Centre, l.With.Centre)
			w.Saves = in.SavesWords(*l.Saves)
		}
	}
	if l.Low != nil && !(t.Kind == job.Note && t.Unit == "min") {
		w.Range = in.rangeWords(*l.Factor, *l.Low, *l.High, t.Unit == "s")
	}
	w.Further, w.Share = in.further(l, t, names), in.Share(l)
	return w
}

// centre writes what a side comes to: "92.4 s", "below 30.0 dB(A)".
func (in *Language) centre(s *side.Side, t *job.Test) string {
	if s == nil {
		return ""
	}
	figure := in.Figure(s.Centre, t.Unit)
	if s.Bound != "" {
		return in.Say(string(s.Bound), message.Values{"Figure": figure})
	}
	return figure
}

// bounded reports whether a side of a line is only known up to a bound, so that there is a direction at most.
func bounded(l *compare.Line) bool { return l.Then.Bound+l.With.Bound != "" }

// verdict says a decided difference: a factor, or of readings whose ratio says nothing
// their difference.
func (in *Language) verdict(l *compare.Line, t *job.Test) string {
	if bounded(l) {
		better := l.Verdict == compare.Faster
		switch {
		case t.Kind != job.Note && better:
			return in.Say("bound-faster")
		case t.Kind != job.Note:
			return in.Say("bound-slower")
		case better == (t.Better == job.Higher):
			return in.Say("bound-more")
		}
		return in.Say("bound-less")
	}
	by := in.difference(l.With.Centre, l.Then.Centre, t.Unit)
	if t.Kind == job.Note && t.Unit == "min" { // a battery has no speed
		if l.With.Centre < l.Then.Centre {
			return in.Say("shorter", message.Values{"Figure": by})
		}
		return in.Say("longer", message.Values{"Figure": by})
	}
	if l.Factor == nil {
		if l.With.Centre < l.Then.Centre {
			return in.Say("less", message.Values{"Figure": by})
		}
		return in.Say("more", message.Values{"Figure": by})
	}
	if t.Unit != "s" && l.Verdict == compare.Faster {
		return in.Times(*l.Factor) // a rate is no waiting: "×" alone
	}
	return in.FactorWords(*l.Factor)
}

// Doubt says why a difference that was found is not claimed, "" where it is. Controls
// and notes claim nothing and are not in doubt.
func (in *Language) Doubt(l *compare.Line, t *job.Test) string {
	switch {
	case l.Verdict != compare.Faster && l.Verdict != compare.Slower:
		return ""
	case t.Kind == job.Control || t.Kind == job.Note || bounded(l):
		return ""
	case l.Indicative:
		return in.Say("doubt-single")
	case !l.HoldsAfterAll:
		return in.Say("doubt-all")
	}
	return ""
}

// further says what would decide a line that is not decided.
func (in *Language) further(l *compare.Line, t *job.Test, names Sides) string {
	if l.Factor == nil || t.Kind == job.Control || t.Kind == job.Note {
		return ""
	}
	if l.FurtherRuns == nil {
		return in.Say("further-sitting")
	}
	on := names.Then
	if l.FurtherRunsOn != nil && *l.FurtherRunsOn == compare.OnWith {
		on = names.With
	}
	if *l.FurtherRuns == 0 {
		return ""
	}
	return in.Say("further-runs", message.Values{"Count": *l.FurtherRuns, "On": on})
}

// Share reports how much of a wait was the drive's, and on what that rests; "" where it is
// not known.
func (in *Language) Share(l *compare.Line) string {
	if l.DriveShare == nil {
		return ""
	}
	then := l.Then.Centre
	about, low, high := in.Seconds(then**l.DriveShare), in.Seconds(then**l.DriveShareLow),
		in.Seconds(then**l.DriveShareHigh)
	words := in.Say("share", message.Values{"Whole": in.Seconds(then), "About": about, "Low": low, "High": high})
	more := l.With.Centre - *l.Floor
	if more < 0.005 {
		return words + "."
	}
	return words + in.Say("share-floor", message.Values{"Time": in.Seconds(more)}) + "."
}

func (in *Language) keepsUp(k compare.KeepsUp, names Sides) string {
	var said []string
	for _, s := range [][2]string{{names.Then, k.Then}, {names.With, k.With}} {
		if s[1] != "" {
			said = append(said, in.Say("keeps-up."+s[1], message.Values{"Side": s[0]}))
		}
	}
	return strings.Join(said, ", ")
}

// rangeWords writes the ends of an interval, rounded outwards, with as many decimals as
// its factor. Ends below 1 are turned over, as the factor is.
func (in *Language) rangeWords(factor, low, high float64, wait bool) string {
	key := "range"
	if wait {
		key = "range-fast"
	}
	places := decimals(max(factor, 1/factor))
	down := func(v float64) string { return in.rounded(v, places, math.Floor) }
	up := func(v float64) string { return in.rounded(v, places, math.Ceil) }
	switch {
	case low >= 1:
		return in.Say(key, message.Values{"Low": down(low), "High": up(high)})
	case high <= 1:
		return in.Say("range-slower", message.Values{"Low": down(1 / high), "High": up(1 / low)})
	}
	return in.Say("range-both", message.Values{"Low": up(1 / low), "High": up(high)})
}

// Waits says a group of times in words: "2.5× as fast", or "" without lines.
func (in *Language) Waits(g compare.Group) string { return in.group(g, in.FactorWords) }

// Rates says a group of rates in words, "5.1×" alone where it is faster.
func (in *Language) Rates(g compare.Group) string {
	return in.group(g, func(f float64) string {
		if f < 1 {
			return in.FactorWords(f)
		}
		return in.Times(f)
	})
}

func (in *Language) group(g compare.Group, say func(float64) string) string {
	switch {
	case g.Factor == nil:
		return ""
	case *g.Low <= 1 && *g.High >= 1:
		return in.Say("too-close")
	}
	return say(*g.Factor)
}

// wide is from which share of it on an interval is said instead of the figure.
const wide = 0.2

// Savings says what the waiting lines save in a week and a year, or "" where no line
// counts.
func (in *Language) Savings(s *compare.Savings) string {
	switch {
	case s == nil:
		return ""
	case !s.Clear:
		return in.Say("no-clear-saving", message.Values{"Range": in.lessOrMore(s.Low, s.High)})
	case s.SecondsPerWeek < 0:
		return in.Say("more-a-week",
			message.Values{"About": message.Capital(in.about(-s.SecondsPerWeek, -s.High, -s.Low))})
	}
	return in.Say("less-a-week",
		message.Values{"About": message.Capital(in.about(s.SecondsPerWeek, s.Low, s.High)),
			"Hours": in.Hours(s.HoursPerYear)})
}

// about says a length of time, or where its interval is wide from where to where.
func (in *Language) about(v, low, high float64) string {
	a, b := in.span(low), in.span(high)
	if high-low <= wide*v || a == b {
		return in.Say("about", message.Values{"Time": in.span(v)})
	}
	// One unit for both: "between 10 and 18 min".
	if n, unit, ok := strings.Cut(a, " "); ok && strings.HasSuffix(b, " "+unit) {
		a = n
	}
	return in.Say("between", message.Values{"Low": a, "High": b})
}

func (in *Language) lessOrMore(low, high float64) string {
	say := func(v float64) string {
		if v < 0 {
			return in.Say("span-more", message.Values{"Time": in.span(-v)})
		}
		return in.Say("span-less", message.Values{"Time": in.span(v)})
	}
	return in.Say("between", message.Values{"Low": say(low), "High": say(high)})
}

// span writes a length of time in whole seconds or minutes.
func (in *Language) span(s float64) string {
	if s < 119.5 {
		return in.fixed(s, 0) + " s"
	}
	return in.fixed(s/60, 0) + " min"
}

// Hours writes a length of time as people say it: "about 9 minutes", "about an hour", "about 3 hours"; h is in hours.
func (in *Language) Hours(h float64) string {
	switch {
	case h < 1:
		return in.Say("about-minutes", message.Values{"N": in.fixed(h*60, 0)})
	case h < 1.5:
		return in.Say("about-an-hour")
	}
	return in.Say("about-hours", message.Values{"N": in.fixed(h, 0)})
}
