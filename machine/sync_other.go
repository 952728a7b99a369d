//go:build !linux

package machine

import (
	"errors"
	"os"
)

// syncEach makes files durable.
func syncEach(files []string) error {
	for _, path := range files {
		f, err := os.OpenFile(path, os.O_RDWR, 0)
		if errors.Is(err, os.ErrPermission) {
			continue // one that cannot be written has nothing to make durable
		}
		if err != nil {
			return err
		}
		if err := errors.Join(f.Sync(), f.Close()); err != nil {
			return err
		}
	}
	return nil
}
