// Package browser starts headless Chromium for the journeys and the pictures.
package browser

import (
	"context"
	"fmt"
	"os"
	"os/exec"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
)

// names under which distributions install Chromium, and shell its build without
// windows: the same pages for half the work.
var (
	names = []string{"chromium", "chromium-browser", "google-chrome"}
	shell = []string{"chromium-headless-shell"}
)

// Path returns where Chromium is, the one that opens windows; the environment
// variable CHROMIUM names another place.
func Path() (string, error) { return path(names) }

// headless returns where the Chromium is that opens no window, or else any.
func headless() (string, error) { return path(append(shell, names...)) }

func path(names []string) (string, error) {
	if p := os.Getenv("CHROMIUM"); p != "" {
		return p, nil
	}
	for _, n := range names {
		if p, err := exec.LookPath(n); err == nil {
			return p, nil
		}
	}
	return "", fmt.Errorf("no Chromium is installed; on Debian: apt-get install chromium")
}

// Start starts a browser that many tests share, and returns a function that ends it.
// Each calls Apart for a context of its own: nothing is shared but the process.
func Start(ctx context.Context) (context.Context, context.CancelFunc, error) {
	first, end, err := New(ctx, 1280, 800)
	if err != nil {
		return nil, nil, err
	}
	if err := chromedp.Do(first); err != nil { // the first run starts it
		end()
		return nil, nil, fmt.Errorf("starting Chromium: %w", err)
	}
	return first, end, nil
}

// Apart returns a tab of a started browser with cookies and storage of its own,
// and a function that closes it. It counts as the one that has the focus, as
// other tabs of the browser do not: each represents a person at a screen.
func Apart(started context.Context) (context.Context, context.CancelFunc, error) {
	tab, end := chromedp.NewContext(started, chromedp.WithNewBrowserContext())
	if _, err := chromedp.Call(tab, emulation.SetFocusEmulationEnabled,
		emulation.SetFocusEmulationEnabledParams{Enabled: true}); err != nil {
		end()
		return nil, nil, fmt.Errorf("opening a tab: %w", err)
	}
	return tab, end, nil
}

// New returns a context with one tab of a browser of its own, width by height,
// and a function that ends it.
func New(ctx context.Context, width, height int) (context.Context, context.CancelFunc, error) {
	path, err := headless()
	if err != nil {
		return nil, nil, err
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path),
		chromedp.NoSandbox, // the pages are this program's own
		chromedp.DisableGPU,
		chromedp.WindowSize(width, height),
		chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-background-networking", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-sync", true),
		chromedp.Flag("hide-scrollbars", true),
		// A computer's name in the shop's network is this one's, without asking a network.
		chromedp.Flag("host-resolver-rules", "MAP *.local 127.0.0.1"),
		chromedp.Flag("lang", "en-GB"),
	)
	alloc, endAlloc := chromedp.NewExecAllocator(ctx, opts...)
	tab, endTab := chromedp.NewContext(alloc)
	return tab, func() { endTab(); endAlloc() }, nil
}
