package bench

import (
	"image"
	"image/draw"
	"math"
)

// bandRows is how many rows of a picture are converted at once.
const bandRows = 32

// Shrunk returns a picture scaled down to at most that width and height, px: each pixel is the mean of those it
// replaces. It takes one pass and little memory.
func Shrunk(img image.Image, width, height int) image.Image {
	b := img.Bounds()
	shrink := min(1, float64(width)/float64(b.Dx()), float64(height)/float64(b.Dy()))
	w, h := max(1, int(math.Round(float64(b.Dx())*shrink))), max(1, int(math.Round(float64(b.Dy())*shrink)))
	to := image.NewNRGBA(image.Rect(0, 0, w, h))
	band := image.NewRGBA(image.Rect(0, 0, b.Dx(), min(bandRows, b.Dy())))
	column := make([]int, b.Dx()) // of the small picture, by that of the large one
	for x := range column {
		column[x] = x * w / b.Dx()
	}
	sums, counts, row := make([][4]uint64, w), make([]uint64, w), 0
	for y := range b.Dy() {
		if y%bandRows == 0 {
			draw.Draw(band, band.Bounds(), img, image.Pt(b.Min.X, b.Min.Y+y), draw.Src)
		}
		if at := y * h / b.Dy(); at != row {
			write(to, row, sums, counts)
			row = at
		}
		line := band.Pix[(y%bandRows)*band.Stride:]
		for x, at := range column {
			p, s := line[4*x:4*x+4:4*x+4], &sums[at]
			s[0], s[1], s[2], s[3] = s[0]+uint64(p[0]), s[1]+uint64(p[1]), s[2]+uint64(p[2]), s[3]+uint64(p[3])
			counts[at]++
		}
	}
	write(to, row, sums, counts)
	return to
}

// write puts the means of a row into a picture, and clears the sums. The sums are alpha-premultiplied; the
// picture isn't.
func write(to *image.NRGBA, row int, sums [][4]uint64, counts []uint64) {
	line := to.Pix[row*to.Stride:]
	for x := range sums {
		s, n := &sums[x], counts[x]
		if n > 0 && s[3] > 0 {
			for k := range 3 {
				line[4*x+k] = uint8(min(255, (s[k]*255+s[3]/2)/s[3]))
			}
			line[4*x+3] = uint8((s[3] + n/2) / n)
		}
		*s, counts[x] = [4]uint64{}, 0
	}
}
