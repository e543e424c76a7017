package methods_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/infer"
	"widetally/core/methods/goodnessoffit"
	"widetally/core/recipe"
	"widetally/core/survey"
)

// A spec is asked of any source of counts; here of some that were typed.
func ExampleAll() {
	spec, _ := registry.Spec([]byte(`{"method":"goodness-of-fit","version":1,"questions":["tenure"],"settings":{
		"shares":{"scale":"percents","figures":[{"code":"own","figure":"58"},{"code":"rent","figure":"42"}],"source":{"kind":"register","title":"the register"}},
		"role":"null","level":0.05}}`))
	source := analysis.Typed{Questions: []analysis.TypedQuestion{{Key: "tenure", Counts: []int64{642, 577},
		Categories: []analysis.TypedCategory{{Code: "own"}, {Code: "rent"}}}}}
	counted, err := analysis.Count(context.Background(), spec, source)
	if err != nil {
		fmt.Println(err)
		return
	}
	o, err := analysis.Run(analysis.Work{Context: context.Background(), Steps: analysis.UsualSteps, Replicates: analysis.UsualReplicates}, spec, counted)
	if err != nil {
		fmt.Println(err)
		return
	}
	fit := o.Result.(goodnessoffit.Answer).GoodnessOfFit
	fmt.Printf("χ² = %.3f, df %d, p %.6f\n", fit.Statistic, fit.DF, fit.P.Value)
	// Output: χ² = 14.237, df 1, p 0.000161
}

// A method can be computed from its figures alone.
func ExampleAll_figures() {
	method, _ := registry.Find("goodness-of-fit")
	request := method.New()
	if err := json.Unmarshal([]byte(`{"observed":[50,30,20],"shares":[0.4,0.4,0.2],"level":0.05}`), request); err != nil {
		fmt.Println(err)
		return
	}
	result, err := method.Run(context.Background(), request)
	if err != nil {
		fmt.Println(err)
		return
	}
	fit := result.(goodnessoffit.Answer).GoodnessOfFit
	fmt.Printf("χ² = %.3f, df %d, p %.4f\n", fit.Statistic, fit.DF, fit.P.Value)
	// Output: χ² = 5.000, df 2, p 0.0821
}

// A refusal of a method has a reason, never a figure that is none.
func ExampleAll_refusal() {
	method, _ := registry.Find("one-proportion")
	request := method.New()
	_ = json.Unmarshal([]byte(`{"successes":7,"n":5,"claimed":0.5}`), request)
	_, err := method.Run(context.Background(), request)
	var refused *infer.InputError
	fmt.Println(errors.As(err, &refused))
	// Output: true
}

// A recipe prepares the columns of a file, and notices what is not as it says.
func Example_recipe() {
	b := survey.NewBuilder(false)
	for _, cell := range []string{"own", "rent", "own", "squat"} {
		b.Add([]byte(cell))
	}
	r := recipe.Recipe{Format: recipe.Format, Version: recipe.Version, Study: recipe.Study{Name: "Homes", Units: "households"},
		Questions: []recipe.Question{{Name: "tenure", Kind: survey.Single, Answers: []recipe.Answer{{Code: "own"}, {Code: "rent"}}}, {Name: "ward", Kind: survey.Single}}}
	p, err := recipe.Prepare(r, []survey.Built{b.As("tenure", survey.Single)}, 4)
	if err != nil {
		fmt.Println(err)
		return
	}
	for _, n := range p.Noticed {
		fmt.Println(n.Column, n.Message.ID)
	}
	f, _, _ := p.Tally("tenure", "")
	fmt.Println(f.Answered)
	// Output:
	// tenure recipe.noticed.further
	// ward recipe.noticed.lacking
	// 4
}
