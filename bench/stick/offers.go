package stick

import (
	"cmp"
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"time"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/bench"
	"nowthen/core/hardware"
	"nowthen/core/order"
)

const (
	// goodFor is how long a computer waits to be admitted.
	goodFor = 2 * time.Minute
	// mostWaiting is how many computers wait with one key.
	mostWaiting = 3
	// silent is after how long without a question a computer no longer waits: its window was closed.
	silent = 10 * time.Second
)

// offer is a computer that waits. The fields below hello change under the lock of [Sticks].
type offer struct {
	id, key, token, digits string // token hashed
	hello                  order.Hello
	until                  time.Time

	asking   int       // questions that are held
	heard    time.Time // when the last one began or ended
	pressing bool      // it is being admitted
	job      string    // that it was admitted to
	welcome  *order.Welcome
	over     chan struct{} // closed once it is admitted or dismissed
	gone     bool          // dismissed
}

// waits reports whether it still waits.
func (o *offer) waits(now time.Time) bool {
	return !o.gone && o.job == "" && now.Before(o.until) && (o.asking > 0 || now.Sub(o.heard) < silent)
}

// Waiting is a computer that waits to be admitted, as a page shows it.
type Waiting struct {
	ID string `json:"id"`
	// Digits are the two that the computer's screen shows too.
	Digits    string    `json:"digits"`
	Name      string    `json:"name"` // of the computer
	System    string    `json:"system"`
	Simulated string    `json:"simulated"`
	Until     time.Time `json:"until"`
	// Drive is its own ([hardware.Facts.MainDrive]); nil where that cannot be told.
	Drive *hardware.Drive `json:"drive"`
}

// Announce lets a computer wait with the key of a stick. One that announces itself again takes its earlier place.
// A client that tries wrong keys is slowed down ([slow.Error]), and nobody else.
func (x *Sticks) Announce(ctx context.Context, a order.Announcement, from slow.Client) (*order.Offer, error) {
	if err := a.Hello.Check(); err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	key, err := x.works(ctx, a.Key, from)
	if err != nil {
		return nil, err
	}
	a.Hello.Code = ""
	secret := token.New(offerBytes)
	x.mu.Lock()
	now := x.now()
	o := &offer{id: bench.NewID(), key: key, token: token.Hash(secret), hello: a.Hello, until: now.Add(goodFor), heard: now,
		over: make(chan struct{})}
	x.sweep(now)
	if i := slices.IndexFunc(x.waiting, func(w *offer) bool {
		return w.waits(now) && w.key == key && a.Hello.Machine != "" && w.hello.Machine == a.Hello.Machine &&
			w.hello.Simulated == a.Hello.Simulated
	}); i >= 0 {
		x.waiting[i].end()
	}
	with, taken := 0, map[string]bool{}
	for _, w := range x.waiting {
		if w.waits(now) {
			taken[w.digits] = true
			if w.key == key {
				with++
			}
		}
	}
	if with >= mostWaiting {
		x.mu.Unlock()
		r := bench.Refuse(bench.Conflict, "%d computers already wait with this stick.", with)
		r.Do = "Admit or dismiss one of them on the bench, then start the probe again."
		return nil, r
	}
	o.digits = free(taken)
	x.waiting = append(x.waiting, o)
	x.mu.Unlock()
	x.tell()
	return &order.Offer{Token: secret, Digits: o.digits, Seconds: goodFor.Seconds()}, nil
}

// free are two digits that no other computer that waits shows.
func free(taken map[string]bool) string {
	for {
		if d := fmt.Sprintf("%02d", 10+rand.IntN(90)); !taken[d] {
			return d
		}
	}
}

// end says that a computer no longer waits, unless it is being admitted. The caller holds the lock.
func (o *offer) end() {
	if !o.gone && !o.pressing && o.job == "" {
		o.gone = true
		close(o.over)
	}
}

// sweep forgets the computers that waited long ago. Who was admitted can fetch that for as long as an offer is good.
// The caller holds the lock.
func (x *Sticks) sweep(now time.Time) {
	x.waiting = slices.DeleteFunc(x.waiting, func(o *offer) bool {
		return o.asking == 0 && !o.pressing && now.After(o.until.Add(goodFor))
	})
}

