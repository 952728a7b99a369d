package probes

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/order"
)

// Nothing is written to the customer's old drive, nor to one that clearly isn't the new one.
func TestOnWhichDriveIsWritten(t *testing.T) {
	const old, fresh = "digest of the old", "digest of the new"
	visit := func() *job.Job {
		return &job.Job{
			Computers: []job.Computer{{ID: "c", Maker: "Larkfield", Model: "A"}},
			Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 640e9},
				DriveFound: job.DriveFound{SerialDigest: old}},
				{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 960e9,
					Rated: &job.Rated{MaxTempC: 70}}}},
			Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
				{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", Replaces: "d1"}},
		}
	}
	facts := hardware.Facts{
		Drives: []hardware.Drive{{ID: "sda", Kind: job.HDD, CapacityBytes: 640e9, SerialDigest: old},
			{ID: "sdb", Kind: job.SataSSD, CapacityBytes: 960e9, SerialDigest: fresh}, {ID: "sdc", Kind: job.USBFlash,
				CapacityBytes: 64e9}},
		Volumes: []hardware.Volume{{Mount: "/", Drive: "sda", System: true}, {Mount: "/media/new", Drive: "sdb"},
			{Mount: "/media/stick", Drive: "sdc"}},
	}
	for name, c := range map[string]struct {
		mount  string
		change func(j *job.Job, f *hardware.Facts)
		says   string // "": it is written
	}{
		"the new one":                {"/media/new/x", nil, ""},
		"the old one, by its number": {"/", nil, "That is the old drive"},
		"the old one, where it came in": {"/",
			func(j *job.Job, f *hardware.Facts) { f.Drives[0].SerialDigest, j.Drives[0].SerialDigest = "", "" },
			"That is the old drive"},
		"a stick that lies about": {"/media/stick", nil, "the new drive was entered with"},
		"nothing is mounted there": {"/media/new",
			func(_ *job.Job, f *hardware.Facts) { f.Volumes = f.Volumes[:1]; f.Volumes[0].Mount = "/home" },
			"sees no volume"},
		"nobody said which one is new": {"/media/new",
			func(j *job.Job, _ *hardware.Facts) { j.Setups = j.Setups[:1] }, "Enter the new drive first"},
		"its capacity was never noted": {"/media/new",
			func(j *job.Job, _ *hardware.Facts) { j.Drives[1].CapacityBytes = 0 }, ""},
		"a little less than its label": {"/media/new",
			func(_ *job.Job, f *hardware.Facts) { f.Drives[1].CapacityBytes = 931e9 }, ""},
		"the old one's twin, on its port": {"/media/new",
			func(_ *job.Job, f *hardware.Facts) { f.Drives[1].CapacityBytes = 640e9 }, "the new drive was entered with"},
	} {
		t.Run(name, func(t *testing.T) {
			j, f := visit(), facts
			f.Drives, f.Volumes = append([]hardware.Drive{}, facts.Drives...),
				append([]hardware.Volume{}, facts.Volumes...)
			if c.change != nil {
				c.change(j, &f)
			}
			limit, err := written(j, &record{Facts: f}, c.mount)
			if c.says == "" {
				require.NoError(t, err)
				assert.Equal(t, 70.0, limit)
				return
			}
			require.Error(t, err)
			assert.ErrorContains(t, err, c.says)
		})
	}
}

func TestHowALookEnded(t *testing.T) {
	r := &record{Checking: &Checking{Order: "a", State: running}}
	r.checked(order.Ended{Order: "another", State: order.Done})
	assert.Equal(t, running, r.Checking.State)
	before := r.Checking
	r.checked(order.Ended{Order: "a", State: order.Failed, Error: "no room"})
	assert.Equal(t, []string{order.Failed, "no room", running},
		[]string{r.Checking.State, r.Checking.Error, before.State})
	(&record{}).checked(order.Ended{Order: "a"})
}

func TestTheBenchsClock(t *testing.T) {
	now := time.Date(2026, 11, 27, 9, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		behind   float64
		at, want time.Time
	}{
		"they agree":       {0.5, now.Add(-time.Minute), now.Add(-time.Minute)},
		"it is a day late": {86400, now.Add(-25 * time.Hour), now.Add(-time.Hour)},
		"it is ahead":      {0, now.Add(time.Hour), now},
		"it does not say":  {0, time.Time{}, now},
	} {
		assert.Equal(t, c.want, (&record{Behind: c.behind}).ours(c.at, now), name)
	}
}
