// Package evidence keeps photos of the work, clips of starts with their frame-by-frame marks,
// and stills of those marks.
//
// It must not import HTTP, screens or other use cases.
package evidence

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/go-json-experiment/json"

	"nowthen/bench"
	"nowthen/core/job"
	"nowthen/core/stopwatch"
	"nowthen/machine"
	"nowthen/store"
)

// Store is the part of the store that evidence uses.
type Store interface {
	Clip(ctx context.Context, jobID, id string) ([]byte, error)
	Clips(ctx context.Context, jobID string) ([]store.StoredClip, error)
	Photo(ctx context.Context, jobID, id string) (kind string, body []byte, err error)
	Photos(ctx context.Context, jobID string) ([]store.PhotoInfo, error)
	MediaTaken(ctx context.Context, id string) (bool, error)
}

// Evidence keeps clips and photos.
type Evidence struct {
	jobs    *bench.Jobs
	store   Store
	dir     string     // of the clips; "" where none are kept
	clips   sync.Mutex // one change of a clip at a time
	drawing chan struct{}
}

// New returns the evidence of a bench. Clips are kept in a folder; "" accepts none.
func New(jobs *bench.Jobs, s Store, clips string) *Evidence {
	return &Evidence{jobs: jobs, store: s, dir: clips, drawing: make(chan struct{}, drawing)}
}

// Recover deletes clips whose time is up.
func (x *Evidence) Recover(ctx context.Context) error { return x.sweepClips(ctx) }

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
	// KeepUntil is when the clip is deleted automatically; nil keeps it. The stills of
	// its marks stay.
	KeepUntil *time.Time `json:"keep_until"`
	Gone      bool       `json:"gone"` // deleted
	// Missing: its file isn't on this bench, as after restoring a daily backup, which contains no clips.
	Missing bool `json:"missing"`
}

// Clips are a job's clips and the space they take.
type Clips struct {
	Clips     []Clip `json:"clips"`
	JobBytes  int64  `json:"job_bytes"`
	ShopBytes int64  `json:"shop_bytes"`
}

func clipName(id string) string { return id + ".clip" }

func (x *Evidence) clipPath(id string) string { return filepath.Join(x.dir, clipName(id)) }

// saveClip stores a clip's record and notifies the listeners.
func (x *Evidence) saveClip(ctx context.Context, ch *bench.Change, jobID string, c *Clip) error {
	body, err := json.Marshal(c)
	if err != nil {
		return err
	}
	err = x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Made("jobs/" + jobID + "/clips/" + c.ID)
		ch.Answer(c)
		return ch.Tx.SaveClip(ctx, c.ID, jobID, body)
	})
	if err == nil && (c.Received == 0 || c.Received == c.Bytes || c.Gone) {
		x.jobs.Tell(bench.Event{Type: bench.ClipsEvent, Job: jobID})
	}
	return err
}

// Clip returns a clip of a job.
func (x *Evidence) Clip(ctx context.Context, jobID, id string) (*Clip, error) {
	body, err := x.store.Clip(ctx, jobID, id)
	if err != nil {
		return nil, bench.Found(err)
	}
	return x.read(body)
}

// read reads a clip's record and checks how many of its bytes are on disk. An unfinished upload resumes from
// there.
func (x *Evidence) read(body []byte) (*Clip, error) {
	c := &Clip{}
	if err := json.Unmarshal(body, c); err != nil {
		return nil, err
	}
	c.Missing = false
	if c.Gone || x.dir == "" {
		return c, nil
	}
	there := int64(0)
	if info, err := os.Stat(x.clipPath(c.ID)); err == nil {
		there = info.Size()
	} else if !errors.Is(err, fs.ErrNotExist) {
		return nil, err
	}
	if c.Received < c.Bytes {
		c.Received = min(c.Received, there)
	} else {
		c.Missing = there < c.Bytes
	}
	return c, nil
}

