package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"slices"
	"strings"
	"text/tabwriter"

	"github.com/spf13/cobra"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/recipe"
	"widetally/core/resultjson"
	"widetally/core/survey"
	"widetally/core/tally"
	"widetally/internal/export"
	"widetally/internal/recipes"
	"widetally/internal/reporting"
)

// mostDecimals is how many decimals a percent may have, and orders are those of answers.
const mostDecimals = 6

var orders = analysis.TextsOf(claim.Orders)

// methodsToo completes the methods that can be computed, and then a file.
func methodsToo(_ *cobra.Command, args []string, typed string) (found []string, how cobra.ShellCompDirective) {
	if len(args) > 0 {
		return nil, cobra.ShellCompDirectiveDefault
	}
	for _, m := range registry.All() {
		if strings.HasPrefix(m.Name, typed) {
			found = append(found, m.Name+"\t"+m.Summary)
		}
	}
	return found, cobra.ShellCompDirectiveNoFileComp
}

// columnsOfFile completes the columns of the file that is named first.
func columnsOfFile(c *cobra.Command, args []string, typed string) (found []string, how cobra.ShellCompDirective) {
	if len(args) == 0 {
		return nil, cobra.ShellCompDirectiveDefault
	}
	table, err := read(c, args[0], recipe.Data{}, "")
	if err != nil {
		return nil, cobra.ShellCompDirectiveNoFileComp
	}
	for _, column := range table.Columns {
		if strings.HasPrefix(column.Name, typed) && !slices.Contains(args[1:], column.Name) {
			found = append(found, column.Name+"\t"+column.Wording)
		}
	}
	return found, cobra.ShellCompDirectiveNoFileComp
}

