// Package catalogue holds all tests with their cost in time and writing.
//
// It is pure and knows nothing of screens, HTTP, SQL or files.
package catalogue

import (
	"slices"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
	"nowthen/core/job"
)

// Entry is a test that can be added to a plan, with its cost.
type Entry struct {
	Test  job.Test `json:"test"`
	Group string   `json:"group"` // starts, programs, games, files, drive, controls, notes
	// Hands and Wait are roughly how many minutes one run takes on a hard disk, hands-on and unattended. Drive
	// tests take the time of their bounds.
	Hands float64 `json:"hands"`
	Wait  float64 `json:"wait"`
	// WriteBytes is roughly how much one run writes to the drive, except for drive tests.
	WriteBytes int64    `json:"write_bytes"`
	Needs      []string `json:"needs"`
}

// Ids of tests.
const (
	ColdStart        = "t-start"
	LongWrite        = "t-long-write"
	LongRead         = "t-long-read"
	ScatteredRead    = "t-scattered"
	ScatteredOwn     = "t-scattered-existing"
	FirstLaunch      = "t-launch"
	OpenDocument     = "t-document"
	WakeUp           = "t-wake"
	Shutdown         = "t-shutdown"
	RestartToDesktop = "t-restart"
	BatteryLife      = "t-battery"
	NoiseAtSeat      = "t-noise"
	CopySmall        = "t-copy-small"
	CopyLarge        = "t-copy-large"
	GameMenu         = "t-game-menu"
	GameSave         = "t-game-save"
	GameLevel        = "t-game-level"
	PeakTemperature  = "t-temp-peak"
	ExportProject    = "t-export"
	ProcessorControl = "t-processor"
	BusyRead         = "t-busy-read"
	ReadFolder       = "t-read-folder"
	LongReadOwn      = "t-long-read-existing"
	ResponseTime     = "t-response"
	SustainedWrite   = "t-sustained"
	SweepRead        = "t-sweep-read"
	KeepUp           = "t-keep-up"
	ImportMaterial   = "t-import"
	// The browser with the pages of the morning.
	MorningBrowser = "t-browser"
)

// Values for sequential tests; see [job.Test].
const (
	WhatColdStart = "cold-start"
	WhatLongRead  = "long-read"
	WhatLongWrite = "long-write"
	WhatSustained = "sustained-write"
	// Figures that another program showed.
	WhatRateRead  = "rate-read"
	WhatScoreRead = "score-read"
)

// DefaultSpan is the size of the test file if the technician sets none and the drive isn't known.
const DefaultSpan = 1536 << 20

// spans are the sizes of the test file by kind of drive, GiB: beyond what a drive keeps
// of its own tables and what its cache holds, and written in a minute.
var spans = map[job.DriveKind]int64{job.HDD: 4, job.SataSSD: 8, job.NVMe: 16, job.EMMC: 2, job.Hybrid: 8, job.Cached: 8,
	job.USBFlash: 1}

// roomShare is the largest share of the free space that a test file takes.
const roomShare = 8

// SpanFor is the size of the test file for a drive of a kind with so much free room,
// whole GiB between 1 and 16. Pass 0 if the free space isn't known.
func SpanFor(kind job.DriveKind, free int64) int64 {
	span := max(1, spans[kind])
	if free > 0 {
		span = min(span, free/roomShare/gib)
	}
	return max(1, span) * gib
}

// streams are what drives of a kind read and write in one go, MB/s, and requests what they answer, per second: from the
// slowest to the quickest that exist.
var (
	streams = map[job.DriveKind][2]float64{job.HDD: {15, 350}, job.SataSSD: {30, 600}, job.NVMe: {100, 16_000},
		job.EMMC: {15, 420}, job.Hybrid: {15, 600}, job.Cached: {15, 16_000}, job.USBFlash: {1, 600}}
	requests = map[job.DriveKind][2]float64{job.HDD: {20, 2_500}, job.SataSSD: {500, 120_000},
		job.NVMe: {1_000, 3_000_000},
		job.EMMC: {200, 60_000}, job.Hybrid: {20, 120_000}, job.Cached: {20, 3_000_000}, job.USBFlash: {5, 60_000}}
)

