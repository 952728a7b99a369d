package message

import (
	"encoding/json"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// told is a place in the program that tells the technician a message.
type told struct {
	at     string
	key    string
	values []string
}

// tells finds the places that tell messages with a key that is there.
func tells(t *testing.T) []told {
	t.Helper()
	var list []told
	files := token.NewFileSet()
	err := fs.WalkDir(os.DirFS("../.."), ".", func(path string, d fs.DirEntry, err error) error {
		if d.IsDir() && slices.Contains([]string{"web", ".git", "e2e"}, d.Name()) {
			return fs.SkipDir
		}
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		f, err := parser.ParseFile(files, "../../"+path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			c, ok := n.(*ast.CallExpr)
			if !ok {
				return true
			}
			var name string
			switch f := c.Fun.(type) {
			case *ast.Ident:
				name = f.Name
			case *ast.SelectorExpr:
				name = f.Sel.Name
			}
			if name != "say" && name != "Say" || len(c.Args) == 0 {
				return true
			}
			text, ok := c.Args[0].(*ast.BasicLit)
			if !ok {
				return true
			}
			key, err := strconv.Unquote(text.Value)
			if err != nil {
				return true
			}
			x := told{at: files.Position(c.Pos()).String(), key: key}
			for _, a := range c.Args[1:] {
				if lit, ok := a.(*ast.CompositeLit); ok {
					for _, e := range lit.Elts {
						if k, ok := e.(*ast.KeyValueExpr).Key.(*ast.BasicLit); ok {
							v, _ := strconv.Unquote(k.Value)
							x.values = append(x.values, v)
						}
					}
				}
			}
			list = append(list, x)
			return true
		})
		return nil
	})
	require.NoError(t, err)
	return list
}

// What the technician is told is in the catalogue, is filled with what it asks for, and
// nothing is there that nobody tells.
func TestWhatTheTechnicianIsTold(t *testing.T) {
	text, err := catalogues.ReadFile(technicians)
	require.NoError(t, err)
	var all map[string]any
	require.NoError(t, json.Unmarshal(text, &all))
	asks := func(key string) []string {
		said, _ := json.Marshal(all[key])
		var list []string
		for _, m := range placeholders.FindAllStringSubmatch(string(said), -1) {
			list = append(list, m[1])
		}
		if _, plural := all[key].(map[string]any); plural {
			list = append(list, "Count")
		}
		slices.Sort(list)
		return slices.Compact(list)
	}
	heard := map[string]bool{}
	for _, x := range tells(t) {
		if _, ok := all[x.key]; !ok {
			continue
		}
		heard[x.key] = true
		slices.Sort(x.values)
		assert.Equal(t, asks(x.key), slices.Compact(x.values), "%s: %s", x.at, x.key)
	}
	// These have keys that are put together where they are told.
	for key := range all {
		if !slices.ContainsFunc([]string{"remedy.", "lost.", "next.", "uncertainty."},
			func(p string) bool { return strings.HasPrefix(key, p) }) {
			assert.True(t, heard[key], "nobody tells %q", key)
		}
	}
	customers, err := Keys("en")
	require.NoError(t, err)
	for _, key := range customers {
		assert.NotContains(t, all, key, "stands in two catalogues")
	}
}
