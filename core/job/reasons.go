package job

import "github.com/go-json-experiment/json/jsontext"

// Why a computer comes in, from the short list.
const (
	ReasonSlowStart    = "slow-start"
	ReasonSlowPrograms = "slow-programs"
	ReasonSlowGames    = "slow-games"
	ReasonFull         = "full"
	ReasonNoise        = "noise"
	ReasonHeat         = "heat"
	ReasonCrashes      = "crashes"
	ReasonFailing      = "failing"
	ReasonOther        = "other"
)

// ReasonKinds are all reasons of the short list.
var ReasonKinds = []string{ReasonSlowStart, ReasonSlowPrograms, ReasonSlowGames, ReasonFull, ReasonNoise, ReasonHeat,
	ReasonCrashes, ReasonFailing, ReasonOther}

// What became of a reason.
const (
	Solved     = "solved"
	Better     = "better"
	Unchanged  = "unchanged"
	OtherCause = "other-cause"
)

// Outcomes are all that can become of a reason.
var Outcomes = []string{Solved, Better, Unchanged, OtherCause}

// Reason is why the computer came in, and what became of that.
type Reason struct {
	What string `json:"what"`
	// Words are the customer's own.
	Words string `json:"words,omitzero"`
	// Outcome is "" until somebody says what became of it; Remains says what is left of it,
	// or which other cause was found.
	Outcome string `json:"outcome,omitzero"`
	Remains string `json:"remains,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Things that go wrong while measuring.
const (
	Crash    = "crash"
	Restart  = "restart"
	Hang     = "hang"
	Vanished = "vanished" // the system saw the drive no more
)

// EventKinds are all of them.
var EventKinds = []string{Crash, Restart, Hang, Vanished}

// HasReason tells whether the computer came in for a reason.
func (j *Job) HasReason(what string) bool {
	return find(j.Head.Reasons, func(r *Reason) bool { return r.What == what }) != nil
}
