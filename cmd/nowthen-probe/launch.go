package main

import (
	"errors"
	"fmt"
	"strings"

	"github.com/spf13/cobra"

	"nowthen/machine/launch"
)

// mostRuns is the most launches of one command.
const mostRuns = 1000

func launchCommand() *cobra.Command {
	var o launch.Options
	var launcher *launch.Launcher
	until, runs, asJSON := "", 1, false
	cmd := &cobra.Command{
		Use:   "launch --until SIGN [--cold] [--runs N] -- PROGRAM [ARGUMENTS...]",
		Short: "Time a program from its start until it is ready",
		Long: "Starts a program, times it until its sign comes, and ends what it started.\n\nSIGN is " + launch.Signs +
			".\n" +
			"With --cold it is launched once more beforehand, to learn which files it uses; they are dropped\nfrom " +
			"memory before each run, which is checked.",
		Args: func(_ *cobra.Command, args []string) (err error) {
			if len(args) == 0 {
				return errors.New("give the program after --")
			}
			if runs < 1 || runs > mostRuns {
				return fmt.Errorf("--runs must be 1 to %d", mostRuns)
			}
			if o.GiveUp <= 0 {
				return errors.New("--give-up must be a time such as 90s or 10m")
			}
			o.Program, o.Args = args[0], args[1:]
			if o.Until, err = launch.ParseSign(until); err != nil {
				return err
			}
			launcher, err = launch.New(o)
			return err
		},
		RunE: func(cmd *cobra.Command, _ []string) error {
			var err error
			out := cmd.OutOrStdout()
			finished := []*launch.Run{}
			for n := range runs {
				var r *launch.Run
				if r, err = launcher.Run(cmd.Context()); err != nil {
					break
				}
				finished = append(finished, r)
				if !asJSON {
					fmt.Fprintln(out, sayRun(n+1, r))
				}
			}
			if asJSON { // what was finished is kept also where a later run failed
				err = errors.Join(err, printJSON(out, struct {
					Runs []*launch.Run `json:"runs"`
				}{finished}))
			}
			return err
		},
	}
	cmd.Flags().StringVar(&until, "until", "", "the sign that it is ready: "+launch.Signs)
	cmd.Flags().BoolVar(&o.Cold, "cold", false, "drop the program's own files from memory before each run")
	cmd.Flags().IntVar(&runs, "runs", 1, "how often")
	cmd.Flags().DurationVar(&o.GiveUp, "give-up", launch.GiveUp, "how long to wait for the sign")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print one JSON value instead")
	return cmd
}

// sayRun prints a run for a person.
func sayRun(n int, r *launch.Run) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%3d  %.3f s (u %.4f s)", n, r.Value, r.U)
	if r.Warmth != "" {
		b.WriteString(", " + string(r.Warmth))
	}
	fmt.Fprintf(&b, ", ended %s", r.Ended)
	if r.Note != "" {
		b.WriteString("; " + r.Note)
	}
	return b.String()
}
