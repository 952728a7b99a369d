package bench

import (
	"context"
	"sync"

	"github.com/go-json-experiment/json"
)

// Kinds of event.
const (
	JobEvent       = "job"       // something of a job changed
	MeasuringEvent = "measuring" // a round of measuring went on
	TimerEvent     = "timer"     // a timer changed
	ClipsEvent     = "clips"     // a clip arrived or went
	ProbesEvent    = "probes"    // a probe joined, came back or left
	OffersEvent    = "offers"    // a computer began or ended waiting to be admitted; of no job
)

// Event is something that happened, sent once it is on disk. It carries the current state, not the difference:
// a later event of the same kind and job replaces earlier ones.
type Event struct {
	Type string `json:"type"`
	Job  string `json:"job"`
	// Data is the current state of the round or timer.
	Data any `json:"data,omitempty"`
}

// Sent is an event as it is sent, encoded once for all listeners.
type Sent struct {
	Type string
	JSON []byte
}

// Listener receives events. Unfetched events are kept, one for each kind and job. No event is lost, however
// slow the listener, and no listener blocks the sender.
type Listener struct {
	mu      sync.Mutex
	pending map[eventKey]*Sent
	order   []eventKey
	wake    chan struct{}
}

type eventKey struct{ kind, job string }

// Wake signals that there is something to fetch.
func (l *Listener) Wake() <-chan struct{} { return l.wake }

// Fetch returns the events since the last call, oldest first.
func (l *Listener) Fetch() []*Sent {
	l.mu.Lock()
	defer l.mu.Unlock()
	list := make([]*Sent, len(l.order))
	for i, key := range l.order {
		list[i] = l.pending[key]
	}
	clear(l.pending)
	l.order = l.order[:0]
	return list
}

func (l *Listener) hear(key eventKey, t *Sent) {
	l.mu.Lock()
	if _, waits := l.pending[key]; !waits {
		l.order = append(l.order, key)
	}
	l.pending[key] = t
	l.mu.Unlock()
	select {
	case l.wake <- struct{}{}:
	default: // it was woken already
	}
}

// hub distributes events.
type hub struct {
	mu        sync.Mutex
	listeners map[*Listener]struct{}
}

// Listen returns a listener for all events until the context ends.
func (b *Jobs) Listen(ctx context.Context) *Listener {
	l := &Listener{pending: map[eventKey]*Sent{}, wake: make(chan struct{}, 1)}
	b.hub.mu.Lock()
	if b.hub.listeners == nil {
		b.hub.listeners = map[*Listener]struct{}{}
	}
	b.hub.listeners[l] = struct{}{}
	b.hub.mu.Unlock()
	context.AfterFunc(ctx, func() {
		b.hub.mu.Lock()
		delete(b.hub.listeners, l)
		b.hub.mu.Unlock()
	})
	return l
}

// Tell sends an event to all listeners. The change must be on disk already.
func (b *Jobs) Tell(e Event) {
	b.hub.mu.Lock()
	defer b.hub.mu.Unlock()
	if len(b.hub.listeners) == 0 {
		return
	}
	text, err := json.Marshal(e)
	if err != nil {
		b.log.Error("an event could not be written", "type", e.Type, "error", err)
		return
	}
	t := &Sent{Type: e.Type, JSON: text}
	for l := range b.hub.listeners {
		l.hear(eventKey{e.Type, e.Job}, t)
	}
}
