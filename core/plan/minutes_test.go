package plan_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/plan"
)

// What a person does takes as long as its runs, on a quick drive half of that.
func TestMinutesByHand(t *testing.T) {
	entry := catalogue.All()[0]
	each := entry.Hands + entry.Wait
	for runs := range 4 {
		assert.InDelta(t, each*float64(runs),
			plan.Minutes(&entry.Test, &job.Drive{DriveLabel: job.DriveLabel{Kind: job.HDD}}, runs), 1e-12)
		assert.InDelta(t, each*float64(runs)/2,
			plan.Minutes(&entry.Test, &job.Drive{DriveLabel: job.DriveLabel{Kind: job.NVMe}}, runs), 1e-12)
		assert.InDelta(t, each*float64(runs), plan.Minutes(&entry.Test, nil, runs), 1e-12)
	}
}
