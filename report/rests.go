package report

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"github.com/go-json-experiment/json"

	"nowthen/core/compare"
	"nowthen/core/fairness"
	"nowthen/core/job"
)

// Sentence is a sentence of a report with its sources: JSON Pointers (RFC 6901) into the job's file.
type Sentence struct {
	ID      string   `json:"id"`
	Text    string   `json:"text"`
	RestsOn []string `json:"rests_on"`
}

// states says by rule which members of the job's file a finding of it states. The first part is whose member it is:
// run, sitting, setup, computer, drive, test or job.
var states = map[string][]string{
	"other-computer":       {"setup/computer"},
	"other-baseline-drive": {"setup/drive", "setup/replaces", "setup/of", "setup/stand_in", "sitting/job"},
	"other-parameters":     {"run/params", "run/phases", "test/params"},
	"not-recorded": {"sitting/conditions/power", "sitting/conditions/power_mode", "sitting/conditions/busy",
		"sitting/conditions/background_mb_s", "sitting/conditions/cpu_pct", "sitting/conditions/encrypted",
		"sitting/conditions/encrypting", "sitting/conditions/fill_pct", "run/warmth", "test/warmth", "run/start_kind",
		"test/start_kind", "setup/system/version", "run/app_version", "run/content_digest"},
	"more-than-the-drive": {"run/value"},
	"other-app-version":   {"run/app_version"},
	"other-content":       {"run/content_digest", "run/sample"},
	"power":               {"sitting/conditions/power", "sitting/conditions/power_mode"},
	"busy": {"sitting/conditions/busy", "sitting/conditions/background_mb_s",
		"sitting/conditions/cpu_pct"},
	"encrypting":         {"sitting/conditions/encrypting"},
	"encryption":         {"sitting/conditions/encrypted"},
	"memory-changed":     {"setup/fitted/memory_bytes", "computer/memory_bytes", "job/work"},
	"processor-changed":  {"setup/fitted", "computer/processor", "computer/graphics"},
	"other-work":         {"job/work"},
	"control-moved":      {"run/value"},
	"system-version":     {"setup/system/version"},
	"system-origin":      {"setup/system/origin"},
	"start-kind":         {"run/start_kind", "test/start_kind"},
	"first-after-swap":   {"sitting/conditions/first_after_swap"},
	"warmth":             {"run/warmth", "test/warmth"},
	"attachment":         {"setup/attached/port", "setup/link/kind"},
	"port-limit":         {"setup/attached", "setup/link", "run/value"},
	"below-rating":       {"drive/rated", "run/value"},
	"beyond-link":        {"setup/attached", "setup/link", "run/value"},
	"beyond-mechanics":   {"drive/kind", "run/value"},
	"content-moved":      {"run/on"},
	"content-elsewhere":  {"run/on"},
	"attached-devices":   {"sitting/conditions/attached"},
	"firmware-settings":  {"sitting/conditions/firmware"},
	"weak-supply":        {"sitting/conditions/battery_from_pct", "sitting/conditions/battery_to_pct"},
	"heat":               {"run/peak_temp_c", "drive/rated/max_temp_c"},
	"fill":               {"sitting/conditions/fill_pct"},
	"placement":          {"run/placement"},
	"engine-limited":     {"run/engine_cpu_pct"},
	"drift":              {"run/value"},
	"lone-run":           {"run/value"},
	"method":             {"run/method"},
	"probe-version":      {"run/engine"},
	"simulated":          {"run/simulated"},
	"not-settled":        {"run/value"},
	"settles":            {"run/value"},
	"other-program":      {"run/read_in", "run/method"},
	"unequal-amounts":    {"run/bytes"},
	"same-drive":         {"sitting/where"},
	"measured-elsewhere": {"sitting/where"},
	"system-beside":      {"setup/system/also_installed"},
}

// places finds JSON Pointers into a job's file.
type places struct {
	*job.Index
	file  any // as a reader of the file has it
	runs  map[string]int
	sides [2]string // ids of the setups
}

func placesIn(j *job.Job, l *compare.Ledger) *places {
	p := &places{Index: j.Indexed(), runs: make(map[string]int, len(j.Runs)), sides: [2]string{l.Then, l.With}}
	for i := range j.Runs {
		p.runs[j.Runs[i].ID] = i
	}
	if text, err := json.Marshal(j); err == nil {
		_ = json.Unmarshal(text, &p.file) // what was written is read
	}
	return p
}

