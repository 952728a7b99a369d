package e2e

import (
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// visitOf is what these journeys look at of a job.
type visitOf struct {
	Job struct {
		Job struct {
			Stays string
			Gates []struct{ Name string }
		}
		Setups []struct {
			ID, Role, Relation, Of, Drive, Cache_drive string
			Stand_in                                   bool
		}
		Drives []struct{ ID, Fate string }
	}
	Back []struct{ What string }
}

// started opens a session on mains and starts the simulated computer so many times in it.
func (s *server) started(id, setup, sitting string, times int) {
	s.t.Helper()
	s.ask("POST", "/api/jobs/"+id+"/sittings",
		map[string]any{"setup": setup, "conditions": map[string]any{"power": "mains"}}, nil)
	s.measureBehind(id, sitting, times, "t-start")
}

// Every kind of visit, without a probe: how the new drive joins is asked at the checkpoint at the
// latest, and checkpoint
// and report are about what was done, never of a replacement that nobody noted.
func TestEveryKindOfVisit(t *testing.T) {
	t.Parallel()
	s := demo(t)
	for _, kind := range []struct {
		name, press, verb, says string
		stored                  string
		never                   []string
	}{
		{"replaced", "Replaces the old one", "Old drive is out", "was replaced by a", "replaces",
			[]string{"was added"}},
		{"added", "Added beside it", "New drive goes in", "was added beside the", "added", []string{"replaced"}},
		{"cached", "Caches it", "New drive goes in", "as a cache", "cache", []string{"replaced", "was added"}},
		{"tried", "Only tried", "Old drive is out", "was tried in place of", "tried",
			[]string{"replaced", "was added"}},
		{"nobody said", "", "Old drive is out", "was fitted", "", []string{"replaced", "was added", "was tried"}},
	} {
		t.Run(kind.name, func(t *testing.T) {
			var job struct{ ID string }
			s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Kind " + kind.name},
				"simulated": "laptop"}, &job)
			sit := func(setup, sitting string) { s.started(job.ID, setup, sitting, 3) }
			sit("then", "s1")
			p := open(t, s.base, 1280, 800)
			p.goTo("/jobs/" + job.ID + "/prepare")
			p.see("Checkpoint")
			if kind.press != "" {
				p.press(kind.press)
			}
			p.fill("Reason for going ahead", "one start is enough here")
			p.press(kind.verb)
			p.see("Photo of the inside, screws sorted")
			sit("now", "s2")
			p.goTo("/jobs/" + job.ID + "/report")
			p.see(kind.says)
			said := p.text()
			said = said[strings.Index(said, "What was done"):]
			for _, word := range kind.never {
				assert.NotContains(t, said, word)
			}
			var v visitOf
			s.ask("GET", "/api/jobs/"+job.ID, nil, &v)
			require.Len(t, v.Job.Setups, 2)
			assert.Equal(t, kind.stored, v.Job.Setups[1].Relation)
			assert.Equal(t, kind.stored == "cache", v.Job.Setups[1].Cache_drive != "")
			require.Len(t, v.Job.Job.Gates, 1)
			assert.Equal(t, "old-drive-out", v.Job.Job.Gates[0].Name)
		})
	}
}

// A drive is put back: the old one stays, is run once more, and the report is about a trial; what
// happened to the other one
// is noted with the drives.
func TestADriveIsPutBack(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var job struct{ ID string }
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Put back"}, "simulated": "laptop",
		"relation": "tried"}, &job)
	sit := func(setup, sitting string) { s.started(job.ID, setup, sitting, 4) }
	missing := func() bool {
		var v visitOf
		s.ask("GET", "/api/jobs/"+job.ID, nil, &v)
		for _, l := range v.Back {
			if strings.Contains(l.What, "no control run") {
				return true
			}
		}
		return false
	}
	sit("then", "s1")
	s.ask("POST", "/api/jobs/"+job.ID+"/gates", map[string]any{"gate": "old-drive-out", "why": "a trial"}, nil)
	sit("now", "s2")
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + job.ID + "/intake")
	p.press("It goes back in")
	p.see("goes back in and stays")
	assert.True(t, missing(), "a control run is asked for")
	sit("then", "s3")
	assert.False(t, missing())
	p.goTo("/jobs/" + job.ID + "/report")
	p.see("went back in and stays")
	p.see("with the drive that was tried")
	assert.NotContains(t, p.text(), "was replaced")

	p.goTo("/jobs/" + job.ID + "/intake")
	p.poll("what is noted of the drives",
		`(() => { document.querySelectorAll('#drives details').forEach(d => { d.open = true }); return document.querySelectorAll('#drives details').length === 2 })()`)
	p.choose("What happens to the drive: Now", "kept")
	p.until("its fate to be stored", func() bool {
		var v visitOf
		s.ask("GET", "/api/jobs/"+job.ID, nil, &v)
		return v.Job.Drives[1].Fate == "kept" && v.Job.Job.Stays == "then"
	})
	p.accessible()
}

// The old drive is dead, and another one of its kind was measured for it: ledger and report say so.
func TestAStandIn(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var job struct{ ID string }
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Stand-in"}, "simulated": "laptop",
		"relation": "replaces"}, &job)
	for i, setup := range []string{"then", "now"} {
		s.started(job.ID, setup, []string{"s1", "s2"}[i], 4)
	}
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + job.ID + "/intake")
	p.poll("what is noted of the drives",
		`(() => { document.querySelectorAll('#drives details').forEach(d => { d.open = true }); return document.querySelectorAll('#drives details').length === 2 })()`)
	p.press("It stands in for a drive that couldn’t be measured")
	p.choose("Port: Then", "usb")
	p.until("it to be stored", func() bool {
		var v visitOf
		s.ask("GET", "/api/jobs/"+job.ID, nil, &v)
		return v.Job.Setups[0].Stand_in
	})
	p.see("USB · as it came")
	p.goTo("/jobs/" + job.ID + "/ledger")
	p.see("The drive measured before may not be")
	p.goTo("/jobs/" + job.ID + "/report")
	p.see("The drive before could not be measured.")
}

// A job that was opened by mistake goes to the bin at once and comes back as it was; only deleting it permanently asks.
func TestTheBin(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var job struct{ ID string }
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]string{"name": "By Mistake"}, "simulated": "laptop"},
		&job)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + job.ID + "/intake")
	p.press("Move to the bin")
	p.see("This job is in the bin since")
	p.goTo("/")
	p.see("Fernbank Allotments")
	p.gone("By Mistake")
	p.press("Bin")
	p.press("By Mistake")
	p.see("This job is in the bin since")
	p.see("Test conditions")
	p.accessible()
	p.press("Restore")
	p.gone("This job is in the bin since")
	p.goTo("/jobs/" + job.ID + "/intake")
	p.press("Move to the bin")
	p.press("Delete for good …")
	p.see("This can’t be undone")
	p.press("Delete for good")
	p.see("The bin is empty.")
	res, err := http.Get(s.base + "/api/jobs/" + job.ID)
	require.NoError(t, err)
	defer res.Body.Close()
	assert.Equal(t, 404, res.StatusCode)
}
