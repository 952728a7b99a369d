package forms

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"
	"slices"
	"strings"

	scaling "golang.org/x/image/draw"

	"golang.org/x/image/font"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"

	"nowthen/report"
)

// Measures of the picture, px.
const (
	pictureWidth  = 1240
	pictureMargin = 64
)

// PNG draws the first page as a picture, to send.
func PNG(ctx context.Context, w io.Writer, d *report.Document) error {
	if err := ctx.Err(); err != nil {
		return err
	}
	// Once to learn how high it is, once to draw it.
	letters := typefaceFor(d)
	high, err := (&canvas{letters: letters}).draw(d)
	if err != nil {
		return err
	}
	img := image.NewRGBA(image.Rect(0, 0, pictureWidth, high))
	draw.Draw(img, img.Bounds(), image.White, image.Point{}, draw.Src)
	if _, err := (&canvas{img: img, letters: letters}).draw(d); err != nil {
		return err
	}
	return png.Encode(w, img)
}

// canvas is a picture being drawn, or measured where there is no image.
type canvas struct {
	img   *image.RGBA
	y     int
	faces map[string]font.Face
	// letters are those in which it is set.
	letters *typeface
}

func rgb(c [3]int) color.Color {
	return color.RGBA{uint8(c[0]), uint8(c[1]), uint8(c[2]), 255}
}

func (c *canvas) face(size float64, strong bool) (font.Face, error) {
	key := fmt.Sprint(size, strong)
	if f := c.faces[key]; f != nil {
		return f, nil
	}
	ttf := c.letters.regular
	if strong {
		ttf = c.letters.bold
	}
	parsed, err := opentype.Parse(ttf)
	if err != nil {
		return nil, err
	}
	f, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: size, DPI: 72, Hinting: font.HintingFull})
	if err != nil {
		return nil, err
	}
	if c.faces == nil {
		c.faces = map[string]font.Face{}
	}
	c.faces[key] = f
	return f, nil
}

// at writes one line with its left, or where it is right its right end at x.
func (c *canvas) at(f font.Face, x, y int, col [3]int, right bool, text string) {
	if c.img == nil {
		return
	}
	d := font.Drawer{Dst: c.img, Src: image.NewUniform(rgb(col)), Face: f, Dot: fixed.P(x, y)}
	if right {
		d.Dot.X -= d.MeasureString(text)
	}
	d.DrawString(text)
}

// advance is how far a letter resumes after another one, px; before is 0 where there is none.
func advance(f font.Face, before, r rune) float64 {
	a, _ := f.GlyphAdvance(r)
	if before != 0 {
		a += f.Kern(before, r)
	}
	return float64(a) / 64
}

// lines breaks a text where it has no more room.
func lines(f font.Face, text string, room int) []string {
	wide := func(s string) bool { return font.MeasureString(f, s).Ceil() > room }
	var out []string
	line := ""
	for _, word := range strings.Fields(text) {
		parts := pieces(word, float64(room), func(before, r rune) float64 { return advance(f, before, r) })
		if whole := len(parts) - 1; whole > 0 { // a word that is wider than a line
			if line != "" {
				out, line = append(out, line), ""
			}
			out, word = append(out, parts[:whole]...), parts[whole]
		}
		switch {
		case line == "":
			line = word
		case wide(line + " " + word):
			out, line = append(out, line), word
		default:
			line += " " + word
		}
	}
	if line != "" {
		out = append(out, line)
	}
	return out
}

// para writes a paragraph and moves below it.
func (c *canvas) para(size float64, strong bool, col [3]int, text string) error {
	f, err := c.face(size, strong)
	if err != nil {
		return err
	}
	for _, line := range lines(f, c.letters.printable(text), pictureWidth-2*pictureMargin) {
		c.y += int(size * 1.3)
		c.at(f, pictureMargin, c.y, col, false, line)
	}
	return nil
}

