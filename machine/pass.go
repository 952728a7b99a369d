package machine

import (
	"sync"
	"time"

	"nowthen/core/hardware/answers"
	"nowthen/core/job"
)

// paces are the passes seen so far, by folder: their progress between two readings gives the remaining time.
var paces = struct {
	sync.Mutex
	of map[string]*answers.Pace
}{of: map[string]*answers.Pace{}}

// pass is the pass over the whole drive of a folder, nil if the system reports none.
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
