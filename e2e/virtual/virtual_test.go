//go:build virtual

package virtual

import (
	"archive/zip"
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// patience is how long anything in the computer may take; emulated, everything does.
const patience = 4 * time.Minute

// program is a command of this tree, built.
func program(t *testing.T, name string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), name)
	cmd := exec.Command("go", "build", "-trimpath", "-ldflags", "-s -w", "-o", path, "nowthen/cmd/"+name)
	cmd.Env = append(os.Environ(), "CGO_ENABLED=0")
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, string(out))
	return path
}

// bench is a bench that runs on this computer's loopback, which the virtual computer reaches under
// its gateway's address.
type bench struct {
	t    *testing.T
	base string
}

func serve(t *testing.T, arguments ...string) *bench {
	t.Helper()
	cmd := exec.Command(program(t, "nowthen"), append([]string{"serve", "--listen", "127.0.0.1:0", "--host", "10.0.2.2",
		"--data", t.TempDir()}, arguments...)...)
	cmd.Stderr = os.Stderr
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	t.Cleanup(func() { _ = cmd.Process.Signal(os.Interrupt); _ = cmd.Wait() })
	lines := bufio.NewScanner(out)
	require.True(t, lines.Scan())
	_, rest, _ := strings.Cut(lines.Text(), "http://")
	address, _, _ := strings.Cut(rest, "/")
	return &bench{t, "http://" + address}
}

// ask asks the bench and reads its answer.
func (b *bench) ask(method, path string, in, out any) {
	b.t.Helper()
	text, err := json.Marshal(in)
	require.NoError(b.t, err)
	req, err := http.NewRequest(method, b.base+path, bytes.NewReader(text))
	require.NoError(b.t, err)
	req.Header.Set("Content-Type", "application/json")
	res, err := http.DefaultClient.Do(req)
	require.NoError(b.t, err)
	defer res.Body.Close()
	body, err := io.ReadAll(res.Body)
	require.NoError(b.t, err)
	require.Less(b.t, res.StatusCode, 300, "%s %s: %s", method, path, body)
	if out != nil {
		require.NoError(b.t, json.Unmarshal(body, out))
	}
}

// What the customer's folder holds, and which of it is lost on the way.
const (
	customersFiles = 60
	lost           = "letter 17.txt"
)

// image makes a drive with a partition in which a customer's files, the probe and how it joins lie,
// and behind it one for recovery,
// as it is found on many.
func image(t *testing.T, probe, join string, more ...func(files string)) string {
	t.Helper()
	dir := t.TempDir()
	files, path := filepath.Join(dir, "files"), filepath.Join(dir, "old.img")
	require.NoError(t, os.MkdirAll(filepath.Join(files, "start"), 0o755))
	data, err := os.ReadFile(probe)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(filepath.Join(files, "nowthen-probe"), data, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(files, "join"), []byte(join+"\n"), 0o644))
	require.NoError(t, os.WriteFile(filepath.Join(files, "errand"), []byte(errand), 0o644))
	require.NoError(t, os.MkdirAll(filepath.Join(files, "customer"), 0o755))
	for i := range customersFiles {
		text := strings.Repeat(fmt.Sprintf("letter %d to the harbour office\n", i), 20+i)
		require.NoError(t, os.WriteFile(filepath.Join(files, "customer", fmt.Sprintf("letter %d.txt", i)), []byte(text),
			0o644))
	}
	for _, put := range more {
		put(files)
	}
	require.NoError(t, os.WriteFile(path, nil, 0o600))
	require.NoError(t, os.Truncate(path, 3<<30))
	const recovery = "DE94BBA4-06D1-4D22-A16A-BFD50179D6AC"
	run(t, "label: gpt\nstart=2048, size=4194304, type=linux, name=customer\nstart=4196352, size=131072, type="+recovery+", name=recovery\n", "sfdisk", "-q", path)
	run(t, "", "mkfs.ext4", "-q", "-F", "-d", files, "-E", "offset=1048576", path, "2000M")
	return path
}

