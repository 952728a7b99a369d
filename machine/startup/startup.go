// Package startup adds a command to a system's next start, and removes it again.
//
// The entry removes itself before it runs the command, which is therefore run only once, even if nobody removes
// the entry. It supports the systems' own mechanisms: a folder whose programs are
// started, a desktop's own start on Linux, a service of systemd, an agent on macOS and the RunOnce key on Windows.
//
// It must not import packages about benches, jobs or measuring.
package startup

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strings"
)

// Entry is an entry in a system's start-up.
type Entry struct {
	// Place describes where it is, for removing it by hand.
	Place string
	// Path and Text are a file's; Link is a second name of it, by which the system finds it.
	Path, Text, Link string
	// Value is what the RunOnce key gets under the name of the entry.
	Value string
	// BeforeSignIn: the command is run whether or not somebody signs in.
	BeforeSignIn bool
	// Mode is a file's.
	Mode os.FileMode
}

// name under which an entry stands.
const name = "nowthen-probe-once"

// ErrName means that a command can't be added to a start-up: a line break in it would begin another command.
var ErrName = errors.New("a command with a line break or a NUL in it cannot be put into the system's start")

// System describes the system whose start-up is changed.
type System struct {
	// OS as the Go toolchain names it.
	OS string
	// Home is the user's folder, Root whether the user is the administrator.
	Home string
	Root bool
	// Folder is one whose programs are started, where a system has one of its own; else "".
	Folder string
	// Systemd: the system's services are its.
	Systemd bool
}

// Entry returns what this system's start reads to run a command (a program's full path and its arguments) once.
func (s System) Entry(command []string) (Entry, error) {
	if len(command) == 0 || strings.ContainsAny(strings.Join(command, ""), "\n\r\x00") {
		return Entry{}, ErrName
	}
	switch {
	case s.Folder != "":
		e := Entry{Path: filepath.Join(s.Folder, name), Mode: 0o755, BeforeSignIn: true}
		e.Place = "the file " + e.Path
		e.Text = "#!/bin/sh\nrm -f " + shell(e.Path) + "\n" + waited(command) + "\n"
		return e, nil
	case s.OS == "windows":
		quoted := make([]string, len(command))
		for i, c := range command {
			quoted[i] = `"` + c + `"` // a path holds no quotation mark there
			if strings.Contains(c, `"`) {
				return Entry{}, ErrName
			}
		}
		return Entry{Place: `the value ` + name +
			` of HKEY_CURRENT_USER\Software\Microsoft\Windows\CurrentVersion\RunOnce`, Value: strings.Join(quoted,
			" ")}, nil
	case s.OS == "darwin":
		e := Entry{Path: filepath.Join(s.Home, "Library", "LaunchAgents", name+".plist"), Mode: 0o644}
		e.Place = "the file " + e.Path
		e.Text = fmt.Sprintf(agent, name, xml("rm -f "+shell(e.Path)+"; "+waited(command)))
		return e, nil
	case s.Root && s.Systemd:
		e := Entry{Path: "/etc/systemd/system/" + name + ".service",
			Link: "/etc/systemd/system/multi-user.target.wants/" + name + ".service", Mode: 0o644, BeforeSignIn: true}
		e.Place = "the files " + e.Path + " and " + e.Link
		e.Text = fmt.Sprintf(service, unit("rm -f "+shell(e.Path)+" "+shell(e.Link)+"; "+waited(command)))
		return e, nil
	case s.Home != "":
		e := Entry{Path: filepath.Join(s.Home, ".config", "autostart", name+".desktop"), Mode: 0o644}
		e.Place = "the file " + e.Path
		e.Text = fmt.Sprintf(desktop, desktopQuoted("rm -f "+shell(e.Path)+"; "+waited(command)))
		return e, nil
	}
	return Entry{}, errors.New("it is not known where this system keeps what it starts")
}

const (
	agent = `<?xml version="1.0" encoding="UTF-8"?>
<!DOCTYPE plist PUBLIC "-//Apple//DTD PLIST 1.0//EN" "http://www.apple.com/DTDs/PropertyList-1.0.dtd">
<plist version="1.0">
<dict>
	<key>Label</key><string>%s</string>
	<key>ProgramArguments</key><array><string>/bin/sh</string><string>-c</string><string>%s</string></array>
	<key>RunAtLoad</key><true/>
</dict>
</plist>
`
	service = `[Unit]
Description=Now Then probe: the first sign after this start, once
Wants=network-online.target
After=network-online.target

[Service]
ExecStart=/bin/sh -c %s

[Install]
WantedBy=multi-user.target
`
	desktop = `[Desktop Entry]
Type=Application
Name=Now Then probe, once
Exec=/bin/sh -c %s
Terminal=false
`
)

// waited runs a command as soon as its program is there: a stick is fitted later than the start looks for it.
func waited(command []string) string {
	quoted := make([]string, len(command))
	for i, c := range command {
		quoted[i] = shell(c)
	}
	return fmt.Sprintf("n=0; while [ ! -x %s ] && [ $n -lt 60 ]; do sleep 1; n=$((n+1)); done; exec %s", quoted[0],
		strings.Join(quoted, " "))
}

// shell is a text as one word of a shell.
func shell(s string) string { return "'" + strings.ReplaceAll(s, "'", `'\''`) + "'" }

// unit is a text as one argument of a unit of systemd (systemd.service(5), command lines).
func unit(s string) string {
	return `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, `%`, `%%`, `$`, `$$`).Replace(s) + `"`
}

// desktopQuoted is a text as one argument of a desktop entry's command (Desktop Entry
// Specification, the Exec key): quoted for
// the command, and then for the value that it is in.
func desktopQuoted(s string) string {
	quoted := `"` + strings.NewReplacer(`\`, `\\`, `"`, `\"`, "`", "\\`", `$`, `\$`).Replace(s) + `"`
	return strings.NewReplacer(`\`, `\\`, `%`, `%%`).Replace(quoted)
}

// xml is a text within an element.
func xml(s string) string {
	return strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(s)
}

// Put adds an entry. An existing one with its name is an earlier one of ours.
func Put(e Entry) error {
	if e.Path == "" {
		return putValue(e)
	}
	if err := os.MkdirAll(filepath.Dir(e.Path), 0o755); err != nil {
		return fmt.Errorf("the system's start: %w", err)
	}
	if err := os.WriteFile(e.Path, []byte(e.Text), e.Mode); err != nil {
		return fmt.Errorf("the system's start: %w", err)
	}
	if e.Link == "" {
		return nil
	}
	if err := errors.Join(os.MkdirAll(filepath.Dir(e.Link), 0o755), gone(os.Remove(e.Link)),
		os.Symlink(e.Path, e.Link)); err != nil {
		return fmt.Errorf("the system's start: %w", errors.Join(err, Remove(e)))
	}
	return nil
}

// Remove removes an entry. A missing one, as after it was run, is no error.
func Remove(e Entry) error {
	var err error
	if e.Path == "" {
		err = removeValue(e)
	} else {
		err = gone(os.Remove(e.Path))
	}
	if e.Link != "" {
		err = errors.Join(err, gone(os.Remove(e.Link)))
	}
	if err != nil {
		return fmt.Errorf("what was put into the system's start is still there (%s): %w", e.Place, err)
	}
	return nil
}

func gone(err error) error {
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}
