package fairness_test

import (
	_ "embed"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
	"nowthen/core/words"
)

func init() { fairness.Said = words.English.Value }

// germanWords are the words that a value may have in German, a line each. Names and figures are none.
//
//go:embed testdata/german.txt
var germanWords string

var word = regexp.MustCompile(`\p{L}[\p{L}.]*\p{L}`)

// typedWords are the names that the spoilt jobs bring along.
var typedWords = []string{"x", "dock", "g1", "g2", "EUR"}

// german fails where a text has a word that is no German one, and wasn't typed.
func german(t *testing.T, j *job.Job, text string) {
	t.Helper()
	known := strings.Fields(germanWords)
	names := append(slices.Clone(typedWords), "Copy", "Start")
	for i := range j.Tests {
		names = append(names, word.FindAllString(j.Tests[i].Name, -1)...)
	}
	for i := range j.Drives {
		names = append(names, word.FindAllString(j.Drives[i].Maker+" "+j.Drives[i].Model, -1)...)
	}
	for _, w := range word.FindAllString(text, -1) {
		assert.True(t, slices.Contains(known, w) || slices.Contains(names, w), "%q in %q is no German word", w, text)
	}
	assert.NotContains(t, text, "<no value>")
	assert.NotContains(t, text, "say.")
	assert.NotRegexp(t, `\d\.\d`, text, "a decimal point")
}

// every is every rule's finding in every way that the tests spoil a comparison.
func every(t *testing.T, do func(t *testing.T, j *job.Job, f *fairness.Finding)) {
	seen := map[string]bool{}
	for _, s := range fairness.Spoils() {
		t.Run(s.Rule+"/"+s.Name, func(t *testing.T) {
			j := fairness.Fair()
			s.Spoil(j)
			l := compare.Compare(j, "then", "now", compare.DefaultOptions)
			for i := range l.Findings {
				seen[l.Findings[i].Rule] = true
				do(t, j, &l.Findings[i])
			}
		})
	}
	for _, rule := range fairness.Rules() {
		assert.True(t, seen[rule], "%s was never said", rule)
	}
}

// Every finding is said in each language: no word of another, no id, and a remedy.
func TestEveryFindingIsSaid(t *testing.T) {
	ids := regexp.MustCompile(`\b(d[0-9]|c[0-9]|s[0-9]|starts?[0-9]+|t-[a-z]+)\b`)
	every(t, func(t *testing.T, j *job.Job, f *fairness.Finding) {
		for _, v := range []fairness.Value{f.Then, f.With} {
			for _, in := range []*words.Language{words.English, words.German} {
				said := in.Value(v, j)
				assert.Equal(t, v == nil, said == "")
				assert.NotRegexp(t, ids, said, "names, not ids")
			}
			german(t, j, words.German.Value(v, j))
		}
		said := words.English.Finding(f, j)
		assert.NotEmpty(t, said.Remedy)
		assert.NotContains(t, said.Remedy, "remedy.")
		german(t, j, words.German.Title(f.Rule))
	})
}

// Every member of every enumeration, and every phrase, has its words in both languages.
func TestEveryTermIsGerman(t *testing.T) {
	en, err := message.Keys("en")
	require.NoError(t, err)
	none, n := &job.Job{}, 0
	for _, k := range en {
		of, is, found := strings.Cut(strings.TrimPrefix(k, "term."), ".")
		switch {
		case strings.HasPrefix(k, "say."):
			german(t, none, strings.ReplaceAll(words.German.Say(k), "<no value>", ""))
		case strings.HasPrefix(k, "term.") && found:
			german(t, none, words.German.Value(fairness.Term{Of: of, Is: is}, none))
		default:
			continue
		}
		n++
		assert.True(t, words.German.Has(k), k)
	}
	assert.Greater(t, n, 100)
	for of, members := range map[string][]string{
		"power": names(job.Mains, job.Battery), "power-mode": names(job.NormalMode,
			job.SavingMode), "origin": names(job.AsArrived, job.Cloned, job.Fresh, job.Restored),
		"port": names(job.PortSATA, job.PortM2, job.PortUSB, job.PortMMC, job.PortPCIe), "warmth": names(job.Cold,
			job.Warm),
		"busy": names(job.BusyRecording, job.BusyDownload, job.BusyUpdate, job.BusyIndexing, job.BusyBackup,
			job.BusyScan, job.BusyOther),
		"start-kind": names(job.ColdStart, job.ResumeAssisted), "work": names(job.WorkKinds...),
	} {
		for _, m := range members {
			assert.True(t, words.German.Has("term."+of+"."+m), "%s of %s", m, of)
		}
	}
}

