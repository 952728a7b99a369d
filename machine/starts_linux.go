package machine

import (
	"bytes"
	"context"
	"errors"
	"os/exec"

	"nowthen/core/hardware"
	"nowthen/core/hardware/answers"
)

// startsOf reads the starts that the system recorded, from systemd's journal.
func startsOf(ctx context.Context) ([]hardware.Start, error) {
	path, err := exec.LookPath("journalctl")
	if err != nil {
		return nil, errors.New("this system keeps no record of them")
	}
	out, err := exec.CommandContext(ctx, path, "--quiet", "--no-pager", "--output=json", "--lines=60",
		"MESSAGE_ID=b07a249cd024414a82dd00cd181378ff").Output()
	if err != nil {
		return nil, errors.New("the journal cannot be read without administrator rights, or is not there")
	}
	return answers.JournalStarts(bytes.NewReader(out))
}
