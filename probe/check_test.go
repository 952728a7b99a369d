package probe

import (
	"context"
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/order"
	"nowthen/core/round"
	"nowthen/machine"
)

// cramped is this computer with little room on its drives: a check spreads its blocks over all of it.
type cramped struct{ This }

const crampedRoom = 64 << 20

func (c cramped) Open(ctx context.Context, dir string, gentle bool) (round.Place, error) {
	place, err := c.This.Open(ctx, dir, gentle)
	if err != nil {
		return nil, err
	}
	return crampedPlace{place.(*machine.Folder)}, nil
}

type crampedPlace struct{ *machine.Folder }

func (p crampedPlace) Facts() drivetest.Facts {
	f := p.Folder.Facts()
	f.TotalBytes, f.FreeBytes = 10*crampedRoom, min(f.FreeBytes, 2*crampedRoom)
	return f
}

// A real drive is checked as a bench wants it: what is found is on disk until the bench has it, the
// files are removed, and a wrong
// label ends it before anything is written.
func TestARealDriveIsChecked(t *testing.T) {
	here, err := os.Getwd()
	require.NoError(t, err)
	dir, err := os.MkdirTemp(here, "drive") // the system's own temporary folder may lie in memory
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	for name, c := range map[string]struct {
		kind  order.Kind
		check *order.Check
		says  string // of what was found, or why it ended
	}{
		"checking the true capacity": {order.Capacity,
			&order.Check{Label: "0007 NEW", Job: "2026-0007", MostBytes: 4 << 20}, `"lost":0,"overlaid":0`},
		"how it holds up": {order.Sustain,
			&order.Check{Label: "new", Seconds: 10, MostBytes: 64 << 20, Load: true}, `"loaded":true`},
		"the old drive": {order.Capacity, &order.Check{Label: "0007 OLD", Job: "2026-0007"},
			"that is the label of the old drive"},
		"another job's": {order.Sustain, &order.Check{Label: "0008 NEW", Job: "2026-0007", Seconds: 10},
			"another job"},
		"nobody says which it is": {order.Sustain, &order.Check{Seconds: 10},
			"enter the code on its label"},
		"nothing is said": {order.Capacity, nil, "didn't say"},
		"for no time":     {order.Sustain, &order.Check{Label: "NEW"}, "seconds"},
	} {
		t.Run(name, func(t *testing.T) {
			b, _ := bench(t, func(int, string) int { return 503 }) // it is away
			j, err := open(cramped{}, b, t.TempDir(), Options{Folders: []string{dir}})
			require.NoError(t, err)
			e := j.measure(t.Context(), t.Context(), &order.Order{ID: "o", Kind: c.kind, Dir: dir, Check: c.check})
			kept := ""
			entries, err := os.ReadDir(j.dir + "/" + outboxDir)
			require.NoError(t, err)
			for _, f := range entries {
				text, err := os.ReadFile(j.dir + "/" + outboxDir + "/" + f.Name())
				require.NoError(t, err)
				kept += string(text)
			}
			if e.State == order.Done {
				assert.Contains(t, kept, c.says)
				assert.True(t, json.Valid([]byte(strings.SplitN(kept, "\n", 2)[0])), kept)
			} else {
				assert.Equal(t, order.Failed, e.State)
				assert.Contains(t, e.Error, c.says)
				assert.Empty(t, kept)
			}
			left, err := os.ReadDir(dir)
			require.NoError(t, err)
			assert.Empty(t, left, "nothing is left on the drive")
		})
	}
}
