package report

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/words"
)

// visit is a job with three runs of everything on both sides.
func visit(then, now map[string]float64) *job.Job {
	j := &job.Job{
		Head:      job.Head{Number: "2026-0007", Customer: job.Customer{Name: "Ottilie"}},
		Computers: []job.Computer{{ID: "c", Maker: "Larkfield", Model: "Hearth"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 500e9}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 1e12}}},
		Plan:  job.Plan{Reference: catalogue.ScatteredRead},
		Tests: catalogue.Standard(0, 0),
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", Replaces: "d1",
				System: job.System{Origin: "cloned"}}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then"}, {ID: "s2", Setup: "now"}},
	}
	j.Tests[0].PerWeek = 7
	for i, values := range []map[string]float64{then, now} {
		sitting := j.Sittings[i].ID
		for _, test := range slices.Sorted(maps.Keys(values)) { // the same job each time
			for n := range 3 {
				r := job.Run{ID: fmt.Sprint(test, sitting, n), Test: test, Sitting: sitting, Method: job.Automatic,
					Value: values[test] * (1 + float64(n-1)/500), At: time.Unix(int64(n), 0)}
				if of := j.Test(test); of != nil && len(of.Phases) == 3 {
					phases := of.Phases
					r.Phases = map[string]float64{phases[0].ID: r.Value / 3, phases[1].ID: 8,
						phases[2].ID: r.Value * 2 / 3}
				}
				j.Runs = append(j.Runs, r)
			}
		}
	}
	return j
}

func document(j *job.Job) *Document {
	return New(j, compare.Compare(j, "then", "now", compare.DefaultOptions), Options{})
}

func TestHeadlineIsAboutWaiting(t *testing.T) {
	drive := map[string]float64{catalogue.ScatteredRead: 100}
	tests := []struct {
		name       string
		then, now  map[string]float64
		head, lead string
	}{
		{"faster", map[string]float64{catalogue.ColdStart: 90}, map[string]float64{catalogue.ColdStart: 36},
			"Your computer is ready after 36 seconds instead of 90.", "That is 60 % less waiting, every time."},
		{"hardly felt", map[string]float64{catalogue.ColdStart: 90}, map[string]float64{catalogue.ColdStart: 77},
			"Your computer is ready after 77 seconds instead of 90.", "The difference is measurable, but hardly felt."},
		{"slower", map[string]float64{catalogue.ColdStart: 36}, map[string]float64{catalogue.ColdStart: 90},
			"Your computer is ready after 90 seconds instead of 36.", "That is 150 % more waiting, every time. That " +
				"shouldn’t happen. Ask the shop to look into it."},
		{"the same", map[string]float64{catalogue.ColdStart: 36}, map[string]float64{catalogue.ColdStart: 36},
			"From switching on until you can work: 36 s before, 36 s after.", "From these runs it is not certain " +
				"that there is a " +
				"difference."},
		{"not measured before", nil, map[string]float64{catalogue.ColdStart: 36, catalogue.LongRead: 500},
			"How it is now.", "Nothing was measured before, so no improvement is stated."},
		{"a drive seventy times as fast, and nothing timed", drive, map[string]float64{catalogue.ScatteredRead: 7000},
			"The drive was measured.", "No start or program was timed, so this report says nothing about waiting."},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			d := document(visit(tt.then, tt.now))
			assert.Equal(t, tt.head, d.Headline)
			assert.Equal(t, tt.lead, d.Lead)
		})
	}
}

