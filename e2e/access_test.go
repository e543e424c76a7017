package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	cdp "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// axe is the engine of rules of the package axe-core, of the front end's tools.
var axe = sync.OnceValues(func() (string, error) {
	raw, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	return string(raw), err
})

// audited holds the page, or parts of it, against the rules of axe-core, all of them: what keeps
// people out, such as controls without a name, tables without headings, contrast below 4.5, targets
// below 24 pixels.
func (p *page) audited(what string, parts ...string) {
	p.t.Helper()
	p.heldAgainst(what, "{resultTypes: ['violations'], rules: {'target-size': {enabled: true}}}", parts...)
}

func (p *page) heldAgainst(what, options string, parts ...string) {
	p.t.Helper()
	engine, err := axe()
	require.NoError(p.t, err)
	// What fades in or out has too little contrast for that moment.
	p.await("stillness", `document.getAnimations().every((a) => a.playState !== 'running' || a.effect.getComputedTiming().iterations === Infinity)`)
	p.run("void (window.axe || (() => {" + engine + "})())")
	where := "document"
	if len(parts) > 0 {
		raw, err := json.Marshal(parts)
		require.NoError(p.t, err)
		where = "{include: " + string(raw) + "}"
	}
	look := `axe.run(` + where + `, ` + options + `).then((r) => JSON.stringify(r.violations.flatMap((v) => v.nodes.slice(0, 3).map((n) => v.id + ': ' + n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? n.all[0]?.message ?? v.help)))))`
	raw, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](look, chromedp.EvalAwaitPromise))
	require.NoError(p.t, err)
	var found []string
	require.NoError(p.t, json.Unmarshal([]byte(raw), &found))
	// The head of the page lies over what has scrolled under it.
	found = slices.DeleteFunc(found, func(one string) bool {
		return strings.HasPrefix(one, "target-size: ") && strings.Contains(one, "partially obscured")
	})
	assert.Empty(p.t, found, what)
}

// auditedByNight is audited, and again by night, when a page differs in its colours alone.
func (p *page) auditedByNight(what string, parts ...string) {
	p.t.Helper()
	p.audited(what, parts...)
	p.click("[data-test=theme]")
	p.await("night", `getComputedStyle(document.documentElement).colorScheme === 'dark'`)
	p.heldAgainst(what+", by night", "{resultTypes: ['violations'], runOnly: ['color-contrast']}", parts...)
	p.click("[data-test=theme]")
}

func TestToplineAndCodebookAreOpenToEverybody(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/studies")
	p.sees("#page", "Nothing on the shelf yet")
	p.audited("the empty shelf")
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	both := p.auditedByNight
	p.visit(address + "/studies")
	p.sees("#page", "Fernmouth")
	both("the shelf")
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q9 [data-test=finding]", "Not enough evidence")
	p.click("#q3 [data-test=ask-goodness-of-fit]")
	p.sees("#q3 [data-test=claim-form]", "I claim")
	p.click("#q2 [data-test=arrange]")
	both("the topline", "nav", "header", "#q2", "#q3", "#q9", "[data-test=first-steps]")
	p.click("#q9 [data-test=unfold]")
	p.sees("#q9 [data-test=claim] table", "Monday")
	p.click("#q12 [data-test=unfold]")
	p.click("#q12 [data-test=test-it]")
	p.sees("#q12 [data-test=claim-form]", "go together or not")
	both("what is unfolded, and the form of a test", "#q9", "#q12")
	p.acts("#q12")
	p.audited("all that can be done", "[data-test=act-list]")
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.click("[data-test=guide]")
	p.sees("[data-test=guide-panel]", "Every question of the Topline")
	both("the guide beside it", "[data-test=guide-panel]")
	p.click("[data-test=guide-all]")
	p.fill("[data-test=guide-find]", "mcnemar")
	p.sees("[data-test=guide-panel] li", "Tally")
	p.audited("the list of how-tos", "[data-test=guide-panel]")
	p.visit(fmt.Sprintf("%s/studies/%d?read=1", address, st.ID))
	p.sees("#q9 [data-test=finding]", "Not enough evidence")
	p.await("nothing to press", `[...document.querySelectorAll('main button')].every((e) => e.getClientRects().length === 0)`)
	p.audited("what is only read", "header", "#q2", "#q9")
	p.visit(fmt.Sprintf("%s/studies/%d/claims", address, st.ID))
	p.sees("#page table", "shares rejected")
	both("the register")
	for _, place := range []string{"/codebook?question=", "/codebook?show=subgroups", "/codebook?show=design", "/codebook?show=lists", "/codebook?show=history", "/codebook?show=files", "/responses", "/check"} {
		p.visit(fmt.Sprintf("%s/studies/%d%s", address, st.ID, place))
		p.await("the place to be filled", `document.querySelector('#page section, #page table') !== null && !document.querySelector('#page').textContent.includes('Loading')`)
		both(place)
	}
}

