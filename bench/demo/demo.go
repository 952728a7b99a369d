// Package demo creates jobs on simulated computers, in several states, through the use cases
// that a technician uses.
//
// It must not import HTTP or screens.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"slices"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/evidence"
	"nowthen/bench/followup"
	"nowthen/bench/measuring"
	"nowthen/bench/planning"
	"nowthen/bench/sittings"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/side"
	"nowthen/store"
)

// demoJob is a made-up job and how far it has got.
type demoJob struct {
	kind     job.JobKind // "" is an upgrade
	ago      time.Duration
	customer bench.Customer
	reason   string
	reasons  []visit.Reason
	computer string // a simulated computer
	template string
	also     []planning.NewTest // beside the template's
	then     bench.Conditions
	upTo     string // the station it has reached
	bill     visit.BillIn
}

// Fill fills an empty store with made-up jobs on simulated computers, in
// several states, and a folder with made-up clips of one of them; without a
// folder it makes none. It leaves a store with jobs unchanged.
func Fill(ctx context.Context, s *store.Store, clips string) error {
	empty, err := s.Empty(ctx)
	if err != nil || !empty {
		return err
	}
	shop := bench.NewShop
	shop.Name, shop.Address, shop.Colour = "Quayside Repairs", "4 Ropewalk, The Harbour", "#0b5d5a"
	shop.Footer, shop.Terms = "Open Monday to Friday, 9 to 18",
		"Two years on parts, one on work. The old drive is kept for four weeks."
	if _, err := desk.New(s, desk.Options{}).Reports.SetShop(ctx, nil, shop); err != nil {
		return fmt.Errorf("the made-up shop: %w", err)
	}
	mains := bench.Conditions{Power: "mains", PowerMode: "normal", Busy: &[]job.Busy{}}
	battery := bench.Conditions{Power: "battery", PowerMode: "saving", Busy: &[]job.Busy{"indexing"}}
	const day = 24 * time.Hour
	for _, d := range []demoJob{
		{ago: 3 * day, customer: bench.Customer{Name: "Ottilie Brandvold", Contact: "after 17:00"},
			reason: "Takes an age to start; fans run all the time",
			reasons: []visit.Reason{{What: job.ReasonSlowStart, Outcome: job.Solved},
				{What: job.ReasonNoise, Words: "fans run all the time", Outcome: job.Better,
					Remains: "the fan itself is worn"}},
			computer: "laptop", template: "laptop", also: []planning.NewTest{{ID: catalogue.ResponseTime},
				{ID: catalogue.SustainedWrite},
				{ID: catalogue.SweepRead}, {ID: catalogue.ProcessorControl}}, then: mains, upTo: plan.AtBack,
			bill: visit.BillIn{Items: []visit.BillItemIn{{What: "labour", Amount: "58"},
				{What: "thermal pad", Amount: "4.50"}}, HourWorth: "15"}},
		{ago: 26 * time.Hour, customer: bench.Customer{Name: "Bindery on Salt Row"},
			reason:   "Order desk hangs in the morning",
			reasons:  []visit.Reason{{What: job.ReasonSlowPrograms, Words: "order desk hangs in the morning"}},
			computer: "office", template: "office", then: battery, upTo: plan.AtCompare},
		{ago: 22 * time.Hour, customer: bench.Customer{Name: "Cellar Board-Game Café"},
			reason:   "League nights wait for every map",
			reasons:  []visit.Reason{{What: job.ReasonSlowGames, Words: "league nights wait for every map"}},
			computer: "games", template: "games", also: []planning.NewTest{{ID: catalogue.GameSave,
				Content: "Tidewall, third season"}}, then: mains, upTo: plan.AtNow},
		{ago: 5 * time.Hour, customer: bench.Customer{Name: "Emeka Straum"}, reason: "Slow since the last big update",
			reasons:  []visit.Reason{{What: job.ReasonSlowStart, Words: "slow since the last big update"}},
			computer: "laptop", then: mains, upTo: plan.AtOut},
		{ago: 2 * time.Hour, customer: bench.Customer{Name: "Herbarium of the Lower Valley", Contact: "the slide room"},
			reason: "The slide scanner outruns the drive",
			reasons: []visit.Reason{{What: job.ReasonSlowPrograms, Words: "the slide scanner outruns the drive"},
				{What: job.ReasonFull}},
			computer: "workstation", template: "editing", also: []planning.NewTest{{ID: catalogue.KeepUp},
				{ID: catalogue.ImportMaterial, Content: "a tray of 40 slides"}}, then: mains, upTo: plan.AtThen},
		{kind: job.KindComparison, ago: 4 * day, customer: bench.Customer{Name: "Tidepool Reading Room"},
			reason:   "Which drive suits the lending computers",
			reasons:  []visit.Reason{{What: job.ReasonSlowStart}},
			computer: "reception", template: "quick", then: mains, upTo: plan.AtCompare},
		{kind: job.KindCheckUp, ago: 61 * day, customer: bench.Customer{Name: "Lantern Street Choir"},
			reason: "Feels slower than in autumn", reasons: []visit.Reason{{What: job.ReasonSlowStart}},
			computer: "office", template: "quick", then: mains, upTo: plan.AtCompare},
		{ago: 20 * time.Minute, customer: bench.Customer{Name: "Fernbank Allotments", Contact: "ask for Runa"},
			reason:   "Needs more room, and quicker if possible",
			reasons:  []visit.Reason{{What: job.ReasonFull, Words: "needs more room"}, {What: job.ReasonSlowStart}},
			computer: "office", then: mains, upTo: plan.AtThen},
	} {
		p := &player{Desk: desk.New(s, desk.Options{Clips: clips, Clock: bench.NewClock(-d.ago)}), clips: clips != ""}
		if err := p.play(ctx, d); err != nil {
			return fmt.Errorf("the made-up job of %s: %w", d.customer.Name, err)
		}
	}
	return nil
}

