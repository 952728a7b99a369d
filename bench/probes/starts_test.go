package probes

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

// A copied drive brings the record of the old one's starts along; which were with it, the gate between them says.
func TestRecordedStartsBelongToADrive(t *testing.T) {
	at := func(hour int) time.Time { return time.Date(2031, 3, 4, hour, 0, 0, 0, time.UTC) }
	r := &record{Facts: hardware.Facts{Starts: []hardware.Start{{At: at(12), Seconds: 15}, {At: at(8), Seconds: 61}}}}
	j := &job.Job{Setups: []job.Setup{{ID: "then", Role: job.Then}, {ID: "now", Role: job.Now}}}
	of := func(setup string) (seconds []float64) {
		for _, s := range recorded(j, r, setup) {
			seconds = append(seconds, s.Seconds)
		}
		return seconds
	}
	assert.Equal(t, []float64{15, 61}, of("then"), "while the old drive is in, all are with it")
	assert.Empty(t, of("now"), "nobody can tell")
	j.Head.Gates = []job.Gate{{Name: job.GateOldDriveOut, At: at(10)}}
	assert.Equal(t, []float64{61}, of("then"))
	assert.Equal(t, []float64{15}, of("now"))
	r.Behind = 3 * 3600 // its clock is three hours behind the bench's
	assert.Equal(t, []float64{15, 61}, of("now"))
	assert.Empty(t, of("nowhere"))
	assert.True(t, sameMoment(at(8), at(8).Add(time.Second)))
	assert.False(t, sameMoment(at(8), at(8).Add(3*time.Second)))
	assert.Equal(t, "kernel 2 s, system 30.2 s",
		phases(hardware.Start{Phases: map[string]float64{"system": 30.25, "kernel": 2}}))
}
