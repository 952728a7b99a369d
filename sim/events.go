package sim

import "time"

// event is something that happens to an op at a time of the virtual clock.
type event struct {
	at    time.Duration
	seq   uint64 // events at one time keep their order
	stage int
	op    *op
}

// events is a heap of values, the next one first; container/heap would allocate
// with every request.
type events []event

func (h events) less(i, j int) bool {
	return h[i].at < h[j].at || h[i].at == h[j].at && h[i].seq < h[j].seq
}

func (h *events) push(e event) {
	*h = append(*h, e)
	s := *h
	for i := len(s) - 1; i > 0; {
		up := (i - 1) / 2
		if !s.less(i, up) {
			break
		}
		s[i], s[up] = s[up], s[i]
		i = up
	}
}

func (h *events) pop() event {
	s := *h
	first := s[0]
	last := len(s) - 1
	s[0] = s[last]
	s = s[:last]
	*h = s
	for i := 0; ; {
		down := 2*i + 1
		if down >= last {
			break
		}
		if down+1 < last && s.less(down+1, down) {
			down++
		}
		if !s.less(down, i) {
			break
		}
		s[i], s[down] = s[down], s[i]
		i = down
	}
	return first
}
