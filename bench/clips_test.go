package bench

import (
	"bytes"
	"image"
	"image/png"
	"os"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/catalogue"
	"nowthen/core/job"
)

func clipBench(t *testing.T) (*Bench, string, string) {
	t.Helper()
	dir := here(t)
	b, _ := newBench(t, Options{Clips: dir})
	return b, realJob(t, b, 1), dir
}

func TestAClipArrivesInPieces(t *testing.T) {
	b, id, _ := clipBench(t)
	ctx := t.Context()
	data, err := demoClips.ReadFile("democlips/now.webm")
	require.NoError(t, err)
	c, err := b.OpenClip(ctx, id, NewClip{Name: "phone.webm", Type: "video/webm", Bytes: int64(len(data))})
	require.NoError(t, err)
	_, _, err = b.ClipFile(ctx, id, c.ID)
	refusal(t, err, Missing)
	half := int64(len(data) / 2)
	c, err = b.AppendClip(ctx, id, c.ID, 0, data[:half])
	require.NoError(t, err)
	assert.Equal(t, half, c.Received)
	_, err = b.AppendClip(ctx, id, c.ID, 0, data[:half])
	assert.Contains(t, refusal(t, err, Conflict).Message, "so far", "a piece that was there already")
	// The upload broke off; the same clip is gone on with.
	again, err := b.OpenClip(ctx, id, NewClip{Name: "phone.webm", Type: "video/webm", Bytes: int64(len(data))})
	require.NoError(t, err)
	assert.Equal(t, c.ID, again.ID)
	assert.Equal(t, half, again.Received)
	_, err = b.AppendClip(ctx, id, c.ID, half, append(bytes.Clone(data[half:]), 0))
	refusal(t, err, Invalid)
	_, err = b.AppendClip(ctx, id, c.ID, half, data[half:])
	require.NoError(t, err)
	path, kind, err := b.ClipFile(ctx, id, c.ID)
	require.NoError(t, err)
	assert.Equal(t, "video/webm", kind)
	stored, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, data, stored)
	list, err := b.ClipsOf(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, int64(len(data)), list.JobBytes)

	for name, in := range map[string]NewClip{"no name": {Type: "video/mp4", Bytes: 5}, "a picture": {Name: "x", Type: "image/png", Bytes: 5}, "too large": {Name: "x", Type: "video/mp4", Bytes: MaxClipBytes + 1}, "nothing": {Name: "x", Type: "video/mp4"}} {
		_, err := b.OpenClip(ctx, id, in)
		refusal(t, err, Invalid)
		assert.Error(t, err, name)
	}
	text, err := b.OpenClip(ctx, id, NewClip{Name: "letter.mp4", Type: "video/mp4", Bytes: 10})
	require.NoError(t, err)
	_, err = b.AppendClip(ctx, id, text.ID, 0, []byte("dear sirs "))
	assert.Contains(t, refusal(t, err, Invalid).Message, "no video")
	none, _ := newBench(t, Options{})
	_, err = none.OpenClip(ctx, id, NewClip{Name: "x", Type: "video/mp4", Bytes: 10})
	refusal(t, err, Conflict)
}

// Marks on the made-up clips give the values that are known, with the uncertainty
// of the frames.
func TestMarksGiveTheKnownValues(t *testing.T) {
	b, id, dir := clipBench(t)
	ctx := t.Context()
	_, err := b.AddTest(ctx, id, job.Test{ID: "t-launch"})
	require.NoError(t, err)
	known, err := KnownClips()
	require.NoError(t, err)
	require.Len(t, known, 2)
	for i, k := range known {
		data, err := demoClips.ReadFile("democlips/" + k.Name + ".webm")
		require.NoError(t, err)
		c, err := b.OpenClip(ctx, id, NewClip{Name: k.Name, Type: "video/webm", Bytes: int64(len(data))})
		require.NoError(t, err)
		_, err = b.AppendClip(ctx, id, c.ID, 0, data)
		require.NoError(t, err)
		v, err := b.TimeByVideo(ctx, id, c.ID, Marking{Test: "t-launch", Sitting: "s1", Marks: []job.VideoMark{k.Mark(k.StartMS), k.Mark(k.EndMS)}, Keeping: Keeping{AppVersion: "4"}})
		require.NoError(t, err)
		r := v.Job.Runs[i]
		assert.InDelta(t, float64(k.EndMS-k.StartMS)/1000, r.Value, 1e-6)
		assert.Equal(t, job.Video, r.Method)
		assert.Less(t, *r.U, 0.04)
		assert.Equal(t, c.ID, r.Video.Clip)
	}
	list, err := b.ClipsOf(ctx, id)
	require.NoError(t, err)
	clip := list.Clips[0]

	mark := func(at, frame float64) job.VideoMark { return job.VideoMark{AtS: at, FrameS: frame} }
	for name, marks := range map[string][]job.VideoMark{
		"one mark": {mark(1, .03)}, "three": {mark(1, .03), mark(2, .03), mark(3, .03)}, "backwards": {mark(2, .03), mark(1, .03)},
		"the same frame": {mark(2, .03), mark(2, .03)}, "no frame": {mark(1, 0), mark(2, .03)}, "a frozen clip": {mark(1, .03), mark(20, 9)}, "before it": {mark(-1, .03), mark(2, .03)},
	} {
		_, err := b.TimeByVideo(ctx, id, clip.ID, Marking{Test: "t-launch", Sitting: "s1", Marks: marks})
		refusal(t, err, Invalid)
		assert.Error(t, err, name)
	}
	_, err = b.TimeByVideo(ctx, id, clip.ID, Marking{Test: catalogue.LongRead, Sitting: "s1", Marks: []job.VideoMark{mark(1, .03), mark(2, .03)}})
	refusal(t, err, Invalid)
	v, err := b.TimeByVideo(ctx, id, clip.ID, Marking{Test: catalogue.ColdStart, Sitting: "s1", Marks: []job.VideoMark{mark(1, .03), mark(2, .03), mark(4, .03), mark(8.5, .03)}})
	require.NoError(t, err)
	start := v.Job.Runs[2]
	assert.InDelta(t, 5.5, start.Value, 1e-9, "typing does not count")
	assert.InDelta(t, 2, start.Phases["typing"], 1e-9)

	// A still stays when the clip is deleted.
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 32, 18))))
	still, err := b.AddStill(ctx, id, picture.Bytes())
	require.NoError(t, err)
	_, err = b.AddStill(ctx, id, []byte("no picture"))
	refusal(t, err, Invalid)
	list, err = b.DropClip(ctx, id, clip.ID)
	require.NoError(t, err)
	assert.True(t, list.Clips[0].Gone)
	kind, _, err := b.Photo(ctx, id, still)
	require.NoError(t, err)
	assert.Equal(t, "image/png", kind)

	// One that was to be kept until now is deleted by itself.
	past := b.now().Add(-time.Minute)
	list, err = b.KeepClip(ctx, id, list.Clips[1].ID, &past)
	require.NoError(t, err)
	assert.True(t, list.Clips[1].Gone)
	assert.Zero(t, list.ShopBytes)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}
