package checks

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

const gib = int64(1) << 30

func ptr[T any](v T) *T { return &v }

// visit is a job whose new drive is in, and the computer as it should be then.
func visit() (*job.Job, *hardware.Facts, *hardware.Facts) {
	j := &job.Job{
		Computers: []job.Computer{{ID: "c"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD},
			DriveFound: job.DriveFound{SerialDigest: "old"}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 1000 * gib},
				DriveFound: job.DriveFound{SerialDigest: "new"}}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c", Drive: "d2"}},
	}
	facts := func(digest string) *hardware.Facts {
		return &hardware.Facts{
			Driverless: []string{},
			Drives: []hardware.Drive{{ID: "sda", WriteCache: ptr(true), Kind: job.SataSSD, SerialDigest: digest,
				CapacityBytes: 1000 * gib, Trim: ptr(true), TemperatureC: ptr(35.0), MaxTempC: ptr(70.0),
				Attached: &job.Attached{Port: "sata", LinkMBs: 600, CapableMBs: 600}, Link: &job.Link{Kind: "sata",
					Negotiated: "6 Gb/s", Drive: "6 Gb/s", Port: "6 Gb/s"},
				Health: &hardware.Health{PowerOnHours: ptr(int64(2)), BytesWritten: ptr(int64(1e9))}}},
			Volumes: []hardware.Volume{{Mount: "/", Drive: "sda", Partition: 2, System: true, Encrypted: ptr(false)}},
			Partitions: []hardware.Partition{{Drive: "sda", Number: 1, StartBytes: 1 << 20, SizeBytes: 1 << 29},
				{Drive: "sda", Number: 2, StartBytes: 1 << 30, SizeBytes: 998 * gib},
				{Drive: "sda", Number: 3, StartBytes: 999 * gib, SizeBytes: gib - 2<<20}},
		}
	}
	return j, facts("old"), facts("new")
}

func states(list []Check) map[string]job.CheckState {
	all := map[string]job.CheckState{}
	for _, c := range list {
		all[c.ID] = c.State
	}
	return all
}

func TestADriveThatIsAtHome(t *testing.T) {
	j, before, now := visit()
	list := Of(j, &j.Setups[1], before, now)
	require.Len(t, list, 12)
	for _, c := range list {
		assert.Equal(t, Fine, c.State, "%s: %s", c.Title, c.Found)
		assert.Empty(t, c.Do)
		assert.NotEmpty(t, c.Title)
	}
}

