package words

import (
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/side"
)

// What the technician reads is English: these are [English]'s.

// Times writes a factor; see [Language.Times].
func Times(f float64) string { return English.Times(f) }

// FactorWords says a factor in words; see [Language.FactorWords].
func FactorWords(f float64) string { return English.FactorWords(f) }

// WaitingWords reports how much less waiting there is; see [Language.WaitingWords].
func WaitingWords(then, now float64) string { return English.WaitingWords(then, now) }

// SavesWords says what each time saves; see [Language.SavesWords].
func SavesWords(saves float64) string { return English.SavesWords(saves) }

// Seconds writes a time; see [Language.Seconds].
func Seconds(s float64) string { return English.Seconds(s) }

// Figure writes a value with its unit; see [Language.Figure].
func Figure(v float64, unit string) string { return English.Figure(v, unit) }

// FileRates writes what a file test moved per second; see [Language.FileRates].
func FileRates(r *side.Rates) string { return English.FileRates(r) }

// Line says a line in words; see [Language.Line].
func Line(l *compare.Line, t *job.Test, names Sides) LineInWords { return English.Line(l, t, names) }

// Doubt says why a difference is not claimed; see [Language.Doubt].
func Doubt(l *compare.Line, t *job.Test) string { return English.Doubt(l, t) }

// Share reports how much of a wait was the drive's; see [Language.Share].
func Share(l *compare.Line) string { return English.Share(l) }

// Waits says a group of times in words; see [Language.Waits].
func Waits(g compare.Group) string { return English.Waits(g) }

// Rates says a group of rates in words; see [Language.Rates].
func Rates(g compare.Group) string { return English.Rates(g) }

// Savings says what the waiting lines save; see [Language.Savings].
func Savings(s *compare.Savings) string { return English.Savings(s) }

// Title says what a rule is about; see [Language.Title].
func Title(rule string) string { return English.Title(rule) }

// DriveName names a drive for people; see [Language.DriveName].
func DriveName(d *job.Drive) string { return English.DriveName(d) }

// Reason is why a computer came in; see [Language.Reason].
func Reason(r job.Reason) string { return English.Reason(r) }
