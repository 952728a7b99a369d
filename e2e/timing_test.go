package e2e

import (
	"encoding/json"
	"net"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
	"time"

	"nowthen/testscale"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	cdpage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// toTimer opens the timer of the third made-up job's cold start.
func (p *page) toTimer() {
	p.t.Helper()
	p.see("The bench")
	p.press("Fernbank Allotments")
	p.see("runs (Then): cold start to desktop")
	p.press("Open the timer")
	p.see("Test conditions")
	p.press("Mains")
	p.press("Save and go to the timer")
	p.see("starts when you press the power button")
}

// toFinished opens the made-up job that is finished, and returns its id.
func (p *page) toFinished() string {
	p.t.Helper()
	p.see("The bench")
	p.press("Finished")
	p.press("Ottilie Brandvold")
	p.see("Result")
	return p.jobHere()
}

// The timer is armed again by the bench's own word before the answer to "keep" is here:
// a press then is a press, not one that goes nowhere.
func TestPressWhileTheAnswerToKeepIsOnItsWay(t *testing.T) {
	t.Parallel()
	s := serve(t, demoData(t), "demo")
	p := open(t, s.base, 1280, 800)
	_, err := chromedp.Call(p.ctx, cdpage.AddScriptToEvaluateOnNewDocument, cdpage.AddScriptToEvaluateOnNewDocumentParams{Source: `{
		const to = window.fetch
		window.fetch = async (...of) => {
			const answer = await to(...of)
			if (new URL(of[0].url ?? of[0], location.href).pathname.endsWith('/timer/keep')) await new Promise((then) => setTimeout(then, 3000))
			return answer
		} }`})
	require.NoError(t, err)
	p.goTo("/")
	p.toTimer()
	p.timeByHand()
	p.key("a")
	p.see("starts when you press the power button")
	p.key(space)
	p.see("ends “to the sign-in”")
}

// Keep is pressed while the last presses are still on their way: it waits for them,
// for what is kept is what they say.
func TestKeepWaitsForThePresses(t *testing.T) {
	t.Parallel()
	s := serve(t, demoData(t), "demo")
	p := open(t, s.base, 1280, 800)
	_, err := chromedp.Call(p.ctx, cdpage.AddScriptToEvaluateOnNewDocument, cdpage.AddScriptToEvaluateOnNewDocumentParams{Source: `{
		const to = window.fetch
		window.fetch = async (...of) => {
			if (new URL(of[0].url ?? of[0], location.href).pathname.endsWith('/timer/presses')) await new Promise((then) => setTimeout(then, 1500))
			return to(...of)
		} }`})
	require.NoError(t, err)
	p.goTo("/")
	p.toTimer()
	p.timeByHand()
	p.key("u")
	p.see("stops when the pointer moves freely")
	p.key(space)
	p.see("Keep, next (2 of 3)")
	p.key("a")
	p.see("The run is kept once they are there.")
	p.see("1 of 3 runs kept")
	p.see("starts when you press the power button")
}

// Two browsers show one timer: started in one, held and split in the other, and
// it continues while the program is started again.
func TestTwoBrowsersAndARestart(t *testing.T) {
	t.Parallel()
	data := demoData(t)
	s := serve(t, data, "demo")
	a := open(t, s.base, 1280, 800)
	a.toTimer()
	b := open(t, s.base, 390, 844)
	at, err := chromedp.Run(a.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	b.goTo(at)
	b.see("starts when you press the power button")
	a.key(space)
	a.see("ends “to the sign-in”")
	b.see("ends “to the sign-in”")
	b.press("Pause for the user")
	a.see("Paused: what the user does is left out.")
	a.key("h")
	b.gone("Paused: what the user does is left out.")
	b.tap(200, 180)
	a.see("The time waits: “password” does not count.")

	// The program ends. A press waits on its device, with its own time, until the
	// program is there again; and the timer has gone on.
	s.stop()
	a.key(space)
	a.see("One press waits for the network.")
	s = serve(t, data, "demo", "--listen", strings.TrimPrefix(s.base, "http://"))
	a.see("stops when the pointer moves freely")
	a.gone("waits for the network")
	c := open(t, s.base, 1280, 800)
	c.goTo(at)
	c.see("stops when the pointer moves freely")
	c.key(space)
	c.see("of pauses left out")
	c.key("u")
	c.see("stops when the pointer moves freely")
	c.key(space)
	c.see("give or take")
	c.key("f")
	c.see("4 more in the series")
	c.see("1 of 3 runs kept")
}

// No press is lost or counted twice where answers and events of the ones before
// are still on their way.
func TestPressesInQuickSuccession(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 390, 844)
	p.do(chromedp.EmulateViewport(390, 844, chromedp.EmulateMobile, chromedp.EmulateTouch))
	p.press("Fernbank Allotments")
	p.press("Open the timer")
	p.press("Save and go to the timer")
	for range 10 {
		p.see("A tap starts")
		for range 4 { // a start, two splits, a stop
			p.tap(195, 700) // on the pad
		}
		p.see("give or take")
		p.press("Set aside")
		p.press("Pressed wrong")
	}
	p.see("A tap starts")
}

// tap touches the glass with a finger.
func (p *page) tap(x, y float64) {
	p.t.Helper()
	_, err := chromedp.Call(p.ctx, emulation.SetTouchEmulationEnabled,
		emulation.SetTouchEmulationEnabledParams{Enabled: true})
	require.NoError(p.t, err)
	_, err = chromedp.Call(p.ctx, input.DispatchTouchEvent,
		input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchStart,
			TouchPoints: []*input.TouchPoint{{X: x, Y: y}}})
	require.NoError(p.t, err)
	_, err = chromedp.Call(p.ctx, input.DispatchTouchEvent,
		input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchEnd, TouchPoints: []*input.TouchPoint{}})
	require.NoError(p.t, err)
}

