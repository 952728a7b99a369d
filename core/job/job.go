// Package job holds the types of a job (one visit of one computer, from intake to the report)
// and the rules for a valid job: its references, and the allowed values.
//
// It knows nothing of screens, HTTP, SQL or files. The JSON names of the fields are those of
// the published job file, which makes a job look the same on disk, in HTTP and in the program.
// Members that a reader doesn't know are kept in the Unknown fields and written back.
package job

import (
	"cmp"
	"slices"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/drivetest"
	"nowthen/core/filetest"
)

// Job is one visit of one computer.
type Job struct {
	Head      Head       `json:"job"`
	Computers []Computer `json:"computers"`
	Drives    []Drive    `json:"drives"`
	Plan      Plan       `json:"plan"`
	Tests     []Test     `json:"tests"`
	Setups    []Setup    `json:"setups"`
	Sittings  []Sitting  `json:"sittings"`
	Runs      []Run      `json:"runs"`
	// Usual is the usual spread by kind of test; missing kinds use the default table (calculations, section 13).
	Usual map[Kind]Usual `json:"spread,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// MaxRuns is the number of runs up to which a job can grow; a file with more can still be imported.
const MaxRuns = 20_000

// Usual is the usual relative spread of a kind of test's values: standard
// deviations of ln value within a sitting and between sittings, and how many degrees of
// freedom that knowledge is worth, more than 4.
type Usual struct {
	Within  float64 `json:"within"`
	Between float64 `json:"between"`
	Weight  float64 `json:"weight"`

	Unknown jsontext.Value `json:",embed"`
}

// Head is the docket: who came, when and why.
type Head struct {
	Number string    `json:"number"`
	Opened time.Time `json:"opened,omitzero"`
	Reason string    `json:"reason"`
	// Kind is upgrade, comparison or check-up; "" is an upgrade. See [Job.Kind].
	Kind JobKind `json:"kind,omitzero"`
	// Stays is the setup that the customer takes home, if chosen.
	Stays string `json:"stays,omitzero"`
	// StaysWhy is the technician's reason for that choice.
	StaysWhy string `json:"stays_why,omitzero"`
	// Reasons are why it came in, from the short list, with their outcomes.
	Reasons  []Reason `json:"reasons,omitempty"`
	Customer Customer `json:"customer,omitzero"`
	Work     []Work   `json:"work,omitempty"`
	// Gates that the job has passed, in the order of passing.
	Gates []Gate `json:"gates,omitempty"`
	// Report is the technician's choices for the report; nil if none.
	Report *ReportDraft `json:"report,omitzero"`
	// Carried is what of the customer's files came across; nil if not checked.
	Carried *Carried `json:"carried,omitzero"`
	// Bill is the cost of the work besides the drive, and its alternatives; nil if not known.
	Bill *Bill `json:"bill,omitzero"`
	// Quote is the quote before the work; nil if there was none.
	Quote *Quote `json:"quote,omitzero"`
	// Promises are follow-ups, each with its day.
	Promises []Promise `json:"promises,omitempty"`
	// Tasks are timed work of the visit.
	Tasks []Task `json:"tasks,omitempty"`
	// Looked are checks of the new drive by hand.
	Looked []CheckedByHand `json:"looked,omitempty"`
	// Tables are digests of imported tables of figures, to recognise them.
	Tables []string `json:"tables,omitempty"`
	// Binned is since when the job is in the bin; zero where it isn't.
	Binned time.Time `json:"binned,omitzero"`
	// Withdrawn are issued reports that were withdrawn.
	Withdrawn []Withdrawn `json:"withdrawn,omitempty"`
	// Waiting are runs that nobody at the bench asked for. They don't count until a technician accepts them.
	Waiting []WaitingRun `json:"waiting,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// AfterItWentBack is why runs of a sitting after hand-back are set aside.
const AfterItWentBack = "after it went back"

// Quote is an offer before the work, and its result.
type Quote struct {
	// Until is the day up to which it is valid, as 2006-01-02; "" if not known.
	Until string `json:"until,omitzero"`
	// Drives are the candidates offered, by name; empty means those of the forecast.
	Drives []string `json:"drives,omitempty"`
	// Accepted is when the customer accepted it, absent until then; New is the drive they chose, by name, and
	// Waits its forecast.
	Accepted time.Time  `json:"accepted,omitzero"`
	New      string     `json:"new,omitzero"`
	Waits    []Foretold `json:"waits,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// MaxOffered is how many drives a quote offers at most: it is one page.
const MaxOffered = 3

// Foretold is the forecast of a wait when a quote was accepted: an 80 % range, s, from that many jobs of a class.
type Foretold struct {
	Test  string  `json:"test"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
	Jobs  int     `json:"jobs"`
	Class string  `json:"class"` // test group any

	Unknown jsontext.Value `json:",embed"`
}

// State is the state of a job: only offered, on the bench, or handed back.
func (j *Job) State() State {
	switch {
	case j.Gate(GateHandedBack) != nil:
		return StateFinished
	case j.Head.Quote != nil && j.Head.Quote.Accepted.IsZero():
		return StateQuoted
	}
	return StateOpen
}

// Promise is a follow-up, and its result.
type Promise struct {
	ID   string      `json:"id"`
	What PromiseKind `json:"what"` // test fill words
	// Test is the id of the test whose figure is promised.
	Test  string `json:"test,omitzero"`
	Words string `json:"words,omitzero"`
	Due   string `json:"due"` // a day, as 2006-01-02
	// Answer is the answer as given, and Answered when; both absent while it is due.
	Answer   string    `json:"answer,omitzero"`
	Answered time.Time `json:"answered,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Withdrawn is a withdrawn report, by its number from 1, and when it was withdrawn.
type Withdrawn struct {
	Revision int       `json:"revision"`
	At       time.Time `json:"at"`

	Unknown jsontext.Value `json:",embed"`
}

// Withdrew returns when a report was withdrawn; nil if it wasn't.
func (j *Job) Withdrew(revision int) *time.Time {
	for i := range j.Head.Withdrawn {
		if w := &j.Head.Withdrawn[i]; w.Revision == revision {
			return &w.At
		}
	}
	return nil
}

// Bill is the cost of the work besides the drive (whose price is part of the drive), and its alternatives.
type Bill struct {
	Items []BillItem `json:"items,omitempty"`
	// HourWorth is what an hour is worth to the customer; nil if they didn't say.
	HourWorth *Price `json:"hour_worth,omitzero"`
	// NewComputer is what a comparable new computer costs.
	NewComputer *BillItem `json:"new_computer,omitzero"`
	// SupportEnds is the day on which the support of the computer's system ends, as 2006-01-02; ""
	// where it is not known.
	SupportEnds string `json:"support_ends,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// BillItem is an item with its price, and the day of the price.
type BillItem struct {
	What  string    `json:"what"`
	Price Price     `json:"price"`
	At    time.Time `json:"at,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Carried counts which of the old drive's files are on the new one. Their names stay with the probe.
type Carried struct {
	At time.Time `json:"at,omitzero"`
	// Files and Bytes are what the old drive held, except what is set apart.
	Files     int   `json:"files"`
	Bytes     int64 `json:"bytes"`
	Unchanged int   `json:"unchanged"`
	Missing   int   `json:"missing"`
	Changed   int   `json:"changed"`
	New       int   `json:"new"`
	// UnreadableBefore could not be read on the old drive, UnreadableNow cannot on the new one.
	UnreadableBefore int `json:"unreadable_before"`
	UnreadableNow    int `json:"unreadable_now"`

	Unknown jsontext.Value `json:",embed"`
}

// ReportDraft is what the technician chose for the report; the rest follows from the figures.
type ReportDraft struct {
	// Note is printed on the first page as typed.
	Note string `json:"note,omitzero"`
	// First are tests that come before the others of their kind, in this order.
	First []string `json:"first,omitempty"`
	// LeftOut are tests whose lines are not shown; the report names them.
	LeftOut []string `json:"left_out,omitempty"`
	// Short means fewer words beside the figures.
	Short bool `json:"short,omitzero"`
	// Length is one (page), two or full; "" is two.
	Length Length `json:"length,omitzero"`
	// Photos are the ids of the photos shown to the customer.
	Photos []string `json:"photos,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// Customer is the person the report is for.
type Customer struct {
	Name    string `json:"name,omitzero"`
	Contact string `json:"contact,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Work is other work of the same visit, which can change the figures, too.
type Work struct {
	ID   string    `json:"id,omitzero"`
	At   time.Time `json:"at"`
	What WorkKind  `json:"what"` // cleaning memory cooling firmware drivers tidying other
	Note string    `json:"note,omitzero"`
	// Touches is false if it changed nothing that is measured; nil is unknown.
	Touches *bool `json:"touches,omitzero"`
	// Fitted is the changed parts, if the work changed any.
	Fitted *Fitted `json:"fitted,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Gate is a point of the job that was passed.
type Gate struct {
	Name GateName  `json:"name"`
	At   time.Time `json:"at"`
	// Why is the technician's sentence where the gate was passed with something missing.
	Why string `json:"why,omitzero"`
	// Missing is what was missing when the gate was passed anyway.
	Missing []string `json:"missing,omitempty"`
	// OldDrive is what happened to the old drive at hand-back: returned, kept or destroyed.
	OldDrive Fate `json:"old_drive,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Computer is the customer's machine without its drive.
type Computer struct {
	ID          string `json:"id"`
	Maker       string `json:"maker,omitzero"`
	Model       string `json:"model,omitzero"`
	Processor   string `json:"processor,omitzero"`
	MemoryBytes int64  `json:"memory_bytes,omitzero"`
	Graphics    string `json:"graphics,omitzero"`
	System      string `json:"system,omitzero"`
	// Simulated names the simulated computer that stands in for a real one.
	Simulated string `json:"simulated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Drive is a storage drive: what somebody entered about it, and what was found out about it.
// An edit replaces the first as a whole and cannot touch the second.
type Drive struct {
	ID string `json:"id"`
	DriveLabel
	DriveFound
	// QueueDepth is how many requests it takes at once; 0 is not known.
	QueueDepth int `json:"queue_depth,omitzero"`
	// Fate is what happened to it; "" if not known.
	Fate Fate `json:"fate,omitzero"`
	// Simulated names the simulated drive that stands in for a real one.
	Simulated string `json:"simulated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// DriveLabel is what is entered about a drive, from its label and invoice.
type DriveLabel struct {
	Kind          DriveKind `json:"kind"`
	Maker         string    `json:"maker,omitzero"`
	Model         string    `json:"model,omitzero"`
	CapacityBytes int64     `json:"capacity_bytes,omitzero"`
	RPM           int       `json:"rpm,omitzero"`
	Interface     string    `json:"interface,omitzero"`
	Rated         *Rated    `json:"rated,omitzero"`
	Price         *Price    `json:"price,omitzero"`
}

// DriveFound is what the probe read, a check measured or a technician recorded about a drive; no drive form
// contains it.
type DriveFound struct {
	// SerialDigest identifies this drive among those of its model; the serial number can't be recovered from it.
	SerialDigest string `json:"serial_digest,omitzero"`
	// Shape is its physical form; nil if not known.
	Shape *Shape `json:"shape,omitzero"`
	// Held is the result of the true capacity check; nil if not checked.
	Held *Capacity `json:"held,omitzero"`
	// Sustained are the results of sustained writing checks, in order.
	Sustained []Sustained `json:"sustained,omitempty"`
}

// Rated holds the maker's figures for a drive: MB/s, degrees Celsius and TB.
type Rated struct {
	ReadMBs        float64 `json:"read_mb_s,omitzero"`
	WriteMBs       float64 `json:"write_mb_s,omitzero"`
	MaxTempC       float64 `json:"max_temp_c,omitzero"`
	EnduranceTB    float64 `json:"endurance_tb,omitzero"`
	ScatteredReads float64 `json:"scattered_reads_s,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Price is an amount in a currency; the amount is a decimal number as text.
type Price struct {
	Amount   string `json:"amount"`
	Currency string `json:"currency"`
	// At is when it was noted; zero where that isn't known.
	At time.Time `json:"at,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Plan is what the tests of a job have in common.
type Plan struct {
	// Reference is the id of the drive test that shares of waiting are worked
	// out from; empty means the scattered small reads.
	Reference string `json:"reference,omitzero"`
	// Headline is the id of the test that the report's headline is about, named before
	// anything is measured; empty means the first waiting test.
	Headline string `json:"headline,omitzero"`
	// Sittings are how many each setup is to be measured in; 0 is one.
	Sittings int `json:"wanted_sittings,omitzero"`
	// Template names what the plan was made from.
	Template string `json:"template,omitzero"`
	// Questions are those asked about the customer's usage, with the answers.
	Questions []Question `json:"questions,omitempty"`
	Steps     []Step     `json:"steps,omitempty"`
	Excuses   []Excuse   `json:"excuses,omitempty"`
	// Needs are further needs beyond those of the tests.
	Needs []string `json:"needs,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// Kind reports how a test is measured.
type Kind string

// Test kinds.
const (
	Timed   Kind = "timed"
	OnDrive Kind = "drive"
	OnFiles Kind = "file"
	Control Kind = "control"
	Note    Kind = "note"
)

// Test is one defined measurement with its parameters.
type Test struct {
	ID        string    `json:"id"`
	Kind      Kind      `json:"kind"`
	What      string    `json:"what,omitzero"`
	Name      string    `json:"name"`
	Unit      string    `json:"unit"`
	Better    Direction `json:"better"`
	PerWeek   float64   `json:"per_week,omitzero"`
	Wanted    int       `json:"wanted_runs,omitzero"`
	Phases    []Phase   `json:"phases,omitempty"`
	Warmth    Warmth    `json:"warmth,omitzero"`
	StartKind StartKind `json:"start_kind,omitzero"`
	Content   string    `json:"content,omitzero"`
	// Occasion is the event in the customer's week that the test describes; tests of one occasion describe the
	// same wait. A test without one is separate.
	Occasion string `json:"occasion,omitzero"`
	// Usage is the id of the question whose answer sets PerWeek.
	Usage string `json:"usage,omitzero"`
	// Pages is how many pages must have opened at a finish line; 0 is one.
	Pages int `json:"pages,omitzero"`
	// Begin and End are what is seen when its time begins and when it ends, as the end of "Press when …".
	Begin string `json:"begin,omitzero"`
	End   string `json:"end,omitzero"`
	// Follows is the test that it follows in one start: a run of it belongs to the same start (see [Run.Chain]).
	Follows string `json:"follows,omitzero"`
	// Retired: the test keeps its runs and wants no more.
	Retired bool `json:"retired,omitzero"`
	// Replaces is the id of the test whose parameters were changed after it had run.
	Replaces string `json:"replaces,omitzero"`
	// Params define a drive test, FileWork an unattended file test; a file test without it is timed by a person.
	Params   *drivetest.Workload `json:"params,omitzero"`
	FileWork *filetest.Work      `json:"file_work,omitzero"`
	// Launch is the program that a probe starts for a timed test, the same on both sides; nil if a person times
	// it.
	Launch *Launch `json:"launch,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Launch is a program that is timed from its start until its sign.
type Launch struct {
	Program string   `json:"program"`
	Args    []string `json:"args,omitempty"`
	Until   string   `json:"until"` // exit, line:TEXT, file:PATH, port:NUMBER, window[:TITLE] or quiet
	// Cold: its own files are dropped from memory before each run.
	Cold bool `json:"cold,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Processor marks the control that only uses the processor.
const Processor = "processor"

// Automatic reports whether the program runs the test automatically.
func (t *Test) Automatic() bool {
	switch t.Kind {
	case OnDrive:
		return t.Params != nil
	case OnFiles:
		return t.FileWork != nil
	case Control:
		return t.What == Processor
	case Timed, Note:
	}
	return false
}

// ReadsFolder reports whether the test needs a folder that is there.
func (t *Test) ReadsFolder() bool { return t.FileWork != nil && t.FileWork.Op == filetest.Read }

// ScatteredRead reports whether the test counts reads 4 KiB at random places, one at a
// time: the usual reference for how much of a wait is the drive's.
func (t *Test) ScatteredRead() bool {
	if p := t.Params; p != nil && t.Unit == "IOPS" {
		return p.Pattern == drivetest.Random && p.Op == drivetest.Read && p.BlockBytes == 4096 && p.Depth == 1
	}
	return t.What == ScatteredRead
}

// Phase is a part of a timed test. A phase that does not count (typing a
// password, a title screen that cannot be skipped) is shown but not added.
type Phase struct {
	ID     string `json:"id"`
	Name   string `json:"name"`
	Counts *bool  `json:"counts,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Counted reports whether the phase is part of the value; it is unless said otherwise.
func (p Phase) Counted() bool { return p.Counts == nil || *p.Counts }

// Counting says of each phase whether it counts; a test without phases has one that does.
func (t *Test) Counting() []bool {
	if len(t.Phases) == 0 {
		return []bool{true}
	}
	counts := make([]bool, len(t.Phases))
	for i, p := range t.Phases {
		counts[i] = p.Counted()
	}
	return counts
}

// Setup is the computer with a certain drive fitted.
type Setup struct {
	ID         string   `json:"id"`
	Role       Role     `json:"role"`
	Computer   string   `json:"computer"`
	Drive      string   `json:"drive"`
	Replaces   string   `json:"replaces,omitzero"`
	CacheDrive string   `json:"cache_drive,omitzero"`
	Attached   Attached `json:"attached,omitzero"`
	System     System   `json:"system,omitzero"`
	// UsedBytes is how much of the drive is in use; 0 if not noted.
	UsedBytes int64 `json:"used_bytes,omitzero"`
	// Name tells trials apart.
	Name string `json:"name,omitzero"`
	// Fitted are parts that differ in this setup; others are as in the computer.
	Fitted *Fitted `json:"fitted,omitzero"`
	// Link is the link by name; Attached has its rates.
	Link *Link `json:"link,omitzero"`
	// Also are the drives beside the one under test.
	Also []Also `json:"also,omitempty"`
	// Adds means that the drive was added and replaced none; files from before Relation have it.
	Adds bool `json:"adds,omitzero"`
	// Relation is how the drive joins the computer, and Of the drive that it replaces, joins or that goes back;
	// [Setup.Joins] reads older files, too.
	Relation Relation `json:"relation,omitzero"`
	Of       string   `json:"of,omitzero"`
	// CacheMode is how the cache drive caches, as its system names it.
	CacheMode string `json:"cache_mode,omitzero"`
	// StandIn: its drive stands in for one that could not be measured.
	StandIn bool `json:"stand_in,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Attached reports how the drive is attached to the computer; rates in MB/s after encoding.
type Attached struct {
	Port       Port    `json:"port,omitzero"` // sata m2 usb mmc pcie
	LinkMBs    float64 `json:"link_mb_s,omitzero"`
	CapableMBs float64 `json:"capable_mb_s,omitzero"`
	// Source is where this comes from: stated or probe; "" in older files.
	Source Source `json:"source,omitzero"`
	// Stated is what somebody had stated, if the probe reports something else.
	Stated *AttachedStated `json:"stated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// AttachedStated is how a drive is attached, as stated.
type AttachedStated struct {
	Port       Port    `json:"port,omitzero"`
	LinkMBs    float64 `json:"link_mb_s,omitzero"`
	CapableMBs float64 `json:"capable_mb_s,omitzero"`
}

// Fitted are the parts other than the drive that affect times.
type Fitted struct {
	MemoryBytes int64  `json:"memory_bytes,omitzero"`
	Processor   string `json:"processor,omitzero"`
	Graphics    string `json:"graphics,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Link is how drive and port communicate, by name: "6 Gb/s", "4.0 x2".
type Link struct {
	Kind       Port   `json:"kind,omitzero"` // sata pcie usb mmc
	Negotiated string `json:"negotiated,omitzero"`
	Drive      string `json:"drive,omitzero"`
	Port       string `json:"port,omitzero"`
	// Source is where this comes from, and Stated what somebody had stated, if the probe reports something else.
	Source Source      `json:"source,omitzero"`
	Stated *LinkStated `json:"stated,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// LinkStated is the stated link.
type LinkStated struct {
	Kind       Port   `json:"kind,omitzero"`
	Negotiated string `json:"negotiated,omitzero"`
}

// Also is a drive beside the one under test, and what is on it.
type Also struct {
	Drive string `json:"drive"`
	Holds string `json:"holds,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// System is the operating system on a setup's drive and how it came there.
type System struct {
	Origin  Origin `json:"origin,omitzero"` // as-arrived cloned fresh restored
	Version string `json:"version,omitzero"`
	// AlsoInstalled is what else is installed, such as another system.
	AlsoInstalled string `json:"also_installed,omitzero"`
	// Source is where the version comes from: stated or probe; "" in older files.
	Source Source `json:"source,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Sitting is a stretch of measuring on one setup under one set of conditions.
type Sitting struct {
	ID         string     `json:"id"`
	Setup      string     `json:"setup"`
	Started    time.Time  `json:"started,omitzero"`
	Conditions Conditions `json:"conditions"`
	// Job is the number of the earlier job in which it was, of a sitting that was copied
	// from one.
	Job string `json:"job,omitzero"`
	// FollowUp: it took place after hand-back, with the owner's values. Its runs are set aside: they document
	// later times and change no comparison.
	FollowUp bool `json:"follow_up,omitzero"`
	// Purpose is what it is for, Question what it asks, in words; [Sitting.For] reads older files, too.
	Purpose  Purpose `json:"purpose,omitzero"`
	Question string  `json:"question,omitzero"`
	// Where is the place of its rounds, if it wasn't the customer's computer.
	Where *Where `json:"where,omitzero"`
	// Photos were taken in it, of a screen or the bench.
	Photos []Photo `json:"photos,omitempty"`
	// Health is the health of the setup's drive then; nil if it wasn't read.
	Health *Health `json:"health,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Health is a drive's own health data; nil members are not known.
type Health struct {
	PowerOnHours *int64   `json:"power_on_hours,omitzero"`
	Reallocated  *int64   `json:"reallocated,omitzero"` // sectors
	Pending      *int64   `json:"pending,omitzero"`     // sectors
	WearPct      *float64 `json:"wear_pct,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Conditions are the test conditions. Unknown ones are nil or empty, never a guess.
type Conditions struct {
	Power     Power     `json:"power,omitzero"`      // mains battery
	PowerMode PowerMode `json:"power_mode,omitzero"` // normal saving
	// Busy is what else was running: nil if not known, empty if it was checked and nothing was.
	Busy          []Busy   `json:"busy,omitzero"`
	BackgroundMBs *float64 `json:"background_mb_s,omitzero"`
	CPUPct        *float64 `json:"cpu_pct,omitzero"`
	MemoryPct     *float64 `json:"memory_pct,omitzero"` // of the memory, in use
	Encrypted     *bool    `json:"encrypted,omitzero"`
	Encrypting    *bool    `json:"encrypting,omitzero"`
	// Pass is a pass over a whole drive, if the system reports it; Encrypting means that one is running.
	Pass           *Pass    `json:"pass,omitzero"`
	FillPct        *float64 `json:"fill_pct,omitzero"`
	DriveTempC     *float64 `json:"drive_temp_c,omitzero"`
	FirstAfterSwap *bool    `json:"first_after_swap,omitzero"`
	// BatteryFromPct and BatteryToPct are the battery's charge as the sitting began and ended, %.
	BatteryFromPct *float64 `json:"battery_from_pct,omitzero"`
	BatteryToPct   *float64 `json:"battery_to_pct,omitzero"`
	// Attached are the other attached drives, sticks and docks; nil if not checked.
	Attached  []string  `json:"attached,omitzero"`
	Firmware  *Firmware `json:"firmware,omitzero"`
	RoomTempC *float64  `json:"room_temp_c,omitzero"`
	Events    []Event   `json:"events,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// Pass is background work over a whole drive that disturbs all measuring until it ends.
type Pass struct {
	Kind        PassKind `json:"kind"`
	DonePct     *float64 `json:"done_pct,omitzero"`
	MinutesLeft *float64 `json:"minutes_left,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Firmware is the computer's firmware settings.
type Firmware struct {
	Version     string   `json:"version,omitzero"`
	QuickStart  *bool    `json:"quick_start,omitzero"`
	StorageMode string   `json:"storage_mode,omitzero"`
	Off         []string `json:"off,omitzero"` // controllers that are switched off; nil if not checked

	Unknown jsontext.Value `json:",embed"`
}

// Event is something that went wrong while measuring: a crash, a restart, a hang.
type Event struct {
	At   time.Time `json:"at,omitzero"`
	What EventKind `json:"what"`
	Test string    `json:"test,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Run is one execution of a test in a sitting. It is never deleted; it can be
// set aside, with a reason.
type Run struct {
	ID      string    `json:"id"`
	Test    string    `json:"test"`
	Sitting string    `json:"sitting"`
	At      time.Time `json:"at,omitzero"`
	// Value in the test's unit. Of a timed run with phases it is the sum of those that count.
	Value  float64 `json:"value"`
	Method Method  `json:"method"`
	// U is the instrument's standard uncertainty in the test's unit; nil if not stated.
	U             *float64           `json:"u,omitzero"`
	Warmth        Warmth             `json:"warmth,omitzero"`     // cold warm
	StartKind     StartKind          `json:"start_kind,omitzero"` // cold resume-assisted
	Phases        map[string]float64 `json:"phases,omitzero"`
	AppVersion    string             `json:"app_version,omitzero"`
	ContentDigest string             `json:"content_digest,omitzero"`
	PeakTempC     *float64           `json:"peak_temp_c,omitzero"`
	Series        *Series            `json:"series,omitzero"`
	Latency       *Latency           `json:"latency,omitzero"`
	// Curve is the rate by block size, of a size sweep.
	Curve []SizeRate `json:"curve,omitempty"`
	// Slowest is the slowest second of a drive test, MB/s; 0 where it was shorter.
	Slowest float64 `json:"slowest_mb_s,omitzero"`
	// Stopped is why a drive test ended: time, bytes, sure, heat or error.
	Stopped drivetest.StopReason `json:"stopped,omitzero"`
	// HalfWidthPct is the half-width of the 95 % interval of the rate within the
	// run, in % of the value; nil where the run was too short to tell.
	HalfWidthPct *float64 `json:"half_width_pct,omitzero"`
	IOs          int64    `json:"ios,omitzero"`
	Bytes        int64    `json:"bytes,omitzero"`
	// Files is how many files a file test or a hand-timed copy read or wrote; Bytes is their sum.
	Files int64 `json:"files,omitzero"`
	// Held is the paused time that was left out of a timed run, s.
	Held float64 `json:"held_s,omitzero"`
	// By is the technician who timed it.
	By string `json:"by,omitzero"`
	// SinceStart counts the launches since the computer started, from 1.
	SinceStart int `json:"since_start,omitzero"`
	// Video are the marks on a clip from which the run was timed.
	Video *Marked `json:"video,omitzero"`
	// Simulated marks a run of a simulated computer. Nothing removes the mark.
	Simulated bool   `json:"simulated,omitzero"`
	Engine    string `json:"engine,omitzero"`
	Note      string `json:"note,omitzero"`
	// Given is a typed figure as it was typed, "36.0 s".
	Given string `json:"given,omitzero"`
	// Bound means that the value is a bound: the truth lies below or above it.
	Bound Bound `json:"bound,omitzero"`
	// Range is the range of a typed figure; its value is the middle.
	Range *[2]float64 `json:"range,omitzero"`
	// ReadIn is the program that showed the figure, where that was not ours.
	ReadIn *ReadIn `json:"read_in,omitzero"`
	// Chain is shared by runs that came from one start of the computer.
	Chain string `json:"chain,omitzero"`
	// Photos show the reading.
	Photos []Photo `json:"photos,omitempty"`
	// Seconds is how long the measurement took.
	Seconds float64 `json:"seconds,omitzero"`
	// Placement is where on the drive its test file was.
	Placement *Placement `json:"placement,omitzero"`
	// EngineCPU is how busy the engine itself was.
	EngineCPU *EngineCPU `json:"engine_cpu_pct,omitzero"`
	// Repeat marks the repetition of the round's first test: it shows drift, and belongs to no side.
	Repeat bool `json:"repeat,omitzero"`
	// Params are the run's own, where they differ from its test's.
	Params *drivetest.Workload `json:"params,omitzero"`
	// Conditions are those of this run, where they were read.
	Conditions *Conditions `json:"conditions,omitzero"`
	// StartTempC is the drive's temperature as it began.
	StartTempC *float64 `json:"start_temp_c,omitzero"`
	// Sample are the existing files that it read, where it read a sample of them.
	Sample []SampleFile `json:"sample,omitempty"`
	// On is the drive that its content is on, where that is not the setup's.
	On       string    `json:"on,omitzero"`
	SetAside *SetAside `json:"set_aside"`

	Unknown jsontext.Value `json:",embed"`
}

// ReadIn is another program that showed a figure. Unknown members are "" or 0.
type ReadIn struct {
	Program string `json:"program,omitzero"`
	Version string `json:"version,omitzero"`
	// FileBytes is the size of its test file.
	FileBytes int64 `json:"file_bytes,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// ByHand reports whether a person took the time, or read the figure.
func (r *Run) ByHand() bool {
	return r.Method == Stopwatch || r.Method == FinishLine || r.Method == Video || r.Method == Typed
}

// Kept reports whether the run is part of the comparison.
func (r *Run) Kept() bool { return r.SetAside == nil && !r.Repeat }

// SampleFile is a file of a sample: a digest of its path, which only shows whether it is the same file, and how
// many of its bytes are read.
type SampleFile struct {
	Path  string `json:"path"`
	Bytes int64  `json:"bytes"`
}

// Placement is where on a drive a file lies, in % of its capacity from its first block.
type Placement struct {
	FromPct float64 `json:"from_pct"`
	ToPct   float64 `json:"to_pct"`
}

// EngineCPU is how busy the measuring program kept the processor, %: the one core that it
// kept busiest, and all of them.
type EngineCPU struct {
	Core float64 `json:"core"`
	All  float64 `json:"all"`
}

// Marked is the clip and the marks of a run. The stills of the marks stay when the clip is deleted.
type Marked struct {
	Clip  string      `json:"clip"`
	Name  string      `json:"name,omitzero"`
	Marks []VideoMark `json:"marks"`

	Unknown jsontext.Value `json:",embed"`
}

// VideoMark is a frame of a clip: its time, how long before it the previous frame
// was shown, s, and the picture that was kept of it.
type VideoMark struct {
	AtS    float64 `json:"at_s"`
	FrameS float64 `json:"frame_s"`
	Still  string  `json:"still,omitzero"`
}

// Series is a rate over the time of a run, MB/s, one figure per EveryS seconds.
type Series struct {
	EveryS float64   `json:"every_s"`
	MBs    []float64 `json:"mb_s"`
	// TempC are the drive's temperatures, one a second, if the system reports it.
	TempC []float64 `json:"temp_c,omitempty"`

	Unknown jsontext.Value `json:",embed"`
}

// SizeRate is a point of a size sweep: MB/s with blocks of that many bytes.
type SizeRate struct {
	BlockBytes int64   `json:"block_bytes"`
	MBs        float64 `json:"mb_s"`
}

// Latency is the latency of single requests, in milliseconds.
type Latency struct {
	MedianMS float64 `json:"median_ms"`
	P99MS    float64 `json:"p99_ms"`
	P999MS   float64 `json:"p999_ms"`
	MaxMS    float64 `json:"max_ms"`
	// Spread is the distribution of the latencies.
	Spread *Spread `json:"spread,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// Spread is a distribution on a logarithmic scale: Counts[i] requests took from
// FromMS × 10^(i ÷ PerDecade) up to the next such bound.
type Spread struct {
	FromMS    float64 `json:"from_ms"`
	PerDecade int     `json:"per_decade"`
	Counts    []int64 `json:"counts"`
}

// SetAside is why a run isn't part of the comparison. In a file it is the reason as text, or an object with the
// time; both are read.
type SetAside struct {
	Reason string    `json:"reason"`
	At     time.Time `json:"at,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

// setAsideObject has SetAside's members without its methods.
type setAsideObject SetAside

// MarshalJSONTo writes the reason alone where nothing else is known.
func (s SetAside) MarshalJSONTo(enc *jsontext.Encoder) error {
	if s.At.IsZero() && len(s.Unknown) == 0 {
		return enc.WriteToken(jsontext.String(s.Reason))
	}
	return json.MarshalEncode(enc, setAsideObject(s))
}

// UnmarshalJSONFrom reads either form.
func (s *SetAside) UnmarshalJSONFrom(dec *jsontext.Decoder) error {
	if dec.PeekKind() == '"' {
		*s = SetAside{}
		return json.UnmarshalDecode(dec, &s.Reason)
	}
	return json.UnmarshalDecode(dec, (*setAsideObject)(s))
}

// find returns a pointer to the first item for which is tells true, or nil.
func find[T any](items []T, is func(*T) bool) *T {
	for i := range items {
		if is(&items[i]) {
			return &items[i]
		}
	}
	return nil
}

// Test returns the test with that id, or nil.
func (j *Job) Test(id string) *Test { return find(j.Tests, func(t *Test) bool { return t.ID == id }) }

// Setup returns the setup with that id, or nil.
func (j *Job) Setup(id string) *Setup {
	return find(j.Setups, func(s *Setup) bool { return s.ID == id })
}

// SetupAs returns the first setup with that role, or nil.
func (j *Job) SetupAs(role Role) *Setup {
	return find(j.Setups, func(s *Setup) bool { return s.Role == role })
}

// Drive returns the drive with that id, or nil.
func (j *Job) Drive(id string) *Drive {
	return find(j.Drives, func(d *Drive) bool { return d.ID == id })
}

// Computer returns the computer with that id, or nil.
func (j *Job) Computer(id string) *Computer {
	return find(j.Computers, func(c *Computer) bool { return c.ID == id })
}

// Sitting returns the sitting with that id, or nil.
func (j *Job) Sitting(id string) *Sitting {
	return find(j.Sittings, func(s *Sitting) bool { return s.ID == id })
}

// Run returns the run with that id, or nil.
func (j *Job) Run(id string) *Run { return find(j.Runs, func(r *Run) bool { return r.ID == id }) }

// Gate returns the last passing of that gate, or nil.
func (j *Job) Gate(name GateName) *Gate {
	for i := len(j.Head.Gates) - 1; i >= 0; i-- {
		if j.Head.Gates[i].Name == name {
			return &j.Head.Gates[i]
		}
	}
	return nil
}

// SittingsOn returns the sittings on a setup in the order of their start.
func (j *Job) SittingsOn(setup string) []Sitting {
	var on []Sitting
	for _, s := range j.Sittings {
		if s.Setup == setup {
			on = append(on, s)
		}
	}
	slices.SortStableFunc(on, func(a, b Sitting) int { return a.Started.Compare(b.Started) })
	return on
}

// TakenOver returns the numbers of the earlier jobs that sittings on a setup come from.
func (j *Job) TakenOver(setup string) []string {
	var from []string
	for _, s := range j.Sittings {
		if s.Setup == setup && s.Job != "" && !slices.Contains(from, s.Job) {
			from = append(from, s.Job)
		}
	}
	return from
}

// RunsOf returns all runs of a test on a setup, over all its sittings, in the
// order in which they were made.
func (j *Job) RunsOf(test, setup string) []Run {
	var runs []Run
	for _, r := range j.Runs {
		if r.Test != test {
			continue
		}
		if s := j.Sitting(r.Sitting); s != nil && s.Setup == setup {
			runs = append(runs, r)
		}
	}
	slices.SortStableFunc(runs, func(a, b Run) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID))
	})
	return runs
}

// KeptRuns is RunsOf without the runs that were set aside.
func (j *Job) KeptRuns(test, setup string) []Run {
	return slices.DeleteFunc(j.RunsOf(test, setup), func(r Run) bool { return !r.Kept() })
}

// Drive tests from which the drive's share of a wait is computed: random reads of the customer's files, and of
// a test file.
const (
	ScatteredReadOwn = "scattered-read-existing"
	ScatteredRead    = "scattered-read"
)

// References returns the ids of the drive tests from which shares of waiting are computed, of which the first
// comparable one counts: the plan's, else the scattered
// reads of the customer's files, else those of a test file.
func (j *Job) References() []string {
	if j.Plan.Reference != "" {
		return []string{j.Plan.Reference}
	}
	var ids []string
	for _, retired := range []bool{false, true} {
		for _, what := range []string{ScatteredReadOwn, ScatteredRead} {
			for i := range j.Tests {
				if t := &j.Tests[i]; t.Kind == OnDrive && t.What == what && t.Retired == retired {
					ids = append(ids, t.ID)
				}
			}
		}
	}
	return ids
}

// Simulated reports whether any part of the job came from a simulated computer.
func (j *Job) Simulated() bool {
	return find(j.Runs, func(r *Run) bool { return r.Simulated }) != nil ||
		slices.ContainsFunc(j.Computers, func(c Computer) bool { return c.Simulated != "" }) ||
		slices.ContainsFunc(j.Drives, func(d Drive) bool { return d.Simulated != "" })
}
