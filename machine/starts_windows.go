package machine

import (
	"bytes"
	"context"
	"errors"
	"os/exec"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
)

// startsOf reads the starts that the system recorded, from its log of how it performs.
func startsOf(ctx context.Context) ([]hardware.Start, error) {
	out, err := exec.CommandContext(ctx, "wevtutil", "qe", "Microsoft-Windows-Diagnostics-Performance/Operational",
		"/q:*[System[(EventID=100)]]", "/rd:true", "/c:20", "/f:xml").Output()
	if err != nil {
		return nil, errors.New("the system's log of its starts needs administrator rights, or is not kept")
	}
	return answers.EventStarts(bytes.NewReader(out))
}
