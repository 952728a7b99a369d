package bench

import (
	"bytes"
	"errors"
	"fmt"
	"image/png"
	"math"
)

// Bounds of a logo, px and bytes.
const (
	maxLogo       = 400 << 10 // as it comes in
	maxLogoPixels = 16_000_000
	logoWidth     = 600
	logoHeight    = 240
)

// errLogo means that a logo isn't a usable picture.
var errLogo = errors.New("a logo is a PNG picture of up to 400 KiB")

// cleanLogo re-encodes a logo at the largest size it is printed, which removes everything but the picture from the file.
func cleanLogo(data []byte) ([]byte, error) {
	if len(data) > maxLogo {
		return nil, errLogo
	}
	head, err := png.DecodeConfig(bytes.NewReader(data))
	if err != nil || head.Width*head.Height > maxLogoPixels {
		return nil, errLogo
	}
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return nil, errLogo
	}
	var out bytes.Buffer
	err = png.Encode(&out, Shrunk(img, logoWidth, logoHeight))
	return out.Bytes(), err
}

// leastContrast is the required contrast of the header colour on white (WCAG 2.2, success criterion 1.4.3).
const leastContrast = 4.5

// readable reports whether text of a colour, "#rrggbb", can be read on white; none is "".
func readable(colour string) bool {
	if colour == "" {
		return true
	}
	var c [3]uint8
	if n, err := fmt.Sscanf(colour, "#%02x%02x%02x", &c[0], &c[1], &c[2]); n != 3 || err != nil {
		return true // that it is no colour is said elsewhere
	}
	return 1.05/(luminance(c)+0.05) >= leastContrast
}

// luminance is a colour's relative luminance (WCAG 2.2, "relative luminance").
func luminance(c [3]uint8) float64 {
	sum := 0.0
	for i, weight := range [3]float64{0.2126, 0.7152, 0.0722} {
		v := float64(c[i]) / 255
		if v <= 0.04045 {
			v /= 12.92
		} else {
			v = math.Pow((v+0.055)/1.055, 2.4)
		}
		sum += weight * v
	}
	return sum
}
