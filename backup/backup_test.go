package backup

import (
	"archive/zip"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"testing/synctest"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
	"nowthen/store"
)

// folder is a data folder with some jobs and a clip.
func folder(t *testing.T) (*store.Store, string) {
	t.Helper()
	dir := t.TempDir()
	s, err := store.Open(filepath.Join(dir, Database), store.Options{Migrate: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	for i := range 3 {
		require.NoError(t, s.Add(t.Context(), fmt.Sprint("J", i),
			&job.Job{Head: job.Head{Number: fmt.Sprintf("2026-%04d", i+1)}}))
	}
	require.NoError(t, os.MkdirAll(filepath.Join(dir, Clips), 0o700))
	require.NoError(t, os.WriteFile(filepath.Join(dir, Clips, "01ABC.clip"), []byte(strings.Repeat("film", 1000)),
		0o600))
	return s, dir
}

// A backup made while others write is a consistent snapshot.
func TestThereAndBack(t *testing.T) {
	s, dir := folder(t)
	ctx, stop := context.WithCancel(t.Context())
	var busy sync.WaitGroup
	busy.Go(func() {
		for i := 0; ctx.Err() == nil && i < 400; i++ {
			err := s.SaveSetting(ctx, "noise", fmt.Sprint(i))
			assert.True(t, err == nil || ctx.Err() != nil, "%v", err)
		}
	})
	out := filepath.Join(t.TempDir(), "all.zip")
	m, err := Write(t.Context(), s, dir, out, true)
	require.NoError(t, err)
	stop()
	busy.Wait()
	require.Len(t, m.Files, 2)
	info, err := os.Stat(out)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm())

	to := filepath.Join(t.TempDir(), "new")
	got, err := Restore(t.Context(), out, to)
	require.NoError(t, err)
	assert.Equal(t, m.Files, got.Files)
	again, err := store.Open(filepath.Join(to, Database), store.Options{})
	require.NoError(t, err)
	defer again.Close()
	_, total, _, err := again.Search(t.Context(), store.Search{State: store.AllJobs})
	require.NoError(t, err)
	assert.Equal(t, 3, total)
	film, err := os.ReadFile(filepath.Join(to, Clips, "01ABC.clip"))
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("film", 1000), string(film))

	_, err = Restore(t.Context(), out, to)
	assert.ErrorIs(t, err, ErrNotEmpty)
}

// rewritten is a backup in which one file was changed.
func rewritten(t *testing.T, from string, change func(name string, data []byte) (string, []byte)) string {
	t.Helper()
	z, err := zip.OpenReader(from)
	require.NoError(t, err)
	defer z.Close()
	out := filepath.Join(t.TempDir(), "changed.zip")
	f, err := os.Create(out)
	require.NoError(t, err)
	w := zip.NewWriter(f)
	for _, e := range z.File {
		r, err := e.Open()
		require.NoError(t, err)
		data, err := io.ReadAll(r)
		require.NoError(t, err)
		name, data := change(e.Name, data)
		if name == "" {
			continue
		}
		to, err := w.Create(name)
		require.NoError(t, err)
		_, err = to.Write(data)
		require.NoError(t, err)
	}
	require.NoError(t, errors.Join(w.Close(), f.Close()))
	return out
}

func TestWhatIsWrongIsRefused(t *testing.T) {
	s, dir := folder(t)
	good := filepath.Join(t.TempDir(), "good.zip")
	_, err := Write(t.Context(), s, dir, good, true)
	require.NoError(t, err)
	replace := func(in, old, new string) func(string, []byte) (string, []byte) {
		return func(name string, data []byte) (string, []byte) {
			if name == in {
				data = []byte(strings.Replace(string(data), old, new, 1))
			}
			return name, data
		}
	}
	tests := []struct {
		name   string
		change func(string, []byte) (string, []byte)
		want   error
	}{
		{"a clip that was changed", replace("clips/01ABC.clip", "film", "fllm"), ErrDamaged},
		{"a database that was changed", replace(Database, "2026-0001", "2026-9991"), ErrDamaged},
		{"no manifest", func(n string, d []byte) (string, []byte) { return strings.Replace(n, manifest, "", 1), d },
			ErrDamaged},
		{"a clip that is missing",
			func(n string, d []byte) (string, []byte) {
				return strings.Replace(n, "clips/01ABC.clip", "", 1),
					d
			}, ErrDamaged},
		{"a later version", replace(manifest, `"version": 1`, `"version": 2`), ErrNewer},
		{"a later schema", replace(manifest, store.Version(), "9999-later"), ErrNewer},
		{"another format", replace(manifest, Format, "something-else"), ErrDamaged},
		{"a name that leads out of the folder", replace(manifest, "clips/01ABC.clip", "../../01ABC.clip"), ErrDamaged},
	}
	for _, tt := range tests {
		t.Run(tt.name, func(t *testing.T) {
			to := filepath.Join(t.TempDir(), "new")
			_, err := Restore(t.Context(), rewritten(t, good, tt.change), to)
			require.ErrorIs(t, err, tt.want)
			entries, err := os.ReadDir(to)
			assert.True(t, err != nil || len(entries) == 0, "nothing is left: %v", entries)
		})
	}
	cut := filepath.Join(t.TempDir(), "cut.zip")
	data, err := os.ReadFile(good)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(cut, data[:len(data)/2], 0o600))
	_, err = Restore(t.Context(), cut, filepath.Join(t.TempDir(), "new"))
	assert.ErrorIs(t, err, ErrDamaged)
}

