package e2e

import (
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"net/http"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/fairness"
	"nowthen/testscale"
)

// jobData is a job file as JSON has it, to be changed so that a rule finds something.
type jobData map[string]any

func (j jobData) list(of string) (all []map[string]any) {
	for _, v := range j[of].([]any) {
		all = append(all, v.(map[string]any))
	}
	return all
}

func (j jobData) byID(of, id string) map[string]any {
	for _, v := range j.list(of) {
		if v["id"] == id {
			return v
		}
	}
	panic("no " + id + " among the " + of)
}

// then are what Then was measured in: its setup, and the conditions of its sitting.
func (j jobData) then() (setup, conditions map[string]any) {
	return j.byID("setups", "then"), j.byID("sittings", "s1")["conditions"].(map[string]any)
}

func (j jobData) now() (setup, conditions map[string]any) {
	return j.byID("setups", "now"), j.byID("sittings", "s2")["conditions"].(map[string]any)
}

// runs are those of a test in a sitting; "" is every test.
func (j jobData) runs(test, sitting string) (all []map[string]any) {
	for _, r := range j.list("runs") {
		if (test == "" || r["test"] == test) && r["sitting"] == sitting {
			all = append(all, r)
		}
	}
	return all
}

// each sets a member of the runs of a test in a sitting.
func (j jobData) each(test, sitting, member string, value any) {
	for _, r := range j.runs(test, sitting) {
		r[member] = value
	}
}

// both sets a member of the conditions of both sides.
func (j jobData) both(member string, then, now any) {
	_, a := j.then()
	_, b := j.now()
	a[member], b[member] = then, now
}

func (j jobData) scale(test, sitting string, by float64) {
	for _, r := range j.runs(test, sitting) {
		r["value"] = r["value"].(float64) * by
		if phases, ok := r["phases"].(map[string]any); ok {
			for k, v := range phases {
				phases[k] = v.(float64) * by
			}
		}
	}
}

