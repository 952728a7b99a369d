package fairness

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
)

var noon = time.Date(2026, 3, 1, 12, 0, 0, 0, time.UTC)

// readIn says that the runs of a test in a sitting were read in a program.
func readIn(j *job.Job, test, sitting, program, version string, file int64) {
	each(j, test, sitting, func(r *job.Run) {
		r.Method, r.ReadIn = job.Typed, &job.ReadIn{Program: program, Version: version, FileBytes: file}
	})
}

// Sides that agree, or can't be compared, give no findings.
func TestAlikeProgramsAndAmounts(t *testing.T) {
	for name, change := range map[string]func(j *job.Job){
		"the same program": func(j *job.Job) { readIn(j, "long", "", "A", "1", 1<<30) },
		"typed on both sides, from nobody knows where": func(j *job.Job) {
			each(j, "long", "", func(r *job.Run) { r.Method = job.Typed })
		},
		"an amount within 2 %": func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.Method, r.Bytes = job.Stopwatch, 100e9 })
			each(j, "copy", "s2", func(r *job.Run) { r.Method, r.Bytes = job.Stopwatch, 102e9 })
		},
		"an amount of one side alone": func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.Method, r.Bytes = job.Stopwatch, 100e9 })
		},
		"what the probe copied": func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.Bytes = 100e9 })
			each(j, "copy", "s2", func(r *job.Run) { r.Bytes = 10e9 })
		},
		"a version that was typed, and one that was read": func(j *job.Job) {
			j.Setups[0].System = job.System{Version: "10", Source: job.Stated}
			j.Setups[1].System = job.System{Version: "10 (22.4) 19045", Source: job.ProbeSaid}
		},
	} {
		t.Run(name, func(t *testing.T) {
			j := fair()
			change(j)
			for _, f := range found(j, "then", "now") {
				assert.NotContains(t, []string{"other-program", "unequal-amounts", "system-version"}, f.Rule)
			}
		})
	}
}

// fair is a job without findings: a start, long and scattered
// reads, a file test and a control, three runs each on both sides.
func fair() *job.Job {
	long, random := drivetest.LongRead(1<<30), drivetest.ScatteredRead(1<<30)
	no := false
	j := &job.Job{
		Computers: []job.Computer{{ID: "c1", MemoryBytes: 8 << 30, Processor: "p"},
			{ID: "c2", MemoryBytes: 8 << 30, Processor: "p"}},
		Drives: []job.Drive{{ID: "d1",
			DriveLabel: job.DriveLabel{Kind: job.HDD, Rated: &job.Rated{ReadMBs: 120, MaxTempC: 60}}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, Rated: &job.Rated{ReadMBs: 500, MaxTempC: 70}}},
			{ID: "d3", DriveLabel: job.DriveLabel{Kind: job.HDD}}},
		Tests: []job.Test{
			{ID: "start", Kind: job.Timed, What: "cold-start", Name: "Start", Unit: "s", Better: job.Lower,
				Phases: []job.Phase{{ID: "a", Name: "a"}, {ID: "b", Name: "b"}, {ID: "n", Name: "n", Counts: &no}}},
			{ID: "long", Kind: job.OnDrive, What: "long-read", Name: "Long", Unit: "MB/s", Better: job.Higher,
				Params: &long},
			{ID: "scattered", Kind: job.OnDrive, What: job.ScatteredRead, Name: "Scattered", Unit: "IOPS",
				Better: job.Higher, Params: &random},
			{ID: "copy", Kind: job.OnFiles, Name: "Copy", Unit: "s", Better: job.Lower},
			{ID: "control", Kind: job.Control, Name: "Processor", Unit: "s", Better: job.Lower},
		},
		Setups: []job.Setup{
			{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1",
				Attached: job.Attached{Port: "sata", LinkMBs: 300}},
			{ID: "now", Role: job.Now, Computer: "c1", Drive: "d2", Replaces: "d1",
				Attached: job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600}},
		},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then", Started: noon},
			{ID: "s2", Setup: "now", Started: noon.Add(3 * time.Hour)}},
	}
	values := map[string][2]float64{"start": {90, 30}, "long": {110, 450}, "scattered": {100, 9000}, "copy": {60, 20},
		"control": {10, 10.1}}
	for _, t := range j.Tests {
		for side, sitting := range []string{"s1", "s2"} {
			for n := range 3 {
				j.Runs = append(j.Runs,
					job.Run{ID: t.ID + sitting + string(rune('0'+n)), Test: t.ID, Sitting: sitting,
						Method: job.Automatic,
						Value: values[t.ID][side] * (1 +
							float64(n)/1000), At: j.Sittings[side].Started.Add(time.Duration(n) * time.Minute)})
			}
		}
	}
	return j
}