// Every fault is found, nothing else is, and each has a remedy.
func TestWhatIsWrongIsFound(t *testing.T) {
	for name, c := range map[string]struct {
		spoil func(j *job.Job, before, now *hardware.Facts)
		id    string
		says  string
	}{
		"no write cache": {func(_ *job.Job, _, now *hardware.Facts) { now.Drives[0].WriteCache = ptr(false) },
			"write-cache", "many times slower"},
		"a card without driver": {func(_ *job.Job, _,
			now *hardware.Facts) {
			now.Driverless = []string{"a network card"}
		}, "drivers", "Install"},
		"a fake": {func(_ *job.Job, _, now *hardware.Facts) { now.Drives[0].CapacityBytes = 900 * gib },
			"recognised", "less than its label"},
		"stranded behind the recovery": {func(_ *job.Job, _, now *hardware.Facts) {
			now.Partitions[1].SizeBytes, now.Partitions[2].StartBytes = 500*gib, 502*gib
			now.Partitions[1].SizeBytes = 501 * gib
		}, "unallocated", "Partition 3 stands between"},
		"room behind the system": {func(_ *job.Job, _, now *hardware.Facts) { now.Partitions[1].SizeBytes = 900 * gib },
			"unallocated", "Grow the volume"},
		"room before all": {func(_ *job.Job, _, now *hardware.Facts) {
			now.Partitions = now.Partitions[1:]
			now.Partitions[0].StartBytes = 3 * gib
			now.Partitions[0].SizeBytes = 996 * gib
		}, "unallocated", "to the front"},
		"misaligned": {func(_ *job.Job, _, now *hardware.Facts) { now.Partitions[0].StartBytes = 63 * 512 }, "aligned",
			"two pages"},
		"no TRIM": {func(_ *job.Job, _, now *hardware.Facts) { now.Drives[0].Trim = ptr(false) }, "trim",
			"Switch it on"},
		"less in use after cloning": {func(j *job.Job, before, now *hardware.Facts) {
			j.Setups[1].System.Origin = job.Cloned
			before.Volumes[0].UsedBytes, now.Volumes[0].UsedBytes = 392e9, 300e9
		}, "used", "Compare the file lists"},
		"half the speed": {func(_ *job.Job, _, now *hardware.Facts) {
			now.Drives[0].Attached.LinkMBs = 300
			now.Drives[0].Link.Negotiated = "3 Gb/s"
		}, "link", "another cable"},
		"the old one is still in it": {func(_ *job.Job, _, now *hardware.Facts) {
			now.Drives = append(now.Drives, hardware.Drive{ID: "sdb", SerialDigest: "old"})
		}, "disconnected", "disconnect"},
		"encrypted all of a sudden": {func(_ *job.Job, _, now *hardware.Facts) { now.Volumes[0].Encrypted = ptr(true) },
			"encrypted", "Ask the customer"},
		"used": {func(_ *job.Job, _,
			now *hardware.Facts) {
			now.Drives[0].Health.PowerOnHours = ptr(int64(9000))
		}, "new", "send it back"},
		"much was written to it": {func(_ *job.Job, _,
			now *hardware.Facts) {
			now.Drives[0].Health.BytesWritten = ptr(int64(9e12))
		}, "new", "send it back"},
		"hot": {func(_ *job.Job, _,
			now *hardware.Facts) {
			now.Drives[0].TemperatureC = ptr(66.0)
		}, "temperature", "heat sink"},
		"the port is slower than that": {func(_ *job.Job, _, now *hardware.Facts) {
			now.Drives[0].Link.Negotiated = "1.5 Gb/s"
			now.Drives[0].Link.Port = "3 Gb/s"
			now.Drives[0].Attached.LinkMBs = 150
		}, "link", "another cable"},
	} {
		t.Run(name, func(t *testing.T) {
			j, before, now := visit()
			c.spoil(j, before, now)
			for _, got := range Of(j, &j.Setups[1], before, now) {
				if got.ID == c.id {
					assert.Equal(t, Wrong, got.State, got.Found)
					assert.Contains(t, got.Do, c.says)
				} else if got.ID != "started-from" || name != "room before all" {
					assert.Equal(t, Fine, got.State, "%s: %s", got.Title, got.Found)
				}
			}
		})
	}
	j, before, now := visit()
	now.Drives[0].SerialDigest = "third"
	list := Of(j, &j.Setups[1], before, now)
	require.Len(t, list, 1)
	assert.Equal(t, []any{"recognised", Wrong}, []any{list[0].ID, list[0].State})
	// It started from the old drive beside it.
	j, before, now = visit()
	now.Drives = append(now.Drives, hardware.Drive{ID: "sdb", SerialDigest: "old"})
	now.Volumes[0].Drive = "sdb"
	assert.Equal(t, Wrong, states(Of(j, &j.Setups[1], before, now))["started-from"])
}

// Unreported facts are unknown, never fine; and a full-speed link is one that the slower of drive and port
// allows.
func TestWhatIsNotTold(t *testing.T) {
	j, before, now := visit()
	j.Drives[0].SerialDigest, j.Drives[1].CapacityBytes = "", 0
	now.Drives[0] = hardware.Drive{ID: "sda", Kind: job.NVMe, SerialDigest: "new", TemperatureC: ptr(30.0)}
	now.Volumes, now.Partitions, now.Driverless = nil, nil, nil
	for id, state := range states(Of(j, &j.Setups[1], before, now)) {
		assert.Equal(t, Unknown, state, id)
	}
	j, before, now = visit()
	now.Drives[0].Link.Port, now.Drives[0].Link.Negotiated, now.Drives[0].Attached.LinkMBs = "3 Gb/s", "3 Gb/s", 300
	assert.Equal(t, Fine, states(Of(j, &j.Setups[1], before, now))["link"], "no drive is faster than its port")
	j.Setups[1].Adds = true
	now.Drives[0].Kind = job.HDD
	got := states(Of(j, &j.Setups[1], nil, now))
	for _, id := range []string{"disconnected", "encrypted", "trim"} {
		assert.NotContains(t, got, id, "it is not asked where it makes no sense")
	}
}

// What only somebody before the computer sees is asked where a system was carried over, and says what was seen.
func TestByHand(t *testing.T) {
	j := &job.Job{Head: job.Head{Looked: []job.CheckedByHand{{Check: "mail", State: Fine, By: "Runa"},
		{Check: "printers", State: Wrong}}}}
	for origin, many := range map[job.Origin]bool{"": false, job.AsArrived: false, job.Fresh: false, job.Cloned: true,
		job.Restored: true} {
		list := ByHand(j, &job.Setup{System: job.System{Origin: job.Origin(origin)}})
		assert.Equal(t, many, len(list) > 2, origin)
		assert.Equal(t, "firmware", list[0].ID)
		for _, c := range list {
			assert.True(t, c.ByHand && IsByHand(c.ID), c.ID)
			switch c.ID {
			case "mail":
				assert.Equal(t, []any{Fine, "looked at by Runa", ""},
					[]any{c.State, c.Found, c.Do})
			case "printers":
				assert.Equal(t, []any{Wrong, "looked at"},
					[]any{c.State, c.Found})
				assert.NotEmpty(t, c.Do)
			default:
				assert.Equal(t, []any{Unknown, "not checked yet", ""},
					[]any{c.State, c.Found, c.Do})
			}
		}
	}
	assert.False(t, IsByHand("recognised"), "that the probe sees")
}

