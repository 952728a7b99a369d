package job

import (
	"reflect"
	"slices"
)

// Clone returns a deep copy: nothing that is changed in it changes the job that it was made
// of, however deep it lies.
//
// Only the runs are shared, because there can be very many. New ones may be appended, to one
// clone of a job at a time; a run that is there is changed by [Job.PutAside] alone.
func (j *Job) Clone() *Job {
	c := *j
	copyHead(reflect.ValueOf(&c).Elem(), reflect.ValueOf(j).Elem())
	return &c
}

// Trace is what of a run is drawn but not compared: its rate over time and the
// distribution of its response times.
type Trace struct {
	Series *Series `json:"series,omitzero"`
	Spread *Spread `json:"spread,omitzero"`
}

// Empty reports whether there is nothing to draw.
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

// AddPhotoTo attaches a photo to a run. It reports whether there is such a run.
func (j *Job) AddPhotoTo(run string, p Photo) bool {
	i := slices.IndexFunc(j.Runs, func(r Run) bool { return r.ID == run })
	if i < 0 {
		return false
	}
	j.Runs = slices.Clone(j.Runs)
	j.Runs[i].Photos = append(slices.Clone(j.Runs[i].Photos), p)
	return true
}

// Continues reports whether all that has changed of the runs since before is that there
// are more: those that were there are the very same.
func Continues(before, after []Run) bool {
	return len(before) == 0 || len(after) >= len(before) && &before[0] == &after[0]
}