// each changes the runs of a test ("" for all) on a sitting.
func each(j *job.Job, test, sitting string, change func(*job.Run)) {
	for i := range j.Runs {
		if r := &j.Runs[i]; (test == "" || r.Test == test) && (sitting == "" || r.Sitting == sitting) {
			change(r)
		}
	}
}

// found are the findings of a job.
func found(j *job.Job, then, with string) []Finding { return intended(j, then, with, "") }

func intended(j *job.Job, then, with, rule string) []Finding {
	x := j.Indexed()
	sides := make([]Sides, len(j.Tests))
	for i := range j.Tests {
		sides[i] = Sides{side.Of(x, &j.Tests[i], then), side.Of(x, &j.Tests[i], with)}
	}
	return Check(x, then, with, sides, rule)
}

// takenOver is fair whose Then was measured in an earlier job, with a sitting since in
// which the control took so many seconds; 0 is without one.
func takenOver(control float64) *job.Job {
	j := fair()
	j.Sittings[0].Job = "2025-0031"
	if control > 0 {
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s3", Setup: "then", Started: noon.Add(time.Hour)})
		for n := range 3 {
			j.Runs = append(j.Runs,
				job.Run{ID: "again" + string(rune('0'+n)), Test: "control", Sitting: "s3", Method: job.Automatic,
					Value: control * (1 + float64(n)/1000), At: noon.Add(time.Hour)})
		}
	}
	return j
}

func TestAnEarlierJobAsThen(t *testing.T) {
	tests := map[string]struct {
		job  *job.Job
		says string
	}{
		"no control since": {takenOver(0),
			"measured in job 2025-0031; no control shows that the computer is unchanged"},
		"the control agrees": {takenOver(10.05), ""},
		"the control moved": {takenOver(11),
			"measured in job 2025-0031; Processor was 10.01 s then and 11.01 s since"},
		"the control may be off": {takenOver(10.4),
			"measured in job 2025-0031; Processor was 10.01 s then and 10.41 s since"},
		"no control in the plan": {without(takenOver(10), "control"),
			"measured in job 2025-0031; no control shows that the computer is unchanged"},
		"another drive than Then's": {func() *job.Job { j := takenOver(10); j.Setups[1].Replaces = "d3"; return j }(),
			"hard disk"},
	}
	for name, tc := range tests {
		t.Run(name, func(t *testing.T) {
			for _, swapped := range []bool{false, true} {
				then, with := "then", "now"
				if swapped {
					then, with = with, then
				}
				list := slices.DeleteFunc(found(tc.job, then, with),
					func(f Finding) bool { return f.Rule != "other-baseline-drive" })
				if tc.says == "" {
					assert.Empty(t, list)
					continue
				}
				require.Len(t, list, 2)
				for _, f := range list {
					said := f.Then
					if swapped {
						said = f.With
					}
					assert.Equal(t, tc.says, Said(said, tc.job))
				}
				assert.Equal(t, []string{"start", "copy"},
					list[slices.IndexFunc(list, func(f Finding) bool { return f.Effect == Qualifies })].Lines)
				assert.Equal(t, []string{"long", "scattered"},
					list[slices.IndexFunc(list, func(f Finding) bool { return f.Effect == Blocks })].Lines)
			}
		})
	}
}

// without is a job without a test and its runs.
func without(j *job.Job, test string) *job.Job {
	j.Tests = slices.DeleteFunc(j.Tests, func(t job.Test) bool { return t.ID == test })
	j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.Test == test })
	return j
}

func TestNothingIsInDoubt(t *testing.T) { assert.Empty(t, found(fair(), "then", "now")) }

// spoil is a way to spoil a fair comparison, and what is then found.
type spoil struct {
	Rule, Name string
	Spoil      func(*job.Job)
	blocks     []string
	touches    []string // qualified or noted
	effect     Effect   // of touches
}