// longestWait is longer than anything a person times, s.
const longestWait = 3 * 3600

// Possible is between what a figure of a test is on a drive of a kind, in the test's unit; ok is false where
// nothing is known of it.
func Possible(t *job.Test, kind job.DriveKind) (low, high float64, ok bool) {
	var of map[job.DriveKind][2]float64
	switch {
	case t.Unit == "s":
		return 0.05, longestWait, true
	case t.Unit == "IOPS":
		of = requests
	case t.What == WhatLongRead, t.What == WhatLongWrite, t.What == "long-read-existing", t.What == WhatRateRead:
		of = streams
	}
	b, ok := of[kind]
	return b[0], b[1], ok
}

// WantedRuns is the default number of runs of a test.
const WantedRuns = 3

// Occasions of the customer's week. Tests of one occasion describe one wait, which is
// counted once.
const (
	Start       = "start"
	Wake        = "wake"
	Resume      = "resume"
	ShutDown    = "shut-down"
	LaunchFirst = "launch-first"
	LaunchAgain = "launch-again"
	Pages       = "pages"
	GameLaunch  = "game-launch"
	Load        = "load"
	LevelChange = "level-change"
	Document    = "document"
	Copy        = "copy"
	Export      = "export"
	Guest       = "guest"
	Import      = "import"
	Tool        = "tool"
	Backup      = "backup"
)

// Ids of the questions about usage: how the day begins and how often, and how often
// what else happens. The first launch of a program comes as often as a start.
const (
	AskStarts    = "starts"
	AskWakes     = "wakes"
	AskResumes   = "resumes"
	AskLaunches  = "launches"
	AskLoads     = "loads"
	AskDocuments = "documents"
	AskCopies    = "copies"
	AskExports   = "exports"
)

// asked is the question about how often an occasion comes.
var asked = map[string]string{Start: AskStarts, Wake: AskWakes, Resume: AskResumes, ShutDown: AskStarts,
	LaunchFirst: AskStarts, LaunchAgain: AskLaunches,
	Pages: AskStarts, GameLaunch: AskLoads, Load: AskLoads, LevelChange: AskLoads, Document: AskDocuments, Copy: AskCopies, Export: AskExports}

const gib = int64(1) << 30

// phases makes phases from names; a name with a leading "-" doesn't count.
func phases(idsAndNames ...string) []job.Phase {
	var list []job.Phase
	for i := 0; i < len(idsAndNames); i += 2 {
		p := job.Phase{ID: idsAndNames[i], Name: idsAndNames[i+1]}
		if p.Name[0] == '-' {
			no := false
			p.Name, p.Counts = p.Name[1:], &no
		}
		list = append(list, p)
	}
	return list
}

func waits(id, what, name, occasion string, warmth job.Warmth, p ...job.Phase) job.Test {
	return job.Test{ID: id, Kind: job.Timed, What: what, Name: name, Unit: "s", Better: job.Lower, Wanted: WantedRuns,
		Warmth: warmth, Occasion: occasion, Usage: asked[occasion], Phases: p, Begin: watched[what][0], End: watched[what][1]}
}

func start(id, what, name string, p ...job.Phase) job.Test {
	t := waits(id, what, name, Start, "cold", p...)
	t.StartKind = "cold"
	return t
}

// byItself makes a test an unattended file test.
func byItself(t job.Test, w filetest.Work, p ...job.Phase) job.Test {
	t.FileWork, t.Phases, t.Begin, t.End = &w, p, "", "" // nobody presses anything
	return t
}

// Sets of the file tests: one large file, and many small ones of a few KiB as
// they lie in a user's folders.
var (
	largeFile  = filetest.Set{Files: 1, MedianBytes: 1 << 30, Seed: 1}
	smallFiles = filetest.Set{Files: 3000, MedianBytes: 8 << 10, Sigma: 1.5, MaxBytes: 2 << 20, Seed: 1}
)

// pages sets how many pages a finish line wants.
func pages(n int, t job.Test) job.Test {
	t.Pages = n
	return t
}

