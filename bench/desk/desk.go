// Package desk puts the use cases of a bench together over one store.
//
// It must not import HTTP or screens, and decides nothing.
package desk

import (
	"context"
	"errors"
	"log/slog"

	"nowthen/bench"
	"nowthen/bench/evidence"
	"nowthen/bench/followup"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/probes"
	"nowthen/bench/reporting"
	"nowthen/bench/sittings"
	"nowthen/bench/swap"
	"nowthen/bench/timing"
	"nowthen/bench/visit"
	"nowthen/store"
)

// Desk is all that a bench can do.
type Desk struct {
	Jobs     *bench.Jobs
	Visits   *visit.Visits
	Plans    *planning.Plans
	Sittings *sittings.Sittings
	Rounds   *measuring.Rounds
	Probes   *probes.Probes
	Swaps    *swap.Swap
	Timers   *timing.Timers
	Evidence *evidence.Evidence
	Reports  *reporting.Reports
	Later    *followup.FollowUps
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
}

// New returns the desk over a store.
func New(s *store.Store, o Options) *Desk {
	jobs := bench.New(s, o.Clock, o.Log)
	plans := planning.New(jobs, s)
	joined := probes.New(jobs, s, o.Log)
	rounds := measuring.New(jobs, s, measuring.Options{Log: o.Log, Pace: o.Pace})
	rounds.On(joined)
	reports := reporting.New(jobs, s)
	swaps := swap.New(jobs, s, func(ctx context.Context, jobID string) (map[string]swap.Told, error) {
		sides, err := joined.Sides(ctx, jobID)
		all := map[string]swap.Told{}
		for setup, t := range sides {
			all[setup] = swap.Told{Facts: t.Facts, At: t.At}
		}
		return all, err
	}, func(ctx context.Context, jobID string) (map[string]swap.Heaviest, error) {
		folders, err := joined.Folders(ctx, jobID)
		all := map[string]swap.Heaviest{}
		for setup, w := range folders {
			all[setup] = swap.Heaviest{At: w.At, Bytes: w.Bytes, Largest: w.Largest, Refused: w.Refused}
		}
		return all, err
	})
	joined.ReportTo(rounds, swap.Findings{Swap: swaps})
	return &Desk{
		Jobs:     jobs,
		Visits:   visit.New(jobs, plans, s, swaps.Unfit),
		Plans:    plans,
		Sittings: sittings.New(jobs),
		Rounds:   rounds,
		Probes:   joined,
		Swaps:    swaps,
		Timers:   timing.New(jobs, s),
		Evidence: evidence.New(jobs, s, o.Clips),
		Reports:  reports,
		Later:    followup.New(jobs, s, reports.OpenedBy),
	}
}

// Start puts right what a program left that was ended while it worked, and makes the
// cards of the bench page, so that the first who asks need not wait. Only a program
// that is alone on the data folder may do so.
func (d *Desk) Start(ctx context.Context) error {
	_, err := d.Visits.Board(ctx, visit.Ask{})
	return errors.Join(d.Rounds.Recover(ctx), d.Evidence.Recover(ctx), d.Swaps.Recover(ctx), err)
}

// Close ends what runs, or says what does not end before the context does.
func (d *Desk) Close(ctx context.Context) error { return d.Rounds.Close(ctx) }
