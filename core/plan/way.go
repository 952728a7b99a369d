package plan

import (
	"slices"

	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/words"
)

// way is the track of a kind of job: its stations and gates in order. The two shorter kinds are here; the upgrade's
// is in plan.go.
func (st *Standing) way() []string {
	switch st.Kind() {
	case job.KindComparison:
		names := []string{AtIntake}
		for i := range st.Setups {
			names = append(names, st.Setups[i].ID)
		}
		return append(names, AtMeasured, AtCompare, AtBack)
	case job.KindCheckUp:
		return []string{AtIntake, AtNow, AtMeasured, AtCompare, AtBack}
	case job.KindUpgrade:
	}
	return []string{AtIntake, AtThen, AtOut, AtNow, AtMeasured, AtCompare, AtBack}
}

// hereOfComparison is the first drive that isn't measured, until measuring is closed.
func (st *Standing) hereOfComparison() string {
	if st.Gate(job.GateMeasured) != nil {
		return AtCompare
	}
	for i := range st.Setups {
		if s := &st.Setups[i]; !done(st.Coverage(s.ID)) {
			return s.ID
		}
	}
	if len(st.Setups) < 2 {
		return AtIntake
	}
	return AtCompare
}

// hereOfCheckUp is at Now until a session can be compared with an earlier one.
func (st *Standing) hereOfCheckUp() string {
	now := st.AsNow()
	switch {
	case now == nil:
		return AtIntake
	case st.Gate(job.GateMeasured) != nil:
		return AtCompare
	case st.SetupAs(job.Then) == nil && st.sessions(now.ID) < 2 || !done(st.Coverage(now.ID)):
		return AtNow
	}
	return AtCompare
}

// sessions counts the sittings of a setup in which something was measured, without those that ask a question.
func (st *Standing) sessions(setup string) (n int) {
	for _, s := range st.Sittings {
		if s.Setup == setup && s.For() != job.ForQuestion && st.measuredIn(s.ID) {
			n++
		}
	}
	return n
}

func (st *Standing) measuredIn(sitting string) bool {
	return slices.ContainsFunc(st.Tests, func(t job.Test) bool {
		return st.counts[struct{ Test, Sitting string }{t.ID, sitting}].Kept > 0
	})
}

// counted reports whether a sitting's runs count for what is wanted of a setup. A check-up wants all tests in its last
// sitting: the earlier ones are what it is compared with.
func (st *Standing) counted(s *job.Sitting) bool {
	if st.Kind() != job.KindCheckUp || st.SetupAs(job.Then) != nil {
		return s.For() == job.ForVisit
	}
	on := slices.DeleteFunc(st.SittingsOn(s.Setup), func(o job.Sitting) bool { return o.For() == job.ForQuestion })
	return len(on) > 0 && on[len(on)-1].ID == s.ID
}

// nextOfComparison is what to do on the way of a comparison, at a station that is neither done nor a gate.
func (st *Standing) nextOfComparison(here string) Next {
	if s := st.Setup(here); s != nil {
		return st.nextTest(s, st.Called(s))
	}
	return Next{Do: "fit", Words: say("next.another-drive"), Minutes: 1, Hands: true}
}

// nextOfCheckUp is what to do in a check-up at Now.
func (st *Standing) nextOfCheckUp(now *job.Setup) Next {
	if n := st.nextTest(now, "Now"); n.Do != "nothing" {
		return n
	}
	return Next{Do: "nothing", Setup: now.ID, Words: say("next.second-session")}
}

// missingInComparison lists what no drive of a comparison has, with the drive's name.
func (st *Standing) missingInComparison() []Lost {
	lost := []Lost{}
	for i := range st.Setups {
		s := &st.Setups[i]
		for _, c := range st.Coverage(s.ID) {
			if c.Wanted > 0 && c.Cannot == "" && c.Kept == 0 {
				lost = append(lost, Lost{c.Test, say("lost.not-measured-on",
					message.Values{"Test": st.Test(c.Test).Name, "Drive": st.Called(s)})})
			}
		}
	}
	if len(st.Setups) < 2 {
		lost = append(lost, Lost{"", say("lost.one-drive")})
	}
	return lost
}

// Called is what a setup of a comparison is called: by its own name, else by its drive.
func (st *Standing) Called(s *job.Setup) string {
	if s.Name != "" {
		return s.Name
	}
	return words.DriveName(st.Drive(s.Drive))
}
