package checks

import (
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// On every new drive is looked at: firmware, of which its maker's page says which is the newest, and whether the system has settled.
const (
	firmware = "firmware"
	settled  = "settled"
)

// byHand are what only somebody before the computer sees: the drive's firmware, and what can break where a system is carried over.
var byHand = []Check{
	{ID: firmware, Title: "The drive’s firmware is the newest", Do: "Bring it up to date with the maker’s own program, before anything is measured."},
	{ID: settled, Title: "Updates and indexing have settled", Do: "Let them end before anything is measured: “Wait, then start” does so by itself where the probe has joined."},
	{ID: "activation", Title: "The system does not ask to be activated", Do: "Sign in with the owner’s account, or enter the key that came with the computer; the drive is part of what it was tied to."},
	{ID: "menu", Title: "Start menu and icons are there", Do: "Sign out and in again; if icons stay empty, let the system build its icon store anew."},
	{ID: "sign-ins", Title: "Sign-ins in browser and programs still hold", Do: "Ask the owner to sign in again; what was tied to the old drive’s keys is not carried over."},
	{ID: "mail", Title: "Mail opens, with its old messages", Do: "Look whether its data file lies where the program expects it, and let it check the file."},
	{ID: "printers", Title: "Printers and scanners answer", Do: "Remove the device in the system and add it anew; look whether its program was tied to a drive letter."},
	{ID: "network-drives", Title: "Mapped drives are there", Do: "Map them anew with the owner’s password; passwords kept by the old system may not open here."},
	{ID: "restore-points", Title: "Restore points are switched on", Do: "Switch protection of the system volume on again, and make a first point."},
	{ID: "letters", Title: "Volumes have their letters", Do: "Give each the letter that it had; what lay on the other letter starts again then."},
	{ID: "sleep", Title: "Sleep and hibernation work", Do: "Switch hibernation off and on again, so that its file is laid anew on this drive."},
}

// ByHand are what has to be looked at by hand on a setup, with what was seen so far; of what a clone can break only where the
// system was carried over.
func ByHand(j *job.Job, setup *job.Setup) []Check {
	list := slices.Clone(byHand)
	if o := setup.System.Origin; o != job.Cloned && o != job.Restored {
		list = slices.DeleteFunc(list, func(c Check) bool { return c.ID != firmware && c.ID != settled })
	}
	for i := range list {
		c := &list[i]
		c.ByHand, c.State, c.Found = true, Unknown, "not looked at yet"
		for _, l := range j.Head.Looked {
			if l.Check == c.ID {
				c.State, c.Found = l.State, "looked at"
				if l.By != "" {
					c.Found += " by " + l.By
				}
			}
		}
		if c.State != Wrong {
			c.Do = ""
		}
	}
	return list
}

// IsByHand tells whether a check is one that is looked at by hand.
func IsByHand(id string) bool {
	return slices.ContainsFunc(byHand, func(c Check) bool { return c.ID == id })
}

// Noted are checks that rest on what was found or measured before, whatever the probe tells now; now is what it told last, or nil.
func Noted(j *job.Job, setup *job.Setup, now *hardware.Facts) []Check {
	d := j.Drive(setup.Drive)
	if d == nil {
		return nil
	}
	return append(holds(d), heat(j, setup, d, now)...)
}

// heat is how warm the drive became while it worked, and how far that is from its limit.
func heat(j *job.Job, setup *job.Setup, d *job.Drive, now *hardware.Facts) []Check {
	var hottest *job.Run
	var coolest, room *float64
	for i := range j.Runs {
		r := &j.Runs[i]
		s := j.Sitting(r.Sitting)
		if s == nil || s.Setup != setup.ID || s.Job != "" || r.PeakTempC == nil {
			continue
		}
		if hottest == nil || *r.PeakTempC > *hottest.PeakTempC {
			hottest, room = r, s.Conditions.RoomTempC
		}
		if r.StartTempC != nil && (coolest == nil || *r.StartTempC < *coolest) {
			coolest = r.StartTempC
		}
	}
	if hottest == nil {
		return nil
	}
	c := Check{ID: "heat", Title: "It stays cool while it works", Found: fmt.Sprintf("%.0f °C", *hottest.PeakTempC)}
	if t := j.Test(hottest.Test); t != nil {
		c.Found += " during " + strings.ToLower(t.Name)
	}
	if coolest != nil {
		c.Found += fmt.Sprintf(", %.0f °C before", *coolest)
	}
	if room != nil {
		c.Found += fmt.Sprintf(", in a room of %.0f °C", *room)
	}
	limit := 0.0
	if d.Rated != nil {
		limit = d.Rated.MaxTempC
	}
	if now != nil && limit == 0 {
		if at := now.UnderTest(j, setup); at != nil && at.MaxTempC != nil {
			limit = *at.MaxTempC
		}
	}
	switch {
	case limit == 0:
		c.State = Unknown
		c.Found += "; its limit is not known"
	case *hottest.PeakTempC < limit-nearLimit:
		c.State = Fine
		c.Found += fmt.Sprintf("; %.0f °C below its limit", limit-*hottest.PeakTempC)
	default:
		c.State, c.Should, c.Do = Wrong, fmt.Sprintf("well below %.0f °C", limit), "Give it a heat sink or air, and write for a while again: near its limit a drive slows itself down."
	}
	return []Check{c}
}

// holds is whether the drive holds what it says.
func holds(d *job.Drive) []Check {
	if d.Held == nil {
		return nil
	}
	h := d.Held
	c := Check{ID: "holds", Title: "It holds what it says", State: Fine}
	switch {
	case h.Wrong > 0:
		c.State, c.Found, c.Do = Wrong, fmt.Sprintf("%d of %d blocks came back otherwise", h.Wrong, h.Blocks), "Put nothing on it, and send it back."
		if h.First != nil {
			c.Found += ", the first at " + gb(*h.First)
		}
	case h.Missed > missable:
		c.State, c.Found = Unknown, fmt.Sprintf("%s over %s came back; a false drive would be missed with a chance of %.0f %%", gb(h.Written), gb(h.FileBytes), h.Missed*100)
	case h.Whole:
		c.Found = "all " + gb(h.Written) + " came back as they were written"
	default:
		c.Found = fmt.Sprintf("%s, spread over %s, came back as they were written", gb(h.Written), gb(h.FileBytes))
	}
	return []Check{c}
}