// run runs a tool of the distribution's.
func run(t *testing.T, in, name string, args ...string) {
	t.Helper()
	cmd := exec.Command(name, args...)
	cmd.Stdin = strings.NewReader(in)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s: %s", name, out)
}

// carried is the comparison of the customer's folder that the computer has printed, waited for.
func (b *bench) carried(c *Computer) json.RawMessage {
	b.t.Helper()
	var text string
	b.eventually(c, "the comparison of the customer's folder", func() bool {
		said := []string{}
		for _, l := range c.Lines() {
			said = append(said, l.Text)
		}
		_, rest, begun := strings.Cut(strings.Join(said, "\n"), "CARRIED\n")
		var ended bool
		text, _, ended = strings.Cut(rest, "CARRIED-END")
		return begun && ended
	})
	return json.RawMessage(text)
}

// check is one of the new drive's checks, as the swap's page has it.
type check struct{ ID, State, Found, Do string }

// told is what the job's page knows of a probe.
type told struct {
	ID, Name, Setup, Mount string
	Away, Busy             bool
	Facts                  struct {
		Drives []struct {
			ID, Model, Kind string
			TemperatureC    *float64 `json:"temperature_c"`
			MaxTempC        *float64 `json:"max_temp_c"`
			Link            *struct{ Kind, Negotiated, Drive, Port string }
			Health          *struct {
				Reallocated  *int64 `json:"reallocated"`
				PowerOnHours *int64 `json:"power_on_hours"`
				BytesWritten *int64 `json:"bytes_written"`
				Warnings     []string
			}
		}
		Computer struct{ Maker, Model string }
		System   struct {
			StartMode string `json:"start_mode"`
		}
		Slots []struct {
			Name, Kind, Key string
			Lanes           int
			Used            *bool
		}
	}
}

// readFiles lets the probe list the customer's folder, or compare it with the list.
func (b *bench) readFiles(c *Computer, job, probe, kind string) {
	b.t.Helper()
	b.ask("PUT", "/api/jobs/"+job+"/probes/"+probe+"/files",
		map[string]any{"kind": kind, "mount": "/mnt", "folder": "/mnt/customer"}, nil)
	b.eventually(c, "the files to be read", func() bool {
		var list []struct {
			Checking struct{ Kind, State, Error string }
		}
		b.ask("GET", "/api/jobs/"+job+"/probes", nil, &list)
		require.Len(b.t, list, 1)
		require.Equal(b.t, kind, list[0].Checking.Kind)
		require.NotEqual(b.t, "failed", list[0].Checking.State, list[0].Checking.Error)
		return list[0].Checking.State == "done"
	})
}

