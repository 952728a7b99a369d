package job

import "strings"

// JobKind is what a visit is for.
type JobKind string

// Kinds of jobs.
const (
	KindUpgrade    JobKind = "upgrade"    // one drive before, another after
	KindComparison JobKind = "comparison" // several drives, any of them the base
	KindCheckUp    JobKind = "check-up"   // no new drive: measured again, against the first time
)

// JobKinds are all kinds of jobs.
var JobKinds = []JobKind{KindUpgrade, KindComparison, KindCheckUp}

// State is how far a job is.
type State string

// States of a job.
const (
	StateQuoted   State = "quoted"
	StateOpen     State = "open"
	StateFinished State = "finished"
)

// GateName names a gate that stands across a job's track.
type GateName string

// The gates, in the order of a visit.
const (
	GateOldDriveOut GateName = "old-drive-out"  // the old drive comes out: what is missing on it is lost for good
	GateCaseClosed  GateName = "case-closed"    // the drive was tried where it is fitted, and the case is sealed
	GateMeasured    GateName = "measured-again" // the new drive is measured
	GateReport      GateName = "report-issued"  // the customer's report was issued; passed at every issue
	GateHandedBack  GateName = "handed-back"    // the computer is with its owner again
)

// ReasonKind is why a computer arrives, from the short list.
type ReasonKind string

// Reasons of the short list.
const (
	ReasonSlowStart    ReasonKind = "slow-start"
	ReasonSlowPrograms ReasonKind = "slow-programs"
	ReasonSlowGames    ReasonKind = "slow-games"
	ReasonFull         ReasonKind = "full"
	ReasonNoise        ReasonKind = "noise"
	ReasonHeat         ReasonKind = "heat"
	ReasonCrashes      ReasonKind = "crashes"
	ReasonFailing      ReasonKind = "failing"
	ReasonOther        ReasonKind = "other"
)

// Outcome is what happened to a reason.
type Outcome string

// What can happen to a reason.
const (
	Solved     Outcome = "solved"
	Better     Outcome = "better"
	Unchanged  Outcome = "unchanged"
	OtherCause Outcome = "other-cause"
)

// PromiseKind is what a follow-up looks at.
type PromiseKind string

// Kinds of follow-ups: a test's figure again, how full the drive is, or something in words.
const (
	PromisedTest  PromiseKind = "test"
	PromisedFill  PromiseKind = "fill"
	PromisedWords PromiseKind = "words"
)

// Length is how long a report is; "" is two pages.
type Length string

// Lengths of a report.
const (
	OnePage  Length = "one"
	TwoPages Length = "two"
	InFull   Length = "full"
)

// WorkKind is what other work was done.
type WorkKind string

// Kinds of other work.
const (
	WorkCleaning WorkKind = "cleaning"
	WorkMemory   WorkKind = "memory"
	WorkCooling  WorkKind = "cooling"
	WorkFirmware WorkKind = "firmware"
	WorkDrivers  WorkKind = "drivers"
	WorkTidying  WorkKind = "tidying"
	WorkOther    WorkKind = "other"
)

// WorkKinds are all kinds of other work.
var WorkKinds = []WorkKind{WorkCleaning, WorkMemory, WorkCooling, WorkFirmware, WorkDrivers, WorkTidying, WorkOther}

// TaskKind is what a timed task does.
type TaskKind string

// What a task does.
const (
	Cloning    TaskKind = "clone"
	Installing TaskKind = "install"
	Restoring  TaskKind = "restore"
	Copying    TaskKind = "copy"
	OtherTask  TaskKind = "other"
)

// TaskSource is where a task takes from what it puts onto the new drive.
type TaskSource string

// Sources of a task.
const (
	FromOldDrive  TaskSource = "old-drive"
	FromBackup    TaskSource = "backup"
	FromInstaller TaskSource = "installer"
	FromNetwork   TaskSource = "network"
	FromElsewhere TaskSource = "other"
)

// StretchKind is what somebody does while a task's clock runs.
type StretchKind string

// Kinds of stretches.
const (
	HandsOn StretchKind = "hands-on"
	Waiting StretchKind = "waiting"
)

// CheckState is how a check of the new drive stands.
type CheckState string

// States of a check.
const (
	CheckFine    CheckState = "fine"
	CheckWrong   CheckState = "wrong"
	CheckUnknown CheckState = "unknown"
)

// DriveKind is a kind of drive.
type DriveKind string

// Drive kinds.
const (
	HDD      DriveKind = "hdd"
	SataSSD  DriveKind = "sata-ssd"
	NVMe     DriveKind = "nvme"
	EMMC     DriveKind = "emmc"
	Hybrid   DriveKind = "hybrid"
	Cached   DriveKind = "cached"
	USBFlash DriveKind = "usb-flash"
)

// DriveKinds are all kinds of drive.
var DriveKinds = []DriveKind{HDD, SataSSD, NVMe, EMMC, Hybrid, Cached, USBFlash}

// Fate is what happens to a drive.
type Fate string

// What can happen to the old drive.
const (
	OldDriveReturned  Fate = "returned"
	OldDriveKept      Fate = "kept"
	OldDriveDestroyed Fate = "destroyed"
	StaysInside       Fate = "stays-inside"
	UsedElsewhere     Fate = "used-elsewhere"
	PutBack           Fate = "put-back"
)

// OldDriveFates are what can happen to an old drive that came out.
var OldDriveFates = []Fate{OldDriveReturned, OldDriveKept, OldDriveDestroyed}

