package transfer_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"image"
	"image/png"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/bench"
	"nowthen/bench/demo"
	"nowthen/bench/desk"
	"nowthen/bench/desktest"
	"nowthen/bench/evidence"
	"nowthen/bench/reporting"
	"nowthen/bench/transfer"
	"nowthen/core/job"
	"nowthen/core/jobfile"
)

// shop is a bench that keeps clips.
func shop(t *testing.T) *desk.Desk {
	t.Helper()
	b, _ := desktest.New(t, desk.Options{Clips: t.TempDir()})
	return b
}

// photographed is a job with a photo that was chosen for its report, and a clip.
func photographed(t *testing.T, b *desk.Desk) (id string, clip []byte) {
	t.Helper()
	ctx := t.Context()
	id = desktest.Real(t, b, 1)
	v, err := b.Jobs.View(ctx, id)
	require.NoError(t, err)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	_, err = b.Evidence.AddPhoto(ctx, nil, id, evidence.Pictured{Step: v.Job.Plan.Steps[0].ID}, "inside",
		picture.Bytes())
	require.NoError(t, err)
	clip, err = demo.Files.ReadFile("clips/now.webm")
	require.NoError(t, err)
	c, err := b.Evidence.OpenClip(ctx, nil, id,
		evidence.NewClip{Name: "phone.webm", Type: "video/webm", Bytes: int64(len(clip))})
	require.NoError(t, err)
	_, err = b.Evidence.AppendClip(ctx, nil, id, c.ID, 0, clip)
	require.NoError(t, err)
	_, err = b.Jobs.Change(ctx, nil, id, func(j *job.Job) error {
		j.Head.Report = &job.ReportDraft{Photos: []string{j.Plan.Steps[0].Photos[0].ID}}
		j.Runs = append(j.Runs,
			job.Run{ID: "r1", Test: j.Tests[0].ID, Sitting: "s1", Value: 9, Method: job.Video,
				Video: &job.Marked{Clip: c.ID, Name: "phone.webm"}})
		return nil
	})
	require.NoError(t, err)
	return id, clip
}

// zipped exports a job with its media into a file.
func zipped(t *testing.T, b *desk.Desk, id string) string {
	t.Helper()
	z, err := b.Files.ExportZip(t.Context(), id)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "job.zip")
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, z.Write(t.Context(), f))
	require.NoError(t, f.Close())
	return path
}

// shows tells that a job's photo and clip are there under the ids that it names.
func shows(t *testing.T, b *desk.Desk, v *bench.View, clip []byte) {
	t.Helper()
	photo := v.Job.Plan.Steps[0].Photos[0].ID
	assert.Equal(t, photo, v.Job.Head.Report.Photos[0])
	kind, _, err := b.Evidence.Photo(t.Context(), v.ID, photo)
	require.NoError(t, err)
	assert.Equal(t, "image/png", kind)
	dir, name, _, err := b.Evidence.ClipFile(t.Context(), v.ID, v.Job.Run("r1").Video.Clip)
	require.NoError(t, err)
	data, err := fs.ReadFile(dir, name)
	require.NoError(t, err)
	assert.Equal(t, clip, data)
}

func TestAJobTravelsWithItsPhotosAndClips(t *testing.T) {
	here, there := shop(t), shop(t)
	id, clip := photographed(t, here)
	file := zipped(t, here, id)
	v, err := there.Files.ImportFile(t.Context(), nil, "job.zip", file, transfer.AsNew)
	require.NoError(t, err)
	shows(t, there, v, clip)

	// Where it is already, a copy has pictures of its own, and an update keeps those that are there.
	_, err = here.Files.ImportFile(t.Context(), nil, "job.zip", file, transfer.AsNew)
	r := desktest.Refusal(t, err, bench.Conflict)
	require.NotNil(t, r.Already)
	assert.Equal(t, id, r.Already.Job)
	c, err := here.Files.ImportFile(t.Context(), nil, "job.zip", file, transfer.AsCopy)
	require.NoError(t, err)
	assert.NotEqual(t, id, c.ID)
	assert.NotEqual(t, r.Already.Number, c.Job.Head.Number)
	shows(t, here, c, clip)
	u, err := here.Files.ImportFile(t.Context(), nil, "job.zip", file, transfer.AsUpdate)
	require.NoError(t, err)
	assert.Equal(t, id, u.ID)
	assert.Equal(t, 1, u.Imported.Already)
	assert.Empty(t, u.Imported.Added)
	assert.Empty(t, u.Imported.Differences)
	shows(t, here, u, clip)
}

// A job that came without its pictures gets them by an update.
func TestPicturesComeLater(t *testing.T) {
	here, there := shop(t), shop(t)
	id, clip := photographed(t, here)
	_, bare, err := here.Files.Export(t.Context(), id)
	require.NoError(t, err)
	v, err := there.Files.Import(t.Context(), nil, "x", bare, transfer.AsNew)
	require.NoError(t, err)
	photo := v.Job.Plan.Steps[0].Photos[0].ID
	_, err = there.Reports.Choose(t.Context(), nil, v.ID, reporting.Draft{Photos: []string{photo}})
	assert.Contains(t, desktest.Refusal(t, err, bench.Invalid).Fields, "photos",
		"a report chooses no picture that is not there")
	v, err = there.Files.ImportFile(t.Context(), nil, "job.zip", zipped(t, here, id), transfer.AsUpdate)
	require.NoError(t, err)
	shows(t, there, v, clip)
	_, err = there.Reports.Choose(t.Context(), nil, v.ID, reporting.Draft{Photos: []string{photo}})
	require.NoError(t, err)
}

