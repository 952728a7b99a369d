package probe

import (
	"context"
	"fmt"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/order"
	"nowthen/core/order/ordertest"
)

// A bench that orders what a probe must not do gets none of it: each order ends with its reason, and nothing is
// written, started or panics.
func TestAHostileBench(t *testing.T) {
	chosen, other := t.TempDir(), t.TempDir()
	for name, to := range map[string]string{"to-etc": "/etc", "to-usr": "/usr/share", "to-other": other} {
		require.NoError(t, os.Symlink(to, filepath.Join(chosen, name)))
	}
	orders := ordertest.Refused()
	for _, dir := range []string{"/etc", "/usr", "/usr/lib", "/boot", "/bin", "/root/.ssh", "/etc/../etc", other, ".",
		"relative", `C:\Windows`, `\\server\share`,
		chosen + "/../" + filepath.Base(other), chosen + "/to-etc", chosen + "/to-usr", chosen + "/to-other", chosen +
			"x"} {
		tests := catalogue.Tests(1<<20, 0, catalogue.LongRead)
		orders["a test file in "+dir] = order.Order{ID: "o", Kind: order.Measure, Tests: tests, Wanted: []int{1},
			Dir: dir}
		orders["a read of "+dir] = order.Order{ID: "o", Kind: order.Measure, Tests: tests, Wanted: []int{1},
			Dir: chosen, Folder: dir}
		orders["a check in "+dir] = order.Order{ID: "o", Kind: order.Sustain, Dir: dir,
			Check: &order.Check{Label: "NEW", Seconds: 1}}
	}
	b := &hostile{ended: map[string]order.Ended{}, begun: map[string]string{}}
	for i, name := range slices.Sorted(maps.Keys(orders)) {
		o := orders[name]
		if o.ID == "o" {
			o.ID = fmt.Sprintf("o%d", i)
		}
		text, err := json.Marshal(o)
		if err != nil {
			continue // what is no number can't be sent
		}
		b.orders = append(b.orders, text)
		if o.ID != "" && order.Begun(o.Kind) {
			b.begun[o.ID] = name
		}
	}
	require.GreaterOrEqual(t, len(b.orders), 80)
	b.told.L = &b.mu
	s := httptest.NewServer(b)
	defer s.Close()
	client, err := NewBench(s.URL, "token")
	require.NoError(t, err)
	j, err := open(This{}, client, t.TempDir(),
		Options{Folders: []string{chosen}, Permit: func(_ context.Context, line string) error {
			t.Errorf("it would launch %s", line)
			return nil
		}})
	require.NoError(t, err)
	require.NoError(t, j.Run(t.Context()), "it leaves when it is told to")
	for id, name := range b.begun {
		assert.Equal(t, order.Failed, b.ended[id].State, name)
		assert.NotEmpty(t, b.ended[id].Error, name)
	}
	assert.Zero(t, b.runs, "nothing was measured")
	for _, dir := range []string{other, chosen} {
		entries, err := os.ReadDir(dir)
		require.NoError(t, err)
		for _, e := range entries {
			assert.True(t, strings.HasPrefix(e.Name(), "to-"), e.Name())
		}
	}
}

// hostile is a bench that gives one order after another, whatever the result of the last.
type hostile struct {
	mu     sync.Mutex
	told   sync.Cond // an order has ended
	orders [][]byte
	begun  map[string]string // what is wrong with an order, by its id
	ended  map[string]order.Ended
	runs   int
}

func (b *hostile) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	b.mu.Lock()
	defer b.mu.Unlock()
	switch what := strings.TrimPrefix(r.URL.Path, "/api/probe/"); what {
	case "hello":
		_, _ = w.Write([]byte(`{"probe": "p", "job": "2031-0001"}`))
		return
	case "runs", "checked":
		b.runs++
	case "ended":
		var e order.Ended
		_ = json.UnmarshalRead(r.Body, &e)
		b.ended[e.Order] = e
		b.told.Broadcast()
	case "work":
		if doing := r.URL.Query().Get("doing"); doing != "" { // it is held until there is something to say
			for b.ended[doing].Order == "" {
				b.told.Wait()
			}
			_, _ = w.Write([]byte(`{"id": "stop", "kind": "stop"}`))
			return
		}
		if len(b.orders) == 0 {
			_, _ = w.Write([]byte(`{"id": "leave", "kind": "leave"}`))
			return
		}
		_, _ = w.Write(b.orders[0])
		b.orders = b.orders[1:]
		return
	}
	w.WriteHeader(http.StatusNoContent)
}
