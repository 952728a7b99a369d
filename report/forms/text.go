package forms

import (
	"encoding/csv"
	"io"
	"strconv"
	"strings"

	"nowthen/report"
)

// Text writes a report as plain text, for a message.
func Text(w io.Writer, d *report.Document, o Options) error {
	var b strings.Builder
	line := func(parts ...string) { b.WriteString(clean(strings.Join(parts, ""))); b.WriteByte('\n') }
	head := func(label string) { line(); line(heading(d, d.Label(label))) }
	if d.Shop.Name != "" {
		line(d.Shop.Name)
	}
	line(about(d))
	line(which(d))
	if d.Simulated {
		line("[", d.Label("simulated"), "]")
	}
	line()
	line(d.Headline)
	for _, s := range []string{d.Lead, d.Week} {
		if s != "" {
			line(s)
		}
	}
	for _, r := range d.Reasons {
		line(r)
	}
	if d.Note != "" {
		line(d.Note)
	}
	both := func(f report.Figure) {
		then, now := f.Words.Then, f.Words.Now
		if then == "" {
			then = d.Label("none")
		}
		if now == "" {
			now = d.Label("none")
		}
		said := []string{"- ", f.Name, ": ", d.Label("then"), " ", then, ", ", d.Label("now"), " ", now}
		if r := result(d, f); r != "" {
			said = append(said, "; ", r)
		}
		if n := notes(f); n != "" {
			said = append(said, " [", n, "]")
		}
		line(said...)
	}
	if shown, _ := waits(d, o); len(shown) > 0 {
		head("waiting")
		for _, f := range shown {
			both(f)
		}
		if d.Share != "" {
			line(d.Share)
		}
	}
	if c := d.Beside; c != nil {
		head("compared")
		for _, r := range c.Rows {
			line(r.Name, ":")
			for i, s := range r.Cells {
				line("  - ", c.Columns[i], ": ", s)
			}
		}
		for _, s := range c.Said {
			line("- ", s)
		}
	}
	for _, p := range d.Parts {
		line()
		line(heading(d, p.Title))
		for _, s := range p.Lines {
			line("- ", s)
		}
	}
	if len(d.Done) > 0 {
		head("done")
		for _, s := range d.Done {
			line("- ", s)
		}
	}
	if d.Price != "" {
		line(d.Price)
	}
	if len(d.Changes) > 0 {
		head("changes")
		for _, s := range d.Changes {
			line("- ", s)
		}
	}
	if o.Length != One {
		if len(d.Drive) > 0 {
			head("drive")
			line(d.Label("drive-note"))
			for _, f := range d.Drive {
				both(f)
			}
		}
		if len(d.Other) > 0 {
			head("other")
			for _, f := range d.Other {
				both(f)
			}
		}
	}
	if len(d.Caveats) > 0 {
		head("caveats")
		for i, c := range d.Caveats {
			line(strconv.Itoa(i+1), ". ", c.Title, " ", c.Detail, in(c.Lines))
		}
	}
	if o.Length != One {
		if len(d.Photos) > 0 {
			head("photos")
			for _, p := range d.Photos {
				line("- ", p.Caption)
			}
		}
		if len(d.How) > 0 {
			head("how")
			for _, s := range d.How {
				line("- ", s)
			}
		}
	}
	if o.Length == Full && len(d.Runs) > 0 {
		head("appendix")
		for _, r := range d.Runs {
			line("- ", r.Test, ", ", r.Side, ", ", moment(d, r.At), ": ", r.Value, ", ", r.How, in([]string{r.Aside}))
		}
	}
	for _, s := range []string{d.Shop.Footer, d.Shop.Terms} {
		if s != "" {
			line()
			line(s)
		}
	}
	_, err := io.WriteString(w, b.String())
	return err
}

// in is a list in brackets, "" if it is empty.
func in(list []string) string {
	if s := strings.Join(list, ", "); s != "" {
		return " (" + s + ")"
	}
	return ""
}

// CSV writes the figures and the runs of a report as data (RFC 4180).
func CSV(w io.Writer, d *report.Document) error {
	c := csv.NewWriter(w)
	c.UseCRLF = true
	write := func(cells ...string) {
		for i := range cells {
			cells[i] = cell(cells[i])
		}
		_ = c.Write(cells) // told by Error
	}
	number := func(v *float64) string {
		if v == nil {
			return ""
		}
		return strconv.FormatFloat(*v, 'g', -1, 64)
	}
	write("kind", "job", "name", "unit", "then", "now", "verdict", "result", "side", "at", "how", "why not")
	for _, part := range []struct {
		kind    string
		figures []report.Figure
	}{{"waiting", d.Waiting}, {"drive", d.Drive}, {"note", d.Other}} {
		for _, f := range part.figures {
			write(part.kind, d.Number, f.Name, f.Unit, number(f.Then), number(f.Now), f.Verdict, result(d, f), "", "",
				"", "")
		}
	}
	if c := d.Beside; c != nil {
		for _, r := range c.Rows {
			for i, s := range r.Cells {
				write("compared", d.Number, r.Name, "", "", "", "", s, c.Columns[i], "", "", "")
			}
		}
	}
	for _, r := range d.Runs {
		write("run", d.Number, r.Test, "", "", "", "", r.Value, r.Side, r.At, r.How, r.Aside)
	}
	c.Flush()
	return c.Error()
}

// cell escapes text that a spreadsheet would take for a formula.
func cell(s string) string {
	s = clean(s)
	if s != "" && strings.ContainsRune("=+-@\t", rune(s[0])) {
		if _, err := strconv.ParseFloat(s, 64); err != nil {
			return "'" + s
		}
	}
	return s
}
