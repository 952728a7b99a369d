// Package forecasting estimates what a new drive would bring, from the shop's own finished
// jobs, and keeps the shop's price list.
//
// It must not import HTTP, screens or other use cases.
package forecasting

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/compare"
	"nowthen/core/forecast"
	"nowthen/core/job"
	"nowthen/core/value"
	"nowthen/core/words"
	"nowthen/store"
)

// Store is the part of the store that forecasting uses.
type Store interface {
	Search(ctx context.Context, by store.Search) (found []store.Found, total int, next string, err error)
	Setting(ctx context.Context, name string) (string, error)
}

// Forecasts are made from the shop's finished jobs. Each job is evaluated once for each revision, and can be
// evaluated again at any time.
type Forecasts struct {
	jobs  *bench.Jobs
	store Store

	mu    sync.Mutex
	known map[string]known // by job
	shops map[bool]*shop   // of simulated jobs and of real ones
}

// known is the evaluation of a revision of a job.
type known struct {
	revision int64
	past     forecast.Past
	ok       bool
}

// shop is the evaluation of a set of jobs.
type shop struct {
	of   *forecast.Shop
	made []store.Found
}

// New returns the forecasts of a bench.
func New(jobs *bench.Jobs, s Store) *Forecasts {
	return &Forecasts{jobs: jobs, store: s, known: map[string]known{}, shops: map[bool]*shop{}}
}

// shop returns the evaluation of the finished jobs, either the simulated or the real ones.
func (x *Forecasts) shop(ctx context.Context, simulated bool) (*forecast.Shop, error) {
	found, _, _, err := x.store.Search(ctx, store.Search{State: store.FinishedJobs})
	if err != nil {
		return nil, err
	}
	x.mu.Lock()
	defer x.mu.Unlock()
	if s := x.shops[simulated]; s != nil && slices.Equal(s.made, found) {
		return s.of, nil
	}
	var list []forecast.Past
	for _, f := range slices.Backward(found) { // in the order in which they came in
		k, ok := x.known[f.ID]
		if !ok || k.revision != f.Revision {
			snap, err := x.jobs.Load(ctx, f.ID)
			if bench.IsDamaged(err) { // the start page names it; the others still tell something
				continue
			}
			if err != nil {
				return nil, err
			}
			k = known{revision: f.Revision}
			then, with := snap.Job.DefaultSides()
			if then != "" && with != "" {
				k.past, k.ok = forecast.From(snap.Job,
					compare.Indexed(snap.Index(), then, with, compare.DefaultOptions))
			}
			x.known[f.ID] = k
		}
		if k.ok && k.past.Simulated == simulated {
			list = append(list, k.past)
		}
	}
	s := &shop{forecast.Of(list), found}
	x.shops[simulated] = s
	return s.of, nil
}

// Of forecasts a job of the bench; see [Forecasts.For].
func (x *Forecasts) Of(ctx context.Context, jobID string, drives []string) (*forecast.Forecast, error) {
	snap, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	return x.For(ctx, snap.Job, drives)
}

// For forecasts a job for kinds of drives, or drives of the price list by name. Where none is named they are the job's
// own new drive and those of the price list, else the kinds that earlier jobs went to.
func (x *Forecasts) For(ctx context.Context, j *job.Job, drives []string) (*forecast.Forecast, error) {
	s, err := x.shop(ctx, j.Simulated())
	if err != nil {
		return nil, err
	}
	prices, err := x.Prices(ctx)
	if err != nil {
		return nil, err
	}
	list, err := candidates(j, drives, prices, s.Kinds())
	if err != nil {
		return nil, err
	}
	sh, err := bench.LoadShop(ctx, x.store)
	if err != nil {
		return nil, err
	}
	f, ok := s.For(j, list, felt(sh))
	if !ok {
		return nil, &bench.Refusal{Kind: bench.Conflict, Message: "This job has no old drive to start from.",
			Kept: "The job is as it was.", Do: "Enter the drive that is in the computer."}
	}
	return f, nil
}

// felt is the smallest difference that the shop calls felt.
func felt(sh bench.Shop) compare.Options {
	return compare.Options{FeltSeconds: sh.FeltSeconds, FeltShare: sh.FeltShare}
}

