// Package order holds the messages between a bench and a joined probe: who the probe is, its
// orders, its progress, and its results. All of them are JSON.
//
// It is pure and knows nothing of HTTP, files or screens. The Check methods validate every
// message from outside before it is used.
package order

import (
	"errors"
	"fmt"
	"math"
	"time"

	"nowthen/core/drivetest"
	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/core/round"
)

// Protocol is the version of the protocol between bench and probe. One version older or newer is understood.
const Protocol = 1

// ErrProtocol means that the versions of bench and probe are too far apart.
var ErrProtocol = errors.New("the probe and the bench are of versions too far apart")

// Hello is how a probe introduces itself when it joins and when it is back.
type Hello struct {
	// Code is the pairing code, only when joining.
	Code     string `json:"code,omitzero"`
	Protocol int    `json:"protocol"`
	Engine   string `json:"engine"`
	System   string `json:"system"` // as linux/amd64
	// Machine identifies this computer: a digest, "" if it can't be identified.
	Machine string `json:"machine,omitzero"`
	// Simulated names the simulated computer that it is.
	Simulated string `json:"simulated,omitzero"`
	// Now is the computer's clock, which may be years off.
	Now   time.Time      `json:"now,omitzero"`
	Facts hardware.Facts `json:"facts"`
}

// Bounds of a hello.
const (
	maxText = 200
	maxPath = 4096
)

// Check returns what is wrong with a hello, or nil.
func (h *Hello) Check() error {
	if d := h.Protocol - Protocol; d < -1 || d > 1 {
		return fmt.Errorf("%w: the probe speaks version %d, the bench %d", ErrProtocol, h.Protocol, Protocol)
	}
	for _, s := range []string{h.Code, h.Engine, h.System, h.Machine, h.Simulated} {
		if len(s) > maxText {
			return fmt.Errorf("a text of %d bytes is longer than %d", len(s), maxText)
		}
	}
	return h.Facts.Check()
}

// Welcome is a bench's answer to a probe that it accepts.
type Welcome struct {
	Probe string `json:"probe"`
	// Token identifies the probe from now on; only when joining.
	Token string `json:"token,omitzero"`
	// Job is the number of its job.
	Job string `json:"job"`
}

// Announcement announces a computer with the key of a shop's stick.
type Announcement struct {
	Key   string `json:"key"`
	Hello Hello  `json:"hello"`
}

// Offer is what a bench answers to an announcement. Digits are the two that both screens show; somebody has so many
// seconds to admit the computer, which asks for that by the token.
type Offer struct {
	Token   string  `json:"token"`
	Digits  string  `json:"digits"`
	Seconds float64 `json:"seconds"`
}

// Clock is the bench's clock when it answered. The bench receives both the last sign before a restart and the
// first one after it, which makes the time independent of the computer's own clock.
type Clock struct {
	Now time.Time `json:"now"`
	// Steady counts seconds since the bench was started, and Start identifies that start. Nobody can set it.
	Steady float64 `json:"steady_s"`
	Start  string  `json:"start"`
}

// Since is the time between an earlier answer and c, s: by the steady clock if it is the same, else by the time
// of day.
func (c Clock) Since(earlier Clock) float64 {
	if c.Start != "" && c.Start == earlier.Start {
		return c.Steady - earlier.Steady
	}
	return c.Now.Sub(earlier.Now).Seconds()
}

// Sign is a probe's last message before its computer restarts, or the first one after it. The bench answers
// with its clock.
type Sign struct {
	Order string `json:"order"`
	// Step counts from 0 over the steps of the whole order.
	Step int `json:"step"`
	// Leaving: it is the last one before.
	Leaving bool `json:"leaving,omitzero"`
}

// Kind is the kind of an order.
type Kind string

