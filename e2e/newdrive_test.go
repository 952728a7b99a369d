package e2e

import (
	"strings"
	"testing"
	"time"

	"nowthen/testscale"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// The new drive hangs on the customer's computer by USB and is checked before anything is put on
// it: the label is asked for, what
// is found is stored on it, and once it is in, it is written to under load.
func TestTheNewDriveIsLookedAtByTheProbe(t *testing.T) {
	testscale.Rare(t)
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	var v struct {
		ID  string
		Job struct {
			Drives []struct {
				ID   string
				Held *struct {
					Wrong  int
					Missed float64
				}
				Sustained []struct {
					Simulated bool
					Heat_sink *bool
					Room_c    float64
					Parts     []struct {
						Loaded bool
						Mb_s   float64
						Peak_c float64
					}
				}
			}
		}
	}
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "Ottilie"}, "old_drive": map[string]any{"kind": "hdd"},
			"new_drive": map[string]any{"kind": "sata-ssd", "capacity_bytes": 960_197_124_096,
				"rated": map[string]any{"write_mb_s": 500, "max_temp_c": 70}}}, &v)
	var pair struct{ Code string }
	s.ask("POST", "/api/jobs/"+v.ID+"/pairing", nil, &pair)
	joins(t, t.TempDir(), "--sim", "reception", "--pace", "0", "--away", "500ms", s.base, pair.Code)
	// ended waits until the check that was begun last, of a kind, is done.
	last := ""
	ended := func(kind string) {
		t.Helper()
		require.Eventually(t, func() bool {
			var list []struct {
				Checking *struct{ Order, Kind, State string }
			}
			s.ask("GET", "/api/jobs/"+v.ID+"/probes", nil, &list)
			if len(list) != 1 || list[0].Checking == nil || list[0].Checking.Order == last ||
				list[0].Checking.Kind != kind || list[0].Checking.State != "done" {
				return false
			}
			last = list[0].Checking.Order
			return true
		}, 6*patience, 100*time.Millisecond)
	}
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + v.ID + "/prepare")
	p.see("Ostrand Front Desk 3")
	p.press("True capacity and sustained writing")
	p.press("Check with the probe …")
	// The old drive alone is in it, and is not offered.
	p.see("The probe sees no drive but the old one.")
	p.press("Start writing")
	p.see("Choose the new drive.")
	p.press("Cancel")
	p.press("What happens to the simulated computer")
	p.press("Connect the new drive by USB")
	p.see("USB 5 Gb/s")
	p.see("Recognised with its full capacity")

	p.press("Check with the probe …")
	p.fill("Code on its label", "0001 old")
	p.press("Start writing")
	p.see("The last check failed: that is the label of the old drive: nothing is written on it")
	p.press("Check with the probe …")
	p.fill("Code on its label", "0001 new")
	p.accessible()
	p.press("Start writing")
	ended("capacity") // gigabytes of marks are made and compared: how long that takes is the machine's
	p.see("True capacity matches the label")
	p.see("spread over 9")
	p.gone("The last check failed")
	p.press("Check with the probe …")
	p.fill("Check", "Sustained")
	p.fill("Room", "warm")
	p.press("Start writing")
	p.see("A number, such as 3 or 2.5.")
	p.fill("Room", "21")
	p.press("Start writing")
	ended("sustain")
	p.see("It writes steadily")
	p.see("430 MB/s, and after 15.5 GB")
	p.accessible()
	s.ask("GET", "/api/jobs/"+v.ID, nil, &v)
	require.Len(t, v.Job.Drives, 2)
	assert.Nil(t, v.Job.Drives[0].Held, "nothing is said of the old one")
	assert.Empty(t, v.Job.Drives[0].Sustained)
	fresh := v.Job.Drives[1]
	require.NotNil(t, fresh.Held)
	assert.Zero(t, fresh.Held.Wrong)
	assert.Less(t, fresh.Held.Missed, 0.01)
	require.Len(t, fresh.Sustained, 1)
	assert.True(t, fresh.Sustained[0].Simulated)
	assert.Nil(t, fresh.Sustained[0].Heat_sink, "nobody said")
	assert.InDelta(t, 21, fresh.Sustained[0].Room_c, 1e-9)
	require.Len(t, fresh.Sustained[0].Parts, 1)
	assert.Less(t, fresh.Sustained[0].Parts[0].Mb_s, 431.0, "its case is the limit")
	assert.Greater(t, fresh.Sustained[0].Parts[0].Mb_s, 290.0)

	p.press("Swap the drive")
	p.see("Brightwater Kestrel S1 960")
	p.goTo("/jobs/" + v.ID + "/now")
	p.see("Checks of the new drive")
	p.press("Check under load …")
	p.fill("Code on its label", "new")
	p.fill("Heat sink", "none")
	p.press("Start writing")
	ended("sustain")
	p.see("with the processor loaded, without a heat sink")
	s.ask("GET", "/api/jobs/"+v.ID, nil, &v)
	fresh = v.Job.Drives[1]
	require.Len(t, fresh.Sustained, 2)
	require.Len(t, fresh.Sustained[1].Parts, 2)
	assert.Greater(t, fresh.Sustained[1].Parts[1].Peak_c, fresh.Sustained[1].Parts[0].Peak_c)

	// Cloned as it was, room is lost: that is at the last gate until the probe sees it put
	// right, and is kept if it is passed so.
	p.goTo("/jobs/" + v.ID + "/report")
	p.see("Checkpoint: handed back")
	p.see("320.1 GB behind partition 4")
	p.accessible()
	s.ask("POST", "/api/jobs/"+v.ID+"/gates",
		map[string]any{"gate": "handed-back", "why": "the owner is in a hurry", "old_drive": "returned"}, nil)
	var passed struct {
		Job struct {
			Job struct {
				Gates []struct {
					Name    string
					Missing []string
				}
			}
		}
	}
	s.ask("GET", "/api/jobs/"+v.ID, nil, &passed)
	require.Len(t, passed.Job.Job.Gates, 1)
	assert.Contains(t, strings.Join(passed.Job.Job.Gates[0].Missing, "; "), "320.1 GB behind partition 4")
	p.see("Handed back:")
}

