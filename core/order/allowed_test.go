package order_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/catalogue"
	"nowthen/core/job"
	"nowthen/core/order"
	"nowthen/core/order/ordertest"
)

// The orders that a bench gives are done.
func TestOrdersThatAreDone(t *testing.T) {
	tests := catalogue.Tests(0, 0, catalogue.LongRead, catalogue.ScatteredRead)
	launch := job.Test{ID: "t", Name: "Ledger", Kind: job.Timed, Unit: "s",
		Launch: &job.Launch{Program: "ledger", Until: "quiet"}}
	for name, o := range map[string]order.Order{
		"measure":  {ID: "o", Kind: order.Measure, Sitting: "s1", Tests: tests, Wanted: []int{3, 3}, Dir: "/mnt/new"},
		"go on":    {ID: "o", Kind: order.Measure, Tests: tests, Wanted: []int{3, 3}, Skip: 7},
		"launch":   {ID: "o", Kind: order.Launch, Tests: []job.Test{launch}, Wanted: []int{5}},
		"restart":  {ID: "o", Kind: order.Restart, Tests: []job.Test{{ID: "t"}}, Wanted: []int{3}},
		"capacity": {ID: "o", Kind: order.Capacity, Check: &order.Check{Label: "0007 NEW", Whole: true}},
		"sustain":  {ID: "o", Kind: order.Sustain, Check: &order.Check{Seconds: 1800}},
		"look":     {ID: "o", Kind: order.Look, Dir: "/"},
		"leave":    {ID: "leave", Kind: order.Leave},
		"stop":     {ID: "o", Kind: order.Stop},
		"simulate": {ID: "o", Kind: order.Simulate, Do: order.Swap},
	} {
		assert.NoError(t, o.Allowed(), name)
	}
}

// What no bench orders is refused, and nothing panics.
func TestOrdersThatAreRefused(t *testing.T) {
	for name, o := range ordertest.Refused() {
		assert.Error(t, o.Allowed(), name)
	}
}
