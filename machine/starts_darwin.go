package machine

import (
	"context"
	"errors"

	"nowthen/core/hardware"
)

// startsOf is refused: the system does not say how long its starts took.
func startsOf(context.Context) ([]hardware.Start, error) {
	return nil, errors.New("this system does not say how long they took")
}