func TestEveryFurtherPlaceIsOpenToEverybody(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	require.NoError(t, demo.Report(t.Context(), cases, st))
	require.NoError(t, demo.Tables(t.Context(), cases, st))
	p := open(t)
	both := p.auditedByNight
	p.visit(fmt.Sprintf("%s/studies/%d/report", address, st.ID))
	p.sees("#page", "Kerbside collection in Fernmouth", "What this does not say", "of tenure p is 0.0020 now")
	p.click("[data-test=next-wave-open]")
	p.sees("[data-test=next-wave]", "which question?")
	both("the report")
	p.visit(fmt.Sprintf("%s/studies/%d/tables", address, st.ID))
	p.sees("#page table", "Harbour")
	both("the tables")
	for place, says := range map[string]string{"/shares": "the borough register", "/guide": "Cross two questions", "/guide/report": "takes a number from the list", "/quick": "know"} {
		p.visit(address + place)
		p.sees("#page", says)
		both(place)
	}
	// On a telephone the register is a list, and what can be done a sheet from below.
	p.do("a telephone", chromedp.EmulateViewport(390, 844))
	p.visit(fmt.Sprintf("%s/studies/%d/claims", address, st.ID))
	p.await("a list", `getComputedStyle(document.querySelector('[data-test=registered]')).display === 'block'`)
	p.audited("the register on a telephone")
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.acts("#q3")
	p.sees(".v-bottom-sheet [data-test=act-list]", "Do the answers match published shares")
	p.audited("what can be done, on a telephone", "#q3", "[data-test=act-list]")
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.do("a screen", chromedp.EmulateViewport(1280, 800))
	p.visit(address + "/intake")
	p.click("[data-test=type-counts]")
	p.click("[data-test=form-crossing]")
	p.sees("#page", "Add a row")
	both("the count grid")
	p.upload("short.csv", "ward,caddy\nHarbour,yes\nFenside\n")
	p.sees("[data-test=intake-problems]", "Line 3")
	both("the intake with a problem")
	p.visit(address + "/nowhere")
	p.sees("#page", "no page at this address")
	both("an address without a page")
}

// In the reader's own colours bars and ticks are seen, and what is in use differs from what is not;
// without motion nothing moves.
func TestOwnColoursAndNoMotion(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	_, err = chromedp.Call(p.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: "forced-colors", Value: "active"}, {Name: "prefers-reduced-motion", Value: "reduce"}}})
	require.NoError(t, err)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q4 .tally", "share in the borough register")
	for _, mark := range []string{".bar", ".tick"} {
		p.await(mark+" to be seen", fmt.Sprintf(`getComputedStyle(document.querySelector('#q4 %s')).backgroundColor !== getComputedStyle(document.body).backgroundColor`, mark))
	}
	p.click("#q4 [data-test=ask-one-proportion]")
	line := func(test string) string {
		return `getComputedStyle(document.querySelector('#q4 [data-test=` + test + `]')).borderBottomColor`
	}
	p.await("what is open to have a line", line("ask-one-proportion")+" !== "+line("ask-crosstab"))
	p.await("nothing to move", `document.getAnimations().every((a) => Number(a.effect.getComputedTiming().duration) < 1)`)
}

