package probe

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"strings"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/manifest"
	"nowthen/core/order"
	"nowthen/core/round"
)

// idle is a computer without work.
type idle struct{}

func (idle) Identity() string  { return "0123456789abcdef01234567" }
func (idle) Simulated() string { return "" }
func (idle) Facts(context.Context) *hardware.Facts {
	return &hardware.Facts{Drives: []hardware.Drive{}, Volumes: []hardware.Volume{}, Partitions: []hardware.Partition{},
		Absent: []hardware.Absence{}}
}
func (idle) Conditions(context.Context, string) (job.Conditions, []string, error) {
	return job.Conditions{}, nil, errors.New("nobody asked")
}
func (idle) List(context.Context, *order.Order, string, string, func(drivetest.Progress)) (string, manifest.Listed, error) {
	return "", manifest.Listed{}, errors.New("nobody asked")
}
func (idle) Weigh(context.Context, string) (order.Weighed, error) {
	return order.Weighed{}, errors.New("nobody asked")
}
func (idle) Open(context.Context, string, bool) (round.Place, error) {
	return nil, errors.New("nobody asked")
}
func (idle) Launcher(*job.Test, uint64) (func(context.Context) (*job.Run, error), error) {
	return nil, errors.New("nobody asked")
}
func (idle) Do(string) error { return errors.New("nobody asked") }

// traffic answers as a bench that has nothing to do, and counts what goes over the line.
type traffic struct {
	asked []string
	bytes int
}

// held is the length of the bench's long poll.
const held = 25 * time.Second

func (w *traffic) RoundTrip(r *http.Request) (*http.Response, error) {
	what := r.Method + " " + strings.TrimPrefix(r.URL.Path, "/api/probe/")
	w.asked = append(w.asked, what)
	if r.Body != nil {
		n, _ := io.Copy(io.Discard, r.Body)
		w.bytes += int(n)
	}
	w.bytes += len(r.URL.String()) + 200 // its head, about
	answer, status := "", http.StatusNoContent
	if what == "GET work" {
		select {
		case <-time.After(held):
		case <-r.Context().Done():
			return nil, r.Context().Err()
		}
	} else if what == "POST hello" {
		answer, status = `{"probe":"p","job":"j","number":"2026-0001","token":"t"}`, http.StatusOK
	}
	return &http.Response{StatusCode: status, Body: io.NopCloser(bytes.NewBufferString(answer)),
		Header: http.Header{"Content-Type": {"application/json"}}, Request: r}, nil
}

// An hour without work: nothing but a question each time that the bench has held the last one, and
// next to nothing in bytes.
func TestAnIdleHour(t *testing.T) {
	dir := t.TempDir()
	synctest.Test(t, func(t *testing.T) {
		w := &traffic{}
		b := &Bench{Address: "http://bench.invalid", Token: "t", base: "http://bench.invalid",
			client: &http.Client{Transport: w, Timeout: answering}}
		j, err := open(idle{}, b, dir, Options{Say: func(string) {}})
		require.NoError(t, err)
		ctx, stop := context.WithTimeout(t.Context(), time.Hour)
		defer stop()
		began := time.Now()
		_ = j.Run(ctx)
		assert.GreaterOrEqual(t, time.Since(began), time.Hour)
		assert.Less(t, time.Since(began), time.Hour+time.Minute)
		others := map[string]int{}
		for _, a := range w.asked {
			others[a]++
		}
		questions := others["GET work"]
		delete(others, "GET work")
		assert.InDelta(t, time.Hour/held, questions, 2)
		for what, n := range others {
			assert.LessOrEqual(t, n, 1, "%s is said at most once, as it begins", what)
		}
		assert.Less(t, w.bytes, 64<<10, "bytes in an hour")
	})
}
