package compare

import (
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/stats"
)

// Contrast compares two candidates over a group of tests (calculations, section 16): B, with A as the earlier
// side. A figure that does not exist is nil.
type Contrast struct {
	A      string   `json:"a"`
	B      string   `json:"b"`
	Group  string   `json:"group"` // starts, programs, games, files, drive
	Factor *float64 `json:"factor"`
	Low    *float64 `json:"low"`
	High   *float64 `json:"high"`
	Lines  int      `json:"lines"`
	P      *float64 `json:"p"`
	// Holds: it holds after all contrasts shown are considered.
	Holds   bool    `json:"holds"`
	Verdict Verdict `json:"verdict"`
	// SecondsPerWeek is what B saves against A at this customer's use; nil if not known how often.
	SecondsPerWeek *float64 `json:"seconds_per_week"`
}

// NotCertain: the interval doesn't decide it. Equal: practically no difference.
const (
	NotCertain Verdict = "not-certain"
	Equal      Verdict = "equal"
)

// contrasted are the groups of tests over which candidates are compared.
var contrasted = []string{"starts", "programs", "games", "files", "drive"}

// Contrasts compares each pair of setups, group by group, over the tests that both have and no finding blocks.
func Contrasts(x *job.Index, setups []string, o Options) []Contrast {
	list := []Contrast{}
	var p []float64
	for i := range setups {
		for k := i + 1; k < len(setups); k++ {
			l := Indexed(x, setups[i], setups[k], o)
			for _, name := range contrasted {
				if c, ok := l.contrast(x.Job, name); ok {
					list, p = append(list, c), append(p, *c.P)
				}
			}
		}
	}
	rejected, _ := stats.Holm(p, Level)
	for i := range list {
		list[i].Holds = rejected[i] && (list[i].Verdict == Faster || list[i].Verdict == Slower)
	}
	return list
}

// contrast is a ledger's result for a group; ok is false if no line of it can be compared.
func (l *Ledger) contrast(j *job.Job, name string) (c Contrast, ok bool) {
	in := func(ln *Line) bool { return ln.counts() && catalogue.EffortOf(ln.test).Group == name }
	g, p := l.over(in)
	if g.Lines == 0 {
		return c, false
	}
	c = Contrast{A: l.Then, B: l.With, Group: name, Factor: g.Factor, Low: g.Low, High: g.High, Lines: g.Lines, P: &p, Verdict: NotCertain}
	switch low, high := *g.Low, *g.High; {
	case low > 1:
		c.Verdict = Faster
	case high < 1:
		c.Verdict = Slower
	case low >= 1/asGoodAsEqual && high <= asGoodAsEqual:
		c.Verdict = Equal
	}
	part := &Ledger{}
	for i := range l.Lines {
		if ln := &l.Lines[i]; in(ln) {
			part.Lines = append(part.Lines, *ln)
		}
	}
	if s := part.savings(j); s != nil {
		c.SecondsPerWeek = &s.SecondsPerWeek
	}
	return c, true
}
