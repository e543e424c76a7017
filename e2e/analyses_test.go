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

// key presses a key where the focus is on the question itself, as somebody without a
// pointer would; for the event see enter.
func (p *page) key(question, key string) {
	p.t.Helper()
	p.await(question, fmt.Sprintf(`(() => { const q = document.querySelector(%q); q?.focus(); return document.activeElement === q && q !== null })()`, question))
	p.run(fmt.Sprintf(`document.querySelector(%q).dispatchEvent(new KeyboardEvent('keydown', {key: %q, bubbles: true, cancelable: true}))`, question, key))
}

// read gives the text of what a selector finds, once it is there.
func (p *page) read(selector string) string {
	p.t.Helper()
	p.await(selector, fmt.Sprintf(`document.querySelector(%q) !== null`, selector))
	text, err := chromedp.Run(p.ctx, chromedp.Evaluate[string](fmt.Sprintf(`document.querySelector(%q).textContent.replace(/\s+/g, ' ').trim()`, selector)))
	assert.NoError(p.t, err)
	return text
}

// 734 of 1,240 against 62 %, less: z = −34.8 ÷ √292.144 = −2.0360, its lower tail 0.0209, the
// binomial tail 0.0227 (summed in fractions), critical −1.645; the upper bound of Wilson's
// interval at 95 % one-sided is 61.5 %.
func TestOneShareFromRawAnswersAndFromTwoNumbers(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("caddy.csv", "caddy,mode\n"+strings.Repeat("every week,post\n", 700)+strings.Repeat("some weeks,post\n", 34)+strings.Repeat("never,web\n", 506)+strings.Repeat(",web\n", 10))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "1,250 respondents")
	p.key("#q1", "t")
	p.sees("#q1 [data-test=hint]", "Press the answers in the tally that are to count")
	p.click(`#q1 [data-test="pick-every week"]`)
	p.click(`#q1 [data-test="pick-some weeks"]`)
	p.sees("#q1 [data-test=success]", "“every week” + “some weeks”")
	p.fill("#q1 [data-test=claimed]", "1")
	p.sees("#q1 [data-test=hint]", "can be 1 % or everybody")
	p.fill("#q1 [data-test=claimed]", "31/50")
	p.sees("#q1 [data-test=hint]", "Say whether the share is less than, different from or greater")
	p.choose("#q1 [data-test=direction]", "less than that")
	p.await("nothing to be presumed", `document.querySelector('#q1 [data-test=state-run]').disabled`)
	p.choose("#q1 [data-test=role]", "that the claimed share holds")
	p.fill(`#q1 [data-test="source.title"]`, "the council")
	p.click("#q1 [data-test=state-run]")
	p.gone("#q1 [data-test=claim-form]")
	p.sees("#q1 [data-test=finding]", "At the 5 % level the claim is rejected: there is evidence that fewer than 62 % of the respondents")
	check := func(within string) {
		p.sees(within+" [data-test=share]", "59.2 % (734 of 1,240)")
		for key, want := range map[string]string{"statistic": "−2.036", "p": "0.0209", "exact": "0.0227", "critical": "−1.645"} {
			assert.Equal(t, want, p.read(within+" [data-test="+key+"]"), key)
		}
		p.sees(within+" [data-test=agreement]", "The 4 ways to decide agree: null rejected. p-value of the z test 0.0209 (held against 5 %), z −2.036 (held against −1.645), "+
			"p-value of the exact binomial test 0.0227 (held against 5 %), one-sided 95 % upper bound (Wilson) 61.5 % (held against 62 %).")
		p.sees(within+" svg", "claimed 62 %", "56.43 to 61.90 %", "z = −2.036", "critical −1.645")
		p.gone(within + " [data-test=looked_greater]")
	}
	check("#q1")
	p.sees("#q1 [data-test=claim]", "claimed by the council", "The claim is the null")
	p.pressWord("#q1 [data-test=claim]", "different")
	p.sees("#q1 [data-test=looked_different]", "z test p 0.0417")
	p.sees("#q1 .margin", "Other directions were looked at after the claim was stated")
	p.sees("#q1 [data-test=claim]", "further directions looked at")

	// Another direction is a change after the first run, and the doubled tail is a line.
	p.click("#q1 [data-test=change-claim]")
	p.choose("#q1 [data-test=direction]", "different from that")
	p.click("#q1 [data-test=save-claim]")
	p.gone("#q1 [data-test=claim-form]")
	p.sees("#q1 [data-test=finding]", "differs from 62 %")
	p.click("#q1 [data-test=show-working]")
	p.sees("#q1 [data-test=working]", "2 × P(Z ≥ 2.036) = 2 × 0.0209: p = 0.0417")
	p.sees("#q1 [data-test=claim]", "direction: less → different", "changed after the first run")
	p.pressWord("nav", "Claims")
	p.sees("#page table", "0.0417", "null rejected")

	// The same from two numbers, which stay behind the # of the address.
	p.pressWord("nav", "Quick check")
	p.sees("[data-test=hint]", "Give how many said yes")
	p.fill("[data-test=yes]", "734")
	p.fill("[data-test=n]", "700")
	p.sees("[data-test=hint]", "More said yes than were asked")
	p.fill("[data-test=n]", "1,240")
	p.fill("[data-test=claimed]", "62 %")
	p.choose("[data-test=direction]", "less than that")
	p.choose("[data-test=role]", "that the claimed share holds")
	p.sees("[data-test=finding]", "fewer than 62 % of the respondents")
	check("[data-test=result]")
	p.await("the figures in the fragment", `location.search === '' && location.hash.includes('yes=734')`)
	p.run(`location.reload()`)
	p.sees("[data-test=finding]", "fewer than 62 %")
	p.fill("[data-test=no]", "506")
	check("[data-test=result]")
	// Kept in a study, the claim bears that its result had been seen; Back leads to what was typed.
	p.click("[data-test=keep-open]")
	p.fill("[data-test=keep-name]", "From the quick check")
	p.click("[data-test=keep]")
	p.sees("#q1 [data-test=claim]", "Claim 1", "its result was seen in the quick check before it was stated here")
	p.run(`history.back()`)
	check("[data-test=result]")
	p.click("[data-test=clear]")
	p.gone("[data-test=result]")
}