// ClipsOf returns a job's clips and how much space clips take.
func (x *Evidence) ClipsOf(ctx context.Context, jobID string) (*Clips, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	if err := x.sweepClips(ctx); err != nil {
		return nil, err
	}
	all, err := x.store.Clips(ctx, "")
	if err != nil {
		return nil, err
	}
	out := &Clips{Clips: []Clip{}}
	for _, s := range all {
		c, err := x.read(s.Body)
		if err != nil {
			return nil, err
		}
		room := c.Received
		if c.Gone || c.Missing {
			room = 0
		}
		out.ShopBytes += room
		if s.Job == jobID {
			out.JobBytes += room
			out.Clips = append(out.Clips, *c)
		}
	}
	return out, nil
}

// NewClip describes a clip before its bytes come.
type NewClip struct {
	Name  string `json:"name"`
	Type  string `json:"type"`
	Bytes int64  `json:"bytes"`
}

// OpenClip begins an upload. If a clip of the same name and size is incomplete, its upload is resumed.
func (x *Evidence) OpenClip(ctx context.Context, ch *bench.Change, jobID string, in NewClip) (*Clip, error) {
	x.clips.Lock()
	defer x.clips.Unlock()
	f := bench.Fields{}
	in.Name = firstRunes(strings.TrimSpace(in.Name), 100)
	f.Check(in.Name != "", "name", "Give the video a name.")
	f.Check(slices.Contains(clipTypes, in.Type), "type", "Videos must be MP4, WebM or MOV.")
	f.Check(in.Bytes > 0, "bytes", "The video is empty.")
	f.Check(in.Bytes <= MaxClipBytes, "bytes", "A video can be up to 2 GB.")
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	if x.dir == "" {
		return nil, bench.Refuse(bench.Conflict, "This bench keeps no videos.")
	}
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	have, err := x.store.Clips(ctx, jobID)
	if err != nil {
		return nil, err
	}
	for _, s := range have {
		if c, err := x.read(s.Body); err == nil && c.Name == in.Name && c.Bytes == in.Bytes && !c.Gone {
			if c.Missing { // the same clip brings its bytes back
				c.Received = 0
				return c, x.saveClip(ctx, ch, jobID, c)
			}
			if c.Received < c.Bytes {
				return c, nil
			}
		}
	}
	if err := os.MkdirAll(x.dir, 0o700); err != nil {
		return nil, err
	}
	if free, err := machine.Free(x.dir); err != nil {
		return nil, err
	} else if free-in.Bytes < clipKeepFree {
		c := bench.Refuse(bench.Conflict,
			"There is no room for a video of %d MB. %d MB are free, and 2 GB must stay free.", in.Bytes/1e6, free/1e6)
		c.Do = "Delete videos you no longer need; the stills of their marks are kept."
		return nil, c
	}
	c := &Clip{ID: bench.NewID(), Name: in.Name, Type: in.Type, Bytes: in.Bytes, At: x.jobs.Now()}
	if err := os.WriteFile(x.clipPath(c.ID), nil, 0o600); err != nil {
		return nil, err
	}
	return c, x.saveClip(ctx, ch, jobID, c)
}

// AppendClip adds a piece at an offset, which must be where the last one ended. An interrupted upload resumes
// from Received.
func (x *Evidence) AppendClip(ctx context.Context, ch *bench.Change, jobID, id string, offset int64,
	piece []byte) (*Clip, error) {
	x.clips.Lock()
	defer x.clips.Unlock()
	c, err := x.Clip(ctx, jobID, id)
	if err != nil {
		return nil, err
	}
	switch {
	case c.Gone:
		return nil, bench.Refuse(bench.Conflict, "The video %s was deleted.", c.Name)
	case offset < c.Received && x.has(c, offset, piece):
		return c, nil // its acknowledgement was lost
	case offset != c.Received:
		r := bench.Refuse(bench.Conflict, "The video has %d bytes so far. A piece can’t start at byte %d.", c.Received,
			offset)
		r.Kept, r.Do = "The part that arrived is kept.", "Continue from there."
		return nil, r
	case len(piece) == 0 || len(piece) > MaxPieceBytes || offset+int64(len(piece)) > c.Bytes:
		return nil, bench.Refuse(bench.Invalid, "A piece is at most %d MiB and can’t go beyond the end of the video.",
			MaxPieceBytes>>20)
	case offset == 0 && !looksLikeClip(piece):
		r := bench.Refuse(bench.Invalid, "%s isn’t a video that this bench can play.", c.Name)
		r.Do = "Use the original MP4, WebM or MOV file."
		return nil, errors.Join(x.removeClip(ctx, ch, jobID, c), r)
	}
	f, err := os.OpenFile(x.clipPath(id), os.O_WRONLY|os.O_CREATE, 0o600)
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
	return c, x.saveClip(ctx, ch, jobID, c)
}

