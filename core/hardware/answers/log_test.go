package answers

import (
	"encoding/binary"
	"nowthen/core/hardware"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func ptr[T any](v T) *T { return &v }

// nvmePage is a made-up health page: 41 °C, 12 % worn, 2,345 h, 7,000,000 units written.
func nvmePage(change func(page []byte)) []byte {
	page := make([]byte, NVMeHealthPage)
	binary.LittleEndian.PutUint16(page[1:], kelvin+41)
	page[5] = 12
	binary.LittleEndian.PutUint64(page[48:], 7_000_000)
	binary.LittleEndian.PutUint64(page[128:], 2345)
	if change != nil {
		change(page)
	}
	return page
}

func TestNVMeLog(t *testing.T) {
	identify := make([]byte, NVMeIdentifyPage)
	binary.LittleEndian.PutUint16(identify[266:], kelvin+80)
	binary.LittleEndian.PutUint16(identify[268:], kelvin+85)
	sound := Log{Health: hardware.Health{PowerOnHours: ptr(int64(2345)), BytesWritten: ptr(int64(3_584_000_000_000)),
		WearPct: ptr(12.0), Warnings: []string{}}, TemperatureC: ptr(41.0), MaxTempC: ptr(80.0)}
	for name, c := range map[string]struct {
		page, identify []byte
		want           func(l *Log)
	}{
		"sound":            {nvmePage(nil), identify, func(*Log) {}},
		"no limit is told": {nvmePage(nil), nil, func(l *Log) { l.MaxTempC = nil }},
		"no temperature": {nvmePage(func(p []byte) { p[1], p[2] = 0, 0 }), identify,
			func(l *Log) { l.TemperatureC = nil }},
		"worn beyond its life": {nvmePage(func(p []byte) { p[5] = 255 }), identify,
			func(l *Log) { l.Health.WearPct = ptr(255.0) }},
		"read-only and hot": {nvmePage(func(p []byte) { p[0] = 1<<3 | 1<<1 }), identify, func(l *Log) {
			l.Health.Warnings = []string{"its temperature was beyond a limit", "it has become read-only"}
		}},
		"errors": {nvmePage(func(p []byte) { p[160] = 3 }), identify, func(l *Log) {
			l.Health.Warnings = []string{"3 times what it held could not be read or written rightly"}
		}},
		"more hours than can be": {nvmePage(func(p []byte) { p[136] = 1 }), identify,
			func(l *Log) { l.Health.PowerOnHours = nil }},
		"more units than can be": {nvmePage(func(p []byte) { p[55] = 0x7f }), identify,
			func(l *Log) { l.Health.BytesWritten = nil }},
	} {
		t.Run(name, func(t *testing.T) {
			want := sound
			c.want(&want)
			got, err := NVMeLog(c.page, c.identify)
			require.NoError(t, err)
			assert.Equal(t, want, got)
		})
	}
	_, err := NVMeLog(make([]byte, 100), nil)
	assert.ErrorIs(t, err, ErrPage)
}

// attributes is a made-up page of them, with its sum.
func attributes(list ...[12]byte) []byte {
	page := make([]byte, ATAPage)
	for i, a := range list {
		copy(page[2+12*i:], a[:])
	}
	page[ATAPage-1] = -sum(page)
	return page
}

func TestATAAttributes(t *testing.T) {
	data := attributes(
		[12]byte{5, 1, 0, 90, 90, 8},                   // 8 reallocated sectors
		[12]byte{9, 2, 0, 60, 60, 0x10, 0x27, 0, 0, 9}, // 10,000 h, and something else above
		[12]byte{190, 0, 0, 0, 0, 30},
		[12]byte{194, 0, 0, 0, 0, 34, 0, 20},
		[12]byte{197, 0, 0, 0, 0, 2},
		[12]byte{241, 0, 0, 0, 0, 77}, // what one of it is, only its maker knows
	)
	want := Log{Health: hardware.Health{PowerOnHours: ptr(int64(10_000)), Reallocated: ptr(int64(8)), Pending: ptr(int64(2)),
		Warnings: []string{}}, TemperatureC: ptr(34.0)}
	got, err := ATAAttributes(data, nil)
	require.NoError(t, err)
	assert.Equal(t, want, got)

	got, err = ATAAttributes(data, attributes([12]byte{5, 95}, [12]byte{9, 70}))
	require.NoError(t, err)
	assert.Equal(t, []string{"its attribute 5 has reached its limit (90, at least 95): it predicts failure"},
		got.Health.Warnings, "hours foretell nothing")

	broken := attributes()
	broken[100]++
	_, err = ATAAttributes(broken, nil)
	assert.ErrorIs(t, err, ErrPage, "its sum is wrong")
}

// statisticsPage is a made-up page with values at their places.
func statisticsPage(number byte, values map[int]uint64) []byte {
	page := make([]byte, ATAPage)
	page[0], page[2] = 1, number
	for at, v := range values {
		binary.LittleEndian.PutUint64(page[at:], v|0xC0<<56)
	}
	return page
}

func TestATAStatistics(t *testing.T) {
	l := Log{Health: hardware.Health{PowerOnHours: ptr(int64(1)), Warnings: []string{}}}
	require.NoError(t, l.ATAStatistics(statisticsPage(GeneralStatistics, map[int]uint64{16: 4321, 24: 1_000_000}), 512))
	require.NoError(t, l.ATAStatistics(statisticsPage(RotatingStatistics, map[int]uint64{32: 5, 56: 1}), 512))
	require.NoError(t, l.ATAStatistics(statisticsPage(TemperatureStatistics, map[int]uint64{8: 0xFB, 88: 60}), 512))
	require.NoError(t, l.ATAStatistics(statisticsPage(SolidStateStatistics, map[int]uint64{8: 7}), 512))
	assert.Equal(t, Log{Health: hardware.Health{PowerOnHours: ptr(int64(4321)), BytesWritten: ptr(int64(512_000_000)),
		Reallocated: ptr(int64(5)), Pending: ptr(int64(1)), WearPct: ptr(7.0), Warnings: []string{}},
		TemperatureC: ptr(-5.0), MaxTempC: ptr(60.0)}, l)

	none := statisticsPage(GeneralStatistics, nil)
	binary.LittleEndian.PutUint64(none[16:], 99|0x80<<56) // it is kept, and not valid yet
	before := l
	require.NoError(t, l.ATAStatistics(none, 512))
	assert.Equal(t, before, l, "what the drive does not keep stays as it was")
	assert.ErrorIs(t, l.ATAStatistics(make([]byte, ATAPage), 512), ErrPage, "an empty page")
	assert.ErrorIs(t, l.ATAStatistics(statisticsPage(9, nil), 512), ErrPage)
}

// Whatever a drive sends, reading it ends, with nothing below zero.
func FuzzLog(f *testing.F) {
	f.Add(nvmePage(nil))
	f.Add(attributes([12]byte{5, 1, 0, 90, 90, 8}))
	f.Add(statisticsPage(GeneralStatistics, map[int]uint64{16: 1, 24: 1 << 47}))
	f.Fuzz(func(t *testing.T, page []byte) {
		for _, read := range []func() (Log, error){
			func() (Log, error) { return NVMeLog(page, page) },
			func() (Log, error) { return ATAAttributes(page, page) },
			func() (l Log, err error) { err = l.ATAStatistics(page, 4096); return },
		} {
			l, err := read()
			if err != nil {
				continue
			}
			for _, n := range []*int64{l.Health.PowerOnHours, l.Health.BytesWritten, l.Health.Reallocated,
				l.Health.Pending} {
				assert.True(t, n == nil || *n >= 0)
			}
		}
	})
}