// at returns what a pointer leads to, nil where there is nothing.
func at(file any, pointer string) any {
	for part := range strings.SplitSeq(strings.TrimPrefix(pointer, "/"), "/") {
		part = strings.NewReplacer("~1", "/", "~0", "~").Replace(part)
		switch v := file.(type) {
		case map[string]any:
			file = v[part]
		case []any:
			i, err := strconv.Atoi(part)
			if err != nil || i < 0 || i >= len(v) {
				return nil
			}
			file = v[i]
		default:
			return nil
		}
	}
	return file
}

// there are those of the pointers that lead to something that is stated, each once.
func (p *places) there(pointers ...string) []string {
	list := []string{}
	for _, s := range pointers {
		if v := at(p.file, s); v != nil && v != "" && !slices.Contains(list, s) {
			list = append(list, s)
		}
	}
	return list
}

// of is the pointer to a thing of the job, by its list and id; "" where there is none.
func of[T any](list string, things []T, is func(*T) bool) string {
	for i := range things {
		if is(&things[i]) {
			return fmt.Sprintf("/%s/%d", list, i)
		}
	}
	return ""
}

// setup is the pointer to a setup; where a side is a sitting, to the setup that it was measured on.
func (p *places) setup(id string) string {
	if s := p.Setup(id); s != nil && (p.Sitting(id) != nil || strings.Contains(id, "/")) {
		return of("setups", p.Setups,
			func(o *job.Setup) bool { return o.ID != id && o.Drive == s.Drive && o.Computer == s.Computer })
	}
	return of("setups", p.Setups, func(s *job.Setup) bool { return s.ID == id })
}

func (p *places) sitting(id string) string {
	return of("sittings", p.Sittings, func(s *job.Sitting) bool { return s.ID == id })
}

func (p *places) drive(id string) string {
	return of("drives", p.Drives, func(d *job.Drive) bool { return d.ID == id })
}

func (p *places) test(id string) string {
	return of("tests", p.Tests, func(t *job.Test) bool { return t.ID == id })
}

// kept are the runs that a line rests on: those of both sides.
func (p *places) kept(test string) []*job.Run {
	return slices.Concat(p.Side(test, p.sides[0]), p.Side(test, p.sides[1]))
}

// values are the pointers to the values of a line's runs.
func (p *places) values(test string) []string {
	var list []string
	for _, r := range p.kept(test) {
		list = append(list, fmt.Sprintf("/runs/%d/value", p.runs[r.ID]))
	}
	return list
}

// finding are the pointers to what a finding states of its lines.
func (p *places) finding(f *fairness.Finding) []string {
	var list []string
	for _, test := range f.Lines {
		for _, r := range p.kept(test) {
			for _, member := range states[f.Rule] {
				list = append(list, p.member(r, member)...)
			}
		}
	}
	slices.Sort(list)
	if list = p.there(slices.Compact(list)...); len(list) > 0 {
		return list
	}
	for _, test := range f.Lines { // a difference that follows from the figures
		list = append(list, p.values(test)...)
	}
	return p.there(list...)
}

// member are the pointers to a member of what a run belongs to. A run may state the conditions of its sitting itself.
func (p *places) member(r *job.Run, member string) []string {
	whose, rest, _ := strings.Cut(member, "/")
	sitting := p.Sitting(r.Sitting)
	setup := p.Setup(sitting.Setup)
	run := fmt.Sprintf("/runs/%d/", p.runs[r.ID])
	switch whose {
	case "run":
		return []string{run + rest}
	case "sitting":
		is := func(s *job.Sitting) bool { return s.ID == sitting.ID }
		return []string{of("sittings", p.Sittings, is) + "/" + rest, run + rest}
	case "setup":
		return []string{p.setup(setup.ID) + "/" + rest}
	case "drive":
		return []string{p.drive(setup.Drive) + "/" + rest}
	case "computer":
		is := func(c *job.Computer) bool { return c.ID == setup.Computer }
		return []string{of("computers", p.Computers, is) + "/" + rest}
	case "test":
		return []string{p.test(r.Test) + "/" + rest}
	}
	return []string{"/job/" + rest}
}

// rests adds a sentence of the report with its sources.
func (d writer) rests(id, text string, on ...string) {
	if text = strings.TrimSpace(text); text != "" {
		d.Sentences = append(d.Sentences, Sentence{ID: id, Text: text, RestsOn: d.places.there(on...)})
	}
}