func TestEverythingIsSaid(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90, catalogue.LongRead: 100, catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 36, catalogue.LongRead: 500, catalogue.ScatteredRead: 7000})
	j.Head.Work = []job.Work{{At: time.Unix(1, 0), What: "cleaning", Note: "fan"}}
	j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut, Why: "it would have taken too long",
		Missing: []string{"Long write was not measured on the old drive"}}}
	j.Plan.Excuses = []job.Excuse{{Test: catalogue.LongWrite, Setup: "then", Why: "the drive was too ill"}}
	j.Sittings[0].Conditions.Busy, j.Sittings[1].Conditions.Busy = []job.Busy{"download"}, []job.Busy{}
	j.Runs[0].SetAside = &job.SetAside{Reason: "x"}
	d := document(j)
	assert.Equal(t, []string{"The 500 GB hard disk was replaced by a 1 TB SATA SSD.",
		"The system was carried over as it was, with programs and files.", "Also done: cleaning (fan)."}, d.Done)
	require.Len(t, d.Waiting, 1)
	assert.Equal(t, "60 % less waiting", d.Waiting[0].Words.Main)
	assert.Equal(t, "2.5 times as fast, saves 54 s each time", d.Waiting[0].Words.Extra)
	assert.NotContains(t, d.Share, "waiting for the drive",
		"something else ran on one side, and the computer was cleaned")
	assert.Contains(t, d.Week, "less waiting a week")
	assert.Contains(t, d.Week, "Counted per week: 7 × from switching on until you can work.",
		"what it rests on is said")
	require.Len(t, d.Drive, 2, "what was not measured on either side is left out")
	assert.Equal(t, "7,000 a second", d.Drive[1].Words.Now, "no abbreviations for the customer")
	titles := map[string]string{}
	for _, c := range d.Caveats {
		titles[c.Title] = c.Detail
	}
	assert.Equal(t, "Before: download. After: nothing else running.",
		titles["Something else was running in only one of the two measurements."])
	assert.Equal(t, "Because: it would have taken too long.",
		titles["The old drive was removed before all tests were done."])
	assert.Equal(t, "the drive was too ill.", titles["Writing large files could not be measured."])
	assert.NotEmpty(t, d.Waiting[0].Notes)
	for _, f := range append(d.Waiting, d.Drive...) {
		for _, n := range f.Notes {
			assert.True(t, n >= 1 && n <= len(d.Caveats))
		}
	}
	assert.Contains(t, d.How[len(d.How)-2], "not counted: password")
	assert.False(t, d.Simulated)
}

func TestTheShareOfTheDrive(t *testing.T) {
	d := document(visit(map[string]float64{catalogue.ColdStart: 90, catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 36, catalogue.ScatteredRead: 7000}))
	assert.Contains(t, d.Share, "Of the 90 s, about 55 s")
	assert.Contains(t, d.Share, "judging by the random-read test")
	assert.Contains(t, d.Share,
		"Where the time went: to the sign-in 30 s before, 12 s after; to a usable desktop 60 s "+
			"before, 24 s after. Not counted: password.")
}

// Of what wasn't split into phases, nothing is said to be left out; of figures that were typed in, nobody knows whether
// they went past the cache; and of a test of one side alone, not that both drives took it.
func TestNothingIsSaidOfHowThatIsNotSo(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90, catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 36, catalogue.ScatteredRead: 7000})
	how := func() string { return strings.Join(document(j).How, " ") }
	assert.Contains(t, how(), "bypassing the cache")
	assert.Contains(t, how(), "not counted: password")
	assert.Contains(t, how(), "The same tests were run on both drives")
	for i := range j.Runs {
		if r := &j.Runs[i]; r.Test == catalogue.ScatteredRead {
			r.Method = job.Typed
		} else {
			r.Phases = nil
		}
	}
	j.Runs = append(j.Runs, job.Run{ID: "x", Test: catalogue.LongRead, Sitting: "s1", Method: job.Typed, Value: 100})
	assert.NotContains(t, how(), "bypassing the cache")
	assert.NotContains(t, how(), "password")
	assert.NotContains(t, how(), "The same tests were run on both drives")
	assert.Contains(t, how(), "Some tests were run on only one of the two drives")
	assert.NotContains(t, document(j).Share, "Where the time went")
}

// What does not hold once all lines are considered, or rests on a single run, is shown
// and not claimed.
func TestOnlyWhatHoldsIsClaimed(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90, catalogue.LongRead: 100, catalogue.LongWrite: 100,
		catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 80, catalogue.LongRead: 101, catalogue.LongWrite: 101,
			catalogue.ScatteredRead: 101})
	l := compare.Compare(j, "then", "now", compare.DefaultOptions)
	require.Equal(t, compare.Faster, l.Line(catalogue.ColdStart).Verdict)
	require.False(t, l.Line(catalogue.ColdStart).HoldsAfterAll, "one of four")
	d := New(j, l, Options{})
	assert.Equal(t, "not certain", d.Waiting[0].Words.Main)
	assert.Equal(t, "90.0 s", d.Waiting[0].Words.Then)
	assert.Equal(t, "From switching on until you can work: 90 s before, 80 s after.", d.Headline)
}

