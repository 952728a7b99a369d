package store

import (
	"context"
	"database/sql"
	"encoding/base64"
	"errors"
	"fmt"
	"reflect"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"golang.org/x/sync/errgroup"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"nowthen/core/job"
)

// batch is how many rows one statement writes; SQLite takes a bounded number of
// parameters.
const batch = 1000

// Add stores a new job under an id.
func (tx *Tx) Add(ctx context.Context, id string, j *job.Job) error {
	if tx.within {
		_, err := tx.Save(ctx, id, nil, j)
		return err
	}
	return tx.store.Write(ctx, nil, func(tx *Tx) error { return tx.Add(ctx, id, j) })
}

// Revision returns the number of a job's last change.
func (tx *Tx) Revision(ctx context.Context, id string) (int64, error) {
	var found []int64
	if err := tx.on(ctx).Model(&jobModel{}).Where("id = ?", id).Limit(1).Pluck("revision", &found).Error; err != nil {
		return 0, err
	}
	if len(found) == 0 {
		return 0, fmt.Errorf("job %s: %w", id, ErrNotFound)
	}
	return found[0], nil
}

// Job returns a job as it was at one moment, without its runs' traces, and the
// number of its last change.
func (tx *Tx) Job(ctx context.Context, id string) (j *job.Job, revision int64, err error) {
	err = tx.read(ctx, func(tx *Tx) error {
		db := tx.on(ctx)
		var head jobModel
		if err := db.Take(&head, "id = ?", id).Error; err != nil {
			return notFound("job", err)
		}
		j, revision = &head.Body, head.Revision
		if err := load(db, id, func(m *computerModel) { j.Computers = append(j.Computers, m.Body) }); err != nil {
			return err
		}
		if err := load(db, id, func(m *driveModel) { j.Drives = append(j.Drives, m.Body) }); err != nil {
			return err
		}
		if err := load(db, id, func(m *testModel) { j.Tests = append(j.Tests, m.Body) }); err != nil {
			return err
		}
		if err := load(db, id, func(m *setupModel) { j.Setups = append(j.Setups, m.Body) }); err != nil {
			return err
		}
		if err := load(db, id, func(m *sittingModel) { j.Sittings = append(j.Sittings, m.Body) }); err != nil {
			return err
		}
		if err := load(db, id, func(m *runModel) { j.Runs = append(j.Runs, m.Body) }); err != nil {
			return err
		}
		return whole(j)
	})
	if err != nil {
		return nil, 0, fmt.Errorf("job %s: %w", id, err)
	}
	return j, revision, nil
}

// whole returns why a stored job can't be used, or nil. Its runs were checked when they were stored, and refer
// to their tests and sittings by foreign keys.
func whole(j *job.Job) error {
	if faults := j.CheckAppended(len(j.Runs)); len(faults) > 0 {
		return damaged(faults[0])
	}
	return nil
}

// load passes on the items of a job, in order.
func load[M any](db *gorm.DB, id string, take func(*M)) error {
	var rows []M
	if err := db.Where("job_id = ?", id).Order("position").Find(&rows).Error; err != nil {
		return err
	}
	for i := range rows {
		take(&rows[i])
	}
	return nil
}

// Traces returns the traces of a job's runs by run; without runs, those of all.
func (tx *Tx) Traces(ctx context.Context, jobID string, runs ...string) (map[string]job.Trace, error) {
	var rows []traceModel
	if len(runs) == 0 {
		if err := tx.on(ctx).Find(&rows, "job_id = ?", jobID).Error; err != nil {
			return nil, err
		}
	}
	for part := range slices.Chunk(runs, batch) {
		var some []traceModel
		if err := tx.on(ctx).Find(&some, "job_id = ? AND run_id IN ?", jobID, part).Error; err != nil {
			return nil, err
		}
		rows = append(rows, some...)
	}
	traces := make(map[string]job.Trace, len(rows))
	for _, r := range rows {
		traces[r.RunID] = r.Body
	}
	return traces, nil
}

