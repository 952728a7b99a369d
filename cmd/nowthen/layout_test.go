package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"nowthen/testscale"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// partitioner is the system's own tool that partitions drives.
func partitioner(t *testing.T) string {
	t.Helper()
	for _, name := range []string{"sfdisk", "/usr/sbin/sfdisk", "/sbin/sfdisk"} {
		if path, err := exec.LookPath(name); err == nil {
			return path
		}
	}
	testscale.Rare(t)
	t.Fatal("sfdisk is not there; make setup-all installs it")
	return ""
}

// image is a file as large as a drive, without its bytes.
func image(t *testing.T, bytes int64) string {
	t.Helper()
	path := filepath.Join(t.TempDir(), "drive.img")
	f, err := os.Create(path)
	require.NoError(t, err)
	require.NoError(t, f.Truncate(bytes))
	require.NoError(t, f.Close())
	return path
}

// table is what the tool reads off an image.
type table struct {
	Partitiontable struct {
		Label      string
		Sectorsize int64
		Partitions []struct {
			Node, Type, Name string
			Start, Size      int64
			Bootable         bool
		}
	}
}

// partitions applies a script to an image with the real tool and reads it back.
func partitions(t *testing.T, img, script string) table {
	t.Helper()
	tool := partitioner(t)
	cmd := exec.Command(tool, "--wipe", "never", img)
	cmd.Stdin = strings.NewReader(script)
	out, err := cmd.CombinedOutput()
	require.NoError(t, err, "%s\n%s", script, out)
	out, err = exec.Command(tool, "--json", img).Output()
	require.NoError(t, err)
	var tab table
	require.NoError(t, json.Unmarshal(out, &tab))
	return tab
}

const facts = `{"computer": {}, "system": {}, "absent": [], "drives": [{"id": "sda", "capacity_bytes": %d, "logical_bytes": 512}],
 "volumes": [{"mount": "/", "drive": "sda", "partition": %d, "system": true}], "partitions": %s}`

// proposal is what layout prints as JSON.
type proposal struct {
	Format     string
	Version    int
	Fits       bool
	Scheme     string
	Partitions []struct {
		Of, Number  int
		Type, Role  string
		Start_bytes int64
		Size_bytes  int64
		Used_bytes  *int64
		Moved       bool
		Grown_bytes int64
	}
	Free_after_bytes int64
	Warnings         []struct{ Rule, Words string }
}

// read turns a table that the tool made into what the probe's facts say of it.
func (tab table) facts(t *testing.T, capacity int64, system int, used map[int]int64) string {
	t.Helper()
	var list []map[string]any
	for i, p := range tab.Partitiontable.Partitions {
		list = append(list, map[string]any{"drive": "sda", "number": i + 1, "type": p.Type, "name": p.Name,
			"start_bytes": p.Start * tab.Partitiontable.Sectorsize,
			"size_bytes":  p.Size * tab.Partitiontable.Sectorsize, "used_bytes": used[i+1]})
	}
	text, err := json.Marshal(list)
	require.NoError(t, err)
	path := filepath.Join(t.TempDir(), "facts.json")
	require.NoError(t, os.WriteFile(path, fmt.Appendf(nil, facts, capacity, system, text), 0o600))
	return path
}

// A drive that the real tool made is read, and what is proposed the real tool makes, and reads
// back the same.
func TestALayoutIsWhatTheRealToolMakes(t *testing.T) {
	const gib = int64(1) << 30
	for name, c := range map[string]struct {
		from   string // script of the drive as it is
		was    int64
		system int
		used   map[int]int64
		to     int64
		sector int
	}{
		"growing, a recovery behind the system": {"label: gpt\n,100M,U\n,16M,E3C9E316-0B5C-4DB8-817D-F92DF00215AE\n,500G,EBD0A0A2-B9E5-4433-87C0-68B6B72699C7\n,600M,DE94BBA4-06D1-4D22-A16A-BFD50179D6AC\n",
			640_135_028_736, 3, map[int]int64{1: 30 << 20, 3: 180 * gib, 4: 400 << 20}, 960_197_124_096, 512},
		"shrinking": {"label: gpt\n,512M,U\n,800G\n,8G,S\n", 1_000_204_886_016, 2,
			map[int]int64{1: 6 << 20, 2: 90 * gib}, 240_057_409_536, 512},
		"an MBR": {"label: dos\n,500M,7,*\n,200G,7\n,10G,27\n", 320_072_933_376, 2,
			map[int]int64{1: 40 << 20, 2: 80 * gib, 3: 8 * gib}, 960_197_124_096, 512},
		"an MBR beyond what it counts": {"label: dos\n,500M,7,*\n,200G,7\n", 320_072_933_376, 2,
			map[int]int64{1: 40 << 20, 2: 80 * gib}, 4_000_787_030_016, 512},
		"sectors of 4 KiB": {"label: gpt\n,512M,U\n,200G\n", 320_072_933_376, 2,
			map[int]int64{1: 6 << 20, 2: 90 * gib}, 960_197_124_096, 4096},
	} {
		t.Run(name, func(t *testing.T) {
			file := partitions(t, image(t, c.was), c.from).facts(t, c.was, c.system, c.used)
			for _, as := range []string{"system", "by-use", "same-size"} {
				if as == "same-size" && c.to < c.was {
					continue
				}
				args := []string{file, "--capacity", fmt.Sprint(c.to), "--sector", fmt.Sprint(c.sector), "--as", as}
				code, out, errs := nowthen(t, append([]string{"layout", "--json"}, args...)...)
				require.Zero(t, code, errs)
				var p proposal
				require.NoError(t, json.Unmarshal([]byte(out), &p))
				require.True(t, p.Fits, out)
				assert.Equal(t, []any{"nowthen-layout", 1}, []any{p.Format, p.Version})
				code, script, errs := nowthen(t, append([]string{"layout", "--sfdisk"}, args...)...)
				require.Zero(t, code, errs)
				// An image has sectors of 512 bytes; one as many sectors large stands for those of others.
				made := partitions(t, image(t, c.to/int64(c.sector)*512),
					strings.Replace(script, "sector-size: 4096\n", "", 1)).Partitiontable
				require.Len(t, made.Partitions, len(p.Partitions))
				for i, q := range p.Partitions {
					assert.Equal(t, []int64{q.Start_bytes, q.Size_bytes},
						[]int64{made.Partitions[i].Start * int64(c.sector),
							made.Partitions[i].Size * int64(c.sector)}, "%s, partition %d\n%s", as, q.Of, script)
					assert.True(t, strings.HasSuffix(made.Partitions[i].Node, fmt.Sprint(q.Number)))
					assert.True(t, strings.EqualFold(q.Type, made.Partitions[i].Type), "%s, %s", q.Type,
						made.Partitions[i].Type)
				}
			}
		})
	}
}

