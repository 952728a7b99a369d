package fairness

import (
	"slices"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

// rule is one row of the table: what it is called, which lines it touches and how, what
// helps against it, and where it is looked for.
type rule struct {
	id      string
	touches func(*job.Test) bool
	effect  Effect
	blocks  func(*job.Test) bool // lines that it blocks, whatever effect it has on others
	remedy  string
	minutes float64
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
	// A timed test that does not say what it is is taken at what its runs say of their start.
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
	armReads     = 250  // scattered reads per second that no arm can do
	shareSame    = 0.90 // share of the bytes in common from which on samples of files are the same
	shareOther   = 0.50 // share below which they are different ones
)

var rules []rule

// The table refers to functions that look rules up in it.
func init() {
	rules = []rule{
		{id: "other-computer", touches: all, effect: Blocks, minutes: 60, find: (*check).otherComputer,
			remedy: "Measure both sides on the same computer."},
		{id: "other-baseline-drive", touches: measured, effect: Qualifies, blocks: onlyDrive, minutes: 30, find: (*check).otherBaseline,
			remedy: "Measure Then on the drive that is replaced; where Then is an earlier job's, measure its controls again before the drive comes out."},
		{id: "other-parameters", touches: all, effect: Blocks, minutes: 4, find: facts(params, split),
			remedy: "Measure the same on both sides: the same parameters, split into the same phases."},
		{id: notRecorded, touches: all, effect: Notes,
			remedy: "Note it on both sides; what is not known cannot be compared."},
		{id: "more-than-the-drive", touches: onlyTimed, effect: Qualifies, late: true, find: (*check).moreThanTheDrive,
			remedy: "Find out what else changed: the drive alone does not explain so much."},
		{id: "other-app-version", touches: all, effect: Qualifies, minutes: 10, find: facts(appVersion),
			remedy: "Bring both sides to the same version and measure again."},
		{id: "other-content", touches: all, effect: Blocks, minutes: 5, find: (*check).otherContent,
			remedy: "Use the same document, save or folder on both sides."},
		{id: "power", touches: measured, effect: Qualifies, blocks: onlyDrive, minutes: 6, find: facts(supply, mode),
			remedy: "Measure again on mains power in the normal power mode."},
		{id: "busy", touches: measured, effect: Qualifies, minutes: 6, find: facts(busy),
			remedy: "Let the other work end, then measure this side again."},
		{id: "encrypting", touches: measured, effect: Blocks, minutes: 30, find: facts(encrypting),
			remedy: "Wait until the pass has ended, then measure this side again."},
		{id: "encryption", touches: measured, effect: Qualifies, find: facts(encryption),
			remedy: "Say so to the customer, or measure with the same encryption on both sides."},
		{id: "memory-changed", touches: waits, effect: Qualifies, find: (*check).memoryChanged,
			remedy: "Say so to the customer: more memory shortens waiting as well."},
		{id: "processor-changed", touches: waits, effect: Blocks, minutes: 60, find: (*check).processorChanged,
			remedy: "Measure both sides with the same processor and graphics."},
		{id: "other-work", touches: waits, effect: Qualifies, find: (*check).otherWork,
			remedy: "Say so to the customer: that work can shorten waiting as well."},
		{id: "control-moved", touches: waits, effect: Qualifies, minutes: 10, late: true, find: (*check).controlMoved,
			remedy: "Find out what else changed (power, heat, other work), then measure again."},
		{id: "system-version", touches: waits, effect: Qualifies, find: setupFacts(systemVersion),
			remedy: "Say so to the customer: another system version waits differently."},
		{id: "system-origin", touches: waits, effect: Qualifies, find: (*check).systemOrigin,
			remedy: "Say so to the customer: a fresh system starts faster on any drive."},
		{id: "start-kind", touches: maybeStarts, effect: Blocks, minutes: 4, find: facts(startKind),
			remedy: "Time a full cold start on both sides: switch the resume-assisted start off first."},
		{id: "first-after-swap", touches: all, effect: Qualifies, minutes: 4, find: (*check).firstAfterSwap,
			remedy: "Set the first run after the swap aside and take another."},
		{id: "warmth", touches: all, effect: Blocks, minutes: 4, find: facts(warmth),
			remedy: "Restart the computer and take the first run after it, on both sides."},
		{id: "attachment", touches: measured, effect: Qualifies, minutes: 15, find: (*check).attachment,
			remedy: "Fit the drive inside, on the port it is for, and measure again."},
		{id: "port-limit", touches: onlyDrive, effect: Notes, minutes: 10, find: (*check).portLimit,
			remedy: "Look at the port, its cable and its firmware setting: drive and port could do more than the link they agreed on."},
		{id: "below-rating", touches: onlyDrive, effect: Notes, minutes: 10, find: (*check).belowRating,
			remedy: "Look at the port, the temperature, the fill level and what else is running; ask the maker if it stays so."},
		{id: "beyond-link", touches: onlyDrive, effect: Blocks, minutes: 5, find: (*check).beyondLink,
			remedy: "Measure again with a larger test file: this figure came out of a cache, not from the drive."},
		{id: "beyond-mechanics", touches: onlyDrive, effect: Blocks, minutes: 5, find: (*check).beyondMechanics,
			remedy: "Measure again with a larger test file: memory or a caching drive answered, not the disk."},
		{id: "content-moved", touches: all, effect: Qualifies, minutes: 10, find: facts(place),
			remedy: "Put it on the drive under test on both sides, and measure again."},
		{id: "content-elsewhere", touches: all, effect: Notes, find: (*check).contentElsewhere,
			remedy: "Say so to the customer: the new drive has no part in this wait."},
		{id: "attached-devices", touches: starts, effect: Qualifies, minutes: 5, find: facts(attached),
			remedy: "Take off what else hangs on it, on both sides, and start it again."},
		{id: "firmware-settings", touches: starts, effect: Qualifies, minutes: 6, find: facts(firmware, quickStart, storageMode, switchedOff),
			remedy: "Set the firmware alike on both sides, or say so to the customer."},
		{id: "weak-supply", touches: measured, effect: Qualifies, minutes: 10, find: (*check).weakSupply,
			remedy: "Use the charger that belongs to it: a weak one makes the computer hold itself back."},
		{id: "heat", touches: all, effect: Qualifies, minutes: 10, find: (*check).heat,
			remedy: "Let the drive cool, look at its cooling, and measure again."},
		{id: "fill", touches: onlyDrive, effect: Notes, find: (*check).fill,
			remedy: "Mention it: an emptier drive can be quicker by itself."},
		{id: "placement", touches: onlyDrive, effect: Qualifies, minutes: 10, find: (*check).placement,
			remedy: "Mention it: a disk is quicker at its beginning than at its end. The customer's own files lie all over it."},
		{id: "engine-limited", touches: onlyDrive, effect: Qualifies, find: (*check).engineLimited,
			remedy: "Read the figure as \"at least\": this computer's processor was the limit."},
		{id: "drift", touches: kinds(job.OnDrive, job.OnFiles), effect: Qualifies, minutes: 10, find: (*check).drift,
			remedy: "Let the drive come to rest (heat, its own housekeeping), and measure the round again."},
		{id: "lone-run", touches: all, effect: Qualifies, minutes: 4, find: (*check).loneRun,
			remedy: "Look at the run that stands alone: set it aside with a reason, or take more."},
		{id: "method", touches: all, effect: Notes, find: facts(method),
			remedy: "Time both sides in the same way."},
		{id: "probe-version", touches: onlyDrive, effect: Qualifies, minutes: 5, find: facts(engine),
			remedy: "Measure both sides with the same version of the engine."},
		{id: "simulated", touches: all, effect: Notes, find: (*check).simulated,
			remedy: "For training and demonstration only; measure a real computer for a customer."},
	}
}

// notRecorded is what a rule finds instead of itself where one side states a fact and
// the other does not.
const notRecorded = "not-recorded"

func ruleOf(id string) *rule {
	return &rules[slices.IndexFunc(rules, func(r rule) bool { return r.id == id })]
}
