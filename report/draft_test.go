package report

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/words"
)

// What was chosen decides what stands and in which order; what is left out is named.
func TestWhatWasChosen(t *testing.T) {
	j, l := comparison(t)
	names := func(list []Figure) (names []string) {
		for _, f := range list {
			names = append(names, f.Name)
		}
		return names
	}
	plain := New(j, l, Options{})
	require.GreaterOrEqual(t, len(plain.Waiting), 2)
	require.NotEmpty(t, plain.Drive)
	assert.EqualValues(t, LengthTwo, plain.Length)
	last, out := l.Lines[0].Test, l.Lines[0].Test
	for _, ln := range l.Lines {
		if k := j.Test(ln.Test).Kind; k == job.Timed || k == job.OnFiles {
			last = ln.Test
		} else if k == job.OnDrive {
			out = ln.Test
		}
	}
	j.Head.Report = &job.ReportDraft{Note: "  Keep the old drive.\nFor a month.  ", First: []string{last},
		LeftOut: []string{out}, Short: true, Length: LengthOne}
	chosen := New(j, l, Options{})
	assert.Equal(t, "Keep the old drive.\nFor a month.", chosen.Note)
	assert.EqualValues(t, LengthOne, chosen.Length)
	assert.Equal(t, writer{words.English, nil, nil, nil}.name(j.Test(last)), chosen.Waiting[0].Name)
	assert.ElementsMatch(t, names(plain.Waiting), names(chosen.Waiting))
	hidden := writer{words.English, nil, nil, nil}.name(j.Test(out))
	assert.NotContains(t, names(chosen.Drive), hidden)
	assert.Contains(t, chosen.How[len(chosen.How)-1], hidden)
	assert.Empty(t, chosen.Share)
	for _, f := range chosen.Waiting {
		assert.Empty(t, f.Words.Extra)
	}
	assert.Equal(t, plain.Caveats, chosen.Caveats, "no caveat is chosen away")
}

// A revision says what is different from the one before.
func TestWhatARevisionSays(t *testing.T) {
	j, l := comparison(t)
	first := New(j, l, Options{})
	same := New(j, l, Options{})
	same.Compared(first)
	assert.Equal(t, []string{"The figures are the same as in the last one."}, same.Changes)

	german := New(j, l, Options{Language: words.German})
	german.Compared(first)
	assert.Equal(t, []string{"Die letzte Fassung war in einer anderen Sprache."}, german.Changes)

	next := New(j, l, Options{})
	next.Note, next.Headline = "new", "Another headline"
	next.Waiting[0].Words.Now = "31 s"
	gone := next.Drive[0].Name
	next.Drive = next.Drive[1:]
	next.Other = append(next.Other, Figure{Name: "Noise"})
	next.Compared(first)
	was := first.Waiting[0]
	assert.Equal(t, []string{
		was.Name + ": it was Before " + was.Words.Then + ", After " + was.Words.Now + ", " + was.Words.Main +
			"; now it is Before " + was.Words.Then + ", After 31 s, " + was.Words.Main + ".",
		"Noise is new.",
		gone + " is no longer shown.",
		"The headline was: " + first.Headline,
		"The technician’s note has changed.",
	}, next.Changes)
}

// comparison is a visit with two waits and two drive tests on both sides.
func comparison(t *testing.T) (*job.Job, *compare.Ledger) {
	t.Helper()
	j := visit(map[string]float64{catalogue.ColdStart: 90, "t-launch": 12, catalogue.LongRead: 75,
		catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 36, "t-launch": 4, catalogue.LongRead: 500,
			catalogue.ScatteredRead: 9000})
	j.Tests = append(j.Tests, catalogue.Tests(0, 0, "t-launch")...)
	l := compare.Compare(j, "then", "now", compare.DefaultOptions)
	return j, l
}
