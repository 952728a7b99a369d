package stick_test

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/access/slow"
	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/probes"
	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/order"
)

// shop is a bench with a stick.
type shop struct {
	*desk.Desk
	t      *testing.T
	clock  *bench.Clock
	id     string // of the stick's key
	secret string
}

func newShop(t *testing.T) *shop {
	t.Helper()
	clock := bench.NewClock(0)
	d, _ := desktest.New(t, desk.Options{Clock: clock})
	k, secret, err := d.Sticks.Prepare(t.Context())
	require.NoError(t, err)
	return &shop{d, t, clock, k.ID, secret}
}

// computer is what the computer of a number says of itself.
func computer(n int) order.Hello {
	return order.Hello{Protocol: order.Protocol, Engine: drivetest.EngineVersion, System: "linux/amd64",
		Machine: fmt.Sprintf("machine-%d", n), Now: time.Now(), Facts: hardware.Facts{
			Computer: hardware.Computer{Maker: "Larkfield", Model: fmt.Sprintf("Desk %d", n)},
			Drives:   []hardware.Drive{{ID: "sda", Kind: job.HDD, Model: "Spindle", CapacityBytes: 500e9}},
			Volumes:  []hardware.Volume{{Mount: "/", Drive: "sda", System: true}},
		}}
}

var here = slow.Client{Key: "here", Here: true}

func (s *shop) announce(n int) *order.Offer {
	s.t.Helper()
	o, err := s.Sticks.Announce(s.t.Context(), order.Announcement{Key: s.secret, Hello: computer(n)}, here)
	require.NoError(s.t, err)
	return o
}

// waits is the id of the offer that shows these digits, "" where none does.
func (s *shop) waits(o *order.Offer) string {
	for _, w := range s.Sticks.Offers() {
		if w.Digits == o.Digits {
			return w.ID
		}
	}
	return ""
}

// answer is what a computer that waits is told at once.
func (s *shop) answer(token string) (*order.Welcome, error) {
	ctx, stop := context.WithCancel(s.t.Context())
	stop()
	return s.Sticks.Await(ctx, token)
}

func (s *shop) jobs() int { return len(desktest.Cards(s.t, s.Desk, "open", "")) }

func TestAComputerIsAdmitted(t *testing.T) {
	t.Run("to a new job, with everything filled in", func(t *testing.T) {
		s := newShop(t)
		o := s.announce(1)
		w, err := s.answer(o.Token)
		require.NoError(t, err)
		assert.Nil(t, w, "nobody has pressed")
		v, err := s.Sticks.Admit(t.Context(), nil, s.waits(o), "")
		require.NoError(t, err)
		w, err = s.answer(o.Token)
		require.NoError(t, err)
		assert.Equal(t, v.Job.Head.Number, w.Job)
		probe, of, err := s.Probes.Known(t.Context(), w.Token)
		require.NoError(t, err)
		assert.Equal(t, []string{w.Probe, v.ID}, []string{probe, of})
		d, c := v.Job.Drives[0], v.Job.Computers[0]
		assert.Equal(t, []any{"Larkfield", "Desk 1", job.HDD, "Spindle", int64(500e9)},
			[]any{c.Maker, c.Model, d.Kind, d.Model, d.CapacityBytes})
		assert.Equal(t, 1, s.jobs())
		assert.Empty(t, s.Sticks.Offers())
		keys, err := s.Sticks.Keys(t.Context())
		require.NoError(t, err)
		assert.NotNil(t, keys[0].Used)
	})
	t.Run("to a job that is there", func(t *testing.T) {
		s := newShop(t)
		id := desktest.Real(t, s.Desk, 0.2)
		o := s.announce(1)
		v, err := s.Sticks.Admit(t.Context(), nil, s.waits(o), id)
		require.NoError(t, err)
		assert.Equal(t, id, v.ID)
		list, err := s.Probes.Of(t.Context(), id)
		require.NoError(t, err)
		assert.Len(t, list, 1)
		assert.Equal(t, 1, s.jobs())
	})
	t.Run("while it asks", func(t *testing.T) {
		s := newShop(t)
		o := s.announce(1)
		told := make(chan *order.Welcome)
		go func() {
			w, err := s.Sticks.Await(t.Context(), o.Token)
			assert.NoError(t, err)
			told <- w
		}()
		_, err := s.Sticks.Admit(t.Context(), nil, s.waits(o), "")
		require.NoError(t, err)
		assert.NotEmpty(t, (<-told).Token)
	})
	t.Run("again to the same job, as the same probe", func(t *testing.T) {
		s := newShop(t)
		first := s.announce(1)
		v, err := s.Sticks.Admit(t.Context(), nil, s.waits(first), "")
		require.NoError(t, err)
		second := s.announce(1)
		_, err = s.Sticks.Admit(t.Context(), nil, s.waits(second), v.ID)
		require.NoError(t, err)
		list, err := s.Probes.Of(t.Context(), v.ID)
		require.NoError(t, err)
		assert.Len(t, list, 1)
		w, err := s.answer(first.Token)
		require.NoError(t, err)
		_, _, err = s.Probes.Known(t.Context(), w.Token)
		assert.ErrorIs(t, err, probes.ErrUnknown, "the earlier token is worth nothing")
	})
}

