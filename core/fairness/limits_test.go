package fairness

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// Each limit of the table, just not reached and just passed.
func TestLimits(t *testing.T) {
	disk := func(j *job.Job) { // both sides on disks of the same speed
		j.Drives[1].Kind = job.HDD
		each(j, "scattered", "s2", func(r *job.Run) { r.Value = 110 })
		each(j, "start", "", func(r *job.Run) { r.Value = 60 })
	}
	busyWith := func(mbs, cpu float64) func(*job.Job) {
		return func(j *job.Job) {
			j.Sittings[0].Conditions.BackgroundMBs, j.Sittings[0].Conditions.CPUPct = new(0.1), new(1.0)
			j.Sittings[1].Conditions.BackgroundMBs, j.Sittings[1].Conditions.CPUPct = &mbs, &cpu
		}
	}
	long := func(value float64) func(*job.Job) {
		return func(j *job.Job) { each(j, "long", "s2", func(r *job.Run) { r.Value = value }) }
	}
	tests := []struct {
		name           string
		rule           string
		within, beyond func(*job.Job)
	}{
		{"background I/O over 2 MB/s", "busy", busyWith(2, 1), busyWith(2.1, 1)},
		{"processor over 15 %", "busy", busyWith(0.1, 15), busyWith(0.1, 15.1)},
		{"fill over 20 points", "fill",
			func(j *job.Job) {
				j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(50.0), new(70.0)
			},
			func(j *job.Job) {
				j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(50.0), new(70.1)
			}},
		{"fill among the runs of one side", "fill",
			func(j *job.Job) {
				j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(60.0), new(60.0)
				j.Run("longs20").Conditions = &job.Conditions{FillPct: new(80.0)}
			},
			func(j *job.Job) {
				j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(60.0), new(60.0)
				j.Run("longs20").Conditions = &job.Conditions{FillPct: new(81.0)}
			}},
		{"places over 25 points apart", "placement",
			func(j *job.Job) {
				disk(j)
				each(j, "long", "s1", func(r *job.Run) { r.Placement = &job.Placement{FromPct: 10, ToPct: 12} })
				each(j, "long", "s2", func(r *job.Run) { r.Placement = &job.Placement{FromPct: 34, ToPct: 38} })
			},
			func(j *job.Job) {
				disk(j)
				each(j, "long", "s1", func(r *job.Run) { r.Placement = &job.Placement{FromPct: 10, ToPct: 12} })
				each(j, "long", "s2", func(r *job.Run) { r.Placement = &job.Placement{FromPct: 34, ToPct: 38.2} })
			}},
		{"one core over 90 %", "engine-limited",
			func(j *job.Job) { j.Run("longs20").EngineCPU = &job.EngineCPU{Core: 90, All: 90} },
			func(j *job.Job) { j.Run("longs20").EngineCPU = &job.EngineCPU{Core: 90.1} }},
		{"all cores over 90 %", "engine-limited",
			func(j *job.Job) { j.Run("longs20").EngineCPU = &job.EngineCPU{Core: 90, All: 90} },
			func(j *job.Job) { j.Run("longs20").EngineCPU = &job.EngineCPU{Core: 50, All: 90.1} }},
		{"a battery that sinks by more than it may by itself", "weak-supply",
			func(j *job.Job) {
				j.Sittings[0].Conditions.Power = "mains"
				j.Sittings[1].Conditions = job.Conditions{Power: "mains", BatteryFromPct: new(80.0),
					BatteryToPct: new(78.0)}
			},
			func(j *job.Job) {
				j.Sittings[0].Conditions.Power = "mains"
				j.Sittings[1].Conditions = job.Conditions{Power: "mains", BatteryFromPct: new(80.0),
					BatteryToPct: new(77.9)}
			}},
		{"a run 1.5 times away", "lone-run",
			func(j *job.Job) {
				each(j, "copy", "s2", func(r *job.Run) { r.Value = 20 })
				j.Run("copys21").Value = 30
			},
			func(j *job.Job) {
				each(j, "copy", "s2", func(r *job.Run) { r.Value = 20 })
				j.Run("copys21").Value = 30.1
			}},
		{"and below", "lone-run",
			func(j *job.Job) {
				each(j, "copy", "s2", func(r *job.Run) { r.Value = 30 })
				j.Run("copys21").Value = 20
			},
			func(j *job.Job) {
				each(j, "copy", "s2", func(r *job.Run) { r.Value = 30 })
				j.Run("copys21").Value = 19.9
			}},
		{"reads that no arm can do", "beyond-mechanics",
			func(j *job.Job) { each(j, "scattered", "s1", func(r *job.Run) { r.Value = 250 }) },
			func(j *job.Job) { each(j, "scattered", "s1", func(r *job.Run) { r.Value = 251 }) }},
		{"70 % of the rating", "below-rating", long(350), long(349.9)},
		{"102 % of the link", "beyond-link", long(612), long(612.1)},
		{"85 % of the link", "port-limit",
			func(j *job.Job) { j.Setups[1].Attached.LinkMBs = 300; long(254.9)(j) },
			func(j *job.Job) { j.Setups[1].Attached.LinkMBs = 300; long(255)(j) }},
		{"70 % of USB", "port-limit",
			func(j *job.Job) {
				j.Setups[0].Attached.Port, j.Setups[1].Attached = "usb", job.Attached{Port: "usb", LinkMBs: 400}
				long(279.9)(j)
			},
			func(j *job.Job) {
				j.Setups[0].Attached.Port, j.Setups[1].Attached = "usb", job.Attached{Port: "usb", LinkMBs: 400}
				long(280)(j)
			}},
		{"at the temperature limit", "heat",
			func(j *job.Job) { j.Run("longs20").PeakTempC = new(69.9) },
			func(j *job.Job) { j.Run("longs20").PeakTempC = new(70.0) }},
		// The interval of three controls a side is ±2.7 % wide: 1.05 × 1.027 is 1.078.
		{"a control beyond 1.05", "control-moved",
			func(j *job.Job) { each(j, "control", "s2", func(r *job.Run) { r.Value = 10.65 }) },
			func(j *job.Job) { each(j, "control", "s2", func(r *job.Run) { r.Value = 10.85 }) }},
		{"and the other way", "control-moved",
			func(j *job.Job) { each(j, "control", "s1", func(r *job.Run) { r.Value = 10.75 }) },
			func(j *job.Job) { each(j, "control", "s1", func(r *job.Run) { r.Value = 10.95 }) }},
	}
	has := func(change func(*job.Job), rule string) bool {
		j := fair()
		change(j)
		return slices.ContainsFunc(found(j, "then", "now"), func(f Finding) bool { return f.Rule == rule })
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			assert.False(t, has(tt.within, tt.rule), "within")
			assert.True(t, has(tt.beyond, tt.rule), "beyond")
		})
	}
}

