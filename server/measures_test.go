//go:build unix

package server

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"nowthen/backup"
	"nowthen/bench/desk"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/store"
)

// The measures of the bench, over real connections on this computer. They are printed
// by "make bench"; what each must be is beside it.

// caller asks a server over a connection.
type caller struct {
	tb   testing.TB
	base string
}

func (c caller) send(method, path, kind string, body io.Reader) []byte {
	req, err := http.NewRequest(method, c.base+path, body)
	require.NoError(c.tb, err)
	req.Header.Set("Content-Type", kind)
	res, err := http.DefaultClient.Do(req)
	require.NoError(c.tb, err)
	defer res.Body.Close()
	var text bytes.Buffer
	if res.ContentLength > 0 { // as large as it will be, at once: the bench is measured, not how this buffer grows
		text.Grow(int(res.ContentLength) + bytes.MinRead)
	}
	_, err = text.ReadFrom(res.Body)
	require.NoError(c.tb, err)
	require.Less(c.tb, res.StatusCode, 300, "%s %s: %s", method, path, &text)
	return text.Bytes()
}

func (c caller) get(path string) []byte { return c.send("GET", path, "", nil) }

func (c caller) post(path, body string) []byte {
	return c.send("POST", path, "application/json", strings.NewReader(body))
}

// p95 reports the 95th percentile of how long something takes, and what it must be.
func p95(b *testing.B, must float64, do func(i int)) {
	var took []float64
	for i := 0; b.Loop(); i++ {
		at := time.Now()
		do(i)
		took = append(took, float64(time.Since(at).Microseconds())/1000)
	}
	slices.Sort(took)
	b.ReportMetric(took[len(took)*95/100], "ms-p95")
	b.ReportMetric(must, "ms-must")
	b.ReportMetric(0, "ns/op")
}

// large is a job with that many tests and runs, half of them on each side.
func large(tests, runs int) *job.Job {
	at := time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC)
	j := &job.Job{
		Head: job.Head{Number: "2026-9999", Opened: at, Reason: "slow",
			Customer: job.Customer{Name: "Much Measured"}},
		Computers: []job.Computer{{ID: "c1", Maker: "Larkfield"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 640e9}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 960e9}}},
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c1", Drive: "d2", Replaces: "d1"}},
	}
	for i := range 20 {
		j.Sittings = append(j.Sittings,
			job.Sitting{ID: fmt.Sprint("s", i), Setup: []string{"then", "now"}[i%2], Started: at,
				Conditions: job.Conditions{Power: job.Mains, Busy: []job.Busy{}}})
	}
	all := catalogue.All()
	for i := range tests {
		t := all[i%len(all)].Test
		t.ID = fmt.Sprintf("%s-%d", t.ID, i)
		j.Tests = append(j.Tests, t)
	}
	u := 0.01
	for i := range runs {
		t := &j.Tests[i%tests]
		r := job.Run{ID: fmt.Sprintf("run-%06d", i), Test: t.ID, Sitting: fmt.Sprint("s", i/tests%20),
			At: at.Add(time.Duration(i) * time.Second), Value: 10 + float64(i%7)/10, Method: job.Automatic, U: &u,
			Warmth: t.Warmth, StartKind: t.StartKind}
		if t.Kind == job.OnDrive {
			r.Series = &job.Series{EveryS: 1, MBs: []float64{100, 101, 99, 100, 102, 98, 100, 100}}
			r.Latency = &job.Latency{MedianMS: 1, P99MS: 2, P999MS: 3, MaxMS: 4,
				Spread: &job.Spread{FromMS: 0.1, PerDecade: 10, Counts: []int64{1, 2, 3, 4, 5, 6, 7, 8}}}
		}
		if len(t.Phases) > 0 {
			r.Phases = map[string]float64{}
			counted := 0.0
			for _, p := range t.Phases {
				r.Phases[p.ID] = 5
				if p.Counted() {
					counted += 5
				}
			}
			r.Value = counted
		}
		j.Runs = append(j.Runs, r)
	}
	return j
}

// over is a server over a store that was filled, and who asks it.
func over(b *testing.B, fill func(*store.Store)) (*Server, caller) {
	Tune() // as the program does
	dir := b.TempDir()
	st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true})
	require.NoError(b, err)
	fill(st)
	require.NoError(b, st.Close())
	s := newServerOver(b, dir, Options{})
	base, stop := listen(b, s)
	b.Cleanup(stop)
	return s, caller{b, base}
}

