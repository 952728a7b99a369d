package bench

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/store"
)

// demoJob is a made-up job and how far it has come.
type demoJob struct {
	ago      time.Duration
	customer job.Customer
	reason   string
	computer string // a simulated computer
	template string
	also     []string // tests of the catalogue beside the template's
	then     job.Conditions
	upTo     string // the station it has reached
}

// Demo fills an empty store with made-up jobs on simulated computers, in
// several states, and a folder with made-up clips of one of them; without a
// folder it makes none. It leaves a store that holds jobs as it is.
func Demo(ctx context.Context, s *store.Store, clips string) error {
	numbers, err := s.Numbers(ctx, "")
	if err != nil || len(numbers) > 0 {
		return err
	}
	mains := job.Conditions{Power: "mains", PowerMode: "normal", Busy: []string{}}
	battery := job.Conditions{Power: "battery", PowerMode: "saving", Busy: []string{"indexing"}}
	const day = 24 * time.Hour
	for _, d := range []demoJob{
		{ago: 3 * day, customer: job.Customer{Name: "Ilse Varga", Contact: "after 17:00"}, reason: "Takes an age to start; fans run all the time",
			computer: "laptop", template: "laptop", also: []string{"t-response", "t-sustained", "t-sweep-read", "t-processor"}, then: mains, upTo: plan.StepBack},
		{ago: 26 * time.Hour, customer: job.Customer{Name: "Pottery Quay Nine"}, reason: "Order desk hangs in the morning",
			computer: "office", template: "office", then: battery, upTo: plan.StepCompare},
		{ago: 5 * time.Hour, customer: job.Customer{Name: "Tomas Oyelaran"}, reason: "Slow since the last big update",
			computer: "laptop", then: mains, upTo: plan.StepOut},
		{ago: 20 * time.Minute, customer: job.Customer{Name: "Reading Room on the Hill", Contact: "ask for Noor"}, reason: "Needs more room, and quicker if possible",
			computer: "office", then: mains, upTo: plan.StepThen},
	} {
		b, err := New(ctx, s, Options{Clips: clips})
		if err != nil {
			return err
		}
		b.shift = -d.ago
		if err := b.playDemo(ctx, d); err != nil {
			return fmt.Errorf("the made-up job of %s: %w", d.customer.Name, err)
		}
	}
	return nil
}

func (b *Bench) playDemo(ctx context.Context, d demoJob) error {
	v, err := b.Open(ctx, Intake{Customer: d.customer, Reason: d.reason, Simulated: d.computer, Template: d.template})
	if err != nil {
		return err
	}
	for _, id := range d.also {
		if _, err := b.AddTest(ctx, v.ID, job.Test{ID: id}); err != nil {
			return err
		}
	}
	if d.upTo == plan.StepThen {
		return nil
	}
	if err := b.playSetup(ctx, v.ID, "then", d.then, 3); err != nil {
		return err
	}
	if d.upTo == plan.StepOut {
		return nil
	}
	for _, step := range []string{job.BackupStep, "updates", "screws"} {
		if _, err := b.Tick(ctx, v.ID, step, true, "Noor"); err != nil {
			return err
		}
	}
	b.shift += time.Hour
	why := ""
	if d.then.Power == "battery" {
		why = "the charger was left at the customer's"
	}
	if _, err := b.PassGate(ctx, v.ID, Passing{Gate: job.GateOldDriveOut, Why: why}); err != nil {
		return err
	}
	// One start more than wanted: the first after the swap does not count.
	now := job.Conditions{Power: "mains", PowerMode: "normal", Busy: []string{}}
	if err := b.playSetup(ctx, v.ID, "now", now, 4); err != nil {
		return err
	}
	if d.upTo == plan.StepCompare {
		return b.playTrial(ctx, v.ID, now)
	}
	if b.clipDir != "" {
		if err := b.playClips(ctx, v.ID); err != nil {
			return err
		}
	}
	b.shift += time.Hour
	if _, err := b.Issue(ctx, v.ID); err != nil {
		return err
	}
	_, err = b.PassGate(ctx, v.ID, Passing{Gate: job.GateHandedBack, OldDrive: "returned"})
	return err
}

// playTrial tries a second candidate, which does not stay.
func (b *Bench) playTrial(ctx context.Context, id string, c job.Conditions) error {
	v, err := b.AddTrial(ctx, id, "the small one", job.Drive{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1", CapacityBytes: 500_107_862_016,
		Price: &job.Price{Amount: "41.00", Currency: "EUR"}})
	if err != nil {
		return err
	}
	return b.playSetup(ctx, id, v.Job.Setups[len(v.Job.Setups)-1].ID, c, 4)
}

