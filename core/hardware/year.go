package hardware

import "time"

// leastAge is how old a system must be before how it filled says anything of the year to come.
const leastAge = 180 * 24 * time.Hour

// year is the mean Gregorian one.
const year = 31_556_952 * time.Second

// Ahead is how a drive would fill in a year.
type Ahead struct {
	Since time.Time // when the system on it was installed
	Bytes int64     // used then
}

// YearAhead is how much of a drive would be used a year from now if it went on filling at the mean
// rate at which it did since
// its system was installed; ok is false where that is not known, or not for long enough. What the
// installation itself took
// counts as filled, so that it is rather too much than too little.
func (f *Facts) YearAhead(drive string, now time.Time) (a Ahead, ok bool) {
	age := now.Sub(f.System.Installed)
	if f.System.Installed.IsZero() || age < leastAge {
		return Ahead{}, false
	}
	used, system := int64(0), false
	for _, v := range f.Volumes {
		if v.Drive == drive {
			used += v.UsedBytes
			system = system || v.System
		}
	}
	if !system || used <= 0 {
		return Ahead{}, false
	}
	return Ahead{Since: f.System.Installed, Bytes: used + int64(float64(used)*year.Seconds()/age.Seconds())}, true
}