// player plays a technician.
type player struct {
	*desk.Desk
	clips bool
}

func (p *player) play(ctx context.Context, d demoJob) error {
	v, err := p.Visits.Open(ctx, nil,
		visit.Intake{Kind: d.kind, Customer: d.customer, Reason: d.reason, Reasons: d.reasons, Simulated: d.computer,
			Template: d.template, Relation: job.JoinsReplacing})
	if err != nil {
		return err
	}
	for _, t := range d.also {
		if _, err := p.Plans.AddTest(ctx, nil, v.ID, t); err != nil {
			return err
		}
	}
	switch d.kind {
	case job.KindComparison:
		return p.playComparison(ctx, v.ID, d)
	case job.KindCheckUp:
		return p.playCheckUp(ctx, v.ID, d)
	case job.KindUpgrade:
	}
	if d.upTo == plan.AtThen {
		return nil
	}
	if err := p.playSetup(ctx, v.ID, "then", d.then, 3); err != nil {
		return err
	}
	if d.upTo == plan.AtOut {
		return nil
	}
	for _, step := range []string{job.BackupStep, "updates", "screws"} {
		if _, err := p.Visits.Tick(ctx, nil, v.ID, step, true, "Runa"); err != nil {
			return err
		}
	}
	p.Jobs.Shift(time.Hour)
	why := ""
	if d.then.Power == "battery" {
		why = "the charger was left at the customer's"
	}
	if _, err := p.Visits.PassGate(ctx, nil, v.ID, visit.Passing{Gate: job.GateOldDriveOut, Why: why}); err != nil {
		return err
	}
	if d.upTo == plan.AtNow {
		return nil
	}
	for _, step := range []string{"started", "fans", "cables", "inside"} {
		if v.Job.Step(step) == nil {
			continue
		}
		if _, err := p.Visits.Tick(ctx, nil, v.ID, step, true, "Runa"); err != nil {
			return err
		}
	}
	if _, err := p.Visits.PassGate(ctx, nil, v.ID, visit.Passing{Gate: job.GateCaseClosed}); err != nil {
		return err
	}
	// One start more than wanted: the first after the swap does not count.
	now := bench.Conditions{Power: "mains", PowerMode: "normal", Busy: &[]job.Busy{}}
	if err := p.playSetup(ctx, v.ID, "now", now, 4); err != nil {
		return err
	}
	if d.upTo == plan.AtCompare {
		return p.playTrial(ctx, v.ID, now)
	}
	if p.clips {
		if err := p.playClips(ctx, v.ID); err != nil {
			return err
		}
	}
	p.Jobs.Shift(time.Hour)
	if len(d.bill.Items) > 0 {
		if _, err := p.Visits.Bill(ctx, nil, v.ID, d.bill); err != nil {
			return err
		}
	}
	if _, err := p.Visits.SetFate(ctx, nil, v.ID, v.Job.SetupAs(job.Then).Drive, job.OldDriveReturned); err != nil {
		return err
	}
	if _, err := p.Reports.Issue(ctx, nil, v.ID, ""); err != nil {
		return err
	}
	if _, err = p.Visits.PassGate(ctx, nil, v.ID,
		visit.Passing{Gate: job.GateHandedBack}); err != nil {
		return err
	}
	if len(d.bill.Items) > 0 {
		_, err = p.Later.Promise(ctx, nil, v.ID,
			followup.Promising{What: job.PromisedTest, Test: catalogue.BatteryLife, Words: "after a week on the road",
				Due: p.Jobs.Now().AddDate(0, 0, 7).Format(time.DateOnly)})
	}
	return err
}

