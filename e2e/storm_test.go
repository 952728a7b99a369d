package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/store"
	"nowthen/testscale"
)

// device continues whatever happens to the bench: what was not answered is
// sent again, with its key, until it is; and what was answered once more, as devices
// do whose network is bad.
type device struct {
	t    *testing.T
	base string
	name string
	n    int
	over *atomic.Bool // nothing new is begun any more
	done int
}

// send sends one command until it is answered, then once more. Both answers must be
// of the same status.
func (d *device) send(method, path, kind string, body []byte) (answer []byte) {
	d.n++
	key := fmt.Sprintf("%s-%d", d.name, d.n)
	for repeat, status := 0, 0; repeat < 2; {
		req, err := http.NewRequest(method, d.base+path, bytes.NewReader(body))
		if !assert.NoError(d.t, err) {
			return nil
		}
		req.Header.Set("Content-Type", kind)
		req.Header.Set("Idempotency-Key", key)
		res, err := http.DefaultClient.Do(req)
		if err == nil {
			var got []byte
			got, err = io.ReadAll(res.Body)
			_ = res.Body.Close()
			if err == nil {
				if !assert.Less(d.t, res.StatusCode, 300, "%s %s %s: %s", method, path, key, got) {
					return nil
				}
				if repeat == 1 {
					assert.Equal(d.t, status, res.StatusCode, "%s again", key)
				}
				status, answer = res.StatusCode, got
				repeat++
				continue
			}
		}
		time.Sleep(15 * time.Millisecond) // the bench is gone for the moment
	}
	return answer
}

func (d *device) command(method, path string, body any) map[string]any {
	text, err := json.Marshal(body)
	assert.NoError(d.t, err)
	var answer map[string]any
	if got := d.send(method, path, "application/json", text); got != nil {
		assert.NoError(d.t, json.Unmarshal(got, &answer))
	}
	return answer
}

