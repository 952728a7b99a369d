// Package e2e drives the real program and its pages in headless Chromium.
package e2e

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"nowthen/e2e/browser"
)

// program is the built program; tests run it, not its parts.
var program string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "nowthen-e2e-")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "nowthen")
	if out, err := exec.Command("go", "build", "-o", program, "../cmd/nowthen").CombinedOutput(); err != nil {
		fmt.Fprintf(os.Stderr, "building the program: %s\n", out)
		os.Exit(1)
	}
	started, end, err := browser.Start(context.Background())
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	chromium = started
	code := m.Run()
	end()
	_ = os.RemoveAll(dir)
	os.Exit(code)
}

// chromium is the browser that all journeys share; each opens tabs apart from the others'.
var chromium context.Context

// demonstration is a data folder with the made-up jobs, made once.
var demonstration = sync.OnceValues(func() (string, error) {
	dir := filepath.Join(filepath.Dir(program), "demonstration")
	cmd := exec.Command(program, "demo", "--listen", "127.0.0.1:0", "--data", dir, "--joined", "", "--past", "0")
	out, err := cmd.StdoutPipe()
	if err != nil {
		return "", err
	}
	if err := cmd.Start(); err != nil {
		return "", err
	}
	// The jobs are there once it says where it can be reached.
	_, err = bufio.NewReader(out).ReadString('\n')
	_ = cmd.Process.Signal(os.Interrupt)
	go func() { _, _ = io.Copy(io.Discard, out) }()
	return dir, errors.Join(err, cmd.Wait())
})

// demo starts the program over a copy of the demonstration.
func demo(t *testing.T, args ...string) *server {
	t.Helper()
	// which is not new: no computer joins it by itself
	return serve(t, demoData(t), append([]string{"demo"}, args...)...)
}

// demoData is a copy of the demonstration's data folder.
func demoData(t *testing.T) string {
	t.Helper()
	from, err := demonstration()
	require.NoError(t, err)
	data := filepath.Join(t.TempDir(), "data")
	require.NoError(t, os.CopyFS(data, os.DirFS(from)))
	return data
}

// server is a running program.
type server struct {
	t    *testing.T
	cmd  *exec.Cmd
	base string
	data string
	errs *bytes.Buffer
}

// serve starts the program over a data folder and waits until it answers.
func serve(t *testing.T, data string, args ...string) *server {
	t.Helper()
	s := &server{t: t, data: data, errs: &bytes.Buffer{}}
	s.cmd = exec.Command(program, append([]string{args[0], "--listen", "127.0.0.1:0", "--data", data}, args[1:]...)...)
	s.cmd.Stderr = s.errs
	out, err := s.cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, s.cmd.Start())
	t.Cleanup(func() {
		if s.cmd.ProcessState == nil {
			s.stop()
		}
	})
	lines := bufio.NewScanner(out)
	require.True(t, lines.Scan(), "the program says nothing: %s", s.errs)
	_, rest, found := strings.Cut(lines.Text(), "http://")
	require.True(t, found, lines.Text())
	address, _, _ := strings.Cut(rest, "/")
	s.base = "http://" + address
	return s
}

// stop ends the program as a technician does, with Ctrl-C.
func (s *server) stop() {
	_ = s.cmd.Process.Signal(os.Interrupt)
	ended := make(chan error, 1)
	go func() { ended <- s.cmd.Wait() }()
	select {
	case err := <-ended:
		if err != nil {
			s.t.Errorf("the program ended badly: %v: %s", err, s.errs)
		}
	case <-time.After(15 * time.Second):
		_ = s.cmd.Process.Kill()
		s.t.Error("the program does not end")
	}
}

// kill ends the program without warning.
func (s *server) kill() {
	require.NoError(s.t, s.cmd.Process.Signal(syscall.SIGKILL))
	_ = s.cmd.Wait()
}

