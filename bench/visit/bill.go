package visit

import (
	"context"
	"strings"
	"time"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/value"
)

// BillIn is the cost of the work besides the drive, and its alternatives, in a request. Amounts are text, such
// as "59.90" or "59,90", all in the shop's currency; "" is unknown.
type BillIn struct {
	Items       []BillItemIn `json:"items" validate:"max=50,dive"`
	HourWorth   string       `json:"hour_worth"`
	NewComputer string       `json:"new_computer"`
	SupportEnds string       `json:"support_ends"`
}

// BillItemIn is an item on it.
type BillItemIn struct {
	What   string `json:"what" validate:"max=200"`
	Amount string `json:"amount"`
}

// Bill stores the cost of the work. Unchanged items keep their day.
func (x *Visits) Bill(ctx context.Context, ch *bench.Change, jobID string, in BillIn) (*bench.View, error) {
	shop, err := bench.LoadShop(ctx, x.store)
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		before := j.Head.Bill
		if before == nil {
			before = &job.Bill{}
		}
		f := bench.Fields{}
		f.Input("", in)
		price := func(field, text string) *job.Price {
			if strings.TrimSpace(text) == "" {
				return nil
			}
			cents, err := value.Cents(text)
			f.Check(err == nil, field, "Enter an amount, such as 59.90.")
			return &job.Price{Amount: value.Amount(cents), Currency: shop.Currency}
		}
		b := &job.Bill{Unknown: before.Unknown, HourWorth: price("hour_worth", in.HourWorth),
			SupportEnds: strings.TrimSpace(in.SupportEnds)}
		if b.SupportEnds != "" {
			_, err := time.Parse(time.DateOnly, b.SupportEnds)
			f.Check(err == nil, "support_ends", "Enter a day, such as 2031-10-14.")
		}
		for _, given := range in.Items {
			what := strings.TrimSpace(given.What)
			p := price("items", given.Amount)
			if what == "" && p == nil {
				continue
			}
			f.Check(what != "" && p != nil, "items", "Enter a name and an amount for each item.")
			if p != nil {
				b.Items = append(b.Items, dated(before.Items, job.BillItem{What: what, Price: *p, At: x.jobs.Now()}))
			}
		}
		if p := price("new_computer", in.NewComputer); p != nil {
			item := job.BillItem{What: "new computer", Price: *p, At: x.jobs.Now()}
			if before.NewComputer != nil {
				item = dated([]job.BillItem{*before.NewComputer}, item)
			}
			b.NewComputer = &item
		}
		if err := f.Refusal(); err != nil {
			return err
		}
		j.Head.Bill = b
		return nil
	})
}

// dated is an item with its earlier day if it was among those before.
func dated(before []job.BillItem, item job.BillItem) job.BillItem {
	for _, b := range before {
		if b.What == item.What && b.Price.Amount == item.Price.Amount && b.Price.Currency == item.Price.Currency {
			return b
		}
	}
	return item
}
