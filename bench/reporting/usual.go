package reporting

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/store"
)

// Usual is the usual spread of each kind of test in this shop, with its basis.
type Usual struct {
	// At is when it was learned from the shop's jobs; nil if never, when the default table applies.
	At    *time.Time    `json:"at"`
	Jobs  int           `json:"jobs"`
	Kinds []side.Learnt `json:"kinds"`
}

// usualSetting is the name of its setting.
const usualSetting = "usual-spread"

// Usual returns the usual spreads in this shop.
func (x *Reports) Usual(ctx context.Context) (*Usual, error) {
	body, err := x.store.Setting(ctx, usualSetting)
	if errors.Is(err, store.ErrNotFound) {
		var nothing side.Learning
		return &Usual{Kinds: nothing.Learnt()}, nil
	}
	if err != nil {
		return nil, err
	}
	u := &Usual{}
	if err := json.Unmarshal([]byte(body), u); err != nil {
		return nil, fmt.Errorf("what is usual in this shop: %w", err)
	}
	return u, nil
}

// Shop returns the shop's settings.
func (x *Reports) Shop(ctx context.Context) (bench.Shop, error) { return bench.LoadShop(ctx, x.store) }

// SetShop sets the shop's settings. A nil logo leaves the logo unchanged.
func (x *Reports) SetShop(ctx context.Context, ch *bench.Change, in bench.Shop) (bench.Shop, error) {
	err := x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		if in.Logo == nil {
			before, err := bench.LoadShop(ctx, ch.Tx)
			if err != nil {
				return err
			}
			in.Logo = before.Logo
		}
		if err := bench.SaveShop(ctx, ch.Tx, in); err != nil {
			return err
		}
		ch.Answer(in)
		return nil
	})
	if err != nil {
		return in, err
	}
	return x.Shop(ctx)
}

// options are the options of comparisons in this shop.
func (x *Reports) options(ctx context.Context) (compare.Options, error) {
	s, err := x.Shop(ctx)
	return compare.Options{FeltSeconds: s.FeltSeconds, FeltShare: s.FeltShare}, err
}

// Learn computes the usual spreads from the shop's finished jobs. Issued reports don't change.
func (x *Reports) Learn(ctx context.Context, ch *bench.Change) (*Usual, error) {
	found, _, _, err := x.store.Search(ctx, store.Search{State: store.FinishedJobs})
	if err != nil {
		return nil, err
	}
	var l side.Learning
	jobs := 0
	for _, f := range found {
		s, err := x.jobs.Load(ctx, f.ID)
		if bench.IsDamaged(err) { // the start page names it
			continue
		}
		if err != nil {
			return nil, err
		}
		l.Add(s.Index())
		jobs++
	}
	now := x.jobs.Now()
	u := &Usual{At: &now, Jobs: jobs, Kinds: l.Learnt()}
	body, err := json.Marshal(u)
	if err != nil {
		return nil, err
	}
	return u, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Answer(u)
		return ch.Tx.SaveSetting(ctx, usualSetting, string(body))
	})
}

// withUsual returns the job as it is compared here: with this shop's usual spreads, unless it has its own.
func (x *Reports) withUsual(ctx context.Context, j *job.Job) (*job.Job, error) {
	u, err := x.Usual(ctx)
	if err != nil {
		return nil, err
	}
	known := map[job.Kind]job.Usual{}
	for _, k := range u.Kinds {
		if k.Own {
			known[k.Kind] = k.Usual
		}
	}
	if len(known) == 0 {
		return j, nil
	}
	for kind, own := range j.Usual {
		known[kind] = own
	}
	c := *j
	c.Usual = known
	return &c, nil
}
