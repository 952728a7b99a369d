package match

import (
	"math"
	"strings"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// visit is a job with a drive that came and one that goes in.
func visit() *job.Job {
	return &job.Job{
		Computers: []job.Computer{{ID: "c1", Maker: "Larkfield"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, Model: "Turnstone 640"}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 960_197_124_096}}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c1", Drive: "d2"}},
	}
}

// with is a computer that started from a drive, with a stick beside it.
func with(d hardware.Drive) *hardware.Facts {
	d.ID = "sda"
	return &hardware.Facts{Computer: hardware.Computer{Maker: "Larkfield", Model: "Hearth 15", MemoryBytes: 8 << 30},
		System: hardware.System{Name: "desktop", Version: "10"},
		Drives: []hardware.Drive{{ID: "sdb", Kind: job.USBFlash, SerialDigest: "stick"}, d},
		Volumes: []hardware.Volume{{Mount: "/media", Drive: "sdb", SizeBytes: 1 << 40},
			{Mount: "/home", Drive: "sda", SizeBytes: 1 << 39, UsedBytes: 5}, {Mount: "/", Drive: "sda",
				SizeBytes: 1 << 35, UsedBytes: 7, System: true}}}
}

var (
	disk = hardware.Drive{Kind: job.HDD, Maker: "Halden", Model: "Turnstone 640", CapacityBytes: 640_135_028_736,
		SerialDigest: "old", RPM: 5400}
	flash = hardware.Drive{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1 960",
		CapacityBytes: 960_197_124_096,
		SerialDigest:  "new"}
)

func TestWhichSetupAComputerIsIn(t *testing.T) {
	for name, c := range map[string]struct {
		seen   hardware.Drive
		before func(j *job.Job)
		want   string
	}{
		"nothing is known yet":      {disk, func(*job.Job) {}, "then"},
		"the new drive by its size": {flash, func(*job.Job) {}, "now"},
		"the digest before everything else": {hardware.Drive{SerialDigest: "old", CapacityBytes: 960_197_124_096},
			func(j *job.Job) { j.Drives[0].SerialDigest = "old" }, "then"},
		"another drive than Then's": {hardware.Drive{SerialDigest: "third"},
			func(j *job.Job) { j.Drives[0].SerialDigest = "old" }, "now"},
		"the old drive has come out": {hardware.Drive{SerialDigest: "third"},
			func(j *job.Job) { j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut}} }, "now"},
		"both are known, and it is neither": {hardware.Drive{SerialDigest: "third"},
			func(j *job.Job) { j.Drives[0].SerialDigest, j.Drives[1].SerialDigest = "old", "new" }, ""},
		"a drive without a digest is the unknown one's": {hardware.Drive{},
			func(j *job.Job) { j.Drives[0].SerialDigest = "old" }, "now"},
	} {
		t.Run(name, func(t *testing.T) {
			j := visit()
			c.before(j)
			got := ""
			if s := SetupOf(with(c.seen), j); s != nil {
				got = s.ID
			}
			assert.Equal(t, c.want, got)
		})
	}
}

// An added drive is measured where it is mounted while the system starts from the old one; starts then belong to the
// computer with both in it.
func TestAnAddedDrive(t *testing.T) {
	added := func(digests bool, gates ...job.Gate) *job.Job {
		j := visit()
		now := j.Setup("now")
		now.Relation, now.Of, now.Replaces = job.JoinsBeside, "d1", ""
		j.Drives[0].SerialDigest = "old"
		if digests {
			j.Drives[1].SerialDigest = "new"
		}
		j.Head.Gates = gates
		return j
	}
	both := with(disk)
	both.Drives[1].ID = "sda"
	second := flash
	second.ID = "sdb"
	both.Drives = append(both.Drives, second)
	both.Volumes = []hardware.Volume{{Mount: "/", Drive: "sda", System: true, SizeBytes: 600e9},
		{Mount: "/games", Drive: "sdb", SizeBytes: 900e9}}
	both.Drives[1].SerialDigest = "old"
	passed := job.Gate{Name: job.GateOldDriveOut}
	for name, c := range map[string]struct {
		j      *job.Job
		in     string
		mounts map[string]string
	}{
		"fitted, known":             {added(true, passed), "now", map[string]string{"then": "/", "now": "/games"}},
		"fitted, not seen before":   {added(false, passed), "now", map[string]string{"then": "/", "now": "/games"}},
		"hung on it beforehand":     {added(true), "then", map[string]string{"then": "/", "now": "/games"}},
		"beforehand, and not known": {added(false), "then", map[string]string{"then": "/"}},
	} {
		t.Run(name, func(t *testing.T) {
			require.NotNil(t, SetupOf(both, c.j))
			assert.Equal(t, c.in, SetupOf(both, c.j).ID)
			assert.Equal(t, c.mounts, Mounts(both, c.j))
			assert.True(t, Holds(both, c.j, c.j.Setup("then"), "/home/x"))
			assert.False(t, Holds(both, c.j, c.j.Setup("then"), "/games/library"), "another drive holds that folder")
		})
	}
	j := added(true, passed)
	assert.True(t, Holds(both, j, j.Setup("now"), "/games/library"))
	assert.False(t, Holds(both, j, j.Setup("now"), "/"))
	one := with(disk)
	one.Drives[1].SerialDigest = "old"
	assert.Equal(t, "then", SetupOf(one, j).ID, "the added drive is not in it")

	cached := *both
	cached.Volumes = []hardware.Volume{{Mount: "/", Drive: "sda", System: true,
		Combined: &hardware.Combined{Kind: hardware.CombinedCache,
			Members: []hardware.Member{{Drive: "sda", Role: hardware.AsData}, {Drive: "sdb", Role: hardware.AsCache}}}}}
	assert.True(t, Holds(&cached, j, j.Setup("now"), "/home"), "it lies on both")
}

