package store

import (
	"fmt"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"nowthen/core/job"
)

// The tables' rows.

type jobRow struct {
	ID       string `gorm:"primaryKey"`
	Number   string
	Opened   string
	Finished int
	Search   string
	Body     string
	Revision int64 // goes up with every change of the job
}

type timerRow struct {
	JobID string `gorm:"primaryKey"`
	Body  string
}

type reportRow struct {
	ID     string `gorm:"primaryKey"`
	JobID  string
	Issued string
	Body   string
}

type folderRow struct {
	Dir string `gorm:"primaryKey"`
}

type templateRow struct {
	ID   string `gorm:"primaryKey"`
	Body string
}

type photoRow struct {
	ID    string `gorm:"primaryKey"`
	JobID string
	Type  string
	Body  []byte
}

func (templateRow) TableName() string { return "templates" }
func (photoRow) TableName() string    { return "photos" }
func (jobRow) TableName() string      { return "jobs" }
func (timerRow) TableName() string    { return "timers" }
func (reportRow) TableName() string   { return "reports" }
func (folderRow) TableName() string   { return "folders" }

// partRow is an item of a job: a computer, drive, test, setup, sitting or run.
// refs are the ids it refers to, by column.
type partRow struct {
	table    string
	id       string
	position int
	body     string
	refs     map[string]string
}

// tables of the parts, in the order in which they refer to one another.
var tables = []string{"computers", "drives", "tests", "setups", "sittings", "runs"}

// partsOf returns the items of a job as rows by table and id.
func partsOf(j *job.Job) (map[string]map[string]partRow, error) {
	parts := map[string]map[string]partRow{}
	var failed error
	add := func(table, id string, position int, item any, refs ...string) {
		body, err := json.Marshal(item, json.Deterministic(true))
		if err != nil && failed == nil {
			failed = fmt.Errorf("%s %s: %w", table, id, err)
		}
		r := partRow{table: table, id: id, position: position, body: string(body), refs: map[string]string{}}
		for i := 0; i < len(refs); i += 2 {
			r.refs[refs[i]] = refs[i+1]
		}
		if parts[table] == nil {
			parts[table] = map[string]partRow{}
		}
		parts[table][id] = r
	}
	for i, c := range j.Computers {
		add("computers", c.ID, i, c)
	}
	for i, d := range j.Drives {
		add("drives", d.ID, i, d)
	}
	for i, t := range j.Tests {
		add("tests", t.ID, i, t)
	}
	for i, s := range j.Setups {
		add("setups", s.ID, i, s, "computer_id", s.Computer, "drive_id", s.Drive)
	}
	for i, s := range j.Sittings {
		add("sittings", s.ID, i, s, "setup_id", s.Setup)
	}
	for i, r := range j.Runs {
		add("runs", r.ID, i, r, "test_id", r.Test, "sitting_id", r.Sitting)
	}
	return parts, failed
}

// write stores a job, given the items it had before (nil for a new one). The
// job's own rules are checked first. Runs are never removed.
func write(tx *gorm.DB, id string, before map[string]map[string]partRow, j *job.Job) error {
	if faults := j.Check(); len(faults) > 0 {
		return fmt.Errorf("the job would contradict itself: %w", faults[0])
	}
	after, err := partsOf(j)
	if err != nil {
		return err
	}
	if err := writeHead(tx, id, j); err != nil {
		return err
	}
	for _, table := range tables {
		for _, r := range after[table] {
			if old, ok := before[table][r.id]; ok && old.body == r.body && old.position == r.position {
				continue
			}
			row := map[string]any{"job_id": id, "id": r.id, "position": r.position, "body": r.body}
			columns := []string{"position", "body"}
			for column, ref := range r.refs {
				row[column] = ref
				columns = append(columns, column)
			}
			err := tx.Table(table).Clauses(clause.OnConflict{
				Columns:   []clause.Column{{Name: "job_id"}, {Name: "id"}},
				DoUpdates: clause.AssignmentColumns(columns),
			}).Create(row).Error
			if err != nil {
				return fmt.Errorf("storing %s %s: %w", table, r.id, err)
			}
		}
	}
	// What others refer to goes last.
	for i := len(tables) - 1; i >= 0; i-- {
		table := tables[i]
		for gone := range before[table] {
			if _, still := after[table][gone]; still {
				continue
			}
			if table == "runs" {
				return fmt.Errorf("run %s would be lost; runs are set aside, not deleted", gone)
			}
			if err := tx.Exec("DELETE FROM "+table+" WHERE job_id = ? AND id = ?", id, gone).Error; err != nil {
				return fmt.Errorf("removing %s %s: %w", table, gone, err)
			}
		}
	}
	return nil
}

