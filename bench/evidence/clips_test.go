package evidence_test

import (
	"bytes"
	"image"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/demo"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/evidence"
	"nowthen/bench/planning"
	"nowthen/core/catalogue"
	"nowthen/core/job"
)

func clipBench(t *testing.T) (*desk.Desk, string, string) {
	t.Helper()
	dir := desktest.Here(t)
	b, _ := desktest.New(t, desk.Options{Clips: dir})
	return b, desktest.Real(t, b, 1), dir
}

func TestAClipArrivesInPieces(t *testing.T) {
	b, id, _ := clipBench(t)
	ctx := t.Context()
	data, err := demo.Files.ReadFile("clips/now.webm")
	require.NoError(t, err)
	c, err := b.Evidence.OpenClip(ctx, nil, id,
		evidence.NewClip{Name: "phone.webm", Type: "video/webm", Bytes: int64(len(data))})
	require.NoError(t, err)
	_, _, _, err = b.Evidence.ClipFile(ctx, id, c.ID)
	desktest.Refusal(t, err, bench.Missing)
	half := int64(len(data) / 2)
	c, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, 0, data[:half])
	require.NoError(t, err)
	assert.Equal(t, half, c.Received)
	_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, 0, data[:half])
	require.NoError(t, err, "a piece that was there already: its acknowledgement was lost")
	_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, 0, data[1:half])
	assert.Contains(t, desktest.Refusal(t, err, bench.Conflict).Message, "so far", "another piece in its place")
	// The upload was interrupted; the same clip is resumed.
	again, err := b.Evidence.OpenClip(ctx, nil, id,
		evidence.NewClip{Name: "phone.webm", Type: "video/webm", Bytes: int64(len(data))})
	require.NoError(t, err)
	assert.Equal(t, c.ID, again.ID)
	assert.Equal(t, half, again.Received)
	_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, half, append(bytes.Clone(data[half:]), 0))
	desktest.Refusal(t, err, bench.Invalid)
	_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, half, data[half:])
	require.NoError(t, err)
	dir, name, kind, err := b.Evidence.ClipFile(ctx, id, c.ID)
	require.NoError(t, err)
	assert.Equal(t, "video/webm", kind)
	stored, err := fs.ReadFile(dir, name)
	require.NoError(t, err)
	assert.Equal(t, data, stored)
	list, err := b.Evidence.ClipsOf(ctx, id)
	require.NoError(t, err)
	assert.Equal(t, int64(len(data)), list.JobBytes)

	for name, in := range map[string]evidence.NewClip{"no name": {Type: "video/mp4", Bytes: 5},
		"a picture": {Name: "x", Type: "image/png", Bytes: 5}, "too large": {Name: "x", Type: "video/mp4",
			Bytes: evidence.MaxClipBytes + 1}, "nothing": {Name: "x", Type: "video/mp4"}} {
		_, err := b.Evidence.OpenClip(ctx, nil, id, in)
		desktest.Refusal(t, err, bench.Invalid)
		assert.Error(t, err, name)
	}
	text, err := b.Evidence.OpenClip(ctx, nil, id, evidence.NewClip{Name: "letter.mp4", Type: "video/mp4", Bytes: 10})
	require.NoError(t, err)
	_, err = b.Evidence.AppendClip(ctx, nil, id, text.ID, 0, []byte("dear sirs "))
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Message, "isn’t a video")
	none, _ := desktest.New(t, desk.Options{})
	_, err = none.Evidence.OpenClip(ctx, nil, id, evidence.NewClip{Name: "x", Type: "video/mp4", Bytes: 10})
	desktest.Refusal(t, err, bench.Conflict)
}

