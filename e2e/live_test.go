package e2e

import (
	"log/slog"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/demo"
	"widetally/internal/httpapi"
	"widetally/internal/mariadb/mariadbtest"
	"widetally/internal/service"
	"widetally/internal/testroom"
	"widetally/web"
)

// Two people at work on one study in two browsers: each sees who else is there and at which question, an edit of the
// one comes to the other by itself, what is being typed stays, and a text that both change is told before it is kept.
func TestTwoBrowsersLive(t *testing.T) {
	t.Parallel()
	hers := ""
	his, cases, _ := serveTo(t, mariadbtest.Database(t), service.Options{}, web.Files(), func(address string, c *httpapi.Config) {
		hers = "http://" + strings.Replace(address, "127.0.0.1", "localhost", 1)
		c.Origins = []string{"http://" + address, hers}
	})
	const password = "quarry lantern seven herons"
	rut, err := cases.People.AddAccount(t.Context(), "rut@tally.example", "Rut Keeper", password, true)
	require.NoError(t, err)
	_, err = cases.People.AddAccount(t.Context(), "ida@tally.example", "Ida Fenn", password, false)
	require.NoError(t, err)
	as := study.WithActor(t.Context(), rut.Actor())
	made, err := demo.Make(as, cases)
	require.NoError(t, err)
	require.NoError(t, cases.People.Share(as, people.Shared{Thing: people.Study, ID: made.ID}, service.With{Email: "ida@tally.example"}, people.Editor))

	enter := func(at, email string) *page {
		p := open(t)
		p.visit(at + "/studies/1#q4")
		p.fill("#sign-in-email", email)
		p.fill("#sign-in-password", password)
		p.click("[data-test=sign-in] button[type=submit]")
		p.sees("#q4 .tally", "Owns it")
		p.forgive(401) // what was asked for before
		return p
	}
	rutAt, idaAt := enter(his, "rut@tally.example"), enter(hers, "ida@tally.example")
	rutAt.sees("[data-test=here]", "Ida Fenn")
	idaAt.sees("[data-test=here]", "Rut Keeper")

	// She types; what he changes elsewhere on the page comes to her, and her words stay.
	idaAt.click("#q4 h2 .text")
	idaAt.sees("#q4 h2 input", "")
	rutAt.sees("#q4 [data-test=changing]", "Ida Fenn is changing this just now.")
	typed := func(selector, text string) {
		t.Helper()
		_, err := chromedp.Run(idaAt.ctx, chromedp.Evaluate[bool](`(() => { const el = document.querySelector('`+selector+`'); el.value = '`+text+`'; el.dispatchEvent(new Event('input', {bubbles: true})); return true })()`))
		require.NoError(t, err)
	}
	typed("#q4 h2 input", "Who owns the home?")
	book, err := cases.Codebooks.Codebook(as, made.ID)
	require.NoError(t, err)
	wording := func(number int, text string) {
		t.Helper()
		book, err = cases.Codebooks.Codebook(as, made.ID)
		require.NoError(t, err)
		q := book.Questions[number-1]
		err := cases.Codebooks.EditQuestion(as, made.ID, q.ID, q.Version, service.QuestionEdit{Wording: &text})
		require.NoError(t, err)
	}
	wording(3, "A wording that came by itself")
	idaAt.sees("#q3", "A wording that came by itself")
	idaAt.sees("[data-test=told]", "Rut Keeper:")
	rutAt.sees("#q3", "A wording that came by itself")
	value := func() string {
		out, err := chromedp.Run(idaAt.ctx, chromedp.Evaluate[string](`document.querySelector('#q4 h2 input')?.value ?? 'gone'`))
		require.NoError(t, err)
		return out
	}
	assert.Equal(t, "Who owns the home?", value())

	// He changes the same; she is told, leaving it overwrites nothing, and Enter keeps hers knowingly.
	wording(4, "Does the household own its home?")
	idaAt.sees("#q4 [data-test=meanwhile]", "It was changed to “Does the household own its home?” meanwhile.")
	assert.Equal(t, "Who owns the home?", value())
	_, err = chromedp.Run(idaAt.ctx, chromedp.Evaluate[bool](`(document.activeElement.blur(), true)`))
	require.NoError(t, err)
	idaAt.sees("#q4 h2", "Does the household own its home?")
	idaAt.click("#q4 h2 .text")
	assert.Equal(t, "Who owns the home?", value(), "it is there to go on with")
	idaAt.enter("#q4 h2 input")
	rutAt.sees("#q4 h2", "Who owns the home?")
	rutAt.sees("[data-test=told]", "Ida Fenn:")

	// What one writes into the margin the other reads, answers and settles.
	idaAt.click("#q4 [data-test=remark-add]")
	idaAt.fill("#q4 [data-test=remark-text] textarea", "Is this wording asked of tenants?")
	idaAt.click("#q4 [data-test=remark-keep]")
	rutAt.sees("#q4 [data-test=remark]", "Ida Fenn", "Is this wording asked of tenants?")
	rutAt.click("#q4 [data-test=remark-answer]")
	rutAt.fill("#q4 [data-test=remark-text] textarea", "Of everybody.")
	rutAt.click("#q4 [data-test=remark-keep]")
	idaAt.sees("#q4 [data-test=remark]", "Rut Keeper", "Of everybody.")
	rutAt.audited("a remark")
	rutAt.click("#q4 [data-test=remark-resolve]")
	idaAt.sees("#q4 [data-test=remarks]", "1 settled remark")

	// Of a form that is open she is told that he changed the same; and what he did she takes back only when she has been asked.
	_, err = cases.Codebooks.SaveSubgroup(as, made.ID, 0, 0, service.SubgroupEdit{Name: "Herons", Condition: survey.Condition{Op: survey.AnyOf, Question: book.Questions[3].ID, Answers: []survey.Slot{1}}})
	require.NoError(t, err)
	idaAt.visit(hers + "/studies/1/codebook?tab=subgroups")
	idaAt.pressWord("main", "Subgroups")
	idaAt.sees("[data-test=subgroups]", "Herons")
	idaAt.click("[data-test=subgroups] tbody tr:last-child .act")
	idaAt.sees("[data-test=subgroup-form]", "")
	book, err = cases.Codebooks.Codebook(as, made.ID)
	require.NoError(t, err)
	herons := book.Subgroups[len(book.Subgroups)-1]
	_, err = cases.Codebooks.SaveSubgroup(as, made.ID, herons.ID, herons.Version, service.SubgroupEdit{Name: "Herons at rest", Condition: herons.Condition})
	require.NoError(t, err)
	idaAt.sees("[data-test=changed-meanwhile]", "Somebody has changed this since you opened it.")
	idaAt.click("[data-test=study-undo]")
	idaAt.sees("[data-test=undo-ask]", "Take back what Rut Keeper did")
	idaAt.click("[data-test=undo-yes]")
	idaAt.sees("[data-test=study-redo]", "Redo")
	idaAt.visit(hers + "/studies/1")

	// Who leaves is gone, and who may no longer see the study sees it no longer.
	require.NoError(t, cases.People.Share(as, people.Shared{Thing: people.Study, ID: made.ID}, service.With{Email: "ida@tally.example"}, people.Nobody))
	idaAt.sees("main", "You may not")
	idaAt.visit(hers + "/studies")
	rutAt.gone("[data-test=here] .one")
	idaAt.forgive(403)
}

