package value

import (
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/job"
)

func TestCents(t *testing.T) {
	for text, want := range map[string]int64{"0": 0, "59": 5900, "59.9": 5990, "59,90": 5990, " 138.00 ": 13800,
		"0.05": 5, "999999999.99": 99999999999} {
		got, err := Cents(text)
		require.NoError(t, err, text)
		assert.Equal(t, want, got, text)
	}
	for _, text := range []string{"", "-1", "1.234", "1,000.00", "1e3", "NaN", "1.", ".5", "9999999999", "١٢"} {
		_, err := Cents(text)
		assert.ErrorIs(t, err, ErrAmount, text)
	}
	assert.Equal(t, "0.05", Amount(5))
	assert.Equal(t, "138.00", Amount(13800))
}

func ptr[T any](v T) *T { return &v }

// visit is a made-up job: a drive of 2 TB for 120, 60 of labour, a start that is 36 s shorter,
// 1,800 s a week (1,200 to 2,400)
// at 12 an hour.
func visit(change func(j *job.Job, l *compare.Ledger)) *Value {
	j := &job.Job{
		Drives: []job.Drive{{ID: "d2",
			DriveLabel: job.DriveLabel{CapacityBytes: 2e12, Price: &job.Price{Amount: "120.00", Currency: "EUR"}}}},
		Setups: []job.Setup{{ID: "now", Drive: "d2"}},
		Tests:  []job.Test{{ID: "read", Kind: job.OnDrive}, {ID: "start", Kind: job.Timed, Occasion: "start"}},
	}
	j.Head.Bill = &job.Bill{Items: []job.BillItem{{What: "labour", Price: job.Price{Amount: "60", Currency: "EUR"}}},
		HourWorth: &job.Price{Amount: "12", Currency: "EUR"},
		NewComputer: &job.BillItem{What: "the like",
			Price: job.Price{Amount: "720", Currency: "EUR"}}, SupportEnds: "2031-10-14"}
	l := &compare.Ledger{With: "now",
		Savings: &compare.Savings{SecondsPerWeek: 1800, Low: 1200, High: 2400, Clear: true},
		Lines: []compare.Line{{Test: "read"},
			{Test: "start", Verdict: compare.Faster, HoldsAfterAll: true, Saves: ptr(36.0)}}}
	if change != nil {
		change(j, l)
	}
	return Of(j, l, time.Date(2031, 10, 4, 23, 0, 0, 0, time.UTC))
}

func TestOf(t *testing.T) {
	whole := Value{Currency: "EUR", Total: "180.00", Drive: "120.00", PerTB: ptr(60.0), Start: "start",
		PerSecond: ptr(5.0),
		Weeks:     ptr(30.0), WeeksLow: ptr(22.5), WeeksHigh: ptr(45.0), OfNew: ptr(0.25), SupportDays: ptr(10)}
	noStart := func(v *Value) { v.Start, v.PerSecond = "", nil }
	noWeeks := func(v *Value) { v.Weeks, v.WeeksLow, v.WeeksHigh = nil, nil, nil }
	for name, c := range map[string]struct {
		change func(j *job.Job, l *compare.Ledger)
		want   func(v *Value)
	}{
		"all is known": {nil, func(*Value) {}},
		"the start is not quicker": {func(_ *job.Job, l *compare.Ledger) { l.Lines[1].Verdict = compare.TooClose },
			noStart},
		"it does not hold after all": {func(_ *job.Job, l *compare.Ledger) { l.Lines[1].HoldsAfterAll = false },
			noStart},
		"it was timed once": {func(_ *job.Job, l *compare.Ledger) { l.Lines[1].Indicative = true },
			noStart},
		"the savings are not clear":    {func(_ *job.Job, l *compare.Ledger) { l.Savings.Clear = false }, noWeeks},
		"nobody said the hour's worth": {func(j *job.Job, _ *compare.Ledger) { j.Head.Bill.HourWorth = nil }, noWeeks},
		"an hour that is worth nothing": {func(j *job.Job, _ *compare.Ledger) { j.Head.Bill.HourWorth.Amount = "0" },
			noWeeks},
		"the hour in another currency": {func(j *job.Job,
			_ *compare.Ledger) {
			j.Head.Bill.HourWorth.Currency = "USD"
		}, noWeeks},
		"no new computer to compare": {func(j *job.Job, _ *compare.Ledger) { j.Head.Bill.NewComputer = nil },
			func(v *Value) { v.OfNew = nil }},
		"support has ended": {func(j *job.Job,
			_ *compare.Ledger) {
			j.Head.Bill.SupportEnds = "2031-10-01"
		}, func(v *Value) { v.SupportDays = ptr(-3) }},
		"the drive's price is not known": {func(j *job.Job, _ *compare.Ledger) { j.Drives[0].Price = nil },
			func(v *Value) {
				v.Drive, v.PerTB, v.Total, v.PerSecond = "", nil, "60.00", ptr(60/36.0)
				v.Weeks, v.WeeksLow, v.WeeksHigh, v.OfNew = ptr(10.0), ptr(7.5), ptr(15.0), ptr(60/720.0)
			}},
		"two currencies make no total": {func(j *job.Job,
			_ *compare.Ledger) {
			j.Head.Bill.Items[0].Price.Currency = "USD"
		}, func(v *Value) {
			noStart(v)
			noWeeks(v)
			v.Total, v.OfNew = "", nil
		}},
	} {
		t.Run(name, func(t *testing.T) {
			want := whole
			c.want(&want)
			got := visit(c.change)
			require.NotNil(t, got)
			for _, pair := range [][2]*float64{{want.PerTB, got.PerTB}, {want.PerSecond, got.PerSecond},
				{want.Weeks, got.Weeks}, {want.WeeksLow, got.WeeksLow}, {want.WeeksHigh, got.WeeksHigh}, {want.OfNew,
					got.OfNew}} {
				require.Equal(t, pair[0] == nil, pair[1] == nil)
				if pair[0] != nil {
					assert.InDelta(t, *pair[0], *pair[1], 1e-9)
					assert.False(t, math.IsInf(*pair[1], 0))
				}
			}
			want.PerTB, want.PerSecond, want.Weeks, want.WeeksLow, want.WeeksHigh, want.OfNew = got.PerTB,
				got.PerSecond, got.Weeks, got.WeeksLow, got.WeeksHigh, got.OfNew
			assert.Equal(t, want, *got)
		})
	}
	assert.Nil(t, visit(func(j *job.Job, _ *compare.Ledger) { j.Head.Bill, j.Drives[0].Price = nil, nil }),
		"nobody said anything")
}
