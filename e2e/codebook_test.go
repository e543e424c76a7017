package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

func TestTheCodebookInBulk(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	book := fmt.Sprintf("%s/studies/%d/codebook", address, st.ID)
	topline := fmt.Sprintf("%s/studies/%d", address, st.ID)
	p.visit(book)
	p.click("[data-test=choose-satisfaction]")
	p.sees("[data-test=bulk]", "1 question chosen")
	p.click("[data-test=choose-crew]")
	p.sees("[data-test=bulk]", "2 questions chosen")
	p.click("[data-test=bulk-missing]")
	p.fill("[data-test=missing-codes]", "3")
	p.fill("[data-test=missing-reason]", "no opinion")
	p.click("[data-test=missing-apply]")
	p.sees("header", "Undo")
	p.visit(topline)
	p.sees("#q13 .sub", "(Neither 254, ")
	p.sees("#q14 .sub", "Neither")
	p.click("[data-test=study-undo]")
	p.sees("#q13 .tally tbody", "Neither")

	// Merge two answers by ticking them and pressing M.
	p.visit(book)
	p.click("[data-test=choose-tenure]")
	p.click("[data-test=derive-merge]")
	p.click("[data-test=merge-board] li:nth-child(2) input")
	p.click("[data-test=merge-board] li:nth-child(3) input")
	p.await("two ticks", `document.querySelectorAll('[data-test=merge-board] input:checked').length === 2`)
	p.run(`document.querySelector('[data-test=merge-board]').dispatchEvent(new KeyboardEvent('keydown', {key: 'm', bubbles: true, cancelable: true}))`)
	p.await("the group", `document.querySelector('[data-test=merge-board] .group') !== null`)
	p.click("[data-test=derive-save]")
	p.sees("[data-test=codebook-table]", "tenure_merge")
	p.visit(topline + "#q5")
	p.sees("#q5 h2", "(merged)")
	assert.Equal(t, [][]string{{"Owns it", "", "642", "52.7"}, {"Rents it privately / Rents it from the borough", "", "539", "44.2"}, {"Something else", "", "38", "3.1"}}, p.table("#q5 .tally"))

	// Cut a number into bands.
	p.visit(book)
	p.click("[data-test=choose-years_at_address]")
	p.click("[data-test=derive-bands]")
	p.fill("[data-test=limits]", "5, 20")
	p.click("[data-test=derive-save]")
	p.sees("[data-test=codebook-table]", "years_at_address_bands")
	p.visit(topline + "#q8")
	p.sees("#q8 .tally", "< 5", "5 to < 20", "≥ 20")
}

func TestSubgroupsInTheBrowser(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/codebook?show=subgroups", address, st.ID))
	p.sees("[data-test=subgroups]", "Renters", "539 of 1,240")
	p.click("[data-test=add-subgroup]")
	p.fill("[data-test=subgroup-name]", "Large households")
	p.seek("[data-test=condition-question]", "size", "5 · household_size")
	p.choose("[data-test=condition-op]", "lies between")
	p.fill("[data-test=condition-from]", "4")
	p.run(`document.activeElement.blur()`)
	p.sees("[data-test=subgroup-n]", "of 1,240")
	p.click("[data-test=subgroup-save]")
	p.pressWord("[data-test=subgroups]", "Renters")
	p.sees("#q4 .sub", "539 households")
	assert.Equal(t, []string{"Owns it", "", "0", "0.0"}, p.table("#q4 .tally")[0], "no shares of everyone beside the tally of a subgroup")
	p.click("#q4 [data-test=claim] [data-test=unfold]")
	p.sees("#q4 [data-test=claim]", "about everyone, not the subgroup shown", "1,219")
	// A claim stated here is about the subgroup.
	p.click("#q8 [data-test=ask-goodness-of-fit]")
	p.choose("#q8 [data-test='shares.scale']", "all equal")
	p.click("#q8 [data-test=state-run]")
	p.sees("#q8 [data-test=finding]", "among the households in “Renters” this sample represents")
	p.click("#q8 [data-test=change-claim]")
	p.sees("#q8 [data-test=claim-form]", "households in “Renters” this sample represents")
}

