package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"sync"
	"time"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// look has the page test a script in each frame in which something changed, and now and then for
// what shows nowhere, and ends after a while, since another page may have taken its place.
const look = `new Promise((done) => {
	const is = () => { try { return Boolean(%s) } catch { return false } }
	let asked = 0, ended = 0
	const end = (what) => { ended = 1; seen.disconnect(); clearInterval(every); done(what) }
	const test = () => { asked = 0; if (!ended && is()) end(true) }
	const seen = new MutationObserver(() => { asked ||= requestAnimationFrame(test) })
	const every = setInterval(test, 60)
	seen.observe(document, {subtree: true, childList: true, attributes: true, characterData: true})
	setTimeout(() => ended || end(false), 1000)
	test()
})`

// await waits until a script gives true.
func (p *page) await(what, script string) {
	p.t.Helper()
	if !p.becomes(script) {
		p.t.Fatalf("waited in vain for %s", what)
	}
}

// becomes waits until a script gives true, or the test's time is over.
func (p *page) becomes(script string) bool {
	for p.ctx.Err() == nil {
		is, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](fmt.Sprintf(look, script), chromedp.EvalAwaitPromise))
		if err == nil && is {
			return true
		}
		if err != nil {
			time.Sleep(10 * time.Millisecond) // a page on its way
		}
	}
	return false
}

// sees waits until the text of what a selector finds holds these words.
func (p *page) sees(selector string, texts ...string) {
	p.t.Helper()
	for _, text := range texts {
		if !p.becomes(fmt.Sprintf(`[...document.querySelectorAll(%q)].some(e => e.textContent.replace(/\s+/g, ' ').includes(%q))`, selector, text)) {
			shown, _ := chromedp.Run(p.late(), chromedp.Evaluate[string](fmt.Sprintf(`[...document.querySelectorAll(%q)].map(e => e.textContent).join(' | ').slice(0, 1500)`, selector)))
			p.t.Fatalf("%q is not in %s, which shows: %s", text, selector, shown)
		}
	}
}

// late is the tab beyond the bound of its test, to say what it shows.
func (p *page) late() context.Context {
	ctx, cancel := context.WithTimeout(p.tab, 10*time.Second)
	p.t.Cleanup(cancel)
	return ctx
}

func (p *page) gone(selector string) {
	p.t.Helper()
	p.await(selector+" to go", fmt.Sprintf(`document.querySelector(%q) === null`, selector))
}

// table returns the cells of a table's body as they are read, once it is there.
func (p *page) table(selector string) [][]string {
	p.t.Helper()
	p.await("rows of "+selector, fmt.Sprintf(`document.querySelector(%q + ' tbody tr') !== null`, selector))
	script := fmt.Sprintf(`JSON.stringify([...document.querySelectorAll(%q + ' tbody tr')].map(r => [...r.children].map(c => c.innerText.split('\n')[0].replaceAll('\u00a0', ' ').trim())))`, selector)
	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](script))
	require.NoError(p.t, err)
	var rows [][]string
	require.NoError(p.t, json.Unmarshal([]byte(raw), &rows))
	return rows
}

// samePicture holds the picture that the server saves against the one in the page: the same
// words and the same shapes, but for circles and the rooms of texts, which each writes its own way, with lines under it that say whom it is about.
func (p *page) samePicture(scope string, under ...string) {
	p.t.Helper()
	p.run(fmt.Sprintf(`window.words = (svg) => [...svg.matchAll(/<text[^>]*>([^<]*)/g)].map((x) => x[1].replace(/[\s\u00a0]+/g, ' ').trim()).sort();
		window.shapes = (svg) => [...svg.matchAll(/<path[^>]* d="([^"]*)"/g)].filter((x) => !/^M(0|-5) |A/.test(x[1])).map((x) => x[1].match(/-?[\d.]+/g).map(Number));
		window.alike = (a, b) => a.length === b.length && a.every((x, i) => Math.abs(x - b[i]) < 0.06);
		window.served = undefined;
		fetch(document.querySelector('%s [data-test=picture]').href).then((r) => r.text()).then((svg) => (window.served = svg))`, scope))
	drawn := fmt.Sprintf(`document.querySelector('%s [data-test=chart] svg').outerHTML`, scope)
	p.await("the shapes of "+scope, `window.served && ((s) => shapes(`+drawn+`).every((a) => s.some((b) => alike(a, b))))(shapes(served))`)
	p.await("the words of "+scope, `words(`+drawn+`).every((w) => words(served).includes(w))`)
	for _, line := range under {
		p.await(line, fmt.Sprintf(`words(served).some((w) => w.includes(%q))`, line))
	}
}

// clipboard is the one that all tabs share.
var clipboard sync.Mutex

// mayUseClipboard lets the page write to the clipboard and the test read it, until it ends.
func (p *page) mayUseClipboard() {
	p.t.Helper()
	clipboard.Lock()
	p.t.Cleanup(clipboard.Unlock)
	for _, name := range []string{"clipboard-read", "clipboard-write"} {
		_, err := chromedp.Call(p.ctx, browser.SetPermission, browser.SetPermissionParams{Permission: &browser.PermissionDescriptor{Name: name}, Setting: browser.PermissionSettingGranted, BrowserContextID: chromedp.FromContext(p.tab).BrowserContextID})
		require.NoError(p.t, err)
	}
}

// notesCopies has the page note a text that it copies instead of writing it to the clipboard,
// which all tabs share.
func (p *page) notesCopies() {
	p.t.Helper()
	p.run(`navigator.clipboard.writeText = async (text) => { window.clip = text }`)
}

// copied is what the clipboard holds of a kind.
func (p *page) copied(kind string) string {
	p.t.Helper()
	p.run(fmt.Sprintf(`window.clip = undefined; navigator.clipboard.read().then((items) => items[0].getType(%q)).then((b) => %q.startsWith('text') ? b.text() : 'bytes ' + b.size).then((text) => (window.clip = text))`, kind, kind))
	p.await("the clipboard as "+kind, `window.clip !== undefined`)
	text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`window.clip`))
	require.NoError(p.t, err)
	return text
}
