package demo

import (
	"context"
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/visit"
	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/store"
)

// brought is the effect of a new drive on a test in earlier jobs: the value before (s, or a rate), the factor
// of improvement, and its spread on the ln scale.
type brought struct {
	test   string
	before float64
	factor float64
	spread float64
}

// earlier are kinds of earlier jobs: a simulated computer and the effect of its new drive.
var earlier = []struct {
	computer string
	tests    []brought
}{
	{"laptop", []brought{{catalogue.ColdStart, 88, 5.6, 0.16}, {catalogue.FirstLaunch, 13.2, 8, 0.22},
		{catalogue.MorningBrowser, 18, 4.2, 0.2},
		{catalogue.LongRead, 78, 7.1, 0.08}, {catalogue.ScatteredRead, 95, 100, 0.15}}},
	{"office", []brought{{catalogue.ColdStart, 60, 3.9, 0.18}, {catalogue.OpenDocument, 5.8, 3, 0.25},
		{catalogue.FirstLaunch, 8.4, 5.2, 0.24},
		{catalogue.LongRead, 126, 4.4, 0.07}, {catalogue.ScatteredRead, 160, 72, 0.16}}},
}

// names are those of customers who were here before.
var names = []string{"Alder Lane Bakery", "Borrowdale Clinic", "Copper Kettle Tours", "Dunmore Archive",
	"Elm Street Nursery",
	"Fallow Deer Press", "Greywater Sailing", "Hollis and Daughter", "Inkwell Evening School", "Juniper Opticians",
	"Kestrel Rise Flats", "Limepit Ceramics"}

// Past fills a store with n finished jobs on simulated computers, as a basis for forecasts. Their figures are
// random but always the same. Like everything in the demonstration, they are marked as simulated.
func Past(ctx context.Context, s *store.Store, n int) error {
	random := rand.New(rand.NewPCG(31, 60))
	for i := range n {
		kind := earlier[i%len(earlier)]
		ago := time.Duration(n-i) * 5 * 24 * time.Hour
		d := desk.New(s, desk.Options{Clock: bench.NewClock(-ago - 10*24*time.Hour)})
		if err := finished(ctx, d, fmt.Sprintf("%s, no. %d", names[i%len(names)], i/len(names)+1), kind.computer,
			kind.tests,
			random); err != nil {
			return fmt.Errorf("the made-up earlier job %d: %w", i+1, err)
		}
	}
	if n == 0 {
		return nil
	}
	return quoted(ctx, desk.New(s, desk.Options{Clock: bench.NewClock(-time.Hour)}))
}

// prices are the made-up shop's price list.
const prices = `kind,maker,model,capacity_gb,price,currency,read_mb_s,write_mb_s
sata-ssd,Brightwater,Kestrel S1 960,960,71.50,EUR,550,500
sata-ssd,Halden,Plover 480,480,46.00,EUR,540,450
`

// quoted is a job that waits for the customer's answer, for a shop with a price list.
func quoted(ctx context.Context, d *desk.Desk) error {
	if _, err := d.Forecasts.SetPrices(ctx, nil, []byte(prices)); err != nil {
		return fmt.Errorf("the made-up price list: %w", err)
	}
	v, err := d.Visits.Open(ctx, nil, visit.Intake{Quoted: true, Customer: bench.Customer{Name: "Harbour Light Museum"},
		Reasons: []visit.Reason{{What: job.ReasonSlowStart}}, Simulated: "laptop"})
	if err != nil {
		return fmt.Errorf("the made-up quote: %w", err)
	}
	until := d.Jobs.Now().Add(30 * 24 * time.Hour).Format(time.DateOnly)
	_, err = d.Visits.SetQuote(ctx, nil, v.ID, visit.QuoteChange{Until: &until})
	return err
}

func finished(ctx context.Context, d *desk.Desk, customer, computer string, tests []brought, random *rand.Rand) error {
	v, err := d.Visits.Open(ctx, nil, visit.Intake{Customer: bench.Customer{Name: customer}, Simulated: computer,
		Reasons: []visit.Reason{{What: job.ReasonSlowStart, Outcome: job.Solved}}, Relation: job.JoinsReplacing})
	if err != nil {
		return err
	}
	_, err = d.Jobs.Change(ctx, nil, v.ID, func(j *job.Job) error {
		j.Tests = nil
		for _, b := range tests {
			j.Tests = append(j.Tests, catalogue.Tests(0, 0, b.test)...)
		}
		now := d.Jobs.Now()
		mains := job.Conditions{Power: "mains", PowerMode: "normal", Busy: []job.Busy{}}
		j.Sittings = []job.Sitting{{ID: "s1", Setup: "then", Started: now, Conditions: mains},
			{ID: "s2", Setup: "now", Started: now.Add(3 * time.Hour), Conditions: mains}}
		for _, b := range tests {
			t := j.Test(b.test)
			before := b.before * math.Exp(0.1*random.NormFloat64())
			factor := b.factor * math.Exp(b.spread*random.NormFloat64())
			after := before / factor
			if t.Better == job.Higher {
				after = before * factor
			}
			for side, value := range []float64{before, after} {
				for n := range catalogue.WantedRuns {
					j.Runs = append(j.Runs, run(t, j.Sittings[side], n, value*math.Exp(0.012*random.NormFloat64())))
				}
			}
		}
		for i, gate := range []job.GateName{job.GateOldDriveOut, job.GateCaseClosed, job.GateMeasured, job.GateReport,
			job.GateHandedBack} {
			g := job.Gate{Name: gate, At: now.Add(time.Duration(i+4) * time.Hour)}
			if gate == job.GateHandedBack {
				g.OldDrive = "returned"
			}
			j.Head.Gates = append(j.Head.Gates, g)
		}
		return nil
	})
	return err
}

// run is one run of a test with its value; a start is split into its phases.
func run(t *job.Test, s job.Sitting, n int, value float64) job.Run {
	r := job.Run{ID: bench.NewID(), Test: t.ID, Sitting: s.ID, Method: job.Automatic, Value: value, Warmth: t.Warmth,
		StartKind: t.StartKind, At: s.Started.Add(time.Duration(n) * 10 * time.Minute), Simulated: true}
	if len(t.Phases) == 3 {
		r.Phases = map[string]float64{t.Phases[0].ID: 0.4 * value, t.Phases[1].ID: 6, t.Phases[2].ID: value - 0.4*value}
	}
	return r
}
