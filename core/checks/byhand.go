package checks

import (
	"slices"
	"time"

	"nowthen/core/job"
)

// On every new drive is checked: firmware, of which its maker's page says which is the newest,
// and whether the system has settled.
const (
	firmware = "firmware"
	settled  = "settled"
)

// byHand are what only somebody before the computer sees: the drive's firmware, and what can break
// where a system is carried over.
var byHand = []Check{
	{ID: firmware, Title: "The drive’s firmware is the newest",
		Do: "Bring it up to date with the maker’s own program, before anything is measured."},
	{ID: settled, Title: "Updates and indexing have settled",
		Do: "Let them end before anything is measured: “Wait, then start” does so by itself where the probe has joined."},
	{ID: "activation", Title: "The system does not ask to be activated",
		Do: "Sign in with the owner’s account, or enter the key that came with the computer; the drive is part of " +
			"what it was tied to."},
	{ID: "menu", Title: "Start menu and icons are there",
		Do: "Sign out and in again; if icons stay empty, let the system build its icon store anew."},
	{ID: "sign-ins", Title: "Sign-ins in browser and programs still hold",
		Do: "Ask the owner to sign in again; what was tied to the old drive’s keys is not carried over."},
	{ID: "mail", Title: "Mail opens, with its old messages",
		Do: "Look whether its data file lies where the program expects it, and let it check the file."},
	{ID: "printers", Title: "Printers and scanners answer",
		Do: "Remove the device in the system and add it anew; look whether its program was tied to a drive letter."},
	{ID: "network-drives", Title: "Mapped drives are there",
		Do: "Map them anew with the owner’s password; passwords kept by the old system may not open here."},
	{ID: "restore-points", Title: "Restore points are switched on",
		Do: "Switch protection of the system volume on again, and make a first point."},
	{ID: "letters", Title: "Volumes have their letters",
		Do: "Give each the letter that it had; what lay on the other letter starts again then."},
	{ID: "sleep", Title: "Sleep and hibernation work",
		Do: "Switch hibernation off and on again, so that its file is laid anew on this drive."},
}

// ByHand are the checks by hand of a setup, with their results so far. What a clone can break is included only
// if the system was carried over.
func ByHand(j *job.Job, setup *job.Setup) []Check {
	list := slices.Clone(byHand)
	if o := setup.System.Origin; o != job.Cloned && o != job.Restored {
		list = slices.DeleteFunc(list, func(c Check) bool { return c.ID != firmware && c.ID != settled })
	}
	for i := range list {
		c := &list[i]
		c.ByHand, c.State, c.Found = true, Unknown, "not checked yet"
		for _, l := range j.Head.Looked {
			if l.Check == c.ID {
				c.State, c.Found = l.State, "looked at"
				c.Fix = l.Fix
				if l.By != "" {
					c.Found += " by " + l.By
				}
			}
		}
		if c.ID == settled {
			seen(j, setup, c)
		}
		if c.State != Wrong {
			c.Do = ""
		}
	}
	return bear(list)
}

// seen reports whether updates or indexing ran when conditions of the setup were last noted,
// where nobody has looked by hand since.
func seen(j *job.Job, setup *job.Setup, c *Check) {
	var at time.Time
	for _, l := range j.Head.Looked {
		if l.Check == c.ID {
			at = l.At
		}
	}
	look := func(when time.Time, busy []job.Busy) {
		if busy == nil || !when.After(at) {
			return
		}
		at, c.State, c.Found = when, Fine, "neither ran as conditions were last noted"
		for _, b := range busy {
			if words := map[job.Busy]string{job.BusyUpdate: "an update was running",
				job.BusyIndexing: "indexing was running"}[b]; words != "" {
				c.State, c.Found = Wrong, words+" as conditions were last noted"
			}
		}
	}
	for i := range j.Sittings {
		if s := &j.Sittings[i]; s.Setup == setup.ID && s.Job == "" {
			look(s.Started, s.Conditions.Busy)
		}
	}
	for i := range j.Runs {
		if r := &j.Runs[i]; r.Conditions != nil {
			if s := j.Sitting(r.Sitting); s != nil && s.Setup == setup.ID && s.Job == "" {
				look(r.At, r.Conditions.Busy)
			}
		}
	}
}

// IsByHand reports whether a check is done by hand.
func IsByHand(id string) bool {
	return slices.ContainsFunc(byHand, func(c Check) bool { return c.ID == id })
}
