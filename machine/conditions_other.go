//go:build !linux && !windows

package machine

// What this system could tell of power, encryption and temperature is not asked
// yet; what is not asked is absent, never guessed.

func power() (source, mode string) { return "", "" }

// Battery is how full the computer's own battery is, %; this system is not asked yet.
func Battery() (pct float64, ok bool) { return 0, false }

func encryption(string) (encrypted, encrypting *bool) { return nil, nil }

func wholeDrive(string) bool { return true }

func sensorOf(string) func() (celsius, limit float64) { return nil }

func attached(string) []string { return nil }
