package bench

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/core/job"
	"nowthen/core/stopwatch"
	"nowthen/machine"
)

// Bounds of a clip.
const (
	MaxClipBytes  = 2 << 30
	MaxPieceBytes = 16 << 20 // of one upload
	clipKeepFree  = 2e9      // bytes that stay free where clips are kept
)

// clipTypes are the types that browsers play.
var clipTypes = []string{"video/mp4", "video/webm", "video/quicktime"}

// Clip is a video from a phone or a capture, on which runs are marked.
type Clip struct {
	ID       string    `json:"id"`
	Name     string    `json:"name"`
	Type     string    `json:"type"`
	Bytes    int64     `json:"bytes"`
	Received int64     `json:"received"` // so far; all of it where the upload has ended
	At       time.Time `json:"at"`
	// KeepUntil is when the clip is deleted by itself; nil keeps it. The stills of
	// its marks stay.
	KeepUntil *time.Time `json:"keep_until"`
	Gone      bool       `json:"gone"` // deleted
}

// Clips are a job's clips and the room they take.
type Clips struct {
	Clips     []Clip `json:"clips"`
	JobBytes  int64  `json:"job_bytes"`
	ShopBytes int64  `json:"shop_bytes"`
}

func (b *Bench) clipPath(id string) string { return filepath.Join(b.clipDir, id+".clip") }

func (b *Bench) saveClip(ctx context.Context, jobID string, c *Clip) error {
	body, err := json.Marshal(c)
	if err != nil {
		return err
	}
	return b.store.SaveClip(ctx, c.ID, jobID, body)
}

func (b *Bench) clip(ctx context.Context, jobID, id string) (*Clip, error) {
	body, err := b.store.Clip(ctx, jobID, id)
	if err != nil {
		return nil, wrap(err)
	}
	c := &Clip{}
	return c, json.Unmarshal(body, c)
}

// ClipsOf returns a job's clips and how much room clips take.
func (b *Bench) ClipsOf(ctx context.Context, jobID string) (*Clips, error) {
	if err := b.sweepClips(ctx); err != nil {
		return nil, err
	}
	all, err := b.store.Clips(ctx, "")
	if err != nil {
		return nil, err
	}
	out := &Clips{Clips: []Clip{}}
	for _, s := range all {
		var c Clip
		if err := json.Unmarshal(s.Body, &c); err != nil {
			return nil, err
		}
		room := c.Received
		if c.Gone {
			room = 0
		}
		out.ShopBytes += room
		if s.Job == jobID {
			out.JobBytes += room
			out.Clips = append(out.Clips, c)
		}
	}
	return out, nil
}

// NewClip is what is said of a clip before its bytes come.
type NewClip struct {
	Name  string `json:"name"`
	Type  string `json:"type"`
	Bytes int64  `json:"bytes"`
}

// OpenClip makes room for a clip. A clip of the same name and size that has not
// arrived whole is gone on with.
func (b *Bench) OpenClip(ctx context.Context, jobID string, in NewClip) (*Clip, error) {
	b.clips.Lock()
	defer b.clips.Unlock()
	f := fields{}
	in.Name = firstRunes(strings.TrimSpace(in.Name), 100)
	f.check(in.Name != "", "name", "Give the clip a name.")
	f.check(slices.Contains(clipTypes, in.Type), "type", "A clip is MP4, WebM or MOV.")
	f.check(in.Bytes > 0, "bytes", "The clip is empty.")
	f.check(in.Bytes <= MaxClipBytes, "bytes", "A clip has up to 2 GB.")
	if err := f.refusal(); err != nil {
		return nil, err
	}
	if b.clipDir == "" {
		return nil, conflict("This bench keeps no clips.")
	}
	if _, err := b.store.Job(ctx, jobID); err != nil {
		return nil, wrap(err)
	}
	have, err := b.store.Clips(ctx, jobID)
	if err != nil {
		return nil, err
	}
	for _, s := range have {
		var c Clip
		if err := json.Unmarshal(s.Body, &c); err == nil && c.Name == in.Name && c.Bytes == in.Bytes && c.Received < c.Bytes && !c.Gone {
			return &c, nil
		}
	}
	if err := os.MkdirAll(b.clipDir, 0o700); err != nil {
		return nil, err
	}
	if free, err := machine.Free(b.clipDir); err != nil {
		return nil, err
	} else if free-in.Bytes < clipKeepFree {
		c := conflict("There is no room for a clip of %d MB: %d MB are free, and 2 GB must stay free.", in.Bytes/1e6, free/1e6)
		c.Do = "Delete clips that are not needed any more; the stills of their marks stay."
		return nil, c
	}
	c := &Clip{ID: newID(), Name: in.Name, Type: in.Type, Bytes: in.Bytes, At: b.now()}
	if err := os.WriteFile(b.clipPath(c.ID), nil, 0o600); err != nil {
		return nil, err
	}
	return c, b.saveClip(ctx, jobID, c)
}

