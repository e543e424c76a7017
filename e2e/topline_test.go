package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	print "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// homes is 100 respondents of two wards: of 40 in Harbour 30 use the caddy, of 60 in Fenside 12
// of the 58 who say; 10 of Harbour and 36 of Fenside have a large bin. Their sizes are 1.5 … 4.5 in
// turn, and those in Fenside have lived there for ten years longer.
func homes() string {
	var b strings.Builder
	b.WriteString("ward,caddy,bin,size,years\n")
	for i := range 100 {
		ward, caddy, bin, years := "Harbour", "no", "small", i%5
		if i >= 40 {
			ward, years = "Fenside", years+10
		}
		switch {
		case i < 30 || i >= 40 && i < 52:
			caddy = "yes"
		case i >= 98:
			caddy = ""
		}
		if i < 10 || i >= 64 {
			bin = "large"
		}
		fmt.Fprintf(&b, "%s,%s,%s,%d.5,%d.5\n", ward, caddy, bin, 1+i%4, years)
	}
	return b.String()
}

func (p *page) keepHomes(address string) {
	p.t.Helper()
	p.visit(address + "/intake")
	p.upload("homes.csv", homes())
	p.click("[data-test=keep]")
	p.sees("#q5 .sub", "100 respondents")
}

// Several questions come into one table at once, and are crossed with one in one go; every
// percent says of whom it is.
func TestSeveralQuestionsAtOnce(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.keepHomes(address)
	several := func(question, method string, names ...string) {
		p.more(question, "ask-"+method)
		for _, name := range names {
			p.seek(question+" [data-test=find-others]", name, name)
		}
		p.sees(question+" .v-chip", names[len(names)-1])
		p.run(fmt.Sprintf(`document.querySelector('%s [data-test=take-others]').click()`, question))
		p.sees(question+" [data-test=described]", "question")
	}
	several("#q1", "crosstabs", "2 · caddy", "3 · bin")
	assert.Equal(t, [][]string{{"“caddy”"}, {"no", "25.0", "79.3", "57.1"}, {"yes", "75.0", "20.7", "42.9"}, {"n", "40", "58", "98"}, {"“bin”"}, {"large", "25.0", "60.0", "46.0"}, {"small", "75.0", "40.0", "54.0"}, {"n", "40", "60", "100"}},
		byWard(p, "#q1 [data-test=described]"))
	p.click("#q1 [data-test=described] tbody tr:nth-child(3) td button")
	p.sees("#q1 [data-test=reading]", "answered “yes” (“caddy”)")
	p.pressWord("#q1 [data-test=described]", "counts")
	p.sees("#q1 [data-test=reading]", "Each figure is a number of respondents that answered both questions")
	p.sees("#q1 .margin", "n is under each column")

	several("#q2", "frequencies", "1 · ward", "3 · bin")
	assert.Equal(t, [][]string{{"“caddy” · 98 answered, 2 missing"}, {"no", "56", "57.1"}, {"yes", "42", "42.9"}, {"“ward” · 100 answered"}, {"Fenside", "60", "60.0"}, {"Harbour", "40", "40.0"}, {"“bin” · 100 answered"}, {"large", "46", "46.0"}, {"small", "54", "54.0"}},
		p.table("#q2 [data-test=described]"))
	p.pressWord("#q2 [data-test=described]", "by size")
	p.await("the larger bin answer first", `document.querySelector('#q2 [data-test=described] tbody tr:nth-child(8)').textContent.includes('small')`)

	several("#q4", "numeric-comparison", "5 · years")
	// Sizes 1.5 … 4.5 twenty-five times each; years 0.5 … 4.5 twice eight, then 10.5 … 14.5 twelve times each.
	assert.Equal(t, [][]string{{"“size”", "100", "0", "3", "1.12", "1.5", "3", "4.5"}, {"“years”", "100", "0", "8.50", "5.12", "0.5", "10.5", "14.5"}}, p.table("#q4 [data-test=described]"))
	p.pressWord("#q4 [data-test=described]", "Sum")
	p.sees("#q4 [data-test=described] table", "850")

	p.key("#q5", "g")
	p.seek("#q5 [data-test=find-other]", "ward", "1 · ward")
	p.sees("#q5 [data-test=described]", "Among the 60 respondents with “Fenside” (“ward”) the median of “years” is 12.5; among the 40 with “Harbour”, 2.5")
	p.await("a box for each ward and for all", `document.querySelector('#q5 [data-test=chart]').textContent.includes('Fenside') && document.querySelector('#q5 [data-test=chart]').textContent.includes('All')`)
	p.samePicture("#q5", "100 respondents", "unweighted")
	p.audited("several questions")
}