// head is what of a job is stored in its own row.
func head(j *job.Job) *job.Job {
	return &job.Job{Head: j.Head, Plan: j.Plan, Unknown: j.Unknown}
}

func writeHead(tx *gorm.DB, id string, j *job.Job) error {
	body, err := json.Marshal(head(j))
	if err != nil {
		return err
	}
	var before int64
	if err := tx.Raw("SELECT coalesce(max(revision), 0) FROM jobs WHERE id = ?", id).Scan(&before).Error; err != nil {
		return err
	}
	row := jobRow{ID: id, Revision: before + 1, Number: j.Head.Number, Opened: j.Head.Opened.UTC().Format(time.RFC3339), Search: searchText(j), Body: string(body)}
	if j.Gate(job.GateHandedBack) != nil {
		row.Finished = 1
	}
	return tx.Save(&row).Error
}

// fold makes letters equal that a searcher holds for equal.
func fold(s string) string { return strings.ToLower(s) }

func searchText(j *job.Job) string {
	words := []string{j.Head.Number, j.Head.Customer.Name, j.Head.Reason}
	for _, c := range j.Computers {
		words = append(words, c.Maker, c.Model)
	}
	for _, d := range j.Drives {
		words = append(words, d.Maker, d.Model)
	}
	return fold(strings.Join(words, "\n"))
}

// load returns the jobs that a query on the table of jobs finds, whole, in the
// query's order.
func load(tx, query *gorm.DB) ([]Entry, error) {
	var rows []jobRow
	if err := query.Find(&rows).Error; err != nil {
		return nil, err
	}
	entries := make([]Entry, len(rows))
	byID := make(map[string]*job.Job, len(rows))
	ids := make([]string, len(rows))
	for i, r := range rows {
		j := &job.Job{}
		if err := json.Unmarshal([]byte(r.Body), j); err != nil {
			return nil, fmt.Errorf("job %s: %w", r.ID, err)
		}
		entries[i], byID[r.ID], ids[i] = Entry{r.ID, j}, j, r.ID
	}
	if len(rows) == 0 {
		return entries, nil
	}
	err := loadPart(tx, "computers", ids, func(id string, c job.Computer) { byID[id].Computers = append(byID[id].Computers, c) })
	if err == nil {
		err = loadPart(tx, "drives", ids, func(id string, d job.Drive) { byID[id].Drives = append(byID[id].Drives, d) })
	}
	if err == nil {
		err = loadPart(tx, "tests", ids, func(id string, t job.Test) { byID[id].Tests = append(byID[id].Tests, t) })
	}
	if err == nil {
		err = loadPart(tx, "setups", ids, func(id string, s job.Setup) { byID[id].Setups = append(byID[id].Setups, s) })
	}
	if err == nil {
		err = loadPart(tx, "sittings", ids, func(id string, s job.Sitting) { byID[id].Sittings = append(byID[id].Sittings, s) })
	}
	if err == nil {
		err = loadPart(tx, "runs", ids, func(id string, r job.Run) { byID[id].Runs = append(byID[id].Runs, r) })
	}
	return entries, err
}

type clipRow struct{ ID, JobID, Body string }

func (clipRow) TableName() string { return "clips" }

// technicianRow and settingRow hold something by its name.
type technicianRow struct{ Name, Body string }

func (technicianRow) TableName() string { return "technicians" }

type settingRow struct{ Name, Body string }

func (settingRow) TableName() string { return "settings" }

type sessionRow struct{ Token, Since, Seen string }

func (sessionRow) TableName() string { return "sessions" }

func loadPart[T any](tx *gorm.DB, table string, ids []string, add func(jobID string, item T)) error {
	var rows []struct{ JobID, ID, Body string }
	err := tx.Table(table).Select("job_id, id, body").Where("job_id IN ?", ids).Order("job_id, position").Find(&rows).Error
	if err != nil {
		return err
	}
	for _, r := range rows {
		var item T
		if err := json.Unmarshal([]byte(r.Body), &item); err != nil {
			return fmt.Errorf("%s %s of job %s: %w", table, r.ID, r.JobID, err)
		}
		add(r.JobID, item)
	}
	return nil
}