func files(id, what, name, occasion string) job.Test {
	return job.Test{ID: id, Kind: job.OnFiles, What: what, Name: name, Unit: "s", Better: job.Lower, Wanted: 2,
		Occasion: occasion, Usage: asked[occasion], Begin: watched[what][0], End: watched[what][1]}
}

// MorningPages is the default number of pages that the customer opens in the morning.
const MorningPages = 4

// warmSeconds is the warm-up of a drive test.
const warmSeconds = 0.25

func drive(id, what, name, unit string, w drivetest.Workload) job.Test {
	if w.MaxSeconds == 0 {
		w.MaxSeconds, w.StopHalfWidth = drivetest.DefaultSeconds, drivetest.UsualStop
	}
	if !w.Fresh {
		w.WarmSeconds = warmSeconds
	}
	better := job.Higher
	if unit == "ms" {
		better = job.Lower
	}
	return job.Test{ID: id, Kind: job.OnDrive, What: what, Name: name, Unit: unit, Better: better, Wanted: WantedRuns,
		Params: &w}
}

// longer gives a workload a fixed time.
func longer(w drivetest.Workload, seconds float64) drivetest.Workload {
	w.MaxSeconds = seconds
	return w
}

// once wants a test run a single time.
func once(t job.Test) job.Test {
	t.Wanted = 1
	return t
}

// existing makes a workload read existing files and write nothing.
func existing(w drivetest.Workload) drivetest.Workload {
	w.Existing = true
	return w
}

// easy uses compressible data: drives that compress are faster with it.
func easy(w drivetest.Workload) drivetest.Workload {
	w.Data, w.CompressTo = drivetest.Compressible, easyPart
	return w
}

// easyPart is the share of its size to which easy data compresses.
const easyPart = 0.25

// sampled reads a sample of existing files, spread all over the drive.
func sampled(w drivetest.Workload) drivetest.Workload {
	w = existing(w)
	w.Sample = true
	return w
}

func note(id, what, name, unit string, better job.Direction) job.Test {
	return job.Test{ID: id, Kind: job.Note, What: what, Name: name, Unit: unit, Better: better, Wanted: 1}
}

