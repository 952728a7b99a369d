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

	"github.com/gofrs/flock"
	"github.com/spf13/cobra"
	"golang.org/x/term"

	"nowthen/access"
	"nowthen/bench"
	"nowthen/server"
	"nowthen/store"
	"nowthen/web"
)

// demoPace is how many virtual seconds of simulated measuring pass in a real
// one: quick enough to wait for, slow enough to watch.
const demoPace = 12

// service is what serving needs to know.
type service struct {
	listen string
	data   string
	pace   float64
	tls    bool
	demo   bool
}

func (s *service) flags(cmd *cobra.Command, port string) {
	cmd.Flags().StringVar(&s.listen, "listen", "127.0.0.1:"+port, "address to listen on; one that other computers reach needs a shop password (nowthen passwd); port 0 picks a free one")
	cmd.Flags().BoolVar(&s.tls, "tls", false, "serve under the bench's own certificate, made at first use")
	cmd.Flags().Float64Var(&s.pace, "pace", demoPace, "virtual seconds a simulated measuring passes in a real one; 0 is as fast as it goes")
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
	cmd.Flags().StringVar(&s.data, "data", "", "folder to keep the demonstration in (default: a new one each time)")
	return cmd
}

func dataFlag(cmd *cobra.Command, dir *string) {
	def := "nowthen-data"
	if base, err := os.UserConfigDir(); err == nil {
		def = filepath.Join(base, "nowthen")
	}
	cmd.Flags().StringVar(dir, "data", def, "folder that holds the database")
}

// openStore opens the database in a folder, making both as need be.
func openStore(dir string) (*store.Store, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("making the data folder: %w", err)
	}
	return store.Open(filepath.Join(dir, "nowthen.db"))
}

func (s *service) run(ctx context.Context, stdout, stderr io.Writer) error {
	log := slog.New(slog.NewTextHandler(stderr, nil))
	st, err := openStore(s.data)
	if err != nil {
		return err
	}
	defer st.Close()
	// Two servers over one folder would take each other's test files for left ones.
	lock := flock.New(filepath.Join(s.data, "serving.lock"))
	if alone, err := lock.TryLock(); err != nil {
		return fmt.Errorf("locking the data folder: %w", err)
	} else if !alone {
		return fmt.Errorf("another nowthen serves %s already; use that one, or another folder (--data)", s.data)
	}
	defer func() { _ = lock.Unlock() }()
	o := server.Options{Guard: access.New(st), Open: !server.Loopback(s.listen)}
	if set, err := o.Guard.Set(ctx); err != nil {
		return err
	} else if o.Open && !set {
		return fmt.Errorf("--listen %s is reached from other computers, and there is no shop password yet that would guard it; set one with nowthen passwd, or use an address such as 127.0.0.1:7117", s.listen)
	}
	clips := filepath.Join(s.data, "clips")
	scheme := "http"
	if s.tls {
		scheme = "https"
		if o.TLS, o.Fingerprint, err = server.Certificate(s.data); err != nil {
			return err
		}
	}
	if s.demo {
		fmt.Fprintln(stderr, "Making up jobs on simulated computers; this takes a few seconds ...")
		if err := bench.Demo(ctx, st, clips); err != nil {
			return err
		}
	}
	b, err := bench.New(ctx, st, bench.Options{Log: log, Pace: s.pace, Clips: clips})
	if err != nil {
		return err
	}
	defer b.Close()
	return server.New(b, web.Dist(), log, o).Listen(ctx, s.listen, func(addr string) {
		what := "The bench"
		if s.demo {
			what = "The demonstration, with made-up jobs on simulated computers,"
		}
		fmt.Fprintf(stdout, "%s is at %s://%s/ (Ctrl-C ends it)\n", what, scheme, addr)
		if o.Fingerprint != "" {
			fmt.Fprintf(stdout, "Its certificate is its own; the SHA-256 fingerprint is\n%s\n", o.Fingerprint)
		}
	})
}

// passwdCommand sets the shop password on the bench's own computer.
func passwdCommand() *cobra.Command {
	var data string
	cmd := &cobra.Command{
		Use:   "passwd",
		Short: "Set the shop password, which guards a bench that other computers reach",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) error {
			st, err := openStore(data)
			if err != nil {
				return err
			}
			defer st.Close()
			password, err := askPassword(cmd.InOrStdin(), cmd.ErrOrStderr())
			if err != nil {
				return err
			}
			if err := access.New(st).SetPassword(cmd.Context(), password); err != nil {
				return err
			}
			fmt.Fprintln(cmd.ErrOrStderr(), "The shop password is set. Browsers that were signed in have to sign in again.")
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