// byWard is a table whose first two columns are the wards, Harbour first.
func byWard(p *page, scope string) [][]string {
	p.t.Helper()
	first := p.read(scope + " thead th:nth-child(2)")
	out := p.table(scope)
	for _, row := range out {
		if len(row) > 2 && first == "Fenside" {
			row[1], row[2] = row[2], row[1]
		}
	}
	return out
}

// A crossing shows who is missing, becomes a subgroup by a pressed cell, and its sums can be
// compared with shares among those whom it counts. The address knows how it was looked at.
func TestACrossingLeadsOn(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.keepHomes(address)
	p.key("#q2", "x")
	p.seek("#q2 [data-test=find-other]", "ward", "1 · ward")
	p.sees("#q2 [data-test=described]", "98 respondents answered both “caddy” and “ward”, 2 did not")
	p.pressWord("#q2 [data-test=described]", "missing")
	p.sees("#q2 [data-test=described] thead", "Missing: No answer")
	p.await("two missing in Fenside", `[...document.querySelectorAll('#q2 [data-test=described] tbody tr')].find(r => r.textContent.includes('Fenside')).lastElementChild.textContent.trim() === '2'`)

	// Back leads through the ways to look, and the address opens them again.
	p.pressWord("#q2 [data-test=described]", "bars side by side")
	p.await("the picture", `document.querySelector('#q2 [data-test=chart] svg') !== null`)
	p.pressWord("#q2 [data-test=described]", "of everyone")
	p.sees("#q2 [data-test=reading]", "answered “no” (“caddy”)", "Of the 98 respondents that answered both")
	p.run(`history.back()`)
	p.sees("#q2 [data-test=reading]", "Of the 58 respondents with “Fenside” (“ward”), 79.3 % answered “no”")
	p.run(`history.back()`)
	p.gone("#q2 [data-test=chart]")
	p.run(`history.forward()`)
	p.await("the picture again", `document.querySelector('#q2 [data-test=chart] svg') !== null && location.search.includes('bars')`)
	p.samePicture("#q2", "98 respondents answered both")

	// The title and the figures at the bars are the researcher's.
	p.click("#q2 [data-test=choices-open]")
	p.fill("#q2 [data-test='entry-frame.title']", "Who uses the caddy")
	p.enter("#q2 [data-test='entry-frame.title'] input")
	p.sees("#q2 [data-test=chart]", "Who uses the caddy")
	p.pressWord("#q2 details", "figures at the bars")
	p.sees("#q2 [data-test=chart]", "79.3")
	p.samePicture("#q2", "Who uses the caddy")

	p.click("#q2 [data-test=described] tbody tr:nth-child(1) td button")
	p.click("#q2 [data-test=these-alone]")
	p.sees("header [data-test=of]", "ward: Fenside, caddy: no (46)")
	p.sees("#q1 .sub", "46 respondents")
	p.choose("header [data-test=of]", "everyone")
	p.sees("#q1 .sub", "100 respondents")

	p.pressWord("#q2 [data-test=described]", "all groups together, “ward”")
	p.sees("header [data-test=of]", "answered caddy (98)")
	p.sees("#q1 [data-test=claim-form]", "Shares are given as")
	p.await("the address to forget the form", `!location.search.includes('ask=') && location.hash.startsWith('#q1')`)
	p.choose("#q1 [data-test='shares.scale']", "all equal")
	p.click("#q1 [data-test=state-run]")
	// 58 and 40 of 98: (58 − 49)²/49 + (40 − 49)²/49 = 3.306
	p.sees("#q1 [data-test=statistic]", "χ² = 3.306")
	p.pressWord("#q1 [data-test=claim]", "bars with the expected shares")
	p.sees("#q1 [data-test=chart]", "equal shares")
	p.gone("#q1 [data-test=claim] ul li") // drawing it is no change of the claim
	p.audited("a crossing that leads on")
}

