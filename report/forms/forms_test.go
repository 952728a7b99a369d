package forms

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"image"
	"image/color"
	"image/jpeg"
	"image/png"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/go-json-experiment/json"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/unicode/bidi"

	"nowthen/core/catalogue"
	"nowthen/core/compare"
	"nowthen/core/job"
	"nowthen/core/words"
	"nowthen/report"
)

// visit is a job with so many waits and the drive's tests, three runs a side; names are typed.
func visit(waits int, customer string) *job.Job {
	j := &job.Job{
		Head: job.Head{Number: "2026-0007", Customer: job.Customer{Name: customer},
			Reasons: []job.Reason{{What: job.ReasonSlowStart, Outcome: job.Solved}},
			Work:    []job.Work{{What: job.WorkCleaning, Note: "fan"}}},
		Computers: []job.Computer{{ID: "c", Maker: "Larkfield", Model: "Hearth 15"}},
		Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 500e9}},
			{ID: "d2", DriveLabel: job.DriveLabel{Kind: job.SataSSD, CapacityBytes: 1e12,
				Price: &job.Price{Amount: "71.50", Currency: "EUR"}}}},
		Tests: catalogue.Standard(0, 0),
		Setups: []job.Setup{{ID: "then", Role: job.Then, Computer: "c", Drive: "d1"},
			{ID: "now", Role: job.Now, Computer: "c", Drive: "d2", System: job.System{Origin: "cloned"}}},
		Sittings: []job.Sitting{{ID: "s1", Setup: "then"}, {ID: "s2", Setup: "now"}},
	}
	j.Tests[0].PerWeek = 7
	for i := 1; i < waits; i++ {
		j.Tests = append(j.Tests,
			job.Test{ID: fmt.Sprint("w", i), Kind: job.Timed, Name: fmt.Sprintf("Program number %d of the customer", i),
				Unit: "s", Better: job.Lower})
	}
	for s, factor := range map[string]float64{"s1": 1, "s2": 0.4} {
		for i, t := range j.Tests {
			v := (20 + 7.3*float64(i)) * factor
			if t.Kind == job.OnDrive {
				v = 100 / factor
			}
			for n := range 3 {
				j.Runs = append(j.Runs,
					job.Run{ID: fmt.Sprint(t.ID, s, n), Test: t.ID, Sitting: s, Method: job.Automatic,
						Value: v * (1 + float64(n-1)/300), At: time.Unix(int64(n), 0).UTC()})
			}
		}
	}
	return j
}

func document(j *job.Job, in *words.Language) *report.Document {
	return report.New(j, compare.Compare(j, "then", "now", compare.DefaultOptions),
		report.Options{Language: in, Shop: report.Shop{Name: "Quayside Repairs", Address: "4 Ropewalk\nThe Harbour",
			Footer: "Register 4711 · quayside.example", Terms: "Two years on parts, one on work.\nThe old drive is " +
				"kept for four weeks.", Colour: "#0b5d5e", Logo: logo(220, 90)}})
}

// Photos of the work come after the first page, two in a row; one that is none is left out.
func TestPhotos(t *testing.T) {
	img := image.NewGray(image.Rect(0, 0, 900, 600))
	var picture bytes.Buffer
	require.NoError(t, jpeg.Encode(&picture, img, nil))
	d := document(visit(3, "Ottilie"), words.English)
	for _, caption := range []string{"Photo of the inside, screws sorted", "The fan as it came, \"full\" of <dust>",
		"x"} {
		d.Photos = append(d.Photos, report.Photo{Caption: caption, Data: picture.Bytes()})
	}
	d.Photos = append(d.Photos, report.Photo{Caption: "nothing", Data: []byte("no picture")})
	var b bytes.Buffer
	require.NoError(t, PDF(t.Context(), &b, d, Options{}))
	assert.Less(t, b.Len(), 1<<20)
	raw := flat(tool(t, b.Bytes(), "pdftotext", "-raw"))
	assert.Contains(t, raw, "Photos of the work")
	assert.Contains(t, raw, "screws sorted")
	assert.Len(t, regexp.MustCompile(`(?m)^ +2 +\d+ image +900`).FindAllString(tool(t, b.Bytes(), "pdfimages", "-list",
		"-f", "2", "-l", "2"), -1), 3)
	assert.Equal(t, 2, pages(t, b.Bytes()))
	b.Reset()
	require.NoError(t, PDF(t.Context(), &b, d, Options{Length: One}))
	assert.Equal(t, 1, pages(t, b.Bytes()))
	b.Reset()
	require.NoError(t, Write(t.Context(), &b, "x.html", d, Options{}))
	assert.Equal(t, 4, strings.Count(b.String(), "data:image/jpeg;base64,"))
	assert.NotContains(t, b.String(), "<dust>")
	b.Reset()
	require.NoError(t, Write(t.Context(), &b, "x.txt", d, Options{}))
	assert.Contains(t, b.String(), "- Photo of the inside, screws sorted")
}

