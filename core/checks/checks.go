// Package checks verifies a newly fitted drive: recognised, used for starting the system, at
// full speed, with its full capacity in use.
//
// It is pure and works on a probe's facts of the computer. What they lack is unknown, never fine.
package checks

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware/match"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// States of a check.
const (
	Fine    = job.CheckFine
	Wrong   = job.CheckWrong
	Unknown = job.CheckUnknown
)

// Check is one thing that was checked.
type Check struct {
	ID    string         `json:"id"`
	Title string         `json:"title"`
	State job.CheckState `json:"state"` // fine wrong unknown
	// Found is the actual state, Should the expected one; "" if that goes without saying.
	Found  string `json:"found"`
	Should string `json:"should"`
	// Do is what to do about it, "" if nothing.
	Do string `json:"do"`
	// ByHand: somebody has to look, no probe sees it.
	ByHand bool `json:"by_hand"`
	// Gate is the gate that lists it while it is wrong, "" for none; Rule is the finding of figures measured in
	// that state, "" for none.
	Gate job.GateName `json:"gate"`
	Rule string       `json:"rule"`
	// Fix is what fixed it here, Earlier what fixed it on other computers of the model.
	Fix     string   `json:"fix,omitzero"`
	Earlier []string `json:"earlier,omitempty"`
}

// bearings are what checks bear on, by their ids: before the case is closed what needs hands
// inside, before the computer goes back
// the rest; and the rules of core/fairness that find the same in figures.
var bearings = map[string]struct {
	gate job.GateName
	rule string
}{
	"recognised":   {gate: job.GateCaseClosed},
	"started-from": {gate: job.GateCaseClosed},
	"link":         {gate: job.GateCaseClosed, rule: "port-limit"},
	"disconnected": {gate: job.GateCaseClosed, rule: "attached-devices"},
	"holds":        {gate: job.GateCaseClosed},
	"steady":       {gate: job.GateCaseClosed},
	"temperature":  {gate: job.GateCaseClosed},
	"under-load":   {gate: job.GateCaseClosed},
	"heat":         {gate: job.GateCaseClosed, rule: "heat"},
	"unallocated":  {gate: job.GateHandedBack},
	"aligned":      {gate: job.GateHandedBack},
	"trim":         {gate: job.GateHandedBack},
	"encrypted":    {gate: job.GateHandedBack, rule: "encryption"},
	"new":          {gate: job.GateHandedBack},
	"write-cache":  {gate: job.GateHandedBack},
	"drivers":      {gate: job.GateHandedBack},
	settled:        {rule: "busy"},
}

// bear sets the gate and rule of checks; checks by hand belong to the last gate.
func bear(list []Check) []Check {
	for i := range list {
		c := &list[i]
		b, ok := bearings[c.ID]
		if c.Gate, c.Rule = b.gate, b.rule; !ok {
			c.Gate = job.GateHandedBack
		}
	}
	return list
}

// Limits of the checks.
const (
	sameCapacity = 0.01      // as a share: what a drive says of itself is exact
	lostBytes    = 1 << 30   // unallocated room that is worth using, bytes
	slower       = 0.95      // share of what drive and port can do from which on a link is at full speed
	align        = 4096      // bytes
	newHours     = 24        // power-on hours of a drive that is sold as new
	newBytes     = 500 << 30 // written to a drive that is sold as new
	nearLimit    = 5.0       // °C below the limit
	shortest     = 10        // s: a fall needs 5 s before it and 5 s behind to be told
	lessUsed     = 5e9       // bytes in use fewer than before, after cloning, that are worth a look
	lessShare    = 0.02      // and as a share of what was in use
	missable     = 0.05      // chance of missing a false drive up to which a sample is enough
)

// looker checks one drive of a computer.
type looker struct {
	job    *job.Job
	setup  *job.Setup
	before *hardware.Facts // of the computer with the old drive, or nil
	now    *hardware.Facts
	drive  *hardware.Drive // the one that was put in, or nil
	list   []Check
}

