package probes

import (
	"context"
	"errors"
	"slices"
	"time"

	"nowthen/bench"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/order"
	"nowthen/core/words"
)

// Give gives a probe an order to measure. It is part of the change that the context is
// within. One that has an order already is refused.
func (x *Probes) Give(ctx context.Context, ch *bench.Change, jobID, id string, o order.Order) error {
	if _, err := x.probe(ctx, jobID, id); err != nil {
		return err
	}
	return x.change(ctx, ch, id, func(r *record) error {
		if r.Order != nil {
			c := bench.Refuse(bench.Conflict, "the-probe-is-measuring")
			c.Kept, c.Do = message.Tell("what-it-measures-goes"), message.Tell("wait-for-it-or")
			return c
		}
		if r.Leaving {
			return bench.Refuse(bench.Conflict, "the-probe-was-told")
		}
		r.Order, r.Stop = &o, false
		r.remember(&o)
		return nil
	})
}

// Wake lets a probe look for what it was given.
func (x *Probes) Wake(id string) { x.wake(id) }

// Withdraw takes an order back. It tells whether the probe will say how it ended: one that is
// away says nothing, and its order is gone.
func (x *Probes) Withdraw(ctx context.Context, ch *bench.Change, id, orderID string) (answers bool, err error) {
	away := x.away(id)
	err = x.change(ctx, ch, id, func(r *record) error {
		if r.Order == nil || r.Order.ID != orderID {
			return nil
		}
		answers = !away
		r.Stop = true
		if away {
			r.Order = nil
		}
		return nil
	})
	x.wake(id)
	return answers, err
}

// Ordered is the order that a probe has, or nil.
func (x *Probes) Ordered(ctx context.Context, id string) (*order.Order, error) {
	p, err := x.store.Probe(ctx, id)
	if err != nil {
		return nil, err
	}
	r, err := read(p)
	if err != nil {
		return nil, err
	}
	return r.Order, nil
}

// Work waits for something that a probe is to do, until the context ends, and returns nil
// where nothing was there. doing is the order that the probe works on, "" where none.
func (x *Probes) Work(ctx context.Context, id, doing string) (*order.Order, error) {
	for {
		x.mu.Lock()
		l := x.alive(id)
		l.heard = time.Now()
		woken := l.wake
		if len(l.errands) > 0 {
			o := l.errands[0]
			l.errands = l.errands[1:]
			x.mu.Unlock()
			return &o, nil
		}
		x.mu.Unlock()
		p, err := x.store.Probe(context.WithoutCancel(ctx), id)
		if err != nil {
			return nil, err
		}
		r, err := read(p)
		if err != nil {
			return nil, err
		}
		switch o := r.Order; {
		case doing != "" && (o == nil || o.ID != doing || r.Stop):
			return &order.Order{ID: doing, Kind: order.Stop}, nil
		case doing != "":
		case o != nil && r.Stop:
			// It was withdrawn before the probe took it up, or while it was away.
			if err := x.Ended(ctx, id, order.Ended{Order: o.ID, State: order.Cancelled}); err != nil {
				return nil, err
			}
			continue
		case o != nil:
			return o, nil
		case r.Leaving:
			return &order.Order{ID: "leave", Kind: order.Leave}, nil
		}
		select {
		case <-woken:
		case <-ctx.Done():
			return nil, nil
		}
	}
}

// Progressed hears how far a probe is with its order.
func (x *Probes) Progressed(ctx context.Context, id, jobID string, p order.Progress) error {
	if err := p.Check(); err != nil {
		return bench.Because(bench.Invalid, err)
	}
	if is, err := x.checks(ctx, id, p); is || err != nil {
		return err // a page that shows it asks for it
	}
	x.rounds.Progressed(jobID, p)
	return nil
}

// Signed hears the last sign of a computer before it restarts, or the first after it, and answers
// with the bench's clock.
func (x *Probes) Signed(jobID string, s order.Sign) *order.Clock {
	c := &order.Clock{Now: time.Now(), Steady: time.Since(x.begun).Seconds(), Start: x.start}
	p := order.Progress{Order: s.Order, Step: s.Step}
	if s.Leaving {
		p.Waiting = words.Restarting
	}
	x.rounds.Progressed(jobID, p)
	return c
}

// sameTime is how far the clocks of two computers lie apart that agree.
const sameTime = 2 * time.Second