// found are changes of the demonstration's job by the rule that finds them.
var found = map[string]func(j jobData){
	"other-computer": func(j jobData) {
		j["computers"] = append(j["computers"].([]any),
			map[string]any{"id": "c9", "maker": "Larkfield", "model": "Hearth 17"})
		s, _ := j.now()
		s["computer"] = "c9"
	},
	"other-baseline-drive": func(j jobData) {
		j["drives"] = append(j["drives"].([]any), map[string]any{"id": "d9", "kind": "hdd"})
		s, _ := j.now()
		s["replaces"], s["of"] = "d9", "d9"
	},
	"other-parameters": func(j jobData) {
		p := map[string]any{}
		for k, v := range j.byID("tests", "t-long-read")["params"].(map[string]any) {
			p[k] = v
		}
		p["depth"] = 1
		j.each("t-long-read", "s1", "params", p)
	},
	"more-than-the-drive": func(j jobData) { j.scale("t-start", "s1", 100) },
	"other-app-version": func(j jobData) {
		j.each("t-launch", "s1", "app_version", "4")
		j.each("t-launch", "s2", "app_version", "5")
	},
	"other-content": func(j jobData) {
		j.each("t-launch", "s1", "content_digest", "a")
		j.each("t-launch", "s2", "content_digest", "b")
	},
	"power":          func(j jobData) { j.both("power", "battery", "mains") },
	"busy":           func(j jobData) { j.both("busy", []string{"update"}, []string{}) },
	"encrypting":     func(j jobData) { j.both("encrypting", true, false) },
	"encryption":     func(j jobData) { j.both("encrypted", false, true) },
	"memory-changed": func(j jobData) { s, _ := j.now(); s["fitted"] = map[string]any{"memory_bytes": 17179869184} },
	"processor-changed": func(j jobData) {
		s,
			_ := j.now()
		s["fitted"] = map[string]any{"processor": "4 cores, 3.1 GHz"}
	},
	"other-work":    func(j jobData) { work(j, "drivers") },
	"control-moved": func(j jobData) { j.scale("t-processor", "s1", 1.3) },
	"system-version": func(j jobData) {
		s, _ := j.now()
		s["system"].(map[string]any)["version"] = "desktop system, version 11"
	},
	"system-origin":    func(j jobData) { s, _ := j.now(); s["system"].(map[string]any)["origin"] = "fresh" },
	"start-kind":       func(j jobData) { j.each("t-start", "s1", "start_kind", "resume-assisted") },
	"first-after-swap": func(j jobData) { j.runs("t-start", "s2")[0]["set_aside"] = nil },
	"warmth":           func(j jobData) { j.each("t-launch", "s1", "warmth", "warm") },
	"attachment":       func(j jobData) { s, _ := j.now(); s["attached"] = map[string]any{"port": "usb"} },
	"port-limit": func(j jobData) {
		s, _ := j.now()
		s["attached"] = map[string]any{"port": "sata", "link_mb_s": 560, "capable_mb_s": 600}
	},
	"below-rating":     func(j jobData) { j.scale("t-long-read", "s2", 0.5) },
	"beyond-link":      func(j jobData) { j.scale("t-long-read", "s2", 2) },
	"beyond-mechanics": func(j jobData) { j.scale("t-scattered", "s1", 40) },
	"content-moved": func(j jobData) {
		beside(j, "now")
		j.each("t-launch", "s2", "on", "d9")
	},
	"content-elsewhere": func(j jobData) {
		beside(j, "then")
		beside(j, "now")
		j.each("t-launch", "s1", "on", "d9")
		j.each("t-launch", "s2", "on", "d9")
	},
	"attached-devices": func(j jobData) { j.both("attached", []string{"a dock"}, []string{}) },
	"firmware-settings": func(j jobData) {
		j.both("firmware", map[string]any{"version": "1.07"}, map[string]any{"version": "1.09"})
	},
	"weak-supply": func(j jobData) {
		_, c := j.now()
		c["battery_from_pct"], c["battery_to_pct"] = 90, 60
	},
	"heat": func(j jobData) { j.each("t-long-write", "s2", "peak_temp_c", 71) },
	"fill": func(j jobData) { j.both("fill_pct", 91, 40) },
	"placement": func(j jobData) {
		j.byID("drives", "d2")["kind"] = "hdd"
		j.each("t-long-read", "s1", "placement", map[string]any{"from_pct": 2, "to_pct": 3})
		j.each("t-long-read", "s2", "placement", map[string]any{"from_pct": 80, "to_pct": 81})
	},
	"engine-limited": func(j jobData) {
		j.each("t-long-read", "s2", "engine_cpu_pct",
			map[string]any{"core": 97, "all": 60})
	},
	"drift": func(j jobData) {
		for _, r := range j.list("runs") {
			if r["repeat"] == true && r["sitting"] == "s2" {
				r["value"] = r["value"].(float64) * 0.5
			}
		}
	},
	"lone-run":      func(j jobData) { j.runs("t-browser", "s1")[1]["value"] = 61.0 },
	"method":        func(j jobData) { j.each("t-wake", "s1", "method", "stopwatch") },
	"probe-version": func(j jobData) { j.each("t-long-read", "s1", "engine", "nowthen 0") },
	"not-recorded":  func(j jobData) { _, c := j.now(); delete(c, "power") },
	"not-settled": func(j jobData) { // three runs are no settled block
		s, _ := j.now()
		j.byID("drives", s["drive"].(string))["kind"] = "hybrid"
	},
	"settles": func(j jobData) {
		first := maps.Clone(j.runs("t-start", "s1")[0])
		first["id"], first["at"] = "first", "2020-01-01T00:00:00Z"
		if phases, ok := first["phases"].(map[string]any); ok {
			phases = maps.Clone(phases)
			for k, v := range phases {
				phases[k] = v.(float64) * 2
			}
			first["phases"] = phases
		}
		first["value"] = first["value"].(float64) * 2
		j["runs"] = append(j["runs"].([]any), first)
	},
	"same-drive": func(j jobData) {
		for _, id := range []string{"s1", "s2"} {
			s := j.byID("sittings", id)
			s["where"] = map[string]any{"computer": j.byID("setups", s["setup"].(string))["computer"],
				"drive_digest": "0123456789"}
		}
	},
	"measured-elsewhere": func(j jobData) {
		j.byID("sittings", "s1")["where"] = map[string]any{"computer": "bench", "port": "usb"}
	},
	"other-program": func(j jobData) {
		for _, r := range j.runs("t-long-read", "s1") {
			r["method"], r["read_in"] = "typed", map[string]any{"program": "Millrace", "version": "3"}
		}
	},
	"unequal-amounts": func(j jobData) {
		j.each("t-start", "s1", "bytes", 4e9)
		j.each("t-start", "s2", "bytes", 2e9)
		j.each("t-start", "s1", "method", "stopwatch")
		j.each("t-start", "s2", "method", "stopwatch")
	},
	"system-beside": func(j jobData) {
		a, _ := j.then()
		b, _ := j.now()
		a["system"].(map[string]any)["also_installed"] = "nothing else"
		b["system"].(map[string]any)["also_installed"] = "another system"
	},
}