// What the week saves is not claimed where it rests on a single run.
func TestTheWeekIsNotClaimedFromASingleRun(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90}, map[string]float64{catalogue.ColdStart: 37})
	assert.NotEmpty(t, document(j).Week)
	for i := range j.Runs {
		if j.Runs[i].Sitting == "s2" && j.Runs[i].ID[len(j.Runs[i].ID)-1] != '0' {
			j.Runs[i].SetAside = &job.SetAside{Reason: "x"}
		}
	}
	d := document(j)
	assert.Empty(t, d.Week)
	assert.Equal(t, "From switching on until you can work, measured once each: 90 s before, 37 s after.", d.Headline)
	assert.Equal(t, "One run each can’t show whether that is more than chance.", d.Lead)
	assert.Equal(t, "measured once each", d.Waiting[0].Words.Main)
}

// A single drive is compared with its rating and its link.
func TestOneSideOnly(t *testing.T) {
	j := visit(nil, map[string]float64{catalogue.LongRead: 500, catalogue.ColdStart: 36})
	j.Drives[1].Rated, j.Setups[1].Attached.LinkMBs = &job.Rated{ReadMBs: 550}, 600
	d := document(j)
	assert.Equal(t, "rated 550 MB/s, its link carries 600 MB/s", d.Drive[0].Words.Main)
	assert.Equal(t, "36.0 s", d.Waiting[0].Words.Now)
	assert.Empty(t, d.Week)
}

// A job without a side before states its figures, and claims no improvement.
func TestAJobWithoutThen(t *testing.T) {
	j := visit(nil, map[string]float64{catalogue.ColdStart: 36, catalogue.LongRead: 500})
	j.Setups, j.Sittings = j.Setups[1:], j.Sittings[1:]
	j.Setups[0].Replaces = ""
	for in, want := range map[*words.Language][]string{words.English: {"How it is now.",
		"The drive in it is a 1 TB SATA SSD."},
		words.German: {"So ist es jetzt.", "Das Laufwerk darin: 1-TB-SATA-SSD."}} {
		d := New(j, compare.Compare(j, "", "now", compare.DefaultOptions), Options{Language: in})
		assert.Equal(t, want, []string{d.Headline, d.Done[0]})
		assert.Empty(t, d.Week+d.Share)
		assert.Equal(t, "Larkfield Hearth", d.Computer)
		require.Len(t, d.Waiting, 1)
		assert.Nil(t, d.Waiting[0].Then)
	}
}

func TestReadingsStandByThemselves(t *testing.T) {
	j := visit(nil, nil)
	j.Tests = append(j.Tests,
		job.Test{ID: "noise", Kind: job.Note, Name: "Noise at the seat", Unit: "dB(A)", Better: job.Lower})
	j.Runs = []job.Run{{ID: "a", Test: "noise", Sitting: "s1", Value: 41, Method: job.Typed},
		{ID: "b", Test: "noise", Sitting: "s2", Value: 28, Method: job.Typed}}
	d := document(j)
	require.Len(t, d.Other, 1)
	assert.Equal(t, "41.0 dB(A)", d.Other[0].Words.Then)
	assert.Equal(t, "28.0 dB(A)", d.Other[0].Words.Now)
	assert.Empty(t, d.Waiting)
}

func TestBlockedAndSingleLinesSaySo(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90, catalogue.LongRead: 100},
		map[string]float64{catalogue.ColdStart: 36, catalogue.LongRead: 500})
	j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains"
	for i := range j.Runs {
		if j.Runs[i].Sitting == "s2" && j.Runs[i].ID[len(j.Runs[i].ID)-1] != '0' {
			j.Runs[i].SetAside = &job.SetAside{Reason: "x"}
		}
	}
	d := document(j)
	assert.Equal(t, "not comparable", d.Drive[0].Words.Main)
	assert.True(t, d.Waiting[0].Single)
	details := ""
	for _, c := range d.Caveats {
		details += c.Title + c.Detail
	}
	assert.Contains(t, details, "So these figures are not compared.")
	assert.Contains(t, details, "Measured only once, before or after.")
}

