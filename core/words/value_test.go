package words

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
	"nowthen/core/value"
)

func TestBought(t *testing.T) {
	f := func(x float64) *float64 { return &x }
	days := func(n int) *int { return &n }
	bill := &job.Bill{HourWorth: &job.Price{Amount: "12.50", Currency: "EUR"},
		NewComputer: &job.BillItem{Price: job.Price{Amount: "720", Currency: "EUR"}}, SupportEnds: "2031-10-14"}
	for name, c := range map[string]struct {
		v      value.Value
		en, de []string
	}{
		"the drive alone": {value.Value{Currency: "EUR", Total: "120.00", Drive: "120.00"}, []string{}, []string{}},
		"all of it": {value.Value{Currency: "EUR", Total: "180.00", Drive: "120.00", PerSecond: f(5.004), Weeks: f(30),
			WeeksLow: f(22.9), WeeksHigh: f(45.1), OfNew: f(0.2401), SupportDays: days(900)},
			[]string{"The total cost was 180.00 EUR.", "That is 5.00 EUR per second saved at each start.",
				"If an hour of your time is worth 12.50 EUR, it pays for itself in 22 to 46 weeks.",
				"A comparable new computer costs 720 EUR; this was 25 % of that.", "The operating system gets updates until 14 " +
					"October 2031."},
			[]string{"Insgesamt kostete es 180,00 EUR.",
				"Das sind 5,00 EUR je Sekunde, die bei jedem Start gespart wird.", "Wenn eine Stunde Ihrer Zeit " +
					"12,50 EUR wert ist, macht sich das in 22 bis 46 Wochen bezahlt.",
				"Ein vergleichbarer neuer Computer kostet 720 EUR; das hier waren 25 % davon.", "Updates für das " +
					"Betriebssystem gibt es bis zum 14.10.2031."}},
		"within a week": {value.Value{Currency: "EUR", Weeks: f(0.5), WeeksLow: f(0.4), WeeksHigh: f(1)},
			[]string{"If an hour of your time is worth 12.50 EUR, it pays for itself within a week."},
			[]string{"Wenn eine Stunde Ihrer Zeit 12,50 EUR wert ist, macht sich das innerhalb einer Woche bezahlt."}},
		"never": {value.Value{Currency: "EUR", Weeks: f(521), WeeksLow: f(400), WeeksHigh: f(900)},
			[]string{"If an hour of your time is worth 12.50 EUR, the time saved alone takes more than ten years to " +
				"pay for it."},
			[]string{"Wenn eine Stunde Ihrer Zeit 12,50 EUR wert ist, macht es sich durch die gesparte Zeit allein " +
				"auch in zehn Jahren nicht bezahlt."}},
		"soon": {value.Value{SupportDays: days(364)},
			[]string{"Updates for the operating system end on 14 October 2031. Plan what comes next."}, []string{"Updates für das Betriebssystem gibt es noch bis zum 14.10.2031. Planen Sie, was danach kommt."}},
		"over": {value.Value{SupportDays: days(-1)},
			[]string{"Updates for the operating system ended on 14 October 2031. A new drive doesn’t change that."}, []string{"Updates für das Betriebssystem gibt es seit dem 14.10.2031 nicht mehr. Daran ändert ein neues Laufwerk nichts."}},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.en, English.Bought(&c.v, bill))
			assert.Equal(t, c.de, German.Bought(&c.v, bill))
		})
	}
	assert.Nil(t, English.Bought(nil, nil))
	assert.Equal(t, "soon", English.Day("soon"), "what is no day stays as it was written")
}
