package evidence

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/durable"
	"nowthen/store"
)

// Media is a picture or a clip of a job as it travels between benches.
type Media struct {
	ID    string `json:"id"`
	Clip  bool   `json:"clip,omitzero"` // else a picture
	Type  string `json:"type"`
	Name  string `json:"name,omitzero"` // of a clip
	Bytes int64  `json:"bytes"`
	// At is when a clip was uploaded; KeepUntil is until when it is kept, nil for permanently.
	At        time.Time  `json:"at,omitzero"`
	KeepUntil *time.Time `json:"keep_until,omitzero"`
}

// MediaOf returns the pictures and complete clips of a job that are on this bench.
func (x *Evidence) MediaOf(ctx context.Context, jobID string) ([]Media, error) {
	photos, err := x.store.Photos(ctx, jobID)
	if err != nil {
		return nil, err
	}
	list := make([]Media, 0, len(photos))
	for _, p := range photos {
		list = append(list, Media{ID: p.ID, Type: p.Type, Bytes: p.Bytes})
	}
	clips, err := x.store.Clips(ctx, jobID)
	if err != nil {
		return nil, err
	}
	for _, s := range clips {
		c, err := x.read(s.Body)
		if err != nil {
			return nil, err
		}
		if !c.Gone && !c.Missing && c.Received == c.Bytes {
			list = append(list, Media{ID: c.ID, Clip: true, Type: c.Type, Name: c.Name, Bytes: c.Bytes, At: c.At,
				KeepUntil: c.KeepUntil})
		}
	}
	return list, nil
}

// Open opens a picture or clip of a job.
func (x *Evidence) Open(ctx context.Context, jobID string, m Media) (io.ReadCloser, error) {
	if m.Clip {
		return os.Open(x.clipPath(m.ID))
	}
	_, data, err := x.store.Photo(ctx, jobID, m.ID)
	return io.NopCloser(bytes.NewReader(data)), err
}

// Picture is a picture that came with a job, re-encoded like every picture from outside.
type Picture struct {
	kind string
	data []byte
}

// ReceivePhoto reads a picture that came with a job.
func (x *Evidence) ReceivePhoto(ctx context.Context, from io.Reader) (p Picture, err error) {
	data, err := io.ReadAll(io.LimitReader(from, MaxPhotoBytes+1))
	if err == nil {
		p.kind, p.data, err = x.redraw(ctx, data)
	}
	return p, err
}

// AdoptPhoto stores a picture under a free id, within a change.
func (x *Evidence) AdoptPhoto(ctx context.Context, ch *bench.Change, jobID, id string, p Picture) error {
	return ch.Tx.AddPhoto(ctx, id, jobID, p.kind, p.data)
}

// ReceiveClip writes a clip that came with a job to disk, under a free id. [Evidence.AdoptClip] registers it;
// otherwise [Evidence.DropBytes] removes its bytes.
func (x *Evidence) ReceiveClip(m Media, from io.Reader) error {
	if x.dir == "" {
		return bench.Refuse(bench.Conflict, "This bench keeps no videos.")
	}
	if err := os.MkdirAll(x.dir, 0o700); err != nil {
		return err
	}
	return durable.File(x.clipPath(m.ID), func(part string) error {
		f, err := os.OpenFile(part, os.O_WRONLY, 0)
		if err != nil {
			return err
		}
		n, err := io.Copy(f, io.LimitReader(from, MaxClipBytes+1))
		if err := errors.Join(err, f.Close()); err != nil {
			return err
		}
		head := make([]byte, 16)
		if f, err = os.Open(part); err != nil {
			return err
		}
		k, _ := io.ReadFull(f, head)
		_ = f.Close()
		if n > MaxClipBytes || n != m.Bytes || !looksLikeClip(head[:k]) {
			return fmt.Errorf("the clip %s is not what it is said to be", m.Name)
		}
		return nil
	})
}

// DropBytes removes the bytes of a clip that wasn't adopted.
func (x *Evidence) DropBytes(id string) error {
	err := os.Remove(x.clipPath(id))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// AdoptClip registers a received clip, within a change.
func (x *Evidence) AdoptClip(ctx context.Context, ch *bench.Change, jobID string, m Media) error {
	c := Clip{ID: m.ID, Name: firstRunes(m.Name, 100), Type: m.Type, Bytes: m.Bytes, Received: m.Bytes, At: m.At,
		KeepUntil: m.KeepUntil}
	body, err := json.Marshal(&c)
	if err != nil {
		return err
	}
	return ch.Tx.SaveClip(ctx, c.ID, jobID, body)
}

// Taken reports whether an id is in use by a picture or by another job's clip. The job's own clip with a
// missing file gets it back.
func (x *Evidence) Taken(ctx context.Context, jobID, id string) (bool, error) {
	if _, err := x.store.Clip(ctx, jobID, id); err == nil {
		return false, nil
	}
	return x.store.MediaTaken(ctx, id)
}

// Dir is the folder of the clips, "" if there is none.
func (x *Evidence) Dir() string { return x.dir }

var _ Store = (*store.Store)(nil)