// work is other work of the visit, done just before Now was measured: the demonstration's days go with the clock.
func work(j jobData, what string) {
	began, err := time.Parse(time.RFC3339, j.byID("sittings", "s2")["started"].(string))
	if err != nil {
		panic(err)
	}
	j["job"].(map[string]any)["work"] = []any{map[string]any{"at": began.Add(-time.Second).Format(time.RFC3339),
		"what": what}}
}

// beside puts a second drive into a setup.
func beside(j jobData, setup string) {
	if !slices.ContainsFunc(j.list("drives"), func(d map[string]any) bool { return d["id"] == "d9" }) {
		j["drives"] = append(j["drives"].([]any), map[string]any{"id": "d9", "kind": "hdd"})
	}
	j.byID("setups", setup)["also"] = []any{map[string]any{"drive": "d9", "holds": "games"}}
}

// Each rule is shown by a job made for it: once, with its title, its lines and its remedy, and the
// remedy begins just that for
// the side that can still be measured.
func TestEveryRuleInTheBrowser(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	file := s.file("/api/jobs/" + s.finishedJob() + "/export")
	var rules []string
	for rule := range found {
		rules = append(rules, rule)
	}
	slices.Sort(rules)
	for _, rule := range fairness.Rules() {
		assert.True(t, found[rule] != nil || rule == "simulated",
			"%s has no job; that it is simulated is a mark and no finding", rule)
	}
	p := open(t, s.base, 1280, 900)
	for i, rule := range rules {
		// Of every second the old drive is still in: its remedies are for Then.
		in := i%2 == 1
		var j jobData
		require.NoError(t, json.Unmarshal(file, &j))
		head := j["job"].(map[string]any)
		head["number"] = "2026-8" + fmt.Sprintf("%02d", i)
		if in {
			head["gates"] = nil
		}
		found[rule](j)
		data, err := json.Marshal(j)
		require.NoError(t, err)
		id := s.take(data)
		p.goTo("/jobs/" + id + "/ledger")
		p.poll(rule+" to be shown", `document.querySelector('[data-finding="`+rule+`"]')`)
		type shown struct {
			Words        string
			All          []string
			Link, Button string
			Lines        int
		}
		at, err := chromedp.Run(p.ctx, chromedp.Evaluate[shown](`(() => { document.querySelectorAll('details').forEach(d => d.open = true)
			const all = [...document.querySelectorAll('[data-finding="`+rule+`"]')], e = all[0], b = e.querySelector('button.btn')
			return {Words: e.innerText, All: all.map(x => x.innerText.replace(/^\d+/, '')), Link: e.querySelector('a.btn')?.getAttribute('href') ?? '', Button: b?.innerText ?? '', Lines: e.querySelectorAll('p button.link').length} })()`))
		require.NoError(t, err)
		slices.Sort(at.All)
		assert.Len(t, slices.Compact(slices.Clone(at.All)), len(at.All), "%s stands once for each pair of values", rule)
		assert.NotZero(t, at.Lines, "%s names its lines", rule)
		assert.NotContains(t, at.Words, "undefined")
		// What was found at one side alone is measured there again, a difference at Then while its drive is in.
		side, name := "now", "Now"
		if strings.Contains(at.Words, "Then: ") && (in || !strings.Contains(at.Words, "Now: ")) {
			side, name = "then", "Then"
		}
		switch {
		case at.Link != "": // a round of just those tests
			assert.True(t, strings.HasPrefix(at.Link, "/jobs/"+id+"/measure/"+side+"?test="), "%s begins %s", rule,
				at.Link)
			assert.Contains(t, at.Words, "Measure "+name)
			_, err := chromedp.Run(p.ctx,
				chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-finding="`+rule+`"] a.btn').click()`))
			require.NoError(t, err)
			p.poll(rule+": the round's page", `location.pathname === '/jobs/`+id+`/measure/`+side+`'`)
		case strings.HasPrefix(at.Button, "Show the "): // the runs in the opened line
			_, err := chromedp.Run(p.ctx,
				chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-finding="`+rule+`"] button.btn').click()`))
			require.NoError(t, err)
			p.poll(rule+": the line opens", `new URLSearchParams(location.search).has('line')`)
		case at.Button != "": // the timer, armed for it
			assert.Contains(t, at.Button, "Measure "+name, rule)
			_, err := chromedp.Run(p.ctx,
				chromedp.Evaluate[chromedp.Void](`document.querySelector('[data-finding="`+rule+`"] button.btn').click()`))
			require.NoError(t, err)
			p.poll(rule+": the timer", `location.pathname.startsWith('/jobs/`+id+`/timer/`+side+`/')`)
			var timer struct{ State, Setup string }
			s.ask("GET", "/api/jobs/"+id+"/timer", nil, &timer)
			assert.Equal(t, side, timer.Setup, rule)
		case side == "then" && !in && strings.Contains(at.Words, "Then can’t be measured again"):
		default: // nothing that is measured would mend it
			assert.Contains(t, []string{"fill", "encryption", "memory-changed", "processor-changed", "other-work",
				"system-version", "system-origin", "content-elsewhere", "engine-limited", "method", "not-recorded",
				"other-computer", "other-baseline-drive", "more-than-the-drive", "system-beside"}, rule, at.Words)
		}
	}
}

