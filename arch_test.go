// Package nowthen_test checks the structure: imports between packages point one way, down.
package nowthen_test

import (
	"encoding/json"
	"errors"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mayImport reports which of our packages a package may import, by prefix. The longest
// prefix of a package's name counts.
var mayImport = map[string][]string{
	"core/stats":     {},
	"core/drivetest": {"core/stats"},
	"core/filetest":  {"core/drivetest"},
	"core/stopwatch": {},
	"core/figures":   {"core/stats"},
	"core/job":       {"core/drivetest", "core/filetest"},
	"core/catalogue": {"core/job", "core/drivetest", "core/filetest", "core/message"},
	"core/round":     {"core/catalogue", "core/job", "core/drivetest", "core/filetest"},
	"core/side":      {"core/figures", "core/job", "core/stats", "core/stopwatch"},
	"core/fairness":  {"core/job", "core/catalogue", "core/drivetest", "core/message", "core/side", "core/stats"},
	"core/compare":   {"core/catalogue", "core/fairness", "core/job", "core/side", "core/stats"},
	"core/message":   {},
	"core/words": {"core/compare", "core/drivetest", "core/fairness", "core/job", "core/message", "core/side",
		"core/value"},
	"core/plan": {"core/catalogue", "core/drivetest", "core/job", "core/message", "core/round", "core/side",
		"core/stats", "core/stopwatch", "core/words", "core/fairness"},
	"core/jobfile":          {"core/hardware", "core/job", "docs/schema"},
	"core/manifest":         {},
	"core/hardware":         {"core/job"},
	"core/hardware/answers": {"core/hardware", "core/job"},
	"core/hardware/match":   {"core/hardware", "core/job"},
	"core/layout":           {"core/hardware"},
	"core/value":            {"core/catalogue", "core/compare", "core/job"}, // what it rests on stands in the ledger
	"core/forecast":         {"core/catalogue", "core/compare", "core/job", "core/side", "core/stats", "core/value"},
	"core/capacity":         {"core/drivetest"},
	"core/label":            {},
	"core/sustained":        {"core/catalogue", "core/drivetest", "core/job", "core/round"},
	"core/checks": {"core/catalogue", "core/drivetest", "core/fairness", "core/hardware",
		"core/hardware/match", "core/job"},
	"core/fitting":         {"core/checks", "core/hardware", "core/job"},
	"core/rescue":          {"core/hardware", "core/order"},
	"core/work":            {"core/catalogue", "core/job", "core/stats"},
	"core/order/ordertest": {"core/catalogue", "core/job", "core/order"},
	"core/order": {"core/capacity", "core/drivetest", "core/hardware", "core/job", "core/manifest", "core/round",
		"core/sustained"},
	"docs/schema": {},

	"machine/contents": {"core"},
	"machine/launch":   {"core", "machine"},
	"machine/startup":  {},
	"machine":          {"core"},
	"sim":              {"core"},
	"durable":          {},
	"testscale":        {},
	"store":            {"core", "durable"},
	"report/forms":     {"report"},
	"report":           {"core"},
	"backup":           {"durable", "store"},
	"access":           {"access/slow", "access/token", "store"},
	"access/slow":      {},
	"access/token":     {},
	"probe":            {"core", "durable", "machine", "machine/launch", "machine/startup"},

	"bench/visit":       {"bench", "bench/planning", "core", "sim", "store"},
	"bench/planning":    {"bench", "core", "store"},
	"bench/sittings":    {"bench", "core", "sim", "store"},
	"bench/measuring":   {"bench", "bench/probes", "core", "machine", "sim", "store"},
	"bench/probes":      {"access/slow", "access/token", "bench", "core", "store"},
	"bench/stick":       {"access/slow", "access/token", "bench", "bench/probes", "core", "store"},
	"bench/swap":        {"bench", "bench/probes", "core", "store"},
	"bench/timing":      {"bench", "core", "store"},
	"bench/evidence":    {"bench", "core", "durable", "machine", "store"},
	"bench/transfer":    {"bench", "bench/evidence", "core", "store"},
	"bench/followup":    {"bench", "core", "store"},
	"bench/forecasting": {"bench", "core", "store"},
	"bench/reporting":   {"access/token", "bench", "core", "report", "store"},
	"bench/desk":        {"bench", "bench/*", "core", "store"},
	"bench/demo":        {"bench", "bench/*", "core", "store"},
	"bench/desktest":    {"bench", "bench/*", "core", "store"},
	"bench":             {"core", "store"},

	"server": {"access", "access/slow", "backup", "bench", "bench/*", "core", "durable", "machine",
		"report/forms", "store"},
	"web":               {},
	"cmd/nowthen-probe": {"core", "machine", "machine/contents", "machine/launch", "sim", "probe"},
	"cmd/nowthen": {"access", "backup", "bench", "bench/*", "core", "durable", "machine", "probe", "report",
		"report/forms", "server", "sim", "store", "web"},
	"scripts/mutants": {},
	"scripts/demo":    {"backup", "bench/demo", "store"},
	"e2e/browser":     {},
	"e2e/screenshots": {"e2e/browser"},
	"e2e":             {"e2e/browser", "bench/demo", "core"},
}

// testsMayImport says what the tests of a package may import beside what it may itself.
var testsMayImport = map[string][]string{
	"backup":         {"core"},
	"bench":          {"bench/*", "core", "machine", "report", "sim"},
	"core/round":     {"core", "sim"},
	"core/sustained": {"core", "sim"},
	"core":           {"core"},
	"machine":        {"sim"},
	"access":         {"core"},
	"server":         {"bench/desktest"},
	"cmd/nowthen":    {"access/slow", "sim"},
	"probe":          {"sim"},
	"report":         {"sim"},
	"report/forms":   {"core"},
	"e2e":            {"store"},
	"core/jobfile":   {"core"},
	"core/compare":   {"core"},
	"core/fairness":  {"core"},
}

// coreKnowsNothingOf are packages that no computation needs; runtime/debug, for a panic's place, is allowed.
var coreKnowsNothingOf = []string{"net/http", "database/sql", "os/exec", "runtime", "gorm.io/", "github.com/gofiber/",
	"golang.org/x/sys", "nowthen/machine"}

// pkg is the go command's description of a package.
type pkg struct {
	ImportPath                         string
	Imports, TestImports, XTestImports []string
}

// list returns our packages as they are on an operating system.
func list(t *testing.T, system string) []pkg {
	t.Helper()
	cmd := exec.Command("go", "list", "-json=ImportPath,Imports,TestImports,XTestImports", "./...")
	cmd.Env = append(os.Environ(), "GOOS="+system, "CGO_ENABLED=0")
	out, err := cmd.Output()
	require.NoError(t, err, system)
	var all []pkg
	for d := json.NewDecoder(strings.NewReader(string(out))); ; {
		var p pkg
		if err := d.Decode(&p); errors.Is(err, io.EOF) {
			return all
		} else {
			require.NoError(t, err)
		}
		p.ImportPath = strings.TrimPrefix(p.ImportPath, "nowthen/")
		if p.ImportPath != "nowthen" {
			all = append(all, p)
		}
	}
}

// Arrows point down, in the files of all operating systems.
func TestArrowsPointDown(t *testing.T) {
	for _, system := range []string{"linux", "windows", "darwin"} {
		packages := list(t, system)
		assert.Greater(t, len(packages), 30, system)
		for _, p := range packages {
			allowed, ok := rule(mayImport, p.ImportPath)
			if !assert.True(t, ok, "package %s is not in the plan", p.ImportPath) {
				continue
			}
			for _, path := range p.Imports {
				ours, ok := strings.CutPrefix(path, "nowthen/")
				if ok {
					assert.True(t, matches(ours, allowed), "%s: %s must not import %s", system, p.ImportPath, ours)
				} else if strings.HasPrefix(p.ImportPath, "core/") && path != "runtime/debug" {
					for _, forbidden := range coreKnowsNothingOf {
						assert.False(t, strings.HasPrefix(path, forbidden), "%s: %s must not import %s", system,
							p.ImportPath, path)
					}
				}
			}
			also, _ := rule(testsMayImport, p.ImportPath)
			for _, path := range slices.Concat(p.TestImports, p.XTestImports) {
				if ours, ok := strings.CutPrefix(path, "nowthen/"); ok && ours != p.ImportPath && ours != "testscale" {
					assert.True(t, matches(ours, allowed) || matches(ours, also),
						"%s: the tests of %s must not import %s", system, p.ImportPath, ours)
				}
			}
		}
	}
}

// The plan contains only existing packages.
func TestThePlanIsOfThisHouse(t *testing.T) {
	packages := list(t, "linux")
	for name := range mayImport {
		assert.True(t, slices.ContainsFunc(packages, func(p pkg) bool { return p.ImportPath == name }),
			"there is no package %s", name)
	}
}

// The probe is small: no web framework, no database, none of the bench.
func TestTheProbeIsSmall(t *testing.T) {
	out, err := exec.Command("go", "list", "-deps", "./cmd/nowthen-probe").Output()
	require.NoError(t, err)
	for path := range strings.Lines(string(out)) {
		for _, heavy := range []string{"gorm.io/", "modernc.org/", "github.com/gofiber/", "nowthen/bench",
			"nowthen/store", "nowthen/server"} {
			assert.False(t, strings.HasPrefix(path, heavy), "the probe must not have %s", path)
		}
	}
}

// rule returns the rule of the longest prefix of a package's name.
func rule(rules map[string][]string, name string) (allowed []string, ok bool) {
	for p := name; p != "."; {
		if allowed, ok := rules[p]; ok {
			return allowed, true
		}
		i := strings.LastIndex(p, "/")
		if i < 0 {
			break
		}
		p = p[:i]
	}
	return nil, false
}

// matches reports whether a package matches a list: "core" and "x/*" include all packages below, another name
// is that package alone.
func matches(name string, of []string) bool {
	for _, p := range of {
		below, wild := strings.CutSuffix(p, "/*")
		if name == p || (wild || p == "core" || p == "sim" || p == "machine") && strings.HasPrefix(name, below+"/") {
			return true
		}
	}
	return false
}

// keptTo are patterns that our code may contain only under some paths.
var keptTo = map[string]struct {
	pattern *regexp.Regexp
	under   []string
}{
	"a context is for ending things; what a change is of is a parameter": {regexp.MustCompile(`context\.WithValue`),
		nil},
	"ids of tests are the catalogue's": {regexp.MustCompile(`"t-[a-z]+(-[a-z]+)*"`),
		[]string{"core/catalogue/"}},
	"one JSON library": {regexp.MustCompile(`"encoding/json"`),
		[]string{"e2e/", "scripts/"}},
}

func TestWhatIsKeptToOnePlace(t *testing.T) {
	files := 0
	err := fs.WalkDir(os.DirFS("."), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() && (d.Name() == "node_modules" || path != "." && strings.HasPrefix(d.Name(), ".")) {
			if err != nil {
				return err
			}
			return fs.SkipDir
		}
		if !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		files++
		text, err := os.ReadFile(path)
		for why, k := range keptTo {
			if !slices.ContainsFunc(k.under, func(p string) bool { return strings.HasPrefix(path, p) }) {
				assert.NotRegexp(t, k.pattern, string(text), "%s: %s", path, why)
			}
		}
		return err
	})
	require.NoError(t, err)
	assert.Greater(t, files, 300)
}
