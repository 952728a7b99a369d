package forms

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"strings"
	"time"

	"codeberg.org/go-pdf/fpdf"

	"nowthen/report"
)

// Measures of a sheet, mm and points.
const (
	margin   = 18.0
	foot     = 16.0
	smallest = 0.55 // of the usual size of type, on a page that has to hold everything
)

// colours of the sides, and of what stands back.
var (
	ochre = [3]int{138, 90, 0}
	teal  = [3]int{11, 95, 90}
	ink   = [3]int{28, 33, 38}
	soft  = [3]int{86, 93, 100}
)

// PDF writes a report for paper: drawings as vectors, its typeface in it, text that can be
// selected, bookmarks. The first page holds what the customer needs, however much it is.
func PDF(ctx context.Context, w io.Writer, d *report.Document, o Options) error {
	scale := 1.0
	for ; scale > smallest && ctx.Err() == nil; scale *= 0.94 {
		trial := newSheet(ctx, d, o, scale)
		trial.first()
		if o.Length == One {
			trial.terms()
		}
		if trial.pdf.PageNo() == 1 && trial.pdf.GetY() <= trial.bottom() {
			break
		}
	}
	s := newSheet(ctx, d, o, scale)
	s.first()
	if o.Length != One {
		s.scale = min(1, max(scale, 0.9))
		s.second()
	}
	if o.Length == Full && len(d.Runs) > 0 {
		s.scale = 0.85
		s.appendix()
	}
	s.terms()
	if err := s.pdf.Error(); err != nil {
		return fmt.Errorf("the PDF: %w", err)
	}
	return s.pdf.Output(w)
}

// sheet is a PDF being drawn.
type sheet struct {
	ctx   context.Context // ends the drawing
	pdf   *fpdf.Fpdf
	d     *report.Document
	o     Options
	scale float64
	// letters are those in which it is set.
	letters *typeface
}

func newSheet(ctx context.Context, d *report.Document, o Options, scale float64) *sheet {
	size := "A4"
	if o.Paper == Letter {
		size = "Letter"
	}
	turned := "P"
	if d.Beside != nil && len(d.Beside.Columns) > 3 { // a wide table
		turned = "L"
	}
	pdf := fpdf.New(turned, "mm", size, "")
	s := &sheet{ctx: ctx, pdf: pdf, d: d, o: o, scale: scale, letters: typefaceFor(d)}
	pdf.AddUTF8FontFromBytes("now", "", s.letters.regular)
	pdf.AddUTF8FontFromBytes("now", "B", s.letters.bold)
	pdf.SetTitle(title(d), true)
	pdf.SetAuthor(clean(d.Shop.Name), true)
	pdf.SetCreator("Now Then", true)
	lang := d.Lang
	if lang == "" {
		lang = "en"
	}
	pdf.SetLang(lang)
	pdf.SetCatalogSort(true)
	at := time.Unix(0, 0).UTC() // a draft is the same whenever it is drawn
	if d.Issued != nil {
		at = *d.Issued
	}
	pdf.SetCreationDate(at)
	pdf.SetModificationDate(at)
	pdf.SetMargins(margin, margin, margin)
	pdf.SetAutoPageBreak(true, foot)
	const pages = "{nb}"
	pdf.AliasNbPages(pages)
	pdf.SetFooterFunc(func() {
		pdf.SetY(-foot + 4)
		pdf.SetFont("now", "", 8)
		s.colour(soft)
		pdf.CellFormat(s.width()/2, 4, s.letters.printable(which(d)), "", 0, "L", false, 0, "")
		page := strings.NewReplacer("{page}", fmt.Sprint(pdf.PageNo()), "{pages}", pages).Replace(d.Label("page"))
		pdf.CellFormat(s.width()/2, 4, page, "", 0, "R", false, 0, "")
		if f := s.letters.printable(d.Shop.Footer); f != "" {
			points := 8.0 // in one line, however long it is
			for ; points > 4 && pdf.GetStringWidth(f) > s.width(); points -= 0.5 {
				pdf.SetFont("now", "", points)
			}
			pdf.SetXY(margin, -foot+8)
			pdf.CellFormat(s.width(), 4, f, "", 0, "L", false, 0, "")
		}
	})
	pdf.AddPage()
	return s
}

func (s *sheet) width() float64 {
	w, _ := s.pdf.GetPageSize()
	return w - 2*margin
}

// bottom is where the room for text ends.
func (s *sheet) bottom() float64 {
	_, h := s.pdf.GetPageSize()
	return h - foot
}

func (s *sheet) colour(c [3]int) { s.pdf.SetTextColor(c[0], c[1], c[2]) }

// text writes a paragraph in points, and moves below it.
func (s *sheet) text(points float64, style string, c [3]int, text string) {
	s.paragraph(points, style, c, text, s.width())
}

