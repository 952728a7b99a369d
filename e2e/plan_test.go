package e2e

import (
	"encoding/base64"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"nowthen/testscale"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// aJob is what these tests read of a job.
type aJob struct {
	ID  string
	Job struct {
		Tests []struct{ ID, Kind, Unit string }
		Plan  struct {
			Steps []struct {
				ID     string
				Photos []struct{ ID, Type string }
			}
		}
	}
}

// measureBehind lets the simulated computer do tests of a job, without the page.
func (s *server) measureBehind(id, sitting string, times int, tests ...string) {
	s.t.Helper()
	for _, test := range tests {
		for range times {
			s.ask("POST", "/api/jobs/"+id+"/perform", map[string]any{"test": test, "sitting": sitting}, nil)
		}
	}
}

// measureDriveBehind measures the simulated drive, without the page.
func (s *server) measureDriveBehind(id, sitting string) {
	s.t.Helper()
	s.ask("POST", "/api/jobs/"+id+"/measuring", map[string]any{"sitting": sitting}, nil)
	require.Eventually(s.t, func() bool {
		var m struct{ State string }
		s.ask("GET", "/api/jobs/"+id+"/measuring", nil, &m)
		return m.State == "done"
	}, patience, 20*time.Millisecond)
}

// jobHere is the id of the job that the page shows.
func (p *page) jobHere() string {
	p.t.Helper()
	path, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(p.t, err)
	parts := strings.Split(path, "/")
	require.Greater(p.t, len(parts), 2, path)
	return parts[2]
}

func TestAGamesMachineFromIntakeToTheGate(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")
	p.key("n")
	p.press("Games machine")
	p.see("How often is a game or save loaded in a week?")
	p.fill("How often is a game or save loaded in a week?", "21")
	p.press("An office tower")
	p.see("Time 3 runs (Then): cold start to desktop.")
	p.see("Still to do here:")
	p.see("You need: the customer's password")
	id := p.jobHere()
	var opened struct {
		Job struct {
			Tests []struct {
				ID      string
				PerWeek float64 `json:"per_week"`
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &opened)
	asked := false
	for _, test := range opened.Job.Tests {
		if test.ID == "t-game-save" {
			asked = true
			assert.InDelta(t, 21, test.PerWeek, 1e-9, "as it was answered")
		}
	}
	assert.True(t, asked)

	// All but the change of level is measured.
	s.ask("POST", "/api/jobs/"+id+"/sittings",
		map[string]any{"setup": "then", "conditions": map[string]any{"power": "mains", "busy": []string{}}}, nil)
	s.measureBehind(id, "s1", 3, "t-start", "t-game-menu", "t-game-save")
	s.measureDriveBehind(id, "s1")
	p.press("Enter value: Drive's highest temperature")
	p.fill("Drive's highest temperature in °C", "warm")
	p.key(enter)
	p.see("Write a number in °C, such as 12.5.")
	p.fill("Drive's highest temperature in °C", "47,5")
	p.key(enter)
	p.see("47.5 °C")
	p.see("Time 3 runs (Then): game: change of level.")

	// The checkpoint is refused: without a sentence it does not open.
	p.press("Prepare")
	p.see("Game: change of level was not measured on the old drive")
	p.see("the backup is not ticked off")
	p.press("Backup is made, and one file of it was opened")
	p.gone("the backup is not ticked off")
	shut, err := chromedp.Run(p.ctx,
		chromedp.Evaluate[bool](`[...document.querySelectorAll('button')].find(b => b.innerText.trim() === 'Old drive is out').disabled`))
	require.NoError(t, err)
	assert.True(t, shut, "something is missing, and nobody said why")

	// It is made up, with the timer.
	p.press("Then")
	p.press("Time it: Game: change of level")
	for _, kept := range []string{"0", "1", "2"} {
		p.see(kept + " of 3 runs kept")
		p.press("Let the simulated computer do it")
	}
	p.see("3 of 3 runs kept")
	p.key(escape)
	p.press("Go to Prepare")
	p.press("Replaces the old one")
	p.see("Everything in the plan was measured on it.")
	p.press("Old drive is out")
	p.see("Power is off, cable and battery are disconnected")
	p.key(enter)
	p.see("Tick off: photo of the inside")
	p.key(enter)
	p.press("Tick all 4")
	p.press("Case is closed")
	p.see("Checkpoint: measured again")
}

func TestAJobWithThreeDrives(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")
	p.key("n")
	p.see("The minimum: a cold start")
	p.press("An old laptop")
	p.see("Time 3 runs (Then): cold start to desktop.")
	id := p.jobHere()
	p.press("Intake")
	p.press("Try another drive")
	p.fill("Name of the trial", "the quiet one")
	p.press("SATA SSD")
	p.fill("Capacity", "2 TB")
	p.press("Add the trial")
	p.see("the quiet one")
	for i, setup := range []string{"then", "now", "trial1", "trial1"} {
		power := "mains"
		if i == 3 {
			power = "battery"
		}
		s.ask("POST", "/api/jobs/"+id+"/sittings",
			map[string]any{"setup": setup, "conditions": map[string]any{"power": power}}, nil)
		sitting := []string{"s1", "s2", "s3", "s4"}[i]
		s.measureBehind(id, sitting, 4, "t-start")
	}
	p.press("the quiet one")
	p.see("7 of 3") // the page has heard of all of it
	p.press("Intake")
	p.press("This one stays: the quiet one")
	p.until("the trial to stay", func() bool {
		var v struct {
			Job struct {
				Job    struct{ Stays string }
				Setups []struct{ ID, Role string }
			}
		}
		s.ask("GET", "/api/jobs/"+id, nil, &v)
		return v.Job.Job.Stays == "trial1" && v.Job.Setups[2].Role == "trial" && v.Job.Setups[1].Role == "now"
	})
	p.key("l")
	p.see("what the customer feels")
	p.see("2 TB SATA SSD")
	p.see("less waiting, saves")

	// The other candidate, and whether the one that stays has slowed down.
	pick := func(label, option string) {
		t.Helper()
		_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = document.querySelector('select[aria-label=`+quote(label)+`]');
			const o = [...e.options].find(o => o.text.startsWith(`+quote(option)+`));
			Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(e, o.value); e.dispatchEvent(new Event('change', {bubbles: true})) }`))
		require.NoError(t, err)
	}
	pick("Right side", "Now")
	p.see("960 GB SATA SSD")
	pick("Left side", "the quiet one: on mains")
	pick("Right side", "the quiet one: on battery")
	p.see("the quiet one: on battery")
	p.see("too close to call")
}

func TestAPlanChangedAfterTheFirstRun(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")
	p.key("n")
	p.see("The minimum: a cold start")
	p.press("An old laptop")
	p.see("Still to do here:")
	id := p.jobHere()
	s.ask("POST", "/api/jobs/"+id+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{}}, nil)
	s.measureDriveBehind(id, "s1")
	var v aJob
	p.press("Intake")
	p.fill("Test file of Long read", "256")
	p.key("\t")
	p.see("Not saved yet.")
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	assert.Len(t, v.Job.Tests, 4, "typing and leaving a field change nothing")
	p.press("Save changes")
	p.see("Long read has runs already. With other parameters it is a new test")
	p.press("Remove Scattered small reads")
	p.see("they stay in the ledger, and no more are wanted")
	p.press("Add a test")
	p.fill("Search the catalogue", "wake sleep")
	p.press("Add Wake from sleep")
	p.see("In the plan")
	p.press("Save as template")
	p.fill("Save this plan as a template of the shop", "Our laptops")
	p.press("Save template")
	p.see("Saved for the next job.")
	p.press("Then")
	p.see("Long read (removed)")
	p.see("Long read (changed)")
	p.press("Wake from sleep")
	p.press("Can’t be measured")
	p.fill("Why Wake from sleep, Then can’t be measured", "the lid is broken")
	p.key(enter)
	p.see("Can’t be measured: the lid is broken")

	// The shop's template is there for the next job.
	p.key("n")
	p.press("Our laptops")
	p.see("A plan of this shop.")
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	assert.Len(t, v.Job.Tests, 6)
}

func TestStepsWorkAndPhotos(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	p := open(t, s.base, 1280, 800)
	p.see("No computer is on the bench.")
	p.key("n")
	p.see("The minimum: a cold start")
	p.press("An old laptop")
	p.see("Before measuring")
	id := p.jobHere()
	p.fill("Who ticks", "Runa")
	p.press("System updates are paused")
	p.see(", Runa")
	p.press("Change the steps")
	p.fill("Another step", "Call the customer")
	p.press("Add the step")
	p.see("Call the customer")
	p.press("Remove the step Call the customer")
	p.gone("Call the customer")

	p.press("Swap")
	p.see("Photo of the inside, screws sorted")
	// A WebP picture, as a phone's browser makes it.
	picture, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`(() => { const c = document.createElement('canvas'); c.width = 30; c.height = 20;
		c.getContext('2d').fillRect(0, 0, 15, 20); return c.toDataURL('image/webp').split(',')[1] })()`))
	require.NoError(t, err)
	data, err := base64.StdEncoding.DecodeString(picture)
	require.NoError(t, err)
	require.Equal(t, "WEBP", string(data[8:12]))
	path := filepath.Join(t.TempDir(), "inside.webp")
	require.NoError(t, os.WriteFile(path, data, 0o600))
	p.do(chromedp.SetUploadFiles(`input[aria-label="Photo of Photo of the inside, screws sorted"]`, []string{path}))
	p.poll("the photo to be shown", `[...document.querySelectorAll('img')].some(i => i.naturalWidth === 30)`)
	var v aJob
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	for _, step := range v.Job.Plan.Steps {
		if step.ID == "screws" {
			require.Len(t, step.Photos, 1)
			assert.Equal(t, "image/jpeg", step.Photos[0].Type)
		}
	}

	p.press("Other work")
	p.press("cleaning")
	p.fill("Note", "fan and heat sink")
	p.press("Save")
	p.see("cleaning fan and heat sink")
}

// A long round continues while no page is open, and afterwards a test can be
// looked at closer.
func TestALongRoundAndWhatItShows(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := demo(t)
	p := open(t, s.base, 1280, 800)
	p.see("The bench")
	p.press("Fernbank Allotments")
	p.see("runs (Then): cold start to desktop")
	p.press("Intake")
	p.press("Add a test")
	for _, name := range []string{"Sustained writing", "Keeping up with recordings"} {
		p.press("Add " + name)
		p.see("Runs of " + name)
	}
	p.see("need 207 MB/s")
	p.press("Then")
	p.press("Enter conditions")
	p.press("Mains")
	p.press("Save and continue")
	p.see("on mains")
	p.press("Measure")
	p.see("It continues when this page is closed")
	p.see("One request takes")
	p.see("The drive’s temperature")
	p.goTo("/help-me-wait") // any other page: nobody watches now
	p.see("There is no such page.")
	p.press("To the jobs")
	p.press("Fernbank Allotments")
	p.press("Measure again: Long write")
	p.see("11 of 11 runs saved.")
	p.see("Test files removed.")
	p.press("Sustained writing")
	p.see("It kept its rate over 16 GiB")
	p.see("Second by second")
	p.key(escape)
	p.see("what the customer feels")
}

// Where nobody has said which drive goes in, the next step's button leads to where it
// is said.
func TestWhichDriveGoesIn(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	var job struct{ ID string }
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "No drive yet"},
			"old_drive": map[string]any{"kind": "hdd"}}, &job)
	s.ask("POST", "/api/jobs/"+job.ID+"/gates", map[string]any{"gate": "old-drive-out", "why": "it is dead"}, nil)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + job.ID)
	p.see("Enter the new drive.")
	p.press("Enter the drive")
	p.poll("the docket to be in sight",
		`location.hash === '#drives' && document.getElementById('drives').getBoundingClientRect().top < innerHeight`)
}

// A computer that was here before: what was measured when it left becomes Then, and stays
// in doubt until a control agrees. A drive beside the one under test is noted, and a run
// says that its game lay there.
func TestAComputerThatWasHereBefore(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve", "--pace", "0")
	opened := func() string {
		var job struct{ ID string }
		s.ask("POST", "/api/jobs",
			map[string]any{"customer": map[string]any{"name": "Ottilie Brandvold"}, "simulated": "laptop",
				"template": "plain"}, &job)
		return job.ID
	}
	first := opened()
	s.ask("POST", "/api/jobs/"+first+"/tests", map[string]any{"id": "t-processor"}, nil)
	s.ask("POST", "/api/jobs/"+first+"/sittings",
		map[string]any{"setup": "now", "conditions": map[string]any{"power": "mains"}}, nil)
	s.measureBehind(first, "s1", 4, "t-start")
	s.measureDriveBehind(first, "s1")
	id := opened()
	s.ask("PATCH", "/api/jobs/"+id,
		map[string]any{"old_drive": map[string]any{"kind": "sata-ssd"},
			"new_drive": map[string]any{"kind": "nvme", "capacity_bytes": 2e12}}, nil)

	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/intake")
	p.see("This computer was here before")
	p.press("Use as Then")
	p.gone("This computer was here before")
	p.press("Add a drive beside it")
	p.fill("What is on it", "games")
	p.press("SATA SSD")
	p.press("Add the drive")
	p.see("holds games")
	p.press("Then")
	p.see("One session")
	p.see("Processor check (unaffected by the drive)")
	var v struct {
		Job struct {
			Runs     []struct{ Test, Sitting, On string }
			Sittings []struct{ ID, Job string }
			Setups   []struct {
				Also []struct{ Drive, Holds string }
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	assert.Equal(t, "2026-0001", v.Job.Sittings[0].Job)
	assert.GreaterOrEqual(t, len(v.Job.Runs), 15, "its runs came with it")
	require.NotEmpty(t, v.Job.Setups[1].Also)
	games := v.Job.Setups[1].Also[0].Drive

	// On the new drive, a start whose content lay on the drive beside it.
	p.goTo("/jobs/" + id + "/now")
	p.press("Time it: Cold start to desktop")
	p.press("Mains")
	p.press("Save and go to the timer")
	p.timeByHand()
	p.key("k")
	p.see("1 set aside")
	s.ask("POST", "/api/jobs/"+id+"/tests", map[string]any{"id": "t-game-save", "content": "Tidewall"}, nil)
	p.press("Time it: Game: load a save: Tidewall")
	p.see("or a tap starts")
	p.key(space)
	p.see("stops")
	p.hand()
	p.key(space)
	p.press("What this run was")
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`{ const e = [...document.querySelectorAll('select')].find(e => e.labels[0].innerText.includes('Where it lies'));
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(e, `+quote(games)+`); e.dispatchEvent(new Event('change', {bubbles: true})) }`))
	require.NoError(t, err)
	p.see("cold, on the SATA SSD")
	p.key("k")
	p.see("Tests")
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	assert.Equal(t, games, v.Job.Runs[len(v.Job.Runs)-1].On)

	// Nothing of the control was measured again: the drive's lines are in doubt.
	var l struct {
		Findings []struct{ Rule, Then string }
	}
	s.measureBehind(id, v.Job.Runs[len(v.Job.Runs)-1].Sitting, 2, "t-start")
	s.ask("GET", "/api/jobs/"+id+"/ledger", nil, &l)
	at := slices.IndexFunc(l.Findings,
		func(f struct{ Rule, Then string }) bool { return f.Rule == "other-baseline-drive" })
	require.GreaterOrEqual(t, at, 0)
	assert.Contains(t, l.Findings[at].Then, "no control shows")
}

// An answer at intake that is no number is said beside it, and no job is opened with another in its place.
func TestAnAnswerAtIntakeThatIsNoNumber(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	p := open(t, s.base, 1280, 800)
	p.goTo("/new")
	p.see("New job")
	p.fill("Customer", "Otter Lane Pottery")
	p.press("hard disk")
	p.press("Everyday laptop")
	const asked = "How often a day is it switched on"
	p.fill(asked, "often")
	p.press("Open job")
	p.see("A number, such as 3 or 2.5.")
	here, err := chromedp.Run(p.ctx, chromedp.Evaluate[string]("location.pathname"))
	require.NoError(t, err)
	assert.Equal(t, "/new", here)
	var board struct{ Cards []any }
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	assert.NotNil(t, board.Cards)
	assert.Empty(t, board.Cards)
	p.fill(asked, "2,5")
	p.press("Open job")
	p.see("Still to do here:")
	var view struct {
		Job struct {
			Plan struct{ Questions []struct{ Answer float64 } }
		}
	}
	s.ask("GET", "/api/jobs/"+p.jobHere(), nil, &view)
	assert.InDelta(t, 2.5, view.Job.Plan.Questions[0].Answer, 1e-9)
}
