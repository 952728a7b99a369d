package forecast

import (
	"cmp"
	"math"
	"nowthen/core/job"
	"slices"
)

// Known is what earlier jobs tell of one test between two kinds of drive.
type Known struct {
	Test string        `json:"test"` // by what
	Name string        `json:"name"` // as the catalogue calls it; empty here, where nothing is put into words
	Old  job.DriveKind `json:"old"`
	New  job.DriveKind `json:"new"`
	// FactorLow to FactorHigh and WaitLow to WaitHigh, s, are the 80 % ranges of the next job; nil below five jobs.
	FactorLow  *float64   `json:"factor_low"`
	FactorHigh *float64   `json:"factor_high"`
	WaitLow    *float64   `json:"wait_low"`
	WaitHigh   *float64   `json:"wait_high"`
	Jobs       []KnownJob `json:"jobs"`
}

// KnownJob is one job's share in it.
type KnownJob struct {
	ID     string   `json:"id"`
	Number string   `json:"number"`
	Factor float64  `json:"factor"`
	Wait   *float64 `json:"wait"` // how long it took afterwards, s; nil for what is no wait
	// Outlier lies beyond the fences, 1.5 times the distance of the quartiles outside them, on the
	// ln scale (Tukey 1977).
	Outlier bool `json:"outlier"`
}

// Known lists all classes by test, the ones with most jobs first.
func (s *Shop) Known() []Known {
	at := map[class]int{}
	list := []Known{}
	for i := range s.jobs {
		p := &s.jobs[i]
		for _, l := range p.Lines {
			c := class{ByTest, l.Test, string(p.Old), p.New}
			k, ok := at[c]
			if !ok {
				k = len(list)
				at[c] = k
				list = append(list, Known{Test: l.Test, Old: p.Old, New: p.New, Jobs: []KnownJob{}})
			}
			if n := len(list[k].Jobs); n > 0 && list[k].Jobs[n-1].Number == p.Job {
				continue // one a job
			}
			j := KnownJob{Number: p.Job, Factor: math.Exp(l.LnFactor)}
			if l.Wait {
				wait := math.Exp(l.LnAfter)
				j.Wait = &wait
			}
			list[k].Jobs = append(list[k].Jobs, j)
		}
	}
	for i := range list {
		k := &list[i]
		c := class{ByTest, k.Test, string(k.Old), k.New}
		ends := func(p *pool) (low, high *float64) {
			if l, h, _, ok := p.next(-1); ok {
				l, h = math.Exp(l), math.Exp(h)
				return &l, &h
			}
			return nil, nil
		}
		k.FactorLow, k.FactorHigh = ends(s.factors[c])
		k.WaitLow, k.WaitHigh = ends(s.afters[c])
		if p := s.factors[c]; p != nil && len(p.sorted) >= least {
			fence(k.Jobs, p.sorted)
		}
	}
	slices.SortStableFunc(list, func(a, b Known) int { return cmp.Compare(len(b.Jobs), len(a.Jobs)) })
	return list
}

// fence marks the jobs whose factor lies far from the others'.
func fence(jobs []KnownJob, sorted []float64) {
	n := len(sorted)
	value := func(i int) float64 { return sorted[i] }
	low, high := ranked(value, n, 0.25*float64(n+1)), ranked(value, n, 0.75*float64(n+1))
	reach := 1.5 * (high - low)
	for i := range jobs {
		y := math.Log(jobs[i].Factor)
		jobs[i].Outlier = y < low-reach || y > high+reach
	}
}