// spoils has at least one for each rule.
func spoils() []spoil {
	yes, no, fast := true, false, 5.0
	drive, waits := []string{"long", "scattered"}, []string{"start", "copy"}
	most := []string{"start", "long", "scattered", "copy"}
	everything := append(slices.Clone(most), "control")
	return []spoil{
		{"other-computer", "another machine", func(j *job.Job) { j.Setups[1].Computer = "c2" }, everything, nil, ""},
		{"other-baseline-drive", "Then was a third drive", func(j *job.Job) { j.Setups[1].Replaces = "d3" }, drive,
			waits, Qualifies},
		{"other-baseline-drive", "two that replace different drives", func(j *job.Job) {
			j.Setups[0].Role, j.Setups[0].Replaces, j.Setups[1].Replaces = job.Trial, "d1", "d3"
		}, drive, waits, Qualifies},
		{"other-parameters", "a start that was not split", func(j *job.Job) {
			each(j, "start", "s1", func(r *job.Run) { r.Phases = map[string]float64{"a": 40, "n": 3, "b": 50} })
		}, []string{"start"}, nil, ""},
		{"other-parameters", "a run's own parameters", func(j *job.Job) {
			w := *j.Tests[1].Params
			w.BlockBytes = 4096
			j.Run("longs20").Params = &w
		}, []string{"long"}, nil, ""},
		{"other-parameters", "a phase left out", func(j *job.Job) {
			each(j, "start", "s1", func(r *job.Run) { r.Phases = map[string]float64{"a": 40, "b": 50} })
			each(j, "start", "s2", func(r *job.Run) { r.Phases = map[string]float64{"b": 30} })
		}, []string{"start"}, nil, ""},
		{"other-app-version", "an update between", func(j *job.Job) {
			each(j, "start", "s1", func(r *job.Run) { r.AppVersion = "1" })
			each(j, "start", "s2", func(r *job.Run) { r.AppVersion = "2" })
		}, nil, []string{"start"}, Qualifies},
		{"other-content", "another folder", func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.ContentDigest = "x" })
			each(j, "copy", "s2", func(r *job.Run) { r.ContentDigest = "y" })
		}, []string{"copy"}, nil, ""},
		{"power", "battery against mains",
			func(j *job.Job) { j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains" },
			drive, waits, Qualifies},
		{"power", "saving on one side", func(j *job.Job) {
			// the supply is unknown
			j.Sittings[0].Conditions.PowerMode, j.Sittings[1].Conditions.PowerMode = "normal", "saving"
		}, drive, waits, Qualifies},
		{"busy", "a download", func(j *job.Job) {
			j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{}, []job.Busy{"download"}
		}, nil, most, Qualifies},
		{"busy", "measured background traffic", func(j *job.Job) {
			j.Sittings[0].Conditions.BackgroundMBs, j.Sittings[1].Conditions.Busy = &fast, []job.Busy{}
		}, nil, most, Qualifies},
		{"busy", "against a measured idle", func(j *job.Job) {
			j.Sittings[0].Conditions.Busy = []job.Busy{"update"}
			j.Sittings[1].Conditions.BackgroundMBs, j.Sittings[1].Conditions.CPUPct = new(0.1), new(2.0)
		}, nil, most, Qualifies},
		{"not-recorded", "nobody said what ran on the other side",
			func(j *job.Job) { j.Sittings[1].Conditions.Busy = []job.Busy{"download"} }, nil, most, Notes},
		{"not-recorded", "half a look at the other side", func(j *job.Job) {
			j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.CPUPct = []job.Busy{"download"}, new(2.0)
		}, nil, most, Notes},
		{"busy", "what was said of some runs of one side disagrees", func(j *job.Job) {
			j.Run("copys11").Conditions = &job.Conditions{Busy: []job.Busy{"scan"}}
			j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{}, []job.Busy{}
		}, nil, []string{"copy"}, Qualifies},
		{"busy", "something on both sides", func(j *job.Job) {
			j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{"update"}, []job.Busy{"download"}
		}, nil, nil, ""},
		{"encrypting", "a pass", func(j *job.Job) {
			j.Sittings[0].Conditions.Encrypting, j.Sittings[1].Conditions.Encrypting = &yes, &no
		}, most, nil, ""},
		{"not-recorded", "nobody said so of the other side",
			func(j *job.Job) { j.Sittings[0].Conditions.Encrypting = &yes }, nil, most, Notes},
		{"not-recorded", "a system version of one side", func(j *job.Job) { j.Setups[0].System.Version = "10" }, nil,
			waits, Notes},
		{"not-recorded", "a fill level of one side", func(j *job.Job) { j.Sittings[0].Conditions.FillPct = new(50.0) },
			nil, drive, Notes},
		{"not-recorded", "warmth of one side",
			func(j *job.Job) { each(j, "copy", "s1", func(r *job.Run) { r.Warmth = "cold" }) }, nil, []string{"copy"},
			Notes},
		{"encryption", "one side",
			func(j *job.Job) { j.Sittings[0].Conditions.Encrypted, j.Sittings[1].Conditions.Encrypted = &yes, &no },
			nil, most, Qualifies},
		{"memory-changed", "more memory",
			func(j *job.Job) { j.Computers[1].MemoryBytes, j.Setups[1].Computer = 16<<30, "c2" }, nil, waits,
			Qualifies},
		{"memory-changed", "fitted together with the drive",
			func(j *job.Job) { j.Setups[1].Fitted = &job.Fitted{MemoryBytes: 16 << 30} }, nil, waits, Qualifies},
		{"memory-changed", "work between",
			func(j *job.Job) { j.Head.Work = []job.Work{{At: noon.Add(time.Hour), What: "memory"}} }, nil, waits,
			Qualifies},
		{"processor-changed", "another graphics card fitted", func(j *job.Job) {
			j.Setups[0].Fitted, j.Setups[1].Fitted = &job.Fitted{Graphics: "g1"}, &job.Fitted{Graphics: "g2"}
		}, waits, nil, ""},
		{"processor-changed", "another processor",
			func(j *job.Job) { j.Computers[1].Processor, j.Setups[1].Computer = "q", "c2" }, waits, nil, ""},
		{"other-work", "cleaned between",
			func(j *job.Job) { j.Head.Work = []job.Work{{At: noon.Add(time.Hour), What: "cleaning"}} }, nil, waits,
			Qualifies},
		{"other-work", "something else between", func(j *job.Job) {
			j.Head.Work = []job.Work{{At: noon.Add(time.Hour), What: "other"}}
		}, nil, waits, Qualifies},
		{"other-baseline-drive", "Then stands in for a dead one", func(j *job.Job) { j.Setups[0].StandIn = true },
			drive, waits, Qualifies},
		{"not-settled", "a hybrid drive that still learns", func(j *job.Job) {
			j.Drives[1].Kind = job.Hybrid
			for i, v := range []float64{71, 71, 20} {
				j.Run(fmt.Sprint("starts2", i)).Value = v
			}
			each(j, "scattered", "s2", func(r *job.Run) { r.Value = 200 })
		}, []string{"start", "long", "scattered", "copy"}, nil, ""},
		{"settles", "the first one slower than all others", func(j *job.Job) {
			for i, v := range []float64{80, 50, 50.2} {
				j.Run(fmt.Sprint("starts1", i)).Value = v
			}
			again := *j.Run("starts10")
			again.ID, again.Value, again.At = "starts13", 50.1, again.At.Add(time.Hour)
			j.Runs = append(j.Runs, again)
			each(j, "scattered", "s2", func(r *job.Run) { r.Value = 20000 })
		}, nil, []string{"start"}, Qualifies},
		{"same-drive", "the old one was still in", func(j *job.Job) {
			j.Sittings[0].Where = &job.Where{Computer: "c1", DriveDigest: "0123456789"}
			j.Sittings[1].Where = &job.Where{Computer: "c1", DriveDigest: "0123456789"}
		}, most, nil, ""},
		{"measured-elsewhere", "on the bench, then in its computer", func(j *job.Job) {
			j.Sittings[0].Where = &job.Where{Computer: "bench", Port: job.PortUSB}
		}, []string{"long", "scattered", "copy"}, nil, ""},
		{"measured-elsewhere", "both on the bench", func(j *job.Job) {
			j.Sittings[0].Where, j.Sittings[1].Where = &job.Where{Computer: "bench"}, &job.Where{Computer: "bench"}
		}, nil, []string{"long", "scattered", "copy"}, Notes},
		{"measured-elsewhere", "in another one of the job", func(j *job.Job) {
			j.Sittings[1].Where = &job.Where{Computer: "c2"}
		}, []string{"long", "scattered", "copy"}, nil, ""},
		{"system-beside", "another system", func(j *job.Job) {
			j.Setups[0].System.AlsoInstalled, j.Setups[1].System.AlsoInstalled = "x", "dock"
		}, nil, []string{"start"}, Qualifies},
		{"other-program", "a rate that was read in another program", func(j *job.Job) {
			readIn(j, "long", "s1", "A", "1", 1<<30)
		}, []string{"long"}, nil, Blocks},
		{"other-program", "two versions", func(j *job.Job) {
			readIn(j, "long", "s1", "A", "1", 1<<30)
			readIn(j, "long", "s2", "A", "2", 1<<30)
		}, []string{"long"}, nil, Blocks},
		{"other-program", "test files of two sizes", func(j *job.Job) {
			readIn(j, "long", "s1", "A", "1", 1<<30)
			readIn(j, "long", "s2", "A", "1", 4<<30)
		}, []string{"long"}, nil, Blocks},
		{"other-program", "typed, and nobody noted from where", func(j *job.Job) {
			each(j, "scattered", "s2", func(r *job.Run) { r.Method = job.Typed })
		}, []string{"scattered"}, nil, Blocks},
		{"other-program", "a control, typed", func(j *job.Job) { readIn(j, "control", "s2", "", "", 0) },
			[]string{"control"}, nil, Blocks},
		{"other-program", "a score", func(j *job.Job) {
			j.Test("control").Kind = job.Note
			readIn(j, "control", "s1", "A", "1", 0)
			each(j, "control", "s2", func(r *job.Run) { r.Method = job.Typed })
		}, nil, []string{"control"}, Qualifies},
		{"unequal-amounts", "a folder that has grown", func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.Method, r.Bytes = job.Stopwatch, 100e9 })
			each(j, "copy", "s2", func(r *job.Run) { r.Method, r.Bytes = job.Stopwatch, 103e9 })
		}, []string{"copy"}, nil, Blocks},
		{"unequal-amounts", "two amounts on a side", func(j *job.Job) {
			each(j, "copy", "", func(r *job.Run) { r.Method, r.Bytes = job.Video, 100e9 })
			j.Run("copys12").Bytes = 50e9
		}, []string{"copy"}, nil, Blocks},
		{"more-than-the-drive", "the drive changed little", func(j *job.Job) {
			each(j, "scattered", "s2", func(r *job.Run) { r.Value = 120 })
		}, nil, []string{"start"}, Qualifies},
		{"content-moved", "a game on another drive",
			func(j *job.Job) { each(j, "copy", "s2", func(r *job.Run) { r.On = "d3" }) }, nil, []string{"copy"},
			Qualifies},
		{"content-elsewhere", "a game on a drive that stayed",
			func(j *job.Job) { each(j, "copy", "", func(r *job.Run) { r.On = "d3" }) }, nil, []string{"copy"}, Notes},
		{"attached-devices", "a dock on one side", func(j *job.Job) {
			j.Sittings[0].Conditions.Attached, j.Sittings[1].Conditions.Attached = []string{"dock"}, []string{}
		}, nil, []string{"start"}, Qualifies},
		{"firmware-settings", "quick start", func(j *job.Job) {
			j.Sittings[0].Conditions.Firmware, j.Sittings[1].Conditions.Firmware = &job.Firmware{QuickStart: &yes},
				&job.Firmware{QuickStart: &no, StorageMode: "x"}
		}, nil, []string{"start"}, Qualifies},
		{"weak-supply", "a charger that does not keep up", func(j *job.Job) {
			c := &j.Sittings[1].Conditions
			c.Power, c.BatteryFromPct, c.BatteryToPct = "mains", new(80.0), new(61.0)
			j.Sittings[0].Conditions.Power = "mains"
		}, nil, most, Qualifies},
		{"placement", "at the beginning and at the end", func(j *job.Job) {
			j.Drives[1].Kind = job.HDD
			each(j, "scattered", "s2",
				func(r *job.Run) { r.Value = 120; r.Placement = &job.Placement{FromPct: 80, ToPct: 82} })
			each(j, "scattered", "s1", func(r *job.Run) { r.Placement = &job.Placement{FromPct: 10, ToPct: 12} })
			each(j, "start", "", func(r *job.Run) { r.Value = 60 })
		}, nil, []string{"scattered"}, Qualifies},
		{"engine-limited", "a busy core",
			func(j *job.Job) { j.Run("longs21").EngineCPU = &job.EngineCPU{Core: 97, All: 30} }, nil, []string{"long"},
			Qualifies},
		{"drift", "slower at the end of the round", func(j *job.Job) {
			again := *j.Run("longs20")
			again.ID, again.Repeat, again.Value = "again", true, 400
			j.Runs = append(j.Runs, again)
		}, nil, []string{"long", "scattered", "copy"}, Qualifies},
		{"drift", "within what runs differ by", func(j *job.Job) {
			again := *j.Run("longs20")
			again.ID, again.Repeat, again.Value = "again", true, 440
			j.Runs = append(j.Runs, again)
		}, nil, nil, ""},
		{"control-moved", "a slower processor",
			func(j *job.Job) { each(j, "control", "s2", func(r *job.Run) { r.Value = 10.9 }) }, nil, waits, Qualifies},
		{"system-version", "a newer system",
			func(j *job.Job) { j.Setups[0].System.Version, j.Setups[1].System.Version = "10", "11" }, nil, waits,
			Qualifies},
		{"system-origin", "a fresh system",
			func(j *job.Job) { j.Setups[0].System.Origin, j.Setups[1].System.Origin = "as-arrived", "fresh" }, nil,
			waits, Qualifies},
		{"start-kind", "resume-assisted", func(j *job.Job) {
			each(j, "start", "s1", func(r *job.Run) { r.StartKind = "cold" })
			each(j, "start", "s2", func(r *job.Run) { r.StartKind = "resume-assisted" })
		}, []string{"start"}, nil, ""},
		{"first-after-swap", "kept", func(j *job.Job) { j.Sittings[1].Conditions.FirstAfterSwap = &yes }, nil,
			[]string{"start"}, Qualifies},
		{"warmth", "cold against warm", func(j *job.Job) {
			each(j, "copy", "s1", func(r *job.Run) { r.Warmth = "cold" })
			each(j, "copy", "s2", func(r *job.Run) { r.Warmth = "warm" })
		}, []string{"copy"}, nil, ""},
		{"attachment", "over USB", func(j *job.Job) { j.Setups[1].Attached.Port = "usb" }, nil, most, Qualifies},
		{"port-limit", "at a slow link", func(j *job.Job) {
			j.Setups[1].Attached.LinkMBs = 300
			each(j, "long", "s2", func(r *job.Run) { r.Value = 280 })
		}, nil, []string{"long"}, Notes},
		{"below-rating", "half of it", func(j *job.Job) { each(j, "long", "s2", func(r *job.Run) { r.Value = 240 }) },
			nil, []string{"long"}, Notes},
		{"beyond-link", "out of a cache",
			func(j *job.Job) { each(j, "long", "s2", func(r *job.Run) { r.Value = 620 }) }, []string{"long"}, nil, ""},
		{"beyond-link", "requests, by a link's name", func(j *job.Job) {
			j.Setups[1].Attached.LinkMBs, j.Setups[1].Link = 0, &job.Link{Kind: "usb", Negotiated: "2.0"}
			j.Setups[0].Attached.Port = "usb"
			each(j, "long", "s2", func(r *job.Run) { r.Value = 30 })
			each(j, "scattered", "s2", func(r *job.Run) { r.Value = 14000 })
			j.Drives[1].Rated = nil
		}, []string{"scattered"}, nil, ""},
		{"beyond-mechanics", "a disk with memory",
			func(j *job.Job) { each(j, "scattered", "s1", func(r *job.Run) { r.Value = 900 }) }, []string{"scattered"},
			nil, ""},
		{"beyond-mechanics", "with a cache drive", func(j *job.Job) {
			j.Setups[0].CacheDrive = "d2"
			each(j, "scattered", "s1", func(r *job.Run) { r.Value = 900 })
		}, nil, []string{"scattered"}, Notes},
		{"heat", "at the limit", func(j *job.Job) {
			hot := 70.0
			each(j, "long", "s2", func(r *job.Run) { r.PeakTempC = &hot })
		}, nil, []string{"long"}, Qualifies},
		{"fill", "much fuller", func(j *job.Job) {
			a, b := 90.0, 30.0
			j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = &a, &b
		}, nil, drive, Notes},
		{"lone-run", "one of three", func(j *job.Job) { j.Run("starts12").Value = 200 }, nil, []string{"start"},
			Qualifies},
		{"lone-run", "one of two", func(j *job.Job) {
			j.Run("starts10").SetAside = &job.SetAside{Reason: "x"}
			j.Run("starts12").Value = 400
		}, nil, []string{"start"}, Qualifies},
		{"method", "by hand on one side",
			func(j *job.Job) { each(j, "start", "s1", func(r *job.Run) { r.Method = job.Stopwatch }) }, nil,
			[]string{"start"}, Notes},
		{"probe-version", "another engine", func(j *job.Job) {
			each(j, "long", "s1", func(r *job.Run) { r.Engine = "1" })
			each(j, "long", "s2", func(r *job.Run) { r.Engine = "2" })
		}, nil, []string{"long"}, Qualifies},
		{"simulated", "a simulated side",
			func(j *job.Job) { each(j, "", "s2", func(r *job.Run) { r.Simulated = true }) }, nil, everything, Notes},
	}
}

