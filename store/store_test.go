package store

import (
	"database/sql"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/go-json-experiment/json/jsontext"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

func openNew(t *testing.T) (*Store, string) {
	t.Helper()
	path := filepath.Join(t.TempDir(), "a bench's # file?.db")
	s, err := Open(path, Options{Migrate: true})
	require.NoError(t, err)
	t.Cleanup(func() { _ = s.Close() })
	return s, path
}

// update changes a job as the bench does.
func update(t *testing.T, s *Store, id string, change func(*job.Job) error) error {
	return s.Write(t.Context(), nil, func(tx *Tx) error {
		before, _, err := tx.Job(t.Context(), id)
		if err != nil {
			return err
		}
		after := before.Clone()
		if err := change(after); err != nil {
			return err
		}
		_, err = tx.Save(t.Context(), id, before, after)
		return err
	})
}

func visit(number, customer string) *job.Job {
	return &job.Job{
		Head: job.Head{Number: number, Opened: time.Date(2026, 5, 1, 9, 0, 0, 0, time.UTC), Reason: "slow",
			Customer: job.Customer{Name: customer}},
		Computers: []job.Computer{{ID: "c", Maker: "Larkfield"}},
		Drives: []job.Drive{{ID: "d", DriveLabel: job.DriveLabel{Kind: job.HDD, Maker: "Halden"},
			Unknown: jsontext.Value(`{"colour":"red"}`)}},
		Tests:    []job.Test{{ID: "t", Kind: job.Timed, Name: "Start", Unit: "s", Better: job.Lower}},
		Setups:   []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d"}},
		Sittings: []job.Sitting{{ID: "s", Setup: "then"}},
		Runs:     []job.Run{{ID: "r1", Test: "t", Sitting: "s", Value: 9, Phases: map[string]float64{}}},
	}
}

func TestAJobComesBackAsItWas(t *testing.T) {
	s, path := openNew(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("2026-0001", "Ottilie")))
	first, _, err := s.Job(ctx, "A")
	require.NoError(t, err)
	require.NoError(t, s.Close())
	again, err := Open(path, Options{Migrate: true}) // a second time
	require.NoError(t, err)
	defer again.Close()
	second, _, err := again.Job(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, first, second)
	assert.Equal(t, "Ottilie", second.Head.Customer.Name)
	assert.JSONEq(t, `{"colour":"red"}`, string(second.Drives[0].Unknown), "members that nobody knows survive")
	found, err := again.Integrity(ctx)
	require.NoError(t, err)
	assert.Empty(t, found)
	_, _, err = again.Job(ctx, "B")
	assert.ErrorIs(t, err, ErrNotFound)
}

func TestTheDatabaseIsSetUpForCare(t *testing.T) {
	s, _ := openNew(t)
	for pragma, want := range map[string]string{"journal_mode": "wal", "foreign_keys": "1", "synchronous": "2"} {
		var got string
		require.NoError(t, s.db.Raw("PRAGMA "+pragma).Scan(&got).Error)
		assert.Equal(t, want, got, pragma)
	}
	err := s.db.Exec(`INSERT INTO runs (job_id, id, position, body, test_id, sitting_id) VALUES ('x', 'x', 0, '{}', 'x', 'x')`).Error
	assert.Error(t, err, "a run of no job")
}