// A browser without script opens the finish line, and the timer stops; opened
// again, or with another word, nothing changes.
func TestAFinishLineWithoutScript(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.toTimer()
	p.press("Finish line")
	p.see("/f/")
	word := p.text()
	word = word[strings.Index(word, "/f/")+3:]
	word = word[:8]

	old := open(t, s.base, 800, 600)
	_, err := chromedp.Call(old.ctx, emulation.SetScriptExecutionDisabled,
		emulation.SetScriptExecutionDisabledParams{Value: true})
	require.NoError(t, err)
	old.goTo("/f/" + word)
	old.sees("does not run yet")
	p.key(space)
	p.see("ends “to the sign-in”")
	old.goTo("/f/" + word)
	old.sees("From the start to this page")
	p.see("started by hand, stopped by the finish line")
	first := p.text()
	old.goTo("/f/" + word)
	old.sees("From the start to this page")
	old.goTo("/f/gogogogo")
	old.sees("No timer waits for this address")
	assert.Equal(t, first, p.text(), "a second opening changes nothing")
	p.key("k")
	p.see("1 of 3")
	old.goTo("/f/" + word)
	old.sees("No timer waits for this address")
}

// sees waits for words in a browser that runs no script: the page itself is asked.
func (p *page) sees(words string) {
	p.t.Helper()
	var html string
	p.until(words, func() bool {
		var err error
		html, err = chromedp.Run(p.ctx, chromedp.OuterHTML("html"))
		return err == nil && strings.Contains(html, words)
	})
}

