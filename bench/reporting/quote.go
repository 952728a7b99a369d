package reporting

import (
	"context"

	"nowthen/core/forecast"
	"nowthen/report"
)

// Quote writes a forecast of a job down as a quote, in a language.
func (x *Reports) Quote(ctx context.Context, jobID, lang string, f *forecast.Forecast) (*report.Document, error) {
	in, err := language(lang)
	if err != nil {
		return nil, err
	}
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	shop, err := x.Shop(ctx)
	if err != nil {
		return nil, err
	}
	return report.Quote(s.Job, f, report.Options{Language: in, Now: x.jobs.Now(), Shop: head(shop)}), nil
}
