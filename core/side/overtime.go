package side

import (
	"slices"
	"time"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// apart is the least time between the first and the last sitting of a setup for a course over time:
// measurements within one visit show how figures vary, not how they change.
const apart = 14 * 24 * time.Hour

// Course is how a setup's figures went over months of sittings.
type Course struct {
	Setup    string    `json:"setup"`
	Sittings []Sitting `json:"sittings"`
	// Tests are those with runs in two or more of the sittings.
	Tests []Centres `json:"tests"`
}

// Sitting is one on the way; nil is what is not known.
type Sitting struct {
	ID      string    `json:"id"`
	Started time.Time `json:"started"`
	FillPct *float64  `json:"fill_pct"`
	TempC   *float64  `json:"temp_c"`
}

// Centres are the medians of a test's kept runs, one a sitting, in its unit; nil where it has none there.
type Centres struct {
	Test    string     `json:"test"`
	Centres []*float64 `json:"centres"`
}

// counts reports whether a run belongs to a course over time: a counted one, or one after hand-back, which is
// in no comparison.
func counts(s *job.Sitting, r *job.Run) bool { return r.Kept() || s.FollowUp && !r.Repeat }

// OverTime returns the course of each setup whose sittings with runs reach over two weeks or more.
func OverTime(j *job.Job) []Course {
	courses := []Course{}
	for i := range j.Setups {
		c := Course{Setup: j.Setups[i].ID, Sittings: []Sitting{}, Tests: []Centres{}}
		for _, s := range j.SittingsOn(c.Setup) {
			if !s.Started.IsZero() &&
				slices.ContainsFunc(j.Runs, func(r job.Run) bool { return r.Sitting == s.ID && counts(&s, &r) }) {
				c.Sittings = append(c.Sittings, Sitting{s.ID, s.Started, s.Conditions.FillPct, s.Conditions.DriveTempC})
			}
		}
		slices.SortStableFunc(c.Sittings, func(a, b Sitting) int { return a.Started.Compare(b.Started) })
		if len(c.Sittings) < 2 || c.Sittings[len(c.Sittings)-1].Started.Sub(c.Sittings[0].Started) < apart {
			continue
		}
		for k := range j.Tests {
			t := Centres{Test: j.Tests[k].ID}
			there := 0
			for _, s := range c.Sittings {
				var values []float64
				for _, r := range j.Runs {
					if r.Test == t.Test && r.Sitting == s.ID && counts(j.Sitting(s.ID), &r) {
						values = append(values, r.Value)
					}
				}
				if len(values) == 0 {
					t.Centres = append(t.Centres, nil)
					continue
				}
				there++
				m := stats.Median(values)
				t.Centres = append(t.Centres, &m)
			}
			if there >= 2 {
				c.Tests = append(c.Tests, t)
			}
		}
		if len(c.Tests) > 0 {
			courses = append(courses, c)
		}
	}
	return courses
}
