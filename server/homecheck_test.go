package server

import (
	"encoding/json"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench/followup"
	"nowthen/core/job"
)

// A customer times three starts at home, without script: what the page holds goes with the form,
// and what is sent comes in
// once, as runs that change no comparison.
func TestASecondLook(t *testing.T) {
	s, cookie := opened(t)
	technician := func(method, path, body string) (int, string) {
		req := request(method, path, body)
		req.Host = elsewhere + ":7117"
		req.Header.Set("Cookie", cookie)
		status, answer, _ := do(t, s, req)
		return status, answer
	}
	customer := func(method, path string, form url.Values) (int, string, http.Header) {
		req := request(method, path, form.Encode())
		req.Host = elsewhere + ":7117"
		req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
		return do(t, s, req)
	}
	hidden := func(page, name string) string {
		m := regexp.MustCompile(`name="` + name + `" value="([^"]*)"`).FindStringSubmatch(page)
		if m == nil {
			return ""
		}
		return m[1]
	}
	_, board := technician("GET", "/api/jobs?state=finished", "")
	id := field(t, []byte(board), "cards", "0", "id").(string)
	_, made := technician("POST", "/api/jobs/"+id+"/shares", `{}`)
	token := field(t, []byte(made), "token").(string)
	look := "/r/" + token + "/look"
	_, report, _ := customer("GET", "/r/"+token, nil)
	assert.Contains(t, report, `href="`+look+`"`, "the shared report leads there")
	status, page, header := customer("GET", look, nil)
	require.Equal(t, 200, status)
	assert.Regexp(t, `Does it still start in \d+ s\?`, page)
	assert.Contains(t, header.Get("Content-Security-Policy"), "default-src 'none'")
	assert.Contains(t, header.Get("Content-Security-Policy"), "form-action 'self'")
	assert.NotContains(t, page, id)
	_, before := technician("GET", "/api/jobs/"+id+"/ledger", "")

	// Two are timed, one of them far too early taken for a stop; the third is typed with a comma.
	form := url.Values{"key": {hidden(page, "key")}, "test": {hidden(page, "test")}}
	assert.Equal(t, "t-start", form.Get("test"))
	pressed := func() string {
		status, _, header := customer("POST", look, form)
		require.Equal(t, 303, status)
		_, page, _ := customer("GET", header.Get("Location"), nil)
		_, again, _ := customer("GET", header.Get("Location"), nil)
		assert.Equal(t, page, again, "loaded anew it is as it was")
		return page
	}
	for _, seconds := range []time.Duration{36400, 37250} {
		form.Set("do", "start")
		page = pressed()
		assert.Contains(t, page, "It is running")
		s.desk.Jobs.Shift(seconds * time.Millisecond)
		form.Set("do", "stop")
		form.Set("from", hidden(page, "from"))
		page = pressed()
		assert.NotContains(t, page, "It is running")
		form.Set("times", hidden(page, "times"))
	}
	assert.Regexp(t, `^36\.[4-6];37\.[2-5]$`, form.Get("times"))
	form.Set("do", "send")
	form["typed"] = []string{"soon"}
	status, page, _ = customer("POST", look, form)
	assert.Equal(t, 422, status)
	assert.Contains(t, page, "Nothing was sent")
	assert.Equal(t, form.Get("times"), hidden(page, "times"), "what was timed is still there")
	form["typed"] = []string{"35,94"}
	for range 2 { // the button was pressed twice
		status, _, header = customer("POST", look, form)
		require.Equal(t, 303, status)
		assert.Contains(t, header.Get("Location"), look+"?thanks=1")
	}
	_, page, _ = customer("GET", look+"?thanks=1", nil)
	assert.Contains(t, page, "Thank you")

	snapshot, err := s.desk.Jobs.Load(t.Context(), id)
	require.NoError(t, err)
	waiting := snapshot.Job.Head.Waiting
	require.Len(t, waiting, 3)
	for _, r := range snapshot.Job.Runs {
		assert.False(t, snapshot.Job.Sitting(r.Sitting).FollowUp, "nothing counts before a technician has accepted it")
	}
	for _, w := range waiting {
		assert.Equal(t, job.FromLink, w.From)
		status, answer := technician("POST", "/api/jobs/"+id+"/waiting/"+w.Run.ID+"/accept", "")
		require.Equal(t, 200, status, answer)
	}
	snapshot, err = s.desk.Jobs.Load(t.Context(), id)
	require.NoError(t, err)
	assert.Empty(t, snapshot.Job.Head.Waiting)
	var told []job.Run
	for _, r := range snapshot.Job.Runs {
		if snapshot.Job.Sitting(r.Sitting).FollowUp {
			told = append(told, r)
		}
	}
	require.Len(t, told, 3)
	assert.InDelta(t, 35.94, told[2].Value, 1e-9)
	assert.Equal(t, "35.94 s", told[2].Given, "the digits are those that were typed")
	for _, r := range told {
		assert.Equal(t, job.Typed, r.Method)
		assert.Equal(t, "customer", r.By)
		assert.False(t, r.Kept())
	}
	_, after := technician("GET", "/api/jobs/"+id+"/ledger", "")
	require.NotEmpty(t, field(t, []byte(before), "rows"))
	assert.Equal(t, field(t, []byte(before), "rows", "0", "line"), field(t, []byte(after), "rows", "0", "line"),
		"the comparison stays")

	for name, bad := range map[string]url.Values{
		"nothing": {"do": {"send"}, "key": {"k"}}, "less than nothing": {"do": {"send"}, "key": {"k"},
			"typed": {"-3"}}, "too many": {"do": {"send"}, "key": {"k"}, "typed": {"1", "2", "3", "4"}},
		"too long": {"do": {"send"}, "key": {"k"}, "typed": {"4000"}}, "no number": {"do": {"send"}, "key": {"k"},
			"typed": {"NaN"}}, "markup": {"do": {"send"}, "key": {`"><script>`}, "times": {"<b>"}},
		"another test": {"do": {"send"}, "key": {"k"}, "typed": {"30"},
			"test": {"t-long-read"}}, "no test": {"do": {"send"}, "key": {"k"}, "typed": {"30"}, "test": {"moon"}},
	} {
		status, page, _ := customer("POST", look, bad)
		if strings.Contains(name, "test") {
			assert.Equal(t, 404, status, name)
			continue
		}
		assert.Equal(t, 422, status, name)
		assert.NotContains(t, page, "<script", name)
	}
	// However often somebody sends, it ends.
	ended := false
	for k := 0; k < 30 && !ended; k++ {
		_, _, header := customer("POST", look,
			url.Values{"do": {"send"}, "key": {"flood" + strings.Repeat("x", k)}, "typed": {"1", "2", "3"}})
		ended = strings.Contains(header.Get("Location"), "often=1")
	}
	assert.True(t, ended)

	status, card, _ := customer("GET", "/r/"+token+"/card", nil)
	assert.Equal(t, 200, status)
	assert.Regexp(t, `Does it still start in \d+ s\?`, card)
	assert.NotContains(t, card, id)
	assert.Equal(t, s.o.Open, strings.Contains(card, "data:image/png;base64,"),
		"the way to the page, where there is one")

	status, _ = technician("DELETE", "/api/jobs/"+id+"/shares/"+field(t, []byte(made), "id").(string), "")
	require.Equal(t, 200, status)
	answers := map[string]bool{}
	for _, token := range []string{token, strings.Repeat("A", 32), "x"} {
		for _, method := range []string{"GET", "POST"} {
			status, page, _ := customer(method, "/r/"+token+"/look",
				url.Values{"do": {"send"}, "typed": {"3"}, "key": {"k"}})
			assert.Equal(t, 404, status, method, token)
			answers[page] = true
		}
		status, page, _ := customer("GET", "/r/"+token+"/card", nil)
		assert.Equal(t, 404, status)
		answers[page] = true
	}
	assert.Len(t, answers, 1, "revoked and never made ones answer alike")
}