func BenchmarkLargeJob(b *testing.B) {
	_, c := over(b, func(st *store.Store) { require.NoError(b, st.Add(b.Context(), "L", large(60, 10_000))) })
	note := ""
	for _, t := range large(60, 0).Tests {
		if t.Kind == job.Note {
			note = t.ID
		}
	}
	b.Run("add-a-run", func(b *testing.B) {
		c.get("/api/jobs/L")
		p95(b, 15, func(i int) { // until the page has read the answer, as pages ask for it
			c.post("/api/jobs/L/runs?runs=none",
				fmt.Sprintf(`{"test":%q,"sitting":"s19","value":%d,"unit":%q,"sure":true}`, note, 30+i%5, "W"))
		})
	})
	b.Run("press-a-timer", func(b *testing.B) {
		c.send("PUT", "/api/jobs/L/timer", "application/json",
			strings.NewReader(`{"test":"t-start-0","sitting":"s19"}`))
		now := func() float64 { return field(b, c.get("/api/clock"), "ms").(float64) }
		p95(b, 5, func(i int) {
			c.post("/api/jobs/L/timer/presses",
				fmt.Sprintf(`{"key":"k%d","at_ms":%f,"kind":%q}`, i, now(), []string{"press", "hold"}[min(1, i)]))
		})
	})
	b.Run("ledger", func(b *testing.B) { p95(b, 150, func(int) { c.get("/api/jobs/L/ledger") }) })
	b.Run("job", func(b *testing.B) { p95(b, 60, func(int) { c.get("/api/jobs/L?runs=none") }) })
	b.Run("job-and-runs", func(b *testing.B) { p95(b, 250, func(int) { c.get("/api/jobs/L") }) })
	file, err := jobfile.Write(large(60, 10_000))
	require.NoError(b, err)
	b.Run("import-10000-runs", func(b *testing.B) {
		p95(b, 1000, func(int) {
			c.send("POST", "/api/jobs/import", "application/octet-stream", bytes.NewReader(file))
		})
	})
}

func BenchmarkDemo(b *testing.B) {
	s := newServer(b)
	base, stop := listen(b, s)
	defer stop()
	c := caller{b, base}
	id := field(b, c.get("/api/jobs?state=finished"), "cards", "0", "id").(string)
	for name, path := range map[string]string{"board": "/api/jobs?state=all", "job": "/api/jobs/" + id,
		"ledger": "/api/jobs/" + id + "/ledger", "report": "/api/jobs/" + id + "/report"} {
		b.Run(name, func(b *testing.B) { p95(b, 10, func(int) { c.get(path) }) })
	}
}

// thousands fills a store with made-up jobs in every state, each with runs.
func thousands(tb testing.TB, st *store.Store, n int) {
	names := []string{"Brandvold", "Straum", "Lindgren", "Bindery Quay", "Fernbank", "Halvorsen", "Okonkwo",
		"Tailor on the Steps"}
	models := []string{"Hearth 15", "Desk Tower 4", "Field 13", "Slate 11"}
	at := time.Date(2020, 1, 1, 8, 0, 0, 0, time.UTC)
	err := st.Write(tb.Context(), nil, func(tx *store.Tx) error {
		for i := range n {
			j := large(15, i%48)
			j.Head = job.Head{Number: fmt.Sprintf("2020-%04d", i), Opened: at.Add(time.Duration(i) * time.Hour),
				Reason: "slow", Customer: job.Customer{Name: names[i%len(names)]}}
			j.Computers[0].Model = models[i%len(models)]
			j.Sittings = j.Sittings[:4]
			for k := range j.Runs {
				j.Runs[k].Sitting = fmt.Sprint("s", k%4)
			}
			if _, err := tx.Save(tb.Context(), fmt.Sprintf("J%05d", i), nil, j); err != nil {
				return err
			}
		}
		return nil
	})
	require.NoError(tb, err)
}

