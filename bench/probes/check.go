package probes

import (
	"context"
	"fmt"
	"hash/fnv"
	"time"

	"nowthen/core/hardware/match"

	"nowthen/bench"
	"nowthen/core/capacity"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/sustained"
)

// Checking is a check of the new drive, or a reading of files, that a probe was asked for.
type Checking struct {
	Order string     `json:"order"`
	Kind  order.Kind `json:"kind"` // capacity sustain list compare
	Mount string     `json:"mount"`
	// Folder is the one whose files are read; "" is the users' own.
	Folder string    `json:"folder,omitzero"`
	At     time.Time `json:"at"`
	// State is running, done, cancelled or failed; Error says of a failed one why.
	State string `json:"state"`
	Error string `json:"error"`
	// What the technician stated about it; nil if nothing.
	HeatSink *bool    `json:"heat_sink,omitempty"`
	RoomC    *float64 `json:"room_c,omitempty"`
	Graphics *bool    `json:"graphics,omitempty"`
}

// Shown is a check with its progress, as a page shows it.
type Shown struct {
	Checking
	Done     float64  `json:"done"` // 0 to 1
	Loaded   bool     `json:"loaded"`
	MBs      float64  `json:"mb_s"`
	TempC    *float64 `json:"temp_c"`
	ElapsedS float64  `json:"elapsed_s"`
}

// running is the state of a check that hasn't ended.
const running = "running"

// CheckRequest asks for a check of the new drive.
type CheckRequest struct {
	Kind  order.Kind `json:"kind"`
	Mount string     `json:"mount"` // of a volume on it
	order.Check
	HeatSink *bool    `json:"heat_sink"`
	RoomC    *float64 `json:"room_c"`
	Graphics *bool    `json:"graphics"`
}

// mostBytes is the most that one check writes.
const mostBytes = 100 << 40

func (in *CheckRequest) refusal() error {
	f := bench.Fields{}
	bench.OneOf(f, "kind", in.Kind, order.Capacity, order.Sustain)
	f.Text("label", in.Label)
	f.Check(in.Mount != "", "mount", "Choose the new drive.")
	f.Check(in.MostBytes >= 0 && in.MostBytes <= mostBytes, "most_bytes", "Enter a whole number from 0.")
	f.Check(in.RoomC == nil || *in.RoomC > -40 && *in.RoomC < 60, "room_c",
		"Enter the room’s temperature in °C, from −40 to 60.")
	if in.Kind == order.Sustain {
		f.Check(in.Seconds >= sustained.LeastSeconds && in.Seconds <= sustained.MostSeconds, "seconds",
			fmt.Sprintf("Enter %d to %d seconds.", sustained.LeastSeconds, sustained.MostSeconds))
	}
	return f.Refusal()
}

