package methods_test

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/survey"
)

// typedOf writes down what a source counts of some questions, as somebody types it: with all
// that counts can tell, and nothing of who said what.
func typedOf(t *testing.T, from analysis.Source, keys []string) (out analysis.Typed) {
	t.Helper()
	ctx := context.Background()
	for _, name := range keys {
		key := analysis.Key(name)
		q, err := from.Question(ctx, key)
		require.NoError(t, err)
		typed := analysis.TypedQuestion{Key: key, Kind: q.Kind}
		for _, a := range q.Answers {
			typed.Categories = append(typed.Categories, analysis.TypedCategory{Code: a.Code, Label: a.Label, Missing: a.Missing, Score: a.Score})
		}
		switch {
		case q.Kind.Measured():
			s, err := from.Descriptives(ctx, key, "")
			require.NoError(t, err)
			for _, row := range s.Rows {
				typed.Values, typed.ValueCounts = append(typed.Values, row.Value), append(typed.ValueCounts, row.Count)
			}
			if len(keys) > 1 {
				groups, err := from.DescriptivesBy(ctx, key, analysis.Key(keys[1]), "")
				if err == nil {
					for _, g := range groups {
						sd := analysis.Number(*g.SD)
						typed.Summaries = append(typed.Summaries, analysis.TypedSummary{N: g.N, Mean: analysis.Number(g.Mean), SD: &sd})
					}
				}
			}
		case q.Kind == survey.ChooseAll:
			m, err := from.MultipleResponse(ctx, key, "")
			require.NoError(t, err)
			for _, p := range m.Patterns {
				one := analysis.TypedPattern{Count: p.Count}
				for _, a := range q.Answers {
					if p.Set&(1<<a.Slot) != 0 {
						one.Chosen = append(one.Chosen, a.Code)
					}
				}
				typed.Patterns = append(typed.Patterns, one)
			}
		default:
			f, err := from.Frequencies(ctx, key, "")
			require.NoError(t, err)
			counts := map[survey.Slot]int64{}
			for _, row := range append(f.Rows, f.MissingRows...) {
				counts[row.Slot] = row.Count
			}
			for _, a := range q.Answers {
				typed.Counts = append(typed.Counts, counts[a.Slot])
			}
		}
		out.Questions = append(out.Questions, typed)
	}
	for i, rows := range out.Questions {
		for _, columns := range out.Questions[i+1:] {
			layers := analysis.Key("")
			if len(out.Questions) == 3 && i == 0 && columns.Key == out.Questions[1].Key {
				layers = out.Questions[2].Key
			}
			c, err := from.Crosstab(ctx, rows.Key, columns.Key, layers, "")
			if err != nil || rows.Categories == nil || columns.Categories == nil {
				continue
			}
			x := analysis.TypedCrosstab{Rows: rows.Key, Columns: columns.Key, Layers: layers}
			for k := range max(1, len(out.Questions[min(2, len(out.Questions)-1)].Categories)) {
				if k > 0 && layers == "" {
					break
				}
				var table [][]int64
				for r := range rows.Categories {
					var line []int64
					for col := range columns.Categories {
						line = append(line, c.At(k, r, col).N)
					}
					table = append(table, line)
				}
				x.Counts = append(x.Counts, table)
			}
			out.Crosstabs = append(out.Crosstabs, x)
		}
	}
	raw, err := json.Marshal(out)
	require.NoError(t, err)
	var read analysis.Typed
	require.NoError(t, json.Unmarshal(raw, &read))
	require.NoError(t, read.Check())
	return read
}

// Whatever counts can tell, they tell as the respondents do, to every figure; what they cannot is
// refused and not made up.
func TestTypedCountsSayWhatRespondentsSay(t *testing.T) {
	t.Parallel()
	respondents := homes(t)
	untold := map[string]bool{"multiple-response-by-group": true, "numeric-by-group": true}
	for _, k := range everyMethod {
		if k.questions == "" {
			continue
		}
		t.Run(k.method, func(t *testing.T) {
			spec := specOf(k.method, k.questions, k.settings)
			typed := typedOf(t, respondents, strings.Fields(k.questions))
			if untold[k.method] {
				_, err := ask(t, typed, spec)
				assert.Error(t, err)
				return
			}
			want, got := flat(t, respondents, spec), flat(t, typed, spec)
			if k.method == "means" { // a summary does not tell how skewed the numbers are
				for _, m := range []map[string]any{want, got} {
					maps.DeleteFunc(m, func(path string, _ any) bool {
						return strings.HasSuffix(path, "skewness") || strings.HasPrefix(path, "conditions.1") || strings.HasPrefix(path, "conditions.2")
					})
				}
			}
			alike(t, want, got, "as counts")
		})
	}
}

// A category that is called a total and is the sum of the others counts everybody twice; one that
// is only called so, or only happens to be the sum, is an answer.
func TestTypedTotals(t *testing.T) {
	t.Parallel()
	const list, grid = `{"questions":[{"key":"q","categories":[%s],"counts":%s}]}`,
		`{"questions":[{"key":"q","categories":[%s]},{"key":"g","categories":[%s]}],"crosstabs":[{"rows":"q","columns":"g","counts":[%s]}]}`
	for body, at := range map[string]string{
		fmt.Sprintf(list, `{"code":"1","label":"own"},{"code":"2","label":"rent"},{"code":"3","label":"Total"}`, `[30,50,80]`):       "/counts/questions/0/categories/2",
		fmt.Sprintf(list, `{"code":"SUM:"},{"code":"own"},{"code":"rent"}`, `[80,30,50]`):                                            "/counts/questions/0/categories/0",
		fmt.Sprintf(list, `{"code":"own"},{"code":"rent"},{"code":"","missing":"no answer"},{"code":"grand total"}`, `[30,50,5,85]`): "/counts/questions/0/categories/3",
		fmt.Sprintf(list, `{"code":"own"},{"code":"rent"},{"code":"","missing":"no answer"},{"code":"total"}`, `[30,50,5,80]`):       "/counts/questions/0/categories/3",
		fmt.Sprintf(list, `{"code":"own"},{"code":"rent"},{"code":"total"}`, `[30,50,81]`):                                           "",
		fmt.Sprintf(list, `{"code":"own"},{"code":"rent"},{"code":"both"}`, `[30,50,80]`):                                            "",
		fmt.Sprintf(list, `{"code":"own"},{"code":"total"}`, `[0,0]`):                                                                "",
		fmt.Sprintf(grid, `{"code":"a"},{"code":"b"},{"code":"Total"}`, `{"code":"x"},{"code":"y"}`, `[[1,2],[3,4],[4,6]]`):          "/counts/questions/0/categories/2",
		fmt.Sprintf(grid, `{"code":"a"},{"code":"b"}`, `{"code":"x"},{"code":"y"},{"code":"Total"}`, `[[1,2,3],[3,4,7]]`):            "/counts/questions/1/categories/2",
		fmt.Sprintf(grid, `{"code":"a"},{"code":"b"}`, `{"code":"x"},{"code":"y"},{"code":"Total"}`, `[[1,2,3],[3,4,8]]`):            "",
	} {
		var typed analysis.Typed
		require.NoError(t, json.Unmarshal([]byte(body), &typed), body)
		err := typed.Check()
		if at == "" {
			assert.NoError(t, err, body)
			continue
		}
		var refused *analysis.SpecError
		require.ErrorAs(t, err, &refused, body)
		assert.Equal(t, []string{"typed.total", at}, []string{refused.Code, refused.Pointer}, body)
	}
}
