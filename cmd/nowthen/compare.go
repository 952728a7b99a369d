package main

import (
	"cmp"
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
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/side"
	"nowthen/core/words"
)

func compareCommand() *cobra.Command {
	var then, with, intended string
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "compare FILE",
		Short: "Print the ledger of a job file",
		Long: "Sets every test of a job file on one setup against the same test on another and prints the " +
			"ledger,\nas a table or as JSON. Works on the file alone.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			data, err := readJobFile(args[0])
			if err != nil {
				return err
			}
			j, err := jobfile.Read(args[0], data)
			if err != nil {
				return err
			}
			j, left, right, err := sides(j, args[0], then, with)
			if err != nil {
				return err
			}
			o := compare.DefaultOptions
			o.Intended = intended
			if intended != "" && !fairness.Known(intended) {
				return &jobfile.Refusal{Name: args[0],
					Faults: []job.Fault{{Place: "/",
						Reason: fmt.Sprintf("--intended: there is no rule %q; the rules are %s", intended,
							strings.Join(fairness.Rules(), ", "))}}}
			}
			l := compare.Compare(j, left, right, o)
			if !asJSON {
				return printLedger(cmd.OutOrStdout(), j, l)
			}
			out, err := json.Marshal(struct {
				*compare.Ledger
				Findings []words.Finding `json:"findings"`
			}{l, words.Findings(l.Findings, j)}, jsontext.WithIndent("  "))
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "%s\n", out)
			return err
		},
	}
	cmd.Flags().StringVar(&then, "then", "",
		"side on the left: a setup, a sitting, SETUP/SITTING or SETUP/question:WORDS\n"+
			"(default: the setup with the role then; of a check-up the first sitting)")
	cmd.Flags().StringVar(&with, "with", "",
		"side on the right (default: the setup with the role now, else the newest trial; of a check-up the last sitting)")
	cmd.Flags().StringVar(&intended, "intended", "",
		"rule whose difference is the question of this comparison, such as power")
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

// sides returns the ids of the two sides that are compared, named or by default, and the job in which each is a setup
// (calculations, section 18).
func sides(j *job.Job, path, then, with string) (of *job.Job, left, right string, err error) {
	fault := func(format string, args ...any) error {
		return &jobfile.Refusal{Name: path,
			Faults: []job.Fault{{Place: "/setups", Reason: fmt.Sprintf(format, args...)}}}
	}
	a, b := j.DefaultSides()
	left, right = cmp.Or(then, a), cmp.Or(with, b)
	of = j.Named(left, right)
	for _, s := range []struct {
		flag, id string
		role     job.Role
	}{{"--then", left, job.Then}, {"--with", right, job.Now}} {
		switch {
		case s.id == "":
			return nil, "", "", fault("there is no setup with the role %q; name one with %s", s.role, s.flag)
		case of.Setup(s.id) == nil:
			return nil, "", "", fault("%s: no setup has the id %q, and no sitting", s.flag, s.id)
		}
	}
	if left == right {
		return nil, "", "", fault("--then and --with are both %q; two sides are compared", left)
	}
	return of, left, right, nil
}

// printLedger prints a ledger as a table.
func printLedger(out io.Writer, j *job.Job, l *compare.Ledger) error {
	w := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	if l.Intended != "" {
		for _, f := range words.Findings(l.Findings, j) {
			if f.Rule == l.Intended {
				fmt.Fprintf(out, "%s: %s against %s\n\n", words.Title(f.Rule), f.Then, f.With)
			}
		}
	}
	fmt.Fprintf(w, "Test\t%s\t%s\tFactor\t95 %% interval\tWaiting\tFindings\n", l.Then, l.With)
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := j.Test(ln.Test)
		said := words.Line(ln, t, words.Sides{Then: l.Then, With: l.With})
		factor := said.Factor
		if said.Doubt != "" {
			factor += " (" + said.Doubt + ")"
		}
		fmt.Fprintf(w, "%s\t%s\t%s\t%s\t%s\t%s\t%s\n", t.Name, dash(counted(said.Then, ln.Then)),
			dash(counted(said.With, ln.With)),
			factor, dash(said.Range), dash(join(said.Waiting, said.Saves)), dash(strings.Join(ln.Findings, " ")))
	}
	if err := w.Flush(); err != nil {
		return err
	}
	fmt.Fprintf(out, "\nWaiting: %s\nDrive:   %s\n", group(l.Groups.Waiting, words.Waits(l.Groups.Waiting)),
		group(l.Groups.Drive, words.Rates(l.Groups.Drive)))
	if said := words.Savings(l.Savings); said != "" {
		fmt.Fprintln(out, said)
	}
	for _, f := range words.Findings(l.Findings, j) {
		fmt.Fprintf(out, "\n%s (%s): %s\n", words.Title(f.Rule), f.Effect, join(f.Then, f.With))
		fmt.Fprintf(out, "  %s\n", f.Remedy)
	}
	return nil
}

func counted(figure string, s *side.Side) string {
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
