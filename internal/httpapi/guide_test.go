package httpapi

import (
	"archive/zip"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"widetally/internal/demo"
	"widetally/internal/service"
	"widetally/web"
)

// The examples of the guide run as they are written: a study is made, tabulated, tested and reported with
// nothing but HTTP, from a shell and from a notebook.
func TestTheExamplesOfTheGuide(t *testing.T) {
	t.Parallel()
	c := newClientWith(t, service.Options{}, func(c *Config) { c.Charts = web.Charts() })
	address := "http://" + c.listening()
	dir := t.TempDir()
	answers := filepath.Join(dir, "answers.csv")
	require.NoError(t, os.WriteFile(answers, demo.CSV, 0o600))
	scripts, err := filepath.Abs("../../docs/guide/scripts")
	require.NoError(t, err)
	run := func(name string, args ...string) string {
		program := exec.CommandContext(t.Context(), name, args...)
		program.Dir = dir
		program.Env = append(os.Environ(), "WIDETALLY="+address, "ANSWERS="+answers)
		out, err := program.CombinedOutput()
		require.NoError(t, err, string(out))
		return string(out)
	}
	document := func(name string) {
		z, err := zip.OpenReader(filepath.Join(dir, name))
		require.NoError(t, err)
		defer z.Close()
		assert.True(t, slices.ContainsFunc(z.File, func(f *zip.File) bool { return f.Name == "word/document.xml" }))
	}

	said := run("sh", filepath.Join(scripts, "study.sh"), address, answers, "from-the-shell.docx")
	assert.Equal(t, "1240 rows, 30 columns\n1\t642\n2\t290\n3\t249\n4\t38\nnull not rejected\nfrom-the-shell.docx is written\n", said)
	document("from-the-shell.docx")

	var notebook struct {
		Cells []struct {
			Type   string `json:"cell_type"`
			Source []string
		}
	}
	raw, err := os.ReadFile(filepath.Join(scripts, "study.ipynb"))
	require.NoError(t, err)
	require.NoError(t, json.Unmarshal(raw, &notebook))
	var program strings.Builder
	for _, cell := range notebook.Cells {
		if cell.Type == "code" {
			program.WriteString(strings.Join(cell.Source, "") + "\n")
		}
	}
	require.NoError(t, os.WriteFile(filepath.Join(dir, "notebook.py"), []byte(program.String()), 0o600))
	said = run("python3", "notebook.py")
	for _, want := range []string{"1240 households\n", "1 642 52.666119770303524\n", "Not enough evidence, at the 5\u00a0% level", "14.801736852852805 3 0.0019941612992616653\n"} {
		assert.Contains(t, said, want)
	}
	document("report.docx")
	f, err := os.Open(filepath.Join(dir, "figures.csv"))
	require.NoError(t, err)
	defer f.Close()
	figures, err := csv.NewReader(f).ReadAll()
	require.NoError(t, err)
	assert.Equal(t, []string{"Table", "Row", "Column", "Figure", "Value", "Base", "Weight", "As printed"}, figures[0])
	assert.Equal(t, []string{"Table 1", "1", "% of answered", "", "52.666119770303524", "1219", "", "52.7"}, figures[2])
}

// The examples of the description are taken as they stand, one after the other, by the demo study.
func TestTheExamplesOfTheDescription(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	_, err := demo.Make(t.Context(), c.cases)
	require.NoError(t, err)
	raw, err := os.ReadFile("../../api/openapi.yaml")
	require.NoError(t, err)
	var description struct {
		Paths yaml.Node
	}
	require.NoError(t, yaml.Unmarshal(raw, &description))
	taken := 0
	for i := 0; i+1 < len(description.Paths.Content); i += 2 {
		path := strings.ReplaceAll(description.Paths.Content[i].Value, "{study}", "1")
		var operations map[string]struct {
			RequestBody struct {
				Content map[string]struct{ Example any }
			} `yaml:"requestBody"`
		}
		_ = description.Paths.Content[i+1].Decode(&operations) // what has no operations has no examples
		for _, method := range slices.Sorted(maps.Keys(operations)) {
			example := operations[method].RequestBody.Content["application/json"].Example
			if example == nil {
				continue
			}
			taken++
			body, err := json.Marshal(example)
			require.NoError(t, err)
			version := fmt.Sprintf("%q", fmt.Sprint(c.call("GET", "/studies/1/report", "", 200)["version"]))
			resp := c.send(strings.ToUpper(method), "/api/v1"+path, string(body), "If-Match", version)
			answer, err := io.ReadAll(resp.Body)
			require.NoError(t, err)
			assert.Less(t, resp.StatusCode, 300, "%s %s: %s", method, path, answer)
		}
	}
	assert.GreaterOrEqual(t, taken, 7)
}
