package sittings

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"fmt"
	"math"
	"slices"
	"strconv"
	"strings"

	"nowthen/bench"
	"nowthen/core/catalogue"
	"nowthen/core/figures"
	"nowthen/core/job"
	"nowthen/core/words"
)

// Typed is a figure from elsewhere: as text, with its unit if it differs from the test's ("1:32", "1.5 min",
// "830 Mbit/s"), or as a value in a unit.
type Typed struct {
	Test    string   `json:"test"`
	Sitting string   `json:"sitting"`
	Text    string   `json:"text"`
	Value   *float64 `json:"value"`
	// Unit is that of the figure; it is converted to the test's where it can be.
	Unit string   `json:"unit"`
	U    *float64 `json:"u"`
	Note string   `json:"note"`
	// ReadIn is the program that showed it; Bytes and Files are how much a copy copied.
	ReadIn *job.ReadIn `json:"read_in"`
	Bytes  int64       `json:"bytes"`
	Files  int64       `json:"files"`
	// Sure confirms a figure that looks wrong by a factor.
	Sure bool `json:"sure"`
}

// value returns the figure in the test's unit, and how it was written.
func (in Typed) value(f bench.Fields, t *job.Test) (value figures.Given, given string) {
	unit := in.Unit
	if unit == "" {
		unit = t.Unit
	}
	switch {
	case in.Text != "":
		value, err := figures.ReadGiven(in.Text, unit, t.Unit)
		if err != nil {
			f.Check(false, "text",
				fmt.Sprintf("%s %s", bench.Sentence(err), figures.Example(t.Unit)))
		}
		given = strings.TrimSpace(in.Text)
		if q, err := figures.Read(given, unit); in.Unit != "" && err == nil && !strings.HasSuffix(given, in.Unit) &&
			q.Unit == in.Unit {
			given += " " + in.Unit // its last digit is worth something in that unit
		}
		return value, given
	case in.Value == nil:
		f.Check(false, "value", fmt.Sprintf("Enter the value. %s", figures.Example(t.Unit)))
		return value, ""
	}
	v, err := figures.Convert(*in.Value, unit, t.Unit)
	f.Check(err == nil, "unit",
		fmt.Sprintf("%s is measured in %s, not in %q.", t.Name, t.Unit, unit))
	return figures.Given{Value: v}, strconv.FormatFloat(*in.Value, 'f', -1, 64) + " " + unit
}

// TypeIn adds a typed run. A figure that differs from its neighbours by a factor that people often confuse is
// queried first.
func (x *Sittings) TypeIn(ctx context.Context, ch *bench.Change, jobID string, in Typed) (*bench.View, error) {
	return x.jobs.Change(ctx, ch, jobID, func(j *job.Job) error {
		t, s := j.Test(in.Test), j.Sitting(in.Sitting)
		if t == nil {
			return bench.NoSuch("test", in.Test)
		}
		f := bench.Fields{}
		f.Text("note", in.Note)
		f.Check(len(in.Text) <= 100, "text", "That is too long for a value.")
		f.Check(in.Bytes >= 0, "bytes", "An amount isn't below zero.")
		f.Check(in.Files >= 0, "files", "A number of files isn't below zero.")
		if p := in.ReadIn; p != nil {
			f.Text("read_in.program", p.Program)
			f.Text("read_in.version", p.Version)
			f.Check(p.FileBytes >= 0, "read_in.file_bytes", "A size isn't below zero.")
		}
		value, given := in.value(f, t)
		if err := f.Refusal(); err != nil {
			return err
		}
		if s != nil && !in.Sure && job.CheckValue(t, value.Value) == nil {
			if d := doubted(j, t, s.Setup, value); d != nil {
				return doubt(t, value.Value, d, len(neighbours(j, t.ID, s.Setup)) == 0)
			}
		}
		return bench.AddRun(j, job.Run{Test: in.Test, Sitting: in.Sitting, Value: value.Value, Method: job.Typed,
			U: in.U, Note: in.Note, Given: given, Bound: job.Bound(value.Bound), Range: value.Range, ReadIn: in.ReadIn,
			Bytes: in.Bytes, Files: in.Files}, x.jobs.Now())
	})
}

