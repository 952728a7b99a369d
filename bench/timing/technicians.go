package timing

import (
	"context"
	"net/url"
	"strings"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/stopwatch"
)

// Technician is somebody who times by hand, with their calibrated reaction: the mean, and the spread that
// counts as uncertainty, s.
type Technician struct {
	Name    string    `json:"name"`
	MeanS   float64   `json:"mean_s"`
	SpreadS float64   `json:"spread_s"`
	Presses int       `json:"presses"`
	At      time.Time `json:"at"`
}

// Technicians returns everybody with a calibrated reaction.
func (x *Timers) Technicians(ctx context.Context) ([]Technician, error) {
	bodies, err := x.store.Technicians(ctx)
	list := []Technician{}
	for _, body := range bodies {
		var t Technician
		if err := json.Unmarshal(body, &t); err != nil {
			return nil, err
		}
		list = append(list, t)
	}
	return list, err
}

// Reactions are the times of a calibration, from light to press, s.
type Reactions struct {
	Name  string    `json:"name"`
	Times []float64 `json:"times_s"`
}

// Calibrate stores a technician's reaction.
func (x *Timers) Calibrate(ctx context.Context, ch *bench.Change, in Reactions) (*Technician, error) {
	t := &Technician{Name: strings.TrimSpace(in.Name), At: x.jobs.Now()}
	f := bench.Fields{}
	f.Check(t.Name != "", "name", "Enter a name.")
	f.Name("name", t.Name)
	f.Check(len(in.Times) <= 200, "times_s", "At most 200 presses.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	var err error
	if t.MeanS, t.SpreadS, t.Presses, err = stopwatch.Reaction(in.Times); err != nil {
		r := bench.Because(bench.Invalid, err)
		r.Kept, r.Do = "The earlier calibration is kept.", "Press as soon as the light changes, not before."
		return nil, r
	}
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	return t, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Made("technicians/" + url.PathEscape(t.Name))
		ch.Answer(t)
		return ch.Tx.SaveTechnician(ctx, t.Name, body)
	})
}

// Technician returns the technician with a name.
func (x *Timers) Technician(ctx context.Context, name string) (*Technician, error) {
	list, err := x.Technicians(ctx)
	if err != nil {
		return nil, err
	}
	for i, t := range list {
		if strings.EqualFold(t.Name, name) {
			return &list[i], nil
		}
	}
	return nil, bench.Refuse(bench.Missing, "Nobody with that name has measured their reaction time.")
}

// reactionOf is the spread of a technician's reaction, s, or 0 if it wasn't calibrated.
func (x *Timers) reactionOf(ctx context.Context, name string) (float64, error) {
	if name == "" {
		return 0, nil
	}
	list, err := x.Technicians(ctx)
	for _, t := range list {
		if strings.EqualFold(t.Name, name) {
			return t.SpreadS, err
		}
	}
	return 0, err
}
