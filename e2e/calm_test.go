package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// A long list stands by its ten largest with the others summed, a number of many values is described,
// and amounts are numbers; what is unfolded stays so, and a link shows it.
func TestLongListsAreShort(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	var file strings.Builder
	file.WriteString("street,age,income\n")
	for i := range 820 { // street i has i + 1 households
		street := 0
		for left := i; left > street; street++ {
			left -= street + 1
		}
		fmt.Fprintf(&file, "Lane %02d,%d,%s\n", street, 18+i%53, []string{"2500", "5000", "10000", "25000", "200000"}[i%5])
	}
	p := open(t)
	p.visit(address + "/intake")
	p.upload("streets.csv", file.String())
	p.click("[data-test=keep]")
	p.sees("#q1 .tally", "30 further answers")
	rows := p.table("#q1 .tally")
	require.Len(t, rows, 11)
	// Streets 30 to 39 have 31 to 40, 355 together; the others 1 to 30, 465.
	assert.Equal(t, []string{"465", "56.7"}, rows[10][2:4])
	p.sees("#q1 .tally tfoot", "820")
	p.gone("#q2 .tally")
	p.sees("#q2", "Standard deviation", "All 53 values")
	p.sees("#q3 .sub", "a number")
	p.click("#q2 [data-test=unfold-answers]")
	p.sees("#q2 .tally", "70")
	p.click("#q1 [data-test=unfold-answers]")
	p.await("all forty", `document.querySelectorAll('#q1 .tally tbody tr').length === 40`)
	p.click("#q1 [data-test=fold-answers]")
	p.await("what is unfolded in the address", `/[?&]open=q\d+(&|$)/.test(location.search)`)
	link, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.href`))
	require.NoError(t, err)
	other := open(t)
	other.visit(link)
	other.sees("#q2 .tally", "70")
	other.sees("#q1 .tally", "30 further answers")
}

// The first steps are ticked as they are taken, and then go for good.
func TestTheFirstStepsGo(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	done := func(n int) {
		t.Helper()
		p.await(fmt.Sprint(n, " taken"), fmt.Sprintf(`document.querySelectorAll('[data-test=first-steps] .done').length === %d`, n))
	}
	done(0)
	p.key("#q3", "r")
	done(1)
	p.click("#q3 [data-test=ask-crosstab]")
	p.seek("#q3 [data-test=find-other]", "garden", "8 · ")
	done(2)
	p.key("#q3", "c")
	p.choose("#q3 [data-test='shares.scale']", "all equal")
	p.click("#q3 [data-test=state-run]")
	p.gone("[data-test=first-steps]")
	p.run(`location.reload()`)
	p.sees("#q3 [data-test=claim]", "equally common")
	p.gone("[data-test=first-steps]")
}

// While the server is gone the page says so, keeps what was typed, and goes on once it is back.
func TestTheServerIsGone(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q3 .tally", "16 to 29")
	p.run(`window.reached = window.fetch; window.fetch = () => Promise.reject(new TypeError('gone'))`)
	p.click("#q3 h2 button")
	p.fill("#q3 h2", "How old is who answers?")
	p.enter("#q3 h2 input")
	p.sees("[data-test=away]", "The server, or its database, does not answer")
	p.sees("#q3 [role=alert]", "does not answer")
	p.click("#q3 h2 button")
	p.await("what was typed", `document.querySelector('#q3 h2 input').value === 'How old is who answers?'`)
	p.run(`window.fetch = window.reached`)
	p.gone("[data-test=away]")
	p.enter("#q3 h2 input")
	p.sees("#q3 h2", "How old is who answers?")
	p.gone("#q3 [role=alert]")
	// A page that is opened while the database is away is there as soon as it is back.
	p.visit(address + "/studies")
	p.sees("#page", "Fernmouth")
	p.run(`window.reached = window.fetch; window.fetch = async () => new Response(JSON.stringify({ status: 503, code: 'http.database_gone', title: 'gone' }), { status: 503, headers: { 'Content-Type': 'application/problem+json' } })`)
	p.click("nav a[href='/shares']")
	p.sees("[data-test=away]", "its database, does not answer")
	p.run(`window.fetch = window.reached`)
	p.gone("[data-test=away]")
	p.sees("#page", "the borough register")
}

// The browser finds nothing that keeps it from installing the application.
func TestItCanBeInstalled(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/studies")
	sizes, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](`(async () => {
		const manifest = await (await fetch(document.querySelector('link[rel=manifest]').href)).json()
		const size = (icon) => new Promise((done, fail) => { const i = new Image(); i.onload = () => done(icon.sizes === 'any' ? 'any' : i.naturalWidth + 'x' + i.naturalHeight); i.onerror = fail; i.src = icon.src })
		return [manifest.display, manifest.start_url, ...await Promise.all(manifest.icons.map(async (i) => i.sizes === await size(i) ? i.sizes : 'not ' + i.sizes))]
	})()`, chromedp.EvalAwaitPromise))
	require.NoError(t, err)
	assert.Equal(t, []string{"standalone", "/studies", "any", "192x192", "512x512", "512x512"}, sizes)
}
