package main

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"strings"
	"text/tabwriter"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/words"
)

func compareCommand() *cobra.Command {
	var then, with string
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "compare FILE",
		Short: "Print the ledger of a job file",
		Long:  "Sets every test of a job file on one setup against the same test on another and prints the ledger,\nas a table or as JSON. Works on the file alone.",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readJobFile(args[0])
			if err != nil {
				return err
			}
			j, err := jobfile.Read(args[0], data)
			if err != nil {
				return err
			}
			left, err := setup(j, args[0], "--then", then, job.Then)
			if err != nil {
				return err
			}
			right, err := setup(j, args[0], "--with", with, job.Now)
			if err != nil {
				return err
			}
			l := compare.Compare(j, left, right, compare.DefaultOptions)
			if !asJSON {
				return printLedger(cmd.OutOrStdout(), j, l)
			}
			out, err := json.Marshal(l, jsontext.WithIndent("  "))
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%s\n", out)
			return err
		},
	}
	cmd.Flags().StringVar(&then, "then", "", "id of the setup on the left (default: the one with the role then)")
	cmd.Flags().StringVar(&with, "with", "", "id of the setup on the right (default: the one with the role now)")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON with unrounded figures")
	return cmd
}

func refuseFile(path string, err error) error {
	var p *fs.PathError
	if errors.As(err, &p) {
		err = p.Err
	}
	return &jobfile.Refusal{Name: path, Faults: []job.Fault{{Reason: err.Error()}}}
}

// setup returns the id of the setup named, or of the one with that role.
func setup(j *job.Job, path, flag, id, role string) (string, error) {
	if id == "" {
		if s := j.SetupAs(role); s != nil {
			return s.ID, nil
		}
		return "", &jobfile.Refusal{Name: path, Faults: []job.Fault{{Place: "/setups", Reason: fmt.Sprintf("there is no setup with the role %q; name one with %s", role, flag)}}}
	}
	if j.Setup(id) == nil {
		return "", &jobfile.Refusal{Name: path, Faults: []job.Fault{{Place: "/setups", Reason: fmt.Sprintf("%s: no setup has the id %q", flag, id)}}}
	}
	return id, nil
}

// printLedger prints a ledger as a table.
func printLedger(out io.Writer, j *job.Job, l *compare.Ledger) error {
	w := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	fmt.Fprintf(w, "Test\t%s\t%s\tFactor\t95 %% interval\tWaiting\tFindings\n", l.Then, l.With)
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := j.Test(ln.Test)
		said := words.Line(ln, t)
		factor := said.Factor
		if ln.Indicative {
			factor += " (single run)"
		}
		fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\t%s\t%s\n", t.Name, dash(side(said.Then, ln.Then)), dash(side(said.With, ln.With)),
			factor, dash(said.Range), dash(join(said.Waiting, said.Saves)), dash(strings.Join(ln.Findings, " ")))
	}
	if err := w.Flush(); err != nil {
		return err
	}
	fmt.Fprintf(out, "\nWaiting: %s\nDrive:   %s\n", group(l.Groups.Waiting, words.Waits(l.Groups.Waiting)), group(l.Groups.Drive, words.Rates(l.Groups.Drive)))
	if said := words.Savings(l.Savings); said != "" {
		fmt.Fprintln(out, said)
	}
	for _, f := range l.Findings {
		fmt.Fprintf(out, "\n%s (%s): %s\n", words.Title(f.Rule), f.Effect, join(f.Then, f.With))
		fmt.Fprintf(out, "  %s\n", f.Remedy)
	}
	return nil
}

func side(figure string, s *compare.Side) string {
	if s == nil {
		return ""
	}
	return fmt.Sprintf("%s (n=%d)", figure, s.N)
}

func group(g compare.Group, words string) string {
	if g.Factor == nil {
		return "nothing to compare"
	}
	return fmt.Sprintf("%s over %d lines", words, g.Lines)
}

func dash(s string) string {
	if s == "" {
		return "–"
	}
	return s
}

func join(a, b string) string { return strings.Trim(a+", "+b, ", ") }