func TestUpdateIsWholeOrNothing(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ottilie")))
	refuse := errors.New("no")
	tests := []struct {
		name   string
		change func(*job.Job) error
		wrong  string
	}{
		{"the change objects", func(j *job.Job) error { j.Head.Reason = "x"; return refuse }, "no"},
		{"the job would contradict itself",
			func(j *job.Job) error { j.Head.Reason = "x"; j.Setups[0].Drive = "gone"; return nil }, "contradict"},
		{"a run would be lost", func(j *job.Job) error { j.Head.Reason = "x"; j.Runs = nil; return nil },
			"set aside, not deleted"},
	}
	for _, tt := range tests {
		err := update(t, s, "A", tt.change)
		require.ErrorContains(t, err, tt.wrong, tt.name)
		j, _, err := s.Job(ctx, "A")
		require.NoError(t, err)
		assert.Equal(t, "slow", j.Head.Reason, tt.name)
		assert.Len(t, j.Runs, 1, tt.name)
	}
	err := update(t, s, "B", func(*job.Job) error { return nil })
	assert.ErrorIs(t, err, ErrNotFound)
	err = update(t, s, "A", func(j *job.Job) error {
		j.Tests = append([]job.Test{{ID: "new", Kind: job.Note, Name: "Noise"}}, j.Tests...)
		j.PutAside("r1", &job.SetAside{Reason: "door"})
		return nil
	})
	require.NoError(t, err)
	j, _, err := s.Job(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, "new", j.Tests[0].ID, "order is kept")
	assert.Equal(t, "door", j.Runs[0].SetAside.Reason)
}

func TestUpdatesAtOnceLoseNothing(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ottilie")))
	var wg sync.WaitGroup
	for i := range 20 {
		wg.Go(func() {
			err := update(t, s, "A", func(j *job.Job) error {
				j.Runs = append(j.Runs, job.Run{ID: fmt.Sprint("w", i), Test: "t", Sitting: "s", Value: 1})
				return nil
			})
			assert.NoError(t, err)
		})
	}
	wg.Wait()
	j, _, err := s.Job(ctx, "A")
	require.NoError(t, err)
	assert.Len(t, j.Runs, 21)
}

func TestSearch(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	done := visit("2026-0003", "Österberg & Söhne")
	done.Head.Gates = []job.Gate{{Name: job.GateHandedBack}}
	require.NoError(t, s.Add(ctx, "A", visit("2026-0001", "Ottilie Brandvold")))
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
		{AllJobs, []string{"brandvold"}, []string{"A"}},
		{AllJobs, []string{"HALDEN", "ottilie"}, []string{"A"}},
		{AllJobs, []string{"öster"}, []string{"C"}},
		{AllJobs, []string{"%"}, []string{"B"}},
		{AllJobs, []string{"_"}, nil},
		{AllJobs, []string{"2026-0002"}, []string{"B"}},
		{AllJobs, []string{"'; DROP TABLE jobs; --"}, nil},
	}
	for _, tt := range tests {
		found, total, _, err := s.Search(ctx, Search{State: tt.state, Words: tt.words})
		require.NoError(t, err)
		assert.Equal(t, len(found), total)
		var ids []string
		for _, e := range found {
			ids = append(ids, e.ID)
		}
		assert.Equal(t, tt.want, ids, "%s %v", tt.state, tt.words)
	}
	few, total, next, err := s.Search(ctx, Search{State: AllJobs, Limit: 2})
	require.NoError(t, err)
	assert.Len(t, few, 2)
	assert.Equal(t, 3, total)
	assert.Equal(t, int64(1), few[0].Revision)
	require.NotEmpty(t, next)
	rest, total, end, err := s.Search(ctx, Search{State: AllJobs, Limit: 2, After: next})
	require.NoError(t, err)
	require.Len(t, rest, 1)
	assert.Equal(t, "A", rest[0].ID)
	assert.Equal(t, 3, total)
	assert.Empty(t, end)
	_, _, _, err = s.Search(ctx, Search{State: AllJobs, After: "?"})
	assert.ErrorIs(t, err, ErrCursor)
	require.NoError(t, update(t, s, few[0].ID, func(*job.Job) error { return nil }))
	again, _, _, err := s.Search(ctx, Search{State: AllJobs, Limit: 1})
	require.NoError(t, err)
	assert.Equal(t, int64(2), again[0].Revision, "a change is seen")
	number, err := s.NextNumber(ctx, "2026-")
	require.NoError(t, err)
	assert.Equal(t, "2026-0004", number)
	ids, err := s.ByNumber(ctx, "2026-0002")
	require.NoError(t, err)
	assert.Equal(t, []string{"B"}, ids)
}

