package side

import (
	"math"

	"nowthen/core/job"
	"nowthen/core/stats"
)

// How much data a shop's own jobs need before they set the usual spread, and the bounds of its weight
// (calculations, section 13).
const (
	LeastSides    = 20 // of two runs or more, for the spread within a sitting
	LeastSittings = 10 // sides of two sittings or more, for that between them
	leastWeight   = 5
	mostWeight    = 20
)

// Learning gathers the sides of a shop's past jobs.
type Learning struct{ kinds map[job.Kind]*learned }

// learned is what was gathered of a kind of test.
type learned struct {
	sides, sittings int
	variances       []float64 // within sittings
	freedoms        []float64
	between, weight float64 // the sum of (J − 1)·s_b², and of J − 1
}

// Add takes in the sides of a job's timed, drive, file and control tests, without
// simulated runs and without bounds. The job's own notion of what is usual plays no part.
func (l *Learning) Add(x *job.Index) {
	if l.kinds == nil {
		l.kinds = map[job.Kind]*learned{}
	}
	for i := range x.Tests {
		t := &x.Tests[i]
		for k := range x.Setups {
			l.add(x, t, x.Setups[k].ID)
		}
	}
}

func (l *Learning) add(x *job.Index, t *job.Test, setup string) {
	var runs []*job.Run
	for _, r := range x.Side(t.ID, setup) {
		if r.Simulated || r.Value <= 0 || r.Bound != "" {
			return
		}
		runs = append(runs, r)
	}
	if len(runs) < 2 {
		return
	}
	k := l.kinds[t.Kind]
	if k == nil {
		k = &learned{}
		l.kinds[t.Kind] = k
	}
	k.sides++
	var logs [][]float64
	for _, list := range bySitting(runs) {
		var y []float64
		for _, r := range list {
			y = append(y, math.Log(r.Value))
		}
		logs = append(logs, y)
	}
	sittings := float64(len(logs))
	if freedom := float64(len(runs)) - sittings; freedom > 0 {
		own := stats.Within(logs, stats.Prior{}) // without a prior: the sample variance
		k.variances, k.freedoms = append(k.variances, own.Variance), append(k.freedoms, freedom)
	}
	if len(logs) > 1 {
		k.sittings++
		within := usual[t.Kind].Within * usual[t.Kind].Within
		if n := len(k.variances); n > 0 && float64(len(runs)) > sittings {
			within = k.variances[n-1]
		}
		k.between += (sittings - 1) * stats.Between(logs, within, stats.Prior{}).Variance
		k.weight += sittings - 1
	}
}

// Learnt is the usual spread of a kind of test, and its basis.
type Learnt struct {
	Kind  job.Kind  `json:"kind"`
	Usual job.Usual `json:"usual"`
	// Sides of two runs or more were gathered, Sittings of them over two sittings or more.
	Sides    int `json:"sides"`
	Sittings int `json:"sittings"`
	// Own and OwnBetween report whether the spreads are the shop's own, or the table's because
	// there is too little yet.
	Own        bool `json:"own"`
	OwnBetween bool `json:"own_between"`
}

// Learnt returns the usual spreads, by kind: the shop's own if it has enough sides, else the table's.
func (l *Learning) Learnt() []Learnt {
	var list []Learnt
	for _, kind := range []job.Kind{job.Timed, job.OnDrive, job.OnFiles, job.Control, job.Note} {
		out := Learnt{Kind: kind, Usual: usual[kind]}
		k := l.kinds[kind]
		if k == nil {
			k = &learned{}
		}
		out.Sides, out.Sittings = k.sides, k.sittings
		if p, ok := stats.FitPrior(k.variances, k.freedoms, leastWeight, mostWeight); ok && k.sides >= LeastSides {
			out.Own, out.Usual.Within, out.Usual.Weight = true, p.SD, p.Weight
			if k.sittings >= LeastSittings && k.between > 0 {
				out.OwnBetween, out.Usual.Between = true, math.Sqrt(k.between/k.weight)
			}
		}
		list = append(list, out)
	}
	return list
}
