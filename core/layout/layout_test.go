package layout

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/hardware"
	"nowthen/testscale"
)

const (
	mib = int64(1) << 20
	gib = int64(1) << 30

	efi      = "c12a7328-f81f-11d2-ba4b-00a0c93ec93b"
	reserved = "e3c9e316-0b5c-4db8-817d-f92df00215ae"
	basic    = "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7"
	recovery = "DE94BBA4-06D1-4D22-A16A-BFD50179D6AC"
)

// row is partitions one after another from 1 MiB on: type, size and what is used, bytes.
type row struct {
	kind       string
	size, used int64
}

func drive(rows ...row) Source {
	s := Source{SectorBytes: 512}
	place := int64(Align)
	for i, r := range rows {
		s.Partitions = append(s.Partitions,
			hardware.Partition{Drive: "sda", Number: i + 1, Type: r.kind, StartBytes: place, SizeBytes: r.size,
				UsedBytes: r.used})
		place = up(place+r.size, Align)
	}
	s.CapacityBytes = place + 33*512
	return s
}

// desk is a usual drive: start, reserved, system, recovery behind it.
func desk(system, used int64) Source {
	s := drive(row{efi, 100 * mib, 30 * mib}, row{reserved, 16 * mib, 0}, row{basic, system, used},
		row{recovery, 600 * mib, 400 * mib})
	s.System = 3
	return s
}

func propose(t *testing.T, s Source, capacity int64, as string) *Layout {
	t.Helper()
	l, err := Propose(s, Target{CapacityBytes: capacity, SectorBytes: 512, As: as})
	require.NoError(t, err)
	whole(t, s, l, capacity)
	return l
}

// whole asserts what holds of every proposal: nothing overlaps, all is aligned and inside, the
// order is kept, nothing is lost, nothing is smaller than what is on it, and the sums are right.
func whole(t *testing.T, s Source, l *Layout, capacity int64) {
	t.Helper()
	assert.Equal(t, []any{Format, Version, int64(Align)}, []any{l.Format, l.Version, l.AlignBytes})
	if !l.Fits {
		assert.Empty(t, l.Partitions)
		assert.Contains(t, rules(l), "too-small")
		return
	}
	order := slices.Clone(s.Partitions)
	slices.SortFunc(order, func(a, b hardware.Partition) int { return int(a.StartBytes>>9) - int(b.StartBytes>>9) })
	require.Len(t, l.Partitions, len(order))
	end, sum := int64(Align), int64(0)
	for i, p := range l.Partitions {
		q := order[i]
		assert.Equal(t, q.Number, p.Of, "the order is kept")
		assert.Zero(t, p.StartBytes%Align)
		assert.Zero(t, p.SizeBytes%l.SectorBytes)
		assert.GreaterOrEqual(t, p.StartBytes, end, "partition %d overlaps", p.Of)
		end = p.StartBytes + p.SizeBytes
		sum += up(p.SizeBytes, Align)
		assert.GreaterOrEqual(t, p.SizeBytes, q.UsedBytes, "what is on %d has room", p.Of)
		assert.Equal(t, p.SizeBytes-q.SizeBytes, p.GrownBytes)
		assert.Equal(t, p.StartBytes != q.StartBytes, p.Moved)
		if p.Role != System && p.Role != Data {
			assert.Equal(t, up(q.SizeBytes, l.SectorBytes), p.SizeBytes, "%s keeps its size", p.Role)
		}
	}
	assert.LessOrEqual(t, end, capacity-33*512)
	if l.Scheme == MBR {
		capacity = min(capacity, mbrSectors*512)
	}
	assert.InDelta(t, capacity-Align, sum+l.FreeAfterBytes, float64(2*Align), "what no partition has is free")
}

func rules(l *Layout) (list []string) {
	for _, w := range l.Warnings {
		list = append(list, w.Rule)
	}
	return list
}

func sizes(l *Layout) (list []int64) {
	for _, p := range l.Partitions {
		list = append(list, p.SizeBytes)
	}
	return list
}

func TestGrowing(t *testing.T) {
	s := desk(500*gib, 180*gib)
	l := propose(t, s, 960_197_124_096, ForSys)
	require.True(t, l.Fits)
	assert.Equal(t, []string{"boot", "reserved", "system", "recovery"},
		[]string{l.Partitions[0].Role, l.Partitions[1].Role, l.Partitions[2].Role, l.Partitions[3].Role})
	assert.Contains(t, rules(l), "recovery-in-the-way")
	assert.Zero(t, l.FreeAfterBytes)
	last := l.Partitions[3]
	assert.Less(t, 960_197_124_096-last.StartBytes-last.SizeBytes, 2*mib,
		"the recovery stands at the end, nothing is stranded behind it")
	assert.Equal(t, l.Partitions[2].StartBytes+l.Partitions[2].SizeBytes, last.StartBytes)
	assert.Greater(t, l.Partitions[2].GrownBytes, 350*gib)
}

