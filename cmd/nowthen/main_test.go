package main

import (
	"bytes"
	"context"
	"encoding/json"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access"
	"nowthen/access/slow"
	"nowthen/bench/demo"
	"nowthen/bench/desk"
	"nowthen/bench/visit"
	"nowthen/store"
)

const visitFile = "../../core/jobfile/testdata/visit.nowthen.json"

func nowthen(t *testing.T, args ...string) (code int, stdout, stderr string) {
	t.Helper()
	var out, err bytes.Buffer
	code = run(t.Context(), args, &out, &err)
	return code, out.String(), err.String()
}

func TestCompareJSONKeepsTheContract(t *testing.T) {
	code, out, errs := nowthen(t, "compare", visitFile, "--json")
	require.Equal(t, 0, code, errs)
	assert.Empty(t, errs)
	var ledger map[string]any
	require.NoError(t, json.Unmarshal([]byte(out), &ledger))
	for _, key := range []string{"format", "version", "then", "with", "headline", "lines", "groups", "savings",
		"findings"} {
		assert.Contains(t, ledger, key)
	}
	assert.Equal(t, "nowthen-ledger", ledger["format"])
	assert.Equal(t, 2.0, ledger["version"])
	lines := ledger["lines"].([]any)
	require.Len(t, lines, 3)
	keys := []string{"test", "verdict", "holds_after_all", "equal", "indicative", "felt", "factor", "low", "high", "p",
		"dof", "then", "with", "saves",
		"drive_share", "drive_share_low", "drive_share_high", "floor", "further_runs", "further_runs_on", "keeps_up", "phases",
		"findings"}
	for _, l := range lines {
		var have []string
		for k := range l.(map[string]any) {
			have = append(have, k)
		}
		assert.ElementsMatch(t, keys, have)
	}
	read := lines[1].(map[string]any)
	assert.Equal(t, "not-measured", read["verdict"])
	assert.Nil(t, read["factor"], "what does not exist is null")
	assert.Nil(t, read["with"])
	then := read["then"].(map[string]any)
	assert.Len(t, then, 13)
	for key, want := range map[string]float64{"n": 1, "sittings": 1, "centre": 108.2, "min": 108.2, "max": 108.2,
		"within": 0.0004, "between": 0.015 * 0.015, "instrument": 0.01 / 108.2 * 0.01 / 108.2} {
		assert.InEpsilon(t, want, then[key], 1e-9, key)
	}
	for _, key := range []string{"first", "settled", "rates"} {
		assert.Contains(t, then, key)
		assert.Nil(t, then[key], key)
	}
	groups := ledger["groups"].(map[string]any)
	assert.Contains(t, groups, "drive")
	assert.Contains(t, groups, "waiting")
	assert.Nil(t, ledger["savings"], "no line counts")

	code, out, errs = nowthen(t, "compare", measuredTwice(t), "--json")
	require.Equal(t, 0, code, errs)
	require.NoError(t, json.Unmarshal([]byte(out), &ledger))
	for _, key := range []string{"seconds_per_week", "low", "high", "clear", "hours_per_year", "left_out",
		"same_occasion"} {
		assert.Contains(t, ledger["savings"], key)
	}
	assert.Equal(t, "t-start", ledger["headline"])
	finding := ledger["findings"].([]any)[0].(map[string]any)
	for _, key := range []string{"rule", "effect", "then", "with", "lines", "runs", "remedy", "minutes"} {
		assert.Contains(t, finding, key)
	}
}

// measuredTwice is the visit's file with a start on either side that was split alike.
func measuredTwice(t *testing.T) string {
	t.Helper()
	data, err := os.ReadFile(visitFile)
	require.NoError(t, err)
	data = bytes.Replace(data, []byte(`"value": 36, "method": "stopwatch", "set_aside": "someone at the door"`),
		[]byte(`"value": 36, "method": "stopwatch", "phases": {"login": 16, "typing": 8, "desktop": 20}`), 1)
	path := filepath.Join(t.TempDir(), "x.nowthen.json")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	return path
}

