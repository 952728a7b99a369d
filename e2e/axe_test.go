package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fault is what the accessibility checker finds on a page.
type fault struct {
	ID     string
	Impact string
	Help   string
	Nodes  []struct{ HTML, FailureSummary string }
}

// everyRule is what the accessibility checker looks at: WCAG 2.2 A and AA, and its best practice.
// rulesOfColour are those of
// them that a theme, which changes nothing but colours, can break.
const (
	everyRule     = `['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa', 'best-practice']`
	rulesOfColour = `{type: 'rule', values: ['color-contrast', 'link-in-text-block']}`
)

// checked runs the accessibility checker on the page that is open.
func (p *page) checked(script, rules string) []fault {
	p.t.Helper()
	_, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](script))
	require.NoError(p.t, err)
	_, err = chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](`window.found = undefined; axe.run(document, {resultTypes: ['violations'], rules: {'label-content-name-mismatch': {enabled: true}}, runOnly: `+rules+`}).then(r => { window.found = r.violations.map(v => ({ID: v.id, Impact: v.impact, Help: v.help,
		Nodes: v.nodes.slice(0, 3).map(n => ({HTML: n.html, FailureSummary: n.failureSummary}))})) })`))
	require.NoError(p.t, err)
	p.poll("the checker", "window.found !== undefined")
	found, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]fault]("window.found"))
	require.NoError(p.t, err)
	return found
}

// names are what a screen reader says on the page that is open, each with what it is.
func (p *page) names() (list []string) {
	p.t.Helper()
	tree, err := chromedp.Call(p.ctx, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
	require.NoError(p.t, err)
	for _, n := range tree.Nodes {
		if n.Ignored || n.Name == nil || n.Role == nil {
			continue
		}
		var role, name string
		require.NoError(p.t, json.Unmarshal(n.Role.Value, &role))
		require.NoError(p.t, json.Unmarshal(n.Name.Value, &name))
		if name != "" || slices.Contains([]string{"button", "link", "checkbox", "radio", "textbox", "combobox", "heading"}, role) {
			list = append(list, role+" "+name)
		}
	}
	return list
}

// notWords are what nothing that is read aloud contains: what a program says where a value is missing, a control without a
// name or with an id for one.
var notWords = regexp.MustCompile(`undefined|\bNaN\b|\[object|\bnull\b|^(button|link|checkbox|radio|textbox|combobox|heading) ([a-z0-9]+([-_][a-z0-9]+)+)?$`)

// accessible asserts that the checker finds nothing on the page as it is.
func (p *page) accessible() {
	p.t.Helper()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(p.t, err, "the front end's packages are installed")
	if found := p.checked(string(script), everyRule); len(found) > 0 {
		p.t.Errorf("the checker finds: %+v", found)
	}
}

// On no page, in neither theme, does the checker find anything, and what is read aloud is in plain words.
func TestAccessibility(t *testing.T) {
	t.Parallel()
	script, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err, "the front end's packages are installed")
	s := demo(t)
	var board struct {
		Cards []struct{ ID, Customer string }
	}
	s.ask("GET", "/api/jobs?state=all", nil, &board)
	ids := map[string]string{}
	for _, c := range board.Cards {
		ids[strings.Fields(c.Customer)[0]] = "/jobs/" + c.ID
	}
	done, open_, trial := ids["Ottilie"], ids["Fernbank"], ids["Bindery"]
	several, again := ids["Tidepool"], ids["Lantern"]
	pages := []struct{ path, see string }{
		{"/", "Fernbank Allotments"},
		{"/?state=all&q=quartz", "No job has"},
		{"/new", "New job"},
		{"/settings", "Templates of the shop"},
		{"/reach", "The bench on a phone"},
		{several + "/intake", "Add a drive to compare"},
		{several + "/trials/trial1", "Cold start to desktop"},
		{several + "/compare", "Price per TB"},
		{several + "/report", "Adjust the report"},
		{again + "/now", "Cold start to desktop"},
		{again + "/compare", "what the customer feels"},
		{again + "/report", "Adjust the report"},
		{"/reaction", "Your own reaction"},
		{"/nowhere", "There is no such page."},
		{done + "/intake", "Everyday laptop"},
		{done + "/then", "Sustained writing"},
		{done + "/then?test=t-start", "Set aside"},
		{done + "/swap", "Photo of the inside, screws sorted"},
		{done + "/now", "Sustained writing"},
		{done + "/ledger", "what the customer feels"},
		{done + "/report", "How it was measured"},
		{done + "/tests/t-sustained", "Second by second"},
		{done + "/race/t-start", "side by side"},
		{done + "/video/then/t-launch", "from a video"},
		{open_ + "/then", "Open the timer"},
		{open_ + "/measure/then", "Test conditions"},
		{open_ + "/timer/then/t-start", "Save and go to the timer"},
		{trial + "/ledger", "what the customer feels"},
		{trial + "/ledger?line=t-scattered", "The wider and the further to the right"},
		{trial + "/report", "Adjust the report"},
		{trial + "/trials/trial1", "the small one"},
		{ids["Emeka"] + "/prepare", "Once it is out"},
		{ids["Emeka"] + "/measure/then", "are written in all."},
		{ids["Emeka"] + "/timer/then/t-start", "starts when you press the power button"},
	}
	list, err := os.ReadFile("../testdata/voice.txt")
	require.NoError(t, err)
	stiff := strings.Split(strings.TrimSpace(string(list)), "\n")
	p := open(t, s.base, 1280, 800)
	for _, look := range []struct{ theme, rules string }{{"day", everyRule}, {"dim", rulesOfColour}} {
		theme, rules := look.theme, look.rules
		p.goTo("/")
		p.see("The bench")
		_, err := chromedp.Run(p.ctx,
			chromedp.Evaluate[chromedp.Void](fmt.Sprintf("localStorage.setItem('theme', %q)", theme)))
		require.NoError(t, err)
		for _, at := range pages {
			p.goTo(at.path)
			p.see(at.see)
			p.poll("the theme", fmt.Sprintf("document.documentElement.dataset.theme === %q", theme))
			// What is folded away is there as well; menus would lie over the page.
			_, err := chromedp.Run(p.ctx,
				chromedp.Evaluate[chromedp.Void](`document.querySelectorAll('details:not(.dropdown)').forEach(d => { d.open = true })`))
			require.NoError(t, err)
			if theme == "day" {
				names := p.names()
				assert.Greater(t, len(names), 10, at.path)
				for _, name := range names {
					assert.False(t, notWords.MatchString(name), "%s: %q is read aloud", at.path, name)
					for _, phrase := range stiff {
						assert.False(t, strings.Contains(name, phrase), "%s: %q is read aloud", at.path, name)
					}
				}
			}
			for _, f := range p.checked(string(script), rules) {
				for _, n := range f.Nodes {
					assert.Fail(t, fmt.Sprintf("%s, %s: %s (%s, %s)",
						strings.Split(at.path,
							"/jobs/")[len(strings.Split(at.path, "/jobs/"))-1], theme, f.Help, f.ID, f.Impact), "%s\n%s",
						n.HTML, n.FailureSummary)
				}
			}
		}
	}
}
