package plan

import (
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// Budget is the cost of the rest of a plan on one setup.
type Budget struct {
	Setup string `json:"setup"`
	// HandsMinutes need a person; WaitMinutes pass by themselves.
	HandsMinutes float64 `json:"hands_minutes"`
	WaitMinutes  float64 `json:"wait_minutes"`
	// WriteBytes is at most written to the drive.
	WriteBytes int64 `json:"write_bytes"`
	// EndurancePct is WriteBytes as a share of the drive's rated endurance, %;
	// nil where none is known.
	EndurancePct *float64 `json:"endurance_pct"`
	Needs        []string `json:"needs"`
	// Starts is how often the computer has to be started for it; tests that follow one another share one.
	Starts int `json:"starts"`
}

// usualMBs is what a drive of a kind writes at most, where its label says nothing.
var usualMBs = map[job.DriveKind]float64{job.HDD: 200, job.SataSSD: 550, job.NVMe: 7000, job.EMMC: 300, job.Hybrid: 200,
	job.Cached: 500, job.USBFlash: 400}

// writeRate is what a drive writes at most, MB/s: what its label says, else what
// its kind does. A drive of which neither is known is taken for a hard disk, which
// takes longest of those that are opened in a workshop.
func writeRate(d *job.Drive) float64 {
	if d != nil && d.Rated != nil && d.Rated.WriteMBs > 0 {
		return d.Rated.WriteMBs
	}
	if d != nil && slices.Contains(job.DriveKinds, d.Kind) {
		return usualMBs[d.Kind]
	}
	return usualMBs[job.HDD]
}

// quickness is how long waits are on a kind of drive, relative to a hard disk.
func quickness(d *job.Drive) float64 {
	if d != nil && (d.Kind == job.SataSSD || d.Kind == job.NVMe) {
		return 0.5
	}
	return 1
}

// perRun is about how many minutes one run of a test that is not a drive test
// takes on a drive.
func perRun(t *job.Test, d *job.Drive) float64 {
	e := catalogue.EffortOf(t)
	if t.Kind == job.Note {
		return e.Hands
	}
	return (e.Hands + e.Wait) * quickness(d)
}

// Minutes is about how long runs of a test take on a drive.
func Minutes(t *job.Test, d *job.Drive, runs int) float64 {
	if t.Automatic() {
		return itselfMinutes(t, d, runs)
	}
	return perRun(t, d) * float64(runs)
}

// itselfMinutes is about how long runs of a test take that the program runs by
// itself: a drive test as long as its bounds say, others what they usually do.
func itselfMinutes(t *job.Test, d *job.Drive, runs int) float64 {
	if t.Params != nil {
		return float64(runs) * t.Params.Seconds() / 60
	}
	return float64(runs) * catalogue.EffortOf(t).Wait * quickness(d)
}

// Budget computes the cost of the missing runs on a setup: hands-on and unattended time, bytes written, and
// what is needed.
func (st *Standing) Budget(setup *job.Setup) Budget {
	b := Budget{Setup: setup.ID, Needs: []string{}}
	need := func(what ...string) {
		for _, n := range what {
			if !slices.Contains(b.Needs, n) {
				b.Needs = append(b.Needs, n)
			}
		}
	}
	d := st.Drive(setup.Drive)
	rate := writeRate(d)
	var span int64
	starts := map[string]int{} // by the test that comes first after one
	for _, c := range st.Coverage(setup.ID) {
		t := st.Test(c.Test)
		n := c.Missing()
		if n == 0 {
			continue
		}
		if t.Params != nil {
			b.WaitMinutes += itselfMinutes(t, d, n)
			b.WriteBytes += int64(n) * c.RunWrites
			if !t.Params.OwnFile() {
				span = max(span, t.Params.SpanBytes)
			}
			continue
		}
		if t.Kind == job.Timed && t.Warmth == job.Cold {
			first := st.First(t)
			starts[first] = max(starts[first], n)
		}
		e := catalogue.EffortOf(t)
		q := quickness(d)
		if t.Kind == job.Note {
			q = 1
		}
		b.HandsMinutes += e.Hands * q * float64(n)
		b.WaitMinutes += e.Wait * q * float64(n)
		b.WriteBytes += (e.WriteBytes + c.RunWrites) * int64(n)
		need(e.Needs...)
	}
	for _, n := range starts {
		b.Starts += n
	}
	b.WriteBytes += span // laid out once
	b.WaitMinutes += float64(span) / (rate * 1e6) / 60
	if s := st.Step("charger"); s != nil && s.Done == nil {
		need("the charger")
	}
	if setup.Role == job.Then && st.Gate(job.GateOldDriveOut) == nil {
		need(st.Plan.Needs...)
	}
	if d != nil && d.Rated != nil && d.Rated.EnduranceTB > 0 {
		pct := float64(b.WriteBytes) / (d.Rated.EnduranceTB * 1e12) * 100
		b.EndurancePct = &pct
	}
	return b
}