func TestKeepingSizesLeavesTheRoomWhereItCanBeUsed(t *testing.T) {
	s := desk(500*gib, 180*gib)
	l := propose(t, s, 960_197_124_096, SameSize)
	require.True(t, l.Fits)
	assert.Equal(t, []int64{100 * mib, 16 * mib, 500 * gib, 600 * mib}, sizes(l))
	gap := l.Partitions[3].StartBytes - l.Partitions[2].StartBytes - l.Partitions[2].SizeBytes
	assert.Equal(t, l.FreeAfterBytes, gap, "all that is free lies behind the system's")
}

func TestShrinking(t *testing.T) {
	s := desk(900*gib, 180*gib)
	l := propose(t, s, 256_060_514_304, ForSys)
	require.True(t, l.Fits)
	assert.Less(t, l.Partitions[2].GrownBytes, -600*gib)
	assert.Zero(t, l.FreeAfterBytes)
	assert.False(t, propose(t, s, 256_060_514_304, SameSize).Fits)
	assert.False(t, propose(t, s, 220_000_000_000, ForSys).Fits, "180 GiB used want 211 GiB")
}

// The rule of the calculations, at its edge: used ÷ 0.85 is the least capacity.
func TestTheEdgeOfFitting(t *testing.T) {
	s := drive(row{basic, 400 * gib, 85 * 1_000_000_000})
	for capacity, fits := range map[int64]bool{100_000_000_000: true, 99_999_999_999: false} {
		assert.Equal(t, fits, propose(t, s, capacity, ForSys).Fits, capacity)
	}
}

func TestOthersKeepTheirSizeWhereTheyCan(t *testing.T) {
	s := drive(row{efi, 100 * mib, 1}, row{basic, 100 * gib, 60 * gib}, row{basic, 300 * gib, 20 * gib})
	s.System = 2
	assert.Equal(t, []int64{100 * mib, 100 * gib, 300 * gib}[2], sizes(propose(t, s, 480_000_000_000, ForSys))[2])
	small := sizes(propose(t, s, 128_000_000_000, ForSys))
	assert.Less(t, small[2], 50*gib, "the one with room gives it")
	assert.GreaterOrEqual(t, small[1], 70*gib, "the system keeps its headroom")
	use := sizes(propose(t, s, 960_000_000_000, ByUse))
	assert.InDelta(t, 3, float64(use[1])/float64(use[2]), 0.05, "60 to 20")
}

func TestWhatIsNotKnown(t *testing.T) {
	s := drive(row{basic, 100 * gib, 0}, row{basic, 200 * gib, 50 * gib})
	l := propose(t, s, 180_000_000_000, ForSys)
	require.True(t, l.Fits)
	assert.Equal(t, 100*gib, l.Partitions[0].SizeBytes, "nobody knows what is on it: it keeps its size")
	assert.Nil(t, l.Partitions[0].UsedBytes)
	assert.Subset(t, rules(l), []string{"use-unknown", "system-guessed"})
	assert.Equal(t, System, l.Partitions[1].Role, "the fullest is taken for the system's")
	l = propose(t, drive(row{"", 10 * gib, 1 * gib}), 100*gib, ForSys)
	assert.Subset(t, rules(l), []string{"type-unknown", "scheme-unknown"})
	assert.Equal(t, GPT, l.Scheme)
}

