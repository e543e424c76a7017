package httpapi

import (
	"bytes"
	"fmt"
	"io"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"widetally/internal/service"
)

// booked is a study of 120 households with a banner of three breaks.
func booked(t *testing.T) (c *client, st string, ids map[string]any, banner any) {
	t.Helper()
	c = newClient(t, service.Options{})
	var file strings.Builder
	file.WriteString("ward,use,tenure,size\n")
	for i := range 120 {
		ward, use, tenure := []string{"Harbour", "Fenside"}[i%2], "no", []string{"owns", "rents", "other"}[i%3]
		if i%2 == 0 && i%10 != 0 || i%17 == 0 {
			use = "yes"
		}
		fmt.Fprintf(&file, "%s,%s,%s,%d\n", ward, use, tenure, 1+i%4)
	}
	st = c.begin(file.String())
	ids = map[string]any{}
	for _, name := range []string{"ward", "use", "tenure", "size"} {
		ids[name] = fmt.Sprint(c.question(st, name)["id"])
	}
	page := c.call("POST", st+"/banners", fmt.Sprintf(`{"name":"By ward","banner":{"breaks":[{},{"questions":["%s"]},{"questions":["%s","%s"],"answers":[[],["owns","rents"]]}]}}`, ids["ward"], ids["ward"], ids["tenure"]), 200)
	return c, st, ids, page["saved"]
}

