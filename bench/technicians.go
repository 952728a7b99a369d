package bench

import (
	"context"
	"strings"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/core/stopwatch"
)

// Technician is somebody who times, with their own reaction where it was
// calibrated: the mean, and the spread that the uncertainty takes, s.
type Technician struct {
	Name    string    `json:"name"`
	MeanS   float64   `json:"mean_s"`
	SpreadS float64   `json:"spread_s"`
	Presses int       `json:"presses"`
	At      time.Time `json:"at"`
}

// Technicians returns all who calibrated their reaction.
func (b *Bench) Technicians(ctx context.Context) ([]Technician, error) {
	bodies, err := b.store.Technicians(ctx)
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

// Reactions are the times from light to press of a calibration, s.
type Reactions struct {
	Name  string    `json:"name"`
	Times []float64 `json:"times_s"`
}

// Calibrate keeps a technician's own reaction.
func (b *Bench) Calibrate(ctx context.Context, in Reactions) (*Technician, error) {
	t := &Technician{Name: strings.TrimSpace(in.Name), At: b.now()}
	f := fields{}
	f.check(t.Name != "", "name", "Say whose reaction it is.")
	checkText(f, "name", t.Name)
	f.check(len(in.Times) <= 200, "times_s", "At most 200 presses.")
	if err := f.refusal(); err != nil {
		return nil, err
	}
	var err error
	if t.MeanS, t.SpreadS, t.Presses, err = stopwatch.Reaction(in.Times); err != nil {
		r := invalid("%s.", upperFirst(err.Error()))
		r.Kept, r.Do = "What was calibrated before stays.", "Press as soon as the light turns, and not before."
		return nil, r
	}
	body, err := json.Marshal(t)
	if err != nil {
		return nil, err
	}
	return t, b.store.SaveTechnician(ctx, t.Name, body)
}

// reactionOf is the spread of a technician's reaction, s, or 0 where it was not
// calibrated.
func (b *Bench) reactionOf(ctx context.Context, name string) (float64, error) {
	if name == "" {
		return 0, nil
	}
	list, err := b.Technicians(ctx)
	for _, t := range list {
		if strings.EqualFold(t.Name, name) {
			return t.SpreadS, err
		}
	}
	return 0, err
}