// Kinds of order.
const (
	Measure  Kind = "measure"  // run tests
	Launch   Kind = "launch"   // time the launches of a program
	Restart  Kind = "restart"  // time restarts of the computer
	Look     Kind = "look"     // look at the conditions
	Weigh    Kind = "weigh"    // look which folders hold the most
	Capacity Kind = "capacity" // check whether a drive has the capacity it reports
	Sustain  Kind = "sustain"  // write to a drive for a while
	List     Kind = "list"     // list the files of a folder
	Compare  Kind = "compare"  // check which files of the list came across
	Leave    Kind = "leave"    // remove what was made and end
	Greet    Kind = "greet"    // say anew what the computer is
	Stop     Kind = "stop"     // end the order of that id; what was finished is kept
	Simulate Kind = "simulate" // of a simulated computer: what its technician does to it
)

// Order is something for a probe to do.
type Order struct {
	ID   string `json:"id"`
	Kind Kind   `json:"kind"`
	// Sitting is the sitting of its runs.
	Sitting string     `json:"sitting,omitzero"`
	Tests   []job.Test `json:"tests,omitempty"`
	// Wanted is how often each of the tests is run.
	Wanted []int `json:"wanted,omitempty"`
	// Skip is how many of the steps were done already, where an order is given again.
	Skip int `json:"skip,omitzero"`
	// Dir is a folder on the drive to measure, such as its mount point.
	Dir string `json:"dir,omitzero"`
	// Folder is the one that is read: by tests that read one, and by [List] and [Compare], where "" is the users' own.
	Folder   string  `json:"folder,omitzero"`
	Seed     uint64  `json:"seed,omitzero"`
	MaxTempC float64 `json:"max_temp_c,omitzero"`
	// Gentle: [List] and [Compare] pause as long as they read.
	Gentle bool `json:"gentle,omitzero"`
	// Patient: before each run it waits until the conditions give no reason for doubt.
	Patient bool `json:"patient,omitzero"`
	// ByHand: the technician restarts the computer, not the probe.
	ByHand bool `json:"by_hand,omitzero"`
	// Do is an action on a simulated computer, see [Doings].
	Do string `json:"do,omitzero"`
	// Check is how the new drive is checked, of [Capacity] and [Sustain].
	Check *Check `json:"check,omitzero"`
}

// Actions on a simulated computer.
const (
	Swap       = "swap"       // fit the other drive; it goes away and comes back
	OnBattery  = "on-battery" // pull the charger
	OnMains    = "on-mains"   // plug it in again
	Download   = "download"   // begin a download
	Quiet      = "quiet"      // end what else runs
	Encrypting = "encrypting" // an encryption pass begins
	Encrypted  = "encrypted"  // it has ended
	Attach     = "attach"     // hang the new drive on by USB
	Grow       = "grow"       // let the system's partition have the room of a larger drive
)

// Doings are all actions on a simulated computer.
var Doings = []string{Swap, OnBattery, OnMains, Download, Quiet, Encrypting, Encrypted, Attach, Grow}

// Steps are the runs of an order, those that were done left out.
func (o *Order) Steps() []round.Step {
	steps := round.Steps(o.Tests, o.Wanted)
	return steps[min(max(o.Skip, 0), len(steps)):]
}

// Progress is how far a probe is.
type Progress struct {
	Order string `json:"order"`
	// Step counts from 0 over the steps of the whole order.
	Step       int      `json:"step"`
	Laying     bool     `json:"laying,omitzero"`
	Done       float64  `json:"done"`
	MBs        float64  `json:"mb_s"`
	LatencyMS  float64  `json:"latency_ms,omitzero"`
	TempC      *float64 `json:"temp_c,omitzero"`
	HalfWidth  *float64 `json:"half_width,omitzero"`
	BlockBytes int64    `json:"block_bytes,omitzero"`
	Bytes      int64    `json:"bytes"`
	ElapsedS   float64  `json:"elapsed_s"`
	// Waiting is what a patient probe waits for to pass, in words.
	Waiting string `json:"waiting,omitzero"`
}

// Check reports what is wrong with progress, or nil.
func (p *Progress) Check() error {
	if len(p.Waiting) > 10*maxText {
		return errors.New("that is longer than a reason to wait can be")
	}
	return nil
}

