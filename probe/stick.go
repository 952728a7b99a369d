package probe

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"nowthen/core/order"
)

// reaching is how long one of a bench's addresses has to answer: of several, most lead nowhere from here.
const reaching = 5 * time.Second

// ByStick joins with a shop's stick: it continues with the job that this computer had joined at that bench, or else
// announces the computer there and waits until somebody admits it. dir is on this computer; nothing is written to the
// stick.
func ByStick(ctx context.Context, computer Computer, stick *order.Stick, dir string, o Options) (*Joined, error) {
	addresses := stick.Addresses
	k, err := readJoined(dir)
	before := err == nil && k.Keyed && k.Machine == computer.Identity() && sameBench(addresses, k.Address)
	if before {
		addresses = append([]string{k.Address}, addresses...)
	}
	b, err := reach(ctx, addresses)
	if err != nil {
		if before { // it continues as soon as the bench is back
			return Again(computer, dir, o)
		}
		return nil, err
	}
	if before {
		b.Token = k.Token
		switch err := b.Known(ctx); {
		case errors.Is(err, ErrLetGo):
			b.Token = ""
		case err != nil:
			return nil, err
		default:
			j, err := resume(computer, b, k, dir, o)
			if err == nil {
				err = j.keep(k.Job) // the bench may be at another address now
			}
			return j, err
		}
	}
	j, err := open(computer, b, dir, o)
	if err != nil {
		return nil, err
	}
	w, err := j.announce(ctx, stick.Key)
	if err == nil {
		err = j.enter(w)
	}
	if err != nil {
		return nil, errors.Join(err, j.lock.Close())
	}
	return j, nil
}

// sameBench reports whether an address is of the bench that has these: each names the bench's key, but those of this
// computer.
func sameBench(addresses []string, address string) bool {
	_, key, keyed := strings.Cut(address, "#")
	return slices.ContainsFunc(addresses, func(a string) bool {
		_, other, _ := strings.Cut(a, "#")
		return a == address || keyed && other == key
	})
}

// reach returns the bench at the first of its addresses that answers.
func reach(ctx context.Context, addresses []string) (*Bench, error) {
	ctx, stop := context.WithTimeout(ctx, reaching)
	defer stop()
	type answer struct {
		bench *Bench
		err   error
	}
	answers := make(chan answer, len(addresses))
	for _, address := range addresses {
		go func() {
			b, err := NewBench(address, "")
			if err == nil {
				err = b.Answers(ctx)
			}
			answers <- answer{b, err}
		}()
	}
	var errs []error
	for range addresses {
		a := <-answers
		if a.err == nil {
			return a.bench, nil
		}
		errs = append(errs, a.err)
	}
	return nil, fmt.Errorf("no bench answers at the addresses on this stick; check that both computers are in the shop's "+
		"network, or prepare the stick again:\n%w", errors.Join(errs...))
}

// announce announces this computer with a stick's key, and waits until it is admitted.
func (j *Joined) announce(ctx context.Context, key string) (*order.Welcome, error) {
	offer, err := j.bench.Announce(ctx, order.Announcement{Key: key, Hello: j.hello(ctx)})
	if err != nil {
		return nil, err
	}
	j.say("This computer waits at the bench as")
	j.say("")
	j.say("        >>>  %s  <<<", offer.Digits)
	j.say("")
	j.say("Press %s on the bench's screen. It waits there for %.0f minutes.", offer.Digits, offer.Seconds/60)
	waiting, stop := context.WithTimeout(ctx, time.Duration(offer.Seconds*float64(time.Second))+answering)
	defer stop()
	var w *order.Welcome
	for w == nil {
		err := j.again(waiting, func() (err error) { w, err = j.bench.Admission(waiting); return err })
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case waiting.Err() != nil:
			return nil, errors.New("the bench didn't answer in time; start the probe again")
		case err != nil:
			return nil, err
		}
	}
	return w, nil
}
