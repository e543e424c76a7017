package e2e

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"net"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/gofiber/fiber/v3"
	"github.com/stretchr/testify/require"

	"widetally/e2e/browser"
	"widetally/internal/httpapi"
	"widetally/internal/i18n"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/store"
	"widetally/web"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

// A wait is for something on the screen, however long that takes: what bounds it is the time for
// the whole test.
var bound = flag.Duration("bound", 10*time.Minute, "how long a test may take in a browser")

// chromium is the one browser of all tests, each of which has a profile of its own in it. It
// ends with the room of the tests.
var chromium = sync.OnceValues(func() (context.Context, error) {
	ctx, _ := browser.New(context.Background())
	return ctx, chromedp.Do(ctx, chromedp.Navigate("about:blank"))
})

// serve starts the built application on a database and returns its address, the
// use cases behind it and what stops it, at the end of the test at the latest. The page that
// the test has open leaves before, so that it does not ask a server that has gone.
func serve(t testing.TB, dsn string) (address string, cases *service.Services, stop func()) {
	t.Helper()
	return serveWith(t, dsn, service.Options{}, web.Files())
}

// serveWith does so with a statistics office, and with a front end that may be another.
func serveWith(t testing.TB, dsn string, opt service.Options, front fs.FS) (address string, cases *service.Services, stop func()) {
	t.Helper()
	s, err := store.Open(context.Background(), dsn)
	require.NoError(t, err)
	w, err := i18n.Load("en")
	require.NoError(t, err)
	opt.ArrivalsDir = t.TempDir()
	cases, err = service.New(s, w, opt)
	require.NoError(t, err)
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	app := httpapi.New(httpapi.Config{Study: cases, Web: front, Charts: web.Charts(), Log: slog.New(slog.NewTextHandler(io.Discard, nil))})
	go func() { _ = app.Listener(listener, fiber.ListenConfig{DisableStartupMessage: true}) }()
	stop = sync.OnceFunc(func() {
		if p, there := opened.Load(t.Name()); there && !t.Failed() {
			p.(*page).leave()
		}
		_ = app.ShutdownWithTimeout(3 * time.Second)
		s.Close()
	})
	t.Cleanup(stop)
	return "http://" + listener.Addr().String(), cases, stop
}

// opened holds the page that a test has open, under the test's name.
var opened sync.Map

// page is a browser tab, used as a person would: by what is on the screen.
type page struct {
	t       *testing.T
	ctx     context.Context // within the bound
	tab     context.Context
	mu      sync.Mutex
	console []string
}

// open opens a tab; the test fails at its end if the page wrote an error to
// the console, which is where a broken content-security policy shows.
func open(t *testing.T) *page {
	t.Helper()
	started, err := chromium()
	require.NoError(t, err)
	tab, stop := browser.Tab(started)
	require.NoError(t, chromedp.Do(tab, chromedp.EmulateViewport(1280, 800)))
	ctx, cancel := context.WithTimeout(tab, *bound)
	p := &page{t: t, ctx: ctx, tab: tab}
	// Nothing moves that need not, and each tab is as if it were the one in front.
	_, err = chromedp.Call(ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "prefers-reduced-motion", Value: "reduce"}}})
	require.NoError(t, err)
	_, err = chromedp.Call(ctx, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
	require.NoError(t, err)
	go func() {
		for m, err := range chromedp.Console(ctx) {
			if err != nil {
				return
			}
			if text := fmt.Sprint(m); strings.HasPrefix(text, "error") {
				p.mu.Lock()
				p.console = append(p.console, text)
				p.mu.Unlock()
			}
		}
	}()
	opened.Store(t.Name(), p)
	t.Cleanup(func() {
		opened.Delete(t.Name())
		p.mu.Lock()
		errors := p.console
		p.mu.Unlock()
		if t.Failed() {
			p.keepPicture()
		}
		cancel()
		stop()
		require.Empty(t, errors, "errors in the console")
	})
	return p
}