// Save stores a job that was before (nil: a new one) as it is after, and returns
// the number of the change. The job's own rules are checked first. Of the runs that
// were there before, only whether they are set aside may have changed; new ones
// come after them, and none is ever removed. It splits the new runs' traces off.
func (tx *Tx) Save(ctx context.Context, id string, before, after *job.Job) (revision int64, err error) {
	fresh := before == nil
	if fresh {
		before = &job.Job{}
	}
	known := len(before.Runs)
	if len(after.Runs) < known {
		return 0, fmt.Errorf("%d runs would be lost; runs are set aside, not deleted", known-len(after.Runs))
	}
	faults := []job.Fault(nil)
	if reflect.DeepEqual(before.Tests, after.Tests) && len(before.Sittings) <= len(after.Sittings) {
		faults = after.CheckAppended(known)
	} else {
		faults = after.Check()
	}
	if len(faults) > 0 {
		return 0, fmt.Errorf("the job would contradict itself: %w", faults[0])
	}
	db := tx.on(ctx)
	if !fresh {
		if revision, err = tx.Revision(ctx, id); err != nil {
			return 0, err
		}
	}
	revision++
	row := jobModel{ID: id, Revision: revision, Number: after.Head.Number,
		Opened: after.Head.Opened.UTC().Format(time.RFC3339), Search: searchText(after),
		Finished: after.Gate(job.GateHandedBack) != nil, Binned: !after.Head.Binned.IsZero(), Body: job.Job{Head: after.Head, Plan: after.Plan,
			Unknown: after.Unknown}}
	if err := db.Save(&row).Error; err != nil {
		return 0, fmt.Errorf("storing the job: %w", err)
	}
	tx.about(id)
	key := func(itemID string, at int) Item { return Item{JobID: id, ID: itemID, Position: at} }
	saves := []func() error{
		func() error {
			return save(db, before.Computers, after.Computers,
				func(i int, v job.Computer) computerModel { return computerModel{key(v.ID, i), v} })
		},
		func() error {
			return save(db, before.Drives, after.Drives,
				func(i int, v job.Drive) driveModel { return driveModel{key(v.ID, i), v} })
		},
		func() error {
			return save(db, before.Tests, after.Tests,
				func(i int, v job.Test) testModel { return testModel{key(v.ID, i), v} })
		},
		func() error {
			return save(db, before.Setups, after.Setups, func(i int, v job.Setup) setupModel {
				return setupModel{key(v.ID, i), v.Computer, v.Drive, v}
			})
		},
		func() error {
			return save(db, before.Sittings, after.Sittings,
				func(i int, v job.Sitting) sittingModel { return sittingModel{key(v.ID, i), v.Setup, v} })
		},
		func() error { return tx.saveRuns(db, id, before, after) },
		// Items that others refer to are deleted last.
		func() error { return drop[sittingModel](db, id, ids(before.Sittings, after.Sittings, job.Sitting.Key)) },
		func() error { return drop[setupModel](db, id, ids(before.Setups, after.Setups, job.Setup.Key)) },
		func() error { return drop[testModel](db, id, ids(before.Tests, after.Tests, job.Test.Key)) },
		func() error { return drop[driveModel](db, id, ids(before.Drives, after.Drives, job.Drive.Key)) },
		func() error {
			return drop[computerModel](db, id, ids(before.Computers, after.Computers, job.Computer.Key))
		},
	}
	for _, save := range saves {
		if err := save(); err != nil {
			return 0, fmt.Errorf("storing the job: %w", err)
		}
	}
	return revision, nil
}

// save writes the items that are new or changed.
func save[T, M any](db *gorm.DB, before, after []T, model func(int, T) M) error {
	var rows []M
	for i, v := range after {
		if i >= len(before) || !reflect.DeepEqual(before[i], v) {
			rows = append(rows, model(i, v))
		}
	}
	if len(rows) == 0 {
		return nil
	}
	return db.Clauses(clause.OnConflict{UpdateAll: true}).CreateInBatches(rows, batch).Error
}

// ids returns the ids that are gone.
func ids[T any](before, after []T, key func(T) string) []string {
	var gone []string
	for _, b := range before {
		if !slices.ContainsFunc(after, func(a T) bool { return key(a) == key(b) }) {
			gone = append(gone, key(b))
		}
	}
	return gone
}

func drop[M any](db *gorm.DB, id string, gone []string) error {
	if len(gone) == 0 {
		return nil
	}
	return db.Delete(new(M), "job_id = ? AND id IN ?", id, gone).Error
}