func TestLayoutRefusals(t *testing.T) {
	dir := t.TempDir()
	put := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	good := put("facts.json",
		fmt.Sprintf(facts, 1<<40, 1,
			`[{"drive":"sda","number":1,"type":"EBD0A0A2-B9E5-4433-87C0-68B6B72699C7","start_bytes":1048576,"size_bytes":107374182400,"used_bytes":53687091200}]`))
	for name, c := range map[string]struct {
		args []string
		says string
	}{
		"no such file":       {[]string{filepath.Join(dir, "none"), "--capacity", "1"}, "no such file"},
		"no JSON":            {[]string{put("x", "{"), "--capacity", "1"}, "no JSON"},
		"neither of the two": {[]string{put("y", "{}"), "--capacity", "1"}, "neither facts"},
		"no capacity":        {[]string{good}, "size cannot be so"},
		"a sector of 520":    {[]string{good, "--capacity", "1000000000000", "--sector", "520"}, "sectors of 520"},
		"another way":        {[]string{good, "--capacity", "1000000000000", "--as", "best"}, "no way to share"},
		"another drive":      {[]string{good, "--capacity", "1000000000000", "--drive", "sdz"}, "no drive"},
		"two forms":          {[]string{good, "--capacity", "1000000000000", "--json", "--sfdisk"}, "two forms"},
		"no system, two drives": {[]string{put("z", `{"drives":[{"id":"a"},{"id":"b"}],"partitions":[]}`), "--capacity",
			"1000000000000"}, "--drive"},
		"a job without them": {[]string{put("j",
			`{"format":"nowthen-job","version":1,"job":{"number":"1"},"computers":[{"id":"c"}],"drives":[{"id":"d","kind":"hdd"}],"plan":{},"tests":[],"setups":[{"id":"then","role":"then","computer":"c","drive":"d"}],"sittings":[],"runs":[]}`), "--capacity", "1000000000000"}, "no partitions"},
	} {
		t.Run(name, func(t *testing.T) {
			code, out, errs := nowthen(t, append([]string{"layout"}, c.args...)...)
			assert.Equal(t, exitRefused, code)
			assert.Empty(t, out)
			assert.Contains(t, errs, c.says)
		})
	}
	// What does not fit is said, and no script is made of it.
	code, out, _ := nowthen(t, "layout", good, "--capacity", "60000000000", "--json")
	assert.Zero(t, code)
	assert.Contains(t, out, `"fits": false`)
	code, out, errs := nowthen(t, "layout", good, "--capacity", "60000000000", "--sfdisk")
	assert.Equal(t, exitFailed, code)
	assert.Empty(t, out)
	assert.Contains(t, errs, "Move")
	code, out, _ = nowthen(t, "layout", good, "--capacity", "240000000000")
	assert.Zero(t, code)
	assert.Contains(t, out, "larger")
	// A job file whose drive carries its partitions does too.
	job := put("job.json",
		`{"format":"nowthen-job","version":1,"job":{"number":"1"},"computers":[{"id":"c"}],"drives":[{"id":"d","kind":"hdd","capacity_bytes":200000000000,"partitions":[{"number":1,"type":"EBD0A0A2-B9E5-4433-87C0-68B6B72699C7","start_bytes":1048576,"size_bytes":107374182400,"used_bytes":53687091200}]}],"plan":{},"tests":[],"setups":[{"id":"then","role":"then","computer":"c","drive":"d"}],"sittings":[],"runs":[]}`)
	code, out, errs = nowthen(t, "layout", job, "--capacity", "240000000000", "--json")
	assert.Zero(t, code, errs)
	assert.Contains(t, out, `"role": "system"`)
}