// playComparison measures three drives beside each other.
func (p *player) playComparison(ctx context.Context, id string, d demoJob) error {
	v, err := p.Visits.AddTrial(ctx, nil, id, visit.Trial{Drive: bench.Drive{Kind: job.NVMe, Maker: "Brightwater",
		Model: "Kestrel N1", CapacityBytes: 1_000_204_886_016, Price: &bench.Price{Amount: "79.00", Currency: "EUR"}}})
	if err != nil {
		return err
	}
	for i := range v.Job.Setups {
		if err := p.playSetup(ctx, id, v.Job.Setups[i].ID, d.then, 3); err != nil {
			return err
		}
	}
	return nil
}

// playCheckUp measures a computer, and once more two months later.
func (p *player) playCheckUp(ctx context.Context, id string, d demoJob) error {
	if err := p.playSetup(ctx, id, "now", d.then, 3); err != nil {
		return err
	}
	p.Jobs.Shift(60 * 24 * time.Hour)
	later := d.then
	later.FillPct = new(float64)
	*later.FillPct = 88
	return p.playSetup(ctx, id, "now", later, 3)
}

// playTrial tries a second candidate drive, which isn't kept.
func (p *player) playTrial(ctx context.Context, id string, c bench.Conditions) error {
	v, err := p.Visits.AddTrial(ctx, nil, id, visit.Trial{Name: "the small one", Relation: job.OnlyTried,
		Drive: bench.Drive{Kind: job.SataSSD, Maker: "Brightwater", Model: "Kestrel S1", CapacityBytes: 500_107_862_016,
			Price: &bench.Price{Amount: "41.00", Currency: "EUR"}}})
	if err != nil {
		return err
	}
	return p.playSetup(ctx, id, v.Job.Setups[len(v.Job.Setups)-1].ID, c, 4)
}

// missing is how many runs of a test are still missing on a setup.
func missing(v *bench.View, test, setup string) int {
	for _, c := range v.Coverage {
		if c.Test == test && c.Setup == setup {
			return c.Missing()
		}
	}
	return 0
}

// playSetup measures everything on a setup, simulated, as fast as possible.
func (p *player) playSetup(ctx context.Context, id, setup string, c bench.Conditions, starts int) error {
	v, err := p.Sittings.Sit(ctx, nil, id, setup, c)
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
			if err := p.playReading(ctx, id, sitting, setup, t); err != nil {
				return err
			}
			continue
		case !plan.ByHand(&t):
			continue
		}
		// a drive that learns settles first
		for run := 0; run < n || missing(v, t.ID, setup) > 0 && run < side.MostLearning; run++ {
			if v, err = p.Rounds.Perform(ctx, nil, id, t.ID, sitting); err != nil {
				return err
			}
			p.Jobs.Shift(3 * time.Minute)
		}
	}
	for range side.MostLearning { // once, unless the drive learns
		if err := p.playRound(ctx, id, sitting); err != nil {
			return err
		}
		if v, err = p.Jobs.View(ctx, id); err != nil {
			return err
		}
		if !slices.ContainsFunc(v.Coverage,
			func(c plan.Cover) bool { return c.Setup == setup && c.Automatic && c.Missing() > 0 }) {
			return nil
		}
	}
	return nil
}