// An outline holds all of a job but its runs, which it counts.
func TestOutlines(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	j := visit("2026-0001", "Ottilie")
	j.Tests = append(j.Tests, job.Test{ID: "u", Kind: job.Note, Name: "Noise", Unit: "dB(A)", Better: job.Lower})
	at := time.Date(2026, 5, 2, 10, 0, 0, 0, time.UTC)
	j.Runs = append(j.Runs,
		job.Run{ID: "r2", Test: "t", Sitting: "s", Value: 8, SetAside: &job.SetAside{Reason: "door"}}, job.Run{ID: "r3",
			Test: "t", Sitting: "s", At: at, Value: 8})
	require.NoError(t, s.Add(ctx, "A", j))
	bare := visit("2026-0002", "Nobody")
	bare.Runs, bare.Sittings = nil, nil
	require.NoError(t, s.Add(ctx, "B", bare))
	list, broken, err := s.Outlines(ctx, []string{"A", "B", "nobody"})
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Empty(t, broken)
	for _, o := range list {
		whole, _, err := s.Job(ctx, o.ID)
		require.NoError(t, err)
		assert.Equal(t, whole.Counts(), o.Counts)
		whole.Runs = nil
		assert.Equal(t, whole.Head, o.Job.Head)
		assert.Equal(t, whole.Tests, o.Job.Tests)
		assert.Equal(t, whole.Drives, o.Job.Drives)
		assert.Equal(t, len(whole.Sittings), len(o.Job.Sittings))
		if o.ID == "A" {
			assert.True(t, at.Equal(o.LastRun))
		}
	}
}

// What of a run is only drawn is kept apart from it and found again.
func TestTraces(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	j := visit("1", "Ottilie")
	whole := job.Run{ID: "r2", Test: "t", Sitting: "s", Value: 8, Series: &job.Series{EveryS: 1, MBs: []float64{1, 2}},
		Latency: &job.Latency{MedianMS: 3, Spread: &job.Spread{FromMS: 1, PerDecade: 10, Counts: []int64{4}}}}
	j.Runs = append(j.Runs, whole)
	require.NoError(t, s.Add(ctx, "A", j))
	got, _, err := s.Job(ctx, "A")
	require.NoError(t, err)
	assert.Nil(t, got.Runs[1].Series)
	assert.Equal(t, 3.0, got.Runs[1].Latency.MedianMS)
	assert.Nil(t, got.Runs[1].Latency.Spread)
	traces, err := s.Traces(ctx, "A", "r2", "r1")
	require.NoError(t, err)
	require.Len(t, traces, 1)
	got.Runs[1].Join(traces["r2"])
	assert.Equal(t, whole, got.Runs[1])
	all, err := s.Traces(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, traces, all)
}

func TestTheFilesAreTheirOwners(t *testing.T) {
	path := filepath.Join(t.TempDir(), "x.db")
	require.NoError(t, os.WriteFile(path, nil, 0o644), "as an earlier version left it")
	s, err := Open(path, Options{Migrate: true})
	require.NoError(t, err)
	defer s.Close()
	require.NoError(t, s.Add(t.Context(), "A", visit("1", "Ottilie")))
	require.NoError(t, s.Copy(t.Context(), path+".copy"))
	for _, side := range []string{"", "-wal", "-shm", ".copy"} {
		info, err := os.Stat(path + side)
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), side)
	}
	require.NoError(t, s.Copy(t.Context(), path+".copy"), "a whole one takes the place of an earlier one")
	assert.NoError(t, CheckFile(t.Context(), path+".copy"))
}

