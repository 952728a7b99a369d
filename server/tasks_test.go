package server

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench/swap"
	"nowthen/core/checks"
	"nowthen/core/fitting"
	"nowthen/core/job"
)

// tasks asks all that there is about tasks, of a job.
func tasks(t *testing.T, ask func(method, path, body string, want int) []byte, at string) {
	t.Helper()
	for _, bad := range []string{`{"what":"dinner"}`, `{"what":"other"}`, `{"what":"clone","from":"the moon"}`,
		`{"what":"clone","bytes":-1}`, `{"what":"clone","kind":"sleeping"}`, `{"what":"clone","stretches":[]}`} {
		ask("POST", at+"/tasks", bad, 422)
	}
	ask("POST", "/api/jobs/nobody/tasks", `{"what":"clone"}`, 404)
	made := ask("POST", at+"/tasks",
		`{"what":"clone","words":" sector by sector ","from":"old-drive","kind":"waiting"}`, 201)
	task := at + "/tasks/" + field(t, made, "job", "job", "tasks", "0", "id").(string)
	assert.Equal(t, "sector by sector", field(t, made, "job", "job", "tasks", "0", "words"))
	ask("PUT", task+"/clock", `{"kind":"dancing"}`, 422)
	ask("PUT", task+"/clock", `{"minutes":-1}`, 422)
	ask("PUT", task+"/clock", `{"minutes":5000}`, 422) // longer than it ran
	ask("PUT", at+"/tasks/none/clock", `{}`, 404)
	ask("PUT", task+"/clock", `{"kind":"waiting"}`, 200) // it runs already: nothing changes
	switched := ask("PUT", task+"/clock", `{"kind":"hands-on","broke":"the cable slipped"}`, 200)
	assert.Len(t, field(t, switched, "job", "job", "tasks", "0", "stretches"), 2)
	assert.Equal(t, "the cable slipped", field(t, switched, "job", "job", "tasks", "0", "stretches", "0", "broke"))
	assert.Equal(t, "hands-on", field(t, switched, "job", "job", "tasks", "0", "stretches", "1", "kind"))
	ask("PUT", task+"/clock", `{}`, 200)
	ask("PUT", task+"/clock", `{}`, 409) // it stands already
	ask("PUT", task, `{"what":"clone","from":"old-drive","bytes":-5}`, 422)
	ask("PUT", at+"/tasks/none", `{"what":"clone"}`, 404)
	told := ask("PUT", task, `{"what":"clone","words":"by files","from":"old-drive","bytes":390000000000}`, 200)
	assert.Len(t, field(t, told, "job", "job", "tasks", "0", "stretches"), 2, "the clock stays")
	ask("POST", at+"/tasks", `{"what":"other","words":"glue softened"}`, 201)
	var v swap.View
	require.NoError(t, json.Unmarshal(ask("GET", at+"/swap", "", 200), &v))
	require.Len(t, v.Work.Tasks, 2)
	assert.Equal(t, 1, v.Work.Tasks[0].Broke)
	assert.Nil(t, v.Work.Tasks[0].Usual, "of no task of this shop it is known")
}

