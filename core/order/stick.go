package order

import (
	"fmt"
	"io"
	"time"

	"github.com/go-json-experiment/json"
)

// Format and version of the file that tells a probe on a stick where its bench is.
const (
	StickFormat  = "nowthen-stick"
	StickVersion = 1
)

// maxStick bounds the file, bytes.
const maxStick = 64 << 10

// Stick is what a shop's stick tells the probe: where the bench is, each address with the fingerprint of the bench's key
// as its fragment, and the key that announces computers there.
type Stick struct {
	Format    string    `json:"format"`
	Version   int       `json:"version"`
	Shop      string    `json:"shop,omitzero"`
	Addresses []string  `json:"addresses"`
	Key       string    `json:"key"`
	Until     time.Time `json:"until"`
}

// ReadStick reads what a stick tells. What a newer bench adds is left out.
func ReadStick(from io.Reader) (*Stick, error) {
	text, err := io.ReadAll(io.LimitReader(from, maxStick+1))
	if err != nil {
		return nil, err
	}
	s := &Stick{}
	switch err := json.Unmarshal(text, s); {
	case len(text) > maxStick:
		return nil, fmt.Errorf("it has more than %d bytes; prepare the stick again", maxStick)
	case err != nil:
		return nil, fmt.Errorf("%w; prepare the stick again", err)
	case s.Format != StickFormat || s.Version != StickVersion:
		return nil, fmt.Errorf("it says %q version %d, not %q version %d; prepare the stick again", s.Format, s.Version,
			StickFormat, StickVersion)
	case s.Key == "" || len(s.Addresses) == 0:
		return nil, fmt.Errorf("it names no bench or no key; prepare the stick again")
	}
	return s, nil
}
