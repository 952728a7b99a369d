// Command screenshots takes a picture of each main view of a running
// demonstration, for docs/screenshots and for looking at.
package main

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"log"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/chromedp/chromedp"

	"nowthen/e2e/browser"
)

// view is a picture: where it is taken, what must be in sight first, and keys
// or clicks before it.
type view struct {
	name          string
	path          string // {Lantern} … are the demonstration's jobs, the oldest first
	wait          string // text that must be in sight
	width, height int
	theme         string
	script        string // run before the picture
	full          bool
}

var views = []view{
	{name: "bench", path: "/", wait: "The bench"},
	{name: "joined", path: "/jobs/{Quayside}/then", wait: "Ostrand Front Desk 3", theme: "dim"},
	{name: "intake", path: "/new", wait: "New job"},
	{name: "then", path: "/jobs/{Emeka}/then", wait: "Tests", width: 1280, height: 1300},
	{name: "plan", path: "/jobs/{Herbarium}/intake", wait: "How the customer uses it", width: 1280, height: 1500},
	{name: "prepare", path: "/jobs/{Quayside}/prepare", wait: "Will it fit"},
	{name: "comparison", path: "/jobs/{Tidepool}/compare", wait: "Price per TB"},
	{name: "now", path: "/jobs/{Cellar}/now", wait: "Game: start to the menu"},
	{name: "settings", path: "/settings", wait: "Templates of the shop"},
	{name: "measure", path: "/jobs/{Emeka}/measure/then", wait: "Runs of each"},
	{name: "closer", path: "/jobs/{Ottilie}/tests/t-sustained", wait: "Second by second"},
	{name: "race", path: "/jobs/{Ottilie}/race/t-start?setups=then,now", wait: "side by side",
		script: `(e => { Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(e, 58); e.dispatchEvent(new Event('input', {bubbles: true})) })(document.querySelector('[aria-label="Time of the race"]'))`},
	{name: "video", path: "/jobs/{Ottilie}/video/now/t-launch", wait: "These marks belong",
		script: `setTimeout(() => [...document.querySelectorAll('button')].find(b => b.innerText.startsWith('2.6')).click(), 200)`},
	{name: "timer", path: "/jobs/{Emeka}/timer/then/t-start", wait: "starts"},
	{name: "timer-phone", path: "/jobs/{Emeka}/timer/then/t-start", wait: "starts", width: 390, height: 844, theme: "dim"},
	{name: "ledger", path: "/jobs/{Ottilie}/compare", wait: "what the customer feels"},
	{name: "ledger-doubt", path: "/jobs/{Bindery}/compare?line=t-scattered", wait: "The drives that were tried", theme: "dim"},
	{name: "quote", path: "/jobs/{Harbour}/intake", wait: "Work starts when"},
	{name: "report", path: "/jobs/{Ottilie}/report", wait: "How it was measured", full: true},
}

func main() {
	base := flag.String("base", "http://127.0.0.1:7117", "address of the running demonstration")
	out := flag.String("out", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "names of the views to take, with commas; empty means all")
	path := flag.String("path", "", "take one picture of this path instead")
	size := flag.String("size", "1280x800", "with -path: its size")
	theme := flag.String("theme", "day", "with -path: day or dim")
	script := flag.String("script", "", "with -path: JavaScript to run before the picture")
	flag.Parse()
	list := views
	if *path != "" {
		v := view{name: "look", path: *path, wait: "Now Then", theme: *theme, script: *script}
		if _, err := fmt.Sscanf(*size, "%dx%d", &v.width, &v.height); err != nil {
			log.Fatalf("-size %s: %v", *size, err)
		}
		list = []view{v}
	}
	if err := take(*base, *out, *only, list); err != nil {
		log.Fatal(err)
	}
}

func take(base, out, only string, list []view) error {
	ids, err := jobs(base)
	if err != nil {
		return err
	}
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	defer cancel()
	tab, end, err := browser.New(ctx, 1280, 800)
	if err != nil {
		return err
	}
	defer end()
	for _, v := range list {
		if only != "" && !strings.Contains(","+only+",", ","+v.name+",") {
			continue
		}
		for name, id := range ids {
			v.path = strings.ReplaceAll(v.path, "{"+name+"}", id)
		}
		if err := shoot(tab, base, out, v); err != nil {
			return fmt.Errorf("%s: %w", v.name, err)
		}
	}
	return nil
}

// jobs returns the ids of the demonstration's jobs by the customers' first names.
func jobs(base string) (map[string]string, error) {
	res, err := http.Get(base + "/api/jobs?state=all")
	if err != nil {
		return nil, err
	}
	defer res.Body.Close()
	var board struct {
		Cards []struct{ ID, Customer string }
	}
	if err := json.NewDecoder(res.Body).Decode(&board); err != nil {
		return nil, err
	}
	ids := map[string]string{}
	for _, c := range board.Cards {
		name, _, _ := strings.Cut(c.Customer, " ")
		ids[name] = c.ID
	}
	return ids, nil
}

func shoot(tab context.Context, base, out string, v view) error {
	if v.width == 0 {
		v.width, v.height = 1280, 800
	}
	if v.theme == "" {
		v.theme = "day"
	}
	err := chromedp.Do(tab,
		chromedp.EmulateViewport(int64(v.width), int64(v.height)),
		chromedp.Navigate(base+"/assets/mark.svg"), // any page of the same origin
	)
	if err == nil {
		_, err = chromedp.Run(tab,
			chromedp.Evaluate[chromedp.Void](fmt.Sprintf("localStorage.setItem('theme', %q)", v.theme)))
	}
	if err == nil {
		err = chromedp.Do(tab, chromedp.Navigate(base+v.path), chromedp.Sleep(300*time.Millisecond))
	}
	if err == nil && v.wait != "Now Then" {
		_, err = chromedp.Run(tab,
			chromedp.Poll[chromedp.Void](fmt.Sprintf("document.body.innerText.includes(%q)", v.wait),
				chromedp.WithPollingTimeout(10*time.Second)))
	}
	if err == nil {
		err = chromedp.Do(tab, chromedp.Sleep(500*time.Millisecond))
	}
	if err == nil && v.script != "" {
		_, err = chromedp.Run(tab, chromedp.Evaluate[chromedp.Void](v.script))
		if err == nil {
			err = chromedp.Do(tab, chromedp.Sleep(700*time.Millisecond))
		}
	}
	if err != nil {
		return err
	}
	picture := chromedp.CaptureScreenshot()
	if v.full {
		picture = chromedp.FullScreenshot(100)
	}
	png, err := chromedp.Run(tab, picture)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(out, 0o755); err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(out, v.name+".png"), png, 0o644)
}
