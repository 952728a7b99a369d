package startup

import (
	"context"
	"errors"
	"fmt"
	"os/exec"
	"strings"
	"time"
)

// asking is how long the system has to answer that it will restart.
const asking = 20 * time.Second

// Restart asks the system to restart now. It returns once the system has agreed; the program
// continues until it is ended.
func Restart(ctx context.Context) error {
	ctx, stop := context.WithTimeout(ctx, asking)
	defer stop()
	for _, command := range restarts() {
		path, err := exec.LookPath(command[0])
		if err != nil {
			continue
		}
		if out, err := exec.CommandContext(ctx, path, command[1:]...).CombinedOutput(); err != nil {
			return fmt.Errorf("the system does not restart: %s (%w)", strings.TrimSpace(string(out)), err)
		}
		return nil
	}
	return errors.New("there is no command here that restarts the system; restart it by hand")
}
