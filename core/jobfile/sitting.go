package jobfile

import (
	"bytes"
	"fmt"
	"sync"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"nowthen/core/hardware"
	"nowthen/core/job"
	"nowthen/docs/schema"
)

// SittingFormat is at the head of every sitting file, *.nowthen-sitting.json.
const SittingFormat = "nowthen-sitting"

// SittingFile is what a probe measured in one sitting, members as in a job
// file. What the probe could not tell is absent.
type SittingFile struct {
	Format     string         `json:"format"`
	Version    int            `json:"version"`
	Probe      Probe          `json:"probe"`
	Computer   job.Computer   `json:"computer,omitzero"`
	Drive      job.Drive      `json:"drive,omitzero"`
	Attached   job.Attached   `json:"attached,omitzero"`
	Conditions job.Conditions `json:"conditions"`
	// Facts are all that was known of the computer; nil if not checked.
	Facts *hardware.Facts `json:"facts,omitzero"`
	Tests []job.Test      `json:"tests"`
	Runs  []job.Run       `json:"runs"`

	Unknown jsontext.Value `json:",embed"`
}

// Probe says what measured: its engine's version and the system it ran on.
type Probe struct {
	Engine string `json:"engine"`
	System string `json:"system,omitzero"`

	Unknown jsontext.Value `json:",embed"`
}

var compiledSitting = sync.OnceValue(func() *jsonschema.Schema {
	c := jsonschema.NewCompiler()
	c.AssertFormat()
	for url, text := range map[string][]byte{"urn:nowthen:schema:job:1": schema.Job,
		"urn:nowthen:schema:sitting:1": schema.Sitting} {
		doc, err := jsonschema.UnmarshalJSON(bytes.NewReader(text))
		if err != nil {
			panic("jobfile: the published schema is not JSON: " + err.Error())
		}
		if err := c.AddResource(url, doc); err != nil {
			panic("jobfile: " + err.Error())
		}
	}
	return c.MustCompile("urn:nowthen:schema:sitting:1")
})

// ReadSitting reads a sitting file. name is for messages only. The error is a
// *Refusal.
func ReadSitting(name string, data []byte) (*SittingFile, error) {
	f := &SittingFile{}
	faults := decode(data, "sitting file", SittingFormat, compiledSitting, f)
	if len(faults) == 0 {
		faults = f.check()
	}
	if len(faults) > 0 {
		return nil, &Refusal{Name: name, Faults: faults}
	}
	return f, nil
}

// check finds what of a sitting file contradicts itself, by the rules of a job.
func (f *SittingFile) check() []job.Fault {
	tests := map[string]*job.Test{}
	var faults []job.Fault
	if f.Facts != nil {
		if err := f.Facts.Check(); err != nil {
			faults = append(faults, job.Fault{Place: "/facts", Reason: err.Error()})
		}
	}
	for i := range f.Tests {
		if tests[f.Tests[i].ID] != nil {
			faults = append(faults,
				job.Fault{Place: fmt.Sprintf("/tests/%d/id", i),
					Reason: fmt.Sprintf("the id %q stands twice", f.Tests[i].ID)})
		}
		tests[f.Tests[i].ID] = &f.Tests[i]
	}
	seen := map[string]bool{}
	for i := range f.Runs {
		r := &f.Runs[i]
		at := fmt.Sprintf("/runs/%d", i)
		if seen[r.ID] {
			faults = append(faults, job.Fault{Place: at + "/id", Reason: fmt.Sprintf("the id %q stands twice", r.ID)})
		}
		seen[r.ID] = true
		if t := tests[r.Test]; t == nil {
			faults = append(faults,
				job.Fault{Place: at + "/test", Reason: fmt.Sprintf("no test has the id %q", r.Test)})
		} else if err := job.CheckRun(t, r); err != nil {
			faults = append(faults, job.Fault{Place: at + "/value", Reason: err.Error()})
		}
	}
	return faults
}

// WriteSitting returns a sitting file, indented, ending in a newline.
func WriteSitting(f *SittingFile) ([]byte, error) {
	f.Format, f.Version = SittingFormat, Version
	out, err := json.Marshal(f, json.Deterministic(true), jsontext.WithIndent("  "))
	if err != nil {
		return nil, fmt.Errorf("writing the sitting file: %w", err)
	}
	return append(out, '\n'), nil
}
