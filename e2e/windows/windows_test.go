//go:build windowsbench

// Package windows starts the bench as it is built for Windows, under Wine, and does a job over
// HTTP. The script wine.sh builds
// it and calls this; by itself it is left out of the other tests.
package windows

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"io"
	"io/fs"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// patience is how long the program may take for something under Wine on a busy machine.
const patience = 2 * time.Minute

// bench is the running program.
type bench struct {
	t    *testing.T
	base string
	cmd  *exec.Cmd
}

// onWindows is a path of this computer as Wine's programs name it.
func onWindows(path string) string { return `Z:` + strings.ReplaceAll(path, "/", `\`) }

// started starts "nowthen demo" over a folder of its own and waits until it says where it is.
func started(t *testing.T, arguments ...string) *bench {
	t.Helper()
	program := os.Getenv("NOWTHEN_EXE")
	require.NotEmpty(t, program, "NOWTHEN_EXE names the program")
	data := onWindows(filepath.Join(t.TempDir(), "data"))
	cmd := exec.Command("wine", append([]string{program, "demo", "--listen", "127.0.0.1:0", "--data", data},
		arguments...)...)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	var errs bytes.Buffer
	cmd.Stderr = &errs
	require.NoError(t, cmd.Start())
	t.Cleanup(func() {
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
	})
	address := make(chan string, 1)
	go func() {
		for lines := bufio.NewScanner(out); lines.Scan(); {
			if _, rest, found := strings.Cut(lines.Text(), "http://"); found {
				at, _, _ := strings.Cut(rest, "/")
				address <- at
			}
		}
	}()
	select {
	case at := <-address:
		return &bench{t, "http://" + at, cmd}
	case <-time.After(patience):
		t.Fatalf("it does not say where it is: %s", errs.String())
		return nil
	}
}

// ask sends a request and decodes the answer.
func (b *bench) ask(method, path string, body, answer any) []byte {
	b.t.Helper()
	var in bytes.Buffer
	if body != nil {
		require.NoError(b.t, json.NewEncoder(&in).Encode(body))
	}
	req, err := http.NewRequestWithContext(b.t.Context(), method, b.base+path, &in)
	require.NoError(b.t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(b.t, err)
	defer res.Body.Close()
	all, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	require.Less(b.t, res.StatusCode, 300, "%s %s: %s", method, path, all)
	if answer != nil {
		require.NoError(b.t, json.Unmarshal(all, answer))
	}
	return all
}

type object = map[string]any

func TestAJobOnTheWindowsBench(t *testing.T) {
	b := started(t)
	require.Eventually(t, func() bool {
		var board struct{ Cards []struct{ Customer string } }
		b.ask("GET", "/api/jobs?state=all", nil, &board)
		return slices.ContainsFunc(board.Cards, func(c struct{ Customer string }) bool {
			return c.Customer == "Quayside Ferry Office" // whose computer joins once all is up
		})
	}, patience, 100*time.Millisecond, "the demonstration is there")
	assert.Contains(t, string(b.ask("GET", "/", nil, nil)), `<div id="root">`, "and so are its pages")

	var view struct{ ID string }
	b.ask("POST", "/api/jobs", object{"customer": object{"name": "Otter Lane Pottery"}, "simulated": "laptop"}, &view)
	at := "/api/jobs/" + view.ID
	measure := func(setup, sitting string, starts int) {
		b.ask("POST", at+"/sittings",
			object{"setup": setup, "conditions": object{"power": "mains", "busy": []string{}}}, nil)
		for range starts {
			b.ask("POST", at+"/perform", object{"test": "t-start", "sitting": sitting}, nil)
		}
		b.ask("POST", at+"/measuring", object{"sitting": sitting}, nil)
		require.Eventually(t, func() bool {
			var m struct{ State string }
			b.ask("GET", at+"/measuring", nil, &m)
			return m.State == "done"
		}, patience, 100*time.Millisecond)
	}
	measure("then", "s1", 3)
	b.ask("POST", at+"/gates", object{"gate": "old-drive-out", "why": "its backup lies with the customer"}, nil)
	measure("now", "s2", 4)
	var ledger struct {
		Rows []struct {
			Line struct{ Test, Verdict string }
		}
	}
	b.ask("GET", at+"/ledger", nil, &ledger)
	verdicts := map[string]string{}
	for _, l := range ledger.Rows {
		verdicts[l.Line.Test] = l.Line.Verdict
	}
	assert.Equal(t, "faster", verdicts["t-start"])
	assert.Equal(t, "faster", verdicts["t-long-read"], verdicts)
	b.ask("POST", at+"/report", nil, nil)
	pdf := b.ask("GET", at+"/report/file?form=pdf", nil, nil)
	assert.True(t, bytes.HasPrefix(pdf, []byte("%PDF-")))
}

// A stick that this bench prepares: its start file for Windows, double-clicked, brings the computer to the bench, and one
// press admits it.
func TestAStickOnWindows(t *testing.T) {
	probes := t.TempDir()
	for from, to := range map[string]string{os.Getenv("NOWTHEN_PROBE_EXE"): "nowthen-probe-windows-amd64.exe",
		"../../scripts/stick/start-windows.cmd": "start-windows.cmd"} {
		body, err := os.ReadFile(from)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(probes, to), body, 0o700))
	}
	b := started(t, "--joined", "", "--probes", onWindows(probes))
	file := b.ask("POST", "/api/sticks", nil, nil)
	z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
	require.NoError(t, err)
	stick := t.TempDir()
	require.NoError(t, os.CopyFS(stick, z))

	cmd := exec.Command("wine", "cmd", "/c", onWindows(filepath.Join(stick, "nowthen", "start-windows.cmd")))
	in, err := cmd.StdinPipe() // nobody presses a key
	require.NoError(t, err)
	said, err := cmd.StdoutPipe()
	require.NoError(t, err)
	cmd.Stderr = cmd.Stdout
	began := time.Now()
	require.NoError(t, cmd.Start())
	ended := make(chan bool)
	digits, joined := make(chan string, 1), make(chan bool, 1)
	go func() {
		for lines := bufio.NewScanner(said); lines.Scan(); {
			t.Log(lines.Text())
			if _, rest, ok := strings.Cut(lines.Text(), ">>>"); ok {
				shown, _, _ := strings.Cut(rest, "<<<")
				digits <- strings.TrimSpace(shown)
			}
			if strings.Contains(lines.Text(), "Joined job") {
				joined <- true
			}
		}
		close(ended)
	}()
	var shown string
	select {
	case shown = <-digits:
	case <-time.After(patience):
		t.Fatal("it shows no digits")
	}
	t.Logf("from the start file to the bench: %.1f s", time.Since(began).Seconds())
	var offers []struct{ ID, Digits string }
	b.ask("GET", "/api/offers", nil, &offers)
	require.Len(t, offers, 1)
	assert.Equal(t, shown, offers[0].Digits)
	var view struct{ ID string }
	b.ask("POST", "/api/jobs", object{"customer": object{"name": "Otter Lane"}, "old_drive": object{"kind": "hdd"}}, &view)
	b.ask("POST", "/api/offers/"+offers[0].ID+"/admit", object{"job": view.ID}, nil)
	select {
	case <-joined:
	case <-time.After(patience):
		t.Fatal("it does not join")
	}
	var list []struct {
		ID   string
		Away bool
	}
	b.ask("GET", "/api/jobs/"+view.ID+"/probes", nil, &list)
	require.Len(t, list, 1)
	assert.False(t, list[0].Away)
	var kept []string
	require.NoError(t, filepath.WalkDir(stick, func(path string, _ fs.DirEntry, err error) error {
		kept = append(kept, filepath.Base(path))
		return err
	}))
	assert.Len(t, kept, 6, "nothing is written to the stick: %v", kept)
	b.ask("DELETE", "/api/jobs/"+view.ID+"/probes/"+list[0].ID, nil, nil)
	require.NoError(t, in.Close()) // its window waits for a key at the end
	select {
	case <-ended:
	case <-time.After(patience):
		t.Fatal("it does not leave")
	}
	_ = cmd.Wait()
}