// Every sentence that claims something follows from its line's verdict, over all verdicts and
// in both languages: nothing is claimed that is not decided, does not hold after all lines, is
// blocked or rests on a single run, and what is slower is said to be.
func TestClaimsFollowFromVerdicts(t *testing.T) {
	claims := map[string][]string{ // a word that each claim has
		"en": {"less waiting", "more waiting", "as fast", "as long", "saves", "instead of"},
		"de": {"weniger Wartezeit", "mehr Wartezeit", "so schnell", "so lange", "spart", " statt "},
	}
	better := map[string][]string{"en": {"less waiting", "saves"}, "de": {"weniger Wartezeit", "spart"}}
	worse := map[string][]string{"en": {"more waiting", "as long"}, "de": {"mehr Wartezeit", "so lange"}}
	test := &job.Test{ID: "t", What: "cold-start", Name: "Cold start to desktop", Kind: job.Timed, Unit: "s",
		Better: job.Lower, PerWeek: 7}
	any := func(text string, of []string) bool {
		return slices.ContainsFunc(of, func(w string) bool { return strings.Contains(text, w) })
	}
	n := 0
	for _, verdict := range []compare.Verdict{compare.Faster, compare.Slower, compare.TooClose, compare.NotComparable,
		compare.NotMeasured} {
		for bits := range 8 {
			single, holds, equal := bits&1 > 0, bits&2 > 0, bits&4 > 0
			if equal && verdict != compare.TooClose {
				continue
			}
			then, with := 90.0, 36.0
			if verdict == compare.Slower {
				then, with = 36, 90
			}
			ln := compare.Line{Test: "t", Verdict: verdict, Indicative: single, HoldsAfterAll: holds, Equal: equal,
				Felt: true,
				Then: &side.Side{N: 3, Centre: then}, With: &side.Side{N: 3, Centre: with}}
			if verdict == compare.NotMeasured {
				ln.Then = nil
			}
			if verdict != compare.NotComparable && verdict != compare.NotMeasured {
				ln.Factor, ln.Low, ln.High, ln.Saves, ln.FurtherRuns = new(then/with), new(then/with*0.9),
					new(then/with*1.1), new(then-with), new(0)
			}
			for _, in := range []*words.Language{words.English, words.German} {
				d := writer{in, &Document{Lang: in.Tag, Labels: labels(in)}, nil, nil}
				f := d.figure(test, &ln)
				said := f.Words.Main + " | " + f.Words.Extra + " | " + f.Words.Range
				if ln.Then != nil && verdict != compare.NotComparable {
					d.headline(&job.Job{}, &compare.Ledger{}, &ln, test, false)
					said += " | " + d.Headline + " | " + d.Lead
				}
				n++
				decided := (verdict == compare.Faster || verdict == compare.Slower) && holds && !single
				name := fmt.Sprint(in.Tag, verdict, " single ", single, " holds ", holds, " equal ", equal, ": ", said)
				if !decided {
					if verdict == compare.TooClose { // its interval is shown, which claims nothing
						said = strings.Replace(said, f.Words.Range, "", 1)
					}
					assert.False(t, any(said, claims[in.Tag]), name)
					continue
				}
				assert.Equal(t, verdict == compare.Faster, any(said, better[in.Tag]), name)
				assert.Equal(t, verdict == compare.Slower, any(said, worse[in.Tag]), name)
			}
		}
	}
	assert.Equal(t, 2*(4*4+8), n)
}

// The whole of a report in German, as a customer reads it.
func TestTheReportInGerman(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90, catalogue.LongRead: 100, catalogue.ScatteredRead: 100},
		map[string]float64{catalogue.ColdStart: 36, catalogue.LongRead: 500, catalogue.ScatteredRead: 7000})
	j.Head.Reasons = []job.Reason{{What: job.ReasonSlowStart, Outcome: job.Solved}}
	j.Head.Work = []job.Work{{At: time.Unix(1, 0), What: "cleaning", Note: "Lüfter"}}
	j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains"
	j.Runs[0].SetAside = &job.SetAside{Reason: "x"}
	d := New(j, compare.Compare(j, "then", "now", compare.DefaultOptions), Options{Language: words.German})
	assert.Equal(t, "Ihr Computer ist nach 36 Sekunden statt nach 90 bereit.", d.Headline)
	assert.Equal(t, "Das ist jedes Mal 60 % weniger Wartezeit.", d.Lead)
	assert.Equal(t, []string{"Startet langsam: behoben."}, d.Reasons)
	assert.Equal(t, []string{"Ersetzt wurde: 500-GB-Festplatte. Eingebaut wurde: 1-TB-SATA-SSD.",
		"Das System wurde so übernommen, wie es war, mit Programmen und Dateien.",
		"Außerdem gemacht: Reinigung (Lüfter)."}, d.Done)
	assert.Equal(t, "2,5-mal so schnell, spart jedes Mal 54 s", d.Waiting[0].Words.Extra)
	titles := map[string]string{}
	for _, c := range d.Caveats {
		titles[c.Title] = c.Detail
	}
	assert.Contains(t, titles["Stromversorgung oder Energiemodus waren verschieden."],
		"Vorher: Akku. Nachher: Netzteil.")
	assert.Contains(t, strings.Join(d.How, " "),
		"Vom Einschalten, bis Sie arbeiten können, nicht mitgezählt: das Passwort.")
	// No English is left but what people typed.
	said := []string{d.Week, d.Share}
	for _, c := range d.Caveats {
		said = append(said, c.Title, c.Detail)
	}
	for _, list := range [][]Figure{d.Waiting, d.Drive, d.Other} {
		for _, f := range list {
			said = append(said, f.Name, f.Words.Main, f.Words.Extra, f.Words.Range)
		}
	}
	for _, r := range d.Runs {
		said = append(said, r.Test, r.Side, r.How)
	}
	for name, l := range d.Labels {
		if name != "of" { // which has names in braces
			said = append(said, l)
		}
	}
	for _, text := range append(said, d.How...) {
		for _, english := range []string{" the ", " was ", "wait", "drive", " run", "Then", "Now", "before", "after"} {
			assert.NotContains(t, text, english)
		}
	}
	assert.Equal(t, "Vorher: Akku. Nachher: Netzteil. Darum werden diese Zahlen nicht verglichen.",
		titles["Stromversorgung oder Energiemodus waren verschieden."], "said once")
}

