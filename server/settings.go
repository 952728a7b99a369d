package server

import (
	"context"
	"fmt"

	"nowthen/backup"
)

// settings are what the settings page shows.
type settings struct {
	// Backups are the copies that are kept by themselves, the newest first; nil where
	// none are kept.
	Backups *backup.State `json:"backups"`
}

// howToRestore says how to get back what is damaged.
func (s *Server) howToRestore() string {
	const how = "Run nowthen restore with %s and a new data folder, then serve that folder."
	if s.o.Backups != nil {
		if state, err := s.o.Backups.State(); err == nil && state.Good != "" {
			return fmt.Sprintf(how, "backups/"+state.Good+" (the newest good backup)")
		}
	}
	return fmt.Sprintf(how, "your newest good backup")
}

func (s *Server) settings(context.Context) (settings, error) {
	if s.o.Backups == nil {
		return settings{}, nil
	}
	state, err := s.o.Backups.State()
	return settings{Backups: state}, err
}