// BenchmarkBoard asks for the bench page of 2,000 open jobs, first after each start of
// the program, then with a change between.
func BenchmarkBoard(b *testing.B) {
	dir := b.TempDir()
	st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true})
	require.NoError(b, err)
	thousands(b, st, 2000)
	require.NoError(b, st.Close())
	b.Run("first", func(b *testing.B) {
		var took, starts []float64
		for b.Loop() {
			st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{})
			require.NoError(b, err)
			d := desk.New(st, desk.Options{})
			at := time.Now()
			require.NoError(b, d.Start(b.Context()))
			starts = append(starts, float64(time.Since(at).Microseconds())/1000)
			s := New(d, st, nil, s0, Options{})
			at = time.Now()
			res, err := s.app.Test(request("GET", "/api/jobs", ""), fiber.TestConfig{Timeout: time.Minute})
			require.NoError(b, err)
			_, _ = io.Copy(io.Discard, res.Body)
			took = append(took, float64(time.Since(at).Microseconds())/1000)
			require.Equal(b, 200, res.StatusCode)
			require.NoError(b, st.Close())
		}
		slices.Sort(took)
		slices.Sort(starts)
		b.ReportMetric(took[len(took)*95/100], "ms-p95")
		b.ReportMetric(300, "ms-must")
		b.ReportMetric(starts[len(starts)/2], "ms-to-start")
		b.ReportMetric(0, "ns/op")
	})
	s := newServerOver(b, dir, Options{})
	base, stop := listen(b, s)
	defer stop()
	c := caller{b, base}
	paths := []string{"/api/jobs", "/api/jobs?state=all", "/api/jobs?state=finished&q=brandvold",
		"/api/jobs?state=all&q=hearth+2020-01", "/api/jobs?q=quay"}
	for _, p := range paths {
		c.get(p)
	}
	b.Run("again", func(b *testing.B) {
		p95(b, 50, func(i int) {
			if i%7 == 0 {
				c.send("PATCH", "/api/jobs/J00000", "application/json",
					strings.NewReader(fmt.Sprintf(`{"reason":"slow %d"}`, i)))
			}
			c.get(paths[i%len(paths)])
		})
	})
}

// spent is the processor time that this process has used.
func spent(tb testing.TB) time.Duration {
	var u syscall.Rusage
	require.NoError(tb, syscall.Getrusage(syscall.RUSAGE_SELF, &u))
	return time.Duration(u.Utime.Nano() + u.Stime.Nano())
}

// BenchmarkListeners lets 50 devices listen while a round runs. It reports the events
// of runs that a device did not hear of, and the share of one core beyond what the
// same round takes with nobody listening (the devices are this process's, too).
func BenchmarkListeners(b *testing.B) {
	for b.Loop() {
		alone, _, passed := listened(b, 0)
		with, lost, _ := listened(b, 50)
		b.ReportMetric(float64(lost), "lost")
		b.ReportMetric(100*(with-alone).Seconds()/passed.Seconds(), "%-of-a-core")
		b.ReportMetric(10, "%-must")
	}
	b.ReportMetric(0, "ns/op")
}

func listened(b *testing.B, devices int) (cpu time.Duration, lost int, passed time.Duration) {
	dir := b.TempDir()
	st, err := store.Open(filepath.Join(dir, backup.Database), store.Options{Migrate: true})
	require.NoError(b, err)
	defer st.Close()
	s := New(desk.New(st, desk.Options{Pace: 40}), st, nil, s0, Options{})
	base, stop := listen(b, s)
	defer stop()
	c := caller{b, base}
	id := field(b, c.post("/api/jobs", `{"customer":{"name":"x"},"simulated":"laptop"}`), "id").(string)
	c.post("/api/jobs/"+id+"/sittings", `{"setup":"then","conditions":{}}`)
	var hear, ready sync.WaitGroup
	last := make([]int, devices)
	for i := range devices {
		ready.Add(1)
		hear.Go(func() {
			res, err := http.Get(base + "/api/events")
			require.NoError(b, err)
			defer res.Body.Close()
			d := newEventReader(res.Body)
			ready.Done()
			for {
				kind, data, err := d.next()
				if err != nil {
					return
				}
				if kind != "measuring" {
					continue
				}
				var m struct {
					Data struct {
						Kept  int
						State string
					}
				}
				if json.Unmarshal(data, &m) == nil {
					last[i] = m.Data.Kept
					if m.Data.State == "done" {
						return
					}
				}
			}
		})
	}
	ready.Wait()
	runtime.GC()
	before, at := spent(b), time.Now()
	c.post("/api/jobs/"+id+"/measuring", `{"sitting":"s1"}`)
	m, err := s.desk.Rounds.Wait(b.Context(), id)
	require.NoError(b, err)
	passed, cpu = time.Since(at), spent(b)-before
	done := make(chan struct{})
	go func() { hear.Wait(); close(done) }()
	select {
	case <-done:
	case <-time.After(10 * time.Second):
	}
	for _, k := range last {
		if k != m.Kept {
			lost++
		}
	}
	return cpu, lost, passed
}
