package httpapi

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"widetally/core/methods/frequency"
	"widetally/internal/service"
)

// drawnFile is the example that docs/methods.md works by hand, with a column of weights that lacks one.
const drawnFile = "weight,district,street,q,other,weight_b\n1.0,A,s1,yes,x,1.5\n1.0,A,s1,no,x,0.5\n2.0,A,s2,yes,y,\n1.0,B,s1,no,y,1.5\n1.0,B,s2,yes,x,0.5\n2.0,B,s2,no,y,1.25\n"

// wordsOfDocument is the text of a word-processor document.
func wordsOfDocument(t *testing.T, raw []byte) string {
	t.Helper()
	files, err := zip.NewReader(bytes.NewReader(raw), int64(len(raw)))
	require.NoError(t, err)
	f, err := files.Open("word/document.xml")
	require.NoError(t, err)
	defer f.Close()
	xml, err := io.ReadAll(f)
	require.NoError(t, err)
	return regexp.MustCompile(`<[^>]*>`).ReplaceAllString(string(xml), "")
}

// A design is stated, said in words, in force in what is asked, switched off and on, undone; it goes
// along with the study's file and its recipe, and what it names stays.
func TestADesignOfAStudy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("drawn.csv", drawnFile, nil, `[{"name":"weight","kind":"weight"},{"name":"weight_b","kind":"weight"}]`)
	id := func(name string) any { return c.question(st, name)["id"] }
	weight, district, street, q := id("weight"), id("district"), id("street"), id("q")
	body := func(weight any, strata string, cluster any, rest string) string {
		raw, err := json.Marshal(weight)
		require.NoError(t, err)
		by, err := json.Marshal(cluster)
		require.NoError(t, err)
		return fmt.Sprintf(`{"weight":%s,"strata":[%s],"cluster":%s,"fraction":"","singlePsu":"refuse","off":false%s}`, raw, strata, by, rest)
	}
	text := func(x any) string { return strings.ReplaceAll(fmt.Sprint(x), "\u00a0", " ") }
	stated := body(weight, fmt.Sprint(district), street, "")

	before := c.call("GET", st+"/design", "", 200)
	assert.Equal(t, false, before["stated"])
	assert.Equal(t, []any{weight, id("weight_b")}, before["weights"])
	assert.NotContains(t, before["parts"], weight)
	looks := before["proposed"].(object)
	assert.Nil(t, looks["weight"], "of two nobody knows which")
	for _, bad := range []struct{ body, code, says string }{
		{body(id("weight_b"), fmt.Sprint(district), street, ""), "design.missing_weight", "Row 3"},
		{body(street, "", nil, ""), "design.question", "street"},
		{body(weight, fmt.Sprint(weight), nil, ""), "design.question", "weight"},
		{body(weight, "999999", nil, ""), "spec.question", "999999"},
		{strings.Replace(stated, `"fraction":""`, `"fraction":"140 %"`, 1), "design.fraction_out_of_range", "from 0 to 1"},
		{strings.Replace(stated, `"refuse"`, `"drop"`, 1), "design.single", "centre"},
	} {
		got := c.call("PUT", st+"/design", bad.body, 422)
		assert.Equal(t, bad.code, got["code"], bad.body)
		assert.Contains(t, text(got["title"]), bad.says)
	}
	is := c.call("PUT", st+"/design", stated, 200)
	assert.Contains(t, text(is["said"]), "Drawn within “district”, in clusters, “street”. 4 clusters, 2 strata: 2 degrees of freedom. 2 names of clusters stand in more than one stratum")
	assert.Contains(t, text(c.call("GET", st+"/topline", "", 200)["notes"]), "Estimates of the population")
	yes := c.question(st, "q")["rows"].([]any)[0].(object)["estimate"].(object)
	assert.InDelta(t, 50, yes["percent"], 1e-12)
	assert.InDelta(t, 11.1579284623, yes["lower"], 1e-9)
	assert.Contains(t, c.shown(fmt.Sprintf("%s/questions/%v/table", st, q)), "11.2 to 88.8")
	assert.Contains(t, text(c.question(st, "q")["asks"]), "paired")
	assert.NotContains(t, text(c.question(st, "q")["asks"]), "dissimilarity")

	spec := func(method, settings string) string {
		return fmt.Sprintf(`{"spec":{"method":%q,"version":1,"questions":["%v"],"settings":%s}}`, method, q, settings)
	}
	const asFrequency = `{"picture":"upright","height":"share","order":"asked","intervals":"none"}`
	asked := c.call("POST", st+"/analyses", spec("frequency", asFrequency), 201)
	shownNow := func() string { return text(c.analyses(st, "q")) }
	shown := shownNow()
	assert.Contains(t, shown, "11.16 to 88.84")
	assert.Contains(t, shown, "An estimated 50.0 %")
	table := c.shown(fmt.Sprintf("%s/analyses/%v/tables/1", st, asked["analysisId"]))
	assert.Contains(t, table, "estimated by the design of the sample")
	noForm := strings.Replace(spec("dissimilarity", `{"confidence":0.95}`), `"],"settings`, fmt.Sprintf(`","%v"],"settings`, id("other")), 1)
	assert.Contains(t, text(c.call("POST", st+"/analyses", noForm, 201)), "for which this method has no form")
	for _, outlined := range c.call("GET", st+"/topline", "", 200)["outline"].([]any) {
		assert.NotContains(t, text(outlined.(object)["asks"]), "cochran")
	}

	// A report tells both, the design among its facts; prose speaks of the population.
	page := c.call("GET", st+"/report", "", 200)
	c.call("PUT", st+"/report", fmt.Sprintf(`{"title":"Drawn","pieces":[{"id":1,"question":%v},{"id":2,"analysis":%v},{"id":3,"prose":"So {q: %% yes} say yes."}]}`, q, asked["analysisId"]), 200, "If-Match", fmt.Sprint(page["version"]))
	for form, says := range map[string][]string{
		"md":   {"Estimated, %", "11.2 to 88.8", "Drawn within “district”", "the weights in “weight”", "So 50.0 % say yes", "estimates of the population by the design"},
		"docx": nil,
	} {
		res := c.send("GET", "/api/v1"+st+"/report/file?form="+form, "")
		require.Equal(t, 200, res.StatusCode, form)
		raw, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		written := string(raw)
		if form == "docx" {
			written, says = wordsOfDocument(t, raw), []string{"Estimated, %", "11.2 to 88.8", "Drawn within “district”", "An estimated 50.0 %"}
		}
		for _, text := range says {
			assert.Contains(t, strings.ReplaceAll(written, "\u00a0", " "), text, form)
		}
		assert.NotContains(t, written, "unweighted", form)
	}

	// Back and forth in one press, and along the line of undo.
	off := c.call("PUT", st+"/design", strings.Replace(stated, `"off":false`, `"off":true`, 1), 200)
	assert.Contains(t, text(off["head"]), "Respondents are counted")
	assert.Contains(t, shownNow(), "3 each answered one of 2 answers")
	c.step(st, "undo", 200)
	assert.Contains(t, shownNow(), "11.16 to 88.84")

	copied := c.open(c.fileOf(st))
	assert.Equal(t, text(is["said"]), text(c.call("GET", copied+"/design", "", 200)["said"]))
	run := c.run(c.recipeOf(st), []byte(drawnFile))
	require.Empty(t, run.Results[0].Problems)
	assert.InDelta(t, 0.125, run.Results[0].Outcome.Result.(*frequency.Estimate).Of[0].StandardError, 1e-12)

	none := c.call("PUT", st+"/design", body(nil, "", nil, ""), 200)
	assert.Equal(t, false, none["stated"])
	assert.Contains(t, shownNow(), "3 each answered one of 2 answers")
}