// ProgressOf converts an engine's progress for sending.
func ProgressOf(order string, step int, p drivetest.Progress) Progress {
	known := func(v float64) *float64 {
		if math.IsNaN(v) || math.IsInf(v, 0) {
			return nil
		}
		return &v
	}
	or0 := func(v float64) float64 {
		if k := known(v); k != nil {
			return *k
		}
		return 0
	}
	return Progress{Order: order, Step: step, Laying: p.Laying, Done: or0(p.Done), MBs: or0(p.MBs),
		LatencyMS: or0(p.LatencyMS), TempC: known(p.TempC),
		HalfWidth: known(p.HalfWidth), BlockBytes: p.BlockBytes, Bytes: p.Bytes, ElapsedS: p.Elapsed.Seconds()}
}

// Engine is the progress as the engine tells it.
func (p Progress) Engine() drivetest.Progress {
	or := func(v *float64) float64 {
		if v == nil {
			return math.NaN()
		}
		return *v
	}
	return drivetest.Progress{Laying: p.Laying, Done: min(max(p.Done, 0), 1), MBs: max(p.MBs, 0),
		LatencyMS: max(p.LatencyMS, 0), TempC: or(p.TempC),
		HalfWidth: or(p.HalfWidth), Elapsed: time.Duration(min(max(p.ElapsedS, 0),
			maxElapsedS) * float64(time.Second)), Bytes: max(p.Bytes, 0), BlockBytes: max(p.BlockBytes, 0)}
}

// maxElapsedS is the longest reported duration of a test, s: ten days.
const maxElapsedS = 10 * 24 * 3600

// Result is a run that was finished. Its sitting is that of its order.
type Result struct {
	Order string  `json:"order"`
	Step  int     `json:"step"`
	Run   job.Run `json:"run"`
}

// Facts are the conditions that a probe saw. Refused says why they could not be read.
type Facts struct {
	Order      string         `json:"order"`
	Conditions job.Conditions `json:"conditions"`
	// Causes are the programs that use the drive or the processor most, in words.
	Causes  []string `json:"causes,omitempty"`
	Refused string   `json:"refused,omitzero"`
}

// Folder is how much a folder holds; its path is that below the one that was looked into.
type Folder struct {
	Path  string `json:"path"`
	Files int    `json:"files"`
	Bytes int64  `json:"bytes"`
}

// Weighed are the largest folders of a drive, largest first. Refused is why they couldn't be read.
type Weighed struct {
	Order   string   `json:"order"`
	Dir     string   `json:"dir"` // into which was looked
	Files   int      `json:"files"`
	Bytes   int64    `json:"bytes"`
	Largest []Folder `json:"largest"`
	Refused string   `json:"refused,omitzero"`
}

// MostFolders is how many folders are named at most.
const MostFolders = 20

// Check returns what is wrong with the folders, or nil.
func (w *Weighed) Check() error {
	if len(w.Largest) > MostFolders {
		return fmt.Errorf("%d folders are more than %d", len(w.Largest), MostFolders)
	}
	if w.Files < 0 || w.Bytes < 0 || max(len(w.Dir), len(w.Refused)) > maxPath {
		return errors.New("that is no weight of a folder")
	}
	for _, f := range w.Largest {
		if f.Files < 0 || f.Bytes < 0 || f.Bytes > w.Bytes || len(f.Path) > maxPath {
			return fmt.Errorf("%.100q is no weight of a folder", f.Path)
		}
	}
	return nil
}

// How an order ended.
const (
	Done      = "done"
	Cancelled = "cancelled"
	Failed    = "failed"
)

// Ended reports how an order ended, and what happened to what was made for it.
type Ended struct {
	Order string `json:"order"`
	State string `json:"state"` // done cancelled failed
	// Error is why it failed, as a sentence without its full stop.
	Error string `json:"error,omitzero"`
	// Cleared describes what happened to the test files.
	Cleared string `json:"cleared,omitzero"`
}

// Check returns what is wrong with the end of an order, or nil.
func (e *Ended) Check() error {
	switch e.State {
	case Done, Cancelled, Failed:
	default:
		return fmt.Errorf("%q is no way in which an order ends", e.State)
	}
	if len(e.Error) > 10*maxText || len(e.Cleared) > 10*maxText {
		return errors.New("that is longer than an error can be")
	}
	return nil
}
