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