// What was noted wrongly gives way to what the computer says, where somebody asks for that; the rest stays.
func TestInsteadOfWhatWasNoted(t *testing.T) {
	j := visit()
	j.Computers[0].Maker, j.Computers[0].Model, j.Computers[0].Processor = "Other", "Tower 9", "typed"
	j.Drives[0].CapacityBytes, j.Drives[0].Kind = 4e12, job.NVMe
	f := with(disk)
	then := j.Setup("then")
	require.NotEmpty(t, Contradictions(f, j, then))
	Instead(f, j, then)
	assert.Empty(t, Contradictions(f, j, then))
	assert.Equal(t, []any{"Larkfield", "typed", job.HDD, disk.CapacityBytes},
		[]any{j.Computers[0].Maker, j.Computers[0].Processor, j.Drives[0].Kind, j.Drives[0].CapacityBytes})
}

func TestFillInLeavesWhatWasTyped(t *testing.T) {
	j := visit()
	j.Computers[0].Model = "Hearth 15 (2016)"
	f := with(disk)
	most := 60.0
	f.Drives[1].MaxTempC = &most
	f.Drives[1].Link, f.Drives[1].Attached = &job.Link{Kind: "sata", Negotiated: "3 Gb/s"},
		&job.Attached{Port: "sata", LinkMBs: 300, CapableMBs: 600}
	FillIn(f, j, &j.Setups[0])
	assert.Equal(t, "Hearth 15 (2016)", j.Computers[0].Model, "what somebody typed stays")
	assert.Equal(t, int64(8<<30), j.Computers[0].MemoryBytes)
	d := j.Drives[0]
	assert.Equal(t, []any{"Halden", "old", 5400, 60.0}, []any{d.Maker, d.SerialDigest, d.RPM, d.Rated.MaxTempC})
	assert.Equal(t, 300.0, j.Setups[0].Attached.LinkMBs)
	assert.Equal(t, int64(12), j.Setups[0].UsedBytes, "all volumes of the drive, none of the stick")
	assert.Empty(t, Contradictions(f, j, &j.Setups[0]))
	before := *j.Clone()
	FillIn(f, j, &j.Setups[0])
	assert.Equal(t, before.Drives, j.Drives, "once more changes nothing")
	assert.Equal(t, "/", f.MountOf("sda"), "the system's volume before a larger one")
	assert.Equal(t, "", f.MountOf("sdz"))
}

// A cable that is fixed shows in the setup, unless something was measured over it or somebody typed another.
func TestALinkFollowsWhatIsMended(t *testing.T) {
	linked := func(mbs float64, name string) *hardware.Facts {
		d := flash
		d.Attached, d.Link = &job.Attached{Port: job.PortSATA, LinkMBs: mbs, CapableMBs: 600},
			&job.Link{Kind: "sata", Negotiated: name, Drive: "6 Gb/s", Port: "6 Gb/s"}
		return with(d)
	}
	slow, quick := linked(300, "3 Gb/s"), linked(600, "6 Gb/s")
	measured := func(aside *job.SetAside) func(j *job.Job) {
		return func(j *job.Job) {
			j.Sittings = []job.Sitting{{ID: "s1", Setup: "now"}}
			j.Runs = []job.Run{{ID: "r", Sitting: "s1", SetAside: aside}}
		}
	}
	for name, c := range map[string]struct {
		change  func(j *job.Job)
		follows bool
	}{
		"nothing was measured": {func(*job.Job) {}, true},
		"something was":        {measured(nil), false},
		"and was set aside":    {measured(&job.SetAside{Reason: "a slow cable"}), true},
		"on the other side":    {func(j *job.Job) { measured(nil)(j); j.Sittings[0].Setup = "then" }, true},
		"somebody typed another one": {func(j *job.Job) {
			j.Setups[1].Attached.LinkMBs = 150
			j.Setups[1].Link = &job.Link{Kind: "sata", Negotiated: "1.5 Gb/s"}
		}, false},
	} {
		t.Run(name, func(t *testing.T) {
			j := visit()
			s := &j.Setups[1]
			FillIn(slow, j, s)
			c.change(j)
			noted, link := s.Attached.LinkMBs, *s.Link
			assert.False(t, Follow(slow, slow, j, s), "nothing has changed")
			assert.Equal(t, c.follows, Follow(quick, slow, j, s))
			if c.follows {
				assert.Equal(t, []any{600.0, "6 Gb/s"}, []any{s.Attached.LinkMBs, s.Link.Negotiated})
			} else {
				assert.Equal(t, []any{noted, link}, []any{s.Attached.LinkMBs, *s.Link})
			}
		})
	}
	j := visit()
	assert.False(t, Follow(quick, &hardware.Facts{}, j, &j.Setups[1]), "nothing was told before")
}