// What was done is said as far as somebody noted it, in both languages: nothing is called replaced that was added,
// and nothing is said of a drive of which nobody noted how it joined.
func TestHowTheDriveJoined(t *testing.T) {
	for name, tt := range map[string]struct {
		change   func(j *job.Job)
		en, de   []string
		headline string
	}{
		"nobody said": {func(*job.Job) {}, []string{"A 1 TB SATA SSD was fitted."},
			[]string{"Eingebaut wurde: 1-TB-SATA-SSD."},
			"Your computer is ready after 36 seconds instead of 90."},
		"replaced, in an older file": {func(j *job.Job) { j.Setups[1].Replaces = "d1" },
			[]string{"The 500 GB hard disk was replaced by a 1 TB SATA SSD."}, []string{"Ersetzt wurde: 500-GB-" +
				"Festplatte. Eingebaut wurde: 1-TB-SATA-SSD."}, ""},
		"added": {func(j *job.Job) { j.Setups[1].Relation = job.JoinsBeside },
			[]string{"A 1 TB SATA SSD was added beside the 500 GB hard disk."}, []string{"Neben 500-GB-Festplatte " +
				"wurde ein weiteres Laufwerk eingebaut: 1-TB-SATA-SSD."}, ""},
		"a cache": {func(j *job.Job) { j.Setups[1].Drive, j.Setups[1].CacheDrive = "d1", "d2" },
			[]string{"The 500 GB hard disk was given a 1 TB SATA SSD as a cache."}, []string{"Als Cache-Laufwerk für " +
				"500-GB-Festplatte wurde eingebaut: 1-TB-SATA-SSD."}, ""},
		"tried, and put back": {func(j *job.Job) {
			j.Setups[1].Relation, j.Setups[1].Of, j.Head.Stays = job.OnlyTried, "d1", "then"
		}, []string{"A 1 TB SATA SSD was tried in place of the 500 GB hard disk.", "The 500 GB hard disk went back " +
			"in and stays."},
			[]string{"Anstelle von 500-GB-Festplatte wurde ausprobiert: 1-TB-SATA-SSD.",
				"Wieder eingebaut ist und bleibt: 500-GB-Festplatte."},
			"From switching on until you can work: 36 s with the drive that was tried, 90 s with the one that stays."},
		"a stand-in": {func(j *job.Job) { j.Setups[1].Replaces, j.Setups[0].StandIn = "d1", true },
			[]string{"The 500 GB hard disk was replaced by a 1 TB SATA SSD.",
				"The drive before could not be measured. The figures before come from another drive of its kind, a " +
					"500 GB hard disk."}, nil, ""},
	} {
		t.Run(name, func(t *testing.T) {
			j := visit(map[string]float64{catalogue.ColdStart: 90}, map[string]float64{catalogue.ColdStart: 36})
			j.Setups[1].System.Origin, j.Setups[1].Replaces = "", "" // nobody said
			tt.change(j)
			d := document(j)
			assert.Equal(t, tt.en, d.Done)
			if tt.headline != "" {
				assert.Equal(t, tt.headline, d.Headline)
			}
			if tt.de != nil {
				de := New(j, compare.Compare(j, "then", "now", compare.DefaultOptions), Options{Language: words.German})
				assert.Equal(t, tt.de, de.Done)
			}
			if j.PutBack() {
				assert.Empty(t, d.Week+d.Price+d.Share, "nobody keeps what it saves")
			} else if j.Setups[1].CacheDrive == "" { // a cache that still learns claims nothing
				assert.NotEmpty(t, d.Week)
			}
			for _, said := range append(d.Done, d.Lead) {
				assert.NotContains(t, said, "carried over", "nobody said so")
			}
		})
	}
}

