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

// Trips by how long they took, known by class: the median lies (50 − 30) ÷ 45 of the way through
// 10 – 20, the cumulative percents stand at the upper limits. A study of numbers draws them each
// for itself; the picture that leaves is that of the page.
func TestNumbersDescribedAndDrawn(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("trips.csv", "minutes,trips\n0-10,30\n10-20,45\n20-30,15\n30-40,10\n")
	p.pressWord("[data-test=offer]", "Read it as classes")
	p.sees("[data-test=found]", "100 respondents")
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "100 respondents")
	p.click("#q1 [data-test=ask-numeric-summary]")
	p.sees("#q1 [data-test=described]", "half lie below about 14.44, in the class from 10 to 20; their mean is about 15.5")
	p.pressWord("#q1 [data-test=described]", "cumulative percent (ogive)")
	p.sees("#q1 .margin", "The cumulative percent stands at the upper limit of each class", "All three are estimates")
	want := [][]string{{"0 – 10", "30", "30.0 %", "30", "30.0 %", "5"}, {"10 – 20", "45", "45.0 %", "75", "75.0 %", "15"}, {"20 – 30", "15", "15.0 %", "90", "90.0 %", "25"}, {"30 – 40", "10", "10.0 %", "100", "100.0 %", "35"}}
	assert.Equal(t, want, p.table("#q1 [data-test=described] .wide"))
	p.await("the picture", `document.querySelector('#q1 [data-test=chart] svg text') !== null`)
	p.samePicture("#q1", "100 respondents", "minutes")
	p.pressWord("#q1 [data-test=described]", "frequency polygon")
	p.await("a polygon closed to zero a class before and after", `document.querySelector('#q1 [data-test=chart]').getAttribute('aria-label').includes('Frequency polygon')`)
	p.samePicture("#q1")
	p.audited("classes")

	p.visit(address + "/intake")
	p.upload("homes.csv", "size,years\n"+strings.Repeat("1,0.5\n", 8)+strings.Repeat("2,3\n", 20)+strings.Repeat("3,12.25\n", 9)+strings.Repeat("6,\n", 3))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "40 respondents")
	p.gone("#q1 [data-test=ask-numeric-summary]") // codes have no mean
	p.key("#q2", "d")
	p.sees("#q2 [data-test=described]", "Of the 37 respondents that gave a number, at least half gave 3 or less and at least half 3 or more (median); the numbers run from 0.5 to 12.25")
	for key, want := range map[string]string{"mean": "4.71", "mode": "3", "sd": "4.45", "sum": "174.25", "range": "11.75"} {
		assert.Equal(t, want, p.read("#q2 [data-test=described] [data-test="+key+"]"), key)
	}
	p.sees("#q2 .margin", "3 of 40 respondents (7.5 %) gave no answer")
	p.pressWord("#q2 [data-test=described]", "box plot")
	p.sees("#q2 .margin", "The whiskers reach to the furthest numbers within one and a half boxes")
	p.pressWord("#q2 [data-test=described]", "10 equal groups")
	p.sees("#q2 [data-test=described] table", "90 %")
	p.click("#q2 [data-test=delete-claim]")
	p.gone("#q2 [data-test=described]")
	p.audited("numbers")
}

// A tally that is taken as text is the same tally when it comes in again, thousands and all.
func TestATableComesBack(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("caddy.csv", "caddy\n"+strings.Repeat("never\n", 1234)+strings.Repeat("every week\n", 70))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "1,304 respondents")
	want := p.table("#q1 .tally")
	p.run(`fetch(document.querySelector('#q1 [data-test=table-csv]').href.replace('csv', 'tsv')).then((r) => r.text()).then((text) => (window.taken = text))`)
	p.await("the text", `window.taken?.startsWith('caddy')`)
	text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`window.taken`))
	require.NoError(t, err)
	p.visit(address + "/intake")
	p.pasteCells(text)
	p.click("[data-test=offer] button")
	p.sees("[data-test=found]", "1,304 respondents")
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "1,304 respondents")
	assert.Equal(t, want, p.table("#q1 .tally"))
}

