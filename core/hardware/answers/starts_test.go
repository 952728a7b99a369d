package answers

import (
	"nowthen/core/hardware"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Made up after the form that systemd's journal has.
const journal = `{"__REALTIME_TIMESTAMP":"1930000000000000","MESSAGE":"Startup finished.","FIRMWARE_USEC":"6000000","LOADER_USEC":"1500000","KERNEL_USEC":"2000000","INITRD_USEC":"500000","USERSPACE_USEC":"30250000"}
{"__REALTIME_TIMESTAMP":"1930000100000000","MESSAGE":"Startup finished in 1s.","USERSPACE_USEC":"900000"}

{"__REALTIME_TIMESTAMP":"1930090000000000","KERNEL_USEC":"2100000","USERSPACE_USEC":"28000000"}
{"__REALTIME_TIMESTAMP":"1930190000000000","KERNEL_USEC":"99999999999","USERSPACE_USEC":"1"}
{"__REALTIME_TIMESTAMP":"soon","KERNEL_USEC":"2100000","USERSPACE_USEC":"28000000"}
`

func TestJournalStarts(t *testing.T) {
	list, err := JournalStarts(strings.NewReader(journal))
	require.NoError(t, err)
	require.Len(t, list, 2, "not a user's own manager, nor what no start takes, nor what has no time")
	assert.Equal(t, time.UnixMicro(1930090000000000).UTC(), list[0].At, "the newest first")
	assert.InDelta(t, 30.1, list[0].Seconds, 1e-9)
	assert.InDelta(t, 40.25, list[1].Seconds, 1e-9)
	assert.Equal(t, map[string]float64{"firmware": 6, "loader": 1.5, "kernel": 2, "initrd": 0.5, "system": 30.25},
		list[1].Phases)

	many := strings.Repeat(`{"__REALTIME_TIMESTAMP":"1930000000000000","KERNEL_USEC":"1","USERSPACE_USEC":"1"}`+"\n",
		50)
	list, err = JournalStarts(strings.NewReader(many))
	require.NoError(t, err)
	assert.Len(t, list, hardware.MaxStarts)
	_, err = JournalStarts(strings.NewReader("No entries\n"))
	assert.ErrorContains(t, err, "line 1")
	list, err = JournalStarts(strings.NewReader(""))
	require.NoError(t, err)
	assert.Empty(t, list)
}

// Made up after the form in which the system's own tool prints events.
const events = `<Event xmlns='http://schemas.microsoft.com/win/2004/08/events/event'><System><EventID>100</EventID><TimeCreated SystemTime='2031-03-04T05:08:00.5Z'/></System><EventData>
<Data Name='BootStartTime'>2031-03-04T05:06:07.123Z</Data><Data Name='BootTime'>95400</Data><Data Name='MainPathBootTime'>41400</Data><Data Name='BootPostBootTime'>54000</Data></EventData></Event>
<Event><System><EventID>100</EventID><TimeCreated SystemTime='2031-03-05T06:00:00Z'/></System><EventData><Data Name='MainPathBootTime'>38250</Data></EventData></Event>
<Event><System><EventID>200</EventID><TimeCreated SystemTime='2031-03-05T07:00:00Z'/></System><EventData><Data Name='MainPathBootTime'>1</Data></EventData></Event>
<Event><System><EventID>100</EventID><TimeCreated SystemTime='2031-03-06T06:00:00Z'/></System><EventData><Data Name='MainPathBootTime'>-5</Data></EventData></Event>`

func TestEventStarts(t *testing.T) {
	list, err := EventStarts(strings.NewReader(events))
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, []float64{38.25, 41.4}, []float64{list[0].Seconds, list[1].Seconds})
	assert.Equal(t, time.Date(2031, 3, 4, 5, 6, 7, 123e6, time.UTC), list[1].At, "when it began")
	assert.Equal(t, map[string]float64{"system": 41.4, "desktop": 54}, list[1].Phases)
	_, err = EventStarts(strings.NewReader("<Event><System>"))
	assert.ErrorIs(t, err, errNoEvents)
	list, err = EventStarts(strings.NewReader(""))
	require.NoError(t, err)
	assert.Empty(t, list)
}

// Whatever a log holds, reading it ends, with starts that can be.
func FuzzStarts(f *testing.F) {
	f.Add(journal)
	f.Add(events)
	f.Fuzz(func(t *testing.T, text string) {
		for _, read := range []func() ([]hardware.Start, error){
			func() ([]hardware.Start, error) { return JournalStarts(strings.NewReader(text)) },
			func() ([]hardware.Start, error) { return EventStarts(strings.NewReader(text)) },
		} {
			list, err := read()
			if err != nil {
				continue
			}
			assert.LessOrEqual(t, len(list), hardware.MaxStarts)
			for _, s := range list {
				assert.True(t, s.Seconds > 0 && s.Seconds <= hardware.LongestStart, s.Seconds)
			}
		}
	})
}