// The counts of three tenures by four uses. By hand: X² = Σ(O − E)²/E = 38.018 with 6 degrees
// of freedom, p = e^(−X²/2)(1 + X²/2 + (X²/2)²/2) = 1.11 × 10⁻⁶, V = √(X²/(2·1198)) = 0.126; the
// first expected count is 472 · 449 ÷ 1198 = 176.9; four cells stand out after Holm.
var (
	uses    = []string{"Every week", "Most weeks", "Seldom", "Never"}
	tenures = []string{"Owns", "Rents council", "Rents landlord"}
	crossed = [3][4]int{{226, 108, 66, 72}, {141, 119, 88, 96}, {82, 79, 55, 66}}
)

func TestTwoQuestionsCrossedFromRawAnswersAndFromAGrid(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	var raw, grid strings.Builder
	raw.WriteString("caddy,tenure\n" + strings.Repeat("Never,\n", 42))
	grid.WriteString("tenure × caddy\t" + strings.Join(uses, "\t") + "\n")
	for i, tenure := range tenures {
		grid.WriteString(tenure)
		for j, use := range uses {
			raw.WriteString(strings.Repeat(use+","+tenure+"\n", crossed[i][j]))
			fmt.Fprintf(&grid, "\t%d", crossed[i][j])
		}
		grid.WriteString("\n")
	}
	first := func(within string) [][]string { return p.table(within + " [data-test=described] .wide") }
	counts := [][]string{{"Owns", "", "226", "108", "66", "72", "472"}, {"Rents council", "", "141", "119", "88", "96", "444"}, {"Rents landlord", "", "82", "79", "55", "66", "282"}}

	p.visit(address + "/intake")
	p.upload("answers.csv", raw.String())
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "1,240 respondents")
	// The answers in the order of the questionnaire.
	p.key("#q1", "x")
	p.await("the search", `document.activeElement?.closest('[data-test=find-other]') !== null`)
	p.do("type", chromedp.KeyEvent("ten"))
	p.pressWord(".v-overlay--active", "2 · tenure")
	p.sees("#q1 [data-test=described] [data-test=basis]", "1,198 respondents answered both “caddy” and “tenure”, 42 did not")
	p.gone("#q1 [data-test=claim]")
	p.sees("#q1 [data-test=reading]", "Of the 472 respondents with “Owns” (“tenure”), 47.9 % answered “Every week”", "of the 282 with “Rents landlord”, 29.1 %")
	p.sees("#q1 .margin", "You read along the rows", "42 of 1,240 respondents did not answer both")
	for _, cell := range [][2]string{
		{"tbody tr:nth-child(3) td:nth-of-type(4)", "Of the 282 respondents with “Rents landlord” (“tenure”), 66 answered “Never” (“caddy”): 23.4 %."},
		{"tfoot td:nth-of-type(2)", "Of the 1,198 respondents that answered both, 449 answered “Every week” (“caddy”): 37.5 %."},
	} {
		p.click("#q1 [data-test=described] " + cell[0] + " button")
		p.sees("#q1 [data-test=reading]", cell[1])
	}
	p.click("#q1 [data-test=described] tfoot td:nth-of-type(2) button")
	p.sees("#q1 [data-test=reading]", "Of the 472 respondents")
	p.await("no mark without a test", `!document.querySelector('#q1 .more, #q1 .fewer')`)
	p.pressWord("#q1 [data-test=described]", "of each column")
	p.sees("#q1 [data-test=reading]", "Of the 449 respondents with “Every week”")
	p.pressWord("#q1 [data-test=described]", "counts")
	p.await("counts alone", `document.querySelector('#q1 [data-test=described] .strips') === null && document.querySelector('#q1 [data-test=described] tbody td').textContent.trim() === '226'`)
	assert.ElementsMatch(t, [][]string{{"Owns", "226", "108", "72", "66", "472"}, {"Rents council", "141", "119", "96", "88", "444"}, {"Rents landlord", "82", "79", "66", "55", "282"}}, first("#q1"))
	p.pressWord("#q1 [data-test=described]", "expected")
	p.sees("#q1 [data-test=described] table", "176.9")

	p.click("#q1 [data-test=test-it]")
	p.await("nothing to be presumed", `document.querySelector('#q1 [data-test=state-run]').disabled`)
	p.choose(`#q1 [data-test="test.role"]`, "do not go together")
	p.click(`#q1 [data-test="test.level"]`)
	p.pressWord("[role=listbox]", "5 %")
	p.click("#q1 [data-test=state-run]")
	p.sees("#q1 [data-test=finding]", "At the 5 % level the claim is rejected: there is evidence that “caddy” and “tenure” go together")
	for key, want := range map[string]string{"statistic": "χ² = 38.018", "df": "(3 − 1)(4 − 1) = 6", "p": "1.11 × 10⁻⁶", "critical": "12.592"} {
		assert.Equal(t, want, p.read("#q1 [data-test=claim] [data-test="+key+"]"))
	}
	p.sees("#q1 [data-test=v]", "0.126 (95 %:")
	p.sees("#q1 [data-test=thin]", "none; smallest expected 49.2")
	p.await("four marks", `document.querySelectorAll('#q1 .more').length === 1 && document.querySelectorAll('#q1 .fewer').length === 3`)
	p.sees("#q1 .margin", "4 of 12 cells stand out at 5 %", "“Go together” is not “causes”")
	p.audited("a tested crossing")

	// The same from a grid of counts, which opens with its two questions crossed.
	p.visit(address + "/intake")
	p.click("[data-test=type-counts]")
	p.click("[data-test=form-crossing]")
	p.pasteInto(`[data-cell="0:0"]`, strings.TrimSpace(grid.String()))
	p.click("[data-test=grid-read]")
	p.sees("[data-test=found]", "1,198 respondents")
	p.click("[data-test=keep]")
	p.sees("#q1 [data-test=described] [data-test=basis]", "All 1,198 respondents answered both")
	p.pressWord("#q1 [data-test=described]", "counts")
	p.await("counts", `document.querySelector('#q1 [data-test=described] .strips') === null`)
	for i, row := range counts {
		counts[i] = append(row[:1:1], row[2:]...)
	}
	assert.Equal(t, counts, first("#q1"))
	p.click("#q1 [data-test=test-it]")
	p.choose(`#q1 [data-test="test.role"]`, "go together")
	p.click(`#q1 [data-test="test.level"]`)
	p.pressWord("[role=listbox]", "1 %")
	p.click("#q1 [data-test=state-run]")
	p.sees("#q1 [data-test=finding]", "At the 1 % level the evidence supports the claim")
	assert.Equal(t, "1.11 × 10⁻⁶", p.read("#q1 [data-test=p]"))
}

