package job

import (
	"cmp"
	"maps"
	"slices"
)

// Side names the runs of one test on one setup.
type Side struct{ Test, Setup string }

// Index is a job whose runs are found by test and setup at once, and counted. It is
// made of a job that does not change while it is used.
type Index struct {
	*Job
	runs     map[Side][]int32 // into Job.Runs, in the order in which they were made
	counts   Counts
	sittings map[string]*Sitting
	tests    map[string]*Test
}

// Indexed returns the job's index.
func (j *Job) Indexed() *Index { return j.IndexedAfter(nil) }

// IndexedAfter returns the job's index, given that of the job before it got more runs,
// from which it is made quickly; without one, nil is given.
func (j *Job) IndexedAfter(before *Index) *Index {
	x := &Index{Job: j, runs: map[Side][]int32{}, counts: Counts{},
		sittings: make(map[string]*Sitting, len(j.Sittings)), tests: make(map[string]*Test, len(j.Tests))}
	for i := range j.Sittings {
		x.sittings[j.Sittings[i].ID] = &j.Sittings[i]
	}
	for i := range j.Tests {
		x.tests[j.Tests[i].ID] = &j.Tests[i]
	}
	touched := map[Side]bool{}
	from := 0
	if before != nil && Continues(before.Runs, j.Runs) {
		from = len(before.Runs)
		for side, list := range before.runs {
			x.runs[side] = slices.Clip(list)
		}
		x.counts = maps.Clone(before.counts)
	}
	for i := from; i < len(j.Runs); i++ {
		r := &j.Runs[i]
		x.counts.add(r)
		if s := x.sittings[r.Sitting]; s != nil {
			side := Side{r.Test, s.Setup}
			x.runs[side] = append(x.runs[side], int32(i))
			touched[side] = true
		}
	}
	made := func(a, b int32) int {
		p, q := &j.Runs[a], &j.Runs[b]
		return cmp.Or(p.At.Compare(q.At), cmp.Compare(p.ID, q.ID))
	}
	for side := range touched {
		if list := x.runs[side]; !slices.IsSortedFunc(list, made) {
			list = slices.Clone(list) // another index may hold it
			slices.SortStableFunc(list, made)
			x.runs[side] = list
		}
	}
	return x
}

// Counts are the numbers of runs by test and sitting.
func (x *Index) Counts() Counts { return x.counts }

// Test returns the test with that id, or nil.
func (x *Index) Test(id string) *Test { return x.tests[id] }

// Sitting returns the sitting with that id, or nil.
func (x *Index) Sitting(id string) *Sitting { return x.sittings[id] }

// RunsOf returns all runs of a test on a setup, over all its sittings, in the
// order in which they were made.
func (x *Index) RunsOf(test, setup string) []Run { return x.pick(test, setup, false) }

// KeptRuns is RunsOf without the runs that were set aside.
func (x *Index) KeptRuns(test, setup string) []Run { return x.pick(test, setup, true) }

// Kept is [Index.KeptRuns] without copying them.
func (x *Index) Kept(test, setup string) []*Run {
	list := x.runs[Side{test, setup}]
	runs := make([]*Run, 0, len(list))
	for _, i := range list {
		if r := &x.Runs[i]; r.Kept() {
			runs = append(runs, r)
		}
	}
	return runs
}

func (x *Index) pick(test, setup string, kept bool) []Run {
	list := x.runs[Side{test, setup}]
	if len(list) == 0 {
		return nil
	}
	runs := make([]Run, 0, len(list))
	for _, i := range list {
		if r := &x.Runs[i]; !kept || r.Kept() {
			runs = append(runs, *r)
		}
	}
	return runs
}

// Count is how many runs there are.
type Count struct{ Kept, Aside int }

// Counts are the numbers of runs by test and sitting: what coverage needs to know
// of runs, without the runs.
type Counts map[struct{ Test, Sitting string }]Count

// Counts counts the job's runs.
func (j *Job) Counts() Counts {
	c := Counts{}
	for i := range j.Runs {
		c.add(&j.Runs[i])
	}
	return c
}

func (c Counts) add(r *Run) {
	key := struct{ Test, Sitting string }{r.Test, r.Sitting}
	n := c[key]
	switch {
	case r.Kept():
		n.Kept++
	case r.SetAside != nil:
		n.Aside++
	}
	c[key] = n
}

// Key returns the id by which the job's items refer to it.
func (c Computer) Key() string { return c.ID }

// Key returns the id by which the job's items refer to it.
func (d Drive) Key() string { return d.ID }

// Key returns the id by which the job's items refer to it.
func (t Test) Key() string { return t.ID }

// Key returns the id by which the job's items refer to it.
func (s Setup) Key() string { return s.ID }

// Key returns the id by which the job's items refer to it.
func (s Sitting) Key() string { return s.ID }