// has reports whether a piece is already part of a clip.
func (x *Evidence) has(c *Clip, offset int64, piece []byte) bool {
	if offset < 0 || offset+int64(len(piece)) > c.Received {
		return false
	}
	f, err := os.Open(x.clipPath(c.ID))
	if err != nil {
		return false
	}
	defer f.Close()
	there := make([]byte, len(piece))
	_, err = f.ReadAt(there, offset)
	return err == nil && bytes.Equal(there, piece)
}

// looksLikeClip tells a WebM or an MP4 or MOV by its first bytes.
func looksLikeClip(b []byte) bool {
	return bytes.HasPrefix(b, []byte{0x1a, 0x45, 0xdf, 0xa3}) || len(b) > 8 && string(b[4:8]) == "ftyp"
}

// ClipFile returns the folder, file name and type of a completely uploaded clip.
func (x *Evidence) ClipFile(ctx context.Context, jobID, id string) (dir fs.FS, name, kind string, err error) {
	c, err := x.Clip(ctx, jobID, id)
	if err != nil {
		return nil, "", "", err
	}
	if c.Missing {
		return nil, "", "", &bench.Refusal{Kind: bench.Missing,
			Message: "The file of the clip “" + c.Name +
				"” isn't on this bench.", Kept: "Its runs, marks and stills are kept.",
			Do: "Upload the same clip again, or restore a backup that holds clips."}
	}
	if c.Gone || c.Received < c.Bytes {
		return nil, "", "", bench.Refuse(bench.Missing, "The video %s isn’t completely uploaded.", c.Name)
	}
	return os.DirFS(x.dir), clipName(c.ID), c.Type, nil
}

// KeepClip sets until when a clip is kept; nil keeps it permanently.
func (x *Evidence) KeepClip(ctx context.Context, ch *bench.Change, jobID, id string, until *time.Time) (*Clips, error) {
	x.clips.Lock()
	c, err := x.Clip(ctx, jobID, id)
	if err == nil {
		c.KeepUntil = until
		err = x.saveClip(ctx, ch, jobID, c)
	}
	x.clips.Unlock()
	if err != nil {
		return nil, err
	}
	return x.ClipsOf(ctx, jobID)
}

// DropClip deletes a clip's bytes. The marks and their stills stay.
func (x *Evidence) DropClip(ctx context.Context, ch *bench.Change, jobID, id string) (*Clips, error) {
	x.clips.Lock()
	c, err := x.Clip(ctx, jobID, id)
	if err == nil {
		err = x.removeClip(ctx, ch, jobID, c)
	}
	x.clips.Unlock()
	if err != nil {
		return nil, err
	}
	return x.ClipsOf(ctx, jobID)
}

// WithoutClips deletes a job through drop, and then its clips from the disk. If drop fails, the clips stay.
func (x *Evidence) WithoutClips(ctx context.Context, jobID string, drop func() error) error {
	x.clips.Lock()
	defer x.clips.Unlock()
	all, err := x.store.Clips(ctx, jobID)
	if err != nil {
		return err
	}
	if err := drop(); err != nil {
		return err
	}
	for _, s := range all {
		var c Clip
		if err := json.Unmarshal(s.Body, &c); err != nil {
			continue // damaged: nobody knows which file is its
		}
		if err := os.Remove(x.clipPath(c.ID)); err != nil && !errors.Is(err, os.ErrNotExist) {
			return err
		}
	}
	return nil
}

