package main

import (
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/internal/mariadb/mariadbtest"
)

func TestMain(m *testing.M) { mariadbtest.Run(m) }

// Files as other programs write them, each with one habit, come in as they are: every table is
// what the standard library counts, whatever had to be pressed.
func TestFilesAsOthersWriteThem(t *testing.T) {
	files, err := filepath.Glob("testdata/*")
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(files), 20)
	api, end, err := serve(t.Context(), mariadbtest.Database(t), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(end)
	pressed := map[string][]string{"names-twice.csv": {"fixNames"}, "short-lines.csv": {"padShort"}, "total-below.csv": {"lastIsTotal"}}
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			told, err := api.try(file)
			require.NoError(t, err)
			assert.Empty(t, told.differences)
			assert.Positive(t, told.tables)
			assert.GreaterOrEqual(t, told.respondents, 40)
			assert.Equal(t, pressed[filepath.Base(file)], told.pressed)
		})
	}
}

// A difference is found where there is one.
func TestADifferenceIsTold(t *testing.T) {
	var told told
	told.compare(question{Name: "ward", Rows: []row{{"Harbour", 3}, {"Fenside", 2}}}, map[string]int{"Harbour": 3, "Fenside": 1, "": 1})
	assert.ElementsMatch(t, []string{`"ward": 2 gave "Fenside", counted 1`, `"ward": 0 gave "", counted 1`}, told.differences)
}
