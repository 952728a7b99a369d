package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"time"

	"github.com/spf13/cobra"
	"golang.org/x/term"

	"nowthen/access"
	"nowthen/backup"
	"nowthen/bench/demo"
	"nowthen/bench/desk"
	"nowthen/machine"
	"nowthen/server"
	"nowthen/store"
	"nowthen/web"
)

// demoPace is how many simulated seconds pass in a real one: fast enough to wait for, slow enough to watch.
const demoPace = 12

// service holds the options of serve and demo.
type service struct {
	listen      string
	data        string
	pace        float64
	past        int
	tls         bool
	hosts       []string
	demo        bool
	probes      string // folder
	probeListen string // address where probes join, or ""
	joined      string // the simulated computer that joins the demonstration, or ""
}

func (s *service) flags(cmd *cobra.Command, port string) {
	cmd.Flags().StringVar(&s.listen, "listen", "127.0.0.1:"+port,
		"address to listen on; one that other computers reach needs a shop password (nowthen passwd); port 0 picks a "+
			"free one")
	cmd.Flags().StringVar(&s.probeListen, "probe-listen", "",
		"address at which probes join, always over TLS (default: a free port beside --listen)")
	cmd.Flags().BoolVar(&s.tls, "tls", false, "serve under the bench's own certificate, made at first use")
	cmd.Flags().StringArrayVar(&s.hosts, "host", nil,
		"name or address under which the bench answers beside its own, as of a forwarded port or in the shop's "+
			"network; as often as needed")
	cmd.Flags().StringVar(&s.probes, "probes", "",
		"folder with the probes that customers' computers fetch (default: probes beside the program)")
	cmd.Flags().Float64Var(&s.pace, "pace", demoPace,
		"simulated seconds per real second; 0 is as fast as possible")
}

