package plan

import (
	"strings"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/message"
)

// Next is the one most useful thing to do in a job now.
type Next struct {
	Do      string  `json:"do"`      // measure, time, type, take-out, step, close, fit, report, hand-back, nothing
	Words   string  `json:"words"`   // for the technician
	Test    string  `json:"test"`    // the test to run, or ""
	Setup   string  `json:"setup"`   // the setup to run it on, or ""
	Minutes float64 `json:"minutes"` // an estimate
	Hands   bool    `json:"hands"`   // needs a person all the while
	Step    string  `json:"step"`    // the step to do, or ""
	// Needs are what is needed for it.
	Needs []string `json:"needs"`
	// Unattended is what could run by itself on the same setup instead; nil where nothing
	// could.
	Unattended *Next `json:"unattended"`
}

// Next returns the one most useful thing to do in the job now.
func (st *Standing) Next() Next {
	n := st.next()
	if n.Needs == nil {
		n.Needs = []string{}
	}
	return n
}

func (st *Standing) next() Next {
	if st.State() == job.StateQuoted {
		return Next{Do: "nothing", Words: say("next.quoted")}
	}
	here := st.Here()
	if st.Kind() == job.KindComparison && (here == AtIntake || st.Setup(here) != nil) {
		return st.nextOfComparison(here)
	}
	switch here {
	case "":
		return Next{Do: "nothing", Words: say("next.finished")}
	case AtIntake:
		return Next{Do: "fit", Words: say("next.which-drive-is-in"), Minutes: 1, Hands: true}
	case AtThen:
		if b := st.backupFirst(); b != nil {
			return Next{Do: "step", Step: b.ID, Setup: st.SetupAs(job.Then).ID, Words: say("next.backup-first"),
				Minutes: 30,
				Hands:   true, Needs: st.Plan.Needs}
		}
		return st.nextTest(st.SetupAs(job.Then), "Then")
	case AtOut:
		words := say("next.take-out")
		if lost := st.BeforeOldDriveOut(); len(lost) > 0 {
			words = say("next.before-out", message.Values{"What": lost[0].What})
			if n := len(lost) - 1; n > 0 {
				words = say("next.before-out-more", message.Values{"What": lost[0].What, "N": n})
			}
		}
		return Next{Do: "take-out", Words: words, Minutes: 20, Hands: true}
	case AtNow:
		now := st.AsNow()
		if now != nil && st.Kind() == job.KindCheckUp {
			return st.nextOfCheckUp(now)
		}
		if now == nil {
			return Next{Do: "fit", Words: say("next.which-drive-goes-in"), Minutes: 1, Hands: true}
		}
		if s := st.swapping(now); s != nil {
			return Next{Do: "step", Step: s.ID, Setup: now.ID,
				Words: say("next.swap",
					message.Values{"Step": stepInSentence(s.Text)}), Minutes: 5, Hands: true, Needs: st.Plan.Needs}
		}
		if st.open(now) {
			return Next{Do: "close", Setup: now.ID, Words: say("next.close"), Minutes: 5, Hands: true}
		}
		return st.nextTest(now, "Now")
	}
	if st.Gate(job.GateReport) != nil {
		return Next{Do: "hand-back", Words: say("next.hand-back"), Minutes: 5, Hands: true}
	}
	return Next{Do: "report", Words: say("next.report"), Minutes: 3, Hands: true}
}

// ByHand reports whether a test is timed by a person with the timer.
func ByHand(t *job.Test) bool {
	return t.Unit == "s" && !t.Automatic() && (t.Kind == job.Timed || t.Kind == job.OnFiles || t.Kind == job.Control)
}

// nextTest picks the first test that lacks runs: what is timed by hand first,
// while the computer is cold, then what is read off, then what the program runs
// by itself, all at once.
func (st *Standing) nextTest(s *job.Setup, side string) Next {
	var itself []string
	key := "next.measure-drive"
	var byHand, typed *Cover
	minutes := 0.0
	drive := st.Drive(s.Drive)
	kept := map[string]int{}
	for _, c := range st.Coverage(s.ID) {
		kept[c.Test] = c.Kept
	}
	// What follows in a start that has been timed comes before the next start.
	due := func(c *Cover) bool { t := st.Test(c.Test); return t.Follows != "" && c.Kept < kept[t.Follows] }
	for _, c := range st.Coverage(s.ID) {
		t := st.Test(c.Test)
		switch {
		case c.Missing() == 0:
		case t.Automatic():
			itself = append(itself, catalogue.InSentence(t.Name))
			if t.Kind != job.OnDrive {
				key = "next.let-measure"
			}
			minutes += itselfMinutes(t, drive, c.Missing())
		case ByHand(t):
			if byHand == nil || due(&c) && !due(byHand) {
				byHand = &c
			}
		case typed == nil:
			typed = &c
		}
	}
	var unattended *Next
	if len(itself) > 0 {
		const named = 4
		if more := len(itself) - named; more > 1 {
			itself = append(itself[:named], say("next.more", message.Values{"N": more}))
		}
		unattended = &Next{Do: "measure", Setup: s.ID, Minutes: minutes + 0.5, Needs: []string{},
			Words: say(key, message.Values{"Side": side, "Tests": strings.Join(itself, ", ")})}
	}
	switch {
	case byHand != nil:
		t := st.Test(byHand.Test)
		return Next{Do: "time", Test: t.ID, Setup: s.ID, Hands: true,
			Minutes: perRun(t, drive) * float64(byHand.Missing()), Needs: catalogue.EffortOf(t).Needs,
			Unattended: unattended, Words: say("next.time",
				message.Values{"Side": side, "Test": catalogue.InSentence(t.Name), "Count": byHand.Missing()})}
	case typed != nil:
		t := st.Test(typed.Test)
		return Next{Do: "type", Test: t.ID, Setup: s.ID, Hands: true,
			Minutes: perRun(t, drive) * float64(typed.Missing()), Needs: catalogue.EffortOf(t).Needs,
			Unattended: unattended, Words: say("next.note",
				message.Values{"Side": side, "Test": catalogue.InSentence(t.Name)})}
	case unattended != nil:
		return *unattended
	}
	return Next{Do: "nothing", Setup: s.ID, Words: say("next.done", message.Values{"Side": side})}
}

// Choice is the one most useful thing over several jobs: what needs hands, and
// what runs automatically once it is begun. Indexes into the jobs given; -1: none.
type Choice struct{ Hands, Itself int }

// Choose picks over the next steps of several jobs, given in the order in which
// they came in, the oldest last. What can run by itself is worth beginning
// first; of what needs hands, the job that is nearest to its end goes before
// others, then the one that has waited longest.
func Choose(nexts []Next) Choice {
	c := Choice{-1, -1}
	rank := map[string]int{"hand-back": 6, "report": 5, "take-out": 4, "step": 4, "close": 4, "time": 3, "type": 2,
		"fit": 1}
	best, itself := 0, false
	for i, n := range nexts {
		switch {
		case n.Do == "nothing":
		case !n.Hands:
			c.Itself, itself = i, true
		case rank[n.Do] >= best:
			best, c.Hands = rank[n.Do], i
		}
	}
	// Where nothing is next that runs automatically, a job can be measured on unattended while
	// the technician's hands are at another.
	for i, n := range nexts {
		if !itself && n.Unattended != nil && i != c.Hands {
			c.Itself = i
		}
	}
	return c
}