func TestRules(t *testing.T) {
	seen := map[string]bool{}
	for _, tt := range spoils() {
		seen[tt.Rule] = true
		t.Run(tt.Rule+"/"+tt.Name, func(t *testing.T) {
			j := fair()
			tt.Spoil(j)
			var blocked, touched []string
			for _, f := range found(j, "then", "now") {
				assert.NotNil(t, f.Runs)
				if f.Rule != tt.Rule {
					// Another computer is a finding of its own, besides its differing parts.
					require.Contains(t, []string{"other-computer", "not-settled", "method"}, f.Rule,
						"only this rule may find something")
					continue
				}
				assert.NotEmpty(t, f.Remedy)
				assert.False(t, f.Then == nil && f.With == nil)
				if f.Effect == Blocks {
					blocked = append(blocked, f.Lines...)
					continue
				}
				assert.Equal(t, tt.effect, f.Effect)
				touched = append(touched, f.Lines...)
			}
			assert.ElementsMatch(t, tt.blocks, blocked, "blocked")
			assert.ElementsMatch(t, tt.touches, touched, "touched")
		})
	}
	for _, rule := range Rules() {
		assert.True(t, seen[rule], "rule %s has no test", rule)
	}
}

func TestWhatOneSideAloneStatesIsNotRecorded(t *testing.T) {
	yes := true
	j := fair()
	j.Sittings[0].Conditions.Power = "battery" // of the other side nobody said
	j.Sittings[0].Conditions.Encrypted = &yes
	j.Setups[0].System.Version = "10"
	j.Setups[0].Attached.Port = "usb"
	j.Setups[1].Attached.Port = ""
	each(j, "", "s1", func(r *job.Run) {
		r.Warmth, r.StartKind, r.AppVersion, r.ContentDigest = "cold", "cold", "1", "x"
	})
	var facts []string
	for _, f := range found(j, "then", "now") {
		require.Equal(t, notRecorded, f.Rule)
		require.Equal(t, Notes, f.Effect)
		facts = append(facts, Said(f.Then, j))
	}
	assert.ElementsMatch(t,
		[]string{"power supply: battery", "encryption: encrypted", "system version: 10", "cold or warm: cold",
			"kind of start: cold", "application version: 1", "content: fingerprint x"}, facts)
}

