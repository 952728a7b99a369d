package compare

import (
	"math"

	"nowthen/core/job"
	"nowthen/core/side"
	"nowthen/core/stats"
)

// Table has every test on every setup, each compared with the base. It contains the tests that at least one setup has.
type Table struct {
	Base    string     `json:"base"`
	Columns []string   `json:"columns"` // the setups, the base first
	Rows    []TableRow `json:"rows"`
}

// TableRow is one test; its cells are in the order of the columns.
type TableRow struct {
	Test  string      `json:"test"`
	Cells []TableCell `json:"cells"`
}

// TableCell is a test on a setup: the centre with its 95 % interval, in the test's unit, and the line against the base.
// What does not exist is nil; the base's own cell has no line, and its verdict is "".
type TableCell struct {
	Setup string `json:"setup"`
	N     int    `json:"n"`
	// Low and High are those of the centre, from all three components of its side (calculations, section 1).
	Centre  *float64  `json:"centre"`
	Low     *float64  `json:"low"`
	High    *float64  `json:"high"`
	Bound   job.Bound `json:"bound"`
	Verdict Verdict   `json:"verdict"`
	Holds   bool      `json:"holds"` // the difference holds after all lines against the base
	Equal   bool      `json:"equal"`
	// Single: one of the two has a single run.
	Single   bool     `json:"single"`
	Factor   *float64 `json:"factor"`
	Findings []string `json:"findings"`
}

// Tabled makes the table of some setups, of which the first is the base. The ledgers compare the others with
// it, in order.
func Tabled(x *job.Index, setups []string, o Options) (Table, []*Ledger) {
	t := Table{Columns: setups, Rows: []TableRow{}}
	if len(setups) == 0 {
		return t, nil
	}
	t.Base = setups[0]
	ledgers := make([]*Ledger, len(setups)-1)
	for i, s := range setups[1:] {
		ledgers[i] = Indexed(x, t.Base, s, o)
	}
	for i := range x.Tests {
		test := &x.Tests[i]
		row, has := TableRow{Test: test.ID}, false
		base := side.Of(x, test, t.Base)
		row.Cells = append(row.Cells, cell(t.Base, base))
		has = base != nil
		for k, l := range ledgers {
			ln := &l.Lines[i]
			c := cell(setups[k+1], ln.With)
			c.Verdict, c.Holds, c.Equal, c.Single = ln.Verdict, ln.HoldsAfterAll, ln.Equal, ln.Indicative
			c.Factor, c.Findings = ln.Factor, append(c.Findings, ln.Findings...)
			row.Cells, has = append(row.Cells, c), has || ln.With != nil
		}
		if has {
			t.Rows = append(t.Rows, row)
		}
	}
	return t, ledgers
}

// cell is the result of one side.
func cell(setup string, s *side.Side) TableCell {
	c := TableCell{Setup: setup, Findings: []string{}}
	if s == nil {
		return c
	}
	c.N, c.Centre, c.Bound = s.N, &s.Centre, s.Bound
	if s.HasRatio() {
		low, high := side.About(math.Log(s.Centre), stats.Combine(s.Parts()...).HalfWidth(side.Confidence))
		c.Low, c.High = &low, &high
	}
	return c
}
