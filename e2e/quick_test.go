package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

// Each quick check from the empty page to the copied write-up, with a figure that was computed
// from its formula by hand or is that of a worked case.
func TestEveryQuickCheck(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/quick")
	cells := func(rows ...string) string { return strings.Join(rows, "\n") }
	groups := []string{"yes", "44", "n", "90", "yes2", "61", "n2", "95", "first", "Harbour", "second", "Fenside", "label", "we use it"}
	for _, k := range []struct {
		have, want string
		paste      string   // cells from the first on
		fills      []string // blanks and what they hold
		choices    []string // menus and what is chosen
		fact, is   string
		says       string
	}{
		// (44/90 − 61/95) ÷ √(105/185 · 80/185 · (1/90 + 1/95)), a worked case.
		{"two groups", "compare their shares", "", groups, []string{"direction", "different from that", "role", "that it is not"}, "statistic", "−2.102", "differs from the share among those with “Fenside”"},
		// Both edges lie 0.2 away; the fitted shares are 0.6 and 0.4: 0.2 ÷ √(2 · 0.24 ÷ 100) = 2.887.
		{"two groups", "show that their shares are near enough", "", []string{"yes", "50", "n", "100", "yes2", "50", "n2", "100", "margin", "20"}, []string{"role", "lie less than"}, "p", "0.0019", "lie less than 20 percentage points apart"},
		{"one share", "show that it is near enough to a share", "", []string{"yes", "50", "n", "100", "expected", "50 %", "margin", "10"}, []string{"role", "lies less than"}, "p", "0.0206", "lies less than 10 percentage points from 50 %"}, // 10 ÷ √24 = 2.041
		// (13.33² + 3.33² + 16.67²) ÷ 33.33 = 14; e^(−7).
		{"a count for each answer", "compare them with expected shares", cells("a\t20", "b\t30", "c\t50"), nil, []string{"shares.scale", "all equal"}, "p", "9.12 × 10⁻⁴", "not equally common"},
		{"a count for each answer", "show that they are near enough to expected", cells("a\t50", "b\t50"), []string{"margin", "10"}, []string{"shares.scale", "all equal", "role", "each share lies less than"}, "p", "0.0206", "each share of the answers"},
		// 60 (100 − 400)² ÷ 30⁴.
		{"a count for each answer", "compare them with another sample", cells("a\t10\t20", "b\t20\t10"), []string{"shares.source.title", "last year’s survey"}, []string{"role", "are alike"}, "statistic", "χ² = 6.667", "differ between here and last year’s survey"},
		{"a count for each answer", "have intervals", cells("a\t43", "b\t61", "c\t27", "d\t19"), nil, nil, "", "20.4", ""}, // Goodman's lower end of a worked case
		{"a count for each answer", "have relative frequencies", cells("a\t20", "b\t30", "c\t50"), nil, nil, "", "30.0", ""},
		// 200 (60 · 65 − 40 · 35)² ÷ (100 · 100 · 95 · 105).
		{"a table of two questions", "know whether the two go together", cells("\tyes\tno", "Harbour\t60\t40", "Fenside\t35\t65"), []string{"question", "caddy use"}, []string{"test.role", "go together"}, "statistic", "χ² = 12.531", "caddy use and the groups go together"},
		{"a table of two questions", "know whether ordered answers", cells("\tlow\tmiddle\thigh", "1\t6\t8\t6", "2\t3\t7\t15", "3\t10\t6\t4"), nil, []string{"form", "stand higher", "role", "that they do not"}, "statistic", "H = 10.319", "stand higher in some groups"},
		{"the same people", "know whether the answers changed", cells("yes\tno", "40\t5", "15\t30"), nil, []string{"role", "are the same"}, "statistic", "χ² = 5.000", "the shares of the answers differ"}, // (15 − 5)² ÷ 20
		// (32 − 47)² ÷ (6.0606 + 3.7458).
		{"two groups in layers", "compare the groups within", cells("own\t20\t30\t40\t10", "rent\t12\t18\t22\t8"), nil, []string{"test.role", "go together"}, "statistic", "χ² = 22.944 (Mantel–Haenszel)", "within the answers to the layers, the question and the groups go together in the same way among the respondents"},
		{"choose-all answers", "know whether some are chosen more", cells("\tsmell\ttime", "45\tx\tx", "17\tx\t", "3\t\tx"), nil, []string{"role", "choose equally often"}, "statistic", "Q = 9.800", "chosen more often than others"}, // (17 − 3)² ÷ 20
		{"a mean", "test it against a claimed mean", "", []string{"n", "16", "mean", "10", "sd", "4", "claimed", "8"}, []string{"direction", "higher than that", "role", "that it does not"}, "statistic", "t = 2.000", "is above 8"},
		// −4 ÷ √(2.2222 ÷ 10 + 8.8889 ÷ 10).
		{"two means", "compare them", "", []string{"first", "old", "second", "new", "n", "10", "mean", "6", "sd", "1.4907", "n2", "10", "mean2", "10", "sd2", "2,9814"}, []string{"direction", "lower than", "role", "that it is"}, "statistic", "t = −3.795 (Welch)", "is lower among the respondents with “old”"},
		{"a list of numbers", "have them described", "", []string{"list", "1 2 3 4"}, nil, "mean", "2.5", ""},
		{"a list of numbers", "have them described", cells("0\t10\t4", "10\t20\t6"), nil, nil, "mean", "11", ""}, // (4 · 5 + 6 · 15) ÷ 10
		// ((1.95996 √(0.62 · 0.38) + 0.84162 √(0.58 · 0.42)) ÷ 0.04)² = 1167.5.
		{"a plan", "know how many to ask, for one share", "", []string{"claimed", "62 %", "true", "58 %"}, []string{"find", "how many to ask", "direction", "different from that"}, "n", "1,168", "Ask 1,168 respondents"},
		{"a plan", "know how many to ask, for two groups", "", []string{"share1", "60 %", "share2", "50 %"}, []string{"find", "how many to ask"}, "n", "388 and 388", "Ask 388 respondents in each group"}, // ((1.37896 + 0.58914) ÷ 0.1)² = 387.3
		{"a plan", "know how many to ask, for a chi-square test", "", []string{"df", "3", "w", "0.2"}, []string{"find", "how many to ask"}, "n", "273", "a departure of w = 0.200"},                        // 10.903 ÷ 0.04
		{"a plan", "know the margin of error", "", []string{"share", "50 %", "margin", "3"}, []string{"find", "how many to ask"}, "n", "1,068", "a margin of error of 3.0 percentage points"},              // 1.95996² · 0.25 ÷ 0.0009 = 1067.1
		{"a plan", "look up tails", "", []string{"df", "4", "tail", "0.05"}, []string{"name", "t", "find", "the point with this much at or above"}, "x", "2.13185", "0.05 lies at or above 2.13185"},
		{"a plan", "check a printed result", "", []string{"statistic", "12.40", "df", "3", "p", "0.012"}, []string{"kind", "χ²"}, "", "does not fit", "The printed figures cannot all be true together. The slip that fits: p was doubled"}, // 0.00613 is right
		{"a plan", "check a printed result", "", []string{"statistic", "2.10", "p", "0.018"}, []string{"kind", "z", "sided", "one side"}, "", "fits", "The printed figures can all be true together"},                                       // P(Z ≥ 2.10) = 0.0179
	} {
		t.Run(k.want+" "+k.is, func(t *testing.T) {
			p.t = t
			p.click(`nav a[href="/studies"]`)
			p.gone("[data-test=shape]")
			p.click(`nav a[href="/quick"]`) // as it is opened anew
			p.notesCopies()
			p.choose("[data-test=shape]", k.have)
			p.choose("[data-test=check]", k.want)
			for i := 0; i < len(k.choices); i += 2 { // some blanks follow from what is chosen
				p.choose(`#page [data-test="`+k.choices[i]+`"]`, k.choices[i+1])
			}
			for i := 0; i < len(k.fills); i += 2 {
				p.fill(`[data-test="`+k.fills[i]+`"]`, k.fills[i+1])
			}
			if k.paste != "" {
				first := `[data-cell="1:0"]`
				switch {
				case strings.HasPrefix(k.paste, "\t"): // with its headings
					first = `[data-cell="0:0"]`
				case strings.HasPrefix(k.paste, "yes"):
					first = `[data-cell="0:1"]`
				}
				p.pasteInto(first, k.paste)
			}
			p.await("the result", `document.querySelector('[data-test=result]') !== null`)
			if k.fact != "" {
				p.sees("[data-test=result] [data-test="+k.fact+"]", k.is)
				assert.True(t, strings.HasPrefix(p.read("[data-test=result] [data-test="+k.fact+"]"), k.is))
			} else {
				p.sees("[data-test=result]", k.is)
			}
			p.sees("[data-test=result]", k.says)
			p.click("[data-test=write-up]")
			p.sees("[data-test=write-up]", "Copied")
			p.await("the write-up to say "+k.says, fmt.Sprintf(`window.clip.replace(/\s/g, ' ').includes(%q)`, k.says))
		})
	}
	p.t = t

	// A total that was copied along counts everybody twice, and is said to; without it there is a result.
	p.leave()
	p.visit(address + "/quick")
	p.choose("[data-test=shape]", "a count for each answer")
	p.choose("[data-test=check]", "have relative frequencies")
	p.pasteInto(`[data-cell="1:0"]`, cells("own\t30", "rent\t50", "Total\t80"))
	p.sees("[data-test=error]", "“Total” is the sum of the others")
	p.gone("[data-test=result]")
	p.click(`[aria-label="Take row 3 away"]`)
	p.sees("[data-test=result]", "37.5")
	p.gone("[data-test=error]")
	p.forgive(422)

	// A cell that nobody filled is no 0, and numbers that do not add up are not chosen among.
	p.choose("[data-test=shape]", "a table of two questions")
	p.choose("[data-test=check]", "know whether the two go together")
	p.choose(`#page [data-test="test.role"]`, "go together")
	p.pasteInto(`[data-cell="0:0"]`, cells("\tyes\tno", "Harbour\t60\t40", "Fenside\t35\t"))
	p.sees("#page", "with a count in every cell: 0 where nobody is")
	p.gone("[data-test=result]")
	p.fill(`[data-cell="2:2"]`, "65")
	p.run(`document.activeElement.blur()`)
	p.sees("[data-test=result] [data-test=statistic]", "χ² = 1")
	p.choose("[data-test=shape]", "one share")
	for blank, typed := range map[string]string{"yes": "62", "n": "100", "no": "28"} {
		p.fill(`[data-test="`+blank+`"]`, typed)
	}
	p.sees("#page", "Yes and no make 90, not 100")
	p.gone("[data-test=result]")

	for typed, why := range map[string]string{"-5": "“-5” is no count", "3.5": "“3.5” is no count", "1.000": "may be thousands"} {
		p.fill("[data-test=yes]", typed)
		p.sees("[data-test=hint]", why)
	}
	p.fill("[data-test=yes]", "62")

	// A choice in a sentence is taken by its first letter.
	p.run(`document.querySelector('[data-test=direction]').dispatchEvent(new KeyboardEvent('keydown', {key: 'l', bubbles: true, cancelable: true}))`)
	p.sees("[data-test=direction]", "less than that")

	// Where it has no blank a number does not count: 62 of 100 in the one group, 40 of 80 in the other.
	p.choose("[data-test=shape]", "two groups")
	p.choose("[data-test=check]", "compare their shares")
	p.fill("[data-test=yes2]", "40")
	p.fill("[data-test=n2]", "80")
	p.choose(`#page [data-test="direction"]`, "different from that")
	p.choose(`#page [data-test="role"]`, "that it is not")
	p.sees("[data-test=result] [data-test=statistic]", "1.614") // 0.12 ÷ √(102/180 · 78/180 · (1/100 + 1/80))
	p.choose("[data-test=shape]", "a mean")
	p.fill("[data-test=n]", "16")
	p.gone("[data-test=result]")
	assert.NotContains(t, p.read("#page"), "said yes than were asked")
}

