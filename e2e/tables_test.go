package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/csv"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// From an empty place to a book: columns are picked and nested, seen at once, moved by keys, named; a question has
// a net; what is compared is said in the sentence, and what a cell means when it is pressed.
func TestABannerAndABook(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/tables", address, st.ID))
	p.sees("#page", "tabulates every question by the same columns")
	p.click("[data-test=start-book]")
	p.sees("[data-test=table-1]", "Which ward do you live in?", "1,240")
	p.seek("[data-test=add-break]", "tenure", "4 · tenure")
	p.sees("[data-test=table-1] thead", "Owns it (A)", "Something else (D)")
	p.seek("[data-test=add-break]", "caddy use now", "11 · caddy use now")
	p.sees("[data-test=table-1] thead", "Yes (A)")
	p.click("[data-test=break-2] .name")
	p.seek("[data-test=break-within]", "having a garden", "8 · having a garden")
	p.sees("[data-test=break-2]", "caddy use now within having a garden")
	p.await("four columns in two groups", `[...document.querySelectorAll('[data-test=table-1] tr.over th[colspan="2"]')].map((e) => e.textContent).join() === 'Yes,No,caddy use now,caddy use now'`)
	p.fill("[data-test=break-label]", "Garden and caddy")
	p.enter("[data-test=break-label]")
	p.run(`document.querySelector('[data-test=break-label]').blur()`)
	p.sees("[data-test=break-2]", "Garden and caddy")
	p.run(`document.querySelector('[data-test=break-2] .name').dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowLeft', altKey: true, bubbles: true}))`)
	p.sees("[data-test=break-1]", "Garden and caddy")
	p.await("the columns in the new order", `document.querySelector('[data-test=table-1] thead tr:last-child').textContent.indexOf('Yes') < document.querySelector('[data-test=table-1] thead tr:last-child').textContent.indexOf('Owns')`)

	// Letters, what they mean, and how many comparisons there are.
	p.sees("[data-test=chance]", "comparisons in 28 tables", "Holm’s method")
	p.choose("[data-test=adjust]", "not adjusted")
	p.sees("[data-test=chance]", "not adjusted", "would stand out by chance")
	p.click("[data-test=table-1] tbody tr:nth-child(1) td:nth-child(8) .figure")
	p.sees("[data-test=table-1] [data-test=said]", "of the", "households that answered", "adjusted p")
	p.choose("[data-test=against]", "all others who are not in it")
	p.sees("[data-test=table-1]", "who are not in the column")
	p.choose("[data-test=figures]", "percents of the column and counts")
	p.sees("[data-test=table-1] tbody tr:first-child", "237")

	// A net stands beside the answers, and undo takes it away.
	p.run(`document.querySelector('[data-test=table-12]').scrollIntoView()`)
	p.sees("[data-test=table-12]", "Very satisfied")
	p.click("[data-test=table-12] [data-test=nets]")
	p.fill("[data-test=net-label-0]", "Satisfied, all")
	p.click("[data-test=net-0-4] input")
	p.click("[data-test=net-0-5] input")
	p.click("[data-test=nets-keep]")
	p.sees("[data-test=table-12]", "Satisfied, all (net)", "776")
	p.pressWord("header", "Undo")
	p.await("no net", `!document.querySelector('[data-test=table-12]').textContent.includes('(net)')`)

	// Three questions in one table; a picked choice; a title.
	p.click("[data-test=battery]")
	p.seek("[data-test=battery-questions]", "large enough", "26 · ")
	p.seek("[data-test=battery-questions]", "easy to get", "28 · ")
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.fill("[data-test=battery-label]", "Agreement")
	p.choose("[data-test=battery-boxes]", "2")
	p.click("[data-test=battery-keep]")
	p.sees("#page", "One table: Agreement", "all questions (28)")
	p.await("the battery's table", `[...document.querySelectorAll('#page h3')].some((e) => e.textContent.includes('Agreement'))`)
	p.audited("the tables", "nav", "header", "[data-test=book-sentence]", "[data-test=banner]", "[data-test=table-1]")

	v, err := cases.Books.View(t.Context(), st.ID)
	require.NoError(t, err)
	sheet := body(t, fmt.Sprintf("%s/api/v1/studies/%d/books/%d/file?form=html", address, st.ID, v.Books[0].ID))
	assert.Contains(t, string(sheet), `<th scope="colgroup" colspan="4">Garden and caddy</th>`)
	assert.Contains(t, string(sheet), "higher than all others who are not in the column")
}

