package fairness

import (
	"math"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

func TestWhatALabelPromises(t *testing.T) {
	sweep, fresh, streams := drivetest.SizeSweep(drivetest.Read, 1<<30), drivetest.SustainedWrite(1<<30),
		drivetest.KeepUp(1<<30, drivetest.Streams{Count: 1, MBs: 5})
	read, write, random, mix := drivetest.LongRead(1<<30), drivetest.LongWrite(1<<30), drivetest.ScatteredRead(1<<30),
		drivetest.DeskMix(1<<30)
	tests := map[string]struct {
		test   job.Test
		long   bool
		writes bool
		rate   float64 // of the value 1000, MB/s
	}{
		"a long read":                     {job.Test{Unit: "MB/s", Params: &read}, true, false, 1000},
		"a long write":                    {job.Test{Unit: "MB/s", Params: &write}, true, true, 1000},
		"a long read without parameters":  {job.Test{Unit: "MB/s", What: "long-read"}, true, false, 1000},
		"a long write without parameters": {job.Test{Unit: "MB/s", What: "long-write"}, true, true, 1000},
		"something else without":          {job.Test{Unit: "MB/s", What: "copying"}, false, false, 1000},
		"a write that is called a read": {job.Test{Unit: "MB/s", What: "long-read", Params: &write}, true, true,
			1000},
		"a read that is called a write": {job.Test{Unit: "MB/s", What: "long-write", Params: &read}, true, false,
			1000},
		"a sweep":                         {job.Test{Unit: "MB/s", Params: &sweep}, false, false, 1000},
		"sustained writing":               {job.Test{Unit: "MB/s", Params: &fresh}, false, true, 1000},
		"recordings":                      {job.Test{Unit: "MB/s", Params: &streams}, false, true, 1000},
		"scattered reads in MB/s":         {job.Test{Unit: "MB/s", Params: &random}, false, false, 1000},
		"scattered reads":                 {job.Test{Unit: "IOPS", Params: &random}, false, false, 4.096},
		"a mix of sizes":                  {job.Test{Unit: "IOPS", Params: &mix}, false, false, math.NaN()},
		"requests of a size nobody knows": {job.Test{Unit: "IOPS"}, false, false, math.NaN()},
		"a response time":                 {job.Test{Unit: "ms", Params: &random}, false, false, math.NaN()},
	}
	for name, tc := range tests {
		assert.Equal(t, tc.long, isLong(&tc.test), name)
		assert.Equal(t, tc.writes, writes(&tc.test), name)
		if got := rate(&tc.test, 1000); math.IsNaN(tc.rate) {
			assert.True(t, math.IsNaN(got) || len(mix.Blocks) == 0 && got > 0, name)
		} else {
			assert.InDelta(t, tc.rate, got, 1e-9, name)
		}
	}
	require.NotEmpty(t, mix.Blocks, "the mix has blocks of several sizes")
}

// What is found of a long read over a link.
func TestLinksAndRatings(t *testing.T) {
	tests := map[string]struct {
		link, capable, rated, value float64
		want                        []string
	}{
		"a link below the rating":              {300, 300, 550, 280, []string{"port-limit"}},
		"a link below what both ends could do": {300, 600, 300, 280, []string{"port-limit"}},
		"a link that carries what is rated":    {600, 600, 600, 560, nil},
		"far from its link and its rating":     {600, 600, 550, 200, []string{"below-rating"}},
		"no link known, at its rating":         {0, 0, 550, 500, nil},
		"no link known, far below":             {0, 0, 550, 200, []string{"below-rating"}},
		"nothing rated":                        {600, 600, 0, 200, nil},
	}
	for name, tc := range tests {
		j := fair()
		j.Setups[1].Attached = job.Attached{Port: "sata", LinkMBs: tc.link, CapableMBs: tc.capable}
		j.Drives[1].Rated.ReadMBs = tc.rated
		each(j, "long", "s2", func(r *job.Run) { r.Value = tc.value })
		var got []string
		for _, f := range found(j, "then", "now") {
			if slices.Contains(f.Lines, "long") {
				got = append(got, f.Rule)
			}
		}
		assert.Equal(t, tc.want, got, name)
	}
}

// has reports whether a rule found something, and in which runs.
func has(j *job.Job, rule string) (runs []string, ok bool) {
	for _, f := range found(j, "then", "now") {
		if f.Rule == rule {
			return f.Runs, true
		}
	}
	return nil, false
}

func TestOneRunIsEnough(t *testing.T) {
	// One of three over the link.
	j := fair()
	j.Run("longs21").Value = 700
	runs, ok := has(j, "beyond-link")
	assert.True(t, ok)
	assert.Equal(t, []string{"longs21"}, runs)
	// The only one of its side.
	j = fair()
	j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.ID == "longs20" || r.ID == "longs21" })
	j.Run("longs22").Value = 700
	_, ok = has(j, "beyond-link")
	assert.True(t, ok)

	// Scattered reads given in MB/s: 250 a second are 1.024 MB/s.
	for value, want := range map[float64]bool{1.0239: false, 1.0241: true} {
		j := fair()
		j.Drives[1].Kind = job.HDD
		j.Tests[2].Unit = "MB/s"
		each(j, "scattered", "s1", func(r *job.Run) { r.Value = 0.4 })
		each(j, "scattered", "s2", func(r *job.Run) { r.Value = value })
		_, ok := has(j, "beyond-mechanics")
		assert.Equal(t, want, ok, "%v MB/s", value)
	}

	// A drive with an unknown limit is never at its limit.
	j = fair()
	j.Drives[1].Rated.MaxTempC = 0
	each(j, "long", "s2", func(r *job.Run) { r.PeakTempC = new(50.0) })
	_, ok = has(j, "heat")
	assert.False(t, ok)
}