// Of checks a setup's drive by the computer's current facts. before are its facts with the old drive in it, nil
// if there are none.
func Of(j *job.Job, setup *job.Setup, before, now *hardware.Facts) []Check {
	l := &looker{job: j, setup: setup, before: before, now: now, drive: match.UnderTest(now, j, setup)}
	if l.drive == nil {
		l.add("recognised", "The new drive is recognised", Wrong, "no such drive is seen", "",
			"Check cable, power and port; look whether the port is switched off in the firmware, or by another slot.")
		return bear(l.list)
	}
	for _, look := range []func(){l.recognised, l.startedFrom, l.unallocated, l.aligned, l.trims, l.link,
		l.disconnected, l.encrypted, l.used, l.isNew, l.writeCache, l.drivers, l.temperature} {
		look()
	}
	return bear(l.list)
}

// used compares how much is in use with what was on the old drive, where the system was carried over.
func (l *looker) used() {
	then := l.job.SetupAs(job.Then)
	if o := l.setup.System.Origin; l.before == nil || then == nil || o != job.Cloned && o != job.Restored {
		return
	}
	old := match.UnderTest(l.before, l.job, then)
	if old == nil {
		return
	}
	was, is := l.before.UsedOn(old.ID), l.now.UsedOn(l.drive.ID)
	if was == 0 || is == 0 {
		return
	}
	gb := func(n int64) string { return fmt.Sprintf("%.0f GB", float64(n)/1e9) }
	if less := was - is; float64(less) > max(lessUsed, lessShare*float64(was)) {
		l.add("used", "As much space is used as before", Wrong, gb(less)+" less than on the old drive", gb(was),
			"Compare the file lists before the old drive is wiped or given back.")
		return
	}
	l.add("used", "As much space is used as before", Fine, gb(is)+", "+gb(was)+" before", "", "")
}

// Before checks the new drive while it is attached beside the old one, before anything is put on it: nil if it
// isn't seen. It is recognised by its serial number, else as the only other drive of its size.
func Before(j *job.Job, setup *job.Setup, f *hardware.Facts) []Check {
	l := &looker{job: j, setup: setup, now: f, drive: beside(j, setup, f)}
	if l.drive == nil {
		return nil
	}
	l.recognised()
	l.isNew()
	return bear(l.list)
}

// beside is the drive of a setup if it is attached to a computer that started from another one; nil if that is
// unclear.
func beside(j *job.Job, setup *job.Setup, f *hardware.Facts) *hardware.Drive {
	want, system := j.Drive(setup.Drive), f.SystemDrive()
	var only *hardware.Drive
	for i := range f.Drives {
		d := &f.Drives[i]
		switch {
		case system != nil && d.ID == system.ID:
		case want.SerialDigest != "" && d.SerialDigest == want.SerialDigest:
			return d
		case system == nil: // one of them is the old drive, and which is not known
		case want.SerialDigest == "" && want.CapacityBytes > 0 && d.CapacityBytes > 0 &&
			match.SameSize(want.CapacityBytes, d.CapacityBytes) && !ofOther(j, setup, d.SerialDigest):
			if only != nil {
				return nil
			}
			only = d
		}
	}
	return only
}

// ofOther reports whether a serial number is that of another setup's drive.
func ofOther(j *job.Job, setup *job.Setup, digest string) bool {
	return digest != "" &&
		slices.ContainsFunc(j.Drives, func(d job.Drive) bool { return d.ID != setup.Drive && d.SerialDigest == digest })
}

func (l *looker) add(id, title string, state job.CheckState, found, should, do string) {
	if state != Wrong {
		do = ""
	}
	l.list = append(l.list, Check{ID: id, Title: title, State: state, Found: found, Should: should, Do: do})
}

// told returns fine or wrong for a known value.
func told(fine bool) job.CheckState {
	if fine {
		return Fine
	}
	return Wrong
}

func gb(n int64) string { return fmt.Sprintf("%.4g GB", float64(n)/1e9) }

func (l *looker) recognised() {
	const title = "Recognised with its full capacity"
	noted, seen := l.job.Drive(l.setup.Drive).CapacityBytes, l.drive.CapacityBytes
	if noted == 0 || seen == 0 {
		l.add("recognised", title, Unknown, "its capacity is not known from both label and drive", "", "")
		return
	}
	off := float64(noted-seen) / float64(noted)
	l.add("recognised", title, told(off < sameCapacity), gb(seen), gb(noted),
		"The drive shows less than its label says: look for a capacity that was cut, or test it for a fake.")
}

