package evidence_test

import (
	"bytes"
	"encoding/binary"
	"image"
	"image/color"
	"image/jpeg"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/evidence"
)

// photoOf is a JPEG, wider than high, that says it lies on its side and where
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
	v, err := b.Evidence.AddPhoto(ctx, id, "screws", "inside.jpg", raw)
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
	for name, bad := range map[string][]byte{"text": []byte("hello"), "half": raw[:100], "page": []byte("<html>"), "huge": make([]byte, evidence.MaxPhotoBytes+1)} {
		_, err := b.Evidence.AddPhoto(ctx, id, "screws", name, bad)
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
		v, err := b.Evidence.AddPhoto(ctx, id, "screws", name, tc.picture)
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
