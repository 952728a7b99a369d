package visit

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/bench/planning"
	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/core/words"
	"nowthen/sim"
)

// Intake is what is asked when a computer arrives. Only the old drive's kind
// and one of customer and computer are needed; the rest can come later.
type Intake struct {
	// Kind is what the visit is for: upgrade, comparison or check-up; "" is an upgrade.
	Kind     job.JobKind    `json:"kind"`
	Customer bench.Customer `json:"customer"`
	Reason   string         `json:"reason"`
	Reasons  []Reason       `json:"reasons"`
	Computer bench.Computer `json:"computer"`
	OldDrive bench.Drive    `json:"old_drive"`
	NewDrive *bench.Drive   `json:"new_drive"`
	// Relation is how the new drive joins the computer; "" is unknown.
	Relation job.Relation `json:"relation"`
	// Quoted opens it as a quote: no work before it is accepted.
	Quoted bool `json:"quoted"`
	// Simulated names a simulated computer that stands in for computer and
	// drives, whatever else is said of them.
	Simulated string `json:"simulated"`
	// TestFileBytes and TestSeconds are the size and time of drive tests; 0 is the default.
	TestFileBytes int64   `json:"test_file_bytes"`
	TestSeconds   float64 `json:"test_seconds"`
	// Template is the plan's template; "" is the default. Answers are the answers to its questions, by id.
	Template string             `json:"template"`
	Answers  map[string]float64 `json:"answers"`
}

// Open opens a new job. Its number is given with it, so that no two have the same.
func (x *Visits) Open(ctx context.Context, ch *bench.Change, in Intake) (*bench.View, error) {
	computer, oldDrive := in.Computer.Job(), x.priced(in.OldDrive)
	var newDrive *job.Drive
	if in.NewDrive != nil {
		newDrive = new(job.Drive)
		*newDrive = x.priced(*in.NewDrive)
	}
	f := bench.Fields{}
	if in.Simulated != "" {
		c, ok := sim.Computers[in.Simulated]
		if !ok {
			return nil, bench.Refuse(bench.Invalid, "There is no simulated computer %q; there are %s.", in.Simulated,
				strings.Join(slices.Sorted(maps.Keys(sim.Computers)), " and "))
		}
		computer, oldDrive, newDrive = c.Label, simDrive(c.Old), new(job.Drive)
		*newDrive = simDrive(c.New)
	} else {
		f.Input("computer", in.Computer)
		f.Input("old_drive", in.OldDrive)
		if in.NewDrive != nil {
			f.Input("new_drive", *in.NewDrive)
		}
	}
	customer := in.Customer.Job()
	f.Check(customer.Name != "" || strings.TrimSpace(computer.Maker+computer.Model) != "", "customer.name",
		"Enter the customer’s name or the computer.")
	f.Input("customer", in.Customer)
	f.Text("reason", in.Reason)
	reasons := reasonsOf(f, in.Reasons)
	f.Check(in.Kind == "" || slices.Contains(job.JobKinds, in.Kind), "kind",
		"A job is an upgrade, a comparison or a check-up.")
	f.Check(in.Kind != job.KindCheckUp || in.NewDrive == nil, "new_drive",
		"A check-up has no new drive. Leave it out, or open an upgrade.")
	f.Check(!in.Quoted || in.Kind == "" || in.Kind == job.KindUpgrade, "quoted", "Only an upgrade is quoted.")
	f.Check(in.Relation == "" || slices.Contains(job.Relations, in.Relation), "relation",
		"Choose whether the drive replaces the old one, is added, caches it, goes back in, or is only tried.")
	f.Check(in.TestFileBytes == 0 || in.TestFileBytes >= 16<<20 && in.TestFileBytes <= 64<<30 &&
		in.TestFileBytes%(1<<20) == 0,
		"test_file_bytes", "The test file’s size is 16 MiB to 64 GiB, in whole MiB.")
	f.Check(in.TestSeconds == 0 || in.TestSeconds >= 0.2 && in.TestSeconds <= drivetest.MaxSeconds,
		"test_seconds", fmt.Sprintf("A drive test takes 0.2 to %d seconds.", drivetest.MaxSeconds))
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	if in.Kind == job.KindCheckUp {
		newDrive = nil // of a simulated computer, too
	}
	if in.Template == "" {
		in.Template = plan.DefaultTemplate
		if slices.ContainsFunc(reasons, func(r job.Reason) bool { return r.What == job.ReasonFailing }) {
			in.Template = plan.FailingTemplate
		}
	}
	template, err := x.plans.Template(ctx, in.Template)
	if err != nil {
		return nil, err
	}
	j := &job.Job{
		Head: job.Head{Kind: in.Kind, Opened: x.jobs.Now(), Reason: strings.TrimSpace(in.Reason), Reasons: reasons,
			Customer: customer},
		Sittings: []job.Sitting{}, Runs: []job.Run{},
	}
	if in.Quoted {
		j.Head.Quote = &job.Quote{}
	}
	computer.ID, oldDrive.ID = "c1", "d1"
	j.Computers = []job.Computer{computer}
	j.Drives = []job.Drive{oldDrive}
	first := job.Setup{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1", Attached: attachedAs(oldDrive),
		System: intakeSystem(computer.System)}
	switch j.Kind() {
	case job.KindCheckUp:
		first.ID, first.Role = "now", job.Now
	case job.KindComparison:
		first.ID, first.Role, first.Name = "trial1", job.Trial, words.English.DriveKind(&oldDrive)
	case job.KindUpgrade:
	}
	j.Setups = []job.Setup{first}
	switch {
	case newDrive == nil:
	case j.Kind() == job.KindComparison:
		compareWith(j, *newDrive, "")
	default:
		fit(j, *newDrive, in.Relation)
	}
	plan.Apply(j, template, in.TestFileBytes, in.TestSeconds)
	if err := planning.AnswerIn(j, in.Answers); err != nil {
		return nil, err
	}
	plan.Use(j)
	return x.jobs.Add(ctx, ch, func(ch *bench.Change) (_ *job.Job, err error) {
		j.Head.Number, err = ch.Tx.NextNumber(ctx, x.jobs.Now().Format("2006-"))
		return j, err
	})
}

