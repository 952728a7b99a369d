package words

import "nowthen/core/job"

var reasons = map[string]string{
	job.ReasonSlowStart:    "slow to start",
	job.ReasonSlowPrograms: "programs are slow",
	job.ReasonSlowGames:    "games load slowly",
	job.ReasonFull:         "the drive is full",
	job.ReasonNoise:        "it is noisy",
	job.ReasonHeat:         "it runs hot",
	job.ReasonCrashes:      "it crashes or hangs",
	job.ReasonFailing:      "the drive is failing",
	job.ReasonOther:        "something else",
}

// Reason is why a computer came in: in the customer's own words where there are some.
func Reason(r job.Reason) string {
	if r.Words != "" {
		return r.Words
	}
	return reasons[r.What]
}
