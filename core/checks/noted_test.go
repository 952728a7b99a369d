package checks

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

// noted returns the check of that id of a visit whose new drive was written to.
func noted(t *testing.T, id string, change func(j *job.Job, d *job.Drive), looks ...job.Sustained) Check {
	t.Helper()
	j, _, now := visit()
	d := &j.Drives[1]
	d.Rated = &job.Rated{WriteMBs: 500, MaxTempC: 70}
	j.Drives[0].Rated = &job.Rated{WriteMBs: 105}
	d.Sustained = looks
	if change != nil {
		change(j, d)
	}
	for _, c := range Noted(j, &j.Setups[1], now) {
		if c.ID == id {
			assert.Equal(t, c.State == Wrong, c.Do != "", "what is wrong says what to do, and nothing else does")
			return c
		}
	}
	return Check{}
}

func TestADriveWritesSteadily(t *testing.T) {
	sata := &job.Attached{Port: "sata", LinkMBs: 600}
	look := func(attached *job.Attached, mbs float64, cliff *drivetest.Cliff) job.Sustained {
		return job.Sustained{Attached: attached,
			Parts: []job.SustainedPart{{Seconds: 60, MBs: mbs, Cliff: cliff}, {Loaded: true, Seconds: 60, MBs: 20}}}
	}
	for name, c := range map[string]struct {
		look   job.Sustained
		change func(j *job.Job, d *job.Drive)
		state  job.CheckState
		found  string
	}{
		"as its label says": {look(sata, 480, nil), nil, Fine, "480 MB/s over 60 s; rated 500 MB/s"},
		"far below":         {look(sata, 340, nil), nil, Wrong, "340 MB/s over 60 s"},
		"just enough":       {look(sata, 351, nil), nil, Fine, "351 MB/s over 60 s; rated 500 MB/s"},
		"it is its case's fault": {look(&job.Attached{Port: "usb", LinkMBs: 53}, 40, nil), nil, Unknown,
			"40 MB/s over 60 s; that is what its link carried (53 MB/s)"},
		"who knows where it hung": {look(nil, 40, nil), nil, Unknown,
			"40 MB/s over 60 s; rated 500 MB/s, and what its link carried is not known"},
		"no rating": {look(sata, 480, nil), func(_ *job.Job, d *job.Drive) { d.Rated = nil },
			Unknown, "480 MB/s over 60 s; what it is rated is not known"},
		"its cache is used up": {look(sata, 300,
			&drivetest.Cliff{AfterBytes: 12e9, BeforeMBs: 490, AfterMBs: 150, Cause: drivetest.CacheCause}), nil, Fine,
			"490 MB/s, and after 12 GB 150 MB/s; rated 500 MB/s"},
		"and then the old one is better": {look(sata, 200,
			&drivetest.Cliff{AfterBytes: 4e9, BeforeMBs: 490, AfterMBs: 80, Cause: drivetest.CacheCause}), nil, Wrong,
			"490 MB/s, and after 4 GB 80 MB/s"},
		"the old one's rate is unknown": {look(sata, 200,
			&drivetest.Cliff{AfterBytes: 4e9, BeforeMBs: 490, AfterMBs: 80, Cause: drivetest.CacheCause}),
			func(j *job.Job, _ *job.Drive) { j.Drives[0].Rated = nil }, Fine,
			"490 MB/s, and after 4 GB 80 MB/s; rated 500 MB/s"},
		"it failed": {job.Sustained{Attached: sata,
			Parts: []job.SustainedPart{{Seconds: 12, MBs: 480, Stopped: "error"}}}, nil, Wrong,
			"480 MB/s over 12 s, and then it failed"},
		"a simulated one": {job.Sustained{Simulated: true, Attached: sata,
			Parts: []job.SustainedPart{{Seconds: 60, MBs: 480}}}, nil, Fine,
			"480 MB/s over 60 s; rated 500 MB/s (simulated)"},
		"it throttles": {look(sata, 300,
			&drivetest.Cliff{AfterBytes: 12e9, BeforeMBs: 490, AfterMBs: 150, Cause: drivetest.HeatCause}), nil, Wrong,
			"490 MB/s, and after 12 GB 150 MB/s"},
	} {
		t.Run(name, func(t *testing.T) {
			got := noted(t, "steady", c.change, c.look)
			assert.Equal(t, []any{c.state, c.found},
				[]any{got.State, got.Found})
		})
	}
	assert.Empty(t, noted(t, "steady", nil).ID, "nobody looked")
	again := noted(t, "steady", nil, look(sata, 300, nil), look(sata, 480, nil))
	assert.Equal(t, Fine, again.State, "the last time counts")
}

func TestADriveUnderLoad(t *testing.T) {
	c := func(v float64) *float64 { return &v }
	yes, no := true, false
	look := func(peak float64, sink *bool) job.Sustained {
		return job.Sustained{HeatSink: sink,
			Parts: []job.SustainedPart{{StartC: c(31), PeakC: c(46)}, {Loaded: true, StartC: c(46), PeakC: c(peak)}}}
	}
	got := noted(t, "under-load", nil, look(63, nil))
	assert.Equal(t, Check{ID: "under-load", Title: "It stays cool under load", State: Fine,
		Found: "31 °C before, 46 °C while it was written to, 63 °C with the processor loaded; 7 °C below its limit", Gate: job.GateCaseClosed}, got)
	got = noted(t, "under-load", nil, look(66, nil))
	assert.Equal(t, Wrong, got.State)

	warm := look(69, &no)
	warm.RoomC, warm.Graphics = c(27), &yes
	cool := look(58, &yes)
	cool.LimitC = c(75)
	got = noted(t, "under-load", nil, warm, cool)
	assert.Equal(t, Fine, got.State, "it wears one now")
	assert.Equal(t, "31 °C before, 46 °C while it was written to, 58 °C with the processor loaded, with a heat sink; "+
		"17 °C below its limit; without a heat sink it was 69 °C", got.Found)
	got = noted(t, "under-load", nil, cool, warm)
	assert.Equal(t, Wrong, got.State)
	assert.Equal(t, "31 °C before, 46 °C while it was written to, 69 °C with the processor and the graphics loaded, "+
		"without a heat sink, in a room of 27 °C; with a heat sink it was 58 °C", got.Found)

	got = noted(t, "under-load", func(_ *job.Job, d *job.Drive) { d.Rated = nil }, look(90, nil))
	assert.Equal(t, Unknown, got.State)
	assert.Contains(t, got.Found, "its limit is not known")
	assert.Empty(t, noted(t, "under-load", nil, job.Sustained{Parts: []job.SustainedPart{{PeakC: c(90)}}}).ID,
		"it was written to alone")
	assert.Empty(t, noted(t, "under-load", nil, job.Sustained{Parts: []job.SustainedPart{{Loaded: true}}}).ID,
		"it does not tell")
}