// A banner and a book are made, seen table by table, and leave; what is wrong with them is said where it stands.
func TestATableBook(t *testing.T) {
	t.Parallel()
	c, st, ids, banner := booked(t)
	sample := c.call("GET", fmt.Sprintf("%s/banners/%v/sample?question=%s", st, banner, ids["use"]), "", 200)
	assert.Equal(t, []any{"All", "Fenside", "Harbour", "owns", "rents", "owns", "rents"}, at(t, sample, "tables.0.table.columns"))
	assert.Equal(t, "[[ 1] [ 1] [ 1] [ward 4]] [[ 1] [ 1] [ 1] [Fenside 2] [Harbour 2]] [[ 1] [ward 2] [tenure 2] [tenure 2]]", spansOf(at(t, sample, "tables.0.table.over").([]any)))

	book := func(more string) string {
		return fmt.Sprintf(`{"title":"All","banner":"%v","choice":{"which":"all"},"few":15,"differences":{"against":"columns"}%s}`, banner, more)
	}
	saved := c.call("POST", st+"/books", book(""), 200)["saved"]
	path := fmt.Sprintf("%s/books/%v", st, saved)
	window := c.call("GET", path+"/tables?from=1&most=1", "", 200)
	assert.Equal(t, []any{"ward", "use", "tenure", "size"}, window["captions"])
	yes := at(t, window, "tables.0.table.rows.1").(object)
	assert.Equal(t, "yes", yes["name"])
	harbour := yes["cells"].([]any)[2].(object)
	assert.Contains(t, fmt.Sprint(harbour["figures"]), "role:above text:A")
	assert.Contains(t, harbour["said"], "ward, Harbour: of the 60 households that answered")
	assert.Contains(t, harbour["said"], "to “ward, Fenside” (adjusted p < 0.001)")
	assert.Contains(t, fmt.Sprint(at(t, window, "tables.0.notes")), "Holm’s method")
	assert.Contains(t, c.call("GET", path+"/chance", "", 200)["said"], "comparisons in 3 tables")

	assert.Equal(t, "book.figures", c.call("PUT", path, book(`,"figures":["p"]`), 422, "If-Match", `"1"`)["code"])
	assert.Equal(t, "book.banner", c.call("PUT", path, strings.Replace(book(""), fmt.Sprint(banner), "999999", 1), 422, "If-Match", `"1"`)["code"])
	assert.Equal(t, "book.name_taken", c.call("POST", st+"/books", book(""), 422)["code"])
	assert.Equal(t, "banner.in_use", c.call("DELETE", fmt.Sprintf("%s/banners/%v", st, banner), "", 422)["code"])
	assert.Equal(t, "banner.question", c.call("POST", st+"/banners", `{"name":"x","banner":{"breaks":[{"questions":["999999"]}]}}`, 422)["code"])
	assert.Equal(t, "window", c.call("GET", path+"/tables?most=0", "", 422)["code"])
	assert.Equal(t, "report.form", c.call("GET", path+"/file?form=exe", "", 422)["code"])
	c.call("PUT", path, book(`,"figures":["column_percent","observed"],"order":"size"`), 200, "If-Match", `"1"`)
	assert.Equal(t, "http.stale", c.call("PUT", path, book(""), 412, "If-Match", `"1"`)["code"])

	// Nets hold once they are said, and are refused where they count nothing together.
	nets := func(body string, status int) object {
		return c.call("PUT", fmt.Sprintf("%s/nets/%s", st, ids["tenure"]), body, status, "If-Match", `"1"`)
	}
	assert.Equal(t, "book.net_codes", nets(`{"nets":[{"label":"Not owned","codes":["rents","gone"]}]}`, 422)["code"])
	assert.Equal(t, "book.net_label", nets(`{"nets":[{"label":" ","codes":["rents","other"]}]}`, 422)["code"])
	assert.Equal(t, 2.0, nets(`{"nets":[{"label":"Not owned","codes":["rents","other"]}]}`, 200)["netsVersion"])
	tenure := c.call("GET", path+"/tables?from=2&most=1", "", 200)
	assert.Equal(t, "Not owned (net)", at(t, tenure, "tables.0.table.rows.3.name"))

	// Undo takes each back; a question that is gone is told by the book that names it.
	c.step(st, "undo", 200)
	assert.Len(t, at(t, c.call("GET", path+"/tables?from=2&most=1", "", 200), "tables.0.table.rows"), 4)

	// A study file takes all of it along.
	c.step(st, "redo", 200)
	other := c.open(c.fileOf(st))
	again := c.call("GET", other+"/books", "", 200)
	assert.Equal(t, "By ward", at(t, again, "banners.0.name"))
	copied := fmt.Sprintf("%s/books/%v", other, at(t, again, "books.0.id"))
	assert.Equal(t, c.shownTables(path), c.shownTables(copied))

	// A workbook has a sheet for each table with numbers that show what they are compared with, or one for all.
	f := c.workbookOf(path + "/file?form=xlsx")
	assert.Equal(t, []string{"Contents", "Table 1 ward", "Table 2 use", "Table 3 tenure", "Table 4 size", "All figures"}, f.GetSheetList())
	value, err := f.GetCellValue("Table 2 use", "D8", excelize.Options{RawCellValue: true})
	require.NoError(t, err)
	shown, err := f.GetCellValue("Table 2 use", "D8")
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(value, "81.6666666") && shown == "81.7\u00a0A", "%s shown as %s", value, shown)
	merged, err := f.GetMergeCells("Table 2 use")
	require.NoError(t, err)
	assert.Contains(t, fmt.Sprint(merged), "ward")
	assert.Equal(t, []string{"Table", "All figures"}, c.workbookOf(path+"/file?form=xlsx&sheets=one").GetSheetList())
	for form, holds := range map[string]string{"html": `<th scope="colgroup" colspan="2">Fenside</th>`, "figures": "Table 2,yes,ward: Harbour (B),% of column,81.6", "json": `"above": "A"`, "md": "ward: Fenside: tenure: owns (A)"} {
		assert.Contains(t, c.text("GET", path+"/file?form="+form, ""), holds, form)
	}
}

func spansOf(lines []any) string {
	var out []string
	for _, line := range lines {
		var of []string
		for _, one := range line.([]any) {
			of = append(of, fmt.Sprintf("[%v %v]", one.(object)["text"], one.(object)["columns"]))
		}
		out = append(out, "["+strings.Join(of, " ")+"]")
	}
	return strings.Join(out, " ")
}

// shownTables are all tables of a book as they are shown.
func (c *client) shownTables(path string) string {
	return fmt.Sprint(c.call("GET", path+"/tables?most=40", "", 200)["tables"].([]any)[1].(object)["table"])
}

func (c *client) workbookOf(path string) *excelize.File {
	r := c.send("GET", "/api/v1"+path, "")
	raw, err := io.ReadAll(r.Body)
	require.NoError(c.t, err)
	f, err := excelize.OpenReader(bytes.NewReader(raw))
	require.NoError(c.t, err)
	return f
}
