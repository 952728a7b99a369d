package order

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestFileLists(t *testing.T) {
	fine := FileList{Order: "o", Folder: "/home", Files: 2, Bytes: 9, Unreadable: 1, List: []byte("x")}
	assert.NoError(t, fine.Check())
	for name, change := range map[string]func(*FileList){
		"empty":                         func(l *FileList) { l.List = nil },
		"more than a message can carry": func(l *FileList) { l.List = make([]byte, MostList+1) },
		"fewer than none":               func(l *FileList) { l.Files = -1 },
		"a negative size":               func(l *FileList) { l.Bytes = -1 },
		"more unreadable than there":    func(l *FileList) { l.Unreadable = 3 },
		"an endless path":               func(l *FileList) { l.Folder = string(make([]byte, maxPath+1)) },
	} {
		t.Run(name, func(t *testing.T) {
			l := fine
			change(&l)
			assert.Error(t, l.Check())
		})
	}
}

func TestFilesAreReadByOrders(t *testing.T) {
	for _, k := range []Kind{List, Compare} {
		assert.NoError(t, (&Order{ID: "o", Kind: k, Dir: "/", Folder: "/home"}).Allowed())
		assert.True(t, Begun(k))
		assert.Error(t, (&Order{ID: "o", Kind: k, Folder: "/home"}).Allowed(), "on which drive?")
	}
}
