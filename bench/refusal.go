package bench

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"nowthen/core/jobfile"
	"nowthen/core/plan"
	"nowthen/store"
)

// Ask is a figure that would fit better than the one in doubt.
type Ask struct {
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	Words string  `json:"words"`
}

// Kind says what sort of refusal a [Refusal] is.
type Kind string

// Kinds of refusal.
const (
	Invalid  Kind = "invalid"  // what was given is wrong
	Conflict Kind = "conflict" // it does not fit what is there
	Missing  Kind = "missing"  // there is no such thing
	Stale    Kind = "stale"    // it was meant for how things were before
	Doubtful Kind = "doubtful" // a figure looks wrong; it is taken where somebody says that it is right
	Lacking  Kind = "lacking"  // something is missing at a gate
)

// Refusal is why something was not done: what is wrong, what was kept, and
// what to do. Fields names the faulty inputs.
type Refusal struct {
	Kind    Kind              `json:"-"`
	Message string            `json:"message"`
	Kept    string            `json:"kept,omitempty"`
	Do      string            `json:"do,omitempty"`
	Fields  map[string]string `json:"fields,omitempty"`
	Lost    []plan.Lost       `json:"lost,omitempty"`
	// Ask is what a figure in doubt may have been meant to be.
	Ask *Ask `json:"ask,omitempty"`
	// Current is the job as it is, where a change was meant for an earlier one.
	Current *View `json:"-"`
}

func (r *Refusal) Error() string { return r.Message }

// Invalidf refuses what was given.
func Invalidf(format string, args ...any) *Refusal {
	return &Refusal{Kind: Invalid, Message: fmt.Sprintf(format, args...)}
}

// Conflictf refuses what does not fit what is there.
func Conflictf(format string, args ...any) *Refusal {
	return &Refusal{Kind: Conflict, Message: fmt.Sprintf(format, args...)}
}

// Missingf refuses what speaks of something that is not there.
func Missingf(format string, args ...any) *Refusal {
	return &Refusal{Kind: Missing, Message: fmt.Sprintf(format, args...)}
}

// Fields collects faulty inputs by their names.
type Fields map[string]string

// Check notes a message about a field unless it is fine, or one stands there.
func (f Fields) Check(fine bool, field, message string) {
	if !fine && f[field] == "" {
		f[field] = message
	}
}

// OneOf notes a value that is none of those there are; an empty one says nothing.
func (f Fields) OneOf(field, v string, of ...string) {
	f.Check(v == "" || slices.Contains(of, v), field, fmt.Sprintf("%q is not one of %s.", v, strings.Join(of, ", ")))
}

// maxText is how many characters a text has at most.
const maxText = 500

// Text notes a text that is too long.
func (f Fields) Text(field, s string) {
	f.Check(len([]rune(s)) <= maxText, field, fmt.Sprintf("That is longer than %d characters.", maxText))
}

// Refusal is why the inputs are refused, or nil where all are fine.
func (f Fields) Refusal() error {
	if len(f) == 0 {
		return nil
	}
	names := slices.Sorted(maps.Keys(f))
	return &Refusal{Kind: Invalid, Fields: f, Message: f[names[0]], Kept: "Nothing was changed.", Do: "Correct it and send it again."}
}

// Found turns the store's "not found" into a refusal.
func Found(err error) error {
	if errors.Is(err, store.ErrNotFound) {
		return Missingf("There is no such %s.", strings.SplitN(strings.TrimSuffix(err.Error(), ": not found"), " ", 2)[0])
	}
	return err
}

// Sentence makes a sentence of an error.
func Sentence(err error) string {
	s := err.Error()
	if s == "" {
		return s
	}
	return strings.ToUpper(s[:1]) + s[1:] + "."
}

// FileRefusal says for people why a file was refused, with every fault.
func FileRefusal(refused *jobfile.Refusal) *Refusal {
	lines := refused.Lines()
	r := Invalidf("%s", lines[0])
	if n := len(lines); n > 1 {
		r.Message += fmt.Sprintf(" (and %d more)", n-1)
	}
	r.Fields = map[string]string{}
	for i, l := range lines[:min(len(lines), 50)] {
		r.Fields[fmt.Sprintf("%d", i+1)] = l
	}
	r.Kept = "Nothing of the file was taken in; the jobs here are as they were."
	r.Do = "Ask for the file again, or mend the places named."
	return r
}
