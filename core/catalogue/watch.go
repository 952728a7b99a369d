package catalogue

import "nowthen/core/job"

// watched is what is seen when the time of a timed test begins and ends, worded to follow "Press when …". Both
// sides are timed by the same sentence.
var watched = map[string][2]string{
	"cold-start":      {"you press the power button", usable},
	"restart":         {"you confirm the restart", usable},
	"start-browser":   {"you press the power button", "the start page is loaded"},
	"start-unlock":    {"you press the power button", usable},
	"shut-down":       {"you confirm shutting down", "the power light goes out"},
	"wake":            {"you press a key", "the pointer moves freely"},
	"resume":          {"you press the power button", usable},
	"launch-first":    {"you open the program", "its window takes what you type"},
	"launch-again":    {"you open the program", "its window takes what you type"},
	"document-open":   {"you open the document", "its first page can be changed"},
	"browser-pages":   {"you open the browser", "the last page is loaded"},
	"open-tool":       {"you open the tool", "its window is filled"},
	"guest-start":     {"you start the guest system", "its pointer moves freely"},
	"import-material": {"you confirm the import", "the last item is shown"},
	"install":         {"you start the installation", finished},
	"export":          {"you start the export", finished},
	"game-menu":       {"you start the game", "its menu can be used"},
	"game-save":       {"you load the save", "you can move"},
	"game-level":      {"you leave the level", "you can move"},
	"copy-own":        {"you start the copy", "its window closes"},
	"full-backup":     {"you start the backup", finished},
}

const (
	usable   = "the pointer moves freely and the first menu opens at once"
	finished = "the program says that it is done"
)

// followed are tests that follow each other within one start, by id: each waits for the one before.
var followed = map[string]string{FirstLaunch: ColdStart, MorningBrowser: FirstLaunch}

// Chain lets tests of a plan follow each other within one start, where both are in it: one cold start then gives the
// desktop, the first program and the pages, each with its own run. What follows something already stays.
func Chain(tests []job.Test) {
	has := map[string]bool{}
	for i := range tests {
		has[tests[i].ID] = !tests[i].Retired
	}
	for i := range tests {
		if !has[tests[i].Follows] {
			tests[i].Follows = ""
		}
		before := followed[tests[i].ID]
		if before == FirstLaunch && !has[before] {
			before = followed[before]
		}
		if before != "" && has[before] && tests[i].Follows == "" {
			tests[i].Follows = before
		}
	}
}