func TestDaily(t *testing.T) {
	s, dir := folder(t)
	room := int64(100e9)
	d := &Daily{DB: s, Data: dir, Log: slog.New(slog.DiscardHandler),
		Free: func(string) (int64, error) { return room, nil }}
	day := time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)
	for i := range 10 {
		require.NoError(t, d.Make(t.Context(), day.AddDate(0, 0, i)))
		require.NoError(t, d.Make(t.Context(), day.AddDate(0, 0, i)), "once a day")
	}
	state, err := d.State()
	require.NoError(t, err)
	require.Len(t, state.Copies, kept)
	assert.Equal(t, "nowthen-2026-03-10.zip", state.Copies[0].Name)
	assert.Equal(t, "nowthen-2026-03-04.zip", state.Copies[6].Name)
	_, err = Restore(t.Context(), filepath.Join(dir, Folder, state.Copies[0].Name), filepath.Join(t.TempDir(), "new"))
	require.NoError(t, err)

	room = 1e9
	assert.ErrorContains(t, d.Make(t.Context(), day.AddDate(0, 1, 0)), "too little room")
	state, err = d.State()
	require.NoError(t, err)
	assert.Contains(t, state.Problem, "too little room")
	assert.Len(t, state.Copies, kept, "none was given up for it")
}

// While this computer measures, no copy is made and the state says so; afterwards one is made.
func TestDailyWaitsWhileThisComputerMeasures(t *testing.T) {
	s, dir := folder(t)
	synctest.Test(t, func(t *testing.T) {
		var busy atomic.Bool
		busy.Store(true)
		made := make(chan struct{}, 1)
		d := &Daily{DB: s, Data: dir, Log: slog.New(slog.DiscardHandler), Busy: busy.Load,
			Free: func(string) (int64, error) {
				made <- struct{}{}
				return 0, nil // which refuses it: how it is made is tried elsewhere
			}}
		ctx, stop := context.WithCancel(t.Context())
		ended := make(chan struct{})
		go func() { d.Run(ctx); close(ended) }()
		time.Sleep(10 * time.Minute)
		synctest.Wait()
		state, err := d.State()
		require.NoError(t, err)
		assert.True(t, state.Waiting)
		assert.Empty(t, made)
		busy.Store(false)
		time.Sleep(2 * time.Minute)
		synctest.Wait()
		assert.Len(t, made, 1)
		state, err = d.State()
		require.NoError(t, err)
		assert.False(t, state.Waiting)
		stop()
		<-ended
	})
}

// spoil makes a job of a data folder unreadable.
func spoil(t *testing.T, dir, job string) {
	t.Helper()
	raw, err := sql.Open("sqlite", filepath.Join(dir, Database))
	require.NoError(t, err)
	_, err = raw.ExecContext(t.Context(), "UPDATE jobs SET body = 'xx' WHERE id = ?", job)
	require.NoError(t, errors.Join(err, raw.Close()))
}

