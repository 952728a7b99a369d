package nowthen_test

import (
	"encoding/json"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// spoken are the files whose words somebody reads, by path.
func spoken(t *testing.T) map[string]string {
	t.Helper()
	texts := map[string]string{}
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() {
			switch d.Name() {
			case "node_modules", "dist", "testdata", ".git", "bin", "data":
				return fs.SkipDir
			}
			return nil
		}
		switch filepath.Ext(path) {
		case ".go", ".ts", ".tsx", ".json", ".md", ".yaml":
		default:
			return nil
		}
		if strings.HasSuffix(path, "_test.go") || strings.Contains(path, ".test.") || strings.HasSuffix(path, "package-lock.json") ||
			strings.HasSuffix(path, "schema.d.ts") {
			return nil
		}
		body, err := os.ReadFile(path)
		texts[path] = string(body)
		return err
	})
	require.NoError(t, err)
	require.Greater(t, len(texts), 200)
	return texts
}

// Stilted phrases don't come back: testdata/voice.txt lists them.
func TestNothingIsSaidStiffly(t *testing.T) {
	list, err := os.ReadFile("testdata/voice.txt")
	require.NoError(t, err)
	phrases := strings.Split(strings.TrimSpace(string(list)), "\n")
	require.Greater(t, len(phrases), 50)
	for path, text := range spoken(t) {
		for _, p := range phrases {
			assert.False(t, strings.Contains(text, p), "%s says %q", path, p)
		}
	}
}

// sentences are those of a text in Markdown, without its code, tables and pictures.
func sentences(text string) []string {
	var lines []string
	code := false
	for _, l := range strings.Split(text, "\n") {
		switch {
		case strings.HasPrefix(l, "```"):
			code = !code
		case code, strings.HasPrefix(l, "    "), strings.HasPrefix(l, "|"), strings.HasPrefix(l, "!["), strings.HasPrefix(l, "#"):
		case l == "", strings.HasPrefix(l, "- "):
			lines = append(lines, "\n"+l)
		default:
			lines = append(lines, l)
		}
	}
	text = regexp.MustCompile("`[^`]*`").ReplaceAllString(strings.Join(lines, " "), "x")
	return regexp.MustCompile(`[.?!:]\s|\n`).Split(text, -1)
}

// Sentences of the README and the manual have 18 words at most on average.
func TestSentencesAreShort(t *testing.T) {
	files, err := filepath.Glob("docs/manual/*.md")
	require.NoError(t, err)
	for _, path := range append(files, "README.md") {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		words, n := 0, 0
		for _, s := range sentences(string(text)) {
			if w := len(strings.Fields(s)); w > 0 {
				words, n = words+w, n+1
			}
		}
		require.Greater(t, n, 5, path)
		assert.LessOrEqual(t, float64(words)/float64(n), 18.0, path)
	}
	readme, err := os.ReadFile("README.md")
	require.NoError(t, err)
	assert.LessOrEqual(t, len(strings.Fields(string(readme))), 900, "README.md")
}

// What the manual sets in italics with a capital is on a screen, word for word; … stands for a name.
func TestManualNamesWhatIsOnTheScreen(t *testing.T) {
	var screens strings.Builder
	for path, text := range spoken(t) {
		if filepath.Ext(path) != ".md" {
			screens.WriteString(text)
		}
	}
	files, err := filepath.Glob("docs/manual/*.md")
	require.NoError(t, err)
	labels, n := regexp.MustCompile(`[^*]\*([A-Z][^*]{3,80})\*[^*]`), 0
	for _, path := range append(files, "README.md", "docs/timing.md", "docs/probe.md") {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		for _, label := range labels.FindAllStringSubmatch(strings.ReplaceAll(string(text), "\n", " "), -1) {
			for part := range strings.SplitSeq(label[1], "…") {
				assert.True(t, strings.Contains(screens.String(), strings.TrimSpace(part)), "%s names %q", path, label[1])
				n++
			}
		}
	}
	assert.Greater(t, n, 30)
}

