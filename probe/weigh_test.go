package probe

import (
	"context"
	"encoding/json"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/core/order"
)

// slowly is a computer whose folders take until somebody ends looking at them, or lets them be told.
type slowly struct {
	idle
	begun chan struct{}
	tell  chan struct{}
}

func (s slowly) Facts(context.Context) *hardware.Facts {
	return &hardware.Facts{Volumes: []hardware.Volume{{Mount: "/"}}}
}

func (s slowly) Weigh(ctx context.Context, dir string) (order.Weighed, error) {
	s.begun <- struct{}{}
	select {
	case <-s.tell:
		return order.Weighed{Dir: dir, Files: 1, Bytes: 5,
			Largest: []order.Folder{{Path: "films", Files: 1, Bytes: 5}}}, nil
	case <-ctx.Done():
		return order.Weighed{}, ctx.Err()
	}
}

// Looking which folders are large is one at a time, is told, and gives way to what is measured.
func TestFoldersGiveWayToMeasuring(t *testing.T) {
	told := make(chan order.Weighed, 4)
	bench := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/api/probe/weighed" {
			var in order.Weighed
			assert.NoError(t, json.NewDecoder(r.Body).Decode(&in))
			told <- in
		}
		w.WriteHeader(http.StatusNoContent)
	}))
	defer bench.Close()
	b, err := NewBench(bench.URL, "t")
	require.NoError(t, err)
	computer := slowly{begun: make(chan struct{}, 4), tell: make(chan struct{})}
	j, err := open(computer, b, t.TempDir(), Options{Say: func(string) {}})
	require.NoError(t, err)

	go j.weigh(t.Context(), &order.Order{ID: "a", Dir: "/"})
	<-computer.begun
	j.weigh(t.Context(), &order.Order{ID: "b", Dir: "/"}) // a second while the first looks is none
	close(computer.tell)
	got := <-told
	assert.Equal(t, []any{"a", "", 1}, []any{got.Order, got.Refused, len(got.Largest)})

	computer.tell = make(chan struct{})
	j.computer = computer
	go j.weigh(t.Context(), &order.Order{ID: "c", Dir: "/"})
	<-computer.begun
	j.begin(t.Context(), &order.Order{ID: "round", Kind: order.Measure})
	assert.Contains(t, (<-told).Refused, "a round is running", "what is begun ends it")
	j.halt()
	j.mu.Lock()
	j.doing = "round"
	j.mu.Unlock()
	j.weigh(t.Context(), &order.Order{ID: "d", Dir: "/"})
	assert.Contains(t, (<-told).Refused, "a round is running")
	assert.Empty(t, computer.begun, "nobody looked")
}
