package store

import (
	"context"
	"database/sql"
	"fmt"
	"net/url"
	"slices"
	"strings"

	"nowthen/durable"

	"github.com/go-gormigrate/gormigrate/v2"
	"gorm.io/gorm"
)

// The schema is written out, one migration a version; a migration that has
// been released is never changed.
var migrations = []*gormigrate.Migration{
	{ID: "0001-jobs", Migrate: statements(
		`CREATE TABLE jobs (
			id TEXT PRIMARY KEY, number TEXT NOT NULL, opened TEXT NOT NULL, finished INTEGER NOT NULL,
			search TEXT NOT NULL, body TEXT NOT NULL) STRICT`,
		`CREATE INDEX jobs_by_state ON jobs (finished, opened DESC)`,
		`CREATE INDEX jobs_by_number ON jobs (number)`,
		part("computers", ""),
		part("drives", ""),
		part("tests", ""),
		part("setups", `computer_id TEXT NOT NULL, drive_id TEXT NOT NULL,
			FOREIGN KEY (job_id, computer_id) REFERENCES computers (job_id, id),
			FOREIGN KEY (job_id, drive_id) REFERENCES drives (job_id, id),`),
		part("sittings", `setup_id TEXT NOT NULL, FOREIGN KEY (job_id, setup_id) REFERENCES setups (job_id, id),`),
		part("runs", `test_id TEXT NOT NULL, sitting_id TEXT NOT NULL,
			FOREIGN KEY (job_id, test_id) REFERENCES tests (job_id, id),
			FOREIGN KEY (job_id, sitting_id) REFERENCES sittings (job_id, id),`),
		`CREATE TABLE timers (job_id TEXT PRIMARY KEY REFERENCES jobs (id), body TEXT NOT NULL) STRICT`,
		`CREATE TABLE reports (id TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), issued TEXT NOT NULL, body TEXT NOT NULL) STRICT`,
		`CREATE INDEX reports_by_job ON reports (job_id, id)`,
		`CREATE TABLE folders (dir TEXT PRIMARY KEY) STRICT`,
	)},
	{ID: "0002-revisions-templates-photos", Migrate: statements(
		`ALTER TABLE jobs ADD COLUMN revision INTEGER NOT NULL DEFAULT 0`,
		`CREATE TABLE templates (id TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT`,
		`CREATE TABLE photos (id TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), type TEXT NOT NULL, body BLOB NOT NULL) STRICT`,
	)},
	{ID: "0003-technicians-settings-sessions", Migrate: statements(
		`CREATE TABLE technicians (name TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT`,
		`CREATE TABLE settings (name TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT`,
		`CREATE TABLE sessions (token TEXT PRIMARY KEY, since TEXT NOT NULL, seen TEXT NOT NULL) STRICT`,
	)},
	{ID: "0004-clips", Migrate: statements(
		`CREATE TABLE clips (id TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), body TEXT NOT NULL) STRICT`,
		`CREATE INDEX clips_by_job ON clips (job_id, id)`,
	)},
	{ID: "0005-traces-commands-rounds", Migrate: statements(
		// Traces, which are only drawn, move into a separate table.
		`CREATE TABLE traces (job_id TEXT NOT NULL, run_id TEXT NOT NULL, body TEXT NOT NULL, PRIMARY KEY (job_id, run_id),
			FOREIGN KEY (job_id, run_id) REFERENCES runs (job_id, id)) STRICT`,
		`INSERT INTO traces (job_id, run_id, body) SELECT job_id, id,
			json_patch('{}', json_object('series', json_extract(body, '$.series'), 'spread', json_extract(body, '$.latency.spread')))
			FROM runs WHERE json_type(body, '$.series') = 'object' OR json_type(body, '$.latency.spread') = 'object'`,
		`UPDATE runs SET body = json_remove(body, '$.series', '$.latency.spread')
			WHERE json_type(body, '$.series') IS NOT NULL OR json_type(body, '$.latency.spread') IS NOT NULL`,
		`ALTER TABLE runs ADD COLUMN aside INTEGER NOT NULL DEFAULT 0`,
		`UPDATE runs SET aside = 1 WHERE coalesce(json_type(body, '$.set_aside'), 'null') <> 'null'`,
		`CREATE INDEX runs_by_test ON runs (job_id, test_id, sitting_id, aside)`,
		`CREATE INDEX runs_in_order ON runs (job_id, position)`,
		`CREATE TABLE commands (key TEXT PRIMARY KEY, print TEXT NOT NULL, job_id TEXT NOT NULL, made TEXT NOT NULL, answer TEXT NOT NULL, at TEXT NOT NULL) STRICT, WITHOUT ROWID`,
		`CREATE INDEX commands_by_age ON commands (at)`,
		`CREATE TABLE rounds (id TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), running INTEGER NOT NULL, body TEXT NOT NULL) STRICT`,
		`CREATE INDEX rounds_by_job ON rounds (job_id, id)`,
	)},
	{ID: "0006-repeats", Migrate: statements(
		// A repetition isn't a counted run; the counts are read without the runs.
		`ALTER TABLE runs ADD COLUMN repeated INTEGER NOT NULL DEFAULT 0`,
		`UPDATE runs SET repeated = 1 WHERE json_extract(body, '$.repeat')`,
		`DROP INDEX runs_by_test`,
		`CREATE INDEX runs_by_test ON runs (job_id, test_id, sitting_id, aside, repeated)`,
	)},
	{ID: "0007-probes-shares", Migrate: statements(
		`CREATE TABLE shares (id TEXT PRIMARY KEY, token TEXT NOT NULL, job_id TEXT NOT NULL REFERENCES jobs (id), report_id TEXT NOT NULL REFERENCES reports (id), made TEXT NOT NULL,
			until TEXT NOT NULL, revoked INTEGER NOT NULL, opened INTEGER NOT NULL) STRICT`,
		`CREATE UNIQUE INDEX shares_by_token ON shares (token)`,
		`CREATE INDEX shares_by_job ON shares (job_id, id)`,
		`CREATE TABLE pairings (code TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), until TEXT NOT NULL) STRICT`,
		`CREATE TABLE probes (id TEXT PRIMARY KEY, job_id TEXT NOT NULL REFERENCES jobs (id), token TEXT NOT NULL, gone INTEGER NOT NULL, body TEXT NOT NULL) STRICT`,
		`CREATE UNIQUE INDEX probes_by_token ON probes (token)`,
		`CREATE INDEX probes_by_job ON probes (job_id, id)`,
	)},
	{ID: "0008-lists-models", Migrate: statements(
		`CREATE TABLE carried_lists (job_id TEXT PRIMARY KEY REFERENCES jobs (id), until TEXT NOT NULL, body TEXT NOT NULL) STRICT`,
		`CREATE TABLE models (name TEXT PRIMARY KEY, body TEXT NOT NULL) STRICT`,
	)},
	{ID: "0009-bin", Migrate: statements(
		`ALTER TABLE jobs ADD COLUMN binned INTEGER NOT NULL DEFAULT 0`,
	)},
	{ID: "0010-file-lists", Migrate: statements(
		`CREATE TABLE file_lists (job_id TEXT PRIMARY KEY REFERENCES jobs (id), until TEXT NOT NULL, told TEXT NOT NULL, list BLOB NOT NULL) STRICT`,
	)},
}

