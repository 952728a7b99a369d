package checks

import (
	"fmt"
	"testing"

	"nowthen/core/hardware/match"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// A check that is wrong and says that it touches figures does: what the probe sees, noted on the
// setup, its sitting and its runs as the
// bench notes it, gives the finding of its rule where figures are measured like that, and none
// where it is as it should be.
func TestAFailedCheckBecomesAFinding(t *testing.T) {
	type change = func(j *job.Job, f *hardware.Facts)
	spoils := map[string]change{
		"link": func(_ *job.Job, f *hardware.Facts) {
			f.Drives[0].Attached.LinkMBs, f.Drives[0].Link.Negotiated = 300, "3 Gb/s"
		},
		"disconnected": func(_ *job.Job, f *hardware.Facts) {
			f.Drives = append(f.Drives,
				hardware.Drive{ID: "sdb", Kind: job.HDD, Model: "Turnstone", SerialDigest: "old"})
		},
		"encrypted": func(_ *job.Job, f *hardware.Facts) { f.Volumes[0].Encrypted = ptr(true) },
		"heat":      func(j *job.Job, _ *hardware.Facts) { j.Drives[1].Rated = &job.Rated{MaxTempC: 41} },
		settled:     func(j *job.Job, _ *hardware.Facts) { j.Sittings[1].Conditions.Busy = []job.Busy{"update"} },
	}
	for id, b := range bearings {
		assert.Equal(t, b.rule != "", spoils[id] != nil, "%s has a rule, and so a case here", id)
	}
	for id, spoil := range spoils {
		t.Run(id, func(t *testing.T) {
			rule := bearings[id].rule
			require.NotEmpty(t, rule)
			for _, wrong := range []bool{true, false} {
				j, before, now := visit()
				j.Tests = []job.Test{{ID: "t-read", Kind: job.OnDrive, What: "long-read", Name: "Long read",
					Unit: "MB/s", Better: job.Higher},
					{ID: "t-start", Kind: job.Timed, What: "cold-start", Name: "Cold start", Unit: "s",
						Better: job.Lower}}
				as := func(f *hardware.Facts) job.Conditions {
					beside, _ := f.Beside("/x")
					return job.Conditions{Power: job.Mains, Busy: []job.Busy{}, Attached: beside,
						Encrypted: systemEncrypted(f)}
				}
				j.Sittings = []job.Sitting{{ID: "s1", Setup: "then", Conditions: as(before)}, {ID: "s2", Setup: "now"}}
				if wrong {
					spoil(j, now)
				}
				busy := j.Sittings[1].Conditions.Busy
				j.Sittings[1].Conditions = as(now)
				if busy != nil {
					j.Sittings[1].Conditions.Busy = busy
				}
				j.Sittings[1].Started = j.Head.Opened.Add(1)
				match.FillIn(now, j, &j.Setups[1])
				for i := range 3 {
					for sitting, values := range map[string][2]float64{"s1": {100, 90}, "s2": {285, 30}} {
						for k, test := range []string{"t-read", "t-start"} {
							j.Runs = append(j.Runs,
								job.Run{ID: fmt.Sprint(sitting, test, i), Test: test, Sitting: sitting,
									Value: values[k] + float64(i), PeakTempC: ptr(41.0)})
						}
					}
				}
				state := states(append(append(Of(j, &j.Setups[1], before, now), Noted(j, &j.Setups[1], now)...),
					ByHand(j, &j.Setups[1])...))[id]
				var found []string
				for _, f := range compare.Compare(j, "then", "now", compare.DefaultOptions).Findings {
					found = append(found, f.Rule)
				}
				if wrong {
					assert.Equal(t, Wrong, state)
					assert.Contains(t, found, rule)
				} else {
					assert.Equal(t, Fine, state)
					assert.NotContains(t, found, rule)
				}
			}
		})
	}
}