// A look that takes long can be ended, and a second device sees its progress.
func TestALookAtTheNewDriveIsStopped(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Ottilie"},"old_drive":{"kind":"hdd"},"new_drive":{"kind":"sata-ssd","capacity_bytes":960197124096}}`)
	var pair struct{ Code string }
	s.ask("POST", "/api/jobs/"+id+"/pairing", nil, &pair)
	joins(t, t.TempDir(), "--sim", "reception", "--pace", "3", "--away", "500ms", s.base, pair.Code)
	var probes []struct {
		ID       string
		Mount    string
		Checking *struct{ State string }
	}
	require.Eventually(t, func() bool {
		s.ask("GET", "/api/jobs/"+id+"/probes", nil, &probes)
		return len(probes) == 1 && probes[0].Mount != ""
	}, patience, 50*time.Millisecond)
	probe := "/api/jobs/" + id + "/probes/" + probes[0].ID
	s.ask("POST", probe+"/doings", map[string]any{"do": "attach"}, nil)
	p, phone := open(t, s.base, 1280, 800), open(t, s.base, 390, 844)
	p.goTo("/jobs/" + id + "/prepare")
	p.press("True capacity and sustained writing")
	p.see("USB 5 Gb/s")
	p.press("Check with the probe …")
	p.fill("Check", "Sustained")
	p.press("Start writing")
	p.see("Writing, ")
	phone.goTo("/jobs/" + id + "/prepare")
	phone.press("True capacity and sustained writing")
	phone.see("Writing, ")
	phone.see(" MB/s")
	phone.press("Stop")
	p.see("Check with the probe …")
	p.gone("The last check failed")
	s.ask("GET", "/api/jobs/"+id+"/probes", nil, &probes)
	assert.Equal(t, "cancelled", probes[0].Checking.State)
}

// The page that keeps the graphics busy draws, says by what, and stops.
func TestTheGraphicsAtWork(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	// which the processor has to draw here: a small one leaves the other journeys their time
	p := open(t, s.base, 320, 480)
	p.do(chromedp.Navigate(s.base + "/load"))
	p.see("Graphics load")
	p.accessible()
	p.press("Start")
	p.poll("what draws it", `/Drawn by|cannot draw/.test(document.getElementById('says').textContent)`)
	if !strings.Contains(p.text(), "cannot draw") {
		p.see("frames per second")
		p.press("Stop")
		p.see("Stopped.")
		p.poll("no figure is left", `document.getElementById('rate').textContent === ''`)
	}
}