// A later file keeps the design; where its answers do not bear it, the row is told, and nothing is
// estimated by half of it.
func TestALaterFileKeepsTheDesign(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	st, _ := c.bring("drawn.csv", drawnFile, nil, `[{"name":"weight","kind":"weight"},{"name":"weight_b","kind":"weight"}]`)
	id := func(name string) any { return c.question(st, name)["id"] }
	c.call("PUT", st+"/design", fmt.Sprintf(`{"weight":%v,"strata":[%v],"cluster":%v,"fraction":"","singlePsu":"refuse","off":false}`, id("weight"), id("district"), id("street")), 200)
	renew := func(file string, add bool) object {
		arrival, settings := c.arrival("later.csv", file, nil)
		c.call("POST", st+"/refresh", fmt.Sprintf(`{"arrivalId":%q,"settings":%s,"add":%t,"waveQuestion":"wave","wave":"2","dry":false}`, arrival, settings, add), 200)
		return c.call("GET", st+"/design", "", 200)
	}
	percent := func() any {
		estimate := c.question(st, "q")["rows"].([]any)[0].(object)["estimate"]
		if estimate == nil {
			return nil
		}
		return estimate.(object)["percent"]
	}
	assert.Equal(t, 50.0, percent())
	is := renew(strings.Replace(drawnFile, "2.0,B,s2,no", "6.0,B,s2,no", 1), false)
	assert.Equal(t, true, is["stated"])
	assert.Nil(t, is["problem"])
	assert.InDelta(t, 100*8.0/12, percent(), 1e-12)
	is = renew("weight,district,street,q\n1,A,s3,yes\n,B,s3,no\n", true)
	assert.Contains(t, fmt.Sprint(is["problem"]), "Row 8")
	assert.Nil(t, percent())
	c.step(st, "undo", 200)
	assert.InDelta(t, 100*8.0/12, percent(), 1e-12)
	is = renew("weight,district,q\n1,A,yes\n1,B,no\n", false)
	assert.Equal(t, true, is["stated"])
	assert.Contains(t, fmt.Sprint(is["problem"]), "Row 1")
	assert.Nil(t, percent())
}