// paragraph writes one in points that is so wide, mm, and moves below it.
func (s *sheet) paragraph(points float64, style string, c [3]int, text string, room float64) {
	if text = s.letters.printable(text); text == "" {
		return
	}
	points *= s.scale
	s.pdf.SetFont("now", style, points)
	s.colour(c)
	s.pdf.MultiCell(room, points*0.46, s.breakable(text, room), "", "L", false)
}

// breakable puts blanks into words that are wider than their room.
func (s *sheet) breakable(text string, room float64) string {
	if err := s.ctx.Err(); err != nil {
		s.pdf.SetError(err) // nothing is drawn after it
	}
	var out []string
	for _, word := range strings.Split(text, " ") {
		out = append(out, pieces(word, room-3, func(_, r rune) float64 { return s.pdf.GetStringWidth(string(r)) })...)
	}
	return strings.Join(out, " ")
}

func (s *sheet) gap(mm float64) { s.pdf.Ln(mm * s.scale) }

// heading begins a part, which has a bookmark.
func (s *sheet) heading(label string) { s.titled(s.d.Label(label)) }

// titled begins a part with its own title.
func (s *sheet) titled(title string) {
	s.gap(3.5)
	// A title doesn't stand alone at the end of a page.
	if s.pdf.GetY() > s.bottom()-22*s.scale {
		s.pdf.AddPage()
	}
	text := s.letters.printable(title)
	s.pdf.Bookmark(text, 0, -1)
	s.text(12.5, "B", ink, text)
	s.gap(1)
}

// bullets write a list.
func (s *sheet) bullets(points float64, marks func(int) string, list []string) {
	for i, item := range list {
		s.pdf.SetFont("now", "", points*s.scale)
		s.colour(ink)
		indent := 5.5 * s.scale
		x := s.pdf.GetX()
		s.pdf.CellFormat(indent, points*s.scale*0.46, marks(i), "", 0, "L", false, 0, "")
		room := s.width() - indent
		s.pdf.MultiCell(room, points*s.scale*0.46, s.breakable(s.letters.printable(item), room), "", "L", false)
		s.pdf.SetX(x)
	}
}

func dot(int) string { return "•" }

// Measures of a logo, mm.
const (
	logoWidth  = 50.0
	logoHeight = 16.0
)

// head is the shop's: its name and address, and on their right its logo.
func (s *sheet) head() {
	shop := s.d.Shop
	top, room := s.pdf.GetY(), s.width()
	bottom := top
	if len(shop.Logo) > 0 {
		info := s.pdf.RegisterImageOptionsReader("logo", fpdf.ImageOptions{ImageType: "PNG"},
			bytes.NewReader(shop.Logo))
		if s.pdf.Err() { // one that cannot be drawn is no reason for no report
			s.pdf.ClearError()
		} else if w, h := info.Width(), info.Height(); w > 0 && h > 0 {
			shrink := min(logoWidth/w, logoHeight*s.scale/h)
			s.pdf.ImageOptions("logo", margin+s.width()-w*shrink, top, w*shrink, h*shrink, false,
				fpdf.ImageOptions{ImageType: "PNG"}, 0, "")
			room, bottom = room-w*shrink-4, top+h*shrink
		}
	}
	if shop.Name != "" {
		s.paragraph(11, "B", shop.Ink(ink), shop.Name, room)
		s.paragraph(8.5, "", soft, shop.Address, room)
	}
	if s.pdf.GetY() < bottom {
		s.pdf.SetY(bottom)
	}
	if s.pdf.GetY() > top {
		s.gap(3)
	}
}

// terms are the shop's terms at the end.
func (s *sheet) terms() {
	if s.d.Shop.Terms != "" {
		s.gap(4)
		s.text(7.5, "", soft, s.d.Shop.Terms)
	}
}

