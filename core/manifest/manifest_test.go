package manifest

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var (
	one  = strings.Repeat("01", 32)
	two  = strings.Repeat("02", 32)
	when = time.Date(2026, 3, 1, 10, 0, 0, 123456789, time.UTC)
)

func written(t *testing.T, list ...Entry) string {
	t.Helper()
	var b bytes.Buffer
	w, err := NewWriter(&b)
	require.NoError(t, err)
	for _, e := range list {
		require.NoError(t, w.Write(e))
	}
	return b.String()
}

func TestWhatIsWrittenIsRead(t *testing.T) {
	list := []Entry{
		{Path: "a/b c.txt", Size: 12, Time: when, Digest: one},
		{Path: "odd\xff\xfename", Time: when, Digest: two},
		{Path: "line\nbreak \"quoted\" \u00e4\U0001F600", Time: when, Digest: one},
		{Path: "link", Time: when, Link: "to\xffthere"},
		{Path: "locked", Size: 1 << 40, Time: when, Why: "permission denied"},
	}
	text := written(t, list...)
	lines := strings.Split(text, "\n")
	assert.Equal(t, `{"format":"nowthen-manifest","version":1,"digest":"blake3"}`, lines[0])
	assert.Equal(t, `{"p":"a/b c.txt","s":12,"t":"2026-03-01T10:00:00.123456789Z","h":"`+one+`"}`, lines[1])
	assert.Contains(t, lines[2], `"pb":"b2Rk//5uYW1l"`)
	got, err := Read(strings.NewReader(text))
	require.NoError(t, err)
	assert.Equal(t, list, got)
}

func TestManifestsThatAreRefused(t *testing.T) {
	head := `{"format":"nowthen-manifest","version":1,"digest":"blake3"}` + "\n"
	good := `{"p":"a","s":1,"h":"` + one + `"}` + "\n"
	for _, tt := range []struct{ name, text, says string }{
		{"empty", "", "it is empty"},
		{"no JSON", "hello\n", "line 1: this is no manifest"},
		{"another format", `{"format":"else","version":1,"digest":"blake3"}`, `its format is "else"`},
		{"newer", `{"format":"nowthen-manifest","version":2,"digest":"blake3"}`, "use a newer nowthen-probe"},
		{"older than the first", `{"format":"nowthen-manifest","version":0,"digest":"blake3"}`,
			"there is no version 0"},
		{"another digest", `{"format":"nowthen-manifest","version":1,"digest":"md5"}`, `its digests are "md5"`},
		{"cut off", head + good + `{"p":"b","s":`, "line 3"},
		{"twice", head + good + good, `line 3: "a" stands there twice`},
		{"no path", head + `{"s":1,"h":"` + one + `"}`, "it has no path"},
		{"two paths", head + `{"p":"a","pb":"YQ==","s":1,"h":"` + one + `"}`, "twice, as such and in base64"},
		{"no base64", head + `{"pb":"*","s":1,"h":"` + one + `"}`, "line 2: its path"},
		{"out of the folder", head + `{"p":"../a","s":1,"h":"` + one + `"}`, "leads out of the folder"},
		{"from the top", head + `{"p":"/a","s":1,"h":"` + one + `"}`, "leads out of the folder"},
		{"not plain", head + `{"p":"a//b","s":1,"h":"` + one + `"}`, "leads out of the folder"},
		{"a zero byte", head + `{"p":"a\u0000","s":1,"h":"` + one + `"}`, "zero byte"},
		{"a path without an end", head + `{"p":"` + strings.Repeat("a", longestPath+1) + `","s":1,"h":"` + one + `"}`,
			"more than 32768"},
		{"no digest", head + `{"p":"a","s":1}`, "has 0 bytes, not 32"},
		{"half a digest", head + `{"p":"a","s":1,"h":"0102"}`, "has 2 bytes, not 32"},
		{"no digest at all", head + `{"p":"a","s":1,"h":"xyz"}`, "its digest"},
		{"less than nothing", head + `{"p":"a","s":-1,"h":"` + one + `"}`, "its size is -1"},
		{"a line without an end", head + `{"p":"` + strings.Repeat("a", longestLine), "token too long"},
	} {
		_, err := Read(strings.NewReader(tt.text))
		assert.ErrorContains(t, err, tt.says, tt.name)
	}
	kept, err := Read(strings.NewReader(head + good + `{"p":"b"`))
	assert.Error(t, err)
	assert.Len(t, kept, 1, "what stood before it")
	more, err := Read(strings.NewReader(`{"format":"nowthen-manifest","version":1,"digest":"blake3","by":"else"}` +
		"\n" + `{"p":"a","s":1,"h":"` + strings.ToUpper(strings.Repeat("ab", 32)) + `","x":1}`))
	require.NoError(t, err, "members that are not known are passed over")
	assert.Equal(t, strings.Repeat("ab", 32), more[0].Digest)
}

