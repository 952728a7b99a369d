package compare

import (
	"slices"

	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

// leastReference is the least speed-up of the reference drive test from which a share is computed.
const leastReference = 1.25

// elseMayHaveHelped are the rules whose findings, with whatever effect, say that something other than the drive
// may have shortened the wait.
var elseMayHaveHelped = []string{"system-origin", "system-version", "memory-changed", "other-work", "control-moved",
	"busy", "power", "encryption", "other-app-version"}

// shares computes, for every timed line that got faster, how much of the wait was the
// drive's (Amdahl 1967, Validity of the single processor approach): with S the line's
// factor and R the reference drive test's, share = (1 − 1/S) ÷ (1 − 1/R), its interval by
// the delta method (JCGM 100, 5.1.2), and the floor that would be left if the drive took
// no time.
func (l *Ledger) shares(j *job.Job) {
	ref := l.reference(j)
	if ref == nil || ref.Verdict != Faster || ref.ratio.Factor < leastReference {
		return
	}
	for i := range l.Lines {
		ln := &l.Lines[i]
		if ln.test.Kind != job.Timed || ln.Verdict != Faster || ln.Helped() || ln.ratio.Low > ref.ratio.High {
			continue
		}
		s, r := ln.ratio.Factor, ref.ratio.Factor
		a, c := 1-1/s, 1-1/r
		share := a / c
		var parts []stats.Component
		for _, p := range slices.Concat(ln.Then.Parts(), ln.With.Parts()) {
			parts = append(parts, p.Times(1/s/c))
		}
		for _, p := range slices.Concat(ref.Then.Parts(), ref.With.Parts()) {
			parts = append(parts, p.Times(a/r/(c*c)))
		}
		h := stats.Combine(parts...).HalfWidth(side.Confidence)
		ln.DriveShare, ln.DriveShareLow, ln.DriveShareHigh = new(clamp(share)), new(clamp(share-h)), new(clamp(share+h))
		ln.Floor = new(ln.Then.Centre * (1 - clamp(share)))
	}
}

// Helped reports whether a finding on the line says that something beside the drive may have helped.
func (ln *Line) Helped() bool {
	return slices.ContainsFunc(ln.Findings, func(rule string) bool { return slices.Contains(elseMayHaveHelped, rule) })
}

func clamp(v float64) float64 { return min(1, max(0, v)) }

// reference is the line from which shares of waiting are computed, or nil.
func (l *Ledger) reference(j *job.Job) *Line {
	for _, id := range j.References() {
		if ln := l.Line(id); ln != nil && ln.decided {
			return ln
		}
	}
	return nil
}
