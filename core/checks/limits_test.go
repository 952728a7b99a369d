package checks

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
)

// Each limit holds to the last bit: what lies on it, and what lies next to it.
func TestLimits(t *testing.T) {
	type change = func(j *job.Job, f *hardware.Facts)
	held := func(h job.Capacity) change { return func(j *job.Job, _ *hardware.Facts) { j.Drives[1].Held = &h } }
	linked := func(mbs, capable float64, link *job.Link) change {
		return func(_ *job.Job, f *hardware.Facts) {
			f.Drives[0].Attached, f.Drives[0].Link = &job.Attached{LinkMBs: mbs, CapableMBs: capable}, link
		}
	}
	capacities := func(noted, seen int64) change {
		return func(j *job.Job, f *hardware.Facts) {
			j.Drives[1].CapacityBytes, f.Drives[0].CapacityBytes = noted, seen
		}
	}
	gap := func(bytes int64) change { // behind the last partition
		return func(_ *job.Job, f *hardware.Facts) {
			f.Partitions = []hardware.Partition{{Drive: "sda", Number: 2, StartBytes: 0, SizeBytes: 1000*gib - bytes}}
		}
	}
	health := func(hours, bytes int64) change {
		return func(_ *job.Job, f *hardware.Facts) {
			f.Drives[0].Health = &hardware.Health{PowerOnHours: &hours, BytesWritten: &bytes}
		}
	}
	warm := func(c float64) change { return func(_ *job.Job, f *hardware.Facts) { f.Drives[0].TemperatureC = &c } }
	worked := func(peak float64) change {
		return func(j *job.Job, _ *hardware.Facts) {
			j.Tests, j.Sittings = []job.Test{{ID: "t", Name: "Sustained writing"}},
				[]job.Sitting{{ID: "s", Setup: "now"}}
			j.Runs = []job.Run{{Test: "t", Sitting: "s", PeakTempC: &peak}}
		}
	}
	loaded := func(peak float64) change {
		return func(j *job.Job, _ *hardware.Facts) {
			j.Drives[1].Rated = &job.Rated{MaxTempC: 70}
			j.Drives[1].Sustained = []job.Sustained{{Parts: []job.SustainedPart{{Loaded: true, PeakC: &peak}}}}
		}
	}
	cliff := func(after float64) change {
		return func(j *job.Job, _ *hardware.Facts) {
			j.Drives[0].Rated, j.Drives[1].Rated = &job.Rated{WriteMBs: 105}, &job.Rated{WriteMBs: 500}
			j.Drives[1].Sustained = []job.Sustained{{Parts: []job.SustainedPart{{Seconds: 60, MBs: 480,
				Cliff: &drivetest.Cliff{BeforeMBs: 480, AfterMBs: after, Cause: drivetest.CacheCause}}}}}
		}
	}
	wrote := func(seconds float64, stopped drivetest.StopReason) change {
		return func(j *job.Job, _ *hardware.Facts) {
			j.Drives[1].Rated = &job.Rated{WriteMBs: 500}
			j.Drives[1].Sustained = []job.Sustained{{Parts: []job.SustainedPart{{Seconds: seconds, MBs: 480,
				Stopped: stopped}}}}
		}
	}
	gen3x4 := func(drive, port string) *job.Link {
		return &job.Link{Kind: "pcie", Negotiated: "3.0 x4", Drive: drive, Port: port}
	}
	for name, c := range map[string]struct {
		change change
		id     string
		state  job.CheckState
	}{
		"a hundredth less than its label": {capacities(1000, 990), "recognised", Wrong},
		"just less than a hundredth":      {capacities(100_000, 99_001), "recognised", Fine},
		"just more than a hundredth":      {capacities(100_000, 98_950), "recognised", Wrong},
		"more than its label":             {capacities(1000, 2000), "recognised", Fine},
		"one byte on the label":           {capacities(1, 1), "recognised", Fine},
		"nothing on the label":            {capacities(0, 1000), "recognised", Unknown},
		"the drive says nothing":          {capacities(1000, 0), "recognised", Unknown},
		"a GiB behind the last":           {gap(1 << 30), "unallocated", Wrong},
		"a byte less":                     {gap(1<<30 - 1), "unallocated", Fine},
		"no partitions": {func(_ *job.Job, f *hardware.Facts) { f.Partitions = nil }, "unallocated",
			Unknown},
		"no capacity": {func(_ *job.Job, f *hardware.Facts) { f.Drives[0].CapacityBytes = 0 },
			"unallocated", Unknown},
		"95 % of the link":                {linked(570, 600, nil), "link", Fine},
		"a little less":                   {linked(569, 600, nil), "link", Wrong},
		"it can do no more than the port": {linked(3938, 7877, gen3x4("4.0 x4", "3.0 x4")), "link", Fine},
		"no more than the drive":          {linked(3938, 7877, gen3x4("3.0 x4", "4.0 x4")), "link", Fine},
		"both can do more":                {linked(3938, 0, gen3x4("4.0 x4", "4.0 x4")), "link", Wrong},
		"the drive's alone is known":      {linked(3938, 7877, gen3x4("4.0 x4", "")), "link", Wrong},
		"the port's alone is known":       {linked(3938, 7877, gen3x4("", "4.0 x4")), "link", Wrong},
		"what both can do is not told":    {linked(3938, 0, gen3x4("", "")), "link", Unknown},
		"a link of 1 MB/s":                {linked(1, 600, nil), "link", Wrong},
		"no link":                         {linked(0, 600, nil), "link", Unknown},
		"24 hours and 500 GiB":            {health(24, 500<<30), "new", Fine},
		"25 hours":                        {health(25, 0), "new", Wrong},
		"a byte more":                     {health(0, 500<<30+1), "new", Wrong},
		"5 °C below its limit":            {warm(65), "temperature", Wrong},
		"a little cooler":                 {warm(64.9), "temperature", Fine},
		"its label says no limit": {func(j *job.Job, f *hardware.Facts) {
			j.Drives[1].Rated, f.Drives[0].MaxTempC = &job.Rated{ReadMBs: 500}, nil
		}, "temperature", Unknown},
		"its label says no limit, under load": {func(j *job.Job,
			f *hardware.Facts) {
			loaded(40)(j, f)
			j.Drives[1].Rated.MaxTempC = 0
		}, "under-load", Unknown},
		"5 °C below while it worked":            {worked(65), "heat", Wrong},
		"a little cooler while it worked":       {worked(64.9), "heat", Fine},
		"5 °C below under load":                 {loaded(65), "under-load", Wrong},
		"a little cooler under load":            {loaded(64.9), "under-load", Fine},
		"missed with a chance of 5 %":           {held(job.Capacity{Missed: 0.05}), "holds", Fine},
		"a little more":                         {held(job.Capacity{Missed: 0.0501}), "holds", Unknown},
		"a single block":                        {held(job.Capacity{Blocks: 900, Wrong: 1}), "holds", Wrong},
		"as slow as the old one, after a while": {cliff(105), "steady", Fine},
		"ten seconds tell":                      {wrote(10, "bytes"), "steady", Fine},
		"less do not":                           {wrote(9.9, "bytes"), "steady", Unknown},
		"its heat ended it":                     {wrote(60, "heat"), "steady", Wrong},
		"slower than the old one":               {cliff(104.9), "steady", Wrong},
	} {
		t.Run(name, func(t *testing.T) {
			j, before, now := visit()
			c.change(j, now)
			list := append(Of(j, &j.Setups[1], before, now), Noted(j, &j.Setups[1], now)...)
			assert.Equal(t, c.state, states(list)[c.id])
		})
	}
}

