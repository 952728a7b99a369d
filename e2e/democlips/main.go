// Command democlips draws and encodes the demonstration's video clips: a made-up
// program that opens, filmed at known frame times. Chromium draws the frames and
// encodes them as VP8; the WebM around them is written here, so that every frame
// time is exactly the one that is written beside the clip.
package main

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"flag"
	"fmt"
	"log"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"time"

	"github.com/chromedp/chromedp"

	"nowthen/e2e/browser"
)

// clip is a made-up clip: frames at their times, and what happens when.
type clip struct {
	Name string `json:"name"`
	// FramesMS are the times of the frames, ms.
	FramesMS []int `json:"frames_ms"`
	// StartMS and EndMS are the frames in which the click and the ready program are
	// first to be seen.
	StartMS int `json:"start_ms"`
	EndMS   int `json:"end_ms"`
}

// steady gives a frame each period.
func steady(lengthMS int, perSecond float64) []int {
	var list []int
	for i := 0; ; i++ {
		at := int(float64(i) * 1000 / perSecond)
		if at > lengthMS {
			return list
		}
		list = append(list, at)
	}
}

// uneven gives frames as a phone makes them in changing light: 15 to 40 ms apart,
// and a few that were lost.
func uneven(lengthMS int) []int {
	var list []int
	for at, i := 0, 0; at <= lengthMS; i++ {
		list = append(list, at)
		at += 15 + i*7%26
		if i%37 == 36 {
			at += 60
		}
	}
	return list
}

// clips are then and now of one launch: 30 pictures a second, and uneven ones.
func clips() []clip {
	then := clip{Name: "then", FramesMS: steady(15400, 30)}
	now := clip{Name: "now", FramesMS: uneven(3600)}
	then.StartMS, then.EndMS = at(then.FramesMS, 1000), at(then.FramesMS, 14700)
	now.StartMS, now.EndMS = at(now.FramesMS, 1000), at(now.FramesMS, 2600)
	return []clip{then, now}
}

// at is the first frame at or after a time.
func at(frames []int, ms int) int {
	for _, f := range frames {
		if f >= ms {
			return f
		}
	}
	return frames[len(frames)-1]
}

// draw encodes a clip's frames in the page; it returns them with their kind.
const draw = `async (clip) => {
	const w = 320, h = 180;
	const canvas = new OffscreenCanvas(w, h), g = canvas.getContext('2d');
	const chunks = [];
	const encoder = new VideoEncoder({
		output: c => { const b = new Uint8Array(c.byteLength); c.copyTo(b); let s = ''; for (let i = 0; i < b.length; i += 8192) s += String.fromCharCode(...b.subarray(i, i + 8192)); chunks.push({at: c.timestamp / 1000, key: c.type === 'key', data: btoa(s)}) },
		error: e => { throw e },
	});
	encoder.configure({codec: 'vp8', width: w, height: h, bitrate: 180000, framerate: 30});
	for (let i = 0; i < clip.frames_ms.length; i++) {
		const t = clip.frames_ms[i];
		g.fillStyle = '#39424a'; g.fillRect(0, 0, w, h);
		g.fillStyle = '#fbf8f1'; g.fillRect(20, 16, w - 40, h - 52);
		g.fillStyle = '#22282b'; g.font = '13px sans-serif';
		if (t < clip.start_ms) { g.fillText('Larkfield Ledger', 40, 50); g.strokeRect(36, 34, 120, 24); }
		else if (t < clip.end_ms) {
			g.fillText('Larkfield Ledger is opening', 40, 72);
			g.fillStyle = '#8d5a04'; g.fillRect(40, 80, (w - 80) * (t - clip.start_ms) / (clip.end_ms - clip.start_ms), 8);
		} else { g.fillText('Accounts of the year', 40, 44); g.fillStyle = '#0b605d'; for (let r = 0; r < 5; r++) g.fillRect(40, 60 + 14 * r, 200 - 23 * r, 7); }
		if (t >= clip.start_ms && t < clip.start_ms + 200) { g.fillStyle = '#9c1f3c'; g.beginPath(); g.arc(146, 46, 8, 0, 7); g.fill(); }
		g.fillStyle = '#fbf8f1'; g.font = '12px monospace'; g.fillText((t / 1000).toFixed(3) + ' s', 24, h - 14);
		const frame = new VideoFrame(canvas, {timestamp: t * 1000});
		encoder.encode(frame, {keyFrame: i % 60 === 0});
		frame.close();
	}
	await encoder.flush();
	return JSON.stringify(chunks);
}`

func main() {
	out := flag.String("out", "bench/democlips", "folder for the clips")
	flag.Parse()
	if err := run(*out); err != nil {
		log.Fatal(err)
	}
}

func run(out string) error {
	ctx, cancel := context.WithTimeout(context.Background(), 3*time.Minute)
	defer cancel()
	// Encoders are for pages of a safe origin, such as this computer's own.
	page := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		fmt.Fprint(w, "<!doctype html>")
	}))
	defer page.Close()
	tab, end, err := browser.New(ctx, 640, 480)
	if err != nil {
		return err
	}
	defer end()
	if err := chromedp.Do(tab, chromedp.Navigate(page.URL)); err != nil {
		return err
	}
	list := clips()
	for _, c := range list {
		described, err := json.Marshal(c)
		if err != nil {
			return err
		}
		text, err := chromedp.Run(tab,
			chromedp.Evaluate[string](fmt.Sprintf("(%s)(%s)", draw, described), chromedp.EvalAwaitPromise))
		if err != nil {
			return fmt.Errorf("drawing %s: %w", c.Name, err)
		}
		var chunks []struct {
			At   float64
			Key  bool
			Data string
		}
		if err := json.Unmarshal([]byte(text), &chunks); err != nil {
			return err
		}
		var frames []frame
		for _, k := range chunks {
			data, err := base64.StdEncoding.DecodeString(k.Data)
			if err != nil {
				return err
			}
			frames = append(frames, frame{ms: int(k.At + 0.5), key: k.Key, data: data})
		}
		if err := os.WriteFile(filepath.Join(out, c.Name+".webm"), webm(320, 180, frames), 0o644); err != nil {
			return err
		}
	}
	known, err := json.MarshalIndent(list, "", " ")
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(out, "known.json"), append(known, '\n'), 0o644)
}