// ask sends a request and decodes the answer.
func (s *server) ask(method, path string, body, answer any) {
	s.t.Helper()
	var in bytes.Buffer
	if body != nil {
		require.NoError(s.t, json.NewEncoder(&in).Encode(body))
	}
	req, err := http.NewRequestWithContext(s.t.Context(), method, s.base+path, &in)
	require.NoError(s.t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(s.t, err)
	defer res.Body.Close()
	require.Less(s.t, res.StatusCode, 300, "%s %s", method, path)
	if answer != nil {
		require.NoError(s.t, json.NewDecoder(res.Body).Decode(answer))
	}
}

// page is a browser's tab on the bench.
type page struct {
	t    *testing.T
	ctx  context.Context
	base string

	mu     sync.Mutex
	faults []string // what the browser complained of
}

// patience is how long something may take to appear. It doesn't say how fast it should be.
const patience = 10 * time.Minute

// open opens a tab on the bench, apart from those of other tests. At the end of the test the
// browser must have had nothing to complain of.
func open(t *testing.T, base string, width, height int) *page {
	t.Helper()
	tab, end, err := browser.Apart(chromium)
	require.NoError(t, err)
	tab, cancel := context.WithTimeout(tab, 3*patience) // a wait ends first, and says what is on the page
	p := &page{t: t, ctx: tab, base: base}
	t.Cleanup(func() {
		if t.Failed() {
			p.keepPicture()
		}
		cancel()
		end()
		p.mu.Lock()
		defer p.mu.Unlock()
		for _, f := range p.faults {
			t.Errorf("the browser complains: %s", f)
		}
	})
	p.do(chromedp.EmulateViewport(int64(width), int64(height)))
	require.NoError(t, chromedp.Listen(tab, func(e any) {
		var fault string
		switch e := e.(type) {
		case *runtime.EventExceptionThrown:
			fault = e.ExceptionDetails.Text
			if x := e.ExceptionDetails.Exception; x != nil {
				fault += " " + x.Description
			}
		case *log.EventEntryAdded:
			// Refusals of the bench are answers, and shown by the page itself.
			if e.Entry.Level == "error" && !strings.Contains(e.Entry.Text, "Failed to load resource") {
				fault = e.Entry.Text
			}
		}
		if fault != "" {
			p.mu.Lock()
			p.faults = append(p.faults, fault)
			p.mu.Unlock()
		}
	}))
	p.goTo("/")
	return p
}

// keepPicture saves the screen when a test failed.
func (p *page) keepPicture() {
	png, err := chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
	if err == nil && os.MkdirAll("failures", 0o755) == nil {
		name := filepath.Join("failures", strings.ReplaceAll(p.t.Name(), "/", "-")+".png")
		_ = os.WriteFile(name, png, 0o644)
		p.t.Logf("the screen is in e2e/%s", name)
	}
}

func (p *page) do(actions ...chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Do(p.ctx, actions...))
}

func (p *page) goTo(path string) {
	p.t.Helper()
	// A page that asks before it is left would be waited for without an end. (A context with an end
	// of its own would end
	// the tab, too, where this is its first action.)
	done := make(chan error, 1)
	go func() { done <- chromedp.Do(p.ctx, chromedp.Navigate(p.base+path)) }()
	select {
	case err := <-done:
		require.NoError(p.t, err, "going to %s", path)
	case <-time.After(patience):
		require.Fail(p.t, "the page cannot be left, or does not come", path)
	}
}

// poll waits until an expression is true. It asks from outside: what polls
// within the page builds a function from text, which the pages' content
// security policy rightly forbids.
func (p *page) poll(what, expression string) {
	p.t.Helper()
	var last error
	// What comes soon is seen soon; what takes longer is asked for less often, because each look costs the page a
	// layout, and the journeys beside it their time.
	pause := 20 * time.Millisecond
	for until := time.Now().Add(patience); time.Now().Before(until); time.Sleep(pause) {
		pause = min(pause*5/4, 160*time.Millisecond)
		is, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool]("!!("+expression+")"))
		if err == nil && is {
			return
		}
		last = err // the page may be on its way to another
	}
	p.t.Fatalf("waited for %s (%v); on the page stands: %s", what, last, p.text())
}

// hand waits for as long as a person takes between two presses: the timer treats a faster press as a bounce of
// the key. This is part of the test, not a wait for something.
func (p *page) hand() {
	p.t.Helper()
	p.do(chromedp.Sleep(120 * time.Millisecond))
}

// painted waits until the page has handled what was sent to it before, and has drawn it: two frames.
func (p *page) painted() {
	p.t.Helper()
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](
		`new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => done())))`,
		chromedp.EvalAwaitPromise))
	require.NoError(p.t, err)
}

// until waits for a condition outside the page.
func (p *page) until(what string, is func() bool) {
	p.t.Helper()
	require.Eventually(p.t, is, patience, 20*time.Millisecond, what)
}

func quote(s string) string {
	q, _ := json.Marshal(s)
	return string(q)
}

// text is what is on the page, in one line.
const pageText = `document.body.innerText.replace(/\s+/g, ' ')`

// see waits until words are on the page.
func (p *page) see(words string) {
	p.t.Helper()
	p.poll(fmt.Sprintf("%q", words), pageText+".includes("+quote(words)+")")
}