// logo is a made-up one.
func logo(width, height int) []byte {
	img := image.NewNRGBA(image.Rect(0, 0, width, height))
	for x := range width {
		for y := range height {
			img.Set(x, y, color.NRGBA{0x0b, 0x5d, 0x5e, uint8(x * 255 / width)})
		}
	}
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		panic(err)
	}
	return b.Bytes()
}

// The shop's logo is on the first page, however large; one that is none leaves the report as it is.
func TestALogo(t *testing.T) {
	d := document(visit(3, "Ottilie"), words.English)
	images := func() int {
		var b bytes.Buffer
		require.NoError(t, PDF(t.Context(), &b, d, Options{}))
		return len(regexp.MustCompile(`(?m)^ +1 +\d+ image`).FindAllString(tool(t, b.Bytes(), "pdfimages", "-list",
			"-l", "1"), -1))
	}
	assert.Equal(t, 1, images())
	d.Shop.Logo = logo(2000, 2000)
	assert.Equal(t, 1, images())
	withLogo := height(t, d)
	d.Shop.Logo = []byte("no picture")
	assert.Zero(t, images())
	assert.Less(t, height(t, d), withLogo, "nor in the picture")
	var b bytes.Buffer
	require.NoError(t, Write(t.Context(), &b, "x.html", d, Options{}))
	require.NoError(t, Write(t.Context(), &b, "x.png", d, Options{}))

	d.Shop.Colour, d.Shop.Logo = `red" onload="x`, logo(4, 4)
	b.Reset()
	require.NoError(t, Write(t.Context(), &b, "x.html", d, Options{}))
	assert.NotContains(t, b.String(), "onload=\"x")
	assert.Contains(t, b.String(), "data:image/png;base64,")
	assert.Equal(t, [3]int{1, 2, 3}, d.Shop.Ink([3]int{1, 2, 3}))
	assert.Equal(t, [3]int{0x0b, 0x5d, 0x5e}, report.Shop{Colour: "#0b5d5e"}.Ink(ink))
}

// tool runs one of poppler's over a PDF.
func tool(t *testing.T, pdf []byte, name string, args ...string) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "r.pdf")
	require.NoError(t, os.WriteFile(path, pdf, 0o600))
	out, err := exec.Command(name, append(args, path, "-")...).Output()
	if name != "pdftotext" {
		out, err = exec.Command(name, append(args, path)...).Output()
	}
	require.NoError(t, err, "%s; make setup installs poppler-utils", name)
	return string(out)
}

var blanks = regexp.MustCompile(`\s+`)

// flat is a text in one line.
func flat(s string) string { return blanks.ReplaceAllString(s, " ") }

// pages of a PDF, by its own reader.
func pages(t *testing.T, pdf []byte) int {
	t.Helper()
	n := 0
	_, err := fmt.Sscan(regexp.MustCompile(`Pages:\s+(\d+)`).FindStringSubmatch(tool(t, pdf, "pdfinfo"))[1], &n)
	require.NoError(t, err)
	return n
}

