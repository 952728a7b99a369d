//go:build !linux && !windows

package launch

import "errors"

func supportsWindows() error {
	return errors.New("the sign window: this version of the probe sees windows on X11 and Windows only; use quiet, " +
		"or a video")
}

func watchWindows(string) (watcher, error) { return nil, supportsWindows() }
