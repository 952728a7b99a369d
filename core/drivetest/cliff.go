package drivetest

// Cliff is where a long write drops from one rate to a lower one.
type Cliff struct {
	// AfterS is how many seconds in, AfterBytes how many bytes were written by then.
	AfterS     int   `json:"after_s"`
	AfterBytes int64 `json:"after_bytes"`
	// BeforeMBs and AfterMBs are the mean rates of the two parts.
	BeforeMBs float64 `json:"before_mb_s"`
	AfterMBs  float64 `json:"after_mb_s"`
	// Cause is HeatCause or CacheCause.
	Cause string `json:"cause"`
}

// Causes of a cliff.
const (
	HeatCause  = "heat"
	CacheCause = "cache"
)

// Bounds of a cliff (calculations, section 7).
const (
	cliffDrop  = 0.30
	cliffPartS = 5
	// heatMargin is how far below its limit a drive begins to slow itself down, °C.
	heatMargin = 3
)

// FindCliff looks for one change point in a rate per second by least squares
// (two means, after Page, Biometrika 42, 1955); it is real where the rate drops
// by 30 % or more and each part lasts 5 s or more. temps are °C per second, nil
// where none are known; limit is the drive's, 0 where none is known. nil: no cliff.
func FindCliff(mbs, temps []float64, limit float64) *Cliff {
	n := len(mbs)
	total := 0.0
	for _, v := range mbs {
		total += v
	}
	best, at, before := 0.0, 0, 0.0
	left := 0.0
	for k := 1; k < n; k++ {
		left += mbs[k-1]
		// The fall in the sum of squares of two means against one.
		a, b := left/float64(k), (total-left)/float64(n-k)
		if gain := (a - b) * (a - b) * float64(k) * float64(n-k) / float64(n); gain > best {
			best, at, before = gain, k, left
		}
	}
	if at < cliffPartS || n-at < cliffPartS {
		return nil
	}
	c := &Cliff{AfterS: at, AfterBytes: int64(before * 1e6), BeforeMBs: before / float64(at),
		AfterMBs: (total - before) / float64(n-at), Cause: CacheCause}
	if c.AfterMBs > (1-cliffDrop)*c.BeforeMBs {
		return nil
	}
	// Within its second the change lies where the two rates make up what was
	// written in it.
	if k := at; mbs[k] > c.AfterMBs && mbs[k] < c.BeforeMBs && n-k-1 > 0 {
		rest := (total - before - mbs[k]) / float64(n-k-1)
		if c.BeforeMBs > rest {
			c.AfterBytes += int64((mbs[k] - rest) / (c.BeforeMBs - rest) * c.BeforeMBs * 1e6)
		}
	} else if k := at - 1; k > 0 && mbs[k] < c.BeforeMBs && mbs[k] > c.AfterMBs {
		full := (before - mbs[k]) / float64(k)
		part := (mbs[k] - c.AfterMBs) / (full - c.AfterMBs)
		c.AfterBytes = int64((before - mbs[k] + part*full) * 1e6)
	}
	if at-1 < len(temps) && limit > 0 && temps[at-1] >= limit-heatMargin {
		c.Cause = HeatCause
	}
	return c
}
