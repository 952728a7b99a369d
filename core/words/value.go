package words

import (
	"fmt"
	"math"
	"time"

	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/value"
)

// longest is the longest payback stated, in weeks; anything longer exceeds a computer's life.
const longest = 520

// Bought says what the work cost and what it brought, a sentence each. bill is the source of the amounts.
func (in *Language) Bought(v *value.Value, bill *job.Bill) []string {
	if v == nil {
		return nil
	}
	money := func(amount string) string { return in.Number(amount) + " " + v.Currency }
	rounded := func(x float64) string { return money(fmt.Sprintf("%.2f", x)) }
	said := []string{}
	if v.Total != "" && v.Total != v.Drive {
		said = append(said, in.Say("value.total", message.Values{"Total": money(v.Total)}))
	}
	if v.PerSecond != nil {
		said = append(said, in.Say("value.second", message.Values{"Price": rounded(*v.PerSecond)}))
	}
	if v.Weeks != nil && bill != nil && bill.HourWorth != nil {
		hour := money(bill.HourWorth.Amount)
		switch low, high := math.Floor(*v.WeeksLow), math.Ceil(*v.WeeksHigh); {
		case *v.Weeks > longest:
			said = append(said, in.Say("value.never", message.Values{"Hour": hour}))
		case high <= 1:
			said = append(said, in.Say("value.week", message.Values{"Hour": hour}))
		default:
			said = append(said, in.Say("value.weeks",
				message.Values{"Hour": hour, "Low": fmt.Sprintf("%.0f", low), "High": fmt.Sprintf("%.0f", high)}))
		}
	}
	if v.OfNew != nil && bill != nil && bill.NewComputer != nil {
		said = append(said, in.Say("value.new",
			message.Values{"Price": money(bill.NewComputer.Price.Amount),
				"Pct": fmt.Sprintf("%.0f", math.Ceil(100**v.OfNew))}))
	}
	if v.SupportDays != nil && bill != nil {
		key := "value.supported"
		switch {
		case *v.SupportDays < 0:
			key = "value.unsupported"
		case *v.SupportDays < soon:
			key = "value.support-soon"
		}
		said = append(said, in.Say(key, message.Values{"Day": in.Day(bill.SupportEnds)}))
	}
	return said
}

// soon is how many days before the end of a system's support a customer is told to plan ahead.
const soon = 365

// Day writes a day, 2006-01-02, as the language does.
func (in *Language) Day(day string) string {
	at, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return day
	}
	return at.Format(in.Say("value.day"))
}