// saveRuns appends the new runs and notes which of the others were set aside or
// undone.
func (tx *Tx) saveRuns(db *gorm.DB, id string, before, after *job.Job) error {
	changed := before.Runs
	if job.Continues(before.Runs, after.Runs) {
		changed = nil
	}
	for i := range changed {
		old, now := &before.Runs[i], &after.Runs[i]
		if old.ID != now.ID {
			return fmt.Errorf("run %s would be lost; runs are set aside, not deleted", old.ID)
		}
		if old.SetAside == now.SetAside {
			continue
		}
		err := db.Model(&runModel{}).Where("job_id = ? AND id = ?", id, now.ID).Select("aside", "body").
			Updates(&runModel{Aside: now.SetAside != nil, Body: *now}).Error
		if err != nil {
			return fmt.Errorf("run %s: %w", now.ID, err)
		}
	}
	var rows []runModel
	var traces []traceModel
	for i := len(before.Runs); i < len(after.Runs); i++ {
		r := &after.Runs[i]
		if t := r.Split(); !t.Empty() {
			traces = append(traces, traceModel{JobID: id, RunID: r.ID, Body: t})
		}
		rows = append(rows, runModel{Item{JobID: id, ID: r.ID, Position: i}, r.Test, r.Sitting, r.SetAside != nil,
			r.Repeat, *r})
	}
	if len(rows) == 0 {
		return nil
	}
	if err := db.CreateInBatches(rows, batch).Error; err != nil {
		return fmt.Errorf("runs: %w", err)
	}
	if len(traces) == 0 {
		return nil
	}
	return db.CreateInBatches(traces, batch).Error
}

// fold makes letters equal that people consider equal in a search.
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

// Which jobs a search is about.
const (
	OpenJobs     = "open"
	FinishedJobs = "finished"
	AllJobs      = "all"
	BinnedJobs   = "bin" // in none of the others
)

// Search selects jobs.
type Search struct {
	State string   // OpenJobs, FinishedJobs, AllJobs or BinnedJobs
	Words []string // all of which stand in customer, computer, drives, number or reason
	After string   // the cursor of an earlier answer; "" from the beginning
	Limit int      // at most so many; 0 is all
}

// Found is a job that a search found, with the number of its last change.
type Found struct {
	ID       string
	Revision int64
	Opened   string
}

// DropJob deletes a job that is in the bin, with all that is stored of it; [ErrNotFound] where it isn't there.
func (tx *Tx) DropJob(ctx context.Context, id string) error {
	return tx.write(ctx, func(db *gorm.DB) error {
		var n int64
		if err := db.Model(&jobModel{}).Where("id = ? AND binned = 1", id).Count(&n).Error; err != nil {
			return err
		}
		if n == 0 {
			return fmt.Errorf("job %s in the bin: %w", id, ErrNotFound)
		}
		if err := db.Exec("PRAGMA defer_foreign_keys = ON").Error; err != nil {
			return err
		}
		var tables []string
		err := db.Raw(`SELECT m.name FROM sqlite_master m JOIN pragma_table_info(m.name) c
			WHERE m.type = 'table' AND c.name = 'job_id'`).Scan(&tables).Error
		if err != nil {
			return err
		}
		for _, t := range tables {
			if err := db.Exec("DELETE FROM "+t+" WHERE job_id = ?", id).Error; err != nil {
				return fmt.Errorf("deleting from %s: %w", t, err)
			}
		}
		return db.Exec("DELETE FROM jobs WHERE id = ?", id).Error
	})
}

// Search returns jobs, the newest first, how many there are in all, and the cursor
// by which the search continues ("" at its end).
func (tx *Tx) Search(ctx context.Context, by Search) (found []Found, total int, next string, err error) {
	matching := func() *gorm.DB {
		q := tx.on(ctx).Model(&jobModel{})
		switch by.State {
		case OpenJobs:
			q = q.Where("finished = 0 AND binned = 0")
		case FinishedJobs:
			q = q.Where("finished = 1 AND binned = 0")
		case BinnedJobs:
			q = q.Where("binned = 1")
		default:
			q = q.Where("binned = 0")
		}
		for _, w := range by.Words {
			q = q.Where("instr(search, ?) > 0", fold(w))
		}
		return q
	}
	var all int64
	if err := matching().Count(&all).Error; err != nil {
		return nil, 0, "", err
	}
	q := matching()
	if by.After != "" {
		opened, id, err := readCursor(by.After)
		if err != nil {
			return nil, 0, "", err
		}
		q = q.Where("(opened, id) < (?, ?)", opened, id)
	}
	if by.Limit > 0 {
		q = q.Limit(by.Limit + 1)
	}
	if err := q.Order("opened DESC, id DESC").Select("id", "revision", "opened").Find(&found).Error; err != nil {
		return nil, 0, "", err
	}
	if by.Limit > 0 && len(found) > by.Limit {
		found = found[:by.Limit]
		last := found[len(found)-1]
		next = base64.RawURLEncoding.EncodeToString([]byte(last.Opened + " " + last.ID))
	}
	return found, int(all), next, nil
}

// ErrCursor means that a cursor isn't valid.
var ErrCursor = fmt.Errorf("that cursor is none of an earlier answer")