// Two cold runs and one warm one on each side: the warm ones are to be set aside.
func TestRunsThatDisagreeWithTheirOwnSideAreNamed(t *testing.T) {
	j := fair()
	each(j, "copy", "", func(r *job.Run) { r.Warmth = "cold" })
	j.Run("copys11").Warmth, j.Run("copys22").Warmth = "warm", "warm"
	list := found(j, "then", "now")
	require.Len(t, list, 1)
	assert.Equal(t, "warmth", list[0].Rule)
	assert.Equal(t, []string{"copys11", "copys22"}, list[0].Runs)
	for _, id := range list[0].Runs {
		j.Run(id).SetAside = &job.SetAside{Reason: "warm"}
	}
	assert.Empty(t, found(j, "then", "now"))
}

func TestSamplesOfFilesAreComparedByBytesInCommon(t *testing.T) {
	sample := func(common int64) func(*job.Job) {
		return func(j *job.Job) {
			each(j, "scattered", "s1", func(r *job.Run) {
				r.Sample = []job.SampleFile{{Path: "a", Bytes: common}, {Path: "b", Bytes: 100 - common}}
			})
			each(j, "scattered", "s2", func(r *job.Run) {
				r.Sample = []job.SampleFile{{Path: "a", Bytes: common}, {Path: "c", Bytes: 100 - common}}
			})
		}
	}
	for common, want := range map[int64]Effect{90: "", 89: Qualifies, 50: Qualifies, 49: Blocks} {
		j := fair()
		sample(common)(j)
		var got Effect
		for _, f := range found(j, "then", "now") {
			if f.Rule == "other-content" {
				got = f.Effect
			}
		}
		assert.Equal(t, want, got, "%d %% in common", common)
	}
}

