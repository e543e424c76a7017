package e2e

import (
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/accessibility"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/mariadb/mariadbtest"
)

var update = flag.Bool("update", false, "write the trees of testdata anew")

// dated are the moments at which something was done.
var dated = regexp.MustCompile(`\d{1,2} [A-Z][a-z]{2} \d{4}(, \d\d:\d\d)?`)

// What is said as one, whatever it is made of.
var leaves = []string{"button", "link", "heading", "cell", "columnheader", "rowheader", "option", "combobox", "textbox", "searchbox", "checkbox", "image", "term", "definition"}

// states are those of a control that are told with it.
var states = []accessibility.PropertyName{"expanded", "pressed", "selected", "checked", "disabled", "level", "hasPopup"}

func read(v *accessibility.Value) (text string) {
	if v != nil && json.Unmarshal(v.Value, &text) != nil {
		text = string(v.Value)
	}
	return strings.Join(strings.Fields(text), " ")
}

// tree is what a screen reader tells of an element, in its order: a line for each thing, further in
// for what is within it.
func (p *page) tree(selector string) string {
	p.t.Helper()
	p.run(fmt.Sprintf(`document.querySelector(%q).setAttribute('aria-description', 'the root')`, selector))
	all, err := chromedp.Call(p.ctx, accessibility.GetFullAXTree, accessibility.GetFullAXTreeParams{})
	require.NoError(p.t, err)
	p.run(fmt.Sprintf(`document.querySelector(%q).removeAttribute('aria-description')`, selector))
	byID := map[accessibility.NodeID]*accessibility.Node{}
	var root *accessibility.Node
	for _, n := range all.Nodes {
		byID[n.NodeID] = n
		if read(n.Description) == "the root" {
			root = n
		}
	}
	require.NotNil(p.t, root, selector)
	var out strings.Builder
	var tell func(n *accessibility.Node, in int)
	tell = func(n *accessibility.Node, in int) {
		role, name := read(n.Role), read(n.Name)
		told := !n.Ignored && !slices.Contains([]string{"none", "generic", "InlineTextBox", "LineBreak", "listmarker", "ListMarker"}, role)
		if told && (role != "StaticText" || name != "") {
			line := strings.Repeat("  ", in) + role
			if name != "" {
				line += " “" + dated.ReplaceAllString(name, "[date]") + "”"
			}
			for _, s := range n.Properties {
				if v := read(s.Value); slices.Contains(states, s.Name) && v != "false" || s.Name == "expanded" {
					line += fmt.Sprintf(", %s %s", s.Name, v)
				}
			}
			out.WriteString(line + "\n")
			if slices.Contains(leaves, role) && name != "" || role == "StaticText" {
				return
			}
			in++
		}
		for _, id := range n.ChildIDs {
			if child := byID[id]; child != nil {
				tell(child, in)
			}
		}
	}
	tell(root, 0)
	return out.String()
}

// Five tasks as they are told: a tally, what can be asked of it, the form of a claim, its result, and
// two questions crossed.
func TestWhatAScreenReaderTells(t *testing.T) {
	t.Parallel()
	address, cases, _ := serve(t, mariadbtest.Database(t))
	st, err := demo.Make(t.Context(), cases)
	require.NoError(t, err)
	p := open(t)
	told := func(task, selector string) {
		t.Helper()
		file, got := "testdata/tree-"+task+".txt", p.tree(selector)
		if *update {
			require.NoError(t, os.WriteFile(file, []byte(got), 0o600))
		}
		want, err := os.ReadFile(file)
		require.NoError(t, err)
		for tries := 0; got != string(want) && tries < 60; tries++ { // what is fetched comes in its time
			time.Sleep(250 * time.Millisecond)
			got = p.tree(selector)
		}
		assert.Equal(t, string(want), got, task)
	}
	p.visit(fmt.Sprintf("%s/studies/%d", address, st.ID))
	p.sees("#q3 .tally", "16 to 29")
	p.await("what can be asked", `document.querySelector('#q3 .acts:not(.coming)') !== null`)
	told("tally", "#q3")
	p.acts("#q3")
	p.do("type", chromedp.KeyEvent("mcnemar"))
	p.await("what the trade calls so", `document.querySelectorAll('[data-test=act-list] [role=option]').length === 1`)
	told("acts", "[data-test=act-list] [role=listbox]")
	p.do("Escape", chromedp.KeyEvent("\u001b"))
	p.gone(".v-overlay--active [data-test=act-list]")
	p.click("#q3 [data-test=ask-goodness-of-fit]")
	p.choose("#q3 [data-test='shares.scale']", "all equal")
	p.await("all to be said", `!document.querySelector('#q3 [data-test=state-run]').disabled`)
	told("claim-form", "#q3 [data-test=claim-form]")
	p.click("#q3 [data-test=state-run]")
	p.sees("#q3 [data-test=finding]", "equally common")
	told("claim", "#q3 [data-test=claim]")
	p.click("#q12 [data-test=unfold]")
	p.sees("#q12 table.grid, #q12 [data-test=described] table", "Never saw it")
	told("crossing", "#q12 [data-test=described]")
}
