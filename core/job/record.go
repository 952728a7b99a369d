package job

import (
	"cmp"
	"slices"
	"strings"
	"time"
)

// Joins reports how the setup's drive joins the computer, and the drive that it replaces, joins or that goes
// back; "" if not known. Members of older files are read as said.
func (s *Setup) Joins() (relation Relation, of string) {
	switch {
	case s.Relation != "":
		return s.Relation, cmp.Or(s.Of, s.Replaces)
	case s.Adds:
		return JoinsBeside, s.Of
	case s.CacheDrive != "":
		return JoinsAsCache, s.Drive
	case s.Replaces != "":
		return JoinsReplacing, s.Replaces
	}
	return "", ""
}

// Replaced is the drive that the setup's drive replaces, even as a trial; "" if there is none or it isn't
// known.
func (s *Setup) Replaced() string {
	if how, of := s.Joins(); how == JoinsReplacing || how == OnlyTried {
		return of
	}
	return ""
}

// Staying is the setup that the customer keeps: the chosen one, else the one with the role Now.
func (j *Job) Staying() *Setup {
	if s := j.Setup(j.Head.Stays); s != nil {
		return s
	}
	return j.SetupAs(Now)
}

// AsNow is the setup that is measured and reported as Now: a trial that was chosen, else the one with the role
// Now; nil if there is none.
func (j *Job) AsNow() *Setup {
	if s := j.Setup(j.Head.Stays); s != nil && s.Role != Then {
		return s
	}
	return j.SetupAs(Now)
}

// PutBack reports whether the old drive stays and the new one was only a trial.
func (j *Job) PutBack() bool {
	s := j.Staying()
	if s == nil {
		return false
	}
	how, _ := s.Joins()
	return s.Role == Then || how == GoesBack
}

// FateOf is what happened to a drive; for the old one, what was stated at the last gate counts, too.
func (j *Job) FateOf(drive string) Fate {
	if d := j.Drive(drive); d != nil && d.Fate != "" {
		return d.Fate
	}
	if g, then := j.Gate(GateHandedBack), j.SetupAs(Then); g != nil && then != nil && then.Drive == drive {
		return g.OldDrive
	}
	return ""
}

// Found copies how the probe found the setup's drive attached, and by which link; nil is not known. What somebody
// had stated otherwise is kept beside it. What was known before sources were kept stays.
func (s *Setup) Found(at *Attached, link *Link) {
	if a := s.Attached; at != nil && (a.Source == Stated || a.Port == "" && a.LinkMBs == 0) {
		s.Attached = *at
		s.Attached.Source = ProbeSaid
		if said := (AttachedStated{a.Port, a.LinkMBs, a.CapableMBs}); a.Source == Stated &&
			(a.Port != at.Port || a.LinkMBs > 0 && a.LinkMBs != at.LinkMBs) {
			s.Attached.Stated = &said
		}
	}
	if l := s.Link; link != nil && (l == nil || l.Source == Stated) {
		found := *link
		found.Source = ProbeSaid
		if l != nil && (l.Kind != link.Kind || l.Negotiated != link.Negotiated) {
			found.Stated = &LinkStated{l.Kind, l.Negotiated}
		}
		s.Link = &found
	}
}

// Purposes are all of them.
var Purposes = []Purpose{ForVisit, ForQuestion, ForCheckUp}

// For is a sitting's purpose.
func (s *Sitting) For() Purpose {
	switch {
	case s.Purpose != "":
		return s.Purpose
	case s.FollowUp:
		return ForCheckUp
	}
	return ForVisit
}

// Where is the place of a round that did not run on the customer's computer.
type Where struct {
	// Computer is "bench" for the bench's own, else its id.
	Computer      string    `json:"computer,omitzero"`
	Port          Port      `json:"port,omitzero"`
	DriveDigest   string    `json:"drive_digest,omitzero"` // as of a drive's serial number
	CapacityBytes int64     `json:"capacity_bytes,omitzero"`
	Kind          DriveKind `json:"kind,omitzero"`
}

// TouchesMeasuring reports whether work may have changed what is measured: yes, unless stated otherwise.
func (w *Work) TouchesMeasuring() bool { return w.Touches == nil || *w.Touches }