// fittings asks all that there is about whether the new drive goes in and is at home, of a job with one.
func fittings(t *testing.T, ask func(method, path, body string, want int) []byte, at string) {
	t.Helper()
	ask("GET", "/api/jobs/nobody/fitting", "", 404)
	var f swap.Fitting
	require.NoError(t, json.Unmarshal(ask("GET", at+"/fitting", "", 200), &f))
	assert.Nil(t, f.Known, "the shop knows nothing of it yet")
	require.NotEmpty(t, f.Checks)
	for _, c := range f.Checks {
		assert.EqualValues(t, "unknown", c.State, c.ID)
	}
	for _, bad := range []string{`{"shape":{"form":"round"}}`, `{"shape":{"height_mm":-1}}`,
		`{"known":{"place":{"key":"Q"}}}`, `{"known":{"place":{"speaks":["latin"]}}}`, `{"known":{"place":{"lengths_mm":[5000]}}}`,
		`{"known":{"place":{"switches_off":[" "]}}}`, `{"known":{"minutes":-1}}`, `{"known":{"colour":"red"}}`} {
		ask("PUT", at+"/fitting", bad, 422)
	}
	ask("PUT", "/api/jobs/nobody/fitting", `{}`, 404)
	ask("PUT", at+"/fitting", `{"known":{"photos":[{"job":"nobody","id":"none","words":"clips"}]}}`, 404)
	ask("PUT", at+"/fitting",
		`{"known":{"photos":[`+strings.TrimSuffix(strings.Repeat(`{"job":"j","id":"p","words":""},`, 13),
			",")+`]}}`, 422)
	noted := ask("PUT", at+"/fitting",
		`{"known":{"place":{"form":"2.5-inch","height_mm":7,"speaks":["sata"],"switches_off":[],"power":true},"pitfalls":" a hidden screw under the label ","minutes":25},"shape":{"form":"2.5-inch","height_mm":9.5}}`, 200)
	assert.Contains(t, string(noted), `"height_mm":9.5`)
	require.NoError(t, json.Unmarshal(ask("GET", at+"/fitting", "", 200), &f))
	require.NotNil(t, f.Known)
	assert.Equal(t, "a hidden screw under the label", f.Known.Pitfalls)
	states := map[string]string{}
	for _, c := range f.Checks {
		states[c.ID] = string(c.State)
	}
	assert.Equal(t, []string{"fine", "wrong", "fine", "fine"},
		[]string{states["form"], states["height"], states["speaks"], states["switched-off"]})

	// What only somebody before it sees.
	ask("PUT", at+"/checks/recognised", `{"state":"fine"}`, 404)
	ask("PUT", at+"/checks/mail", `{"state":"perhaps"}`, 422)
	ask("PATCH", at, `{"origin":"cloned"}`, 200)
	ask("PUT", at+"/checks/mail", `{"state":"wrong","by":"Runa"}`, 200)
	var v swap.View
	mail := func() job.CheckState {
		require.NoError(t, json.Unmarshal(ask("GET", at+"/swap", "", 200), &v))
		for _, c := range v.Checks {
			if c.ID == "mail" {
				return c.State
			}
		}
		return "none"
	}
	assert.EqualValues(t, "wrong", mail())
	ask("PUT", at+"/checks/mail", `{"state":""}`, 200)
	assert.EqualValues(t, "unknown", mail())

	// What fixed it is kept for the model, and offered for its next computer.
	ask("PUT", at+"/checks/mail", `{"state":"fine","fix":"`+strings.Repeat("x", 501)+`"}`, 422)
	ask("PUT", at+"/checks/mail", `{"state":"fine","by":"Runa","fix":" had the data file checked "}`, 200)
	check := func() checks.Check {
		mail()
		return v.Checks[slices.IndexFunc(v.Checks, func(c checks.Check) bool { return c.ID == "mail" })]
	}
	assert.Equal(t, "had the data file checked", check().Fix)
	assert.Empty(t, check().Earlier, "it is the same")
	ask("PUT", at+"/checks/mail", `{"state":""}`, 200)
	assert.Equal(t, []string{"had the data file checked"}, check().Earlier)

	// Several slots, of which one disables ports: somebody says whether anything is attached there.
	ask("PUT", at+"/fitting", `{"known":{"place":{"name":"bay"},"more":[{"form":"m.2"}]}}`, 422)
	ask("PUT", at+"/fitting",
		`{"known":{"place":{"name":"bay","form":"3.5-inch"},"more":[{"name":"M2_1","form":"2.5-inch","switches_off":["SATA 5"]}]},"shape":{"form":"2.5-inch"}}`, 200)
	attached := func() checks.Check {
		require.NoError(t, json.Unmarshal(ask("GET", at+"/fitting", "", 200), &f))
		return f.Checks[slices.IndexFunc(f.Checks, func(c checks.Check) bool { return c.ID == fitting.Attached })]
	}
	assert.Equal(t, checks.Unknown, attached().State)
	assert.Equal(t, "M2_1", f.Slots[0].Name, "the best one")
	assert.Equal(t, checks.Wrong, f.Slots[1].State)
	require.NotNil(t, f.Known)
	assert.Equal(t, []string{"had the data file checked"}, f.Known.Fixes["mail"], "what mended things stays")
	ask("PUT", at+"/checks/"+fitting.Attached, `{"state":"wrong"}`, 200)
	assert.Equal(t, checks.Wrong, attached().State)
	ask("PUT", at+"/checks/"+fitting.Attached, `{"state":"fine"}`, 200)
	assert.Equal(t, checks.Fine, attached().State)

	// A control can be in any unit, where higher may be better.
	ask("POST", at+"/tests", `{"kind":"control","name":"Frames","better":"higher"}`, 422)
	own := ask("POST", at+"/tests", `{"kind":"control","name":"Frames","unit":"frames/s","better":"higher"}`, 201)
	assert.Contains(t, string(own), `"unit":"frames/s"`)
	// Result file of the new drive.
	for _, bad := range []string{`{"blocks":-1}`, `{"missed":2}`, `{"blocks":2,"lost":3}`, `{"blocks":2,"first":5}`,
		`{"written_bytes":5}`, `{"surely":true}`} {
		ask("PUT", at+"/held", bad, 422)
	}
	ask("PUT", "/api/jobs/nobody/held", `{}`, 404)
	ask("PUT", at+"/held",
		`{"file_bytes":900000000000,"written_bytes":4000000000,"whole":false,"blocks":15258,"lost":0,"overlaid":3,"first":64000000000,"apart_bytes":64000000000,"missed":0.01}`, 200)
	require.NoError(t, json.Unmarshal(ask("GET", at+"/swap", "", 200), &v))
	assert.Contains(t, fmt.Sprint(v.Checks), "3 of 15258 blocks came back different")
	// The names behind the counts are kept until a day.
	ask("PUT", at+"/carried",
		`{"files":3,"bytes":30,"unchanged":2,"missing":["letters/aunt.txt"],"counts":{"missing":1}}`, 200)
	require.NoError(t, json.Unmarshal(ask("GET", at+"/swap", "", 200), &v))
	require.NotNil(t, v.Lists)
	assert.Equal(t, []string{"letters/aunt.txt"}, v.Lists.Missing)
	assert.NotContains(t, string(ask("GET", at, "", 200)), "aunt", "no job, and so no job file, has them")
}
