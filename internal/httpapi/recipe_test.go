package httpapi

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/demo"
	"widetally/internal/intake"
	"widetally/internal/recipes"
	"widetally/internal/said"
	"widetally/internal/service"
)

// recipeOf takes a study's recipe.
func (c *client) recipeOf(study string) string {
	c.t.Helper()
	res := c.send("GET", "/api/v1"+study+"/recipe", "")
	raw, err := io.ReadAll(res.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, 200, res.StatusCode, string(raw))
	return string(raw)
}

// text is the body of an answer, which has to be one without a fault.
func (c *client) text(method, path, body string) string {
	c.t.Helper()
	resp := c.send(method, "/api/v1"+path, body)
	raw, err := io.ReadAll(resp.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, 200, resp.StatusCode, string(raw))
	return string(raw)
}

// run reads a recipe and runs it on a file.
func (c *client) run(text string, file []byte) *recipes.Run {
	c.t.Helper()
	run, err := c.tryRun(text, file)
	require.NoError(c.t, err)
	return run
}

// tryRun is run for a recipe that the file may not bear.
func (c *client) tryRun(text string, file []byte) (*recipes.Run, error) {
	c.t.Helper()
	read, err := recipes.Read(strings.NewReader(text), c.cases.Methods(), c.cases.Words(), recipes.Options{})
	require.NoError(c.t, err)
	f := intake.File{R: bytes.NewReader(file), Size: int64(len(file))}
	settings, err := recipes.SettingsOf(c.t.Context(), read.Recipe.Data, read.Recipe.Study.CountedBy, f)
	require.NoError(c.t, err)
	table, err := intake.Read(c.t.Context(), f, settings, nil)
	require.NoError(c.t, err)
	return recipes.On(c.t.Context(), read, table, "answers.csv", c.cases.Words(), nil)
}

