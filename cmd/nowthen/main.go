// Command nowthen is the technician's program: it serves the bench, runs a demonstration,
// compares job files, and imports and exports jobs.
package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"strings"
	"syscall"

	"github.com/spf13/cobra"

	"nowthen/core/jobfile"
)

// Exit codes.
const (
	exitFailed  = 1
	exitRefused = 2 // a file was refused, or a setup is not in it
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	// The first signal ends the program cleanly, the second at once.
	context.AfterFunc(ctx, stop)
	os.Exit(run(ctx, os.Args[1:], os.Stdout, os.Stderr))
}

// run executes the command line and returns the exit code. A refusal prints
// one line per fault on standard error and nothing on standard output.
func run(ctx context.Context, args []string, stdout, stderr io.Writer) int {
	root := &cobra.Command{
		Use:           "nowthen",
		Short:         "Measures a computer before and after a storage upgrade, and reports what changed",
		SilenceUsage:  true,
		SilenceErrors: true,
	}
	root.AddCommand(serveCommand(), demoCommand(), compareCommand(), layoutCommand(), reportCommand(), forecastCommand(), exportCommand(),
		importCommand(), backupCommand(), restoreCommand(), passwdCommand())
	root.SetArgs(args)
	root.SetOut(stdout)
	root.SetErr(stderr)
	err := root.ExecuteContext(ctx)
	if err == nil {
		return 0
	}
	var refused *jobfile.Refusal
	if errors.As(err, &refused) {
		for _, line := range refused.Lines() {
			fmt.Fprintln(stderr, line)
		}
		return exitRefused
	}
	fmt.Fprintln(stderr, "nowthen: "+strings.ReplaceAll(err.Error(), "\n", "; "))
	return exitFailed
}

// readJobFile reads a file for the commands that take one.
func readJobFile(path string) ([]byte, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, refuseFile(path, err)
	}
	if info.Size() > jobfile.MaxBytes {
		return nil, refuseFile(path,
			fmt.Errorf("the file has %d MiB; a job file has at most %d", info.Size()>>20, jobfile.MaxBytes>>20))
	}
	data, err := os.ReadFile(path)
	if err != nil {
		return nil, refuseFile(path, err)
	}
	return data, nil
}
