package main

import (
	"context"
	"fmt"
	"io"
	"math/rand/v2"
	"time"

	"github.com/spf13/cobra"

	"nowthen/core/capacity"
	"nowthen/probe"
)

// capacities are the options of the capacity command.
type capacities struct {
	in     string
	whole  bool
	sample int64
	most   int64
	json   bool
	label  string
}

func capacityCommand() *cobra.Command {
	o := &capacities{}
	cmd := &cobra.Command{
		Use:   "capacity --in DIR",
		Short: "Check a drive's true capacity",
		Long: "Writes marked blocks over the free space of the drive that holds DIR, reads them back, and removes " +
			"them.\n" +
			"Existing files are not touched. If the drive is not empty, it asks for the code on its label.\n" +
			"A sample is quick and says how likely it misses a false drive. --whole misses none, but takes as long as\n" +
			"writing and reading all of it. On file systems that fill the space before a block, a sample takes that " +
			"long too.",
		Args: cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return o.look(cmd.Context(), cmd.InOrStdin(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	cmd.Flags().StringVar(&o.in, "in", "", "a folder on the drive")
	cmd.Flags().BoolVar(&o.whole, "whole", false, "all of the free space")
	cmd.Flags().Int64Var(&o.sample, "sample", 4<<30, "size of a sample, bytes")
	cmd.Flags().Int64Var(&o.most, "most", 0, "most of the free space to check, bytes; 0 for all")
	cmd.Flags().StringVar(&o.label, "label", "",
		"the code on the drive's label, as the job's page prints it: needed if the drive is not empty")
	cmd.Flags().BoolVar(&o.json, "json", false, "print one JSON value instead")
	return cmd
}

func (o *capacities) look(ctx context.Context, stdin io.Reader, stdout, stderr io.Writer) error {
	if o.sample < capacity.BlockBytes || o.most < 0 {
		return fmt.Errorf("--sample and --most are sizes in bytes; --sample is at least %d", capacity.BlockBytes)
	}
	d, err := openNew(ctx, o.in, o.label, stdin, stderr)
	if err != nil {
		return err
	}
	seed := rand.Uint64()
	p, note := probe.Stretch{Whole: o.whole, Sample: o.sample, Most: o.most}.Plan(d.place, d.facts, d.dir, seed)
	if note != "" {
		fmt.Fprintln(stderr, note)
	}
	fmt.Fprintf(stderr, "Writing %s over %s and reading it back.\n", sold(int64(len(p.Blocks))*capacity.BlockBytes),
		sold(p.Bytes))
	began, said := time.Now(), time.Now()
	r, err := capacity.Verify(ctx, d.place, p, seed, func(share float64) {
		if time.Since(said) > 5*time.Second {
			said = time.Now()
			fmt.Fprintf(stderr, "%.0f %%%s\n", share*100, left(said.Sub(began), int64(share*1e6), 1e6))
		}
	})
	if err != nil {
		return err
	}
	if o.json {
		return printJSON(stdout, r)
	}
	_, err = fmt.Fprintln(stdout, held(r))
	return err
}

// held describes the result of reading back.
func held(r *capacity.Result) string {
	switch {
	case !r.Holds():
		s := fmt.Sprintf("%d of %d blocks came back different, the first at %s: the drive's true capacity is smaller "+
			"than stated. Don't use it. Send it back.",
			r.Missing+r.Overlaid, r.Blocks, sold(*r.First))
		if r.Apart != nil {
			s += fmt.Sprintf(" Blocks that lie %s apart are one and the same.", sold(*r.Apart))
		}
		return s
	case r.Missed == 1:
		s := fmt.Sprintf("All %s, over %s", sold(r.Written), sold(r.FileBytes))
		if r.Of > 0 {
			s += fmt.Sprintf(" of a drive of %s", sold(r.Of))
		}
		return s + ", came back as they were written. That says nothing about the rest of the drive. Empty it " +
			"first, then check all of it."
	case r.Whole:
		return fmt.Sprintf("All %s came back as they were written.", sold(r.Written))
	}
	return fmt.Sprintf("All %s, spread over %s, came back as they were written. A drive with half its stated "+
		"capacity or less would be missed with a chance of %.2g %%.",
		sold(r.Written), sold(r.FileBytes), max(r.Missed*100, 0.01))
}
