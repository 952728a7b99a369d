package bench

import (
	"context"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"

	"nowthen/core/catalogue"
	"nowthen/core/drivetest"
	"nowthen/core/job"
	"nowthen/core/plan"
	"nowthen/sim"
)

// Intake is what is asked when a computer comes in. Only the old drive's kind
// and one of customer and computer are needed; the rest can come later.
type Intake struct {
	Customer job.Customer `json:"customer"`
	Reason   string       `json:"reason"`
	Computer job.Computer `json:"computer"`
	OldDrive job.Drive    `json:"old_drive"`
	NewDrive *job.Drive   `json:"new_drive"`
	// Simulated names a simulated computer that stands in for computer and
	// drives, whatever else is said of them.
	Simulated string `json:"simulated"`
	// TestFileBytes and TestSeconds bound the drive tests; 0 is the usual.
	TestFileBytes int64   `json:"test_file_bytes"`
	TestSeconds   float64 `json:"test_seconds"`
	// Template is what the plan is made from; "" is the plain one. Answers are
	// those to its questions, by their ids.
	Template string             `json:"template"`
	Answers  map[string]float64 `json:"answers"`
}

// Open opens a new job.
func (b *Bench) Open(ctx context.Context, in Intake) (*View, error) {
	if in.Simulated != "" {
		c, ok := sim.Computers[in.Simulated]
		if !ok {
			return nil, invalid("There is no simulated computer %q; there are %s.", in.Simulated, strings.Join(slices.Sorted(maps.Keys(sim.Computers)), " and "))
		}
		in.Computer, in.OldDrive, in.NewDrive = c.Label, simDrive(c.Old), new(job.Drive)
		*in.NewDrive = simDrive(c.New)
	} else {
		// The mark cannot be put on or taken off from outside.
		in.Computer.Simulated, in.OldDrive.Simulated = "", ""
		if in.NewDrive != nil {
			in.NewDrive.Simulated = ""
		}
	}
	in.Customer.Name = strings.TrimSpace(in.Customer.Name)
	f := fields{}
	f.check(in.Customer.Name != "" || strings.TrimSpace(in.Computer.Maker+in.Computer.Model) != "", "customer.name",
		"Give the customer's name or the computer, so that the job can be told from others.")
	checkText(f, "customer.name", in.Customer.Name)
	checkText(f, "customer.contact", in.Customer.Contact)
	checkText(f, "reason", in.Reason)
	checkComputer(f, in.Computer)
	checkDrive(f, "old_drive", in.OldDrive)
	if in.NewDrive != nil {
		checkDrive(f, "new_drive", *in.NewDrive)
	}
	f.check(in.TestFileBytes == 0 || in.TestFileBytes >= 16<<20 && in.TestFileBytes <= 64<<30 && in.TestFileBytes%(1<<20) == 0,
		"test_file_bytes", "The test file is between 16 MiB and 64 GiB, in whole MiB.")
	f.check(in.TestSeconds == 0 || in.TestSeconds >= 0.2 && in.TestSeconds <= drivetest.MaxSeconds,
		"test_seconds", fmt.Sprintf("A drive test lasts between 0.2 and %d seconds.", drivetest.MaxSeconds))
	if err := f.refusal(); err != nil {
		return nil, err
	}
	if in.Template == "" {
		in.Template = plan.DefaultTemplate
	}
	template, err := b.template(ctx, in.Template)
	if err != nil {
		return nil, err
	}
	number, err := b.nextNumber(ctx)
	if err != nil {
		return nil, err
	}
	j := &job.Job{
		Head:     job.Head{Number: number, Opened: b.now(), Reason: strings.TrimSpace(in.Reason), Customer: in.Customer},
		Sittings: []job.Sitting{}, Runs: []job.Run{},
	}
	in.Computer.ID, in.OldDrive.ID = "c1", "d1"
	j.Computers = []job.Computer{in.Computer}
	j.Drives = []job.Drive{in.OldDrive}
	j.Setups = []job.Setup{{ID: "then", Role: job.Then, Computer: "c1", Drive: "d1", Attached: attachedAs(in.OldDrive),
		System: job.System{Origin: "as-arrived", Version: in.Computer.System}}}
	if in.NewDrive != nil {
		fit(j, *in.NewDrive)
	}
	plan.Apply(j, template, in.TestFileBytes, in.TestSeconds)
	if err := answer(j, in.Answers); err != nil {
		return nil, err
	}
	plan.Use(j)
	id := newID()
	if err := b.store.Add(ctx, id, j); err != nil {
		return nil, err
	}
	b.hub.tell(Event{Type: "job", Job: id})
	return b.view(id, j), nil
}

