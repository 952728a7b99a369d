// Package stick lets a customer's computer join without a code: the key on a shop's stick announces the computer, and
// one press on the bench admits it to a job.
//
// A key can announce a computer and do nothing else. Keys are stored as digests; computers that wait are kept in
// memory. Of the other use cases it knows only probes. It must not import HTTP or screens.
package stick

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"sync"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/bench"
	"nowthen/bench/probes"
	"nowthen/core/hardware"
	"nowthen/store"
)

const (
	// validDays is how long a key works after its stick was prepared.
	validDays = 90
	// mostKeys bounds the keys that work, mostKept those that are listed, the newest first.
	mostKeys, mostKept = 20, 50
	// keyBytes and offerBytes are the random bytes of a key and of an offer's token.
	keyBytes, offerBytes = 32, 32
	// usedEvery is how often the last use of a key is written down at most.
	usedEvery = time.Minute
)

// Store is what sticks need of a store.
type Store interface {
	Setting(ctx context.Context, name string) (string, error)
}

// Sticks are a shop's keys and the computers that wait to be admitted.
type Sticks struct {
	jobs   *bench.Jobs
	store  Store
	probes *probes.Probes
	open   func(context.Context, *bench.Change, hardware.Facts) (*bench.View, error)

	wrong slow.Limiter // of attempts with keys that don't work

	mu      sync.Mutex
	waiting []*offer
	now     func() time.Time
}

// New returns the sticks of a bench. open opens a job for a computer from what it says of itself.
func New(jobs *bench.Jobs, s Store, p *probes.Probes,
	open func(context.Context, *bench.Change, hardware.Facts) (*bench.View, error)) *Sticks {
	return &Sticks{jobs: jobs, store: s, probes: p, open: open, now: time.Now}
}

// Key is a shop key as a page lists it.
type Key struct {
	ID    string    `json:"id"`
	Made  time.Time `json:"made"`
	Until time.Time `json:"until"`
	// Used is when it last announced a computer; nil if never.
	Used    *time.Time `json:"used"`
	Revoked bool       `json:"revoked"`
	Expired bool       `json:"expired"`
}

// kept is a key as it is stored.
type kept struct {
	ID      string     `json:"id"`
	Hash    string     `json:"hash"`
	Made    time.Time  `json:"made"`
	Until   time.Time  `json:"until"`
	Used    *time.Time `json:"used,omitempty"`
	Revoked bool       `json:"revoked,omitempty"`
}

// works reports whether a key still announces computers.
func (k *kept) works(now time.Time) bool { return !k.Revoked && now.Before(k.Until) }

// keySetting is the name under which the keys are stored.
const keySetting = "shop keys"

// load returns the stored keys, the newest first.
func load(ctx context.Context, s Store) (list []kept, err error) {
	body, err := s.Setting(ctx, keySetting)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	if err := json.Unmarshal([]byte(body), &list); err != nil {
		return nil, fmt.Errorf("the shop keys: %w", err)
	}
	return list, nil
}

// change changes the stored keys.
func (x *Sticks) change(ctx context.Context, ch *bench.Change,
	change func(ch *bench.Change, list []kept) ([]kept, error)) error {
	return x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		list, err := load(ctx, ch.Tx)
		if err != nil {
			return err
		}
		if list, err = change(ch, list); err != nil {
			return err
		}
		body, err := json.Marshal(list)
		if err != nil {
			return err
		}
		return ch.Tx.SaveSetting(ctx, keySetting, string(body))
	})
}

// Keys lists the shop's keys, the newest first.
func (x *Sticks) Keys(ctx context.Context) ([]Key, error) {
	list, err := load(ctx, x.store)
	if err != nil {
		return nil, err
	}
	now := x.jobs.Now()
	keys := make([]Key, len(list))
	for i, k := range list {
		keys[i] = Key{ID: k.ID, Made: k.Made, Until: k.Until, Used: k.Used, Revoked: k.Revoked, Expired: !now.Before(k.Until)}
	}
	return keys, nil
}

// Prepare makes a key for a stick and returns it with its secret, which is in no other place.
func (x *Sticks) Prepare(ctx context.Context) (*Key, string, error) {
	now := x.jobs.Now().Truncate(time.Second)
	k, secret := &Key{ID: bench.NewID(), Made: now, Until: now.AddDate(0, 0, validDays)}, token.New(keyBytes)
	return k, secret, x.change(ctx, nil, func(_ *bench.Change, list []kept) ([]kept, error) {
		working := 0
		for i := range list {
			if list[i].works(now) {
				working++
			}
		}
		if working >= mostKeys {
			r := bench.Refuse(bench.Conflict, "The shop has %d sticks already.", working)
			r.Do = "Revoke the key of one that is lost or no longer used."
			return nil, r
		}
		list = slices.Insert(list, 0, kept{ID: k.ID, Hash: token.Hash(secret), Made: k.Made, Until: k.Until})
		return list[:min(len(list), mostKept)], nil
	})
}

// Revoke makes a key useless from now on, and dismisses the computers that wait with it.
func (x *Sticks) Revoke(ctx context.Context, ch *bench.Change, id string) ([]Key, error) {
	err := x.change(ctx, ch, func(ch *bench.Change, list []kept) ([]kept, error) {
		i := slices.IndexFunc(list, func(k kept) bool { return k.ID == id })
		if i < 0 {
			return nil, bench.Refuse(bench.Missing, "There is no such stick.")
		}
		list[i].Revoked = true
		ch.Made("sticks")
		return list, nil
	})
	if err != nil {
		return nil, err
	}
	x.dismiss(func(o *offer) bool { return o.key == id })
	return x.Keys(ctx)
}

// works returns the id of the key that a computer was announced with. One that doesn't work is refused with the same
// words whatever the reason, except that it has expired: the holder of the stick then knows what to do.
func (x *Sticks) works(ctx context.Context, key string, from slow.Client) (string, error) {
	now := x.jobs.Now()
	if err := x.wrong.Begin(from, now); err != nil {
		return "", err
	}
	list, err := load(ctx, x.store)
	if err != nil {
		return "", err
	}
	hash := token.Hash(key)
	i := slices.IndexFunc(list, func(k kept) bool { return k.Hash == hash })
	if i < 0 || list[i].Revoked {
		r := bench.Refuse(bench.Conflict, "This bench doesn't know the key of this stick, or it was revoked.")
		r.Do = "Prepare the stick again on the bench, or join with a code from the job's page."
		return "", r
	}
	if k := &list[i]; !k.works(now) {
		r := bench.Refuse(bench.Conflict, "The key of this stick expired. It was valid for %d days.", validDays)
		r.Do = "Prepare the stick again on the bench, or join with a code from the job's page."
		return "", r
	}
	x.wrong.Forget(from)
	k := list[i]
	if k.Used != nil && now.Sub(*k.Used) < usedEvery {
		return k.ID, nil
	}
	return k.ID, x.change(ctx, nil, func(_ *bench.Change, list []kept) ([]kept, error) {
		for i := range list {
			if list[i].ID == k.ID {
				at := now.Truncate(time.Second)
				list[i].Used = &at
			}
		}
		return list, nil
	})
}
