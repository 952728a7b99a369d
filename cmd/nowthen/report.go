package main

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"nowthen/bench/desk"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/words"
	"nowthen/report"
	"nowthen/report/forms"
)

// reporting are the options of report.
type reporting struct {
	out, lang, data string
	revision        int
	forms.Options
}

func reportCommand() *cobra.Command {
	o := &reporting{}
	cmd := &cobra.Command{
		Use:   "report NUMBER|FILE -o OUT",
		Short: "Write a customer's report",
		Long: "Writes the report of a job in the form that the ending of OUT says: " +
			strings.Join(forms.Endings, " ") + ".\n" +
			"From a job file it is a draft, and marked so; by a job's number it is the one that was issued on the bench.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error { return o.write(cmd, args[0]) },
	}
	cmd.Flags().StringVarP(&o.out, "out", "o", "", "file to write")
	cmd.Flags().StringVar(&o.lang, "lang", "", "language: en, de (default: en, or the one it was issued in)")
	cmd.Flags().StringVar(&o.Paper, "paper", "",
		"paper: "+strings.Join(forms.Papers, ", ")+" (default: a4, or the shop's)")
	cmd.Flags().StringVar(&o.Length, "length", "", "length: "+strings.Join(forms.Lengths, ", ")+" (default: two)")
	cmd.Flags().IntVar(&o.revision, "revision", 0, "which of a job's issued reports, from 1 (default: the last one)")
	dataFlag(cmd, &o.data)
	return cmd
}

func (o *reporting) write(cmd *cobra.Command, of string) error {
	wrong := func(err error) error {
		return &jobfile.Refusal{Name: of, Faults: []job.Fault{{Place: "/", Reason: err.Error()}}}
	}
	if o.out == "" {
		return wrong(errors.New("-o says which file to write"))
	}
	if !forms.Known(o.out) {
		return wrong(fmt.Errorf("the ending of %q says no form of a report; there are %s", o.out,
			strings.Join(forms.Endings, ", ")))
	}
	chosen := o.Options
	if err := chosen.Check(); err != nil {
		return wrong(err)
	}
	in := words.English
	if o.lang != "" {
		var err error
		if in, err = words.In(o.lang); err != nil {
			return wrong(err)
		}
	}
	var d *report.Document
	var err error
	if _, gone := os.Stat(of); errors.Is(gone, fs.ErrNotExist) && !strings.HasSuffix(strings.ToLower(of), ".json") {
		d, err = o.issued(cmd, of)
	} else if o.revision != 0 {
		return wrong(errors.New("--revision is of a report that was issued; from a file it is a draft"))
	} else {
		d, err = draft(of, in)
	}
	if err != nil {
		return err
	}
	var b bytes.Buffer
	if err := forms.Write(cmd.Context(), &b, o.out, d, o.Options); err != nil {
		return err
	}
	return writeFile(o.out, b.Bytes())
}

// draft returns the draft report of a job file.
func draft(path string, in *words.Language) (*report.Document, error) {
	data, err := readJobFile(path)
	if err != nil {
		return nil, err
	}
	j, err := jobfile.Read(path, data)
	if err != nil {
		return nil, err
	}
	then, with := j.DefaultSides() // without the first, the report states what is there now
	if with == "" {
		return nil, &jobfile.Refusal{Name: path, Faults: []job.Fault{{Place: "/setups", Reason: "there is no setup to report on"}}}
	}
	j = j.Named(then, with)
	return report.New(j, compare.Compare(j, then, with, compare.DefaultOptions), report.Options{Language: in}), nil
}

// issued returns a report issued on the bench.
func (o *reporting) issued(cmd *cobra.Command, number string) (*report.Document, error) {
	st, done, err := openStore(o.data)
	if err != nil {
		return nil, err
	}
	defer done()
	d := desk.New(st, desk.Options{})
	id, err := d.Files.Numbered(cmd.Context(), number)
	if err != nil {
		return nil, err
	}
	doc, err := d.Reports.Issued(cmd.Context(), id, o.revision)
	if err != nil {
		return nil, err
	}
	if o.Paper == "" {
		shop, err := d.Reports.Shop(cmd.Context())
		if err != nil {
			return nil, err
		}
		o.Paper = shop.Paper
	}
	if was := doc.Lang; o.lang != "" && o.lang != was && !(was == "" && o.lang == words.English.Tag) {
		return nil, fmt.Errorf("the report of job %s was issued in %s and stays so; issue it again for another language", number, was)
	}
	return doc, nil
}

// writeFile writes a file whole or not at all.
func writeFile(path string, data []byte) error {
	f, err := os.CreateTemp(filepath.Dir(path), ".nowthen-*")
	if err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	_, err = f.Write(data)
	if err = errors.Join(err, f.Close()); err == nil {
		err = os.Rename(f.Name(), path)
	}
	if err != nil {
		return errors.Join(fmt.Errorf("writing %s: %w", path, err), os.Remove(f.Name()))
	}
	return nil
}
