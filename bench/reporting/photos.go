package reporting

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"image"
	"image/jpeg"
	_ "image/png" // photos are kept as JPEG or PNG
	"slices"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/report"
	"nowthen/store"
)

// Photos on a report.
const (
	mostPhotos = 4
	// photoSide is their longer side, px: enough for half the width of a sheet.
	photoSide = 900
)

// photoOf returns the step and the photo with an id; nil if there is none.
func photoOf(j *job.Job, id string) (*job.Step, *job.Photo) {
	for i := range j.Plan.Steps {
		s := &j.Plan.Steps[i]
		if n := slices.IndexFunc(s.Photos, func(p job.Photo) bool { return p.ID == id }); n >= 0 {
			return s, &s.Photos[n]
		}
	}
	return nil, nil
}

// photos are the photos chosen for a job's report, scaled to print size. Photos removed since are left out.
func (x *Reports) photos(ctx context.Context, jobID string, j *job.Job) (list []report.Photo, err error) {
	if j.Head.Report == nil {
		return nil, nil
	}
	for _, id := range j.Head.Report.Photos {
		step, _ := photoOf(j, id)
		if step == nil {
			continue
		}
		_, data, err := x.store.Photo(ctx, jobID, id)
		if errors.Is(err, store.ErrNotFound) {
			continue
		}
		if err != nil {
			return nil, err
		}
		img, _, err := image.Decode(bytes.NewReader(data))
		if err != nil {
			return nil, fmt.Errorf("photo %s: %w", id, err)
		}
		var out bytes.Buffer
		if err := jpeg.Encode(&out, bench.Shrunk(img, photoSide, photoSide), &jpeg.Options{Quality: 80}); err != nil {
			return nil, err
		}
		list = append(list, report.Photo{Caption: step.Text, Data: out.Bytes()})
	}
	return list, nil
}
