package bench

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"nowthen/core/jobfile"
	"nowthen/core/message"
	"nowthen/core/plan"
	"nowthen/store"
)

// Ask is a figure that would fit better than the doubtful one.
type Ask struct {
	Value float64 `json:"value"`
	Unit  string  `json:"unit"`
	Words string  `json:"words"`
}

// Kind is the kind of a [Refusal].
type Kind string

// Kinds of refusal.
const (
	Invalid  Kind = "invalid"  // what was given is wrong
	Conflict Kind = "conflict" // it does not fit what is there
	Missing  Kind = "missing"  // there is no such thing
	Stale    Kind = "stale"    // it was meant for how things were before
	Doubtful Kind = "doubtful" // a figure looks wrong; it is taken where somebody says that it is right
	Lacking  Kind = "lacking"  // something is missing at a gate
	Damaged  Kind = "damaged"  // what is stored cannot be read any more
)

// Already is a job that already exists.
type Already struct {
	Job    string `json:"job"`
	Number string `json:"number"`
}

// Refusal is why something was not done: what is wrong, what was kept, and
// what to do. Fields names the faulty inputs.
type Refusal struct {
	Kind    Kind              `json:"-"`
	Message string            `json:"message"`
	Kept    string            `json:"kept,omitempty"`
	Do      string            `json:"do,omitempty"`
	Fields  map[string]string `json:"fields,omitempty"`
	Lost    []plan.Lost       `json:"lost,omitempty"`
	// Ask is what a doubtful figure may have been meant to be.
	Ask *Ask `json:"ask,omitempty"`
	// Already is the existing job, if one was to be imported.
	Already *Already `json:"already,omitempty"`
	// Current is the current job, if a change was meant for an earlier revision.
	Current *View `json:"-"`
}

func (r *Refusal) Error() string { return r.Message }

// Refuse returns a refusal with a plain English sentence for the technician; format and args as for
// [fmt.Sprintf].
func Refuse(kind Kind, format string, args ...any) *Refusal {
	return &Refusal{Kind: kind, Message: fmt.Sprintf(format, args...)}
}

// NoSuch is the refusal for a test, setup, … that the job doesn't have.
func NoSuch(what, id string) *Refusal {
	return Refuse(Missing, "There is no %s %q in this job.", what, id)
}

// Because returns a refusal with the text of an error from elsewhere.
func Because(kind Kind, err error) *Refusal {
	return &Refusal{Kind: kind, Message: Sentence(err)}
}

// IsDamaged reports whether an error is a refusal because stored data can't be read.
func IsDamaged(err error) bool {
	var r *Refusal
	return errors.As(err, &r) && r.Kind == Damaged
}

// Fields collects messages about faulty inputs, by name.
type Fields map[string]string

// Check adds a message about a field unless ok, or it has one already.
func (f Fields) Check(fine bool, field, message string) {
	if !fine && f[field] == "" {
		f[field] = message
	}
}

// OneOf adds a message if a value is not among the allowed ones; list "" to allow it.
func OneOf[T ~string](f Fields, field string, v T, of ...T) {
	var names []string
	for _, o := range of {
		if o != "" {
			names = append(names, string(o))
		}
	}
	f.Check(slices.Contains(of, v), field, fmt.Sprintf("%q is not one of %s.", v, strings.Join(names, ", ")))
}

// maxText is the maximum length of a text, in characters.
const maxText = 500

// maxName is the maximum length of a name, in characters.
const maxName = 200

// Name adds a message if a name is too long.
func (f Fields) Name(field, s string) {
	f.Check(len([]rune(s)) <= maxName, field, fmt.Sprintf("Enter at most %d characters.", maxName))
}

// Text adds a message if a text is too long.
func (f Fields) Text(field, s string) {
	f.Check(len([]rune(s)) <= maxText, field, fmt.Sprintf("Enter at most %d characters.", maxText))
}

// Refusal returns the refusal of the inputs, or nil if all are valid.
func (f Fields) Refusal() error {
	if len(f) == 0 {
		return nil
	}
	names := slices.Sorted(maps.Keys(f))
	return &Refusal{Kind: Invalid, Fields: f, Message: f[names[0]], Kept: "Nothing was changed.",
		Do: "Correct it and try again."}
}

// Found turns a store's error about a missing or unreadable thing into a refusal.
func Found(err error) error {
	if store.IsDamaged(err) {
		return &Refusal{Kind: Damaged, Message: "This job is damaged and can't be opened: " + err.Error() + ".",
			Kept: "All other jobs are unharmed.",
			Do:   "Restore the newest good backup into a new folder (nowthen restore)."}
	}
	if errors.Is(err, store.ErrNotFound) {
		return Refuse(Missing, "There is no such %s.",
			strings.SplitN(strings.TrimSuffix(err.Error(), ": not found"), " ", 2)[0])
	}
	return err
}

// Sentence formats an error as a sentence.
func Sentence(err error) string {
	if s := err.Error(); s != "" {
		return message.Capital(s) + "."
	}
	return ""
}

// FileRefusal words for people why a file was refused, with every fault.
func FileRefusal(refused *jobfile.Refusal) *Refusal {
	lines := refused.Lines()
	r := Refuse(Invalid, "%s", lines[0])
	if n := len(lines); n > 1 {
		r = Refuse(Invalid, "%s (and %d more)", lines[0], n-1)
	}
	r.Fields = map[string]string{}
	for i, l := range lines[:min(len(lines), 50)] {
		r.Fields[fmt.Sprintf("%d", i+1)] = l
	}
	r.Kept = "Nothing was imported; the jobs here are unchanged."
	r.Do = "Get the file again, or fix the places listed."
	return r
}
