package words

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"nowthen/core/message"
	"nowthen/core/side"
)

// Uncertainty says where a side's uncertainty comes from and what would reduce it most, from its
// components (the variances w, b and i of a side, on the logarithmic scale); "" where none is known.
func Uncertainty(s *side.Side) string {
	if s == nil {
		return ""
	}
	type part struct {
		name  string
		share float64
	}
	parts := []part{{"runs", s.Within}, {"sitting", s.Between}, {"instrument", s.Instrument}}
	total := s.Within + s.Between + s.Instrument
	if total <= 0 || math.IsNaN(total) || math.IsInf(total, 0) {
		return ""
	}
	for i := range parts {
		parts[i].share /= total
	}
	slices.SortStableFunc(parts, func(a, b part) int {
		switch {
		case a.share > b.share:
			return -1
		case a.share < b.share:
			return 1
		}
		return 0
	})
	say := message.English.Say
	first := parts[0]
	mostly, do := say("uncertainty.part."+first.name), say("uncertainty.do."+first.name)
	const notable = 0.005 // a share below rounds to nothing
	var rest []string
	for _, p := range parts[1:] {
		if p.share >= notable {
			rest = append(rest, say("uncertainty.part."+p.name))
		}
	}
	if len(rest) == 0 {
		return say("uncertainty.alone", message.Values{"Part": mostly, "Do": do})
	}
	return say("uncertainty.mostly",
		message.Values{"Part": mostly, "Do": do, "Percent": fmt.Sprintf("%.0f", first.share*100),
			"Rest": strings.Join(rest, " and ")})
}
