// Package jobfile reads and writes the open job file, *.nowthen.json.
//
// A file is read completely, or refused with every error and its place; nothing is kept of a
// refused file. Members beyond the published ones are preserved. The package works on bytes and
// knows nothing of screens, HTTP or SQL.
package jobfile

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/sync/errgroup"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"nowthen/core/job"
	"nowthen/docs/schema"
)

// Format and Version are at the head of every job file.
const (
	Format  = "nowthen-job"
	Version = 1
)

// MaxBytes is the largest file that is read. It holds [job.MaxRuns] runs with their series, and more
// than half a million bare ones: what can be written can be read.
const MaxBytes = 256 << 20

// maxCompact is how large the compact form of a job that is read may be, so that it can still grow and
// be written.
const maxCompact = MaxBytes * 3 / 4

// indented is up to how many runs a file is written with indents, for people.
const indented = 2000

// file is a job with the head that says what it is.
type file struct {
	Format  string `json:"format"`
	Version int    `json:"version"`
	job.Job
}

// Refusal is why a file was not taken: its name and every fault found.
type Refusal struct {
	Name   string
	Faults []job.Fault
}

func (r *Refusal) Error() string { return strings.Join(r.Lines(), "\n") }

// Lines returns one line per fault: file, place and reason.
func (r *Refusal) Lines() []string {
	lines := make([]string, len(r.Faults))
	for i, f := range r.Faults {
		place := f.Place
		if place == "" {
			place = "/"
		}
		lines[i] = r.Name + ": " + place + ": " + strings.ReplaceAll(f.Reason, "\n", " ")
	}
	return lines
}

// compiled compiles the published schema once.
var compiled = sync.OnceValue(func() *jsonschema.Schema {
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(schema.Job))
	if err != nil {
		panic("jobfile: the published schema is not JSON: " + err.Error())
	}
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	const url = "urn:nowthen:schema:job:1"
	if err := c.AddResource(url, doc); err != nil {
		panic("jobfile: " + err.Error())
	}
	return c.MustCompile(url)
})

// Read reads a job file. name is for messages only. The error is a *Refusal.
func Read(name string, data []byte) (*job.Job, error) {
	var f file
	faults := decode(data, "job file", Format, compiled, &f)
	if len(faults) == 0 {
		faults = f.Job.Check()
	}
	if len(faults) == 0 && len(data) > maxCompact/2 {
		if out, err := Write(&f.Job); err == nil && len(out) > maxCompact {
			faults = append(faults,
				job.Fault{Reason: fmt.Sprintf("the job has %d MiB; one of at most %d can be kept and written again",
					len(out)>>20, maxCompact>>20)})
		}
	}
	if len(faults) > 0 {
		return nil, &Refusal{Name: name, Faults: faults}
	}
	return &f.Job, nil
}

// decode reads a file of ours into v: size, syntax, format, version and schema
// are checked in that order, and the faults of the first that objects are
// returned. kind names the file for people.
func decode(data []byte, kind, format string, schema func() *jsonschema.Schema, v any) []job.Fault {
	one := func(f job.Fault) []job.Fault { return []job.Fault{f} }
	if len(data) > MaxBytes {
		return one(job.Fault{Reason: fmt.Sprintf("the file has %d MiB; a %s has at most %d", len(data)>>20, kind,
			MaxBytes>>20)})
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if v := jsontext.Value(data); !v.IsValid() {
		return one(syntaxFault(data))
	}
	var head struct {
		Format  jsontext.Value `json:"format"`
		Version jsontext.Value `json:"version"`
	}
	if err := json.Unmarshal(data, &head); err != nil || string(head.Format) != `"`+format+`"` {
		return one(job.Fault{Place: "/format",
			Reason: fmt.Sprintf("this is not a %s: the format is %s, not %q", kind, orMissing(head.Format), format)})
	}
	if string(head.Version) != "1" {
		return one(job.Fault{Place: "/version",
			Reason: fmt.Sprintf("version %s is not known here; this program reads version %d", orMissing(head.Version),
				Version)})
	}
	// The shape and the members are read side by side: each goes through the whole text.
	typed := make(chan error, 1)
	go func() { typed <- json.Unmarshal(data, v) }()
	doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(data))
	if err == nil {
		err = validate(schema(), doc)
	}
	unread := <-typed
	if err != nil {
		var invalid *jsonschema.ValidationError
		if errors.As(err, &invalid) {
			return schemaFaults(invalid)
		}
		return one(job.Fault{Reason: err.Error()})
	}
	if unread != nil {
		return one(unmarshalFault(unread))
	}
	return nil
}

