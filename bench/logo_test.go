package bench

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestReadable(t *testing.T) {
	for colour, want := range map[string]bool{
		"": true, "#000000": true, "#0b5d5e": true, "#767676": true, "#777777": false, "#ffffff": false, "#ffcc00": false, "#ff0000": false, "#e00000": true,
	} {
		assert.Equal(t, want, readable(colour), colour)
	}
	assert.InDelta(t, 1, luminance([3]uint8{255, 255, 255}), 1e-12)
	assert.InDelta(t, 0.2126, luminance([3]uint8{255, 0, 0}), 1e-12)
	assert.InDelta(t, 10/255.0/12.92, luminance([3]uint8{10, 10, 10}), 1e-12)
}

func picture(t *testing.T, width, height int) []byte {
	t.Helper()
	img := image.NewNRGBA(image.Rect(0, 0, width, height))
	for x := range width {
		img.Set(x, x%height, color.NRGBA{0x0b, 0x5d, 0x5e, 0xff})
	}
	var b bytes.Buffer
	require.NoError(t, png.Encode(&b, img))
	return b.Bytes()
}

func TestCleanLogo(t *testing.T) {
	for name, c := range map[string]struct{ width, height, wantWidth, wantHeight int }{
		"small":     {40, 20, 40, 20},
		"wide":      {1200, 100, 600, 50},
		"tall":      {100, 1200, 20, 240},
		"just fits": {600, 240, 600, 240},
		"a line":    {5000, 1, 600, 1},
	} {
		t.Run(name, func(t *testing.T) {
			out, err := cleanLogo(append(picture(t, c.width, c.height), "something hidden behind it"...))
			require.NoError(t, err)
			assert.NotContains(t, string(out), "hidden")
			head, err := png.DecodeConfig(bytes.NewReader(out))
			require.NoError(t, err)
			assert.Equal(t, []int{c.wantWidth, c.wantHeight}, []int{head.Width, head.Height})
		})
	}
	for name, data := range map[string][]byte{
		"no picture": []byte("<svg onload='x'/>"), "cut off": picture(t, 40,
			20)[:60], "too long": append(picture(t, 40, 20), make([]byte, maxLogo)...),
		"too many pixels": picture(t, 17000, 1000),
	} {
		_, err := cleanLogo(data)
		assert.ErrorIs(t, err, errLogo, name)
	}
}

func FuzzLogo(f *testing.F) {
	f.Add([]byte("\x89PNG\r\n\x1a\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		if out, err := cleanLogo(data); err == nil {
			_, err := cleanLogo(out)
			assert.NoError(t, err, "what was cleaned is one")
		}
	})
}