// checkNewDrive lets the probe write marked blocks on the new drive and read them back, and write
// to it alone and with the processor
// loaded: by the page's own way, to a drive whose rate and temperature the emulator sets.
func (b *bench) checkNewDrive(c *Computer, job, probe string, d Drive) {
	t := b.t
	t.Helper()
	at := "/api/jobs/" + job + "/probes/" + probe + "/check"
	for _, in := range []map[string]any{
		{"kind": "capacity", "mount": "/mnt", "label": "NEW", "most_bytes": 8 << 20},
		{"kind": "sustain", "mount": "/mnt", "label": "NEW", "most_bytes": 64 << 20, "seconds": 10, "load": true,
			"heat_sink": true},
	} {
		b.ask("PUT", at, in, nil)
		b.eventually(c, "the check to end", func() bool {
			var list []struct {
				Checking struct{ State, Error string }
			}
			b.ask("GET", "/api/jobs/"+job+"/probes", nil, &list)
			require.Len(t, list, 1)
			require.NotEqual(t, "failed", list[0].Checking.State, list[0].Checking.Error)
			return list[0].Checking.State == "done"
		})
	}
	var v struct {
		Job struct {
			Drives []struct {
				Held *struct {
					Blocks, Wrong int
					Simulated     bool
				}
				Sustained []struct {
					HeatSink *bool `json:"heat_sink"`
					Attached *struct {
						LinkMBs float64 `json:"link_mb_s"`
					}
					Parts []struct {
						Loaded bool
						Bytes  int64
						MBs    float64  `json:"mb_s"`
						PeakC  *float64 `json:"peak_c"`
					}
				}
			}
		}
	}
	b.ask("GET", "/api/jobs/"+job, nil, &v)
	require.Len(t, v.Job.Drives, 2)
	assert.Nil(t, v.Job.Drives[0].Held, "nothing is said of the old one")
	fresh := v.Job.Drives[1]
	require.NotNil(t, fresh.Held)
	assert.Equal(t, []any{32, 0, false}, []any{fresh.Held.Blocks, fresh.Held.Wrong, fresh.Held.Simulated})
	require.Len(t, fresh.Sustained, 1)
	s := fresh.Sustained[0]
	require.NotNil(t, s.HeatSink)
	assert.True(t, *s.HeatSink)
	require.NotNil(t, s.Attached)
	assert.Positive(t, s.Attached.LinkMBs)
	require.Len(t, s.Parts, 2)
	for i, p := range s.Parts {
		t.Logf("sustained writing, loaded %v: %.4g MB/s", p.Loaded, p.MBs)
		assert.Equal(t, i == 1, p.Loaded)
		assert.Positive(t, p.Bytes)
		assert.LessOrEqual(t, p.MBs, 1.1*float64(d.BytesPerS)/1e6, "no faster than the drive is")
		require.NotNil(t, p.PeakC)
		assert.InDelta(t, 323-273.15, *p.PeakC, 0.6, "what the emulator says")
	}
}

