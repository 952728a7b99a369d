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

// Options are what a bench can be told.
type Options struct {
	Log *slog.Logger
	// Pace is how many virtual seconds a simulated measuring passes in a real one; 0
	// is as fast as it goes.
	Pace float64
	// Clips is the folder in which video clips are kept; "" takes none.
	Clips string
	// Clock is the bench's time; nil is the computer's.
	Clock *bench.Clock
	// Hardware reports what the bench's own computer is; nil reports nothing.
	Hardware func(context.Context) *hardware.Facts
	// Damaged is told at the start which jobs cannot be read any more; nil notifies nobody.
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

// Start fixes what a program left that was ended while it worked, and makes the
// cards of the bench page, so that the first who asks need not wait. Only a program
// that is alone on the data folder may do so. What is damaged keeps nobody from working with the
// rest: [Options.Damaged] is told.
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

// Close ends what runs, or says what does not end before the context does.
func (d *Desk) Close(ctx context.Context) error { return d.Rounds.Close(ctx) }
