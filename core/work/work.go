// Package work adds up the time of a visit, hands-on and waiting, and compares the rate of a
// transfer with the abilities of its drives.
//
// It is pure. An unknown value is nil.
package work

import (
	"slices"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/stats"
)

// Sum is the time of a task.
type Sum struct {
	Task string `json:"task"`
	// HandsOn and Waiting are seconds; what runs counts until now.
	HandsOn float64 `json:"hands_on_s"`
	Waiting float64 `json:"waiting_s"`
	// Broke is how often it was interrupted.
	Broke int `json:"broke"`
	// Rate is what the transfer reached, MB/s, over the time since it last broke off; nil while it runs.
	Rate *float64 `json:"rate_mb_s"`
	// Could is what the slower of its drives can do, MB/s, and Slower which setup's that is.
	Could  *float64 `json:"could_mb_s"`
	Slower string   `json:"slower"`
	// Usual is how many minutes earlier tasks of its kind took in this shop, by their median, and
	// Of how many they were.
	Usual *float64 `json:"usual_min"`
	Of    int      `json:"of"`
	// Left is about how long it still takes as things are usual here, minutes, AtLeast how long at the rate that its
	// drives can do; nil where the size or the rate isn't known, it doesn't run, or it takes longer than that.
	Left    *float64 `json:"left_min"`
	AtLeast *float64 `json:"at_least_min"`
}

// Summary is the time of a visit.
type Summary struct {
	Tasks   []Sum   `json:"tasks"`
	HandsOn float64 `json:"hands_on_s"`
	Waiting float64 `json:"waiting_s"`
}

// Of adds up a job's tasks. earlier are ended tasks of other jobs, for what is usual.
func Of(j *job.Job, earlier []job.Task, now time.Time) Summary {
	s := Summary{Tasks: []Sum{}}
	for i := range j.Head.Tasks {
		t := &j.Head.Tasks[i]
		one := Sum{Task: t.ID}
		attempt := 0.0 // seconds since it last broke off
		for _, st := range t.Stretches {
			took := lasted(st, now)
			if st.Kind == job.HandsOn {
				one.HandsOn += took
			} else {
				one.Waiting += took
			}
			attempt += took
			if st.Broke != "" {
				one.Broke, attempt = one.Broke+1, 0
			}
		}
		if moves(t) && t.Running() == nil && t.Bytes > 0 && attempt > 0 {
			rate := float64(t.Bytes) / 1e6 / attempt
			one.Rate = &rate
		}
		if moves(t) {
			one.Could, one.Slower = could(j, t)
		}
		one.Usual, one.Of = usual(t, earlier)
		if moves(t) && t.Running() != nil && t.Bytes > 0 {
			one.Left = remaining(one.Usual, attempt)
			if one.Could != nil && *one.Could > 0 {
				most := float64(t.Bytes) / 1e6 / *one.Could / 60
				one.AtLeast = remaining(&most, attempt)
			}
		}
		s.Tasks = append(s.Tasks, one)
		s.HandsOn, s.Waiting = s.HandsOn+one.HandsOn, s.Waiting+one.Waiting
	}
	return s
}

// remaining is what is left of some minutes after seconds, nil where nothing is.
func remaining(minutes *float64, seconds float64) *float64 {
	if minutes == nil || *minutes*60 <= seconds {
		return nil
	}
	left := *minutes - seconds/60
	return &left
}

func lasted(s job.Stretch, now time.Time) float64 {
	to := s.To
	if to.IsZero() {
		to = now
	}
	return max(0, to.Sub(s.From).Seconds())
}

// moves reports whether a task moves data whose rate says something about the drives.
func moves(t *job.Task) bool { return t.What != job.OtherTask && t.What != job.Installing }

// could is what the slower of a transfer's drives can do, by its long reading or writing as measured, else as rated.
func could(j *job.Job, t *job.Task) (mbs *float64, slower string) {
	consider := func(setup *job.Setup, w string, rated func(*job.Rated) float64) {
		if setup == nil {
			return
		}
		v := measured(j, setup.ID, w)
		if d := j.Drive(setup.Drive); v == 0 && d != nil && d.Rated != nil {
			v = rated(d.Rated)
		}
		if v > 0 && (mbs == nil || v < *mbs) {
			mbs, slower = &v, setup.ID
		}
	}
	if t.From == job.FromOldDrive {
		consider(j.SetupAs(job.Then), catalogue.LongRead, func(r *job.Rated) float64 { return r.ReadMBs })
	}
	consider(j.AsNow(), catalogue.LongWrite, func(r *job.Rated) float64 { return r.WriteMBs })
	return mbs, slower
}

// measured is the median of a setup's kept runs of a test, 0 where there are none.
func measured(j *job.Job, setup, test string) float64 {
	var values []float64
	for i := range j.Runs {
		r := &j.Runs[i]
		if s := j.Sitting(r.Sitting); r.Test == test && r.Kept() && s != nil && s.Setup == setup && s.Job == "" {
			values = append(values, r.Value)
		}
	}
	if len(values) == 0 {
		return 0
	}
	return stats.Median(values)
}

// leastEarlier is how many earlier tasks make what is usual.
const leastEarlier = 3

// usual is the median of what earlier tasks of the same kind took, minutes, without the time of
// attempts that broke off; for a
// transfer whose size is known, of those whose size is known too, as long for each byte.
func usual(t *job.Task, earlier []job.Task) (minutes *float64, of int) {
	var took []float64
	for i := range earlier {
		e := &earlier[i]
		if e.What != t.What || e.Running() != nil || e.ID == t.ID {
			continue
		}
		seconds := 0.0
		for _, s := range e.Stretches {
			seconds += lasted(s, s.To)
			if s.Broke != "" {
				seconds = 0
			}
		}
		switch {
		case seconds == 0:
		case moves(t) && t.Bytes > 0 && e.Bytes > 0:
			took = append(took, seconds/60/float64(e.Bytes)*float64(t.Bytes))
		case !moves(t) || t.Bytes == 0:
			took = append(took, seconds/60)
		}
	}
	if len(took) < leastEarlier {
		return nil, len(took)
	}
	slices.Sort(took)
	m := stats.Median(took)
	return &m, len(took)
}