// part is the table of one kind of item of a job. Ids are those of the job
// file and are unique within their job.
func part(table, columns string) string {
	// Columns come before constraints in SQL, so the shared ones go first.
	names, constraints := columns, ""
	if i := strings.Index(columns, "FOREIGN KEY"); i >= 0 {
		names, constraints = columns[:i], columns[i:]
	}
	return `CREATE TABLE ` + table +
		` (job_id TEXT NOT NULL REFERENCES jobs (id), id TEXT NOT NULL, position INTEGER NOT NULL, body TEXT NOT NULL, ` +
		names + constraints + ` PRIMARY KEY (job_id, id)) STRICT`
}

func statements(list ...string) gormigrate.MigrateFunc {
	return func(tx *gorm.DB) error {
		for _, sql := range list {
			if err := tx.Exec(sql).Error; err != nil {
				return err
			}
		}
		return nil
	}
}

// upToDate checks whether the database has this version, and migrates it if wanted, after saving a copy of the
// older one beside it.
func (s *Store) upToDate(migrate bool) error {
	done, err := s.versions()
	if err != nil {
		return err
	}
	last := migrations[len(migrations)-1].ID
	for _, id := range done {
		if !slices.ContainsFunc(migrations, func(m *gormigrate.Migration) bool { return m.ID == id }) {
			return fmt.Errorf("%w (%s)", ErrNewer, id)
		}
	}
	switch {
	case slices.Contains(done, last):
		return nil
	case !migrate:
		return fmt.Errorf("%w; start nowthen serve over it once, which brings it up to date", ErrOlder)
	case len(done) > 0:
		// An earlier start may have left an empty or incomplete one.
		if kept := s.path + ".before-" + last; CheckFile(context.Background(), kept) != nil {
			if err := s.Copy(context.Background(), kept); err != nil {
				return fmt.Errorf("keeping a copy first: %w", err)
			}
		}
	}
	return gormigrate.New(s.db, &gormigrate.Options{
		TableName: migrationsTable, IDColumnName: "id", IDColumnSize: 255,
		UseTransaction: true, ValidateUnknownMigrations: true,
	}, migrations).Migrate()
}