// Keys that must not announce anything.
func TestHostileKeys(t *testing.T) {
	for name, tt := range map[string]struct {
		key  func(s *shop) string
		says string
	}{
		"none":             {func(*shop) string { return "" }, "doesn't know the key"},
		"guessed":          {func(*shop) string { return strings.Repeat("A", 43) }, "doesn't know the key"},
		"a letter off":     {func(s *shop) string { return "_" + s.secret[1:] }, "doesn't know the key"},
		"cut off":          {func(s *shop) string { return s.secret[:40] }, "doesn't know the key"},
		"its id":           {func(s *shop) string { return s.id }, "doesn't know the key"},
		"another shop's":   {func(s *shop) string { return newShop(s.t).secret }, "doesn't know the key"},
		"an offer's token": {func(s *shop) string { return s.announce(7).Token }, "doesn't know the key"},
		"revoked": {func(s *shop) string {
			_, err := s.Sticks.Revoke(s.t.Context(), nil, s.id)
			require.NoError(s.t, err)
			return s.secret
		}, "revoked"},
		"expired": {func(s *shop) string { s.clock.Shift(90*24*time.Hour + time.Minute); return s.secret }, "expired"},
	} {
		t.Run(name, func(t *testing.T) {
			s := newShop(t)
			key := tt.key(s)
			before := len(s.Sticks.Offers())
			_, err := s.Sticks.Announce(t.Context(), order.Announcement{Key: key, Hello: computer(1)}, here)
			assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, tt.says)
			assert.Len(t, s.Sticks.Offers(), before)
		})
	}
	t.Run("wrong ones slow down who tries them, and nobody else", func(t *testing.T) {
		s := newShop(t)
		var tooOften slow.Error
		for range 50 {
			_, err := s.Sticks.Announce(t.Context(), order.Announcement{Key: "x", Hello: computer(1)}, slow.Client{Key: "a"})
			if errors.As(err, &tooOften) {
				break
			}
		}
		assert.Positive(t, tooOften.Wait)
		_, err := s.Sticks.Announce(t.Context(), order.Announcement{Key: s.secret, Hello: computer(1)}, slow.Client{Key: "a"})
		assert.ErrorAs(t, err, &tooOften, "the right one, too")
		_, err = s.Sticks.Announce(t.Context(), order.Announcement{Key: s.secret, Hello: computer(1)}, slow.Client{Key: "b"})
		assert.NoError(t, err)
	})
	t.Run("there are at most twenty that work", func(t *testing.T) {
		s := newShop(t)
		for range 19 {
			_, _, err := s.Sticks.Prepare(t.Context())
			require.NoError(t, err)
		}
		_, _, err := s.Sticks.Prepare(t.Context())
		desktest.Refusal(t, err, bench.Conflict)
		_, err = s.Sticks.Revoke(t.Context(), nil, s.id)
		require.NoError(t, err)
		_, _, err = s.Sticks.Prepare(t.Context())
		assert.NoError(t, err)
		_, err = s.Sticks.Revoke(t.Context(), nil, "nothing")
		desktest.Refusal(t, err, bench.Missing)
	})
}

