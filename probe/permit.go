package probe

import (
	"context"
	"errors"
	"strconv"
	"strings"
	"unicode"

	"nowthen/core/job"
)

// Printable removes control characters and those that reverse the writing direction: printed text may come from
// another program that answers as the bench.
func Printable(s string) string {
	return strings.Map(func(r rune) rune {
		if strings.ContainsRune("\r\n\t", r) {
			return ' '
		}
		if unicode.IsControl(r) || unicode.Is(unicode.Cf, r) || unicode.Is(unicode.Zl, r) || unicode.Is(unicode.Zp, r) {
			return -1
		}
		return r
	}, s)
}

// errNotPermitted means that nobody allowed a launch.
var errNotPermitted = errors.New("launching a program needs permission at this computer; start the probe in a " +
	"window, or with " +
	"--allow-launch")

// CommandLine formats a launch for a person: each word separate, and nothing hidden.
func CommandLine(l *job.Launch) string {
	words := make([]string, 0, 1+len(l.Args))
	for _, w := range append([]string{l.Program}, l.Args...) {
		plain := w != "" && !strings.ContainsFunc(w, func(r rune) bool {
			return !unicode.IsLetter(r) && !unicode.IsDigit(r) && !strings.ContainsRune("-_./:=,+@%", r)
		})
		if !plain {
			w = strconv.QuoteToGraphic(w)
		}
		words = append(words, w)
	}
	return strings.Join(words, " ")
}

// permit shows the person at a real computer what is to be launched, and asks once for each program and job.
func (j *Joined) permit(ctx context.Context, l *job.Launch) error {
	if l == nil || j.computer.Simulated() != "" {
		return nil
	}
	line := CommandLine(l)
	j.say("The bench wants to launch: %s", line)
	if j.permitted[line] {
		return nil
	}
	if j.o.Permit == nil {
		return errNotPermitted
	}
	if err := j.o.Permit(ctx, line); err != nil {
		return err
	}
	if j.permitted == nil {
		j.permitted = map[string]bool{}
	}
	j.permitted[line] = true
	return nil
}