// Where room is lost, and what to do about it, hangs on which partition comes before it.
func TestWhereRoomIsLost(t *testing.T) {
	part := func(number int, start, size int64) hardware.Partition {
		return hardware.Partition{Drive: "sda", Number: number, StartBytes: start * gib, SizeBytes: size * gib}
	}
	on := func(drive string, partition int, system bool) hardware.Volume {
		return hardware.Volume{Drive: drive, Partition: partition, System: system}
	}
	for name, c := range map[string]struct {
		parts   []hardware.Partition
		volumes []hardware.Volume
		found   string
		do      string // part of it
	}{
		"behind the system's": {[]hardware.Partition{part(1, 0, 1), part(2, 1, 500)},
			[]hardware.Volume{on("sda", 2, true)}, "535.8 GB behind partition 2", "Grow the volume in front"},
		"behind the recovery": {[]hardware.Partition{part(2, 0, 500), part(3, 500, 1)},
			[]hardware.Volume{on("sda", 2, true)}, "535.8 GB behind partition 3", "Partition 3 stands between"},
		"nobody says which is the system's": {[]hardware.Partition{part(1, 0, 1), part(2, 1, 500)}, nil,
			"535.8 GB behind partition 2", "Grow the volume in front"},
		"the system is on another drive": {[]hardware.Partition{part(2, 0, 500)},
			[]hardware.Volume{on("sdb", 1, true),
				on("sda", 2, false)}, "536.9 GB behind partition 2", "Grow the volume in front"},
		"a volume that is no system": {[]hardware.Partition{part(1, 0, 1), part(2, 1, 500)},
			[]hardware.Volume{on("sda", 2, true),
				on("sda", 1, false)}, "535.8 GB behind partition 2", "Grow the volume in front"},
		"in front of all": {[]hardware.Partition{part(2, 500, 500)},
			[]hardware.Volume{on("sda", 2,
				true)}, "536.9 GB in front of the first partition", "Move the partitions to the front"},
		"two gaps alike, the first counts": {[]hardware.Partition{part(1, 0, 400), part(2, 500, 400)},
			[]hardware.Volume{on("sda", 1, true)}, "107.4 GB behind partition 1", "Grow the volume in front"},
		"just a GiB": {[]hardware.Partition{part(1, 0, 999)},
			[]hardware.Volume{on("sda", 1, true)}, "1.074 GB behind partition 1", "Grow the volume in front"},
		"one inside another": {[]hardware.Partition{part(1, 0, 1000), part(5, 1, 10)},
			[]hardware.Volume{on("sda", 5, true)}, "nothing worth using", ""},
	} {
		t.Run(name, func(t *testing.T) {
			j, before, now := visit()
			now.Partitions, now.Volumes = c.parts, c.volumes
			now.Drives = append(now.Drives, hardware.Drive{ID: "sdb", Kind: job.HDD})
			for _, k := range Of(j, &j.Setups[1], before, now) {
				if k.ID == "unallocated" {
					assert.Equal(t, c.found, k.Found)
					if c.do == "" {
						assert.Empty(t, k.Do)
					} else {
						assert.Contains(t, k.Do, c.do)
					}
				}
			}
		})
	}
}

