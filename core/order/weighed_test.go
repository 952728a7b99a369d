package order

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWeightsAreChecked(t *testing.T) {
	fine := func() Weighed {
		return Weighed{Order: "o", Dir: "/", Files: 3, Bytes: 300,
			Largest: []Folder{{"films", 2, 200}, {"mail", 1, 100}}}
	}
	w := fine()
	assert.NoError(t, w.Check())
	for name, change := range map[string]func(*Weighed){
		"more folders than are asked":     func(w *Weighed) { w.Largest = make([]Folder, MostFolders+1) },
		"a folder larger than all":        func(w *Weighed) { w.Largest[0].Bytes = 301 },
		"less than nothing":               func(w *Weighed) { w.Largest[1].Bytes = -1 },
		"less than no files":              func(w *Weighed) { w.Files = -1 },
		"a path that nobody reads":        func(w *Weighed) { w.Largest[0].Path = strings.Repeat("x", maxPath+1) },
		"a reason that goes on for pages": func(w *Weighed) { w.Refused = strings.Repeat("x", maxPath+1) },
	} {
		w := fine()
		change(&w)
		assert.Error(t, w.Check(), name)
	}
}