// What is described without a claim stands under its question by one press and goes by one;
// it has no number, is not in the register, and Back to the page finds it again.
func TestIntervalsUnderAQuestion(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("caddy.csv", "caddy\n"+strings.Repeat("every week\n", 70)+strings.Repeat("some weeks\n", 26)+strings.Repeat("never\n", 4))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "100 respondents")
	// A menu that takes its place under a pointer that has not moved gives nothing away.
	x, y := p.place("the menu", `document.querySelector('#q1 [data-test=more]')`)
	p.pointer("press", chromedp.MousePressed, x, y)
	other := `document.querySelector('.v-overlay--active [data-test="ask-equivalence/share"]')`
	p.await("the menu", other+` !== null`)
	p.run(`window.taken = 0; ` + other + `.addEventListener('click', () => window.taken++)`)
	p.run(fmt.Sprintf(other+`.dispatchEvent(new PointerEvent('pointerup', {bubbles: true, clientX: %v, clientY: %v}))`, x, y))
	p.pointer("let go", chromedp.MouseReleased, x, y)
	p.await("nothing taken", `window.taken === 0`)
	p.item("ask-simultaneous-intervals")
	// B = 5.7311: 70 of 100 is 58.19 to 79.64.
	p.sees("#q1 [data-test=described] table", "58.19 to 79.64")
	p.sees("#q1 [data-test=described]", "the share of “every week” lies between 58.2 % and 79.6 %, with 95 % confidence for all 3 shares at once")
	p.sees("#q1 .margin", "The smallest count is 4. Goodman’s intervals want at least 5")
	p.pressWord("#q1 [data-test=described]", "99\u00a0%")
	p.sees("#q1 [data-test=described] table", "55.41 to 81.42")
	p.audited("intervals")
	p.visit(address + "/studies/1/claims")
	p.gone("[data-test=claim]")
	p.visit(address + "/studies/1")
	p.sees("#q1 [data-test=described]", "with 99 % confidence")
	p.click("#q1 [data-test=delete-claim]")
	p.gone("#q1 [data-test=described]")
	// On bars they stand by any of the methods, which the margin names.
	p.click("#q1 [data-test=ask-frequency]")
	for _, method := range [][]string{{"Goodman", "Goodman (1965)"}, {"Sison–Glaz", "Sison and Glaz (1995)"}, {"Quesenberry–Hurst", "Quesenberry and Hurst (1964)"}} {
		p.pressWord("#q1 [data-test=described]", method[0])
		p.sees("#q1 .margin", "intervals by "+method[1])
	}
	p.pressWord("#q1 [data-test=described]", "none")
	p.await("no intervals", `!document.querySelector('#q1 .margin').textContent.includes('intervals by')`)
}