func TestResponsesAreCorrectedAndFound(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(fmt.Sprintf("%s/studies/%d/responses", address, st.ID))
	p.sees(".window tbody", "F1001", "Saltings")
	p.run(`document.querySelector('.window').scrollTop = 30 * 1239`)
	p.sees(".window tbody", "F2240")
	p.seek("[data-test=find-question]", "ward", "2 · ward")
	p.fill("[data-test=find-text]", "milbrook")
	p.click("[data-test=find-rows]")
	p.sees("header", "3 rows")
	p.click(".window tbody tr:nth-child(1) td:nth-child(3) button")
	p.fill(".cell-edit", "Nowhere")
	p.enter(".cell-edit")
	p.sees("[data-test=error]", "“Nowhere” is no answer")
	p.forgive(422)
	p.fill(".cell-edit", "Millbrook")
	p.enter(".cell-edit")
	p.sees("header", "2 rows")
	p.click("[data-test=study-undo]")
	p.sees("header", "3 rows")
}

func TestCodebooksInAndOut(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/intake")
	p.upload("h.csv", "tenure,size\n1,2\n2,4\n1,-9\n")
	p.click("[data-test=keep]")
	p.pressWord("nav", "Codebook")
	p.click("[data-test=tab-files]")
	file := filepath.Join(t.TempDir(), "book.csv")
	require.NoError(t, os.WriteFile(file, []byte("question,wording,code,label,missing\ntenure,Own or rent?,2,Rents,\ntenure,,1,Owns,\ntenure,,3,Other,\nsize,People,-9,Not recorded,not recorded\ncolour,,1,red,\n"), 0o600))
	p.do("choose a codebook", chromedp.SetUploadFiles(chromedp.CSS("[data-test=codebook-file]"), []string{file}))
	p.sees("[data-test=codebook-fit]", "2 questions are matched by name", "Not in the study: colour")
	p.click("[data-test=codebook-apply]")
	p.sees("[data-test=codebook-fit]", "Applied")
	p.pressWord("nav", "Topline")
	p.sees("#q1 h2", "Own or rent?")
	assert.Equal(t, [][]string{{"Rents", "", "1", "33.3"}, {"Owns", "", "2", "66.7"}, {"Other", "", "0", "0.0"}}, p.table("#q1 .tally"))
	p.sees("#q2 .sub", "1 missing (Not recorded)")
}

// Several questions at once: the two answers at one end of each are counted together, all stand in
// one table, and all are crossed with the first.
func TestManyQuestionsAtOnce(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	topline := fmt.Sprintf("%s/studies/%d", address, st.ID)
	book := topline + "/codebook"
	choose := func(names ...string) {
		p.visit(book)
		for _, name := range names {
			p.click("[data-test=choose-" + name + "]")
		}
	}
	choose("satisfaction", "crew")
	p.choose("[data-test=bulk-merge]", "the first two")
	p.sees("[data-test=codebook-table]", "satisfaction_merge", "crew_merge")
	// The fourteenth question is the fifteenth now; an address that was made before still leads to it.
	p.visit(topline + "#q14.14")
	p.await("the question that moved", `(() => { const at = document.querySelector('#q15')?.getBoundingClientRect().top; return at !== undefined && Math.abs(at) < 200 && document.querySelector('#q15').textContent.includes('crew') })()`)
	choose("ward", "tenure", "age_band")
	p.gone("[data-test=bulk-merge]") // kinds without an order have no end
	p.click("[data-test=bulk-cross]")
	p.sees("#q2 [data-test=described]", "Crossed with 2 questions", "30 to 44", "Owns it")
	choose("ward", "tenure")
	p.click("[data-test=bulk-tabulate]")
	p.sees("#q2", "2 questions in one table")
}