// What a tally shows is chosen for the page, or for one question; it goes into the report by a
// key and bears the researcher's note.
func TestATallyAsItIsWanted(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d#q9", address, st.ID))
	order := func(question string) (out []string) {
		for _, row := range p.table(question + " .tally") {
			out = append(out, row[0])
		}
		return out
	}
	p.sees("#q9 .tally", "Monday")
	assert.Equal(t, []string{"Monday", "Tuesday", "Wednesday", "Thursday", "Friday"}, order("#q9"))
	p.choose("header [data-test=order]", "by label")
	p.await("the order", `document.querySelector('#q9 .tally tbody tr').textContent.includes('Friday')`)
	assert.Equal(t, []string{"16 to 29", "30 to 44", "45 to 59", "60 to 74", "75 and over"}, order("#q3"), "an order of their own stays")
	p.choose("#q9 [data-test=own-order]", "list order")
	p.await("the order of one", `document.querySelector('#q9 .tally tbody tr').textContent.includes('Monday') && document.querySelector('#q4 .tally tbody tr').textContent.includes('Owns it')`)
	p.click("#q3 [data-test=own-cumulative]")
	p.sees("#q3 .tally thead", "Cumulative %")
	p.gone("#q5 .tally thead th:nth-child(6)")
	p.run(`location.reload()`)
	p.sees("#q3 .tally thead", "Cumulative %")
	p.await("the order after a reload", `document.querySelector('#q9 .tally tbody tr')?.textContent.includes('Monday')`)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook", address, st.ID))
	p.pressWord("nav", "Topline") // it opens as it was seen last
	p.sees("#q3 .tally thead", "Cumulative %")
	p.sees("header [data-test=order]", "by label")

	p.key("#q8", "r")
	p.sees("#q8 [data-test=in-report]", "In the report")
	p.click("#q8 [data-test=remark-add]")
	p.fill("#q8 [data-test=remark-text] textarea", "Ask again in spring")
	p.click("#q8 [data-test=remark-keep]")
	p.sees("#q8 [data-test=remark]", "this computer", "Ask again in spring")
	p.click("#q8 [data-test=remark-resolve]")
	p.sees("#q8 [data-test=remarks]", "1 settled remark")
	p.key("#q8", "r")
	p.gone("#q8 [data-test=in-report]")
	p.click("#q12 [data-test=unfold]")
	p.click("#q12 [data-test=select-analysis]")
	p.sees("#q12 [data-test=select-analysis]", "In the report")
	p.await("the newest edit to be the one to take back", `document.querySelector('[data-test=study-undo]').title.includes('taken into the report')`)
	p.pressWord("header", "Undo")
	p.sees("#q12 [data-test=select-analysis]", "Take into the report")

	// A choose-all set crossed: of respondents, and never tested as separate people.
	p.key("#q20", "x")
	p.seek("#q20 [data-test=find-other]", "tenure", "4 · ")
	p.sees("#q20 [data-test=described]", "460 households answered both", "Respondents")
	p.sees("#q20 .margin", "no test of separate people fits")
	p.gone("#q20 [data-test=test-it]")
	p.key("#q13", "d")
	p.sees("#q13 [data-test=described]", "at least half answered “Satisfied” or an answer before it")
	p.sees("#q13 .margin", "Answers in an order have no distances, so there is no mean")

	// Answers are merged, and a number is cut, where one sees the need.
	p.more("#q6", "bands")
	p.fill("#q6 [data-test=limits]", "5, 20")
	p.click("#q6 [data-test=derive-save]")
	p.sees("#q7 .sub", "1,203 answered")
	p.await("to be taken there", `location.hash.startsWith('#q7')`)

	// Classes are set as one likes; none of the numbers is left out.
	p.click("#q6 [data-test=unfold]")
	p.click("#q6 details:has([data-test=entry-limits]) summary")
	p.fill("#q6 [data-test=entry-limits]", "0; 5; 20")
	p.enter("#q6 [data-test=entry-limits] input")
	p.sees("#q6 .margin", "a class was added for them, so that none is left out", "The classes are not equally wide")
	p.await("three classes that hold everybody", `(() => { const t = [...document.querySelectorAll('#q6 [data-test=described] table')].at(-1); const n = [...t.querySelectorAll('tbody td:nth-of-type(1)')].map((x) => Number(x.textContent.replace(',', ''))); return n.length === 3 && n.reduce((a, b) => a + b) === 1203 })()`)
	p.fill("#q6 [data-test=entry-limits]", "9; 3")
	p.enter("#q6 [data-test=entry-limits] input")
	p.sees("#q6 [data-test=error]", "Limits must rise")
	p.forgive(422)
	p.audited("a tally as it is wanted", "header", "#q6", "#q8", "#q20")
}

