package figures

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestNumber(t *testing.T) {
	for text, want := range map[string]float64{"12.5": 12.5, "12,5": 12.5, " 1 234,5 ": 1234.5, "1.234,5": 1234.5,
		"1,234.5": 1234.5, "-3": -3, "1e3": 1000, "0,082": 0.082, "1'200": 1200} {
		got, err := Number(text)
		require.NoError(t, err, text)
		assert.InDelta(t, want, got, 1e-9, text)
	}
	for _, text := range []string{"", "fast", "1,2,3", "1.2.3", "NaN", "Inf", "0x10", "12 s", "1_000"} {
		_, err := Number(text)
		assert.ErrorContains(t, err, "no number", text)
	}
}

func TestConvert(t *testing.T) {
	tests := []struct {
		v        float64
		from, to string
		want     float64
	}{
		{1.5, "min", "s", 90}, {820, "ms", "s", 0.82}, {100, "MiB/s", "MB/s", 104.8576}, {0.5, "GB/s", "MB/s",
			500}, {800, "Mbit/s", "MB/s", 100},
		{9.4, "s", "ms", 9400}, {12, "dB(A)", "dB(A)", 12}, {3, "MIN", "s", 180}, {7, "iops", "IOPS", 7},
	}
	for _, tt := range tests {
		got, err := Convert(tt.v, tt.from, tt.to)
		require.NoError(t, err, "%v", tt)
		assert.InDelta(t, tt.want, got, 1e-9, "%v", tt)
	}
	for _, tt := range [][2]string{{"fortnight", "s"}, {"s", "MB/s"}, {"IOPS", "MB/s"}, {"mb/s", "MB/s"}, {"s", "°C"}} {
		_, err := Convert(1, tt[0], tt[1])
		assert.Error(t, err, "%v: megabits and megabytes are not told apart by guessing", tt)
	}
}

func TestSuspect(t *testing.T) {
	tests := []struct {
		name       string
		value      float64
		unit       string
		neighbours []float64
		want       float64 // the value it would be; 0: no doubt
	}{
		{"like the others", 104, "MB/s", []float64{100, 108}, 0},
		{"megabits", 830, "MB/s", []float64{100, 108}, 103.75},
		{"minutes", 1.55, "s", []float64{92, 95, 91}, 93},
		{"milliseconds", 92_000, "s", []float64{92, 95}, 92},
		{"a lost comma", 924, "s", []float64{92, 95}, 92.4},
		{"just slower", 300, "s", []float64{92, 95}, 0},
		{"far away and no factor fits", 92 * 30, "s", []float64{92, 95}, 0},
		{"MiB", 100, "MB/s", []float64{104.8, 104.9, 104.7}, 104.8576},
		{"MiB where they spread", 100, "MB/s", []float64{98, 108}, 0},
		{"nothing to compare with", 5, "s", nil, 0},
		{"not above zero", 0, "s", []float64{92}, 0},
	}
	for _, tt := range tests {
		d := Suspect(tt.value, tt.unit, tt.neighbours)
		if tt.want == 0 {
			assert.Nil(t, d, tt.name)
		} else if assert.NotNil(t, d, tt.name) {
			assert.InDelta(t, tt.want, d.Value, 1e-3, tt.name)
			assert.NotEmpty(t, d.Why)
		}
	}
}

func TestBeyond(t *testing.T) {
	for name, tt := range map[string]struct {
		value     float64
		unit      string
		low, high float64
		want      float64 // 0: no doubt
	}{
		"as such drives do":            {110, "MB/s", 15, 350, 0},
		"slow":                         {8, "MB/s", 15, 350, 0},
		"gigabytes for megabytes":      {0.11, "MB/s", 15, 350, 110},
		"kilobytes for megabytes":      {110_000, "MB/s", 15, 350, 110},
		"milliseconds for seconds":     {92_400, "s", 0.05, 10_800, 92.4},
		"beyond, and nothing mends it": {1e9, "MB/s", 15, 350, 0},
		"zero":                         {0, "MB/s", 15, 350, 0},
	} {
		d := Beyond(tt.value, tt.unit, tt.low, tt.high)
		if tt.want == 0 {
			assert.Nil(t, d, name)
		} else if assert.NotNil(t, d, name) {
			assert.InDelta(t, tt.want, d.Value, 1e-9, name)
		}
	}
	assert.NotNil(t, Thousands(4.95, 4950, 20, 120_000, nil))
	assert.Nil(t, Thousands(4.95, 4950, 0.05, 3600, nil), "the other reading can't be")
	assert.Nil(t, Thousands(4.95, 4950, 20, 120_000, []float64{5}), "its neighbours tell")
	assert.Nil(t, Thousands(4.95, 0, 20, 120_000, nil), "it can be read in one way")
}

func TestReadCSV(t *testing.T) {
	rows, err := ReadCSV([]byte("\xef\xbb\xbfsetup;test;value;unit;at;note\r\nThen;Cold " +
		"start;92,4;s;2026-11-03T09:40:00+01:00;'=watch\r\nNow;Cold start;fast;s;;\r\nNow;Cold start;36;s;yesterday;\r\n"))
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, "Then", rows[0].Setup)
	assert.InDelta(t, 92.4, rows[0].Value, 1e-9)
	assert.Equal(t, "=watch", rows[0].Note)
	assert.Equal(t, 2026, rows[0].At.Year())
	assert.ErrorContains(t, rows[1].Err, "no number")
	assert.Equal(t, 3, rows[1].Line)
	assert.ErrorContains(t, rows[2].Err, "no time")

	rows, err = ReadCSV([]byte("value,unit,test,setup\n\"92,4\",s,t,then\n92,4,s,t,then\n1,s,\"t,then\n"))
	require.NoError(t, err)
	assert.NoError(t, rows[0].Err)
	assert.ErrorContains(t, rows[1].Err, "decimal comma")
	assert.Error(t, rows[len(rows)-1].Err, "quotes that do not match")

	for name, text := range map[string]string{
		"empty": "", "no rows": "setup,test,value,unit\n", "a strange column": "setup,test,value,unit,mood\n1,2,3,4,5\n", "twice": "setup,test,value,unit,unit\n",
		"missing": "setup,test,value\n", "binary": "setup,test\xff\xfe", "too many": "setup,test,value,unit\n" +
			strings.Repeat("a,b,1,s\n", maxRows+1),
		"too large": strings.Repeat("x", MaxCSV+1),
	} {
		_, err := ReadCSV([]byte(text))
		assert.Error(t, err, name)
	}
}

// FuzzReadCSV: whatever the file, every row is a figure or has its reason.
func FuzzReadCSV(f *testing.F) {
	f.Add([]byte("setup,test,value,unit\nThen,t,1,s\n"))
	f.Add([]byte("setup;test;value;unit;at;note\nThen;t;1,5;min;;x\n\"\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		rows, err := ReadCSV(data)
		if err != nil {
			return
		}
		for _, r := range rows {
			if r.Err == nil && (r.Line < 2 || r.Value != r.Value) {
				t.Fatalf("%+v", r)
			}
		}
	})
}