// forgive passes over what the browser itself writes about a refusal that is expected.
func (p *page) forgive(status int) { p.forgiveTexts(fmt.Sprintf("status of %d", status)) }

func (p *page) forgiveTexts(texts ...string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	p.console = slices.DeleteFunc(p.console, func(said string) bool {
		return slices.ContainsFunc(texts, func(text string) bool { return strings.Contains(said, text) })
	})
}

// keepPicture leaves what a failed test last saw in the folder for what is built.
func (p *page) keepPicture() {
	if picture, err := chromedp.Run(p.late(), chromedp.CaptureScreenshot()); err == nil {
		file := filepath.Join("..", "build", "failed", strings.ReplaceAll(p.t.Name(), "/", " ")+".png")
		_ = os.MkdirAll(filepath.Dir(file), 0o755)
		_ = os.WriteFile(file, picture, 0o600)
		p.t.Logf("the page as it was: %s", file)
	}
}

func (p *page) do(what string, a chromedp.Action[chromedp.Void]) {
	p.t.Helper()
	require.NoError(p.t, chromedp.Do(p.ctx, a), what)
}

// leave closes what the page shows.
func (p *page) leave() { p.do("leave", chromedp.Navigate("about:blank")) }

func (p *page) visit(url string) {
	p.t.Helper()
	p.do(url, chromedp.Navigate(url))
	p.await(url, `document.getElementById('page') !== null`)
}

// click presses what a CSS selector finds, once it is enabled and stands still, where a
// person's pointer would hit it.
func (p *page) click(selector string) {
	p.t.Helper()
	p.clickOn(selector, fmt.Sprintf(`document.querySelector(%q)`, selector))
}

func (p *page) clickOn(what, find string) {
	p.t.Helper()
	for missed := true; missed; missed = p.missed() {
		x, y := p.place(what, find)
		p.pointer("press "+what, chromedp.MousePressed, x, y)
		p.pointer("let go over "+what, chromedp.MouseReleased, x, y)
	}
}

func (p *page) pointer(what string, event input.DispatchMouseEventType, x, y float64) {
	p.t.Helper()
	p.do(what, chromedp.MouseEvent(event, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

// aim finds where a pointer would hit something, once that is enabled, has stood still for a
// frame, and is not covered. Should it move away before the pointer comes, nothing else is hit.
const aim = `new Promise((done) => {
	let last, until = performance.now() + 1000
	const within = (e, hit) => hit && (e.contains(hit) || hit.closest('label')?.contains(e))
	const guard = (e) => {
		window.unguard?.()
		window.missed = true // as long as nothing has come, which a page that is only just painted drops
		let first = true
		const kinds = ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click']
		const passes = (event) => {
			if (first) window.missed = !within(e, event.target)
			first = false
			if (window.missed) event.stopImmediatePropagation(), event.preventDefault()
			if (event.type === 'click') window.unguard()
		}
		window.unguard = () => kinds.forEach((kind) => removeEventListener(kind, passes, true))
		kinds.forEach((kind) => addEventListener(kind, passes, true))
	}
	const look = () => {
		if (performance.now() > until) return done([])
		const e = %s
		if (!e || e.disabled || document.fonts.status !== 'loaded') return setTimeout(look, 20)
		requestAnimationFrame(look)
		const show = () => e.scrollIntoView({block: e.closest('.v-overlay') ? 'nearest' : 'center', behavior: 'instant'})
		if (last === undefined) show()
		const r = e.getClientRects()[0]
		if (!r) return
		const at = [r.x + r.width / 2, r.y + r.height / 2]
		if (String(at) === last && within(e, document.elementFromPoint(...at))) return until = 0, guard(e), done(at)
		if (String(at) !== last) show()
		last = String(at)
	}
	look()
})`

// place is where a pointer would hit what a script finds.
func (p *page) place(what, find string) (x, y float64) {
	p.t.Helper()
	for p.ctx.Err() == nil {
		at, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]float64](fmt.Sprintf(aim, find), chromedp.EvalAwaitPromise))
		if err == nil && len(at) == 2 {
			return at[0], at[1]
		}
		if err != nil {
			time.Sleep(10 * time.Millisecond) // a page on its way
		}
	}
	p.t.Fatalf("waited in vain for a place to press %s", what)
	return 0, 0
}

