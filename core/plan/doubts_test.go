package plan

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// A hard disk that clearly isn't one is reported while it can be fixed.
func TestDoubts(t *testing.T) {
	for name, tt := range map[string]struct {
		reads float64
		kind  job.DriveKind
		where *job.Where
		want  string
	}{
		"as disks do":        {180, job.HDD, nil, ""},
		"faster than an arm": {9000, job.HDD, nil, "9000 reads per second is more than a spinning disk can do"},
		"an SSD":             {9000, job.SataSSD, nil, ""},
		"the drive itself":   {180, job.HDD, &job.Where{Computer: "bench", CapacityBytes: 500e9}, ""},
		"another drive by size": {180, job.HDD, &job.Where{Computer: "bench", CapacityBytes: 2e12},
			"A drive of 2000 GB was measured"},
		"of unknown size": {180, job.HDD, &job.Where{Computer: "bench"}, ""},
	} {
		t.Run(name, func(t *testing.T) {
			j := visit()
			d := j.Drive(j.SetupAs(job.Then).Drive)
			d.Kind, d.CapacityBytes = tt.kind, 500e9
			j.Sittings[0].Where = tt.where
			j.Runs = append(j.Runs, job.Run{ID: "r", Test: catalogue.ScatteredRead, Sitting: "s1", Value: tt.reads})
			doubts := Of(j).Doubts(j.SetupAs(job.Then))
			if tt.want == "" {
				assert.Empty(t, doubts)
				return
			}
			if assert.Len(t, doubts, 1) {
				assert.Contains(t, doubts[0].What, tt.want)
				assert.Equal(t, "then", doubts[0].Setup)
				assert.Contains(t, Of(j).BeforeOldDriveOut(), Lost{"", doubts[0].What}, "and at the checkpoint")
			}
		})
	}
}