// playSetup measures everything on a setup, simulated, as fast as it goes.
func (b *Bench) playSetup(ctx context.Context, id, setup string, c job.Conditions, starts int) error {
	v, err := b.Sit(ctx, id, setup, c)
	if err != nil {
		return err
	}
	sitting := v.Job.Sittings[len(v.Job.Sittings)-1].ID
	for _, t := range v.Job.Tests {
		n := plan.Wanted(&t)
		switch {
		case t.ID == catalogue.ColdStart:
			n = starts
		case t.Kind == job.Note:
			if err := b.playReading(ctx, id, sitting, setup, t); err != nil {
				return err
			}
			continue
		case !plan.ByHand(&t):
			continue
		}
		for range n {
			if _, err := b.Perform(ctx, id, t.ID, sitting); err != nil {
				return err
			}
			b.shift += 3 * time.Minute
		}
	}
	if _, err := b.Measure(ctx, id, MeasureRequest{Sitting: sitting}); err != nil {
		return err
	}
	b.mu.Lock()
	r := b.measuring[id]
	b.mu.Unlock()
	<-r.ended
	b.shift += 8 * time.Minute
	if s := r.snapshot(); s.State != MeasuringDone {
		return errors.Join(fmt.Errorf("measuring ended as %s", s.State), s.Refusal)
	}
	return nil
}

// readings are what a technician would read off, by test: on a disk, and on an
// SSD.
var readings = map[string][2]float64{"noise": {38, 31}, "battery-life": {194, 236}, "temperature-peak": {47, 44}}

func (b *Bench) playReading(ctx context.Context, id, sitting, setup string, t job.Test) error {
	pair, ok := readings[t.What]
	if !ok {
		return nil
	}
	value := pair[1]
	if setup == "then" {
		value = pair[0]
	}
	_, err := b.TypeIn(ctx, id, Type{Test: t.ID, Sitting: sitting, Value: value, Unit: t.Unit})
	return err
}

// demoClips are made by e2e/democlips: a made-up program that opens, filmed Then
// and Now at frame times that are known.
//
//go:embed democlips
var demoClips embed.FS

// DemoClip is what is known of a made-up clip.
type DemoClip struct {
	Name     string `json:"name"`
	FramesMS []int  `json:"frames_ms"`
	StartMS  int    `json:"start_ms"`
	EndMS    int    `json:"end_ms"`
}

// Mark is the mark on one of its frames.
func (c DemoClip) Mark(ms int) job.VideoMark {
	before := 0
	for _, f := range c.FramesMS {
		if f == ms {
			break
		}
		before = f
	}
	return job.VideoMark{AtS: float64(ms) / 1000, FrameS: float64(max(1, ms-before)) / 1000}
}

// KnownClips are the made-up clips with their frame times.
func KnownClips() ([]DemoClip, error) {
	data, err := demoClips.ReadFile("democlips/known.json")
	if err != nil {
		return nil, err
	}
	var list []DemoClip
	return list, json.Unmarshal(data, &list)
}

// playClips takes the made-up clips in and marks a run on each.
func (b *Bench) playClips(ctx context.Context, id string) error {
	known, err := KnownClips()
	if err != nil {
		return err
	}
	for _, k := range known {
		data, err := demoClips.ReadFile("democlips/" + k.Name + ".webm")
		if err != nil {
			return err
		}
		clip, err := b.OpenClip(ctx, id, NewClip{Name: "main program, " + k.Name + ".webm", Type: "video/webm", Bytes: int64(len(data))})
		if err != nil {
			return err
		}
		if clip, err = b.AppendClip(ctx, id, clip.ID, 0, data); err != nil {
			return err
		}
		j, err := b.store.Job(ctx, id)
		if err != nil {
			return err
		}
		on := j.SittingsOn(k.Name)
		if len(on) == 0 {
			return fmt.Errorf("there is no sitting on %s", k.Name)
		}
		if _, err := b.TimeByVideo(ctx, id, clip.ID, Marking{Test: "t-launch", Sitting: on[0].ID, Marks: []job.VideoMark{k.Mark(k.StartMS), k.Mark(k.EndMS)}}); err != nil {
			return err
		}
	}
	return nil
}
