package statistics

import (
	"context"
	"encoding/csv"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/shares"
)

const tenure = `{"version":"2.0","class":"dataset","label":"Tenure","source":"Office","updated":"2026","id":["year","tenure"],"size":[2,3],
	"dimension":{"year":{"label":"Year","category":{"index":{"2025":1,"2024":0},"label":{"2024":"2024","2025":"2025"}}},
	"tenure":{"category":{"index":["o","r","x"],"label":{"o":"Owns","r":"Rents"}}}},"value":%s}`

func TestBothFormsOfFiguresAndBothFormats(t *testing.T) {
	want := []shares.SetAnswer{{Label: "Owns", Code: "o", Figure: "40.10"}, {Label: "Rents", Code: "r", Figure: "5e1"}}
	for _, values := range []string{`[1,2,3,40.10,5e1,null]`, `{"0":1,"3":40.10,"4":5e1}`} {
		c, err := Parse(fmt.Appendf(nil, tenure, values))
		require.NoError(t, err)
		got, err := c.Take("tenure", map[string]string{"year": "2025"})
		require.NoError(t, err)
		assert.Equal(t, want, got.Answers)
	}
	c, err := Parse([]byte("\ufeffDATAFLOW,TENURE: Tenure,TIME_PERIOD,OBS_VALUE,OBS_STATUS\nX,o: Owns,2025,40.10,A\nX,r: Rents,2025,5e1,A\nX,o: Owns,2024,1,A\n"))
	require.NoError(t, err)
	got, err := c.Take("TENURE", map[string]string{"TIME_PERIOD": "2025"})
	require.NoError(t, err)
	assert.Equal(t, want, got.Answers)
	_, err = c.Take("TENURE", map[string]string{"TIME_PERIOD": "1999"})
	assert.ErrorIs(t, err, ErrChoice)
	_, err = c.Take("NONE", nil)
	assert.ErrorIs(t, err, ErrChoice)
}

// What is no table is refused, and a table that claims to be huge costs nothing.
func TestHostileTables(t *testing.T) {
	for _, text := range []string{"", "{", "[]", "{}", `{"class":"collection"}`, `{"class":"dataset","id":["a"],"size":[1,2]}`, `{"class":"dataset","id":["a"],"size":[1],"dimension":{}}`,
		`{"class":"dataset","id":["a"],"size":[1000000],"dimension":{"a":{"category":{"index":["x"]}}}}`, `{"class":"dataset","id":[],"size":[],"dimension":{}}`,
		`{"class":"dataset","id":["a"],"size":[2],"dimension":{"a":{"category":{"index":{"x":0,"y":5}}}}}`, fmt.Sprintf(tenure, `{"-1":3}`), fmt.Sprintf(tenure, `["x"]`), fmt.Sprintf(tenure, `7`),
		"a,b\n1,2\n", "OBS_VALUE\n1\n", "A,OBS_VALUE\nx,1\nx,2\n", "A,OBS_VALUE\n\"x,1\n"} {
		_, err := Parse([]byte(text))
		assert.ErrorIs(t, err, ErrUnreadable, text)
	}
	var wide strings.Builder
	w := csv.NewWriter(&wide)
	_ = w.Write([]string{"A", "B", "C", "D", "OBS_VALUE"})
	for i := range 60 {
		_ = w.Write([]string{fmt.Sprint(i), fmt.Sprint(i), fmt.Sprint(i), fmt.Sprint(i), "1"})
	}
	w.Flush()
	_, err := Parse([]byte(wide.String()))
	assert.ErrorIs(t, err, ErrUnreadable, "60⁴ cells")
}

// The office as it should be, closed, slow, broken, and gone.
func TestTheOffice(t *testing.T) {
	open := func(h http.Handler) *Office {
		server := httptest.NewServer(h)
		t.Cleanup(server.Close)
		return NewOffice(server.URL, nil)
	}
	o := open(StandIn{})
	list, err := o.Tables(t.Context())
	require.NoError(t, err)
	assert.Len(t, list, 4)
	for _, table := range list {
		c, err := o.Table(t.Context(), table.ID)
		require.NoError(t, err, table.ID)
		assert.NotEmpty(t, c.Dims)
	}
	c, err := o.Table(t.Context(), "households-by-tenure")
	require.NoError(t, err)
	taken, err := c.Take("tenure", map[string]string{"year": "2024", "ward": "A"})
	require.NoError(t, err)
	assert.Equal(t, shares.SetAnswer{Label: "Owns outright", Code: "own", Figure: "8100"}, taken.Answers[0]) // 2100 + 1900 + 1500 + 2600
	// The same office gives a table as SDMX-CSV too, with its total apart.
	c, err = o.Table(t.Context(), "way-to-work")
	require.NoError(t, err)
	assert.Equal(t, "People who work by way to work", c.Title)
	taken, err = c.Take("MODE", map[string]string{"TIME_PERIOD": "2025"})
	require.NoError(t, err)
	assert.Len(t, taken.Answers, 5)
	assert.Equal(t, []shares.SetAnswer{{Label: "All who work", Code: "_T", Figure: "19800"}}, taken.Totals)
	for want, office := range map[error]*Office{ErrNoOffice: NewOffice("", nil), ErrFails: open(StandIn{Fail: true}), ErrBroken: open(StandIn{Broken: true}), ErrAway: NewOffice("http://127.0.0.1:1", nil)} {
		_, err := office.Tables(t.Context())
		assert.ErrorIs(t, err, want)
		_, err = office.Table(t.Context(), "adults-by-age")
		assert.ErrorIs(t, err, want)
	}
	slow := open(StandIn{Slow: time.Hour})
	slow.limit = func(ctx context.Context) (context.Context, context.CancelFunc) {
		return context.WithTimeout(ctx, 50*time.Millisecond) // it does not answer before
	}
	_, err = slow.Tables(t.Context())
	assert.ErrorIs(t, err, ErrSlow)
	_, err = o.Table(t.Context(), "../secret")
	assert.ErrorIs(t, err, ErrChoice)
	ctx, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = o.Tables(ctx)
	assert.Error(t, err)
}

// What is called a total and is one is left out; what is only called so stays.
func TestTotals(t *testing.T) {
	for _, c := range []struct{ labels, figures, want string }{
		{"A B Total", "3 4 7", "A B"},
		{"A B Total", "33.3 66.6 100", "A B"}, // rounded
		{"All-electric Gas Oil", "2 9 4", "All-electric Gas Oil"},
		{"A B C", "1 2 3", "A B C"}, // a sum by chance is no total
		{"Both A", "4 4", "A"},
		{"A B Total", "3 4 x", "A B Total"},
		{"", "", ""},
	} {
		var all []shares.SetAnswer
		figures := strings.Fields(c.figures)
		for i, label := range strings.Fields(c.labels) {
			all = append(all, shares.SetAnswer{Label: label, Figure: figures[i]})
		}
		answers, totals := withoutTotals(all, nil)
		var left []string
		for _, a := range answers {
			left = append(left, a.Label)
		}
		assert.Equal(t, c.want, strings.Join(left, " "))
		assert.Len(t, totals, len(all)-len(answers))
	}
}
