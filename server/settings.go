package server

import (
	"context"

	"nowthen/backup"
)

// settings are what the settings page shows.
type settings struct {
	// Backups are the copies that are kept by themselves, the newest first; nil where
	// none are kept.
	Backups *backup.State `json:"backups"`
}

func (s *Server) settings(context.Context) (settings, error) {
	if s.o.Backups == nil {
		return settings{}, nil
	}
	state, err := s.o.Backups.State()
	return settings{Backups: state}, err
}
