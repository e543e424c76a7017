package intake

import (
	"archive/zip"
	"bytes"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/survey"
)

// What each library was given to write into the sheet "Answers".
var writtenCells = [][]string{
	{"ward", "households", "share", "visited", "at", "garden", "note"},
	{"Harbour", "238", "0.1", "2026-01-31", "2026-02-28T13:45:30", "TRUE", "two\nlines"},
	{"Süd \"alt\"", "1234567", "-2.5", "1999-12-31", "2024-02-29T00:00:01", "FALSE"},
	{"", "0", "1e-07", "", "", "", "  blanks  "},
	{""},
	{"007", "3", "0.3333333333333333", "2026-12-01", "", "TRUE", "=1+1"},
}

func TestWorkbooksReadBackCellForCell(t *testing.T) {
	t.Parallel()
	for _, name := range []string{"library_a.xlsx", "library_b.xlsx", "library_c.xlsx", "library_a.ods", "library_d.ods"} {
		t.Run(name, func(t *testing.T) {
			raw, err := os.ReadFile("testdata/workbooks/" + name)
			require.NoError(t, err)
			f := file(string(raw))
			s, err := Sniff(ctx, f)
			require.NoError(t, err)
			assert.Equal(t, 1, s.HeaderRow)
			src, err := open(f, s, f.memory())
			require.NoError(t, err)
			defer src.rows.close()
			assert.Equal(t, "Answers", s.Part, "the first that holds anything")
			for i, want := range writtenCells {
				cells, err := src.rows.next()
				require.NoError(t, err)
				got := make([]string, len(cells))
				for k, c := range cells {
					got[k] = string(c)
				}
				assert.Equal(t, want, got, "row %d", i+1)
				assert.Equal(t, i+1, src.rows.place())
			}
			table, err := Read(ctx, f, s, nil)
			require.NoError(t, err)
			require.Empty(t, table.Problems)
			assert.Equal(t, 4, table.Rows)
			assert.Equal(t, []string{"Empty", "Answers", "Other"}, table.Parts)
			s.Part = "No such sheet"
			_, err = Read(ctx, f, s, nil)
			var p *Problem
			require.ErrorAs(t, err, &p)
			assert.Equal(t, NoPart, p.Code)
		})
	}
}

func archive(t testing.TB, files map[string]string) File {
	t.Helper()
	var b bytes.Buffer
	w := zip.NewWriter(&b)
	for name, content := range files {
		entry, err := w.Create(name)
		require.NoError(t, err)
		_, err = entry.Write([]byte(content))
		require.NoError(t, err)
	}
	require.NoError(t, w.Close())
	return file(b.String())
}

const describedTenure = `{"resources":[{"name":"households","path":"data/h.csv","dialect":{"delimiter":";"},"schema":{"missingValues":["","-8"],"fields":[
	{"name":"tenure","title":"Do you own or rent?","type":"integer","categories":[{"value":3,"label":"Rents"},{"value":1,"label":"Owns"},{"value":2,"label":"Other"}],
	 "missingValues":["",{"value":"-9","label":"Refused"}]},
	{"name":"size","type":"number"},
	{"name":"view","type":"string","categories":["low","high"],"categoriesOrdered":true}]}}]}`

func TestADataPackageBringsItsLabelsAlong(t *testing.T) {
	t.Parallel()
	csv := "tenure;size;view\n1;2.5;high\n-9;-8;low\n3;4;\n"
	for name, f := range map[string]File{
		"archive": archive(t, map[string]string{"p/datapackage.json": describedTenure, "p/data/h.csv": csv}),
		"one after the other": func() File {
			var b bytes.Buffer
			require.NoError(t, Bundle(&b, file(describedTenure), "data/h.csv", bytes.NewReader([]byte(csv))))
			return file(b.String())
		}(),
	} {
		t.Run(name, func(t *testing.T) {
			s, err := Sniff(ctx, f)
			require.NoError(t, err)
			require.Equal(t, DataPackage, s.Format)
			table, err := Read(ctx, f, s, nil)
			require.NoError(t, err)
			q := table.Columns[0]
			assert.Equal(t, "Do you own or rent?", q.Wording)
			var said [][3]string
			for _, a := range q.Answers {
				said = append(said, [3]string{a.Code, a.Label, a.Missing})
			}
			assert.Equal(t, [][3]string{{"3", "Rents", ""}, {"1", "Owns", ""}, {"2", "Other", ""}, {"-9", "Refused", "refused"}, {"", "No answer", "no answer"}}, said, "the descriptor's order; the answer nobody chose too")
			assert.Equal(t, survey.Ordered, table.Columns[2].Kind)
			assert.Equal(t, survey.Continuous, table.Columns[1].Kind)
			_, missing := survey.MissingSlot(table.Columns[1].Data.F64[1])
			assert.True(t, missing, "-8 means missing here and is no number")
		})
	}
	for name, c := range map[string]struct {
		f    File
		want Code
	}{
		"without its file":   {file(describedTenure), MissingFile},
		"a path that leaves": {archive(t, map[string]string{"datapackage.json": `{"resources":[{"name":"x","path":"../../secret.csv"}]}`}), BadPackage},
		"an address":         {archive(t, map[string]string{"datapackage.json": `{"resources":[{"name":"x","path":"http://x/y.csv"}]}`}), BadPackage},
		"no JSON":            {archive(t, map[string]string{"datapackage.json": `{`}), BadPackage},
		"nothing in it":      {archive(t, map[string]string{"datapackage.json": `{"resources":[]}`}), BadPackage},
	} {
		t.Run(name, func(t *testing.T) {
			p := firstProblem(c.f, Settings{Format: DataPackage, Shape: Rows})
			require.NotNil(t, p)
			assert.Equal(t, c.want, p.Code)
		})
	}
}

// Nothing in an archive, whatever it is, makes a reader panic or run away.
func FuzzZip(f *testing.F) {
	for _, name := range []string{"library_b.xlsx", "library_a.ods"} {
		raw, err := os.ReadFile("testdata/workbooks/" + name)
		require.NoError(f, err)
		f.Add(raw)
	}
	f.Fuzz(func(t *testing.T, raw []byte) {
		s, err := Sniff(ctx, file(string(raw)))
		if err == nil {
			_, _ = Read(ctx, file(string(raw)), s, nil)
		}
	})
}

func FuzzODS(f *testing.F) {
	f.Add(`<office:document-content xmlns:office="` + officeNS + `" xmlns:table="` + tableNS + `" xmlns:text="` + textNS + `"><table:table table:name="a"><table:table-row table:number-rows-repeated="9"><table:table-cell table:number-columns-repeated="3"><text:p>x</text:p></table:table-cell></table:table-row></table:table></office:document-content>`)
	f.Fuzz(func(t *testing.T, content string) {
		_, _ = Read(ctx, archive(t, map[string]string{"content.xml": content}), Settings{Format: ODS, Shape: Rows}, nil)
	})
}

func FuzzDescriptor(f *testing.F) {
	f.Add(describedTenure)
	f.Add(`{"resources":[{"data":[{"a":1,"b":null},{"a":"x"}]}]}`)
	f.Fuzz(func(t *testing.T, descriptor string) {
		_, _ = Read(ctx, archive(t, map[string]string{"datapackage.json": descriptor, "data/h.csv": "tenure;size\n1;2\n"}), Settings{Format: DataPackage, Shape: Rows, HeaderRow: 1}, nil)
	})
}