// A clip is marked by keyboard; the marks give the known value within one frame.
func TestAClipMarkedByKeyboard(t *testing.T) {
	t.Parallel()
	known := knownClips(t)
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	id := p.toFinished()
	for _, k := range known {
		p.goTo("/jobs/" + id + "/video/" + k.Name + "/t-launch")
		p.see("These marks belong to a kept run.")
		p.see("0.000 s")
		p.key("a")
		p.markRun(s, id, k)
	}
	// It plays, too; where it is stopped is a frame of the clip.
	now := known[len(known)-1]
	p.moved("p")
	p.key("p")
	assert.Eventually(t, func() bool { return indexNear(now.FramesMS, p.frameAt()) >= 0 }, patience,
		50*time.Millisecond, "stopped at %d ms", p.frameAt())
	// The stills stay when the clip is gone.
	p.press("Delete main program, now.webm")
	p.press("Delete for good")
	p.see("deleted; its stills are kept")
}

// A clip as phones make them: MP4, frames that refer to later ones, a whole frame
// only now and then. It is the demonstration's second clip, encoded again:
//
//	ffmpeg -i now.webm -vsync passthrough -enc_time_base -1 -c:v libx264 -pix_fmt yuv420p -bf 2 now.mp4
func TestAClipAsAPhoneMakesIt(t *testing.T) {
	t.Parallel()
	known := knownClips(t)
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	id := p.toFinished()
	p.goTo("/jobs/" + id + "/video/now/t-launch")
	p.see("Clips of this job")
	clip, err := filepath.Abs("testdata/now.mp4")
	require.NoError(t, err)
	p.do(chromedp.SetUploadFiles(`input[aria-label="Clip"]`, []string{clip}))
	p.see("Mark: Start")
	p.see("0.000 s")
	p.markRun(s, id, known[len(known)-1])
}

// A clip that the browser cannot decode is kept, and said to be such.
func TestAClipThatDoesNotPlay(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	id := p.toFinished()
	path := filepath.Join(t.TempDir(), "from the phone.mov")
	require.NoError(t, os.WriteFile(path, append([]byte{0, 0, 0, 24}, "ftypqt  nothing that any browser plays"...),
		0o600))
	p.goTo("/jobs/" + id + "/video/now/t-start")
	p.see("Clips of this job")
	p.do(chromedp.SetUploadFiles(`input[aria-label="Clip"]`, []string{path}))
	p.see("This browser does not play from the phone.mov.")
	p.see("The clip is kept.")
}

// aClip is what is known of a clip of the demonstration.
type aClip struct {
	Name     string `json:"name"`
	FramesMS []int  `json:"frames_ms"`
	StartMS  int    `json:"start_ms"`
	EndMS    int    `json:"end_ms"`
}

func knownClips(t *testing.T) (known []aClip) {
	t.Helper()
	data, err := os.ReadFile("../bench/demo/clips/known.json")
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(data, &known))
	return known
}

