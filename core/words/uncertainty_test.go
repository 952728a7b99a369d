package words

import (
	"math"
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/side"
)

func TestUncertainty(t *testing.T) {
	for _, tt := range []struct {
		name    string
		w, b, i float64
		want    string
	}{
		{"the runs", 6e-4, 3e-4, 1e-4,
			"Its uncertainty comes mostly from how much the runs differ (60 %), the rest from how much one session " +
				"differs from another and from how it is timed or read. More runs would reduce it most."},
		{"the sitting", 1e-4, 4e-4, 0,
			"Its uncertainty comes mostly from how much one session differs from another (80 %), the rest from how " +
				"much the runs differ. A second session would reduce it most."},
		{"the instrument, all but alone", 1e-7, 1e-7, 1e-3,
			"Its uncertainty comes from how it is timed or read. A more exact method would reduce it most: " +
				"the probe, or a video."},
		{"none", 0, 0, 0, ""},
		{"no figure", math.NaN(), 1, 1, ""},
	} {
		t.Run(tt.name, func(t *testing.T) {
			assert.Equal(t, tt.want, Uncertainty(&side.Side{Within: tt.w, Between: tt.b, Instrument: tt.i}))
		})
	}
	assert.Empty(t, Uncertainty(nil))
}