// No place is wider than the screen: not on a telephone, where the percents are on it, and not
// on small and usual screens.
func TestEveryPlaceFitsItsScreen(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	for _, place := range []string{"", "/claims", "/tables", "/report", "/codebook", "/codebook?show=subgroups", "/codebook?show=design", "/codebook?show=lists", "/codebook?show=history", "/codebook?show=files", "/responses", "/check", "/../../studies", "/../../intake", "/../../quick", "/../../shares"} {
		p.visit(fmt.Sprintf("%s/studies/%d%s", address, st.ID, place))
		p.await("the place to be filled", `document.querySelector('#page section, #page table, #page button') !== null && !document.querySelector('#page').textContent.includes('Loading')`)
		if place == "" {
			p.click("#q3 [data-test=ask-goodness-of-fit]")
			p.sees("#q3 [data-test=claim-form]", "I claim")
		}
		for _, width := range []int64{1280, 1024, 640, 390, 320} { // 640 and 320 are 1280 at 200 and 400 %
			p.do("a screen", chromedp.EmulateViewport(width, 844))
			p.await(fmt.Sprint(place, " to fit ", width), fmt.Sprintf(`innerWidth === %d && document.documentElement.scrollWidth <= %[1]d`, width))
			if place == "" {
				p.await("the percents to be on the screen", fmt.Sprintf(`[...document.querySelectorAll('.tally .percent')].every(e => e.getBoundingClientRect().right <= %d)`, width))
			}
		}
	}
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	for typed, found := range map[string]string{"cross tabulation": "Cross with a question: Do the answers differ from group to group?", "correlation": "outside this product", "squared Pearson residual": "what an answer adds to χ²", "banner": "Cross with several: One question as the break of several others."} {
		p.fill("[data-test=find] input", typed)
		p.sees("[role=option], .v-list-item", found)
	}
}

// A whole comparison with nothing but keys, and the single-key commands.
func TestKeysAreEnough(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	press := func(keys ...string) {
		for _, k := range keys {
			p.do("press "+k, chromedp.KeyEvent(k))
		}
	}
	focused := func(what, script string) {
		p.await(what, `(() => { const e = document.activeElement; return `+script+` })()`)
	}

	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q9 [data-test=finding]", "Not enough evidence")
	press("?")
	p.sees("[role=dialog]", "next question")
	// The sheet takes the focus when it has opened, and only then listens for Esc.
	focused("the sheet", `e.closest('.v-dialog.v-overlay--active') !== null`)
	press("\x1b")
	focused("the sheet to close", `!document.querySelector('.v-dialog.v-overlay--active') && e.closest('[role=dialog]') === null`)
	press("j", "j")
	focused("the second question", `e.id === 'q2'`)
	press("j", "k")
	focused("back on the second question", `e.id === 'q2'`)

	// Made in the page, as in enter: the protocol would also type the stroke.
	p.run(`document.body.dispatchEvent(new KeyboardEvent('keydown', {key: '/', bubbles: true, cancelable: true}))`)
	focused("the quick-find", `e.closest('[data-test=find]') !== null`)
	press("1", "6", " ")
	p.await("the list", `[...document.querySelectorAll('[role=option]')].some(o => o.textContent.includes('too much time'))`)
	press("\r")
	p.await("the address to name the question", `location.hash.startsWith('#q16.')`)

	p.run(`document.getElementById('q8').focus()`)
	press("c")
	p.sees("#q8 [data-test=claim-form]", "I claim")
	p.run(`document.querySelector('#q8 [data-test="shares.source.title"]').focus()`)
	press("r", "e", "g")
	p.choose("#q8 [data-test='shares.source.kind']", "a policy target")
	p.run(`document.querySelector('#q8 .shares input').focus()`)
	press("7", "0")
	press("\t")
	press("3", "0")
	p.sees("#q8 [data-test=sum]", "100")
	p.run(`document.querySelector('#q8 [data-test=state-run]').focus()`)
	p.await("the button to be ready", `!document.querySelector('#q8 [data-test=state-run]').disabled`)
	p.run(`document.querySelector('#q8 [data-test=state-run]').focus()`)
	press(" ")
	// 893 of 1240 against 70 %: expected 868, (893 − 868)²/868 + (347 − 372)²/372 = 2.400.
	p.sees("#q8 [data-test=statistic]", "χ² = 2.400")
}