// said are the messages of a catalogue, plural forms each.
func said(t *testing.T, name string) map[string]string {
	t.Helper()
	body, err := os.ReadFile("core/message/catalogue/" + name)
	require.NoError(t, err)
	var all map[string]any
	require.NoError(t, json.Unmarshal(body, &all))
	texts := map[string]string{}
	for key, v := range all {
		switch v := v.(type) {
		case string:
			texts[key] = v
		case map[string]any:
			for form, s := range v {
				texts[key+"/"+form] = s.(string)
			}
		}
	}
	require.Greater(t, len(texts), 100)
	return texts
}

// No message is longer than 160 characters in one sentence.
func TestMessagesAreShort(t *testing.T) {
	values := regexp.MustCompile(`\{\{[^}]*\}\}`)
	for _, name := range []string{"en.json", "de.json", "technician.en.json"} {
		for key, s := range said(t, name) {
			s = values.ReplaceAllString(s, "x")
			if len([]rune(s)) > 160 {
				assert.Regexp(t, `[.:?!] \S`, s, "%s: %s", name, key)
			}
		}
	}
}

// German has no English words, no ß between capitals, and commas in its numbers.
func TestGermanIsGerman(t *testing.T) {
	values := regexp.MustCompile(`\{\{[^}]*\}\}`)
	english := regexp.MustCompile(`(?i)\b(the|and|with|is|of|were|are|not|from|this|that|then|now|before|after|drive|drives|start|starts|wait|waiting|run|runs|file|files|your|you|it|for|on|off|has|have|than)\b`)
	// Words that German has too.
	also := regexp.MustCompile(`\b(Start|Starts)\b|\bwar\b`)
	for key, s := range said(t, "de.json") {
		s = also.ReplaceAllString(values.ReplaceAllString(s, ""), "")
		assert.Empty(t, english.FindString(s), "%s: %s", key, s)
		assert.NotRegexp(t, `[A-ZÄÖÜ]ß|ß[A-ZÄÖÜ]`, s, key)
		assert.NotRegexp(t, `\d\.\d+ (s|min|GB|TB|MB|%|EUR)`, s, key)
	}
}

// Links in the documentation lead to files, and to headings in them, that are there.
func TestLinksLeadSomewhere(t *testing.T) {
	link := regexp.MustCompile(`\]\(([^)\s]+)\)`)
	heading := regexp.MustCompile(`(?m)^#+ (.+)$`)
	dropped := regexp.MustCompile(`[^\p{L}\p{N}\- _]`)
	anchors := func(body []byte) map[string]bool {
		all := map[string]bool{}
		for _, h := range heading.FindAllSubmatch(body, -1) {
			all[strings.ReplaceAll(dropped.ReplaceAllString(strings.ToLower(string(h[1])), ""), " ", "-")] = true
		}
		return all
	}
	files, err := filepath.Glob("docs/*.md")
	require.NoError(t, err)
	manual, err := filepath.Glob("docs/manual/*.md")
	require.NoError(t, err)
	links := 0
	for _, file := range append(append(files, manual...), "README.md", "CONTRIBUTING.md") {
		body, err := os.ReadFile(file)
		require.NoError(t, err)
		for _, m := range link.FindAllSubmatch(body, -1) {
			path, anchor, _ := strings.Cut(string(m[1]), "#")
			if strings.Contains(path, "://") {
				continue
			}
			links++
			to := file
			if path != "" {
				to = filepath.Join(filepath.Dir(file), path)
			}
			there, err := os.ReadFile(to)
			if info, statErr := os.Stat(to); err != nil && (statErr != nil || !info.IsDir()) {
				t.Errorf("%s links to %s, which is not there", file, m[1])
				continue
			}
			assert.True(t, anchor == "" || anchors(there)[anchor], "%s links to %s, and there is no such heading", file, m[1])
		}
	}
	assert.Greater(t, links, 20)
}
