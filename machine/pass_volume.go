//go:build windows || darwin

package machine

import "nowthen/core/job"

// encryptingPct is how far the encryption of the volume of a folder is, %; nil where none continues
// or the system does not report it.
func encryptingPct(dir string) *float64 {
	p := passOver(dir)
	if p == nil || p.Kind != job.EncryptionPass {
		return nil
	}
	return p.DonePct
}
