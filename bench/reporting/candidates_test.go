package reporting

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/compare"
	"nowthen/core/job"
)

// Statements about two candidates go no further than their interval supports.
func TestWhatIsSaidOfTwoCandidates(t *testing.T) {
	j := &job.Job{Drives: []job.Drive{
		{ID: "a", DriveLabel: job.DriveLabel{CapacityBytes: 500e9,
			Price: &job.Price{Amount: "40.00", Currency: "EUR"}}},
		{ID: "b", DriveLabel: job.DriveLabel{CapacityBytes: 1000e9,
			Price: &job.Price{Amount: "60.00", Currency: "EUR"}}},
		{ID: "c", DriveLabel: job.DriveLabel{CapacityBytes: 1000e9,
			Price: &job.Price{Amount: "60.00", Currency: "CHF"}}},
		{ID: "d"},
	}}
	trial := &job.Setup{ID: "trial", Role: job.Trial, Name: "the small one", Drive: "a"}
	now := func(drive string) *job.Setup { return &job.Setup{ID: "now", Role: job.Now, Drive: drive} }
	group := func(factor, low, high float64) compare.Group {
		return compare.Group{Factor: &factor, Low: &low, High: &high, Lines: 3}
	}
	for _, tt := range []struct {
		name string
		g    compare.Group
		b    *job.Setup
		want string
	}{
		{"the second waits less, which the groups say", group(1.3, 1.1, 1.5), now("b"), ""},
		{"the second waits longer, which the groups say", group(0.8, 0.7, 0.9), now("b"), ""},
		{"not told apart", group(1.02, 0.97, 1.07), now("b"),
			"The customer’s waits don’t differ between the small one and Now. Cheaper: the small one. More " +
				"room: Now."},
		{"an end at 1 tells nothing", group(1.02, 1, 1.07), now("d"),
			"The customer’s waits don’t differ between the small one and Now."},
		{"prices in two currencies", group(1, 0.9, 1.1), now("c"),
			"The customer’s waits don’t differ between the small one and Now. More room: Now."},
		{"nothing measured on both", compare.Group{}, now("b"), ""},
	} {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, against(tt.g, j, trial, tt.b)) })
	}
}
