package e2e

import (
	"archive/zip"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/target"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// probesFolder is a folder as beside a packaged bench: the probe for this computer and the start files.
func probesFolder(t *testing.T) string {
	t.Helper()
	dir := t.TempDir()
	built, err := probeProgram()
	require.NoError(t, err)
	copyFile(t, built, filepath.Join(dir, "nowthen-probe-"+runtime.GOOS+"-"+runtime.GOARCH))
	for _, name := range []string{"start-linux.sh", "start-mac.command", "start-windows.cmd"} {
		copyFile(t, filepath.Join("../scripts/stick", name), filepath.Join(dir, name))
	}
	return dir
}

func copyFile(t *testing.T, from, to string) {
	t.Helper()
	body, err := os.ReadFile(from)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(to, body, 0o700))
}

// unpack unpacks a stick's zip as onto a stick that is then write-protected, and returns its folder.
func unpack(t *testing.T, file string) string {
	t.Helper()
	dir := t.TempDir()
	z, err := zip.OpenReader(file)
	require.NoError(t, err)
	defer z.Close()
	for _, f := range z.File {
		to := filepath.Join(dir, f.Name)
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o700))
		from, err := f.Open()
		require.NoError(t, err)
		body, err := io.ReadAll(from)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(to, body, f.Mode()))
	}
	return filepath.Join(dir, "nowthen")
}

// startsFrom runs the start file of a stick on a computer whose user has that folder.
func startsFrom(t *testing.T, stick, home string, args ...string) *joinedProbe {
	t.Helper()
	p := &joinedProbe{t: t, cmd: exec.Command("sh", append([]string{filepath.Join(stick, "start-linux.sh")}, args...)...)}
	p.cmd.Env = append(os.Environ(), "HOME="+home, "XDG_CONFIG_HOME="+filepath.Join(home, "config"))
	p.cmd.Stderr = p
	require.NoError(t, p.cmd.Start())
	t.Cleanup(p.kill)
	return p
}

// digits are those that a probe's screen shows.
func (p *page) digits(of *joinedProbe) string {
	p.t.Helper()
	shown := ""
	p.until("the digits on the probe's screen", func() bool {
		_, rest, ok := strings.Cut(of.said(), ">>>")
		if ok {
			shown = strings.TrimSpace(strings.Split(rest, "<<<")[0])
		}
		return shown != ""
	})
	return shown
}

// A shop prepares a stick. A computer is started from it without a key being pressed, and is admitted with one press: to
// a new job with everything filled in, or to one that is there.
func TestAComputerJoinsByStick(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--probes", probesFolder(t))
	p := open(t, s.base, 1280, 800)
	downloads := t.TempDir()
	tab, err := chromedp.Call(p.ctx, target.GetTargetInfo, target.GetTargetInfoParams{})
	require.NoError(t, err)
	_, err = chromedp.CallBrowser(p.ctx, browser.SetDownloadBehavior, browser.SetDownloadBehaviorParams{
		Behavior: browser.SetDownloadBehaviorBehaviorAllow, DownloadPath: downloads, BrowserContextID: tab.TargetInfo.BrowserContextID})
	require.NoError(t, err)
	p.goTo("/settings")
	p.press("Prepare a stick")
	p.see("Unpack nowthen-stick.zip onto a USB stick")
	p.see("never")
	file := filepath.Join(downloads, "nowthen-stick.zip")
	p.until("the stick's zip", func() bool { _, err := os.Stat(file); return err == nil })
	p.accessible()
	stick := unpack(t, file)
	before := listed(t, stick)

	p.goTo("/")
	home := t.TempDir()
	began := time.Now()
	pr := startsFrom(t, stick, home, "--stick", filepath.Join(stick, "nowthen-stick.json"), "--sim", "reception", "--pace", "0")
	digits := p.digits(pr)
	p.see(digits)
	p.see("Ostrand Front Desk 3")
	p.see("simulated")
	t.Logf("from the start file to the bench's screen: %.1f s", time.Since(began).Seconds())
	p.accessible()
	p.press("New job for " + digits)
	p.see("Ostrand Front Desk 3")
	p.see("joined")
	p.until("the probe to know its job", func() bool { return strings.Contains(pr.said(), "Joined job") })
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs", nil, &board)
	require.Len(t, board.Cards, 1)
	var v taken
	s.ask("GET", "/api/jobs/"+board.Cards[0].ID, nil, &v)
	assert.Equal(t, "Front Desk 3", v.Job.Computers[0].Model)
	assert.NotEmpty(t, v.Job.Drives[0].Serial_digest)

	// It is started again while its job runs: it is back without a press.
	pr.kill()
	pr = startsFrom(t, stick, home, "--stick", filepath.Join(stick, "nowthen-stick.json"), "--sim", "reception", "--pace", "0")
	p.until("the probe to be back", func() bool { return strings.Contains(pr.said(), "Back in job") })

	// A real computer, by the start file alone, joins a job that was opened by hand.
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]any{"name": "Salt Row"}, "old_drive": map[string]any{"kind": "hdd"}}, &v)
	p.goTo("/jobs/" + v.ID + "/then")
	p.see("Start it from the shop’s stick")
	here := startsFrom(t, stick, t.TempDir())
	digits = p.digits(here)
	p.press("Admit " + digits + " to this job")
	p.see("joined")
	var joined []struct{ Away bool }
	s.ask("GET", "/api/jobs/"+v.ID+"/probes", nil, &joined)
	require.Len(t, joined, 1)
	assert.False(t, joined[0].Away)
	assert.Equal(t, before, listed(t, stick), "nothing is written to the stick")

	// A lost stick: its key is revoked.
	p.goTo("/settings")
	p.press("Revoke")
	p.see("revoked")
	late := startsFrom(t, stick, t.TempDir(), "--stick", filepath.Join(stick, "nowthen-stick.json"), "--sim", "laptop")
	require.Error(t, late.ends())
	assert.Contains(t, late.said(), "doesn't know the key of this stick, or it was revoked")
}

// listed is what a folder holds, with sizes.
func listed(t *testing.T, dir string) (list []string) {
	t.Helper()
	require.NoError(t, filepath.WalkDir(dir, func(path string, d fs.DirEntry, err error) error {
		require.NoError(t, err)
		info, err := d.Info()
		require.NoError(t, err)
		list = append(list, fmt.Sprintf("%s %d %s", path, info.Size(), info.ModTime()))
		return nil
	}))
	return list
}
