package machine

import (
	"sync"
	"time"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// paces are what was seen of passes so far, by the folder asked about: from how far one came
// between two looks it is told how
// long it will take.
var paces = struct {
	sync.Mutex
	of map[string]*answers.Pace
}{of: map[string]*answers.Pace{}}

// pass is what goes over the drive of a folder as a whole, nil where the system tells of none.
func pass(dir string) *job.Pass {
	p := passOver(dir)
	paces.Lock()
	defer paces.Unlock()
	if paces.of[dir] == nil {
		if p == nil {
			return nil
		}
		paces.of[dir] = &answers.Pace{}
	}
	paces.of[dir].See(p, time.Now())
	if p == nil {
		delete(paces.of, dir)
	}
	return p
}