func (l *looker) startedFrom() {
	const title = "Started from the new drive"
	at := l.now.SystemDrive()
	if at == nil {
		l.add("started-from", title, Unknown, "which drive it started from is not told", "", "")
		return
	}
	l.add("started-from", title, told(at.ID == l.drive.ID), strings.TrimSpace(at.Maker+" "+at.Model),
		strings.TrimSpace(l.drive.Maker+" "+l.drive.Model),
		"Set the new drive first in the firmware's start order, and disconnect the old one.")
}

// parts are the drive's partitions in order.
func (l *looker) parts() []hardware.Partition {
	var list []hardware.Partition
	for _, p := range l.now.Partitions {
		if p.Drive == l.drive.ID {
			list = append(list, p)
		}
	}
	slices.SortFunc(list, func(a, b hardware.Partition) int { return cmp.Compare(a.StartBytes, b.StartBytes) })
	return list
}

func (l *looker) unallocated() {
	const title = "No room is left unused"
	parts := l.parts()
	if len(parts) == 0 || l.drive.CapacityBytes == 0 {
		l.add("unallocated", title, Unknown, "its partitions are not told", "", "")
		return
	}
	system := 0
	for _, v := range l.now.Volumes {
		if v.System && v.Drive == l.drive.ID {
			system = v.Partition
		}
	}
	lost, at, end := int64(0), 0, int64(0) // the largest gap, and the partition before it
	before := 0
	for _, p := range append(parts, hardware.Partition{StartBytes: l.drive.CapacityBytes}) {
		if gap := p.StartBytes - end; gap > lost {
			lost, at = gap, before
		}
		end, before = max(end, p.StartBytes+p.SizeBytes), p.Number
	}
	do := "Grow the volume in front of it into it."
	if at != system && system != 0 {
		do = fmt.Sprintf("Partition %d stands between the system's and the room: move it to the end of the drive, "+
			"then grow the system's.", at)
	}
	found := "nothing worth using"
	if lost >= lostBytes {
		found = fmt.Sprintf("%s behind partition %d", gb(lost), at)
		if at == 0 {
			found, do = gb(lost)+" in front of the first partition",
				"Move the partitions to the front, then grow the system's."
		}
	}
	l.add("unallocated", title, told(lost < lostBytes), found, "all of it in use", do)
}

func (l *looker) aligned() {
	const title = "Partitions are aligned"
	parts := l.parts()
	if len(parts) == 0 {
		l.add("aligned", title, Unknown, "its partitions are not told", "", "")
		return
	}
	var off []string
	for _, p := range parts {
		if p.StartBytes%align != 0 {
			off = append(off, fmt.Sprint(p.Number))
		}
	}
	found := "all of them"
	if len(off) > 0 {
		found = "not partition " + strings.Join(off, ", ")
	}
	l.add("aligned", title, told(len(off) == 0), found, "starts at a multiple of 4 KiB",
		"Lay the partitions anew: as they lie, each small write touches two pages of the drive.")
}

func (l *looker) trims() {
	const title = "TRIM is on"
	switch {
	case l.drive.Kind == job.HDD || l.drive.Kind == "":
		return // nothing to trim, or not known what it is
	case l.drive.Trim == nil:
		l.add("trim", title, Unknown, "the system does not tell", "", "")
	default:
		found := "on"
		if !*l.drive.Trim {
			found = "off"
		}
		l.add("trim", title, told(*l.drive.Trim), found, "on",
			"Switch it on in the system; a USB case or an old storage driver may not pass it on.")
	}
}

func (l *looker) link() {
	const title = "The link is at full speed"
	a := l.drive.Attached
	if a == nil || a.LinkMBs == 0 {
		l.add("link", title, Unknown, "the system does not tell", "", "")
		return
	}
	can, found, should := a.CapableMBs, fmt.Sprintf("%.4g MB/s", a.LinkMBs), ""
	if k := l.drive.Link; k != nil {
		found = k.Negotiated
		drive, port := job.Carries(k.Kind, k.Drive), job.Carries(k.Kind, k.Port)
		switch { // the slower of the two is what can be had
		case drive > 0 && port > 0 && drive <= port:
			can, should = drive, k.Drive
		case drive > 0 && port > 0:
			can, should = port, k.Port
		}
	}
	if can == 0 {
		l.add("link", title, Unknown, found+"; what drive and port can do is not told", "", "")
		return
	}
	if should == "" {
		should = fmt.Sprintf("%.4g MB/s", can)
	}
	l.add("link", title, told(a.LinkMBs >= slower*can), found, should,
		"Try another cable or slot; look whether the port shares its lanes, or its speed is set in the firmware.")
}

