package order

import (
	"math"
	"strings"
	"testing"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/drivetest"
	"nowthen/core/job"
)

func TestProtocolsThatUnderstandEachOther(t *testing.T) {
	for protocol, fine := range map[int]bool{Protocol - 2: false, Protocol - 1: true, Protocol: true,
		Protocol + 1: true, Protocol + 2: false} {
		h := Hello{Protocol: protocol}
		if err := h.Check(); fine {
			assert.NoError(t, err, protocol)
		} else {
			assert.ErrorIs(t, err, ErrProtocol, protocol)
		}
	}
	h := Hello{Protocol: Protocol, Machine: strings.Repeat("x", 201)}
	assert.Error(t, h.Check())
}

func TestAnOrderGoesOnWhereItWas(t *testing.T) {
	drive := func(id string) job.Test {
		return job.Test{ID: id, Kind: job.OnDrive,
			Params: &drivetest.Workload{Pattern: drivetest.Sequential, Op: drivetest.Read}}
	}
	o := Order{Tests: []job.Test{drive("a"), drive("b")}, Wanted: []int{2, 1}}
	ids := func() (list []string) {
		for _, s := range o.Steps() {
			list = append(list, s.Test.ID)
		}
		return list
	}
	whole := ids()
	require.GreaterOrEqual(t, len(whole), 3)
	o.Skip = 2
	assert.Equal(t, whole[2:], ids())
	o.Skip = 99
	assert.Empty(t, ids())
	o.Skip = -1
	assert.Equal(t, whole, ids())
}

func TestProgressSurvivesTheWay(t *testing.T) {
	nan := math.NaN()
	p := drivetest.Progress{Laying: true, Done: 0.25, MBs: 100, LatencyMS: 2, TempC: nan, HalfWidth: 0.03,
		Elapsed: 1500 * time.Millisecond, Bytes: 7, BlockBytes: 4096}
	text, err := json.Marshal(ProgressOf("o", 3, p))
	require.NoError(t, err)
	var back Progress
	require.NoError(t, json.Unmarshal(text, &back))
	assert.Equal(t, 3, back.Step)
	e := back.Engine()
	assert.True(t, math.IsNaN(e.TempC), "what is not known is not zero")
	e.TempC, p.TempC = 0, 0
	assert.Equal(t, p, e)
	_, err = json.Marshal(ProgressOf("o", 0,
		drivetest.Progress{Done: nan, MBs: math.Inf(1), LatencyMS: nan, TempC: nan, HalfWidth: nan}))
	assert.NoError(t, err, "JSON has no NaN")
}

func TestHowAnOrderEnds(t *testing.T) {
	for _, state := range []string{Done, Cancelled, Failed} {
		assert.NoError(t, (&Ended{State: state}).Check())
	}
	assert.Error(t, (&Ended{State: "gone"}).Check())
	assert.Error(t, (&Ended{State: Failed, Error: strings.Repeat("x", 2001)}).Check())
	assert.Error(t, (&Progress{Waiting: strings.Repeat("x", 2001)}).Check())
}

// Whatever bytes come in, they are refused or can be worked with.
func FuzzMessages(f *testing.F) {
	for _, s := range []string{`{"protocol":1,"engine":"5","facts":{"drives":[{"id":"sda"}]}}`,
		`{"order":"o","step":-3,"elapsed_s":1e300,"done":9}`,
		`{"id":"o","kind":"measure","tests":[{"id":"a","kind":"drive","params":{}}],"wanted":[1],"skip":-4}`, `{"order":"o","step":0,"run":{"value":1e999}}`} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		var h Hello
		if json.Unmarshal(text, &h) == nil {
			_ = h.Check()
		}
		var p Progress
		if json.Unmarshal(text, &p) == nil {
			e := p.Engine()
			if e.Elapsed < 0 || e.Done < 0 || e.Done > 1 || e.Bytes < 0 {
				t.Fatalf("%+v", e)
			}
		}
		var r Result
		_ = json.Unmarshal(text, &r)
		var e Ended
		if json.Unmarshal(text, &e) == nil {
			_ = e.Check()
		}
	})
}