func readCursor(c string) (opened, id string, err error) {
	text, err := base64.RawURLEncoding.DecodeString(c)
	if err != nil {
		return "", "", ErrCursor
	}
	opened, id, ok := strings.Cut(string(text), " ")
	if !ok {
		return "", "", ErrCursor
	}
	return opened, id, nil
}

// Outline is a job without its runs, of which there are so many, and when the last
// one was made.
type Outline struct {
	ID      string
	Job     *job.Job
	Counts  job.Counts
	LastRun time.Time
}

// Others returns the outlines of the jobs that a search finds, but for one, in no order.
func (tx *Tx) Others(ctx context.Context, by Search, but string) ([]Outline, error) {
	found, _, _, err := tx.Search(ctx, by)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, f := range found {
		if f.ID != but {
			ids = append(ids, f.ID)
		}
	}
	list, _, err := tx.Outlines(ctx, ids) // a damaged one has nothing to tell
	return list, err
}

// Outlines returns the outlines of jobs by id, in no order, and the jobs that can't be read; unknown ids are
// left out.
func (tx *Tx) Outlines(ctx context.Context, ids []string) ([]Outline, []Damaged, error) {
	// Reading doesn't block, and most of it is parsing JSON: it uses all cores.
	parts := slices.Collect(slices.Chunk(ids, min(500, 1+len(ids)/runtime.GOMAXPROCS(0))))
	lists, broken := make([][]Outline, len(parts)), make([][]Damaged, len(parts))
	var g errgroup.Group
	g.SetLimit(runtime.GOMAXPROCS(0))
	for i, part := range parts {
		g.Go(func() error {
			var err error
			lists[i], broken[i], err = tx.outlinesAtOnce(ctx, part)
			if IsDamaged(err) { // a page that several jobs share may be gone
				lists[i], broken[i] = tx.oneByOne(ctx, part)
				return nil
			}
			return err
		})
	}
	if err := g.Wait(); err != nil {
		return nil, nil, err
	}
	return slices.Concat(lists...), slices.Concat(broken...), nil
}

// outlinesAtOnce is outlines as of one moment.
func (tx *Tx) outlinesAtOnce(ctx context.Context, ids []string) (list []Outline, broken []Damaged, err error) {
	err = tx.read(ctx, func(tx *Tx) (err error) {
		list, broken, err = tx.outlines(ctx, ids)
		return err
	})
	return list, broken, err
}

// oneByOne is outlines for each job separately, so that an unreadable one doesn't affect the others.
func (tx *Tx) oneByOne(ctx context.Context, ids []string) (list []Outline, broken []Damaged) {
	for _, id := range ids {
		one, bad, err := tx.outlinesAtOnce(ctx, []string{id})
		if err != nil {
			bad = []Damaged{tx.damage(ctx, id, err)}
		}
		list, broken = append(list, one...), append(broken, bad...)
	}
	return list, broken
}

// outlines reads each kind of item of several jobs in one row a job, which is much
// quicker than a row an item.
func (tx *Tx) outlines(ctx context.Context, ids []string) (list []Outline, broken []Damaged, err error) {
	items := func(table string) string {
		return "(SELECT '[' || coalesce(group_concat(body, ',' ORDER BY position), '') || ']' FROM " + table +
			" WHERE job_id = jobs.id)"
	}
	const counts = `(SELECT json_group_array(json_array(test_id, sitting_id, aside, n))
		FROM (SELECT test_id, sitting_id, aside, count(*) AS n FROM runs WHERE job_id = jobs.id AND repeated = 0 GROUP BY test_id, sitting_id, aside))`
	const last = `(SELECT coalesce(CASE WHEN json_valid(body) THEN json_extract(body, '$.at') END, '') FROM runs WHERE job_id = jobs.id ORDER BY position DESC LIMIT 1)`
	rows, err := tx.on(ctx).Raw("SELECT id, number, body, "+items("computers")+", "+items("drives")+", "+items("tests")+", "+items("setups")+", "+items("sittings")+", "+
		counts+", coalesce("+last+", '') FROM jobs WHERE id IN ?", ids).Rows()
	if err != nil {
		return nil, nil, err
	}
	defer rows.Close()
	same := map[string][]job.Test{}
	var id, number, body, computers, drives, tests, setups, sittings, counted, at sql.RawBytes
	for rows.Next() {
		if err := rows.Scan(&id, &number, &body, &computers, &drives, &tests, &setups, &sittings, &counted,
			&at); err != nil {
			return nil, nil, err
		}
		o := Outline{ID: string(id), Job: &job.Job{}, Counts: job.Counts{}}
		if err := o.decode(same, body, computers, drives, tests, setups, sittings, counted); err != nil {
			broken = append(broken, Damaged{ID: o.ID, Number: string(number), Why: err.Error()})
			continue
		}
		if t, err := time.Parse(time.RFC3339Nano, string(at)); err == nil {
			o.LastRun = t
		}
		list = append(list, o)
	}
	return list, broken, rows.Err()
}

