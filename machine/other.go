//go:build !linux

package machine

// What this system could tell of power, encryption and temperature is not asked
// yet; what is not asked is absent, never guessed.

func power() (source, mode string) { return "", "" }

func encrypted(string) *bool { return nil }

func wholeDrive(string) bool { return true }

func sensorOf(string) func() (celsius, limit float64) { return nil }
