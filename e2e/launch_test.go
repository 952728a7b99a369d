package e2e

import (
	"bufio"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/e2e/browser"
	"nowthen/testscale"
)

// display starts an X11 display without a monitor and returns its name.
func display(t *testing.T) string {
	t.Helper()
	r, w, err := os.Pipe()
	require.NoError(t, err)
	defer r.Close()
	// By itself a display begins again when its last program leaves, and turns away one that comes just then.
	cmd := exec.Command("Xvfb", "-noreset", "-displayfd", "3", "-screen", "0", "1280x800x24", "-nolisten", "tcp")
	cmd.ExtraFiles = []*os.File{w}
	require.NoError(t, cmd.Start())
	w.Close()
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	number, err := bufio.NewReader(r).ReadString('\n')
	require.NoError(t, err, "Xvfb did not say its number")
	return ":" + strings.TrimSpace(number)
}

type launched struct {
	Runs []struct {
		Value  float64 `json:"value"`
		U      float64 `json:"u"`
		Warmth string  `json:"warmth"`
		Cold   bool    `json:"cold_checked"`
		Ended  string  `json:"ended"`
	} `json:"runs"`
}

// launches runs the probe's own program as a process.
func launches(t *testing.T, env string, args ...string) (launched, error) {
	t.Helper()
	probe := filepath.Join(t.TempDir(), "nowthen-probe")
	out, err := exec.Command("go", "build", "-o", probe, "../cmd/nowthen-probe").CombinedOutput()
	require.NoError(t, err, string(out))
	cmd := exec.Command(probe, append([]string{"launch", "--json", "--give-up", "2m"}, args...)...)
	cmd.Env = append(os.Environ(), env)
	var said strings.Builder
	cmd.Stderr = &said
	data, err := cmd.Output()
	if err != nil {
		err = fmt.Errorf("%w: %s", err, said.String())
	}
	var l launched
	require.NoError(t, json.Unmarshal(data, &l), "one JSON value on standard output, whatever happens; it said: %s",
		said.String())
	return l, err
}

// A browser is timed to its first window, and to a window by its title, and is gone afterwards.
func TestALaunchToTheFirstWindow(t *testing.T) {
	testscale.Rare(t)
	on := "DISPLAY=" + display(t)
	profile := t.TempDir()
	path, err := browser.Path()
	require.NoError(t, err)
	shop := []string{"--", path, "--no-sandbox", "--no-first-run", "--disable-dev-shm-usage",
		"--user-data-dir=" + profile, "data:text/html,<title>Ledger of the shop</title>"}
	began := time.Now()
	first, err := launches(t, on, append([]string{"--until", "window", "--runs", "2"}, shop...)...)
	require.NoError(t, err)
	require.Len(t, first.Runs, 2)
	for _, r := range first.Runs {
		assert.Greater(t, r.Value, 0.05, "no browser shows a window at once")
		assert.Less(t, r.Value, time.Since(began).Seconds())
		assert.InDelta(t, 0.0032, r.U, 0.001)
		assert.Equal(t, "warm", r.Warmth)
		assert.Equal(t, "when asked", r.Ended)
	}
	titled, err := launches(t, on, append([]string{"--until", "window:Ledger of"}, shop...)...)
	require.NoError(t, err)
	require.Len(t, titled.Runs, 1)
	none, err := launches(t, on, append([]string{"--until", "window:Nobody's", "--give-up", "3s"}, shop...)...)
	require.Error(t, err)
	assert.Empty(t, none.Runs)

	left, err := os.ReadDir("/proc")
	require.NoError(t, err)
	for _, e := range left {
		if command, err := os.ReadFile("/proc/" + e.Name() + "/cmdline"); err == nil {
			assert.NotContains(t, string(command), profile, "nothing of the browser is left")
		}
	}
}

// What the probe says agrees with the clock that the program itself writes down.
func TestALaunchByAnOutsideClock(t *testing.T) {
	log := filepath.Join(t.TempDir(), "clock")
	l, err := launches(t, "LC_ALL=C", "--until", "line:ready", "--runs", "3", "--", "sh", "-c",
		`date +%s.%N >>"$1"; sleep 0.8; date +%s.%N >>"$1"; echo ready; exec sleep 60`, "sh", log)
	require.NoError(t, err)
	data, err := os.ReadFile(log)
	require.NoError(t, err)
	stamps := strings.Fields(string(data))
	require.Len(t, stamps, 6)
	for i, r := range l.Runs {
		from, err := strconv.ParseFloat(stamps[2*i], 64)
		require.NoError(t, err)
		to, err := strconv.ParseFloat(stamps[2*i+1], 64)
		require.NoError(t, err)
		outside := to - from
		assert.InDelta(t, outside, r.Value, 3*(0.05*outside+0.05),
			"three times what holds on a machine that does nothing else")
	}
}
