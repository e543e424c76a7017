// Package docs_test makes the worked examples and tables of methods.md from the program
// itself and fails when they differ: go test ./docs -update writes them.
package docs_test

import (
	"bytes"
	"encoding/csv"
	"flag"
	"fmt"
	"math"
	"os"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/prob"
	"widetally/internal/demo"
)

var update = flag.Bool("update", false, "write the examples into methods.md")

// A block stands between two marks; what is in it comes from the function of that name.
var block = regexp.MustCompile(`(?s)<!-- made: ([a-z-]+) -->\n(.*?)<!-- end -->`)

func TestMethodsAreAsComputed(t *testing.T) {
	raw, err := os.ReadFile("methods.md")
	require.NoError(t, err)
	f := load(t)
	seen := map[string]bool{}
	fresh := block.ReplaceAllStringFunc(string(raw), func(old string) string {
		name := block.FindStringSubmatch(old)[1]
		make, ok := examples[name]
		require.True(t, ok, "methods.md asks for %q, which nothing makes", name)
		seen[name] = true
		return "<!-- made: " + name + " -->\n" + make(t, f) + "<!-- end -->"
	})
	for name := range examples {
		assert.True(t, seen[name], "methods.md has no place for %q", name)
	}
	if *update {
		require.NoError(t, os.WriteFile("methods.md", []byte(fresh), 0o644))
		return
	}
	want, got := strings.Split(fresh, "\n"), strings.Split(string(raw), "\n")
	for i := range min(len(want), len(got)) {
		require.Equal(t, want[i], got[i], "methods.md line %d is not what the program computes; run make generate", i+1)
	}
	require.Len(t, got, len(want))
}

// fernmouth is the demo's answers, a map from column to cell per household.
type fernmouth []map[string]string

func load(t *testing.T) fernmouth {
	rows, err := csv.NewReader(bytes.NewReader(demo.CSV)).ReadAll()
	require.NoError(t, err)
	var f fernmouth
	for _, row := range rows[1:] {
		m := map[string]string{}
		for j, cell := range row {
			m[rows[0][j]] = cell
		}
		f = append(f, m)
	}
	return f
}

func (f fernmouth) where(column string, codes ...string) (out fernmouth) {
	for _, row := range f {
		for _, code := range codes {
			if row[column] == code {
				out = append(out, row)
			}
		}
	}
	return out
}

func (f fernmouth) counts(column string, codes ...string) (out []int64) {
	for _, code := range codes {
		out = append(out, int64(len(f.where(column, code))))
	}
	return out
}

// table crosses two columns.
func (f fernmouth) table(row string, rows []string, column string, columns []string) (out [][]int64) {
	for _, code := range rows {
		out = append(out, f.where(row, code).counts(column, columns...))
	}
	return out
}

func (f fernmouth) two(row string, rows []string, column string, columns []string) [2][2]int64 {
	t := f.table(row, rows, column, columns)
	return [2][2]int64{{t[0][0], t[0][1]}, {t[1][0], t[1][1]}}
}

// num prints six digits.
func num(x float64) string { return strings.Replace(fmt.Sprintf("%.6g", x), "-", "−", 1) }

func opt(x *float64) string {
	if x == nil {
		return "—"
	}
	return num(*x)
}

// pr prints a probability of any size.
func pr(p prob.Prob) string {
	if p.Log10 > -4 {
		return fmt.Sprintf("%.5g", p.Value)
	}
	if math.IsInf(p.Log10, -1) {
		return "0"
	}
	exponent := math.Floor(p.Log10)
	return fmt.Sprintf("%.4f·10<sup>%d</sup>", math.Pow(10, p.Log10-exponent), int(exponent))
}

func list(x []int64) string {
	var out []string
	for _, n := range x {
		out = append(out, fmt.Sprint(n))
	}
	return strings.Join(out, ", ")
}

func matrix(table [][]int64) string {
	var out []string
	for _, row := range table {
		out = append(out, list(row))
	}
	return strings.Join(out, " / ")
}
