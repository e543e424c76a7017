// Package e2e drives the built application in a browser, against a real database.
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

// messy is a file as real ones are: semicolons, Windows-1252, a quoted line break,
// quoted delimiters, CRLF. Of 102 rows 50 say Hafen, 30 Mühle, 20 Süd; two are blank.
func messy() string {
	var b strings.Builder
	b.WriteString("Stra\xdfe;\"Wo, genau?\";Bemerkung\r\n")
	for i := range 102 {
		ward := "Hafen"
		switch {
		case i >= 100:
			ward = ""
		case i >= 80:
			ward = "S\xfcd"
		case i >= 50:
			ward = "M\xfchle"
		}
		fmt.Fprintf(&b, "%s;%d;\"zwei\r\nZeilen; \"\"so\"\" Nr. %d\"\r\n", ward, 1+i%4, i)
	}
	return b.String()
}

// Expected shares 40, 40 and 20 against 50, 30 and 20 of 100: 10²/40 + 10²/40 + 0
// = 5 with 2 degrees of freedom, p = e^(−5/2) = 0.0821, critical 5.991, w = √0.05.
func TestFromAMessyFileToAFinding(t *testing.T) {
	t.Parallel()
	dsn := mariadbtest.Database(t)
	address, _, stop := serve(t, dsn)
	p := open(t)
	p.visit(address)
	p.sees("#page", "Nothing on the shelf yet")
	p.pressWord("#page", "Bring answers in")
	p.upload("befragung_2026.csv", messy())
	p.sees("[data-test=found]", "102 respondents, 3 questions")
	p.sees("#page", "Windows-1252", "semicolons", "Straße", "Wo, genau?", "zwei")
	p.fill("[data-test=study-name]", "Fernmouth wards")
	p.fill("[data-test=units]", "households")
	p.click("[data-test=keep]")

	p.sees("#q1 h2", "Straße")
	p.sees("#q1 .sub", "102 households · 100 answered · 2 missing")
	assert.Equal(t, [][]string{{"Hafen", "", "50", "50.0"}, {"Mühle", "", "30", "30.0"}, {"Süd", "", "20", "20.0"}}, p.table("#q1 .tally"))
	p.click("#q1 [data-test=base]")
	p.sees("#q1 [data-test=base]", "% of everyone")
	assert.Equal(t, []string{"Missing: No answer", "", "2", "2.0"}, p.table("#q1 .tally")[3])
	p.click("#q1 [data-test=base]")

	p.click("#q1 [data-test=ask-goodness-of-fit]")
	p.fill("#q1 [data-test='shares.source.title']", "the borough register")
	// Bare figures go in by place, with a warning; answers with their shares by name.
	p.pasteInto(`#q1 [data-test="share-Hafen"]`, "20\n40\n40\n7")
	p.sees("#q1 [data-test=placed]", "These 3 figures came without names", "from “Hafen” to “Süd”", "One figure was left over")
	p.pasteInto(`#q1 [data-test="share-Hafen"]`, "Süd\t20\nHafen\t40\nMühle\t40")
	p.gone("#q1 [data-test=placed]")
	p.await("each share at its name", `document.querySelector('#q1 [data-test="share-Süd"]').value === '20'`)
	p.sees("#q1 [data-test=claim-form]", "what kind of source that is")
	p.await("nothing to be presumed", `document.querySelector('#q1 [data-test=state-run]').disabled`)
	p.choose("#q1 [data-test='shares.source.kind']", "an official register or census")
	// What is typed outlives Escape; Enter in the last cell states nothing.
	p.run(`document.querySelector('#q1 [data-test="share-Süd"]').dispatchEvent(new KeyboardEvent('keydown', {key: 'Escape', bubbles: true}))`)
	p.gone("#q1 [data-test=claim-form]")
	p.click("#q1 [data-test=ask-goodness-of-fit]")
	p.sees("#q1 [data-test=claim-form]", "These are your entries from before")
	p.await("the claim to be complete", `!document.querySelector('#q1 [data-test=state-run]').disabled`)
	p.enter(`#q1 [data-test="share-Süd"]`)
	p.await("the button to have the focus", `document.activeElement === document.querySelector('#q1 [data-test=state-run]')`)
	p.gone("#q1 [data-test=claim]")
	p.choose("#q1 [data-test=level]", "another level")
	p.fill("#q1 [aria-label='another level']", "95")
	p.sees("#q1 [data-test=ask-level]", "A significance level of 95 % is too high")
	p.click("#q1 [data-test=usual-level]")
	p.gone("#q1 [data-test=ask-level]")
	// Escape closes an open menu, not the form.
	p.click("#q1 [data-test='shares.scale']")
	p.await("the menu", `document.querySelector('#q1 [data-test="shares.scale"]').getAttribute('aria-expanded') === 'true' && document.querySelector('.v-overlay--active .v-overlay__content')?.getAnimations().length === 0`)
	// Until it has opened for good the library lets a key pass.
	p.await("the menu to be on top", `performance.now() - (window.since ??= performance.now()) > 300`)
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.await("the menu to close", `document.querySelector('#q1 [data-test="shares.scale"]').getAttribute('aria-expanded') === 'false'`)
	p.sees("#q1 [data-test=claim-form]", "I claim")
	p.click("#q1 [data-test=paste-list]")
	p.fill("#q1 [data-test=pasted] textarea, #q1 textarea[data-test=pasted]", "süd 20\nHafen 40\nMühle 38.5")
	p.click("#q1 [data-test=match]")
	p.sees("#q1 [data-test=shares-state]", "The figures add to 98.5, 1.5 short of 100")
	p.fill(`#q1 [data-test="share-Mühle"]`, "40")
	p.sees("#q1 [data-test=sum]", "100")
	p.await("the claim to be complete", `!document.querySelector('#q1 [data-test=state-run]').disabled`)
	p.run(`document.querySelector('#q1 [data-test="share-Mühle"]').dispatchEvent(new KeyboardEvent('keydown', {key: 'Enter', ctrlKey: true, bubbles: true, cancelable: true}))`)

	finding := func() {
		p.sees("#q1 [data-test=finding]", "Not enough evidence, at the 5 % level, to reject the claim that the answers to “Straße” match the borough register among the households this sample represents.")
		for name, want := range map[string]string{"statistic": "χ² = 5.000", "df": "3 − 1 = 2", "p": "0.0821", "critical": "5.991", "w": "0.224", "thin": "none; smallest expected 20.0"} {
			p.sees("#q1 [data-test="+name+"]", want)
		}
	}
	finding()
	assert.Equal(t, [][]string{{"Hafen", "50", "0.400", "40.0", "10.0", "2.500"}, {"Mühle", "30", "0.400", "40.0", "−10.0", "2.500"}, {"Süd", "20", "0.200", "20.0", "0.0", "0.000"}}, p.table("#q1 [data-test=claim]"))
	// p = e^(−5 ÷ 2)
	p.sees("#q1 [data-test=agreement]", "The 2 ways to decide agree: null not rejected. p-value of the chi-square test 0.0821 (held against 5 %), χ² 5.000 (held against 5.991).")
	p.click("#q1 [data-test=show-working]")
	p.sees("#q1 [data-test=working]", "3 answers − 1 = 2", "√(5.000 ÷ 100) = 0.224")
	p.sees("#q1 .margin", "Each of the 3 answers has its share", "Not rejecting is not proving", "2 of 102 households")

	// The application is stopped and started again: the finding is still there.
	stop()
	address, _, _ = serve(t, dsn)
	p.visit(address + "/studies")
	p.pressWord("#page table", "Fernmouth wards")
	finding()

	// Changing one setting shows the result anew and is remembered.
	p.click("#q1 [data-test=change-claim]")
	p.click("#q1 [data-test=level]")
	p.pressWord("[role=listbox]", "10 %")
	p.click("#q1 [data-test=save-claim]")
	p.sees("#q1 [data-test=finding]", "At the 10 % level the claim is rejected")
	p.sees("#q1 [data-test=claim]", "level: 0.05 → 0.1", "after the first run")

	p.click("#q1 [data-test=delete-claim]")
	p.gone("#q1 [data-test=claim]")
	p.click("[data-test=undo]")
	p.sees("#q1 [data-test=finding]", "At the 10 % level the claim is rejected")
	p.pressWord("nav", "Claims")
	p.sees("#page table", "Straße", "0.0821", "shares rejected")
}

