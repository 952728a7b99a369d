package main

import (
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/jobfile"
	"nowthen/core/layout"
)

func layoutCommand() *cobra.Command {
	var capacity, sector int64
	var as, drive string
	var asJSON, script bool
	cmd := &cobra.Command{
		Use:   "layout FILE --capacity BYTES",
		Short: "Propose a layout of a drive's partitions on a new drive",
		Long: "Proposes where each partition goes on a drive of that size: in order, aligned, and without unusable gaps.\n" +
			"FILE is what nowthen-probe facts --json printed, or a job file.",
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			fault := func(place, format string, args2 ...any) error {
				return &jobfile.Refusal{Name: args[0],
					Faults: []job.Fault{{Place: place, Reason: fmt.Sprintf(format, args2...)}}}
			}
			if asJSON && script {
				return fault("/", "--json and --sfdisk are two forms; give one of them")
			}
			data, err := readJobFile(args[0])
			if err != nil {
				return err
			}
			source, err := layoutSource(args[0], data, drive)
			if err != nil {
				return err
			}
			l, err := layout.Propose(*source, layout.Target{CapacityBytes: capacity, SectorBytes: sector, As: as})
			if err != nil {
				return fault("/partitions", "%v", err)
			}
			out := cmd.OutOrStdout()
			switch {
			case asJSON:
				text, err := json.Marshal(l, jsontext.WithIndent("  "))
				if err != nil {
					return err
				}
				_, err = fmt.Fprintf(out, "%s\n", text)
				return err
			case script && !l.Fits:
				return fmt.Errorf("it does not fit, and a script would lose data: %s",
					l.Warnings[len(l.Warnings)-1].Words)
			case script:
				_, err := io.WriteString(out, l.Script())
				return err
			}
			return printLayout(out, l)
		},
	}
	cmd.Flags().Int64Var(&capacity, "capacity", 0, "size of the new drive, bytes")
	cmd.Flags().Int64Var(&sector, "sector", 512, "size of its sectors: 512 or 4096")
	cmd.Flags().StringVar(&as, "as", layout.ForSys, "how the new room is divided: "+strings.Join(layout.Ways, ", "))
	cmd.Flags().StringVar(&drive, "drive", "", "id of the drive as it is (default: the one that holds the system)")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.Flags().BoolVar(&script, "sfdisk", false, "print a script for sfdisk")
	return cmd
}

// layoutSource reads a drive's partitions from facts or a job file.
func layoutSource(path string, data []byte, id string) (*layout.Source, error) {
	fault := func(place, format string, args ...any) error {
		return &jobfile.Refusal{Name: path, Faults: []job.Fault{{Place: place, Reason: fmt.Sprintf(format, args...)}}}
	}
	var head struct {
		Format string         `json:"format"`
		Drives jsontext.Value `json:"drives"`
	}
	if err := json.Unmarshal(data, &head); err != nil {
		return nil, fault("/", "it is no JSON that can be read: %v", err)
	}
	if head.Format != "" {
		return jobSource(path, data, id)
	}
	if head.Drives == nil {
		return nil, fault("/drives", "it has no drives: neither facts of nowthen-probe nor a job file")
	}
	var f hardware.Facts
	if err := json.Unmarshal(data, &f); err != nil {
		return nil, fault("/", "it cannot be read as facts: %v", err)
	}
	if err := f.Check(); err != nil {
		return nil, fault("/", "%v", err)
	}
	d := f.Drive(id)
	switch {
	case id == "":
		if d = f.SystemDrive(); d == nil && len(f.Drives) == 1 {
			d = &f.Drives[0]
		}
		if d == nil {
			return nil, fault("/volumes", "it does not say which drive holds the system; name one with --drive")
		}
	case d == nil:
		return nil, fault("/drives", "there is no drive %q", id)
	}
	s := &layout.Source{CapacityBytes: d.CapacityBytes, SectorBytes: d.LogicalBytes}
	for _, p := range f.Partitions {
		if p.Drive == d.ID {
			s.Partitions = append(s.Partitions, p)
		}
	}
	for _, v := range f.Volumes {
		if v.Drive == d.ID && v.System {
			s.System = v.Partition
		}
	}
	return s, nil
}

// jobSource reads the partitions of a job file's drive.
func jobSource(path string, data []byte, id string) (*layout.Source, error) {
	fault := func(place, format string, args ...any) error {
		return &jobfile.Refusal{Name: path, Faults: []job.Fault{{Place: place, Reason: fmt.Sprintf(format, args...)}}}
	}
	j, err := jobfile.Read(path, data)
	if err != nil {
		return nil, err
	}
	if then := j.SetupAs(job.Then); id == "" && then != nil {
		id = then.Drive
	}
	d := j.Drive(id)
	if d == nil {
		return nil, fault("/drives", "there is no drive %q", id)
	}
	var carried struct {
		Partitions   []hardware.Partition `json:"partitions"`
		LogicalBytes int64                `json:"logical_bytes"`
	}
	if len(d.Unknown) > 0 {
		if err := json.Unmarshal(d.Unknown, &carried); err != nil {
			return nil, fault("/drives", "the partitions of drive %q cannot be read: %v", id, err)
		}
	}
	if len(carried.Partitions) == 0 {
		return nil, fault("/drives", "drive %q carries no partitions; the probe's facts do", id)
	}
	return &layout.Source{CapacityBytes: d.CapacityBytes, SectorBytes: carried.LogicalBytes,
		Partitions: carried.Partitions}, nil
}

func printLayout(out io.Writer, l *layout.Layout) error {
	w := tabwriter.NewWriter(out, 0, 0, 2, ' ', 0)
	if l.Fits {
		fmt.Fprintln(w, "NUMBER\tROLE\tNAME\tSTARTS AT\tSIZE\tUSED\tCHANGE")
		for _, p := range l.Partitions {
			used := "not known"
			if p.UsedBytes != nil {
				used = sized(*p.UsedBytes)
			}
			change := "as it was"
			switch {
			case p.GrownBytes > 0:
				change = sized(p.GrownBytes) + " larger"
			case p.GrownBytes < 0:
				change = sized(-p.GrownBytes) + " smaller"
			case p.Moved:
				change = "moved"
			}
			fmt.Fprintf(w, "%d\t%s\t%s\t%s\t%s\t%s\t%s\n", p.Number, p.Role, p.Name, sized(p.StartBytes),
				sized(p.SizeBytes), used, change)
		}
		if l.FreeAfterBytes > 0 {
			fmt.Fprintf(w, "\t\tfree\t\t%s\t\t\n", sized(l.FreeAfterBytes))
		}
	} else {
		fmt.Fprintln(w, "It does not fit.")
	}
	if err := w.Flush(); err != nil {
		return err
	}
	for _, warning := range l.Warnings {
		if _, err := fmt.Fprintf(out, "- %s\n", warning.Words); err != nil {
			return err
		}
	}
	return nil
}

// sized formats a size as on drives' labels, in powers of ten.
func sized(n int64) string {
	switch {
	case n >= 1e9:
		return fmt.Sprintf("%.1f GB", float64(n)/1e9)
	case n >= 1e6:
		return fmt.Sprintf("%.0f MB", float64(n)/1e6)
	}
	return fmt.Sprintf("%d bytes", n)
}
