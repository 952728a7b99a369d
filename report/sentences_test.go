package report

import (
	"fmt"
	"math/rand/v2"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/words"
	"nowthen/testscale"
)

// generated is a visit in which any member may be missing: each is there three times in four.
func generated(rng *rand.Rand) *job.Job {
	has := func() bool { return rng.IntN(4) > 0 }
	values := func(scale float64) map[string]float64 {
		m := map[string]float64{}
		for test, v := range map[string]float64{catalogue.ColdStart: 60, catalogue.LongRead: 120,
			catalogue.ScatteredRead: 200, "t-noise": 35} {
			if has() {
				m[test] = v * scale * (0.5 + rng.Float64())
			}
		}
		return m
	}
	j := visit(values(1), values(0.3+rng.Float64()))
	noise := slices.IndexFunc(catalogue.All(), func(e catalogue.Entry) bool { return e.Test.ID == "t-noise" })
	j.Tests = append(j.Tests, catalogue.All()[noise].Test)
	j.Tests[0].PerWeek = float64(rng.IntN(3) * 7)
	now := &j.Setups[1]
	now.Replaces, now.System.Origin = "", pick(rng, job.Origins...)
	now.Relation = pick(rng, job.Relations...)
	if has() {
		now.Of = "d1"
	}
	if now.Relation == job.JoinsAsCache {
		now.Drive, now.CacheDrive = "d1", "d2"
	}
	j.Setups[0].StandIn = rng.IntN(8) == 0
	j.Head.Stays = pick(rng, "then", "now")
	if has() {
		j.Drives[1].Price = &job.Price{Amount: "64.00", Currency: "EUR"}
	}
	if has() {
		j.Head.Bill = &job.Bill{HourWorth: &job.Price{Amount: "20.00", Currency: "EUR"}}
	}
	if has() {
		j.Head.Work = []job.Work{{What: job.WorkKinds[rng.IntN(len(job.WorkKinds))], Note: pick(rng, "fan"),
			At: time.Unix(50, 0)}}
	}
	if has() {
		j.Head.Reasons = []job.Reason{{What: job.ReasonSlowStart, Outcome: pick(rng, job.Outcomes...),
			Remains: pick(rng, "the fan")}}
	}
	if has() {
		j.Head.Carried = &job.Carried{Files: 10, Unchanged: 9, Missing: 1}
	}
	if has() {
		j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut, Why: pick(rng, "no time"),
			Missing: []string{"Long write"}}}
	}
	if has() {
		j.Plan.Excuses = []job.Excuse{{Test: catalogue.LongWrite, Setup: "then", Why: "the drive was too ill"}}
	}
	j.Head.Report = &job.ReportDraft{Note: pick(rng, "Call us."), Short: rng.IntN(4) == 0}
	for i := range j.Sittings {
		c := &j.Sittings[i].Conditions
		c.Power, c.PowerMode = pick(rng, job.Mains, job.Battery), pick(rng, job.NormalMode, job.SavingMode)
		if has() {
			c.Busy = []job.Busy{job.BusyDownload}[:rng.IntN(2)]
		}
		if has() {
			c.FillPct, c.Encrypted = new(float64(rng.IntN(100))), new(rng.IntN(2) == 0)
		}
	}
	for i := range j.Runs {
		r := &j.Runs[i]
		r.Method = []job.Method{job.Automatic, job.Stopwatch, job.Typed}[rng.IntN(3)]
		r.AppVersion, r.Engine, r.Warmth = pick(rng, "1", "2"), pick(rng, "3"), pick(rng, job.Cold, job.Warm)
		if rng.IntN(8) == 0 {
			r.Phases = nil
		}
		if rng.IntN(12) == 0 {
			r.SetAside = &job.SetAside{Reason: "wrong press"}
		}
		r.Simulated = rng.IntN(60) == 0
	}
	if rng.IntN(6) == 0 {
		j.Runs = j.Runs[:rng.IntN(len(j.Runs)+1)]
	}
	return j
}

