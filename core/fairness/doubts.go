package fairness

import (
	"fmt"
	"slices"

	"nowthen/core/job"
)

// Doubts are the conditions, in words, that would make a measurement doubtful before it begins, by the limits
// of the rules that would find them afterwards. Unknown conditions give none.
func Doubts(c *job.Conditions) []string {
	var list []string
	if c.Power == job.Battery {
		list = append(list, "It runs on battery.")
	}
	if c.PowerMode == job.SavingMode {
		list = append(list, "It saves power.")
	}
	encrypting := c.Encrypting != nil && *c.Encrypting
	if encrypting {
		list = append(list, passing(c.Pass))
	}
	if busy := slices.DeleteFunc(slices.Clone(c.Busy),
		func(b job.Busy) bool { return b == job.BusyOther }); len(busy) > 0 {
		list = append(list, fmt.Sprintf("Something else is running: %s.", job.Join(busy)))
	} else if len(c.Busy) > 0 {
		list = append(list, "Something else is running.")
	}
	if v := c.BackgroundMBs; v != nil && *v > busyMBs && len(c.Busy) == 0 && !encrypting {
		list = append(list, fmt.Sprintf("Something else moves %.3g MB/s on its drives.", *v))
	}
	if v := c.CPUPct; v != nil && *v > busyCPUPct && len(c.Busy) == 0 {
		list = append(list, fmt.Sprintf("Its processor is %.0f %% busy.", *v))
	}
	return list
}

// passing describes that a pass is running, and for how long where that is known.
func passing(p *job.Pass) string {
	if p == nil {
		return "An encryption pass is running."
	}
	what := map[job.PassKind]string{
		job.DecryptionPass: "A decryption pass is running",
		job.ArrayPass:      "An array of its drives is being rebuilt or checked",
	}[p.Kind]
	if what == "" {
		what = "An encryption pass is running"
	}
	switch {
	case p.MinutesLeft != nil && *p.MinutesLeft < 1.5:
		return what + ", about a minute left."
	case p.MinutesLeft != nil && *p.MinutesLeft < 90:
		return fmt.Sprintf("%s, about %.0f minutes left.", what, *p.MinutesLeft)
	case p.MinutesLeft != nil:
		return fmt.Sprintf("%s, about %.0f hours left.", what, *p.MinutesLeft/60)
	case p.DonePct != nil:
		return fmt.Sprintf("%s; %.0f %% of it is done.", what, *p.DonePct)
	}
	return what + "."
}
