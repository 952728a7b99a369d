package server

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench/swap"
)

// tasks asks all that there is about tasks, of a job.
func tasks(t *testing.T, ask func(method, path, body string, want int) []byte, at string) {
	t.Helper()
	for _, bad := range []string{`{"what":"dinner"}`, `{"what":"other"}`, `{"what":"clone","from":"the moon"}`, `{"what":"clone","bytes":-1}`, `{"what":"clone","kind":"sleeping"}`, `{"what":"clone","stretches":[]}`} {
		ask("POST", at+"/tasks", bad, 422)
	}
	ask("POST", "/api/jobs/nobody/tasks", `{"what":"clone"}`, 404)
	made := ask("POST", at+"/tasks", `{"what":"clone","words":" sector by sector ","from":"old-drive","kind":"waiting"}`, 201)
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
