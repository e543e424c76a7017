package methods_test

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/resultjson"
	"widetally/core/survey"
)

// With the focus on a question a key does one thing, and none of those of the page.
func TestEveryActHasAKeyOfItsOwn(t *testing.T) {
	const ofThePage, ofChanges = "jklr/?.", "wasMK"
	for _, kind := range survey.Kinds {
		q, by := survey.Question{Name: "q", Kind: kind}, map[string]string{}
		for _, m := range registry.All() {
			if m.Asked == nil || len(m.Asked.Questions) == 0 || !m.Asked.Takes(0, q) {
				continue
			}
			require.Len(t, m.Asked.Key, 1, m.Name)
			assert.NotContains(t, ofThePage+ofChanges, m.Asked.Key, m.Name)
			assert.Empty(t, by[m.Asked.Key], "%s of %s", m.Name, kind)
			by[m.Asked.Key] = m.Name
		}
	}
	for name, wants := range map[string]analysis.Purpose{
		"frequency": analysis.ToLook, "battery": analysis.ToLook, "frequencies": analysis.ToLook, "simultaneous-intervals": analysis.ToLook,
		"goodness-of-fit": analysis.ToCompare, "one-mean": analysis.ToCompare, "cochran-q": analysis.ToCompare, "homogeneity": analysis.ToCompare,
		"crosstab": analysis.ToCross, "crosstabs": analysis.ToCross, "paired": analysis.ToCross, "mantel-haenszel": analysis.ToCross,
	} {
		m, found := registry.Find(name)
		require.True(t, found, name)
		assert.Equal(t, wants, m.Asked.Purpose(), name)
	}
}

// homes is a file of 100 respondents. Of the 40 in Harbour 30 use the caddy, of the 60 in Fenside
// 12 of the 58 who say. Three answers give the size of the bin, before and after; sizes are 1.5 to
// 4.5 in turn, and those in Fenside have lived there ten years longer. Everybody says what the
// caddy is bad for: the first fifty that it smells, every second that it takes room.
func homes(t *testing.T) analysis.Columns {
	t.Helper()
	all := make([]int, 100)
	for i := range all {
		all[i] = i
	}
	return homesOf(t, all, nil)
}

// homesOf is a file of these respondents of homes, one a row, or as many as a count says.
func homesOf(t *testing.T, respondents []int, times []int) analysis.Columns {
	t.Helper()
	cells := map[string][]string{}
	var sets []uint64
	for row, i := range respondents {
		ward, caddy, years := "Harbour", "no", i%5
		if i >= 40 {
			ward, years = "Fenside", years+10
		}
		switch {
		case i < 30 || i >= 40 && i < 52:
			caddy = "yes"
		case i >= 98:
			caddy = ""
		}
		size := [...]string{"small", "medium", "large"}
		before, after := size[i%3], size[min(2, i%3+i/70)]
		line := map[string]string{"ward": ward, "caddy": caddy, "before": before, "after": after, "bin": before, "size": fmt.Sprintf("%d.5", 1+i%4), "years": fmt.Sprintf("%d.5", years)}
		if times != nil {
			line["times"] = fmt.Sprint(times[row])
		}
		for name, cell := range line {
			cells[name] = append(cells[name], cell)
		}
		set := uint64(0)
		if i < 50 {
			set |= 1 << 1
		}
		if i%2 == 0 {
			set |= 1 << 2
		}
		if set == 0 {
			set = 1 << 3
		}
		sets = append(sets, set)
	}
	kinds := map[string]survey.Kind{"ward": survey.Single, "caddy": survey.Single, "before": survey.Ordered, "after": survey.Ordered, "bin": survey.Ordered, "size": survey.Continuous, "years": survey.Continuous, "times": survey.Count}
	var columns []survey.Source
	for name := range cells {
		b := survey.NewBuilder(false)
		for _, cell := range cells[name] {
			b.Add([]byte(cell))
		}
		made := b.As(name, kinds[name])
		columns = append(columns, survey.Source{Question: made.Question, Column: made.Data})
	}
	columns = append(columns, survey.Source{Question: survey.Question{Name: "against", Wording: "against", Kind: survey.ChooseAll, Answers: []survey.Answer{
		{Slot: 1, Code: "smell", Label: "It smells"}, {Slot: 2, Code: "room", Label: "It takes room"}, {Slot: 3, Code: "else", Label: "Something else"}}}, Column: survey.Column{Sets: sets}})
	counted := ""
	if times != nil {
		counted = "times"
	}
	table, err := analysis.NewTable(columns, counted)
	require.NoError(t, err)
	return table
}

