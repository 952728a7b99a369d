package fairness

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

func TestDoubts(t *testing.T) {
	yes, no := true, false
	v := func(x float64) *float64 { return &x }
	for name, c := range map[string]struct {
		given job.Conditions
		want  []string
	}{
		"nothing is known": {job.Conditions{}, nil},
		"all is well": {job.Conditions{Power: job.Mains, PowerMode: job.NormalMode, Encrypting: &no,
			Busy: []job.Busy{}, BackgroundMBs: v(0.1), CPUPct: v(3)}, nil},
		"on battery":   {job.Conditions{Power: job.Battery}, []string{"It runs on battery."}},
		"saving power": {job.Conditions{PowerMode: job.SavingMode}, []string{"It saves power."}},
		"a pass": {job.Conditions{Encrypting: &yes},
			[]string{"An encryption pass is running."}},
		"one that says how long": {job.Conditions{Encrypting: &yes,
			Pass: &job.Pass{Kind: job.EncryptionPass, DonePct: v(40), MinutesLeft: v(25.3)}},
			[]string{"An encryption pass is running, about 25 minutes left."}},
		"one that is nearly over": {job.Conditions{Encrypting: &yes,
			Pass: &job.Pass{Kind: job.DecryptionPass, MinutesLeft: v(0.4)}},
			[]string{"A decryption pass is running, about a minute left."}},
		"a minute and a half": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{MinutesLeft: v(1.5)}},
			[]string{"An encryption pass is running, about 2 minutes left."}},
		"just less": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{MinutesLeft: v(1.49)}},
			[]string{"An encryption pass is running, about a minute left."}},
		"an hour and a half": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{MinutesLeft: v(90)}},
			[]string{"An encryption pass is running, about 2 hours left."}},
		"just less than that": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{MinutesLeft: v(89)}},
			[]string{"An encryption pass is running, about 89 minutes left."}},
		"of many hours": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{MinutesLeft: v(2730)}},
			[]string{"An encryption pass is running, about 46 hours left."}},
		"one for the night": {job.Conditions{Encrypting: &yes,
			Pass: &job.Pass{Kind: job.ArrayPass, MinutesLeft: v(430)}},
			[]string{"An array of its drives is being rebuilt or checked, about 7 hours left."}},
		"one that says how far": {job.Conditions{Encrypting: &yes,
			Pass: &job.Pass{Kind: job.ArrayPass, DonePct: v(12.4)}},
			[]string{"An array of its drives is being rebuilt or checked; 12 % of it is done."}},
		"one that says nothing": {job.Conditions{Encrypting: &yes, Pass: &job.Pass{Kind: job.DecryptionPass}},
			[]string{"A decryption pass is running."}},
		"a pass moves what it moves": {job.Conditions{Encrypting: &yes, BackgroundMBs: v(40)},
			[]string{"An encryption pass is running."}},
		"a pass leaves the processor be": {job.Conditions{Encrypting: &yes, CPUPct: v(40)},
			[]string{"An encryption pass is running.", "Its processor is 40 % busy."}},
		"a download and an update": {job.Conditions{Busy: []job.Busy{"download", "update"}},
			[]string{"Something else is running: download, update."}},
		"something without a name": {job.Conditions{Busy: []job.Busy{"other"}},
			[]string{"Something else is running."}},
		"one with a name beside it": {job.Conditions{Busy: []job.Busy{"other", "scan"}},
			[]string{"Something else is running: scan."}},
		"what is named needs no figures": {job.Conditions{Busy: []job.Busy{"scan"}, BackgroundMBs: v(50),
			CPUPct: v(80)},
			[]string{"Something else is running: scan."}},
		"drives just at the limit": {job.Conditions{BackgroundMBs: v(busyMBs), CPUPct: v(busyCPUPct)}, nil},
		"drives beyond it": {job.Conditions{BackgroundMBs: v(2.5)},
			[]string{"Something else moves 2.5 MB/s on its drives."}},
		"beyond it, and nothing named": {job.Conditions{Busy: []job.Busy{}, Encrypting: &no, BackgroundMBs: v(2.5),
			CPUPct: v(16)}, []string{"Something else moves 2.5 MB/s on its drives.", "Its processor is 16 % busy."}},
	} {
		t.Run(name, func(t *testing.T) { assert.Equal(t, c.want, Doubts(&c.given)) })
	}
}
