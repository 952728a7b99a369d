package bench

import (
	"image"
	"image/color"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestShrunk(t *testing.T) {
	half := image.NewNRGBA(image.Rect(10, 20, 110, 70)) // its left half red, its right half clear
	for y := 20; y < 70; y++ {
		for x := 10; x < 60; x++ {
			half.SetNRGBA(x, y, color.NRGBA{200, 10, 30, 255})
		}
	}
	small := Shrunk(half, 10, 10).(*image.NRGBA)
	assert.Equal(t, image.Rect(0, 0, 10, 5), small.Bounds())
	assert.Equal(t, color.NRGBA{200, 10, 30, 255}, small.NRGBAAt(4, 4))
	assert.Equal(t, color.NRGBA{}, small.NRGBAAt(5, 0))
	odd := Shrunk(half, 33, 1000).(*image.NRGBA)
	assert.Equal(t, image.Rect(0, 0, 33, 17), odd.Bounds())
	assert.Equal(t, color.NRGBA{200, 10, 30, 128}, Shrunk(half, 1, 1).(*image.NRGBA).NRGBAAt(0, 0),
		"the mean of the clear ones has no colour")
	same := Shrunk(half, 100, 50).(*image.NRGBA)
	assert.Equal(t, image.Rect(0, 0, 100, 50), same.Bounds())
	assert.Equal(t, color.NRGBA{200, 10, 30, 255}, same.NRGBAAt(49, 49))

	grey := image.NewYCbCr(image.Rect(0, 0, 301, 99), image.YCbCrSubsampleRatio420)
	for i := range grey.Y {
		grey.Y[i] = 90
	}
	for i := range grey.Cb {
		grey.Cb[i], grey.Cr[i] = 128, 128
	}
	for _, p := range Shrunk(grey, 20, 20).(*image.NRGBA).Pix {
		assert.Contains(t, []uint8{90, 255}, p)
	}
}
