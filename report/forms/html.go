package forms

import (
	_ "embed"
	"encoding/base64"
	"html/template"
	"io"

	"nowthen/report"
)

//go:embed report.html
var page string

var htmlForm = template.Must(template.New("report").Funcs(template.FuncMap{"clean": clean, "notes": notes,
	"confidence": confidence}).Parse(page))

// lane is a wait with both sides on one scale.
type lane struct {
	report.Figure
	ThenPct, NowPct float64
	// ThenS and NowS are how long a wait was on either side, s.
	ThenS, NowS float64
}

// lanes puts waits onto one scale each: 100 is the longer side.
func lanes(figures []report.Figure) []lane {
	var list []lane
	for _, f := range figures {
		l, most := lane{Figure: f}, 0.0
		for _, v := range []*float64{f.Then, f.Now} {
			if v != nil {
				most = max(most, *v)
			}
		}
		if f.Then != nil && most > 0 {
			l.ThenPct, l.ThenS = *f.Then/most*100, *f.Then
		}
		if f.Now != nil && most > 0 {
			l.NowPct, l.NowS = *f.Now/most*100, *f.Now
		}
		list = append(list, l)
	}
	return list
}

// HTML writes a report as one file that asks for nothing: it opens from a stick, without a
// network and without script.
func HTML(w io.Writer, d *report.Document, o Options) error {
	shown, _ := waits(d, o)
	return htmlForm.Execute(w, struct {
		*report.Document
		Title, About, Which string
		Lanes               []lane
		Second, Appendix    bool
		Logo                template.URL
		Pictures            []pictured
		Look, LookWords     string
	}{d, title(d), about(d), which(d), lanes(shown), o.Length != One, o.Length == Full, logoURL(d.Shop.Logo), picturesOf(d), o.Look, o.LookWords})
}

// pictured is a photo within the page itself.
type pictured struct {
	Caption string
	URL     template.URL
}

func picturesOf(d *report.Document) (list []pictured) {
	for _, p := range d.Photos {
		list = append(list, pictured{p.Caption,
			template.URL("data:image/jpeg;base64," + base64.StdEncoding.EncodeToString(p.Data))})
	}
	return list
}

// logoURL is a shop's logo within the page itself, "" where there is none.
func logoURL(logo []byte) template.URL {
	if len(logo) == 0 {
		return ""
	}
	return template.URL("data:image/png;base64," + base64.StdEncoding.EncodeToString(logo))
}
