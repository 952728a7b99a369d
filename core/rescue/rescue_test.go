package rescue

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"nowthen/core/hardware"
	"nowthen/core/order"
)

func TestWhatToCopyFirst(t *testing.T) {
	in := []order.Folder{{Path: "Users/o/Downloads", Bytes: 900}, {Path: "Users/o/Pictures", Bytes: 800},
		{Path: "Users/o/Documents", Bytes: 20}, {Path: "choir", Bytes: 5},
		{Path: "Users/o/Bilder/cache", Bytes: 1}, {Path: "Users/o/Desktop", Bytes: 10}, {Path: "Mail",
			Bytes: 70}, {Path: "Games/save", Bytes: 3}}
	var got []string
	for _, f := range First(in) {
		got = append(got, f.Path)
	}
	assert.Equal(t, []string{"Users/o/Desktop", "Users/o/Documents", "Users/o/Pictures", "Mail", "choir",
		"Users/o/Bilder/cache", "Games/save", "Users/o/Downloads"}, got)
	assert.Equal(t, "Users/o/Downloads", in[0].Path, "what was given stays as it is")
	assert.Empty(t, First(nil))
}

// Each kind comes before the next, however small that is.
func TestKindsInTheirOrder(t *testing.T) {
	in := []order.Folder{{Path: "Downloads", Bytes: 1}, {Path: "choir", Bytes: 2}, {Path: "Films", Bytes: 3},
		{Path: "Mail", Bytes: 4}, {Path: "Photos", Bytes: 5}, {Path: "Letters", Bytes: 6}}
	var got []string
	for _, f := range First(in) {
		got = append(got, f.Path)
	}
	assert.Equal(t, []string{"Letters", "Photos", "Mail", "Films", "choir", "Downloads"}, got)
}

func TestADriveThatFails(t *testing.T) {
	n := func(v int64) *int64 { return &v }
	for name, c := range map[string]struct {
		health *hardware.Health
		says   string
	}{
		"it tells nothing": {nil, ""},
		"it is sound":      {&hardware.Health{Pending: n(0), Reallocated: n(3)}, ""},
		"sectors wait": {&hardware.Health{Pending: n(12)},
			"12 sectors of the old drive cannot be read for now."},
		"one sector waits": {&hardware.Health{Pending: n(1)},
			"One sector of the old drive cannot be read for now."},
		"it warns": {&hardware.Health{Warnings: []string{"it runs out of spares"}},
			"The old drive warns: it runs out of spares."},
		"it has replaced many": {&hardware.Health{Reallocated: n(51)}, "The old drive has replaced 51 sectors."},
		"it has replaced some": {&hardware.Health{Reallocated: n(50)}, ""},
	} {
		assert.Equal(t, c.says, Failing(&hardware.Drive{Health: c.health}), name)
	}
	assert.Empty(t, Failing(nil))
}
