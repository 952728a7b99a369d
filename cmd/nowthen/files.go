package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"nowthen/bench/desk"
)

func exportCommand() *cobra.Command {
	var data, out string
	cmd := &cobra.Command{
		Use:   "export NUMBER",
		Short: "Write a job as a job file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			visits := desk.New(st, desk.Options{}).Visits
			id, err := visits.Numbered(cmd.Context(), args[0])
			if err != nil {
				return err
			}
			_, file, err := visits.Export(cmd.Context(), id)
			if err != nil {
				return err
			}
			if out == "" {
				_, err = cmd.OutOrStdout().Write(file)
				return err
			}
			return os.WriteFile(out, file, 0o600)
		},
	}
	dataFlag(cmd, &data)
	cmd.Flags().StringVarP(&out, "out", "o", "", "file to write (default: standard output)")
	return cmd
}

func importCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use:   "import FILE",
		Short: "Take a job file in as a new job",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			file, err := readJobFile(args[0])
			if err != nil {
				return err
			}
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			v, err := desk.New(st, desk.Options{}).Visits.Import(cmd.Context(), filepath.Base(args[0]), file)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "Job %s was taken in.\n", v.Job.Head.Number)
			return err
		},
	}
	dataFlag(cmd, &data)
	return cmd
}
