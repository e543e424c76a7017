package main

import (
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/design"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/recipe"
	"widetally/core/resultjson"
	"widetally/core/survey"
	"widetally/internal/intake"
	"widetally/internal/recipes"
	"widetally/internal/reporting"
	"widetally/internal/said"
	"widetally/internal/terminal"
)

// What a result on the command line may take: seconds for an exact test.
const (
	commandSteps      = 200_000_000
	commandReplicates = 100_000
)

// analyseCommand asks a file what a spec asks, with no database.
func analyseCommand() *cobra.Command {
	var asJSON bool
	var units string
	var as recipe.Data
	var drawn analysis.Drawn
	var out leaving
	c := &cobra.Command{
		Use: "analyse SPEC.json FILE", Short: "Ask a file what a spec asks", Args: exactly(2),
		Example: "  widetally analyse spec.json answers.csv --units households\n  widetally analyse spec.json answers.csv --json",
		RunE: func(c *cobra.Command, args []string) error {
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			spec, err := registry.Spec(raw)
			if err != nil {
				return told(c, args[0], err)
			}
			return answer(c, spec, args[1], units, as, drawn, asJSON, out)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "write the complete result as JSON")
	c.Flags().StringVar(&units, "units", "respondents", "what a row is, in the plural")
	readingFlags(c, &as)
	drawnFlags(c, &drawn)
	out.flag(c)
	return c
}

// answer asks a file what a spec asks and writes what comes out.
func answer(c *cobra.Command, spec analysis.Spec, file, units string, as recipe.Data, drawn analysis.Drawn, asJSON bool, out leaving) error {
	if err := out.check(); err != nil {
		return err
	}
	words, err := wordsOf(c)
	if err != nil {
		return err
	}
	table, err := read(c, file, as, "")
	if err != nil {
		return err
	}
	drawn.Replicates = replicatesOf(table, drawn.Replicates)
	for _, name := range slices.Concat(spec.Questions, drawn.Questions()) {
		table.Known(string(name))
	}
	if len(table.Problems) > 0 {
		return told(c, file, &table.Problems[0])
	}
	from, err := table.Source()
	if err != nil {
		return told(c, file, err)
	}
	for _, name := range drawn.Questions() {
		if _, err := from.Question(c.Context(), name); err != nil {
			return told(c, "", analysis.Refused("spec.question", "/design", document.Values{"text": document.Text(string(name))}))
		}
		from.Design = &drawn
	}
	counted, err := analysis.Count(c.Context(), spec, from)
	if err != nil {
		return told(c, "", err)
	}
	o, err := analysis.Run(analysis.Work{Context: c.Context(), Steps: commandSteps, Replicates: commandReplicates}, spec, counted)
	switch {
	case err != nil:
		return err
	case o.Refusal != nil:
		return o.Refusal
	case asJSON && out.rule.InForce():
		return usageError{errors.New("a complete result tells all counts: leave --json or the rule of what may be told away")}
	case asJSON:
		raw, err := resultjson.Encode(o.Result)
		if err != nil {
			return err
		}
		_, err = fmt.Fprintln(c.OutOrStdout(), string(raw))
		return err
	}
	about := claim.About{Units: document.Text(units)}
	if from.Design == nil {
		about.Weights = weightsIn(table)
	}
	n, _ := counted.Respondents()
	doc := disclosure.Document(o.Document(about), out.rule, n)
	if out.form != "" {
		told := said.Of(&doc, words)
		return out.write(c, words, file, units, nil, &reporting.Analysis{Name: spec.Method, Title: string(spec.Questions[0]), Method: spec.Method, Document: told, Estimated: from.Design != nil})
	}
	return terminal.Write(c.OutOrStdout(), said.Of(&doc, words))
}

// told says what is wrong in words, with its place in a file.
func told(c *cobra.Command, file string, err error) error {
	words, loadErr := wordsOf(c)
	if loadErr != nil {
		return errors.Join(err, loadErr)
	}
	if file != "" {
		file += ": "
	}
	var refused *analysis.SpecError
	var problem *intake.Problem
	switch {
	case errors.As(err, &refused):
		return usageError{fmt.Errorf("%s%s (%s)", file, words.Say(document.Say("problem."+refused.Code, refused.Values)), refused.Pointer)}
	case errors.As(err, &problem):
		values := map[string]string{"line": fmt.Sprint(problem.Line), "column": fmt.Sprint(problem.Column), "found": fmt.Sprint(problem.Found), "wanted": fmt.Sprint(problem.Wanted), "text": problem.Text}
		return fmt.Errorf("%s%s", file, words.Text("problem.intake."+string(problem.Code), values))
	}
	return fmt.Errorf("%s%w", file, err)
}

// readingFlags adds the flags that say how a file is read.
func readingFlags(c *cobra.Command, as *recipe.Data) {
	serverFlag(c)
	c.Flags().StringVar(&as.Header, "header", "", "whether the first line holds the names of the columns: names or none")
	_ = c.RegisterFlagCompletionFunc("header", cobra.FixedCompletions([]string{"names", "none"}, cobra.ShellCompDirectiveNoFileComp))
	c.Flags().StringVar(&as.Sheet, "sheet", "", "the sheet of a workbook, or the table of a package")
	c.Flags().StringVar(&as.Labels, "labels", "", "a codebook with what columns and codes mean: CSV, DDI or a Data Package")
	c.Flags().StringSliceVar(&as.Missing, "missing", nil, "codes that mean a missing answer in every column: NA,-9,.")
	c.Flags().StringVar(&as.LastRow, "last-row", "", "what a last row is that is called a total: total or respondent")
	_ = c.RegisterFlagCompletionFunc("last-row", cobra.FixedCompletions([]string{"total", "respondent"}, cobra.ShellCompDirectiveNoFileComp))
}

// weightsIn names a column that looks like weights; "" for none.
func weightsIn(table *intake.Table) string {
	for _, column := range table.Columns {
		if column.Kind == survey.Weight {
			return column.Name
		}
	}
	return ""
}

// drawnFlags adds the flags that say how the respondents of a file were drawn; with any of them the
// population is estimated.
func drawnFlags(c *cobra.Command, d *analysis.Drawn) {
	f := c.Flags()
	f.StringVar((*string)(&d.Weight), "weight", "", "the column of weights")
	f.Var(&keys{&d.Strata}, "strata", "the columns whose entries together are the strata: region,size")
	f.StringVar((*string)(&d.Cluster), "cluster", "", "the column of clusters")
	f.StringVar((*string)(&d.Population), "population", "", "the column that tells how many there are in the row’s stratum")
	f.Var(&keys{&d.Replicates}, "replicates", "the columns of replicate weights, or what their names begin with: rw")
	f.StringVar((*string)(&d.Method), "replicate-method", "", "how replicate weights were made: jk1, brr, fay, bootstrap or factors")
	f.StringVar(&d.Fay, "fay", "", "Fay’s factor of the method fay, such as 0.3")
	f.StringVar(&d.Factors, "factors", "", "what each replicate counts of the method factors: one for all, or one for each")
	f.IntVar(&d.DF, "df", 0, "the degrees of freedom of replicate weights where they are known")
	f.StringVar(&d.Fraction, "fraction", "", "the share of each stratum’s clusters that were drawn, such as \"5 %\"")
	f.StringVar((*string)(&d.SinglePSU), "single-psu", string(design.RefuseSingle), "a stratum of one cluster: refuse, centre or zero")
	_ = c.RegisterFlagCompletionFunc("single-psu", cobra.FixedCompletions([]string{"refuse", "centre", "zero"}, cobra.ShellCompDirectiveNoFileComp))
	_ = c.RegisterFlagCompletionFunc("replicate-method", cobra.FixedCompletions(analysis.TextsOf(analysis.StudyMethods), cobra.ShellCompDirectiveNoFileComp))
}

// replicatesOf are the columns of replicate weights, where one name is what theirs begin with those with a
// number behind it.
func replicatesOf(table *intake.Table, named []analysis.Key) (out []analysis.Key) {
	if len(named) != 1 || slices.ContainsFunc(table.Columns, func(c survey.Built) bool { return c.Name == string(named[0]) }) {
		return named
	}
	for _, c := range table.Columns {
		number, begins := strings.CutPrefix(c.Name, string(named[0]))
		if _, err := strconv.ParseUint(number, 10, 16); begins && err == nil {
			out = append(out, analysis.Key(c.Name))
		}
	}
	if out == nil {
		return named
	}
	return out
}

// keys is a flag that names several columns.
type keys struct{ of *[]analysis.Key }

func (k *keys) String() string { return "" }
func (k *keys) Type() string   { return "columns" }
func (k *keys) Set(s string) error {
	for _, name := range strings.Split(s, ",") {
		*k.of = append(*k.of, analysis.Key(strings.TrimSpace(name)))
	}
	return nil
}

// read reads a file of answers as is said, “-” for what comes through a pipe; its rows stand for
// as many as a column says.
func read(c *cobra.Command, name string, as recipe.Data, countedBy string) (*intake.Table, error) {
	f, err := opened(c, name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	if !slices.Contains([]string{"", "names", "none"}, as.Header) || !slices.Contains([]string{"", "total", "respondent"}, as.LastRow) {
		return nil, usageError{errors.New("--header is names or none, --last-row total or respondent")}
	}
	file := intake.File{R: f, Size: info.Size()}
	settings, err := recipes.SettingsOf(c.Context(), as, countedBy, file)
	if err != nil {
		return nil, told(c, name, err)
	}
	table, err := intake.Read(c.Context(), file, settings, nil)
	if err != nil {
		return nil, told(c, name, err)
	}
	if as.Labels != "" {
		if err := label(c, table, as.Labels); err != nil {
			return nil, err
		}
	}
	return table, nil
}

// label describes the columns of a file by a codebook.
func label(c *cobra.Command, table *intake.Table, name string) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	book, err := intake.ReadCodebook(c.Context(), intake.File{R: f, Size: info.Size()})
	if err == nil {
		err = recipes.Labelled(table, book)
	}
	if errors.Is(err, recipes.ErrNoLabels) {
		return usageError{fmt.Errorf("%s: %w", name, recipes.ErrNoLabels)}
	}
	if err != nil {
		return told(c, name, err)
	}
	return nil
}

// opened opens a file, or a study of a server; what comes through a pipe is put into one first, since reading looks twice.
func opened(c *cobra.Command, name string) (*os.File, error) {
	server, err := serverOf(c)
	if err != nil {
		return nil, err
	}
	if server != "" {
		return fetched(c, server, name)
	}
	if name != "-" {
		return os.Open(name)
	}
	f, err := os.CreateTemp("", "widetally-*")
	if err != nil {
		return nil, err
	}
	_ = os.Remove(f.Name()) // it goes with its last reader
	if _, err := io.Copy(f, c.InOrStdin()); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}