// AppendClip adds a piece at an offset, which must be where the last one ended:
// an upload that broke off goes on from Received.
func (b *Bench) AppendClip(ctx context.Context, jobID, id string, offset int64, piece []byte) (*Clip, error) {
	b.clips.Lock()
	defer b.clips.Unlock()
	c, err := b.clip(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	switch {
	case c.Gone:
		return nil, conflict("The clip %s was deleted.", c.Name)
	case offset != c.Received:
		r := conflict("The clip has %d bytes so far; a piece for byte %d does not fit.", c.Received, offset)
		r.Kept, r.Do = "What arrived is kept.", "Go on from there."
		return nil, r
	case len(piece) == 0 || len(piece) > MaxPieceBytes || offset+int64(len(piece)) > c.Bytes:
		return nil, invalid("A piece has up to %d MiB and ends with the clip.", MaxPieceBytes>>20)
	case offset == 0 && !looksLikeClip(piece):
		r := invalid("%s is no video that can be played here.", c.Name)
		r.Do = "Take an MP4, WebM or MOV as the phone or the capture made it."
		return nil, errors.Join(b.removeClip(ctx, jobID, c), r)
	}
	f, err := os.OpenFile(b.clipPath(id), os.O_WRONLY, 0)
	if err != nil {
		return nil, err
	}
	if _, err := f.WriteAt(piece, offset); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return nil, err
	}
	c.Received += int64(len(piece))
	return c, b.saveClip(ctx, jobID, c)
}

// looksLikeClip tells a WebM or an MP4 or MOV by its first bytes.
func looksLikeClip(b []byte) bool {
	return bytes.HasPrefix(b, []byte{0x1a, 0x45, 0xdf, 0xa3}) || len(b) > 8 && string(b[4:8]) == "ftyp"
}

// ClipFile returns the path and the type of a clip that has arrived whole.
func (b *Bench) ClipFile(ctx context.Context, jobID, id string) (path, kind string, err error) {
	c, err := b.clip(ctx, jobID, id)
	if err != nil {
		return "", "", err
	}
	if c.Gone || c.Received < c.Bytes {
		return "", "", missing("The clip %s is not here whole.", c.Name)
	}
	return b.clipPath(id), c.Type, nil
}

// KeepClip says until when a clip is kept; nil keeps it for good.
func (b *Bench) KeepClip(ctx context.Context, jobID, id string, until *time.Time) (*Clips, error) {
	b.clips.Lock()
	c, err := b.clip(ctx, jobID, id)
	if err == nil {
		c.KeepUntil = until
		err = b.saveClip(ctx, jobID, c)
	}
	b.clips.Unlock()
	if err != nil {
		return nil, err
	}
	return b.ClipsOf(ctx, jobID)
}

// DropClip deletes a clip's bytes. The marks and their stills stay.
func (b *Bench) DropClip(ctx context.Context, jobID, id string) (*Clips, error) {
	b.clips.Lock()
	c, err := b.clip(ctx, jobID, id)
	if err == nil {
		err = b.removeClip(ctx, jobID, c)
	}
	b.clips.Unlock()
	if err != nil {
		return nil, err
	}
	return b.ClipsOf(ctx, jobID)
}