func TestTheDriveOfAFolder(t *testing.T) {
	f := with(disk)
	f.Volumes = append(f.Volumes, hardware.Volume{Mount: `D:\`, Drive: "disk1"})
	for dir, want := range map[string]string{"/": "sda", "/home/x": "sda", "/homely": "sda", "/media/x": "sdb",
		"/mediator": "sda", `D:\games`: "disk1", `E:\`: ""} {
		assert.Equal(t, want, f.DriveOf(dir), dir)
	}
	assert.Empty(t, (&hardware.Facts{}).DriveOf("/"))
}

func TestContradictionsAreNamed(t *testing.T) {
	j := visit()
	j.Computers[0] = job.Computer{ID: "c1", Maker: "Ostrand", Model: "Arena 7", MemoryBytes: 16 << 30}
	j.Drives[0] = job.Drive{ID: "d1",
		DriveLabel: job.DriveLabel{Kind: job.SataSSD, Model: "Kestrel", CapacityBytes: 500_000_000_000}}
	j.Setups[0].Attached = job.Attached{Port: "sata", LinkMBs: 600}
	f := with(disk)
	f.Drives[1].Attached = &job.Attached{LinkMBs: 300}
	var what []string
	for _, c := range Contradictions(f, j, &j.Setups[0]) {
		assert.NotEqual(t, c.Noted, c.Seen)
		what = append(what, c.What)
	}
	assert.Equal(t, []string{"computer", "memory", "drive", "kind of drive", "capacity", "link"}, what)
	j.Setups[0].Fitted = &job.Fitted{MemoryBytes: 8 << 30}
	j.Drives[0].CapacityBytes = 640_000_000_000
	what = nil
	for _, c := range Contradictions(f, j, &j.Setups[0]) {
		what = append(what, c.What)
	}
	assert.NotContains(t, what, "memory", "what was fitted since counts")
	assert.NotContains(t, what, "capacity", "a label rounds")
}

func TestWhatCannotBeSoIsRefused(t *testing.T) {
	good := with(disk)
	require.NoError(t, good.Check())
	hot, nan := 5000.0, math.NaN()
	for name, spoil := range map[string]func(f *hardware.Facts){
		"a text without end":       func(f *hardware.Facts) { f.Computer.Model = strings.Repeat("x", 501) },
		"a list without end":       func(f *hardware.Facts) { f.Volumes = make([]hardware.Volume, 257) },
		"a size below nothing":     func(f *hardware.Facts) { f.Partitions = []hardware.Partition{{SizeBytes: -1}} },
		"a drive of a exabyte":     func(f *hardware.Facts) { f.Drives[1].CapacityBytes = 1<<60 + 1 },
		"a drive as hot as a star": func(f *hardware.Facts) { f.Drives[1].TemperatureC = &hot },
		"no number":                func(f *hardware.Facts) { f.Drives[1].MaxTempC = &nan },
		"warnings without end":     func(f *hardware.Facts) { f.Drives[1].Health = &hardware.Health{Warnings: make([]string, 300)} },
		"a reason without end": func(f *hardware.Facts) {
			f.Absent = []hardware.Absence{{What: "x",
				Why: strings.Repeat("y", 600)}}
		},
	} {
		t.Run(name, func(t *testing.T) {
			f := with(disk)
			spoil(f)
			assert.Error(t, f.Check())
		})
	}
}

// Whatever is said of a computer, it is refused or can be noted, and nothing breaks.
func FuzzFacts(f *testing.F) {
	text, err := json.Marshal(with(flash))
	require.NoError(f, err)
	f.Add(text)
	f.Add([]byte(`{"drives":[{"id":""}],"volumes":[{"system":true}]}`))
	f.Fuzz(func(t *testing.T, text []byte) {
		var facts hardware.Facts
		if json.Unmarshal(text, &facts) != nil || facts.Check() != nil {
			return
		}
		j := visit()
		if s := SetupOf(&facts, j); s != nil {
			Contradictions(&facts, j, s)
			FillIn(&facts, j, s)
		}
		if faults := j.Check(); len(faults) > 0 {
			t.Fatalf("the job is broken: %v", faults)
		}
	})
}