// candidates are the drives that a forecast is for.
func candidates(j *job.Job, names []string, prices []Priced, kinds []job.DriveKind) ([]forecast.Drive, error) {
	var list []forecast.Drive
	for _, name := range names {
		at := slices.IndexFunc(prices, func(p Priced) bool {
			return strings.EqualFold(p.Name(), name) || strings.EqualFold(p.Model, name)
		})
		switch {
		case at >= 0:
			list = append(list, prices[at].drive())
		case slices.Contains(job.DriveKinds, job.DriveKind(name)):
			list = append(list, forecast.Drive{Name: name, Kind: job.DriveKind(name)})
		default:
			return nil, &bench.Refusal{Kind: bench.Invalid,
				Message: fmt.Sprintf("%q is no kind of drive and not in the price list.", name),
				Do:      "Give one of " + job.Join(job.DriveKinds) + ", or a model of the price list."}
		}
	}
	if len(names) > 0 {
		return list, nil
	}
	if now := j.AsNow(); now != nil {
		if d := j.Drive(now.Drive); d != nil {
			name := strings.TrimSpace(d.Maker + " " + d.Model)
			if name == "" {
				name = string(d.Kind)
			}
			list = append(list, forecast.Drive{Name: name, Kind: d.Kind, Price: d.Price,
				CapacityBytes: d.CapacityBytes})
		}
	}
	for _, p := range prices {
		if d := p.drive(); !slices.ContainsFunc(list, func(o forecast.Drive) bool { return o.Name == d.Name }) {
			list = append(list, d)
		}
	}
	if len(prices) == 0 {
		for _, k := range kinds {
			if !slices.ContainsFunc(list, func(o forecast.Drive) bool { return o.Kind == k }) {
				list = append(list, forecast.Drive{Name: string(k), Kind: k})
			}
		}
	}
	return list, nil
}

// Past leaves out each finished job once and forecasts it from the others: real jobs first, then simulated ones.
func (x *Forecasts) Past(ctx context.Context) ([]forecast.Left, error) {
	list := []forecast.Left{}
	for _, simulated := range []bool{false, true} {
		s, err := x.shop(ctx, simulated)
		if err != nil {
			return nil, err
		}
		list = append(list, s.Past()...)
	}
	return list, nil
}

// Known is the evaluation of all finished jobs, real and simulated ones apart, and how often forecasts from them were right.
type Known struct {
	Real            []forecast.Known `json:"real"`
	Simulated       []forecast.Known `json:"simulated"`
	Record          forecast.Record  `json:"record"`
	SimulatedRecord forecast.Record  `json:"simulated_record"`
}

// Known lists the evaluated jobs with their ids.
func (x *Forecasts) Known(ctx context.Context) (*Known, error) {
	k := &Known{}
	for _, simulated := range []bool{false, true} {
		s, err := x.shop(ctx, simulated)
		if err != nil {
			return nil, err
		}
		list, record := x.named(s.Known()), forecast.RecordOf(s.Past())
		if simulated {
			k.Simulated, k.SimulatedRecord = list, record
		} else {
			k.Real, k.Record = list, record
		}
	}
	return k, nil
}

// named adds each job's id.
func (x *Forecasts) named(list []forecast.Known) []forecast.Known {
	x.mu.Lock()
	defer x.mu.Unlock()
	ids := make(map[string]string, len(x.known))
	for id, k := range x.known {
		ids[k.past.Job] = id
	}
	for i := range list {
		if list[i].Name = list[i].Test; words.English.Has("test." + list[i].Test) {
			list[i].Name = words.English.Say("test." + list[i].Test)
		}
		for n := range list[i].Jobs {
			list[i].Jobs[n].ID = ids[list[i].Jobs[n].Number]
		}
	}
	return list
}

// Priced is a drive of the shop's price list.
type Priced struct {
	Kind       job.DriveKind `json:"kind"`
	Maker      string        `json:"maker"`
	Model      string        `json:"model"`
	CapacityGB float64       `json:"capacity_gb"`
	Price      string        `json:"price"`
	Currency   string        `json:"currency"`
	ReadMBs    float64       `json:"read_mb_s"`
	WriteMBs   float64       `json:"write_mb_s"`
}

// Name is its name.
func (p Priced) Name() string { return strings.TrimSpace(p.Maker + " " + p.Model) }

func (p Priced) drive() forecast.Drive {
	return forecast.Drive{Name: p.Name(), Kind: p.Kind, Price: &job.Price{Amount: p.Price, Currency: p.Currency},
		CapacityBytes: int64(p.CapacityGB * 1e9)}
}

