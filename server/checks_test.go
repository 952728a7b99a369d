package server

import (
	"encoding/json"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/checks"
	"nowthen/core/job"
)

// askAboutChecks lets a probe look at the new drive of a job, and goes over all that is said of it.
func (c *contract) askAboutChecks(at, probe string, as func(method, path, body string, want int) []byte) {
	t, ask := c.t, c.ask
	hello := func(drive, volume string) {
		as("POST", "/api/probe/hello", `{"protocol":1,"engine":"5","system":"linux/amd64","facts":{"computer":{"maker":"Larkfield"},"system":{},"partitions":[],"absent":[],
			"drives":[{"id":"a","kind":"hdd","capacity_bytes":640135028736}`+drive+`],"volumes":[{"mount":"/","drive":"a","system":true}`+volume+`]}}`, 200)
	}
	look := at + "/probes/" + probe + "/check"
	const sustain = `{"kind":"sustain","mount":"/media/new","label":"NEW","seconds":60,"load":true,"room_c":21,"heat_sink":false}`
	hello("", "")
	for _, bad := range []string{`{}`, `{"kind":"fly","mount":"/"}`, `{"kind":"sustain","mount":"/","seconds":1}`,
		`{"kind":"capacity","mount":"/","most_bytes":-1}`, `{"kind":"capacity","mount":"/","room_c":900}`, `{"kind":"capacity","mount":"/","at_once":true}`} {
		ask("PUT", look, bad, 422)
	}
	ask("PUT", at+"/probes/nobody/check", sustain, 404)
	ask("DELETE", at+"/probes/nobody/check", "", 404)
	ask("PUT", look, sustain, 409)                                         // nothing is mounted there
	ask("PUT", look, `{"kind":"capacity","mount":"/","label":"NEW"}`, 409) // that is no new drive

	hello(`,{"id":"b","kind":"sata-ssd","capacity_bytes":64000000000}`,
		`,{"mount":"/media/new","drive":"b","system":false}`)
	assert.Contains(t, string(ask("PUT", look, sustain, 409)), "64 GB", "a stick that lies about")
	hello(`,{"id":"b","kind":"sata-ssd","capacity_bytes":960197124096}`,
		`,{"mount":"/media/new","drive":"b","system":false}`)
	asked := ask("PUT", look, sustain, 200)
	assert.Equal(t, "running", field(t, asked, "0", "checking", "state"))
	ask("PUT", look, sustain, 409) // it is at it
	o := as("GET", "/api/probe/work?doing=", "", 200)
	id := field(t, o, "id").(string)
	assert.Equal(t, "sustain", field(t, o, "kind"))
	assert.Equal(t, "NEW", field(t, o, "check", "label"))
	assert.NotEmpty(t, field(t, o, "check", "job"), "the label must be one of this job")
	as("POST", "/api/probe/progress",
		`{"order":"`+id+`","step":1,"done":0.5,"mb_s":480,"temp_c":44,"bytes":1,"elapsed_s":30}`, 204)
	shown := ask("GET", at+"/probes", "", 200)
	assert.Equal(t, true, field(t, shown, "0", "checking", "loaded"))
	assert.InDelta(t, 44, field(t, shown, "0", "checking", "temp_c"), 1e-9)

	const parts = `"parts":[{"seconds":60,"bytes":16000000000,"mb_s":271,"start_c":30,"peak_c":44},{"loaded":true,"seconds":60,"bytes":16000000000,"mb_s":250,"start_c":44,"peak_c":69}]`
	as("POST", "/api/probe/checked", `{"order":"`+id+`"}`, 422)
	as("POST", "/api/probe/checked", `{"order":"`+id+`","sustained":{"parts":[{"seconds":-1,"bytes":1,"mb_s":1}]}}`,
		422)
	for range 2 { // the second is a repeat
		as("POST", "/api/probe/checked", `{"order":"`+id+`","sustained":{"limit_c":70,`+parts+`}}`, 204)
	}
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"done"}`, 204)
	assert.Equal(t, "done", field(t, ask("GET", at+"/probes", "", 200), "0", "checking", "state"))
	var kept struct {
		Job struct {
			Drives []struct {
				Sustained []struct {
					ID        string
					Simulated bool
					RoomC     float64 `json:"room_c"`
					HeatSink  *bool   `json:"heat_sink"`
					Parts     []any
				}
			}
		}
	}
	require.NoError(t, json.Unmarshal(ask("GET", at, "", 200), &kept))
	n := 0
	for _, d := range kept.Job.Drives {
		for _, s := range d.Sustained {
			n++
			assert.Equal(t, id, s.ID)
			assert.True(t, s.Simulated, "the probe is, so what it measured is")
			assert.InDelta(t, 21, s.RoomC, 1e-9)
			require.NotNil(t, s.HeatSink)
			assert.False(t, *s.HeatSink)
			assert.Len(t, s.Parts, 2)
		}
	}
	assert.Equal(t, 1, n, "on one drive, once")
	var v struct{ Checks []checks.Check }
	require.NoError(t, json.Unmarshal(ask("GET", at+"/swap", "", 200), &v))
	assert.Equal(t, checks.Wrong, stateOf(v.Checks, "under-load"), "1 °C below its limit")

	// Somebody ends one.
	ask("PUT", look, `{"kind":"capacity","mount":"/media/new","label":"NEW","whole":true}`, 200)
	o = as("GET", "/api/probe/work?doing=", "", 200)
	id = field(t, o, "id").(string)
	ask("DELETE", look, "", 200)
	assert.Equal(t, "stop", field(t, as("GET", "/api/probe/work?doing="+id, "", 200), "kind"))
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"cancelled"}`, 204)
	assert.Equal(t, "cancelled", field(t, ask("DELETE", look, "", 200), "0", "checking", "state"))

	// What the probe printed can be imported.
	ask("POST", "/api/jobs/nobody/sustained", `{`+parts+`}`, 404)
	ask("POST", at+"/sustained", `{"parts":[]}`, 422)
	ask("POST", at+"/sustained", `{"id":"by-hand",`+parts+`}`, 200)
	as("POST", "/api/probe/hello",
		`{"protocol":1,"engine":"5","system":"linux/amd64","facts":{"computer":{"maker":"Larkfield"},"system":{},"drives":[],"volumes":[],"partitions":[],"absent":[]}}`, 200)
}

func stateOf(list []checks.Check, id string) job.CheckState {
	for _, c := range list {
		if c.ID == id {
			return c.State
		}
	}
	return ""
}