// priced returns an entered drive with today as the date of its price.
func (x *Visits) priced(in bench.Drive) job.Drive {
	d := in.Job()
	if d.Price != nil {
		d.Price.At = x.jobs.Now()
	}
	return d
}

// simDrive returns the label of a simulated drive.
func simDrive(name string) job.Drive {
	d, err := sim.Open(name, 0)
	if err != nil {
		panic(err) // the names are this program's own
	}
	return d.Spec().Label
}

// intakeSystem is the system that a computer came with, with the stated version, if any.
func intakeSystem(version string) job.System {
	s := job.System{Origin: job.AsArrived, Version: version}
	if version != "" {
		s.Source = job.Stated
	}
	return s
}

// attachedAs reports how a simulated drive is attached to its computer; unknown for a real one.
func attachedAs(d job.Drive) job.Attached {
	if d.Simulated == "" {
		return job.Attached{}
	}
	s, err := sim.Open(d.Simulated, 0)
	if err != nil {
		return job.Attached{}
	}
	return s.Spec().Attached
}

// fit adds the Now setup with a new drive to a job; relation is how the drive joins, or "".
func fit(j *job.Job, d job.Drive, relation job.Relation) {
	d.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
	j.Drives = append(j.Drives, d)
	then := j.SetupAs(job.Then)
	j.Setups = append(j.Setups,
		job.Setup{ID: "now", Role: job.Now, Fitted: fittedSince(j), Also: slices.Clone(then.Also),
			Computer: then.Computer, Drive: d.ID,
			Attached: attachedAs(d), System: carried(&d, then)})
	join(j, &j.Setups[len(j.Setups)-1], relation)
}

