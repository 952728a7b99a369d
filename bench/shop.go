package bench

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/store"
)

// Shop is the shop's settings for all its jobs.
type Shop struct {
	Name    string `json:"name" validate:"max=200"`
	Address string `json:"address" validate:"max=500"` // may have several lines
	// Footer is printed on each page of a report, Terms once at its end.
	Footer string `json:"footer" validate:"max=160"`
	Terms  string `json:"terms" validate:"max=3000"`
	// Colour is the header colour of reports, as "#rrggbb", or "".
	Colour string `json:"colour" validate:"omitempty,hexcolor,len=7"`
	// Logo is a PNG picture; in JSON as base64.
	Logo []byte `json:"logo"`
	// Currency is the currency of prices, as its three-letter code.
	Currency string `json:"currency" validate:"len=3,alpha,uppercase" say:"A currency is three capital letters, such as EUR."`
	Paper    string `json:"paper" validate:"oneof=a4 letter" say:"Paper is a4 or letter."`
	// FeltSeconds and FeltShare: a difference is felt from both on.
	FeltSeconds float64 `json:"felt_seconds" validate:"min=0,max=60" say:"Between 0 and 60 s."`
	FeltShare   float64 `json:"felt_share" validate:"min=0,max=1" say:"Between 0 and 100 %."`
	// MorningPages is how many pages the morning's-pages test opens.
	MorningPages int `json:"morning_pages" validate:"min=1,max=99" say:"Between 1 and 99 pages."`
}

// NewShop is the default settings of a shop.
var NewShop = Shop{Currency: "EUR", Paper: "a4", FeltSeconds: compare.DefaultOptions.FeltSeconds,
	FeltShare: compare.DefaultOptions.FeltShare, MorningPages: catalogue.MorningPages}

// shopSetting is the name of its setting.
const shopSetting = "shop"

// Settings is a store of settings.
type Settings interface {
	Setting(ctx context.Context, name string) (string, error)
	SaveSetting(ctx context.Context, name, body string) error
}

// LoadShop returns the shop's settings.
func LoadShop(ctx context.Context, s interface {
	Setting(ctx context.Context, name string) (string, error)
}) (Shop, error) {
	shop := NewShop
	body, err := s.Setting(ctx, shopSetting)
	if errors.Is(err, store.ErrNotFound) {
		return shop, nil
	}
	if err != nil {
		return shop, err
	}
	if err := json.Unmarshal([]byte(body), &shop); err != nil {
		return NewShop, fmt.Errorf("the shop's settings: %w", err)
	}
	return shop, nil
}

// SaveShop checks and stores the shop's settings.
func SaveShop(ctx context.Context, s Settings, shop Shop) error {
	shop.Name, shop.Address = strings.TrimSpace(shop.Name), strings.TrimSpace(shop.Address)
	shop.Footer, shop.Terms = strings.Join(strings.Fields(shop.Footer), " "), strings.TrimSpace(shop.Terms)
	shop.Colour = strings.ToLower(strings.TrimSpace(shop.Colour))
	f := Fields{}
	f.Input("", shop)
	f.Check(readable(shop.Colour), "colour",
		fmt.Sprintf("That colour is too light for white paper. Its contrast must be at least %g to 1.", leastContrast))
	if len(shop.Logo) > 0 {
		logo, err := cleanLogo(shop.Logo)
		f.Check(err == nil, "logo", "Use a PNG picture of at most 400 KiB.")
		shop.Logo = logo
	}
	if err := f.Refusal(); err != nil {
		return err
	}
	body, err := json.Marshal(&shop)
	if err != nil {
		return err
	}
	return s.SaveSetting(ctx, shopSetting, string(body))
}
