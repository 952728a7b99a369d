package job

import "math"

// Tiers are the two tiers of a drive with a cache, separated by latency: the median latency of each, ms, and
// its share of the requests, 0…1.
type Tiers struct {
	QuickMS    float64 `json:"quick_ms"`
	QuickShare float64 `json:"quick_share"`
	SlowMS     float64 `json:"slow_ms"`
	SlowShare  float64 `json:"slow_share"`
}

const (
	leastShare = 0.02 // of the requests that a tier answers
	leastApart = 4.0  // times as long as the quick one the slow one takes
	valley     = 0.25 // of the lower peak that the least between them has at most
)

// Tiers tells two tiers apart in a distribution: the two classes between which its
// logarithm varies most (Otsu 1979, A threshold selection method from gray-level
// histograms), where they lie far apart with little between them. ok is false where
// there is one.
func (s *Spread) Tiers() (t Tiers, ok bool) {
	n, sum := 0.0, 0.0
	for i, c := range s.Counts {
		n += float64(c)
		sum += float64(c) * float64(i)
	}
	if n == 0 {
		return t, false
	}
	at, best := -1, 0.0
	below, belowSum := 0.0, 0.0
	for i, c := range s.Counts[:len(s.Counts)-1] {
		below += float64(c)
		belowSum += float64(c) * float64(i)
		if below == 0 || below == n {
			continue
		}
		apart := belowSum/below - (sum-belowSum)/(n-below)
		if v := below * (n - below) * apart * apart; v > best {
			at, best = i, v
		}
	}
	if at < 0 {
		return t, false
	}
	quick, slow := s.Counts[:at+1], s.Counts[at+1:]
	p, q := middleOf(quick), at+1+middleOf(slow)
	t = Tiers{QuickMS: s.at(p), SlowMS: s.at(q)}
	for _, c := range quick {
		t.QuickShare += float64(c) / n
	}
	t.SlowShare = 1 - t.QuickShare
	least := s.Counts[p]
	for _, c := range s.Counts[p : q+1] {
		least = min(least, c)
	}
	lower := min(peak(quick), peak(slow))
	ok = min(t.QuickShare, t.SlowShare) >= leastShare && t.SlowMS >= leastApart*t.QuickMS &&
		float64(least) <= valley*float64(lower)
	return t, ok
}

// at is the middle of a bin, ms.
func (s *Spread) at(bin int) float64 {
	return s.FromMS * math.Pow(10, (float64(bin)+0.5)/float64(s.PerDecade))
}

// middleOf is the bin that holds the middle of the requests.
func middleOf(counts []int64) int {
	n := int64(0)
	for _, c := range counts {
		n += c
	}
	for i, c := range counts {
		if n -= 2 * c; n <= 0 {
			return i
		}
	}
	return len(counts) - 1
}

func peak(counts []int64) int64 {
	top := int64(0)
	for _, c := range counts {
		top = max(top, c)
	}
	return top
}