// A study's recipe, run on the file that it was read from, gives the results of the pages to the
// last bit; written and read again it is the same.
func TestARecipeGivesTheFiguresOfThePages(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, err := demo.Make(t.Context(), c.cases)
	require.NoError(t, err)
	study := fmt.Sprintf("/studies/%d", st.ID)
	c.call("PUT", fmt.Sprintf("%s/report/analyses/%v", study, at(t, c.call("GET", study+"/claims", "", 200), "claims.2.id")), "", 204)
	text := c.recipeOf(study)
	files := at(t, c.call("GET", study+"/check", "", 200), "files").([]any)
	file, err := io.ReadAll(c.send("GET", fmt.Sprintf("/api/v1%s/files/%v", study, files[0].(object)["id"]), "").Body)
	require.NoError(t, err)
	run := c.run(text, file)
	assert.Empty(t, run.Noticed)

	compared := 0
	for _, r := range run.Results {
		require.Empty(t, r.Problems, r.Name)
		for _, q := range c.call("GET", study+"/topline", "", 200)["questions"].([]any) {
			for _, a := range q.(object)["analyses"].([]any) {
				a := a.(object)
				name := fmt.Sprintf("analysis %v", a["id"])
				if a["number"] != nil {
					name = fmt.Sprintf("claim %v", a["number"])
				}
				if name != r.Name {
					continue
				}
				v, err := c.cases.Claims.Analysis(t.Context(), st.ID, uint64(a["id"].(float64)))
				require.NoError(t, err)
				assert.Equal(t, v.Outcome.Result, r.Outcome.Result, name)
				assert.Equal(t, v.Outcome.Request, r.Outcome.Request, name)
				w := c.cases.Words()
				for i, b := range v.Document.Blocks {
					assert.Equal(t, w.SayAll(b.Said), w.SayAll(r.Document.Blocks[i].Said), name)
				}
				compared++
			}
		}
	}
	assert.Equal(t, len(run.Results), compared)
	assert.Greater(t, compared, 15)

	// Its table book is the same, table by table.
	books, err := c.cases.Books.View(t.Context(), st.ID)
	require.NoError(t, err)
	require.Len(t, run.Books, len(books.Books))
	for i, b := range run.Books {
		require.Empty(t, b.Problems)
		there, err := c.cases.Books.Tables(t.Context(), st.ID, books.Books[i].ID, 0, -1, nil)
		require.NoError(t, err)
		require.Len(t, b.Tables, len(there.Tables))
		assert.Greater(t, len(b.Tables), 20)
		w := c.cases.Words()
		for k, one := range b.Tables {
			assert.Equal(t, said.TableOf(&there.Tables[k].Shown.Table, w), said.TableOf(&one.Shown.Table, w))
			assert.Equal(t, w.SayAll(there.Tables[k].Shown.Notes), w.SayAll(one.Shown.Notes))
		}
	}

	// Without a database the report says the same, too.
	definition, content, err := run.Report()
	require.NoError(t, err)
	assert.Len(t, definition.Pieces, 1)
	assert.Len(t, content.Claims, 15)

	again, err := recipes.Read(strings.NewReader(text), c.cases.Methods(), c.cases.Words(), recipes.Options{})
	require.NoError(t, err)
	var written bytes.Buffer
	require.NoError(t, recipes.Write(&written, again.Recipe))
	assert.Equal(t, text, written.String())
	document, err := json.Marshal(again.Recipe)
	require.NoError(t, err)
	fits(t, "recipe", string(document))
	results, err := run.JSON()
	require.NoError(t, err)
	fits(t, "results", string(results))

	// What a result was computed from is taken by the compute routes, which give it again.
	var computed struct {
		Analyses []struct {
			Name, Computed string
			Input, Result  json.RawMessage
		}
	}
	require.NoError(t, json.Unmarshal(results, &computed))
	retaken := 0
	for _, a := range computed.Analyses {
		if a.Computed == "" {
			continue
		}
		retaken++
		var taken struct{ Result json.RawMessage }
		require.NoError(t, json.Unmarshal([]byte(c.text("POST", "/compute/"+a.Computed, string(a.Input))), &taken))
		assert.JSONEq(t, string(a.Result), string(taken.Result), a.Name)
	}
	assert.Greater(t, retaken, 12)

	// On next year's file: a column is lacking, another has new codes and a third is text; the rest runs.
	lines := strings.Split(string(file), "\n")
	head := strings.Split(lines[0], ",")
	for i := range head {
		if head[i] == "tenure" {
			head[i] = "housing"
		}
	}
	lines[0] = strings.Join(head, ",")
	lines[1] = strings.Replace(lines[1], "Yes", "Perhaps", 1)
	later := c.run(text, []byte(strings.Join(lines, "\n")))
	noticed := fmt.Sprint(later.Told())
	assert.Contains(t, noticed, "no column “tenure”")
	assert.Contains(t, noticed, "says nothing of the column “housing”")
	left, ran := 0, 0
	for _, r := range later.Results {
		if len(r.Problems) > 0 {
			left++
		} else {
			ran++
		}
	}
	assert.Positive(t, left)
	assert.Greater(t, ran, 15)
}

// A recipe reads its file as the study did: a total below the respondents is left out of both, and
// one among counts is checked by both.
func TestARecipeReadsItsFileAsTheStudyDid(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	for _, k := range []struct {
		file     string
		settings []string
		n        int64
	}{
		{"id,ward,size\n1,Harbour,2\n2,Fenside,3\n3,Harbour,3\nTotal,,8\n", []string{"lastRow", "total"}, 3},
		{"id,ward,size\n1,Harbour,2\n2,Fenside,3\n3,Harbour,3\nTotal,,8\n", []string{"lastRow", "respondent"}, 4},
		{"ward,n\nHarbour,238\nFenside,132\nTotal,370\n", []string{"shape", "counts", "countColumn", "n"}, 370},
	} {
		st := c.begin(k.file, k.settings...)
		run := c.run(c.recipeOf(st), []byte(k.file))
		assert.Equal(t, k.n, run.Respondents(), "%v", k.settings)
		assert.EqualValues(t, k.n, c.question(st, "ward")["everyone"], "%v", k.settings)
	}
}