// The kinds of values, each in both languages.
func TestValues(t *testing.T) {
	j := &job.Job{Drives: []job.Drive{{ID: "d1", DriveLabel: job.DriveLabel{Kind: job.HDD, CapacityBytes: 5e11}}},
		Computers: []job.Computer{{ID: "c1", Maker: "Larkfield", Model: "7"},
			{ID: "c2"}}, Tests: []job.Test{{ID: "t", What: "cold-start", Name: "Cold start to desktop"}}}
	type of = map[string]fairness.Value
	for name, tt := range map[string]struct {
		v      fairness.Value
		en, de string
	}{
		"nothing": {nil, "", ""},
		"typed":   {fairness.Text("Windows full"), "Windows full", "Windows full"},
		"a digest": {fairness.Digest("sha256:0123456789abcdef"), "fingerprint 01234567",
			"Prüfsumme 01234567"},
		"a drive": {fairness.Drive("d1"), "500 GB hard disk", "500-GB-Festplatte"},
		"a drive that is gone": {fairness.Drive("d9"), "a drive that is gone",
			"ein Laufwerk, das nicht mehr da ist"},
		"a computer":         {fairness.Computer("c1"), "Larkfield 7", "Larkfield 7"},
		"one without a name": {fairness.Computer("c2"), "a computer without a name", "ein Computer ohne Namen"},
		"a test":             {fairness.Test("t"), "Cold start to desktop", "Kaltstart bis zum Desktop"},
		"a term":             {fairness.Term{Of: "power", Is: "battery"}, "battery", "Akku"},
		"of a later version": {fairness.Term{Of: "power", Is: "solar"}, "solar", "solar"},
		"a share":            {fairness.Quantity{V: 90.4, Unit: "%"}, "90 %", "90 %"},
		"a rate":             {fairness.Quantity{V: 123.456, Unit: "MB/s"}, "123.5 MB/s", "123,5 MB/s"},
		"a quick drive":      {fairness.Quantity{V: 14000, Unit: "MB/s"}, "14000 MB/s", "14000 MB/s"},
		"files":              {fairness.Quantity{V: 1.5, Unit: "files/s"}, "1.5 files/s", "1,5 Dateien/s"},
		"a factor":           {fairness.Quantity{V: 2.55, Unit: "×"}, "2.5", "2,5"},
		"bytes":              {fairness.Quantity{V: 1000, Unit: "B"}, "1000 bytes", "1000 Bytes"},
		"whole units":        {fairness.Quantity{V: 3 << 20, Unit: "B"}, "3 MiB", "3 MiB"},
		"a phrase": {fairness.Phrase{Key: "full",
			Parts: of{"Fill": fairness.Quantity{V: 90, Unit: "%"}}}, "90 % full", "zu 90 % voll"},
		"several": {fairness.Several{fairness.Text("a"), fairness.Term{Of: "busy", Is: "scan"}},
			"a, scan", "a, eine Virenprüfung"},
		"what should be one": {fairness.Mixed{fairness.Text("a"), fairness.Text("b"), fairness.Text("c")},
			"a and b and c", "a und b und c"},
		"a phrase in a phrase": {fairness.Phrase{Key: "of-fact",
			Parts: of{"Fact": fairness.Term{Of: "fact", Is: "power"}, "Is": fairness.Term{Of: "known", Is: "no"}}},
			"power supply: not recorded", "Stromversorgung: nicht notiert"},
		"where a drive is fitted": {fairness.Phrase{Key: "inside",
			Parts: of{"Port": fairness.Term{Of: "port", Is: "sata"}}}, "inside (SATA)", "eingebaut (SATA)"},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, tt.en, words.English.Value(tt.v, j))
			assert.Equal(t, tt.de, words.German.Value(tt.v, j))
		})
	}
}

func names[T ~string](of ...T) []string { return strings.Split(job.Join(of), ", ") }
