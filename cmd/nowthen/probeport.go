package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"strconv"

	"nowthen/server"
	"nowthen/store"
)

// probePortSetting is the setting that remembers the port for probes: joined probes find the bench there.
const probePortSetting = "probe-port"

// openProbePorts takes the ports at which probes join, and the certificate that they know the bench by.
// Without them the bench still serves its pages.
func (s *service) openProbePorts(ctx context.Context, st *store.Store, pages net.Listener, o *server.Options,
	log *slog.Logger) (err error) {
	o.TLS = s.tls
	o.Certificate, err = server.LoadCertificate(st, s.data, s.hosts, func(fingerprint string) {
		log.Info("a new certificate was made", "sha256", fingerprint)
	})
	if err != nil {
		if s.tls {
			return err
		}
		o.Certificate = nil
		log.Error("probes of other computers can't join", "error", err)
		return nil
	}
	wanted, err := s.probeAddresses(ctx, st, pages)
	if err != nil {
		return err
	}
	for i, addr := range wanted {
		ln, err := server.Bind(addr, log)
		if err != nil {
			if i == 0 {
				log.Warn("the address at which probes join is taken; another one is used", "address", addr, "error",
					err)
			}
			continue
		}
		o.ProbePorts = []net.Listener{ln}
		s.settleProbePort(ctx, st, o, log)
		return nil
	}
	log.Error("no port could be had at which probes join", "tried", wanted)
	return nil
}

// besides is the address next to that of the pages.
func besides(pages net.Listener) string {
	at := pages.Addr().(*net.TCPAddr)
	return net.JoinHostPort(at.IP.String(), strconv.Itoa(at.Port%65535+1))
}

// probeAddresses are the addresses at which probes may join, the best first.
func (s *service) probeAddresses(ctx context.Context, st *store.Store, pages net.Listener) ([]string, error) {
	host := pages.Addr().(*net.TCPAddr).IP.String()
	var list []string
	if s.probeListen != "" {
		asked, _, err := net.SplitHostPort(s.probeListen)
		if err != nil {
			return nil, fmt.Errorf("--probe-listen %s: %w", s.probeListen, err)
		}
		list, host = append(list, s.probeListen), asked
	} else if port, err := st.Setting(ctx, probePortSetting); err == nil {
		list = append(list, net.JoinHostPort(host, port))
	}
	_, beside, _ := net.SplitHostPort(besides(pages))
	return append(list, net.JoinHostPort(host, beside), net.JoinHostPort(host, "0")), nil
}

// settleProbePort remembers the chosen port, and also listens on it on the loopback address.
func (s *service) settleProbePort(ctx context.Context, st *store.Store, o *server.Options, log *slog.Logger) {
	at := o.ProbePorts[0].Addr().(*net.TCPAddr)
	if !at.IP.IsUnspecified() && !at.IP.IsLoopback() {
		if here, err := server.Bind(net.JoinHostPort("127.0.0.1", strconv.Itoa(at.Port)), log); err == nil {
			o.ProbePorts = append(o.ProbePorts, here)
		}
	}
	_, err := st.Setting(ctx, probePortSetting)
	if s.probeListen == "" && errors.Is(err, store.ErrNotFound) {
		err = st.SaveSetting(ctx, probePortSetting, strconv.Itoa(at.Port))
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		log.Error("the port at which probes join could not be remembered", "port", at.Port, "error", err)
	}
}