func TestMBR(t *testing.T) {
	s := drive(row{"0x7", 500 * mib, 40 * mib}, row{"7", 300 * gib, 100 * gib}, row{"27", 10 * gib, 8 * gib})
	s.System, s.Partitions[0].StartBytes = 2, 63*512
	l := propose(t, s, 4_000_787_030_016, ForSys)
	require.True(t, l.Fits)
	assert.Equal(t, MBR, l.Scheme)
	assert.Equal(t, []string{Boot, System, Recovery},
		[]string{l.Partitions[0].Role, l.Partitions[1].Role, l.Partitions[2].Role})
	assert.Subset(t, rules(l), []string{"mbr-limit", "start-mode", "misaligned", "recovery-in-the-way"})
	last := l.Partitions[2]
	assert.LessOrEqual(t, last.StartBytes+last.SizeBytes, int64(mbrSectors*512),
		"no partition ends beyond what an MBR counts")
	// A drive whose partitions lie in an extended one keeps them in it.
	s = Source{CapacityBytes: 500 * gib, Partitions: []hardware.Partition{
		{Number: 1, Type: "7", StartBytes: mib, SizeBytes: 100 * gib, UsedBytes: 50 * gib},
		{Number: 2, Type: "f", StartBytes: 100*gib + mib, SizeBytes: 1024},
		{Number: 5, Type: "7", StartBytes: 100*gib + 2*mib, SizeBytes: 80 * gib, UsedBytes: 20 * gib},
		{Number: 6, Type: "82", StartBytes: 181 * gib, SizeBytes: 4 * gib}}, System: 1}
	l, err := Propose(s, Target{CapacityBytes: 1000 * gib, SectorBytes: 512, As: ForSys})
	require.NoError(t, err)
	require.True(t, l.Fits)
	holds, in, swap := l.Partitions[1], l.Partitions[2], l.Partitions[3]
	assert.Equal(t, 2, holds.Of)
	assert.Equal(t, holds.StartBytes+Align, in.StartBytes)
	assert.GreaterOrEqual(t, swap.StartBytes, in.StartBytes+in.SizeBytes+Align)
	assert.Equal(t, Swap, swap.Role)
	assert.GreaterOrEqual(t, holds.StartBytes+holds.SizeBytes, swap.StartBytes+swap.SizeBytes)
}

func TestOtherSectors(t *testing.T) {
	s := desk(100*gib, 20*gib)
	s.Partitions[0].SizeBytes -= 512 // no whole number of the new drive's sectors
	l, err := Propose(s, Target{CapacityBytes: 200 * gib, SectorBytes: 4096, As: ForSys})
	require.NoError(t, err)
	assert.Contains(t, rules(l), "sector-size")
	for _, p := range l.Partitions {
		assert.Zero(t, p.SizeBytes%4096)
	}
}

func TestWhatIsRefused(t *testing.T) {
	good := Target{CapacityBytes: gib, SectorBytes: 512, As: ForSys}
	for name, c := range map[string]struct {
		s Source
		t Target
	}{
		"nothing": {Source{}, good},
		"the same twice": {Source{Partitions: []hardware.Partition{{Number: 1, SizeBytes: 1},
			{Number: 1, StartBytes: 9, SizeBytes: 1}}}, good},
		"overlapping": {Source{Partitions: []hardware.Partition{{Number: 1, SizeBytes: 10},
			{Number: 2, StartBytes: 9, SizeBytes: 1}}}, good},
		"without size": {Source{Partitions: []hardware.Partition{{Number: 1}}}, good},
		"fuller than large": {Source{Partitions: []hardware.Partition{{Number: 1, SizeBytes: 10, UsedBytes: 11}}},
			good},
		"no drive at all":     {drive(row{basic, gib, 1}), Target{SectorBytes: 512, As: ForSys}},
		"sectors of 520":      {drive(row{basic, gib, 1}), Target{CapacityBytes: gib, SectorBytes: 520, As: ForSys}},
		"another way":         {drive(row{basic, gib, 1}), Target{CapacityBytes: gib, SectorBytes: 512, As: "best"}},
		"a number below none": {Source{Partitions: []hardware.Partition{{Number: -1, SizeBytes: 10}}}, good},
	} {
		t.Run(name, func(t *testing.T) {
			_, err := Propose(c.s, c.t)
			assert.Error(t, err)
		})
	}
}

// Over generated drives, whatever is proposed is whole.
func TestGeneratedDrives(t *testing.T) {
	random := rand.New(rand.NewPCG(3, 4))
	kinds := []string{efi, reserved, basic, basic, basic, recovery, "0657fd6d-a4ab-43c4-84e5-0933c84b4f4f"}
	fits := map[bool]int{}
	all := testscale.Of(4000, 400)
	for n := range all {
		var rows []row
		for range 1 + random.IntN(7) {
			r := row{kind: kinds[random.IntN(len(kinds))], size: (1 + random.Int64N(400)) * gib}
			if r.kind != basic {
				r.size = (1 + random.Int64N(2000)) * mib
			}
			r.size += random.Int64N(3) * 512
			if random.IntN(5) > 0 {
				r.used = 1 + random.Int64N(r.size)
			}
			rows = append(rows, r)
		}
		s := drive(rows...)
		if random.IntN(2) == 0 {
			s.System = 1 + random.IntN(len(rows))
		}
		capacity := (16 + random.Int64N(2000)) * 1_000_000_000
		for _, as := range Ways {
			t.Run(fmt.Sprint(n, as), func(t *testing.T) {
				l := propose(t, s, capacity, as)
				fits[l.Fits]++
			})
		}
		if t.Failed() {
			return
		}
	}
	assert.Greater(t, min(fits[true], fits[false]), all*3/8, "both are tried")
}