func (b *bench) eventually(c *Computer, what string, is func() bool) {
	b.t.Helper()
	until := time.Now().Add(patience)
	for !is() {
		if c.Ended() {
			b.t.Fatalf("waited for %s; the computer has ended:\n%s", what, c.Said())
		}
		if time.Now().After(until) {
			said := c.Said()
			b.t.Fatalf("waited for %s; the computer said:\n%s", what, said[max(0, len(said)-4000):])
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// seen is the probe once it is there, on a setup's side.
func (b *bench) seen(c *Computer, job, setup string) told {
	b.t.Helper()
	var list []told
	b.eventually(c, "the probe on "+setup, func() bool {
		b.ask("GET", "/api/jobs/"+job+"/probes", nil, &list)
		return len(list) == 1 && !list[0].Away && list[0].Setup == setup && list[0].Mount != ""
	})
	return list[0]
}

// done waits for the end of what is measured.
func (b *bench) done(c *Computer, job string, of int) {
	b.t.Helper()
	var m struct {
		State, Error string
		Kept         int
	}
	b.eventually(c, fmt.Sprintf("the end of %d runs", of), func() bool {
		b.ask("GET", "/api/jobs/"+job+"/measuring", nil, &m)
		return m.State != "running"
	})
	require.Equal(b.t, "done", m.State, "%s\n%s", m.Error, c.Said())
	require.Equal(b.t, of, m.Kept)
}

// lasted is how long each restart took by this computer's clock, from what is written on the serial
// port: from when the probe
// is in the start-up programs to when it says there that it is back.
func lasted(c *Computer) (list []float64) {
	var down time.Time
	for _, l := range c.Lines() {
		switch {
		case strings.Contains(l.Text, "is in the start-up programs"):
			down = l.At
		case strings.Contains(l.Text, "Back in job") && !down.IsZero():
			list = append(list, l.At.Sub(down).Seconds())
			down = time.Time{}
		}
	}
	return list
}

// A customer's computer as a whole: it starts from a drive like an old disk, joins, is measured,
// restarts twice under the watch;
// the drive is copied to a larger and faster one, it starts from that and continues, and the ledger
// says what is known to be true.
func TestAWholeVirtualComputer(t *testing.T) {
	kept := os.Getenv("NOWTHEN_VIRTUAL")
	require.NotEmpty(t, kept, "scripts/virtual.sh prepares the computer and says where it is")
	b, probe := serve(t), program(t, "nowthen-probe")
	system := filepath.Join(t.TempDir(), "system.cpio")
	require.NoError(t, initial(kept, system))

	var v struct {
		ID  string
		Job struct {
			Runs []struct {
				Test, Sitting, Method string
				Value                 float64
				U                     float64
			}
			Tests []struct{ ID, Unit string }
			Job   struct{ Carried struct{ Unchanged int } }
		}
	}
	b.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "Ottilie"}, "old_drive": map[string]any{"kind": "hdd"},
			"new_drive": map[string]any{"kind": "nvme"}}, &v)
	for _, test := range []string{"t-long-write", "t-long-read", "t-scattered"} {
		b.ask("PATCH", "/api/jobs/"+v.ID+"/tests/"+test, map[string]any{"span_bytes": 64 << 20, "wanted_runs": 2}, nil)
	}
	b.ask("POST", "/api/jobs/"+v.ID+"/tests", map[string]any{"id": "t-restart-watch"}, nil)
	var pair struct{ Lines []string }
	b.ask("POST", "/api/jobs/"+v.ID+"/pairing", nil, &pair)
	require.NotEmpty(t, pair.Lines)
	at, typed := strings.CutPrefix(strings.Replace(pair.Lines[0], "127.0.0.1", "10.0.2.2", 1),
		"nowthen-probe join https://")
	require.True(t, typed, pair.Lines[0])
	old := image(t, probe, "https://"+at)

	type side struct {
		setup, sitting string
		drive          Drive
	}
	sides := []side{
		{"then", "s1", Drive{Image: old, BytesPerS: 20e6, IOPS: 200}},
		{"now", "s2", Drive{Image: filepath.Join(filepath.Dir(old), "new.img"), NVMe: true, BytesPerS: 40e6,
			IOPS: 500}},
	}
	for _, s := range sides {
		if s.setup == "now" { // the work: copied sector by sector to a larger one
			out, err := exec.Command("cp", "--sparse=always", old, s.drive.Image).CombinedOutput()
			require.NoError(t, err, string(out))
			require.NoError(t, os.Truncate(s.drive.Image, 5<<30))
			// One file is lost on the way. (The room behind the recovery is lost as well: nothing was laid again.)
			run(t, "", "debugfs", "-w", "-R", `rm "customer/`+lost+`"`, s.drive.Image+"?offset=1048576")
			b.ask("POST", "/api/jobs/"+v.ID+"/gates",
				map[string]any{"gate": "old-drive-out", "why": "all that is wanted was measured"}, nil)
		}
		func() {
			c, err := Start(kept, system, s.drive)
			require.NoError(t, err)
			defer c.Off() // pulls the plug
			p := b.seen(c, v.ID, s.setup)
			assert.Equal(t, "/mnt", p.Mount)
			assert.Equal(t, "Ostrand", p.Facts.Computer.Maker)
			require.Len(t, p.Facts.Slots, 1, "the firmware's own table is read")
			slot := p.Facts.Slots[0]
			require.NotNil(t, slot.Used)
			assert.Equal(t, []any{"M2_1", "m2", "M", 4, false, "bios"},
				[]any{slot.Name, slot.Kind, slot.Key, slot.Lanes, *slot.Used, p.Facts.System.StartMode})
			require.Len(t, p.Facts.Drives, 1)
			d := p.Facts.Drives[0]
			require.NotNil(t, d.Link, c.Said())
			require.NotNil(t, d.Health, "its own log is read")
			assert.Empty(t, d.Health.Warnings)
			require.NotNil(t, d.TemperatureC)
			if s.drive.NVMe {
				assert.Equal(t, "nvme", d.Kind)
				assert.Equal(t, []string{"pcie", "1.0 x1", "3.0 x4"},
					[]string{d.Link.Kind, d.Link.Negotiated, d.Link.Port}, "a port that can do more than the drive")
				assert.InDelta(t, 323-273.15, *d.TemperatureC, 0.2, "what the emulator says")
				assert.InDelta(t, 343-273.15, *d.MaxTempC, 0.2)
				require.NotNil(t, d.Health.BytesWritten)
			} else {
				assert.Equal(t, "HALDEN TURNSTONE", d.Model)
				assert.Equal(t, "hdd", d.Kind)
				assert.Equal(t, []string{"sata", "1.5 Gb/s"}, []string{d.Link.Kind, d.Link.Negotiated})
				assert.InDelta(t, 31, *d.TemperatureC, 0.01, "what the emulator says")
				require.NotNil(t, d.Health.Reallocated)
				assert.Zero(t, *d.Health.Reallocated)
			}
			if s.setup == "then" {
				b.readFiles(c, v.ID, p.ID, "list")
			}
			if s.setup == "now" {
				var w struct{ Checks []check }
				b.ask("GET", "/api/jobs/"+v.ID+"/swap", nil, &w)
				found := map[string]check{}
				for _, k := range w.Checks {
					found[k.ID] = k
				}
				assert.Equal(t, "wrong", found["unallocated"].State, "%+v", found["unallocated"])
				assert.Contains(t, found["unallocated"].Found, "behind partition 2")
				assert.Equal(t, "fine", found["aligned"].State)
				difference := b.carried(c)
				for _, how := range []string{"by the commands", "by the buttons"} {
					if how == "by the commands" {
						b.ask("PUT", "/api/jobs/"+v.ID+"/carried", difference, nil)
					} else {
						b.readFiles(c, v.ID, p.ID, "compare")
					}
					var kept struct {
						Listed struct{ Files int }
						Lists  struct{ Missing, Changed []string }
					}
					b.ask("GET", "/api/jobs/"+v.ID+"/swap", nil, &kept)
					assert.Equal(t, customersFiles, kept.Listed.Files, how)
					assert.Equal(t, []string{lost}, kept.Lists.Missing, how)
					assert.Empty(t, kept.Lists.Changed, how)
					b.ask("GET", "/api/jobs/"+v.ID, nil, &v)
					assert.Equal(t, customersFiles-1, v.Job.Job.Carried.Unchanged, how)
				}
				b.checkNewDrive(c, v.ID, p.ID, s.drive)
			}
			b.ask("POST", "/api/jobs/"+v.ID+"/sittings",
				map[string]any{"setup": s.setup, "conditions": map[string]any{}}, nil)
			b.ask("POST", "/api/jobs/"+v.ID+"/measuring",
				map[string]any{"sitting": s.sitting, "probe": p.ID, "dir": "/mnt"}, nil)
			b.done(c, v.ID, 6)
			b.ask("POST", "/api/jobs/"+v.ID+"/restarts",
				map[string]any{"test": "t-restart-watch", "sitting": s.sitting, "probe": p.ID, "runs": 2}, nil)
			b.done(c, v.ID, 2)

			b.ask("GET", "/api/jobs/"+v.ID, nil, &v)
			byClock, n := lasted(c), 0
			require.Len(t, byClock, 2, c.Said())
			for _, r := range v.Job.Runs {
				if r.Sitting != s.sitting {
					continue
				}
				t.Logf("%s on %s: %.4g", r.Test, s.setup, r.Value)
				// The drive lets so much through and no more; a busy machine may keep it from getting there.
				within := func(known float64) {
					assert.LessOrEqual(t, r.Value, 1.06*known, "%s on %s", r.Test, s.setup)
					assert.Greater(t, r.Value, known/2, "%s on %s", r.Test, s.setup)
				}
				switch r.Test {
				case "t-long-read", "t-long-write":
					within(float64(s.drive.BytesPerS) / 1e6)
				case "t-scattered":
					within(float64(s.drive.IOPS))
				case "t-restart-watch":
					assert.Equal(t, "restart-watch", r.Method)
					// By three times 5 % and 50 ms an outside clock may differ.
					assert.InDelta(t, byClock[n], r.Value, 3*(0.05*byClock[n]+0.05)+r.U, "%s on %s: %v by the clock",
						r.Test, s.setup, byClock)
					n++
				}
			}
			assert.Equal(t, 2, n)
		}()
	}

	var ledger struct {
		Rows []struct {
			Line struct {
				Test, Verdict string
				Factor        *float64
			}
		}
	}
	b.ask("GET", "/api/jobs/"+v.ID+"/ledger", nil, &ledger)
	factors := map[string]float64{}
	for _, r := range ledger.Rows {
		if r.Line.Factor != nil {
			factors[r.Line.Test] = *r.Line.Factor
		}
	}
	for test, known := range map[string]float64{"t-long-read": 2, "t-scattered": 2.5} {
		assert.False(t, math.Abs(math.Log(factors[test]/known)) > 0.1, "%s: %.2f, known to be %g", test, factors[test],
			known)
	}
}