// A topline estimates every kind of question, choose-all ones and numbers too, and running sums follow
// the order of the answers.
func TestATopLineEstimates(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	const file = "w,mood,trade,rooms\n1,low,oil;rope,1.5\n1,mid,oil,2.5\n2,high,rope,3.25\n4,mid,salt;oil,4.5\n"
	st, _ := c.bring("drawn.csv", file, nil, `[{"name":"w","kind":"weight"},{"name":"mood","kind":"ordered"},{"name":"rooms","kind":"continuous"},{"name":"trade","kind":"text"}]`)
	trade := c.derive(st, fmt.Sprintf(`{"wording":"Trade","derivation":{"rule":"parts","sources":[%v],"separator":";"}}`, c.question(st, "trade")["id"]))["name"].(string)
	c.call("PUT", st+"/design", fmt.Sprintf(`{"weight":%v,"strata":[],"cluster":null,"fraction":"","singlePsu":"refuse","off":false}`, c.question(st, "w")["id"]), 200)
	estimates := func(name, of string) map[string]float64 {
		out := map[string]float64{}
		for _, row := range c.question(st, name)["rows"].([]any) {
			estimate := row.(object)["estimate"].(object)
			require.NotNil(t, estimate["lower"], name)
			out[row.(object)["label"].(string)] = estimate[of].(float64)
		}
		return out
	}
	assert.Equal(t, map[string]float64{"oil": 75, "rope": 37.5, "salt": 50}, estimates(trade, "percent"))
	assert.Equal(t, map[string]float64{"low": 12.5, "mid": 62.5, "high": 25}, estimates("mood", "percent"))

	numeric := c.question(st, "rooms")["numeric"].(object)
	estimate := numeric["estimate"].(object)
	mean := estimate["mean"].(object)
	assert.InDelta(t, 28.5/8, mean["value"], 1e-12)
	assert.Less(t, mean["lower"], mean["value"])
	assert.InDelta(t, 2.9375, numeric["mean"], 1e-12, "that of respondents stands beside it")
	assert.InDelta(t, 3.25, estimate["quartiles"].([]any)[1].(object)["value"], 0, "half of the weights lies up to it")
	one := c.call("POST", st+"/subgroups", fmt.Sprintf(`{"name":"one","condition":{"op":"any_of","question":%v,"answers":[%v]}}`, c.question(st, "mood")["id"], c.question(st, "mood")["rows"].([]any)[0].(object)["slot"]), 200)["subgroups"].([]any)[0].(object)["id"]
	alone := c.call("GET", fmt.Sprintf("%s/questions/%v?of=%v", st, c.question(st, "rooms")["id"], one), "", 200)["numeric"].(object)["estimate"].(object)
	assert.Equal(t, object{"value": 3.25, "lower": nil, "upper": nil}, alone["mean"], "one respondent tells of no error")
	assert.Nil(t, alone["sd"])
	assert.Nil(t, c.question(st, "w")["numeric"].(object)["estimate"], "weights are no numbers of the population")

	q := c.question(st, "mood")
	assert.Equal(t, map[string]float64{"high": 25, "low": 37.5, "mid": 100}, func() map[string]float64 {
		var order []object
		for _, label := range []string{"high", "low", "mid"} {
			for _, a := range q["answers"].([]any) {
				if a := a.(object); a["label"] == label {
					order = append(order, object{"slot": a["slot"], "label": label, "missing": "", "sameAs": nil})
				}
			}
		}
		for _, a := range q["answers"].([]any) {
			if a := a.(object); a["missing"] != "" {
				order = append(order, object{"slot": a["slot"], "label": a["label"], "missing": a["missing"], "sameAs": nil})
			}
		}
		raw, err := json.Marshal(object{"answers": order})
		require.NoError(t, err)
		c.call("PATCH", fmt.Sprintf("%s/questions/%v", st, q["id"]), string(raw), 200, "If-Match", fmt.Sprint(q["version"]))
		return estimates("mood", "cumulativePercent")
	}())
}

