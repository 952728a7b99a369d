package report

import (
	"time"

	"nowthen/core/message"
	"nowthen/core/words"
)

// Withdraw marks at the top of a report since when it is withdrawn.
func (d *Document) Withdraw(at time.Time) {
	in, err := words.In(d.Lang)
	if err != nil {
		in = words.English
	}
	w := writer{in, d, nil, nil}
	d.Lead = w.say("withdrawn", message.Values{"Day": in.Day(at.Format(time.DateOnly))})
	d.Sentences = []Sentence{{ID: "lead", Text: d.Lead, RestsOn: []string{"/job/withdrawn"}}}
}

// WithoutFigures is what the reader of a withdrawn report sees: that it was withdrawn, without its content.
func (d *Document) WithoutFigures(at time.Time) *Document {
	w := &Document{Number: d.Number, Issued: d.Issued, Customer: d.Customer, Computer: d.Computer, Lang: d.Lang,
		Revision: d.Revision, Shop: d.Shop, Simulated: d.Simulated, Labels: d.Labels}
	w.Complete()
	w.Withdraw(at)
	w.Headline, w.Lead = w.Lead, ""
	return w
}