// The kinds that ask for answers, groups and margins, in the form under their question: each
// states what the demo's own claim of its kind states, and comes to the same p.
func TestClaimsOfFurtherKindsOnTheTopline(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	_, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(address + "/studies/1/claims")
	p.sees("[data-test=tests-run]", "15 tests have been run")
	register := map[string]string{}
	for _, row := range p.table("#page") {
		register[row[2]] = row[5]
	}
	p.visit(address + "/studies/1#q23")
	for _, k := range []struct {
		question, method, other string
		pick                    string
		choices, fills          []string
	}{
		{"#q23", "two-proportions", "garden", "Yes", []string{"groups.first", "Yes", "groups.second", "No", "direction", "different from that", "role", "that it is not"}, nil},
		{"#q23", "equivalence/two-shares", "interview", "Yes", []string{"groups.first", "Doorstep", "groups.second", "Online", "role", "lie less than"}, []string{"margin", "5"}},
		{"#q21", "equivalence/share", "", "Never", []string{"role", "lies less than"}, []string{"expected", "70 %", "margin", "4", "source.title", "the contract"}},
		{"#q29", "one-mean", "", "", []string{"direction", "higher than that", "role", "that it does not"}, []string{"claimed", "1,5"}},
		{"#q24", "equivalence/distribution", "", "", []string{"shares.source.kind", "a policy target", "role", "each share lies less than"}, []string{"shares.source.title", "the field plan", "margin", "4 %", "share-Doorstep", "38", "share-Online", "39", "share-Telephone", "23"}},
		{"#q22", "homogeneity", "", "", []string{"role", "are alike"}, []string{"shares.source.title", "the survey of 2024", "share-Weekly", "402", "share-Every two weeks", "298", "share-On call", "71"}},
	} {
		p.more(k.question, "ask-"+k.method)
		if k.other != "" {
			p.seek(k.question+" [data-test=find-other]", k.other, map[string]string{"garden": "8 · ", "interview": "24 · "}[k.other])
		}
		form := k.question + " [data-test=claim-form] "
		if k.pick != "" {
			p.click(k.question + ` [data-test="pick-` + k.pick + `"]`)
		}
		for i := 0; i < len(k.fills); i += 2 {
			p.fill(form+`[data-test="`+k.fills[i]+`"]`, k.fills[i+1])
		}
		for i := 0; i < len(k.choices); i += 2 {
			p.choose(form+`[data-test="`+k.choices[i]+`"]`, k.choices[i+1])
		}
		p.sees(form+"[data-test=states]", "It is claimed that")
		states := strings.Trim(strings.TrimPrefix(p.read(form+"[data-test=states]"), "This states: "), "“”")
		assert.Contains(t, register, states)
		p.click(form + "[data-test=state-run]")
		p.gone(form)
		p.sees(k.question+" article:last-of-type [data-test=finding]", "represent")
	}
	p.visit(address + "/studies/1/claims")
	p.sees("[data-test=tests-run]", "21 tests have been run")
	for _, row := range p.table("#page") {
		if n := row[0]; len(n) == 2 && n >= "16" {
			assert.Equal(t, register[row[2]], row[5], row[2])
		}
	}
}