func TestAnIntendedDifferenceIsANote(t *testing.T) {
	j := fair()
	j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains"
	j.Sittings[0].Conditions.PowerMode, j.Sittings[1].Conditions.PowerMode = "normal", "normal"
	j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{"scan"}, []job.Busy{}
	effects := map[string]Effect{}
	for _, f := range intended(j, "then", "now", "power") {
		effects[f.Rule] = f.Effect
	}
	assert.Equal(t, map[string]Effect{"power": Notes, "busy": Qualifies}, effects, "all others stay as they are")
}

func TestWhichDriveStandsWhere(t *testing.T) {
	j := fair()
	j.Setups[1].Replaces = "d3"
	list := found(j, "then", "now")
	replaces := func(id string) Value { return Phrase{"replaces", map[string]Value{"Drive": Drive(id)}} }
	assert.Equal(t, []Value{Drive("d1"), replaces("d3")}, []Value{list[0].Then, list[0].With})
	j.Setups[0].Role, j.Setups[0].Replaces = job.Trial, "d1"
	list = found(j, "then", "now")
	assert.Equal(t, []Value{replaces("d1"), replaces("d3")}, []Value{list[0].Then, list[0].With})
	j.Setups[0].Replaces = ""
	assert.Empty(t, found(j, "then", "now"), "it is not known what one of them replaces")
}

