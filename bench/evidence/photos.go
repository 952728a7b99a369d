package evidence

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"net/http"
	"runtime/debug"
	"strconv"
	"strings"

	"github.com/bep/imagemeta"
	_ "golang.org/x/image/webp" // WebP is read as well

	"nowthen/bench"
	"nowthen/core/job"
)

// Bounds of a photo.
const (
	MaxPhotoBytes = 20 << 20
	maxPixels     = 40_000_000
	maxSide       = 20_000      // px
	maxDecoded    = 160_000_000 // bytes in memory
	longSide      = 2400        // pixels that are kept; enough to read a label by
)

// Pictured is the object of a photo: a step, a session or a run, by id.
type Pictured struct{ Step, Sitting, Run string }

// attach attaches a photo, or refuses if its object doesn't exist.
func (of Pictured) attach(j *job.Job, p job.Photo) error {
	switch s, sitting := j.Step(of.Step), j.Sitting(of.Sitting); {
	case s != nil:
		s.Photos = append(s.Photos, p)
	case sitting != nil:
		sitting.Photos = append(sitting.Photos, p)
	case of.Run != "" && j.AddPhotoTo(of.Run, p):
	case of.Step != "":
		return bench.NoSuch("step", of.Step)
	case of.Sitting != "":
		return bench.NoSuch("session", of.Sitting)
	default:
		return bench.NoSuch("run", of.Run)
	}
	return nil
}

// AddPhoto attaches a picture. It is re-encoded: turned upright, and stripped of place, time and device, which
// would reveal things about its owner. Storing and attaching it are one change.
func (x *Evidence) AddPhoto(ctx context.Context, ch *bench.Change, jobID string, to Pictured, name string,
	data []byte) (*bench.View, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	if err := to.attach(s.Job.Clone(), job.Photo{}); err != nil {
		return nil, err
	}
	kind, picture, err := x.redraw(ctx, data)
	if err != nil {
		r := bench.Because(bench.Invalid, err)
		r.Kept, r.Do = "The step is unchanged.", "Attach a JPEG, PNG or WebP picture of at most 20 MB."
		return nil, r
	}
	return x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		id := bench.NewID()
		p := job.Photo{ID: id, At: x.jobs.Now(), Type: kind, Name: strings.TrimSpace(firstRunes(name, 100))}
		if err := to.attach(j, p); err != nil {
			return err
		}
		ch.Made("jobs/" + jobID + "/photos/" + id)
		return ch.Tx.AddPhoto(ctx, id, jobID, kind, picture)
	})
}

func firstRunes(s string, n int) string {
	r := []rune(s)
	return string(r[:min(n, len(r))])
}

// drawing is how many pictures are decoded at once; each takes up to [maxDecoded] bytes for a moment.
const drawing = 1

// largePicture is the number of pixels from which a picture's memory is returned to the system at once.
const largePicture = 4_000_000

// fits refuses a picture by its header alone, before it takes memory and time.
func fits(head image.Config) error {
	switch {
	case head.Width < 1 || head.Height < 1:
		return errors.New("the picture is empty")
	case head.Width > maxSide || head.Height > maxSide:
		return fmt.Errorf("the picture has %d × %d pixels; up to %d on a side are taken", head.Width, head.Height,
			maxSide)
	case head.Width*head.Height > maxPixels:
		return fmt.Errorf("the picture has %d million pixels; up to %d are taken", head.Width*head.Height/1_000_000,
			maxPixels/1_000_000)
	}
	bytes := 4
	switch head.ColorModel {
	case color.RGBA64Model, color.NRGBA64Model:
		bytes = 8
	}
	if head.Width*head.Height*bytes > maxDecoded {
		return fmt.Errorf("the picture has %d million pixels of 16 bits; save it with 8 bits",
			head.Width*head.Height/1_000_000)
	}
	return nil
}

