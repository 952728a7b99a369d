package words

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/job"
)

func TestCarried(t *testing.T) {
	for _, tt := range []struct {
		name string
		in   *Language
		c    job.Carried
		want string
	}{
		{"all", English, job.Carried{Files: 212406, Bytes: 184e9, Unchanged: 212406},
			"212,406 files, 184 GB: all came across unchanged."},
		{"all that could be read", English,
			job.Carried{Files: 212406, Bytes: 184e9, Unchanged: 212392,
				UnreadableBefore: 14},
			"212,406 files, 184 GB: all came across unchanged. 14 could not be read on the old drive already."},
		{"one could not be read", English, job.Carried{Files: 10, Bytes: 1500, Unchanged: 9, UnreadableBefore: 1},
			"10 files, 1.5 kB: all came across unchanged. One could not be read on the old drive already."},
		{"not all", English, job.Carried{Files: 1000, Bytes: 2_345_000_000, Unchanged: 996, Missing: 1, Changed: 2,
			UnreadableNow: 1}, "1,000 files, 2.35 GB: 996 came across unchanged; 1 missing, 2 with different content " +
			"and 1 unreadable now."},
		{"German", German, job.Carried{Files: 212406, Bytes: 1_840_000_000, Unchanged: 212392, UnreadableBefore: 14},
			"212.406 Dateien, 1,84 GB: alle unverändert übertragen. 14 waren schon auf dem alten Laufwerk nicht lesbar."},
		{"none", English, job.Carried{}, "0 files, 0 B: all came across unchanged."},
	} {
		t.Run(tt.name, func(t *testing.T) { assert.Equal(t, tt.want, tt.in.Carried(&tt.c)) })
	}
}