// playRound runs the unattended tests that are still missing, once.
func (p *player) playRound(ctx context.Context, id, sitting string) error {
	if _, err := p.Rounds.Measure(ctx, nil, id, measuring.MeasureRequest{Sitting: sitting}); err != nil {
		return err
	}
	m, err := p.Rounds.Wait(ctx, id)
	if err != nil {
		return err
	}
	p.Jobs.Shift(8 * time.Minute)
	if m.State != measuring.Done {
		err := fmt.Errorf("measuring ended as %s", m.State)
		if m.Refusal != nil {
			err = errors.Join(err, m.Refusal)
		}
		return err
	}
	return nil
}

// readings are the values a technician would read, by test: on a hard disk, and on an SSD.
var readings = map[string][2]float64{"noise": {38, 31}, "battery-life": {191, 229}, "temperature-peak": {47, 44}}

func (p *player) playReading(ctx context.Context, id, sitting, setup string, t job.Test) error {
	pair, ok := readings[t.What]
	if !ok {
		return nil
	}
	value := pair[1]
	if setup == "then" {
		value = pair[0]
	}
	_, err := p.Sittings.TypeIn(ctx, nil, id, sittings.Typed{Test: t.ID, Sitting: sitting, Value: &value, Unit: t.Unit})
	return err
}

// Files are the made-up clips, made by e2e/democlips: a made-up program that opens, filmed Then
// and Now at frame times that are known.
//
//go:embed clips
var Files embed.FS

// Clip describes a made-up clip.
type Clip struct {
	Name     string `json:"name"`
	FramesMS []int  `json:"frames_ms"`
	StartMS  int    `json:"start_ms"`
	EndMS    int    `json:"end_ms"`
}

// Mark is the mark on one of its frames.
func (c Clip) Mark(ms int) evidence.Mark {
	before := 0
	for _, f := range c.FramesMS {
		if f == ms {
			break
		}
		before = f
	}
	return evidence.Mark{AtS: float64(ms) / 1000, FrameS: float64(max(1, ms-before)) / 1000}
}

// KnownClips are the made-up clips with their frame times.
func KnownClips() ([]Clip, error) {
	data, err := Files.ReadFile("clips/known.json")
	if err != nil {
		return nil, err
	}
	var list []Clip
	return list, json.Unmarshal(data, &list)
}

// playClips imports the made-up clips and marks a run on each.
func (p *player) playClips(ctx context.Context, id string) error {
	known, err := KnownClips()
	if err != nil {
		return err
	}
	for _, k := range known {
		data, err := Files.ReadFile("clips/" + k.Name + ".webm")
		if err != nil {
			return err
		}
		clip, err := p.Evidence.OpenClip(ctx, nil, id,
			evidence.NewClip{Name: "main program, " + k.Name + ".webm", Type: "video/webm", Bytes: int64(len(data))})
		if err != nil {
			return err
		}
		if clip, err = p.Evidence.AppendClip(ctx, nil, id, clip.ID, 0, data); err != nil {
			return err
		}
		v, err := p.Jobs.View(ctx, id)
		if err != nil {
			return err
		}
		on := v.Job.SittingsOn(k.Name)
		if len(on) == 0 {
			return fmt.Errorf("there is no sitting on %s", k.Name)
		}
		if _, err := p.Evidence.TimeByVideo(ctx, nil, id, clip.ID,
			evidence.Marking{Test: catalogue.FirstLaunch, Sitting: on[0].ID,
				Marks: []evidence.Mark{k.Mark(k.StartMS), k.Mark(k.EndMS)}}); err != nil {
			return err
		}
	}
	return nil
}
