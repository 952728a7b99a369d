package server

import (
	"encoding/base64"
	"strings"

	"github.com/stretchr/testify/assert"
)

// askAboutFiles lets a probe list the files of the old drive and compare them with the new one.
func (c *contract) askAboutFiles(at, probe string, as func(method, path, body string, want int) []byte) {
	t, ask := c.t, c.ask
	files := at + "/probes/" + probe + "/files"
	hello := func(volumes string) {
		as("POST", "/api/probe/hello", `{"protocol":1,"engine":"5","system":"linux/amd64","facts":{"computer":{"maker":"Larkfield"},"system":{},"partitions":[],"absent":[],
			"drives":[{"id":"a","kind":"hdd"}],"volumes":[`+volumes+`]}}`, 200)
	}
	hello(`{"mount":"/","drive":"a","system":true}`)
	for _, bad := range []string{`{}`, `{"kind":"sustain","mount":"/"}`, `{"kind":"list"}`, `{"kind":"list","mount":"/","more":1}`,
		`{"kind":"list","mount":"/","folder":"` + strings.Repeat("x", 5000) + `"}`} {
		ask("PUT", files, bad, 422)
	}
	ask("PUT", at+"/probes/nobody/files", `{"kind":"list","mount":"/"}`, 404)
	ask("PUT", files, `{"kind":"list","mount":"/elsewhere"}`, 200) // it lies on the system's drive
	id := field(t, as("GET", "/api/probe/work?doing=", "", 200), "id").(string)
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"failed","error":"/elsewhere is neither a mount point nor a folder chosen"}`, 204)
	assert.Contains(t, field(t, ask("GET", at+"/probes", "", 200), "0", "checking", "error"), "/elsewhere")

	assert.Nil(t, field(t, ask("GET", at+"/swap", "", 200), "listed"))
	as("GET", "/api/probe/list", "", 409)  // nobody has listed them
	ask("GET", "/api/probe/list", "", 401) // and they are for probes alone
	asked := ask("PUT", files, `{"kind":"list","mount":"/","folder":"/home/otti"}`, 200)
	assert.Equal(t, []any{"list", "/home/otti", "running"}, []any{field(t, asked, "0", "checking", "kind"),
		field(t, asked, "0", "checking", "folder"), field(t, asked, "0", "checking", "state")})
	ask("PUT", files, `{"kind":"list","mount":"/"}`, 409) // it is at it
	o := as("GET", "/api/probe/work?doing=", "", 200)
	id = field(t, o, "id").(string)
	assert.Equal(t, []any{"list", "/", "/home/otti"}, []any{field(t, o, "kind"), field(t, o, "dir"), field(t, o, "folder")})
	as("POST", "/api/probe/progress", `{"order":"`+id+`","step":0,"done":0.25,"mb_s":0,"bytes":1,"elapsed_s":30}`, 204)
	assert.InDelta(t, 0.25, field(t, ask("GET", at+"/probes", "", 200), "0", "checking", "done"), 1e-9)
	content := base64.StdEncoding.EncodeToString([]byte("what the probe alone reads"))
	list := func(order, more string) string {
		return `{"order":"` + order + `","folder":"/home/otti","files":3,"bytes":70,` + more + `}`
	}
	as("POST", "/api/probe/listed", list("another", `"unreadable":1,"list":"`+content+`"`), 409)
	as("POST", "/api/probe/listed", list(id, `"unreadable":4,"list":"`+content+`"`), 422)
	as("POST", "/api/probe/listed", list(id, `"unreadable":1,"list":""`), 422)
	ask("POST", "/api/probe/listed", list(id, `"unreadable":1,"list":"`+content+`"`), 401)
	for range 2 { // the second is a repeat
		as("POST", "/api/probe/listed", list(id, `"unreadable":1,"list":"`+content+`"`), 204)
	}
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"done"}`, 204)
	told := ask("GET", at+"/swap", "", 200)
	assert.Equal(t, []any{"/home/otti", 3.0, 70.0, 1.0, true}, []any{field(t, told, "listed", "folder"), field(t, told, "listed", "files"),
		field(t, told, "listed", "bytes"), field(t, told, "listed", "unreadable"), field(t, told, "listed", "simulated")})
	assert.Equal(t, content, field(t, as("GET", "/api/probe/list", "", 200), "list"))
	assert.NotContains(t, string(ask("GET", at+"/export", "", 200)), content, "it stays in the shop")

	// It is paused, and asked for again as a comparison.
	ask("PUT", files, `{"kind":"compare","mount":"/"}`, 200)
	id = field(t, as("GET", "/api/probe/work?doing=", "", 200), "id").(string)
	ask("DELETE", at+"/probes/"+probe+"/check", "", 200)
	assert.Equal(t, "stop", field(t, as("GET", "/api/probe/work?doing="+id, "", 200), "kind"))
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"cancelled"}`, 204)
	ask("PUT", files, `{"kind":"compare","mount":"/"}`, 200)
	id = field(t, as("GET", "/api/probe/work?doing=", "", 200), "id").(string)
	const difference = `"difference":{"files":3,"bytes":70,"unchanged":1,"missing":["a"],"changed":[],"new":[],"unreadable_before":["b"],"unreadable_now":[],
		"set_apart":{},"counts":{"missing":1,"changed":0,"new":0,"unreadable_before":1,"unreadable_now":0}}`
	as("POST", "/api/probe/compared", `{"order":"another",`+difference+`}`, 409)
	as("POST", "/api/probe/compared", `{"order":"`+id+`",`+strings.Replace(difference, `"files":3`, `"files":0`, 1)+`}`, 422)
	as("POST", "/api/probe/compared", `{"order":"`+id+`",`+difference+`}`, 204)
	as("POST", "/api/probe/ended", `{"order":"`+id+`","state":"done"}`, 204)
	carried := ask("GET", at, "", 200)
	assert.Equal(t, []any{1.0, 1.0}, []any{field(t, carried, "job", "job", "carried", "unchanged"), field(t, carried, "job", "job", "carried", "missing")})
	hello("")
}