const (
	theory  = `"source":{"kind":"theory","title":"a theory"}`
	decides = `"role":"null","level":0.05`
	halves  = `"shares":{"scale":"percents","figures":[{"code":"Harbour","figure":"50"},{"code":"Fenside","figure":"50"}],` + theory + `}`
)

// everyMethod is a spec of each method that can be asked, and some of the figures that it gives;
// those of homes are worked out from the definitions.
var everyMethod = []struct {
	method, questions, settings string
	figures                     map[string]float64
}{
	{"goodness-of-fit", "ward", decides + "," + halves, map[string]float64{"goodnessOfFit.statistic": 4, "goodnessOfFit.p.value": 0.04550026389635842}},
	{"homogeneity", "ward", decides + `,"shares":{"scale":"counts","figures":[{"code":"Harbour","figure":"60"},{"code":"Fenside","figure":"40"}],` + theory + `}`, map[string]float64{"test.statistic": 8, "test.p.value": 0.004677734981047266, "known.statistic": 16.666666666666668}},
	{"equivalence/share", "caddy", decides + `,"success":["yes"],"expected":"40 %","margin":"15",` + theory, map[string]float64{"p.value": 0.007840111529540398}},
	{"equivalence/two-shares", "caddy ward", decides + `,"success":["yes"],"margin":"15","groups":{"first":"Harbour","second":"Fenside"}`, map[string]float64{"estimate": 0.5431034482758621}},
	{"equivalence/distribution", "ward", decides + `,"margin":"20",` + halves, nil},
	{"one-proportion", "caddy", decides + `,"success":["yes"],"claimed":"40 %","direction":"greater",` + theory, map[string]float64{"z": 0.5773502691896257}},
	{"two-proportions", "caddy ward", decides + `,"success":["yes"],"groups":{"first":"Harbour","second":"Fenside"},"direction":"different"`, map[string]float64{"z": 5.339750091013882, "difference": 0.5431034482758621}},
	{"one-mean", "size", decides + `,"claimed":2.5,"direction":"different",` + theory, map[string]float64{"student.statistic": 4.449719092257398, "student.df": 99, "student.tails.twoSided.value": 2.2556181516531503e-05}},
	{"means", "years ward", decides + `,"direction":"less"`, map[string]float64{"estimate": 10, "student.statistic": 34.26338558631845, "student.df": 83.48685671973344}},
	{"crosstab", "caddy ward", `"reading":"column","test":{` + decides + `}`, map[string]float64{"independence.statistic": 28.512931034482758, "independence.p.value": 9.307479327331962e-08}},
	{"ordered", "bin ward", decides + `,"form":"shift","reading":"row"`, map[string]float64{"trend.correlation": 0.014963756781552729, "trend.statistic": 0.022167487684729065, "ranks.pair.u": 1220, "effects.0.value": 0.025}},
	{"mantel-haenszel", "caddy ward bin", `"reading":"row","test":{` + decides + `}`, map[string]float64{"statistic": 27.6658624728694, "commonOddsRatio": 11.509287925696594}},
	{"paired", "before after", decides, map[string]float64{"symmetry.statistic": 20, "symmetry.p.value": 4.5399929762484854e-05, "kappa.value": 0.7004194128220491}},
	{"cochran-q", "against", decides, map[string]float64{"statistic": 12.5, "p.value": 0.0019304541362277093}},
	{"simultaneous-intervals", "ward", `"confidence":0.95`, nil},
	{"multiple-response", "against", ``, map[string]float64{"ofRespondents.2": 0.25, "ofResponses.0": 0.4, "meanChosen": 1.25}},
	{"multiple-response-by-group", "against ward", `"reading":"column"`, nil},
	{"battery", "before after bin", ``, map[string]float64{"shares.1.2": 0.24}},
	{"frequency", "ward", `"picture":"upright","height":"count","intervals":"none","order":"asked"`, map[string]float64{"shares.0": 0.6}},
	{"frequencies", "ward caddy", `"order":"size"`, nil},
	{"crosstabs", "ward caddy bin", `"reading":"column"`, nil},
	{"ordered-summary", "bin", ``, nil},
	{"printed-result", "", `"kind":"chi_square","statistic":"9.40","df":3,"p":"0.024","n":200,"sided":"1","level":0.05`, nil},
	{"planning/chi-square", "", `"df":3,"find":"n","level":0.05,"power":"0.8","w":0.3`, nil},
	{"planning/margin", "", `"confidence":"0.95","find":"n","margin":"4 %","share":"0.5"`, nil},
	{"planning/one-proportion", "", `"claimed":"0.5","direction":"different","find":"n","level":0.05,"power":"0.8","true":"0.6"`, nil},
	{"planning/two-proportions", "", `"share1":"0.5","find":"n","level":0.05,"power":"0.8","share2":"0.6"`, nil},
	{"distribution", "", `"name":"normal","find":"tails","x":1.96`, nil},
	{"numeric-summary", "size", `"parts":4,"picture":"histogram","height":"count"`, map[string]float64{"mean": 3, "sd": 1.1236664374387368}},
	{"numeric-comparison", "size years", `"show":["mean","sd"]`, map[string]float64{"0.mean": 3, "1.mean": 8.5}},
	{"dissimilarity", "caddy ward", `"confidence":0.95`, map[string]float64{"indices.0.estimate": 0.5431034482758621}},
	// By ward V is √(28.51 ÷ 98), by the size of the bin nearly nothing.
	{"what-differs", "caddy bin ward", `"level":0.05`, map[string]float64{"0.at": 1, "0.cramersV": 0.5393962141710571}},
	// Use by ward: 30 of 40 and 12 of 58, z as of two proportions, and p twice for the two answers.
	{"trend", "caddy ward", `"success":[],"level":0.05`, map[string]float64{"rows.1.changes.0.difference": 0.5431034482758621, "rows.1.changes.0.statistic": 5.339750091013882}},
	{"numeric-by-group", "years ward", `"show":["mean","sd"]`, map[string]float64{"0.mean": 12.5, "1.mean": 2.5}},
}