// tallyCommand prints frequency tables of a file's columns.
func tallyCommand() *cobra.Command {
	var asJSON bool
	var units, counts, order string
	var decimals int
	var as recipe.Data
	var drawn analysis.Drawn
	var out leaving
	c := &cobra.Command{
		Use: "tally FILE [COLUMN...]", Short: "Print frequency tables of a file’s columns",
		Example: "  widetally tally answers.csv tenure ward\n  cat answers.csv | widetally tally - tenure --json\n  widetally tally counts.csv tenure --counts n",
		Args: func(c *cobra.Command, args []string) error {
			if len(args) == 0 {
				return usageError{fmt.Errorf("it goes like this: widetally %s", c.Use)}
			}
			return nil
		},
		RunE: func(c *cobra.Command, args []string) error {
			if len(drawn.Questions()) > 0 {
				return estimate(c, args[0], args[1:], units, as, drawn, asJSON, out)
			}
			words, err := wordsOf(c)
			if err != nil {
				return err
			}
			table, err := read(c, args[0], as, counts)
			if err != nil {
				return err
			}
			for _, name := range append(args[1:], counts) {
				table.Known(name)
			}
			if len(table.Problems) > 0 {
				return told(c, args[0], &table.Problems[0])
			}
			var of survey.Sample
			if table.CountColumn >= 0 {
				of.Frequency = table.Columns[table.CountColumn].Data.Multiplicities()
			}
			chosen, err := columnsOf(table.Columns, args[1:], counts)
			if err != nil {
				return err
			}
			if err := out.check(); err != nil {
				return err
			}
			if !slices.Contains(orders, order) {
				return usageError{fmt.Errorf("--order takes %s, not %q", strings.Join(orders, ", "), order)}
			}
			if decimals < 0 || decimals > mostDecimals {
				return usageError{fmt.Errorf("--decimals takes 0 to %d", mostDecimals)}
			}
			results := []recipes.TallyResult{}
			var tallies []*reporting.Tally
			for _, b := range chosen {
				f, err := tally.Tabulate(b.Question, b.Data, of)
				if err != nil {
					return err
				}
				of := &reporting.Tally{Question: b.Question, Frequency: f, Units: units, Decimals: decimals, Order: claim.Order(order), Rule: out.rule}
				tallies = append(tallies, of)
				t := reporting.TallyTable(words, of, "answered", of.Order, nil)
				if asJSON {
					results = append(results, recipes.TallyOf(b.Question, f, out.rule))
				} else if out.form != "" {
					continue
				} else if err := printTable(c.OutOrStdout(), t); err != nil {
					return err
				}
			}
			if asJSON {
				return printJSON(c.OutOrStdout(), results)
			}
			if out.form != "" {
				return out.write(c, words, args[0], units, tallies, nil)
			}
			if name := weightsIn(table); name != "" {
				_, err = fmt.Fprintln(c.OutOrStdout(), words.Text("note.page.unweighted", map[string]string{"name": name, "units": units}))
			}
			return err
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "write JSON at full precision")
	c.Flags().StringVar(&units, "units", "respondents", "what a row is, in the plural")
	readingFlags(c, &as)
	drawnFlags(c, &drawn)
	out.flag(c)
	c.ValidArgsFunction = columnsOfFile
	c.Flags().IntVar(&decimals, "decimals", 1, "decimals of percents")
	c.Flags().StringVar(&order, "order", orders[0], "the order of the answers: "+strings.Join(orders, ", "))
	_ = c.RegisterFlagCompletionFunc("order", cobra.FixedCompletions(orders, cobra.ShellCompDirectiveNoFileComp))
	c.Flags().StringVar(&counts, "counts", "", "the column that says how many respondents a row stands for")
	return c
}

// estimate tells the estimated shares of the answers to columns.
func estimate(c *cobra.Command, file string, columns []string, units string, as recipe.Data, drawn analysis.Drawn, asJSON bool, out leaving) error {
	if len(columns) == 0 {
		return usageError{errors.New("name the columns whose shares are to be estimated")}
	}
	for _, name := range columns {
		spec, err := asked(c, "frequency", []string{name}, nil)
		if err != nil {
			return err
		}
		if err := answer(c, spec, file, units, as, drawn, asJSON, out); err != nil {
			return err
		}
	}
	return nil
}

func printJSON(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}

// columnsOf gives the columns that are named, or all that can be tabulated.
func columnsOf(columns []survey.Built, names []string, counts string) (out []survey.Built, err error) {
	for _, name := range names {
		found := false
		for _, b := range columns {
			if b.Name != name {
				continue
			}
			found = true
			if !b.Kind.Coded() {
				if b.Question, b.Data, _, err = survey.Recode(b.Question, b.Data, survey.Single); err != nil {
					return nil, fmt.Errorf("%q has too many different answers for a table", name)
				}
			}
			out = append(out, b)
		}
		if !found {
			return nil, fmt.Errorf("the file has no column %q", name)
		}
	}
	if len(names) > 0 {
		return out, nil
	}
	for _, b := range columns {
		if b.Kind.Tabulated() && b.Name != counts {
			out = append(out, b)
		}
	}
	return out, nil
}

// printTable prints a table as text, figures to the right.
func printTable(to io.Writer, t export.Table) error {
	fmt.Fprintln(to, t.Title)
	w := tabwriter.NewWriter(to, 0, 0, 2, ' ', tabwriter.AlignRight)
	line := func(cells []string) {
		fmt.Fprintln(w, strings.Join(cells, "\t")+"\t")
	}
	line(t.Head)
	for _, row := range t.Rows {
		cells := make([]string, len(row))
		for i, c := range row {
			cells[i] = c.Text
		}
		line(cells)
	}
	if err := w.Flush(); err != nil {
		return err
	}
	for _, n := range t.Notes {
		fmt.Fprintln(to, n)
	}
	_, err := fmt.Fprintln(to)
	return err
}

// asked makes a spec of a method with the settings of its form, changed by a JSON merge.
func asked(c *cobra.Command, method string, questions []string, change map[string]any) (analysis.Spec, error) {
	m, ok := registry.Find(method)
	if !ok || m.Asked == nil {
		return analysis.Spec{}, fmt.Errorf("there is no method %q", method)
	}
	raw, err := json.Marshal(m.Asked.New())
	if err != nil {
		return analysis.Spec{}, err
	}
	settings := map[string]any{}
	if err := json.Unmarshal(raw, &settings); err != nil {
		return analysis.Spec{}, err
	}
	for k, v := range change {
		settings[k] = v
	}
	if raw, err = json.Marshal(map[string]any{"method": method, "version": m.Asked.Version, "questions": questions, "settings": settings}); err != nil {
		return analysis.Spec{}, err
	}
	spec, err := registry.Spec(raw)
	if err != nil {
		return spec, usageError{told(c, "", err)}
	}
	return spec, nil
}

// crossCommand prints a contingency table.
func crossCommand() *cobra.Command {
	var asJSON bool
	var units string
	var as recipe.Data
	var drawn analysis.Drawn
	var out leaving
	c := &cobra.Command{
		Use: "cross FILE ANSWERS GROUPS", Short: "Print a contingency table: the answers to one column within the groups of another", Args: exactly(3),
		Example: "  widetally cross answers.csv tenure ward",
		RunE: func(c *cobra.Command, args []string) error {
			spec, err := asked(c, "crosstab", args[1:], map[string]any{"reading": "row"})
			if err != nil {
				return err
			}
			return answer(c, spec, args[0], units, as, drawn, asJSON, out)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "write the complete result as JSON")
	c.Flags().StringVar(&units, "units", "respondents", "what a row is, in the plural")
	readingFlags(c, &as)
	drawnFlags(c, &drawn)
	out.flag(c)
	c.ValidArgsFunction = columnsOfFile
	return c
}

// testCommand tests a column against shares, one of its answers against a share, or whether it
// goes together with another.
func testCommand() *cobra.Command {
	var asJSON, equal bool
	var units, shares, success, claimed, direction, by, level string
	var as recipe.Data
	var drawn analysis.Drawn
	var out leaving
	c := &cobra.Command{
		Use: "test FILE COLUMN", Short: "Test a column: against shares, one answer against a share, or together with another column", Args: exactly(2),
		Example: `  widetally test answers.csv tenure --shares "own=58,rent=39.5,other=2.5"
  widetally test answers.csv tenure --equal
  widetally test answers.csv caddy --success yes --claimed "62 %" --direction less
  widetally test answers.csv caddy --by ward --level 0.01`,
		RunE: func(c *cobra.Command, args []string) error {
			var spec analysis.Spec
			var err error
			switch {
			case by != "":
				spec, err = asked(c, "crosstab", []string{args[1], by}, map[string]any{"reading": "row", "test": map[string]any{"role": "alternative", "level": json.Number(level)}})
			case success != "":
				if claimed == "" || direction == "" {
					return usageError{errors.New("say the share with --claimed, such as \"62 %\", and --direction: less, different or greater")}
				}
				spec, err = asked(c, "one-proportion", args[1:], map[string]any{"success": strings.Split(success, ","), "claimed": claimed, "direction": direction, "role": "alternative", "level": json.Number(level), "source": map[string]any{}})
			case equal:
				spec, err = asked(c, "goodness-of-fit", args[1:], map[string]any{"shares": map[string]any{"scale": "equal", "source": map[string]any{}}, "role": "null", "level": json.Number(level)})
			case shares != "":
				figures := []map[string]string{}
				for _, one := range strings.Split(shares, ",") {
					code, figure, ok := strings.Cut(one, "=")
					if !ok {
						return usageError{fmt.Errorf("%q is no share; write answer=figure", one)}
					}
					figures = append(figures, map[string]string{"code": strings.TrimSpace(code), "figure": strings.TrimSpace(figure)})
				}
				spec, err = asked(c, "goodness-of-fit", args[1:], map[string]any{"shares": map[string]any{"scale": "percents", "figures": figures, "source": map[string]any{"kind": "theory", "title": "the shares given"}}, "role": "null", "level": json.Number(level)})
			default:
				return usageError{errors.New("say against what: --shares, --equal, --success with --claimed, or --by")}
			}
			if err != nil {
				return err
			}
			return answer(c, spec, args[0], units, as, drawn, asJSON, out)
		},
	}
	f := c.Flags()
	f.BoolVar(&asJSON, "json", false, "write the complete result as JSON")
	f.StringVar(&units, "units", "respondents", "what a row is, in the plural")
	readingFlags(c, &as)
	drawnFlags(c, &drawn)
	out.flag(c)
	c.ValidArgsFunction = columnsOfFile
	f.StringVar(&shares, "shares", "", "expected percents by answer: own=58,rent=39.5,other=2.5")
	f.BoolVar(&equal, "equal", false, "all answers are expected equally often")
	f.StringVar(&success, "success", "", "the answer, or several, whose share is tested")
	f.StringVar(&claimed, "claimed", "", `the share it is compared with, such as "62 %"`)
	f.StringVar(&direction, "direction", "", "less, different or greater than that")
	f.StringVar(&by, "by", "", "the column that it is crossed with")
	f.StringVar(&level, "level", "0.05", "the significance level")
	return c
}

// computeCommand computes a method from typed figures.
func computeCommand() *cobra.Command {
	var list bool
	c := &cobra.Command{
		ValidArgsFunction: methodsToo,
		Use:               "compute METHOD [REQUEST.json]", Short: "Compute a method from figures, given as JSON in a file or through a pipe",
		Example: `  widetally compute --list
  echo '{"observed":[734,506],"shares":[0.62,0.38],"level":0.05}' | widetally compute goodness-of-fit`,
		RunE: func(c *cobra.Command, args []string) error {
			if list {
				for _, m := range registry.All() {
					fmt.Fprintf(c.OutOrStdout(), "%-28s %s\n", m.Name, m.Summary)
				}
				return nil
			}
			if len(args) == 0 || len(args) > 2 {
				return usageError{fmt.Errorf("it goes like this: widetally %s", c.Use)}
			}
			m, ok := registry.Find(args[0])
			if !ok {
				return usageError{fmt.Errorf("there is no method %q; widetally compute --list lists them", args[0])}
			}
			from := io.Reader(c.InOrStdin())
			if len(args) == 2 {
				f, err := os.Open(args[1])
				if err != nil {
					return err
				}
				defer f.Close()
				from = f
			}
			in := m.New()
			d := json.NewDecoder(from)
			d.DisallowUnknownFields()
			if err := d.Decode(in); err != nil {
				return usageError{fmt.Errorf("the request cannot be read: %w", err)}
			}
			result, err := m.Run(c.Context(), in)
			if err != nil {
				return told(c, "", err)
			}
			raw, err := resultjson.Encode(result)
			if err != nil {
				return err
			}
			_, err = fmt.Fprintln(c.OutOrStdout(), string(raw))
			return err
		},
	}
	c.Flags().BoolVar(&list, "list", false, "list the methods")
	return c
}
