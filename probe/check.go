package probe

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"
	"time"

	"nowthen/core/capacity"
	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/label"
	"nowthen/core/order"
	"nowthen/core/sustained"
)

// ErrNotEmpty means that a drive isn't empty, or that this isn't known, and that no label code was given.
var ErrNotEmpty = errors.New("this drive isn't empty, or that isn't known: enter the code on its label")

// Sure returns why the drive of a folder must not be written to, or nil: two drives of a job are on the bench,
// and the customer's files are on one of them. code is the code on its label, "" if not known; number is the
// job's, "" if not known.
func Sure(f *hardware.Facts, dir, code, number string) error {
	if strings.TrimSpace(code) != "" {
		return label.CheckNew(code, number)
	}
	if !f.Empty(f.DriveOf(dir)) {
		return ErrNotEmpty
	}
	return nil
}

// Stretch is where on a drive marked blocks are written.
type Stretch struct {
	Whole  bool
	Sample int64 // bytes, where not the whole
	Most   int64 // most of the free space to check, bytes; 0 for all
}

// Plan returns which blocks of a volume are written and read back, for the drive that dir is on. note describes
// what part of the drive can't be checked, "" if all can.
func (s Stretch) Plan(v drivetest.Volume, f *hardware.Facts, dir string, seed uint64) (p capacity.Plan, note string) {
	room := drivetest.Room(v.Facts())
	if s.Most > 0 {
		room = min(room, s.Most)
	}
	if fs := strings.ToLower(v.Facts().FileSystem); strings.Contains(fs, "fat") && !strings.Contains(fs, "exfat") ||
		fs == "msdos" {
		const most = 4<<30 - capacity.BlockBytes
		room = min(room, most)
		note = "This file system holds no file over 4 GiB, so no more is looked over; with another one all of the " +
			"drive is."
	}
	p = capacity.Whole(room)
	if !s.Whole {
		p = capacity.Sample(room, s.Sample, seed)
		if v, ok := v.(interface{ FillsUp() bool }); ok && v.FillsUp() && !p.Whole && note == "" {
			note = "This file system writes all that lies before a block as well, so a sample takes as long as the " +
				"whole (on Windows it does not where the probe was started as administrator)."
		}
	}
	if d := f.Drive(f.DriveOf(dir)); d != nil {
		p.Of = d.CapacityBytes
	}
	return p, note
}

// check checks the new drive as an order asks.
func (j *Joined) check(ctx context.Context, o *order.Order) error {
	if o.Check == nil {
		return errors.New("the bench didn't say how to check the drive")
	}
	facts := j.computer.Facts(ctx)
	if err := Sure(facts, o.Dir, o.Check.Label, o.Check.Job); err != nil {
		return err
	}
	place, err := j.computer.Open(ctx, o.Dir, false)
	if err != nil {
		return err
	}
	done := order.Checked{Order: o.ID}
	var attached *job.Attached
	if d := facts.Drive(facts.DriveOf(o.Dir)); d != nil {
		done.SerialDigest, attached = d.SerialDigest, d.Attached
	}
	tell, told := j.reporter(ctx, o)
	defer told()
	if o.Kind == order.Capacity {
		err = j.holds(ctx, o, place, facts, &done, tell)
	} else {
		var last time.Duration
		at := 0
		j.say("Writing for %.0f s", o.Check.Seconds)
		done.Sustained, err = sustained.Write(ctx, place, o.Writing(), func(part int, p drivetest.Progress) {
			if part != at {
				at, last = part, 0
				j.say("Writing, processor loaded")
			}
			j.hold(ctx, p.Elapsed-last)
			last = p.Elapsed
			tell(part, p)
		})
	}
	if done.Sustained != nil {
		done.Sustained.Attached = attached
		done.Sustained.At = time.Now().Truncate(time.Millisecond)
		done.Sustained.Simulated = done.Sustained.Simulated || j.computer.Simulated() != ""
	}
	if done.Sustained != nil || done.Held != nil {
		err = errors.Join(err, j.put("checked", done)) // what was measured until an error is kept
	}
	return err
}

// holds checks whether a drive has the capacity it reports.
func (j *Joined) holds(ctx context.Context, o *order.Order, place drivetest.Volume, facts *hardware.Facts,
	done *order.Checked, tell func(int, drivetest.Progress)) (err error) {
	s := Stretch{Whole: o.Check.Whole, Sample: o.Check.MostBytes}
	if s.Sample == 0 {
		s.Sample = order.UsualSample
	}
	p, note := s.Plan(place, facts, o.Dir, o.Seed)
	if note != "" {
		j.say("%s", note)
	}
	j.say("Writing %d blocks over %d MB and reading them back", len(p.Blocks), p.Bytes/1e6)
	began, clock := time.Now(), time.Duration(0)
	done.Held, err = capacity.Verify(ctx, place, p, o.Seed, func(share float64) {
		now := place.Now()
		j.hold(ctx, now-clock)
		clock = now
		tell(0, drivetest.Progress{Done: share, TempC: math.NaN(), HalfWidth: math.NaN(), Elapsed: time.Since(began),
			Bytes: int64(share * 2 * float64(len(p.Blocks)) * capacity.BlockBytes)})
	})
	if err != nil {
		return fmt.Errorf("checking the true capacity: %w", err)
	}
	return nil
}