// Marks on the made-up clips give the values that are known, with the uncertainty
// of the frames.
func TestMarksGiveTheKnownValues(t *testing.T) {
	b, id, dir := clipBench(t)
	ctx := t.Context()
	_, err := b.Plans.AddTest(ctx, nil, id, planning.NewTest{ID: "t-launch"})
	require.NoError(t, err)
	known, err := demo.KnownClips()
	require.NoError(t, err)
	require.Len(t, known, 2)
	for i, k := range known {
		data, err := demo.Files.ReadFile("clips/" + k.Name + ".webm")
		require.NoError(t, err)
		c, err := b.Evidence.OpenClip(ctx, nil, id,
			evidence.NewClip{Name: k.Name, Type: "video/webm", Bytes: int64(len(data))})
		require.NoError(t, err)
		_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, 0, data)
		require.NoError(t, err)
		v, err := b.Evidence.TimeByVideo(ctx, nil, id, c.ID,
			evidence.Marking{Test: "t-launch", Sitting: "s1",
				Marks: []evidence.Mark{k.Mark(k.StartMS), k.Mark(k.EndMS)}, RunFacts: bench.RunFacts{AppVersion: "4"}})
		require.NoError(t, err)
		r := v.Job.Runs[i]
		assert.InDelta(t, float64(k.EndMS-k.StartMS)/1000, r.Value, 1e-6)
		assert.Equal(t, job.Video, r.Method)
		assert.Less(t, *r.U, 0.04)
		assert.Equal(t, c.ID, r.Video.Clip)
	}
	list, err := b.Evidence.ClipsOf(ctx, id)
	require.NoError(t, err)
	clip := list.Clips[0]

	mark := func(at, frame float64) evidence.Mark { return evidence.Mark{AtS: at, FrameS: frame} }
	for name, marks := range map[string][]evidence.Mark{
		"one mark": {mark(1, .03)}, "three": {mark(1, .03), mark(2, .03), mark(3, .03)}, "backwards": {mark(2, .03),
			mark(1, .03)},
		"the same frame": {mark(2, .03), mark(2, .03)}, "no frame": {mark(1, 0),
			mark(2, .03)}, "a frozen clip": {mark(1, .03), mark(20, 9)}, "before it": {mark(-1, .03), mark(2, .03)},
	} {
		_, err := b.Evidence.TimeByVideo(ctx, nil, id, clip.ID,
			evidence.Marking{Test: "t-launch", Sitting: "s1", Marks: marks})
		desktest.Refusal(t, err, bench.Invalid)
		assert.Error(t, err, name)
	}
	_, err = b.Evidence.TimeByVideo(ctx, nil, id, clip.ID,
		evidence.Marking{Test: catalogue.LongRead, Sitting: "s1", Marks: []evidence.Mark{mark(1, .03), mark(2, .03)}})
	desktest.Refusal(t, err, bench.Invalid)
	v, err := b.Evidence.TimeByVideo(ctx, nil, id, clip.ID,
		evidence.Marking{Test: catalogue.ColdStart, Sitting: "s1",
			Marks: []evidence.Mark{mark(1, .03), mark(2, .03), mark(4, .03), mark(8.5, .03)}})
	require.NoError(t, err)
	start := v.Job.Runs[2]
	assert.InDelta(t, 5.5, start.Value, 1e-9, "typing does not count")
	assert.InDelta(t, 2, start.Phases["typing"], 1e-9)

	// A still stays when the clip is deleted.
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 32, 18))))
	still, err := b.Evidence.AddStill(ctx, nil, id, picture.Bytes())
	require.NoError(t, err)
	_, err = b.Evidence.AddStill(ctx, nil, id, []byte("no picture"))
	desktest.Refusal(t, err, bench.Invalid)
	list, err = b.Evidence.DropClip(ctx, nil, id, clip.ID)
	require.NoError(t, err)
	assert.True(t, list.Clips[0].Gone)
	kind, _, err := b.Evidence.Photo(ctx, id, still.ID)
	require.NoError(t, err)
	assert.Equal(t, "image/png", kind)

	// A clip whose time is up is deleted automatically.
	past := b.Jobs.Now().Add(-time.Minute)
	list, err = b.Evidence.KeepClip(ctx, nil, id, list.Clips[1].ID, &past)
	require.NoError(t, err)
	assert.True(t, list.Clips[1].Gone)
	assert.Zero(t, list.ShopBytes)
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Empty(t, left)
}

// A daily backup holds no clips. After it was restored each clip says that its file is missing, an
// upload that had broken off begins again, and the same clip brings its bytes back.
func TestClipsWithoutTheirFiles(t *testing.T) {
	b, id, dir := clipBench(t)
	ctx := t.Context()
	data, err := demo.Files.ReadFile("clips/now.webm")
	require.NoError(t, err)
	upload := func(name string, n int) *evidence.Clip {
		t.Helper()
		c, err := b.Evidence.OpenClip(ctx, nil, id,
			evidence.NewClip{Name: name, Type: "video/webm", Bytes: int64(len(data))})
		require.NoError(t, err)
		c, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, c.Received, data[c.Received:n])
		require.NoError(t, err)
		return c
	}
	whole, half := upload("whole.webm", len(data)), upload("half.webm", len(data)/2)
	cut := upload("cut.webm", len(data)/2)
	require.NoError(t, os.Remove(filepath.Join(dir, whole.ID+".clip")))
	require.NoError(t, os.Remove(filepath.Join(dir, half.ID+".clip")))
	require.NoError(t, os.Truncate(filepath.Join(dir, cut.ID+".clip"), 10))

	list, err := b.Evidence.ClipsOf(ctx, id)
	require.NoError(t, err)
	require.Len(t, list.Clips, 3)
	assert.True(t, list.Clips[0].Missing)
	assert.False(t, list.Clips[1].Missing, "it had not arrived")
	assert.Zero(t, list.Clips[1].Received)
	assert.EqualValues(t, 10, list.Clips[2].Received)
	assert.EqualValues(t, 10, list.JobBytes)
	_, _, _, err = b.Evidence.ClipFile(ctx, id, whole.ID)
	assert.Contains(t, desktest.Refusal(t, err, bench.Missing).Do, "Upload the same clip again")
	for _, c := range []*evidence.Clip{whole, half, cut} {
		again := upload(c.Name, len(data))
		assert.Equal(t, c.ID, again.ID, "the marks on it stay its own")
		fsys, name, _, err := b.Evidence.ClipFile(ctx, id, c.ID)
		require.NoError(t, err, c.Name)
		stored, err := fs.ReadFile(fsys, name)
		require.NoError(t, err)
		assert.Equal(t, data, stored)
	}
}
