package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"maps"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/spf13/cobra"

	"nowthen/core/manifest"
	"nowthen/machine/contents"
)

// manifests are the options and arguments of the manifest command.
type manifests struct {
	of, out, against, rules string
	json                    bool
	gentle                  bool

	before []manifest.Entry
	apart  manifest.Rules
}

func manifestCommand() *cobra.Command {
	o := &manifests{}
	cmd := &cobra.Command{
		Use:   "manifest --of DIR (--out FILE | --against FILE)",
		Short: "List a folder's files, or compare a folder with such a list",
		Long: "Reads a folder file by file without changing it. With --out it writes a list of the files,\n" +
			"compressed if the name ends in .gz. An interrupted run resumes where it stopped.\n" +
			"With --against it compares the folder with such a list.\n\n" +
			"Paths that change on their own are counted apart. --rules FILE replaces these rules:\n" +
			usualRules(),
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) > 0 {
				return fmt.Errorf("unexpected %q: give the folder with --of", args[0])
			}
			return o.understand()
		},
		RunE: func(cmd *cobra.Command, _ []string) error {
			if o.out != "" {
				return o.write(cmd.Context(), cmd.OutOrStdout(), cmd.ErrOrStderr())
			}
			return o.compare(cmd.Context(), cmd.OutOrStdout())
		},
	}
	cmd.Flags().StringVar(&o.of, "of", "", "the folder that is read")
	cmd.Flags().StringVar(&o.out, "out", "", "file to write what it holds to")
	cmd.Flags().StringVar(&o.against, "against", "", "file of what it held before")
	cmd.Flags().StringVar(&o.rules, "rules", "",
		"file with rules for paths that are counted apart: {\"name\": [\"pattern\"]}")
	cmd.Flags().BoolVar(&o.gentle, "gentle", false,
		"pause as long as it reads, for a computer in use or a failing drive")
	cmd.Flags().BoolVar(&o.json, "json", false, "print one JSON value instead")
	return cmd
}

func usualRules() string {
	var b strings.Builder
	for name, patterns := range maps.All(manifest.UsualRules()) {
		fmt.Fprintf(&b, "  %s: %s\n", name, strings.Join(patterns, ", "))
	}
	lines := strings.SplitAfter(b.String(), "\n")
	slices.Sort(lines)
	return strings.Join(lines, "")
}

// understand checks the arguments, and reads the input files.
func (o *manifests) understand() (err error) {
	if (o.out == "") == (o.against == "") {
		return errors.New("use --out FILE to list a folder, or --against FILE to compare it with a list")
	}
	if info, err := os.Stat(o.of); err != nil || !info.IsDir() {
		return fmt.Errorf("--of %q is not a readable folder", o.of)
	}
	o.apart = manifest.UsualRules()
	if o.rules != "" {
		data, err := os.ReadFile(o.rules)
		if err != nil {
			return err
		}
		o.apart = nil
		if err := json.Unmarshal(data, &o.apart); err != nil {
			return fmt.Errorf("%s: %w", o.rules, err)
		}
		if err := o.apart.Check(); err != nil {
			return fmt.Errorf("%s: %w", o.rules, err)
		}
	}
	if o.out != "" {
		if _, err := os.Lstat(o.out); err == nil {
			return fmt.Errorf("%s already exists and isn't overwritten; use another name", o.out)
		}
		return nil
	}
	if o.before, err = contents.ReadList(o.against); err != nil {
		return fmt.Errorf("%s: %w", o.against, err)
	}
	return nil
}

// written is what was listed, and where.
type written struct {
	Out string `json:"out"`
	manifest.Listed
}

func (o *manifests) write(ctx context.Context, stdout, stderr io.Writer) error {
	whole, _, err := contents.Sizes(ctx, o.of, 0, 0) // where that fails, reading says why
	if ctx.Err() == nil && err == nil {
		fmt.Fprintf(stderr, "%d files, %s\n", whole.Files, size(whole.Bytes))
	}
	said := time.Now()
	began := said
	sum, err := contents.List(ctx, o.of, o.out, contents.Listing{Gentle: o.gentle,
		Resumed: func(files int) { fmt.Fprintf(stderr, "Resuming after %d files.\n", files) },
		Each: func(sum manifest.Listed) {
			if time.Since(said) > 5*time.Second {
				said = time.Now()
				fmt.Fprintf(stderr, "%d of %d files, %s so far%s\n", sum.Files, whole.Files, size(sum.Bytes),
					left(said.Sub(began), sum.Bytes, whole.Bytes))
			}
		}})
	if err != nil {
		return err
	}
	if o.json {
		return printJSON(stdout, written{o.out, sum})
	}
	_, err = fmt.Fprintf(stdout, "%d files, %s, listed in %s; %d unreadable.\n", sum.Files,
		size(sum.Bytes), o.out, sum.Unreadable)
	return err
}

func (o *manifests) compare(ctx context.Context, stdout io.Writer) error {
	now, err := contents.Entries(ctx, o.of, o.against)
	if err != nil {
		return err
	}
	d := manifest.Compare(o.before, now, o.apart)
	if o.json {
		return printJSON(stdout, d)
	}
	var b strings.Builder
	fmt.Fprintf(&b, "%d files, %s. %d came across unchanged.\n", d.Files, size(d.Bytes), d.Unchanged)
	for _, part := range []struct {
		what  string
		n     int
		paths []string
	}{
		{"missing", d.Counts.Missing, d.Missing}, {"changed", d.Counts.Changed, d.Changed}, {"cannot be read now",
			d.Counts.UnreadableNow, d.UnreadableNow},
		{"could not be read before already", d.Counts.UnreadableBefore, d.UnreadableBefore}, {"new", d.Counts.New,
			d.New},
	} {
		if part.n == 0 {
			continue
		}
		fmt.Fprintf(&b, "%d %s:\n", part.n, part.what)
		for _, p := range part.paths {
			fmt.Fprintf(&b, "  %q\n", p)
		}
		if more := part.n - len(part.paths); more > 0 {
			fmt.Fprintf(&b, "  and %d more\n", more)
		}
	}
	for _, rule := range slices.Sorted(maps.Keys(d.SetApart)) {
		fmt.Fprintf(&b, "%d set apart: %s\n", d.SetApart[rule], rule)
	}
	_, err = io.WriteString(stdout, b.String())
	return err
}

// left estimates the remaining time at the current rate, "" if that isn't possible.
func left(spent time.Duration, done, whole int64) string {
	if done <= 0 || whole <= done {
		return ""
	}
	rest := time.Duration(float64(spent) / float64(done) * float64(whole-done))
	if rest < 90*time.Second {
		return fmt.Sprintf(", about %d s left", int(rest.Seconds()))
	}
	return fmt.Sprintf(", about %d min left", int(rest.Minutes()+0.5))
}
