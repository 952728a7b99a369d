package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"nowthen/backup"
	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/transfer"
	"nowthen/durable"
)

// exportCommand writes a job as a job file, or as a zip with its photos and clips.
func exportCommand() *cobra.Command {
	var data, out string
	cmd := &cobra.Command{
		Use:   "export NUMBER",
		Short: "Write a job as a job file, or with its photos and clips where --out ends in .zip",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			files := desk.New(st, desk.Options{Clips: filepath.Join(data, backup.Clips)}).Files
			id, err := files.Numbered(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			if strings.EqualFold(filepath.Ext(out), ".zip") {
				return exportZip(cmd.Context(), files, id, out)
			}
			_, file, err := files.Export(cmd.Context(), id)
			if err != nil {
				return err
			}
			if out == "" {
				_, err = cmd.OutOrStdout().Write(file)
				return err
			}
			return durable.Write(out, file)
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().StringVarP(&out, "out", "o", "", "file to write (default: standard output)")
	return cmd
}

// exportZip writes a job with its photos and clips.
func exportZip(ctx context.Context, files *transfer.Transfers, id, out string) error {
	z, err := files.ExportZip(ctx, id)
	if err != nil {
		return err
	}
	return durable.File(out, func(part string) error {
		f, err := os.OpenFile(part, os.O_WRONLY, 0)
		if err != nil {
			return err
		}
		return errors.Join(z.Write(ctx, f), f.Close())
	})
}

// importCommand imports a job file or a zip of one.
func importCommand() *cobra.Command {
	var data, as string
	cmd := &cobra.Command{
		Use:   "import FILE",
		Short: "Import a job file, or a zip of one with its photos and clips",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if info, err := os.Stat(args[0]); err != nil {
				return refuseFile(args[0], err)
			} else if info.IsDir() {
				return refuseFile(args[0], errors.New("it is a folder"))
			}
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			files := desk.New(st, desk.Options{Clips: filepath.Join(data, backup.Clips)}).Files
			v, err := files.ImportFile(cmd.Context(), nil, filepath.Base(args[0]), args[0], as)
			var refused *bench.Refusal
			if errors.As(err, &refused) && refused.Already != nil {
				return fmt.Errorf("%w (--as update or --as copy)", refused)
			}
			if err != nil {
				return err
			}
			out := cmd.OutOrStdout()
			_, err = fmt.Fprintf(out, "Imported as job %s.\n", v.Job.Head.Number)
			if m := v.Imported; m != nil {
				_, err = fmt.Fprintf(out,
					"Job %s is up to date: %d of the file's runs were there already, %d are new.\n", v.Job.Head.Number, m.Already, m.Added["runs"])
				for _, d := range m.Differences {
					fmt.Fprintf(out, "  %s was kept as %s; the file says %s.\n", d.Place, d.Stored, d.File)
				}
			}
			return err
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().StringVar(&as, "as", "",
		"what to do with a job that is there already: update adds what is missing, copy makes a new number")
	return cmd
}