// simDrive is what stands on the label of a simulated drive.
func simDrive(name string) job.Drive {
	d, err := sim.Open(name, 0)
	if err != nil {
		panic(err) // the names are this program's own
	}
	return d.Spec().Label
}

// attachedAs says how a simulated drive hangs on its computer; of a real one
// it is not known.
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

// fit gives a job its Now setup, with a new drive in the place of Then's.
func fit(j *job.Job, d job.Drive) {
	d.ID = freeID("d", len(j.Drives), func(id string) bool { return j.Drive(id) != nil })
	j.Drives = append(j.Drives, d)
	then := j.SetupAs(job.Then)
	j.Setups = append(j.Setups, job.Setup{ID: "now", Role: job.Now, Computer: then.Computer, Drive: d.ID, Replaces: then.Drive,
		Attached: attachedAs(d), System: job.System{Origin: "cloned", Version: then.System.Version}})
}

func freeID(prefix string, n int, taken func(string) bool) string {
	for {
		n++
		if id := fmt.Sprintf("%s%d", prefix, n); !taken(id) {
			return id
		}
	}
}

// nextNumber gives the job the year's next number.
func (b *Bench) nextNumber(ctx context.Context) (string, error) {
	year := b.now().Format("2006-")
	numbers, err := b.store.Numbers(ctx, year)
	if err != nil {
		return "", err
	}
	last := 0
	for _, n := range numbers {
		var k int
		if _, err := fmt.Sscanf(strings.TrimPrefix(n, year), "%d", &k); err == nil {
			last = max(last, k)
		}
	}
	return fmt.Sprintf("%s%04d", year, last+1), nil
}

const maxText = 500

func checkText(f fields, field, s string) {
	f.check(len([]rune(s)) <= maxText, field, fmt.Sprintf("That is longer than %d characters.", maxText))
}

func checkComputer(f fields, c job.Computer) {
	checkText(f, "computer.maker", c.Maker)
	checkText(f, "computer.model", c.Model)
	checkText(f, "computer.processor", c.Processor)
	checkText(f, "computer.system", c.System)
	f.check(c.MemoryBytes >= 0, "computer.memory_bytes", "Memory cannot be negative.")
	f.check(c.MemoryBytes <= 64<<40, "computer.memory_bytes", "That is more memory than a computer has; give it in GiB.")
}

var (
	amounts    = regexp.MustCompile(`^[0-9]{1,9}([.][0-9]{1,2})?$`)
	currencies = regexp.MustCompile(`^[A-Z]{3}$`)
)

func checkDrive(f fields, at string, d job.Drive) {
	f.check(slices.Contains(job.DriveKinds, d.Kind), at+".kind", "Say what kind of drive it is.")
	checkText(f, at+".maker", d.Maker)
	checkText(f, at+".model", d.Model)
	checkText(f, at+".interface", d.Interface)
	f.check(d.CapacityBytes >= 0, at+".capacity_bytes", "The capacity cannot be negative.")
	f.check(d.CapacityBytes == 0 || d.CapacityBytes >= 1e9 && d.CapacityBytes <= 1e15, at+".capacity_bytes",
		"A drive has between 1 GB and 1000 TB; check the unit.")
	f.check(d.RPM >= 0 && d.RPM <= 20000, at+".rpm", "A disk turns at most 20 000 times a minute.")
	if r := d.Rated; r != nil {
		f.check(r.ReadMBs >= 0 && r.WriteMBs >= 0, at+".rated", "A rated rate cannot be negative.")
		f.check(r.ReadMBs <= 100_000 && r.WriteMBs <= 100_000, at+".rated", "No drive is rated above 100 000 MB/s; check the unit (MB/s, not Mbit/s).")
		f.check(r.MaxTempC >= 0 && r.MaxTempC <= 150, at+".rated", "The temperature limit lies between 0 and 150 °C.")
	}
	if p := d.Price; p != nil {
		f.check(amounts.MatchString(p.Amount), at+".price", "Give the price as an amount such as 64.00.")
		f.check(currencies.MatchString(p.Currency), at+".price", "Give the currency with its three letters, such as EUR.")
	}
}

