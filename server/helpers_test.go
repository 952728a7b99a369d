package server

import (
	"bufio"
	"bytes"
	"io"
	"log/slog"
)

// s0 is a log that nobody reads.
var s0 = slog.New(slog.DiscardHandler)

// eventReader reads server-sent events.
type eventReader struct{ r *bufio.Reader }

func newEventReader(r io.Reader) *eventReader { return &eventReader{bufio.NewReader(r)} }

// next returns the next event.
func (e *eventReader) next() (kind string, data []byte, err error) {
	for {
		line, err := e.r.ReadBytes('\n')
		if err != nil {
			return "", nil, err
		}
		line = bytes.TrimRight(line, "\n")
		switch {
		case bytes.HasPrefix(line, []byte("event: ")):
			kind = string(line[7:])
		case bytes.HasPrefix(line, []byte("data: ")):
			data = line[6:]
		case len(line) == 0 && kind != "":
			return kind, data, nil
		}
	}
}