// A table, a column of it and a picture go to the clipboard: the table as one and as text.
func TestTheClipboard(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.mayUseClipboard()
	p.keepHomes(address)
	copied := p.copied
	p.click("#q1 [data-test=copy-table]")
	p.sees("#q1 [data-test=copy-table]", "Copied")
	assert.Contains(t, copied("text/html"), "<th")
	text := copied("text/plain")
	assert.Equal(t, "ward\tCount\t% of answered\nFenside\t60\t60.0\nHarbour\t40\t40.0\nTotal\t100\t100.0\n", text)

	p.click("#q2 [data-test=copy-column]")
	p.item("column-2")
	p.sees("#q2 [data-test=copy-table]", "Copied")
	assert.Equal(t, "% of answered\n57.1\n42.9\n100.0\n", copied("text/plain"))

	p.click("#q1 [data-test=ask-frequency]")
	p.click("#q1 [data-test=picture-copy]")
	p.sees("#q1 [data-test=picture-copy]", "Copied")
	assert.Regexp(t, `^bytes \d{4,}$`, copied("image/png"))

	// What was copied is the same tally when it is pasted in again.
	want := p.table("#q1 .tally")
	p.visit(address + "/intake")
	p.pasteCells(text)
	p.click("[data-test=offer] button")
	p.sees("[data-test=found]", "100 respondents")
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "100 respondents")
	assert.Equal(t, want, p.table("#q1 .tally"))
}