// A note of the margin whose remedy opens another method, with what is known filled in; and a
// note that is answered and stays quiet.
func TestRemediesOpenTheMethodThatServes(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	_, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(address + "/studies/1#q10")
	p.key("#q10", "x")
	p.seek("#q10 [data-test=find-other]", "now", "11 · ")
	p.click("#q10 [data-test=described] [data-test=test-it]")
	p.choose("#q10 [data-test='test.role']", "go together")
	p.click("#q10 [data-test=claim-form] [data-test=state-run]")
	p.gone("#q10 [data-test=claim-form]")
	p.sees("#q10 article:last-of-type .margin", "If the same households were asked twice", "Pair the questions")
	p.pressWord("#q10 article:last-of-type .margin", "Pair the questions")
	p.sees("#q10 [data-test=claim-form]", "The same households answered both", "caddy use now", "5 %")
	p.sees("#q10 [data-test=states]", "The shares of the answers differ")
	p.click("#q10 [data-test=claim-form] [data-test=state-run]")
	p.gone("#q10 [data-test=claim-form]")
	p.sees("#q10 article:last-of-type [data-test=finding]", "the shares of the answers differ between")

	p.click("#q10 article:last-of-type [data-test=note-seen]")
	p.fill("#q10 article:last-of-type [data-test=note-reason]", "told in the report")
	p.click("#q10 article:last-of-type [data-test=note-keep]")
	p.sees("#q10 article:last-of-type [data-test=notes-quiet]", "1 note seen")
	p.run(`location.reload()`)
	p.click("#q10 article:last-of-type [data-test=notes-quiet] summary")
	p.sees("#q10 article:last-of-type [data-test=notes-quiet]", "told in the report")
	p.click("#q10 article:last-of-type [data-test=note-again]")
	p.gone("#q10 article:last-of-type [data-test=notes-quiet]")
}

