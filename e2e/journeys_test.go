package e2e

import (
	"fmt"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/internal/mariadb/mariadbtest"
)

// Twenty-one journeys from the shelf to the sentence, with the presses that each takes. What a
// person looked at in the end stands on the screen.
func TestJourneys(t *testing.T) {
	t.Parallel()
	address, _, _ := serve(t, mariadbtest.Database(t))
	var together atomic.Int64
	t.Run("all", func(t *testing.T) {
		for _, j := range journeys {
			t.Run(j.name, func(t *testing.T) {
				t.Parallel()
				p := &person{page: open(t)}
				p.visit(address + "/studies")
				p.notesCopies()
				j.made(p)
				t.Logf("%s: %d presses", j.name, p.presses)
				together.Add(int64(p.presses))
				p.leave()
			})
		}
	})
	t.Logf("together: %d presses", together.Load())
	assert.LessOrEqual(t, together.Load(), int64(220))
}

var journeys = []struct {
	name string
	made func(p *person)
}{
	{"J01 the margin of a table against a register", func(p *person) {
		p.bring("\town\trent\tother\nHarbour\t210\t130\t20\nFenside\t180\t160\t30\nSaltings\t150\t90\t30", "Read it as a grid")
		p.letter("#q2", "c")
		p.pasteAt(`#q2 [data-test="share-own"]`, "own\t60\nrent\t30\nother\t10")
		p.write("#q2 [data-test='shares.source.title']", "the borough register")
		p.take("#q2 [data-test='shares.source.kind']", "an official register")
		p.press("#q2 [data-test=state-run]")
		p.press("#q2 [data-test=show-working]")
		// 540, 380 and 80 of 1,000: 60²/600 + 80²/300 + 20²/100.
		p.fact("statistic", "χ² = 31.333")
		p.fact("critical", "5.991")
		p.fact("p", "1.57 × 10⁻⁷")
		p.sees("#q2 [data-test=working]", "3 answers − 1 = 2")
		p.sees("#q2 [data-test=finding]", "the claim is rejected")
	}},
	{"J02 two samples of counts", func(p *person) {
		p.bring("answer\tcount\nweekly\t40\nmonthly\t25\nseldom\t12\nnever\t3", "Read it as counts")
		p.take("#q1 [data-test=more]", "ask-homogeneity")
		p.pasteAt(`#q1 [data-test="share-weekly"]`, "weekly\t55\nmonthly\t15\nseldom\t8\nnever\t2")
		p.write("#q1 [data-test='shares.source.title']", "last year’s survey")
		p.take("#q1 [data-test=role]", "are alike")
		p.press("#q1 [data-test=state-run]")
		p.sees("#q1 [data-test=finding]", "last year’s survey")
		p.press("#q1 [data-test=show-working]")
		p.press("#q1 [data-test=write-up]")
		p.sees("#q1 [data-test=claim]", "Points between", "p that decides", "Cramér’s V")
		p.sees("#q1 [data-test=working]", "÷")
	}},
	{"J03 a sheet with last period’s percents", func(p *person) {
		p.bring("tenure\tlast year %\tthis year\nowns\t60\t540\nrents\t30\t380\nother\t10\t80", "Read it as counts")
		p.sees("#q1 [data-test=claim-form]", "I claim")
		p.write("#q1 [data-test='shares.source.title']", "last year’s report")
		p.take("#q1 [data-test='shares.source.kind']", "a published report")
		p.take("#q1 [data-test=level]", "1 %")
		p.press("#q1 [data-test=state-run]")
		p.fact("statistic", "χ² = 31.333")
		p.sees("#q1 [data-test=finding]", "At the 1 % level")
	}},
	{"J04 a claimed share", func(p *person) {
		p.quick("", "")
		p.write("[data-test=yes]", "57")
		p.write("[data-test=n]", "140")
		p.write("[data-test=claimed]", "50 %")
		p.take("[data-test=direction]", "less than")
		p.take("[data-test=role]", "that it does not")
		p.fact("statistic", "−2.197") // (57 − 70) ÷ √35
		p.fact("p", "0.0140")
	}},
	{"J05 one answer’s share, with its interval", func(p *person) {
		p.bring("use\n" + strings.Repeat("yes\n", 57) + strings.Repeat("no\n", 83))
		p.press("#q1 [data-test=ask-one-proportion]")
		p.press(`#q1 [data-test="pick-yes"]`)
		p.write("#q1 [data-test=claimed]", "50 %")
		p.take("#q1 [data-test=direction]", "less than")
		p.take("#q1 [data-test=role]", "that it does not")
		p.press("#q1 [data-test=state-run]")
		p.sees("#q1 [data-test=claim]", "Wilson", "Clopper–Pearson")
		p.press("#q1 [data-test=change-claim]")
		p.take("#q1 [data-test=level]", "1 %")
		p.press("#q1 [data-test=save-claim]")
		p.sees("#q1 [data-test=finding]", "1 % level")
	}},
	{"J06 summary numbers", func(p *person) {
		p.quick("", "")
		for blank, text := range map[string]string{"yes": "57", "n": "140", "claimed": "50 %"} {
			p.write("[data-test="+blank+"]", text)
		}
		p.take("[data-test=direction]", "less than")
		p.take("[data-test=role]", "that it does not")
		p.fact("p", "0.0140")
		p.take("[data-test=shape]", "two groups")
		for blank, text := range map[string]string{"yes2": "61", "n2": "95"} {
			p.write("[data-test="+blank+"]", text)
		}
		p.take("[data-test=direction]", "different")
		p.take("[data-test=role]", "that it is not")
		p.sees("[data-test=result]", "differs")
		p.take("[data-test=shape]", "a mean")
		for blank, text := range map[string]string{"n": "16", "mean": "10", "sd": "4", "claimed": "8"} {
			p.write("[data-test="+blank+"]", text)
		}
		p.take("[data-test=direction]", "higher")
		p.take("[data-test=role]", "that it does not")
		p.fact("statistic", "t = 2.000")
		p.take("[data-test=shape]", "two means")
		for blank, text := range map[string]string{"n2": "16", "mean2": "6", "sd2": "4"} {
			p.write("[data-test="+blank+"]", text)
		}
		p.take("[data-test=direction]", "different")
		p.take("[data-test=role]", "that it is not")
		p.fact("statistic", "t = 2.828")
	}},
	{"J07 classes with frequencies", func(p *person) {
		p.bring("age\tfrequency\n18–24\t12\n25–34\t30\n35–49\t41\n50–64\t17", "Read it as classes", "take:up-to=up to 24")
		p.letter("#q1", "d")
		p.presses++
		p.pressWord("#q1 [data-test=described]", "frequency polygon")
		p.await("a polygon", `document.querySelector('#q1 [data-test=chart]')?.getAttribute('aria-label').includes('Frequency polygon')`)
		p.presses++
		p.pressWord("#q1 [data-test=described]", "cumulative percent (ogive)")
		p.await("an ogive", `document.querySelector('#q1 [data-test=chart]')?.getAttribute('aria-label').includes('umulative')`)
		p.sees("#q1", "42.0", "83.0")
	}},
	{"J08 shares as decimals", func(p *person) {
		p.bring("way\tcount\nwalk\t118\nbus\t203\ncar\t97", "Read it as counts")
		p.letter("#q1", "c")
		p.take("#q1 [data-test='shares.scale']", "proportions")
		p.pasteAt(`#q1 [data-test="share-walk"]`, "walk\t0.30\nbus\t0.45\ncar\t0.25")
		p.write("#q1 [data-test='shares.source.title']", "the transport office")
		p.take("#q1 [data-test='shares.source.kind']", "an official register")
		p.take("#q1 [data-test=level]", "2.5 %")
		p.press("#q1 [data-test=state-run]")
		p.sees("#q1 [data-test=finding]", "2.5 % level")
		p.sees("#q1 [data-test=claim]", "(O − E)² ÷ E")
		for _, name := range []string{"contribution", "squared pearson residual"} { // its names in the trade
			p.write("[data-test=find] input", name)
			p.sees(".v-overlay--active", "(O − E)² ÷ E")
		}
	}},
	{"J09 relative frequencies of a bare list", func(p *person) {
		p.bring("12\n18\n30\n15", "Read it as counts")
		p.press("header [data-test=decimals]")
		p.press("header [data-test=proportions]")
		p.sees("#q1 .tally", "0.1600", "1.0000")
	}},
	{"J10 a pasted column of noughts and ones", func(p *person) {
		p.bring("uses\n" + strings.Repeat("1\n", 57) + strings.Repeat("0\n", 83))
		p.press("#q1 [data-test=ask-one-proportion]")
		p.press(`#q1 [data-test="pick-1"]`)
		p.write("#q1 [data-test=claimed]", "50 %")
		p.take("#q1 [data-test=direction]", "less than")
		p.take("#q1 [data-test=role]", "that it does not")
		p.press("#q1 [data-test=state-run]")
		p.fact("p", "0.0140")
		p.sees("#q1 [data-test=claim]", "interval")
	}},
	{"J11 coded answers with labels", func(p *person) {
		p.drop("coded.csv", "age,mood,home\n"+strings.Repeat("23.5,1,own\n31,2,rent\n44,2,own\n52,3,\n61.5,1,rent\n", 20))
		p.press("[data-test=keep]")
		p.sees("#q1", "100 respondents")
		p.press("header [data-test=cumulative]")
		p.letter("#q1", "d")
		p.sees("#q1 [data-test=described]", "median")
		p.sees("#q3 .sub", "20 missing")
	}},
	{"J12 respondents and published shares", func(p *person) {
		p.drop("wards.csv", "ward,use\n"+strings.Repeat("Harbour,yes\nFenside,no\nHarbour,no\nSaltings,yes\n", 50))
		p.press("[data-test=keep]")
		p.letter("#q1", "c")
		p.pasteAt(`#q1 [data-test="share-Harbour"]`, "Fenside\t30\nHarbour\t45\nSaltings\t25")
		p.write("#q1 [data-test='shares.source.title']", "the borough register")
		p.take("#q1 [data-test='shares.source.kind']", "an official register")
		p.press("#q1 [data-test=state-run]")
		p.sees("#q1 [data-test=finding]", "Not enough evidence")
		p.press(`nav a[href$="/report"]`)
		p.press("[data-test=save-as]")
		p.press(".v-overlay--active [data-test=save-recipe]")
	}},
	{"J13 yes and no", func(p *person) {
		p.quick("", "")
		p.write("[data-test=yes]", "62")
		p.write("[data-test=no]", "38")
		p.write("[data-test=claimed]", "50 %")
		p.take("[data-test=direction]", "different from")
		p.take("[data-test=role]", "that it does not")
		p.press("[data-test=show-working]")
		p.fact("statistic", "2.400")
		p.fact("p", "0.0164")
		p.sees("[data-test=result]", "2 × ")
	}},
	{"J14 raw numbers, then grouped ones", func(p *person) {
		p.quick("a list of numbers", "have them described")
		p.write("[data-test=list]", "1 2 2 3 3 3 4 4 5 9")
		p.sees("[data-test=result]", "histogram")
		p.presses++
		p.pressWord("[data-test=result]", "dot plot")
		p.write("[data-test=list]", " ")
		p.pasteAt(`[data-cell="1:0"]`, "0\t10\t4\n10\t20\t6")
		p.fact("mean", "11")
	}},
	{"J15 a two by three grid", func(p *person) {
		p.quick("a table of two questions", "know whether the two go together")
		p.pasteAt(`[data-cell="0:0"]`, "\tlow\tmiddle\thigh\nHarbour\t30\t25\t15\nFenside\t20\t30\t30")
		p.take("[data-test='test.role']", "go together")
		p.sees("[data-test=result]", "go together")
		p.fact("critical", "5.991")
	}},
	{"J16 five counts, five shares", func(p *person) {
		p.quick("a count for each answer", "compare them with expected")
		p.pasteAt(`[data-cell="1:0"]`, "a\t20\t10\nb\t25\t30\nc\t30\t30\nd\t15\t20\ne\t10\t10")
		p.write("[data-test='shares.source.title']", "the borough register")
		p.take("[data-test='shares.source.kind']", "an official register")
		p.fact("statistic", "χ² = 12.083") // 100/10 + 25/30 + 0 + 25/20 + 0
		p.fact("critical", "9.488")
	}},
	{"J17 a three by three grid", func(p *person) {
		p.quick("a table of two questions", "know whether the two go together")
		p.pasteAt(`[data-cell="0:0"]`, "\tlow\tmiddle\thigh\nHarbour\t30\t25\t15\nFenside\t20\t30\t30\nSaltings\t10\t20\t30")
		p.take("[data-test='test.role']", "go together")
		p.fact("critical", "9.488")
	}},
	{"J18 percents and n of a report", func(p *person) {
		p.quick("a count for each answer", "compare them with expected")
		p.pasteAt(`[data-cell="1:0"]`, "a\t420\t35\nb\t330\t33\nc\t250\t32")
		p.write("[data-test='shares.source.title']", "a report")
		p.take("[data-test='shares.source.kind']", "a published report")
		p.sees("[data-test=result]", "4.31 × 10⁻⁷", "(O − E)² ÷ E")
		p.take("[data-test=shape]", "a plan")
		p.take("[data-test=check]", "check a printed result")
		p.take("[data-test=kind]", "χ²")
		p.write("[data-test=statistic]", "12.40")
		p.write("[data-test=df]", "3")
		p.write("[data-test=p]", "0.012")
		p.sees("[data-test=result]", "p was doubled")
	}},
	{"J19 two columns of raw answers", func(p *person) {
		p.bring("ward\tuse\n" + strings.Repeat("Harbour\tyes\n", 60) + strings.Repeat("Harbour\tno\n", 40) + strings.Repeat("Fenside\tyes\n", 35) + strings.Repeat("Fenside\tno\n", 65))
		p.letter("#q2", "x")
		p.presses++
		p.seek("#q2 [data-test=find-other]", "ward", "1 · ")
		p.presses++
		p.press("#q2 [data-test=test-it]")
		p.take("#q2 [data-test='test.role']", "go together")
		p.press("#q2 [data-test=claim-form] [data-test=state-run]")
		p.fact("statistic", "χ² = 12.531")
		p.sees("#q2 [data-test=claim]", "Of the 100 respondents with “Fenside”", "Percentage points, “Fenside” less “Harbour”", "none; smallest expected 47.5")
	}},
	{"J20 fourteen answers of which one was never given", func(p *person) {
		var b strings.Builder
		b.WriteString("id;day\n")
		for i := range 130 {
			fmt.Fprintf(&b, "%d;%d\n", 1000+i, []int{1, 2, 3, 4, 5, 6, 7, 8, 10, 11, 12, 13, 14}[i%13])
		}
		p.bring(b.String())
		p.presses++
		p.pressWord("#q2", "“9” is an answer, too")
		p.await("fourteen answers", `document.querySelectorAll('#q2 .tally tbody tr').length === 14`)
		p.letter("#q2", "c")
		p.take("#q2 [data-test='shares.scale']", "all equal")
		p.press("#q2 [data-test=state-run]")
		p.fact("df", "14 − 1 = 13")
	}},
	{"J21 a ratio", func(p *person) {
		p.bring("peas\tcount\nround\t50\nangled\t31\nflat\t19", "Read it as counts")
		p.letter("#q1", "c")
		p.take("#q1 [data-test='shares.scale']", "a ratio")
		p.pasteAt(`#q1 [data-test="share-round"]`, "round\t5\nangled\t3\nflat\t2")
		p.write("#q1 [data-test='shares.source.title']", "the theory")
		p.take("#q1 [data-test='shares.source.kind']", "a theory")
		p.press("#q1 [data-test=state-run]")
		p.sees("#q1 [data-test=finding]", "Not enough evidence")
		p.press("#q1 [data-test=write-up]")
	}},
}
