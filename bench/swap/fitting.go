package swap

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware/match"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/checks"
	"nowthen/core/fitting"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/store"
)

// Fitting is whether the new drive goes into the computer.
type Fitting struct {
	// Maker and Model are the computer's; the shop's knowledge is stored for them.
	Maker string `json:"maker"`
	Model string `json:"model"`
	// Known is what the shop knows about the model; nil if nothing.
	Known *fitting.Model `json:"known"`
	// Shape is the new drive's; nil if not known.
	Shape  *job.Shape     `json:"shape"`
	Checks []checks.Check `json:"checks"`
	// Slots are the model's drive slots; the checks are of the first.
	Slots []fitting.Slot `json:"slots"`
}

// Fitting reports whether a job's new drive fits into its computer, as far as known.
func (x *Swap) Fitting(ctx context.Context, jobID string) (*Fitting, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	v := &Fitting{Checks: []checks.Check{}, Slots: []fitting.Slot{}}
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
		old = match.UnderTest(f, s.Job, then)
	}
	var attached job.CheckState
	for _, l := range s.Job.Head.Looked {
		if l.Check == fitting.Attached {
			attached = l.State
		}
	}
	v.Checks, v.Slots = fitting.Of(m, d, f, old, attached)
	return v, nil
}

// into returns the computer that the new drive goes into, and that drive; nil if not known.
func into(j *job.Job) (*job.Computer, *job.Drive) {
	now := j.AsNow()
	if now == nil {
		return nil, nil
	}
	return j.Computer(now.Computer), j.Drive(now.Drive)
}

// model returns what the shop knows about a computer's model, nil if nothing.
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

// Noting is what somebody enters about the model and the new drive; what is left out is unknown.
type Noting struct {
	Known fitting.Model `json:"known"`
	Shape job.Shape     `json:"shape"`
}

// mostPlaces is the longest list of a slot, mostPhotos the most photos of a model.
const (
	mostPlaces = 20
	mostPhotos = 12
)

func (in *Noting) check(f bench.Fields) {
	form := func(name string, v job.Form) {
		bench.OneOf(f, name, v, append([]job.Form{""}, job.Forms...)...)
	}
	length := func(name string, v float64) {
		f.Check(v >= 0 && v <= 400, name, "Enter 0 to 400 mm.")
	}
	key := func(name, v string) {
		bench.OneOf(f, name, v, "", "B", "M", "B+M")
	}
	place := func(at string, p *fitting.Place) {
		form(at+".form", p.Form)
		length(at+".height_mm", p.HeightMM)
		key(at+".key", p.Key)
		for _, v := range p.LengthsMM {
			length(at+".lengths_mm", v)
		}
		for _, v := range p.Speaks {
			bench.OneOf(f, at+".speaks", v, fitting.SATA, fitting.NVMe)
		}
		f.Check(max(len(p.LengthsMM), len(p.Speaks), len(p.SwitchesOff)) <= mostPlaces, at,
			fmt.Sprintf("At most %d of them.", mostPlaces))
		for i := range p.SwitchesOff {
			p.SwitchesOff[i] = strings.TrimSpace(p.SwitchesOff[i])
			f.Check(p.SwitchesOff[i] != "", at+".switches_off", "Choose the port.")
			f.Text(at+".switches_off", p.SwitchesOff[i])
		}
		p.Name = strings.TrimSpace(p.Name)
		f.Name(at+".name", p.Name)
	}
	place("known.place", &in.Known.Place)
	f.Check(len(in.Known.More) <= mostPlaces, "known.more",
		fmt.Sprintf("At most %d of them.", mostPlaces))
	for i := range in.Known.More {
		p := &in.Known.More[i]
		place(fmt.Sprintf("known.more.%d", i), p)
		f.Check(p.Name != "", fmt.Sprintf("known.more.%d.name", i),
			"Name the slot, so that it can be told from the others.")
	}
	form("shape.form", in.Shape.Form)
	length("shape.height_mm", in.Shape.HeightMM)
	length("shape.length_mm", in.Shape.LengthMM)
	key("shape.key", in.Shape.Key)
	for name, v := range map[string]*string{"known.screws": &in.Known.Screws, "known.tools": &in.Known.Tools,
		"known.pitfalls": &in.Known.Pitfalls} {
		*v = strings.TrimSpace(*v)
		f.Text(name, *v)
	}
	f.Check(len(in.Known.Photos) <= mostPhotos, "known.photos",
		fmt.Sprintf("At most %d of them.", mostPhotos))
	for i := range in.Known.Photos {
		f.Text("known.photos", in.Known.Photos[i].Words)
	}
	f.Check(in.Known.Minutes >= 0 && in.Known.Minutes <= 6000, "known.minutes", "Enter a whole number from 0.")
}

// Note stores what is known about the computer's model, for every job with it, and about the new drive.
func (x *Swap) Note(ctx context.Context, ch *bench.Change, jobID string, in Noting) (*bench.View, error) {
	f := bench.Fields{}
	in.check(f)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	for _, p := range in.Known.Photos {
		if _, _, err := x.store.Photo(ctx, p.Job, p.ID); errors.Is(err, store.ErrNotFound) {
			return nil, bench.Refuse(bench.Missing, "A photo to keep is no longer there.")
		} else if err != nil {
			return nil, err
		}
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		c, d := into(j)
		switch {
		case d == nil || c == nil:
			return bench.Refuse(bench.Conflict, "Enter the new drive first.")
		case c.Maker == "" && c.Model == "":
			return bench.Refuse(bench.Conflict, "Enter the computer’s maker and model first.")
		}
		if in.Shape.Form != "" || in.Shape.HeightMM != 0 || in.Shape.LengthMM != 0 || in.Shape.Key != "" {
			if d.Shape != nil {
				in.Shape.Unknown = d.Shape.Unknown
			}
			d.Shape = &in.Shape
		} else {
			d.Shape = nil
		}
		before, err := x.model(ctx, c)
		if err != nil {
			return err
		}
		if in.Known.Fixes = nil; before != nil {
			in.Known.Fixes = before.Fixes // they are noted at the checks
		}
		return keepModel(ctx, ch, c, &in.Known)
	})
}

// keepModel stores, within a change, what is known about a computer's model.
func keepModel(ctx context.Context, ch *bench.Change, c *job.Computer, m *fitting.Model) error {
	body, err := json.Marshal(m)
	if err != nil {
		return err
	}
	return ch.Tx.KeepModel(ctx, c.Maker, c.Model, body)
}

// mostFixes is the most fixes kept for one check of a model; the latest stay.
const mostFixes = 5

// keepFix stores for a computer's model what fixed a check.
func (x *Swap) keepFix(ctx context.Context, ch *bench.Change, c *job.Computer, check, fix string) error {
	m, err := x.model(ctx, c)
	if err != nil {
		return err
	}
	if m == nil {
		m = &fitting.Model{}
	}
	if m.Fixes == nil {
		m.Fixes = map[string][]string{}
	}
	list := slices.DeleteFunc(slices.Clone(m.Fixes[check]), func(s string) bool { return s == fix })
	list = append(list, fix)
	m.Fixes[check] = list[max(0, len(list)-mostFixes):]
	return keepModel(ctx, ch, c, m)
}