func TestCompareChoosesSetups(t *testing.T) {
	code, out, _ := nowthen(t, "compare", visitFile, "--then", "now", "--with", "then", "--json")
	require.Equal(t, 0, code)
	assert.Contains(t, out, `"then": "now"`)
	code, out, errs := nowthen(t, "compare", visitFile, "--with", "moon")
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
	assert.Contains(t, errs, `no setup has the id "moon"`)
	for _, args := range [][]string{{"--with", "then"}, {"--then", "now"}, {"--intended", "weather"}} {
		code, out, errs = nowthen(t, append([]string{"compare", visitFile}, args...)...)
		assert.Equal(t, 2, code, args)
		assert.Empty(t, out)
		assert.NotEmpty(t, errs)
	}
}

func TestCompareNamesSidesBySittings(t *testing.T) {
	data, err := os.ReadFile("testdata/checkup.nowthen.json")
	require.NoError(t, err)
	for name, c := range map[string]struct{ args, then, with string }{
		"a check-up's first and last": {"", "s1", "s3"},
		"two sittings":                {"--then s1 --with s2", "s1", "s2"},
		"by the setup":                {"--then now/s2 --with s3", "now/s2", "s3"},
		"a question": {"--then s1 --with now/question:plugged\u00a0in", "s1",
			"now/question:plugged in"},
	} {
		t.Run(name, func(t *testing.T) {
			path := filepath.Join(t.TempDir(), "x.nowthen.json")
			require.NoError(t, os.WriteFile(path, data, 0o600))
			args := strings.Split(c.args, " ")
			if c.args == "" {
				args = nil
			}
			for i := range args {
				args[i] = strings.ReplaceAll(args[i], "\u00a0", " ")
			}
			code, out, errs := nowthen(t, append([]string{"compare", path, "--json"}, args...)...)
			require.Equal(t, 0, code, errs)
			var l struct {
				Then, With string
				Lines      []struct {
					Verdict    string
					Then, With *struct{ N int }
				}
			}
			require.NoError(t, json.Unmarshal([]byte(out), &l))
			assert.Equal(t, [2]string{c.then, c.with}, [2]string{l.Then, l.With})
			assert.NotNil(t, l.Lines[0].Then)
			assert.NotNil(t, l.Lines[0].With)
		})
	}
	code, _, errs := nowthen(t, "compare", "testdata/checkup.nowthen.json", "--with", "now/s9")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, `"now/s9"`)
}

// Without a setup that goes back the newest trial is compared.
func TestCompareTakesTheNewestTrial(t *testing.T) {
	data, err := os.ReadFile(visitFile)
	require.NoError(t, err)
	data = bytes.Replace(data, []byte(`{"id": "now", "role": "now"`),
		[]byte(`{"id": "first", "role": "trial", "computer": "c1", "drive": "d2", "replaces": "d1"}, {"id": "now", "role": "trial"`), 1)
	path := filepath.Join(t.TempDir(), "x.nowthen.json")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	code, out, errs := nowthen(t, "compare", path, "--json")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, `"with": "now"`)
}

func TestCompareWithAnIntendedDifference(t *testing.T) {
	data, err := os.ReadFile(measuredTwice(t))
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "x.nowthen.json")
	require.NoError(t, os.WriteFile(path,
		bytes.Replace(data, []byte(`"conditions": {}}`),
			[]byte(`"conditions": {"power": "battery", "power_mode": "normal"}}`), 1), 0o600))
	code, out, errs := nowthen(t, "compare", path, "--intended", "power")
	require.Equal(t, 0, code, errs)
	assert.True(t, strings.HasPrefix(out, "The power supply or power mode differed: mains against battery\n"), out)
	code, out, errs = nowthen(t, "compare", path, "--intended", "power", "--json")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, `"intended": "power"`)
}

func TestCompareAsText(t *testing.T) {
	code, out, errs := nowthen(t, "compare", measuredTwice(t))
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "Cold start to desktop")
	assert.Contains(t, out, "2.6 times as fast (measured only once: indicative)")
	assert.Contains(t, out, "61 % less waiting, saves 56 s each time")
	assert.Contains(t, out, "not measured on the second side")
}

