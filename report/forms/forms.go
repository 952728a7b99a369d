// Package forms is a report as it leaves the program: as PDF, as one HTML file, as text, as a
// picture, and as data. All are made of one document, so that none says more or less than
// another.
//
// It knows the document, but no bench, server or job. Texts are what people typed; each form escapes them.
package forms

import (
	"context"
	"fmt"
	"io"
	"path/filepath"
	"slices"
	"strings"
	"time"
	"unicode"

	"github.com/go-json-experiment/json"
	"github.com/go-json-experiment/json/jsontext"
	"golang.org/x/text/cases"
	"golang.org/x/text/language"

	"nowthen/report"
)

// Lengths of a report.
const (
	One  = report.LengthOne  // the first page alone
	Two  = report.LengthTwo  // with the drive's figures, how it was measured and what to bear in mind
	Full = report.LengthFull // with all runs
)

// Papers that a report is printed on.
const (
	A4     = "a4"
	Letter = "letter"
)

// Lengths and Papers are all of them; Endings are those of the files.
var (
	Lengths = []string{One, Two, Full}
	Papers  = []string{A4, Letter}
	Endings = []string{".pdf", ".html", ".txt", ".json", ".csv", ".png"}
)

// Options configure a report's form.
type Options struct {
	Length string // "" is two
	Paper  string // "" is A4
	// Look is the address at which the page that a customer opens by a link leads to the second look; "": nowhere.
	Look string
	// LookWords say so, in the language of the report.
	LookWords string
}

// Check reports what is wrong with options, or nil.
func (o *Options) Check() error {
	if o.Length == "" {
		o.Length = Two
	}
	if o.Paper == "" {
		o.Paper = A4
	}
	if !slices.Contains(Lengths, o.Length) {
		return fmt.Errorf("%q is no length of a report; there are %s", o.Length, strings.Join(Lengths, ", "))
	}
	if !slices.Contains(Papers, o.Paper) {
		return fmt.Errorf("%q is no paper; there are %s", o.Paper, strings.Join(Papers, ", "))
	}
	return nil
}

// Write writes a report in the form that a file's ending says. Where the context ends first, it
// returns why.
func Write(ctx context.Context, w io.Writer, name string, d *report.Document, o Options) error {
	if err := o.Check(); err != nil {
		return err
	}
	switch strings.ToLower(filepath.Ext(name)) {
	case ".pdf":
		return PDF(ctx, w, d, o)
	case ".html":
		return HTML(w, d, o)
	case ".txt":
		return Text(w, d, o)
	case ".csv":
		return CSV(w, d)
	case ".png":
		return PNG(ctx, w, d)
	case ".json":
		return json.MarshalWrite(w, d, jsontext.WithIndent("  "), json.Deterministic(true))
	}
	return fmt.Errorf("the ending of %q says no form of a report; there are %s", name, strings.Join(Endings, ", "))
}

// Known reports whether a file's ending says a form.
func Known(name string) bool { return slices.Contains(Endings, strings.ToLower(filepath.Ext(name))) }

// mostWaits is how many waits are on the first page.
const mostWaits = 6

// waits are those that are shown: on the first page alone the first six.
func waits(d *report.Document, o Options) (shown []report.Figure, more int) {
	if n := len(d.Waiting); o.Length == One && n > mostWaits {
		return d.Waiting[:mostWaits], n - mostWaits
	}
	return d.Waiting, 0
}

// about reports which computer it is about, and whose.
func about(d *report.Document) string {
	computer := d.Computer
	if computer == "" {
		computer = d.Label("computer")
	}
	if d.Customer == "" {
		return computer
	}
	return strings.NewReplacer("{computer}", computer, "{customer}", d.Customer).Replace(d.Label("of"))
}

// which identifies the report: its job, day and revision, or that it is a draft.
func which(d *report.Document) string {
	s := strings.ReplaceAll(d.Label("job"), "{number}", d.Number)
	if d.Issued == nil {
		return s + ", " + d.Label("draft")
	}
	s += ", " + d.Issued.Format(days(d))
	if d.Revision > 1 {
		s += ", " + strings.ReplaceAll(d.Label("revision"), "{n}", fmt.Sprint(d.Revision))
	}
	return s
}

// days is the layout of a day in a report's language.
func days(d *report.Document) string {
	if d.Lang == "de" {
		return "2.1.2006"
	}
	return "2 January 2006"
}

// moment writes the time of a run in a report's language, and returns anything else unchanged.
func moment(d *report.Document, at string) string {
	t, err := time.Parse(report.Moment, at)
	if err != nil {
		return at
	}
	return t.Format(strings.Replace(days(d), "January", "Jan", 1) + ", 15:04")
}

// heading is a title in capitals, by the rules of a report's language: ß becomes SS.
func heading(d *report.Document, title string) string {
	return cases.Upper(language.Make(d.Lang)).String(title)
}

// title is what the whole report is called.
func title(d *report.Document) string {
	return clean(d.Label("report") + ": " + about(d) + ", " + which(d))
}

// clean removes characters that would affect the layout: line ends become blanks, other control characters are
// removed.
func clean(s string) string {
	return strings.TrimSpace(strings.Map(func(r rune) rune {
		switch {
		case r == '\n' || r == '\t' || r == '\r':
			return ' '
		case unicode.IsControl(r) || steers(r):
			return -1
		}
		return r
	}, strings.ReplaceAll(s, "\r\n", "\n")))
}

// steers reports whether a character turns the writing direction of what follows.
func steers(r rune) bool {
	return r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 || r == 0x200e || r == 0x200f || r == 0xfeff
}

// result is a figure's result, in one line.
func result(d *report.Document, f report.Figure) string {
	s := f.Words.Main
	if f.Words.Extra != "" {
		s += " (" + f.Words.Extra + ")"
	}
	if r := confidence(d, f); r != "" {
		s += ", " + r
	}
	return s
}

// confidence is the interval of a figure with what it means, "" where it has none.
func confidence(d *report.Document, f report.Figure) string {
	if f.Words.Range == "" {
		return ""
	}
	return strings.ReplaceAll(d.Label("confidence"), "{range}", f.Words.Range)
}

// notes are the numbers of the caveats beside a figure.
func notes(f report.Figure) string {
	var n []string
	for _, i := range f.Notes {
		n = append(n, fmt.Sprint(i))
	}
	return strings.Join(n, " ")
}