func TestWhetherItHolds(t *testing.T) {
	first := int64(64e9)
	for name, c := range map[string]struct {
		held  *job.Capacity
		state job.CheckState
		found string
	}{
		"nobody looked": {nil, "", ""},
		"all of it": {&job.Capacity{Written: 960e9, Whole: true}, Fine,
			"all 960 GB came back as they were written"},
		"a sample": {&job.Capacity{Written: 4e9, FileBytes: 900e9, Missed: 0.01}, Fine,
			"4 GB, spread over 900 GB, came back as they were written"},
		"a sample too small": {&job.Capacity{Written: 1e9, FileBytes: 900e9, Missed: 0.4}, Unknown,
			"1 GB over 900 GB came back; a false drive would be missed with a chance of 40 %"},
		"all of a little": {&job.Capacity{Written: 4e9, FileBytes: 4e9, Whole: true, Missed: 1}, Unknown,
			"4 GB over 4 GB came back; a false drive would be missed with a chance of 100 %"},
		"a false one": {&job.Capacity{Blocks: 900, Wrong: 7, First: &first, Missed: 0.4}, Wrong,
			"7 of 900 blocks came back different, the first at 64 GB"},
	} {
		t.Run(name, func(t *testing.T) {
			list := Noted(&job.Job{Drives: []job.Drive{{ID: "d", DriveFound: job.DriveFound{Held: c.held}}}},
				&job.Setup{Drive: "d"}, nil)
			if c.state == "" {
				assert.Empty(t, list)
				return
			}
			require.Len(t, list, 1)
			assert.Equal(t, []any{c.state, c.found},
				[]any{list[0].State, list[0].Found})
			assert.Equal(t, c.state == Wrong, list[0].Do != "")
		})
	}
	assert.Empty(t, Noted(&job.Job{}, &job.Setup{Drive: "none"}, nil))
}

func TestHeatUnderLoad(t *testing.T) {
	setup := &job.Setup{ID: "now", Drive: "d2"}
	worked := func(rated float64, peaks ...float64) *job.Job {
		j, _, _ := visit()
		j.Drives[1].Rated = &job.Rated{MaxTempC: rated}
		j.Tests = []job.Test{{ID: "t", Name: "Sustained writing"}}
		j.Sittings = []job.Sitting{{ID: "s1", Setup: "then"},
			{ID: "s2", Setup: "now", Conditions: job.Conditions{RoomTempC: ptr(21.0)}}}
		j.Runs = []job.Run{{Test: "t", Sitting: "s1", PeakTempC: ptr(90.0)}, {Test: "t", Sitting: "s2"}}
		for i, p := range peaks {
			j.Runs = append(j.Runs,
				job.Run{Test: "t", Sitting: "s2", PeakTempC: ptr(p), StartTempC: ptr(30.0 + float64(i))})
		}
		return j
	}
	_, _, now := visit()
	for name, c := range map[string]struct {
		job   *job.Job
		now   *hardware.Facts
		state job.CheckState
		found string
	}{
		"not measured": {worked(80), now, "", ""},
		"far from its limit": {worked(80, 50, 58), now, Fine,
			"58 °C during sustained writing, 30 °C before, in a room of 21 °C; 22 °C below its limit"},
		"next to it": {worked(80, 76), now, Wrong,
			"76 °C during sustained writing, 30 °C before, in a room of 21 °C"},
		"by the limit that it says": {worked(0, 66), now, Wrong,
			"66 °C during sustained writing, 30 °C before, in a room of 21 °C"},
		"it is not seen now": {worked(0, 66),
			&hardware.Facts{Drives: []hardware.Drive{{ID: "a",
				SerialDigest: "another"}}}, Unknown,
			"66 °C during sustained writing, 30 °C before, in a room of 21 °C; its limit is not known"},
		"it tells no limit": {worked(0, 66),
			&hardware.Facts{Drives: []hardware.Drive{{ID: "a",
				SerialDigest: "new"}}}, Unknown,
			"66 °C during sustained writing, 30 °C before, in a room of 21 °C; its limit is not known"},
		"its limit is not known": {worked(0, 66), nil, Unknown,
			"66 °C during sustained writing, 30 °C before, in a room of 21 °C; its limit is not known"},
	} {
		t.Run(name, func(t *testing.T) {
			list := Noted(c.job, setup, c.now)
			if c.state == "" {
				assert.Empty(t, list)
				return
			}
			require.Len(t, list, 1)
			assert.Equal(t, []any{"heat", c.state, c.found},
				[]any{list[0].ID, list[0].State, list[0].Found})
			assert.Equal(t, c.state == Wrong, list[0].Do != "")
		})
	}
}