// markRun marks start and end of the clip that is open, keeps the run, and holds
// it against what is known.
func (p *page) markRun(s *server, id string, k aClip) {
	t := p.t
	t.Helper()
	p.see("Mark: Start")
	p.stepTo(k.FramesMS, k.StartMS)
	p.key("m")
	p.see("Mark: End")
	p.stepTo(k.FramesMS, k.EndMS)
	p.key("m")
	p.see("from the length of the frames")
	p.key("k")
	p.see("These marks belong to a kept run.")
	var view struct {
		Job struct {
			Runs []struct {
				Method string
				Value  float64
				U      float64
				Video  struct{ Marks []struct{ Still string } }
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &view)
	last := view.Job.Runs[len(view.Job.Runs)-1]
	assert.Equal(t, "video", last.Method)
	assert.InDelta(t, float64(k.EndMS-k.StartMS)/1000, last.Value, 0.001, "%s: the known value, to the frame", k.Name)
	assert.Less(t, last.U, 0.04)
	for _, m := range last.Video.Marks {
		assert.NotEmpty(t, m.Still)
	}
}

// frameAt is the time of the frame that is shown, ms.
func (p *page) frameAt() int {
	p.t.Helper()
	text, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[string](`document.querySelector('[aria-label="Time of the frame"]').innerText`))
	require.NoError(p.t, err)
	s, err := strconv.ParseFloat(strings.TrimSuffix(text, " s"), 64)
	require.NoError(p.t, err)
	return int(s*1000 + 0.5)
}

// moved presses a key and waits until another frame is shown.
func (p *page) moved(key string) int {
	p.t.Helper()
	before := p.frameAt()
	p.key(key)
	now := before
	p.until(key+" shows another frame", func() bool { now = p.frameAt(); return now != before })
	return now
}

// stepTo goes near a frame by seconds and tenths, then frame by frame; every
// frame that is met on the way is one that the clip has.
func (p *page) stepTo(frames []int, ms int) {
	p.t.Helper()
	at := p.frameAt()
	for ms-at > 1500 {
		at = p.moved(kb.PageDown)
	}
	for ms-at > 350 {
		at = p.moved(".")
	}
	for at < ms {
		next := p.moved(kb.ArrowRight)
		if i := indexNear(frames, at); i >= 0 && i+1 < len(frames) {
			assert.InDelta(p.t, frames[i+1], next, 1, "the frame after %d ms", at)
		}
		at = next
	}
	for at > ms+1 {
		at = p.moved(kb.ArrowLeft)
	}
	require.InDelta(p.t, ms, at, 1)
}

func indexNear(frames []int, ms int) int {
	for i, f := range frames {
		if f-ms <= 1 && ms-f <= 1 {
			return i
		}
	}
	return -1
}

// A race is watched to its end.
func TestARaceIsWatchedToItsEnd(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	id := p.toFinished()
	p.goTo("/jobs/" + id + "/ledger")
	p.see("what the customer feels")
	p.press("Watch the race: Cold start to desktop")
	p.see("Cold start to desktop: side by side")
	p.press("8×")
	p.key(space)
	p.see("s after the first was through")
	p.see("longer than the first")
	p.see("Once more")
	p.poll("the end", `(e => e.value >= e.max - 0.1)(document.querySelector('[aria-label="Time of the race"]'))`)
	p.key(escape)
	p.see("what the customer feels")
	// The films themselves, where both sides were filmed.
	p.goTo("/jobs/" + id + "/race/t-launch?setups=then,now")
	p.see("side by side")
	p.poll("two films", `[...document.querySelectorAll('video')].filter(v => v.readyState >= 2).length === 2`)
	p.press("8×")
	p.key(space)
	p.see("longer than the first")
}

// passwd sets the shop password of a data folder on the command line.
func passwd(t *testing.T, data, password string) {
	t.Helper()
	cmd := exec.Command(program, "passwd", "--data", data)
	cmd.Stdin = strings.NewReader(password + "\n")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
}

// A phone reaches the bench by its computer's name in the shop's network, which is
// no secure address for a browser. It signs in first, times a start, and can be
// signed out from elsewhere.
func TestAPhoneInTheShopsNetwork(t *testing.T) {
	t.Parallel()
	data := demoData(t)
	passwd(t, data, "a long shop password")
	s := serve(t, data, "demo", "--listen", "0.0.0.0:0")
	name, err := os.Hostname()
	require.NoError(t, err)
	at, err := url.Parse(s.base)
	require.NoError(t, err)
	assert.False(t, net.ParseIP(at.Hostname()).IsUnspecified(), "%s is an address that no phone can open", s.base)
	s.base = "http://" + net.JoinHostPort(name+".local", at.Port())

	phone := open(t, s.base, 390, 844)
	phone.do(chromedp.EmulateViewport(390, 844, chromedp.EmulateMobile, chromedp.EmulateTouch))
	secure, err := chromedp.Run(phone.ctx, chromedp.Evaluate[bool]("isSecureContext"))
	require.NoError(t, err)
	require.False(t, secure)
	phone.see("The shop’s password")
	phone.fill("The shop’s password", "not this one")
	phone.press("Sign in")
	phone.see("That is not the shop's password.")
	phone.fill("The shop’s password", "a long shop password")
	phone.press("Sign in")
	phone.see("The bench")
	phone.press("Fernbank Allotments")
	phone.press("Open the timer")
	phone.press("Save and go to the timer")
	phone.see("A tap starts")
	for _, next := range []string{"ends “to the sign-in”", "does not count", "stops when", "give or take"} {
		phone.tap(195, 300)
		phone.see(next)
	}
	phone.key("k")
	phone.see("1 of 3")

	laptop := open(t, s.base, 1280, 800)
	laptop.fill("The shop’s password", "a long shop password")
	laptop.press("Sign in")
	laptop.see("The bench")
	phone.goTo("/reach")
	phone.press("Sign out on every device")
	phone.see("The shop’s password")
	laptop.see("The shop’s password") // by itself
	laptop.fill("The shop’s password", "a long shop password")
	laptop.press("Sign in")
	laptop.see("The bench")
}

// A technician's own reaction is measured, and counts from then on.
func TestOwnReaction(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.goTo("/reaction?back=/")
	p.see("Your own reaction")
	p.fill("Whose reaction is it?", "Runa")
	p.press("Begin")
	p.see("Wait")
	for {
		text := p.text()
		if strings.Contains(text, "counts from now on") {
			break
		}
		require.NotContains(t, text, "are needed")
		if strings.HasPrefix(text, "Press") {
			p.hand()
			p.key(space)
			p.poll("the light to go out", `!document.body.innerText.startsWith("Press")`)
		}
		p.painted()
	}
	p.see("Runa:")
	p.press("Back")
	p.toTimer()
	p.see("Timed by Runa, with their own reaction of")
}

// runsOf asks the bench what is stored of a job, and whether a timer is armed.
func (s *server) runsOf(id string) (runs []struct {
	ID, Test, Method string
	Value            float64
}, armed string) {
	s.t.Helper()
	var view struct {
		Job struct {
			Runs []struct {
				ID, Test, Method string
				Value            float64
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &view)
	var timer *struct{ ID string }
	s.ask("GET", "/api/jobs/"+id+"/timer", nil, &timer)
	if timer != nil {
		armed = timer.ID
	}
	return view.Job.Runs, armed
}

// Keeping a time ends on the job's page, with one run stored and no timer armed,
// however often Keep is pressed.
func TestKeepEndsOnTheJobsPage(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.toTimer()
	id := p.jobHere()
	before, armed := s.runsOf(id)
	// The page is there before the bench has answered.
	require.Eventually(t, func() bool { _, armed = s.runsOf(id); return armed != "" }, patience, 20*time.Millisecond,
		"the way here armed it")
	p.timeByHand()
	// Two taps before the first is answered.
	_, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[chromedp.Void](`{ const b = [...document.querySelectorAll('button')].find(b => /^Keep( k)?$/.test(b.innerText.replace(/\s+/g, ' ').trim())); b.click(); b.click(); b.click() }`))
	require.NoError(t, err)
	p.poll("the side's station", `location.pathname === '/jobs/`+id+`/then'`)
	p.see("1 of 3")
	runs, armed := s.runsOf(id)
	assert.Len(t, runs, len(before)+1, "one run is stored")
	assert.Empty(t, armed, "no timer is left armed")
	// Whatever events still come are there once a later one is.
	s.ask("PATCH", "/api/jobs/"+id, map[string]any{"customer": map[string]any{"name": "Fernbank Allotments, Shed 2"}},
		nil)
	p.see("Fernbank Allotments, Shed 2")
	path, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	assert.Equal(t, "/jobs/"+id+"/then", path, "it stays there")

	// A timer page that is opened by its address arms nothing until it is pressed.
	p.goTo("/jobs/" + id + "/timer/then/t-start")
	p.see("starts when you press the power button")
	_, armed = s.runsOf(id)
	assert.Empty(t, armed)
	p.key(space)
	p.see("ends “to the sign-in”")
	require.Eventually(t, func() bool { _, armed = s.runsOf(id); return armed != "" }, patience, 20*time.Millisecond)
}

// What is undone while presses still wait on the device is the last of these.
func TestUndoWhileAPressWaits(t *testing.T) {
	t.Parallel()
	data := demoData(t)
	s := serve(t, data, "demo")
	p := open(t, s.base, 1280, 800)
	p.toTimer()
	id := p.jobHere()
	p.key(space)
	p.see("ends “to the sign-in”")
	marks := func() int {
		var timer struct {
			Marks []float64 `json:"marks_ms"`
		}
		s.ask("GET", "/api/jobs/"+id+"/timer", nil, &timer)
		return len(timer.Marks)
	}
	require.Eventually(t, func() bool { return marks() == 1 }, patience, 20*time.Millisecond)
	s.stop()
	p.key(space)
	p.see("ends “password”")
	p.key("u")
	p.see("ends “to the sign-in”")
	s = serve(t, data, "demo", "--listen", strings.TrimPrefix(s.base, "http://"))
	p.gone("Can’t reach the bench")
	p.see("ends “to the sign-in”")
	assert.Equal(t, 1, marks(), "the press that the bench had is not the one that was undone")
}

// A press that is made while the sign-in has ended waits for it, and goes through
// with the time at which it was made.
func TestAPressWaitsForTheSignIn(t *testing.T) {
	t.Parallel()
	data := demoData(t)
	passwd(t, data, "a long shop password")
	s := serve(t, data, "demo", "--listen", "0.0.0.0:0")
	at0, err := url.Parse(s.base)
	require.NoError(t, err)
	s.base = "http://127.0.0.1:" + at0.Port()
	p := open(t, s.base, 1280, 800)
	p.fill("The shop’s password", "a long shop password")
	p.press("Sign in")
	p.toTimer()
	at, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	p.key(space)
	p.see("ends “to the sign-in”")
	passwd(t, data, "another long password") // beside the server: it ends the sign-in
	p.key(space)
	p.see("The shop’s password")
	p.fill("The shop’s password", "another long password")
	p.press("Sign in")
	p.gone("The shop’s password")
	p.goTo(at)
	p.see("ends “password”")
}

// Only the first button and one finger press the glass.
func TestWhatIsNoPressOnTheGlass(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.toTimer()
	p.do(chromedp.MouseClickXY(640, 300, chromedp.ButtonType("right")))
	p.do(chromedp.MouseClickXY(640, 300, chromedp.ButtonType("middle")))
	touch := func(kind input.DispatchTouchEventType, points ...*input.TouchPoint) {
		_, err := chromedp.Call(p.ctx, input.DispatchTouchEvent,
			input.DispatchTouchEventParams{Type: kind, TouchPoints: append([]*input.TouchPoint{}, points...)})
		require.NoError(t, err)
	}
	_, err := chromedp.Call(p.ctx, emulation.SetTouchEmulationEnabled,
		emulation.SetTouchEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	// A finger that moves away scrolls.
	touch(input.DispatchTouchEventTypeTouchStart, &input.TouchPoint{X: 640, Y: 300})
	touch(input.DispatchTouchEventTypeTouchMove, &input.TouchPoint{X: 640, Y: 240})
	touch(input.DispatchTouchEventTypeTouchEnd)
	p.painted()
	p.see("starts when you press the power button")
	// Two fingers are one press.
	one, two := &input.TouchPoint{X: 600, Y: 300, ID: new(1.0)}, &input.TouchPoint{X: 700, Y: 300, ID: new(2.0)}
	touch(input.DispatchTouchEventTypeTouchStart, one)
	touch(input.DispatchTouchEventTypeTouchStart, one, two)
	touch(input.DispatchTouchEventTypeTouchEnd)
	p.see("ends “to the sign-in”")
	p.painted()
	p.see("ends “to the sign-in”")
	// Space works on the glass after a button of it was clicked, and on a button that has the focus it is the button's.
	p.press("Sound and vibration")
	p.key(space)
	p.see("ends “password”")
	_, err = chromedp.Run(p.ctx,
		chromedp.Evaluate[chromedp.Void](`[...document.querySelectorAll('button')].find(b => b.innerText.includes('Pause for the user')).focus()`))
	require.NoError(t, err)
	p.key(space)
	p.see("Paused: what the user does is left out.")
}

// A clip that is added on one page is on another at once.
func TestAClipAddedElsewhere(t *testing.T) {
	t.Parallel()
	s := demo(t)
	laptop, phone := open(t, s.base, 1280, 800), open(t, s.base, 390, 844)
	id := laptop.toFinished()
	laptop.goTo("/jobs/" + id + "/video/now/t-start")
	laptop.see("Clips of this job")
	phone.goTo("/jobs/" + id + "/video/now/t-start")
	phone.see("Clips of this job")
	path := filepath.Join(t.TempDir(), "seen elsewhere.mov")
	require.NoError(t, os.WriteFile(path, append([]byte{0, 0, 0, 24}, "ftypqt  nothing that any browser plays"...),
		0o600))
	phone.do(chromedp.SetUploadFiles(`input[aria-label="Clip"]`, []string{path}))
	laptop.see("seen elsewhere.mov")
}

// Two sittings of one setup race each other.
func TestARaceBetweenSittings(t *testing.T) {
	t.Parallel()
	s := demo(t)
	var job struct{ ID string }
	s.ask("POST", "/api/jobs", map[string]any{"customer": map[string]string{"name": "Twice"}, "simulated": "laptop"},
		&job)
	for _, sitting := range []string{"s1", "s2"} {
		power := map[string]string{"s1": "mains", "s2": "battery"}[sitting]
		s.ask("POST", "/api/jobs/"+job.ID+"/sittings",
			map[string]any{"setup": "then", "conditions": map[string]any{"power": power}}, nil)
		s.measureBehind(job.ID, sitting, 2, "t-start")
	}
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + job.ID + "/race/t-start?setups=then@s1,then@s2")
	p.see("Then: on mains")
	p.see("Then: on battery")
	p.press("8×")
	p.key(space)
	p.see("Once more")
}

// contrastOf is JavaScript for the contrast of a button's words with the button, and of
// the button with what lies around it (WCAG 2.2, relative luminance).
func contrastOf(name string) string {
	return `(() => {
		const b = [...document.querySelectorAll('button')].find(b => b.innerText.trim() === ` + quote(name) + `);
		const x = document.createElement('canvas').getContext('2d', {willReadFrequently: true});
		const px = c => { x.clearRect(0, 0, 1, 1); x.fillStyle = c; x.fillRect(0, 0, 1, 1); return [...x.getImageData(0, 0, 1, 1).data] };
		const light = ([r, g, b]) => [r, g, b].map(v => (v /= 255) <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4).reduce((s, v, i) => s + v * [0.2126, 0.7152, 0.0722][i], 0);
		const ratio = (a, b) => (Math.max(light(a), light(b)) + 0.05) / (Math.min(light(a), light(b)) + 0.05);
		const s = getComputedStyle(b), own = px(s.backgroundColor);
		const around = px(getComputedStyle(document.documentElement).backgroundColor);
		return {Words: own[3] === 255 ? ratio(px(s.color), own) : 0, Around: own[3] === 255 ? ratio(own, around) : 0};
	})()`
}

// What deletes permanently can be seen and read in both themes, under the pointer too.
func TestDeleteForGoodCanBeSeen(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	id := p.toFinished()
	p.goTo("/jobs/" + id + "/video/now/t-launch")
	p.press("Delete main program, now.webm")
	p.see("Delete for good")
	for _, change := range []string{"", "Dim light"} { // it begins by day
		if change != "" {
			p.press(change)
			p.poll("the dim theme", `document.documentElement.dataset.theme === 'dim'`)
		}
		for _, over := range []bool{false, true} {
			if over {
				at, err := chromedp.Run(p.ctx,
					chromedp.Evaluate[struct {
						X,
						Y float64
					}](`(() => { const r = [...document.querySelectorAll('button')].find(b => b.innerText.trim() === 'Delete for good').getBoundingClientRect(); return {X: r.x + 5, Y: r.y + 5} })()`))
				require.NoError(t, err)
				p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, at.X, at.Y))
			} else {
				p.do(chromedp.MouseEvent(input.DispatchMouseEventTypeMouseMoved, 1, 1))
			}
			assert.Eventually(t, func() bool {
				c, err := chromedp.Run(p.ctx,
					chromedp.Evaluate[struct{ Words, Around float64 }](contrastOf("Delete for good")))
				return err == nil && c.Words >= 4.5 && c.Around >= 3
			}, 3*time.Second, 50*time.Millisecond, "%q, under the pointer %v", change, over)
		}
	}
}