// Finished takes a run that a probe has finished, and notes how far its order is.
func (x *Probes) Finished(ctx context.Context, id, jobID string, res order.Result) error {
	p, err := x.store.Probe(ctx, id)
	if err != nil {
		return err
	}
	r, err := read(p)
	if err != nil {
		return err
	}
	// When it was, is told by the bench's clock: the order of a side's runs and sittings hangs
	// on it.
	if !res.Run.At.IsZero() {
		res.Run.At = r.ours(res.Run.At, x.jobs.Now())
	}
	var why unaskedError
	err = x.rounds.Finished(ctx, jobID, res, func(ch *bench.Change) error {
		return x.change(ctx, ch, id, func(r *record) error {
			if why := r.unasked(&res); why != "" { // looked at within the change: another run may have come just now
				return unaskedError(why)
			}
			r.came(&res)
			if r.Order != nil && r.Order.ID == res.Order {
				r.Order.Skip = max(r.Order.Skip, res.Step+1)
			}
			return nil
		})
	})
	if errors.As(err, &why) {
		return x.rounds.Apart(ctx, jobID, id, string(why), res)
	}
	return err
}

// unaskedError says why nobody asked for a run.
type unaskedError string

func (e unaskedError) Error() string { return string(e) }

// Ended hears how an order ended.
func (x *Probes) Ended(ctx context.Context, id string, e order.Ended) error {
	if err := e.Check(); err != nil {
		return bench.Because(bench.Invalid, err)
	}
	jobID, mine := "", false
	if err := x.change(ctx, nil, id, func(r *record) error {
		jobID = r.Job
		if mine = r.Order != nil && r.Order.ID == e.Order; mine {
			r.Order, r.Stop = nil, false
			r.checked(e)
		}
		return nil
	}); err != nil {
		return err
	}
	if !mine {
		return nil // it was heard before
	}
	x.wake(id) // it may ask for more already
	x.tell(jobID)
	return x.rounds.Ended(ctx, nil, jobID, e)
}

// lookingFor is how long a probe has to look at its computer.
const lookingFor = 20 * time.Second

// Seen are the conditions that a probe saw.
type Seen struct {
	Conditions job.Conditions `json:"conditions"`
	// Causes are the programs that use the drive or the processor most.
	Causes []string `json:"causes"`
	// Doubts are what would make a measurement doubtful now.
	Doubts []string `json:"doubts"`
}

// Conditions lets a probe look at the conditions in a folder of its computer.
func (x *Probes) Conditions(ctx context.Context, jobID, id, dir string) (*Seen, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	if x.away(id) {
		return nil, awayRefusal()
	}
	if dir == "" {
		s, err := x.jobs.Load(ctx, jobID)
		if err != nil {
			return nil, err
		}
		dir = x.shown(s.Job, r).Mount
	}
	o := order.Order{ID: bench.NewID(), Kind: order.Look, Dir: dir}
	answer := make(chan order.Looked, 1)
	x.mu.Lock()
	x.alive(id).answers[o.ID] = answer
	x.mu.Unlock()
	defer func() {
		x.mu.Lock()
		l := x.alive(id)
		delete(l.answers, o.ID)
		l.errands = slices.DeleteFunc(l.errands, func(e order.Order) bool { return e.ID == o.ID })
		x.mu.Unlock()
	}()
	x.errand(id, o)
	ctx, stop := context.WithTimeout(ctx, lookingFor)
	defer stop()
	select {
	case l := <-answer:
		if l.Refused != "" {
			return nil, bench.Refuse(bench.Invalid, "the-probe-could-not", message.Values{"Refused": l.Refused})
		}
		return &Seen{Conditions: l.Conditions, Causes: append([]string{}, l.Causes...),
			Doubts: append([]string{}, fairness.Doubts(&l.Conditions)...)}, nil
	case <-ctx.Done():
		return nil, awayRefusal()
	}
}

func awayRefusal() error {
	c := bench.Refuse(bench.Conflict, "the-probe-does-not")
	c.Kept, c.Do = message.Tell("nothing-was-changed"), message.Tell("look-whether-the-computer")
	return c
}

// Looked takes what a probe saw.
func (x *Probes) Looked(id string, l order.Looked) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if answer := x.alive(id).answers[l.Order]; answer != nil {
		select {
		case answer <- l:
		default:
		}
	}
}
