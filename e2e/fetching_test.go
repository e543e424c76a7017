package e2e

import (
	"io/fs"
	"path"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/web"
)

// withheld is the front end without the files whose names begin so.
type withheld struct {
	fs.FS
	beginning atomic.Pointer[string]
}

func (w *withheld) Open(name string) (fs.File, error) {
	if b := w.beginning.Load(); b != nil && *b != "" && strings.HasPrefix(path.Base(name), *b) {
		return nil, &fs.PathError{Op: "open", Path: name, Err: fs.ErrNotExist}
	}
	return w.FS.Open(name)
}

func (w *withheld) withhold(beginning string) { w.beginning.Store(&beginning) }

// The questions of a study stand there before the component library and the texts of what is
// asked later were asked for, and with every text that they show.
func TestTheFirstViewDoesWithoutTheRest(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.keepHomes(address)
	study, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname`))
	require.NoError(t, err)
	p.visit(address + study)
	p.await("drawn", `performance.getEntriesByName('drawn').length > 0`)
	early, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](`(() => { const drawn = performance.getEntriesByName('drawn')[0].startTime
		return performance.getEntriesByType('resource').filter((r) => r.startTime < drawn).map((r) => new URL(r.name).pathname.split('/').pop().replace(/-[\w-]{8}\./, '.')) })()`))
	require.NoError(t, err)
	assert.Subset(t, early, []string{"early.js", "base.js", "index.js", "index.css", "topline", "methods"})
	assert.NotContains(t, early, "library.js")
	assert.NotContains(t, early, "_texts_later.js")

	// With the rest withheld no text of the first view is lacking.
	front := &withheld{FS: web.Files()}
	front.withhold("_texts_later")
	address, _, _ = serveWith(t, mariadbtest.Database(t), service.Options{}, front)
	front.withhold("")
	p.keepHomes(address)
	study, err = chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.pathname`))
	require.NoError(t, err)
	front.withhold("_texts_later")
	p.visit(address + study)
	p.sees("#q1 .acts", "Compare with shares", "Cross with a question", "More")
	p.sees("#q5", "Mean", "Median")
	p.sees("nav", "Codebook", "Claims") // a study's places stand there from the start
	empty, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('button, a, th, label, dt')].filter((e) => e.getClientRects().length && !e.textContent.trim() && !e.getAttribute('aria-label') && !e.querySelector('[aria-label], svg, input')).map((e) => e.outerHTML)`))
	require.NoError(t, err)
	assert.Empty(t, empty)
	p.forgiveTexts("status of 404", "Failed to fetch dynamically imported module")
}

// An address of a study that is not there says so, and offers none of its places.
func TestAStudyThatIsNotThere(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/studies/999")
	p.sees("#page [role=alert]", "not here (any more)", "Go to the shelf")
	p.await("the places of no study", `(() => { const places = document.querySelector('nav').textContent; return places.includes('Intake') && !places.includes('Codebook') })()`)
	p.forgive(404)
}

// A part that the server no longer has is asked for in vain: the page says so where the part
// should stand, and what to do; the study is as it was.
func TestAPartThatCannotBeFetched(t *testing.T) {
	t.Parallel()
	front := &withheld{FS: web.Files()}
	address, _, _ := serveWith(t, mariadbtest.Database(t), service.Options{}, front)
	p := open(t)
	p.keepHomes(address)
	front.withhold("DeriveForm")
	p.more("#q1", "merge")
	p.sees("#q1 [role=alert]", "could not be fetched")
	front.withhold("")
	p.pressWord("#q1 [role=alert]", "Reload the page")
	p.gone("[role=alert]")
	p.more("#q1", "merge")
	p.sees("#q1", "are counted together as below")

	// A place is asked for as a whole page, which says so when it is not to be had either.
	front.withhold("claims")
	p.pressWord("nav", "Claims")
	p.sees("#page [role=alert]", "could not be fetched")
	p.pressWord("nav", "Topline")
	p.sees("#q1 .sub", "100 respondents")
	front.withhold("")
	p.pressWord("nav", "Claims")
	p.sees("#page", "claim")
	p.gone("[role=alert]")
	p.forgiveTexts("status of 404", "Refused to apply style", "Unable to preload", "Failed to fetch dynamically imported module")
}

// The page, the component library that comes later and the pictures change their colours
// together, and a page that is opened anew is as it was left.
func TestTheThemeIsOne(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.keepHomes(address)
	p.run(`localStorage.setItem('theme', 'paper')`)
	study, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.href`))
	require.NoError(t, err)
	p.visit(study)
	p.click("#q1 [data-test=ask-frequency]")
	p.await("the picture", `document.querySelector('#q1 svg text') !== null`)
	colours := map[string]struct{ body, list, ink string }{
		"Dark":  {"rgb(250, 246, 238)", "rgb(255, 253, 248)", "#20262b"},
		"Light": {"rgb(22, 25, 27)", "rgb(31, 35, 38)", "#e9e4d8"},
	}
	shown := func(offered string) { // the button offers the other one
		p.sees("[data-test=theme]", offered)
		want := colours[offered]
		p.await("the page", `getComputedStyle(document.body).backgroundColor === '`+want.body+`'`)
		p.await("the picture", `[...document.querySelectorAll('#q1 svg text')].some((e) => e.getAttribute('fill') === '`+want.ink+`')`)
		p.click("#q1 [data-test=more]")
		p.await("the menu", `(() => { const e = document.querySelector('.v-overlay--active .menu-entries'); return e !== null && getComputedStyle(e).backgroundColor === '`+want.list+`' })()`)
		p.item("merge")
		p.pressWord("#q1", "Cancel")
	}
	shown("Dark")
	p.click("[data-test=theme]")
	shown("Light")
	p.visit(study)
	p.await("the picture", `document.querySelector('#q1 svg text') !== null`)
	shown("Light")
	p.click("[data-test=theme]")
	shown("Dark")
}