func TestRunsThatStandAlone(t *testing.T) {
	note := func(values ...float64) *job.Job {
		j := fair()
		j.Tests = append(j.Tests, job.Test{ID: "noise", Kind: job.Note, Name: "Noise", Unit: "dB", Better: job.Lower})
		for _, sitting := range []string{"s1", "s2"} {
			for i, v := range values {
				j.Runs = append(j.Runs,
					job.Run{ID: "n" + sitting + string(rune('0'+i)), Test: "noise", Sitting: sitting, Method: job.Typed,
						Value: v, At: noon})
			}
		}
		return j
	}
	_, ok := has(note(0, 0, 5), "lone-run")
	assert.False(t, ok, "against zero nothing is a multiple")
	runs, ok := has(note(0.5, 0.5, 2), "lone-run")
	assert.True(t, ok)
	assert.Equal(t, []string{"ns12"}, runs)
}

// A repeat is off by more than runs of that spread differ from the median of n of them:
// by the half-width of (σw² × (1 + κ(n) ÷ n), νw).
func TestDrift(t *testing.T) {
	kappa := map[int]float64{1: 1, 2: 1, 3: 1.3461, 4: 1.1927}
	for n, k := range kappa {
		j := fair()
		j.Runs = slices.DeleteFunc(j.Runs, func(r job.Run) bool { return r.Test == "long" && r.Sitting == "s1" })
		for i := range n {
			j.Runs = append(j.Runs,
				job.Run{ID: string(rune('a' + i)), Test: "long", Sitting: "s1", Method: job.Automatic,
					Value: 110 * (1 + float64(i)/200), At: noon})
		}
		var values []float64
		for _, r := range j.KeptRuns("long", "then") {
			values = append(values, r.Value)
		}
		one := side.Of(j.Indexed(), j.Test("long"), "then").RunVariance()
		one.Variance *= 1 + k/float64(n)
		half := stats.Combine(one).HalfWidth(0.95)
		at := len(j.Runs)
		j.Runs = append(j.Runs,
			job.Run{ID: "again", Test: "long", Sitting: "s1", Method: job.Automatic, Repeat: true, At: noon})
		for _, off := range []float64{-1, 1} {
			j.Runs[at].Value = stats.Median(values) * math.Exp(off*half*0.999)
			_, ok := has(j, "drift")
			assert.False(t, ok, "%d runs, just within", n)
			j.Runs[at].Value = stats.Median(values) * math.Exp(off*half*1.001)
			_, ok = has(j, "drift")
			assert.True(t, ok, "%d runs, just beyond", n)
		}
		j.Runs[at].SetAside = &job.SetAside{Reason: "a door slammed"}
		_, ok := has(j, "drift")
		assert.False(t, ok, "it was set aside")
		j.Runs[at].SetAside, j.Runs[at].Value = nil, 0
		_, ok = has(j, "drift")
		assert.False(t, ok, "it says nothing")
	}
	// Of a round on a setup that is not compared, and of the first test of the plan.
	j := fair()
	j.Setups = append(j.Setups, job.Setup{ID: "trial1", Role: job.Trial, Computer: "c1", Drive: "d3", Replaces: "d1"})
	j.Sittings = append(j.Sittings, job.Sitting{ID: "s9", Setup: "trial1", Started: noon})
	j.Runs = append(j.Runs,
		job.Run{ID: "again", Test: "long", Sitting: "s9", Method: job.Automatic, Repeat: true, Value: 7, At: noon})
	_, ok := has(j, "drift")
	assert.False(t, ok)
	j.Tests[0], j.Tests[1] = j.Tests[1], j.Tests[0]
	j.Run("again").Sitting = "s1"
	_, ok = has(j, "drift")
	assert.True(t, ok)
	j.Tests[0].Unit, j.Tests[0].Better, j.Tests[0].Params = "ms", job.Lower, nil
	each(j, "long", "", func(r *job.Run) { r.Value = 0.5 })
	j.Run("again").Value = 0.9
	_, ok = has(j, "drift")
	assert.True(t, ok, "a short response time")
}