// decode reads an outline from the JSON of its parts. Jobs of one template have the same tests,
// which same remembers.
func (o *Outline) decode(same map[string][]job.Test, body, computers, drives, tests, setups, sittings,
	counted []byte) error {
	j := o.Job
	for _, part := range []struct {
		text []byte
		into any
	}{{body, j}, {computers, &j.Computers}, {drives, &j.Drives}, {setups, &j.Setups}, {sittings, &j.Sittings}} {
		if err := json.Unmarshal(part.text, part.into); err != nil {
			return err
		}
	}
	if known, ok := same[string(tests)]; ok {
		j.Tests = known
	} else if err := json.Unmarshal(tests, &j.Tests); err != nil {
		return err
	} else {
		same[string(tests)] = j.Tests
	}
	var counts []count
	if err := json.Unmarshal(counted, &counts); err != nil {
		return err
	}
	for _, n := range counts {
		key := struct{ Test, Sitting string }{n.test, n.sitting}
		c := o.Counts[key]
		if n.aside == 1 {
			c.Aside = n.n
		} else {
			c.Kept = n.n
		}
		o.Counts[key] = c
	}
	return whole(j)
}

// count is how many runs of a test in a sitting are kept or set aside, as SQL gives it:
// in a list.
type count struct {
	test, sitting string
	aside, n      int
}

// UnmarshalJSONFrom reads the list.
func (c *count) UnmarshalJSONFrom(dec *jsontext.Decoder) error {
	if _, err := dec.ReadToken(); err != nil { // its beginning
		return err
	}
	for _, into := range []any{&c.test, &c.sitting, &c.aside, &c.n} {
		if err := json.UnmarshalDecode(dec, into); err != nil {
			return err
		}
	}
	_, err := dec.ReadToken() // its end
	return err
}

// countedDigits is how many digits a job's number has at most behind its prefix. A longer one came
// from elsewhere, and is not counted on from.
const countedDigits = 6

// NextNumber returns the number after the shop's last one with a prefix, and stores it. Within a
// [Store.Write] nobody else gets the same. Numbers of imported jobs are skipped.
func (tx *Tx) NextNumber(ctx context.Context, prefix string) (string, error) {
	counter := "number:" + prefix
	last, err := tx.lastNumber(ctx, prefix, counter)
	if err != nil {
		return "", err
	}
	for {
		last++
		number := fmt.Sprintf("%s%04d", prefix, last)
		ids, err := tx.ByNumber(ctx, number)
		if err != nil {
			return "", err
		}
		if len(ids) == 0 {
			return number, tx.SaveSetting(ctx, counter, strconv.Itoa(last))
		}
	}
}

// lastNumber is the last number that the shop gave with a prefix. A bench from before the counter
// resumes from its jobs.
func (tx *Tx) lastNumber(ctx context.Context, prefix, counter string) (last int, err error) {
	text, err := tx.Setting(ctx, counter)
	if err == nil {
		return strconv.Atoi(text)
	}
	if !errors.Is(err, ErrNotFound) {
		return 0, err
	}
	var numbers []string
	err = tx.on(ctx).Model(&jobModel{}).Where("substr(number, 1, ?) = ?", len([]rune(prefix)), prefix).Pluck("number",
		&numbers).Error
	for _, n := range numbers {
		digits := strings.TrimPrefix(n, prefix)
		if k, err := strconv.ParseUint(digits, 10, 31); err == nil && len(digits) <= countedDigits {
			last = max(last, int(k))
		}
	}
	return last, err
}

// ByNumber returns the ids of the jobs with a number, the newest first.
func (tx *Tx) ByNumber(ctx context.Context, number string) ([]string, error) {
	var ids []string
	err := tx.on(ctx).Model(&jobModel{}).Where("number = ?", number).Order("opened DESC, id DESC").Pluck("id",
		&ids).Error
	return ids, err
}

// Empty reports whether there is no job.
func (tx *Tx) Empty(ctx context.Context) (bool, error) {
	var n int64
	err := tx.on(ctx).Model(&jobModel{}).Limit(1).Count(&n).Error
	return n == 0, err
}
