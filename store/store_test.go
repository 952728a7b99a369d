package store

import (
	"errors"
	"fmt"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/go-json-experiment/json/jsontext"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

func open(t *testing.T) (*Store, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "a bench's # file?.db")
	s, err := Open(path)
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s, path
}

func visit(number, customer string) *job.Job {
	return &job.Job{
		Head:      job.Head{Number: number, Opened: time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC), Reason: "slow", Customer: job.Customer{Name: customer}},
		Computers: []job.Computer{{ID: "c", Maker: "Larkfield"}},
		Drives:    []job.Drive{{ID: "d", Kind: job.HDD, Maker: "Halden", Unknown: jsontext.Value(`{"colour":"red"}`)}},
		Tests:     []job.Test{{ID: "t", Kind: job.Timed, Name: "Start", Unit: "s", Better: job.Lower}},
		Setups:    []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d"}},
		Sittings:  []job.Sitting{{ID: "s", Setup: "then"}},
		Runs:      []job.Run{{ID: "r1", Test: "t", Sitting: "s", Value: 9, Phases: map[string]float64{}}},
	}
}

func TestAJobComesBackAsItWas(t *testing.T) {
	s, path := open(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("2026-0001", "Ilse")))
	first, err := s.Job(ctx, "A")
	require.NoError(t, err)
	require.NoError(t, s.Close())
	again, err := Open(path) // migrations run a second time
	require.NoError(t, err)
	defer again.Close()
	second, err := again.Job(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, first, second)
	assert.Equal(t, "Ilse", second.Head.Customer.Name)
	assert.JSONEq(t, `{"colour":"red"}`, string(second.Drives[0].Unknown), "members that nobody knows survive")
	found, err := again.Integrity(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
	_, err = again.Job(ctx, "B")
	assert.ErrorIs(t, err, ErrNotFound)
}

func TestTheDatabaseIsSetUpForCare(t *testing.T) {
	s, _ := open(t)
	for pragma, want := range map[string]string{"journal_mode": "wal", "foreign_keys": "1", "synchronous": "2"} {
		var got string
		require.NoError(t, s.db.Raw("PRAGMA "+pragma).Scan(&got).Error)
		assert.Equal(t, want, got, pragma)
	}
	err := s.db.Exec(`INSERT INTO runs (job_id, id, position, body, test_id, sitting_id) VALUES ('x', 'x', 0, '{}', 'x', 'x')`).Error
	assert.Error(t, err, "a run of no job")
}

func TestUpdateIsWholeOrNothing(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ilse")))
	refuse := errors.New("no")
	tests := []struct {
		name   string
		change func(*job.Job) error
		wrong  string
	}{
		{"the change objects", func(j *job.Job) error { j.Head.Reason = "x"; return refuse }, "no"},
		{"the job would contradict itself", func(j *job.Job) error { j.Head.Reason = "x"; j.Setups[0].Drive = "gone"; return nil }, "contradict"},
		{"a run would be lost", func(j *job.Job) error { j.Head.Reason = "x"; j.Runs = nil; return nil }, "set aside, not deleted"},
	}
	for _, tt := range tests {
		_, err := s.Update(ctx, "A", tt.change)
		require.ErrorContains(t, err, tt.wrong, tt.name)
		j, err := s.Job(ctx, "A")
		require.NoError(t, err)
		assert.Equal(t, "slow", j.Head.Reason, tt.name)
		assert.Len(t, j.Runs, 1, tt.name)
	}
	_, err := s.Update(ctx, "B", func(*job.Job) error { return nil })
	assert.ErrorIs(t, err, ErrNotFound)
	_, err = s.Update(ctx, "A", func(j *job.Job) error {
		j.Tests = append([]job.Test{{ID: "new", Kind: job.Note, Name: "Noise"}}, j.Tests...)
		j.Runs[0].SetAside = &job.SetAside{Reason: "door"}
		return nil
	})
	require.NoError(t, err)
	j, err := s.Job(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, "new", j.Tests[0].ID, "order is kept")
	assert.Equal(t, "door", j.Runs[0].SetAside.Reason)
}

func TestUpdatesAtOnceLoseNothing(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ilse")))
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			_, err := s.Update(ctx, "A", func(j *job.Job) error {
				j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint("w", i), Test: "t", Sitting: "s", Value: 1})
				return nil
			})
			assert.NoError(t, err)
		})
	}
	wg.Wait()
	j, err := s.Job(ctx, "A")
	require.NoError(t, err)
	assert.Len(t, j.Runs, 21)
}