// Two files of two years become waves of one study, and a question is followed over them: the households that both
// name are compared with themselves, and a new wording breaks the line.
func TestATrendOverTwoFiles(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	year := func(yes, from int) string {
		var b strings.Builder
		b.WriteString("home,use\n")
		for i := range 80 {
			answer := "no"
			if i < yes {
				answer = "yes"
			}
			fmt.Fprintf(&b, "H-%03d,%s\n", from+i, answer)
		}
		return b.String()
	}
	p.visit(address + "/intake")
	p.upload("first.csv", year(30, 1))
	p.click("[data-test=keep]")
	p.sees("#q2", "30")
	p.pressWord("header", "Arrival check")
	p.click("[data-test=later-file]")
	p.upload("second.csv", year(52, 21))
	p.sees("[data-test=fit]", "matched by name")
	p.choose("[data-test=way]", "add respondents")
	p.fill("[data-test=wave]", "2026")
	p.fill("[data-test=wave-before]", "2025")
	p.click("[data-test=refresh]")
	p.sees("#q3", "2025", "2026", "80")
	p.key("#q2", "W")
	p.seek("#q2 [data-test=find-others]", "wave", "3 · wave")
	p.seek("#q2 [data-test=find-others]", "home", "1 · home")
	p.run(`document.querySelector('#q2 [data-test=take-others]').click()`)
	p.sees("#q2 [data-test=described]", "yes: 37.5 % in 2025, 65.0 % in 2026", "From 2025 to 2026 the share changed by +27.5")
	p.click("#q2 [data-test=notes-in-order] summary")
	p.sees("#q2", "60 respondents answered in 2026 and in 2025")

	// The report goes to the later wave in one press, and says what changed.
	p.key("#q2", "r")
	p.sees("#q2", "In the report")
	p.pressWord("nav", "Report")
	p.click("[data-test=next-wave-open]")
	p.sees("[data-test=next-wave]", "take all that is asked and reported", "Goes along: 1 tally of the report.", "what changed since 2025")
	p.click("[data-test=wave-take]")
	p.sees("main", "What changed in 2026 since 2025", "37.5", "65.0", "+27.5")
}

// A rule said on the report holds at once for what it shows, and what is withheld has its reason.
func TestASafeReport(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.key("#q2", "r")
	p.sees("#q2 [data-test=in-report]", "In the report")
	p.pressWord("nav", "Report")
	p.sees("#page", "Harbor", "Milbrook")
	p.click("[data-test=safe-open]")
	p.fill("[data-test=fewest]", "5")
	p.run(`document.querySelector('[data-test=fewest]').blur()`)
	p.sees("[data-test=safe]", "No count above 0 and below 5 is told")
	p.await("signs in the place of counts", `[...document.querySelectorAll('#page td')].filter((e) => e.textContent.trim() === '–').length >= 6`)
	p.sees("#page", "not told, since the count is below 5 or would tell of one that is")
	p.choose("[data-test=rounding]", "rounded to multiples of 5")
	p.sees("#page", "235", "270")
	p.audited("the report with its rule", "[data-test=safe]")
	page := body(t, fmt.Sprintf("%s/api/v1/studies/%d/report/file?form=html", address, st.ID))
	assert.NotContains(t, string(page), "<td>1</td>")
	p.pressWord("header", "Undo")
	p.await("counts as they are", `document.querySelector('#page').textContent.includes('271')`)
}

// A file for others: key questions, how many could be recognised, and the file without them.
func TestAFileForOthers(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook", address, st.ID))
	p.pressWord("#page", "In and out")
	p.click("[data-test=open-for-others]")
	p.sees("[data-test=for-others]", "texts and identifiers never leave")
	p.await("nothing is counted before something leaves", `!document.querySelector('[data-test=anonymity]')`)
	p.click("[data-test=leaves-ward]")
	p.click("[data-test=leaves-tenure]")
	p.sees("[data-test=anonymity]", "No key question is chosen", "ward: Harbor (1)")
	p.click("[data-test=key-ward]")
	p.click("[data-test=key-tenure]")
	p.sees("[data-test=anonymity]", "ward × tenure have", "share theirs with fewer than 5", "leave without answers to the key questions", "The rarest combinations")
	p.audited("a file for others", "[data-test=for-others]")
	p.fill("[data-test=least]", "1")
	p.run(`document.querySelector('[data-test=least]').blur()`)
	p.sees("[data-test=for-others]", "At least 2 and at most 1,000 respondents share a combination.")
	p.await("no file of what may not be", `!document.querySelector('[data-test=save-for-others]')`)
	p.forgive(422)
	p.fill("[data-test=least]", "2")
	p.run(`document.querySelector('[data-test=least]').blur()`)
	p.sees("[data-test=anonymity]", "share theirs with fewer than 2")
	p.await("the file holds what is chosen", `document.querySelector('[data-test=save-for-others]').href.includes('least=2')`)
	href, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](`document.querySelector('[data-test=save-for-others]').getAttribute('href')`))
	require.NoError(t, err)
	raw := body(t, address+href)
	z, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	f, err := z.Open("answers.csv")
	require.NoError(t, err)
	rows, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"ward", "tenure"}, rows[0])
	shared := map[string]int{}
	for _, row := range rows[1:] {
		shared[row[0]+"|"+row[1]]++
	}
	for combination, n := range shared {
		assert.GreaterOrEqual(t, n, 2, combination)
	}
}