func TestABadFileIsExplainedAndCured(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("photo.csv", "\x89PNG\x00\x01")
	p.sees("[data-test=intake-problems]", "The file is not text and no workbook. Save the answers as CSV")
	p.pressWord("#page", "Another file")
	p.upload("short.csv", "ward,caddy\nHarbour,yes\nFenside\nHarbour,no\n")
	p.sees("[data-test=intake-problems]", "Line 3 holds 1 of the 2 cells that the header has.")
	p.gone("[data-test=keep]")
	list, err := cases.Studies.List(t.Context())
	require.NoError(t, err)
	assert.Empty(t, list, "nothing is saved")
	p.pressWord("[data-test=intake-problems]", "Fill short lines with blank cells")
	p.gone("[data-test=intake-problems]")
	p.click("[data-test=keep]")
	p.sees("#q2 .sub", "3 respondents · 2 answered · 1 missing")
}

func TestTextIsPastedAndAnswersAreEditedInPlace(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.pressWord("#page", "Paste cells")
	p.fill("[data-test=paste] textarea, textarea[data-test=paste]", "caddy\nno\nyes\nyes\n")
	p.click("[data-test=paste-read]")
	p.sees("#page", "Is “caddy” the name of the question or its first answer?")
	p.pressWord("#page", "It is the name")
	p.click("[data-test=keep]")
	p.pressWord("#q1 h2", "caddy")
	p.fill("#q1 h2 input", "Do you use the caddy?")
	p.enter("#q1 h2 input")
	p.sees("#q1 h2", "Do you use the caddy?")
	p.await("the edit to be offered to be taken back", `document.querySelector('[data-test=study-undo]').title.includes('changed')`)
	p.pressWord("#q1 .tally tbody", "yes")
	p.fill("#q1 .tally input", "Yes, always")
	p.enter("#q1 .tally input")
	p.sees("#q1 .tally", "Yes, always")
	p.click("#q1 [data-test=arrange]")
	p.click("#q1 .arranger tr:nth-child(2) .up")
	p.sees("#q1 .arranger tbody tr:nth-child(2)", "no")
	p.click("#q1 [data-test=arrange]")
	p.do("reload", chromedp.Reload())
	p.sees("#q1 h2", "Do you use the caddy?")
	assert.Equal(t, [][]string{{"Yes, always", "", "2", "66.7"}, {"no", "", "1", "33.3"}}, p.table("#q1 .tally"), "saved as it went")
}

