package figures

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"
	"unicode/utf8"
)

// Row is one line of a CSV of figures, as it was written.
type Row struct {
	Line  int // in the file, from 1
	Setup string
	Test  string
	Value float64
	Unit  string
	Given string    // value and unit as they were written
	At    time.Time // zero where none was given
	Note  string
	// Err says why the row cannot be read, or is nil.
	Err error
}

// Bounds of a CSV.
const (
	MaxCSV  = 4 << 20
	maxRows = 10_000
)

// columns that a CSV must have, and those that it may have.
var (
	needed   = []string{"setup", "test", "value", "unit"}
	possible = []string{"at", "note"}
)

// ReadCSV reads a CSV with the columns setup, test, value, unit and, if there
// are any, at and note (RFC 4180; commas, semicolons or tabs between cells). A
// row that cannot be read comes with its reason; a file that is no such CSV at all
// is an error.
func ReadCSV(data []byte) ([]Row, error) {
	if len(data) > MaxCSV {
		return nil, fmt.Errorf("the file has %d MiB; %d are taken", len(data)>>20, MaxCSV>>20)
	}
	data = bytes.TrimPrefix(data, []byte("\xef\xbb\xbf"))
	if !utf8.Valid(data) {
		return nil, errors.New("the file is not UTF-8 text; save it as CSV in UTF-8")
	}
	first, _, _ := bytes.Cut(data, []byte("\n"))
	r := csv.NewReader(bytes.NewReader(data))
	r.Comma, r.FieldsPerRecord, r.TrimLeadingSpace = separator(first), -1, true
	head, err := r.Read()
	if err != nil {
		return nil, errors.New("the file is empty")
	}
	at := map[string]int{}
	for i, name := range head {
		name = strings.ToLower(strings.TrimSpace(name))
		if !slices.Contains(needed, name) && !slices.Contains(possible, name) {
			return nil, fmt.Errorf("line 1: the column %q is not known; the columns are %s and, if wanted, %s", name,
				strings.Join(needed, ", "), strings.Join(possible, ", "))
		}
		if _, twice := at[name]; twice {
			return nil, fmt.Errorf("line 1: the column %q stands twice", name)
		}
		at[name] = i
	}
	for _, name := range needed {
		if _, ok := at[name]; !ok {
			return nil, fmt.Errorf("line 1: the column %q is missing", name)
		}
	}
	var rows []Row
	for {
		cells, err := r.Read()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			var bad *csv.ParseError
			if errors.As(err, &bad) {
				rows = append(rows, Row{Line: bad.Line, Err: bad.Err})
			} else {
				rows = append(rows, Row{Err: err})
			}
			break // where quotes do not match, nothing after it can be trusted
		}
		line, _ := r.FieldPos(0)
		if len(rows) == maxRows {
			return nil, fmt.Errorf("the file has more than %d rows", maxRows)
		}
		rows = append(rows, readRow(line, cells, at))
	}
	if len(rows) == 0 {
		return nil, errors.New("the file has a heading and no rows")
	}
	return rows, nil
}

// separator is what stands between the cells of the heading.
func separator(head []byte) rune {
	best, most := ',', 0
	for _, c := range ",;\t" {
		if n := bytes.Count(head, []byte(string(c))); n > most {
			best, most = c, n
		}
	}
	return best
}

func readRow(line int, cells []string, at map[string]int) Row {
	cell := func(name string) string {
		i, ok := at[name]
		if !ok || i >= len(cells) {
			return ""
		}
		// An apostrophe keeps a spreadsheet from taking text for a formula.
		return strings.TrimPrefix(strings.TrimSpace(cells[i]), "'")
	}
	r := Row{Line: line, Setup: cell("setup"), Test: cell("test"), Unit: cell("unit"), Note: cell("note")}
	if len(cells) > len(at) {
		r.Err = fmt.Errorf("%d cells, and the heading has %d; a decimal comma must stand in quotes where commas are "+
			"between the cells", len(cells), len(at))
		return r
	}
	q, err := Read(cell("value"), r.Unit)
	if err != nil {
		r.Err = err
		return r
	}
	r.Value, r.Unit, r.Given = q.Value, q.Unit, strings.TrimSpace(cell("value")+" "+cell("unit"))
	if when := cell("at"); when != "" {
		if r.At, err = time.Parse(time.RFC3339, when); err != nil {
			r.Err = fmt.Errorf("%q is no time with offset, such as 2026-11-03T09:40:00+01:00", when)
		}
	}
	return r
}