// redraw decodes a picture and encodes it again as JPEG, or as PNG if it was one.
func (x *Evidence) redraw(ctx context.Context, data []byte) (kind string, picture []byte, err error) {
	if len(data) > MaxPhotoBytes {
		return "", nil, fmt.Errorf("the picture has %d MB", len(data)/1_000_000)
	}
	select {
	case x.drawing <- struct{}{}:
		defer func() { <-x.drawing }()
	case <-ctx.Done():
		return "", nil, ctx.Err()
	}
	var format imagemeta.ImageFormat
	kind = "image/jpeg"
	switch sniffed := http.DetectContentType(data); sniffed {
	case "image/jpeg":
		format = imagemeta.JPEG
	case "image/webp":
		format = imagemeta.WebP
	case "image/png":
		kind, format = sniffed, imagemeta.PNG
	default:
		return "", nil, fmt.Errorf("that is no picture that can be read here (%s)", sniffed)
	}
	head, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return "", nil, fmt.Errorf("the picture cannot be read: %w", err)
	}
	if err := fits(head); err != nil {
		return "", nil, err
	}
	if head.Width*head.Height > largePicture {
		defer debug.FreeOSMemory()
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return "", nil, fmt.Errorf("the picture cannot be read: %w", err)
	}
	img = upright(bench.Shrunk(img, longSide, longSide), orientation(data, format))
	var out bytes.Buffer
	if kind == "image/png" {
		err = png.Encode(&out, img)
	} else {
		err = jpeg.Encode(&out, img, &jpeg.Options{Quality: 88})
	}
	return kind, out.Bytes(), err
}

// orientation is a picture's orientation, from 1 (upright) to 8 (Exif 2.3, tag 0x0112).
func orientation(data []byte, format imagemeta.ImageFormat) int {
	lies := 1
	_, err := imagemeta.Decode(imagemeta.Options{R: bytes.NewReader(data), ImageFormat: format, Sources: imagemeta.EXIF,
		ShouldHandleTag: func(t imagemeta.TagInfo) bool { return t.Tag == "Orientation" },
		HandleTag: func(t imagemeta.TagInfo) error {
			if n, err := strconv.Atoi(fmt.Sprint(t.Value)); err == nil && n >= 1 && n <= 8 {
				lies = n
			}
			return imagemeta.ErrStopWalking
		}})
	if err != nil {
		return 1 // it notes nothing that can be read
	}
	return lies
}

// upright turns and mirrors a picture with one of the eight orientations.
func upright(img image.Image, lies int) image.Image {
	if lies == 1 {
		return img
	}
	b := img.Bounds()
	w, h := b.Dx(), b.Dy()
	size := image.Pt(w, h)
	if lies >= 5 {
		size = image.Pt(h, w)
	}
	to := image.NewRGBA(image.Rectangle{Max: size})
	for y := range size.Y {
		for x := range size.X {
			var p image.Point
			switch lies {
			case 2:
				p = image.Pt(w-1-x, y)
			case 3:
				p = image.Pt(w-1-x, h-1-y)
			case 4:
				p = image.Pt(x, h-1-y)
			case 5:
				p = image.Pt(y, x)
			case 6:
				p = image.Pt(y, h-1-x)
			case 7:
				p = image.Pt(w-1-y, h-1-x)
			default:
				p = image.Pt(w-1-y, x)
			}
			to.Set(x, y, img.At(b.Min.X+p.X, b.Min.Y+p.Y))
		}
	}
	return to
}

// Photo returns a picture of a job and its type.
func (x *Evidence) Photo(ctx context.Context, jobID, id string) (kind string, data []byte, err error) {
	kind, data, err = x.store.Photo(ctx, jobID, id)
	return kind, data, bench.Found(err)
}

// thumbSide is the longer side of a thumbnail, pixels: as large as it is shown on a screen
// of twice the usual density.
const thumbSide = 320

// Thumbnail returns a small picture of a picture of a job.
func (x *Evidence) Thumbnail(ctx context.Context, jobID, id string) (kind string, data []byte, err error) {
	kind, data, err = x.Photo(ctx, jobID, id)
	if err != nil {
		return "", nil, err
	}
	select {
	case x.drawing <- struct{}{}:
		defer func() { <-x.drawing }()
	case <-ctx.Done():
		return "", nil, ctx.Err()
	}
	img, _, err := image.Decode(bytes.NewReader(data))
	if err != nil {
		return "", nil, fmt.Errorf("picture %s: %w", id, err)
	}
	var out bytes.Buffer
	err = jpeg.Encode(&out, bench.Shrunk(img, thumbSide, thumbSide), &jpeg.Options{Quality: 80})
	return "image/jpeg", out.Bytes(), err
}
