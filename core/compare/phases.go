package compare

import (
	"cmp"
	"maps"
	"slices"

	"nowthen/core/job"
	"nowthen/core/side"
)

// Phase is a part of a wait on both sides, s. Those that count add up to the line's centres.
type Phase struct {
	ID     string  `json:"id"`
	Then   float64 `json:"then"`
	With   float64 `json:"with"`
	Saves  float64 `json:"saves"`
	Counts bool    `json:"counts"`
}

// phases compares the parts of a wait on both sides (calculations, section 15); nil unless both were split into
// the same phases.
func phases(t *job.Test, then, with *side.Side) *[]Phase {
	if t.Kind != job.Timed || then == nil || with == nil {
		return nil
	}
	a, b := middle(then), middle(with)
	if len(a) == 0 || len(a) != len(b) {
		return nil
	}
	var list []Phase
	for _, p := range t.Phases {
		before, ok := a[p.ID]
		after, too := b[p.ID]
		if ok != too {
			return nil
		}
		if ok {
			list = append(list, Phase{p.ID, before, after, before - after, p.Counted()})
		}
	}
	return &list
}

// middle are the phases of the run that is a side's median, of an even number the means of the two middle runs;
// nil where its runs were not all split alike, or one is a bound.
func middle(s *side.Side) map[string]float64 {
	runs := slices.Clone(s.Central())
	for _, r := range runs {
		if r.Bound != "" || len(r.Phases) != len(runs[0].Phases) {
			return nil
		}
		for id := range r.Phases {
			if _, ok := runs[0].Phases[id]; !ok {
				return nil
			}
		}
	}
	slices.SortStableFunc(runs, func(a, b *job.Run) int { return cmp.Compare(a.Value, b.Value) })
	n := len(runs)
	low, high := runs[(n-1)/2].Phases, runs[n/2].Phases
	mean := maps.Clone(low)
	for id := range mean {
		mean[id] = (low[id] + high[id]) / 2
	}
	return mean
}
