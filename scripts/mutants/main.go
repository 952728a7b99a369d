// Command mutants changes the limits and formulas of the core one at a time and looks
// whether a test notices. What no test notices must be in survivors.txt with the
// reason why it changes nothing. It takes long and is no part of the tests:
//
//	make mutants
package main

import (
	"bufio"
	"bytes"
	"encoding/json"
	"flag"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
)

// packages are those whose limits and formulas are changed; tests are run from the
// nearest to the farthest.
var packages = []string{"core/stats", "core/side", "core/compare", "core/fairness", "core/plan", "core/checks",
	"core/fitting", "core/capacity", "core/sustained", "core/work", "core/layout", "core/rescue"}

// mutant is one change of a file.
type mutant struct {
	file        string
	line        int
	from, to    int // offsets
	before, put string
	pkg         string
}

func (m mutant) String() string {
	return fmt.Sprintf("%s: %s → %s in %q", m.file, m.before, m.put, m.context())
}

// context is the line as it stands, by which a survivor is known when lines move.
func (m mutant) context() string {
	data, err := os.ReadFile(m.file)
	if err != nil {
		return ""
	}
	return strings.TrimSpace(strings.Split(string(data), "\n")[m.line-1])
}

var turned = map[token.Token]token.Token{token.LSS: token.LEQ, token.LEQ: token.LSS, token.GTR: token.GEQ,
	token.GEQ: token.GTR,
	token.ADD: token.SUB, token.SUB: token.ADD, token.MUL: token.QUO, token.QUO: token.MUL, token.LAND: token.LOR, token.LOR: token.LAND,
	token.EQL: token.NEQ, token.NEQ: token.EQL}

// changed is a number a little off.
func changed(text string) (string, bool) {
	if n, err := strconv.ParseInt(text, 0, 64); err == nil {
		return strconv.FormatInt(n+1, 10), true
	}
	if f, err := strconv.ParseFloat(text, 64); err == nil && f != 0 {
		return strconv.FormatFloat(f*1.1, 'g', -1, 64), true
	}
	return "", false
}

func mutantsOf(path, pkg string) ([]mutant, error) {
	set := token.NewFileSet()
	f, err := parser.ParseFile(set, path, nil, parser.SkipObjectResolution)
	if err != nil {
		return nil, err
	}
	var list []mutant
	add := func(pos token.Pos, before, put string) {
		p := set.Position(pos)
		list = append(list, mutant{path, p.Line, p.Offset, p.Offset + len(before), before, put, pkg})
	}
	ast.Inspect(f, func(n ast.Node) bool {
		switch n := n.(type) {
		case *ast.ImportSpec, *ast.IndexExpr, *ast.SliceExpr:
			return false // places in a list are no formulas
		case *ast.CallExpr:
			if id, ok := n.Fun.(*ast.Ident); ok && id.Name == "make" {
				return false
			}
		case *ast.BasicLit:
			if n.Kind == token.INT || n.Kind == token.FLOAT {
				if put, ok := changed(n.Value); ok {
					add(n.Pos(), n.Value, put)
				}
			}
		case *ast.BinaryExpr:
			if put, ok := turned[n.Op]; ok && !onText(n) {
				add(n.OpPos, n.Op.String(), put.String())
			}
		}
		return true
	})
	return list, nil
}

// onText reports whether an expression joins or compares text or nothing.
func onText(n *ast.BinaryExpr) bool {
	for _, x := range []ast.Expr{n.X, n.Y} {
		switch x := x.(type) {
		case *ast.BasicLit:
			if x.Kind == token.STRING {
				return true
			}
		case *ast.Ident:
			if x.Name == "nil" {
				return true
			}
		case *ast.BinaryExpr:
			if onText(x) && (n.Op == token.ADD || n.Op == token.SUB) {
				return true
			}
		}
	}
	return false
}

