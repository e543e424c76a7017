package e2e

import (
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb/mariadbtest"
)

// Trips by how long they took, known by class: the median lies (50 − 30) ÷ 45 of the way through
// 10 – 20, the cumulative percents stand at the upper limits. A study of numbers draws them each
// for itself; the picture that leaves is that of the page.
func TestNumbersDescribedAndDrawn(t *testing.T) {
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
	p.run(`window.lettering = (svg) => [...svg.matchAll(/<text[^>]*>([^<]*)/g)].map((x) => x[1].trim()).sort().join('|');
		fetch(document.querySelector('#q1 [data-test=picture]').href).then((r) => r.text()).then((svg) => (window.served = lettering(svg)))`)
	p.await("the same without a browser", `window.served?.includes('Cumulative percent') && window.served === lettering(document.querySelector('#q1 [data-test=chart] svg').outerHTML)`)
	p.audited("classes")

	p.visit(address + "/intake")
	p.upload("homes.csv", "size,years\n"+strings.Repeat("1,0.5\n", 8)+strings.Repeat("2,3\n", 20)+strings.Repeat("3,12.25\n", 9)+strings.Repeat("6,\n", 3))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "40 respondents")
	p.gone("#q1 [data-test=ask-numeric-summary]") // codes have no mean
	p.key("#q2", "d")
	p.sees("#q2 [data-test=described]", "Of the 37 respondents that gave a number, half gave 3 or less (median); the numbers run from 0.5 to 12.25")
	for key, want := range map[string]string{"mean": "4.70946", "mode": "3", "sd": "4.44703", "sum": "174.25", "range": "11.75"} {
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
