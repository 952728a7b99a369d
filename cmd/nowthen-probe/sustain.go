package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"github.com/oklog/ulid/v2"
	"github.com/spf13/cobra"

	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/sustained"
)

// sustaining are the options of the sustain command.
type sustaining struct {
	in      string
	seconds float64
	most    int64
	limit   float64
	load    bool
	room    float64
	sink    string
	// roomSaid: a room temperature was given, which may be 0.
	roomSaid bool
	label    string
	json     bool
}

func sustainCommand() *cobra.Command {
	o := &sustaining{}
	cmd := &cobra.Command{
		Use:   "sustain --in DIR",
		Short: "Write to a drive for a while, and show how steady and how warm it is",
		Long: "Writes a file on the drive that holds DIR without a pause, then removes it. With --load it does so " +
			"again\n" +
			"while all processor cores are busy. Existing files are not touched. If the drive is not empty, it asks " +
			"for\n" +
			"the code on its label.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			o.roomSaid = cmd.Flags().Changed("room")
			return o.write(cmd.Context(), cmd.InOrStdin(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	cmd.Flags().StringVar(&o.in, "in", "", "a folder on the drive")
	cmd.Flags().Float64Var(&o.seconds, "seconds", 60, "longest time")
	cmd.Flags().Int64Var(&o.most, "most", order.UsualWriting,
		"most to write, bytes; with --load twice as much")
	cmd.Flags().Float64Var(&o.limit, "limit", 0,
		"the drive's temperature limit in degrees Celsius, from its label; writing stops there")
	cmd.Flags().BoolVar(&o.load, "load", false, "again with the processor loaded")
	cmd.Flags().Float64Var(&o.room, "room", 0, "room temperature in degrees Celsius; kept with the result")
	cmd.Flags().StringVar(&o.sink, "heat-sink", "", "yes or no: whether the drive has one; kept with the result")
	cmd.Flags().StringVar(&o.label, "label", "",
		"the code on the drive's label, as the job's page prints it: needed if the drive is not empty")
	cmd.Flags().BoolVar(&o.json, "json", false, "print one JSON value instead")
	return cmd
}

func (o *sustaining) write(ctx context.Context, stdin io.Reader, stdout, stderr io.Writer) error {
	opts := sustained.Options{Seconds: o.seconds, MostBytes: o.most, MaxTempC: o.limit, Seed: rand.Uint64(),
		Load: o.load}
	if err := opts.Check(); err != nil {
		return err
	}
	if !slices.Contains([]string{"", "yes", "no"}, o.sink) {
		return fmt.Errorf("--heat-sink must be yes or no, not %q", o.sink)
	}
	d, err := openNew(ctx, o.in, o.label, stdin, stderr)
	if err != nil {
		return err
	}
	parts := 1
	if o.load {
		parts = 2
	}
	fmt.Fprintf(stderr, "Writing up to %s, for up to %.0f s.\n",
		sold(int64(parts)*min(o.most, drivetest.Room(d.place.Facts()))), float64(parts)*o.seconds)
	said := time.Now()
	r, err := sustained.Write(ctx, d.place, opts, func(part int, p drivetest.Progress) {
		if time.Since(said) > 5*time.Second {
			said = time.Now()
			fmt.Fprintf(stderr, "%s%.0f MB/s\n", map[bool]string{true: "processor loaded: "}[part == 1], p.MBs)
		}
	})
	if r == nil {
		return err
	}
	r.ID, r.At = ulid.Make().String(), time.Now().Truncate(time.Second)
	if o.roomSaid {
		r.RoomC = &o.room
	}
	if o.sink != "" {
		with := o.sink == "yes"
		r.HeatSink = &with
	}
	if known := d.facts.Drive(d.facts.DriveOf(d.dir)); known != nil {
		r.Attached = known.Attached
	}
	if o.json {
		return errors.Join(err, printJSON(stdout, r))
	}
	for i := range r.Parts {
		fmt.Fprintln(stdout, partInWords(r, &r.Parts[i]))
	}
	return err
}

// partInWords describes one part of a sustained writing check.
func partInWords(s *job.Sustained, p *job.SustainedPart) string {
	var b strings.Builder
	if p.Loaded {
		b.WriteString("With the processor loaded: ")
	}
	fmt.Fprintf(&b, "%s in %.3g s, %.4g MB/s", sold(p.Bytes), p.Seconds, p.MBs)
	if p.SlowestMBs > 0 {
		fmt.Fprintf(&b, ", %.4g MB/s in the slowest second", p.SlowestMBs)
	}
	if c := p.Cliff; c != nil {
		fmt.Fprintf(&b, "; after %s it fell from %.4g to %.4g MB/s, %s", sold(c.AfterBytes), c.BeforeMBs, c.AfterMBs,
			map[string]string{drivetest.HeatCause: "for its heat",
				drivetest.CacheCause: "its write cache used up"}[c.Cause])
	}
	switch {
	case p.PeakC == nil:
		b.WriteString("; it does not tell its temperature")
	case s.LimitC == nil:
		fmt.Fprintf(&b, "; at most %.0f °C", *p.PeakC)
	default:
		fmt.Fprintf(&b, "; at most %.0f °C, its limit is %.0f °C", *p.PeakC, *s.LimitC)
	}
	if p.Stopped == drivetest.StoppedByHeat {
		b.WriteString(", which ended it")
	}
	return b.String() + "."
}
