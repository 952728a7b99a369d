package main

import (
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"nowthen/bench"
)

func exportCommand() *cobra.Command {
	var data, out string
	cmd := &cobra.Command{
		Use:   "export NUMBER",
		Short: "Write a job as a job file",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			st, err := openStore(data)
			if err != nil {
				return err
			}
			defer st.Close()
			b, err := bench.New(cmd.Context(), st, bench.Options{})
			if err != nil {
				return err
			}
			board, err := b.Board(cmd.Context(), "all", args[0])
			if err != nil {
				return err
			}
			for _, c := range board.Cards {
				if c.Number != args[0] {
					continue
				}
				_, file, err := b.Export(cmd.Context(), c.ID)
				if err != nil {
					return err
				}
				if out == "" {
					_, err = cmd.OutOrStdout().Write(file)
					return err
				}
				return os.WriteFile(out, file, 0o600)
			}
			return fmt.Errorf("there is no job with the number %s", args[0])
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
			st, err := openStore(data)
			if err != nil {
				return err
			}
			defer st.Close()
			b, err := bench.New(cmd.Context(), st, bench.Options{})
			if err != nil {
				return err
			}
			v, err := b.Import(cmd.Context(), filepath.Base(args[0]), file)
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
