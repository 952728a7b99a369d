package forms

import (
	_ "embed"
	"encoding/base64"
	"html/template"
	"io"
	"slices"

	"nowthen/report"
)

//go:embed report.html
var page string

var htmlForm = template.Must(template.New("report").Funcs(template.FuncMap{"clean": clean, "notes": notes,
	"confidence": confidence, "moment": moment}).Parse(page))

// lane is a wait with both sides as bars; 100 is the end of the scale.
type lane struct {
	report.Figure
	ThenPct, NowPct float64
	// ThenBroken and NowBroken mark a bar that is longer than the scale.
	ThenBroken, NowBroken bool
	// ThenS and NowS are how long a wait was on either side, s.
	ThenS, NowS float64
}

// breakFrom is how many times as long as the next one a wait is whose bar is broken, so that the others can be seen;
// breakRoom is how much longer than the next one the scale then is.
const (
	breakFrom = 8
	breakRoom = 1.5
)

// longer is the longer side of a figure.
func longer(f report.Figure) float64 {
	most := 0.0
	for _, v := range []*float64{f.Then, f.Now} {
		if v != nil {
			most = max(most, *v)
		}
	}
	return most
}

// scaleEnd is where the scale ends on which all waits stand, s.
func scaleEnd(figures []report.Figure) float64 {
	var all []float64
	for _, f := range figures {
		if f.Unit == "s" {
			all = append(all, longer(f))
		}
	}
	slices.Sort(all)
	switch n := len(all); {
	case n == 0:
		return 0
	case n > 1 && all[n-2] > 0 && all[n-1] > breakFrom*all[n-2]:
		return breakRoom * all[n-2]
	default:
		return all[n-1]
	}
}

// lanes puts waits onto one scale; what is no time has a scale of its own.
func lanes(figures []report.Figure) []lane {
	end := scaleEnd(figures)
	var list []lane
	for _, f := range figures {
		l, most := lane{Figure: f}, end
		if f.Unit != "s" {
			most = longer(f)
		}
		put := func(v *float64, pct, seconds *float64, broken *bool) {
			if v == nil || most <= 0 {
				return
			}
			*pct, *seconds, *broken = min(100, *v/most*100), *v, *v > most
		}
		put(f.Then, &l.ThenPct, &l.ThenS, &l.ThenBroken)
		put(f.Now, &l.NowPct, &l.NowS, &l.NowBroken)
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