// What a finding says are the two values.
func TestWhatFindingsSay(t *testing.T) {
	says := func(rule string, change func(*job.Job)) [2]string {
		j := fair()
		change(j)
		for _, f := range found(j, "then", "now") {
			if f.Rule == rule {
				return [2]string{Said(f.Then, j), Said(f.With, j)}
			}
		}
		require.Fail(t, rule+" was not found")
		return [2]string{}
	}
	assert.Equal(t, [2]string{"60 to 62 % full", "90 % full"}, says("fill", func(j *job.Job) {
		j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(60.0), new(90.4)
		j.Run("longs10").Conditions = &job.Conditions{FillPct: new(62.0)}
		j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.Test == "scattered" })
	}))
	assert.Equal(t, [2]string{"61 % full", "90 % full"}, says("fill", func(j *job.Job) {
		j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(60.5), new(90.0)
		j.Run("longs10").Conditions = &job.Conditions{FillPct: new(61.0)}
		j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.Test == "scattered" })
	}))
	assert.Equal(t, [2]string{"8 GiB", "12.5 GiB"},
		says("memory-changed", func(j *job.Job) { j.Setups[1].Fitted = &job.Fitted{MemoryBytes: 25 << 29} }))
	assert.Equal(t, [2]string{"before the drivers, before the cleaning", "after the drivers, after the cleaning"},
		says("other-work", func(j *job.Job) {
			j.Head.Work = []job.Work{{At: noon.Add(3600e9), What: "drivers"}, {At: noon.Add(7200e9), What: "cleaning"},
				{At: noon.Add(7300e9), What: "cleaning"}}
		}))
	assert.Equal(t, [2]string{"before and after the drivers", "after the drivers"},
		says("other-work", func(j *job.Job) {
			j.Head.Work = []job.Work{{At: noon.Add(90e9), What: "drivers"}}
		}), "in the midst of Then's runs")
	assert.Equal(t, [2]string{"nothing else running", "background I/O, scan"}, says("busy", func(j *job.Job) {
		j.Sittings[0].Conditions.Busy = []job.Busy{}
		j.Sittings[1].Conditions = job.Conditions{Busy: []job.Busy{"scan"}, BackgroundMBs: new(9.0)}
	}))
	sample := func(j *job.Job) {
		each(j, "scattered", "s1",
			func(r *job.Run) { r.Sample = []job.SampleFile{{Path: "a", Bytes: 60}, {Path: "b", Bytes: 40}} })
		each(j, "scattered", "s2", func(r *job.Run) {
			r.Sample = []job.SampleFile{{Path: "a", Bytes: 60}, {Path: "b", Bytes: 41}, {Path: "c", Bytes: 9}}
		})
	}
	half := "55 % of the bytes are on both sides"
	assert.Equal(t, [2]string{half, half}, says("other-content", sample), "60 of 110; another size is another file")
}