// A backup names unreadable jobs, and doesn't replace one in which they are intact.
func TestAGoodBackupIsNotReplacedByDamage(t *testing.T) {
	s, dir := folder(t)
	out := filepath.Join(t.TempDir(), "all.zip")
	_, err := Write(t.Context(), s, dir, out, true)
	require.NoError(t, err)
	good, err := os.ReadFile(out)
	require.NoError(t, err)
	spoil(t, dir, "J1")
	_, err = Write(t.Context(), s, dir, out, true)
	require.ErrorIs(t, err, ErrWorse)
	assert.ErrorContains(t, err, "2026-0002")
	now, err := os.ReadFile(out)
	require.NoError(t, err)
	assert.Equal(t, good, now)

	other := filepath.Join(t.TempDir(), "other.zip")
	for range 2 { // what is as damaged as before may be replaced
		m, err := Write(t.Context(), s, dir, other, true)
		require.NoError(t, err)
		require.Len(t, m.Damaged, 1)
		assert.Equal(t, "2026-0002", m.Damaged[0].Number)
	}
	spoil(t, dir, "J2")
	_, err = Write(t.Context(), s, dir, other, true)
	assert.ErrorIs(t, err, ErrWorse)
}

// A backup that is interrupted, or finds no room, leaves the earlier one and nothing else.
func TestAnInterruptedBackup(t *testing.T) {
	s, dir := folder(t)
	to := t.TempDir()
	out := filepath.Join(to, "all.zip")
	_, err := Write(t.Context(), s, dir, out, true)
	require.NoError(t, err)
	good, err := os.ReadFile(out)
	require.NoError(t, err)
	ctx, stop := context.WithCancel(t.Context())
	stop()
	for name, try := range map[string]func() error{
		"it is stopped": func() error { _, err := Write(ctx, s, dir, out, true); return err },
		"a clip is no file": func() error {
			_, err := Write(t.Context(), s, spoiledClips(t, dir), out, true)
			return err
		},
		"restore is stopped": func() error {
			_, err := Restore(ctx, out, filepath.Join(to, "new"))
			return err
		},
	} {
		t.Run(name, func(t *testing.T) {
			require.Error(t, try())
			now, err := os.ReadFile(out)
			require.NoError(t, err)
			assert.Equal(t, good, now)
			entries, err := os.ReadDir(to)
			require.NoError(t, err)
			assert.Len(t, entries, 1, "%v", entries)
		})
	}
}

// spoiledClips is a data folder in which a clip cannot be read.
func spoiledClips(t *testing.T, dir string) string {
	t.Helper()
	data := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(data, Clips, "01BAD.clip"), 0o700)) // a folder in its place
	require.NoError(t, os.Link(filepath.Join(dir, Database), filepath.Join(data, Database)))
	return data
}

// The newest good copy is kept beyond seven days if every later copy is damaged.
func TestDailyKeepsTheNewestGoodCopy(t *testing.T) {
	s, dir := folder(t)
	d := &Daily{DB: s, Data: dir, Log: slog.New(slog.DiscardHandler),
		Free: func(string) (int64, error) { return 100e9, nil }}
	day := time.Date(2026, 3, 1, 8, 0, 0, 0, time.UTC)
	require.NoError(t, d.Make(t.Context(), day))
	require.NoError(t, d.Make(t.Context(), day.AddDate(0, 0, 1)))
	spoil(t, dir, "J0")
	for i := range 9 {
		var damaged *DamagedJobs
		require.ErrorAs(t, d.Make(t.Context(), day.AddDate(0, 0, 2+i)), &damaged)
		require.ErrorAs(t, d.Make(t.Context(), day.AddDate(0, 0, 2+i)), &damaged, "made, and told again")
	}
	state, err := d.State()
	require.NoError(t, err)
	require.Len(t, state.Copies, kept+1)
	assert.Equal(t, "nowthen-2026-03-02.zip", state.Good)
	assert.Equal(t, "nowthen-2026-03-02.zip", state.Copies[kept].Name)
	assert.Equal(t, []string{"2026-0001"}, state.Copies[0].Damaged)
	assert.Contains(t, d.HowToRestore(), "nowthen-2026-03-02.zip")
	assert.Contains(t, state.Problem, "2026-0001")
	m, err := Restore(t.Context(), filepath.Join(dir, Folder, state.Good), filepath.Join(t.TempDir(), "new"))
	require.NoError(t, err)
	assert.Empty(t, m.Damaged)

	require.NoError(t, os.WriteFile(filepath.Join(dir, Folder, "nowthen-2026-03-12.zip"), []byte("PK cut off"), 0o600))
	state, err = d.State()
	require.NoError(t, err)
	assert.Equal(t, []string{"all"}, state.Copies[0].Damaged, "what cannot be read is no backup")
}