// file is what an address answers, as it is.
func (s *server) file(path string) []byte {
	s.t.Helper()
	res, err := http.Get(s.base + path)
	require.NoError(s.t, err)
	defer res.Body.Close()
	require.Equal(s.t, 200, res.StatusCode, path)
	data, err := io.ReadAll(res.Body)
	require.NoError(s.t, err)
	return data
}

// A job without Then has a ledger of what is there now, and a report that claims no improvement and can be issued.
func TestAJobWithoutThen(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var j jobData
	require.NoError(t, json.Unmarshal(s.file("/api/jobs/"+s.finishedJob()+"/export"), &j))
	head := j["job"].(map[string]any)
	head["number"], head["gates"] = "2026-0900", nil
	now, _ := j.now()
	delete(now, "replaces")
	j["setups"] = []any{now}
	j["sittings"] = []any{j.byID("sittings", "s2")}
	var runs []any
	for _, r := range j.runs("", "s2") {
		runs = append(runs, r)
	}
	j["runs"] = runs
	data, err := json.Marshal(j)
	require.NoError(t, err)
	id := s.take(data)
	p := open(t, s.base, 1280, 900)
	p.goTo("/jobs/" + id + "/ledger")
	p.see("This job has no Then, so these are current values without a comparison.")
	p.see("Then is missing")
	p.accessible()
	p.goTo("/jobs/" + id + "/report")
	p.see("Nothing was measured before, so no improvement is stated.")
	p.press("Issue")
	p.see("An issued report doesn’t change.")
	var report struct {
		Issued struct {
			Lead    string
			Waiting []struct{ Verdict string }
		}
	}
	s.ask("GET", "/api/jobs/"+id+"/report", nil, &report)
	assert.Equal(t, "Nothing was measured before, so no improvement is stated.", report.Issued.Lead)
	for _, w := range report.Issued.Waiting {
		assert.Equal(t, "not-measured", w.Verdict)
	}
}
