package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"path/filepath"

	"nowthen/core/hardware"
	"nowthen/core/label"
	"nowthen/machine"
	"nowthen/probe"
)

// newDrive is a drive that is checked by writing to its free space.
type newDrive struct {
	dir   string // a folder on it
	facts *hardware.Facts
	place *machine.Folder
}

// openNew opens the drive that a folder is on. If it isn't empty, it asks for the code on its label.
func openNew(ctx context.Context, in, code string, stdin io.Reader, stderr io.Writer) (*newDrive, error) {
	if in == "" {
		return nil, errors.New("--in must be a folder on the drive to write to")
	}
	dir, err := filepath.Abs(in)
	if err != nil {
		return nil, err
	}
	d := &newDrive{dir: dir, facts: machine.Hardware(ctx)}
	if err := rightDrive(d.facts, dir, code, stdin, stderr); err != nil {
		return nil, err
	}
	_, _ = machine.Sweep(dir) // one that was killed may have left its file here
	d.place, err = machine.OpenFolder(dir)
	return d, err
}

// rightDrive is [probe.Sure], asking for the code if none was given.
func rightDrive(f *hardware.Facts, dir, code string, stdin io.Reader, stderr io.Writer) error {
	err := probe.Sure(f, dir, code, "")
	if !errors.Is(err, probe.ErrNotEmpty) {
		return err
	}
	fmt.Fprint(stderr, "This drive isn't empty, or that isn't known. The code on its label: ")
	line, err := bufio.NewReader(stdin).ReadString('\n')
	if err != nil && line == "" {
		return fmt.Errorf("%w with --label", probe.ErrNotEmpty)
	}
	return label.CheckNew(line, "")
}
