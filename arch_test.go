// Package nowthen_test holds the house to its plan: arrows between packages
// point one way, down.
package nowthen_test

import (
	"os/exec"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// mayImport says which of our packages a package may import, by prefix.
var mayImport = map[string][]string{
	"core":              {"core", "docs/schema"},
	"docs/schema":       {},
	"machine":           {"core"},
	"sim":               {"core"},
	"store":             {"core"},
	"report":            {"core"},
	"bench":             {"core", "store", "machine", "sim", "report"},
	"access":            {"store"},
	"server":            {"access", "bench", "core", "report"},
	"web":               {},
	"probe":             {"core", "machine"},
	"cmd/nowthen-probe": {"core", "machine", "sim", "probe"},
	"cmd/nowthen":       {"access", "core", "bench", "server", "store", "web"},
	"e2e/browser":       {},
	"e2e/screenshots":   {"e2e/browser"},
	"e2e":               {"e2e/browser"},
}

// coreKnowsNothingOf are packages that no computation needs.
var coreKnowsNothingOf = []string{"net/http", "database/sql", "os/exec", "gorm.io/", "github.com/gofiber/", "golang.org/x/sys"}

func TestArrowsPointDown(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}} {{join .Imports ","}}`, "./...").Output()
	require.NoError(t, err)
	checked := 0
	for line := range strings.Lines(string(out)) {
		name, imports, _ := strings.Cut(strings.TrimSpace(line), " ")
		name = strings.TrimPrefix(name, "nowthen/")
		if name == "nowthen" {
			continue
		}
		allowed, ok := rule(name)
		if !assert.True(t, ok, "package %s is not in the plan", name) {
			continue
		}
		checked++
		for _, path := range strings.Split(imports, ",") {
			if ours, ok := strings.CutPrefix(path, "nowthen/"); ok {
				assert.True(t, matches(ours, allowed), "%s must not import %s", name, ours)
			} else if name == "core" || strings.HasPrefix(name, "core/") {
				for _, forbidden := range coreKnowsNothingOf {
					assert.False(t, strings.HasPrefix(path, forbidden), "%s must not import %s", name, path)
				}
			}
		}
	}
	assert.Greater(t, checked, 10)
}

// rule returns the rule of the longest prefix of a package's name.
func rule(name string) (allowed []string, ok bool) {
	for p := name; p != "."; {
		if allowed, ok := mayImport[p]; ok {
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

func matches(name string, prefixes []string) bool {
	for _, p := range prefixes {
		if name == p || strings.HasPrefix(name, p+"/") {
			return true
		}
	}
	return false
}
