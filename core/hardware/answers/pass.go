package answers

import (
	"regexp"
	"strconv"
	"strings"
	"time"

	"nowthen/core/job"
)

// ArrayPass reads what Linux says of an array of drives (md/sync_action, md/sync_completed and
// md/sync_speed): nil where
// nothing goes over it. The size is in sectors of 512 bytes, the speed in KiB a second.
func ArrayPass(action, completed, speed string) *job.Pass {
	switch strings.TrimSpace(action) {
	case "resync", "recover", "check", "repair", "reshape":
	default: // idle, frozen, or nothing that is known
		return nil
	}
	p := &job.Pass{Kind: job.ArrayPass}
	doneText, totalText, _ := strings.Cut(completed, "/")
	done, errDone := strconv.ParseFloat(strings.TrimSpace(doneText), 64)
	total, errTotal := strconv.ParseFloat(strings.TrimSpace(totalText), 64)
	if errDone != nil || errTotal != nil || !(total > 0 && done >= 0 && done <= total && total < 1e15) {
		return p
	}
	pct := done / total * 100
	p.DonePct = &pct
	if kib, err := strconv.ParseFloat(strings.TrimSpace(speed), 64); err == nil && kib > 0 && kib < 1e12 {
		left := (total - done) / 2 / kib / 60
		p.MinutesLeft = &left
	}
	return p
}

var vaultDone = regexp.MustCompile(`Percent completed = ([0-9]{1,3}(?:[.][0-9]{1,6})?)`)

// VaultPass reads of a pass over macOS's own volume its progress (fdesetup status); nil where none runs.
func VaultPass(text string) *job.Pass {
	var kind job.PassKind
	switch {
	case strings.Contains(text, "Encryption in progress"):
		kind = job.EncryptionPass
	case strings.Contains(text, "Decryption in progress"):
		kind = job.DecryptionPass
	default:
		return nil
	}
	p := &job.Pass{Kind: kind}
	if m := vaultDone.FindStringSubmatch(text); m != nil {
		if pct, err := strconv.ParseFloat(m[1], 64); err == nil && pct <= 100 {
			p.DonePct = &pct
		}
	}
	return p
}

// WindowsPass reads the state of a conversion as Windows numbers it (ConversionStatus of an
// encryptable volume) and how much
// of the volume is encrypted, %; nil where none runs. One that is stopped is none that disturbs.
func WindowsPass(status int, encryptedPct float64) *job.Pass {
	const (
		encrypting = 2
		decrypting = 3
	)
	var kind job.PassKind
	done := encryptedPct
	switch status {
	case encrypting:
		kind = job.EncryptionPass
	case decrypting:
		kind, done = job.DecryptionPass, 100-encryptedPct
	default:
		return nil
	}
	p := &job.Pass{Kind: kind}
	if done >= 0 && done <= 100 {
		p.DonePct = &done
	}
	return p
}

// Pace tells from several looks at a pass how long it will take: systems say its progress and not
// for how long. Its zero
// value has seen nothing.
type Pace struct {
	kind job.PassKind
	pct  float64
	at   time.Time
}

// paceAfter is how long a pass is watched before its pace is told: what a few seconds show is mostly rounding.
const paceAfter = 20 * time.Second

// See takes a look at a pass and says in it how long it will take, where that is known. The pass may be nil.
func (p *Pace) See(pass *job.Pass, now time.Time) {
	switch {
	case pass == nil || pass.DonePct == nil:
		*p = Pace{}
	case p.kind != pass.Kind || *pass.DonePct < p.pct:
		*p = Pace{kind: pass.Kind, pct: *pass.DonePct, at: now}
	case pass.MinutesLeft == nil && now.Sub(p.at) >= paceAfter && *pass.DonePct > p.pct:
		left := (100 - *pass.DonePct) / ((*pass.DonePct - p.pct) / now.Sub(p.at).Minutes())
		pass.MinutesLeft = &left
	}
}