// A report measured only before doesn't read like a failed comparison.
func TestNothingMeasuredAfter(t *testing.T) {
	d := document(visit(map[string]float64{catalogue.ColdStart: 90}, nil))
	assert.Equal(t, "How it was before.", d.Headline)
	assert.Equal(t, "Nothing was measured afterwards, so no improvement is stated.", d.Lead)
	assert.Equal(t, "not measured after", d.Waiting[0].Words.Main)
}

// A report tells the first figure of a drive that learns beside the settled one, and claims nothing before.
func TestADriveThatLearns(t *testing.T) {
	j := visit(map[string]float64{catalogue.ColdStart: 90}, map[string]float64{catalogue.ColdStart: 49})
	j.Drives[1].Kind = job.Hybrid
	d := document(j)
	assert.Equal(t, string(compare.NotComparable), d.Waiting[0].Verdict, "three runs are no block")
	assert.NotContains(t, d.Headline, "instead of")
	for i, at := range []int64{-1, 9} {
		again := j.Runs[len(j.Runs)-1]
		again.ID, again.At, again.Value = fmt.Sprint("more", i), time.Unix(at, 0), []float64{71, 49.1}[i]
		j.Runs = append(j.Runs, again)
	}
	for in, want := range map[*words.Language]string{words.English: "the new drive: 71.0 s the first time, 49.1 s " +
		"once it had " +
		"settled",
		words.German: "das neue Laufwerk: beim ersten Mal 71,0 s, eingespielt 49,1 s"} {
		d := New(j, compare.Compare(j, "then", "now", compare.DefaultOptions), Options{Language: in})
		assert.Contains(t, d.Waiting[0].Words.Extra, want)
		assert.NotContains(t, d.Waiting[0].Words.Extra, "90.0", "the other drive doesn't learn")
		assert.NotContains(t, d.Waiting[0].Words.Range, "settled", "what is said to be 95 % sure is the interval alone")
	}
}

// What a maker states is beside what was measured, and what a TB costs, each only where it is known.
func TestRatedFiguresOnPageTwo(t *testing.T) {
	j := several()
	j.Head.Kind = job.KindUpgrade
	j.Setups = j.Setups[1:3]
	j.Setups[0].Role, j.Setups[1].Role = job.Then, job.Now
	j.Drives[2].Rated = &job.Rated{ReadMBs: 3500, WriteMBs: 3000}
	then, with := j.DefaultSides()
	d := New(j, compare.Compare(j, then, with, compare.DefaultOptions), Options{})
	how := strings.Join(d.How, "\n")
	assert.Contains(t, how, "rated at 3,500 MB/s for reading, measured 500 MB/s")
	assert.NotContains(t, how, "for writing", "it was not measured")
	assert.Contains(t, how, "80.00 EUR per TB")
	assert.Equal(t, 1, strings.Count(how, "per TB"), "the other's price is not known")
}

// A caveat says "not compared" only of lines that aren't, and names all waits as such.
func TestACaveatSaysNotComparedOnlyOfWhatIsNot(t *testing.T) {
	waits := []string{catalogue.ColdStart, "t-game-menu", "t-document"}
	then, now := map[string]float64{catalogue.LongRead: 100}, map[string]float64{catalogue.LongRead: 500}
	for _, id := range waits {
		then[id], now[id] = 90, 36
	}
	j := visit(then, now)
	j.Tests = append(j.Tests, catalogue.Tests(0, 0, waits[1:]...)...)
	j.Sittings[0].Conditions.Power, j.Sittings[1].Conditions.Power = "battery", "mains"
	d := document(j)
	lines := map[bool][]string{}
	for _, c := range d.Caveats {
		if strings.HasPrefix(c.Title, "The power supply") {
			lines[strings.Contains(c.Detail, "not compared")] = c.Lines
		}
	}
	assert.Equal(t, map[bool][]string{true: {"Reading large files"}, false: {"all waits"}}, lines)
	for _, f := range d.Waiting {
		assert.NotEqual(t, "not comparable", f.Words.Main)
	}
}