// The design step proposes the kind of claim and says why; a claim is the pattern for another
// question, whose answers are asked anew.
func TestADesignAndAPattern(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	_, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	p.visit(address + "/studies/1#q14")
	p.click("#q14 [data-test=design-step]")
	p.choose("#q14 [data-test=design-with]", "another question of the same survey")
	p.sees("#q14 [data-test=design-why]", "The answers have an order")
	p.choose("#q14 [data-test=design-with]", "a claimed share")
	p.choose("#q14 [data-test=design-aim]", "that it is near enough")
	p.sees("#q14 [data-test=design-why]", "Only evidence can show agreement")
	p.choose("#q14 [data-test=design-with]", "the same question, asked the same people again")
	p.sees("#q14 [data-test=design-why]", "The same people answered twice")
	p.click("#q14 [data-test=design-open]")
	p.sees("#q14 [data-test=other-question]", "Which question holds the second answers?")

	// Claim 3: more than 80 % take glass to the bank, by the waste plan.
	p.visit(address + "/studies/1#q23")
	p.click("#q23 article:nth-of-type(1) [data-test=unfold]")
	p.click("#q23 article:nth-of-type(1) [data-test=pattern]")
	p.seek("#q23 [data-test=pattern-question]", "garden", "8 · ")
	p.sees("#q8 [data-test=claim-form]", "80 %", "the waste plan", "greater than that", "that it does not")
	p.await("nothing left of the answers before", `document.querySelector('#q8 [data-test=success]').textContent.includes('the answers that you press above')`)
	p.click(`#q8 [data-test="pick-Yes"]`)
	p.sees("#q8 [data-test=states]", "The share of households answering “Yes” (having a garden) is above 80")
	p.click("#q8 [data-test=claim-form] [data-test=state-run]")
	p.sees("#q8 [data-test=finding]", "more than 80 % of the households this sample represents answer “Yes” (having a garden)")
}

