package plan

import (
	"fmt"
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
)

// Means by which a test is measured.
const (
	MeansItself     = "itself"      // the program runs it
	MeansProbe      = "probe"       // the probe on the computer times it by itself
	MeansFinishLine = "finish-line" // a page that the computer opens stops it
	MeansVideo      = "video"
	MeansByHand     = "by-hand" // the timer and a thumb
	MeansReadOff    = "read-off"
)

// Offer is a test of the catalogue with the means by which it is measured best.
type Offer struct {
	catalogue.Entry
	Best string `json:"best"`
	// Shows says what that can show.
	Shows string `json:"shows"`
}

// Offers are all tests of the catalogue.
func Offers() []Offer {
	var list []Offer
	for _, e := range catalogue.All() {
		o := Offer{Entry: e, Best: Best(&e.Test)}
		o.Shows = shows(&e.Test, o.Best)
		list = append(list, o)
	}
	return list
}

// Best is the means by which a test is measured best.
func Best(t *job.Test) string {
	switch {
	case t.Automatic():
		return MeansItself
	case !ByHand(t):
		return MeansReadOff
	case t.What == catalogue.RestartWatch, t.What == catalogue.StartRecorded:
		return MeansProbe
	case t.Pages > 0 || t.What == "start-browser":
		return MeansFinishLine
	case slices.Contains(quickWaits, t.What):
		return MeansVideo
	}
	return MeansByHand
}

// usualFrame is the length of a frame of a phone's video, s; usualTrip how long a page's
// word copies the shop's network.
const (
	usualFrame = 1.0 / 30
	usualTrip  = 0.02
	// usualFirstSign is how late the first sign after a start usually is, s.
	usualFirstSign = 0.2
)

// shows says what a means can show of a test: differences from twice its standard
// uncertainty on.
func shows(t *job.Test, by string) string {
	presses := stopwatch.Presses(t.Counting(), 0)
	switch by {
	case MeansItself:
		if t.Params != nil && t.Params.StopHalfWidth > 0 && !t.Params.Writes() {
			return "Runs unattended; ends once it is precise enough."
		}
		return "Runs unattended."
	case MeansProbe:
		if t.What == catalogue.StartRecorded {
			return "Read from the system's own record by the probe: shows what differs more than the starts themselves."
		}
		return fmt.Sprintf("Timed by the probe, unattended: shows differences from %.2f s on.", 2*usualFirstSign)
	case MeansFinishLine:
		return fmt.Sprintf("Best stopped by the finish line: shows differences from %.1f s on.",
			2*stopwatch.ByFinishLine(0, presses, usualTrip))
	case MeansVideo:
		frames := make([]float64, presses)
		for i := range frames {
			frames[i] = usualFrame
		}
		return fmt.Sprintf("Best taken from a video: shows differences from %.2f s on.", 2*stopwatch.ByVideo(frames...))
	case MeansByHand:
		return fmt.Sprintf("Timed by hand: shows differences from %.1f s on.", 2*stopwatch.ByHand(0, presses))
	}
	return "Read off and typed in."
}
