package fairness

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// The table as it is meant: what each rule does to the lines it touches, and how many
// minutes its remedy takes; 0 is none.
func TestTheTable(t *testing.T) {
	type row struct {
		id      string
		effect  Effect
		minutes float64
	}
	want := []row{
		{"other-computer", Blocks, 60},
		{"other-baseline-drive", Qualifies, 30},
		{"other-parameters", Blocks, 4},
		{"not-recorded", Notes, 0},
		{"more-than-the-drive", Qualifies, 0},
		{"other-app-version", Qualifies, 10},
		{"other-content", Blocks, 5},
		{"power", Qualifies, 6},
		{"busy", Qualifies, 6},
		{"encrypting", Blocks, 30},
		{"encryption", Qualifies, 0},
		{"memory-changed", Qualifies, 0},
		{"processor-changed", Blocks, 60},
		{"other-work", Qualifies, 0},
		{"control-moved", Qualifies, 10},
		{"system-version", Qualifies, 0},
		{"system-origin", Qualifies, 0},
		{"start-kind", Blocks, 4},
		{"first-after-swap", Qualifies, 4},
		{"warmth", Blocks, 4},
		{"attachment", Qualifies, 15},
		{"port-limit", Notes, 10},
		{"below-rating", Notes, 10},
		{"beyond-link", Blocks, 5},
		{"beyond-mechanics", Blocks, 5},
		{"content-moved", Qualifies, 10},
		{"content-elsewhere", Notes, 0},
		{"attached-devices", Qualifies, 5},
		{"firmware-settings", Qualifies, 6},
		{"weak-supply", Qualifies, 10},
		{"heat", Qualifies, 10},
		{"fill", Notes, 0},
		{"placement", Qualifies, 10},
		{"engine-limited", Qualifies, 0},
		{"drift", Qualifies, 10},
		{"lone-run", Qualifies, 4},
		{"method", Notes, 0},
		{"probe-version", Qualifies, 5},
		{"simulated", Notes, 0},
		{"not-settled", Blocks, 4},
		{"settles", Qualifies, 1},
		{"other-program", Blocks, 10},
		{"unequal-amounts", Blocks, 10},
		{"same-drive", Blocks, 30},
		{"measured-elsewhere", Blocks, 30},
		{"system-beside", Qualifies, 0},
	}
	var got []row
	for _, r := range rules {
		got = append(got, row{r.id, r.effect, r.minutes})
	}
	assert.Equal(t, want, got)
}

// Findings are in the order of the table, also of rules that look at intervals and are
// gone through last.
func TestFindingsStandInTheOrderOfTheTable(t *testing.T) {
	j := fair()
	j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = new(10.0), new(90.0)
	each(j, "control", "s2", func(r *job.Run) { r.Value = 20 })
	var ids []string
	for _, f := range found(j, "then", "now") {
		ids = append(ids, f.Rule)
	}
	assert.Equal(t, []string{"control-moved", "fill"}, ids)
}

// Which timed tests the kind of a start touches: starts, and what does not say what it is.
func TestWhatMayBeAStart(t *testing.T) {
	for name, tc := range map[string]struct {
		test job.Test
		want bool
	}{
		"a start":                        {job.Test{Kind: job.Timed, What: "cold-start"}, true},
		"a timed test that says nothing": {job.Test{Kind: job.Timed}, true},
		"a launch":                       {job.Test{Kind: job.Timed, What: "launch-first"}, false},
		"files":                          {job.Test{Kind: job.OnFiles}, false},
	} {
		assert.Equal(t, tc.want, maybeStarts(&tc.test), name)
	}
}

// Where a side's runs are divided, those stand alone that the other side does not share;
// where that does not tell either, those that differ from the first.
func TestTheMinorityOfADividedSide(t *testing.T) {
	run := func(id string) *job.Run { return &job.Run{ID: id} }
	side := func(of ...string) *stated {
		s := &stated{classes: map[string]int{}}
		for i, class := range of {
			s.runs, s.of = append(s.runs, run(string(rune('a'+i)))), append(s.of, class)
			s.classes[class]++
		}
		return s
	}
	tests := map[string]struct {
		side, other *stated
		want        []string
	}{
		"two against one": {side("cold", "cold", "warm"), side("warm"), []string{"c"}},
		"two against one, the first alone": {side("warm", "cold", "cold"), side("warm", "warm", "warm"),
			[]string{"a"}},
		"one each, the other side says warm": {side("cold", "warm"), side("warm", "warm"), []string{"a"}},
		"one each, the other side says cold": {side("cold", "warm"), side("cold"), []string{"b"}},
		"one each, and so on the other side": {side("cold", "warm"), side("cold", "warm"), []string{"b"}},
		"all alike":                          {side("cold", "cold"), side("warm"), nil},
	}
	for name, tc := range tests {
		for range 20 { // whatever the order of a map
			assert.Equal(t, tc.want, tc.side.minority(tc.other), name)
		}
	}
}