func specOf(method, questions, settings string) string {
	keys, _ := json.Marshal(strings.Fields(questions))
	return fmt.Sprintf(`{"method":%q,"version":1,"questions":%s,"settings":{%s}}`, method, keys, settings)
}

// ask gives what a spec answers about a source, or what keeps it from being asked.
func ask(t *testing.T, source analysis.Source, spec string) (*analysis.Outcome, error) {
	t.Helper()
	s, err := registry.Spec([]byte(spec))
	if err != nil {
		return nil, err
	}
	counted, err := analysis.Count(context.Background(), s, source)
	if err != nil {
		return nil, err
	}
	return analysis.Run(analysis.Work{Context: context.Background(), Steps: analysis.UsualSteps, Replicates: 1000}, s, counted)
}

// Every method that can be asked is asked here, gives the figures that follow from the
// definitions, and something to show.
func TestEveryMethodIsAsked(t *testing.T) {
	t.Parallel()
	source := homes(t)
	asked := map[string]bool{}
	for _, k := range everyMethod {
		t.Run(k.method, func(t *testing.T) {
			asked[k.method] = true
			o, err := ask(t, source, specOf(k.method, k.questions, k.settings))
			require.NoError(t, err)
			require.NoError(t, o.Refusal)
			raw, err := resultjson.Encode(o.Result)
			require.NoError(t, err)
			var result any
			require.NoError(t, json.Unmarshal(raw, &result))
			for path, want := range k.figures {
				got, is := at(result, path).(float64)
				require.True(t, is, path)
				assert.InEpsilon(t, want, got, 1e-12, path)
			}
			shown := o.Document(claim.About{Units: document.Text("homes"), Everyone: 100})
			assert.NotEmpty(t, shown.Blocks)
			assert.Equal(t, o.Spec.Settings.Tests(), shown.Outcome != nil, "what is tested has an outcome")
		})
	}
	for _, m := range registry.All() {
		assert.Equal(t, m.Asked != nil, asked[m.Name], m.Name)
	}
}

