package machine

import (
	"math"
	"sync"
	"time"
)

// sensor keeps the last temperature of a drive; asking the system takes longer
// than a request may wait, so it is asked beside them.
type sensor struct {
	ask func() (celsius, limit float64) // nil: the system does not tell

	mu             sync.Mutex
	celsius, limit float64
	at             time.Time
	asking         bool
}

// sensorEvery is how old a temperature may be.
const sensorEvery = time.Second

func newSensor(dir string) *sensor {
	s := &sensor{ask: sensorOf(dir), celsius: math.NaN()}
	if s.ask != nil {
		s.celsius, s.limit = s.ask()
		s.at = time.Now()
	}
	return s
}

func (s *sensor) read() (celsius, limit float64) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if s.ask != nil && !s.asking && time.Since(s.at) >= sensorEvery {
		s.asking = true
		go func() {
			celsius, limit := s.ask()
			s.mu.Lock()
			s.celsius, s.limit, s.at, s.asking = celsius, limit, time.Now(), false
			s.mu.Unlock()
		}()
	}
	return s.celsius, s.limit
}