// All returns every test that can be put into a plan.
func All() []Entry {
	const s = DefaultSpan
	return slices.Clone([]Entry{
		{Group: "starts", Hands: 4, Needs: []string{"the customer's password"},
			Test: start(ColdStart, WhatColdStart, "Cold start to desktop",
				phases("login", "to the sign-in", "typing", "-password", "desktop", "to a usable desktop")...)},
		{Group: "starts", Hands: 5, Needs: []string{"the customer's password"},
			Test: start(RestartToDesktop, "restart", "Restart to desktop",
				phases("down", "to the black screen", "login", "to the sign-in", "typing", "-password", "desktop",
					"to a usable desktop")...)},
		{Group: "starts", Hands: 0.5, Wait: 2, Needs: []string{"the probe on the computer"},
			Test: start("t-restart-watch", RestartWatch, "Restart, timed by the probe")},
		{Group: "starts", Hands: 0.2, Needs: []string{"the probe on the computer"},
			Test: start("t-start-recorded", StartRecorded, "Start, as the system recorded it")},
		{Group: "starts", Hands: 3,
			Needs: []string{"the finish line set as the browser's start page, and the browser in the start folder"}, Test: start("t-start-browser", "start-browser", "Cold start to a working browser")},
		{Group: "starts", Hands: 5, Needs: []string{"the customer's password", "the unlock's password"},
			Test: start("t-start-unlock", "start-unlock", "Cold start with an unlock before the system",
				phases("unlock", "to the unlock", "unlocking", "-the unlock's password", "login", "to the sign-in",
					"typing", "-password", "desktop", "to a usable desktop")...)},
		{Group: "starts", Hands: 1, Test: waits(Shutdown, "shut-down", "Shut-down", ShutDown, "")},
		{Group: "starts", Hands: 1, Test: waits(WakeUp, "wake", "Wake from sleep", Wake, "warm")},
		{Group: "starts", Hands: 2.5, Test: func() job.Test {
			t := waits("t-resume", "resume", "Resume from hibernation", Resume, "cold")
			t.StartKind = "resume-assisted"
			return t
		}()},

		{Group: "programs", Hands: 1.5, Needs: []string{"the program that is used most"},
			Test: waits(FirstLaunch, "launch-first", "Main program, first time since the start", LaunchFirst, "cold")},
		{Group: "programs", Hands: 0.5, Needs: []string{"the program that is used most"},
			Test: waits("t-launch-again", "launch-again", "Main program, opened again", LaunchAgain, "warm")},
		{Group: "programs", Hands: 1.5, Needs: []string{"a document of the customer's, the same each time"},
			Test: waits(OpenDocument, "document-open", "Open a document or project", Document, "cold")},
		{Group: "programs", Hands: 2, Needs: []string{"network", "the pages that are opened in the morning"},
			Test: pages(MorningPages, waits(MorningBrowser, "browser-pages", "The morning's pages", Pages, "cold"))},
		{Group: "programs", Hands: 0.5, Test: waits("t-tool", "open-tool", "Open a tool of the system", Tool, "warm")},
		{Group: "programs", Hands: 3, Needs: []string{"the guest system", "its password"},
			Test: waits("t-guest", "guest-start", "Start of a guest system", Guest, "cold",
				phases("login", "to its sign-in", "typing", "-password", "desktop", "to its usable desktop")...)},
		{Group: "programs", Hands: 1, Wait: 4, WriteBytes: 2 * gib, Needs: []string{"material, the same each time"},
			Test: files(ImportMaterial, "import-material", "Import material into a project", Import)},
		{Group: "programs", Hands: 1, Wait: 10, WriteBytes: 2 * gib, Needs: []string{"an installation file"},
			Test: files("t-install", "install", "Install a program", "")},
		{Group: "programs", Hands: 1, Wait: 8, WriteBytes: gib,
			Needs: []string{"a project of the customer's, the same each time"}, Test: files(ExportProject, "export",
				"Export or render", Export)},

		{Group: "games", Hands: 3, Needs: []string{"the game and its account"},
			Test: waits(GameMenu, "game-menu", "Game: start to the menu", GameLaunch, "cold",
				phases("logos", "to the first title screen", "titles", "-title screens that cannot be skipped", "menu",
					"to the menu")...)},
		{Group: "games", Hands: 2,
			Needs: []string{"the game and its account",
				"a save that is named, the same each time"},
			Test: waits(GameSave, "game-save", "Game: load a save", Load, "cold")},
		{Group: "games", Hands: 2, Needs: []string{"the game and its account", "a save, the same each time"},
			Test: waits(GameLevel, "game-level", "Game: change of level", LevelChange, "cold")},

		{Group: "files", Wait: 0.7,
			Test: byItself(files(CopyLarge, "copy-large", "Copy a large file", Copy),
				filetest.Work{Op: filetest.Copy, Set: largeFile})},
		{Group: "files", Wait: 1.5,
			Test: byItself(files(CopySmall, "copy-small", "Make and copy a folder of many small files", Copy),
				filetest.Work{Op: filetest.MakeAndCopy, Set: smallFiles}, phases(filetest.PhaseMake, "making them",
					filetest.PhaseCopy, "copying them")...)},
		{Group: "files", Hands: 1, Wait: 3, WriteBytes: 4 * gib,
			Needs: []string{"a folder of the customer's, the same each time"}, Test: files("t-copy-own", "copy-own",
				"Copy a folder of own files, by hand", Copy)},
		{Group: "files", Hands: 1, Wait: 45, Needs: []string{"a drive for the backup, the same each time"},
			Test: once(files("t-full-backup", "full-backup", "Full backup", Backup))},
		{Group: "files", Wait: 1.5, Needs: []string{"a folder that stays as it is"}, Test: func() job.Test {
			t := byItself(files(ReadFolder, "read-folder", "Read a folder", ""),
				filetest.Work{Op: filetest.Read, Listing: true},
				phases(filetest.PhaseList, "listing it", filetest.PhaseRead, "reading its files")...)
			t.Warmth = "cold"
			return t
		}()},

		{Group: "drive", Test: drive(LongWrite, WhatLongWrite, "Long write", "MB/s", drivetest.LongWrite(s))},
		{Group: "drive", Test: drive(LongRead, WhatLongRead, "Long read", "MB/s", drivetest.LongRead(s))},
		{Group: "drive", Test: drive(ScatteredRead, job.ScatteredRead, "Scattered small reads", "IOPS",
			drivetest.ScatteredRead(s))},
		{Group: "drive", Test: drive("t-scattered-write", "scattered-write", "Scattered small writes", "IOPS",
			drivetest.ScatteredWrite(s))},
		{Group: "drive", Test: drive("t-desk", "desk-mix", "Desk mix", "IOPS", drivetest.DeskMix(s))},
		{Group: "drive", Test: drive(BusyRead, "busy-scattered-read", "Busy scattered reads", "IOPS",
			drivetest.Busy(drivetest.ScatteredRead(s)))},
		{Group: "drive", Test: drive("t-busy-write", "busy-scattered-write", "Busy scattered writes", "IOPS",
			drivetest.Busy(drivetest.ScatteredWrite(s)))},

		{Group: "drive", Test: drive("t-long-write-easy", "long-write-easy", "Long write of data that compresses",
			"MB/s",
			easy(drivetest.LongWrite(s)))},
		{Group: "drive", Test: drive("t-long-read-easy", "long-read-easy", "Long read of data that compresses", "MB/s",
			easy(drivetest.LongRead(s)))},
		{Group: "drive", Test: drive(ResponseTime, "response-time", "Response time of a small read", "ms",
			longer(drivetest.ResponseTime(s), 20))},
		{Group: "drive", Test: once(drive(SweepRead, "size-sweep-read", "Reading in small and large pieces",
			"MB/s", longer(drivetest.SizeSweep(drivetest.Read, s), 26)))},
		{Group: "drive", Test: once(drive("t-sweep-write", "size-sweep-write", "Writing in small and large pieces",
			"MB/s", longer(drivetest.SizeSweep(drivetest.Write, s), 26)))},
		{Group: "drive", Test: once(drive(SustainedWrite, WhatSustained, "Sustained writing", "MB/s",
			longer(drivetest.SustainedWrite(16*gib), 300)))},
		{Group: "drive", Test: once(drive(KeepUp, "keep-up", "Keeping up with recordings", "MB/s",
			longer(drivetest.KeepUp(8*gib,
				drivetest.Streams{Count: 2, Width: 1920, Height: 1080, FramesS: 50, Bits: 8}), 30)))},
		{Group: "drive", Test: once(drive("t-keep-up-play", "keep-up-play", "Keeping up with recordings and a playback",
			"MB/s",
			longer(drivetest.KeepUp(8*gib,
				drivetest.Streams{Count: 2, Plays: 1, Width: 1920, Height: 1080, FramesS: 50, Bits: 8}), 30)))},
		{Group: "drive", Test: drive(LongReadOwn, "long-read-existing", "Long read of existing files",
			"MB/s", existing(drivetest.LongRead(256<<20)))},
		{Group: "drive", Test: drive(ScatteredOwn, job.ScatteredReadOwn,
			"Scattered small reads of own files", "IOPS", sampled(drivetest.ScatteredRead(64*gib)))},

		{Group: "controls", Wait: 0.2, Test: job.Test{ID: ProcessorControl, Kind: job.Control, What: job.Processor,
			Name: "Processor check (unaffected by the drive)", Unit: "s", Better: job.Lower, Wanted: 2,
			Phases: phases(job.PhaseOneCore, "on one core", job.PhaseAllCores, "on all cores")}},

		{Group: "notes", Hands: 0.5, Test: note(NoiseAtSeat, "noise", "Noise at the seat", "dB(A)", job.Lower)},
		{Group: "notes", Hands: 0.5,
			Test: note("t-temp-idle", "temperature-idle", "Drive's temperature, idle", "°C", job.Lower)},
		{Group: "notes", Hands: 0.5,
			Test: note(PeakTemperature, "temperature-peak", "Drive's highest temperature", "°C", job.Lower)},
		{Group: "notes", Hands: 1, Needs: []string{"a full battery"},
			Test: note(BatteryLife, "battery-life", "Battery life as the system says", "min", job.Higher)},
		{Group: "notes", Hands: 0.5, Needs: []string{"a power meter"},
			Test: note("t-power", "power-draw", "Power draw, idle", "W", job.Lower)},
		{Group: "notes", Hands: 1, Needs: []string{"the program that shows it"},
			Test: note("t-rate-read", WhatRateRead, "Rate read in another program", "MB/s", job.Higher)},
		{Group: "notes", Hands: 1, Needs: []string{"the program that shows it"},
			Test: note("t-score-read", WhatScoreRead, "Score read in another program", "points", job.Higher)},
	})
}