// doubted returns why a figure looks wrong: compared with others of its side, with what such a drive can do, or
// because it can be read in two ways; else nil.
func doubted(j *job.Job, t *job.Test, setup string, g figures.Given) *figures.Doubt {
	others := neighbours(j, t.ID, setup)
	if d := figures.Suspect(g.Value, t.Unit, others); d != nil {
		return d
	}
	low, high, known := 0.0, math.Inf(1), false
	if s := j.Setup(setup); s != nil {
		if d := j.Drive(s.Drive); d != nil {
			low, high, known = catalogue.Possible(t, d.Kind)
		}
	}
	if !known {
		low, high = 0, math.Inf(1)
	}
	if d := figures.Thousands(g.Value, g.Other, low, high, others); d != nil {
		return d
	}
	if !known || len(others) > 0 {
		return nil
	}
	return figures.Beyond(g.Value, t.Unit, low, high)
}

// neighbours are the values of a test's counted runs on a setup.
func neighbours(j *job.Job, test, setup string) []float64 {
	var values []float64
	for _, r := range j.KeptRuns(test, setup) {
		values = append(values, r.Value)
	}
	return values
}

// doubt queries a figure that looks wrong by a factor; first says that its side has no other figure to compare
// with.
func doubt(t *job.Test, value float64, d *figures.Doubt, first bool) *bench.Refusal {
	given, meant := words.Figure(value, t.Unit), words.Figure(d.Value, t.Unit)
	r := &bench.Refusal{Kind: bench.Doubtful, Kept: "Nothing was imported yet.",
		Do: "Confirm that it is right, or enter what was meant."}
	r.Message = fmt.Sprintf("%s looks like %s: the other runs here would fit %s.", given, d.Why, meant)
	if first {
		r.Message = fmt.Sprintf("Is it %s or %s? It looks like %s.", given, meant, d.Why)
	}
	r.Fields = map[string]string{"value": r.Message}
	r.Ask = &bench.Ask{Value: d.Value, Unit: t.Unit, Words: words.Figure(d.Value, t.Unit)}
	return r
}

// TableRow is a row of an imported table and its result.
type TableRow struct {
	Line  int    `json:"line"`
	Setup string `json:"setup"` // id, where it is known
	Test  string `json:"test"`  // id, where it is known
	// Becomes is the run it becomes: "Cold start to desktop on Then: 92.4 s"; "" of
	// a row that is not taken.
	Becomes string `json:"becomes"`
	// Problem is why the row isn't imported; Doubt queries one that looks wrong.
	Problem string `json:"problem"`
	Doubt   string `json:"doubt"`
	// Already: its run is already in the job.
	Already bool `json:"already"`

	run job.Run
}

// Table is the result of importing a table of figures.
type Table struct {
	Rows    []TableRow `json:"rows"`
	Good    int        `json:"good"`
	Bad     int        `json:"bad"`
	Doubted int        `json:"doubted"`
	// Already is how many rows are already in the job, Added how many runs were added (0 in a preview).
	Already int `json:"already"`
	Added   int `json:"added"`
	Taken   int `json:"taken"` // as Added
}

// digest identifies a table, to recognise one that was imported before.
func digest(data []byte) string {
	sum := sha256.Sum256(data)
	return hex.EncodeToString(sum[:16])
}

// there reports whether a row's run is already in a job: with the same test, setup, time and value; without a
// time, if the same table was imported before.
func (r *TableRow) there(j *job.Job, again bool) bool {
	if r.run.At.IsZero() {
		return again
	}
	for i := range j.Runs {
		run := &j.Runs[i]
		if run.Test == r.Test && run.Value == r.run.Value && run.At.Equal(r.run.At) {
			if s := j.Sitting(run.Sitting); s != nil && s.Setup == r.Setup {
				return true
			}
		}
	}
	return false
}

// PreviewTable shows the result of each row of a CSV of figures, without importing it.
func (x *Sittings) PreviewTable(ctx context.Context, jobID, name string, data []byte) (*Table, error) {
	s, err := x.jobs.Load(ctx, jobID)
	if err != nil {
		return nil, err
	}
	return table(s.Job, name, data)
}

