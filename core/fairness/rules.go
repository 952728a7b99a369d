package fairness

import (
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// rule is one row of the table: its name, which lines it affects and how, its remedy, and its finder.
type rule struct {
	id      string
	touches func(*job.Test) bool
	effect  Effect
	blocks  func(*job.Test) bool // lines that it blocks, whatever effect it has on others
	// qualifies are lines that it only qualifies.
	qualifies func(*job.Test) bool
	minutes   float64
	// find looks for it; nil: the rules that compare facts find it.
	find func(*check, *rule)
	// late rules look at intervals of lines that no other rule blocks.
	late bool
}

func kinds(list ...job.Kind) func(*job.Test) bool {
	return func(t *job.Test) bool { return slices.Contains(list, t.Kind) }
}

// Lines that rules touch.
var (
	all       = func(*job.Test) bool { return true }
	measured  = kinds(job.OnDrive, job.Timed, job.OnFiles)
	waits     = kinds(job.Timed, job.OnFiles)
	onlyDrive = kinds(job.OnDrive)
	onlyTimed = kinds(job.Timed)
	starts    = catalogue.IsStart
	// A timed test that doesn't say what it is is judged by its runs' starts.
	maybeStarts = func(t *job.Test) bool { return starts(t) || t.What == "" && t.Kind == job.Timed }
)

// Limits of the rules.
const (
	busyMBs      = 2.0  // MB/s of background I/O that count as busy
	busyCPUPct   = 15.0 // % of the processor that count as busy
	fillPoints   = 20.0 // percentage points of fill level
	placePoints  = 25.0 // percentage points of the capacity between the places of two files
	loneRatio    = 1.5  // a run this far from its side's median stands alone
	engineBusy   = 90.0 // % of a core, or of all, from which on the engine is in the way
	batterySank  = 2.0  // percentage points by which a battery's reading may fall by itself
	movedControl = 1.05 // a control whose interval lies beyond this ratio has moved
	nearLink     = 0.85 // share of the link from which on the link is the limit
	nearUSB      = 0.70 // the same over USB
	overLink     = 1.02 // share of the link that no drive can pass
	belowRating  = 0.70 // share of the rated figure
	ArmReads     = 250  // scattered reads per second that no arm can do
	sameAmount   = 1.02 // ratio of the bytes of two copies that are still the same copy
	shareSame    = 0.90 // share of the bytes in common from which on samples of files are the same
	shareOther   = 0.50 // share below which they are different ones
)

var rules []rule

// The table refers to functions that look rules up in it.
func init() {
	rules = []rule{
		{id: "other-computer", touches: all, effect: Blocks, minutes: 60, find: (*check).otherComputer},
		{id: "other-baseline-drive", touches: measured, effect: Qualifies, blocks: onlyDrive, minutes: 30,
			find: (*check).otherBaseline},
		{id: "other-parameters", touches: all, effect: Blocks, minutes: 4, find: facts(params, split)},
		{id: notRecorded, touches: all, effect: Notes},
		{id: "more-than-the-drive", touches: onlyTimed, effect: Qualifies, late: true, find: (*check).moreThanTheDrive},
		{id: "other-app-version", touches: all, effect: Qualifies, minutes: 10, find: facts(appVersion)},
		{id: "other-content", touches: all, effect: Blocks, minutes: 5, find: (*check).otherContent},
		{id: "power", touches: measured, effect: Qualifies, blocks: onlyDrive, minutes: 6, find: facts(supply, mode)},
		{id: "busy", touches: measured, effect: Qualifies, minutes: 6, find: facts(busy)},
		{id: "encrypting", touches: measured, effect: Blocks, minutes: 30, find: facts(encrypting)},
		{id: "encryption", touches: measured, effect: Qualifies, find: facts(encryption)},
		{id: "memory-changed", touches: waits, effect: Qualifies, find: (*check).memoryChanged},
		{id: "processor-changed", touches: waits, effect: Blocks, minutes: 60, find: (*check).processorChanged},
		{id: "other-work", touches: waits, effect: Qualifies, find: (*check).otherWork},
		{id: "control-moved", touches: waits, effect: Qualifies, minutes: 10, late: true, find: (*check).controlMoved},
		{id: "system-version", touches: waits, effect: Qualifies, find: (*check).systemVersion},
		{id: "system-origin", touches: waits, effect: Qualifies, find: (*check).systemOrigin},
		{id: "start-kind", touches: maybeStarts, effect: Blocks, minutes: 4, find: facts(startKind)},
		{id: "first-after-swap", touches: all, effect: Qualifies, minutes: 4, find: (*check).firstAfterSwap},
		{id: "warmth", touches: all, effect: Blocks, minutes: 4, find: facts(warmth)},
		{id: "attachment", touches: measured, effect: Qualifies, minutes: 15, find: (*check).attachment},
		{id: "port-limit", touches: onlyDrive, effect: Notes, minutes: 10, find: (*check).portLimit},
		{id: "below-rating", touches: onlyDrive, effect: Notes, minutes: 10, find: (*check).belowRating},
		{id: "beyond-link", touches: onlyDrive, effect: Blocks, minutes: 5, find: (*check).beyondLink},
		{id: "beyond-mechanics", touches: onlyDrive, effect: Blocks, minutes: 5, find: (*check).beyondMechanics},
		{id: "content-moved", touches: all, effect: Qualifies, minutes: 10, find: facts(place)},
		{id: "content-elsewhere", touches: all, effect: Notes, find: (*check).contentElsewhere},
		{id: "attached-devices", touches: starts, effect: Qualifies, minutes: 5, find: facts(attached)},
		{id: "firmware-settings", touches: starts, effect: Qualifies, minutes: 6,
			find: facts(firmware, quickStart, storageMode, switchedOff)},
		{id: "weak-supply", touches: measured, effect: Qualifies, minutes: 10, find: (*check).weakSupply},
		{id: "heat", touches: all, effect: Qualifies, minutes: 10, find: (*check).heat},
		{id: "fill", touches: onlyDrive, effect: Notes, find: (*check).fill},
		{id: "placement", touches: onlyDrive, effect: Qualifies, minutes: 10, find: (*check).placement},
		{id: "engine-limited", touches: onlyDrive, effect: Qualifies, find: (*check).engineLimited},
		{id: "drift", touches: kinds(job.OnDrive, job.OnFiles), effect: Qualifies, minutes: 10, find: (*check).drift},
		{id: "lone-run", touches: all, effect: Qualifies, minutes: 4, find: (*check).loneRun},
		{id: "method", touches: all, effect: Notes, find: facts(method)},
		{id: "probe-version", touches: onlyDrive, effect: Qualifies, minutes: 5, find: facts(engine)},
		{id: "simulated", touches: all, effect: Notes, find: (*check).simulated},
		{id: "not-settled", touches: kinds(job.OnDrive, job.Timed, job.OnFiles), effect: Blocks, minutes: 4,
			find: (*check).notSettled},
		{id: "settles", touches: kinds(job.OnDrive, job.Timed, job.OnFiles), effect: Qualifies, minutes: 1,
			find: (*check).settles},
		{id: "other-program", touches: kinds(job.OnDrive, job.OnFiles, job.Control, job.Note), effect: Blocks,
			qualifies: kinds(job.Note), minutes: 10, find: facts(program)},
		{id: "unequal-amounts", touches: waits, effect: Blocks, minutes: 10, find: (*check).unequalAmounts},
		{id: "same-drive", touches: measured, effect: Blocks, minutes: 30, find: (*check).sameDrive},
		{id: "measured-elsewhere", touches: kinds(job.OnDrive, job.OnFiles), effect: Blocks, minutes: 30,
			find: (*check).measuredElsewhere},
		{id: "system-beside", touches: onlyTimed, effect: Qualifies, find: (*check).systemBeside},
	}
}

// notRecorded is what a rule finds instead of itself where one side states a fact and
// the other does not.
const notRecorded = "not-recorded"

func ruleOf(id string) *rule {
	return &rules[slices.IndexFunc(rules, func(r rule) bool { return r.id == id })]
}
