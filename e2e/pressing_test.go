package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

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
		const under = (at, e) => [...e.getClientRects()].some((r) => at.x >= r.left && at.x <= r.right && at.y >= r.top && at.y <= r.bottom)
		const kinds = ['pointerdown', 'mousedown', 'pointerup', 'mouseup', 'click']
		const passes = (event) => {
			if (first) window.missed = !within(e, event.target)
			first = false
			if (event.type === 'pointerup') {
				const now = %[1]s
				window.missed ||= Boolean(now && (now !== e || !under(event, now))) // it moved away in the middle of the press
			}
			if (window.missed) event.stopImmediatePropagation(), event.preventDefault()
			if (event.type === 'click') window.unguard()
		}
		window.unguard = () => kinds.forEach((kind) => removeEventListener(kind, passes, true))
		kinds.forEach((kind) => addEventListener(kind, passes, true))
	}
	const look = () => {
		if (performance.now() > until) return done([])
		const e = %[1]s
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

// acts opens all that can be done with a question; its search has the focus then.
func (p *page) acts(question string) {
	p.t.Helper()
	p.click(question + " [data-test=more]")
	p.sees("[data-test=act-list]", "Do the answers match published shares")
	p.await("the search of the menu", `document.activeElement?.closest('[data-test=act-list]') != null`)
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

func (p *page) upload(file, content string) {
	p.t.Helper()
	path := filepath.Join(p.t.TempDir(), file)
	require.NoError(p.t, os.WriteFile(path, []byte(content), 0o600))
	p.await("the file field", `document.querySelector('[data-test=file]') !== null`)
	p.do("upload", chromedp.SetUploadFiles(chromedp.CSS("[data-test=file]"), []string{path}))
}