// Two trials, or a trial and Now, that replace the same drive.
func TestTrialsThatReplaceTheSameDriveAreCompared(t *testing.T) {
	j := fair()
	j.Setups[0].Role, j.Setups[0].Replaces = job.Trial, "d1"
	assert.Empty(t, found(j, "then", "now"))
}

func TestOnlyTheFirstStartIsTheFirstAfterASwap(t *testing.T) {
	yes := true
	j := fair()
	j.Tests[0].What = "cold-start"
	j.Tests = append(j.Tests,
		job.Test{ID: "launch", Kind: job.Timed, What: "launch-first", Name: "Launch", Unit: "s", Better: job.Lower})
	for _, s := range j.Sittings {
		j.Runs = append(j.Runs,
			job.Run{ID: "launch" + s.ID, Test: "launch", Sitting: s.ID, Value: 5, Method: job.Automatic,
				At: s.Started.Add(time.Hour)})
	}
	j.Sittings[1].Conditions.FirstAfterSwap = &yes
	list := found(j, "then", "now")
	require.Len(t, list, 1)
	assert.Equal(t, []string{"start"}, list[0].Lines, "a launch is no start")
	j.Run("starts20").SetAside = &job.SetAside{Reason: "first after the swap"}
	assert.Empty(t, found(j, "then", "now"))
}

func TestWorkOutsideTheTwoSidesDoesNotCount(t *testing.T) {
	for name, w := range map[string]job.Work{
		"before Then":     {At: noon.Add(-time.Hour), What: "cleaning"},
		"after Now":       {At: noon.Add(9 * time.Hour), What: "drivers"},
		"memory, before":  {At: noon.Add(-time.Hour), What: "memory"},
		"touches nothing": {At: noon.Add(time.Hour), What: "cleaning", Touches: new(false)},
	} {
		j := fair()
		j.Head.Work = []job.Work{w}
		assert.Empty(t, found(j, "then", "now"), name)
	}
}

func TestOnlyMeasuredLinesAreTouched(t *testing.T) {
	j := fair()
	j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{}, []job.Busy{"update"}
	j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.Test == "copy" && r.Sitting == "s2" })
	list := found(j, "then", "now")
	require.Len(t, list, 1)
	assert.NotContains(t, list[0].Lines, "copy")
}
