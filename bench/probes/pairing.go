package probes

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"math/big"
	"strings"
	"time"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/bench"
	"nowthen/core/order"
	"nowthen/store"
)

const (
	// letters of a code: none looks like another letter or a digit.
	letters    = "ABCDEFGHJKMNPRSTUVWXYZ"
	codeLength = 8
	// goodFor is how long a code is valid.
	goodFor = 15 * time.Minute
)

// Pairing is a code by which one probe may join a job.
type Pairing struct {
	Code  string    `json:"code"`
	Until time.Time `json:"until"`
}

// newCode returns a code of eight letters in two groups.
func newCode() string {
	b := make([]byte, codeLength)
	for i := range b {
		n, _ := rand.Int(rand.Reader, big.NewInt(int64(len(letters)))) // never fails (crypto/rand)
		b[i] = letters[n.Int64()]
	}
	return string(b[:codeLength/2]) + "-" + string(b[codeLength/2:])
}

// plain normalizes a code for comparison, however it was typed.
func plain(code string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune(letters, r) {
			return r
		}
		return -1
	}, strings.ToUpper(code))
}

// Pair returns a new code for a job, and invalidates an earlier one.
func (x *Probes) Pair(ctx context.Context, ch *bench.Change, jobID string) (*Pairing, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	now := x.jobs.Now()
	p := &Pairing{Code: newCode(), Until: now.Add(goodFor).Truncate(time.Second)}
	return p, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Made("jobs/" + jobID)
		ch.Answer(Pairing{Until: p.Until}) // a repeat is not told the code
		return ch.Tx.AddPairing(ctx, token.Hash(plain(p.Code)), jobID, now, p.Until)
	})
}

// Join takes a probe that knows a job's code. A client that tries wrong codes is slowed down ([slow.Error]), and nobody else.
func (x *Probes) Join(ctx context.Context, h order.Hello, from slow.Client) (*order.Welcome, error) {
	if err := h.Check(); err != nil {
		return nil, refusedHello(err)
	}
	now := x.jobs.Now()
	if err := x.wrong.Begin(from, now); err != nil {
		return nil, err
	}
	var w *order.Welcome
	err := x.jobs.Write(ctx, nil, func(ch *bench.Change) error {
		jobID, until, err := ch.Tx.TakePairing(ctx, token.Hash(plain(h.Code)))
		if errors.Is(err, store.ErrNotFound) {
			c := bench.Refuse(bench.Conflict, "This code is wrong or already used.")
			c.Do = "Check the code on the job's page; you can get a new one there."
			return c
		}
		if err != nil {
			return err
		}
		if until.Before(now) {
			return errExpired // the write is undone; the next pairing forgets it
		}
		w, err = x.Admit(ctx, ch, jobID, h)
		return err
	})
	switch {
	case errors.Is(err, errExpired):
		c := bench.Refuse(bench.Conflict, "This code has expired. It was valid for %.0f minutes.", goodFor.Minutes())
		c.Do = "Get a new one on the job's page."
		return nil, c
	case err != nil:
		return nil, err
	}
	x.wrong.Forget(from)
	return w, x.Admitted(ctx, w)
}

var errExpired = errors.New("the code has expired")

// Admit lets a computer into a job, within a change, and returns what to answer it: the token is in no other place.
// Once the change is on disk, [Probes.Admitted] notes what the computer says of itself. A computer that had joined the
// job before is the same probe again, with what it had still to do.
func (x *Probes) Admit(ctx context.Context, ch *bench.Change, jobID string, h order.Hello) (*order.Welcome, error) {
	const bytes = 32
	secret, now := token.New(bytes), x.jobs.Now()
	r := &record{ID: bench.NewID(), Job: jobID, Joined: now}
	if h.Machine != "" {
		before, err := x.of(ctx, jobID)
		if err != nil {
			return nil, err
		}
		for _, b := range before {
			if b.Machine == h.Machine && b.Simulated == h.Simulated {
				r = b
			}
		}
	}
	r.Token, r.Leaving, r.LeavesAt = token.Hash(secret), false, time.Time{}
	r.hear(h, now)
	return &order.Welcome{Probe: r.ID, Token: secret}, r.save(ctx, ch.Tx)
}

// Admitted notes what a computer that was just let into a job says of itself, and completes its answer.
func (x *Probes) Admitted(ctx context.Context, w *order.Welcome) error {
	r, err := x.stored(ctx, w.Probe)
	if err != nil {
		return err
	}
	told, err := x.welcome(ctx, r, w.Token)
	if err == nil {
		*w = *told
	}
	return err
}

// welcome fills the probe's facts into the job and answers the probe.
func (x *Probes) welcome(ctx context.Context, r *record, token string) (*order.Welcome, error) {
	x.heard(r.ID)
	if err := x.takeFacts(ctx, r); err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, r.Job)
	if err != nil {
		return nil, err
	}
	x.tell(r.Job)
	return &order.Welcome{Probe: r.ID, Token: token, Job: s.Job.Head.Number}, nil
}

// refusedHello words why a probe is refused.
func refusedHello(err error) error {
	r := bench.Because(bench.Invalid, err)
	r.Do = "Download the probe from this bench again and start it."
	if !errors.Is(err, order.ErrProtocol) {
		r.Message, r.Do = fmt.Sprintf("What the probe says of its computer cannot be so: %v.", err), ""
	}
	return r
}