const migrationsTable = "migrations"

// versions returns the ids of the migrations that the database has seen.
func (s *Store) versions() ([]string, error) {
	if !s.db.Migrator().HasTable(migrationsTable) {
		return nil, nil
	}
	var ids []string
	return ids, s.db.Table(migrationsTable).Order("id").Pluck("id", &ids).Error
}

// Version is the schema that this program writes.
func Version() string { return migrations[len(migrations)-1].ID }

// Knows reports whether this program can migrate a schema.
func Knows(schema string) bool {
	return slices.ContainsFunc(migrations, func(m *gormigrate.Migration) bool { return m.ID == schema })
}

// CheckFile checks whether a file is a whole database of a schema that this program
// knows, without changing it.
func CheckFile(ctx context.Context, path string) error {
	db, err := sql.Open("sqlite", "file:"+(&url.URL{Path: path}).EscapedPath()+"?mode=ro&immutable=1")
	if err != nil {
		return err
	}
	defer db.Close()
	var found string
	if err := db.QueryRowContext(ctx, "PRAGMA integrity_check").Scan(&found); err != nil {
		return fmt.Errorf("the database: %w", err)
	}
	if found != "ok" {
		return fmt.Errorf("the database is damaged: %s", found)
	}
	var last string
	if err := db.QueryRowContext(ctx, "SELECT max(id) FROM "+migrationsTable).Scan(&last); err != nil {
		return fmt.Errorf("the database: %w", err)
	}
	if !Knows(last) {
		return fmt.Errorf("%w (%s)", ErrNewer, last)
	}
	return nil
}

// Copy writes a snapshot of the whole database to a file, while others continue to read and write. The file is its owner's alone; it is there only once the copy is whole
// and was checked.
func (s *Store) Copy(ctx context.Context, path string) error {
	return durable.File(path, func(part string) error {
		// accepts an empty file like a missing one
		if err := s.db.WithContext(ctx).Exec("VACUUM INTO ?", part).Error; err != nil {
			return err
		}
		return CheckFile(ctx, part)
	})
}