func TestTwoTabsCannotOverwriteEachOther(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	// One that hears nothing of others, since its connection is gone.
	_, err = chromedp.Call(p.ctx, cdp.AddScriptToEvaluateOnNewDocument, cdp.AddScriptToEvaluateOnNewDocumentParams{Source: `window.EventSource = class { addEventListener() {} close() {} }`})
	require.NoError(t, err)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q8 .tally", "Yes")
	// Another tab renames an answer behind this one's back.
	p.run(fmt.Sprintf(`fetch('/api/v1/studies/%d/topline').then(r => r.json()).then(d => { const q = d.questions[7];
		return fetch('/api/v1/studies/%d/questions/' + q.id, {method: 'PATCH', headers: {'Content-Type': 'application/json', 'If-Match': '"' + q.version + '"'}, body: JSON.stringify({wording: 'Garden?'})}) }).then(() => document.body.dataset.other = 'done')`, st.ID, st.ID))
	p.await("the other tab", `document.body.dataset.other === 'done'`)
	p.pressWord("#q8 .tally tbody", "Yes")
	p.fill("#q8 .tally input", "Yes indeed")
	p.enter("#q8 .tally input")
	p.sees("#q8 [data-test=error]", "changed in another tab")
	p.pressWord("#q8 [data-test=error]", "Load again")
	p.sees("#q8 h2", "Garden?")
	p.gone("#q8 [data-test=error]")
	p.pressWord("#q8 .tally tbody", "Yes")
	p.fill("#q8 .tally input", "Yes indeed")
	p.enter("#q8 .tally input")
	p.sees("#q8 .tally", "Yes indeed")
	p.forgive(412)

	p.visit(address + "/studies")
	p.pressWord("#page table", "Delete")
	p.sees("#page", "Nothing on the shelf yet")
	p.click("[data-test=undo]")
	p.sees("#page table", "Fernmouth")
}

// A round over the forms: whatever is typed where, and left with Enter or Escape, the
// page shows no figure that nobody gave and counts everybody once.
func TestAHostileRoundOfForms(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	defer p.forgive(422)
	sound := func(after string) {
		p.await("a sound page after "+after, `(() => {
			const text = document.body.innerText
			return !/NaN|undefined|\[object|Infinity|problem\./.test(text) && !text.includes('Something went wrong')
		})()`)
	}
	// escape presses Escape until what it is pressed in has gone: what is on its way holds it.
	escape := func(selector string) {
		p.await(selector+" to be left", fmt.Sprintf(`(() => { const e = document.querySelector(%q); e?.dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape', bubbles: true, cancelable: true})); return !e })()`, selector))
	}
	strange := []string{"<b>x</b>", "1e999", "-5", "12,34,56", "null", "=1+1", "١٢", "999999999999999999999", "1/0", strings.Repeat("w", 200)}
	p.visit(address + "/intake")
	for _, typed := range strange {
		p.click("[data-test=two-numbers]")
		p.fill("[data-test=yes]", typed)
		p.fill("[data-test=second]", "10")
		p.click("[data-test=two-read]")
		p.await("no study of "+typed, `document.querySelector('[data-test=keep]')?.disabled !== false`)
		sound("two numbers, " + typed)
		p.visit(address + "/intake")
	}
	p.upload("wards.csv", "ward,garden\nHarbour,1\nFenside,0\nHarbour,1\nHarbour,0\nFenside,1\nHarbour,1\n")
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "6 respondents")
	for _, typed := range strange {
		p.click("#q1 h2 button")
		p.fill("#q1 h2 input", typed)
		p.enter("#q1 h2 input")
		p.click("#q1 .sub button")
		p.fill("#q1 .sub input", typed)
		escape("#q1 .sub input")
		p.click("#q1 [data-test=ask-goodness-of-fit]")
		p.fill(`#q1 [data-test="share-Harbour"]`, typed)
		p.fill("#q1 [data-test='shares.source.title']", typed)
		p.enter("#q1 [data-test='shares.source.title']")
		p.fill(`#q1 [data-test="share-Fenside"]`, typed)
		sound("shares of " + typed)
		escape(`#q1 [data-test="share-Fenside"]`)
		p.gone("#q1 [data-test=claim-form]")
		p.gone("#q1 [data-test=claim]")
		p.sees("#q1 .sub", "6 respondents · 6 answered · none missing")
	}
}