// priceSetting is the name under which the price list is stored.
const priceSetting = "price-list"

// MaxPrices is how many bytes a price list may have.
const MaxPrices = 1 << 20

// Prices returns the price list.
func (x *Forecasts) Prices(ctx context.Context) ([]Priced, error) {
	body, err := x.store.Setting(ctx, priceSetting)
	if errors.Is(err, store.ErrNotFound) {
		return []Priced{}, nil
	}
	if err != nil {
		return nil, err
	}
	list := []Priced{}
	if err := json.Unmarshal([]byte(body), &list); err != nil {
		return nil, fmt.Errorf("the price list: %w", err)
	}
	return list, nil
}

var columns = []string{"kind", "maker", "model", "capacity_gb", "price", "currency", "read_mb_s", "write_mb_s"}

// PricesCSV is the price list as a table (RFC 4180).
func (x *Forecasts) PricesCSV(ctx context.Context) ([]byte, error) {
	list, err := x.Prices(ctx)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	rows := [][]string{columns}
	number := func(v float64) string {
		if v == 0 {
			return ""
		}
		return strconv.FormatFloat(v, 'f', -1, 64)
	}
	for _, p := range list {
		rows = append(rows, []string{string(p.Kind), p.Maker, p.Model, number(p.CapacityGB), p.Price, p.Currency,
			number(p.ReadMBs), number(p.WriteMBs)})
	}
	err = w.WriteAll(rows)
	return b.Bytes(), err
}

// SetPrices replaces the price list by a table, or refuses it and names every wrong row.
func (x *Forecasts) SetPrices(ctx context.Context, ch *bench.Change, table []byte) ([]Priced, error) {
	list, faults := ReadPrices(table)
	if len(faults) > 0 {
		return nil, &bench.Refusal{Kind: bench.Invalid, Message: strings.Join(faults, " "),
			Kept: "The price list is as it was.", Do: "Correct these rows and send the table again."}
	}
	body, err := json.Marshal(list)
	if err != nil {
		return nil, err
	}
	return list, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Answer(list)
		return ch.Tx.SaveSetting(ctx, priceSetting, string(body))
	})
}

// ReadPrices reads a price list; faults name every wrong row.
func ReadPrices(table []byte) (list []Priced, faults []string) {
	r := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(table, []byte("\xef\xbb\xbf"))))
	r.FieldsPerRecord = -1
	head, err := r.Read()
	if err != nil || !slices.Equal(head, columns) {
		return nil, []string{"The first row is not " + strings.Join(columns, ",") + "."}
	}
	list = []Priced{}
	for n := 2; ; n++ {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			return list, faults
		}
		fault := func(why string) { faults = append(faults, fmt.Sprintf("Row %d: %s.", n, why)) }
		if err != nil {
			fault("it is no row of a table")
			return nil, faults
		}
		if len(cells) != len(columns) {
			fault(fmt.Sprintf("it has %d columns instead of %d", len(cells), len(columns)))
			continue
		}
		p := Priced{Kind: job.DriveKind(cells[0]), Maker: strings.TrimSpace(cells[1]),
			Model: strings.TrimSpace(cells[2]),
			Price: strings.TrimSpace(cells[4]), Currency: cells[5]}
		cents, priceErr := value.Cents(p.Price)
		p.Price = value.Amount(cents)
		var wrong string
		number := func(cell string) float64 {
			if cell == "" {
				return 0
			}
			v, err := strconv.ParseFloat(strings.Replace(cell, ",", ".", 1), 64)
			if err != nil || !(v > 0 && v < 1e6) {
				wrong = fmt.Sprintf("%q is no such figure", cell)
			}
			return v
		}
		p.CapacityGB, p.ReadMBs, p.WriteMBs = number(cells[3]), number(cells[6]), number(cells[7])
		switch {
		case !slices.Contains(job.DriveKinds, p.Kind):
			fault(fmt.Sprintf("%q is no kind of drive; there are %s", p.Kind, job.Join(job.DriveKinds)))
		case p.Name() == "":
			fault("it names no drive")
		case priceErr != nil:
			fault(priceErr.Error())
		case len(p.Currency) != 3 || strings.ToUpper(p.Currency) != p.Currency:
			fault("a currency has three letters, such as EUR")
		case wrong != "":
			fault(wrong)
		default:
			list = append(list, p)
		}
	}
}
