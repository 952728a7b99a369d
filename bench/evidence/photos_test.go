package evidence_test

import (
	"bytes"
	"compress/zlib"
	"encoding/binary"
	"hash/crc32"
	"image"
	"image/color"
	"image/jpeg"
	"runtime"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/evidence"
)

// photoOf is a JPEG, wider than high, that says it is on its side and where
// it was taken.
func photoOf(t *testing.T) []byte {
	t.Helper()
	img := image.NewRGBA(image.Rect(0, 0, 40, 20))
	for x := range 40 {
		for y := range 20 {
			img.Set(x, y, color.RGBA{R: uint8(x * 6), A: 255})
		}
	}
	var plain bytes.Buffer
	require.NoError(t, jpeg.Encode(&plain, img, nil))
	// An Exif segment: one entry, orientation 6 (a quarter turn), and a place behind it.
	exif := []byte("Exif\x00\x00MM\x00\x2a\x00\x00\x00\x08\x00\x01\x01\x12\x00\x03\x00\x00\x00\x01\x00\x06\x00\x00\x00\x00\x00\x00taken at 52.1N 4.3E")
	segment := binary.BigEndian.AppendUint16([]byte{0xff, 0xe1}, uint16(len(exif)+2))
	out := append([]byte{0xff, 0xd8}, append(segment, exif...)...)
	return append(out, plain.Bytes()[2:]...)
}

func TestPhotosAreTurnedUprightAndTellNothing(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	raw := photoOf(t)
	require.Contains(t, string(raw), "52.1N")
	v, err := b.Evidence.AddPhoto(ctx, nil, id, evidence.Pictured{Step: "screws"}, "inside.jpg", raw)
	require.NoError(t, err)
	photo := v.Job.Step("screws").Photos[0]
	kind, data, err := b.Evidence.Photo(ctx, id, photo.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/jpeg", kind)
	assert.NotContains(t, string(data), "Exif")
	assert.NotContains(t, string(data), "52.1N")
	head, err := jpeg.DecodeConfig(bytes.NewReader(data))
	require.NoError(t, err)
	assert.Equal(t, 20, head.Width, "turned upright")
	assert.Equal(t, 40, head.Height)
	for name, bad := range map[string][]byte{"text": []byte("hello"), "half": raw[:100], "page": []byte("<html>"),
		"huge": make([]byte, evidence.MaxPhotoBytes+1)} {
		_, err := b.Evidence.AddPhoto(ctx, nil, id, evidence.Pictured{Step: "screws"}, name, bad)
		assert.NotEmpty(t, desktest.Refusal(t, err, bench.Invalid).Kept, name)
	}
	_, _, err = b.Evidence.Photo(ctx, id, "nobody")
	desktest.Refusal(t, err, bench.Missing)
}

func TestThumbnails(t *testing.T) {
	b, _ := desktest.New(t, desk.Options{})
	ctx := t.Context()
	id := desktest.Simulated(t, b)
	var large bytes.Buffer
	require.NoError(t, jpeg.Encode(&large, image.NewRGBA(image.Rect(0, 0, 1600, 800)), nil))
	for name, tc := range map[string]struct {
		picture []byte
		w, h    int
	}{"a large one": {large.Bytes(), 320, 160}, "a small one stays": {photoOf(t), 20, 40}} {
		v, err := b.Evidence.AddPhoto(ctx, nil, id, evidence.Pictured{Step: "screws"}, name, tc.picture)
		require.NoError(t, err)
		photos := v.Job.Step("screws").Photos
		kind, data, err := b.Evidence.Thumbnail(ctx, id, photos[len(photos)-1].ID)
		require.NoError(t, err)
		assert.Equal(t, "image/jpeg", kind)
		head, err := jpeg.DecodeConfig(bytes.NewReader(data))
		require.NoError(t, err)
		assert.Equal(t, [2]int{tc.w, tc.h}, [2]int{head.Width, head.Height}, name)
	}
	_, _, err := b.Evidence.Thumbnail(ctx, id, "nobody")
	desktest.Refusal(t, err, bench.Missing)
}

// claims is a PNG whose header states a size, with only a few bytes of content.
func claims(width, height uint32, depth, kind byte) []byte {
	chunk := func(name string, data []byte) []byte {
		b := binary.BigEndian.AppendUint32(nil, uint32(len(data)))
		b = append(append(b, name...), data...)
		return binary.BigEndian.AppendUint32(b, crc32.ChecksumIEEE(b[4:]))
	}
	head := binary.BigEndian.AppendUint32(binary.BigEndian.AppendUint32(nil, width), height)
	head = append(head, depth, kind, 0, 0, 0)
	var z bytes.Buffer
	w := zlib.NewWriter(&z)
	_, _ = w.Write(make([]byte, 1<<20))
	_ = w.Close()
	return slices.Concat([]byte("\x89PNG\r\n\x1a\n"), chunk("IHDR", head), chunk("IDAT", z.Bytes()), chunk("IEND", nil))
}

// A picture is refused by its header, before it takes memory or time.
func TestPicturesThatAreTooLarge(t *testing.T) {
	b, id, _ := clipBench(t)
	v, err := b.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	for name, picture := range map[string][]byte{
		"79 million in a row":        claims(79_000_000, 1, 1, 0),
		"79 million in a column":     claims(1, 79_000_000, 8, 2),
		"41 million":                 claims(8200, 5000, 8, 2),
		"40 million of 16 bits":      claims(8000, 5000, 16, 6),
		"beyond what can be counted": claims(1<<31-1, 1<<31-1, 8, 6),
		"a side of 20,001":           claims(20_001, 10, 8, 0),
		"nothing":                    claims(0, 0, 8, 0),
	} {
		_, err := b.Evidence.AddPhoto(t.Context(), nil, id, evidence.Pictured{Step: v.Job.Plan.Steps[0].ID}, "x",
			picture)
		desktest.Refusal(t, err, bench.Invalid)
		assert.Error(t, err, name)
	}
	runtime.ReadMemStats(&after)
	assert.Less(t, after.TotalAlloc-before.TotalAlloc, uint64(64<<20), "bytes that were taken for all of them")
	w, err := b.Jobs.View(t.Context(), id)
	require.NoError(t, err)
	assert.Equal(t, v.Revision, w.Revision)
}