// gone waits until words are on the page no more.
func (p *page) gone(words string) {
	p.t.Helper()
	p.poll(fmt.Sprintf("%q to go", words), "!"+pageText+".includes("+quote(words)+")")
}

func (p *page) text() string {
	p.t.Helper()
	s, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](pageText))
	require.NoError(p.t, err)
	return s
}

// find is JavaScript for the first thing in sight that can be pressed and whose
// name begins with those whole words.
func find(name string) string {
	return `[...document.querySelectorAll('button, a, summary, label, [role=button]')].find(e => {
		const n = (e.getAttribute('aria-label') || e.innerText || '').replace(/\s+/g, ' ').trim();
		const r = e.getBoundingClientRect();
		return n.startsWith(` + quote(name) + `) && !/[\p{L}\d]/u.test(n.charAt(` + fmt.Sprint(len([]rune(name))) + `)) && r.width > 0 && !e.disabled })`
}

// press clicks, with the mouse, on what has that name.
func (p *page) press(name string) {
	p.t.Helper()
	p.poll(fmt.Sprintf("%q to press", name), find(name)+" !== undefined")
	p.hit(name, func(at box) { p.do(chromedp.MouseClickXY(at.X+min(at.W, 60)/2, at.Y+at.H/2)) })
}

// box is where something is on the screen.
type box struct{ X, Y, W, H float64 }

// hit presses the control with that name at its place. If it has moved in the meantime (something appeared
// above it), nothing is pressed, and it tries again.
func (p *page) hit(name string, press func(at box)) {
	p.t.Helper()
	var before box
	for until := time.Now().Add(patience); time.Now().Before(until); {
		at, err := chromedp.Run(p.ctx, chromedp.Evaluate[box](`(() => { const e = `+find(name)+`; if (!e) return {X: -1};
			e.scrollIntoView({block: 'center', inline: 'center', behavior: 'instant'});
			const aim = window.aim ??= {};
			Object.assign(aim, {at: e, down: false, up: false});
			if (!aim.watch) {
				aim.watch = ev => {
					if (!aim.at || !ev.isTrusted) return;
					const on = aim.at.contains(ev.target);
					if (on) { aim.down ||= ev.type.endsWith('down'); aim.up ||= ev.type.endsWith('up'); return }
					ev.preventDefault(); ev.stopImmediatePropagation();
				};
				for (const what of ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click']) window.addEventListener(what, aim.watch, {capture: true});
			}
			const r = e.getBoundingClientRect(); return {X: r.x, Y: r.y, W: r.width, H: r.height} })()`))
		if err == nil && at == before && at.X >= 0 {
			press(at)
			missed, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`(() => { const aim = window.aim, at = aim?.at;
				if (!at) return false; // another page came of it
				aim.at = null;
				return !aim.down || (at.isConnected && !aim.up) })()`))
			if err != nil || !missed {
				return
			}
			p.t.Logf("%q moved away from under the hand", name)
		}
		before = at
		time.Sleep(60 * time.Millisecond)
	}
	p.t.Fatalf("%q does not stand still to be pressed, or is covered", name)
}

// fill types into the field with that label, in the place of what is in it.
func (p *page) fill(label, value string) {
	p.t.Helper()
	field := `[...document.querySelectorAll('input, textarea, select')].find(e => e.getBoundingClientRect().width > 0 &&
		[e.getAttribute('aria-label'), ...[...(e.labels ?? [])].map(l => l.innerText)].some(n => n?.replace(/\s+/g, ' ').trim().startsWith(` + quote(label) + `)))`
	p.poll(fmt.Sprintf("a field %q", label), field+" !== undefined")
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = `+field+`; e.focus(); e.select?.() }`))
	require.NoError(p.t, err)
	p.do(chromedp.KeyEvent("\b"), chromedp.KeyEvent(value))
}

// key presses keys on the page. A letter is a shortcut, which waits as a person does until
// no dialog is open: what a dialog did may be seen on the page before its answer closes it.
func (p *page) key(keys string) {
	p.t.Helper()
	if len(keys) == 1 && keys >= "a" && keys <= "z" {
		p.poll("no dialog before "+keys, `!document.querySelector('dialog[open]')`)
	}
	p.do(chromedp.KeyEvent(keys))
}

// choose picks a value in the list with that label.
func (p *page) choose(label, value string) {
	p.t.Helper()
	list := `document.querySelector('select[aria-label=` + quote(label) + `]')`
	p.poll(fmt.Sprintf("a list %q", label), list+" !== null")
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = `+list+`;
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(e, `+quote(value)+`);
		e.dispatchEvent(new Event('change', {bubbles: true})) }`))
	require.NoError(p.t, err)
}