// first is the page that a customer reads who reads one.
func (s *sheet) first() {
	d := s.d
	s.pdf.Bookmark(s.letters.printable(d.Label("report")), 0, -1)
	s.head()
	s.text(11, "B", ink, about(d))
	mark := which(d)
	if d.Simulated {
		mark += "  [" + d.Label("simulated") + "]"
	}
	s.text(9, "", soft, mark)
	y := s.pdf.GetY() + 1
	rule := d.Shop.Ink(ink)
	s.pdf.SetDrawColor(rule[0], rule[1], rule[2])
	s.pdf.SetLineWidth(0.5)
	s.pdf.Line(margin, y, margin+s.width(), y)
	s.gap(5)
	s.text(21, "B", ink, d.Headline)
	s.gap(1)
	s.text(12.5, "", ink, d.Lead)
	s.text(12.5, "", ink, d.Week)
	for _, r := range d.Reasons {
		s.text(10, "", ink, r)
	}
	if d.Note != "" {
		s.gap(1)
		s.text(10, "", ink, d.Note)
	}
	shown, more := waits(d, s.o)
	if len(shown) > 0 {
		s.heading("waiting")
		for _, l := range lanes(shown) {
			s.lane(l)
		}
		if more > 0 {
			s.text(9, "", soft, fmt.Sprintf("+ %d", more))
		}
		s.text(9.5, "", ink, d.Share)
	}
	s.compared()
	for _, p := range d.Parts {
		s.titled(p.Title)
		s.bullets(10, dot, p.Lines)
	}
	if len(d.Done) > 0 {
		s.heading("done")
		s.bullets(10, dot, d.Done)
	}
	s.text(10, "", ink, d.Price)
	if s.o.Length == One {
		s.changes()
		s.caveats()
	}
}

// compared is the table of several drives.
func (s *sheet) compared() {
	c := s.d.Beside
	if c == nil {
		return
	}
	s.heading("compared")
	cols, align := []float64{0.24}, "L"
	for range c.Columns {
		cols, align = append(cols, 0.76/float64(len(c.Columns))), align+"L"
	}
	s.row(true, cols, align, append([]string{s.d.Label("test")}, c.Columns...)...)
	for _, r := range c.Rows {
		s.row(false, cols, align, append([]string{r.Name}, r.Cells...)...)
	}
	s.gap(1)
	s.bullets(10, dot, c.Said)
}

// lane draws a wait: its name and its result, and both sides on one scale.
func (s *sheet) lane(l lane) {
	pdf, h := s.pdf, 4.6*s.scale
	name := l.Name
	if n := notes(l.Figure); n != "" {
		name += " [" + n + "]"
	}
	pdf.SetFont("now", "B", 10.5*s.scale)
	s.colour(ink)
	if main := s.letters.printable(l.Words.Main); pdf.GetStringWidth(s.letters.printable(name))+pdf.GetStringWidth(main)+6 < s.width() {
		pdf.CellFormat(s.width()*0.5, h, s.letters.printable(name), "", 0, "L", false, 0, "")
		pdf.CellFormat(s.width()*0.5, h, main, "", 1, "R", false, 0, "")
	} else {
		s.text(10.5, "B", ink, name)
		s.text(10.5, "", ink, l.Words.Main)
	}
	labelWidth, figureWidth := 17*s.scale, 31*s.scale
	long := s.width() - labelWidth - figureWidth - 4
	for _, side := range []struct {
		label, words string
		pct          float64
		broken       bool
		c            [3]int
	}{{"then", l.Words.Then, l.ThenPct, l.ThenBroken, ochre}, {"now", l.Words.Now, l.NowPct, l.NowBroken, teal}} {
		if side.words == "" {
			continue
		}
		pdf.SetFont("now", "", 9.5*s.scale)
		s.colour(side.c)
		pdf.CellFormat(labelWidth, h, s.letters.printable(s.d.Label(side.label)), "", 0, "L", false, 0, "")
		x, y := pdf.GetXY()
		pdf.SetFillColor(side.c[0], side.c[1], side.c[2])
		pdf.Rect(x, y+h*0.2, max(0.3, long*side.pct/100), h*0.6, "F")
		if side.broken {
			pdf.SetFillColor(255, 255, 255)
			for _, at := range []float64{0.90, 0.93} {
				pdf.Rect(x+long*at, y, 1, h, "F")
			}
		}
		pdf.SetXY(x+long+4, y)
		s.colour(ink)
		pdf.CellFormat(figureWidth, h, s.letters.printable(side.words), "", 1, "R", false, 0, "")
	}
	var beside []string
	for _, t := range []string{l.Words.Extra, confidence(s.d, l.Figure)} {
		if t != "" {
			beside = append(beside, t)
		}
	}
	s.text(8.5, "", soft, strings.Join(beside, "; "))
	s.gap(1.6)
}

// second is what comes after the first page.
func (s *sheet) second() {
	d := s.d
	s.pdf.AddPage()
	if len(d.Drive) > 0 {
		s.heading("drive")
		s.text(9, "", soft, d.Label("drive-note"))
		s.gap(1)
		s.table(d.Drive)
	}
	if len(d.Other) > 0 {
		s.heading("other")
		s.table(d.Other)
	}
	s.caveats()
	s.photos()
	if len(s.d.How) > 0 {
		s.heading("how")
		s.bullets(9.5, dot, s.d.How)
	}
	s.changes()
}

