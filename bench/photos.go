package bench

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"net/http"
	"strings"

	"github.com/disintegration/imaging"
	_ "golang.org/x/image/webp" // WebP is read; JPEG and PNG imaging reads

	"nowthen/core/job"
)

// Bounds of a photo.
const (
	MaxPhotoBytes = 20 << 20
	maxPixels     = 80_000_000
	longSide      = 2400 // pixels that are kept; enough to read a label by
)

// AddPhoto attaches a picture to a step. It is drawn anew: turned upright, and
// without place, time or device, which a picture tells of its owner.
func (b *Bench) AddPhoto(ctx context.Context, jobID, step, name string, data []byte) (*View, error) {
	kind, picture, err := redraw(data)
	if err != nil {
		r := invalid("%s.", upperFirst(err.Error()))
		r.Kept, r.Do = "The step is as it was.", "Attach a JPEG, PNG or WebP picture of at most 20 MB."
		return nil, r
	}
	j, err := b.store.Job(ctx, jobID)
	if err != nil {
		return nil, wrap(err)
	}
	if j.Step(step) == nil {
		return nil, missing("There is no step %q in this job.", step)
	}
	id := newID()
	if err := b.store.AddPhoto(ctx, id, jobID, kind, picture); err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		s := j.Step(step)
		if s == nil {
			return missing("There is no step %q in this job.", step)
		}
		s.Photos = append(s.Photos, job.Photo{ID: id, At: b.now(), Type: kind, Name: strings.TrimSpace(firstRunes(name, 100))})
		return nil
	})
}

func firstRunes(s string, n int) string {
	r := []rune(s)
	return string(r[:min(n, len(r))])
}

// redraw reads a picture and draws it anew as JPEG, or as PNG where it was one.
func redraw(data []byte) (kind string, picture []byte, err error) {
	if len(data) > MaxPhotoBytes {
		return "", nil, fmt.Errorf("the picture has %d MB", len(data)/1_000_000)
	}
	sniffed := http.DetectContentType(data)
	format := imaging.JPEG
	switch sniffed {
	case "image/jpeg", "image/webp":
		kind = "image/jpeg"
	case "image/png":
		kind, format = "image/png", imaging.PNG
	default:
		return "", nil, fmt.Errorf("that is no picture that can be read here (%s)", sniffed)
	}
	head, _, err := image.DecodeConfig(bytes.NewReader(data))
	if err != nil {
		return "", nil, fmt.Errorf("the picture cannot be read: %w", err)
	}
	if head.Width*head.Height > maxPixels {
		return "", nil, fmt.Errorf("the picture has %d million pixels", head.Width*head.Height/1_000_000)
	}
	img, err := imaging.Decode(bytes.NewReader(data), imaging.AutoOrientation(true))
	if err != nil {
		return "", nil, fmt.Errorf("the picture cannot be read: %w", err)
	}
	if s := img.Bounds().Size(); max(s.X, s.Y) > longSide {
		img = imaging.Fit(img, longSide, longSide, imaging.Lanczos)
	}
	var out bytes.Buffer
	if err := imaging.Encode(&out, img, format, imaging.JPEGQuality(88)); err != nil {
		return "", nil, err
	}
	return kind, out.Bytes(), nil
}

// Photo returns a picture of a job and its type.
func (b *Bench) Photo(ctx context.Context, jobID, id string) (kind string, data []byte, err error) {
	kind, data, err = b.store.Photo(ctx, jobID, id)
	return kind, data, wrap(err)
}
