package main

import (
	"errors"

	"github.com/spf13/cobra"
)

// errElevated means that a program has administrator rights already, or that its system grants them in another way.
var errElevated = errors.New("this window has administrator rights already, or gets them in another way")

// elevateCommand is for the start file on a stick: the health of a drive is told to administrators alone.
func elevateCommand() *cobra.Command {
	return &cobra.Command{
		Use:    "elevate FILE",
		Short:  "Start a file with administrator rights, which Windows asks the user to grant",
		Hidden: true,
		Args:   cobra.ExactArgs(1),
		RunE:   func(_ *cobra.Command, args []string) error { return elevate(args[0]) },
	}
}