// Read back by a real reader, every figure and sentence of the document is on paper, in both
// languages, on both papers, with one wait and with twelve; one page is one page.
func TestPaper(t *testing.T) {
	for _, in := range []*words.Language{words.English, words.German} {
		for _, paper := range Papers {
			for _, n := range []int{1, 2, 6, 12} {
				t.Run(fmt.Sprint(in.Tag, paper, n), func(t *testing.T) {
					d := document(visit(n, "Zoë Brandvold-Łęcka"), in)
					var b bytes.Buffer
					require.NoError(t, PDF(t.Context(), &b, d, Options{Paper: paper, Length: Full}))
					assert.Less(t, b.Len(), 1<<20)
					text := flat(tool(t, b.Bytes(), "pdftotext", "-layout"))
					for _, f := range append(append([]report.Figure{}, d.Waiting...), d.Drive...) {
						for _, s := range []string{f.Words.Then, f.Words.Now} {
							assert.Contains(t, text, s)
						}
					}
					raw := flat(tool(t, b.Bytes(), "pdftotext", "-raw"))
					for _, s := range append([]string{d.Headline, d.Lead, d.Week, "Zoë Brandvold-Łęcka",
						"Quayside Repairs", d.Shop.Footer, d.Shop.Terms, d.Label("appendix"), d.Price}, d.Done...) {
						assert.Contains(t, raw, flat(s))
					}
					info := tool(t, b.Bytes(), "pdfinfo")
					size := map[string]string{A4: "595.28 x 841.89", Letter: "612 x 792"}[paper]
					assert.Contains(t, info, size)
					assert.Contains(t, info, title(d))
					assert.Contains(t, b.String(), "/Lang ("+in.Tag+")")
					fonts := strings.Split(strings.TrimSpace(tool(t, b.Bytes(), "pdffonts")), "\n")[2:]
					require.NotEmpty(t, fonts)
					for _, f := range fonts {
						assert.Regexp(t, `Identity-H\s+yes`, f, "the typeface is in it")
					}
					b.Reset()
					require.NoError(t, PDF(t.Context(), &b, d, Options{Paper: paper, Length: One}))
					assert.Equal(t, 1, pages(t, b.Bytes()), "one page is one page")
					// Also with all that a technician may add, in a revision that changed much.
					much := *d
					much.Note = strings.Repeat("The fan will be delivered in a week. ", 28)[:1000]
					for _, f := range d.Waiting {
						much.Changes = append(much.Changes,
							f.Name+": it was Then 92 s, Now 36 s, 60 % less waiting; now it is Then 92 s, Now 31 s, "+
								"66 % less waiting.")
					}
					b.Reset()
					require.NoError(t, PDF(t.Context(), &b, &much, Options{Paper: paper, Length: One}))
					assert.Equal(t, 1, pages(t, b.Bytes()), "one page is one page, whatever stands on it")
					b.Reset()
					require.NoError(t, PDF(t.Context(), &b, d, Options{Paper: paper}))
					first := flat(tool(t, b.Bytes(), "pdftotext", "-raw", "-l", "1"))
					assert.Contains(t, first, flat(d.Headline))
					assert.NotContains(t, first, d.Label("how"), "what is for those who ask stands behind")
				})
			}
		}
	}
}

// Nothing on paper is outside its margins, or overlaps something else.
func TestNothingIsCutOff(t *testing.T) {
	long := strings.Repeat("Donaudampfschifffahrtsgesellschaft", 6)
	for _, name := range []string{long, long + " שלום"} {
		nothingIsCutOff(t, name)
	}
}

func nothingIsCutOff(t *testing.T, long string) {
	t.Helper()
	j := visit(12, long)
	j.Tests[1].Name, j.Computers[0].Model = long, long
	for _, paper := range Papers {
		var b bytes.Buffer
		require.NoError(t, PDF(t.Context(), &b, document(j, words.English), Options{Paper: paper, Length: Full}))
		wide := map[string]float64{A4: 595.28, Letter: 612}[paper]
		boxes := regexp.MustCompile(`<word xMin="([\d.]+)" yMin="([\d.]+)" xMax="([\d.]+)" yMax="([\d.]+)">`).FindAllStringSubmatch(tool(t, b.Bytes(), "pdftotext", "-bbox"), -1)
		require.Greater(t, len(boxes), 200)
		for _, box := range boxes {
			var x0, y0, x1, y1 float64
			for i, at := range []*float64{&x0, &y0, &x1, &y1} {
				_, err := fmt.Sscan(box[i+1], at)
				require.NoError(t, err)
			}
			assert.GreaterOrEqual(t, x0, 45.0, box[0])
			assert.LessOrEqual(t, x1, wide-45, box[0])
		}
	}
}

const hostile = "=cmd|'/c calc'!A1 <script>alert(1)</script>\r\nsecond line & \"quotes\" \u202eevil\u202c 😀 שלום"

