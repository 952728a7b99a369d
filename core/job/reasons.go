package job

import "github.com/go-json-experiment/json/jsontext"

// ReasonKinds are all reasons of the short list.
var ReasonKinds = []ReasonKind{ReasonSlowStart, ReasonSlowPrograms, ReasonSlowGames, ReasonFull, ReasonNoise,
	ReasonHeat,
	ReasonCrashes, ReasonFailing, ReasonOther}

// Outcomes are all that can happen to a reason.
var Outcomes = []Outcome{Solved, Better, Unchanged, OtherCause}

// Reason is why the computer came in, and its outcome.
type Reason struct {
	What ReasonKind `json:"what"`
	// Words are the customer's own.
	Words string `json:"words,omitzero"`
	// Outcome is "" until it is decided; Remains is what is left of it, or which other cause was found.
	Outcome Outcome `json:"outcome,omitzero"`
	Remains string  `json:"remains,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// HasReason reports whether the computer came in for a reason.
func (j *Job) HasReason(what ReasonKind) bool {
	return find(j.Head.Reasons, func(r *Reason) bool { return r.What == what }) != nil
}
