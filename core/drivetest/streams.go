package drivetest

import "fmt"

// Streams are recordings or playbacks that a drive must keep up with, each at
// a rate, or as pictures of so many pixels.
type Streams struct {
	Count int `json:"count"`
	// Plays are playbacks beside the recordings, each of what was recorded a while before.
	Plays int     `json:"plays,omitzero"`
	MBs   float64 `json:"mb_s,omitzero"` // of one; or:
	// Width × Height pixels, FramesS pictures a second, Bits a pixel.
	Width   int     `json:"width,omitzero"`
	Height  int     `json:"height,omitzero"`
	FramesS float64 `json:"frames_s,omitzero"`
	Bits    float64 `json:"bits,omitzero"`
}

// maxStreams bounds the streams of a test.
const maxStreams = 64

// EachMBs is the need of one stream, MB/s.
func (s Streams) EachMBs() float64 {
	if s.MBs > 0 {
		return s.MBs
	}
	return float64(s.Width) * float64(s.Height) * s.FramesS * s.Bits / 8 / 1e6
}

// NeedMBs is the need of all streams together, MB/s.
func (s Streams) NeedMBs() float64 { return float64(s.Count+s.Plays) * s.EachMBs() }

// How a drive keeps up.
const (
	KeepsUp     = "keeps-up"
	JustKeepsUp = "just"
	FallsBehind = "falls-behind"
)

// KeepUp is the slowest second of a drive, MB/s, as a multiple of the need, and
// what that means (calculations, section 10).
func (s Streams) KeepUp(slowest float64) (margin float64, verdict string) {
	margin = slowest / s.NeedMBs()
	switch {
	case margin >= 1.2:
		return margin, KeepsUp
	case margin >= 1:
		return margin, JustKeepsUp
	}
	return margin, FallsBehind
}

func (s Streams) check() error {
	need := s.EachMBs()
	switch {
	case s.Count < 1 || s.Count > maxStreams:
		return fmt.Errorf("streams: a count of %d is not between 1 and %d", s.Count, maxStreams)
	case s.Plays < 0 || s.Plays > maxStreams:
		return fmt.Errorf("streams: %d playbacks are not between 0 and %d", s.Plays, maxStreams)
	case s.MBs < 0 || s.Width < 0 || s.Height < 0 || s.FramesS < 0 || s.Bits < 0:
		return fmt.Errorf("streams: a rate or size is negative")
	case !(need > 0) || need > 100_000:
		return fmt.Errorf("streams: %g MB/s each is not above 0 and up to 100000; give mb_s, or width, height, "+
			"frames_s and bits", need)
	}
	return nil
}
