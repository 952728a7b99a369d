package answers

import (
	"bufio"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"nowthen/core/hardware"
	"slices"
	"strconv"
	"time"

	"github.com/go-json-experiment/json/jsontext"

	"github.com/go-json-experiment/json"
)

// newest are the last starts, the newest first.
func newest(list []hardware.Start) []hardware.Start {
	slices.SortFunc(list, func(a, b hardware.Start) int { return b.At.Compare(a.At) })
	return list[:min(len(list), hardware.MaxStarts)]
}

// JournalStarts reads what systemd writes when a start has finished (systemd.journal-fields(7); message
// b07a249cd024414a82dd00cd181378ff, SD_MESSAGE_STARTUP_FINISHED), one JSON object a line. What is
// of a user's own manager, or is
// no start, is left out.
func JournalStarts(r io.Reader) ([]hardware.Start, error) {
	list := []hardware.Start{}
	lines := bufio.NewScanner(r)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		if len(bytes.TrimSpace(lines.Bytes())) == 0 {
			continue
		}
		var fields map[string]any
		if err := json.Unmarshal(lines.Bytes(), &fields, jsontext.AllowDuplicateNames(true),
			jsontext.AllowInvalidUTF8(true)); err != nil {
			return nil, fmt.Errorf("the journal's line %d: %w", len(list)+1, err)
		}
		number := func(name string) (float64, bool) {
			s, _ := fields[name].(string)
			n, err := strconv.ParseInt(s, 10, 64)
			return float64(n) / 1e6, err == nil && n >= 0
		}
		at, dated := number("__REALTIME_TIMESTAMP")
		s := hardware.Start{At: time.UnixMicro(int64(at * 1e6)).UTC(), Resolution: 1e-6, Phases: map[string]float64{}}
		for phase, name := range map[string]string{"firmware": "FIRMWARE_USEC", "loader": "LOADER_USEC",
			"kernel": "KERNEL_USEC", "initrd": "INITRD_USEC", "system": "USERSPACE_USEC"} {
			if seconds, ok := number(name); ok && seconds > 0 {
				s.Phases[phase] = seconds
				s.Seconds += seconds
			}
		}
		_, kernel := s.Phases["kernel"] // a user's own manager has none
		if dated && kernel && s.Seconds <= hardware.LongestStart {
			list = append(list, s)
		}
	}
	return newest(list), lines.Err()
}

// errNoEvents is of text that holds no events.
var errNoEvents = errors.New("these are no events of a system's log")

// EventStarts reads what Windows writes of its starts (event 100 of its log
// Diagnostics-Performance), as its own tool prints
// events: one element after another. The whole is until the desktop has become quiet, the main path until it is there.
func EventStarts(r io.Reader) ([]hardware.Start, error) {
	d := xml.NewDecoder(r)
	list := []hardware.Start{}
	for {
		var e struct {
			System struct {
				EventID     int
				TimeCreated struct {
					SystemTime string `xml:"SystemTime,attr"`
				}
			}
			EventData struct {
				Data []struct {
					Name  string `xml:"Name,attr"`
					Value string `xml:",chardata"`
				}
			}
		}
		err := d.Decode(&e)
		if errors.Is(err, io.EOF) {
			return newest(list), nil
		}
		if err != nil {
			return nil, fmt.Errorf("%w: %w", errNoEvents, err)
		}
		values := map[string]float64{}
		begun := ""
		for _, v := range e.EventData.Data {
			if n, err := strconv.ParseInt(v.Value, 10, 64); err == nil && n >= 0 {
				values[v.Name] = float64(n) / 1000
			}
			if v.Name == "BootStartTime" {
				begun = v.Value
			}
		}
		at, err := time.Parse(time.RFC3339Nano, begun)
		if err != nil {
			at, err = time.Parse(time.RFC3339Nano, e.System.TimeCreated.SystemTime)
		}
		main, known := values["MainPathBootTime"]
		if e.System.EventID != 100 || err != nil || !known || main <= 0 || main > hardware.LongestStart {
			continue
		}
		s := hardware.Start{At: at.UTC(), Seconds: main, Resolution: 0.001, Phases: map[string]float64{"system": main}}
		if after, ok := values["BootPostBootTime"]; ok && after > 0 {
			s.Phases["desktop"] = after // until it was quiet, which is not counted
		}
		list = append(list, s)
	}
}