// Side returns the kept runs that stand for a test on a setup, in the order in which they were made
// (calculations, section 18): those of sittings of the visit, and where other work was done between two
// sittings, those since then, as far as the test has any.
func (x *Index) Side(test, setup string) []*Run {
	runs := slices.DeleteFunc(x.Kept(test, setup), func(r *Run) bool { return x.sittings[r.Sitting].For() != ForVisit })
	for _, at := range x.closing(setup) {
		before := slices.IndexFunc(runs, func(r *Run) bool { return !x.made(r).Before(at) })
		if before > 0 {
			runs = runs[before:]
		}
	}
	return runs
}

// closing are the times of work between two sittings of a setup, in order.
func (x *Index) closing(setup string) []time.Time {
	var cuts []time.Time
	for i := range x.Head.Work {
		w := &x.Head.Work[i]
		if !w.TouchesMeasuring() || w.At.IsZero() {
			continue
		}
		before, after := false, false
		for k := range x.Sittings {
			if s := &x.Sittings[k]; s.Setup == setup && !s.Started.IsZero() && s.For() == ForVisit {
				before, after = before || s.Started.Before(w.At), after || !s.Started.Before(w.At)
			}
		}
		if before && after {
			cuts = append(cuts, w.At)
		}
	}
	slices.SortFunc(cuts, time.Time.Compare)
	return cuts
}

// made is when a run was made, as far as is known.
func (x *Index) made(r *Run) time.Time {
	if r.At.IsZero() {
		return x.sittings[r.Sitting].Started
	}
	return r.At
}

// Named returns the job with the sides that are named (calculations, section 18): by a setup's id, a sitting's
// id, or SETUP/SITTING or SETUP/question:WORDS, split at the first slash. What names sittings is on a setup
// of its own under that name, in a copy of the job; what names nothing adds nothing.
func (j *Job) Named(sides ...string) *Job {
	for _, name := range sides {
		if sittings, setup := j.sittingsNamed(name); len(sittings) > 0 {
			j = j.apart(name, setup, sittings)
		}
	}
	return j
}

// sittingsNamed are the sittings that a side's name stands for, and their setup; none where it names a setup,
// or nothing.
func (j *Job) sittingsNamed(name string) (sittings []string, setup string) {
	if name == "" || j.Setup(name) != nil {
		return nil, ""
	}
	if s := j.Sitting(name); s != nil {
		return []string{s.ID}, s.Setup
	}
	setup, which, found := strings.Cut(name, "/")
	if !found { // as links of earlier versions have it
		if at := strings.LastIndex(name, "@"); at > 0 {
			setup, which, found = name[:at], name[at+1:], true
		}
	}
	if !found || j.Setup(setup) == nil {
		return nil, ""
	}
	question, asked := strings.CutPrefix(which, "question:")
	for _, s := range j.SittingsOn(setup) {
		if s.ID == which || asked && s.For() == ForQuestion && s.Question == question {
			sittings = append(sittings, s.ID)
		}
	}
	return sittings, setup
}

// apart returns a copy of the job in which sittings of a setup are on one of their own, which is measured and
// replaces nothing. What is set aside there only because it came after the computer had gone back counts.
func (j *Job) apart(id, setup string, sittings []string) *Job {
	c := *j
	c.Setups, c.Sittings, c.Runs = slices.Clone(j.Setups), slices.Clone(j.Sittings), slices.Clone(j.Runs)
	own := *c.Setup(setup)
	own.Role, own.ID, own.Replaces, own.Relation, own.Of = Trial, id, "", "", ""
	if at := j.Sitting(sittings[0]).Started; !at.IsZero() {
		own.Name = at.Format("2 January 2006")
	}
	c.Setups = append(c.Setups, own)
	for _, of := range sittings {
		s := c.Sitting(of)
		s.Setup, s.Purpose, s.FollowUp = id, ForVisit, false
	}
	for i := range c.Runs {
		r := &c.Runs[i]
		if slices.Contains(sittings, r.Sitting) && r.SetAside != nil && r.SetAside.Reason == AfterItWentBack {
			r.SetAside = nil
		}
	}
	return &c
}