// What is said of each side.
func TestSides(t *testing.T) {
	says := func(j *job.Job, rule string) [2]string {
		for _, f := range found(j, "then", "now") {
			if f.Rule == rule {
				return [2]string{Said(f.Then, j), Said(f.With, j)}
			}
		}
		return [2]string{"none"}
	}
	fill := func(then, later float64) *job.Job {
		j := fair()
		j.Sittings[0].Conditions.FillPct, j.Sittings[1].Conditions.FillPct = &then, new(95.0)
		j.Run("longs10").Conditions = &job.Conditions{FillPct: &later}
		return j
	}
	assert.Equal(t, [2]string{"60 to 61 % full", "95 % full"}, says(fill(60, 61), "fill"), "a point apart is a range")
	assert.Equal(t, [2]string{"61 % full", "95 % full"}, says(fill(60.4, 61.3), "fill"), "less than a point is none")

	j := fair()
	files := func(same int64) []job.SampleFile {
		return []job.SampleFile{{Path: "a", Bytes: same}, {Path: "b" + string(rune('0'+same%10)), Bytes: 1000 - same}}
	}
	each(j, "long", "s1", func(r *job.Run) { r.Sample = files(800) })
	each(j, "long", "s2",
		func(r *job.Run) { r.Sample = []job.SampleFile{{Path: "a", Bytes: 800}, {Path: "c", Bytes: 200}} })
	assert.Equal(t, [2]string{"80 % of the bytes are on both sides", "80 % of the bytes are on both sides"},
		says(j, "other-content"))

	// A start three times as fast, and a drive that is half as fast again: said of the side
	// that is the faster one, whichever it is called.
	j = fair()
	each(j, "scattered", "s2", func(r *job.Run) { r.Value *= 150.0 / 9000 })
	assert.Equal(t, [2]string{"", "3 times as fast, and the drive 1.5 times"}, says(j, "more-than-the-drive"))
	swapped := slices.DeleteFunc(found(j, "now", "then"),
		func(f Finding) bool { return f.Rule != "more-than-the-drive" })
	require.Len(t, swapped, 1)
	assert.Equal(t, "3 times as fast, and the drive 1.5 times", Said(swapped[0].Then, j))
	assert.Nil(t, swapped[0].With)
}

// Half as fast again is more than a drive does that hardly changed.
func TestALittleMoreThanTheDrive(t *testing.T) {
	j := fair()
	each(j, "start", "s2", func(r *job.Run) { r.Value = 60 })
	each(j, "scattered", "s2", func(r *job.Run) { r.Value = 105 })
	_, ok := has(j, "more-than-the-drive")
	assert.True(t, ok)
}

// A test of a single phase can be split or not too.
func TestOnePhaseIsASplit(t *testing.T) {
	j := fair()
	j.Tests[0].Phases = []job.Phase{{ID: "a", Name: "to the desktop"}}
	each(j, "start", "s1", func(r *job.Run) { r.Phases = map[string]float64{"a": r.Value} })
	_, ok := has(j, "other-parameters")
	assert.True(t, ok)
}

// What is known of no drive is in doubt of nothing.
func TestADriveThatNobodyDescribed(t *testing.T) {
	j := fair()
	j.Drives = nil
	each(j, "long", "s2", func(r *job.Run) { r.PeakTempC = new(99.0) })
	for _, f := range found(j, "then", "now") {
		assert.NotContains(t, []string{"beyond-mechanics", "heat", "below-rating", "placement"}, f.Rule)
	}
	// Nor is anything far from a value of zero.
	j = fair()
	each(j, "long", "s1", func(r *job.Run) { r.Value = 0 })
	j.Runs = append(j.Runs,
		job.Run{ID: "again", Test: "long", Sitting: "s1", Method: job.Automatic, Repeat: true, Value: 5, At: noon})
	_, ok := has(j, "drift")
	assert.False(t, ok)
}
