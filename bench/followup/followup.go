// Package followup handles what happens after a computer went back: promises with their day,
// and the check at home, where the customer times the start again.
//
// The customer's times go into a sitting of their own whose runs are set aside. They show how
// the computer does and change no comparison. It must not import HTTP, screens or other use
// cases.
package followup

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/figures"
	"nowthen/core/job"
	"nowthen/core/stats"
	"nowthen/store"
)

// Store is the part of the store that follow-ups use.
type Store interface {
	Search(ctx context.Context, by store.Search) (found []store.Found, total int, next string, err error)
	Outlines(ctx context.Context, ids []string) ([]store.Outline, []store.Damaged, error)
}

// OpenedBy returns the job and the language of the report behind a shared link's token.
type OpenedBy func(ctx context.Context, token string) (jobID, lang string, err error)

// FollowUps handles the follow-ups of a bench.
type FollowUps struct {
	jobs   *bench.Jobs
	store  Store
	opened OpenedBy
}

// New returns the follow-ups of a bench.
func New(jobs *bench.Jobs, s Store, opened OpenedBy) *FollowUps { return &FollowUps{jobs, s, opened} }

// mostPromises is the most follow-ups of one job.
const mostPromises = 50

// Promising is a follow-up as a request has it.
type Promising struct {
	What  job.PromiseKind `json:"what"`
	Test  string          `json:"test"`
	Words string          `json:"words"`
	Due   string          `json:"due"`
}

// Promise adds a follow-up.
func (x *FollowUps) Promise(ctx context.Context, ch *bench.Change, jobID string, in Promising) (*bench.View, error) {
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		f := bench.Fields{}
		bench.OneOf(f, "what", in.What, job.PromisedTest, job.PromisedFill, job.PromisedWords)
		_, err := time.Parse(time.DateOnly, in.Due)
		f.Check(err == nil, "due", "Enter a day, such as 2031-10-14.")
		in.Words = strings.TrimSpace(in.Words)
		f.Text("words", in.Words)
		f.Check(in.What != job.PromisedWords || in.Words != "", "words", "Describe the follow-up.")
		f.Check((in.What == job.PromisedTest) == (in.Test != ""), "test", "Choose the test to repeat.")
		f.Check(in.Test == "" || j.Test(in.Test) != nil, "test",
			fmt.Sprintf("There is no test %q in this job.", in.Test))
		f.Check(len(j.Head.Promises) < mostPromises, "what",
			fmt.Sprintf("A job has at most %d follow-ups.", mostPromises))
		if err := f.Refusal(); err != nil {
			return err
		}
		j.Head.Promises = append(j.Head.Promises,
			job.Promise{ID: bench.NewID(), What: in.What, Test: in.Test, Words: in.Words, Due: in.Due})
		slices.SortStableFunc(j.Head.Promises, func(a, b job.Promise) int { return cmp.Compare(a.Due, b.Due) })
		ch.Made("jobs/" + jobID)
		return nil
	})
}

// promise finds a follow-up of a job.
func promise(j *job.Job, id string) (*job.Promise, error) {
	for i := range j.Head.Promises {
		if p := &j.Head.Promises[i]; p.ID == id {
			return p, nil
		}
	}
	return nil, bench.Refuse(bench.Missing, "There is no such follow-up.")
}

// Drop removes a follow-up. An answered one stays.
func (x *FollowUps) Drop(ctx context.Context, ch *bench.Change, jobID, id string) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		p, err := promise(j, id)
		if err != nil {
			return err
		}
		if !p.Answered.IsZero() {
			return bench.Refuse(bench.Conflict, "This follow-up is already answered.")
		}
		j.Head.Promises = slices.DeleteFunc(j.Head.Promises, func(p job.Promise) bool { return p.ID == id })
		return nil
	})
}

// Answering is the outcome of a follow-up: a figure if one was promised, else text.
type Answering struct {
	Text string `json:"text"`
}

// Answer stores the outcome of a follow-up. A figure joins the sitting after hand-back.
func (x *FollowUps) Answer(ctx context.Context, ch *bench.Change, jobID, id string, in Answering) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		p, err := promise(j, id)
		if err != nil {
			return err
		}
		if !p.Answered.IsZero() {
			return bench.Refuse(bench.Conflict, "This follow-up is already answered.")
		}
		text, now := strings.TrimSpace(in.Text), x.jobs.Now()
		f := bench.Fields{}
		f.Text("text", text)
		f.Check(text != "", "text", "Enter the result.")
		switch p.What {
		case job.PromisedFill:
			pct, err := figures.Read(strings.TrimSuffix(text, "%"), "%")
			f.Check(err == nil && pct.Value >= 0 && pct.Value <= 100, "text",
				"Enter how full the drive is, such as 61 %.")
			if f.Refusal() == nil {
				s, err := bench.FollowUpSitting(j, now)
				if err != nil {
					return err
				}
				s.Conditions.FillPct = &pct.Value
			}
		case job.PromisedTest:
			t := j.Test(p.Test)
			if t == nil {
				return bench.NoSuch("test", p.Test)
			}
			q, err := figures.Read(text, t.Unit)
			value := 0.0
			if err == nil {
				value, err = figures.Convert(q.Value, q.Unit, t.Unit)
			}
			if err != nil {
				f.Check(false, "text",
					fmt.Sprintf("%s %s", bench.Sentence(err), figures.Example(t.Unit)))
			}
			if f.Refusal() == nil {
				if err := bench.AddFollowUp(j, job.Run{Test: t.ID, Value: value, Given: text}, now); err != nil {
					return err
				}
			}
		case job.PromisedWords:
		}
		if err := f.Refusal(); err != nil {
			return err
		}
		p.Answer, p.Answered = text, now
		return nil
	})
}

