package e2e

import (
	"encoding/json"
	"fmt"
	"strings"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// person uses a page and counts presses: a click, a field filled, a paste, a key, a choice made
// in one movement of the mouse.
type person struct {
	*page
	presses int
}

func (p *person) press(selector string) {
	p.t.Helper()
	p.presses++
	p.click(selector)
}

func (p *person) write(selector, text string) {
	p.t.Helper()
	p.presses++
	p.fill(selector, text)
}

// paste pastes text where the focus is, which may be nowhere.
func (p *person) paste(text string) {
	p.t.Helper()
	p.presses++
	raw, err := json.Marshal(text)
	require.NoError(p.t, err)
	p.run(fmt.Sprintf(`(() => { const data = new DataTransfer(); data.setData('text/plain', %s); (document.activeElement ?? document.body).dispatchEvent(new ClipboardEvent('paste', {clipboardData: data, bubbles: true, cancelable: true})) })()`, raw))
}

// pasteAt pastes into a cell.
func (p *person) pasteAt(selector, text string) {
	p.t.Helper()
	p.presses++
	p.await(selector, fmt.Sprintf("document.querySelector(%q) !== null", selector))
	p.pasteInto(selector, text)
}

func (p *person) letter(question, key string) {
	p.t.Helper()
	p.presses++
	p.key(question, key)
}

// take opens a menu and takes an entry in one movement: press, move, let go.
func (p *person) take(selector, entry string) {
	p.t.Helper()
	p.presses++
	for missed := true; missed; missed = p.missed() {
		x, y := p.place(selector, fmt.Sprintf(`document.querySelector(%q)`, selector))
		p.pointer("press "+selector, chromedp.MousePressed, x, y)
	}
	find := fmt.Sprintf(`[...document.querySelectorAll('.v-overlay--active .menu-entries [data-test], .v-overlay--active .menu-entries .v-list-item')].find((e) => e.textContent.trim().startsWith(%q) || e.dataset.test === %[1]q)`, entry)
	x, y := p.place(entry, find)
	p.pointer("move to "+entry, chromedp.MouseMoved, x, y)
	p.pointer("let go over "+entry, chromedp.MouseReleased, x, y)
	if p.missed() { // it is open still
		p.clickOn(entry, find)
	}
	p.await("the menu to close", `document.querySelector('.v-overlay .menu-entries') === null`)
}

// quick opens the quick check with this kind of numbers and question.
func (p *person) quick(have, want string) {
	p.t.Helper()
	p.press(`nav a[href="/quick"]`)
	if have != "" {
		p.take("[data-test=shape]", have)
	}
	if want != "" {
		p.take("[data-test=check]", want)
	}
}

// bring pastes cells where nothing has the focus, takes what is offered, and keeps the study.
func (p *person) bring(cells string, offers ...string) {
	p.t.Helper()
	p.paste(cells)
	p.await("what was found", `document.querySelector('[data-test=found], [data-test=offer], [data-test=intake-problems]') !== null`)
	for _, offer := range offers {
		if menu, entry, is := strings.Cut(strings.TrimPrefix(offer, "take:"), "="); is {
			p.take("[data-test="+menu+"]", entry)
			continue
		}
		p.presses++
		p.pressWord("#page", offer)
	}
	p.press("[data-test=keep]")
	p.sees("#q1", "respondents")
}

// drop lets a file fall on the page.
func (p *person) drop(name, content string) {
	p.t.Helper()
	p.presses++
	raw, err := json.Marshal(content)
	require.NoError(p.t, err)
	p.run(fmt.Sprintf(`(() => { const data = new DataTransfer(); data.items.add(new File([%s], %q)); document.body.dispatchEvent(new DragEvent('drop', {dataTransfer: data, bubbles: true, cancelable: true})) })()`, raw, name))
}

func (p *person) fact(key, value string) {
	p.t.Helper()
	p.sees("[data-test="+key+"]", value)
}