func TestRefusedFiles(t *testing.T) {
	dir := t.TempDir()
	data, err := os.ReadFile(visitFile)
	require.NoError(t, err)
	half, wrong := filepath.Join(dir, "half.json"), filepath.Join(dir, "wrong.json")
	require.NoError(t, os.WriteFile(half, data[:900], 0o600))
	bad := strings.Replace(string(data), `"value": 108.2`, `"value": -1`, 1)
	require.NoError(t, os.WriteFile(wrong, []byte(strings.Replace(bad, `"setup": "now"`, `"setup": "moon"`, 1)), 0o600))
	for path, faults := range map[string]int{half: 1, wrong: 2, filepath.Join(dir, "gone"): 1, dir: 1} {
		code, out, errs := nowthen(t, "compare", path, "--json")
		assert.Equal(t, 2, code, path)
		assert.Empty(t, out, "nothing on standard output")
		lines := strings.Split(strings.TrimSpace(errs), "\n")
		assert.GreaterOrEqual(t, len(lines), faults, errs)
		for _, l := range lines {
			assert.True(t, strings.HasPrefix(l, path+": "), l)
		}
	}
}

func TestExportAndImport(t *testing.T) {
	from, to := t.TempDir(), t.TempDir()
	s, done, err := openStore(from)
	require.NoError(t, err)
	require.NoError(t, demo.Fill(context.Background(), s, ""))
	board, err := desk.New(s, desk.Options{}).Visits.Board(t.Context(), visit.Ask{State: store.AllJobs})
	require.NoError(t, err)
	number := board.Cards[0].Number
	done()
	file := filepath.Join(t.TempDir(), "x.nowthen.json")
	code, _, errs := nowthen(t, "export", number, "--data", from, "-o", file)
	require.Equal(t, 0, code, errs)
	code, out, errs := nowthen(t, "import", file, "--data", to)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, number)
	code, again, errs := nowthen(t, "export", number, "--data", to)
	require.Equal(t, 0, code, errs)
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, string(data), again)
	code, out, errs = nowthen(t, "forecast", number, "--data", to, "--json")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, `"format": "nowthen-forecast"`)
	code, out, errs = nowthen(t, "forecast", file, "--data", to, "--new", "nvme")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "not known yet")
	code, out, errs = nowthen(t, "forecast", "--past", "--data", from, "--json")
	require.Equal(t, 0, code, errs)
	assert.Equal(t, "[]\n", out, "one finished job can't be forecast from others")
	for _, wrong := range []string{"1999-0001", "testdata/checkup.nowthen.json"} {
		code, out, errs = nowthen(t, "forecast", wrong, "--data", to, "--json")
		assert.Equal(t, 2, code, wrong)
		assert.Empty(t, out)
		assert.NotEmpty(t, errs)
	}
	code, _, errs = nowthen(t, "export", "1999-0001", "--data", to)
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "no job")
	code, out, _ = nowthen(t, "import", "nowhere.json", "--data", to)
	assert.Equal(t, 2, code)
	assert.Empty(t, out)
}

func TestServeStaysOnThisComputer(t *testing.T) {
	code, _, errs := nowthen(t, "serve", "--listen", "0.0.0.0:7117", "--data", t.TempDir())
	assert.Equal(t, 1, code)
	assert.Contains(t, errs, "shop password")
}