// photos stand two in a row, each as wide as half of the sheet and at most so high, mm.
func (s *sheet) photos() {
	const gap, high = 6.0, 55.0
	if len(s.d.Photos) == 0 {
		return
	}
	s.heading("photos")
	wide := (s.width() - gap) / 2
	for i := 0; i < len(s.d.Photos); i += 2 {
		if s.pdf.GetY()+high+8 > s.bottom() {
			s.pdf.AddPage()
		}
		top, bottom := s.pdf.GetY(), s.pdf.GetY()
		for k, p := range s.d.Photos[i:min(i+2, len(s.d.Photos))] {
			x := margin + float64(k)*(wide+gap)
			options := fpdf.ImageOptions{ImageType: "JPG"}
			name := fmt.Sprint("photo ", i+k)
			info := s.pdf.RegisterImageOptionsReader(name, options, bytes.NewReader(p.Data))
			if s.pdf.Err() {
				s.pdf.ClearError() // one that cannot be drawn is no reason for no report
				continue
			}
			shrink := min(wide/info.Width(), high/info.Height())
			s.pdf.ImageOptions(name, x, top, info.Width()*shrink, info.Height()*shrink, false, options, 0, "")
			s.pdf.SetXY(x, top+info.Height()*shrink+1)
			s.pdf.SetFont("now", "", 8.5)
			s.colour(soft)
			s.pdf.MultiCell(wide, 4, s.breakable(s.letters.printable(p.Caption), wide), "", "L", false)
			bottom = max(bottom, s.pdf.GetY())
		}
		s.pdf.SetXY(margin, bottom+2)
	}
}

// changes say what is different from the revision before; behind the first page, where there is more.
func (s *sheet) changes() {
	if len(s.d.Changes) > 0 {
		s.heading("changes")
		s.bullets(9.5, dot, s.d.Changes)
	}
}

func (s *sheet) caveats() {
	if len(s.d.Caveats) == 0 {
		return
	}
	s.heading("caveats")
	var list []string
	for _, c := range s.d.Caveats {
		list = append(list, c.Title+" "+c.Detail+in(c.Lines))
	}
	s.bullets(9.5, func(i int) string { return fmt.Sprintf("%d.", i+1) }, list)
}

// table writes figures in columns.
func (s *sheet) table(figures []report.Figure) {
	cols := []float64{0.37, 0.17, 0.17, 0.29}
	s.row(true, cols, "LRRR", s.d.Label("test"), s.d.Label("then"), s.d.Label("now"), s.d.Label("factor"))
	for _, f := range figures {
		name := f.Name
		if n := notes(f); n != "" {
			name += " [" + n + "]"
		}
		then, now := f.Words.Then, f.Words.Now
		if then == "" {
			then = s.d.Label("none")
		}
		if now == "" {
			now = s.d.Label("none")
		}
		s.row(false, cols, "LRRR", name, then, now, result(s.d, f))
	}
}

// row writes cells side by side, as high as the highest; a row isn't broken over pages.
func (s *sheet) row(head bool, cols []float64, align string, cells ...string) {
	pdf, points := s.pdf, 9.5*s.scale
	style := ""
	if head {
		style = "B"
	}
	pdf.SetFont("now", style, points)
	s.colour(ink)
	h := points * 0.46
	lines, most := make([][]string, len(cells)), 1
	for i, c := range cells {
		room := s.width()*cols[i] - 2
		lines[i] = pdf.SplitText(s.breakable(s.letters.printable(c), room), room)
		most = max(most, len(lines[i]))
	}
	if pdf.GetY()+float64(most)*h > s.bottom() {
		pdf.AddPage()
		pdf.SetFont("now", style, points)
		s.colour(ink)
	}
	y := pdf.GetY()
	x := margin
	for i := range cells {
		for n, line := range lines[i] {
			pdf.SetXY(x, y+float64(n)*h)
			pdf.CellFormat(s.width()*cols[i], h, line, "", 0, align[i:i+1], false, 0, "")
		}
		x += s.width() * cols[i]
	}
	y += float64(most)*h + 0.8
	pdf.SetDrawColor(200, 196, 184)
	pdf.SetLineWidth(0.15)
	pdf.Line(margin, y, margin+s.width(), y)
	pdf.SetXY(margin, y+0.8)
}

// appendix is every run.
func (s *sheet) appendix() {
	s.pdf.AddPage()
	s.heading("appendix")
	cols := []float64{0.32, 0.1, 0.21, 0.16, 0.21}
	d := s.d
	s.row(true, cols, "LLLRL", d.Label("test"), d.Label("side"), d.Label("at"), d.Label("value"), d.Label("kept"))
	for _, r := range d.Runs {
		kept := r.Aside
		if kept == "" {
			kept = d.Label("yes")
		}
		s.row(false, cols, "LLLRL", r.Test, r.Side, moment(d, r.At), r.Value, "  "+kept)
	}
}