func (c *canvas) draw(d *report.Document) (high int, err error) {
	c.y = pictureMargin / 2
	mark := which(d)
	if d.Simulated {
		mark += "  [" + d.Label("simulated") + "]"
	}
	c.logo(d.Shop.Logo)
	head := []block{{26, true, d.Shop.Ink(ink), d.Shop.Name, 6}, {28, true, ink, about(d), 0},
		{22, false, soft, mark, 22}, {54, true, ink, d.Headline, 6}, {30, false, ink, d.Lead, 0}, {30, false, ink,
			d.Week, 12}}
	for _, r := range d.Reasons {
		head = append(head, block{24, false, ink, r, 0})
	}
	head = append(head, block{24, false, ink, d.Note, 12})
	if err := c.blocks(head); err != nil {
		return 0, err
	}
	shown, _ := waits(d, Options{Length: One})
	for _, l := range lanes(shown) {
		if err := c.lane(d, l); err != nil {
			return 0, err
		}
	}
	c.y += 24
	foot := []block{{24, false, ink, d.Share, 12}}
	if of := d.Beside; of != nil {
		foot = append(foot, block{28, true, ink, d.Label("compared"), 0})
		for _, r := range of.Rows {
			foot = append(foot, block{24, true, ink, r.Name, 0})
			for i, s := range r.Cells {
				foot = append(foot, block{24, false, ink, of.Columns[i] + ": " + s, 0})
			}
		}
		for _, s := range of.Said {
			foot = append(foot, block{24, false, ink, s, 0})
		}
		foot = append(foot, block{1, false, ink, " ", 12})
	}
	if len(d.Done) > 0 {
		foot = append(foot, block{28, true, ink, d.Label("done"), 0})
	}
	for _, s := range append(slices.Clone(d.Done), d.Price) {
		foot = append(foot, block{24, false, ink, s, 0})
	}
	if len(d.Changes) > 0 {
		c := block{28, true, ink, d.Label("changes"), 0}
		foot = append(foot, block{1, false, ink, " ", 12}, c)
		for _, s := range d.Changes {
			foot = append(foot, block{24, false, ink, s, 0})
		}
	}
	for _, s := range []string{d.Shop.Terms, d.Shop.Footer} {
		if s != "" {
			foot = append(foot, block{1, false, ink, " ", 12}, block{18, false, soft, s, 0})
		}
	}
	if err := c.blocks(foot); err != nil {
		return 0, err
	}
	return c.y + pictureMargin, nil
}

// logo draws a shop's logo, and moves below it.
func (c *canvas) logo(data []byte) {
	const most, high = 360, 96
	img, err := png.Decode(bytes.NewReader(data))
	if err != nil {
		return // none, or one that cannot be drawn
	}
	b := img.Bounds()
	shrink := min(1, most/float64(b.Dx()), high/float64(b.Dy()))
	w, h := int(float64(b.Dx())*shrink), int(float64(b.Dy())*shrink)
	if c.img != nil {
		at := image.Rect(pictureWidth-pictureMargin-w, c.y, pictureWidth-pictureMargin, c.y+h)
		scaling.CatmullRom.Scale(c.img, at, img, b, scaling.Over, nil)
	}
	c.y += h + 8
}

// block is a piece of text with the room after it, px; one without text is not drawn.
type block struct {
	size   float64
	strong bool
	col    [3]int
	text   string
	after  int
}

func (c *canvas) blocks(list []block) error {
	for _, b := range list {
		if b.text == "" {
			continue
		}
		if err := c.para(b.size, b.strong, b.col, b.text); err != nil {
			return err
		}
		c.y += b.after
	}
	return nil
}

// lane draws a wait, both sides on one scale.
func (c *canvas) lane(d *report.Document, l lane) error {
	strong, err := c.face(26, true)
	if err != nil {
		return err
	}
	plain, err := c.face(24, false)
	if err != nil {
		return err
	}
	const right = pictureWidth - pictureMargin
	c.y += 48
	name, main := c.letters.printable(l.Name), c.letters.printable(l.Words.Main)
	if font.MeasureString(strong, name).Ceil()+font.MeasureString(strong, main).Ceil()+40 > right-pictureMargin {
		c.y -= 34
		if err := c.para(26, true, ink, l.Name); err != nil {
			return err
		}
		if err := c.para(24, false, ink, l.Words.Main); err != nil {
			return err
		}
	} else {
		c.at(strong, pictureMargin, c.y, ink, false, name)
		c.at(strong, right, c.y, ink, true, main)
	}
	for _, side := range []struct {
		label, words string
		pct          float64
		broken       bool
		col          [3]int
	}{{"then", l.Words.Then, l.ThenPct, l.ThenBroken, ochre}, {"now", l.Words.Now, l.NowPct, l.NowBroken, teal}} {
		if side.words == "" {
			continue
		}
		c.y += 36
		c.at(plain, pictureMargin, c.y, side.col, false, c.letters.printable(d.Label(side.label)))
		c.at(plain, right, c.y, ink, true, c.letters.printable(side.words))
		if c.img != nil {
			const from, to = pictureMargin + 110, right - 190
			long := max(2, int(float64(to-from)*side.pct/100))
			draw.Draw(c.img, image.Rect(from, c.y-18, from+long, c.y), image.NewUniform(rgb(side.col)), image.Point{},
				draw.Src)
			if side.broken {
				for _, at := range []int{long * 90 / 100, long * 93 / 100} {
					draw.Draw(c.img, image.Rect(from+at, c.y-22, from+at+8, c.y+4), image.White, image.Point{}, draw.Src)
				}
			}
		}
	}
	return nil
}