// Beside a server that measures, a job is taken out and in without touching its test
// files; a server that starts removes what another has left.
func TestOnlyServingSweeps(t *testing.T) {
	data, measured := t.TempDir(), t.TempDir()
	s, done, err := openStore(data)
	require.NoError(t, err)
	require.NoError(t, demo.Fill(context.Background(), s, ""))
	board, err := desk.New(s, desk.Options{}).Visits.Board(t.Context(), visit.Ask{State: store.AllJobs})
	require.NoError(t, err)
	require.NoError(t, s.NoteFolder(t.Context(), measured))
	done()
	left := filepath.Join(measured, "nowthen-drive-test-0123456789abcdef.tmp")
	require.NoError(t, os.WriteFile(left,
		[]byte("Now Then drive test file. It holds nothing of yours and can be deleted.\n"+strings.Repeat("x",
			100)), 0o600))

	file := filepath.Join(t.TempDir(), "x.nowthen.json")
	code, _, errs := nowthen(t, "export", board.Cards[0].Number, "--data", data, "-o", file)
	require.Equal(t, 0, code, errs)
	code, _, errs = nowthen(t, "import", file, "--data", data)
	require.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "--as update")
	code, out, errs := nowthen(t, "import", file, "--data", data, "--as", "update")
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, "is up to date")
	code, _, errs = nowthen(t, "import", file, "--data", data, "--as", "copy")
	require.Equal(t, 0, code, errs)
	require.FileExists(t, left)

	ctx, stop := context.WithCancel(t.Context())
	said := make(chan struct{})
	ended := make(chan int, 1)
	go func() {
		ended <- run(ctx, []string{"serve", "--listen", "127.0.0.1:0", "--data", data}, &firstWords{said: said},
			&bytes.Buffer{})
	}()
	<-said
	assert.NoFileExists(t, left)
	// Beside the server the same continues.
	code, _, errs = nowthen(t, "export", board.Cards[0].Number, "--data", data)
	assert.Equal(t, 0, code, errs)
	code, out, errs = nowthen(t, "backup", filepath.Join(t.TempDir(), "b.zip"), "--data", data)
	assert.Equal(t, 0, code, errs)
	assert.Contains(t, out, "Backed up")
	stop()
	assert.Equal(t, 0, <-ended)
	for path, want := range map[string]os.FileMode{data: 0o700, filepath.Join(data, "nowthen.db"): 0o600,
		filepath.Join(data, "serving.lock"): 0o600} {
		info, err := os.Stat(path)
		require.NoError(t, err)
		assert.Equal(t, want, info.Mode().Perm(), path)
	}
}

func TestBackupAndRestore(t *testing.T) {
	data, to := t.TempDir(), filepath.Join(t.TempDir(), "new")
	s, done, err := openStore(data)
	require.NoError(t, err)
	require.NoError(t, demo.Fill(context.Background(), s, filepath.Join(data, "clips")))
	done()
	out := filepath.Join(t.TempDir(), "b.zip")
	code, said, errs := nowthen(t, "backup", out, "--data", data)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, said, "2 clips")
	code, said, errs = nowthen(t, "restore", out, "--data", to)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, said, "2 clips")
	code, _, errs = nowthen(t, "restore", out, "--data", to)
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "not empty")
	code, _, errs = nowthen(t, "backup", out, "--data", filepath.Join(t.TempDir(), "none"))
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "there is no bench")
}

func TestOneFolderIsServedOnce(t *testing.T) {
	data := t.TempDir()
	ctx, stop := context.WithCancel(t.Context())
	said := make(chan struct{})
	ended := make(chan int, 1)
	go func() {
		ended <- run(ctx, []string{"serve", "--listen", "127.0.0.1:0", "--data", data}, &firstWords{said: said},
			&bytes.Buffer{})
	}()
	<-said
	code, _, errs := nowthen(t, "serve", "--listen", "127.0.0.1:0", "--data", data)
	assert.Equal(t, exitFailed, code)
	assert.Contains(t, errs, "another nowthen serves")
	stop()
	assert.Equal(t, 0, <-ended)
}

// firstWords says when something is said first.
type firstWords struct {
	said chan struct{}
	once sync.Once
}

func (w *firstWords) Write(p []byte) (int, error) {
	w.once.Do(func() { close(w.said) })
	return len(p), nil
}

func TestPasswdOpensTheWay(t *testing.T) {
	data := t.TempDir()
	var out, errs bytes.Buffer
	for password, want := range map[string]int{"short\n": exitFailed, "": exitFailed} {
		cmd := passwdCommand()
		cmd.SetArgs([]string{"--data", data})
		cmd.SetIn(strings.NewReader(password))
		cmd.SetOut(&out)
		cmd.SetErr(&errs)
		got := 0
		if cmd.ExecuteContext(t.Context()) != nil {
			got = exitFailed
		}
		assert.Equal(t, want, got, password)
	}
	cmd := passwdCommand()
	cmd.SetArgs([]string{"--data", data})
	cmd.SetIn(strings.NewReader("a long shop password\n"))
	cmd.SetErr(&errs)
	require.NoError(t, cmd.ExecuteContext(t.Context()))
	s, done, err := openStore(data)
	require.NoError(t, err)
	defer done()
	require.NoError(t, access.New(s).Verify(t.Context(), "a long shop password", slow.Client{Key: "here"}))
}
