package words

import (
	"fmt"

	"nowthen/core/job"
	"nowthen/core/message"
)

// Whole writes a count, grouped as the language does it: "212,406", "212.406".
func (in *Language) Whole(n int) string {
	return in.grouped(float64(n), 0)
}

// Bytes writes an amount of data in powers of ten: "184 GB".
func (in *Language) Bytes(n int64) string {
	v, unit := float64(n), "B"
	for _, u := range []string{"kB", "MB", "GB", "TB"} {
		if v < 999.5 {
			break
		}
		v, unit = v/1000, u
	}
	if v >= 100 || unit == "B" {
		return in.Number(fmt.Sprintf("%.0f", v)) + " " + unit
	}
	return in.Number(fmt.Sprintf("%.3g", v)) + " " + unit
}

// Carried says in one or two sentences what of the customer's files came across.
func (in *Language) Carried(c *job.Carried) string {
	of := message.Values{"Files": in.Whole(c.Files), "Size": in.Bytes(c.Bytes)}
	said := in.Say("carried.all", of)
	var not []string
	for _, part := range []struct {
		key string
		n   int
	}{{"missing", c.Missing}, {"changed", c.Changed}, {"unreadable", c.UnreadableNow}} {
		if part.n > 0 {
			not = append(not, in.Say("carried."+part.key, message.Values{"Files": in.Whole(part.n)}))
		}
	}
	if len(not) > 0 {
		of["Unchanged"], of["Not"] = in.Whole(c.Unchanged), in.List(not)
		said = in.Say("carried.not-all", of)
	}
	if n := c.UnreadableBefore; n > 0 {
		said += " " + in.Say("carried.unreadable-before", message.Values{"Count": n, "Files": in.Whole(n)})
	}
	return said
}
