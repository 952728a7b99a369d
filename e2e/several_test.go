package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Four drives from intake to paper: the table has them all, any of them is the base, and the report says nowhere that one
// was replaced.
func TestAComparisonFromIntakeToPaper(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")
	p.key("n")
	p.press("Comparison: several drives")
	p.see("First drive")
	p.press("Quick check in ten minutes")
	p.press("An office tower")
	p.see("cold start to desktop.")
	id := p.jobHere()
	p.press("Intake")
	for _, kind := range []string{"NVMe SSD", "hard disk"} {
		p.press("Add a drive to compare")
		p.press(kind)
		p.fill("Capacity", "1 TB")
		p.press("Add the drive")
		p.see("1 TB " + kind)
	}
	// A label that was read wrongly is changed.
	p.press("Change the label: 1 TB hard disk")
	p.fill("Capacity", "2 TB")
	p.press("Save")
	p.see("2 TB hard disk")
	var v struct {
		Page string
		Job  struct {
			Setups []struct{ ID, Role, Name, Relation string }
			Runs   []struct{ Test string }
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	require.Len(t, v.Job.Setups, 4)
	for i, setup := range v.Job.Setups {
		assert.Equal(t, "trial", setup.Role)
		assert.Empty(t, setup.Relation)
		s.ask("POST", "/api/jobs/"+id+"/sittings", map[string]any{"setup": setup.ID, "conditions": map[string]any{"power": "mains", "busy": []string{}}}, nil)
		sitting := "s" + string(rune('1'+i))
		s.measureBehind(id, sitting, 2, "t-start")
		s.measureDriveBehind(id, sitting)
	}
	p.goTo("/jobs/" + id)
	p.see("Compare with")
	p.see("base")
	cells, err := chromedp.Run(p.ctx, chromedp.Evaluate[int](`document.querySelectorAll('table')[0].querySelectorAll('tbody td').length`))
	require.NoError(t, err)
	assert.Equal(t, 3*4, cells, "three tests beside four drives")
	p.see("times as fast")
	_, err = chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = document.querySelector('select'); Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(e, 'trial3'); e.dispatchEvent(new Event('change', {bubbles: true})) }`))
	require.NoError(t, err)
	p.poll("the other base", `/base/.test([...document.querySelectorAll('th')].find(e => e.innerText.startsWith('1 TB NVMe SSD'))?.innerText ?? '')`)
	p.accessible()
	p.press("Report")
	p.see("4 drives were compared.")
	p.see("The drives compared")
	assert.NotContains(t, strings.ToLower(p.text()), "replaced")
	p.press("Issue")
	p.see("An issued report doesn’t change.")
	_, text := p.pdf()
	assert.Contains(t, text, "4 drives were compared.")
	assert.NotContains(t, strings.ToLower(text), "replaced")
	p.press("Hand back")
	p.see("Handed back:")
}

// A computer is measured again two months later, without a new drive: the same, and slower.
func TestACheckUpTwoMonthsLater(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	for name, c := range map[string]struct {
		later    float64
		headline string
	}{"the same": {15, "As fast as on 1 March 2031"}, "slower": {24, "Slower than on 1 March 2031"}} {
		t.Run(name, func(t *testing.T) {
			id := s.take(checkUp(t, name, c.later))
			p := open(t, s.base, 1280, 800)
			p.goTo("/jobs/" + id)
			p.see("Result")
			p.see("1 Mar, 10:00")
			p.see("1 May, 10:00")
			p.see("what the customer feels")
			assert.NotContains(t, p.text(), "Old drive", "no drive comes out")
			p.accessible()
			p.press("Report")
			p.see(c.headline)
			p.see("No new drive was fitted.")
			p.see("The drive was 40 % full, and is 88 % full now.")
			p.press("Issue")
			p.see("An issued report doesn’t change.")
			var r struct {
				Issued struct {
					Headline  string
					Sentences []struct {
						ID       string
						Rests_on []string
					}
				}
			}
			s.ask("GET", "/api/jobs/"+id+"/report", nil, &r)
			assert.Contains(t, r.Issued.Headline, c.headline)
			for _, said := range r.Issued.Sentences {
				assert.NotEmpty(t, said.Rests_on, said.ID)
			}
			p.press("Hand back")
			p.see("Handed back:")
		})
	}
}

// checkUp is the file of a made-up check-up: starts of 15 s in March, and as given in May, eight times each.
func checkUp(t *testing.T, name string, later float64) []byte {
	t.Helper()
	data, err := os.ReadFile("../cmd/nowthen/testdata/checkup.nowthen.json")
	require.NoError(t, err)
	var j map[string]any
	require.NoError(t, json.Unmarshal(data, &j))
	j["job"].(map[string]any)["number"] = "2031 " + name
	j["sittings"] = slices.DeleteFunc(j["sittings"].([]any), func(s any) bool {
		id := s.(map[string]any)["id"]
		return id != "s1" && id != "s3"
	})
	runs := []any{}
	for sitting, of := range map[string]struct {
		day   string
		value float64
	}{"s1": {"2031-03-01", 15}, "s3": {"2031-05-01", later}} {
		for n := range 8 {
			runs = append(runs, map[string]any{"id": fmt.Sprint(name, sitting, n), "test": "t-start", "sitting": sitting,
				"at": fmt.Sprintf("%sT10:%02d:00Z", of.day, n), "value": of.value + 0.02*float64(n-4), "method": "automatic",
				"warmth": "cold", "start_kind": "cold", "set_aside": nil})
		}
	}
	j["runs"] = runs
	data, err = json.Marshal(j)
	require.NoError(t, err)
	return data
}

// Two candidates that differ in copying alone: of starts no difference is said, of copying what it brings a week at this
// customer's use.
func TestCandidatesThatDifferInCopying(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Bindery on Salt Row"},"computer":{"maker":"Ostrand","model":"Desk 4"},"old_drive":{"kind":"hdd","capacity_bytes":1000000000000},"new_drive":{"kind":"sata-ssd","capacity_bytes":960000000000}}`)
	s.ask("POST", "/api/jobs/"+id+"/tests", map[string]string{"id": "t-copy-own"}, nil)
	s.ask("PATCH", "/api/jobs/"+id+"/plan", map[string]any{"tests": map[string]any{"t-copy-own": map[string]any{"per_week": 4}}}, nil)
	s.ask("POST", "/api/jobs/"+id+"/setups", map[string]any{"drive": map[string]any{"kind": "nvme", "capacity_bytes": 1000000000000}, "relation": "tried"}, nil)
	for _, side := range []struct {
		setup        string
		starts, copy []float64
	}{{"then", []float64{140, 141, 140.5, 140.2, 140.8}, []float64{400, 404, 402}},
		{"now", []float64{90, 60, 60.1, 60.2, 59.9, 60, 60.1}, []float64{150, 151, 149}},
		{"trial1", []float64{91, 60.1, 60, 59.9, 60.2, 60, 59.9}, []float64{60, 61, 59}}} {
		sitting := s.sit(id, side.setup)
		for _, v := range side.starts {
			s.ask("POST", "/api/jobs/"+id+"/runs", map[string]any{"test": "t-start", "sitting": sitting, "value": v, "unit": "s", "sure": true}, nil)
		}
		for _, v := range side.copy {
			s.ask("POST", "/api/jobs/"+id+"/runs", map[string]any{"test": "t-copy-own", "sitting": sitting, "value": v, "unit": "s", "sure": true, "bytes": 20_000_000_000, "files": 900}, nil)
		}
	}
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/compare")
	p.see("no difference")
	p.see("2.5 times as fast")
	p.see("a week")
	p.accessible()
}
