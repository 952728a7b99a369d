package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestFactsTickTheirSteps(t *testing.T) {
	yes := true
	tests := []struct {
		fact string
		make func(*Job)
	}{
		{FactMains, func(j *Job) { j.Sittings[0].Conditions.Power = "mains" }},
		{FactEncrypted, func(j *Job) {
			j.Sittings = append(j.Sittings, Sitting{ID: "s2", Setup: "now", Conditions: Conditions{Encrypted: &yes}})
		}},
		{FactMeasured, func(j *Job) {
			j.Sittings = append(j.Sittings, Sitting{ID: "s2", Setup: "now"})
			j.Runs = append(j.Runs, Run{ID: "n", Test: "t2", Sitting: "s2", Value: 1})
		}},
		{FactLink, func(j *Job) {
			j.Sittings = append(j.Sittings, Sitting{ID: "s2", Setup: "now"})
			j.Runs = append(j.Runs, Run{ID: "n", Test: "t2", Sitting: "s2", Value: 1})
			j.Setups[1].Attached = Attached{LinkMBs: 600, CapableMBs: 600}
		}},
	}
	at := time.Unix(1000, 0)
	for _, tt := range tests {
		j := whole()
		j.Plan.Steps = []Step{{ID: "x", Fact: tt.fact}, {ID: "y"}}
		j.SettleFacts(at)
		assert.Nil(t, j.Step("x").Done, "%s is not known yet", tt.fact)
		tt.make(j)
		j.SettleFacts(at)
		if assert.NotNil(t, j.Step("x").Done, tt.fact) {
			assert.Equal(t, at, j.Step("x").Done.At)
			assert.Empty(t, j.Step("x").Done.By)
		}
		assert.Nil(t, j.Step("y").Done, "no fact, no tick")
	}
}