// The demo comes in through the real intake. Of its claims one is rejected and one
// is not; a misspelt ward is counted under its proper name with one press.
func TestTheDemo(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("header", "1,240")
	p.await("every question", `document.querySelectorAll('section.question').length === 31`)
	p.sees("#q4 [data-test=finding]", "At the 5 % level the claim is rejected")
	p.sees("#q9 [data-test=finding]", "Not enough evidence")
	p.pressWord("#q2 .margin", "Count “Harbor” as “Harbour”")
	p.sees("[data-test=page-notes]", "every figure here is unweighted")
	p.await("the spelling to be counted under the other", `!document.querySelector('#q2 .tally').textContent.includes('Harbor,') && document.querySelectorAll('#q2 .tally tbody tr').length === 8`)
	assert.Equal(t, []string{"Harbour", "", "238", "19.2"}, p.table("#q2 .tally")[0])
	// An identifier takes one line; notes on rounding speak of the base that is shown.
	p.await("one line", `document.querySelector('#q1 .oneline').getBoundingClientRect().height < 40`)
	p.sees("#q3 .margin", "The percents as printed add to 99.9 %")
	p.click("#q3 [data-test=base]")
	p.await("no note about the other base", `!document.querySelector('#q3 .margin').textContent.includes('99.9')`)
	p.click("#q3 [data-test=base]")
	p.await("no frame around the page", `(() => { const m = document.querySelector('#page'); m.focus(); return getComputedStyle(m).outlineStyle === 'none' })()`)
	// Of several claims the ticks are those of the one that is chosen, and say so.
	p.click("#q4 [data-test=ask-goodness-of-fit]")
	p.choose("#q4 [data-test='shares.scale']", "all equal")
	p.click("#q4 [data-test=state-run]")
	p.sees("#q4 .tally thead", "share in all equal, claim 16")
	p.sees("#q4 article:nth-of-type(1) .said", "8 notes")
	p.gone("#q4 article:nth-of-type(1) table")
	p.click("#q4 article:nth-of-type(1) [data-test=unfold]")
	p.sees("#q4 article:nth-of-type(1) table", "Rents it privately")
	p.run(`location.reload()`) // it stays as it was left, both ways
	p.sees("#q4 article:nth-of-type(1) table", "Rents it privately")
	p.click("#q4 article:nth-of-type(1) [data-test=fold]")
	p.gone("#q4 article:nth-of-type(1) table")
	p.run(`location.reload()`)
	p.sees("#q4 article:nth-of-type(1) .said", "8 notes")
	p.click("#q4 article:nth-of-type(1) [data-test=unfold]")
	p.click("#q4 [data-test=claim]:last-of-type [data-test=tick], #q4 [data-test=tick][aria-pressed=false]")
	p.sees("#q4 .tally thead", "share in the borough register, claim 1")
	p.click("#q9 [data-test=unfold]")
	p.click("#q9 [data-test=delete-claim]")
	p.gone("#q9 [data-test=claim]")
	p.pressWord("nav", "Claims")
	p.sees("[data-test=tests-run]", "16 tests have been run")
	p.sees("[data-test=withdrawn]", "All answers are equally common", "its test had been run")
}