// members lists the paths of all members of settings, the whole ones before their parts.
func members(v any, path string, out *[]string) {
	in, is := v.(map[string]any)
	if !is {
		return
	}
	for name, x := range in {
		*out = append(*out, path+name)
		members(x, path+name+".", out)
	}
}

// changed gives a spec with a member of its settings set to something, or without it.
func changed(t *testing.T, spec, path string, to any, drop bool) string {
	t.Helper()
	var whole map[string]any
	require.NoError(t, json.Unmarshal([]byte(spec), &whole))
	in := whole["settings"].(map[string]any)
	steps := strings.Split(path, ".")
	for _, step := range steps[:len(steps)-1] {
		next, is := in[step].(map[string]any)
		if !is {
			next = map[string]any{}
			in[step] = next
		}
		in = next
	}
	if in[steps[len(steps)-1]] = to; drop {
		delete(in, steps[len(steps)-1])
	}
	raw, err := json.Marshal(whole)
	require.NoError(t, err)
	return string(raw)
}

// What somebody has to say is not presumed: without it the spec is refused, there.
func TestWhatHasToBeSaid(t *testing.T) {
	t.Parallel()
	source := homes(t)
	dropped := 0
	for _, k := range everyMethod {
		m, _ := registry.Find(k.method)
		for _, input := range m.Asked.Inputs {
			spec := specOf(k.method, k.questions, k.settings)
			if !input.Needed || input.Unless != nil {
				continue
			}
			dropped++
			_, err := ask(t, source, changed(t, spec, input.Name, nil, true))
			var refused *analysis.SpecError
			if assert.ErrorAs(t, err, &refused, "%s without %s", k.method, input.Name) {
				first, _, _ := strings.Cut(input.Name, ".")
				assert.Contains(t, refused.Pointer, "/settings/"+first, "%s without %s", k.method, input.Name)
			}
		}
	}
	assert.Greater(t, dropped, 30)
}

// Whatever stands in a member of the settings, a spec is refused with the place, its method
// says why it has no result, or the result is one that can be sent.
func TestNonsenseIsRefusedOrAnswered(t *testing.T) {
	t.Parallel()
	source := homes(t)
	for _, k := range everyMethod {
		t.Run(k.method, func(t *testing.T) {
			spec := specOf(k.method, k.questions, k.settings)
			var whole map[string]any
			require.NoError(t, json.Unmarshal([]byte(spec), &whole))
			var paths []string
			members(whole["settings"], "", &paths)
			m, _ := registry.Find(k.method)
			for _, input := range m.Asked.Inputs {
				if !slices.Contains(paths, input.Name) {
					paths = append(paths, input.Name)
				}
			}
			for _, path := range paths {
				for _, nonsense := range []any{nil, "", " ", "nonsense", "-1", "1/0", "1e400", "NaN", strings.Repeat("9", 4000), -1.0, 0.0, 0.5, 1.0, 1e300, 7.25, true, []any{}, []any{nil}, []any{"", ""}, map[string]any{}, map[string]any{"x": 1}} {
					changed := changed(t, spec, path, nonsense, false)
					o, err := ask(t, source, changed)
					if err != nil {
						var refused *analysis.SpecError
						require.ErrorAs(t, err, &refused, changed)
						assert.NotEmpty(t, refused.Code, changed)
						continue
					}
					if o.Refusal != nil {
						continue
					}
					_, err = resultjson.Encode(o.Result)
					require.NoError(t, err, changed)
					o.Document(claim.About{Units: document.Text("homes"), Everyone: 100})
				}
			}
		})
	}
}