// A check outlives the probe and the bench: killed in the middle, both continue, and what is found is stored once.
func TestACheckOutlivesProbeAndBench(t *testing.T) {
	t.Parallel()
	data, state := t.TempDir(), t.TempDir()
	s := serve(t, data, "serve")
	id := s.openJob(`{"customer":{"name":"Ottilie"},"old_drive":{"kind":"hdd"},"new_drive":{"kind":"sata-ssd","capacity_bytes":960197124096}}`)
	var pair struct{ Code string }
	s.ask("POST", "/api/jobs/"+id+"/pairing", nil, &pair)
	pr := joins(t, state, "--sim", "reception", "--pace", "10", "--away", "200ms", s.base, pair.Code)
	var probes []struct {
		ID       string
		Setup    string
		Checking *struct {
			State string
			Done  float64
		}
	}
	probe := func() string {
		s.ask("GET", "/api/jobs/"+id+"/probes", nil, &probes)
		if len(probes) == 0 {
			return ""
		}
		return "/api/jobs/" + id + "/probes/" + probes[0].ID
	}
	require.Eventually(t, func() bool { return probe() != "" && probes[0].Setup == "then" }, patience,
		50*time.Millisecond)
	s.ask("POST", probe()+"/doings", map[string]any{"do": "swap"}, nil)
	require.Eventually(t, func() bool { return probe() != "" && probes[0].Setup == "now" }, patience,
		50*time.Millisecond)
	s.ask("PUT", probe()+"/check",
		map[string]any{"kind": "sustain", "mount": "simulated", "label": "NEW", "seconds": 30, "load": true,
			"room_c": 23}, nil)
	require.Eventually(t, func() bool { probe(); return probes[0].Checking.Done > 0.1 }, patience, 50*time.Millisecond)
	pr.kill()
	address := strings.TrimPrefix(s.base, "http://")
	s.kill()
	s = serve(t, data, "serve", "--listen", address)
	probe()
	assert.Equal(t, "running", probes[0].Checking.State, "the bench has not forgotten it")
	joins(t, state, "--sim", "reception", "--pace", "200", "--away", "200ms")
	require.Eventually(t, func() bool { probe(); return probes[0].Checking.State == "done" }, 6*patience,
		50*time.Millisecond)
	var v struct {
		Job struct {
			Drives []struct {
				Sustained []struct {
					Room_c float64
					Parts  []struct{ Loaded bool }
				}
			}
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &v)
	require.Len(t, v.Job.Drives[1].Sustained, 1)
	assert.Len(t, v.Job.Drives[1].Sustained[0].Parts, 2)
	assert.InDelta(t, 23, v.Job.Drives[1].Sustained[0].Room_c, 1e-9, "what the technician said goes with it")
	assert.Empty(t, v.Job.Drives[0].Sustained)
}

// The files of the old drive are listed by one press, and by one more it is said which of them came across.
func TestTheFilesAreListedAndComparedByButtons(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	var v struct {
		ID  string
		Job struct {
			Job struct {
				Carried *struct{ Files, Unchanged, Missing int }
			}
		}
	}
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "Ottilie"}, "old_drive": map[string]any{"kind": "hdd"},
			"new_drive": map[string]any{"kind": "sata-ssd", "capacity_bytes": 960_197_124_096}}, &v)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + v.ID + "/prepare")
	p.press("File list")
	p.press("On a computer that hasn’t joined")
	p.see("nowthen-probe manifest --of FOLDER --out old.gz")
	var pair struct{ Code string }
	s.ask("POST", "/api/jobs/"+v.ID+"/pairing", nil, &pair)
	state := t.TempDir()
	slow := joins(t, state, "--sim", "reception", "--pace", "1", s.base, pair.Code)
	p.see("Ostrand Front Desk 3")
	p.press("List the files")
	p.see("reading files")
	p.press("Pause")
	p.see("Paused. What was read is kept.")
	p.accessible()
	slow.kill()
	joins(t, state, "--sim", "reception", "--pace", "0", "--away", "500ms")
	p.press("Continue")
	p.see("240 files, 10 GB in Users")
	p.see("The list stays in the shop")
	p.accessible()
	p.press("What happens to the simulated computer")
	p.press("Swap the drive")
	p.see("Brightwater Kestrel S1 960")
	p.goTo("/jobs/" + v.ID + "/swap")
	p.press("What came across")
	p.press("Check what came across")
	p.see("240 files: 239 unchanged, 1 missing.")
	p.accessible()
	s.ask("GET", "/api/jobs/"+v.ID, nil, &v)
	require.NotNil(t, v.Job.Job.Carried)
	assert.Equal(t, []int{240, 239, 1}, []int{v.Job.Job.Carried.Files, v.Job.Job.Carried.Unchanged, v.Job.Job.Carried.Missing})
}

// A computer of which the bench has heard nothing is shown as away wherever a page would ask something of it.
func TestAComputerThatIsAwayIsShownSoOnEveryPage(t *testing.T) {
	t.Parallel()
	data := t.TempDir()
	s := serve(t, data, "serve")
	var v struct{ ID string }
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "Ottilie"}, "old_drive": map[string]any{"kind": "hdd"},
			"new_drive": map[string]any{"kind": "sata-ssd", "capacity_bytes": 960_197_124_096}}, &v)
	var pair struct{ Code string }
	s.ask("POST", "/api/jobs/"+v.ID+"/pairing", nil, &pair)
	pr := joins(t, t.TempDir(), "--sim", "reception", "--pace", "0", s.base, pair.Code)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + v.ID + "/prepare")
	p.see("joined")
	s.ask("POST", "/api/jobs/"+v.ID+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{}}, nil)
	pr.kill()
	s.kill() // another bench has heard nothing of it either
	s = serve(t, data, "serve", "--listen", strings.TrimPrefix(s.base, "http://"))

	const keeps = "away: it keeps its results and sends them when it is back"
	for _, page := range []string{"then", "prepare", "swap", "now"} {
		p.goTo("/jobs/" + v.ID + "/" + page)
		p.see(keeps)
	}
	p.goTo("/jobs/" + v.ID + "/measure/then")
	p.see("It is away: the round starts when it is back.")
	for _, fold := range []string{"Largest folders of the old drive", "File list"} {
		p.goTo("/jobs/" + v.ID + "/prepare")
		p.see(keeps)
		p.press(fold)
		p.see("Ostrand Front Desk 3 is away.")
	}
	var list []struct{ Away bool }
	s.ask("GET", "/api/jobs/"+v.ID+"/probes", nil, &list)
	require.Len(t, list, 1)
	assert.True(t, list[0].Away)
}
