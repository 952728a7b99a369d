// Package rescue proposes what to copy first from a failing drive.
//
// It is pure, and goes by the names of folders: personal files can't be replaced; downloads and
// installed programs can. The technician decides, after asking the owner.
package rescue

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"nowthen/core/hardware"
	"nowthen/core/order"
)

// Failing is why a drive counts as failing, "" if its health data gives no reason.
func Failing(d *hardware.Drive) string {
	if d == nil || d.Health == nil {
		return ""
	}
	h := d.Health
	switch {
	case h.Pending != nil && *h.Pending > 0:
		if *h.Pending == 1 {
			return "One sector of the old drive cannot be read for now."
		}
		return fmt.Sprintf("%d sectors of the old drive cannot be read for now.", *h.Pending)
	case len(h.Warnings) > 0:
		return "The old drive warns: " + strings.Join(h.Warnings, ", ") + "."
	case h.Reallocated != nil && *h.Reallocated > manyReallocated:
		return fmt.Sprintf("The old drive has replaced %d sectors.", *h.Reallocated)
	}
	return ""
}

// manyReallocated is how many replaced sectors a drive may have that still counts as sound.
const manyReallocated = 50

// words rank folders by a part of their path, by how hard their content is to replace: 0 is irreplaceable.
var words = []struct {
	rank  int
	parts []string
}{
	{0, []string{"document", "dokument", "desktop", "schreibtisch", "letter", "brief", "tax", "steuer", "account",
		"buchhaltung", "thesis", "work", "arbeit"}},
	{1, []string{"picture", "photo", "bilder", "foto", "scan", "dcim", "camera"}},
	{2, []string{"mail", "post", "contact", "kontakt", "calendar", "kalender", "message"}},
	{3, []string{"video", "film", "music", "musik", "recording", "aufnahme"}},
	{5, []string{"download", "program", "game", "spiel", "cache", "temp", "windows", "system", "library", "appdata",
		"backup"}},
}

// unnamed is the rank of a folder whose name tells nothing.
const unnamed = 4

func rank(path string) int {
	best := -1
	for _, w := range words {
		for _, p := range w.parts {
			if strings.Contains(strings.ToLower(path), p) {
				if best < 0 || w.rank > best {
					best = w.rank // a cache of pictures is a cache
				}
			}
		}
	}
	if best < 0 {
		return unnamed
	}
	return best
}

// First puts folders in the order in which to copy them: what is hardest to replace first, and of that the
// smaller first, because the drive may fail at any moment.
func First(folders []order.Folder) []order.Folder {
	list := slices.Clone(folders)
	slices.SortStableFunc(list, func(a, b order.Folder) int {
		return cmp.Or(cmp.Compare(rank(a.Path), rank(b.Path)), cmp.Compare(a.Bytes, b.Bytes))
	})
	return list
}