// A file is validated in parts from manyRuns on.
const (
	manyRuns = 1000
	parts    = 4
)

// validate holds a document to its schema. One with many runs is held to it in parts, side by side, each with
// some of the runs; where a part fails, the whole is validated again, so that the faults name their places in it.
func validate(s *jsonschema.Schema, doc any) error {
	whole, _ := doc.(map[string]any)
	runs, _ := whole["runs"].([]any)
	if len(runs) < manyRuns {
		return s.Validate(doc)
	}
	var g errgroup.Group
	for some := range slices.Chunk(runs, (len(runs)+parts-1)/parts) {
		part := maps.Clone(whole)
		part["runs"] = some
		g.Go(func() error { return s.Validate(part) })
	}
	if g.Wait() != nil {
		return s.Validate(doc)
	}
	return nil
}

func orMissing(v jsontext.Value) string {
	if len(v) == 0 {
		return "missing"
	}
	if len(v) > 60 {
		return string(v[:60]) + "…"
	}
	return string(v)
}

// syntaxFault finds where the text stops being JSON, as line and column.
func syntaxFault(data []byte) job.Fault {
	dec := jsontext.NewDecoder(bytes.NewReader(data))
	var err error
	if err = dec.SkipValue(); err == nil {
		_, err = dec.ReadToken()
	}
	at := dec.InputOffset()
	reason := "there is more after the end of the JSON value"
	if err != nil {
		var syn *jsontext.SyntacticError
		reason = err.Error()
		if errors.As(err, &syn) {
			at = syn.ByteOffset
			reason = syn.Err.Error()
		}
	}
	at = min(at, int64(len(data)))
	line := 1 + bytes.Count(data[:at], []byte("\n"))
	col := at - int64(bytes.LastIndexByte(data[:at], '\n'))
	if at == int64(len(data)) {
		reason = "the file ends in the middle of its content (was it cut off?)"
	}
	return job.Fault{Place: fmt.Sprintf("line %d, column %d", line, col), Reason: "not JSON: " + reason}
}

func unmarshalFault(err error) job.Fault {
	var sem *json.SemanticError
	if errors.As(err, &sem) {
		reason := fmt.Sprintf("%s does not fit here", sem.JSONKind)
		if sem.Err != nil {
			reason = sem.Err.Error()
		}
		return job.Fault{Place: string(sem.JSONPointer), Reason: reason}
	}
	return job.Fault{Reason: err.Error()}
}

// schemaFaults returns the innermost reasons of a schema's refusal. Where a
// value may be one of several forms, the forms' own faults say less than that
// none of them fits.
func schemaFaults(e *jsonschema.ValidationError) []job.Fault {
	var faults []job.Fault
	var walk func(*jsonschema.ValidationError)
	walk = func(e *jsonschema.ValidationError) {
		if len(e.Causes) == 0 {
			place := ""
			for _, token := range e.InstanceLocation {
				place += "/" + strings.NewReplacer("~", "~0", "/", "~1").Replace(token)
			}
			faults = append(faults, job.Fault{Place: place, Reason: e.ErrorKind.LocalizedString(printer)})
			return
		}
		for _, c := range e.Causes {
			walk(c)
		}
	}
	walk(e)
	return faults
}

var printer = message.NewPrinter(language.English)

// Write returns the job as a job file, ending in a newline. One with few runs is indented.
func Write(j *job.Job) ([]byte, error) {
	options := []json.Options{json.Deterministic(true)}
	if len(j.Runs) <= indented {
		options = append(options, jsontext.WithIndent("  "))
	}
	out, err := json.Marshal(&file{Format: Format, Version: Version, Job: *j}, options...)
	if err != nil {
		return nil, fmt.Errorf("writing the job file: %w", err)
	}
	return append(out, '\n'), nil
}
