// Package desk assembles the use cases of a bench over one store.
//
// It must not import HTTP or screens, and makes no decisions.
package desk

import (
	"context"
	"log/slog"

	"nowthen/bench"
	"nowthen/bench/evidence"
	"nowthen/bench/followup"
	"nowthen/bench/forecasting"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/probes"
	"nowthen/bench/reporting"
	"nowthen/bench/sittings"
	"nowthen/bench/stick"
	"nowthen/bench/swap"
	"nowthen/bench/timing"
	"nowthen/bench/transfer"
	"nowthen/bench/visit"
	"nowthen/core/hardware"
	"nowthen/store"
)

// Desk is all that a bench can do.
type Desk struct {
	Jobs      *bench.Jobs
	Visits    *visit.Visits
	Plans     *planning.Plans
	Sittings  *sittings.Sittings
	Rounds    *measuring.Rounds
	Probes    *probes.Probes
	Sticks    *stick.Sticks
	Swaps     *swap.Swap
	Timers    *timing.Timers
	Evidence  *evidence.Evidence
	Files     *transfer.Transfers
	Reports   *reporting.Reports
	Later     *followup.FollowUps
	Forecasts *forecasting.Forecasts

	damaged func(store.Damaged)
}

// Options configure a bench.
type Options struct {
	Log *slog.Logger
	// Pace is how many simulated seconds pass in a real one; 0 is as fast as possible.
	Pace float64
	// Clips is the folder of the video clips; "" accepts none.
	Clips string
	// Clock is the bench's time; nil is the computer's.
	Clock *bench.Clock
	// Hardware reports what the bench's own computer is; nil reports nothing.
	Hardware func(context.Context) *hardware.Facts
	// Damaged is called at the start for each job that can't be read; nil calls nobody.
	Damaged func(store.Damaged)
}

// New returns the desk over a store.
func New(s *store.Store, o Options) *Desk {
	jobs := bench.New(s, o.Clock, o.Log)
	plans := planning.New(jobs, s)
	joined := probes.New(jobs, s, o.Log)
	rounds := measuring.New(jobs, s, joined, measuring.Options{Log: o.Log, Pace: o.Pace, Hardware: o.Hardware})
	reports := reporting.New(jobs, s)
	swaps := swap.New(jobs, s, joined)
	if o.Damaged == nil {
		o.Damaged = func(store.Damaged) {}
	}
	kept := evidence.New(jobs, s, o.Clips)
	visits := visit.New(jobs, plans, s, swaps.Unfit)
	return &Desk{
		damaged:   o.Damaged,
		Jobs:      jobs,
		Visits:    visits,
		Plans:     plans,
		Sittings:  sittings.New(jobs),
		Rounds:    rounds,
		Probes:    joined,
		Sticks:    stick.New(jobs, s, joined, visits.OpenFor),
		Swaps:     swaps,
		Timers:    timing.New(jobs, s),
		Evidence:  kept,
		Files:     transfer.New(jobs, s, kept),
		Reports:   reports,
		Later:     followup.New(jobs, s, reports.OpenedBy),
		Forecasts: forecasting.New(jobs, s),
	}
}

// Start cleans up after a program that was interrupted, and prepares the cards of the start page for the first
// request. It requires exclusive use of the data folder. Damaged jobs are reported to [Options.Damaged] and
// don't keep anybody from the others.
func (d *Desk) Start(ctx context.Context) error {
	board, err := d.Visits.Board(ctx, visit.Ask{})
	if err == nil {
		for _, j := range board.Damaged {
			d.damaged(j)
		}
	}
	for _, err := range []error{err, d.Rounds.Recover(ctx), d.Evidence.Recover(ctx), d.Swaps.Recover(ctx)} {
		if store.IsDamaged(err) {
			d.damaged(store.Damaged{Why: err.Error()})
		} else if err != nil {
			return err
		}
	}
	return nil
}

// Close stops running work, or returns an error if it doesn't stop before the context ends.
func (d *Desk) Close(ctx context.Context) error { return d.Rounds.Close(ctx) }
