package figures

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestRead(t *testing.T) {
	tests := []struct {
		name, text, unit string
		want             Quantity
	}{
		{"a number", "92.4", "s", Quantity{92.4, "s", 0.1}},
		{"a decimal comma", " 92,40 ", "s", Quantity{92.4, "s", 0.01}},
		{"a unit of its own", "1.5 min", "s", Quantity{1.5, "min", 0.1}},
		{"a unit close by", "830Mbit/s", "MB/s", Quantity{830, "Mbit/s", 1}},
		{"thousands", "1 250,5 IOPS", "IOPS", Quantity{1250.5, "IOPS", 0.1}},
		{"minutes and seconds", "1:32", "s", Quantity{92, "s", 1}},
		{"a clock with tenths", "1:32.9", "s", Quantity{92.9, "s", 0.1}},
		{"a clock with a comma", "01:02,25", "s", Quantity{62.25, "s", 0.01}},
		{"hours", "1:02:03", "s", Quantity{3723, "s", 1}},
		{"hours and minutes", "3:14", "min", Quantity{194, "min", 1}},
		{"in parts", "1 min 32 s", "s", Quantity{92, "s", 1}},
		{"in parts, close", "1min32,5s", "s", Quantity{92.5, "s", 0.1}},
		{"three parts", "1 h 2 min 3 s", "s", Quantity{3723, "s", 1}},
		{"hours and minutes in parts", "1 h 20 min", "min", Quantity{4800, "s", 60}},
		{"below zero", "-4", "°C", Quantity{-4, "°C", 1}},
		{"a unit of the shop's own", "38 dB(A)", "dB(A)", Quantity{38, "dB(A)", 1}},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			q, err := Read(tt.text, tt.unit)
			require.NoError(t, err)
			assert.InDelta(t, tt.want.Value, q.Value, 1e-9)
			assert.Equal(t, tt.want.Unit, q.Unit)
			assert.InDelta(t, tt.want.Step, q.Step, 1e-12)
		})
	}
	for name, text := range map[string]string{"nothing": "", "a word": "quick", "seconds over 59": "1:75",
		"a clock of four parts": "1:2:3:4", "hours with long minutes": "1:75:00",
		"two decimal signs": "1.2.3", "parts the wrong way round": "3 s 1 min"} {
		t.Run(name, func(t *testing.T) {
			q, err := Read(text, "s")
			if err == nil {
				_, err = Convert(q.Value, q.Unit, "s")
			}
			assert.Error(t, err)
		})
	}
	_, err := Read("1:32", "MB/s")
	assert.ErrorContains(t, err, "is a time")
}

func FuzzRead(f *testing.F) {
	for _, s := range []string{"1:32.9", "1 min 32 s", "92,4", "-3 °C", "830 Mbit/s"} {
		f.Add(s, "s")
	}
	f.Fuzz(func(t *testing.T, text, unit string) {
		q, err := Read(text, unit)
		if err == nil && (math.IsNaN(q.Value) || math.IsInf(q.Value, 0) || !(q.Step > 0)) {
			t.Fatalf("%q: %+v", text, q)
		}
	})
}

func TestReadGiven(t *testing.T) {
	for name, tt := range map[string]struct {
		text, unit, test string
		want             Given
	}{
		"a value":                {"92,4", "s", "s", Given{Value: 92.4}},
		"a range":                {"260-270 MB/s", "MB/s", "MB/s", Given{Value: 265, Range: &[2]float64{260, 270}}},
		"with a dash":            {"260 – 270", "MB/s", "MB/s", Given{Value: 265, Range: &[2]float64{260, 270}}},
		"in words, in its unit":  {"4 to 5 min", "s", "s", Given{Value: 270, Range: &[2]float64{240, 300}}},
		"as clocks show it":      {"1:30-1:40", "s", "s", Given{Value: 95, Range: &[2]float64{90, 100}}},
		"below zero":             {"-4", "°C", "°C", Given{Value: -4}},
		"a range below zero":     {"-8 to -4", "°C", "°C", Given{Value: -6, Range: &[2]float64{-8, -4}}},
		"a bound":                {"> 10 min", "s", "s", Given{Value: 600, Bound: "above"}},
		"a wait that didn't end": {"not finished after 10 min", "s", "s", Given{Value: 600, Bound: "above"}},
		"at most":                {"at most 30", "dB(A)", "dB(A)", Given{Value: 30, Bound: "below"}},
		"thousands or decimals":  {"4,950 IOPS", "IOPS", "IOPS", Given{Value: 4.95, Other: 4950}},
		"with a point":           {"4.950", "s", "s", Given{Value: 4.95, Other: 4950}},
		"decimals, plainly":      {"0,950", "s", "s", Given{Value: 0.95}},
		"thousands, plainly":     {"4,950.5", "IOPS", "IOPS", Given{Value: 4950.5}},
		"four digits behind it":  {"4.9501", "s", "s", Given{Value: 4.9501}},
		"four digits in front":   {"4950.125", "s", "s", Given{Value: 4950.125}},
	} {
		t.Run(name, func(t *testing.T) {
			g, err := ReadGiven(tt.text, tt.unit, tt.test)
			require.NoError(t, err)
			assert.Equal(t, tt.want, g)
		})
	}
	for name, text := range map[string]string{"backwards": "270-260", "of one figure": "260-260", "open": "260-",
		"of two units": "260 MB/s - 270 s", "a bound of a range": "> 260-270", "of words": "some-more", "three": "1-2-3"} {
		_, err := ReadGiven(text, "MB/s", "MB/s")
		assert.Error(t, err, name)
	}
}

// FuzzReadGiven: whatever is written, a range has its value in the middle, and no figure is both.
func FuzzReadGiven(f *testing.F) {
	for _, s := range []string{"260-270 MB/s", "> 10", "not finished after 10 min", "4,950", "-8 to -4"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, text string) {
		g, err := ReadGiven(text, "s", "s")
		if err != nil {
			return
		}
		if r := g.Range; math.IsNaN(g.Value) || r != nil &&
			(r[0] >= r[1] || g.Value < r[0] || g.Value > r[1] || g.Bound != "") {
			t.Fatalf("%q: %+v", text, g)
		}
	})
}

func TestBound(t *testing.T) {
	for text, want := range map[string][2]string{
		"< 30": {"30", "below"}, "<30 dB(A)": {"30 dB(A)", "below"}, "Below 30": {"30", "below"}, "above 5": {"5",
			"above"}, ">5": {"5", "above"},
		"30": {"30", ""}, "<": {"<", ""}, "": {"", ""}, "belowed": {"belowed", ""},
	} {
		rest, side := Bound(text)
		assert.Equal(t, want, [2]string{rest, side}, text)
	}
}