func (l *looker) disconnected() {
	const title = "The old drive is disconnected"
	then := l.job.SetupAs(job.Then)
	if then == nil || l.setup.Adds {
		return
	}
	digest := l.job.Drive(then.Drive).SerialDigest
	if digest == "" {
		l.add("disconnected", title, Unknown, "the old drive was never seen by the probe", "", "")
		return
	}
	there := slices.ContainsFunc(l.now.Drives, func(d hardware.Drive) bool { return d.SerialDigest == digest })
	found := "it is not seen any more"
	if there {
		found = "it is still connected"
	}
	l.add("disconnected", title, told(!there), found, "",
		"Two drives with the same system disturb each other: disconnect the old one.")
}

// systemEncrypted reports whether the system's volume is encrypted, nil where it is not told.
func systemEncrypted(f *hardware.Facts) *bool {
	for _, v := range f.Volumes {
		if v.System {
			return v.Encrypted
		}
	}
	return nil
}

func (l *looker) encrypted() {
	const title = "Encrypted as before"
	if l.before == nil {
		return
	}
	was, is := systemEncrypted(l.before), systemEncrypted(l.now)
	if was == nil || is == nil {
		l.add("encrypted", title, Unknown, "the system does not tell", "", "")
		return
	}
	say := map[bool]string{true: "encrypted", false: "not encrypted"}
	l.add("encrypted", title, told(*was == *is), say[*is], say[*was],
		"Ask the customer, and switch it as it was; an encryption pass has to end before anything is measured.")
}

func (l *looker) isNew() {
	const title = "The drive is as new as it was sold"
	h := l.drive.Health
	if h == nil || h.PowerOnHours == nil && h.BytesWritten == nil {
		return // nothing was told, and a used drive may have been what was wanted
	}
	var found []string
	fine := len(h.Warnings) == 0
	if h.PowerOnHours != nil {
		found, fine = append(found, fmt.Sprintf("%d hours", *h.PowerOnHours)), fine && *h.PowerOnHours <= newHours
	}
	if h.BytesWritten != nil {
		found, fine = append(found, gb(*h.BytesWritten)+" written"), fine && *h.BytesWritten <= newBytes
	}
	l.add("new", title, told(fine), strings.Join(append(found, h.Warnings...), ", "), "",
		"If it was sold as new, send it back.")
}

func (l *looker) writeCache() {
	const title = "Its write cache is on"
	if l.drive.WriteCache == nil {
		l.add("write-cache", title, Unknown, "the system does not tell", "", "")
		return
	}
	found := "on"
	if !*l.drive.WriteCache {
		found = "off"
	}
	l.add("write-cache", title, told(*l.drive.WriteCache), found, "on",
		"Switch it on in the system’s settings of the drive; without it writing is many times slower.")
}

func (l *looker) drivers() {
	const title = "Every device has its driver"
	switch n := l.now.Driverless; {
	case n == nil:
		l.add("drivers", title, Unknown, "the system does not tell", "", "")
	case len(n) == 0:
		l.add("drivers", title, Fine, "no device without one", "", "")
	default:
		l.add("drivers", title, Wrong, strings.Join(n[:min(5, len(n))], ", "), "none without",
			"Install the maker’s drivers for this model, the board’s first.")
	}
}

func (l *looker) temperature() {
	const title = "It stays cool"
	t, most := l.drive.TemperatureC, l.drive.MaxTempC
	if t == nil {
		return
	}
	if most == nil {
		if r := l.job.Drive(l.setup.Drive).Rated; r != nil && r.MaxTempC > 0 {
			most = &r.MaxTempC
		}
	}
	if most == nil {
		l.add("temperature", title, Unknown, fmt.Sprintf("%.0f °C; its limit is not known", *t), "", "")
		return
	}
	l.add("temperature", title, told(*t < *most-nearLimit), fmt.Sprintf("%.0f °C", *t),
		fmt.Sprintf("well below %.0f °C",
			*most), "Give it a heat sink or air; near its limit a drive slows itself down.")
}