// A computer is started, and the start file of a stick on it: without a key being pressed it is on the bench, and one
// press opens a job for it.
func TestAStickInTheVirtualComputer(t *testing.T) {
	kept := os.Getenv("NOWTHEN_VIRTUAL")
	require.NotEmpty(t, kept, "scripts/virtual.sh prepares the computer and says where it is")
	probe, probes := program(t, "nowthen-probe"), t.TempDir()
	for from, to := range map[string]string{probe: "nowthen-probe-linux-amd64",
		"../../scripts/stick/start-linux.sh": "start-linux.sh"} {
		body, err := os.ReadFile(from)
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(probes, to), body, 0o700))
	}
	b := serve(t, "--probes", probes)
	res, err := http.Post(b.base+"/api/sticks", "application/json", nil)
	require.NoError(t, err)
	defer res.Body.Close()
	file, err := io.ReadAll(res.Body)
	require.NoError(t, err)
	require.Equal(t, http.StatusCreated, res.StatusCode, string(file))
	old := image(t, probe, "", func(files string) {
		z, err := zip.NewReader(bytes.NewReader(file), int64(len(file)))
		require.NoError(t, err)
		require.NoError(t, os.CopyFS(filepath.Join(files, "stick"), z))
		told := filepath.Join(files, "stick", "nowthen", "nowthen-stick.json")
		body, err := os.ReadFile(told)
		require.NoError(t, err)
		// The bench's own computer is the gateway to this one.
		lines := strings.ReplaceAll(string(body), "https://127.0.0.1", "https://10.0.2.2")
		require.NoError(t, os.WriteFile(told, []byte(lines), 0o600))
	})
	system := filepath.Join(t.TempDir(), "system.cpio")
	require.NoError(t, initial(kept, system))
	c, err := Start(kept, system, Drive{Image: old, BytesPerS: 60e6, IOPS: 2000})
	require.NoError(t, err)
	defer c.Off()
	var offers []struct{ ID, Digits, Name string }
	b.eventually(c, "the computer to wait", func() bool {
		b.ask("GET", "/api/offers", nil, &offers)
		return len(offers) > 0
	})
	assert.Contains(t, offers[0].Name, "Ostrand")
	assert.Contains(t, c.Said(), ">>>  "+offers[0].Digits+"  <<<", "both screens show the digits")
	var v struct {
		ID  string
		Job struct {
			Computers []struct{ Maker string }
			Drives    []struct{ Kind, Model string }
		}
	}
	b.ask("POST", "/api/offers/"+offers[0].ID+"/admit", map[string]any{}, &v)
	p := b.seen(c, v.ID, "then")
	assert.False(t, p.Away)
	assert.Equal(t, []string{"Ostrand", "HALDEN TURNSTONE"}, []string{v.Job.Computers[0].Maker, v.Job.Drives[0].Model})
}