// EffortOf returns the cost of one run of a test. A custom test takes what tests of its kind usually take.
func EffortOf(t *job.Test) Entry {
	for _, e := range All() {
		if e.Test.What == t.What && e.Test.Kind == t.Kind {
			return e
		}
	}
	e := Entry{Hands: 2}
	if t.Kind == job.Note {
		e.Hands = 0.5
	}
	return e
}

// GroupOf returns the group of a test; a custom test belongs to the group of its kind.
func GroupOf(t *job.Test) string {
	for _, e := range All() {
		if e.Test.What == t.What && e.Test.Kind == t.Kind {
			return e.Group
		}
	}
	switch {
	case t.Kind == job.Timed && t.StartKind != "":
		return "starts"
	case t.Kind == job.Timed:
		return "programs"
	}
	return map[job.Kind]string{job.OnFiles: "files", job.OnDrive: "drive", job.Control: "controls",
		job.Note: "notes"}[t.Kind]
}

// Standard returns the tests of a usual visit, with drive tests over a file of
// span bytes and of seconds each; zero means the default.
func Standard(span int64, seconds float64) []job.Test {
	return Tests(span, seconds, ColdStart, LongWrite, LongRead, ScatteredRead)
}

// Tests returns tests of the catalogue by id, bounded as [Bounded] says.
func Tests(span int64, seconds float64, ids ...string) []job.Test {
	var list []job.Test
	all := All()
	for _, id := range ids {
		for _, e := range all {
			if e.Test.ID == id {
				list = append(list, Bounded(e.Test, span, seconds))
			}
		}
	}
	return list
}

