package e2e

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// openJob opens a job by an intake and returns its id.
func (s *server) openJob(intake string) string {
	var view struct{ ID string }
	s.ask("POST", "/api/jobs", json.RawMessage(intake), &view)
	return view.ID
}

// The time of the work is taken, what goes in is noted and known at the model's next visit, and
// what a clone can break is looked
// at by hand; all of it is stored.
func TestTheWorkOfASwap(t *testing.T) {
	t.Parallel()
	s := serve(t, t.TempDir(), "serve")
	id := s.openJob(`{"customer":{"name":"Otter Lane Pottery"},"computer":{"maker":"Larkfield","model":"Hearth 15"},"old_drive":{"kind":"hdd","capacity_bytes":640000000000},"new_drive":{"kind":"sata-ssd","capacity_bytes":960000000000,"rated":{"write_mb_s":400}}}`)
	p := open(t, s.base, 1280, 800)
	p.goTo("/jobs/" + id + "/swap")

	p.see("not taken")
	p.press("Work time")
	p.press("Time a task")
	p.press("Restoring")
	p.press("A backup")
	p.fill("How much", "a lot")
	p.press("Start: waiting")
	p.see("A number, such as 3 or 2.5.")
	p.fill("How much", "390")
	p.press("Start: waiting")
	p.see("waiting now")
	p.press("It was interrupted, or ended earlier")
	p.fill("Why it was interrupted", "the cable slipped")
	p.press("Stop with that")
	p.see("the cable slipped")
	p.press("By hand")
	p.see("by hand now")
	p.press("Stop")
	p.gone("by hand now")
	p.see("the new drive can do 400 MB/s")

	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	path := filepath.Join(t.TempDir(), "clip.png")
	require.NoError(t, os.WriteFile(path, picture.Bytes(), 0o600))
	p.do(chromedp.SetUploadFiles(`input[aria-label="Photo of Photo of the inside, screws sorted"]`, []string{path}))
	p.poll("the photo to be shown", `[...document.querySelectorAll('img')].some(i => i.naturalWidth === 40)`)
	p.press("Prepare")
	p.press("Will it fit in")
	p.see("The slot supports its interface")
	p.press("What this shop knows of Larkfield Hearth 15")
	p.press("Photo of the inside, screws sorted")
	p.fill("Form factor of the drive", "2.5")
	p.fill("Height with heat sink", "9,5")
	p.fill("Form factor", "2.5")
	p.fill("Max. height", "7")
	p.fill("Pitfalls", "a hidden screw under the label")
	p.press("Keep it")
	p.see("at most 7 mm")
	p.see("a hidden screw under the label")

	var view struct {
		Job struct {
			Job struct {
				Tasks []struct {
					What, From string
					Bytes      int64
					Stretches  []struct{ Kind, To, Broke string }
				}
			}
			Drives []struct{ Shape struct{ Form string } }
		}
	}
	s.ask("GET", "/api/jobs/"+id, nil, &view)
	require.Len(t, view.Job.Job.Tasks, 1)
	task := view.Job.Job.Tasks[0]
	assert.Equal(t, []any{"restore", "backup", int64(390e9)}, []any{task.What, task.From, task.Bytes})
	require.Len(t, task.Stretches, 2)
	assert.Equal(t, []string{"waiting", "the cable slipped", "hands-on", ""},
		[]string{task.Stretches[0].Kind, task.Stretches[0].Broke, task.Stretches[1].Kind, task.Stretches[1].Broke})
	assert.NotEmpty(t, task.Stretches[1].To)

	// Another computer of the model comes in: what goes wrong in it is known.
	other := s.openJob(`{"customer":{"name":"Fernbank Allotments"},"computer":{"maker":"larkfield","model":"Hearth 15"},"old_drive":{"kind":"hdd"},"new_drive":{"kind":"nvme"}}`)
	p.goTo("/jobs/" + other + "/prepare")
	p.press("Will it fit in")
	p.see("a hidden screw under the label")
	p.poll("the photo of the earlier visit",
		`document.querySelectorAll('ul[aria-label="Photos of this model"] img').length === 1 && document.querySelector('ul[aria-label="Photos of this model"] img').naturalWidth === 40`)
	p.accessible()

	// Cloned: what a clone can break is asked where the new drive is measured.
	p.goTo("/jobs/" + id + "/prepare")
	p.press("Cloned")
	require.Eventually(t, func() bool { return strings.Contains(string(s.file("/api/jobs/"+id)), `"origin":"cloned"`) },
		patience, 50*time.Millisecond)
	p.goTo("/jobs/" + id + "/now")
	p.press("Checks of the new drive")
	p.see("not checked yet")
	p.press("Problem: Mail opens, with its old messages")
	p.see("let it check the file")
	p.press("Problem: Mail opens, with its old messages")
	p.gone("let it check the file")

	// What fixed it is noted, and offered for the next computer of the model.
	p.press("Problem: Mail opens, with its old messages")
	p.fill("How it was fixed: Mail opens, with its old messages", "moved the data file back")
	p.press("Fixed: Mail opens, with its old messages")
	p.see("Fixed by: moved the data file back")
	s.ask("PATCH", "/api/jobs/"+other, map[string]string{"origin": "cloned"}, nil)
	p.goTo("/jobs/" + other + "/now")
	p.press("Checks of the new drive")
	p.see("On this model before: moved the data file back")

	// A second slot, which disables a port: the page asks whether anything is attached there.
	p.goTo("/jobs/" + other + "/prepare")
	p.press("Will it fit in")
	p.press("What this shop knows of larkfield Hearth 15")
	p.press("Another slot")
	p.accessible()
	p.poll("the fields of two slots", `document.querySelectorAll('input[name^="places."][name$=".name"]').length === 2`)
	s.ask("PUT", "/api/jobs/"+other+"/fitting",
		json.RawMessage(`{"known":{"place":{"name":"bay","form":"3.5-inch"},"more":[{"name":"M2_1","form":"m.2","switches_off":["SATA 5"]}]},"shape":{"form":"m.2"}}`), nil)
	p.see("Best slot: M2_1")
	p.press("In use: It disables no port in use")
	p.see("something is attached to SATA 5")
}
