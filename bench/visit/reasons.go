package visit

import (
	"strings"

	"nowthen/bench"
	"nowthen/core/job"
)

// Reason is why the computer came in, and its outcome.
type Reason struct {
	What    job.ReasonKind `json:"what" validate:"oneof=slow-start slow-programs slow-games full noise heat crashes failing other" say:"Pick a reason from the list."`
	Words   string         `json:"words" validate:"max=500"`
	Outcome job.Outcome    `json:"outcome" validate:"omitempty,oneof=solved better unchanged other-cause" say:"It is solved, better, unchanged, or another cause was found."`
	Remains string         `json:"remains" validate:"max=500"`
}

// maxReasons is the most reasons of one visit.
const maxReasons = 12

// reasonsOf converts reasons for the job; faults go into the fields.
func reasonsOf(f bench.Fields, in []Reason) []job.Reason {
	f.Check(len(in) <= maxReasons, "reasons", "At most 12 reasons.")
	var list []job.Reason
	for _, r := range in {
		f.Input("reasons", r)
		list = append(list, job.Reason{What: r.What, Words: strings.TrimSpace(r.Words), Outcome: r.Outcome,
			Remains: strings.TrimSpace(r.Remains)})
	}
	return list
}