// Fates are all that can happen to a drive.
var Fates = []Fate{OldDriveReturned, OldDriveKept, OldDriveDestroyed, StaysInside, UsedElsewhere, PutBack}

// Form is the form of a drive, or of a place that takes one.
type Form string

// Forms of drives and of the places that take them.
const (
	Form35   Form = "3.5-inch"
	Form25   Form = "2.5-inch"
	FormM2   Form = "m.2"
	FormMini Form = "msata"
	FormCard Form = "card" // in a slot for extension cards
)

// Forms are all of them.
var Forms = []Form{Form35, Form25, FormM2, FormMini, FormCard}

// Direction is which way a figure is better.
type Direction string

// Directions.
const (
	Lower  Direction = "lower"
	Higher Direction = "higher"
)

// Role is what a setup stands for in the comparison.
type Role string

// Roles of a setup.
const (
	Then  Role = "then"
	Now   Role = "now"
	Trial Role = "trial"
)

// Relation is how the drive of a setup joins the computer.
type Relation string

// Ways in which a drive joins.
const (
	JoinsReplacing Relation = "replaces" // it takes the place of the old one
	JoinsBeside    Relation = "added"    // it is added beside it
	JoinsAsCache   Relation = "cache"    // it caches it
	GoesBack       Relation = "returns"  // the old one goes back in
	OnlyTried      Relation = "tried"    // it is measured and comes out again
)

// Relations are all of them.
var Relations = []Relation{JoinsReplacing, JoinsBeside, JoinsAsCache, GoesBack, OnlyTried}

// Port is a port of a computer, or the kind of a link: of the two only a port can be m2.
type Port string

// Ports of drives.
const (
	PortSATA Port = "sata"
	PortM2   Port = "m2"
	PortUSB  Port = "usb"
	PortMMC  Port = "mmc"
	PortPCIe Port = "pcie"
)

// Source is who says something of a setup.
type Source string

// Sources: a person typed it, or the probe read it.
const (
	Stated    Source = "stated"
	ProbeSaid Source = "probe"
)

// Origin is how an operating system came onto its drive.
type Origin string

// Origins of a system.
const (
	AsArrived Origin = "as-arrived"
	Cloned    Origin = "cloned"
	Fresh     Origin = "fresh"
	Restored  Origin = "restored"
)

// Origins are all origins of a system.
var Origins = []Origin{AsArrived, Cloned, Fresh, Restored}

// Purpose is what a sitting is for.
type Purpose string

// Purposes of sittings.
const (
	ForVisit    Purpose = "visit"    // counts for its setup's side
	ForQuestion Purpose = "question" // is compared with another sitting, and in no side
	ForCheckUp  Purpose = "check-up" // after the computer went back
)

// Power is what a computer runs on.
type Power string

// Supplies of power.
const (
	Mains   Power = "mains"
	Battery Power = "battery"
)

// PowerMode is whether a computer saves power.
type PowerMode string

// Modes of power.
const (
	NormalMode PowerMode = "normal"
	SavingMode PowerMode = "saving"
)

// Busy is other work that a computer does while it is measured.
type Busy string

// Kinds of other work that a computer can be busy with.
const (
	BusyRecording Busy = "recording"
	BusyDownload  Busy = "download"
	BusyUpdate    Busy = "update"
	BusyIndexing  Busy = "indexing"
	BusyBackup    Busy = "backup"
	BusyScan      Busy = "scan"
	BusyOther     Busy = "other"
)

// PassKind is a kind of pass over a whole drive.
type PassKind string

// Kinds of passes over a whole drive.
const (
	EncryptionPass PassKind = "encryption"
	DecryptionPass PassKind = "decryption"
	ArrayPass      PassKind = "array" // an array of drives is filled, checked or laid anew
)

// EventKind is something that goes wrong while measuring.
type EventKind string

// Things that go wrong while measuring.
const (
	Crash    EventKind = "crash"
	Restart  EventKind = "restart"
	Hang     EventKind = "hang"
	Vanished EventKind = "vanished" // the system saw the drive no more
)

// EventKinds are all of them.
var EventKinds = []EventKind{Crash, Restart, Hang, Vanished}

// Warmth is whether the files of a run were in memory.
type Warmth string

// Warmths of a run.
const (
	Cold Warmth = "cold"
	Warm Warmth = "warm"
)

// StartKind is how a computer started.
type StartKind string

// Kinds of start.
const (
	ColdStart      StartKind = "cold"
	ResumeAssisted StartKind = "resume-assisted"
)

// Method is how a run's value was measured.
type Method string

// Methods.
const (
	Automatic    Method = "automatic"
	Stopwatch    Method = "stopwatch"
	FinishLine   Method = "finish-line"
	Video        Method = "video"
	Typed        Method = "typed"
	RestartWatch Method = "restart-watch"
	SystemRecord Method = "system-record"
)

// Bound is on which side of a value the truth lies, where the value is a bound.
type Bound string

// Bounds that a reading can be, instead of a value.
const (
	BoundBelow Bound = "below"
	BoundAbove Bound = "above"
)

// WaitingSource is where a run came from that nobody at the bench asked for.
type WaitingSource string

// Where runs come from that wait for a technician.
const (
	FromProbe WaitingSource = "probe" // a probe sent it without an order
	FromLink  WaitingSource = "link"  // who holds the link of a shared report timed it
)

// Join lists members of an enumeration: "a, b".
func Join[T ~string](list []T) string {
	names := make([]string, len(list))
	for i, m := range list {
		names[i] = string(m)
	}
	return strings.Join(names, ", ")
}
