package store

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/job"
)

// A job with an unreadable row is named, and doesn't affect others.
func TestADamagedRow(t *testing.T) {
	for name, damage := range map[string]string{
		"the job's JSON is cut off":   `UPDATE jobs SET body = substr(body, 1, 20) WHERE id = 'B'`,
		"a sitting is no JSON":        `UPDATE sittings SET body = 'xxxx' WHERE job_id = 'B'`,
		"a sitting says nothing":      `UPDATE sittings SET body = '{}' WHERE job_id = 'B'`,
		"a drive of another shape":    `UPDATE drives SET body = '[1]' WHERE job_id = 'B'`,
		"a setup without its drive":   `UPDATE setups SET body = replace(body, '"d"', '"gone"') WHERE job_id = 'B'`,
		"a test is a NUL":             `UPDATE tests SET body = char(0) WHERE job_id = 'B'`,
		"a text that is not UTF-8":    `UPDATE computers SET body = CAST(x'7b226964223a22ff227d' AS TEXT) WHERE job_id = 'B'`,
		"two setups are the same one": `UPDATE setups SET body = '{"id":"then","role":"then","computer":"c","drive":"nobody"}' WHERE job_id = 'B'`,
	} {
		t.Run(name, func(t *testing.T) {
			s, path := openNew(t)
			for _, id := range []string{"A", "B", "C"} {
				require.NoError(t, s.Add(t.Context(), id, visit("2026-000"+id, "x")))
			}
			require.NoError(t, s.db.Exec(damage).Error)
			list, broken, err := s.Outlines(t.Context(), []string{"A", "B", "C"})
			require.NoError(t, err)
			assert.Len(t, list, 2)
			require.Len(t, broken, 1)
			assert.Equal(t, "B", broken[0].ID)
			assert.Equal(t, "2026-000B", broken[0].Number)
			_, _, err = s.Job(t.Context(), "B")
			assert.True(t, IsDamaged(err), "%v", err)
			_, _, err = s.Job(t.Context(), "C")
			assert.NoError(t, err)
			copied := filepath.Join(filepath.Dir(path), "copy.db")
			require.NoError(t, s.Copy(t.Context(), copied))
			in, err := DamagedIn(t.Context(), copied)
			require.NoError(t, err)
			require.Len(t, in, 1)
			assert.Equal(t, "2026-000B", in[0].Number)
		})
	}
}

// A run that cannot be read damages its job alone; what the page of all jobs shows does not need it.
func TestADamagedRun(t *testing.T) {
	s, _ := openNew(t)
	require.NoError(t, s.Add(t.Context(), "A", visit("2026-0001", "x")))
	require.NoError(t, s.db.Exec(`UPDATE runs SET body = 'x'`).Error)
	list, broken, err := s.Outlines(t.Context(), []string{"A"})
	require.NoError(t, err)
	assert.Len(t, list, 1)
	assert.Empty(t, broken)
	_, _, err = s.Job(t.Context(), "A")
	assert.True(t, IsDamaged(err), "%v", err)
}

// Zeroed pages, as a dying drive leaves them: what does not lie on them can still be read, and
// no copy passes for whole.
func TestZeroedPages(t *testing.T) {
	s, path := openNew(t)
	const jobs = 40
	var ids []string
	for i := range jobs {
		j := visit(fmt.Sprintf("2026-%04d", i+1), strings.Repeat("long name ", 40))
		for k := range 30 {
			j.Sittings = append(j.Sittings, job.Sitting{ID: fmt.Sprint("s", k), Setup: "then"})
		}
		ids = append(ids, fmt.Sprintf("J%03d", i))
		require.NoError(t, s.Add(t.Context(), ids[i], j))
	}
	var pages []int
	require.NoError(t, s.db.Raw(`SELECT pageno FROM dbstat WHERE name = 'sittings' AND pagetype = 'leaf' ORDER BY pageno`).Scan(&pages).Error)
	require.Greater(t, len(pages), 6)
	require.NoError(t, s.Close())
	f, err := os.OpenFile(path, os.O_RDWR, 0)
	require.NoError(t, err)
	for _, p := range pages[2:4] {
		_, err = f.WriteAt(make([]byte, 4096), int64(p-1)*4096)
		require.NoError(t, err)
	}
	require.NoError(t, f.Close())
	s, err = Open(path, Options{Migrate: true})
	require.NoError(t, err)
	defer s.Close()
	list, broken, err := s.Outlines(t.Context(), ids)
	require.NoError(t, err)
	assert.NotEmpty(t, broken)
	assert.Greater(t, len(list), jobs/2)
	assert.Equal(t, jobs, len(list)+len(broken))
	for _, b := range broken {
		assert.NotEmpty(t, b.Number)
	}
	copied := filepath.Join(t.TempDir(), "copy.db")
	assert.True(t, IsDamaged(s.Copy(t.Context(), copied)))
	assert.NoFileExists(t, copied)
}

// The copy before a migration is whole, whatever an interrupted start left in its place.
func TestTheCopyBeforeAMigrationIsWhole(t *testing.T) {
	for name, left := range map[string][]byte{"none": nil, "empty": {},
		"cut off": []byte("SQLite format 3\x00 and no more")} {
		t.Run(name, func(t *testing.T) {
			s, path := openNew(t)
			require.NoError(t, s.Add(t.Context(), "A", visit("2026-0001", "x")))
			last := migrations[len(migrations)-1].ID
			require.NoError(t, s.db.Exec(`DELETE FROM migrations WHERE id = ?`, last).Error)
			require.NoError(t, s.db.Exec("DROP TABLE file_lists").Error) // what the last one makes
			require.NoError(t, s.Close())
			kept := path + ".before-" + last
			if left != nil {
				require.NoError(t, os.WriteFile(kept, left, 0o600))
			}
			s, err := Open(path, Options{Migrate: true})
			require.NoError(t, err)
			defer s.Close()
			require.NoError(t, CheckFile(t.Context(), kept))
		})
	}
}