// The tabs of a browser share one connection: one of them listens and tells the others, also one that was opened later. At a computer
// where nobody signs in pages are live, too.
func TestTabsShareAConnection(t *testing.T) {
	t.Parallel()
	var listened atomic.Int64
	address, cases, _ := serveTo(t, mariadbtest.Database(t), service.Options{}, web.Files(), func(_ string, c *httpapi.Config) {
		c.Log = slog.New(slog.NewTextHandler(lines(func(line string) {
			if strings.Contains(line, "path=/api/v1/live ") {
				listened.Add(1)
			}
		}), nil))
	})
	made, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	first := open(t)
	first.visit(address + "/studies/1")
	first.sees("#q1", "Household number")
	testroom.Await(t, "a connection", func() bool { return listened.Load() == 1 })
	first.run(`void (window.second = open('/studies/1'))`)
	first.await("the second tab", `second?.document.querySelector('#q1 h2')?.textContent.includes('Household number')`)
	wording := func(text string) {
		t.Helper()
		book, err := cases.Codebooks.Codebook(t.Context(), made.ID)
		require.NoError(t, err)
		q := book.Questions[0]
		require.NoError(t, cases.Codebooks.EditQuestion(t.Context(), made.ID, q.ID, q.Version, service.QuestionEdit{Wording: &text}))
	}
	wording("Seen in both tabs")
	first.sees("#q1", "Seen in both tabs")
	first.await("the other tab to hear of it", `second.document.querySelector('#q1').textContent.includes('Seen in both tabs')`)
	assert.EqualValues(t, 1, listened.Load())
	first.run(`second.close()`)
	wording("Seen in the one that is left")
	first.sees("#q1", "Seen in the one that is left")
	assert.EqualValues(t, 1, listened.Load())
}

// lines hears each line that is written.
type lines func(line string)

func (l lines) Write(p []byte) (int, error) { l(string(p)); return len(p), nil }
