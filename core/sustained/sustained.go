// Package sustained writes to a drive for a while, and then once more with the processor under
// load. It measures how steady the rate is and how warm the drive becomes, before any data is
// put on it.
//
// It uses a [round.Place] and knows no files, units or screens.
package sustained

import (
	"context"
	"errors"
	"fmt"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/round"
)

// Bounds of what can be asked for.
const (
	LeastSeconds = 10
	MostSeconds  = 30 * 60
	LeastBytes   = 64 << 20
)

// Options of a check.
type Options struct {
	// Seconds is how long each part is written at most, MostBytes how much.
	Seconds   float64
	MostBytes int64
	// MaxTempC is the drive's limit from its label; 0: not known. Writing ends there.
	MaxTempC float64
	Seed     uint64
	// Load: a second part is written with the computer's processor at work; the place must be able to.
	Load bool
}

// Check reports what is wrong with the options, or nil.
func (o *Options) Check() error {
	switch {
	case !(o.Seconds >= LeastSeconds && o.Seconds <= MostSeconds):
		return fmt.Errorf("it is written for %d to %d seconds, not for %g", LeastSeconds, MostSeconds, o.Seconds)
	case o.MostBytes < LeastBytes:
		return fmt.Errorf("%d bytes are less than %d, the least that tells anything", o.MostBytes, LeastBytes)
	}
	return nil
}

// test is what is measured in each part: bytes that were never written, one after another.
func test(bytes int64, seconds float64) *job.Test {
	w := drivetest.SustainedWrite(bytes)
	w.SpanBytes -= w.SpanBytes % w.BlockBytes
	w.MaxBytes, w.MaxSeconds = w.SpanBytes, seconds
	return &job.Test{ID: "sustained", Kind: job.OnDrive, What: catalogue.WhatSustained, Name: "Sustained writing",
		Unit: "MB/s", Better: job.Higher, Params: &w}
}

// Write writes on a place, and once more with the processor at work where the options say how. tell
// is told which part it is at, 0 or
// 1, and how far that is. A drive that reaches its limit ends a part, and that is no error; what an
// error of the drive ended is
// returned with what was measured until then, nil where that is nothing.
func Write(ctx context.Context, place round.Place, o Options,
	tell func(part int, p drivetest.Progress)) (*job.Sustained, error) {
	if err := o.Check(); err != nil {
		return nil, err
	}
	room := drivetest.Room(place.Facts())
	bytes := min(o.MostBytes, room)
	if bytes < LeastBytes {
		return nil, fmt.Errorf("%w: %d MB are less than it takes", drivetest.ErrNoRoom, room/1e6)
	}
	s := &job.Sustained{Simulated: place.Facts().Simulated}
	if limit := limitOf(place, o.MaxTempC); limit > 0 {
		s.LimitC = &limit
	}
	loads := []func() (end func()){nil}
	if o.Load {
		load := place.Can().Load
		if load == nil {
			return nil, errors.New("the processor cannot be put to work here")
		}
		loads = append(loads, load)
	}
	for i, load := range loads {
		p, err := write(ctx, place, o, bytes, load, func(p drivetest.Progress) { tell(i, p) })
		if p != nil {
			s.Parts = append(s.Parts, *p)
		}
		if err != nil && len(s.Parts) == 0 {
			return nil, err
		}
		if err != nil {
			return s, err
		}
	}
	return s, nil
}

// limitOf is a drive's temperature limit, by what it says itself, else by its label; 0 where it is not known.
func limitOf(place round.Place, label float64) float64 {
	if temperature := place.Can().Temperature; temperature != nil {
		if _, limit := temperature(); limit > 0 {
			return limit
		}
	}
	return label
}

// write writes one part. Each has a round of its own, which does not wait for the drive to cool from the one before.
func write(ctx context.Context, place round.Place, o Options, bytes int64, load func() (end func()),
	tell func(drivetest.Progress)) (part *job.SustainedPart, err error) {
	t := test(bytes, o.Seconds)
	r, err := round.Open(ctx, place, round.Options{Tests: []job.Test{*t}, Seed: o.Seed, MaxTempC: o.MaxTempC})
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, r.Close()) }()
	if load != nil {
		defer load()()
	}
	run, err := r.Run(ctx, t, tell)
	if run == nil {
		return nil, err
	}
	part = &job.SustainedPart{Loaded: load != nil, Seconds: run.Seconds, Bytes: run.Bytes, MBs: run.Value,
		SlowestMBs: run.Slowest, StartC: run.StartTempC, PeakC: run.PeakTempC,
		Stopped: run.Stopped, Cliff: job.CliffOf(run, limitOf(place, o.MaxTempC))}
	if errors.Is(err, drivetest.ErrTooHot) {
		err = nil // which is what was looked for
	}
	return part, err
}
