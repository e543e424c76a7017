// Command shot takes a picture of a page of a running application, after running
// a script in it, and prints what the script returns: for docs/screenshots, for looking
// while working, and for scripts/calm.js.
package main

import (
	"context"
	"flag"
	"fmt"
	"log"
	"os"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"widetally/e2e/browser"
)

// settle is the time given to transitions before a picture.
const settle = 700 * time.Millisecond

func main() {
	url := flag.String("url", "http://127.0.0.1:8420/", "page to open")
	script := flag.String("js", "", "script to run in the page before the picture; may await")
	out := flag.String("out", "shot.png", "file to write; none where it is empty")
	width := flag.Int64("width", 1280, "width of the window")
	height := flag.Int64("height", 800, "height of the window")
	dark := flag.Bool("dark", false, "prefer the dark theme")
	flag.Parse()
	ctx, stop := browser.New(context.Background())
	defer stop()
	ctx, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	scheme := "light"
	if *dark {
		scheme = "dark"
	}
	const tools = `const wait = ms => new Promise(r => setTimeout(r, ms));
		const type = (el, text) => { el.focus(); el.value = text; el.dispatchEvent(new Event('input', {bubbles: true})); el.dispatchEvent(new Event('change', {bubbles: true})); };`
	prefer := emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}}}
	if _, err := chromedp.Call(ctx, emulation.SetEmulatedMedia, prefer); err != nil {
		log.Fatal(err)
	}
	err := chromedp.Do(ctx,
		chromedp.EmulateViewport(*width, *height),
		chromedp.Navigate(*url),
		chromedp.WaitVisible(chromedp.CSS("#page")),
		chromedp.Sleep(settle),
	)
	if err != nil {
		log.Fatal(err)
	}
	said, err := chromedp.Run(ctx, chromedp.Evaluate[string]("(async () => {"+tools+*script+"})().then(said => said ?? '')", chromedp.EvalAwaitPromise))
	if err != nil {
		log.Fatal(err)
	}
	if said != "" {
		fmt.Println(said)
	}
	if *out == "" {
		return
	}
	time.Sleep(settle)
	picture, err := chromedp.Run(ctx, chromedp.CaptureScreenshot())
	if err != nil {
		log.Fatal(err)
	}
	if err := os.WriteFile(*out, picture, 0o644); err != nil {
		log.Fatal(err)
	}
}
