// Package words says what a figure, a verdict and a finding are called. Each
// wording stands here once, so that ledger, report and command line say the same.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package words

// titles say in a few words what a rule found, for technician and customer.
var titles = map[string]string{
	"other-computer":       "The two sides were measured on different computers",
	"other-baseline-drive": "Then may be another drive, or another state of it, than what was replaced",
	"other-parameters":     "The two sides did not time the same parts",
	"not-recorded":         "Known on one side only",
	"more-than-the-drive":  "It got faster by more than the drive did",
	"content-moved":        "What was opened lay on another drive on one side",
	"content-elsewhere":    "What was opened does not lie on the drive that was changed",
	"attached-devices":     "Other drives or devices hung on it on one side",
	"firmware-settings":    "The firmware was set differently",
	"weak-supply":          "The battery emptied although it was on mains",
	"placement":            "The test files lay at different places of the disks",
	"engine-limited":       "The computer's processor was the limit: at least this much",
	"drift":                "The drive changed while it was measured",
	"other-app-version":    "The program's version differed",
	"other-content":        "Another document, save or folder was used",
	"power":                "The power supply or power mode differed",
	"busy":                 "Something else was running on one side",
	"encrypting":           "An encryption pass was running on one side",
	"encryption":           "Only one side is encrypted",
	"memory-changed":       "The memory was changed as well",
	"processor-changed":    "Processor or graphics were changed as well",
	"other-work":           "Other work was done between the two sides",
	"control-moved":        "The computer itself was quicker or slower on one side",
	"system-version":       "The system's version differed",
	"system-origin":        "One side is a freshly installed system",
	"start-kind":           "A full start stands against a resume-assisted one",
	"first-after-swap":     "The first start after the swap is among the runs",
	"warmth":               "Cold runs stand against warm ones",
	"attachment":           "One drive hung on USB, the other inside",
	"port-limit":           "The port holds the drive back",
	"below-rating":         "The drive runs below its rating",
	"beyond-link":          "Faster than the cable can carry",
	"beyond-mechanics":     "Too quick for a turning disk",
	"heat":                 "The drive was at its temperature limit",
	"fill":                 "The drive was much fuller on one side",
	"lone-run":             "One run stands far from the others",
	"method":               "One side was timed by hand, the other by itself",
	"probe-version":        "The measuring program's version differed",
	"simulated":            "Simulated: not a real computer",
}

// Title says in a few words what a rule is about.
func Title(rule string) string {
	if t, ok := titles[rule]; ok {
		return t
	}
	return rule
}
