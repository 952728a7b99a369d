package main

import (
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/spf13/cobra"

	"nowthen/core/hardware"
	"nowthen/machine"
)

// printJSON prints one JSON value.
func printJSON(out io.Writer, v any) error {
	data, err := json.Marshal(v, jsontext.WithIndent("  "), json.Deterministic(true))
	if err != nil {
		return err
	}
	_, err = fmt.Fprintf(out, "%s\n", data)
	return err
}

func factsCommand() *cobra.Command {
	asJSON := false
	cmd := &cobra.Command{
		Use:   "facts",
		Short: "Show this computer and its drives",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			f := machine.Hardware(cmd.Context())
			if asJSON {
				return printJSON(cmd.OutOrStdout(), f)
			}
			return printFacts(cmd.OutOrStdout(), f)
		},
	}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print one JSON value instead")
	return cmd
}

// known joins the non-empty parts.
func known(parts ...string) string {
	var list []string
	for _, p := range parts {
		if p != "" {
			list = append(list, p)
		}
	}
	return strings.Join(list, ", ")
}

func printFacts(out io.Writer, f *hardware.Facts) error {
	var b strings.Builder
	line := func(label, text string) {
		if text != "" {
			fmt.Fprintf(&b, "%-11s %s\n", label, text)
		}
	}
	c := f.Computer
	cores := ""
	if c.Cores > 0 {
		cores = fmt.Sprintf("%d cores", c.Cores)
	}
	memory := ""
	if c.MemoryBytes > 0 {
		memory = size(c.MemoryBytes) + " of memory"
	}
	line("Computer", known(strings.TrimSpace(c.Maker+" "+c.Model), c.Processor, cores, memory))
	if c.Firmware != "" {
		line("Firmware", c.Firmware)
	}
	installed := ""
	if !f.System.Installed.IsZero() {
		installed = "installed " + f.System.Installed.Format(time.DateOnly)
	}
	mode := map[string]string{hardware.UEFI: "started by UEFI", hardware.BIOS: "started by BIOS"}[f.System.StartMode]
	line("System", known(strings.TrimSpace(f.System.Name+" "+f.System.Version), f.System.Build, installed, mode))
	for _, l := range f.Slots {
		kind, lanes, used := "PCIe", "", ""
		if l.Kind == hardware.SlotM2 {
			kind = "M.2, key " + l.Key
		}
		if l.Lanes > 0 {
			lanes = fmt.Sprintf("%d lanes", l.Lanes)
		}
		if l.Used != nil {
			used = map[bool]string{true: "in use", false: "free"}[*l.Used]
		}
		line("Slot", known(l.Name, kind, lanes, used))
	}
	for _, d := range f.Drives {
		link, temp := "", ""
		if l := d.Link; l != nil {
			link = string(l.Kind) + " " + l.Negotiated
			if l.Drive != "" && l.Port != "" {
				link += fmt.Sprintf(" (drive %s, port %s)", l.Drive, l.Port)
			}
		}
		if d.TemperatureC != nil {
			temp = fmt.Sprintf("%.0f degrees C", *d.TemperatureC)
		}
		line("Drive", known(d.ID, string(d.Kind), strings.TrimSpace(d.Maker+" "+d.Model), sold(d.CapacityBytes), link,
			temp))
		if h := d.Health; h != nil {
			line("Health", health(d.ID, h))
		}
	}
	for _, v := range f.Volumes {
		used := ""
		if v.SizeBytes > 0 {
			used = fmt.Sprintf("%s of %s used", sold(v.UsedBytes), sold(v.SizeBytes))
		}
		encrypted := ""
		if v.Encrypted != nil && *v.Encrypted {
			encrypted = "encrypted"
		}
		line("Volume", known(v.Mount, v.FileSystem, v.Drive, used, encrypted))
	}
	for _, a := range f.Absent {
		line("Not known", a.What+": "+a.Why)
	}
	_, err := io.WriteString(out, b.String())
	return err
}

// health is a drive's health in one line.
func health(id string, h *hardware.Health) string {
	parts := []string{id}
	count := func(n *int64, format string) {
		if n != nil {
			parts = append(parts, fmt.Sprintf(format, *n))
		}
	}
	count(h.PowerOnHours, "on for %d h")
	if h.BytesWritten != nil {
		parts = append(parts, sold(*h.BytesWritten)+" written")
	}
	count(h.Reallocated, "%d reallocated sectors")
	count(h.Pending, "%d pending sectors")
	if h.WearPct != nil {
		parts = append(parts, fmt.Sprintf("%.0f %% of its life used", *h.WearPct))
	}
	return known(append(parts, h.Warnings...)...)
}

func conditionsCommand() *cobra.Command {
	dir, asJSON := "", false
	cmd := &cobra.Command{
		Use:   "conditions [--in DIR]",
		Short: "Show what else this computer is doing, within two seconds",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if dir != "" {
				whole, err := filepath.Abs(dir)
				if err != nil {
					return err
				}
				if info, err := os.Stat(whole); err != nil || !info.IsDir() {
					return fmt.Errorf("there is no folder %s", dir)
				}
				dir = whole
			}
			w, err := machine.Watch(cmd.Context(), dir)
			if err != nil {
				return err
			}
			if asJSON {
				return printJSON(cmd.OutOrStdout(), w)
			}
			return printConditions(cmd.OutOrStdout(), w)
		},
	}
	cmd.Flags().StringVar(&dir, "in", "", "folder on the drive that is to be measured")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print one JSON value instead")
	return cmd
}

func printConditions(out io.Writer, w *machine.Watched) error {
	var b strings.Builder
	line := func(label, text string) { fmt.Fprintf(&b, "%-20s %s\n", label, text) }
	or := func(s string) string {
		if s == "" {
			return "not known"
		}
		return s
	}
	figure := func(v *float64, unit string) string {
		if v == nil {
			return "not known"
		}
		return fmt.Sprintf("%.3g %s", *v, unit)
	}
	line("Power", or(string(w.Power)))
	line("Power mode", or(string(w.PowerMode)))
	line("Other disk traffic", figure(w.BackgroundMBs, "MB/s"))
	line("Processor busy", figure(w.CPUPct, "%"))
	line("Full", figure(w.FillPct, "%"))
	line("Drive's temperature", figure(w.DriveTempC, "degrees C"))
	switch {
	case w.Encrypted == nil:
		line("Encrypted", "not known")
	case *w.Encrypted:
		line("Encrypted", "yes")
	default:
		line("Encrypted", "no")
	}
	for _, c := range w.Causes {
		line("Busy with", fmt.Sprintf("%s: %.3g MB/s, processor %.3g %%", c.Program, c.MBs, c.CPUPct))
	}
	_, err := io.WriteString(out, b.String())
	return err
}
