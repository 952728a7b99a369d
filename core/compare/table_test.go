package compare

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// drives is a made-up comparison: starts of 20, 20, 30 s and no figure on drives a to d, each timed three times, and a
// read that only a and b have.
func drives(t testing.TB, of ...string) *job.Index {
	t.Helper()
	j := &job.Job{Head: job.Head{Kind: job.KindComparison}, Computers: []job.Computer{{ID: "c1"}},
		Tests: []job.Test{{ID: "start", Kind: job.Timed, What: "cold-start", Name: "Start", Unit: "s", Better: job.Lower},
			{ID: "read", Kind: job.OnDrive, What: "long-read", Name: "Read", Unit: "MB/s", Better: job.Higher},
			{ID: "none", Kind: job.Timed, Name: "Nobody did it", Unit: "s", Better: job.Lower}}}
	starts := map[string]float64{"a": 20, "b": 20, "c": 30}
	reads := map[string]float64{"a": 100, "b": 500}
	for _, id := range of {
		j.Drives = append(j.Drives, job.Drive{ID: id, DriveLabel: job.DriveLabel{Kind: job.SataSSD}})
		j.Setups = append(j.Setups, job.Setup{ID: id, Role: job.Trial, Computer: "c1", Drive: id})
		j.Sittings = append(j.Sittings, job.Sitting{ID: "s" + id, Setup: id})
		for n := range 3 {
			wiggle := 1 + 0.001*float64(n-1)
			for test, values := range map[string]map[string]float64{"start": starts, "read": reads} {
				if v, ok := values[id]; ok {
					j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint(id, test, n), Test: test, Sitting: "s" + id,
						Value: v * wiggle, Method: job.Automatic})
				}
			}
		}
	}
	require.Empty(t, j.Check())
	return j.Indexed()
}

func TestTabled(t *testing.T) {
	table, ledgers := Tabled(drives(t, "a", "b", "c", "d"), []string{"b", "a", "c", "d"}, DefaultOptions)
	require.Len(t, ledgers, 3)
	require.Len(t, table.Rows, 2, "what nobody measured is no row")
	assert.Equal(t, "b", table.Base)
	start, read := table.Rows[0].Cells, table.Rows[1].Cells
	verdicts := func(cells []TableCell) (v []Verdict) {
		for _, c := range cells {
			v = append(v, c.Verdict)
		}
		return v
	}
	assert.Equal(t, []Verdict{"", TooClose, Slower, NotMeasured}, verdicts(start))
	assert.Equal(t, []Verdict{"", Slower, NotMeasured, NotMeasured}, verdicts(read))
	assert.True(t, start[1].Equal || start[1].Verdict == TooClose)
	assert.True(t, start[2].Holds)
	assert.Nil(t, start[3].Centre)
	for _, c := range start[:3] {
		assert.Equal(t, 3, c.N)
		assert.Less(t, *c.Low, *c.Centre)
		assert.Greater(t, *c.High, *c.Centre)
		assert.InDelta(t, math.Log(*c.High / *c.Centre), math.Log(*c.Centre / *c.Low), 1e-9, "it lies even on the ln scale")
	}
	assert.InDelta(t, 20, *start[0].Centre, 1e-9)
	assert.InDelta(t, 20.0/30, *start[2].Factor, 1e-9)
}

func TestTabledOfNothing(t *testing.T) {
	x := drives(t)
	table, ledgers := Tabled(x, nil, DefaultOptions)
	assert.Empty(t, table.Rows)
	assert.Empty(t, ledgers)
	table, _ = Tabled(drives(t, "d"), []string{"d"}, DefaultOptions)
	assert.Empty(t, table.Rows)
}
