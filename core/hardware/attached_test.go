package hardware_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/hardware"
	"nowthen/core/job"
)

func TestBeside(t *testing.T) {
	f := &hardware.Facts{
		Drives: []hardware.Drive{
			{ID: "sda", Model: "Veldt Slate 640", Kind: job.HDD}, {ID: "sdb", Maker: "Plover", Model: "Pocket",
				Kind: job.USBFlash},
			{ID: "sdc", Model: "Case", Kind: job.SataSSD, Attached: &job.Attached{Port: job.PortUSB}}, {ID: "sdd",
				Kind: job.SataSSD},
		},
		Volumes: []hardware.Volume{{Mount: "/", Drive: "sda"}, {Mount: "/media/stick", Drive: "sdb"},
			{Mount: "/media/lost"}, {Mount: "D:", Drive: "sdd"}},
	}
	for _, c := range []struct {
		name, dir string
		want      []string
		ok        bool
	}{
		{"the system's drive", "/home/otter", []string{"Case (USB)", "Plover Pocket (USB)", "a drive without a name"},
			true},
		{"the root itself", "/", []string{"Case (USB)", "Plover Pocket (USB)", "a drive without a name"}, true},
		{"the longest mount", "/media/stick/deep", []string{"Case (USB)", "Veldt Slate 640", "a drive without a name"},
			true},
		{"a name that only begins alike", "/media/sticky",
			[]string{"Case (USB)", "Plover Pocket (USB)", "a drive without a name"}, true},
		{"a volume whose drive is not known", "/media/lost/x", nil, false},
		{"a letter", `d:\games`, []string{"Case (USB)", "Plover Pocket (USB)", "Veldt Slate 640"}, true},
		{"a letter that is not there", `E:\games`, nil, false},
	} {
		t.Run(c.name, func(t *testing.T) {
			names, ok := f.Beside(c.dir)
			assert.Equal(t, c.ok, ok)
			assert.Equal(t, c.want, names)
		})
	}
	alone := &hardware.Facts{Drives: f.Drives[:1], Volumes: f.Volumes[:1]}
	names, ok := alone.Beside("/srv")
	assert.True(t, ok)
	assert.Equal(t, []string{}, names, "somebody looked, and there is nothing")
}