// Replicate weights are found by their names, stated with how they were made, and in force; the file and
// the recipe of the study bring them along.
func TestReplicateWeightsOfAStudy(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	file := "w,q,rw1,rw2,rw3,rw4,pop\n"
	for i := range 24 {
		file += fmt.Sprintf("%.2f,%s,%.2f,%.2f,%.2f,%.2f,100\n", 1+float64(i%5)/10, []string{"yes", "no", "no"}[i%3], float64(i%2)*2.1, float64((i+1)%2)*2.2, float64(i/2%2)*2.3, float64((i/2+1)%2)*2.4)
	}
	kinds := `[{"name":"w","kind":"weight"},{"name":"rw1","kind":"weight"},{"name":"rw2","kind":"weight"},{"name":"rw3","kind":"weight"},{"name":"rw4","kind":"weight"},{"name":"pop","kind":"continuous"}]`
	st, arrived := c.bring("rw.csv", file, nil, kinds)
	assert.Contains(t, fmt.Sprint(arrived["preview"].(object)["check"].(object)["drawn"]), "rw…")
	is := c.call("GET", st+"/design", "", 200)
	looks := is["proposed"].(object)
	assert.Equal(t, c.question(st, "w")["id"], looks["weight"])
	assert.Len(t, looks["replicates"], 4)
	weight, err := json.Marshal(looks["weight"])
	require.NoError(t, err)
	replicates, err := json.Marshal(looks["replicates"])
	require.NoError(t, err)
	body := func(method, rest string) string {
		return fmt.Sprintf(`{"weight":%s,"strata":[],"cluster":null,"fraction":"","singlePsu":"refuse","population":null,"replicates":%s,"method":%q,"fay":"","factors":"","df":0,"off":false%s}`, weight, replicates, method, rest)
	}
	for _, bad := range []struct{ body, code string }{
		{body("", ""), "design.method"},
		{strings.Replace(body("fay", ""), `"fay":""`, `"fay":"1.2"`, 1), "design.fay_out_of_range"},
		{body("factors", ""), "design.factors_needed"},
		{strings.Replace(body("brr", ""), `"population":null`, fmt.Sprintf(`"population":%v`, c.question(st, "pop")["id"]), 1), "design.either"},
	} {
		assert.Equal(t, bad.code, c.call("PUT", st+"/design", bad.body, 422)["code"])
	}
	stated := c.call("PUT", st+"/design", strings.Replace(body("fay", ""), `"fay":""`, `"fay":"0.3"`, 1), 200)
	assert.Contains(t, strings.ReplaceAll(fmt.Sprint(stated["said"]), "\u00a0", " "), "4 replicate weights (balanced halves after Fay). 3 degrees of freedom")
	yes := c.question(st, "q")["rows"].([]any)[1].(object)["estimate"].(object)
	assert.NotNil(t, yes["lower"])
	again := c.open(c.fileOf(st))
	assert.Equal(t, yes, c.question(again, "q")["rows"].([]any)[1].(object)["estimate"])
	recipe := c.recipeOf(st)
	assert.Contains(t, recipe, "rw4")
	assert.Equal(t, 24, c.run(recipe, []byte(file)).Rows)
	_, err = c.tryRun(strings.Replace(recipe, "weight: w", "weight: wt", 1), []byte(file))
	assert.ErrorContains(t, err, "the file has no column “wt”")
}

// A quick check takes a design effect, says so, and has no study made of it.
func TestAQuickCheckWithADesignEffect(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	const share = `{"method":"one-proportion","settings":{"claimed":"64 %%","direction":"different","role":"null","level":0.05,"source":{}},"blanks":{"yes":"312","n":"520"%s}}`
	ask := func(more string) object {
		return c.call("POST", "/analyses/quick", fmt.Sprintf(share, more), 200)["computed"].(object)
	}
	said := strings.ReplaceAll(fmt.Sprint(ask(`,"effect":"1.8"`)), "\u00a0", " ")
	assert.Contains(t, said, "with a design effect of 1.80: variances are that many times those of 520 drawn simply")
	assert.Contains(t, said, "The design effect is as stated")
	assert.NotContains(t, said, "simple random sample of those they stand for")
	assert.Equal(t, false, ask(`,"effect":"1.8"`)["keepable"])
	assert.Equal(t, true, ask("")["keepable"])
	// t = −0.04 / √(1.8 × 0.6 × 0.4 / 519)
	assert.Contains(t, said, "−1.386")
	refused := c.call("POST", "/analyses/quick", `{"method":"dissimilarity","settings":{"confidence":0.95},"blanks":{"effect":"2"},"cells":[["","a","b"],["x","3","4"],["y","5","6"]]}`, 422)
	assert.Equal(t, "design.no_form_typed", refused["code"])
}