// What somebody could try with computers that wait.
func TestHostileOffers(t *testing.T) {
	over := func(s *shop, o *order.Offer) {
		s.t.Helper()
		_, err := s.answer(o.Token)
		desktest.Refusal(s.t, err, bench.Missing)
		assert.Empty(s.t, s.waits(o))
	}
	for name, try := range map[string]func(s *shop){
		"a copied key: two computers at once have their own digits and tokens": func(s *shop) {
			a, b := s.announce(1), s.announce(2)
			assert.NotEqual(s.t, a.Digits, b.Digits)
			_, err := s.Sticks.Admit(s.t.Context(), nil, s.waits(a), "")
			require.NoError(s.t, err)
			w, err := s.answer(b.Token)
			require.NoError(s.t, err)
			assert.Nil(s.t, w, "the other one still waits")
		},
		"a fourth computer with one key": func(s *shop) {
			offers := []*order.Offer{s.announce(1), s.announce(2), s.announce(3)}
			_, err := s.Sticks.Announce(s.t.Context(), order.Announcement{Key: s.secret, Hello: computer(4)}, here)
			desktest.Refusal(s.t, err, bench.Conflict)
			s.Sticks.Dismiss(s.waits(offers[1]))
			over(s, offers[1])
			s.announce(4)
		},
		"digits are distinct over all keys": func(s *shop) {
			seen := map[string]bool{}
			for k := range 20 {
				for n := range 3 {
					seen[s.announce(10*k+n).Digits] = true
				}
				if k < 19 {
					var err error
					_, s.secret, err = s.Sticks.Prepare(s.t.Context())
					require.NoError(s.t, err)
				}
			}
			assert.Len(s.t, seen, 60)
			for d := range seen {
				assert.Len(s.t, d, 2)
			}
		},
		"a replayed announcement takes the place of the first": func(s *shop) {
			first := s.announce(1)
			second := s.announce(1)
			over(s, first)
			assert.NotEmpty(s.t, s.waits(second))
			assert.Len(s.t, s.Sticks.Offers(), 1)
		},
		"an expired offer": func(s *shop) {
			o := s.announce(1)
			id := s.waits(o)
			s.Sticks.MoveOn(2*time.Minute + time.Second)
			over(s, o)
			_, err := s.Sticks.Admit(s.t.Context(), nil, id, "")
			desktest.Refusal(s.t, err, bench.Missing)
			assert.Zero(s.t, s.jobs())
		},
		"an offer whose window was closed": func(s *shop) {
			o := s.announce(1)
			s.Sticks.MoveOn(11 * time.Second)
			assert.Empty(s.t, s.waits(o))
			w, err := s.answer(o.Token)
			require.NoError(s.t, err, "the network was slow")
			assert.Nil(s.t, w)
			assert.NotEmpty(s.t, s.waits(o))
		},
		"a clock that is set does not end or prolong an offer": func(s *shop) {
			o := s.announce(1)
			s.clock.Shift(time.Hour)
			assert.NotEmpty(s.t, s.waits(o))
			s.clock.Shift(-2 * time.Hour)
			assert.NotEmpty(s.t, s.waits(o))
		},
		"the key is revoked while a computer waits": func(s *shop) {
			o := s.announce(1)
			_, err := s.Sticks.Revoke(s.t.Context(), nil, s.id)
			require.NoError(s.t, err)
			over(s, o)
		},
		"two presses at once admit to one job": func(s *shop) {
			id := s.waits(s.announce(1))
			var done sync.WaitGroup
			var mu sync.Mutex
			admitted := 0
			for range 8 {
				done.Go(func() {
					if _, err := s.Sticks.Admit(s.t.Context(), nil, id, ""); err == nil {
						mu.Lock()
						admitted++
						mu.Unlock()
					} else {
						desktest.Refusal(s.t, err, bench.Conflict)
					}
				})
			}
			done.Wait()
			assert.Equal(s.t, []int{1, 1}, []int{admitted, s.jobs()})
		},
		"an admitted computer is not admitted elsewhere": func(s *shop) {
			id := s.waits(s.announce(1))
			_, err := s.Sticks.Admit(s.t.Context(), nil, id, "")
			require.NoError(s.t, err)
			_, err = s.Sticks.Admit(s.t.Context(), nil, id, desktest.Real(s.t, s.Desk, 0.2))
			desktest.Refusal(s.t, err, bench.Conflict)
			s.Sticks.Dismiss(id) // too late, and without effect
		},
		"a guessed token": func(s *shop) {
			s.announce(1)
			for _, token := range []string{"", "42", strings.Repeat("A", 43), s.secret} {
				_, err := s.answer(token)
				desktest.Refusal(s.t, err, bench.Missing)
			}
		},
		"key and offer's token are no probe's": func(s *shop) {
			o := s.announce(1)
			for _, token := range []string{s.secret, o.Token, o.Digits} {
				_, _, err := s.Probes.Known(s.t.Context(), token)
				assert.ErrorIs(s.t, err, probes.ErrUnknown)
			}
		},
		"a probe's token is no offer's": func(s *shop) {
			o := s.announce(1)
			_, err := s.Sticks.Admit(s.t.Context(), nil, s.waits(o), "")
			require.NoError(s.t, err)
			w, err := s.answer(o.Token)
			require.NoError(s.t, err)
			_, err = s.answer(w.Token)
			desktest.Refusal(s.t, err, bench.Missing)
		},
		"an unknown job leaves it waiting": func(s *shop) {
			o := s.announce(1)
			_, err := s.Sticks.Admit(s.t.Context(), nil, s.waits(o), "nobody")
			desktest.Refusal(s.t, err, bench.Missing)
			assert.NotEmpty(s.t, s.waits(o))
		},
		"a computer that says too little for a new job": func(s *shop) {
			h := computer(1)
			h.Facts.Drives[0].Kind = ""
			o, err := s.Sticks.Announce(s.t.Context(), order.Announcement{Key: s.secret, Hello: h}, here)
			require.NoError(s.t, err)
			_, err = s.Sticks.Admit(s.t.Context(), nil, s.waits(o), "")
			assert.Contains(s.t, desktest.Refusal(s.t, err, bench.Invalid).Message, "what kind of drive")
			assert.NotEmpty(s.t, s.waits(o), "it can be admitted to a job that was opened by hand")
			assert.Zero(s.t, s.jobs())
		},
		"a computer that lies about itself": func(s *shop) {
			for _, spoil := range []func(h *order.Hello){
				func(h *order.Hello) { h.Protocol = 99 },
				func(h *order.Hello) { h.Machine = strings.Repeat("m", 300) },
				func(h *order.Hello) { h.Facts.Drives[0].CapacityBytes = -1 },
			} {
				h := computer(1)
				spoil(&h)
				_, err := s.Sticks.Announce(s.t.Context(), order.Announcement{Key: s.secret, Hello: h}, here)
				desktest.Refusal(s.t, err, bench.Invalid)
			}
			assert.Empty(s.t, s.Sticks.Offers())
		},
		"another press finds the job that opened": func(s *shop) {
			o := s.announce(1)
			v, err := s.Sticks.Admit(s.t.Context(), nil, s.waits(o), "")
			require.NoError(s.t, err)
			cards := desktest.Cards(s.t, s.Desk, "open", "")
			require.Len(s.t, cards, 1)
			assert.Equal(s.t, v.ID, cards[0].ID)
		},
	} {
		t.Run(name, func(t *testing.T) { try(newShop(t)) })
	}
}