func serveCommand() *cobra.Command {
	s := &service{}
	cmd := &cobra.Command{
		Use:   "serve",
		Short: "Serve the bench",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			return s.run(cmd.Context(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	s.flags(cmd, "7117")
	dataFlag(cmd, &s.data)
	return cmd
}

func demoCommand() *cobra.Command {
	s := &service{demo: true}
	cmd := &cobra.Command{
		Use:   "demo",
		Short: "Serve a bench with made-up jobs on simulated computers",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			if s.data == "" {
				dir, err := os.MkdirTemp("", "nowthen-demo-")
				if err != nil {
					return err
				}
				defer os.RemoveAll(dir)
				s.data = dir
			}
			return s.run(cmd.Context(), cmd.OutOrStdout(), cmd.ErrOrStderr())
		},
	}
	s.flags(cmd, "7117")
	cmd.Flags().IntVar(&s.past, "past", 60, "finished jobs of simulated computers that forecasts rest on")
	cmd.Flags().StringVar(&s.data, "data", "", "folder to keep the demonstration in (default: a new one each time)")
	cmd.Flags().StringVar(&s.joined, "joined", "reception",
		"simulated computer that joins the demonstration and is measured; empty for none")
	return cmd
}

// openSetting remembers at which address the bench was opened to the shop.
const openSetting = "open-at"

// closing is how long the program waits for running work when it ends: a hanging drive never answers.
const closing = 15 * time.Second

func (s *service) run(ctx context.Context, stdout, stderr io.Writer) (err error) {
	log := slog.New(slog.NewTextHandler(stderr, nil))
	// Two servers on one folder would treat each other's test files as leftovers.
	unlock, err := lockData(s.data)
	if errors.Is(err, errServed) {
		return fmt.Errorf("another nowthen serves %s already; use that one, or another folder (--data)", s.data)
	}
	if err != nil {
		return err
	}
	defer unlock()
	// An unavailable address is reported before anything else is done.
	ln, err := server.Bind(s.listen, log)
	if err != nil {
		return err
	}
	defer ln.Close()
	ctx, stop := context.WithCancel(ctx) // what runs beside the serving ends with it
	defer stop()
	if err := sweepParts(s.data, log); err != nil {
		return err
	}
	st, err := openServed(s.data, log)
	if err != nil {
		return err
	}
	defer st.Close()
	o := server.Options{Guard: access.New(st), Open: !server.Loopback(s.listen), Hosts: s.hosts,
		Probes: s.probeFolder()}
	if set, err := o.Guard.Set(ctx); err != nil {
		return err
	} else if o.Open && !set {
		return fmt.Errorf("--listen %s is reached from other computers, and there is no shop password yet that would "+
			"guard it; set one with nowthen passwd, or use an address such as 127.0.0.1:7117", s.listen)
	}
	o.KeepOpen = func(ctx context.Context, host string) error { return st.SaveSetting(ctx, openSetting, host) }
	if o.OpenAt, err = st.Setting(ctx, openSetting); err != nil && !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if err := s.openProbePorts(ctx, st, ln, &o, log); err != nil {
		return err
	}
	defer func() {
		for _, ln := range o.ProbePorts {
			ln.Close() // a second closing closes nothing
		}
	}()
	clips := filepath.Join(s.data, backup.Clips)
	fresh := false
	if s.demo {
		fmt.Fprintln(stderr, "Making up jobs on simulated computers; this takes a few seconds ...")
		if fresh, err = st.Empty(ctx); err != nil {
			return err
		}
		if err := demo.Fill(ctx, st, clips); err != nil {
			return err
		}
		if fresh {
			if err := demo.Past(ctx, st, s.past); err != nil {
				return err
			}
		}
	}
	if !s.demo { // what is made up is not backed up
		o.Backups = &backup.Daily{DB: st, Data: s.data, Log: log, Free: machine.Free}
	}
	d := desk.New(st, desk.Options{Log: log, Pace: s.pace, Clips: clips, Hardware: machine.Hardware,
		Damaged: func(j store.Damaged) {
			log.Error("a job is damaged and can't be opened; all others are unharmed", "job", j.Number, "why", j.Why, "do",
				o.Backups.HowToRestore())
		}})
	if o.Backups != nil {
		o.Backups.Busy = d.Rounds.Here
	}
	if err := d.Start(ctx); err != nil {
		return err
	}
	defer func() {
		ctx, stop := context.WithTimeout(context.Background(), closing)
		defer stop()
		err = errors.Join(err, d.Close(ctx))
	}()
	if o.Backups != nil {
		var daily sync.WaitGroup
		daily.Go(func() { o.Backups.Run(ctx) })
		defer daily.Wait()
		defer stop()
	}
	if err := st.ForgetCommands(ctx, time.Now().Add(-remembered)); err != nil {
		log.Error("old idempotency keys could not be removed", "error", err) // a damaged page does no harm here
	}
	server.Tune()
	srv := server.New(d, st, web.Dist(), log, o)
	var joined sync.WaitGroup
	defer joined.Wait() // the simulated computer leaves before its bench ends
	defer stop()
	return srv.Serve(ctx, ln, func() {
		if s.demo && s.joined != "" && fresh {
			joined.Go(func() { s.join(ctx, d, srv, log) })
		}
		s.say(stdout, srv, o.Certificate)
	})
}

// join lets the simulated computer join; a demonstration continues without it.
func (s *service) join(ctx context.Context, d *desk.Desk, srv *server.Server, log *slog.Logger) {
	err := errors.New("the bench has no address for probes")
	if all := srv.JoinAddresses(); len(all) > 0 {
		err = joinSimulated(ctx, d, s.joined, all[len(all)-1], s.pace, log)
	}
	if err != nil && ctx.Err() == nil {
		log.Error("the simulated computer could not join", "error", err)
	}
}

// probeFolder is the folder of the probes for download: beside the program by default.
func (s *service) probeFolder() string {
	if s.probes != "" {
		return s.probes
	}
	self, err := os.Executable()
	if err != nil {
		return ""
	}
	return filepath.Join(filepath.Dir(self), "probes")
}

// remembered is how long executed commands are remembered: longer than any device keeps one that it couldn't
// send.
const remembered = 60 * 24 * time.Hour

// say prints where the bench is.
func (s *service) say(out io.Writer, srv *server.Server, c *server.Certificate) {
	what := "The bench"
	if s.demo {
		what = "The demonstration, with made-up jobs on simulated computers,"
	}
	addresses := srv.Addresses()
	fmt.Fprintf(out, "%s is at %s (Ctrl-C ends it)\n", what, addresses[0])
	for _, a := range addresses[1:] {
		fmt.Fprintf(out, "  and at %s\n", a)
	}
	if all := srv.JoinAddresses(); len(all) > 0 {
		fmt.Fprintf(out, "Probes join at %s\n", all[0])
	}
	if s.tls {
		fmt.Fprintf(out, "Its certificate is its own; the SHA-256 fingerprint is\n%s\n", c.Fingerprint())
	}
}

// passwdCommand sets the shop password on the bench's own computer.
func passwdCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use:   "passwd",
		Short: "Set the shop password, which guards a bench that other computers reach",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, done, err := openStore(data)
			if err != nil {
				return err
			}
			defer done()
			password, err := askPassword(cmd.InOrStdin(), cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if err := access.New(st).SetPassword(cmd.Context(), password); err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(),
				"The shop password is set. Browsers that were signed in have to sign in again.")
			return nil
		},
	}
	dataFlag(cmd, &data)
	return cmd
}

// askPassword reads a password, on a terminal twice and unseen, else one line.
func askPassword(in io.Reader, out io.Writer) (string, error) {
	f, ok := in.(*os.File)
	if !ok || !term.IsTerminal(int(f.Fd())) {
		line, err := bufio.NewReader(in).ReadString('\n')
		if err != nil && line == "" {
			return "", fmt.Errorf("reading the password: %w", err)
		}
		return strings.TrimRight(line, "\r\n"), nil
	}
	var said [2]string
	for i, prompt := range []string{"New shop password: ", "Once more: "} {
		fmt.Fprint(out, prompt)
		b, err := term.ReadPassword(int(f.Fd()))
		fmt.Fprintln(out)
		if err != nil {
			return "", fmt.Errorf("reading the password: %w", err)
		}
		said[i] = string(b)
	}
	if said[0] != said[1] {
		return "", errors.New("the two are not the same; nothing was changed")
	}
	return said[0], nil
}
