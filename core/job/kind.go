package job

import "slices"

// Kind is what the visit is for; an upgrade if nothing is given.
func (j *Job) Kind() JobKind {
	if j.Head.Kind == "" {
		return KindUpgrade
	}
	return j.Head.Kind
}

// DefaultSides names the two sides that are compared where nobody names them: Then with Now (else the newest trial),
// in a comparison the first drive with the one that stays (else the last one measured), in a check-up the first
// sitting with the last. "" is a side that does not exist. [Job.Named] takes the names.
func (j *Job) DefaultSides() (then, with string) {
	switch j.Kind() {
	case KindComparison:
		return j.sidesOfComparison()
	case KindCheckUp:
		if j.SetupAs(Then) == nil {
			return j.sidesOfCheckUp()
		}
	case KindUpgrade:
	}
	for i := range j.Setups {
		if s := &j.Setups[i]; s.Role == Then {
			then = s.ID
		}
	}
	if s := j.AsNow(); s != nil {
		return then, s.ID
	}
	for i := range j.Setups {
		if s := &j.Setups[i]; s.Role == Trial {
			with = s.ID
		}
	}
	return then, with
}

func (j *Job) sidesOfComparison() (base, with string) {
	if len(j.Setups) == 0 {
		return "", ""
	}
	base = j.Setups[0].ID
	if s := j.Setup(j.Head.Stays); s != nil && s.ID != base {
		return base, s.ID
	}
	measured := false
	for i := range j.Setups[1:] {
		s := &j.Setups[i+1]
		has := slices.ContainsFunc(j.Runs, func(r Run) bool { return r.Kept() && j.Sitting(r.Sitting).Setup == s.ID })
		if has || !measured {
			with, measured = s.ID, has
		}
	}
	if with == "" { // a single drive stands alone
		return "", base
	}
	return base, with
}

// sidesOfCheckUp are the first and the last sitting with kept runs, in time; one alone stands for its setup.
func (j *Job) sidesOfCheckUp() (first, last string) {
	now := j.AsNow()
	if now == nil {
		return "", ""
	}
	list := j.CheckedUp(now.ID)
	if len(list) < 2 {
		return "", now.ID
	}
	return list[0].ID, list[len(list)-1].ID
}

// CheckedUp are the sittings of a setup that a check-up compares, in order: those with measurements, without
// those for a question of their own.
func (j *Job) CheckedUp(setup string) []Sitting {
	return slices.DeleteFunc(j.SittingsOn(setup), func(s Sitting) bool {
		return s.For() == ForQuestion || !slices.ContainsFunc(j.Runs, func(r Run) bool {
			return r.Sitting == s.ID && (r.Kept() || r.SetAside != nil && r.SetAside.Reason == AfterItWentBack)
		})
	})
}