// What a link should be is said of the slower of drive and port, by its name where it has one.
func TestWhatALinkShouldBe(t *testing.T) {
	for name, c := range map[string]struct {
		link          *job.Link
		able          float64
		found, should string
	}{
		"the drive is the slower": {&job.Link{Kind: "sata", Negotiated: "1.5 Gb/s", Drive: "3 Gb/s", Port: "6 Gb/s"},
			600, "1.5 Gb/s", "3 Gb/s"},
		"the port is": {&job.Link{Kind: "sata", Negotiated: "1.5 Gb/s", Drive: "6 Gb/s", Port: "3 Gb/s"},
			600, "1.5 Gb/s", "3 Gb/s"},
		"both can do as much": {&job.Link{Kind: "sata", Negotiated: "1.5 Gb/s", Drive: "6 Gb/s", Port: "6 Gb/s"}, 0,
			"1.5 Gb/s", "6 Gb/s"},
		"one is not told": {&job.Link{Kind: "sata", Negotiated: "1.5 Gb/s", Drive: "6 Gb/s"}, 600, "1.5 Gb/s",
			"600 MB/s"},
		"the other is not": {&job.Link{Kind: "sata", Negotiated: "1.5 Gb/s", Port: "6 Gb/s"}, 600, "1.5 Gb/s",
			"600 MB/s"},
		"no names": {nil, 600, "150 MB/s", "600 MB/s"},
	} {
		t.Run(name, func(t *testing.T) {
			j, before, now := visit()
			now.Drives[0].Attached, now.Drives[0].Link = &job.Attached{LinkMBs: 150, CapableMBs: c.able}, c.link
			for _, k := range Of(j, &j.Setups[1], before, now) {
				if k.ID == "link" {
					assert.Equal(t, []any{Wrong, c.found, c.should},
						[]any{k.State, k.Found, k.Should})
				}
			}
		})
	}
}

func TestWhichPartitionsAreNotAligned(t *testing.T) {
	j, before, now := visit()
	found := func() string {
		for _, k := range Of(j, &j.Setups[1], before, now) {
			if k.ID == "aligned" {
				return string(k.State) + ": " + k.Found
			}
		}
		return ""
	}
	assert.Equal(t, "fine: all of them", found())
	now.Partitions[1].StartBytes += 512
	assert.Equal(t, "wrong: not partition 2", found())
	now.Partitions[2].StartBytes += 4096
	assert.Equal(t, "wrong: not partition 2", found(), "4 KiB are aligned")
}
