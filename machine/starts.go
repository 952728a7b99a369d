package machine

import (
	"context"
	"time"

	"nowthen/core/hardware"
)

// recalling is how long a system has to tell of its starts.
const recalling = 5 * time.Second

// addStarts adds the starts that the system recorded, or says why it has none.
func addStarts(ctx context.Context, f *hardware.Facts) {
	ctx, stop := context.WithTimeout(ctx, recalling)
	defer stop()
	list, err := startsOf(ctx)
	switch {
	case err != nil:
		f.Lacks("recorded starts", err.Error())
	case len(list) == 0:
		f.Lacks("recorded starts", "the system has recorded none")
	}
	f.Starts = list
}
