//go:build unix

package launch

import (
	"os/exec"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A shell stands for the system's own teller: it names a window that was there before, then one of another program, a helper
// of one pixel, one without its title, and at last the one that is waited for.
func TestAWindowThatTheSystemTellsOf(t *testing.T) {
	for name, c := range map[string]struct {
		title string
		last  int // look in which it is seen
	}{
		"any":             {"", 4},
		"one by its name": {"Seed", 5},
	} {
		t.Run(name, func(t *testing.T) {
			program := exec.Command("sleep", "60")
			require.NoError(t, program.Start())
			t.Cleanup(func() { _ = program.Process.Kill(); _ = program.Wait() })
			own := strconv.Itoa(program.Process.Pid)
			const old = `[1,1,800,600,"Seed ledger"]`
			lines := []string{
				"[" + old + "]",
				"[" + old + `,[2,1,800,600,"Seed ledger"]]`,
				"[" + old + `,[3,` + own + `,1,1,"Seed ledger"]]`,
				"[]",
				`[[4,` + own + `,300,200,null]]`,
				`[[4,` + own + `,300,200,"Seed catalogue, page 1"]]`,
			}
			teller, err := tellerOf(exec.Command("sh", "-c", `for l in "$@"; do echo "$l"; sleep 0.05; done; exec sleep 60`, "sh", lines[0], lines[1], lines[2], lines[3], lines[4], lines[5]), c.title)
			require.NoError(t, err)
			defer teller.close()
			began := time.Now()
			f := newFamily(program.Process.Pid, "NO=mark")
			var at time.Time
			require.Eventually(t, func() (is bool) { at, is = teller.look(f); return is }, 20*time.Second, 5*time.Millisecond)
			assert.WithinRange(t, at, began.Add(time.Duration(c.last-1)*50*time.Millisecond), time.Now(), "not before it was told")
		})
	}
}

func TestATellerThatFails(t *testing.T) {
	for name, c := range map[string]struct{ script, says string }{
		"it ends":       {"exit 1", "it ended"},
		"it talks":      {"echo no windows here; sleep 60", "cannot be read"},
		"it says less":  {"echo '[[1,2,3]]'; sleep 60", "3 parts instead of 5"},
		"it says words": {`echo '[[1,"who",3,4,null]]'; sleep 60`, "window 1 cannot be read"},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := tellerOf(exec.Command("sh", "-c", c.script), "")
			assert.ErrorContains(t, err, c.says)
		})
	}
	_, err := tellerOf(exec.Command("there-is-no-such-program"), "")
	assert.ErrorContains(t, err, "does not tell of windows")
}

func FuzzWindowsIn(f *testing.F) {
	f.Add(`[[1,2,300,200,"a"],[2,2,300,200,null]]`)
	f.Fuzz(func(t *testing.T, line string) {
		list, err := windowsIn([]byte(line))
		if err == nil && len(list) > strings.Count(line, "[")-1 {
			t.Errorf("%d windows in %q", len(list), line)
		}
	})
}