func FuzzPropose(f *testing.F) {
	f.Add(int64(1<<20), int64(10<<30), int64(5<<30), int64(11<<30), int64(1<<30), int64(0), int64(20<<30), "7", basic)
	f.Fuzz(func(t *testing.T, start1, size1, used1, start2, size2, used2, capacity int64, kind1, kind2 string) {
		s := Source{Partitions: []hardware.Partition{{Number: 1, Type: kind1, StartBytes: start1, SizeBytes: size1,
			UsedBytes: used1},
			{Number: 5, Type: kind2, StartBytes: start2, SizeBytes: size2, UsedBytes: used2}}}
		for _, as := range Ways {
			l, err := Propose(s, Target{CapacityBytes: capacity, SectorBytes: 512, As: as})
			if err != nil {
				continue
			}
			for _, p := range l.Partitions {
				if p.StartBytes < 0 || p.SizeBytes <= 0 || p.StartBytes+p.SizeBytes > capacity {
					t.Fatalf("%s: %+v", as, p)
				}
			}
			_ = l.Script()
		}
	})
}

// Sizes that somebody drags to: kept where they can be, never below what lies in a partition, and
// refused where they are too much.
func TestOwnSizes(t *testing.T) {
	source := Source{CapacityBytes: 640e9, SectorBytes: 512, System: 2, Partitions: []hardware.Partition{
		{Drive: "d", Number: 1, Type: "c12a7328-f81f-11d2-ba4b-00a0c93ec93b", StartBytes: Align, SizeBytes: 100 << 20,
			UsedBytes: 32 << 20},
		{Drive: "d", Number: 2, Type: "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7", StartBytes: 200 << 20,
			SizeBytes: 400e9 / Align * Align, UsedBytes: 300e9},
		{Drive: "d", Number: 3, Type: "ebd0a0a2-b9e5-4433-87c0-68b6b72699c7", StartBytes: 410e9 / Align * Align,
			SizeBytes: 200e9 / Align * Align},
	}}
	for name, c := range map[string]struct {
		sizes map[int]int64
		fits  bool
		want  map[int]int64 // GB, of those that are looked at
		warns string
	}{
		"as they are":                     {nil, true, map[int]int64{2: 400, 3: 200}, ""},
		"the system's grows":              {map[int]int64{2: 700e9}, true, map[int]int64{2: 700, 3: 200}, ""},
		"it shrinks, with room":           {map[int]int64{2: 360e9}, true, map[int]int64{2: 360}, ""},
		"it shrinks to next to its files": {map[int]int64{2: 310e9}, true, map[int]int64{2: 310}, "tight"},
		"not below what it holds":         {map[int]int64{2: 1}, true, map[int]int64{2: 300}, "tight"},
		"not of unknown contents":         {map[int]int64{3: 1e9}, true, map[int]int64{3: 200}, ""},
		"what is not to be changed":       {map[int]int64{1: 5e9}, true, map[int]int64{1: 0}, ""},
		"none of that number":             {map[int]int64{9: 5e9}, true, map[int]int64{2: 400}, ""},
		"too much":                        {map[int]int64{2: 900e9}, false, nil, "too-small"},
		"less than nothing":               {map[int]int64{2: -900e9}, true, map[int]int64{2: 300}, "tight"},
	} {
		t.Run(name, func(t *testing.T) {
			l, err := Propose(source, Target{CapacityBytes: 960e9, SectorBytes: 512, As: Own, Sizes: c.sizes})
			require.NoError(t, err)
			require.Equal(t, c.fits, l.Fits, "%+v", l.Warnings)
			for _, p := range l.Partitions {
				if want, ok := c.want[p.Of]; ok {
					assert.InDelta(t, float64(want), float64(p.SizeBytes)/1e9, 0.2, "partition %d", p.Of)
				}
				assert.Zero(t, p.StartBytes%Align)
			}
			rules := ""
			for _, w := range l.Warnings {
				if w.Rule == "tight" || w.Rule == "too-small" {
					rules += w.Rule
				}
			}
			assert.Equal(t, c.warns, rules)
		})
	}
}