// 30 from yes to no and 12 back: McNemar's χ² = 18² ÷ 42 = 7.714. A question with other answers
// is refused in words before anything is stated.
func TestTheSamePeopleAskedTwice(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("caddy.csv", "before,after,bin\n"+strings.Repeat("yes,yes,grey\n", 50)+strings.Repeat("yes,no,grey\n", 30)+strings.Repeat("no,yes,green\n", 12)+strings.Repeat("no,no,green\n", 40)+strings.Repeat("no,,green\n", 3))
	p.click("[data-test=keep]")
	p.sees("#q1 .sub", "135 respondents")
	p.more("#q1", "ask-paired")
	p.seek("#q1 [data-test=find-other]", "bin", "3 · bin")
	p.sees("#q1 [data-test=hint]", "These two questions do not share two answers")
	p.more("#q1", "ask-paired")
	p.gone("#q1 [data-test=claim-form]")
	p.more("#q1", "ask-paired")
	p.seek("#q1 [data-test=find-other]", "aft", "2 · after")
	p.choose("#q1 [data-test=role]", "differ")
	p.click("#q1 [data-test=state-run]")
	p.sees("#q1 [data-test=finding]", "At the 5 % level the evidence supports the claim that the shares of the answers differ between “before” and “after”")
	for key, want := range map[string]string{"statistic": "χ² = 7.714", "p": "0.0055", "exact": "0.0079"} {
		assert.Equal(t, want, p.read("#q1 [data-test=claim] [data-test="+key+"]"), key)
	}
	p.sees("#q1 [data-test=claim]", "132 respondents answered both “before” and “after”, 3 did not; 90 gave the same answer twice, 42 another one")
	p.audited("a paired claim")
}

