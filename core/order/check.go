package order

import (
	"errors"
	"fmt"

	"nowthen/core/capacity"
	"nowthen/core/job"
	"nowthen/core/sustained"
)

// Check is how to check the new drive, before it is used or once it is fitted.
type Check struct {
	// Label is the code on the drive's label; without it, a drive that isn't empty is not written to.
	Label string `json:"label,omitzero"`
	// Job is the number of the job, which the label has to name.
	Job string `json:"job,omitzero"`
	// Whole: all of the free space is written and read back, of [Capacity]; else a sample.
	Whole bool `json:"whole,omitzero"`
	// Seconds is how long it is written, of [Sustain], and Load whether once more with the processor at work.
	Seconds float64 `json:"seconds,omitzero"`
	Load    bool    `json:"load,omitzero"`
	// MostBytes bounds what is written: of a sample all of it, of [Sustain] each part. 0: as much as is usual.
	MostBytes int64 `json:"most_bytes,omitzero"`
}

// Checked is the result of a check of the new drive, one of the two. The drive is identified by the digest of
// its serial number, if the probe knows it.
type Checked struct {
	Order        string           `json:"order"`
	SerialDigest string           `json:"serial_digest,omitzero"`
	Held         *capacity.Result `json:"held,omitzero"`
	Sustained    *job.Sustained   `json:"sustained,omitzero"`
}

// Check returns what is wrong with a probe's result, or nil.
func (c *Checked) Check() error {
	switch {
	case (c.Held == nil) == (c.Sustained == nil):
		return errors.New("a check of a drive says either whether it has the capacity it reports, or how it held up")
	case len(c.SerialDigest) > maxText:
		return fmt.Errorf("a digest of %d bytes is longer than %d", len(c.SerialDigest), maxText)
	case c.Sustained != nil:
		return c.Sustained.Check()
	}
	return c.Held.Check()
}

// Usual bounds of what is written.
const (
	UsualSample  = 4 << 30
	UsualWriting = 64 << 30 // a quick drive takes 20 s for it
)

// Writing are the options of writing for a while, with the drive's limit from its label.
func (o *Order) Writing() sustained.Options {
	w := sustained.Options{Seconds: o.Check.Seconds, MostBytes: o.Check.MostBytes, MaxTempC: o.MaxTempC, Seed: o.Seed,
		Load: o.Check.Load}
	if w.MostBytes == 0 {
		w.MostBytes = UsualWriting
	}
	return w
}