func (x *Evidence) removeClip(ctx context.Context, ch *bench.Change, jobID string, c *Clip) error {
	if err := os.Remove(x.clipPath(c.ID)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	c.Gone = true
	return x.saveClip(ctx, ch, jobID, c)
}

// sweepClips deletes clips whose time is up.
func (x *Evidence) sweepClips(ctx context.Context) error {
	if x.dir == "" {
		return nil
	}
	x.clips.Lock()
	defer x.clips.Unlock()
	all, err := x.store.Clips(ctx, "")
	if err != nil {
		return err
	}
	for _, s := range all {
		var c Clip
		if err := json.Unmarshal(s.Body, &c); err != nil {
			continue // damaged: nobody knows until when it is kept
		}
		if c.KeepUntil != nil && !c.Gone && c.KeepUntil.Before(x.jobs.Now()) {
			if err := x.removeClip(ctx, nil, s.Job, &c); err != nil {
				return err
			}
		}
	}
	return nil
}

// Still is the stored picture of a mark.
type Still struct {
	ID string `json:"id"`
}

// AddStill stores a picture of a mark and returns its id.
func (x *Evidence) AddStill(ctx context.Context, ch *bench.Change, jobID string, data []byte) (*Still, error) {
	if _, err := x.jobs.Load(ctx, jobID); err != nil {
		return nil, err
	}
	kind, picture, err := x.redraw(ctx, data)
	if err != nil {
		return nil, bench.Because(bench.Invalid, err)
	}
	id := bench.NewID()
	return &Still{id}, x.jobs.Write(ctx, ch, func(ch *bench.Change) error {
		ch.Made("jobs/" + jobID + "/photos/" + id)
		ch.Answer(Still{id})
		return ch.Tx.AddPhoto(ctx, id, jobID, kind, picture)
	})
}

// Mark is a frame of a clip: its time, how long the previous frame was shown before it (s), and its still.
type Mark struct {
	AtS    float64 `json:"at_s"`
	FrameS float64 `json:"frame_s"`
	Still  string  `json:"still"`
}

// Marking is a run that was marked on a clip: the start, the splits and the end.
type Marking struct {
	bench.RunFacts
	Test    string `json:"test"`
	Sitting string `json:"sitting"`
	Marks   []Mark `json:"marks"`
	By      string `json:"by"`
}

// longestFrame is the longest time one frame may be shown, s. A clip that froze for longer can't be used for
// timing there.
const longestFrame = 2

// TimeByVideo makes a run from marks on a clip. Values and uncertainty come from the frames' own times.
func (x *Evidence) TimeByVideo(ctx context.Context, ch *bench.Change, jobID, clipID string,
	in Marking) (*bench.View, error) {
	f := bench.Fields{}
	f.Input("", in.RunFacts)
	if err := f.Refusal(); err != nil {
		return nil, err
	}
	c, err := x.Clip(ctx, jobID, clipID)
	if err != nil {
		return nil, err
	}
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		t := j.Test(in.Test)
		if t == nil {
			return bench.NoSuch("test", in.Test)
		}
		r, err := markedRun(t, in)
		if err != nil {
			return bench.Because(bench.Invalid, err)
		}
		r.Video.Clip, r.Video.Name, r.Sitting, r.By = c.ID, c.Name, in.Sitting, strings.TrimSpace(in.By)
		return bench.AddRun(j, *r, x.jobs.Now())
	})
}

// markedRun computes a run from marks.
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
			return nil, fmt.Errorf("at mark %d one frame lasts %.3g s; the clip says nothing of the time there", i+1,
				m.FrameS)
		case i > 0 && m.AtS <= in.Marks[i-1].AtS:
			return nil, fmt.Errorf("mark %d is not after the one before it", i+1)
		}
	}
	var frames []float64
	for i, enters := range stopwatch.Entering(t.Counting()) {
		if enters {
			frames = append(frames, in.Marks[i].FrameS)
		}
	}
	u := stopwatch.ByVideo(frames...)
	r := &job.Run{Test: t.ID, Method: job.Video, U: &u, Video: &job.Marked{}}
	in.Onto(r)
	for _, m := range in.Marks {
		r.Video.Marks = append(r.Video.Marks, job.VideoMark(m))
	}
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
