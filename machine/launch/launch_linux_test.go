package launch

import (
	"context"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// shell is a launcher of a shell's words.
func shell(t *testing.T, sign string, o Options, script string, args ...string) *Launcher {
	t.Helper()
	s, err := ParseSign(sign)
	require.NoError(t, err)
	o.Program, o.Args, o.Until = "sh", append([]string{"-c", script, "sh"}, args...), s
	l, err := New(o)
	require.NoError(t, err)
	return l
}

// lives reports whether a process of which a script wrote the number lives.
func lives(t *testing.T, file string) bool {
	t.Helper()
	data, err := os.ReadFile(file)
	require.NoError(t, err)
	status, err := os.ReadFile("/proc/" + strings.TrimSpace(string(data)) + "/stat")
	return err == nil && !strings.Contains(string(status), ") Z ")
}

// Every sign is seen, at the time that the program takes for it, and everything that was
// started is ended. How busy this machine is does not matter: a launch never seems shorter than it
// was.
func TestSigns(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	port := strconv.Itoa(listener.Addr().(*net.TCPAddr).Port)
	require.NoError(t, listener.Close())
	for _, tt := range []struct {
		name, sign, script string
		takes              float64
		ended              string
	}{
		{"it ends", "exit", "sleep 0.4", 0.4, ByItself},
		{"a line", "line:ready", "echo begin; sleep 0.4; echo now ready to work; sleep 60", 0.4, WhenAsked},
		{"a line among the errors", "line:ready", "sleep 0.4; echo ready >&2; exec sleep 60", 0.4, WhenAsked},
		{"a line without its end", "line:ready", "sleep 0.4; printf 'ready> '; exec sleep 60", 0.4, WhenAsked},
		{"a line of many", "line:row 20000 ",
			"sleep 0.4; i=0; while [ $i -lt 20001 ]; do i=$((i+1)); echo row $i of all; done; exec sleep 60", 0.4, WhenAsked},
		{"the last line", "line:done", "sleep 0.4; echo done", 0.4, ""},
		{"a file", "file:%s/made", "sleep 0.4; echo x >\"$1/made\"; exec sleep 60", 0.4, WhenAsked},
		{"a file that was there", "file:%s/there", "sleep 0.4; echo xyz >\"$1/there\"; exec sleep 60", 0.4, WhenAsked},
		{"a child of one that leaves", "file:%s/late", "(sleep 0.4; echo x >\"$1/late\"; exec sleep 60) & exit 0", 0.4,
			WhenAsked},
		{"it does not listen", "line:ready", "trap '' TERM; sleep 0.4; echo ready; while :; do sleep 1; done", 0.4,
			ByForce},
		{"quiet", "quiet", "end=$(($(date +%%s)+1)); while [ $(date +%%s) -le $end ]; do :; done; exec sleep 60", 1,
			WhenAsked},
		{"a port", "port:" + port, "sleep 0.4; exec \"$2\" -test.run TestListens -listen=" + port, 0.4, WhenAsked},
	} {
		t.Run(tt.name, func(t *testing.T) {
			t.Parallel()
			dir := t.TempDir()
			require.NoError(t, os.WriteFile(filepath.Join(dir, "there"), []byte("x"), 0o600))
			sign := strings.ReplaceAll(tt.sign, "%s", dir)
			l := shell(t, sign, Options{GiveUp: time.Minute},
				"echo $$ >\"$1/pid\"; "+strings.ReplaceAll(tt.script, "%%", "%"), dir, os.Args[0])
			r, err := l.Run(t.Context())
			require.NoError(t, err)
			assert.GreaterOrEqual(t, r.Value, tt.takes-0.11, "a clock of whole seconds, a look every tenth")
			assert.Positive(t, r.U)
			assert.Less(t, r.U, 0.05)
			assert.EqualValues(t, "warm", r.Warmth)
			switch tt.ended {
			case "": // it may just have been asked while it ended
			case WhenAsked: // or by force, where this machine was too busy to let it follow
				assert.Contains(t, []string{WhenAsked, ByForce}, r.Ended)
			default:
				assert.Equal(t, tt.ended, r.Ended)
			}
			assert.False(t, lives(t, filepath.Join(dir, "pid")))
		})
	}
}

// What ended children used counts: a script that starts one short program after another is busy.
func TestWhatEndedChildrenUsed(t *testing.T) {
	before := reaped(int32(os.Getpid()))
	require.NoError(t, exec.Command("sh", "-c", "i=0; while [ $i -lt 300000 ]; do i=$((i+1)); done").Run())
	assert.Greater(t, reaped(int32(os.Getpid())), before)
	assert.Zero(t, reaped(-1), "of nobody nothing is known")
}

// A launch that fails says why, and nothing of it is left.
func TestLaunchesThatFail(t *testing.T) {
	for _, tt := range []struct{ name, sign, script, says string }{
		{"it failed", "exit", "exit 3", "the program failed: exit status 3"},
		{"it ended before", "line:ready", "echo nearly", `the program ended before a line with "ready" came`},
		{"it failed before", "line:ready", "echo nearly; exit 4",
			`the program ended before a line with "ready" came (exit status 4)`},
		{"the sign does not come", "line:ready", "exec sleep 60", `a line with "ready" did not come within 1s`},
		{"never quiet", "quiet", "while :; do :; done", "quiet did not come within 1s; the program was ended"},
		{"a line that never ends", "line:xy", "while :; do printf aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa; done",
			"did not come within 1s"},
	} {
		t.Run(tt.name, func(t *testing.T) {
			dir := t.TempDir()
			giveUp := time.Hour // what comes is waited for, however busy this machine is
			if strings.Contains(tt.says, "within 1s") {
				giveUp = time.Second
			}
			l := shell(t, tt.sign, Options{GiveUp: giveUp}, "echo $$ >\"$1/pid\"; "+tt.script, dir)
			_, err := l.Run(t.Context())
			assert.ErrorContains(t, err, tt.says)
			assert.False(t, lives(t, filepath.Join(dir, "pid")))
		})
	}
	_, err := New(Options{Program: "no-such-program-anywhere"})
	assert.ErrorContains(t, err, "cannot be started")
	sign, err := ParseSign("window")
	require.NoError(t, err)
	t.Setenv("DISPLAY", "")
	_, err = New(Options{Program: "sh", Until: sign})
	assert.ErrorContains(t, err, "there is no X11 display here")
	t.Setenv("DISPLAY", "127.0.0.1:7411") // where nobody is
	l, err := New(Options{Program: "sh", Until: sign})
	require.NoError(t, err)
	_, err = l.Run(t.Context())
	assert.ErrorContains(t, err, "does not answer")
}

func TestAPortThatIsInUse(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer listener.Close()
	dir := t.TempDir()
	l := shell(t, fmt.Sprint("port:", listener.Addr().(*net.TCPAddr).Port), Options{}, "touch \"$1/started\"", dir)
	_, err = l.Run(t.Context())
	assert.ErrorContains(t, err, "already")
	assert.NoFileExists(t, filepath.Join(dir, "started"))
}

func TestALaunchIsStopped(t *testing.T) {
	dir := t.TempDir()
	ctx, cancel := context.WithCancel(t.Context())
	go func() {
		defer cancel()
		assert.Eventually(t, func() bool { data, _ := os.ReadFile(filepath.Join(dir, "pid")); return len(data) > 0 },
			time.Hour, time.Millisecond)
	}()
	_, err := shell(t, "exit", Options{}, "(sleep 60) & echo $! >\"$1/child\"; echo $$ >\"$1/pid\"; wait", dir).Run(ctx)
	assert.ErrorIs(t, err, context.Canceled)
	assert.False(t, lives(t, filepath.Join(dir, "pid")))
	assert.False(t, lives(t, filepath.Join(dir, "child")), "nor what it had started")
}

// Who starts with nothing of its surroundings, and outlives its parent, is ended too.
func TestAChildWithoutAMark(t *testing.T) {
	dir := t.TempDir()
	r, err := shell(t, "line:ready", Options{},
		`env -i setsid sleep 60 & echo $! >"$1/child"; sleep 0.5; echo ready; exit 0`, dir).Run(t.Context())
	require.NoError(t, err)
	assert.NotEqual(t, ByItself, r.Ended)
	assert.False(t, lives(t, filepath.Join(dir, "child")))
}

// What others started is left alone, also where it is the same program.
func TestOthersAreLeftAlone(t *testing.T) {
	dir := t.TempDir()
	other := shell(t, "line:there", Options{}, "echo $$ >\"$1/pid\"; echo there; exec sleep 60", dir)
	ctx, cancel := context.WithCancel(t.Context())
	defer cancel()
	other.o.Until.of = "never"
	over := make(chan struct{})
	go func() { defer close(over); _, _ = other.Run(ctx) }()
	require.Eventually(t, func() bool { data, _ := os.ReadFile(filepath.Join(dir, "pid")); return len(data) > 0 },
		time.Hour, 10*time.Millisecond)
	_, err := shell(t, "line:mine", Options{}, "echo mine; exec sleep 60").Run(t.Context())
	require.NoError(t, err)
	assert.True(t, lives(t, filepath.Join(dir, "pid")))
	cancel()
	<-over
	assert.False(t, lives(t, filepath.Join(dir, "pid")))
}
