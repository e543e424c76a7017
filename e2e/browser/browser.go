// Package browser starts the headless Chromium that the browser tests and the
// pictures share.
package browser

import (
	"context"
	"os"
	"os/exec"

	"github.com/chromedp/chromedp"
)

// mouse says that there is a pointer which hovers: without a screen the browser would have none, and
// what comes with the pointer would always be there.
const mouse = "primaryHoverType=2,availableHoverTypes=2,primaryPointerType=4,availablePointerTypes=4"

// New starts a browser with an empty profile and returns its context and what
// ends it. It only ever opens pages of this application, which is why it may do
// without the sandbox that containers and root do not offer.
func New(parent context.Context) (context.Context, context.CancelFunc) {
	options := append(chromedp.DefaultExecAllocatorOptions[:], chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("font-render-hinting", "none"),
		chromedp.Flag("blink-settings", mouse), chromedp.WindowSize(1280, 800))
	// Chromium without windows takes half the processor time of Chromium.
	for _, program := range []string{os.Getenv("CHROMIUM"), "chromium-headless-shell", "chromium"} {
		if path, err := exec.LookPath(program); err == nil {
			options = append(options, chromedp.ExecPath(path))
			break
		}
	}
	allocated, end := chromedp.NewExecAllocator(parent, options...)
	ctx, cancel := chromedp.NewContext(allocated)
	return ctx, func() { cancel(); end() }
}

// Tab opens a page in a started browser, with a profile of its own that is empty, and returns
// its context and what closes it.
func Tab(started context.Context) (context.Context, context.CancelFunc) {
	return chromedp.NewContext(started, chromedp.WithNewBrowserContext())
}
