package probe

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"nowthen/core/order"
	"nowthen/machine"
)

// allowedPlaces returns why an order may not use its folders, or nil. A test file may lie on a
// drive, named by the place where it is mounted, or in a folder that was chosen at this computer
// ([Options.Folders]). What is read lies there, too, or on the same drive outside the system's folders.
func (j *Joined) allowedPlaces(ctx context.Context, o *order.Order) error {
	if j.computer.Simulated() != "" || o.Dir == "" && o.Folder == "" {
		return nil // a simulated computer has no folders
	}
	facts := j.computer.Facts(ctx)
	if o.Dir != "" && !j.chosen(o.Dir) {
		v := facts.VolumeOf(o.Dir)
		if v == nil || !sameFolder(v.Mount, o.Dir) {
			return fmt.Errorf("%s is neither a mount point nor a folder chosen on this computer; "+
				"to allow it, start the probe with --in %s", o.Dir, o.Dir)
		}
	}
	if o.Folder != "" && !j.chosen(o.Folder) {
		if machine.SystemFolder(o.Folder) {
			return fmt.Errorf("%s belongs to the system; the probe doesn't read it", o.Folder)
		}
		real, err := filepath.EvalSymlinks(o.Folder)
		if err != nil {
			return fmt.Errorf("the folder to read: %w", err)
		}
		if d := facts.DriveOf(real); d == "" || d != facts.DriveOf(o.Dir) {
			return fmt.Errorf("%s isn't on the drive under test; to allow it, start the probe with --in %s",
				o.Folder, o.Folder)
		}
	}
	return nil
}

// chosen reports whether a folder was chosen at this computer, or lies in one that was.
func (j *Joined) chosen(dir string) bool {
	real, err := filepath.EvalSymlinks(dir)
	if err != nil || !filepath.IsAbs(real) {
		return false
	}
	for _, folder := range j.o.Folders {
		top, err := filepath.Abs(folder)
		if err == nil {
			top, err = filepath.EvalSymlinks(top)
		}
		if err != nil {
			continue
		}
		rel, err := filepath.Rel(top, real)
		if err == nil && filepath.IsLocal(rel) {
			return true
		}
	}
	return false
}

// sameFolder reports whether two paths name one folder, judging by their text.
func sameFolder(a, b string) bool {
	plain := func(s string) string {
		if s = strings.ReplaceAll(s, `\`, "/"); len(s) > 1 {
			s = strings.TrimRight(s, "/")
		}
		return s
	}
	a, b = plain(a), plain(b)
	return a == b || len(a) == 2 && a[1] == ':' && strings.EqualFold(a, b)
}