// Published figures of a designed survey: a share with its design effect, and a plan in clusters.
func TestAQuickCheckOfADesignedSurvey(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	p := open(t)
	p.visit(address + "/quick")
	p.fill("[data-test=yes]", "312")
	p.fill("[data-test=n]", "520")
	p.fill("[data-test=effect]", "1.8")
	p.fill("[data-test=claimed]", "64 %")
	p.choose("[data-test=direction]", "different")
	p.choose("[data-test=role]", "that the claimed share holds")
	p.sees("[data-test=result]", "design effect of 1.80", "54.09 to 65.70 %", "The design effect is as stated")
	p.fill("[data-test=effective]", "300")
	p.sees("[data-test=hint]", "State the design effect or the effective number, not both")
	p.fill("[data-test=effect]", "")
	p.sees("[data-test=result]", "design effect of 1.73")
	p.choose("[data-test=shape]", "a plan, a printed result")
	p.choose("[data-test=check]", "know the margin of error")
	p.choose(".sentence [data-test=find]", "how many to ask")
	p.fill("[data-test=margin]", "3")
	p.fill("[data-test=share]", "50 %")
	p.fill("[data-test=cluster]", "11")
	p.fill("[data-test=icc]", "0.1")
	p.sees("[data-test=result]", "2,135", "Design effect")
}