// What people typed comes out as text in every form.
func TestWhateverWasTypedIsText(t *testing.T) {
	j := visit(3, hostile)
	j.Tests[1].Name, j.Head.Work[0].Note, j.Head.Number = hostile, hostile, "=1+1"
	d := document(j, words.English)
	for _, ending := range Endings {
		var b bytes.Buffer
		require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{Length: Full}), ending)
		require.NotZero(t, b.Len())
		switch ending {
		case ".html":
			assert.NotContains(t, b.String(), "<script")
			assert.Contains(t, b.String(), "&lt;script&gt;alert(1)")
			assert.NotContains(t, b.String(), "\u202e", "nothing turns the direction of what follows")
			page := regexp.MustCompile(`src="data:image/png;base64,[A-Za-z0-9+/=&#;]*"`).ReplaceAllString(b.String(),
				"")
			assert.NotRegexp(t, `(?i)(src|href)\s*=|url\(|@import|http`, page, "it asks for nothing")
		case ".csv":
			rows, err := csv.NewReader(&b).ReadAll()
			require.NoError(t, err)
			for _, row := range rows {
				for _, c := range row {
					if c != "" {
						assert.NotContains(t, "=+@", c[:1], c)
					}
				}
			}
		case ".txt":
			assert.Contains(t, b.String(), "<script>alert(1)</script> second line")
			assert.NotContains(t, b.String(), "\u202e")
		case ".pdf":
			text := flat(tool(t, b.Bytes(), "pdftotext", "-raw"))
			assert.Contains(t, text, "<script>alert(1)</script>")
			assert.Contains(t, text, "□", "what the typeface lacks is a box")
		case ".png":
			img, err := png.Decode(&b)
			require.NoError(t, err)
			assert.Equal(t, pictureWidth, img.Bounds().Dx())
			assert.Greater(t, img.Bounds().Dy(), 400)
		case ".json":
			var back report.Document
			require.NoError(t, json.Unmarshal(b.Bytes(), &back))
			assert.Equal(t, d.Headline, back.Headline)
			assert.Equal(t, hostile, back.Customer, "data is as it was typed")
		}
	}
}

// A name in letters that the usual typeface lacks sets the whole report in one that has them, read
// from right to left as it
// is; figures and lengths stay, and signs that none has are boxes.
func TestNamesInOtherScripts(t *testing.T) {
	for name, customer := range map[string]string{"Hebrew": "שלום נמל", "Arabic": "ورشة المرفأ",
		"Greek": "Ωδείο Λιμένος", "with signs": "שלום 🚢 ok"} {
		t.Run(name, func(t *testing.T) {
			d := document(visit(3, customer), words.English)
			var b bytes.Buffer
			require.NoError(t, PDF(t.Context(), &b, d, Options{Length: Two}))
			assert.Less(t, b.Len(), 1<<20)
			text := tool(t, b.Bytes(), "pdftotext", "-raw")
			for _, word := range strings.Fields(customer) {
				if strings.ContainsRune(word, '🚢') {
					assert.Contains(t, text, "□")
					continue
				}
				// The reader puts what stands from right to left into the order of reading again.
				assert.True(t, strings.Contains(text, word) || strings.Contains(text, bidi.ReverseString(word)),
					"%s in %s", word, text)
			}
			if name != "with signs" {
				assert.NotContains(t, text, "□")
			}
			assert.Equal(t, name != "Greek", typefaceFor(d) == wide())
			require.NoError(t, PNG(t.Context(), &b, d))
			b.Reset()
			require.NoError(t, PDF(t.Context(), &b, document(visit(12, customer), words.German), Options{Length: One}))
			assert.Equal(t, 1, pages(t, b.Bytes()), "one page is one page")
		})
	}
	assert.Same(t, usual(), typefaceFor(document(visit(3, "Jürgen Größe"), words.German)),
		"umlauts and € are in the usual one")
}

// height is how high the picture of a report is, px.
func height(t *testing.T, d *report.Document) int {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, PNG(t.Context(), &b, d))
	c, err := png.DecodeConfig(&b)
	require.NoError(t, err)
	return c.Height
}

// Every form says the same figures.
func TestNoFormSaysMoreOrLess(t *testing.T) {
	d := document(visit(5, "Ottilie"), words.German)
	plain := height(t, d)
	d.Note, d.Changes = "Der Lüfter kommt in einer Woche.", []string{"Nicht mehr gezeigt: Schreiben."}
	assert.Greater(t, height(t, d), plain, "the picture shows them as well")
	for _, ending := range []string{".pdf", ".html", ".txt", ".csv"} {
		var b bytes.Buffer
		require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{}), ending)
		text := b.String()
		switch ending {
		case ".pdf":
			text = tool(t, b.Bytes(), "pdftotext", "-raw")
		case ".html":
			text = regexp.MustCompile(`<[^>]*>`).ReplaceAllString(strings.ReplaceAll(text, "&#43;", "+"), " ")
		}
		text = flat(text)
		for _, f := range append(append([]report.Figure{}, d.Waiting...), d.Drive...) {
			assert.Contains(t, text, flat(f.Name), ending)
			assert.Contains(t, text, f.Words.Main, ending)
			if ending != ".csv" {
				assert.Contains(t, text, f.Words.Then, ending)
				assert.Contains(t, text, confidence(d, f), ending)
			}
		}
		if ending != ".csv" {
			for _, c := range d.Caveats {
				assert.Contains(t, text, flat(c.Detail), ending)
			}
			assert.Contains(t, text, d.Headline)
			assert.Contains(t, text, d.Note, ending)
			assert.Contains(t, text, d.Shop.Footer, ending)
			assert.Contains(t, text, flat(d.Shop.Terms), ending)
			assert.Contains(t, text, flat(d.Changes[0]), ending)
			for _, s := range append(slices.Clone(d.Done), d.Reasons...) {
				assert.Contains(t, text, flat(s), ending)
			}
			assert.Contains(t, text, "Auftrag 2026-0007, Entwurf", ending)
		}
	}
}

