package launch

import (
	"errors"
	"os/exec"
)

// windowsTold goes on telling, in the scripting language that every macOS has, which windows are in sight. Their owners and
// sizes are told to every program, their titles to one that may record the screen.
const windowsTold = `
ObjC.import('CoreGraphics')
ObjC.import('Foundation')
function run() {
  const out = $.NSFileHandle.fileHandleWithStandardOutput
  const inSight = $.kCGWindowListOptionOnScreenOnly | $.kCGWindowListExcludeDesktopElements
  for (;;) {
    const all = ObjC.deepUnwrap(ObjC.castRefToObject($.CGWindowListCopyWindowInfo(inSight, $.kCGNullWindowID))) || []
    const rows = all
      .filter((w) => w.kCGWindowLayer === 0)
      .map((w) => [w.kCGWindowNumber, w.kCGWindowOwnerPID, w.kCGWindowBounds.Width, w.kCGWindowBounds.Height, w.kCGWindowName === undefined ? null : w.kCGWindowName])
    out.writeData($(JSON.stringify(rows) + '\n').dataUsingEncoding($.NSUTF8StringEncoding))
    delay(0.005)
  }
}`

func supportsWindows() error {
	if _, err := exec.LookPath("osascript"); err != nil {
		return errors.New("the sign window: this system's scripting is not there to tell of windows; use quiet, or a video")
	}
	return nil
}

func watchWindows(title string) (watcher, error) {
	if err := supportsWindows(); err != nil {
		return nil, err
	}
	return tellerOf(exec.Command("osascript", "-l", "JavaScript", "-e", windowsTold), title)
}
