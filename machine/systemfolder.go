package machine

import (
	"os"
	"path/filepath"
	"runtime"
	"strings"
)

// systemFolders are those that belong to the system: nothing is measured in them or below.
func systemFolders() []string {
	switch runtime.GOOS {
	case "windows":
		return []string{os.Getenv("SystemRoot"), os.Getenv("ProgramFiles"), os.Getenv("ProgramFiles(x86)"),
			os.Getenv("ProgramData")}
	case "darwin":
		return []string{"/System", "/Library", "/bin", "/sbin", "/usr", "/etc", "/private/etc", "/dev", "/cores",
			"/opt"}
	}
	return []string{"/etc", "/usr", "/boot", "/bin", "/sbin", "/lib", "/lib32", "/lib64", "/dev", "/proc", "/sys",
		"/opt", "/snap", "/nix", "/efi"}
}

// SystemFolder reports whether a folder is the system's own, or the top of the volume that the system is on:
// no test file belongs there, whoever asks for it. Links are followed.
func SystemFolder(dir string) bool {
	whole, err := filepath.Abs(dir)
	if err != nil {
		return true
	}
	real, err := filepath.EvalSymlinks(whole)
	if err != nil {
		real = whole // it is not there: what it is called decides
	}
	for _, path := range []string{whole, real} {
		if path == string(filepath.Separator) || runtime.GOOS == "windows" && isTop(path, os.Getenv("SystemDrive")) {
			return true
		}
		for _, s := range systemFolders() {
			if s != "" && below(path, s) {
				return true
			}
		}
	}
	return false
}

// SystemTop reports whether a folder is the top of the volume that the system is on: it names the drive, and is
// no place for a test file.
func SystemTop(dir string) bool {
	whole, err := filepath.Abs(dir)
	return err == nil && (whole == string(filepath.Separator) || runtime.GOOS == "windows" &&
		isTop(whole, os.Getenv("SystemDrive")))
}

// isTop reports whether a path is the top of a drive.
func isTop(path, drive string) bool {
	return drive != "" && strings.EqualFold(strings.TrimRight(path, `\/`), drive)
}

// below reports whether a path is a folder or lies in it.
func below(path, folder string) bool {
	if runtime.GOOS != "linux" {
		path, folder = strings.ToLower(path), strings.ToLower(folder)
	}
	rel, err := filepath.Rel(folder, path)
	return err == nil && rel != ".." && !strings.HasPrefix(rel, ".."+string(filepath.Separator))
}
