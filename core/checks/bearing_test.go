package checks

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/fairness"
	"nowthen/core/job"
)

// Each check bears on something that there is: a gate of the track, and a rule that finds the same in figures.
func TestWhatChecksBearOn(t *testing.T) {
	for id, b := range bearings {
		if b.rule != "" {
			assert.True(t, fairness.Known(b.rule), "%s: there is no rule %s", id, b.rule)
		}
		assert.Contains(t, []job.GateName{"", job.GateCaseClosed, job.GateHandedBack}, b.gate, id)
		assert.True(t, b.gate != "" || b.rule != "", id)
	}
	j, before, now := visit()
	j.Setups[1].System.Origin = job.Cloned
	for _, c := range append(Of(j, &j.Setups[1], before, now), ByHand(j, &j.Setups[1])...) {
		if _, ok := bearings[c.ID]; !ok {
			assert.True(t, c.ByHand, "%s bears on nothing", c.ID)
			assert.Equal(t, job.GateHandedBack, c.Gate, c.ID)
		}
	}
}

// Whether updates and indexing have settled is seen by whoever looked last, a person or the conditions.
func TestWhetherItHasSettled(t *testing.T) {
	morning := time.Date(2026, 11, 3, 9, 0, 0, 0, time.UTC)
	at := func(hours int) time.Time { return morning.Add(time.Duration(hours) * time.Hour) }
	sat := func(hours int, busy []job.Busy) job.Sitting {
		return job.Sitting{ID: "s", Setup: "now", Started: at(hours), Conditions: job.Conditions{Busy: busy}}
	}
	for name, c := range map[string]struct {
		sittings []job.Sitting
		runs     []job.Run
		looked   []job.CheckedByHand
		state    job.CheckState
		found    string
	}{
		"nobody looked": {nil, nil, nil, Unknown, "not checked yet"},
		"nobody knows":  {[]job.Sitting{sat(1, nil)}, nil, nil, Unknown, "not checked yet"},
		"nothing ran": {[]job.Sitting{sat(1, []job.Busy{})}, nil, nil, Fine,
			"neither ran as conditions were last noted"},
		"something else ran": {[]job.Sitting{sat(1, []job.Busy{"download"})}, nil, nil, Fine,
			"neither ran as conditions were last noted"},
		"an update": {[]job.Sitting{sat(1, []job.Busy{"scan", "update"})}, nil, nil, Wrong,
			"an update was running as conditions were last noted"},
		"and then no more": {[]job.Sitting{sat(1, []job.Busy{"update"})},
			[]job.Run{{Sitting: "s", At: at(2),
				Conditions: &job.Conditions{Busy: []job.Busy{}}}}, nil, Fine,
			"neither ran as conditions were last noted"},
		"and again": {[]job.Sitting{sat(1, []job.Busy{})},
			[]job.Run{{Sitting: "s", At: at(2),
				Conditions: &job.Conditions{Busy: []job.Busy{"indexing"}}}}, nil, Wrong,
			"indexing was running as conditions were last noted"},
		"somebody looked later": {[]job.Sitting{sat(1, []job.Busy{"update"})}, nil,
			[]job.CheckedByHand{{Check: settled, State: Fine, At: at(3), By: "Wren"}}, Fine, "looked at by Wren"},
		"somebody looked earlier": {[]job.Sitting{sat(3, []job.Busy{"update"})}, nil,
			[]job.CheckedByHand{{Check: settled, State: Fine,
				At: at(1)}}, Wrong, "an update was running as conditions were last noted"},
		"a run of no sitting": {[]job.Sitting{sat(1, []job.Busy{})},
			[]job.Run{{Sitting: "gone", At: at(2),
				Conditions: &job.Conditions{Busy: []job.Busy{"update"}}}}, nil, Fine,
			"neither ran as conditions were last noted"},
		"a run on the old drive": {[]job.Sitting{sat(1, []job.Busy{}), {ID: "t", Setup: "then"}},
			[]job.Run{{Sitting: "t", At: at(2),
				Conditions: &job.Conditions{Busy: []job.Busy{"update"}}}}, nil, Fine,
			"neither ran as conditions were last noted"},
		"a run of another visit": {[]job.Sitting{sat(1, []job.Busy{}), {ID: "t", Setup: "now", Job: "earlier"}},
			[]job.Run{{Sitting: "t", At: at(2),
				Conditions: &job.Conditions{Busy: []job.Busy{"update"}}}}, nil, Fine,
			"neither ran as conditions were last noted"},
		"on the old drive": {[]job.Sitting{{ID: "s", Setup: "then", Started: at(1),
			Conditions: job.Conditions{Busy: []job.Busy{"update"}}}}, nil, nil, Unknown, "not checked yet"},
		"in another visit": {[]job.Sitting{{ID: "s", Setup: "now", Job: "earlier", Started: at(1),
			Conditions: job.Conditions{Busy: []job.Busy{}}}}, nil, nil, Unknown, "not checked yet"},
	} {
		t.Run(name, func(t *testing.T) {
			j, _, _ := visit()
			j.Sittings, j.Runs, j.Head.Looked = c.sittings, c.runs, c.looked
			for _, k := range ByHand(j, &j.Setups[1]) {
				if k.ID == settled {
					assert.Equal(t, []any{c.state, c.found},
						[]any{k.State, k.Found})
					assert.Equal(t, c.state == Wrong, k.Do != "")
				}
			}
		})
	}
}