func TestSearch(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	done := visit("2026-0003", "Österberg & Söhne")
	done.Head.Gates = []job.Gate{{Name: job.GateHandedBack}}
	require.NoError(t, s.Add(ctx, "A", visit("2026-0001", "Ilse Varga")))
	require.NoError(t, s.Add(ctx, "B", visit("2026-0002", "100 % Coffee")))
	require.NoError(t, s.Add(ctx, "C", done))
	tests := []struct {
		state string
		words []string
		want  []string
	}{
		{AllJobs, nil, []string{"C", "B", "A"}},
		{OpenJobs, nil, []string{"B", "A"}},
		{FinishedJobs, nil, []string{"C"}},
		{AllJobs, []string{"varga"}, []string{"A"}},
		{AllJobs, []string{"HALDEN", "ilse"}, []string{"A"}},
		{AllJobs, []string{"öster"}, []string{"C"}},
		{AllJobs, []string{"%"}, []string{"B"}},
		{AllJobs, []string{"_"}, nil},
		{AllJobs, []string{"2026-0002"}, []string{"B"}},
		{AllJobs, []string{"'; DROP TABLE jobs; --"}, nil},
	}
	for _, tt := range tests {
		found, total, err := s.Search(ctx, tt.state, tt.words, 0)
		require.NoError(t, err)
		assert.Equal(t, len(found), total)
		var ids []string
		for _, e := range found {
			ids = append(ids, e.ID)
		}
		assert.Equal(t, tt.want, ids, "%s %v", tt.state, tt.words)
	}
	few, total, err := s.Search(ctx, AllJobs, nil, 2)
	require.NoError(t, err)
	assert.Len(t, few, 2)
	assert.Equal(t, 3, total)
	assert.Equal(t, int64(1), few[0].Revision)
	_, err = s.Update(ctx, few[0].ID, func(*job.Job) error { return nil })
	require.NoError(t, err)
	again, _, err := s.Search(ctx, AllJobs, nil, 1)
	require.NoError(t, err)
	assert.Equal(t, int64(2), again[0].Revision, "a change is seen")
	jobs, err := s.Jobs(ctx, []string{"A", "C", "nobody"})
	require.NoError(t, err)
	assert.Len(t, jobs, 2)
	numbers, err := s.Numbers(ctx, "2026-")
	require.NoError(t, err)
	assert.Len(t, numbers, 3)
}

func TestTimersReportsFolders(t *testing.T) {
	s, _ := open(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ilse")))
	_, err := s.Timer(ctx, "A")
	assert.ErrorIs(t, err, ErrNotFound)
	require.NoError(t, s.SaveTimer(ctx, "A", []byte("1")))
	require.NoError(t, s.SaveTimer(ctx, "A", []byte("2")))
	body, err := s.Timer(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, "2", string(body))
	require.NoError(t, s.DropTimer(ctx, "A"))
	assert.Error(t, s.SaveTimer(ctx, "nobody", []byte("1")))

	_, err = s.LastReport(ctx, "A")
	assert.ErrorIs(t, err, ErrNotFound)
	at := time.Date(2026, 5, 1, 9, 0, 0, 5e6, time.UTC)
	for _, id := range []string{"R1", "R2"} {
		require.NoError(t, s.AddReport(ctx, Report{ID: id, JobID: "A", Issued: at, Body: []byte(id)}))
	}
	r, err := s.LastReport(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, "R2", string(r.Body))
	assert.True(t, at.Equal(r.Issued))
	assert.Error(t, s.AddReport(ctx, Report{ID: "R1", JobID: "A", Issued: at}), "an issued report is never changed")

	require.NoError(t, s.SaveTemplate(ctx, "T", []byte("1")))
	templates, err := s.Templates(ctx)
	require.NoError(t, err)
	assert.Equal(t, [][]byte{[]byte("1")}, templates)
	require.NoError(t, s.DropTemplate(ctx, "T"))
	assert.ErrorIs(t, s.DropTemplate(ctx, "T"), ErrNotFound)
	require.NoError(t, s.AddPhoto(ctx, "P", "A", "image/png", []byte{1, 2}))
	kind, body, err := s.Photo(ctx, "A", "P")
	require.NoError(t, err)
	assert.Equal(t, "image/png", kind)
	assert.Equal(t, []byte{1, 2}, body)
	_, _, err = s.Photo(ctx, "B", "P")
	assert.ErrorIs(t, err, ErrNotFound, "of another job")

	require.NoError(t, s.NoteFolder(ctx, "/x"))
	require.NoError(t, s.NoteFolder(ctx, "/x"))
	dirs, err := s.Folders(ctx)
	require.NoError(t, err)
	assert.Equal(t, []string{"/x"}, dirs)
	require.NoError(t, s.ForgetFolder(ctx, "/x"))
}

func TestAForeignFileIsRefused(t *testing.T) {
	_, err := Open(filepath.Join(t.TempDir(), "no", "such", "folder", "x.db"))
	assert.Error(t, err)
}