// noticed reports whether a test of the core fails with the mutant in place.
func noticed(m mutant, dir string) (bool, error) {
	data, err := os.ReadFile(m.file)
	if err != nil {
		return false, err
	}
	work, err := os.MkdirTemp(dir, "")
	if err != nil {
		return false, err
	}
	defer os.RemoveAll(work)
	spoilt := filepath.Join(work, filepath.Base(m.file))
	text := slices.Concat(data[:m.from], []byte(m.put), data[m.to:])
	if err := os.WriteFile(spoilt, text, 0o600); err != nil {
		return false, err
	}
	original, err := filepath.Abs(m.file)
	if err != nil {
		return false, err
	}
	overlay, err := json.Marshal(map[string]any{"Replace": map[string]string{original: spoilt}})
	if err != nil {
		return false, err
	}
	list := filepath.Join(work, "overlay.json")
	if err := os.WriteFile(list, overlay, 0o600); err != nil {
		return false, err
	}
	for _, args := range [][]string{
		{"-short", "./" + m.pkg},
		{"-short", "./core/side", "./core/compare", "./core/fairness", "./core/plan", "./core/words", "./report"},
		{"./core/stats", "./core/compare", "./core/fairness"},
	} {
		cmd := exec.Command("go",
			append([]string{"test", "-vet=off", "-timeout", "120s", "-overlay", list}, args...)...)
		if out, err := cmd.CombinedOutput(); err != nil {
			if bytes.Contains(out, []byte("[setup failed]")) {
				return false, fmt.Errorf("%v: %s", m, out)
			}
			return true, nil // a test failed, or it does not even build
		}
	}
	return false, nil
}

// excused reads the survivors that are known, with the reason behind " :: ".
func excused(path string) (map[string]bool, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	known := map[string]bool{}
	for s := bufio.NewScanner(f); s.Scan(); {
		if what, why, ok := strings.Cut(s.Text(), " :: "); ok && strings.TrimSpace(why) != "" {
			known[what] = true
		}
	}
	return known, nil
}

func main() {
	only := flag.String("only", "", "files whose path matches this pattern")
	jobs := flag.Int("jobs", 2, "how many at once")
	flag.Parse()
	if err := run(*only, *jobs); err != nil {
		fmt.Fprintln(os.Stderr, "mutants:", err)
		os.Exit(1)
	}
}

func run(only string, jobs int) error {
	which, err := regexp.Compile(only)
	if err != nil {
		return err
	}
	known, err := excused("scripts/mutants/survivors.txt")
	if err != nil {
		return err
	}
	var all []mutant
	for _, pkg := range packages {
		files, err := filepath.Glob(pkg + "/*.go")
		if err != nil {
			return err
		}
		for _, path := range files {
			if strings.HasSuffix(path, "_test.go") || !which.MatchString(path) {
				continue
			}
			list, err := mutantsOf(path, pkg)
			if err != nil {
				return err
			}
			all = append(all, list...)
		}
	}
	dir, err := os.MkdirTemp("", "mutants-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	next := make(chan mutant)
	var mu sync.Mutex
	var wg sync.WaitGroup
	done, survived := 0, 0
	var failed error
	for range jobs {
		wg.Go(func() {
			for m := range next {
				seen, err := noticed(m, dir)
				mu.Lock()
				done++
				switch {
				case err != nil:
					failed = err
				case !seen && !known[m.String()]:
					survived++
					fmt.Println(m)
				}
				if done%50 == 0 {
					fmt.Fprintf(os.Stderr, "%d of %d\n", done, len(all))
				}
				mu.Unlock()
			}
		})
	}
	for _, m := range all {
		next <- m
	}
	close(next)
	wg.Wait()
	if failed != nil {
		return failed
	}
	if survived > 0 {
		return fmt.Errorf("%d of %d changes were noticed by no test and are not excused in scripts/mutants/survivors.txt", survived, len(all))
	}
	fmt.Printf("%d changes: each was noticed, or is excused\n", len(all))
	return nil
}