// Change is what of a job's intake can be changed later; nil leaves a part as
// it is.
type Change struct {
	Customer *job.Customer `json:"customer"`
	Reason   *string       `json:"reason"`
	Computer *job.Computer `json:"computer"`
	OldDrive *job.Drive    `json:"old_drive"`
	NewDrive *job.Drive    `json:"new_drive"`
	// Origin says how the system came onto the new drive.
	Origin *string `json:"origin"`
	// TestFileBytes and TestSeconds are those of the drive tests, until the first is run.
	TestFileBytes *int64   `json:"test_file_bytes"`
	TestSeconds   *float64 `json:"test_seconds"`
}

var origins = []string{"as-arrived", "cloned", "fresh", "restored"}

// Amend changes a job's intake.
func (b *Bench) Amend(ctx context.Context, id string, c Change) (*View, error) {
	return b.update(ctx, id, func(j *job.Job) error {
		f := fields{}
		if c.Customer != nil {
			checkText(f, "customer.name", c.Customer.Name)
			checkText(f, "customer.contact", c.Customer.Contact)
			c.Customer.Unknown = j.Head.Customer.Unknown
			j.Head.Customer = *c.Customer
		}
		if c.Reason != nil {
			checkText(f, "reason", *c.Reason)
			j.Head.Reason = strings.TrimSpace(*c.Reason)
		}
		if c.Computer != nil && len(j.Computers) > 0 {
			checkComputer(f, *c.Computer)
			old := j.Computers[0]
			c.Computer.ID, c.Computer.Simulated, c.Computer.Unknown = old.ID, old.Simulated, old.Unknown
			j.Computers[0] = *c.Computer
		}
		if then := j.SetupAs(job.Then); c.OldDrive != nil && then != nil {
			checkDrive(f, "old_drive", *c.OldDrive)
			replaceDrive(j.Drive(then.Drive), *c.OldDrive)
		}
		now := j.SetupAs(job.Now)
		if c.NewDrive != nil {
			checkDrive(f, "new_drive", *c.NewDrive)
			switch {
			case now != nil:
				replaceDrive(j.Drive(now.Drive), *c.NewDrive)
			case j.SetupAs(job.Then) == nil:
				f.check(false, "new_drive", "The job has no Then setup that a new drive could follow.")
			default:
				c.NewDrive.Simulated = ""
				fit(j, *c.NewDrive)
			}
		}
		if c.Origin != nil {
			f.check(slices.Contains(origins, *c.Origin), "origin", "The system came as-arrived, cloned, fresh or restored.")
			f.check(now != nil, "origin", "Say first which drive goes in.")
			if now != nil {
				now.System.Origin = *c.Origin
			}
		}
		if c.TestFileBytes != nil || c.TestSeconds != nil {
			if err := bound(j, f, c.TestFileBytes, c.TestSeconds); err != nil {
				return err
			}
		}
		return f.refusal()
	})
}

// replaceDrive puts what is said of a drive in the place of what was, and
// keeps its identity and its mark.
func replaceDrive(old *job.Drive, d job.Drive) {
	d.ID, d.Simulated, d.Unknown = old.ID, old.Simulated, old.Unknown
	*old = d
}

// bound changes the size and time of the drive tests, which is only fair while
// none of them has run.
func bound(j *job.Job, f fields, bytes *int64, seconds *float64) error {
	for i := range j.Tests {
		t := &j.Tests[i]
		if !catalogue.Usual(t) {
			continue
		}
		if slices.ContainsFunc(j.Runs, func(r job.Run) bool { return r.Test == t.ID }) {
			return &Refusal{Kind: Conflict, Message: t.Name + " has been run already; with another size or time its runs could not be compared.",
				Kept: "The plan and all runs are as they were.", Do: "Measure on with the plan as it is."}
		}
		span, lasts := int64(0), 0.0
		if bytes != nil {
			span = *bytes
			f.check(span >= 16<<20 && span <= 64<<30 && span%(1<<20) == 0, "test_file_bytes", "The test file is between 16 MiB and 64 GiB, in whole MiB.")
		}
		if seconds != nil {
			lasts = *seconds
			f.check(lasts >= 0.2 && lasts <= drivetest.MaxSeconds, "test_seconds", fmt.Sprintf("A drive test lasts between 0.2 and %d seconds.", drivetest.MaxSeconds))
		}
		*t = catalogue.Bounded(*t, span, lasts)
	}
	return nil
}