// Bounded returns a drive test over a file of span bytes and of seconds a run,
// as the job has it for its usual drive tests; zero leaves either as it is.
// Tests that need their own size or time (a sweep, a long write, a reading of
// what is there) keep it, and other tests come back as they are.
func Bounded(t job.Test, span int64, seconds float64) job.Test {
	if t.Kind != job.OnDrive || t.Params == nil {
		return t
	}
	if t.Params.OwnFile() {
		span = 0
	}
	if !Usual(&t) {
		seconds = 0
	}
	return Resized(t, span, seconds)
}

// Usual reports whether a drive test uses the job's usual size and time.
func Usual(t *job.Test) bool {
	w := t.Params
	return t.Kind == job.OnDrive && w != nil && !w.Fresh && len(w.Sweep) == 0 && w.Streams == nil && t.Unit != "ms"
}

// Resized returns a drive test over span bytes and of seconds a run; zero leaves
// either as it is.
func Resized(t job.Test, span int64, seconds float64) job.Test {
	w := *t.Params
	if span > 0 {
		if w.MaxBytes > 0 && w.SpanBytes > 0 {
			w.MaxBytes = w.MaxBytes / w.SpanBytes * span
		}
		w.SpanBytes = span
	}
	if seconds > 0 {
		w.MaxSeconds = seconds
		w.WarmSeconds = min(w.WarmSeconds, seconds/4)
	}
	t.Params = &w
	return t
}

// starts are the tests that start the computer, by kind of start. It serves both setting the first start after
// a swap aside and the finding.
var starts = []string{"cold-start", "restart", RestartWatch, StartRecorded, "start-browser", "start-unlock"}

// RestartWatch is the restart that the probe times automatically, from its last sign to its first after the start.
const RestartWatch = "restart-watch"

// StartRecorded is a start that the computer's system recorded.
const StartRecorded = "start-recorded"

// IsStart reports whether a test starts the computer, judging by its kind if it doesn't say.
func IsStart(t *job.Test) bool {
	if t.What == "" {
		return t.Kind == job.Timed && t.StartKind != ""
	}
	return slices.Contains(starts, t.What)
}