// missed tells whether what was aimed at had moved away; a page that has left was hit.
func (p *page) missed() bool {
	missed, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool](`window.missed === true`))
	return err == nil && missed
}

// pressWord presses the first button, link or list item inside scope that bears this text.
func (p *page) pressWord(scope, word string) {
	p.t.Helper()
	find := fmt.Sprintf(`[...document.querySelectorAll(%q)].flatMap(s => [...s.querySelectorAll('button, a, [role=option]')]).find(e => e.textContent.trim().startsWith(%q) && !e.disabled)`, scope, word)
	p.await(word, `(() => { const e = `+find+`; if (!e) return false; e.scrollIntoView({block: 'center'}); return true })()`)
	p.run(find + `.click()`)
}

// more presses something among the further things to do with a question.
func (p *page) more(question, test string) {
	p.t.Helper()
	p.click(question + " [data-test=more]")
	p.item(test)
}

// item takes something of the menu that is open.
func (p *page) item(test string) {
	p.t.Helper()
	item := fmt.Sprintf(`document.querySelector('.v-overlay--active [data-test="%s"]')`, test)
	p.await(test, item+` !== null`)
	p.run(item + `.click()`) // the menu still grows, so that no pointer would hit it
	p.gone(`.v-overlay [data-test="` + test + `"]`)
}

// seek types into a field that searches a list, and takes what is found.
func (p *page) seek(selector, text, found string) {
	p.t.Helper()
	p.await(selector, fmt.Sprintf(`(() => { const e = document.querySelector(%q)?.querySelector('input:not([type=hidden])'); if (!e) return false; e.focus(); e.select(); return document.activeElement === e })()`, selector))
	p.do("type", chromedp.KeyEvent(text))
	p.pressWord("[role=listbox]", found)
}

// fill writes into a field, or into that within what a selector finds.
func (p *page) fill(selector, text string) {
	p.t.Helper()
	p.await(selector, fmt.Sprintf(`(() => { const there = document.querySelector(%q); const e = there?.matches('input, textarea') ? there : there?.querySelector('input, textarea')
		e.focus(); e.select(); return document.activeElement === e })()`, selector))
	_, err := chromedp.Call(p.ctx, input.InsertText, input.InsertTextParams{Text: text})
	require.NoError(p.t, err, "fill "+selector)
}

// enter presses Enter in a field. The event is made in the page, since the protocol
// sends a key's character even when the page has dealt with the key.
func (p *page) enter(selector string) {
	p.t.Helper()
	p.run(fmt.Sprintf(`document.querySelector(%q).dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', bubbles: true, cancelable: true}))`, selector))
}

func (p *page) run(script string) {
	p.t.Helper()
	p.do(script, chromedp.Evaluate[chromedp.Void](script))
}

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

// table returns the cells of a table's body as they are read.
func (p *page) table(selector string) [][]string {
	p.t.Helper()
	script := fmt.Sprintf(`JSON.stringify([...document.querySelectorAll(%q + ' tbody tr')].map(r => [...r.children].map(c => c.innerText.split('\n')[0].replaceAll('\u00a0', ' ').trim())))`, selector)
	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](script))
	require.NoError(p.t, err)
	var rows [][]string
	require.NoError(p.t, json.Unmarshal([]byte(raw), &rows))
	return rows
}

func (p *page) upload(file, content string) {
	p.t.Helper()
	path := filepath.Join(p.t.TempDir(), file)
	require.NoError(p.t, os.WriteFile(path, []byte(content), 0o600))
	p.await("the file field", `document.querySelector('[data-test=file]') !== null`)
	p.do("upload", chromedp.SetUploadFiles(chromedp.CSS("[data-test=file]"), []string{path}))
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
