package probe

import (
	"context"
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
	"nowthen/core/order"
)

func TestPrintable(t *testing.T) {
	for give, want := range map[string]string{
		"Ledger 7": "Ledger 7", "Öffnen": "Öffnen", "\x1b[2J\x1b]0;title\x07gone": "[2J]0;titlegone", "a\r\nb\tc\x00": "a  b c",
		"exe.\u202etxt": "exe.txt", "zero\u200bwidth": "zerowidth", "line\u2028end": "lineend", "\u009b31m": "31m",
	} {
		assert.Equal(t, want, Printable(give))
	}
}

func TestCommandLine(t *testing.T) {
	for want, l := range map[string]job.Launch{
		`/opt/ledger/run --open a.txt`: {Program: "/opt/ledger/run", Args: []string{"--open", "a.txt"}},
		`sh -c "rm -rf ~; echo \"x\""`: {Program: "sh", Args: []string{"-c", `rm -rf ~; echo "x"`}},
		`"a program" "" "x\ny"`:        {Program: "a program", Args: []string{"", "x\ny"}},
		`"a\u202eb"`:                   {Program: "a\u202eb"},
	} {
		assert.Equal(t, want, CommandLine(&l))
	}
}

// A program is launched only after the person before the computer has seen it and allowed it, once for a job.
func TestALaunchIsAllowedByAPerson(t *testing.T) {
	launch := func(program string) *job.Launch { return &job.Launch{Program: program, Until: "exit"} }
	var said, asked []string
	answer := errors.New("no")
	o := Options{Say: func(s string) { said = append(said, s) }}
	b, _ := bench(t, func(int, string) int { return 503 })
	j, err := open(This{}, b, t.TempDir(), o)
	require.NoError(t, err)
	assert.ErrorIs(t, j.permit(t.Context(), launch("ledger")), errNotPermitted, "nobody is there")
	assert.Contains(t, said[0], "launch: ledger")
	j.o.Permit = func(_ context.Context, line string) error { asked = append(asked, line); return answer }
	assert.ErrorIs(t, j.permit(t.Context(), launch("ledger")), answer)
	answer = nil
	for range 3 {
		require.NoError(t, j.permit(t.Context(), launch("ledger")))
	}
	require.NoError(t, j.permit(t.Context(), launch("editor")))
	assert.Equal(t, []string{"ledger", "ledger", "editor"}, asked, "a refusal is asked again, a yes is not")
}

// A refused order ends at once, with the reason; nothing panics.
func TestOrdersThatTheProbeDoesNotDo(t *testing.T) {
	for name, o := range map[string]order.Order{
		"two billion runs": {ID: "o", Kind: order.Measure, Tests: []job.Test{{ID: "a"}}, Wanted: []int{2e9}},
		"two tests, one count": {ID: "o", Kind: order.Measure, Tests: []job.Test{{ID: "a"}, {ID: "b"}},
			Wanted: []int{1}},
		"no program": {ID: "o", Kind: order.Launch, Tests: []job.Test{{ID: "a"}}, Wanted: []int{1}},
	} {
		t.Run(name, func(t *testing.T) {
			var said []string
			b, _ := bench(t, func(int, string) int { return 503 })
			j, err := open(This{}, b, t.TempDir(), Options{Say: func(s string) { said = append(said, s) }})
			require.NoError(t, err)
			left, err := j.do(t.Context(), &o)
			require.NoError(t, err)
			assert.False(t, left)
			assert.Empty(t, j.current())
			assert.Contains(t, strings.Join(said, "\n"), "can't do")
			assert.Equal(t, 1, j.outbox.Len(), "its end is told")
		})
	}
}