// Zoomed in, every corner of a clip can be reached.
func TestZoomReachesEveryCorner(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 900)
	id := p.toFinished()
	p.goTo("/jobs/" + id + "/video/now/t-launch")
	p.see("These marks belong to a kept run.")
	p.poll("the clip", `document.querySelector('video')?.readyState >= 2`)
	wide := func() float64 {
		w, err := chromedp.Run(p.ctx,
			chromedp.Evaluate[float64](`document.querySelector('video').getBoundingClientRect().width`))
		require.NoError(t, err)
		return w
	}
	before := wide()
	p.key("z")
	p.poll("it to be larger",
		`document.querySelector('video').getBoundingClientRect().width > `+strconv.FormatFloat(before*2, 'f', 0, 64))
	p.poll("the top left corner", `(() => { const c = document.querySelector('video').parentElement; c.scrollTo(0, 0);
		const v = document.querySelector('video'), r = v.getBoundingClientRect(), b = c.getBoundingClientRect();
		return r.left >= b.left - 1 && r.top >= b.top - 1 })()`)
	p.poll("the bottom right corner", `(() => { const c = document.querySelector('video').parentElement; c.scrollTo(1e6, 1e6);
		const v = document.querySelector('video'), r = v.getBoundingClientRect(), b = c.getBoundingClientRect();
		return r.right <= b.right + 1 && r.bottom <= b.bottom + 1 })()`)
}

