package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// jobView is the part of a job that the journeys on figures check.
type jobView struct {
	ID  string
	Job struct {
		Sittings []struct{ ID, Setup string }
		Runs     []struct {
			Test, Bound string
			Value       float64
			Range       []float64
			ReadIn      *struct {
				Program, Version string
				FileBytes        int64 `json:"file_bytes"`
			} `json:"read_in"`
		}
	}
	Lost     []struct{ Test, What string }
	Coverage []struct {
		Test, Setup  string
		Kept, Wanted int
		Enough       bool
	}
}

// sit begins a session on a setup and returns its id.
func (s *server) sit(job, setup string) string {
	var v jobView
	s.ask("POST", "/api/jobs/"+job+"/sittings",
		map[string]any{"setup": setup, "conditions": map[string]any{"power": "mains"}}, &v)
	return v.Job.Sittings[len(v.Job.Sittings)-1].ID
}

// unsettled reports whether the first checkpoint says that a test has not settled.
func (s *server) unsettled(job, test string) bool {
	var v jobView
	s.ask("GET", "/api/jobs/"+job, nil, &v)
	for _, l := range v.Lost {
		if l.Test == test && strings.Contains(l.What, "has not settled") {
			return true
		}
	}
	return false
}

// A hybrid drive learns: until it has settled, another run is asked for and nothing is claimed; then the settled figure
// counts, and both are told.
func TestAHybridDriveSettles(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	id := s.openJob(`{"customer":{"name":"Cellar Café"},"simulated":"games"}`)
	s.sit(id, "then")
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/timer/then/t-start")
	for n := 1; n <= 6; n++ {
		p.see(fmt.Sprintf("%d of ", n-1))
		if n == 4 {
			p.see("3 of 4 runs kept")
			assert.True(t, s.unsettled(id, "t-start"), "the checkpoint waits for it")
		}
		p.press("Let the simulated computer do it")
	}
	p.see("6 of 3 runs kept")
	assert.False(t, s.unsettled(id, "t-start"))

	now := s.sit(id, "now")
	for range 4 {
		s.ask("POST", "/api/jobs/"+id+"/perform", map[string]string{"test": "t-start", "sitting": now}, nil)
	}
	p.goTo("/jobs/" + id + "/compare")
	p.press("Cold start to desktop")
	p.see("the first time")
	p.see("once settled")
	p.accessible()
}

// One that scatters never settles: its line is blocked, and the report claims nothing of it.
func TestAHybridDriveThatScatters(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Otter Lane Pottery"},"computer":{"maker":"Ostrand","model":"Arena 7"},"old_drive":{"kind":"hybrid"},"new_drive":{"kind":"nvme"}}`)
	then, now := s.sit(id, "then"), s.sit(id, "now")
	for _, v := range []float64{71, 40, 63, 35, 58} {
		s.ask("POST", "/api/jobs/"+id+"/runs",
			map[string]any{"test": "t-start", "sitting": then, "value": v, "unit": "s"}, nil)
	}
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/then")
	p.see("5 of 6")
	p.press("Cold start to desktop")
	p.fill("Cold start to desktop in s", "44")
	p.press("Keep")
	p.see("6 of 7")
	assert.True(t, s.unsettled(id, "t-start"))
	for range 3 {
		s.ask("POST", "/api/jobs/"+id+"/runs",
			map[string]any{"test": "t-start", "sitting": now, "value": 14, "unit": "s", "sure": true}, nil)
	}
	p.goTo("/jobs/" + id + "/compare")
	p.see("The drive was still settling")
	assert.NotContains(t, p.text(), "faster", "nothing is claimed")
}

// A rate that another program showed carries its name, version and file size, and can be a range.
func TestARangeReadInAnotherProgram(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Fernbank Allotments"},"old_drive":{"kind":"hdd"}}`)
	s.sit(id, "then")
	s.ask("POST", "/api/jobs/"+id+"/tests", map[string]string{"id": "t-rate-read"}, nil)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/then")
	p.press("Enter value: Rate read in another program")
	p.fill("Program", "Meter of the shop")
	p.fill("Its version", "4.1")
	p.fill("Size of its test file", "1 GiB")
	p.fill("Rate read in another program in MB/s", "104-118")
	p.press("Keep")
	p.see("1 of 1")
	var v jobView
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	require.Len(t, v.Job.Runs, 1)
	r := v.Job.Runs[0]
	assert.Equal(t, []float64{104, 118}, r.Range)
	require.NotNil(t, r.ReadIn)
	assert.Equal(t, []any{"Meter of the shop", "4.1", int64(1 << 30)},
		[]any{r.ReadIn.Program, r.ReadIn.Version, r.ReadIn.FileBytes})
}

// A wait that never ended is kept as a bound: it gives a direction where every run allows one, and no factor.
func TestAWaitThatNeverEnded(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Lantern Street Choir"},"computer":{"maker":"Ostrand","model":"Desk 4"},"old_drive":{"kind":"hdd"},"new_drive":{"kind":"sata-ssd"}}`)
	s.sit(id, "then")
	now := s.sit(id, "now")
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/then")
	p.press("Cold start to desktop")
	for n := 1; n <= 3; n++ {
		p.fill("Cold start to desktop in s", "> 10 min")
		p.press("Keep")
		p.see(fmt.Sprintf("%d of 3", n))
	}
	var v jobView
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	require.Len(t, v.Job.Runs, 3)
	for _, r := range v.Job.Runs {
		assert.Equal(t, "above", r.Bound)
		assert.InDelta(t, 600, r.Value, 1e-9)
	}
	for _, value := range []float64{31, 32, 31.5} {
		s.ask("POST", "/api/jobs/"+id+"/runs",
			map[string]any{"test": "t-start", "sitting": now, "value": value, "unit": "s", "sure": true}, nil)
	}
	p.goTo("/jobs/" + id + "/compare")
	p.see("faster, by an unknown amount")
	p.see("above 600 s")
	assert.NotContains(t, p.text(), "too small to be felt")
	assert.NotRegexp(t, `\d[.,]?\d* times as fast`, p.text(), "no factor")
}