// The demo's number, its ordered answers and its choose-all set, each with its own kind of claim.
// The statistics were computed from the file by the formulas, apart from the program: t = 2.522,
// H = 5.129, Q = 124.699.
func TestClaimsAboutMeansOrderAndChoices(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d#q6", address, st.ID))
	p.key("#q6", "m")
	p.seek("#q6 [data-test=find-other]", "garden", "8 · ")
	p.sees("#q6 [data-test=claim-form]", "I want to know whether the mean of")
	p.choose("#q6 [data-test=direction]", "different from that")
	p.choose("#q6 [data-test=role]", "that it is not")
	p.sees("#q6 [data-test=states]", "is the same among the households with “Yes” and among those with “No”") // which group is which is said before
	p.click("#q6 [data-test=state-run]")
	p.sees("#q6 [data-test=finding]", "the claim is rejected: there is evidence that the mean of", "differs from the mean among those with “No”")
	p.sees("#q6 [data-test=claim] [data-test=statistic]", "t = 2.522 (Welch)")
	p.sees("#q6 .margin", "gave no answer and are left out")
	p.pressWord("#q6 [data-test=claim]", "Show the working")
	p.sees("#q6 [data-test=working]", "both tails, twice the smaller one: p = 0.0119")
	p.samePicture("#q6 [data-test=claim]", "1,203 households")

	p.more("#q13", "ask-ordered")
	p.seek("#q13 [data-test=find-other]", "tenure", "4 · ")
	p.choose("#q13 [data-test=form]", "rise or fall with")
	p.choose("#q13 [data-test=role]", "that they do not")
	p.sees("#q13 [data-test=ask-level]", "have no order, so nothing can rise or fall with them")
	p.pressWord("#q13 [data-test=ask-level]", "Ask for a shift")
	p.click("#q13 [data-test=state-run]")
	p.sees("#q13 [data-test=finding]", "Not enough evidence, at the 5 % level, to reject the claim that the answers to satisfaction stand equally high in all groups of tenure")
	p.sees("#q13 [data-test=claim] [data-test=statistic]", "H = 5.129")

	p.key("#q20", "t")
	p.choose("#q20 [data-test=role]", "choose equally often")
	p.click("#q20 [data-test=state-run]")
	p.sees("#q20 [data-test=finding]", "the claim is rejected: there is evidence that some answers")
	p.sees("#q20 [data-test=claim] [data-test=statistic]", "Q = 124.699")
	p.sees("#q20 .margin", "this is no test of separate people")
	p.audited("claims of three kinds", "#q6", "#q13", "#q20")
	p.pressWord("nav", "Claims")
	p.sees("#page table", "null rejected", "null not rejected")
}
