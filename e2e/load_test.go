package e2e

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/jpeg"
	"io"
	"net/http"
	"os"
	"strconv"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/testscale"
)

// peakMB is the most memory that the program has had at once, MB (proc_pid_status(5), VmHWM).
func (s *server) peakMB() float64 {
	s.t.Helper()
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/status", s.cmd.Process.Pid))
	require.NoError(s.t, err)
	for line := range strings.Lines(string(text)) {
		if f := strings.Fields(line); len(f) == 3 && f[0] == "VmHWM:" {
			kb, err := strconv.ParseFloat(f[1], 64)
			require.NoError(s.t, err)
			return kb * 1024 / 1e6
		}
	}
	s.t.Fatal("the system does not tell")
	return 0
}

// Five thousand event streams: those above the limit are refused, everybody else is served.
func TestFiveThousandEventStreams(t *testing.T) {
	testscale.Rare(t)
	s := serve(t, t.TempDir(), "serve")
	ctx, leave := context.WithCancel(t.Context())
	defer leave()
	transport := &http.Transport{MaxIdleConns: -1, DisableKeepAlives: true}
	client := &http.Client{Transport: transport}
	var open, refused, failed atomic.Int64
	var all sync.WaitGroup
	turns := make(chan struct{}, 500)
	for range 5000 {
		all.Go(func() {
			turns <- struct{}{}
			req, err := http.NewRequestWithContext(ctx, "GET", s.base+"/api/events", nil)
			if !assert.NoError(t, err) {
				return
			}
			res, err := client.Do(req)
			<-turns
			switch {
			case err != nil:
				failed.Add(1) // the connection itself was refused
			case res.StatusCode == http.StatusOK:
				open.Add(1)
				_, _ = io.Copy(io.Discard, res.Body) // until the end
				_ = res.Body.Close()
			default:
				refused.Add(1)
				_ = res.Body.Close()
			}
		})
	}
	require.Eventually(t, func() bool { return open.Load()+refused.Load()+failed.Load() == 5000 }, patience,
		10*time.Millisecond)
	for range 100 {
		res, err := http.Get(s.base + "/api/jobs")
		require.NoError(t, err)
		require.Equal(t, http.StatusOK, res.StatusCode)
		_ = res.Body.Close()
	}
	peak := s.peakMB()
	t.Logf("measure: %d streams open, %d refused, %d not connected; peak memory %.0f MB", open.Load(), refused.Load(),
		failed.Load(), peak)
	assert.Positive(t, open.Load())
	assert.Positive(t, refused.Load())
	assert.Less(t, peak, 400.0)
	leave()
	all.Wait()
}

// photograph is a picture like a camera's.
func photograph(t *testing.T, width, height int) []byte {
	t.Helper()
	img := image.NewYCbCr(image.Rect(0, 0, width, height), image.YCbCrSubsampleRatio420)
	for i := range img.Y {
		img.Y[i] = uint8(i * 31 / 7)
	}
	var b bytes.Buffer
	require.NoError(t, jpeg.Encode(&b, img, &jpeg.Options{Quality: 80}))
	return b.Bytes()
}

// Mixed load with pictures, as a busy shop makes it; NOWTHEN_LOAD says how long (make bench: six minutes).
func TestMixedLoad(t *testing.T) {
	testscale.Rare(t)
	lasts, err := time.ParseDuration(os.Getenv("NOWTHEN_LOAD"))
	if err != nil {
		lasts = 10 * time.Second
	}
	s := serve(t, demoData(t), "serve")
	var board struct{ Cards []struct{ ID string } }
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	require.NotEmpty(t, board.Cards)
	picture := photograph(t, 6000, 4000)
	var view struct {
		ID  string
		Job struct {
			Plan struct{ Steps []struct{ ID string } }
		}
	}
	s.ask("POST", "/api/jobs",
		map[string]any{"customer": map[string]any{"name": "Load"}, "old_drive": map[string]any{"kind": "hdd"}}, &view)
	s.ask("POST", "/api/jobs/"+view.ID+"/sittings", map[string]any{"setup": "then", "conditions": map[string]any{}},
		nil)
	get := func(path string) func(int) {
		return func(n int) {
			res, err := http.Get(s.base + strings.ReplaceAll(path, "JOB", board.Cards[n%len(board.Cards)].ID))
			if assert.NoError(t, err) {
				_, _ = io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				assert.Less(t, res.StatusCode, 500, path)
			}
		}
	}
	post := func(path, kind string, body func(n int) []byte) func(int) {
		return func(n int) {
			res, err := http.Post(s.base+path, kind, bytes.NewReader(body(n)))
			if assert.NoError(t, err) {
				_, _ = io.Copy(io.Discard, res.Body)
				_ = res.Body.Close()
				assert.Less(t, res.StatusCode, 500, path)
			}
		}
	}
	over := time.Now().Add(lasts)
	var all sync.WaitGroup
	var done atomic.Int64
	for _, each := range []func(int){
		get("/api/jobs"), get("/api/jobs/JOB"), get("/api/jobs/JOB/ledger"), get("/api/jobs/JOB/report/file?form=pdf&draft=1"), get("/api/jobs/JOB/report/file?form=png&draft=1"),
		get("/api/jobs/JOB/export"),
		post("/api/jobs/"+view.ID+"/steps/"+view.Job.Plan.Steps[0].ID+"/photos?name=x", "application/octet-stream",
			func(int) []byte { return picture }),
		post("/api/jobs/"+view.ID+"/runs", "application/json", func(n int) []byte {
			return fmt.Appendf(nil, `{"test":"t-start","sitting":"s1","value":%d,"unit":"s","sure":true}`, 60+n%9)
		}),
	} {
		all.Go(func() {
			for n := 0; time.Now().Before(over); n++ {
				each(n)
				done.Add(1)
			}
		})
	}
	all.Wait()
	peak := s.peakMB()
	t.Logf("measure: %d requests in %v; peak memory %.0f MB", done.Load(), lasts, peak)
	assert.Less(t, peak, 300.0)
}