// Offers are the computers that wait, in the order in which they came.
func (x *Sticks) Offers() []Waiting {
	x.mu.Lock()
	defer x.mu.Unlock()
	now := x.now()
	list := []Waiting{}
	for _, o := range x.waiting {
		if o.waits(now) && !o.pressing {
			f := &o.hello.Facts
			list = append(list, Waiting{ID: o.id, Digits: o.digits, Simulated: o.hello.Simulated,
				Name:   cmp.Or(strings.TrimSpace(f.Computer.Maker+" "+f.Computer.Model), "A computer with "+o.hello.System),
				System: strings.TrimSpace(f.System.Name + " " + f.System.Version),
				Until:  x.jobs.Now().Add(o.until.Sub(now)).Truncate(time.Second), Drive: f.MainDrive(hardware.AnyDrive)})
		}
	}
	return list
}

// Await waits until the computer of an offer is admitted, at most until the context ends. It returns nil while nobody
// has pressed; a refusal once nobody can any more.
func (x *Sticks) Await(ctx context.Context, secret string) (*order.Welcome, error) {
	hash := token.Hash(secret)
	x.mu.Lock()
	i := slices.IndexFunc(x.waiting, func(o *offer) bool { return o.token == hash })
	if i < 0 {
		x.mu.Unlock()
		return nil, over()
	}
	o := x.waiting[i]
	o.asking++
	o.heard = x.now()
	left := o.until.Sub(o.heard)
	x.mu.Unlock()
	expired := time.NewTimer(left)
	defer expired.Stop()
	select {
	case <-o.over:
	case <-expired.C:
	case <-ctx.Done():
	}
	x.mu.Lock()
	o.asking--
	o.heard = x.now()
	defer x.mu.Unlock()
	switch {
	case o.welcome != nil:
		return o.welcome, nil
	case o.gone || !o.pressing && !o.heard.Before(o.until):
		defer x.tell()
		return nil, over()
	}
	return nil, nil
}

// over says to a computer that it no longer waits.
func over() error {
	r := bench.Refuse(bench.Missing, "Nobody admitted this computer within %.0f minutes, or it was dismissed on the bench.",
		goodFor.Minutes())
	r.Do = "Start the probe again to announce it once more."
	return r
}

// Admit lets a computer that waits into a job; jobID "" opens a new one from what the computer says of itself.
func (x *Sticks) Admit(ctx context.Context, ch *bench.Change, id, jobID string) (*bench.View, error) {
	o, err := x.press(id)
	if err != nil {
		return nil, err
	}
	if jobID != "" {
		if _, err := x.jobs.Load(ctx, jobID); err != nil {
			x.pressed(o, "", nil)
			return nil, err
		}
	}
	var welcome *order.Welcome
	err = x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		if jobID == "" {
			v, err := x.open(ctx, ch, o.hello.Facts)
			if err != nil {
				return err
			}
			jobID = v.ID
		}
		ch.Made("jobs/" + jobID)
		welcome, err = x.probes.Admit(ctx, ch, jobID, o.hello)
		return err
	})
	if err != nil {
		x.pressed(o, "", nil)
		return nil, err
	}
	noted := x.probes.Admitted(ctx, welcome)
	x.pressed(o, jobID, welcome) // it has joined, whether or not that could be noted
	if noted != nil {
		return nil, noted
	}
	return x.jobs.View(ctx, jobID)
}

// pressed ends a press: the computer is in the job, or waits on where welcome is nil.
func (x *Sticks) pressed(o *offer, jobID string, welcome *order.Welcome) {
	x.mu.Lock()
	if o.pressing = false; welcome != nil {
		o.job, o.welcome = jobID, welcome
		close(o.over)
	}
	x.mu.Unlock()
	x.tell()
}

// press takes an offer for whoever presses first.
func (x *Sticks) press(id string) (*offer, error) {
	x.mu.Lock()
	defer x.mu.Unlock()
	i := slices.IndexFunc(x.waiting, func(o *offer) bool { return o.id == id })
	switch {
	case i < 0 || !x.waiting[i].waits(x.now()) && x.waiting[i].job == "":
		r := bench.Refuse(bench.Missing, "This computer no longer waits.")
		r.Do = "Start the probe on it again."
		return nil, r
	case x.waiting[i].pressing || x.waiting[i].job != "":
		return nil, bench.Refuse(bench.Conflict, "This computer was admitted a moment ago, on another device or page.")
	}
	x.waiting[i].pressing = true
	return x.waiting[i], nil
}

// Dismiss sends a computer that waits away.
func (x *Sticks) Dismiss(id string) []Waiting {
	x.dismiss(func(o *offer) bool { return o.id == id })
	return x.Offers()
}

func (x *Sticks) dismiss(which func(*offer) bool) {
	x.mu.Lock()
	for _, o := range x.waiting {
		if which(o) {
			o.end()
		}
	}
	x.mu.Unlock()
	x.tell()
}

func (x *Sticks) tell() { x.jobs.Tell(bench.Event{Type: bench.OffersEvent}) }
