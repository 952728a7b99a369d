// Package ordertest holds orders that a probe must refuse, for tests of every receiver.
package ordertest

import (
	"math"
	"strings"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/order"
)

// Refused are orders that no probe does, by what is wrong with them.
func Refused() map[string]order.Order {
	tests := func() []job.Test { return catalogue.Tests(0, 0, catalogue.LongRead, catalogue.ScatteredRead) }
	measure := func(change func(o *order.Order)) order.Order {
		o := order.Order{ID: "o", Kind: order.Measure, Tests: tests(), Wanted: []int{3, 3}, Dir: "/mnt/new"}
		change(&o)
		return o
	}
	launch := func(change func(l *job.Launch)) order.Order {
		l := &job.Launch{Program: "ledger", Until: "quiet"}
		change(l)
		return order.Order{ID: "o", Kind: order.Launch, Tests: []job.Test{{ID: "t", Launch: l}}, Wanted: []int{1}}
	}
	check := func(kind order.Kind, c *order.Check) order.Order { return order.Order{ID: "o", Kind: kind, Check: c} }
	long := strings.Repeat("x", 5000)
	return map[string]order.Order{
		"no id":                   measure(func(o *order.Order) { o.ID = "" }),
		"an id without end":       measure(func(o *order.Order) { o.ID = long }),
		"no kind":                 measure(func(o *order.Order) { o.Kind = "" }),
		"an unknown kind":         measure(func(o *order.Order) { o.Kind = "format" }),
		"a sitting without end":   measure(func(o *order.Order) { o.Sitting = long }),
		"a folder without end":    measure(func(o *order.Order) { o.Dir = long }),
		"a read folder too long":  measure(func(o *order.Order) { o.Folder = long }),
		"two billion runs":        measure(func(o *order.Order) { o.Wanted = []int{2e9, 3} }),
		"all there are":           measure(func(o *order.Order) { o.Wanted = []int{math.MaxInt, math.MaxInt} }),
		"less than none":          measure(func(o *order.Order) { o.Wanted = []int{-1, 3} }),
		"the least there is":      measure(func(o *order.Order) { o.Wanted = []int{math.MinInt, 3} }),
		"two tests, one count":    measure(func(o *order.Order) { o.Wanted = []int{3} }),
		"two tests, no count":     measure(func(o *order.Order) { o.Wanted = nil }),
		"one count too many":      measure(func(o *order.Order) { o.Wanted = []int{3, 3, 3} }),
		"a count without a test":  measure(func(o *order.Order) { o.Tests = nil }),
		"21 runs of a test":       measure(func(o *order.Order) { o.Wanted = []int{21, 1} }),
		"a negative skip":         measure(func(o *order.Order) { o.Skip = -1 }),
		"a skip beyond the end":   measure(func(o *order.Order) { o.Skip = 8 }),
		"a huge skip":             measure(func(o *order.Order) { o.Skip = math.MaxInt }),
		"a hot limit":             measure(func(o *order.Order) { o.MaxTempC = 1e9 }),
		"a limit below zero":      measure(func(o *order.Order) { o.MaxTempC = -1 }),
		"a limit that is none":    measure(func(o *order.Order) { o.MaxTempC = math.NaN() }),
		"a test name without end": measure(func(o *order.Order) { o.Tests[0].Name = long }),
		"a test id without end":   measure(func(o *order.Order) { o.Tests[0].ID = long }),
		"61 tests": measure(func(o *order.Order) {
			o.Tests, o.Wanted = make([]job.Test, 61), make([]int, 61)
		}),
		"more runs than a day has": measure(func(o *order.Order) {
			o.Tests, o.Wanted = repeated(tests()[0], 11), repeated(20, 11)
		}),
		"a test by hand":           measure(func(o *order.Order) { o.Tests[0].Params = nil }),
		"a block of nothing":       measure(func(o *order.Order) { o.Tests[0].Params.BlockBytes = 0 }),
		"a block of 1 TB":          measure(func(o *order.Order) { o.Tests[0].Params.BlockBytes = 1 << 40 }),
		"a million at a time":      measure(func(o *order.Order) { o.Tests[0].Params.Depth = 1e6 }),
		"a file of 1 EB":           measure(func(o *order.Order) { o.Tests[0].Params.SpanBytes = 1 << 60 }),
		"a negative file":          measure(func(o *order.Order) { o.Tests[0].Params.SpanBytes = -1 }),
		"years of reading":         measure(func(o *order.Order) { o.Tests[0].Params.MaxSeconds = 1e9 }),
		"time that is none":        measure(func(o *order.Order) { o.Tests[0].Params.MaxSeconds = math.NaN() }),
		"bytes below zero":         measure(func(o *order.Order) { o.Tests[0].Params.MaxBytes = -1 }),
		"an unknown pattern":       measure(func(o *order.Order) { o.Tests[0].Params.Pattern = "erase" }),
		"a unit of another kind":   measure(func(o *order.Order) { o.Tests[0].Unit = "s" }),
		"no program":               launch(func(l *job.Launch) { l.Program = "" }),
		"a program too long":       launch(func(l *job.Launch) { l.Program = long }),
		"a sign too long":          launch(func(l *job.Launch) { l.Until = long }),
		"65 arguments":             launch(func(l *job.Launch) { l.Args = make([]string, 65) }),
		"an argument too long":     launch(func(l *job.Launch) { l.Args = []string{long} }),
		"a launch of no test":      {ID: "o", Kind: order.Launch},
		"a launch of a drive test": {ID: "o", Kind: order.Launch, Tests: tests()[:1], Wanted: []int{1}},
		"restarts of two tests":    {ID: "o", Kind: order.Restart, Tests: tests(), Wanted: []int{1, 1}},
		"restarts of none":         {ID: "o", Kind: order.Restart},
		"a check of nothing":       check(order.Capacity, nil),
		"a year of writing":        check(order.Sustain, &order.Check{Seconds: 31e6}),
		"writing for less than 0":  check(order.Sustain, &order.Check{Seconds: -1}),
		"writing for no number":    check(order.Sustain, &order.Check{Seconds: math.NaN()}),
		"bytes that overflow":      check(order.Capacity, &order.Check{MostBytes: math.MaxInt64}),
		"a check of -1 bytes":      check(order.Capacity, &order.Check{MostBytes: -1}),
		"a label without end":      check(order.Capacity, &order.Check{Label: long}),
		"an unknown doing":         {ID: "o", Kind: order.Simulate, Do: "explode"},
	}
}

func repeated[T any](v T, n int) []T {
	list := make([]T, n)
	for i := range list {
		list[i] = v
	}
	return list
}
