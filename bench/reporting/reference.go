package reporting

import (
	"context"
	"reflect"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/words"
)

// Reference is a setup of an earlier job, shown beside a ledger's lines. It is in no group, and no claim is
// made about it.
type Reference struct {
	Number   string    `json:"number"`
	At       time.Time `json:"at"` // when it was last measured
	Computer string    `json:"computer"`
	Drive    string    `json:"drive"`
	Setup    string    `json:"setup"`
	// Setups are the measured setups of that job.
	Setups    []ReferenceSetup  `json:"setups"`
	Simulated bool              `json:"simulated"`
	Figures   []ReferenceFigure `json:"figures"`
}

// ReferenceSetup is a setup that can be shown.
type ReferenceSetup struct {
	ID    string `json:"id"`
	Drive string `json:"drive"`
}

// ReferenceFigure is a figure of a test that both jobs have: the median of its kept runs, in the test's unit.
type ReferenceFigure struct {
	Test  string    `json:"test"` // of the job that is looked at
	Value float64   `json:"value"`
	Runs  int       `json:"runs"`
	Bound job.Bound `json:"bound,omitzero"`
}

// Reference returns a setup of another job by that job's number, with the figures of the tests that both have. An
// empty setup is the one that was kept.
func (x *Reports) Reference(ctx context.Context, jobID, number, setup string) (*Reference, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	ids, err := x.store.ByNumber(ctx, strings.TrimSpace(number))
	if err != nil {
		return nil, err
	}
	var other *job.Job
	for _, id := range ids {
		if o, err := x.jobs.Load(ctx, id); err == nil && id != jobID && other == nil {
			other = o.Job
		}
	}
	if other == nil {
		return nil, &bench.Refusal{Kind: bench.Missing, Message: "There is no other job " + number + ".",
			Kept: "Nothing was changed.", Do: "Look its number up on the start page."}
	}
	r := &Reference{Number: other.Head.Number, Setups: []ReferenceSetup{}, Simulated: other.Simulated(),
		Figures: []ReferenceFigure{}}
	ix := other.Indexed()
	var at *job.Setup
	for i := range other.Setups {
		o := &other.Setups[i]
		if !measuredOn(ix, o.ID) {
			continue
		}
		r.Setups = append(r.Setups, ReferenceSetup{o.ID, words.DriveName(other.Drive(o.Drive))})
		if o.ID == setup || setup == "" && (at == nil || other.AsNow() == o) {
			at = o
		}
	}
	if at == nil {
		return nil, &bench.Refusal{Kind: bench.Missing,
			Message: "Nothing was measured on that side of job " + other.Head.Number + ".",
			Kept:    "Nothing was changed.", Do: "Pick another job, or another drive of it."}
	}
	c := other.Computer(at.Computer)
	r.Setup, r.Drive = at.ID, words.DriveName(other.Drive(at.Drive))
	r.Computer = strings.TrimSpace(c.Maker + " " + c.Model)
	for _, sitting := range other.SittingsOn(at.ID) {
		if sitting.Started.After(r.At) {
			r.At = sitting.Started
		}
	}
	for i := range s.Job.Tests {
		t := &s.Job.Tests[i]
		for k := range other.Tests {
			if o := &other.Tests[k]; sameTest(t, o) {
				if f := side.Of(ix, o, at.ID); f != nil {
					r.Figures = append(r.Figures, ReferenceFigure{t.ID, f.Centre, f.N, f.Bound})
				}
				break
			}
		}
	}
	return r, nil
}

// sameTest reports whether tests of two jobs measure the same: of the catalogue, in the same unit, with the same
// parameters and on the same content.
func sameTest(a, b *job.Test) bool {
	return a.What != "" && a.What == b.What && a.Kind == b.Kind && a.Unit == b.Unit && a.Content == b.Content &&
		reflect.DeepEqual(a.Params, b.Params) && reflect.DeepEqual(a.FileWork, b.FileWork)
}
