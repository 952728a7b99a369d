// Package match finds the drive and the setup of a job that belong to a computer's facts, what
// they contradict and what they fill in.
//
// It is pure.
package match

import (
	"cmp"
	"fmt"
	"math"
	"slices"
	"strings"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// UnderTest is the drive of a computer, as it is now, that a setup's drive is: the one whose
// digest the setup's has; else, of those that aren't known to be another drive of the job, the one that the system
// started from, or the only one that is no stick. It is nil where that cannot be told.
func UnderTest(f *hardware.Facts, j *job.Job, setup *job.Setup) *hardware.Drive {
	if want := j.Drive(setup.Drive).SerialDigest; want != "" {
		for i := range f.Drives {
			if f.Drives[i].SerialDigest == want {
				return &f.Drives[i]
			}
		}
		return nil
	}
	other := map[string]bool{} // digests of the job's other drives
	for _, d := range j.Drives {
		other[d.SerialDigest] = d.SerialDigest != "" && d.ID != setup.Drive
	}
	return f.MainDrive(func(d *hardware.Drive) bool { return !other[d.SerialDigest] })
}

// Mounts are where the drives of a job's setups are mounted in a computer, as it is now, by setup: of the setup that
// it is in, and of those whose drives it is known to have. A round measures any of them.
func Mounts(f *hardware.Facts, j *job.Job) map[string]string {
	in := SetupOf(f, j)
	mounts := map[string]string{}
	for i := range j.Setups {
		s := &j.Setups[i]
		if in != s && j.Drive(s.Drive).SerialDigest == "" {
			continue
		}
		if d := UnderTest(f, j, s); d != nil {
			if m := f.MountOf(d.ID); m != "" {
				mounts[s.ID] = m
			}
		}
	}
	return mounts
}

// Holds reports whether a folder can lie on the drive of a setup: not where it is known to lie on another one.
func Holds(f *hardware.Facts, j *job.Job, setup *job.Setup, dir string) bool {
	v, d := f.VolumeOf(dir), UnderTest(f, j, setup)
	if v == nil || v.Drive == "" || d == nil {
		return true
	}
	return v.Drive == d.ID || v.Combined != nil &&
		slices.ContainsFunc(v.Combined.Members, func(m hardware.Member) bool { return m.Drive == d.ID })
}

// joined is the setup of the drive that joined the old one last, where both are in the computer;
// nil where there is none.
func joined(f *hardware.Facts, j *job.Job) *job.Setup {
	if j.Gate(job.GateOldDriveOut) == nil {
		return nil
	}
	for i := range slices.Backward(j.Setups) {
		s := &j.Setups[i]
		if how, _ := s.Joins(); how != job.JoinsBeside {
			continue
		}
		if d := UnderTest(f, j, s); d != nil && SameSize(j.Drive(s.Drive).CapacityBytes, d.CapacityBytes) {
			return s
		}
	}
	return nil
}

// SetupOf proposes the setup of a job that a computer is in now: that of a drive which was added and is in it; else by
// the drive that it started from; nil where none fits. A drive that no setup knows yet is that of the first
// setup whose drive was not seen yet, Then's only while the old drive has not come out.
func SetupOf(f *hardware.Facts, j *job.Job) *job.Setup {
	if s := joined(f, j); s != nil {
		return s
	}
	at := f.SystemDrive()
	known := func(digest string) *job.Setup {
		for i := range j.Setups {
			if s := &j.Setups[i]; digest != "" && j.Drive(s.Drive).SerialDigest == digest {
				return s
			}
		}
		return nil
	}
	if at != nil {
		if s := known(at.SerialDigest); s != nil {
			return s
		}
	} else {
		for _, d := range f.Drives {
			if s := known(d.SerialDigest); s != nil {
				return s
			}
		}
	}
	if at == nil {
		at = &hardware.Drive{}
	}
	var free []*job.Setup
	for i := range j.Setups {
		s := &j.Setups[i]
		if j.Drive(s.Drive).SerialDigest != "" || s.Role == job.Then && j.Gate(job.GateOldDriveOut) != nil {
			continue
		}
		free = append(free, s)
	}
	for _, s := range free { // a label that says the same before one that says nothing
		d := j.Drive(s.Drive)
		if at.Model != "" && strings.EqualFold(d.Model, at.Model) || at.CapacityBytes > 0 &&
			d.CapacityBytes == at.CapacityBytes {
			return s
		}
	}
	if len(free) > 0 {
		return free[0]
	}
	return nil
}

// Contradiction is something that was entered for a setup and that the probe sees differently.
type Contradiction struct {
	What  string `json:"what"`
	Noted string `json:"noted"`
	Seen  string `json:"seen"`
}

// sameSize is how far a capacity that was read off a label may lie from the one that the
// drive tells, as a share: labels round, and some count in powers of two.
const sameSize = 0.08

// SameSize reports whether two capacities, bytes, can be those of one drive, as its label and as
// itself tells them; one that is not
// known, 0, can be any.
func SameSize(noted, seen int64) bool {
	return noted <= 0 || seen <= 0 || math.Abs(float64(noted-seen)) <= sameSize*float64(max(noted, seen))
}

// Contradictions are what was noted of a setup's computer and drive and is seen otherwise,
// in the order of the docket.
func Contradictions(f *hardware.Facts, j *job.Job, setup *job.Setup) []Contradiction {
	var list []Contradiction
	text := func(what, noted, seen string) {
		n, s := strings.ToLower(strings.TrimSpace(noted)), strings.ToLower(strings.TrimSpace(seen))
		if n != "" && s != "" && !strings.Contains(n, s) && !strings.Contains(s, n) {
			list = append(list, Contradiction{what, noted, seen})
		}
	}
	size := func(what string, noted, seen int64, unit float64, name string) {
		if !SameSize(noted, seen) {
			list = append(list, Contradiction{what, fmt.Sprintf("%.4g %s", float64(noted)/unit, name),
				fmt.Sprintf("%.4g %s", float64(seen)/unit, name)})
		}
	}
	c := j.Computer(setup.Computer)
	fitted := *c
	if p := setup.Fitted; p != nil && p.MemoryBytes > 0 {
		fitted.MemoryBytes = p.MemoryBytes
	}
	text("computer", strings.TrimSpace(c.Maker+" "+c.Model), strings.TrimSpace(f.Computer.Maker+" "+f.Computer.Model))
	size("memory", fitted.MemoryBytes, f.Computer.MemoryBytes, 1<<30, "GiB")
	d, at := j.Drive(setup.Drive), UnderTest(f, j, setup)
	if at == nil {
		return list
	}
	text("drive", strings.TrimSpace(d.Maker+" "+d.Model), strings.TrimSpace(at.Maker+" "+at.Model))
	text("kind of drive", string(d.Kind), string(at.Kind))
	size("capacity", d.CapacityBytes, at.CapacityBytes, 1e9, "GB")
	if a := at.Attached; a != nil && setup.Attached.LinkMBs > 0 && a.LinkMBs > 0 &&
		math.Abs(a.LinkMBs-setup.Attached.LinkMBs) > sameSize*setup.Attached.LinkMBs {
		list = append(list, Contradiction{"link", fmt.Sprintf("%.4g MB/s", setup.Attached.LinkMBs),
			fmt.Sprintf("%.4g MB/s", a.LinkMBs)})
	}
	return list
}

// FillIn notes on a setup, its computer and its drive what the facts contain and nobody has
// noted yet. What somebody typed stays.
func FillIn(f *hardware.Facts, j *job.Job, setup *job.Setup) {
	text := func(at *string, seen string) {
		if *at == "" {
			*at = strings.TrimSpace(seen)
		}
	}
	size := func(at *int64, seen int64) {
		if *at == 0 {
			*at = seen
		}
	}
	c := j.Computer(setup.Computer)
	text(&c.Maker, f.Computer.Maker)
	text(&c.Model, f.Computer.Model)
	text(&c.Processor, f.Computer.Processor)
	text(&c.Graphics, f.Computer.Graphics)
	size(&c.MemoryBytes, f.Computer.MemoryBytes)
	system := strings.TrimSpace(f.System.Name + " " + f.System.Version)
	text(&c.System, system)
	if read := strings.TrimSpace(system + " " + f.System.Build); read != "" &&
		(setup.System.Version == "" || setup.System.Source == job.Stated) {
		setup.System.Version, setup.System.Source = read, job.ProbeSaid
	}
	d, at := j.Drive(setup.Drive), UnderTest(f, j, setup)
	if at == nil {
		return
	}
	d.Kind = cmp.Or(d.Kind, at.Kind)
	text(&d.Maker, at.Maker)
	text(&d.Model, at.Model)
	text(&d.SerialDigest, at.SerialDigest)
	size(&d.CapacityBytes, at.CapacityBytes)
	if d.RPM == 0 {
		d.RPM = at.RPM
	}
	if at.MaxTempC != nil {
		if d.Rated == nil {
			d.Rated = &job.Rated{}
		}
		if d.Rated.MaxTempC == 0 {
			d.Rated.MaxTempC = *at.MaxTempC
		}
	}
	setup.Found(at.Attached, at.Link)
	if setup.UsedBytes == 0 {
		for _, v := range f.Volumes {
			if v.Drive == at.ID {
				setup.UsedBytes += v.UsedBytes
			}
		}
	}
}

// Instead notes what the facts contain of a setup, its computer and its drive where something else was noted.
func Instead(f *hardware.Facts, j *job.Job, setup *job.Setup) {
	c, d := j.Computer(setup.Computer), j.Drive(setup.Drive)
	for _, differs := range Contradictions(f, j, setup) {
		switch differs.What {
		case "computer":
			c.Maker, c.Model = "", ""
		case "memory":
			c.MemoryBytes = 0
			if setup.Fitted != nil {
				setup.Fitted.MemoryBytes = 0
			}
		case "drive":
			d.Maker, d.Model = "", ""
		case "kind of drive":
			d.Kind = ""
		case "capacity":
			d.CapacityBytes = 0
		case "link":
			setup.Attached = job.Attached{}
		}
	}
	FillIn(f, j, setup)
}

// HealthNow is what the drive of a setup says of its own, nil where it says nothing.
func HealthNow(f *hardware.Facts, j *job.Job, setup *job.Setup) *job.Health {
	d := UnderTest(f, j, setup)
	if d == nil || d.Health == nil {
		return nil
	}
	h := &job.Health{PowerOnHours: d.Health.PowerOnHours, Reallocated: d.Health.Reallocated,
		Pending: d.Health.Pending, WearPct: d.Health.WearPct}
	if h.PowerOnHours == nil && h.Reallocated == nil && h.Pending == nil && h.WearPct == nil {
		return nil
	}
	return h
}

// Follow lets the link of a setup follow what the probe sees, where it was noted as an earlier
// look, before, told it and nothing that
// is kept was measured over it: another cable or slot fixes it. What somebody typed stays, and so
// does what figures were measured over.
// It reports whether anything has changed.
func Follow(f *hardware.Facts, before *hardware.Facts, j *job.Job, setup *job.Setup) (changed bool) {
	was, is := UnderTest(before, j, setup), UnderTest(f, j, setup)
	if was == nil || is == nil {
		return false
	}
	for i := range j.Runs {
		if s := j.Sitting(j.Runs[i].Sitting); j.Runs[i].Kept() && s != nil && s.Setup == setup.ID {
			return false
		}
	}
	same := func(a, b *job.Attached) bool {
		return a.Port == b.Port && a.LinkMBs == b.LinkMBs && a.CapableMBs == b.CapableMBs
	}
	if at := &setup.Attached; was.Attached != nil && is.Attached != nil && same(was.Attached, at) &&
		!same(is.Attached, at) {
		at.Port, at.LinkMBs, at.CapableMBs, changed = is.Attached.Port, is.Attached.LinkMBs, is.Attached.CapableMBs,
			true
	}
	named := func(a, b *job.Link) bool {
		return a.Kind == b.Kind && a.Negotiated == b.Negotiated && a.Drive == b.Drive && a.Port == b.Port
	}
	if l := setup.Link; l != nil && was.Link != nil && is.Link != nil && named(was.Link, l) && !named(is.Link, l) {
		now := *is.Link
		now.Source, now.Stated = l.Source, l.Stated
		setup.Link, changed = &now, true
	}
	return changed
}