// promises asks for all that can be done with what was promised for later, in a job of a simulated
// computer that has a Now.
func promises(t *testing.T, ask func(method, path, body string, want int) []byte, at string) {
	t.Helper()
	// ours are those of this job: the demonstration has some of its own
	due := func() (ours []followup.Due) {
		var all []followup.Due
		require.NoError(t, json.Unmarshal(ask("GET", "/api/due", "", 200), &all))
		for _, d := range all {
			if strings.HasSuffix(at, d.Job) {
				ours = append(ours, d)
			}
		}
		return ours
	}
	before := len(due())
	for _, bad := range []string{`{"what":"dinner","due":"2026-12-01"}`, `{"what":"words","due":"2026-12-01"}`,
		`{"what":"words","words":"x","due":"soon"}`, `{"what":"test","due":"2026-12-01"}`,
		`{"what":"test","test":"none","due":"2026-12-01"}`, `{"what":"fill","test":"t-start","due":"2026-12-01"}`, `{"what":"fill","due":"2026-12-01","done":true}`} {
		ask("POST", at+"/promises", bad, 422)
	}
	ask("POST", at+"/promises", `{"what":"fill","due":"2027-05-27"}`, 201)
	ask("POST", at+"/promises", `{"what":"test","test":"t-start","due":"2026-12-04"}`, 201)
	ask("POST", at+"/promises", `{"what":"words","words":"again without the scanner's helper","due":"2026-12-11"}`, 201)
	var ids []string
	var days []string
	for _, d := range due() {
		if d.Promise.Test != "t-battery" {
			ids, days = append(ids, d.Promise.ID), append(days, d.Promise.Due)
		}
		assert.Equal(t, d.Promise.Test == "t-start", d.Name == "Cold start to desktop")
	}
	assert.Equal(t, []string{"2026-12-04", "2026-12-11", "2027-05-27"}, days, "the earliest first")
	answer := func(k int) string { return at + "/promises/" + ids[k] + "/answer" }
	ask("PUT", answer(0), `{"text":"fast"}`, 422)
	ask("PUT", answer(0), `{"text":"38,5"}`, 200)
	ask("PUT", answer(0), `{"text":"38.5"}`, 409)
	ask("DELETE", at+"/promises/"+ids[0], "", 409)
	ask("PUT", answer(2), `{"text":"140 %"}`, 422)
	told := ask("PUT", answer(2), `{"text":"61 %"}`, 200)
	last := func(list any) map[string]any { all := list.([]any); return all[len(all)-1].(map[string]any) }
	sitting := last(field(t, told, "job", "sittings"))
	assert.Equal(t, true, sitting["follow_up"])
	assert.InDelta(t, 61, sitting["conditions"].(map[string]any)["fill_pct"], 1e-9)
	run := last(field(t, told, "job", "runs"))
	assert.Equal(t, sitting["id"], run["sitting"], "answers join one sitting")
	assert.InDelta(t, 38.5, run["value"], 1e-9)
	assert.NotNil(t, run["set_aside"])
	ask("DELETE", at+"/promises/"+ids[1], "", 200)
	ask("DELETE", at+"/promises/"+ids[1], "", 404)
	assert.Len(t, due(), before)
}

// A link to a report that was withdrawn says so, and tells no figure of it any more.
func TestALinkToAWithdrawnReport(t *testing.T) {
	s, cookie := opened(t)
	ask := func(method, path, body, cookie string) (int, string) {
		req := request(method, path, body)
		req.Host = elsewhere + ":7117"
		req.Header.Set("Cookie", cookie)
		status, answer, _ := do(t, s, req)
		return status, answer
	}
	_, board := ask("GET", "/api/jobs?state=finished", "", cookie)
	id := field(t, []byte(board), "cards", "0", "id").(string)
	_, made := ask("POST", "/api/jobs/"+id+"/shares", `{}`, cookie)
	token := field(t, []byte(made), "token").(string)
	_, before := ask("GET", "/r/"+token, "", "")
	assert.Contains(t, before, "instead of")
	status, _ := ask("DELETE", "/api/jobs/"+id+"/reports/1", "", cookie)
	require.Equal(t, 200, status)
	status, after := ask("GET", "/r/"+token, "", "")
	assert.Equal(t, 200, status)
	assert.Contains(t, after, "was withdrawn")
	assert.NotContains(t, after, "instead of")
}