// TakeTable imports a CSV of figures. If some rows are refused or doubtful, the others are only imported if the
// technician confirms (sure). Setups without a sitting get one.
func (x *Sittings) TakeTable(ctx context.Context, ch *bench.Change, jobID, name string, data []byte,
	sure bool) (*Table, error) {
	var out *Table
	_, err := x.jobs.ChangeWith(ctx, ch, jobID, func(ch *bench.Change, j *job.Job) error {
		var err error
		if out, err = table(j, name, data); err != nil {
			return err
		}
		if out.Good == 0 && out.Already == 0 {
			return bench.Refuse(bench.Invalid, "No row of %s can be imported.", name)
		}
		if (out.Bad > 0 || out.Doubted > 0) && !sure {
			c := bench.Refuse(bench.Conflict, "%d of %d rows of %s can't be imported or look wrong.",
				out.Bad+out.Doubted, len(out.Rows), name)
			c.Kept, c.Do = "Nothing was imported.", "Check the rows, then confirm to import the others."
			return c
		}
		for _, row := range out.Rows {
			if row.Problem != "" || row.Already {
				continue
			}
			run := row.run
			if run.Sitting, err = x.sittingFor(j, row.Setup); err != nil {
				return err
			}
			if err := bench.AddRun(j, run, x.jobs.Now()); err != nil {
				return fmt.Errorf("line %d: %w", row.Line, err)
			}
			out.Added++
		}
		out.Taken = out.Added
		if d := digest(data); !slices.Contains(j.Head.Tables, d) {
			j.Head.Tables = append(j.Head.Tables, d)
		}
		ch.Answer(out)
		return nil
	})
	if err != nil {
		return nil, err
	}
	return out, nil
}

// sittingFor returns the last sitting on a setup, or a new one with unknown conditions.
func (x *Sittings) sittingFor(j *job.Job, setup string) (string, error) {
	if last := bench.LastSitting(j, setup); last != nil {
		return last.ID, nil
	}
	id := bench.FreeID("s", len(j.Sittings), func(id string) bool { return j.Sitting(id) != nil })
	j.Sittings = append(j.Sittings, job.Sitting{ID: id, Setup: setup, Started: x.jobs.Now()})
	return id, nil
}

// table computes the result of each row.
func table(j *job.Job, name string, data []byte) (*Table, error) {
	rows, err := figures.ReadCSV(data)
	if err != nil {
		r := bench.Refuse(bench.Invalid, "%s is refused: %v.", name, err)
		r.Kept, r.Do = "Nothing was imported.",
			"Write the column names setup, test, value, unit and, if wanted, at and note into the first row."
		return nil, r
	}
	out := &Table{Rows: []TableRow{}}
	again := slices.Contains(j.Head.Tables, digest(data))
	seen := map[string][]float64{} // values of the table itself, by setup and test
	for _, row := range rows {
		r := TableRow{Line: row.Line}
		err := row.Err
		var t *job.Test
		if err == nil {
			t, err = r.fit(j, row)
		}
		if err != nil {
			r.Problem = bench.Sentence(err)
			out.Bad++
		} else if r.Already = r.there(j, again); r.Already {
			out.Already++
		} else {
			out.Good++
			key := r.Setup + "\x00" + r.Test
			if d := figures.Suspect(r.run.Value, t.Unit,
				append(neighbours(j, r.Test, r.Setup), seen[key]...)); d != nil {
				r.Doubt = fmt.Sprintf("Looks like %s: %s would fit the others.", d.Why, words.Figure(d.Value, t.Unit))
				out.Doubted++
			} else {
				seen[key] = append(seen[key], r.run.Value)
			}
		}
		out.Rows = append(out.Rows, r)
	}
	return out, nil
}

// fit finds a row's test and setup, and makes its run.
func (r *TableRow) fit(j *job.Job, row figures.Row) (*job.Test, error) {
	setup := -1
	for i, s := range j.Setups {
		if strings.EqualFold(s.ID, row.Setup) || s.Name != "" && strings.EqualFold(s.Name, row.Setup) ||
			s.Role != job.Trial && strings.EqualFold(string(s.Role), row.Setup) {
			setup = i
			break
		}
	}
	if setup < 0 {
		return nil, fmt.Errorf("there is no setup %q in this job", row.Setup)
	}
	test := -1
	for i, t := range j.Tests {
		if strings.EqualFold(t.ID, row.Test) || strings.EqualFold(t.Name, row.Test) {
			test = i
			break
		}
	}
	if test < 0 {
		return nil, fmt.Errorf("there is no test %q in this job", row.Test)
	}
	s, t := &j.Setups[setup], &j.Tests[test]
	value, err := figures.Convert(row.Value, row.Unit, t.Unit)
	if err != nil {
		return nil, err
	}
	r.Setup, r.Test = s.ID, t.ID
	r.run = job.Run{Test: t.ID, Value: value, Method: job.Typed, Note: row.Note, At: row.At, Given: row.Given}
	if err := job.CheckRun(t, &r.run); err != nil {
		return nil, err
	}
	side := map[job.Role]string{job.Then: "Then", job.Now: "Now"}[s.Role]
	if side == "" {
		side = s.Name
	}
	r.Becomes = fmt.Sprintf("%s on %s: %s", t.Name, side, words.Figure(value, t.Unit))
	return t, nil
}
