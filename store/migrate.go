package store

import (
	"strings"

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
}

// part is the table of one kind of item of a job. Ids are those of the job
// file and are unique within their job.
func part(table, columns string) string {
	// Columns come before constraints in SQL, so the shared ones go first.
	names, constraints := columns, ""
	if i := strings.Index(columns, "FOREIGN KEY"); i >= 0 {
		names, constraints = columns[:i], columns[i:]
	}
	return `CREATE TABLE ` + table + ` (job_id TEXT NOT NULL REFERENCES jobs (id), id TEXT NOT NULL, position INTEGER NOT NULL, body TEXT NOT NULL, ` +
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

func migrate(db *gorm.DB) error {
	return gormigrate.New(db, &gormigrate.Options{
		TableName: "migrations", IDColumnName: "id", IDColumnSize: 255,
		UseTransaction: true, ValidateUnknownMigrations: true,
	}, migrations).Migrate()
}