// A command that is sent again is told from a new one, and nothing is done twice;
// one that was refused keeps no key.
func TestCommands(t *testing.T) {
	s, path := openNew(t)
	require.NoError(t, s.Add(t.Context(), "A", visit("1", "Ottilie")))
	do := func(s *Store, caller, route, key, sent string, fail error) error {
		return s.Write(t.Context(), NewCommand(caller, route, key, []byte(sent)), func(tx *Tx) error {
			before, _, err := tx.Job(t.Context(), "A")
			if err != nil {
				return err
			}
			after := before.Clone()
			after.Runs = append(after.Runs,
				job.Run{ID: fmt.Sprint("n", len(before.Runs)), Test: "t", Sitting: "s", Value: 1})
			if _, err := tx.Save(t.Context(), "A", before, after); err != nil {
				return err
			}
			tx.Answer(map[string]string{"said": sent})
			return fail
		})
	}
	runs := func() int {
		j, _, err := s.Job(t.Context(), "A")
		require.NoError(t, err)
		return len(j.Runs)
	}
	refused := errors.New("refused")
	require.ErrorIs(t, do(s, "", "POST /x", "k", "1", refused), refused)
	require.NoError(t, do(s, "", "POST /x", "k", "1", nil), "a refused one keeps no key")
	require.Equal(t, 2, runs())
	var again *Repeated
	require.ErrorAs(t, do(s, "", "POST /x", "k", "1", nil), &again)
	assert.Equal(t, "A", again.Job)
	assert.JSONEq(t, `{"said":"1"}`, string(again.Answer))
	require.ErrorIs(t, do(s, "", "POST /x", "k", "2", nil), ErrOtherCommand)
	assert.Equal(t, 2, runs())
	require.NoError(t, do(s, "another", "POST /x", "k", "1", nil), "another caller's key is another")
	require.NoError(t, do(s, "", "POST /y", "k", "1", nil), "on another route it is another")
	assert.Equal(t, 4, runs())
	require.NoError(t, s.Close())
	s, err := Open(path, Options{})
	require.NoError(t, err)
	defer s.Close()
	require.ErrorAs(t, do(s, "", "POST /x", "k", "1", nil), &again, "it outlasts a restart")
	require.NoError(t, s.ForgetCommands(t.Context(), time.Now().Add(time.Hour)))
	require.NoError(t, do(s, "", "POST /x", "k", "1", nil))
}

// The same command at once from two devices is done once.
func TestACommandAtOnce(t *testing.T) {
	s, _ := openNew(t)
	require.NoError(t, s.Add(t.Context(), "A", visit("1", "Ottilie")))
	var done atomic.Int64
	var wg sync.WaitGroup
	for range 8 {
		wg.Go(func() {
			var again *Repeated
			switch err := s.Write(t.Context(), NewCommand("", "POST /x", "k"), func(*Tx) error { return nil }); {
			case err == nil:
				done.Add(1)
			default:
				assert.ErrorAs(t, err, &again)
			}
		})
	}
	wg.Wait()
	assert.Equal(t, int64(1), done.Load())
}

func TestTimersReportsFolders(t *testing.T) {
	s, _ := openNew(t)
	ctx := t.Context()
	require.NoError(t, s.Add(ctx, "A", visit("1", "Ottilie")))
	_, err := s.Timer(ctx, "A")
	assert.ErrorIs(t, err, ErrNotFound)
	require.NoError(t, s.SaveTimer(ctx, "A", []byte("1")))
	require.NoError(t, s.SaveTimer(ctx, "A", []byte("2")))
	body, err := s.Timer(ctx, "A")
	require.NoError(t, err)
	assert.Equal(t, "2", string(body))
	require.NoError(t, s.DropTimer(ctx, "A"))
	assert.Error(t, s.SaveTimer(ctx, "nobody", []byte("1")))

	at := time.Date(2026, 5, 1, 9, 0, 0, 5e6, time.UTC)
	for _, id := range []string{"R1", "R2"} {
		require.NoError(t, s.AddReport(ctx, Report{ID: id, JobID: "A", Issued: at, Body: []byte(id)}))
	}
	list, err := s.Reports(ctx, "A")
	require.NoError(t, err)
	require.Len(t, list, 2)
	assert.Equal(t, "R2", string(list[1].Body))
	assert.True(t, at.Equal(list[1].Issued))
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
	_, err := Open(filepath.Join(t.TempDir(), "no", "such", "folder", "x.db"), Options{Migrate: true})
	assert.Error(t, err)
}