// compareWith gives a comparison another setup, named after its drive where it has no name of its own.
func compareWith(j *job.Job, d job.Drive, name string) {
	if j.Drive(d.ID) == nil {
		d.ID = bench.FreeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
		j.Drives = append(j.Drives, d)
	}
	first := &j.Setups[0]
	if name == "" {
		name = words.English.DriveKind(&d)
		for n := 2; slices.ContainsFunc(j.Setups, func(s job.Setup) bool { return s.Name == name }); n++ {
			name = fmt.Sprintf("%s (%d)", words.English.DriveKind(&d), n)
		}
	}
	j.Setups = append(j.Setups, job.Setup{
		ID: bench.FreeID("trial", len(j.Setups), func(id string) bool { return j.Setup(id) != nil }), Role: job.Trial,
		Name: name, Fitted: fittedSince(j), Also: slices.Clone(first.Also), Computer: first.Computer, Drive: d.ID,
		Attached: attachedAs(d), System: carried(&d, first)})
}

// Change is a later change of a job's intake; nil members stay unchanged.
type Change struct {
	Customer *bench.Customer `json:"customer"`
	Reason   *string         `json:"reason"`
	Reasons  *[]Reason       `json:"reasons"`
	Computer *bench.Computer `json:"computer"`
	OldDrive *bench.Drive    `json:"old_drive"`
	NewDrive *bench.Drive    `json:"new_drive"`
	// Drives are the labels of further drives, by their ids.
	Drives map[string]bench.Drive `json:"drives"`
	// StaysWhy is why the customer keeps that drive.
	StaysWhy *string `json:"stays_why"`
	// Origin reports how the system came onto the new drive.
	Origin *job.Origin `json:"origin"`
	// TestFileBytes and TestSeconds of the drive tests can change until the first is run.
	TestFileBytes *int64   `json:"test_file_bytes"`
	TestSeconds   *float64 `json:"test_seconds"`
}

// Amend changes a job's intake.
func (x *Visits) Amend(ctx context.Context, ch *bench.Change, id string, c Change) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, id, func(j *job.Job) error {
		f := bench.Fields{}
		if c.Customer != nil {
			f.Input("customer", *c.Customer, j.Head.Customer.Name, j.Head.Customer.Contact)
			n := c.Customer.Job()
			n.Unknown = j.Head.Customer.Unknown
			j.Head.Customer = n
		}
		if c.Reason != nil {
			f.Text("reason", *c.Reason)
			j.Head.Reason = strings.TrimSpace(*c.Reason)
		}
		if c.Reasons != nil {
			had := j.HasReason(job.ReasonFailing)
			j.Head.Reasons = reasonsOf(f, *c.Reasons)
			if !had && j.HasReason(job.ReasonFailing) {
				plan.GoGentle(j)
			}
		}
		if c.Computer != nil && len(j.Computers) > 0 {
			n, old := c.Computer.Job(), j.Computers[0]
			f.Input("computer", *c.Computer, old.Maker, old.Model, old.Processor, old.Graphics, old.System)
			n.ID, n.Simulated, n.Unknown = old.ID, old.Simulated, old.Unknown
			j.Computers[0] = n
		}
		named := j.Head.Customer.Name != "" || len(j.Computers) > 0 &&
			strings.TrimSpace(j.Computers[0].Maker+j.Computers[0].Model) != ""
		f.Check(named, "customer.name", "Enter the customer’s name or the computer.")
		if first := firstIn(j); c.OldDrive != nil && first != nil {
			d := j.Drive(first.Drive)
			named := first.Name == words.English.DriveKind(d)
			relabel(f, "old_drive", d, *c.OldDrive, x.jobs.Now())
			if named {
				first.Name = words.English.DriveKind(d)
			}
		}
		now := j.SetupAs(job.Now)
		if c.NewDrive != nil {
			switch {
			case now != nil && j.Kind() != job.KindCheckUp:
				relabel(f, "new_drive", j.Drive(now.Drive), *c.NewDrive, x.jobs.Now())
			case j.Kind() == job.KindCheckUp:
				f.Check(false, "new_drive", "A check-up has no new drive. Leave it out, or open an upgrade.")
			case j.Kind() == job.KindComparison:
				f.Input("new_drive", *c.NewDrive)
				compareWith(j, x.priced(*c.NewDrive), "")
			case j.SetupAs(job.Then) == nil:
				f.Check(false, "new_drive", "The job has no Then setup.")
			default:
				f.Input("new_drive", *c.NewDrive)
				fit(j, x.priced(*c.NewDrive), "")
			}
		}
		for _, id := range slices.Sorted(maps.Keys(c.Drives)) {
			d := j.Drive(id)
			if d == nil {
				f.Check(false, "drives."+id, fmt.Sprintf("There is no drive %q in this job.", id))
				continue
			}
			relabel(f, "drives."+id, d, c.Drives[id], x.jobs.Now())
		}
		if c.StaysWhy != nil {
			f.Text("stays_why", *c.StaysWhy)
			j.Head.StaysWhy = strings.TrimSpace(*c.StaysWhy)
		}
		if c.Origin != nil {
			f.Check(slices.Contains(job.Origins, *c.Origin), "origin",
				"The system’s origin is as-arrived, cloned, fresh or restored.")
			f.Check(now != nil, "origin", "Enter the new drive first.")
			if now != nil {
				now.System.Origin = *c.Origin
			}
		}
		if c.TestFileBytes != nil || c.TestSeconds != nil {
			if err := bound(j, f, c.TestFileBytes, c.TestSeconds); err != nil {
				return err
			}
		}
		return f.Refusal()
	})
}

