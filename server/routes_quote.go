package server

import (
	"github.com/gofiber/fiber/v3"

	"nowthen/bench"
	"nowthen/bench/forecasting"
	"nowthen/bench/visit"
	"nowthen/core/forecast"
)

// quoteRoutes are about quotes, forecasts and the price list.
func (s *Server) quoteRoutes(api fiber.Router) {
	d := s.desk
	api.Get("/known", get(func(ctx ctx, _ fiber.Ctx) (*forecasting.Known, error) { return d.Forecasts.Known(ctx) }))
	api.Get("/jobs/:job/quote", get(func(ctx ctx, c fiber.Ctx) (any, error) {
		f, err := d.Forecasts.Offered(ctx, id(c))
		if err != nil {
			return nil, err
		}
		return d.Reports.Quote(ctx, id(c), c.Query("lang"), f)
	}))
	api.Get("/jobs/:job/quote/file", s.quoteFile)
	api.Put("/jobs/:job/quote",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in visit.QuoteChange) (view, error) {
			return d.Visits.SetQuote(ctx, ch, id(c), in)
		}))
	type accepting struct {
		NewDrive bench.Drive `json:"new_drive"`
	}
	api.Put("/jobs/:job/accept",
		change(s, 200, 0, func(ctx ctx, ch *bench.Change, c fiber.Ctx, in accepting) (view, error) {
			name, waits, err := d.Forecasts.Foretell(ctx, id(c), in.NewDrive)
			if err != nil {
				return nil, err
			}
			return d.Visits.Accept(ctx, ch, id(c), in.NewDrive, name, waits)
		}))
	api.Get("/jobs/:job/forecast", get(func(ctx ctx, c fiber.Ctx) (*forecast.Forecast, error) {
		var drives []string
		for _, v := range c.Request().URI().QueryArgs().PeekMulti("new") {
			drives = append(drives, string(v))
		}
		return d.Forecasts.Of(ctx, id(c), drives)
	}))
	api.Get("/settings/prices", func(c fiber.Ctx) error {
		c.Vary(fiber.HeaderAccept)
		if c.Accepts("text/csv", fiber.MIMEApplicationJSON) == fiber.MIMEApplicationJSON {
			list, err := d.Forecasts.Prices(c.Context())
			if err != nil {
				return err
			}
			return c.JSON(list)
		}
		table, err := d.Forecasts.PricesCSV(c.Context())
		if err != nil {
			return err
		}
		c.Set(fiber.HeaderContentType, "text/csv; charset=utf-8")
		return c.Send(table)
	})
	api.Put("/settings/prices",
		change(s, 200, forecasting.MaxPrices,
			func(ctx ctx, ch *bench.Change, _ fiber.Ctx, in file) ([]forecasting.Priced, error) {
				return d.Forecasts.SetPrices(ctx, ch, in)
			}))
}
