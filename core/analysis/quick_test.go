package analysis

import (
	"encoding/json"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

var quickNames = QuickNames{Yes: "yes", No: "no", NotSo: "not so", First: "the first", Second: "the second", Question: "the question", Groups: "the groups", Layers: "the layers"}

// What is typed becomes the counts that it says, in every shape; what lacks waits, and what cannot
// be true is told.
func TestQuickNumbers(t *testing.T) {
	t.Parallel()
	figures := []Input{{Name: "shares.figures", Kind: FiguresInput}}
	cells := func(rows ...string) (out [][]string) {
		for _, r := range rows {
			out = append(out, strings.Split(r, "|"))
		}
		return out
	}
	blanks := func(list ...string) map[string]string {
		out := map[string]string{}
		for i := 0; i < len(list); i += 2 {
			out[list[i]] = list[i+1]
		}
		return out
	}
	for _, k := range []struct {
		asked  Asked
		blanks map[string]string
		cells  [][]string
		want   string // of the counts, or what is told
		given  string // of the settings
	}{
		{Asked{Quick: QuickNothing}, nil, nil, `"questions":[]`, ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "734", "n", "1,240", "units", "homes"), nil, `"units":"homes","questions":[{"key":"q","wording":"","categories":[{"code":"yes","label":"yes"},{"code":"no","label":"no"}],"counts":[734,506]}]`, `"success":["yes"]`},
		{Asked{Quick: QuickYesNo}, blanks("yes", "734", "no", "506"), nil, `"counts":[734,506]`, ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "1", "n", "2", "label", "no"), nil, `{"code":"yes","label":"no"},{"code":"no","label":"not so"}`, ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "100", "no", "28"), nil, "quick.slip.no_sum", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "60"), nil, "quick.slip.more_yes", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "-5", "n", "60"), nil, "quick.slip.no_count", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "1.000", "n", "60"), nil, "quick.slip.either_count", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62"), nil, "", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "100", "effect", "1,8"), nil, `"designEffect":1.8`, ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "no", "38", "effective", "40"), nil, `"designEffect":2.5`, ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "100", "effect", "0"), nil, "quick.slip.effect", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "100", "effective", "many"), nil, "quick.slip.effect", ""},
		{Asked{Quick: QuickYesNo}, blanks("yes", "62", "n", "100", "effect", "2", "effective", "50"), nil, "quick.slip.either_effect", ""},
		{Asked{Quick: QuickYesNo}, blanks("no", "62"), nil, "", ""},
		{Asked{Quick: QuickTwoYesNo}, blanks("yes", "62", "n", "100", "yes2", "40", "n2", "80", "no", "1"), nil, `"counts":[[[62,38],[40,40]]]`, `"groups":{"first":"1","second":"2"}`},
		{Asked{Quick: QuickTwoYesNo}, blanks("yes", "62", "yes2", "40", "n2", "30"), nil, "quick.slip.more_yes", ""},
		{Asked{Quick: QuickAnswers, Inputs: figures}, nil, cells("||", "a|20|1/3", "|30|", "b||5"), "", ""},
		{Asked{Quick: QuickAnswers, Inputs: figures}, nil, cells("||", "a|20|1/3", "|30|"), `"categories":[{"code":"1","label":"a"},{"code":"2","label":"2"}],"counts":[20,30]`, `"shares":{"figures":[{"code":"1","figure":"1/3"}]}`},
		{Asked{Quick: QuickAnswers}, nil, cells("|", "a|20", "b|x"), "quick.slip.no_count", ""},
		{Asked{Quick: QuickTable}, blanks("other", "ward"), cells("|yes||no", "Harbour|60||40", "Fenside|35||65", "|||"), `"short":"ward","kind":"single"`, ""},
		{Asked{Quick: QuickTable, Ordered: true}, nil, cells("|low|high", "1|6|8", "2|3|7"), `"kind":"ordered","categories":[{"code":"1","label":"1"}`, ""},
		{Asked{Quick: QuickTable}, nil, cells("|yes|no", "Harbour|60|40", "Fenside|35|"), "", "a blank is no 0"},
		{Asked{Quick: QuickTable}, nil, cells("|yes|no", "Harbour|0|0", "Fenside|0|0"), "", ""},
		{Asked{Quick: QuickSquare}, nil, cells("|yes|no", "|40|5", "|15|30"), `"counts":[[[40,5],[15,30]]]`, ""},
		{Asked{Quick: QuickLayers}, nil, cells("||||", "own|20|30|40|10", "rent|12|18|22|8"), `"layers":"l","counts":[[[20,30],[40,10]],[[12,18],[22,8]]]`, ""},
		{Asked{Quick: QuickPatterns}, nil, cells("|smell|time", "45|x|x", "3||x"), `"patterns":[{"chosen":["1","2"],"count":45},{"chosen":["2"],"count":3}]`, ""},
		{Asked{Quick: QuickSummary}, blanks("n", "16", "mean", "10,5", "sd", "4"), nil, `"summaries":[{"n":16,"mean":10.5,"sd":4}]`, ""},
		{Asked{Quick: QuickSummary}, blanks("n", "16", "mean", "10"), nil, `"summaries":[{"n":16,"mean":10}]`, ""},
		{Asked{Quick: QuickTwoSummaries}, blanks("n", "16", "mean", "10", "sd", "4", "n2", "9", "mean2", "2"), nil, "", ""},
		{Asked{Quick: QuickNumbers}, blanks("list", "1 2\n3,5"), cells("||", "a|b|c"), `"values":[1,2,3.5]`, ""},
		{Asked{Quick: QuickNumbers}, nil, cells("||", "0|10|4", "10|20|6"), `{"code":"1","label":"0–10","from":0,"to":10}`, ""},
	} {
		got, err := Quick{k.blanks, k.cells}.Asked(&k.asked, quickNames)
		var wrong *SlipError
		switch {
		case k.want == "":
			require.ErrorIs(t, err, ErrNotYet, k)
		case strings.HasPrefix(k.want, "quick."):
			require.ErrorAs(t, err, &wrong, k)
			assert.Equal(t, k.want, wrong.ID)
		default:
			require.NoError(t, err, k)
			raw, err := json.Marshal(got.Counts)
			require.NoError(t, err)
			assert.Contains(t, string(raw), k.want)
			require.NoError(t, got.Counts.Check())
			raw, err = json.Marshal(got.Settings)
			require.NoError(t, err)
			assert.Contains(t, string(raw), k.given)
		}
	}
}
