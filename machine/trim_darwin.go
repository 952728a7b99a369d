package machine

import "nowthen/core/drivetest"

// extent is a stretch of a drive; this system does not say where a file lies.
type extent struct{ from, to int64 }

// freeing: this system trims what is removed by itself.
func (f *Folder) freeing(handle) {}

func (f *Folder) trim([]extent) error { return drivetest.ErrNoTrim }