// claims are what no sentence may say unless a job states it: the words in both languages, and whether it does.
var claims = []struct {
	words  string
	stated func(j *job.Job) bool
}{
	{`was replaced by|Ersetzt wurde`, func(j *job.Job) bool { return relation(j) == job.JoinsReplacing }},
	{`was added|weiteres Laufwerk eingebaut`, func(j *job.Job) bool { return relation(j) == job.JoinsBeside }},
	{`as a cache|Als Cache-Laufwerk`, func(j *job.Job) bool { return relation(j) == job.JoinsAsCache }},
	{`was tried|wurde ausprobiert`,
		func(j *job.Job) bool { return relation(j) == job.OnlyTried || j.PutBack() }},
	{`carried over as it was|übernommen, wie es war`, origin("cloned")},
	{`system was newly installed|neu installiert`, origin("fresh")},
	{`EUR`, func(j *job.Job) bool { return j.Drives[1].Price != nil }},
	{`a week|pro Woche|in der Woche`, func(j *job.Job) bool { return j.Tests[0].PerWeek > 0 }},
	{`Then: mains|Now: mains|(Vorher|Jetzt): Netz`, func(j *job.Job) bool {
		return slices.ContainsFunc(j.Sittings, func(s job.Sitting) bool { return s.Conditions.Power == job.Mains })
	}},
	{`bypassing the cache|ohne Zwischenspeicher`, func(j *job.Job) bool {
		return !slices.ContainsFunc(j.Runs, func(r job.Run) bool {
			return r.Kept() && r.Method != job.Automatic &&
				(r.Test == catalogue.LongRead || r.Test == catalogue.ScatteredRead)
		})
	}},
	{`password|Passwort`, func(j *job.Job) bool {
		return slices.ContainsFunc(j.Runs, func(r job.Run) bool { return r.Kept() && len(r.Phases) == 3 })
	}},
	{`: solved|: behoben`, outcome(job.Solved)},
	{`Also done|Außerdem gemacht`, func(j *job.Job) bool { return len(j.Head.Work) > 0 }},
	{`files came across|Dateien`, func(j *job.Job) bool { return j.Head.Carried != nil || origin("cloned")(j) }},
}

func relation(j *job.Job) job.Relation {
	how, _ := j.Setups[1].Joins()
	return how
}

func origin(is job.Origin) func(j *job.Job) bool {
	return func(j *job.Job) bool { return j.Setups[1].System.Origin == is }
}

func outcome(is job.Outcome) func(j *job.Job) bool {
	return func(j *job.Job) bool {
		return slices.ContainsFunc(j.Head.Reasons, func(r job.Reason) bool { return r.Outcome == is })
	}
}

// Every sentence of a report rests on something that the job's file states, in both languages, whatever the file lacks;
// and no sentence is about what it lacks.
func TestEverySentenceRestsOnSomething(t *testing.T) {
	rng := rand.New(rand.NewPCG(24, 24))
	said, found := map[string]bool{}, map[string]bool{}
	for n := range testscale.Of(2000, 20) {
		j := generated(rng)
		text, err := json.Marshal(j)
		require.NoError(t, err)
		var file any
		require.NoError(t, json.Unmarshal(text, &file))
		for _, in := range []*words.Language{words.English, words.German} {
			d := New(j, compare.Compare(j, "then", "now", compare.DefaultOptions), Options{Language: in})
			ids := map[string]bool{}
			var all []string
			for _, s := range d.Sentences {
				assert.False(t, ids[s.ID], "%s stands twice", s.ID)
				ids[s.ID] = true
				all = append(all, s.Text)
				assert.NotEmpty(t, s.RestsOn, "visit %d: %s: %s", n, s.ID, s.Text)
				for _, on := range s.RestsOn {
					v := at(file, on)
					assert.True(t, v != nil && v != "", "visit %d: %s rests on %s, where nothing is", n, s.ID, on)
				}
				kind, _, _ := strings.Cut(s.ID, ".")
				said[kind] = true
			}
			whole := strings.Join(all, "\n")
			for _, c := range claims {
				if c.stated(j) {
					found[c.words] = found[c.words] || regexp.MustCompile(c.words).MatchString(whole)
				} else {
					assert.NotRegexp(t, regexp.MustCompile(c.words), whole, "visit %d: nobody stated it", n)
				}
			}
			for _, s := range slices.Concat([]string{d.Headline, d.Lead, d.Week, d.Share, d.Note}, d.Done, d.How,
				d.Reasons) {
				assert.True(t, s == "" || slices.Contains(all, s), "visit %d: %q is not among the sentences", n, s)
			}
			for i, c := range d.Caveats {
				assert.True(t, ids[fmt.Sprintf("caveat.%d", i+1)], c.Title)
			}
		}
		if t.Failed() {
			t.FailNow() // the first visit says enough
		}
	}
	if !testscale.All() {
		return
	}
	for _, c := range claims {
		assert.True(t, found[c.words], "%s is said nowhere: it would not be found either", c.words)
	}
	for _, kind := range []string{"headline", "lead", "week", "share", "done", "how", "reason", "price", "caveat",
		"line", "note"} {
		assert.True(t, said[kind], "no visit said a sentence of %s", kind)
	}
}

// What each rule's findings state is known.
func TestEveryRuleStatesSomething(t *testing.T) {
	for _, rule := range fairness.Rules() {
		assert.NotEmpty(t, states[rule], rule)
	}
	assert.Len(t, states, len(fairness.Rules()))
}

// pick is one of a list, or "" one time in four.
func pick[T ~string](rng *rand.Rand, of ...T) T {
	if rng.IntN(4) == 0 {
		return ""
	}
	return of[rng.IntN(len(of))]
}