// Seven counts, as relative frequencies to four decimals and running: 12 of 97 are 0.1237, the
// first three 45 of 97, 0.4639.
func TestRelativeFrequenciesOfABareList(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("visits.csv", "visits,n\n0,12\n1,9\n2,24\n3,30\n4,15\n5,6\n6,1\n")
	p.click("[data-test=offer] button")
	p.sees("[data-test=found]", "97 respondents")
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "97 respondents")
	p.run(`fetch(location.pathname.replace('/studies', '/api/v1/studies') + '/topline').then((r) => r.json()).then((page) => fetch('/api/v1' + location.pathname + '/questions/' + page.questions[0].id, {method: 'PATCH', headers: {'Content-Type': 'application/json', 'If-Match': '"' + page.questions[0].version + '"'}, body: '{"kind":"discrete"}'})).then(() => (window.told = true))`)
	p.await("told that visits are numbers", `window.told`)
	p.visit(p.here() + "?as=proportions&cumulative=1")
	p.pressWord("header", "1 decimal")
	p.sees("header", "2 decimals")
	p.sees("#q1 .tally thead", "Share of answered", "Cumulative share")
	assert.Equal(t, [][]string{{"0", "", "12", "0.1237", "12", "0.1237"}, {"1", "", "9", "0.0928", "21", "0.2165"}, {"2", "", "24", "0.2474", "45", "0.4639"}, {"3", "", "30", "0.3093", "75", "0.7732"},
		{"4", "", "15", "0.1546", "90", "0.9278"}, {"5", "", "6", "0.0619", "96", "0.9897"}, {"6", "", "1", "0.0103", "97", "1.0000"}}, p.table("#q1 .tally"))
	p.click("[data-test=proportions]")
	p.sees("#q1 .tally", "12.37")
	p.click("#q1 [data-test=ask-numeric-summary]")
	p.pressWord("#q1 [data-test=described]", "dot plot")
	p.await("dots", `document.querySelectorAll('#q1 [data-test=chart] svg path').length >= 97`)
	p.audited("running shares")
}

// Of the demo's choose-all set 473 were asked: 199 of them chose the first of 601 answers. Its
// columns are folded into it until one is wanted. Two wards crossed within two waves: 30 of 40
// and 10 of 60 say yes, then 5 of 10 and 45 of 90.
func TestASetAndACrossingInLayers(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d#q20", address, st.ID))
	p.sees("#q20 [data-test=described]", "Of the 473 households that answered", "42.1 % chose “it smells”; that is 33.1 % of all 601 answers chosen")
	p.click("#q20 [data-test=described] [data-test=unfold]")
	p.await("both bases", `(() => { const rows = [...document.querySelectorAll('#q20 [data-test=described] .wide')[0].querySelectorAll('tfoot td')].map((x) => x.textContent.trim()); return rows[0] === '601' && rows[1].startsWith('127.1') && rows[2].startsWith('100.0') })()`)
	p.await("how many each", `(() => { const n = [...document.querySelectorAll('#q20 [data-test=described] .wide')[1].querySelectorAll('tbody td:nth-of-type(1)')].map((x) => Number(x.textContent)); return n.reduce((a, b) => a + b) === 473 && n.reduce((a, b, k) => a + b * k, 0) === 601 })()`)
	p.gone("#q20 [data-test=ask-crosstab]") // people choose several: the crossing of separate people does not fit
	p.gone("#q15 .tally")
	p.sees("#q15 .sub", "part of 20")
	p.click("#q15 [data-test=unfold]")
	p.sees("#q15 .tally", "199")
	p.audited("a set", "#q20", "#q15")

	rows := func(wave, ward string, yes, no int) string {
		return strings.Repeat(wave+","+ward+",yes\n", yes) + strings.Repeat(wave+","+ward+",no\n", no)
	}
	p.visit(address + "/intake")
	p.upload("waves.csv", "wave,ward,caddy\n"+rows("spring", "Harbour", 30, 10)+rows("spring", "Fenside", 10, 50)+rows("autumn", "Harbour", 5, 5)+rows("autumn", "Fenside", 45, 45)+",Harbour,yes\n")
	p.click("[data-test=keep]")
	p.sees("#q3 .sub", "201 respondents")
	p.more("#q3", "ask-mantel-haenszel")
	p.seek("#q3 [data-test=find-other]", "ward", "2 · ward")
	p.seek("#q3 [data-test=find-other]", "wave", "1 · wave")
	p.sees("#q3 [data-test=described]", "Crossed with “ward” in layers of “wave”", "spring · 100 respondents", "autumn · 100 respondents", "All layers together · 200 respondents",
		"Of the 60 respondents with “Fenside” (“ward”), 83.3 % answered “no” (“caddy”); of the 40 with “Harbour”, 25.0 %")
	// (30·50/100 + 5·45/100) ÷ (10·10/100 + 5·45/100) = 17.25 ÷ 3.25
	assert.Contains(t, p.read("#q3 [data-test=common_odds]"), "5.308")
	p.click("#q3 [data-test=described] .wide:has(.figure) tbody button")
	p.sees("#q3 [data-test=reading]", "answered “")
	p.sees("#q3 .margin", "1 of 201 respondents did not answer all three")
	p.visit(p.here())
	p.sees("#q3 [data-test=described]", "autumn · 100 respondents")
	p.audited("layers")
}

