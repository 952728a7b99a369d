package job

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

func TestDefaultSides(t *testing.T) {
	day := func(d int) time.Time { return time.Date(2031, 3, d, 9, 0, 0, 0, time.UTC) }
	run := func(id, sitting string) Run { return Run{ID: id, Test: "t", Sitting: sitting, Value: 1} }
	aside := run("r", "s2")
	aside.SetAside = &SetAside{Reason: AfterItWentBack}
	for name, c := range map[string]struct {
		job        Job
		then, with string
	}{
		"nothing": {Job{}, "", ""},
		"an upgrade": {Job{Setups: []Setup{{ID: "then", Role: Then}, {ID: "x", Role: Trial}, {ID: "now", Role: Now}}},
			"then", "now"},
		"an upgrade with a trial alone": {Job{Setups: []Setup{{ID: "then", Role: Then}, {ID: "a", Role: Trial},
			{ID: "b", Role: Trial}}}, "then", "b"},
		"the trial that stays": {Job{Head: Head{Stays: "x"}, Setups: []Setup{{ID: "then", Role: Then},
			{ID: "x", Role: Trial}, {ID: "now", Role: Now}}}, "then", "x"},
		"without Then": {Job{Setups: []Setup{{ID: "now", Role: Now}}}, "", "now"},
		"a comparison": {Job{Head: Head{Kind: KindComparison}, Setups: []Setup{{ID: "a", Role: Trial},
			{ID: "b", Role: Trial}, {ID: "c", Role: Trial}}, Sittings: []Sitting{{ID: "s1", Setup: "b"}},
			Runs: []Run{run("r", "s1")}}, "a", "b"},
		"a comparison, nothing measured yet": {Job{Head: Head{Kind: KindComparison}, Setups: []Setup{
			{ID: "a", Role: Trial}, {ID: "b", Role: Trial}, {ID: "c", Role: Trial}}}, "a", "c"},
		"a comparison of which one stays": {Job{Head: Head{Kind: KindComparison, Stays: "b"}, Setups: []Setup{
			{ID: "a", Role: Trial}, {ID: "b", Role: Trial}, {ID: "c", Role: Trial}}}, "a", "b"},
		"a comparison of one": {Job{Head: Head{Kind: KindComparison}, Setups: []Setup{{ID: "a", Role: Trial}}}, "", "a"},
		"a check-up": {Job{Head: Head{Kind: KindCheckUp}, Setups: []Setup{{ID: "now", Role: Now}},
			Sittings: []Sitting{{ID: "s3", Setup: "now", Started: day(9)}, {ID: "s1", Setup: "now", Started: day(1)},
				{ID: "s2", Setup: "now", Started: day(5)}, {ID: "s4", Setup: "now", Started: day(10)},
				{ID: "s5", Setup: "now", Started: day(11), Purpose: ForQuestion}},
			Runs: []Run{run("a", "s1"), run("b", "s2"), run("c", "s3"), run("d", "s5")}}, "s1", "s3"},
		"a check-up after it went back": {Job{Head: Head{Kind: KindCheckUp}, Setups: []Setup{{ID: "now", Role: Now}},
			Sittings: []Sitting{{ID: "s1", Setup: "now", Started: day(1)}, {ID: "s2", Setup: "now", Started: day(5),
				FollowUp: true}}, Runs: []Run{run("a", "s1"), aside}}, "s1", "s2"},
		"a check-up's first session": {Job{Head: Head{Kind: KindCheckUp}, Setups: []Setup{{ID: "now", Role: Now}},
			Sittings: []Sitting{{ID: "s1", Setup: "now"}}, Runs: []Run{run("a", "s1")}}, "", "now"},
		"a check-up against an earlier job": {Job{Head: Head{Kind: KindCheckUp}, Setups: []Setup{{ID: "then", Role: Then},
			{ID: "now", Role: Now}}}, "then", "now"},
	} {
		t.Run(name, func(t *testing.T) {
			then, with := c.job.DefaultSides()
			assert.Equal(t, [2]string{c.then, c.with}, [2]string{then, with})
		})
	}
	assert.Equal(t, KindUpgrade, (&Job{}).Kind())
}