// firstIn is the setup of the drive that came with the computer: Then, or the first of a comparison or check-up.
func firstIn(j *job.Job) *job.Setup {
	if s := j.SetupAs(job.Then); s != nil || j.Kind() == job.KindUpgrade || len(j.Setups) == 0 {
		return s
	}
	return &j.Setups[0]
}

// relabel checks an entered drive (at is the input's name) and replaces the earlier entry. What was found by
// checks of the drive stays.
func relabel(f bench.Fields, at string, d *job.Drive, in bench.Drive, now time.Time) {
	f.Input(at, in, d.Maker, d.Model, d.Interface)
	label := in.Job().DriveLabel
	if label.Rated != nil && d.Rated != nil {
		label.Rated.Unknown = d.Rated.Unknown
	}
	if p, was := label.Price, d.Price; p != nil {
		p.At = now
		if was != nil {
			p.Unknown = was.Unknown
			if p.Amount == was.Amount && p.Currency == was.Currency {
				p.At = was.At
			}
		}
	}
	d.DriveLabel = label
}

// bound changes the size and time of the drive tests, which is only allowed while none has run.
func bound(j *job.Job, f bench.Fields, bytes *int64, seconds *float64) error {
	for i := range j.Tests {
		t := &j.Tests[i]
		if !catalogue.Usual(t) {
			continue
		}
		if slices.ContainsFunc(j.Runs, func(r job.Run) bool { return r.Test == t.ID }) {
			return &bench.Refusal{Kind: bench.Conflict,
				Message: fmt.Sprintf("%s already has runs. With another size or time you couldn’t compare them.",
					t.Name),
				Kept: "The plan and all runs are unchanged.", Do: "Continue with the plan as it is."}
		}
		span, lasts := int64(0), 0.0
		if bytes != nil {
			span = *bytes
			f.Check(span >= 16<<20 && span <= 64<<30 && span%(1<<20) == 0, "test_file_bytes",
				"The test file’s size is 16 MiB to 64 GiB, in whole MiB.")
		}
		if seconds != nil {
			lasts = *seconds
			f.Check(lasts >= 0.2 && lasts <= drivetest.MaxSeconds, "test_seconds",
				fmt.Sprintf("A drive test takes 0.2 to %d seconds.", drivetest.MaxSeconds))
		}
		*t = catalogue.Bounded(*t, span, lasts)
	}
	return nil
}