// here is the address of the page, without what is asked of it.
func (p *page) here() string {
	p.t.Helper()
	address, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`location.origin + location.pathname`))
	require.NoError(p.t, err)
	return address
}

// Three statements with one list of answers stand as rows of one block: of 20, 12 agree with the
// first, 6 with the second and 3 with the third, who were fewer to answer.
func TestABattery(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	var rows strings.Builder
	rows.WriteString("bins,crews,letters\n")
	for i := range 20 {
		of := func(agree, strongly, disagree int) string {
			switch {
			case i < strongly:
				return "4"
			case i < agree:
				return "3"
			case i < agree+disagree:
				return "2"
			}
			return "1"
		}
		letters := of(3, 1, 8)
		if i >= 15 {
			letters = ""
		}
		fmt.Fprintf(&rows, "%s,%s,%s\n", of(12, 5, 4), of(6, 2, 10), letters)
	}
	p.visit(address + "/intake")
	p.upload("statements.csv", rows.String())
	p.click("[data-test=keep]")
	p.sees("#q3 .sub", "20 respondents")
	p.click("#q1 [data-test=more]")
	p.sees("[data-test=ask-crosstabs]", "Cross with several")
	p.gone("[data-test=ask-battery]")
	p.run(`(async () => { const at = '/api/v1' + location.pathname + '/codebook'; const book = await (await fetch(at)).json();
		const told = await fetch(at, {method: 'PATCH', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({questions: book.questions.map((q) => ({id: q.id, version: q.version})), kind: 'ordered', makeList: 'agreement'})}); window.told = told.ok })()`)
	p.await("a shared list", `window.told`)
	p.visit(p.here())
	p.more("#q1", "ask-battery")
	p.sees("#q1 [data-test=described]", "3 questions with the same answers", "“3” or “4”: most often “bins”, 60.0 %; least often “letters”, 20.0 %")
	got := p.table("#q1 [data-test=described] .wide")
	for i, row := range got {
		got[i] = append(row[:1:1], row[2:]...) // without the strip
	}
	assert.Equal(t, [][]string{{"“bins”", "20.0", "20.0", "35.0", "25.0", "40.0", "60.0", "20"}, {"“crews”", "20.0", "50.0", "20.0", "10.0", "70.0", "30.0", "20"}, {"“letters”", "26.7", "53.3", "13.3", "6.7", "80.0", "20.0", "15"}}, got)
	p.click("#q1 [data-test=described] tbody tr:nth-child(3) td button")
	p.sees("#q1 [data-test=reading]", "Of the 15 respondents that answered “letters”, 4 answered “1”: 26.7 %")
	p.audited("a battery")
}

// The list of questions opens by key, finds, goes there and folds away; the line on top knows
// what exists by its trade names.
func TestTheListOfQuestions(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d?cumulative=1", address, st.ID))
	p.sees("header", "1,240")
	p.run(`document.body.dispatchEvent(new KeyboardEvent('keydown', {key: 'l', bubbles: true}))`)
	p.sees("[data-test=question-list]", "Kerbside collection", "satisfaction")
	p.do("type", chromedp.KeyEvent("glass"))
	p.await("the only one", `document.querySelectorAll('[data-test=question-list] li').length === 1`)
	p.audited("the list of questions", "[data-test=question-list]", "header")
	p.do("Enter", chromedp.KeyEvent("\r"))
	p.gone("[data-test=question-list]")
	p.await("there, as it was shown", `location.hash.startsWith('#q23') && location.search.includes('cumulative=1')`)
	p.click("[data-test=list-open]")
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.gone("[data-test=question-list]")
	for typed, found := range map[string]string{"crosstab": "Cross with a question", "mcnemar": "Pair with a question", "box plot": "Compare groups: Means, medians and box plots, group by group.", "choose all that apply": "Percents of respondents and of responses"} {
		p.fill("[data-test=find] input", typed)
		p.sees(".v-overlay--active", found)
		p.fill("[data-test=find] input", "")
	}
}
