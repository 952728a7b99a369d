package main

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"nowthen/backup"
)

func backupCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use:   "backup OUT.zip",
		Short: "Copy the database, clips, photos and settings into one file, while the bench serves",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if _, err := os.Stat(filepath.Join(data, backup.Database)); errors.Is(err, fs.ErrNotExist) {
				return fmt.Errorf("there is no bench in %s", data)
			}
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			m, err := backup.Write(cmd.Context(), st, data, args[0], true)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "Backed up to %s: %s.\n", args[0], contents(m))
			return errors.Join(err, warn(cmd.ErrOrStderr(), m))
		},
	}
	dataFlag(cmd, &data)
	return cmd
}

func restoreCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use:   "restore IN.zip",
		Short: "Restore a backup into a data folder, which must be empty or missing",
		Args:  cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			m, err := backup.Restore(cmd.Context(), args[0], data)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintf(cmd.OutOrStdout(), "Restored to %s, as it was on %s: %s.\n", data,
				m.Made.Local().Format("2 January 2006, 15:04"), contents(m))
			return errors.Join(err, warn(cmd.ErrOrStderr(), m))
		},
	}
	dataFlag(cmd, &data)
	return cmd
}

// warn names the jobs in a backup that could not be read when it was made.
func warn(out io.Writer, m *backup.Manifest) (err error) {
	for _, d := range m.Damaged {
		_, e := fmt.Fprintf(out,
			"Warning: job %s in it is damaged and can't be opened (%s). An earlier backup may hold it.\n", cmp.Or(d.Number, d.ID), d.Why)
		err = errors.Join(err, e)
	}
	return err
}

// contents describes a backup.
func contents(m *backup.Manifest) string {
	clips, bytes := 0, int64(0)
	for _, f := range m.Files {
		bytes += f.Bytes
		if strings.HasPrefix(f.Name, backup.Clips) {
			clips++
		}
	}
	return fmt.Sprintf("the database with photos and settings, %d clips, %.1f MB in all", clips, float64(bytes)/1e6)
}