// Due is a follow-up with its job.
type Due struct {
	Job      string      `json:"job"`
	Number   string      `json:"number"`
	Customer string      `json:"customer"`
	Name     string      `json:"name"` // of its test, "" of others
	Promise  job.Promise `json:"promise"`
}

// Due returns the unanswered follow-ups of all jobs, earliest day first.
func (x *FollowUps) Due(ctx context.Context) ([]Due, error) {
	found, _, _, err := x.store.Search(ctx, store.Search{State: store.AllJobs})
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(found))
	for i, f := range found {
		ids[i] = f.ID
	}
	outlines, _, err := x.store.Outlines(ctx, ids)
	if err != nil {
		return nil, err
	}
	list := []Due{}
	for _, o := range outlines {
		for _, p := range o.Job.Head.Promises {
			if !p.Answered.IsZero() {
				continue
			}
			d := Due{Job: o.ID, Number: o.Job.Head.Number, Customer: o.Job.Head.Customer.Name, Promise: p}
			if t := o.Job.Test(p.Test); t != nil {
				d.Name = t.Name
			}
			list = append(list, d)
		}
	}
	slices.SortFunc(list, func(a, b Due) int {
		return cmp.Or(cmp.Compare(a.Promise.Due, b.Promise.Due), cmp.Compare(a.Promise.ID, b.Promise.ID))
	})
	return list, nil
}

// HomeCheck is what the customer is asked to time at home.
type HomeCheck struct {
	Lang string
	// Test is what is timed, Seconds how long it took at hand-back.
	Test    job.Test
	Seconds float64
}

// Bounds of a check at home.
const (
	// HomeRuns is how many times are submitted at once.
	HomeRuns = 3
	// mostSeconds is the longest start accepted, s.
	mostSeconds = 3600
)

// HomeCheck returns what the holder of a shared link is asked to time; a refusal [bench.Missing] where there is nothing.
func (x *FollowUps) HomeCheck(ctx context.Context, token string) (*HomeCheck, error) {
	id, lang, err := x.opened(ctx, token)
	if err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, id)
	if err != nil {
		return nil, err
	}
	now := s.Job.AsNow()
	if now == nil {
		return nil, bench.Refuse(bench.Missing, "This job has no Now setup.")
	}
	// The test of the report's headline comes first, then a start, then any other timed test.
	tests := slices.Clone(s.Job.Tests)
	rank := func(t job.Test) int {
		switch {
		case t.ID == s.Job.Plan.Headline:
			return 0
		case t.What == catalogue.WhatColdStart:
			return 1
		}
		return 2
	}
	slices.SortStableFunc(tests, func(a, b job.Test) int { return cmp.Compare(rank(a), rank(b)) })
	for _, t := range tests {
		if t.Kind != job.Timed || t.Unit != "s" {
			continue
		}
		var values []float64
		for _, r := range s.Job.KeptRuns(t.ID, now.ID) {
			values = append(values, r.Value)
		}
		if len(values) > 0 {
			return &HomeCheck{Lang: lang, Test: t, Seconds: stats.Median(values)}, nil
		}
	}
	return nil, bench.Refuse(bench.Missing, "No test was timed by hand on Now.")
}

// Take stores the times of a shared link's holder, s, until a technician accepts them. They are of the test
// that was asked for, even if another would be asked for by now. A repeated key changes nothing.
func (x *FollowUps) Take(ctx context.Context, token, test, key string, seconds []float64) error {
	id, _, err := x.opened(ctx, token)
	if err != nil {
		return err
	}
	f := bench.Fields{}
	f.Check(len(seconds) > 0 && len(seconds) <= HomeRuns, "times", "Enter one to three times in seconds, such as 36.4.")
	f.Check(key != "" && len(key) <= 100, "key", "Enter one to three times in seconds, such as 36.4.")
	for _, s := range seconds {
		f.Check(s > 0 && s <= mostSeconds && !math.IsNaN(s), "times",
			"Enter one to three times in seconds, such as 36.4.")
	}
	if err := f.Refusal(); err != nil {
		return err
	}
	name, link := digest(token+"\n"+key), digest(token)
	_, err = x.jobs.Change(ctx, nil, id, func(j *job.Job) error {
		if t := j.Test(test); t == nil || t.Kind != job.Timed || t.Unit != "s" {
			return bench.NoSuch("test", test)
		}
		first := fmt.Sprintf("look-%s-1", name)
		if j.Run(first) != nil || j.Waits(first) != nil {
			return nil
		}
		came := j.WaitingFrom(link)
		for i := range j.Runs {
			if strings.HasPrefix(j.Runs[i].ID, "look-") {
				came++ // accepted before; whose link it was is not known any more
			}
		}
		if came+len(seconds) > job.MaxPerLink {
			return bench.Refuse(bench.Conflict, "This link has received the most times it can take.")
		}
		now := x.jobs.Now()
		for i, s := range seconds {
			r := job.Run{ID: fmt.Sprintf("look-%s-%d", name, i+1), Test: test, Value: s, At: now, Method: job.Typed,
				Given: strconv.FormatFloat(s, 'f', -1, 64) +
					" s", By: "customer", Note: "timed by the customer at home"}
			if err := bench.Wait(j, job.WaitingRun{From: job.FromLink, Of: link, At: now, Run: r}); err != nil {
				return err
			}
		}
		return nil
	})
	return err
}

// digest is a short one-way digest of a text.
func digest(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:12])
}