// A comparison in which nothing was done has no heading for it.
func TestNoHeadingOverNothing(t *testing.T) {
	d := document(visit(5, "Ottilie"), words.English)
	for _, done := range []bool{true, false} {
		if !done {
			d.Done, d.How = nil, nil
		}
		for _, ending := range []string{".pdf", ".html", ".txt"} {
			var b bytes.Buffer
			require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{}), ending)
			text := b.String()
			if ending == ".pdf" {
				text = tool(t, b.Bytes(), "pdftotext", "-raw")
			}
			assert.Equal(t, done, strings.Contains(strings.ToLower(text), "what was done"), ending)
			assert.Equal(t, done, strings.Contains(strings.ToLower(text), "how it was measured"), ending)
		}
	}
}

// Headings in capitals, days and intervals follow German rules.
func TestTheTextInGerman(t *testing.T) {
	d := document(visit(5, "Ottilie"), words.German)
	d.Other = slices.Clone(d.Waiting[:1])
	require.NotEmpty(t, d.Runs)
	d.Runs[0].At, d.Runs[1].At = "2026-02-03 08:05", "unknown"
	for _, ending := range []string{".txt", ".html", ".pdf", ".csv"} {
		var b bytes.Buffer
		require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{Length: Full}), ending)
		text := b.String()
		switch ending {
		case ".txt":
			assert.Contains(t, text, "AUSSERDEM NOTIERT")
			assert.NotRegexp(t, `\p{Lu}ß|ß\p{Lu}`, text)
		case ".csv":
			assert.Contains(t, text, ",2026-02-03 08:05,", "data keeps times that sort")
			continue
		case ".pdf":
			text = tool(t, b.Bytes(), "pdftotext", "-layout")
		}
		assert.Contains(t, text, "3.2.2026, 08:05", ending)
		assert.NotContains(t, text, "2026-02-03", ending)
		assert.Contains(t, text, "unknown", ending)
	}
}

// A report of the first version, which knew neither languages nor labels, comes out in all
// forms.
func TestAReportOfAnEarlierVersion(t *testing.T) {
	d := &report.Document{}
	require.NoError(t, json.Unmarshal([]byte(`{"number":"2025-0001","issued":"2025-03-01T10:00:00Z","customer":"Ottilie","computer":"Larkfield Hearth","simulated":false,
		"headline":"Your computer is ready after 36 seconds instead of 90.","lead":"That is 60 % less waiting, every time.","week":"","share":"","done":["x"],
		"waiting":[{"name":"Cold start to desktop","unit":"s","better":"lower","then":90,"now":36,"words":{"then":"90.0 s","now":"36.0 s","main":"60 % less waiting","extra":"","range":""},"verdict":"faster","single":false,"notes":[]}],
		"drive":[],"how":["x"],"caveats":[]}`), d))
	d.Complete()
	for _, ending := range Endings {
		var b bytes.Buffer
		require.NoError(t, Write(t.Context(), &b, "x"+ending, d, Options{Length: Full}), ending)
		assert.NotZero(t, b.Len())
		if ending == ".txt" {
			assert.Contains(t, b.String(), "Job 2025-0001, 1 March 2025")
			assert.Contains(t, b.String(), "Before 90.0 s, After 36.0 s")
		}
	}
}

func TestWhatIsRefused(t *testing.T) {
	d := document(visit(1, "x"), words.English)
	for name, o := range map[string]Options{"x.doc": {}, "x": {}, "x.pdf": {Paper: "a5"}, "y.pdf": {Length: "short"}} {
		assert.Error(t, Write(t.Context(), &bytes.Buffer{}, name, d, o), name)
	}
}

func BenchmarkPDF(b *testing.B) {
	d := document(visit(12, "Ottilie"), words.English)
	for b.Loop() {
		if err := PDF(b.Context(), &bytes.Buffer{}, d, Options{Length: Full}); err != nil {
			b.Fatal(err)
		}
	}
}