// Before it is used, the new drive is attached beside the old one and reports its health.
func TestTheNewDriveBeforeTheWork(t *testing.T) {
	for name, c := range map[string]struct {
		change func(j *job.Job, f *hardware.Facts)
		want   map[string]job.CheckState
	}{
		"a new one, by its size": {func(*job.Job, *hardware.Facts) {},
			map[string]job.CheckState{"recognised": Fine, "new": Fine}},
		"by its serial number": {func(j *job.Job, f *hardware.Facts) {
			j.Drives[1].SerialDigest, f.Drives[1].CapacityBytes = "fresh", 900*gib
		}, map[string]job.CheckState{"recognised": Wrong, "new": Fine}},
		"it was used": {func(_ *job.Job,
			f *hardware.Facts) {
			f.Drives[1].Health.PowerOnHours = ptr(int64(9000))
		},
			map[string]job.CheckState{"recognised": Fine, "new": Wrong}},
		"its case tells no health": {func(_ *job.Job, f *hardware.Facts) { f.Drives[1].Health = nil },
			map[string]job.CheckState{"recognised": Fine}},
		"it is not there": {func(_ *job.Job, f *hardware.Facts) { f.Drives = f.Drives[:1] },
			map[string]job.CheckState{}},
		"another one is": {func(_ *job.Job, f *hardware.Facts) { f.Drives[1].CapacityBytes = 64 * gib },
			map[string]job.CheckState{}},
		"a stick without a number": {func(_ *job.Job, f *hardware.Facts) {
			f.Drives[1].SerialDigest,
				f.Drives[1].CapacityBytes = "", 64*gib
		}, map[string]job.CheckState{}},
		"its case hides its number": {func(_ *job.Job, f *hardware.Facts) { f.Drives[1].SerialDigest = "" },
			map[string]job.CheckState{"recognised": Fine, "new": Fine}},
		"it tells no capacity": {func(_ *job.Job, f *hardware.Facts) { f.Drives[1].CapacityBytes = 0 },
			map[string]job.CheckState{}},
		"nobody knows which started": {func(_ *job.Job, f *hardware.Facts) { f.Volumes, f.Drives = nil, f.Drives[1:] },
			map[string]job.CheckState{}},
		"two alike": {func(_ *job.Job, f *hardware.Facts) { f.Drives = append(f.Drives, f.Drives[1]) },
			map[string]job.CheckState{}},
		"a twin of the old one": {func(_ *job.Job, f *hardware.Facts) { f.Drives[1].SerialDigest = "old" },
			map[string]job.CheckState{}},
		"its label was not read off": {func(j *job.Job, _ *hardware.Facts) { j.Drives[1].CapacityBytes = 0 },
			map[string]job.CheckState{}},
	} {
		t.Run(name, func(t *testing.T) {
			j, f, _ := visit()
			j.Drives[1].SerialDigest = ""
			f.Drives = append(f.Drives,
				hardware.Drive{ID: "sdb", Kind: job.SataSSD, SerialDigest: "fresh", CapacityBytes: 1000 * gib,
					Health: &hardware.Health{PowerOnHours: ptr(int64(1))}})
			c.change(j, f)
			assert.Equal(t, c.want, states(Before(j, &j.Setups[1], f)))
		})
	}
}

// How much is in use is compared only where the system was carried over and both are known; a little less is no remark.
func TestAsMuchInUse(t *testing.T) {
	for name, c := range map[string]struct {
		origin  job.Origin
		was, is int64
		state   job.CheckState // "": nothing is said
	}{
		"as much":             {job.Cloned, 392e9, 391e9, Fine},
		"92 GB less":          {job.Restored, 392e9, 300e9, Wrong},
		"more":                {job.Cloned, 392e9, 400e9, Fine},
		"a little of a lot":   {job.Cloned, 4000e9, 3990e9, Fine},
		"installed fresh":     {job.Fresh, 392e9, 60e9, ""},
		"nobody said":         {"", 392e9, 300e9, ""},
		"not known before":    {job.Cloned, 0, 300e9, ""},
		"not known afterward": {job.Cloned, 392e9, 0, ""},
	} {
		t.Run(name, func(t *testing.T) {
			j, before, now := visit()
			j.Setups[1].System.Origin = c.origin
			before.Volumes = []hardware.Volume{{Mount: "/", Drive: before.Drives[0].ID, System: true, UsedBytes: c.was}}
			now.Volumes[0].UsedBytes = c.is
			got := ""
			for _, k := range Of(j, &j.Setups[1], before, now) {
				if k.ID == "used" {
					got = string(k.State)
				}
			}
			assert.EqualValues(t, c.state, got)
		})
	}
}