// The same file twice makes one job, whoever is first.
func TestTheSameFileTwiceAtOnce(t *testing.T) {
	here, there := shop(t), shop(t)
	id, _ := photographed(t, here)
	_, file, err := here.Files.Export(t.Context(), id)
	require.NoError(t, err)
	errs := make(chan error, 8)
	for range cap(errs) {
		go func() {
			_, err := there.Files.Import(t.Context(), nil, "x", file, transfer.AsNew)
			errs <- err
		}()
	}
	refused := 0
	for range cap(errs) {
		if err := <-errs; err != nil {
			desktest.Refusal(t, err, bench.Conflict)
			refused++
		}
	}
	assert.Equal(t, cap(errs)-1, refused)
	assert.Len(t, desktest.Cards(t, there, "all", ""), 1)
}

// Nothing of a zip that cannot be imported whole is kept.
func TestZipsThatAreRefused(t *testing.T) {
	here := shop(t)
	id, _ := photographed(t, here)
	whole := zipped(t, here, id)
	change := func(f func(name string, data []byte) (string, []byte)) []byte {
		z, err := zip.OpenReader(whole)
		require.NoError(t, err)
		defer z.Close()
		var out bytes.Buffer
		w := zip.NewWriter(&out)
		for _, e := range z.File {
			data, err := fs.ReadFile(z, e.Name)
			require.NoError(t, err)
			name, data := f(e.Name, data)
			if name == "" {
				continue
			}
			to, err := w.Create(name)
			require.NoError(t, err)
			_, err = to.Write(data)
			require.NoError(t, err)
		}
		require.NoError(t, w.Close())
		return out.Bytes()
	}
	media := func(name string) bool { return strings.HasPrefix(name, "media/") }
	raw, err := os.ReadFile(whole)
	require.NoError(t, err)
	for name, data := range map[string][]byte{
		"cut off": raw[:len(raw)/2],
		"no job in it": change(func(n string, d []byte) (string, []byte) {
			return strings.TrimPrefix(n, "job.nowthen.json"), d
		}),
		"a job that is none": change(func(n string, d []byte) (string, []byte) {
			return n, bytes.Replace(d, []byte("nowthen-job"), []byte("other"), 1)
		}),
		"a picture that is a page": change(func(n string, d []byte) (string, []byte) {
			if media(n) {
				return n, []byte("<script>alert(1)</script>")
			}
			return n, d
		}),
		"a list that is none": change(func(n string, d []byte) (string, []byte) {
			if n == "media.json" {
				return n, []byte("[1]")
			}
			return n, d
		}),
		"not a zip": []byte("PK not a zip"), "empty": {},
	} {
		t.Run(name, func(t *testing.T) {
			there := shop(t)
			file := filepath.Join(t.TempDir(), "x.zip")
			require.NoError(t, os.WriteFile(file, data, 0o600))
			_, err := there.Files.ImportFile(t.Context(), nil, "x.zip", file, transfer.AsNew)
			desktest.Refusal(t, err, bench.Invalid)
			assert.Empty(t, desktest.Cards(t, there, "all", ""))
			left, err := filepath.Glob(filepath.Join(there.Evidence.Dir(), "*"))
			require.NoError(t, err)
			assert.Empty(t, left)
		})
	}
	outside := change(func(n string, d []byte) (string, []byte) {
		return strings.Replace(n, "media/", "media/../../", 1), d
	})
	file := filepath.Join(t.TempDir(), "x.zip")
	require.NoError(t, os.WriteFile(file, outside, 0o600))
	there := shop(t)
	_, err = there.Files.ImportFile(t.Context(), nil, "x.zip", file, transfer.AsNew)
	require.NoError(t, err, "the job is taken, and what leads elsewhere is not")
	left, err := filepath.Glob(filepath.Join(there.Evidence.Dir(), "*"))
	require.NoError(t, err)
	assert.Empty(t, left)
}

// What a bench exports a bench imports, however many runs it has; in make test with one in a hundred of
// them.
func TestWhatIsExportedIsImported(t *testing.T) {
	runs := 4_800
	if os.Getenv("NOWTHEN_ALL") != "" {
		runs = 480_000
	}
	var b strings.Builder
	b.WriteString(`{"format":"nowthen-job","version":1,"job":{"number":"N-1"},"computers":[{"id":"c"}],"drives":[{"id":"d","kind":"hdd"}],"plan":{},
		"tests":[{"id":"t","kind":"timed","what":"x","name":"Start","unit":"s","better":"lower"}],"setups":[{"id":"then","role":"then","computer":"c","drive":"d","system":{"origin":"as-arrived"}}],
		"sittings":[{"id":"s","setup":"then","started":"2026-11-03T10:00:00Z","conditions":{}}],"runs":[`)
	for i := range runs {
		if i > 0 {
			b.WriteByte(',')
		}
		fmt.Fprintf(&b, `{"id":"r%d","test":"t","sitting":"s","at":"2026-11-03T10:00:00Z","value":9,"method":"typed"}`, i)
	}
	b.WriteString(`]}`)
	here, there := shop(t), shop(t)
	v, err := here.Files.Import(t.Context(), nil, "x", []byte(b.String()), transfer.AsNew)
	require.NoError(t, err)
	_, out, err := here.Files.Export(t.Context(), v.ID)
	require.NoError(t, err)
	assert.Less(t, len(out), jobfile.MaxBytes)
	w, err := there.Files.Import(t.Context(), nil, "x", out, transfer.AsNew)
	require.NoError(t, err)
	assert.Len(t, w.Job.Runs, runs)
}
