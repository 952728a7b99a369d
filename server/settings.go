package server

import (
	"context"

	"nowthen/backup"
)

// settings are what the settings page shows.
type settings struct {
	// Backups are the automatic copies, newest first; nil if there are none.
	Backups *backup.State `json:"backups"`
}

func (s *Server) settings(context.Context) (settings, error) {
	if s.o.Backups == nil {
		return settings{}, nil
	}
	state, err := s.o.Backups.State()
	return settings{Backups: state}, err
}
