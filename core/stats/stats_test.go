package stats

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestMedian(t *testing.T) {
	tests := []struct {
		name   string
		values []float64
		want   float64
	}{
		{"one", []float64{3}, 3},
		{"two", []float64{3, 1}, 2},
		{"three", []float64{9, 1, 4}, 4},
		{"four", []float64{9, 1, 4, 2}, 3},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, Median(tt.values)) })
	}
	assert.True(t, math.IsNaN(Median(nil)))
	values := []float64{2, 1}
	Median(values)
	assert.Equal(t, []float64{2, 1}, values, "they stay as they are")
}

// The quantiles are those of the usual tables.
func TestStudent(t *testing.T) {
	assert.InDelta(t, 12.706204736432095, Student(0.975, 1), 1e-6)
	assert.InDelta(t, 2.2281388519649385, Student(0.975, 10), 1e-9)
	assert.InDelta(t, 1.959963984540054, Student(0.975, math.Inf(1)), 1e-9)
}
