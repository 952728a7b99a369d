// Package value relates the cost of the work to its benefit: per second saved at each start, in
// weeks until the saved time has paid for it, and against the price of a new computer.
//
// It is pure and knows nothing of words, screens or files. An unstated price is unknown, and
// nothing is claimed that the ledger does not support.
package value

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
	"time"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
)

// ErrAmount means that a text is no amount of money.
var ErrAmount = errors.New("an amount is a number with up to two decimals, such as 59.90")

var amount = regexp.MustCompile(`^\d{1,9}([.,]\d{1,2})?$`)

// Cents reads an amount of money, in hundredths of its currency.
func Cents(text string) (int64, error) {
	text = strings.TrimSpace(text)
	if !amount.MatchString(text) {
		return 0, fmt.Errorf("%q: %w", text, ErrAmount)
	}
	whole, part, _ := strings.Cut(strings.Replace(text, ",", ".", 1), ".")
	n, err := strconv.ParseInt(whole+(part + "00")[:2], 10, 64)
	return n, err
}

// Amount writes hundredths of a currency as an amount.
func Amount(cents int64) string { return fmt.Sprintf("%d.%02d", cents/100, cents%100) }

// Value is the cost of the work and what it brought. Unknown members are nil.
type Value struct {
	Currency string `json:"currency"`
	// Total is the drive and all else on the bill.
	Total string `json:"total"`
	// Drive is the drive's part of it, "" if not known.
	Drive string `json:"drive"`
	// PerTB is the drive's price for each TB that it holds (calculations, section 12).
	PerTB *float64 `json:"per_tb"`
	// Start is the test of the start that is spoken of, and PerSecond what a second that each start
	// is shorter has cost.
	Start     string   `json:"start"`
	PerSecond *float64 `json:"per_second"`
	// Weeks is how long it takes until the time that is saved, at the customer's own hour's worth,
	// has earned the total, with
	// the ends of its interval.
	Weeks     *float64 `json:"weeks"`
	WeeksLow  *float64 `json:"weeks_low"`
	WeeksHigh *float64 `json:"weeks_high"`
	// OfNew is the total's share of the price of a comparable new computer.
	OfNew *float64 `json:"of_new"`
	// SupportDays is how long the system is still supported, days; below zero it is no longer.
	SupportDays *int `json:"support_days"`
}

// Of returns what a job's work cost and bought, or nil where no price and no end of support is
// known. Amounts in another
// currency than the drive's, or the first item's, are left out of nothing: there is no total then.
func Of(j *job.Job, l *compare.Ledger, now time.Time) *Value {
	bill := j.Head.Bill
	if bill == nil {
		bill = &job.Bill{}
	}
	v := &Value{}
	total, known := int64(0), false
	add := func(p *job.Price) (int64, bool) {
		if p == nil || p.Amount == "" {
			return 0, true
		}
		cents, err := Cents(p.Amount)
		if err != nil || v.Currency != "" && p.Currency != v.Currency {
			return 0, false
		}
		v.Currency, known = p.Currency, true
		total += cents
		return cents, true
	}
	one := true
	if with := j.Setup(l.With); with != nil {
		if d := j.Drive(with.Drive); d != nil {
			cents, ok := add(d.Price)
			one = ok
			if cents > 0 {
				v.Drive = Amount(cents)
				if d.CapacityBytes > 0 {
					perTB := float64(cents) / 100 / (float64(d.CapacityBytes) / 1e12)
					v.PerTB = &perTB
				}
			}
		}
	}
	for i := range bill.Items {
		_, ok := add(&bill.Items[i].Price)
		one = one && ok
	}
	if known && one && total > 0 {
		v.Total = Amount(total)
		v.bought(j, l, float64(total)/100, bill)
	}
	if ends, err := time.Parse(time.DateOnly, bill.SupportEnds); err == nil {
		days := int(math.Floor(ends.Sub(now.UTC().Truncate(24*time.Hour)).Hours() / 24))
		v.SupportDays = &days
	}
	if v.Total == "" && v.SupportDays == nil && v.PerTB == nil {
		return nil
	}
	return v
}

// bought relates a total to the benefit, as far as the ledger supports it.
func (v *Value) bought(j *job.Job, l *compare.Ledger, total float64, bill *job.Bill) {
	for i := range l.Lines {
		ln := &l.Lines[i]
		t := j.Test(ln.Test)
		if t != nil && t.Kind == job.Timed && t.Occasion == catalogue.Start && ln.Verdict == compare.Faster &&
			ln.HoldsAfterAll && !ln.Indicative && ln.Saves != nil && *ln.Saves > 0 {
			perSecond := total / *ln.Saves
			v.Start, v.PerSecond = t.ID, &perSecond
			break
		}
	}
	same := func(p *job.Price) (float64, bool) {
		if p == nil || p.Currency != v.Currency {
			return 0, false
		}
		cents, err := Cents(p.Amount)
		return float64(cents) / 100, err == nil && cents > 0
	}
	if hour, ok := same(bill.HourWorth); ok && l.Savings != nil && l.Savings.Clear && l.Savings.Low > 0 {
		weeks := func(seconds float64) *float64 {
			w := total / (hour * seconds / 3600)
			return &w
		}
		v.Weeks, v.WeeksLow, v.WeeksHigh = weeks(l.Savings.SecondsPerWeek), weeks(l.Savings.High), weeks(l.Savings.Low)
	}
	if bill.NewComputer != nil {
		if price, ok := same(&bill.NewComputer.Price); ok {
			share := total / price
			v.OfNew = &share
		}
	}
}
