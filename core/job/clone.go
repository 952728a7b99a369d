package job

import "slices"

// Clone returns a copy that can be changed without the job noticing: every list of
// the job is its own. What an item points to is shared; a change puts another in
// its place and leaves it as it is.
//
// The runs are shared, because there can be very many. New ones may be appended, to
// one clone of a job at a time; a run that is there is changed by [Job.PutAside] alone.
func (j *Job) Clone() *Job {
	c := *j
	c.Head.Reasons = slices.Clone(j.Head.Reasons)
	c.Head.Work = slices.Clone(j.Head.Work)
	c.Head.Gates = slices.Clone(j.Head.Gates)
	c.Head.Promises = slices.Clone(j.Head.Promises)
	c.Head.Looked = slices.Clone(j.Head.Looked)
	c.Head.Tasks = slices.Clone(j.Head.Tasks)
	for i := range c.Head.Tasks {
		c.Head.Tasks[i].Stretches = slices.Clone(j.Head.Tasks[i].Stretches)
	}
	c.Computers = slices.Clone(j.Computers)
	c.Drives = slices.Clone(j.Drives)
	for i := range c.Drives {
		c.Drives[i].Sustained = slices.Clone(j.Drives[i].Sustained)
		for k := range c.Drives[i].Sustained {
			c.Drives[i].Sustained[k].Parts = slices.Clone(c.Drives[i].Sustained[k].Parts)
		}
	}
	c.Plan.Questions = slices.Clone(j.Plan.Questions)
	c.Plan.Steps = slices.Clone(j.Plan.Steps)
	c.Plan.Excuses = slices.Clone(j.Plan.Excuses)
	c.Plan.Needs = slices.Clone(j.Plan.Needs)
	for i := range c.Plan.Steps {
		c.Plan.Steps[i].Photos = slices.Clone(j.Plan.Steps[i].Photos)
	}
	c.Tests = slices.Clone(j.Tests)
	for i := range c.Tests {
		c.Tests[i].Phases = slices.Clone(j.Tests[i].Phases)
	}
	c.Setups = slices.Clone(j.Setups)
	for i := range c.Setups {
		c.Setups[i].Also = slices.Clone(j.Setups[i].Also)
	}
	c.Sittings = slices.Clone(j.Sittings)
	for i := range c.Sittings {
		c.Sittings[i].Conditions.Events = slices.Clone(j.Sittings[i].Conditions.Events)
	}
	return &c
}

// Trace is what of a run is drawn but not compared: its rate over time and the
// distribution of its response times.
type Trace struct {
	Series *Series `json:"series,omitzero"`
	Spread *Spread `json:"spread,omitzero"`
}

// Empty tells whether there is nothing to draw.
func (t Trace) Empty() bool { return t.Series == nil && t.Spread == nil }

// Split takes the trace off the run and returns it.
func (r *Run) Split() Trace {
	t := Trace{Series: r.Series}
	r.Series = nil
	if r.Latency != nil && r.Latency.Spread != nil {
		t.Spread = r.Latency.Spread
		l := *r.Latency
		l.Spread = nil
		r.Latency = &l
	}
	return t
}

// Join puts a trace back on the run that it was split off.
func (r *Run) Join(t Trace) {
	r.Series = t.Series
	if t.Spread != nil && r.Latency != nil {
		l := *r.Latency
		l.Spread = t.Spread
		r.Latency = &l
	}
}

// PutAside sets a run aside, or takes it back where aside is nil. It reports whether
// there is such a run.
func (j *Job) PutAside(run string, aside *SetAside) bool {
	i := slices.IndexFunc(j.Runs, func(r Run) bool { return r.ID == run })
	if i < 0 {
		return false
	}
	j.Runs = slices.Clone(j.Runs)
	j.Runs[i].SetAside = aside
	return true
}

// Continues tells whether all that has changed of the runs since before is that there
// are more: those that were there are the very same.
func Continues(before, after []Run) bool {
	return len(before) == 0 || len(after) >= len(before) && &before[0] == &after[0]
}