// What can be asked hangs on whether a design is in force: the test of layers of any size, and another
// sample that needs its design effect; an analysis may count respondents, which is told as a change.
func TestWhatADesignLetsAsk(t *testing.T) {
	t.Parallel()
	c := newClient(t, service.Options{})
	file := "w,h,q,g,l\n"
	for i := range 120 {
		file += fmt.Sprintf("%.1f,%s,%s,%s,%s\n", 1+float64(i%7)/10, []string{"north", "south"}[i%2],
			[]string{"a", "b", "c"}[i*i/5%3], []string{"x", "y"}[i/3%2], []string{"in", "out"}[i/7%2])
	}
	st, _ := c.bring("asked.csv", file, nil, `[{"name":"w","kind":"weight"}]`)
	id := func(name string) any { return c.question(st, name)["id"] }
	design := func(off bool) {
		c.call("PUT", st+"/design", fmt.Sprintf(`{"weight":%v,"strata":[%v],"cluster":null,"fraction":"","singlePsu":"refuse","off":%v}`, id("w"), id("h"), off), 200)
	}
	layers := fmt.Sprintf(`{"run":true,"spec":{"method":"mantel-haenszel","version":1,"questions":["%v","%v","%v"],"settings":{"reading":"row","test":{"role":"alternative","level":0.05}}}}`, id("q"), id("g"), id("l"))
	other := func(effect string) string {
		return fmt.Sprintf(`{"run":true,"spec":{"method":"homogeneity","version":1,"questions":["%v"],"settings":{"shares":{"scale":"counts","figures":[{"code":"a","figure":"40"},{"code":"b","figure":"50"},{"code":"c","figure":"60"}],"source":{"kind":"survey","title":"the year before"}},"role":"null","level":0.05%s}}}`, id("q"), effect)
	}
	assert.Equal(t, "mantel_haenszel.two", c.call("POST", st+"/analyses", layers, 422)["code"])
	assert.Equal(t, "homogeneity.effect_alone", c.call("POST", st+"/analyses", other(`,"effect":"2"`), 422)["code"])
	design(false)
	assert.Equal(t, "homogeneity.effect_needed", c.call("POST", st+"/analyses", other(""), 422)["code"])
	assert.Equal(t, "homogeneity.effect", c.call("POST", st+"/analyses", other(`,"effect":"often"`), 422)["code"])
	c.call("POST", st+"/analyses", layers, 201)
	c.call("POST", st+"/analyses", other(`,"effect":"1,5"`), 201)
	all := c.analyses(st, "q")
	require.Len(t, all, 2)
	text := func(x any) string { return strings.ReplaceAll(fmt.Sprint(x), "\u00a0", " ") }
	assert.Contains(t, text(all[0]["document"]), "2 layers tested together")
	assert.Contains(t, text(all[1]["document"]), "the design effect that was stated, 1.50")

	// One analysis counts respondents, and back.
	picture := c.call("POST", st+"/analyses", fmt.Sprintf(`{"spec":{"method":"frequency","version":1,"questions":["%v"],"settings":{"picture":"upright","height":"share","order":"asked","intervals":"none"}}}`, id("g")), 201)
	find := func() object { return c.analyses(st, "g")[0] }
	assert.Equal(t, true, find()["estimable"])
	assert.Contains(t, text(find()["document"]), "An estimated")
	spec, err := json.Marshal(find()["spec"])
	require.NoError(t, err)
	c.call("PUT", fmt.Sprintf("%s/analyses/%v", st, picture["analysisId"]), fmt.Sprintf(`{"spec":%s}`, strings.Replace(string(spec), `"method"`, `"unweighted":true,"method"`, 1)), 200, "If-Match", fmt.Sprint(find()["version"]))
	assert.NotContains(t, text(find()["document"]), "An estimated")
	assert.Contains(t, text(find()["document"]), "w") // that there are weights is said
	design(true)
	for _, a := range c.analyses(st, "q") {
		assert.NotEmpty(t, a["problems"], "respondents are asked otherwise")
	}
}
