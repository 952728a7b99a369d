package probes

import (
	"context"
	"slices"
	"time"

	"nowthen/bench"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/order"
)

// Give gives a probe an order, within a change. A probe that already has an order is refused.
func (x *Probes) Give(ctx context.Context, ch *bench.Change, jobID, id string, o order.Order) error {
	told, j, err := x.with(ctx, jobID, id)
	if err != nil {
		return err
	}
	if s := j.Sitting(o.Sitting); s != nil && s.Health == nil {
		if _, err := x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
			told.health(j, j.Sitting(o.Sitting))
			return nil
		}); err != nil {
			return err
		}
	}
	return x.change(ctx, ch, id, func(r *record) error {
		if r.Order != nil {
			c := bench.Refuse(bench.Conflict, "The probe is measuring already.")
			c.Kept, c.Do = "Its round continues.", "Wait for it, or cancel it first."
			return c
		}
		if r.Leaving {
			return bench.Refuse(bench.Conflict, "The probe is leaving.")
		}
		r.Order, r.Stop = &o, false
		r.remember(&o)
		return nil
	})
}

// Wake lets a waiting probe fetch its order.
func (x *Probes) Wake(id string) { x.wake(id) }

// Withdraw withdraws an order. It reports whether the probe will say how it ended. A probe that is away says
// nothing, and its order is gone.
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

// Ordered returns a probe's order, or nil.
func (x *Probes) Ordered(ctx context.Context, id string) (*order.Order, error) {
	r, err := x.stored(ctx, id)
	if err != nil {
		return nil, err
	}
	return r.Order, nil
}

// Work waits for something for a probe to do until the context ends, and then returns nil. doing is the order
// that the probe is working on, "" if none. A withdrawn order leads to a stop, even if the probe hasn't begun
// it.
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
		r, err := x.stored(context.WithoutCancel(ctx), id)
		if err != nil {
			return nil, err
		}
		var leaves <-chan time.Time // where it is told to go, and may still stay
		switch o := r.Order; {
		case doing != "" && (o == nil || o.ID != doing || r.Stop):
			return &order.Order{ID: doing, Kind: order.Stop}, nil
		case doing != "":
		case o != nil && r.Stop:
			return &order.Order{ID: o.ID, Kind: order.Stop}, nil
		case o != nil:
			return o, nil
		case r.Leaving:
			left := r.LeavesAt.Sub(x.jobs.Now())
			if left <= 0 {
				return &order.Order{ID: "leave", Kind: order.Leave}, nil
			}
			leaves = time.After(left)
		}
		select {
		case <-leaves:
		case <-woken:
		case <-ctx.Done():
			return nil, nil
		}
	}
}

// Progressed takes a probe's progress with a check of the new drive, and reports whether the order is such a check.
func (x *Probes) Progressed(ctx context.Context, id string, p order.Progress) (checks bool, err error) {
	if err := p.Check(); err != nil {
		return false, bench.Because(bench.Invalid, err)
	}
	return x.checks(ctx, id, p) // a page that shows it asks for it
}

// Time is the bench's clock.
func (x *Probes) Time() *order.Clock {
	return &order.Clock{Now: time.Now(), Steady: time.Since(x.begun).Seconds(), Start: x.start}
}

// sameTime is how far two clocks that agree may be apart.
const sameTime = 2 * time.Second

// Ours converts a time of a probe's clock to the bench's: the order of a side's runs and sittings depends on it.
func (x *Probes) Ours(ctx context.Context, id string, at time.Time) (time.Time, error) {
	if at.IsZero() {
		return at, nil
	}
	r, err := x.stored(ctx, id)
	if err != nil {
		return at, err
	}
	return r.ours(at, x.jobs.Now()), nil
}

// Came stores, within a change, that a run of a probe's order was received. A run that nobody asked for is an
// [UnaskedError].
func (x *Probes) Came(ctx context.Context, ch *bench.Change, id string, res *order.Result) error {
	return x.change(ctx, ch, id, func(r *record) error {
		if why := r.unasked(res); why != "" { // looked at within the change: another run may have come just now
			return UnaskedError(why)
		}
		r.came(res)
		if r.Order != nil && r.Order.ID == res.Order {
			r.Order.Skip = max(r.Order.Skip, res.Step+1)
		}
		return nil
	})
}

// UnaskedError is why no order asked for a run.
type UnaskedError string

func (e UnaskedError) Error() string { return string(e) }

// Ended takes the end of an order and returns its job, "" if that was known already.
func (x *Probes) Ended(ctx context.Context, id string, e order.Ended) (jobID string, err error) {
	if err := e.Check(); err != nil {
		return "", bench.Because(bench.Invalid, err)
	}
	if err := x.change(ctx, nil, id, func(r *record) error {
		if r.Order != nil && r.Order.ID == e.Order {
			jobID = r.Job
			r.Order, r.Stop = nil, false
			r.checked(e)
		}
		return nil
	}); err != nil || jobID == "" {
		return "", err
	}
	x.wake(id) // it may ask for more already
	x.tell(jobID)
	return jobID, nil
}

// lookingFor is how long a probe may take to read its computer's conditions.
const lookingFor = 20 * time.Second

// Seen are the conditions that a probe saw.
type Seen struct {
	Conditions job.Conditions `json:"conditions"`
	// Causes are the programs that use the drive or the processor most.
	Causes []string `json:"causes"`
	// Doubts are reasons why a measurement would be doubtful now.
	Doubts []string `json:"doubts"`
}

// Conditions lets a probe read the conditions of its computer, for a folder.
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
	answer := make(chan order.Facts, 1)
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
			return nil, bench.Refuse(bench.Invalid, "The probe can’t read the computer: %s.", l.Refused)
		}
		return &Seen{Conditions: l.Conditions, Causes: append([]string{}, l.Causes...),
			Doubts: append([]string{}, fairness.Doubts(&l.Conditions)...)}, nil
	case <-ctx.Done():
		return nil, awayRefusal()
	}
}

func awayRefusal() error {
	c := bench.Refuse(bench.Conflict, "The probe does not answer.")
	c.Kept, c.Do = "Nothing was changed.",
		"Check whether the computer is asleep or offline, or enter the values by hand."
	return c
}

// Looked takes the conditions that a probe read.
func (x *Probes) Looked(id string, l order.Facts) {
	x.mu.Lock()
	defer x.mu.Unlock()
	if answer := x.alive(id).answers[l.Order]; answer != nil {
		select {
		case answer <- l:
		default:
		}
	}
}
