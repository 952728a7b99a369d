package swap

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"nowthen/bench"
	"nowthen/core/checks"
	"nowthen/core/fitting"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/store"
)

// Fitting is whether the new drive goes into the computer.
type Fitting struct {
	// Maker and Model are of the computer; what the shop knows is known of them.
	Maker string `json:"maker"`
	Model string `json:"model"`
	// Known is what the shop knows of the model; nil where it knows nothing.
	Known *fitting.Model `json:"known"`
	// Shape is the new drive's; nil where nobody said.
	Shape  *job.Shape     `json:"shape"`
	Checks []checks.Check `json:"checks"`
}

// Fitting tells whether a job's new drive goes in, as far as that is known.
func (x *Swap) Fitting(ctx context.Context, jobID string) (*Fitting, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	v := &Fitting{Checks: []checks.Check{}}
	c, d := into(s.Job)
	if c == nil || d == nil {
		return v, nil
	}
	v.Maker, v.Model, v.Shape = c.Maker, c.Model, d.Shape
	if v.Known, err = x.model(ctx, c); err != nil {
		return nil, err
	}
	sides, err := x.probes.Sides(ctx, jobID)
	if err != nil {
		return nil, err
	}
	m := v.Known
	if m == nil {
		m = &fitting.Model{}
	}
	then := s.Job.SetupAs(job.Then)
	f := told(sides, then)
	var old *hardware.Drive
	if now := s.Job.AsNow(); f != nil && !now.Adds {
		old = f.UnderTest(s.Job, then)
	}
	v.Checks = fitting.Of(m, d, f, old)
	return v, nil
}

// into is the computer that the new drive goes into, and that drive; nil where one is not known.
func into(j *job.Job) (*job.Computer, *job.Drive) {
	now := j.AsNow()
	if now == nil {
		return nil, nil
	}
	return j.Computer(now.Computer), j.Drive(now.Drive)
}

// model is what the shop knows of a computer's model, nil where it is nothing.
func (x *Swap) model(ctx context.Context, c *job.Computer) (*fitting.Model, error) {
	body, err := x.store.Model(ctx, c.Maker, c.Model)
	if err != nil || body == nil {
		return nil, err
	}
	m := &fitting.Model{}
	if err := json.Unmarshal(body, m); err != nil {
		return nil, fmt.Errorf("what is known of %s %s: %w", c.Maker, c.Model, err)
	}
	return m, nil
}

// Noting is what is noted of the model and of the new drive; what is left out is not known.
type Noting struct {
	Known fitting.Model `json:"known"`
	Shape job.Shape     `json:"shape"`
}

// mostPlaces bounds the lists of a place, mostPhotos what is kept to look at of a model.
const (
	mostPlaces = 20
	mostPhotos = 12
)

func (in *Noting) check(f *bench.Fields) {
	form := func(name, v string) {
		f.Check(v == "" || slices.Contains(job.Forms, v), name,
			message.Tell("is-not-one-of", message.Values{"V": v, "Of": strings.Join(job.Forms, ", ")}))
	}
	length := func(name string, v float64) {
		f.Check(v >= 0 && v <= 400, name, message.Tell("is-no-length"))
	}
	p := &in.Known.Place
	form("known.place.form", p.Form)
	form("shape.form", in.Shape.Form)
	length("known.place.height_mm", p.HeightMM)
	length("shape.height_mm", in.Shape.HeightMM)
	length("shape.length_mm", in.Shape.LengthMM)
	for _, v := range p.LengthsMM {
		length("known.place.lengths_mm", v)
	}
	for name, v := range map[string]string{"known.place.key": p.Key, "shape.key": in.Shape.Key} {
		f.Check(slices.Contains([]string{"", "B", "M", "B+M"}, v), name,
			message.Tell("is-not-one-of", message.Values{"V": v, "Of": "B, M, B+M"}))
	}
	for _, v := range p.Speaks {
		f.Check(v == fitting.SATA || v == fitting.NVMe, "known.place.speaks",
			message.Tell("is-not-one-of", message.Values{"V": v, "Of": "sata, nvme"}))
	}
	f.Check(max(len(p.LengthsMM), len(p.Speaks), len(p.SwitchesOff)) <= mostPlaces, "known.place",
		message.Tell("too-many-of-them", message.Values{"Most": mostPlaces}))
	for i := range p.SwitchesOff {
		p.SwitchesOff[i] = strings.TrimSpace(p.SwitchesOff[i])
		f.Check(p.SwitchesOff[i] != "", "known.place.switches_off", message.Tell("say-which-port"))
		f.Text("known.place.switches_off", p.SwitchesOff[i])
	}
	for name, v := range map[string]*string{"known.screws": &in.Known.Screws, "known.tools": &in.Known.Tools,
		"known.pitfalls": &in.Known.Pitfalls} {
		*v = strings.TrimSpace(*v)
		f.Text(name, *v)
	}
	f.Check(len(in.Known.Photos) <= mostPhotos, "known.photos",
		message.Tell("too-many-of-them", message.Values{"Most": mostPhotos}))
	for i := range in.Known.Photos {
		f.Text("known.photos", in.Known.Photos[i].Words)
	}
	f.Check(in.Known.Minutes >= 0 && in.Known.Minutes <= 6000, "known.minutes", message.Tell("no-count"))
}

// Note keeps what is known of the computer's model, for every job with it, and of the new drive.
func (x *Swap) Note(ctx context.Context, ch *bench.Change, jobID string, in Noting) (*bench.View, error) {
	f := bench.Fields{}
	in.check(&f)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	for _, p := range in.Known.Photos {
		if _, _, err := x.store.Photo(ctx, p.Job, p.ID); errors.Is(err, store.ErrNotFound) {
			return nil, bench.Refuse(bench.Missing, "that-photo-is-gone")
		} else if err != nil {
			return nil, err
		}
	}
	body, err := json.Marshal(in.Known)
	if err != nil {
		return nil, err
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		c, d := into(j)
		switch {
		case d == nil || c == nil:
			return bench.Refuse(bench.Conflict, "say-first-which-drive")
		case c.Maker == "" && c.Model == "":
			return bench.Refuse(bench.Conflict, "say-first-which-computer")
		}
		if in.Shape.Form != "" || in.Shape.HeightMM != 0 || in.Shape.LengthMM != 0 || in.Shape.Key != "" {
			if d.Shape != nil {
				in.Shape.Unknown = d.Shape.Unknown
			}
			d.Shape = &in.Shape
		} else {
			d.Shape = nil
		}
		return ch.Tx.KeepModel(ctx, c.Maker, c.Model, body)
	})
}
