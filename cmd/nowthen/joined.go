package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/measuring"
	"nowthen/bench/visit"
	"nowthen/core/job"
	"nowthen/probe"
	"nowthen/sim"
)

// joinSimulated lets a simulated computer join the demonstration as a customer's would, over
// the network, and begins to measure it. It continues until the context ends.
func joinSimulated(ctx context.Context, d *desk.Desk, name, address string, pace float64, log *slog.Logger) error {
	computer, err := sim.NewStandIn(name)
	if err != nil {
		return err
	}
	dir, err := os.MkdirTemp("", "nowthen-demo-probe-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	v, err := d.Visits.Open(ctx, nil,
		visit.Intake{Customer: bench.Customer{Name: "Quayside Ferry Office"},
			Reason:   "The front desk starts while the queue waits",
			Reasons:  []visit.Reason{{What: job.ReasonSlowStart, Words: "the front desk starts while the queue waits"}},
			OldDrive: bench.Drive{Kind: job.HDD}, NewDrive: &bench.Drive{Kind: job.SataSSD, Maker: "Brightwater",
				Model: "Kestrel S1 960", CapacityBytes: 960_197_124_096}})
	if err != nil {
		return fmt.Errorf("the made-up job of the joined computer: %w", err)
	}
	pairing, err := d.Probes.Pair(ctx, nil, v.ID)
	if err != nil {
		return err
	}
	j, err := probe.Join(ctx, computer, address, pairing.Code, dir, probe.Options{Pace: pace, Away: 3 * time.Second,
		Say: func(line string) { log.Debug("the simulated computer", "says", line) }})
	if err != nil {
		return err
	}
	conditions := bench.Conditions{Power: job.Mains, PowerMode: job.NormalMode, Busy: &[]job.Busy{}}
	if _, err := d.Sittings.Sit(ctx, nil, v.ID, "then", conditions); err != nil {
		return err
	}
	list, err := d.Probes.Of(ctx, v.ID)
	if err != nil {
		return err
	}
	if len(list) != 1 {
		return errors.New("the simulated computer has not joined")
	}
	if _, err := d.Rounds.Measure(ctx, nil, v.ID,
		measuring.MeasureRequest{Sitting: "s1", Probe: list[0].ID}); err != nil {
		return err
	}
	if err := j.Run(ctx); err != nil && !errors.Is(err, context.Canceled) {
		return err
	}
	return nil
}
