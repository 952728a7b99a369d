package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/signal"
	"path/filepath"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"nowthen/core/order"
	"nowthen/probe"
	"nowthen/sim"
)

// joining are the options of join.
type joining struct {
	state, sim, startIn string
	stick               string // the file that tells where the bench is
	pace                float64
	away                time.Duration
	allowLaunch         bool // without asking
	folders             []string
}

func joinCommand() *cobra.Command {
	o := &joining{}
	cmd := &cobra.Command{
		Use:   "join [ADDRESS CODE]",
		Short: "Join a job of a bench and measure what is started on its page",
		Long: "Joins a job of a bench and runs what is started on its page, until the bench disconnects it or you " +
			"press\n" +
			"Ctrl-C. Without an address it resumes the job it had joined. What was measured is kept on this computer until\n" +
			"the bench has confirmed it.",
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) != 0 && len(args) != 2 {
				return errors.New("join takes an address and a code, as on the job's page, or neither")
			}
			if len(args) == 2 && o.stick != "" {
				return errors.New("join takes an address and a code, or --stick, not both")
			}
			return nil
		},
		RunE: func(cmd *cobra.Command, args []string) error {
			return o.join(cmd.Context(), args, cmd.ErrOrStderr())
		},
	}
	cmd.Flags().StringVar(&o.state, "state", "",
		"folder that keeps what the bench has not confirmed (default: the user's own, else beside the program)")
	cmd.Flags().StringVar(&o.stick, "stick", "",
		"file on a shop's stick; the computer is announced to the bench it names, and nothing is kept on the stick")
	cmd.Flags().StringVar(&o.startIn, "start-in", "",
		"folder of programs that start with the system; restarts are timed through it")
	cmd.Flags().StringVar(&o.sim, "sim", "", "be a simulated computer instead: "+strings.Join(sim.StandIns(), ", "))
	cmd.Flags().Float64Var(&o.pace, "pace", 12,
		"simulated seconds per real second; 0 is as fast as possible")
	cmd.Flags().BoolVar(&o.allowLaunch, "allow-launch", false,
		"launch programs that the bench names without asking here")
	cmd.Flags().StringArrayVar(&o.folders, "in", nil,
		"folder that tests may use, beside the places where drives are mounted; can be repeated")
	cmd.Flags().DurationVar(&o.away, "away", 3*time.Second,
		"how long a simulated computer is away when its drive is swapped")
	return cmd
}

// permit returns the function that allows a launch: always if that was chosen beforehand, else by asking at the
// terminal, if there is one.
func (o *joining) permit(out io.Writer) func(context.Context, string) error {
	switch {
	case o.allowLaunch:
		return func(context.Context, string) error { return nil }
	case !term.IsTerminal(int(os.Stdin.Fd())):
		return nil
	}
	lines := make(chan string)
	go func() {
		for in := bufio.NewScanner(os.Stdin); in.Scan(); {
			lines <- in.Text()
		}
		close(lines)
	}()
	return func(ctx context.Context, _ string) error {
		fmt.Fprint(out, "Allow it? Type yes and press Enter: ")
		select {
		case line := <-lines:
			if strings.EqualFold(strings.TrimSpace(line), "yes") {
				return nil
			}
			return errors.New("the launch wasn't allowed at the computer")
		case <-ctx.Done():
			return ctx.Err()
		}
	}
}

func (o *joining) join(ctx context.Context, args []string, stderr io.Writer) error {
	var computer probe.Computer = probe.This{StartIn: o.startIn}
	if o.sim != "" {
		s, err := sim.NewStandIn(o.sim)
		if err != nil {
			return err
		}
		computer = s
	}
	dir, err := o.folder(computer)
	if err != nil {
		return err
	}
	var mu sync.Mutex // lines come from several goroutines
	options := probe.Options{Pace: o.pace, Away: o.away, Folders: o.folders, Say: func(line string) {
		mu.Lock()
		defer mu.Unlock()
		fmt.Fprintf(stderr, "%s  %s\n", time.Now().Format("15:04:05"), line)
	}}
	options.Permit = o.permit(stderr)
	if self, err := os.Executable(); err == nil {
		options.Command = []string{self, "join", "--state", filepath.Dir(dir)}
		if o.allowLaunch {
			options.Command = append(options.Command, "--allow-launch")
		}
		for _, folder := range o.folders {
			options.Command = append(options.Command, "--in", folder)
		}
		if o.startIn != "" {
			options.Command = append(options.Command, "--start-in", o.startIn)
		}
	}
	// The system sends this signal when it shuts down; a person sends another one.
	down := make(chan os.Signal, 1)
	signal.Notify(down, syscall.SIGTERM)
	defer signal.Stop(down)
	options.GoesDown = func() bool {
		select {
		case <-down:
			return true
		case <-time.After(100 * time.Millisecond): // it may come a moment after the program has heard of it
			return false
		}
	}
	if o.sim != "" {
		options.Say("SIMULATED computer " + o.sim)
	}
	var j *probe.Joined
	switch {
	case o.stick != "":
		j, err = o.byStick(ctx, computer, dir, options)
	case len(args) == 2:
		j, err = probe.Join(ctx, computer, args[0], args[1], dir, options)
	default:
		j, err = probe.Again(computer, dir, options)
	}
	if err != nil {
		return err
	}
	options.Say("Keep this window open. Ctrl-C ends it; nothing that was measured is lost.")
	return j.Run(ctx)
}

// byStick joins with what a stick tells.
func (o *joining) byStick(ctx context.Context, computer probe.Computer, dir string,
	options probe.Options) (*probe.Joined, error) {
	f, err := os.Open(o.stick)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	stick, err := order.ReadStick(f)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", o.stick, err)
	}
	if stick.Shop != "" {
		options.Say(probe.Printable(stick.Shop))
	}
	return probe.ByStick(ctx, computer, stick, dir, options)
}

// folder is where a computer keeps what it has joined: on itself, since one stick serves several computers.
func (o *joining) folder(computer probe.Computer) (string, error) {
	name := "this-computer"
	if id := computer.Identity(); id != "" {
		name = id[:12]
	}
	if o.state != "" {
		return filepath.Join(o.state, name), nil
	}
	if own, err := os.UserConfigDir(); err == nil {
		dir := filepath.Join(own, "nowthen-probe", name)
		if err := os.MkdirAll(dir, 0o700); err == nil {
			return dir, nil
		}
	}
	if o.stick != "" {
		return "", errors.New("the user's own folder can't be written, and nothing is kept on the stick; " +
			"name a folder on this computer with --state")
	}
	self, err := os.Executable()
	if err != nil {
		return "", fmt.Errorf("there is no folder for results; name one with --state: %w", err)
	}
	return filepath.Join(filepath.Dir(self), "nowthen-probe-joined", name), nil
}
