package report

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/words"
)

// several is a made-up comparison of three drives by a start (20, 10 and 10 s) and a read that the first lacks.
func several() *job.Job {
	j := &job.Job{Head: job.Head{Number: "7", Kind: job.KindComparison}, Computers: []job.Computer{{ID: "c1"}},
		Tests: []job.Test{{ID: "start", Kind: job.Timed, What: "cold-start", Name: "Cold start to desktop", Unit: "s",
			Better: job.Lower, PerWeek: 7},
			{ID: "read", Kind: job.OnDrive, What: "long-read", Name: "Long read", Unit: "MB/s", Better: job.Higher}}}
	for i, d := range []job.DriveLabel{{Kind: job.HDD, CapacityBytes: 1e12, RPM: 5400},
		{Kind: job.SataSSD, CapacityBytes: 5e11,
			Price: &job.Price{Amount: "40.00", Currency: "EUR", At: time.Date(2031, 3, 1, 0, 0, 0, 0, time.UTC)}},
		{Kind: job.NVMe, CapacityBytes: 1e12}} {
		id := fmt.Sprint("t", i)
		j.Drives = append(j.Drives, job.Drive{ID: id, DriveLabel: d})
		j.Setups = append(j.Setups, job.Setup{ID: id, Role: job.Trial, Computer: "c1", Drive: id})
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s" + id, Setup: id})
		for n := range 3 {
			j.Runs = append(j.Runs,
				job.Run{ID: fmt.Sprint(id, n), Test: "start", Sitting: "s" + id,
					Value: []float64{20, 10, 10}[i] + 0.01*float64(n), Method: job.Automatic})
			if i > 0 {
				j.Runs = append(j.Runs,
					job.Run{ID: fmt.Sprint(id, "r", n), Test: "read", Sitting: "s" + id, Value: 500,
						Method: job.Automatic})
			}
		}
	}
	return j
}

func TestAComparisonInTheReport(t *testing.T) {
	for _, in := range []*words.Language{words.English, german(t)} {
		j := several()
		then, with := j.DefaultSides()
		d := New(j, compare.Compare(j, then, with, compare.DefaultOptions), Options{Language: in})
		require.NotNil(t, d.Beside)
		assert.Len(t, d.Beside.Columns, 3)
		assert.Empty(t, d.Waiting, "two of three drives are no before and after")
		all := fmt.Sprint(d.Headline, d.Lead, d.Done, d.How, d.Beside)
		assert.NotContains(t, strings.ToLower(all), "replaced")
		assert.NotContains(t, all, "ersetzt")
		for _, r := range d.Beside.Rows {
			assert.Len(t, r.Cells, 3, r.Name)
		}
		assert.Equal(t, in.Say("not-measured"), d.Beside.Rows[1].Cells[0])
		if in.Tag == "en" {
			assert.Contains(t, d.Beside.Rows[0].Cells[1], "2.0 times as fast")
			assert.Contains(t, d.How[0], "only some of the drives", "the first one was not read")
			assert.Contains(t, all, "5400 rpm")
			assert.Contains(t, all, "80.00 EUR")
			assert.Contains(t, all, "1 March 2031")
			assert.Contains(t, all, "compared with 1 TB hard disk")
		}
	}
	one := several()
	one.Setups, one.Sittings, one.Runs = one.Setups[:1], one.Sittings[:1], one.Runs[:3]
	d := New(one, compare.Compare(one, "", "t0", compare.DefaultOptions), Options{})
	assert.Nil(t, d.Beside, "one drive is no comparison")
}

func TestWhyOneStays(t *testing.T) {
	j := several()
	j.Head.Kind, j.Head.Stays, j.Head.StaysWhy = "", "t2", "it is quieter."
	j.Setups[0].ID, j.Setups[0].Role = "then", job.Then
	j.Sittings[0].Setup = "then"
	d := New(j, compare.Compare(j, "then", "t2", compare.DefaultOptions), Options{})
	require.NotNil(t, d.Beside)
	assert.Len(t, d.Beside.Columns, 2, "Then is no candidate")
	assert.Contains(t, d.Beside.Said, "1 TB NVMe SSD stays: it is quieter.")
	assert.NotEmpty(t, d.Waiting, "an upgrade keeps its before and after")
}

func german(t *testing.T) *words.Language {
	t.Helper()
	in, err := words.In("de")
	require.NoError(t, err)
	return in
}

// What a drive said of its own on both days is in the report of a check-up; what is known on one day alone does not.
func TestHealthInACheckUp(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	wear := 4.0
	j := several()
	j.Head.Kind = job.KindCheckUp
	j.Setups = j.Setups[1:2]
	j.Setups[0].Role = job.Now
	at := time.Date(2031, 3, 1, 9, 0, 0, 0, time.UTC)
	first := job.Sitting{ID: "first", Setup: "t1", Started: at,
		Health: &job.Health{Reallocated: n(0), PowerOnHours: n(12000), WearPct: &wear}}
	last := job.Sitting{ID: "last", Setup: "t1", Started: at.AddDate(0, 2, 0),
		Health: &job.Health{Reallocated: n(8), PowerOnHours: n(13440), Pending: n(3)}}
	j.Sittings = []job.Sitting{first, last}
	runs := j.Runs
	j.Runs = nil
	for _, r := range runs {
		if r.Test == "start" {
			r.Sitting = []string{"first", "last"}[len(j.Runs)%2]
			j.Runs = append(j.Runs, r)
		}
	}
	for _, c := range []struct {
		in         *words.Language
		said, none []string
	}{{words.English, []string{"Reallocated sectors: 0 at the start, 8 now", "12000 power-on hours"},
		[]string{"Pending", "Wear"}},
		{german(t), []string{"Ersetzte Sektoren: zu Beginn 0, jetzt 8", "Betriebsstunden"},
			[]string{"Schwebende", "Abnutzung"}}} {
		then, with := j.DefaultSides()
		named := j.Named(then, with)
		d := New(named, compare.Compare(named, then, with, compare.DefaultOptions), Options{Language: c.in})
		all := fmt.Sprint(d.Done, d.How, d.Lead)
		for _, want := range c.said {
			assert.Contains(t, all, want)
		}
		for _, not := range c.none {
			assert.NotContains(t, all, not)
		}
	}
	once := *j
	once.Sittings = j.Sittings[:1]
	once.Runs = slices.DeleteFunc(slices.Clone(j.Runs), func(r job.Run) bool { return r.Sitting != "first" })
	d := New(&once, compare.Compare(&once, "t1", "t1", compare.DefaultOptions), Options{})
	assert.NotContains(t, fmt.Sprint(d.Done), "measured again", "there was one session")
}
