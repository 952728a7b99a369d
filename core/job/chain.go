package job

// CanFollow reports whether a test can follow another one in one start: the other is in the job, and does not follow it
// in turn.
func (j *Job) CanFollow(test, other string) bool {
	for range j.Tests { // a chain is no longer than that
		t := j.Test(other)
		if t == nil || t.ID == test {
			return false
		}
		if t.Follows == "" {
			return true
		}
		other = t.Follows
	}
	return false
}

// First is the id of the test that a start begins with in which a test is run: its own where it follows none.
func (j *Job) First(t *Test) string {
	for range j.Tests { // a chain is no longer than that
		before := j.Test(t.Follows)
		if before == nil {
			break
		}
		t = before
	}
	return t.ID
}

// ChainOf is the start that a new run of a test in a sitting belongs to: that of the last run of the test that it
// follows, unless a run of its own is of it already; "" where it follows none. The run before gets the start's id where
// it has none.
func (j *Job) ChainOf(t *Test, sitting string) string {
	if t.Follows == "" {
		return ""
	}
	for i := len(j.Runs) - 1; i >= 0; i-- {
		r := &j.Runs[i]
		if r.Sitting != sitting {
			continue
		}
		switch r.Test {
		case t.ID:
			return "" // that start has been timed
		case t.Follows:
			if r.Chain == "" {
				r.Chain = r.ID
			}
			return r.Chain
		}
	}
	return ""
}

// Refollow lets the tests that follow one follow another instead; "" is none.
func (j *Job) Refollow(from, to string) {
	for i := range j.Tests {
		if t := &j.Tests[i]; t.Follows == from {
			t.Follows = to
			if to == t.ID {
				t.Follows = ""
			}
		}
	}
}
