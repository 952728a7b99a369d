package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

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
	demo   bool
}

func (s *service) flags(cmd *cobra.Command, port string) {
	cmd.Flags().StringVar(&s.listen, "listen", "127.0.0.1:"+port, "address to listen on, on this computer; port 0 picks a free one")
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
	if !server.Loopback(s.listen) {
		return fmt.Errorf("--listen %s is reached from other computers, and there is no shop password yet that would guard it; use an address such as 127.0.0.1:7117", s.listen)
	}
	log := slog.New(slog.NewTextHandler(stderr, nil))
	st, err := openStore(s.data)
	if err != nil {
		return err
	}
	defer st.Close()
	if s.demo {
		if err := bench.Demo(ctx, st); err != nil {
			return err
		}
	}
	b, err := bench.New(ctx, st, bench.Options{Log: log, Pace: s.pace})
	if err != nil {
		return err
	}
	defer b.Close()
	return server.New(b, web.Dist(), log).Listen(ctx, s.listen, func(addr string) {
		what := "The bench"
		if s.demo {
			what = "The demonstration, with made-up jobs on simulated computers,"
		}
		fmt.Fprintf(stdout, "%s is at http://%s/ (Ctrl-C ends it)\n", what, addr)
	})
}