// Killed twenty times while figures, presses, clips and job files come in, every one of
// them repeated with its key: nothing that was acknowledged is lost, and nothing
// occurs twice.
func TestKilledWhileEverythingComesIn(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	data := t.TempDir()
	s := serve(t, data, "serve")
	listen := strings.TrimPrefix(s.base, "http://")
	file, err := os.ReadFile("../core/jobfile/testdata/visit.nowthen.json")
	require.NoError(t, err)
	clip, err := os.ReadFile("../bench/demo/clips/now.webm")
	require.NoError(t, err)
	open := func(name string) string {
		var v struct{ ID string }
		s.ask("POST", "/api/jobs",
			map[string]any{"customer": map[string]any{"name": name},
				"old_drive": map[string]any{"kind": "sata-ssd"}}, &v)
		s.ask("POST", "/api/jobs/"+v.ID+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{}},
			nil)
		return v.ID
	}
	figures, presses, clips := open("figures"), open("presses"), open("clips")

	var over atomic.Bool
	var all sync.WaitGroup
	begin := func(name string, once func(d *device, n int)) *device {
		d := &device{t: t, base: s.base, name: name, over: &over}
		all.Go(func() {
			for n := 0; !over.Load() && !t.Failed(); n++ {
				once(d, n)
				d.done++
			}
		})
		return d
	}
	typed := begin("figure", func(d *device, n int) {
		d.command("POST", "/api/jobs/"+figures+"/runs",
			map[string]any{"test": "t-start", "sitting": "s1", "text": "61.5", "note": fmt.Sprintf("figure %d.", n),
				"sure": true})
	})
	timed := begin("timer", func(d *device, n int) {
		at := "/api/jobs/" + presses + "/timer"
		timer := d.command("PUT", at, map[string]any{"test": "t-start", "sitting": "s1"})
		for p := range 4 {
			d.command("POST", at+"/presses",
				map[string]any{"timer": timer["id"], "key": fmt.Sprintf("p%d-%d", n, p),
					"at_ms": float64(time.Now().UnixMilli()), "u_ms": 1})
			time.Sleep(2 * time.Millisecond)
		}
		d.command("POST", at+"/keep", map[string]any{"timer": timer["id"], "app_version": fmt.Sprintf("time %d.", n)})
	})
	sent := begin("clip", func(d *device, n int) {
		at := "/api/jobs/" + clips + "/clips"
		c := d.command("POST", at,
			map[string]any{"name": fmt.Sprintf("clip %d.webm", n), "type": "video/webm", "bytes": len(clip)})
		const piece = 16 << 10
		for from := 0; from < len(clip); from += piece {
			d.send("PUT", fmt.Sprintf("%s/%v/bytes?offset=%d", at, c["id"], from), "application/octet-stream",
				clip[from:min(from+piece, len(clip))])
		}
	})
	imported := begin("import", func(d *device, n int) {
		one := bytes.Replace(file, []byte(`"slow start"`), fmt.Appendf(nil, `"import %d."`, n), 1)
		d.send("POST", "/api/jobs/import", "application/json",
			bytes.Replace(one, []byte(`"2026-0147"`), fmt.Appendf(nil, `"S-%d"`, n), 1))
	})

	for n := range 20 {
		time.Sleep(time.Duration(60+23*n) * time.Millisecond)
		s.kill()
		db, err := store.Open(filepath.Join(data, "nowthen.db"), store.Options{})
		require.NoError(t, err)
		found, err := db.Integrity(t.Context())
		require.NoError(t, err)
		assert.Empty(t, found)
		require.NoError(t, db.Close())
		s = serve(t, data, "serve", "--listen", listen)
	}
	over.Store(true)
	all.Wait()
	if t.Failed() {
		return
	}
	t.Logf("%d figures, %d times, %d clips, %d files", typed.done, timed.done, sent.done, imported.done)

	var view struct {
		Job struct {
			Runs []struct {
				Note       string
				AppVersion string `json:"app_version"`
			}
		}
	}
	counted := func(list []string, what string, n int) {
		t.Helper()
		assert.Positive(t, n, what)
		assert.Len(t, list, n, "as many as were acknowledged")
		seen := map[string]int{}
		for _, s := range list {
			seen[s]++
		}
		for i := range n {
			assert.Equal(t, 1, seen[fmt.Sprintf("%s %d.", what, i)], "%s %d", what, i)
		}
	}
	s.ask("GET", "/api/jobs/"+figures, nil, &view)
	var list []string
	for _, r := range view.Job.Runs {
		list = append(list, r.Note)
	}
	counted(list, "figure", typed.done)
	view.Job.Runs, list = nil, nil
	s.ask("GET", "/api/jobs/"+presses, nil, &view)
	for _, r := range view.Job.Runs {
		list = append(list, r.AppVersion)
	}
	counted(list, "time", timed.done)
	var kept struct {
		Clips []struct {
			ID, Name        string
			Received, Bytes int64
		}
	}
	s.ask("GET", "/api/jobs/"+clips+"/clips", nil, &kept)
	list = nil
	for _, c := range kept.Clips {
		assert.Equal(t, c.Bytes, c.Received, c.Name)
		res, err := http.Get(s.base + "/api/jobs/" + clips + "/clips/" + c.ID + "/file")
		require.NoError(t, err)
		got, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		require.NoError(t, res.Body.Close())
		assert.True(t, bytes.Equal(clip, got), "%s holds what was sent", c.Name)
		list = append(list, strings.TrimSuffix(c.Name, "webm"))
	}
	counted(list, "clip", sent.done)
	list = nil
	for after := "/api/jobs?state=all&q=import&limit=100"; after != ""; {
		var board struct {
			Cards []struct{ Reason string }
		}
		res, err := http.Get(s.base + after)
		require.NoError(t, err)
		require.NoError(t, json.NewDecoder(res.Body).Decode(&board))
		require.NoError(t, res.Body.Close())
		for _, c := range board.Cards {
			list = append(list, c.Reason)
		}
		after = ""
		if next, found := strings.CutPrefix(res.Header.Get("Link"), "<"); found {
			after, _, _ = strings.Cut(next, ">")
		}
	}
	counted(list, "import", imported.done)
}