func (b *Bench) removeClip(ctx context.Context, jobID string, c *Clip) error {
	if err := os.Remove(b.clipPath(c.ID)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	c.Gone = true
	return b.saveClip(ctx, jobID, c)
}

// sweepClips deletes clips that were to be kept until now.
func (b *Bench) sweepClips(ctx context.Context) error {
	if b.clipDir == "" {
		return nil
	}
	b.clips.Lock()
	defer b.clips.Unlock()
	all, err := b.store.Clips(ctx, "")
	if err != nil {
		return err
	}
	for _, s := range all {
		var c Clip
		if err := json.Unmarshal(s.Body, &c); err != nil {
			return err
		}
		if c.KeepUntil != nil && !c.Gone && c.KeepUntil.Before(b.now()) {
			if err := b.removeClip(ctx, s.Job, &c); err != nil {
				return err
			}
		}
	}
	return nil
}

// AddStill keeps a picture of a mark and returns its id.
func (b *Bench) AddStill(ctx context.Context, jobID string, data []byte) (string, error) {
	if _, err := b.store.Job(ctx, jobID); err != nil {
		return "", wrap(err)
	}
	kind, picture, err := redraw(data)
	if err != nil {
		return "", invalid("%s.", upperFirst(err.Error()))
	}
	id := newID()
	return id, b.store.AddPhoto(ctx, id, jobID, kind, picture)
}

// Marking is a run that was marked on a clip: the start, the splits and the end.
type Marking struct {
	Keeping
	Test    string          `json:"test"`
	Sitting string          `json:"sitting"`
	Marks   []job.VideoMark `json:"marks"`
	By      string          `json:"by"`
}

// longestFrame bounds how long one frame of a clip may be shown, s; a clip that
// stood still for longer times nothing there.
const longestFrame = 2

// TimeByVideo makes a run of marks on a clip. Values and uncertainty come from the
// frames' own times.
func (b *Bench) TimeByVideo(ctx context.Context, jobID, clipID string, in Marking) (*View, error) {
	if err := in.Keeping.check(); err != nil {
		return nil, err
	}
	c, err := b.clip(ctx, jobID, clipID)
	if err != nil {
		return nil, err
	}
	return b.update(ctx, jobID, func(j *job.Job) error {
		t := j.Test(in.Test)
		if t == nil {
			return missing("There is no test %q in this job.", in.Test)
		}
		r, err := markedRun(t, in)
		if err != nil {
			return invalid("%s.", upperFirst(err.Error()))
		}
		r.Video.Clip, r.Video.Name, r.Sitting, r.By = c.ID, c.Name, in.Sitting, strings.TrimSpace(in.By)
		return b.addRun(j, *r)
	})
}

// markedRun works marks out into a run.
func markedRun(t *job.Test, in Marking) (*job.Run, error) {
	if t.Unit != "s" {
		return nil, fmt.Errorf("%s is not timed", t.Name)
	}
	want := max(1, len(t.Phases)) + 1
	if len(in.Marks) != want {
		return nil, fmt.Errorf("%s takes %d marks, not %d", t.Name, want, len(in.Marks))
	}
	for i, m := range in.Marks {
		switch {
		case !(m.AtS >= 0) || m.AtS > 24*3600:
			return nil, fmt.Errorf("mark %d has no time on the clip", i+1)
		case !(m.FrameS > 0 && m.FrameS <= longestFrame):
			return nil, fmt.Errorf("at mark %d one frame lasts %.3g s; the clip says nothing of the time there", i+1, m.FrameS)
		case i > 0 && m.AtS <= in.Marks[i-1].AtS:
			return nil, fmt.Errorf("mark %d is not after the one before it", i+1)
		}
	}
	u := stopwatch.ByVideo(in.Marks[0].FrameS, in.Marks[want-1].FrameS)
	r := &job.Run{Test: t.ID, Method: job.Video, U: &u, Warmth: in.Warmth, StartKind: in.StartKind, AppVersion: strings.TrimSpace(in.AppVersion),
		ContentDigest: strings.TrimSpace(in.Content), SinceStart: in.SinceStart, Video: &job.Marked{Marks: in.Marks}}
	span := func(i int) float64 { return math.Round((in.Marks[i+1].AtS-in.Marks[i].AtS)*1e6) / 1e6 }
	if len(t.Phases) == 0 {
		r.Value = span(0)
		return r, nil
	}
	r.Phases = map[string]float64{}
	for i, p := range t.Phases {
		r.Phases[p.ID] = span(i)
		if p.Counted() {
			r.Value += span(i)
		}
	}
	return r, nil
}