// Check lets a probe check the new drive: its true capacity, or its sustained writing. The result is stored
// when the probe sends it.
func (x *Probes) Check(ctx context.Context, ch *bench.Change, jobID, id string, in CheckRequest) ([]Probe, error) {
	if err := in.refusal(); err != nil {
		return nil, err
	}
	r, j, err := x.with(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	if x.away(id) {
		return nil, awayRefusal()
	}
	limit, err := written(j, r, in.Mount)
	if err != nil {
		return nil, err
	}
	o := order.Order{ID: bench.NewID(), Kind: in.Kind, Dir: in.Mount, MaxTempC: limit, Check: &in.Check}
	seed := fnv.New64a()
	_, _ = seed.Write([]byte(o.ID))
	o.Seed, o.Check.Job = seed.Sum64(), j.Head.Number
	return x.begin(ctx, ch, jobID, id, o,
		Checking{Mount: in.Mount, HeatSink: in.HeatSink, RoomC: in.RoomC, Graphics: in.Graphics})
}

// written returns why the drive of a mounted volume must not be written to, or the temperature limit on its
// label, 0 if none is known.
func written(j *job.Job, r *record, mount string) (limit float64, err error) {
	at := r.Facts.Drive(r.Facts.DriveOf(mount))
	if at == nil {
		return 0, bench.Refuse(bench.Conflict, "The probe sees no volume %q. Refresh the list.", mount)
	}
	then, now := j.SetupAs(job.Then), j.AsNow()
	if now == nil {
		return 0, bench.Refuse(bench.Conflict, "Enter the new drive first.")
	}
	old := then != nil && at.SerialDigest != "" && at.SerialDigest == j.Drive(then.Drive).SerialDigest
	if is := match.SetupOf(&r.Facts, j); is != nil && then != nil && is.ID == then.ID {
		// The computer still has its old drive, so that is the drive under test, whatever its number.
		d := match.UnderTest(&r.Facts, j, then)
		old = old || d != nil && d.ID == at.ID
	}
	if old {
		c := bench.Refuse(bench.Conflict, "That is the old drive. Nothing is written on it.")
		c.Kept = "Nothing was changed."
		return 0, c
	}
	d := j.Drive(now.Drive)
	if noted, seen := d.CapacityBytes, at.CapacityBytes; !match.SameSize(noted, seen) {
		return 0, bench.Refuse(bench.Conflict,
			"That drive has %s, but the new drive was entered with %s. Choose another drive, or correct the new drive.", gb(seen), gb(noted))
	}
	if d.Rated != nil {
		limit = d.Rated.MaxTempC
	}
	return limit, nil
}

func gb(bytes int64) string { return fmt.Sprintf("%.4g GB", float64(bytes)/1e9) }

// StopCheck ends a check of the new drive; what it found is kept.
func (x *Probes) StopCheck(ctx context.Context, ch *bench.Change, jobID, id string) ([]Probe, error) {
	r, err := x.probe(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	if c := r.Checking; c != nil && c.State == running {
		answers, err := x.Withdraw(ctx, ch, id, c.Order)
		if err == nil && !answers {
			err = x.change(ctx, ch, id, func(r *record) error {
				r.checked(order.Ended{Order: c.Order, State: order.Cancelled})
				return nil
			})
		}
		if err != nil {
			return nil, err
		}
		x.tell(jobID)
	}
	return x.Of(ctx, jobID)
}

// checked stores how a check ended.
func (r *record) checked(e order.Ended) {
	if c := r.Checking; c != nil && c.Order == e.Order {
		ended := *c
		ended.State, ended.Error = string(e.State), e.Error
		r.Checking = &ended
	}
}

// checks reports whether a probe's order is a check of the new drive, and stores its progress.
func (x *Probes) checks(ctx context.Context, id string, p order.Progress) (bool, error) {
	x.mu.Lock()
	l := x.alive(id)
	known, other := l.checking == p.Order && p.Order != "", l.other == p.Order
	if known {
		l.progress = p
	}
	x.mu.Unlock()
	if known || other {
		return known, nil
	}
	r, err := x.stored(ctx, id)
	if err != nil {
		return false, err
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	l = x.alive(id)
	if r.Checking == nil || r.Checking.Order != p.Order {
		l.other = p.Order
		return false, nil
	}
	l.checking, l.progress = p.Order, p
	return true, nil
}

// shownCheck is a probe's last check of the new drive, nil if there was none.
func (x *Probes) shownCheck(r *record) *Shown {
	if r.Checking == nil {
		return nil
	}
	s := &Shown{Checking: *r.Checking}
	x.mu.Lock()
	defer x.mu.Unlock()
	if l := x.live[r.ID]; l != nil && l.checking == s.Order && s.State == running {
		p := l.progress
		e := p.Engine()
		s.Done, s.Loaded, s.MBs, s.TempC, s.ElapsedS = e.Done, p.Step > 0, e.MBs, p.TempC, e.Elapsed.Seconds()
	}
	return s
}

// Found is the result of a check of a job's new drive: of its capacity, or its sustained writing. SerialDigest
// is "" if the probe doesn't know the drive's serial number.
type Found struct {
	Job, SerialDigest string
	Simulated         bool
	Held              *capacity.Result
	Sustained         *job.Sustained
}

// Checked returns the result of a check, with times by the bench's clock and what the technician stated.
func (x *Probes) Checked(ctx context.Context, id string, c order.Checked) (*Found, error) {
	if err := c.Check(); err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	r, err := x.stored(ctx, id)
	if err != nil {
		return nil, err
	}
	f := &Found{Job: r.Job, SerialDigest: c.SerialDigest, Simulated: r.Simulated != "", Held: c.Held}
	if c.Held == nil {
		s := *c.Sustained
		s.ID, s.At, s.Simulated = c.Order, r.ours(s.At, x.jobs.Now()), s.Simulated || f.Simulated
		if said := r.Checking; said != nil && said.Order == c.Order {
			s.HeatSink, s.RoomC = said.HeatSink, said.RoomC
			if s.Graphics == nil {
				s.Graphics = said.Graphics // else it was seen
			}
		}
		f.Sustained = &s
	}
	return f, nil
}

// ours converts a time of the probe's clock to the bench's.
func (r *record) ours(at, now time.Time) time.Time {
	if off := time.Duration(r.Behind * float64(time.Second)); !at.IsZero() && off.Abs() > sameTime {
		at = at.Add(off)
	}
	if at.IsZero() || at.After(now) {
		return now
	}
	return at
}
