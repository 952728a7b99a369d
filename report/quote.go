package report

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"nowthen/core/catalogue"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/words"
)

// Part is a part of a document with a title of its own.
type Part struct {
	Title string   `json:"title"`
	Lines []string `json:"lines"`
}

// Quote is a page for the customer before the work: the expected effect and the cost of each drive of a
// forecast, what is uncertain, and until when it is valid. f has the offered candidates, at most three.
func Quote(j *job.Job, f *forecast.Forecast, o Options) *Document {
	if o.Language == nil {
		o.Language = words.English
	}
	d := writer{o.Language, &Document{Number: j.Head.Number, Customer: j.Head.Customer.Name, Simulated: j.Simulated(),
		Lang: o.Language.Tag, Shop: o.Shop, Length: LengthOne, Labels: labels(o.Language)}, nil, nil}
	d.Complete()
	d.Labels["draft"], d.Labels["report"] = d.Say("quote.quote"), d.Say("quote.quote")
	if len(j.Computers) > 0 {
		d.Computer = strings.TrimSpace(j.Computers[0].Maker + " " + j.Computers[0].Model)
	}
	d.Headline = d.Say("quote.headline")
	if q := j.Head.Quote; q != nil && q.Until != "" {
		d.Lead = d.Say("quote.until", message.Values{"Day": d.Day(q.Until)})
	}
	for _, c := range f.Candidates {
		d.Parts = append(d.Parts, d.offered(j, &c))
	}
	d.Parts = append(d.Parts, Part{d.Say("quote.uncertain"), d.uncertain(j, f)})
	return d.Document
}

// offered is the effect and cost of a candidate.
func (d writer) offered(j *job.Job, c *forecast.Candidate) Part {
	name := c.New
	if kind := job.DriveKind(name); slices.Contains(job.DriveKinds, kind) {
		name = d.DriveKind(&job.Drive{DriveLabel: job.DriveLabel{Kind: kind}})
		name = strings.ToUpper(name[:1]) + name[1:]
	}
	p := Part{Title: name, Lines: []string{}}
	if c.Price != nil {
		p.Title = d.Say("quote.drive-for",
			message.Values{"Name": name, "Price": d.Language.Number(c.Price.Amount) + " " + c.Price.Currency})
	}
	for _, w := range c.Waits {
		values := message.Values{"Name": d.name(j.Test(w.Test)), "Range": d.between(w.NowLow, w.NowHigh)}
		key := "quote.wait"
		if w.Then != nil {
			key, values["Then"] = "quote.wait-instead", d.SecondsLong(*w.Then)
		}
		line := d.Say(key, values)
		if slices.Contains(c.HardlyFelt, w.Test) {
			line += " " + d.Say("quote.hardly-felt")
		}
		p.Lines = append(p.Lines, line)
	}
	if len(c.Waits) == 0 {
		p.Lines = append(p.Lines, d.Say("quote.nothing"))
	}
	if h := c.HoursPerYear; h != nil {
		key := "quote.no-saving"
		if h.Low > 0 {
			key = "quote.saves"
		}
		p.Lines = append(p.Lines, d.Say(key, message.Values{"Low": d.hours(h.Low), "High": d.hours(h.High)}))
	}
	if w := c.PaybackWeeks; w != nil {
		p.Lines = append(p.Lines, d.Say("quote.payback",
			message.Values{"Low": d.Whole(int(math.Round(w.Low))), "High": d.Whole(int(math.Round(w.High)))}))
	}
	if c.PricePerTB != nil && c.Price != nil {
		p.Lines = append(p.Lines, d.Say("quote.per-tb",
			message.Values{"Price": d.Language.Number(strconv.FormatFloat(*c.PricePerTB, 'f', 2, 64)) + " " +
				c.Price.Currency}))
	}
	return p
}

// between is a range of times, with their unit said once where it is the same.
func (d writer) between(low, high float64) string {
	from, to := d.SecondsLong(low), d.SecondsLong(high)
	if n, unit, _ := strings.Cut(from, " "); strings.HasSuffix(to, " "+unit) {
		from = n
	}
	return d.Say("quote.range", message.Values{"Low": from, "High": to})
}

// hours are hours of a year, to one decimal below ten.
func (d writer) hours(h float64) string {
	decimals := 0
	if math.Abs(h) < 9.95 {
		decimals = 1
	}
	return d.Language.Number(strconv.FormatFloat(h, 'f', decimals, 64))
}

// uncertain says how reliable a forecast is, and what else may be the cause.
func (d writer) uncertain(j *job.Job, f *forecast.Forecast) []string {
	var list []string
	for _, c := range f.OtherCause {
		list = append(list, d.Say("quote.cause."+c))
	}
	jobs := 0
	for _, c := range f.Candidates {
		for _, w := range c.Waits {
			jobs = max(jobs, w.Jobs)
		}
	}
	if jobs > 0 {
		list = append(list, d.Say("quote.ranges", message.Values{"Jobs": d.Whole(jobs)}))
		if s := f.Record.Share; s != nil {
			list = append(list, d.Say("quote.record",
				message.Values{"N": d.Whole(f.Record.Forecasts), "Held": d.Whole(f.Record.Held)}))
		} else {
			list = append(list, d.Say("quote.record-unknown"))
		}
	}
	var refused []string
	told := func(test string) bool {
		return slices.ContainsFunc(f.Candidates, func(c forecast.Candidate) bool {
			return slices.ContainsFunc(c.Waits, func(w forecast.Wait) bool { return w.Test == test })
		})
	}
	for _, r := range f.Refused {
		t := j.Test(r.Test)
		if t != nil && !told(t.ID) && catalogue.EffortOf(t).Group != "" && !slices.Contains(refused, d.name(t)) {
			refused = append(refused, d.name(t))
		}
	}
	if len(refused) > 0 {
		list = append(list, d.Say("quote.refused", message.Values{"Names": strings.Join(refused, ", ")}))
	}
	return append(list, d.Say("quote.binding"))
}