func TestCompare(t *testing.T) {
	before := []Entry{
		{Path: "z same", Size: 5, Digest: one, Time: when}, {Path: "changed", Size: 7, Digest: one}, {Path: "gone",
			Size: 11, Digest: one},
		{Path: "locked before", Size: 13, Why: "no"}, {Path: "locked now", Size: 17,
			Digest: one}, {Path: "locked before and gone", Why: "no"},
		{Path: "link", Link: "a"}, {Path: "link elsewhere", Link: "a"}, {Path: "now a link", Size: 3, Digest: one},
		{Path: "x/.cache/a", Size: 1000, Digest: one}, {Path: "X/Cache/b", Digest: one}, {Path: "run.LOG",
			Digest: one}, {Path: "pagefile.sys", Why: "no"},
	}
	now := []Entry{
		{Path: "new", Size: 99, Digest: one}, {Path: "z same", Size: 5, Digest: one,
			Time: when.Add(time.Hour)}, {Path: "changed", Size: 7, Digest: two},
		{Path: "locked before", Size: 13, Digest: one}, {Path: "locked now", Size: 17, Why: "no"},
		{Path: "link", Link: "a"}, {Path: "link elsewhere", Link: "b"}, {Path: "now a link", Link: "x"},
		{Path: "x/.cache/a", Size: 1000, Digest: two}, {Path: "other.log", Digest: one}, {Path: "a new one", Why: "no"},
	}
	assert.Equal(t, &Difference{Files: 9, Bytes: 5 + 7 + 11 + 13 + 17 + 3, Unchanged: 2,
		Missing: []string{"gone"}, Changed: []string{"changed", "link elsewhere",
			"now a link"}, New: []string{"a new one", "new"},
		UnreadableBefore: []string{"locked before", "locked before and gone"}, UnreadableNow: []string{"locked now"},
		SetApart: map[string]int{"caches": 2, "logs": 2, "swap": 1},
		Counts:   Counts{Missing: 1, Changed: 3, New: 2, UnreadableBefore: 2, UnreadableNow: 1}},
		Compare(before, now, UsualRules()))
	d := Compare(before, before, nil)
	assert.Equal(t, len(before)-3, d.Unchanged)
	assert.True(t, d.All())
	assert.Empty(t, d.SetApart, "no rules, nothing apart")
	assert.False(t, Compare(before, now, nil).All())
}

// What lies in a folder unreadable now is not missing: nobody knows.
func TestAFolderThatCannotBeRead(t *testing.T) {
	before := []Entry{{Path: "shut/in/a", Digest: one}, {Path: "shut/b", Digest: one}, {Path: "shutter", Digest: one},
		{Path: "gone/c", Digest: one}}
	d := Compare(before, []Entry{{Path: "shut", Why: "permission denied"}}, nil)
	assert.Equal(t, []string{"shut/b", "shut/in/a"}, d.UnreadableNow)
	assert.Equal(t, []string{"gone/c", "shutter"}, d.Missing)
	assert.False(t, d.All())
}

// Lists are bounded; counts are not.
func TestListsAreBounded(t *testing.T) {
	var many []Entry
	for i := range MostListed + 5 {
		many = append(many, Entry{Path: fmt.Sprintf("%05d", i), Digest: one})
	}
	d := Compare(many, nil, nil)
	assert.Len(t, d.Missing, MostListed)
	assert.Equal(t, MostListed+5, d.Counts.Missing)
	assert.Equal(t, "00000", d.Missing[0])
	assert.Equal(t, MostListed+5, Compare(nil, many, nil).Counts.New)
}

func TestRules(t *testing.T) {
	require.NoError(t, UsualRules().Check())
	for name, r := range map[string]Rules{"no name": {" ": {"a"}}, "no pattern": {"a": {""}},
		"not a pattern": {"a": {"[a"}}, "more than a part": {"a": {"b/c"}}} {
		assert.Error(t, r.Check(), name)
	}
	rules := UsualRules()
	for path, want := range map[string]string{
		"a/Cache/b": "caches", "a/cached/b": "", "catalogue": "", "a/thumbcache_96.db": "caches", "app.log": "logs", "app.log.1": "logs", "login": "",
		"logs/a": "logs", "swapfile": "swap", "swapfile.txt": "", "HIBERFIL.SYS": "swap", "Code Cache/x": "caches", "letter.doc": "",
	} {
		assert.Equal(t, want, rules.of(path), path)
	}
}

// Whatever is in a manifest: it is refused, or what was read is written as it was.
func FuzzRead(f *testing.F) {
	head := `{"format":"nowthen-manifest","version":1,"digest":"blake3"}` + "\n"
	f.Add([]byte(head))
	f.Add([]byte(head + `{"p":"a","s":1,"h":"` + one + `"}`))
	f.Add([]byte(head + `{"pb":"/w==","s":1,"e":"no"}`))
	f.Add([]byte(head + `{"p":"l","s":1,"lb":"/w=="}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		list, err := Read(bytes.NewReader(data))
		if err != nil {
			return
		}
		again, err := Read(strings.NewReader(written(t, list...)))
		require.NoError(t, err)
		require.True(t, slices.EqualFunc(list, again, func(a, b Entry) bool {
			return a.Path == b.Path && a.Size == b.Size && a.Time.Equal(b.Time) && a.Digest == b.Digest &&
				a.Link == b.Link && a.Why == b.Why
		}))
		d := Compare(list, again, nil)
		require.Equal(t, len(list), d.Unchanged+d.Counts.UnreadableBefore)
		require.True(t, d.All())
	})
}
