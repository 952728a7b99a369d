package sim

import (
	"math/rand/v2"
	"time"

	"nowthen/core/drivetest"
)

// op is a request on its way through a drive.
type op struct {
	req  *drivetest.Request
	q    *queue
	at   int64 // place on the drive
	n    int64
	data time.Duration // how long data already flows when the medium is done
	lane int
}

// medium is what holds the data: how many requests it works on at once, which
// it takes next and when it is done.
type medium interface {
	slots() int
	// pick chooses which of the waiting is next.
	pick(waiting []*op, now time.Duration) int
	// serve is when a request that is begun now has been positioned or programmed,
	// and how long its data flows from or to the medium by then.
	serve(o *op, now time.Duration, rng *rand.Rand) (done, data time.Duration)
	// rate is what the link can move at most for a request, MB/s; 0: any rate.
	rate(o *op) float64
	// wrote tells the medium what it will have written.
	wrote(o *op, now time.Duration)
	// flush is how long it takes to make everything durable.
	flush() time.Duration
}

// lane is a medium with those that wait for it.
type lane struct {
	medium
	waiting []*op
	busy    int
}

// Stages of an op, as events.
const (
	served  = iota // the medium is done
	carried        // the link is done
)

// admit lets waiting ops in while the bridge has room.
func (d *Drive) admit() {
	for len(d.held) > 0 && (d.spec.bridge.depth == 0 || d.inside < d.spec.bridge.depth) {
		o := d.held[0]
		d.held = d.held[:copy(d.held, d.held[1:])]
		d.inside++
		o.lane = d.route(o)
		if o.req.Write { // data first crosses the link
			d.carry(o, 0)
			continue
		}
		d.lanes[o.lane].waiting = append(d.lanes[o.lane].waiting, o)
		d.dispatch(d.lanes[o.lane])
	}
}

// dispatch begins work on waiting ops while the medium has a slot.
func (d *Drive) dispatch(l *lane) {
	for len(l.waiting) > 0 && l.busy < l.slots() {
		i := l.pick(l.waiting, d.now)
		o := l.waiting[i]
		l.waiting = append(l.waiting[:i], l.waiting[i+1:]...)
		l.busy++
		var done time.Duration
		done, o.data = l.serve(o, d.now, d.rng)
		d.push(done, served, o)
	}
}

// carry moves an op's data over the link, one op after another. What has flowed
// already while the medium worked need not wait again.
func (d *Drive) carry(o *op, overlap time.Duration) {
	m := d.lanes[o.lane].medium
	rate := d.spec.link
	if r := m.rate(o); r > 0 && (rate == 0 || r < rate) {
		rate = r
	}
	d.heat.moved(d.now, o.n)
	t := seconds(d.spec.bridge.overhead)
	if rate > 0 {
		t += seconds(float64(o.n) / (rate * d.heat.slowed() * 1e6))
	}
	begin := max(d.linkFree, d.now-overlap)
	d.linkFree = max(begin+t, d.now)
	if o.req.Write {
		m.wrote(o, d.linkFree)
	}
	d.push(d.linkFree, carried, o)
}

// step takes the next event. There must be one.
func (d *Drive) step() {
	e := d.events.pop()
	d.now = max(d.now, e.at)
	o := e.op
	l := d.lanes[o.lane]
	switch {
	case e.stage == served:
		l.busy--
		if o.req.Write {
			d.end(o)
		} else {
			d.carry(o, o.data)
		}
		d.dispatch(l)
	case o.req.Write:
		l.waiting = append(l.waiting, o)
		d.dispatch(l)
	default:
		d.end(o)
	}
}

func (d *Drive) end(o *op) {
	r, q := o.req, o.q
	r.Ended = d.now
	q.done = append(q.done, r)
	o.req = nil
	q.free = append(q.free, o)
	d.inside--
	d.admit()
}

func (d *Drive) push(at time.Duration, stage int, o *op) {
	d.seq++
	d.events.push(event{at: at, seq: d.seq, stage: stage, op: o})
}
