package jobfile

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"

	"nowthen/core/job"
)

// Difference is a value in which a file differs from the stored job.
type Difference struct {
	Place  string `json:"place"` // as a JSON pointer, with ids in the place of numbers
	Stored string `json:"stored"`
	File   string `json:"file"`
}

// Merged is what a file added to an existing job.
type Merged struct {
	// Added counts what is new, by its list ("runs", "sittings", …).
	Added map[string]int `json:"added"`
	// Already is how many of the file's runs were there.
	Already     int          `json:"already"`
	Differences []Difference `json:"differences"`
}

// maxShown is how much of a value a difference shows, characters.
const maxShown = 200

// Same reports whether a file's job is one that is stored: the same number, and either a run in
// common or no runs in one of the two.
func Same(stored, file *job.Job) bool {
	if stored.Head.Number == "" || stored.Head.Number != file.Head.Number {
		return false
	}
	if len(stored.Runs) == 0 || len(file.Runs) == 0 {
		return true
	}
	ids := runsByID(stored)
	return slices.ContainsFunc(file.Runs, func(r job.Run) bool { return ids[r.ID] != nil })
}

func runsByID(j *job.Job) map[string]*job.Run {
	ids := make(map[string]*job.Run, len(j.Runs))
	for i := range j.Runs {
		ids[j.Runs[i].ID] = &j.Runs[i]
	}
	return ids
}

// Merge returns a stored job with the additions of a file of the same job. Stored data isn't changed;
// differences are listed. A different sitting or test of the file under a taken id gets a free one. The file's
// job is consumed.
func Merge(stored, file *job.Job) (*job.Job, *Merged, error) {
	m := &Merged{Added: map[string]int{}, Differences: []Difference{}}
	rename(stored, file)
	head := func(j *job.Job) (jsontext.Value, error) {
		c := *j
		c.Runs = nil
		return json.Marshal(&c, json.Deterministic(true))
	}
	a, err := head(stored)
	if err != nil {
		return nil, nil, err
	}
	b, err := head(file)
	if err != nil {
		return nil, nil, err
	}
	text, err := m.values("", a, b)
	if err != nil {
		return nil, nil, err
	}
	out := &job.Job{}
	if err := json.Unmarshal(text, out); err != nil {
		return nil, nil, err
	}
	out.Usual = stored.Usual
	out.Runs = stored.Runs
	return out, m, m.runs(out, stored, file)
}

// runs appends the runs that are new.
func (m *Merged) runs(out, stored, file *job.Job) error {
	known := runsByID(stored)
	for _, r := range file.Runs {
		old := known[r.ID]
		if old == nil {
			out.Runs = append(out.Runs, r)
			m.Added["runs"]++
			continue
		}
		m.Already++
		r.Split() // traces are stored apart
		a, err := json.Marshal(old, json.Deterministic(true))
		if err != nil {
			return err
		}
		b, err := json.Marshal(&r, json.Deterministic(true))
		if err != nil {
			return err
		}
		if _, err := m.values("/runs/"+escaped(r.ID), a, b); err != nil {
			return err
		}
	}
	return nil
}

// rename gives the file's sittings and tests that share no more than their id with a stored one an
// id that is free.
func rename(stored, file *job.Job) {
	sittings, tests := map[string]string{}, map[string]string{}
	for i := range file.Sittings {
		s := &file.Sittings[i]
		if old := stored.Sitting(s.ID); old != nil && (old.Setup != s.Setup || !old.Started.Equal(s.Started)) {
			sittings[s.ID] = free("s",
				func(id string) bool { return stored.Sitting(id) != nil || file.Sitting(id) != nil })
			s.ID = sittings[s.ID]
		}
	}
	for i := range file.Tests {
		t := &file.Tests[i]
		if old := stored.Test(t.ID); old != nil && (old.Kind != t.Kind || old.What != t.What || old.Unit != t.Unit) {
			tests[t.ID] = free(t.ID+"-", func(id string) bool { return stored.Test(id) != nil || file.Test(id) != nil })
			t.ID = tests[t.ID]
		}
	}
	for i := range file.Runs {
		r := &file.Runs[i]
		if id, ok := sittings[r.Sitting]; ok {
			r.Sitting = id
		}
		if id, ok := tests[r.Test]; ok {
			r.Test = id
		}
	}
}

func free(prefix string, taken func(string) bool) string {
	for n := 2; ; n++ {
		if id := prefix + strconv.Itoa(n); !taken(id) {
			return id
		}
	}
}

// values returns a stored value with the additional members of another one.
func (m *Merged) values(place string, stored, file jsontext.Value) (jsontext.Value, error) {
	if bytes.Equal(stored, file) || absent(file) {
		return stored, nil
	}
	if absent(stored) {
		return file, nil
	}
	switch {
	case stored.Kind() == '{' && file.Kind() == '{':
		return m.objects(place, stored, file)
	case stored.Kind() == '[' && file.Kind() == '[':
		return m.lists(place, stored, file)
	}
	m.differ(place, stored, file)
	return stored, nil
}

// absent reports whether a value is empty.
func absent(v jsontext.Value) bool {
	switch string(v) {
	case "", "null", `""`, "[]", "{}":
		return true
	}
	return false
}

func (m *Merged) objects(place string, stored, file jsontext.Value) (jsontext.Value, error) {
	var a, b map[string]jsontext.Value
	if err := json.Unmarshal(stored, &a); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(file, &b); err != nil {
		return nil, err
	}
	for _, name := range slices.Sorted(maps.Keys(b)) {
		v, err := m.values(place+"/"+escaped(name), a[name], b[name])
		if err != nil {
			return nil, err
		}
		if len(v) > 0 {
			a[name] = v
		}
	}
	return json.Marshal(a, json.Deterministic(true))
}

// lists matches the items of two lists by their ids and appends those that are new. Lists whose items
// have none are taken as a whole.
func (m *Merged) lists(place string, stored, file jsontext.Value) (jsontext.Value, error) {
	var a, b []jsontext.Value
	if err := json.Unmarshal(stored, &a); err != nil {
		return nil, err
	}
	if err := json.Unmarshal(file, &b); err != nil {
		return nil, err
	}
	at := map[string]int{}
	for i, v := range a {
		if id := idOf(v); id != "" {
			at[id] = i
		}
	}
	if len(at) != len(a) || slices.ContainsFunc(b, func(v jsontext.Value) bool { return idOf(v) == "" }) {
		m.differ(place, stored, file)
		return stored, nil
	}
	for _, v := range b {
		id := idOf(v)
		i, known := at[id]
		if !known {
			a = append(a, v)
			m.Added[strings.TrimPrefix(place, "/")]++
			continue
		}
		var err error
		if a[i], err = m.values(place+"/"+escaped(id), a[i], v); err != nil {
			return nil, err
		}
	}
	return json.Marshal(a)
}

func idOf(v jsontext.Value) string {
	var item struct {
		ID string `json:"id"`
	}
	if v.Kind() != '{' || json.Unmarshal(v, &item) != nil {
		return ""
	}
	return item.ID
}

func (m *Merged) differ(place string, stored, file jsontext.Value) {
	m.Differences = append(m.Differences, Difference{place, shown(stored), shown(file)})
}

func shown(v jsontext.Value) string {
	r := []rune(string(v))
	if len(r) > maxShown {
		return fmt.Sprintf("%s…", string(r[:maxShown]))
	}
	return string(r)
}

func escaped(token string) string { return strings.NewReplacer("~", "~0", "/", "~1").Replace(token) }
