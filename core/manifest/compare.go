package manifest

import (
	"cmp"
	"errors"
	"fmt"
	"maps"
	"path"
	"slices"
	"strings"
)

// MostListed is how many paths each list of a difference names; counts tell of all.
const MostListed = 1000

// Rules set apart paths that change on their own: patterns by the rule's name. A path is
// set apart where one of its parts matches, whatever the case ([path.Match]).
type Rules map[string][]string

// UsualRules are the rules if nothing else is given.
func UsualRules() Rules {
	return Rules{
		"caches": {".cache", "cache", "caches", "cache2", "code cache", "gpucache", "inetcache", "thumbcache_*.db"},
		"logs":   {"*.log", "*.log.[0-9]*", "logs"},
		"swap":   {"pagefile.sys", "hiberfil.sys", "swapfile.sys", "swapfile"},
	}
}

// Check reports what is wrong with the rules.
func (r Rules) Check() error {
	for name, patterns := range r {
		if strings.TrimSpace(name) == "" {
			return errors.New("a rule has no name")
		}
		for _, p := range patterns {
			if _, err := path.Match(p, ""); err != nil || p == "" || strings.Contains(p, "/") {
				return fmt.Errorf("rule %s: %q is no pattern for one part of a path", name, p)
			}
		}
	}
	return nil
}

// of is the first rule by name that sets a path apart, or "".
func (r Rules) of(p string) string {
	for _, name := range slices.Sorted(maps.Keys(r)) {
		for part := range strings.SplitSeq(strings.ToLower(p), "/") {
			for _, pattern := range r[name] {
				if ok, err := path.Match(strings.ToLower(pattern), part); ok && err == nil {
					return name
				}
			}
		}
	}
	return ""
}

// Difference is what came across, over what is not set apart. Lists are in the order of
// their paths.
type Difference struct {
	// Files and Bytes are what the folder held before.
	Files     int   `json:"files"`
	Bytes     int64 `json:"bytes"`
	Unchanged int   `json:"unchanged"`
	// Missing was there before and is not now; Changed holds something else; New was not
	// there before.
	Missing []string `json:"missing"`
	Changed []string `json:"changed"`
	New     []string `json:"new"`
	// UnreadableBefore could not be read before, whatever it is now; UnreadableNow could be
	// read before and cannot now.
	UnreadableBefore []string `json:"unreadable_before"`
	UnreadableNow    []string `json:"unreadable_now"`
	// SetApart counts paths of before or now by rule.
	SetApart map[string]int `json:"set_apart"`
	Counts   Counts         `json:"counts"`
}

// Counts are how many paths each list would hold without its bound.
type Counts struct {
	Missing          int `json:"missing"`
	Changed          int `json:"changed"`
	New              int `json:"new"`
	UnreadableBefore int `json:"unreadable_before"`
	UnreadableNow    int `json:"unreadable_now"`
}

// All reports whether everything that could be read came across unchanged.
func (d *Difference) All() bool {
	return d.Counts.Missing == 0 && d.Counts.Changed == 0 && d.Counts.UnreadableNow == 0
}

// within reports whether a path lies below one of the folders.
func within(p string, folders map[string]bool) bool {
	for i := strings.LastIndexByte(p, '/'); i > 0; i = strings.LastIndexByte(p[:i], '/') {
		if folders[p[:i]] {
			return true
		}
	}
	return false
}

// Compare reports what of before is there now. The time of a file's last change does not
// count: what it holds does.
func Compare(before, now []Entry, rules Rules) *Difference {
	d := &Difference{Missing: []string{}, Changed: []string{}, New: []string{}, UnreadableBefore: []string{},
		UnreadableNow: []string{}, SetApart: map[string]int{}}
	byPath := make(map[string]*Entry, len(now))
	closed := map[string]bool{} // what cannot be read now; a folder among it hides what lies in it
	for i := range now {
		byPath[now[i].Path] = &now[i]
		if now[i].Why != "" {
			closed[now[i].Path] = true
		}
	}
	inOrder := func(list []Entry) []Entry {
		return slices.SortedFunc(slices.Values(list), func(a, b Entry) int { return cmp.Compare(a.Path, b.Path) })
	}
	note := func(list *[]string, n *int, p string) {
		if *n++; *n <= MostListed {
			*list = append(*list, strings.ToValidUTF8(p, "\uFFFD"))
		}
	}
	for _, b := range inOrder(before) {
		n := byPath[b.Path]
		delete(byPath, b.Path)
		if rule := rules.of(b.Path); rule != "" {
			d.SetApart[rule]++
			continue
		}
		d.Files++
		d.Bytes += b.Size
		switch {
		case b.Why != "":
			note(&d.UnreadableBefore, &d.Counts.UnreadableBefore, b.Path)
		case n == nil && within(b.Path, closed):
			note(&d.UnreadableNow, &d.Counts.UnreadableNow, b.Path)
		case n == nil:
			note(&d.Missing, &d.Counts.Missing, b.Path)
		case n.Why != "":
			note(&d.UnreadableNow, &d.Counts.UnreadableNow, b.Path)
		case n.Digest != b.Digest || n.Link != b.Link || n.Size != b.Size:
			note(&d.Changed, &d.Counts.Changed, b.Path)
		default:
			d.Unchanged++
		}
	}
	for _, n := range inOrder(now) {
		if byPath[n.Path] == nil {
			continue
		}
		if rule := rules.of(n.Path); rule != "" {
			d.SetApart[rule]++
			continue
		}
		note(&d.New, &d.Counts.New, n.Path)
	}
	return d
}