// Crossing, reading a cell, the further things to do, a picture and the report, with nothing but
// keys.
func TestKeysLeadThroughTheTopline(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.keepHomes(address)
	press := func(keys ...string) {
		for _, k := range keys {
			p.do("press "+k, chromedp.KeyEvent(k))
		}
	}
	focused := func(what, script string) {
		p.t.Helper()
		p.await(what, `(() => { const e = document.activeElement; return `+script+` })()`)
	}
	at := func(question string) {
		p.await(question, fmt.Sprintf(`(() => { const q = document.querySelector(%q); q.focus(); return document.activeElement === q })()`, question))
	}
	at("#q2")
	press("x")
	focused("the search for a question", `e.closest('[data-test=find-other]') !== null`)
	press("b", "i", "n")
	p.sees("[role=listbox]", "3 · bin")
	press("\r")
	p.sees("#q2 [data-test=described]", "Crossed with “bin”")
	p.run(`document.querySelector('#q2 [data-test=described] tbody td button').focus()`)
	press(" ")
	p.sees("#q2 [data-test=reading]", "answered “")
	p.sees("#q2 [data-test=these-alone]", "Look at these alone")
	press(" ") // pressed again, the sentence of the table stands there again
	p.gone("#q2 [data-test=these-alone]")
	at("#q2")
	press("b")
	p.sees("#q2 [data-test=described]", "Answers as a picture")
	p.run(`[...document.querySelectorAll('#q2 summary')].at(-1).focus()`)
	press(" ")
	p.await("the ways to edit it", `[...document.querySelectorAll('#q2 details')].at(-1).open && document.querySelector('#q2 details[open] input') !== null`)
	press("\t", "M", "y", "\r")
	p.sees("#q2 [data-test=chart]", "My")
	at("#q2")
	press("r")
	p.sees("#q2 [data-test=in-report]", "In the report")
	p.run(`document.querySelector('#q1 [data-test=more]').focus()`)
	press("\r")
	p.await("the menu", `document.querySelector('.v-overlay--active [data-test=ask-crosstabs]') !== null`)
	focused("the search of the menu", `e.getAttribute('role') === 'combobox' && e.closest('[data-test=act-list]') !== null`)
	press("b", "a", "n", "n", "e", "r")
	p.await("what the trade calls so", `[...document.querySelectorAll('[data-test=act-list] [role=option]')].map((e) => e.dataset.test).join() === 'ask-crosstabs'`)
	p.enter("[data-test=act-list] input")
	focused("the search for several", `e.closest('[data-test=find-others]') !== null`)
	press("c", "a", "d")
	p.sees("[role=listbox]", "2 · caddy")
	press("\r")
	p.sees("#q1 .v-chip", "2 · caddy")
	press("\x1b")
	p.run(`document.querySelector('#q1 [data-test=take-others]').focus()`)
	press("\r")
	p.sees("#q1 [data-test=described]", "Crossed with 1 question")
}

// Printed in the dark theme, the topline is dark on white: every question, whom it counts, and
// nothing that can be pressed.
func TestThePrintedTopline(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(address + "/studies")
	p.run(`localStorage.setItem('theme', 'night')`)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.click("#q2 [data-test=ask-frequency]")
	p.await("the picture, light on dark", `[...document.querySelectorAll('#q2 figure svg text')].some((e) => e.getAttribute('fill') === '#e9e4d8')`)
	p.run(`window.addEventListener('beforeprint', () => { window.printed = {
		ground: getComputedStyle(document.documentElement).getPropertyValue('--paper'), ink: [...document.querySelectorAll('#q2 figure svg text')].map((e) => e.getAttribute('fill')),
		drawn: document.querySelectorAll('section.question:not(.waiting)').length } })`)
	_, err = chromedp.Call(p.ctx, print.PrintToPDF, print.PrintToPDFParams{})
	require.NoError(t, err)
	type look struct {
		Ground string
		Ink    []string
		Drawn  int
	}
	printed, err := chromedp.Run(p.ctx, chromedp.Evaluate[look](`window.printed`))
	require.NoError(t, err)
	assert.Equal(t, 31, printed.Drawn)
	assert.Equal(t, "#faf6ee", printed.Ground)
	assert.NotEmpty(t, printed.Ink)
	assert.NotContains(t, printed.Ink, "#e9e4d8")
	p.await("dark again", `getComputedStyle(document.body).backgroundColor === 'rgb(22, 25, 27)'`)

	_, err = chromedp.Call(p.ctx, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Media: "print"})
	require.NoError(t, err)
	p.sees("header.head", "Fernmouth kerbside survey", "1,240 households", "everyone")
	pressed, err := chromedp.Run(p.ctx, chromedp.Evaluate[[]string](`[...document.querySelectorAll('main button, main a, main summary, nav, header button')].filter((e) => e.getClientRects().length).map((e) => e.textContent.trim())`))
	require.NoError(t, err)
	for _, text := range pressed { // what is left says what a figure is
		assert.NotRegexp(t, "^(Copy|CSV|Compare|Cross|Picture|More|Add|Delete|Change|Seen|Report)", text)
	}
	assert.Contains(t, pressed, "% of answered ▾")
}
