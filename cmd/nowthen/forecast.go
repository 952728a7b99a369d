package main

import (
	"errors"
	"fmt"
	"os"
	"text/tabwriter"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/words"
)

// forecastCommand forecasts the effect of a new drive, from the bench's finished jobs.
func forecastCommand() *cobra.Command {
	var data string
	var drives []string
	var past, asJSON bool
	cmd := &cobra.Command{
		Use:   "forecast NUMBER|FILE",
		Short: "Forecast what a new drive would bring, from finished jobs",
		Long: "Prints for each candidate the waits to expect as 80 % ranges, and how often such ranges held.\n" +
			"With --past it prints the forecast of each finished job from the others, and what was measured.",
		Args: func(cmd *cobra.Command, args []string) error {
			if past {
				return cobra.NoArgs(cmd, args)
			}
			return cobra.ExactArgs(1)(cmd, args)
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			d := desk.New(st, desk.Options{})
			var out any
			var print func() error
			if past {
				list, err := d.Forecasts.Past(cmd.Context())
				if err != nil {
					return err
				}
				out, print = list, func() error { return printPast(cmd, list) }
			} else {
				j, err := jobNamed(cmd, d, args[0])
				if err != nil {
					return err
				}
				f, err := d.Forecasts.For(cmd.Context(), j, drives)
				if err != nil {
					return refusedAs(args[0], err)
				}
				out, print = f, func() error { return printForecast(cmd, j, f) }
			}
			if !asJSON {
				return print()
			}
			text, err := json.Marshal(out, jsontext.WithIndent("  "), json.Deterministic(true))
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%s\n", text)
			return err
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().StringArrayVar(&drives, "new", nil, "kind of drive, or model of the price list; can be repeated")
	cmd.Flags().BoolVar(&past, "past", false, "forecast each finished job from the others")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON with unrounded figures")
	return cmd
}

// jobNamed loads a job from a file, or from a bench by its number.
func jobNamed(cmd *cobra.Command, d *desk.Desk, of string) (*job.Job, error) {
	if _, err := os.Stat(of); err == nil {
		data, err := readJobFile(of)
		if err != nil {
			return nil, err
		}
		return jobfile.Read(of, data)
	}
	id, err := d.Files.Numbered(cmd.Context(), of)
	if err != nil {
		return nil, refusedAs(of, err)
	}
	snap, err := d.Jobs.Load(cmd.Context(), id)
	if err != nil {
		return nil, err
	}
	return snap.Job, nil
}

// refusedAs turns a bench's refusal into one of the command's input, which exits with status 2.
func refusedAs(of string, err error) error {
	var r *bench.Refusal
	if errors.As(err, &r) {
		return &jobfile.Refusal{Name: of, Faults: []job.Fault{{Reason: r.Error()}}}
	}
	return err
}

func printForecast(cmd *cobra.Command, j *job.Job, f *forecast.Forecast) error {
	w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
	fmt.Fprintln(w, "Drive\tTest\tThen\tTo expect (80 %)\tBased on")
	for _, c := range f.Candidates {
		for _, l := range c.Waits {
			then := "not measured"
			if l.Then != nil {
				then = words.English.Seconds(*l.Then)
			}
			fmt.Fprintf(w, "%s\t%s\t%s\t%s to %s\t%d jobs (%s)\n", c.New, j.Test(l.Test).Name, then,
				words.English.Seconds(l.NowLow), words.English.Seconds(l.NowHigh), l.Jobs, l.Class)
		}
	}
	for _, r := range f.Refused {
		fmt.Fprintf(w, "\t%s\t\t–\t%s\n", j.Test(r.Test).Name, r.Why)
	}
	if err := w.Flush(); err != nil {
		return err
	}
	said := "How often such forecasts were right is not known yet."
	if r := f.Record; r.Share != nil {
		said = fmt.Sprintf("%d of %d such forecasts were right.", r.Held, r.Forecasts)
	}
	_, err := fmt.Fprintln(cmd.OutOrStdout(), said)
	return err
}

func printPast(cmd *cobra.Command, list []forecast.Left) error {
	w := tabwriter.NewWriter(cmd.OutOrStdout(), 0, 0, 2, ' ', 0)
	fmt.Fprintln(w, "Job\tTest\tClass\tFactor forecast (80 %)\tMeasured\tHeld")
	for _, l := range list {
		fmt.Fprintf(w, "%s\t%s\t%s\t%s to %s\t%s\t%t\n", l.Job, l.Test, l.Class, words.Times(l.Low),
			words.Times(l.High),
			words.Times(l.Measured), l.Inside())
	}
	return w.Flush()
}
