package words

import (
	"fmt"
	"math"
	"strings"

	"nowthen/core/fairness"
	"nowthen/core/job"
	"nowthen/core/message"
)

// Finding is a finding in words, as `compare --json` and the ledger have it.
type Finding struct {
	Rule    string          `json:"rule"`
	Effect  fairness.Effect `json:"effect"`
	Then    string          `json:"then"`
	With    string          `json:"with"`
	Lines   []string        `json:"lines"`
	Runs    []string        `json:"runs"`
	Remedy  string          `json:"remedy"`
	Minutes float64         `json:"minutes"`
}

// Finding says a finding about a job to the technician.
func (in *Language) Finding(f *fairness.Finding, j *job.Job) Finding {
	return Finding{Rule: f.Rule, Effect: f.Effect, Then: in.Value(f.Then, j), With: in.Value(f.With, j), Lines: f.Lines,
		Runs:   f.Runs,
		Remedy: in.Say("remedy." + f.Remedy), Minutes: f.Minutes}
}

// Findings says findings about a job to the technician.
func Findings(list []fairness.Finding, j *job.Job) []Finding {
	said := make([]Finding, len(list))
	for i := range list {
		said[i] = English.Finding(&list[i], j)
	}
	return said
}

// Title says in a few words what a rule is about, for technician and customer.
func (in *Language) Title(rule string) string {
	if key := "rule." + rule; in.Has(key) {
		return in.Say(key)
	}
	return rule
}

// Value says what is so on a side of a finding about a job; nil is "". Things of the job are named.
func (in *Language) Value(v fairness.Value, j *job.Job) string {
	switch v := v.(type) {
	case fairness.Text:
		return string(v)
	case fairness.Digest:
		return in.Say("say.digest", message.Values{"Digest": shortDigest(string(v))})
	case fairness.Drive:
		if d := j.Drive(string(v)); d != nil {
			return in.DriveName(d)
		}
		return in.Say("say.no-drive")
	case fairness.Computer:
		if c := j.Computer(string(v)); c != nil {
			if name := strings.TrimSpace(c.Maker + " " + c.Model); name != "" {
				return name
			}
		}
		return in.Say("say.unnamed-computer")
	case fairness.Test:
		if t := j.Test(string(v)); t != nil {
			return in.TestName(t.What, t.Name)
		}
		return string(v)
	case fairness.Term:
		if k := "term." + v.Of + "." + v.Is; in.Has(k) {
			return in.Say(k)
		}
		return v.Is // of a later version
	case fairness.Quantity:
		return in.Quantity(v)
	case fairness.Phrase:
		parts := message.Values{}
		for name, part := range v.Parts {
			parts[name] = in.Value(part, j)
		}
		return in.Say("say."+v.Key, parts)
	case fairness.Several:
		return strings.Join(in.values(v, j), ", ")
	case fairness.Mixed:
		said := in.values(v, j)
		for len(said) > 1 {
			said = append([]string{in.Say("say.and", message.Values{"A": said[0], "B": said[1]})}, said[2:]...)
		}
		return said[0]
	}
	return ""
}

func (in *Language) values(list []fairness.Value, j *job.Job) []string {
	said := make([]string, len(list))
	for i, v := range list {
		said[i] = in.Value(v, j)
	}
	return said
}

// shortDigest is what people compare of a digest: its first digits.
func shortDigest(digest string) string {
	const digits = 8
	_, after, found := strings.Cut(digest, ":")
	if !found {
		after = digest
	}
	if r := []rune(after); len(r) > digits {
		return string(r[:digits])
	}
	return after
}

// Quantity writes a figure of a finding with its unit: "90 %", "92.4 s", "5.9".
func (in *Language) Quantity(q fairness.Quantity) string {
	switch q.Unit {
	case "":
		return in.Number(fmt.Sprintf("%.4g", q.V))
	case "%", "°C":
		return in.Number(fmt.Sprintf("%.0f", q.V)) + " " + q.Unit
	case "×": // a factor: the sentence says what it is of
		return in.Number(fmt.Sprintf("%.2g", q.V))
	case "B":
		return in.bytes(q.V)
	}
	if math.Abs(q.V) >= 10_000 { // no powers of ten
		return in.Number(fmt.Sprintf("%.0f", q.V)) + " " + in.Term("unit", q.Unit, q.Unit)
	}
	return in.Number(fmt.Sprintf("%.4g", q.V)) + " " + in.Term("unit", q.Unit, q.Unit)
}

// bytes writes a size in the largest unit that needs no fraction.
func (in *Language) bytes(n float64) string {
	units := []string{"bytes", "KiB", "MiB", "GiB", "TiB"}
	at := 0
	for at < len(units)-1 && n >= 1024 && math.Mod(n, 1024) == 0 {
		n, at = n/1024, at+1
	}
	return fmt.Sprintf("%.0f %s", n, in.Term("unit", units[at], units[at]))
}
