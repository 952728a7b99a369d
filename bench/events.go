package bench

import (
	"context"
	"sync"
)

// Event is something that happened, told after it is on disk.
type Event struct {
	Type string `json:"type"` // job, measuring, timer
	Job  string `json:"job"`
	// Data is the measuring or the timer as it is now.
	Data any `json:"data,omitempty"`
}

// hub passes events on. A listener that does not keep up loses the oldest
// events, never the newest: each says how things are, not what changed.
type hub struct {
	mu        sync.Mutex
	listeners map[chan Event]struct{}
}

// Listen returns a channel of all events until the context ends.
func (b *Bench) Listen(ctx context.Context) <-chan Event {
	ch := make(chan Event, 64)
	b.hub.mu.Lock()
	if b.hub.listeners == nil {
		b.hub.listeners = map[chan Event]struct{}{}
	}
	b.hub.listeners[ch] = struct{}{}
	b.hub.mu.Unlock()
	context.AfterFunc(ctx, func() {
		b.hub.mu.Lock()
		delete(b.hub.listeners, ch)
		close(ch)
		b.hub.mu.Unlock()
	})
	return ch
}

func (h *hub) tell(e Event) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for ch := range h.listeners {
		select {
		case ch <- e:
			continue
		default:
		}
		select {
		case <-ch:
		default:
		}
		select {
		case ch <- e:
		default:
		}
	}
}