// Saving the conditions arms the timer; until the bench has done so nothing can be pressed, for a
// press would arm another one.
func TestThePageArmsOneTimer(t *testing.T) {
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	_, err := chromedp.Call(p.ctx, cdpage.AddScriptToEvaluateOnNewDocument, cdpage.AddScriptToEvaluateOnNewDocumentParams{Source: `{
		const to = window.fetch
		window.armed = 0
		window.fetch = async (...of) => {
			if ((of[0].method ?? '') === 'PUT' && new URL(of[0].url).pathname.endsWith('/timer')) {
				window.armed++
				await new Promise((then) => setTimeout(then, 2500))
			}
			return to(...of)
		} }`})
	require.NoError(t, err)
	p.goTo("/")
	p.press("Fernbank Allotments")
	p.press("Open the timer")
	p.see("Test conditions")
	p.press("Mains")
	p.press("Save and go to the timer")
	p.poll("the timer to be on its way", "window.armed === 1")
	for range 5 {
		p.key(space)
		p.hand()
	}
	p.see("starts when you press the power button")
	p.key(space)
	p.see("ends “to the sign-in”")
	p.poll("one timer to be armed", "window.armed === 1")
	var timer struct {
		State string
		Marks []float64 `json:"marks_ms"`
	}
	p.poll("the press to arrive", "!Object.keys(localStorage).some(k => k.startsWith('presses '))")
	s.ask("GET", "/api/jobs/"+p.jobHere()+"/timer", nil, &timer)
	assert.Equal(t, "running", timer.State)
	assert.Len(t, timer.Marks, 1, "what was pressed before it was armed is no press")
}