// A database of each earlier version, made by it, opens with everything in it, and
// a copy of it as it was is kept.
func TestUpgrades(t *testing.T) {
	files, err := filepath.Glob("testdata/schema-*.db")
	require.NoError(t, err)
	require.Len(t, files, len(migrations)-1, "one of each earlier version")
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			data, err := os.ReadFile(file)
			require.NoError(t, err)
			path := filepath.Join(t.TempDir(), "x.db")
			require.NoError(t, os.WriteFile(path, data, 0o600))
			_, err = Open(path, Options{})
			require.ErrorIs(t, err, ErrOlder)
			s, err := Open(path, Options{Migrate: true})
			require.NoError(t, err)
			defer s.Close()
			kept, err := sql.Open("sqlite", path+".before-"+Version())
			require.NoError(t, err)
			defer kept.Close()
			whole := func(db *sql.DB, id string) (n int, sum float64) {
				require.NoError(t, db.QueryRow(`SELECT count(*), coalesce(sum(json_extract(body, '$.value')), 0) FROM runs WHERE job_id = ?`, id).Scan(&n, &sum))
				return n, sum
			}
			var traced int
			require.NoError(t, kept.QueryRow(`SELECT count(*) FROM runs WHERE json_type(body, '$.series') = 'object'`).Scan(&traced))
			if traced == 0 { // they have had a table of their own since
				require.NoError(t, kept.QueryRow(`SELECT count(*) FROM traces WHERE json_type(body, '$.series') = 'object'`).Scan(&traced))
			}
			found, total, _, err := s.Search(t.Context(), Search{State: AllJobs})
			require.NoError(t, err)
			var jobs int
			require.NoError(t, kept.QueryRow(`SELECT count(*) FROM jobs`).Scan(&jobs))
			require.GreaterOrEqual(t, jobs, 4)
			require.Equal(t, jobs, total)
			series := 0
			for _, f := range found {
				j, _, err := s.Job(t.Context(), f.ID)
				require.NoError(t, err)
				assert.Empty(t, j.Check())
				n, sum := whole(kept, f.ID)
				assert.Len(t, j.Runs, n)
				for _, r := range j.Runs {
					sum -= r.Value
				}
				assert.InDelta(t, 0, sum, 1e-6)
				traces, err := s.Traces(t.Context(), f.ID)
				require.NoError(t, err)
				for _, tr := range traces {
					if tr.Series != nil {
						series++
					}
				}
				o, _, err := s.Outlines(t.Context(), []string{f.ID})
				require.NoError(t, err)
				assert.Equal(t, j.Counts(), o[0].Counts, "what was set aside still is")
			}
			assert.Equal(t, traced, series, "no series is lost")
			found2, err := s.Integrity(t.Context())
			require.NoError(t, err)
			assert.Empty(t, found2)
		})
	}
}

func TestANewerDatabaseIsRefused(t *testing.T) {
	s, path := openNew(t)
	require.NoError(t, s.db.Exec("INSERT INTO migrations (id) VALUES ('9999-later')").Error)
	require.NoError(t, s.Close())
	_, err := Open(path, Options{Migrate: true})
	assert.ErrorIs(t, err, ErrNewer)
}

// What is done after a change is done once it is stored, before the next one begins, and never where it fails.
func TestAfterCommit(t *testing.T) {
	s, _ := openNew(t)
	var said []string
	say := func(tx *Tx, words string) { tx.After(func() { said = append(said, words) }) }
	require.NoError(t, s.Write(t.Context(), nil, func(tx *Tx) error {
		say(tx, "first")
		assert.Empty(t, said, "nothing is stored yet")
		return nil
	}))
	require.Error(t, s.Write(t.Context(), nil, func(tx *Tx) error {
		say(tx, "failed")
		return errors.New("no")
	}))
	say(&s.Tx, "by itself")
	assert.Equal(t, []string{"first", "by itself"}, said)
}
