package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/spf13/cobra"

	"widetally/core/analysis"
	"widetally/core/claim"
	"widetally/core/document"
	"widetally/core/recipe"
	"widetally/core/resultjson"
	"widetally/internal/i18n"
	"widetally/internal/intake"
	"widetally/internal/recipes"
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
	c := &cobra.Command{
		Use: "analyse SPEC.json FILE", Short: "Ask a file what a spec asks", Args: exactly(2),
		Example: "  widetally analyse spec.json answers.csv --units households\n  widetally analyse spec.json answers.csv --json",
		RunE: func(c *cobra.Command, args []string) error {
			raw, err := os.ReadFile(args[0])
			if err != nil {
				return err
			}
			var spec analysis.Spec
			if err := json.Unmarshal(raw, &spec); err != nil {
				return told(args[0], err)
			}
			return answer(c, spec, args[1], units, asJSON)
		},
	}
	c.Flags().BoolVar(&asJSON, "json", false, "write the complete result as JSON")
	c.Flags().StringVar(&units, "units", "respondents", "what a row is, in the plural")
	return c
}

// answer asks a file what a spec asks and writes what comes out.
func answer(c *cobra.Command, spec analysis.Spec, file, units string, asJSON bool) error {
	words, err := i18n.Load("en")
	if err != nil {
		return err
	}
	table, err := read(c, file)
	if err != nil {
		return err
	}
	from, err := table.Source()
	if err != nil {
		return told(file, err)
	}
	counted, err := analysis.Count(c.Context(), spec, from)
	if err != nil {
		return told("", err)
	}
	o, err := analysis.Run(analysis.Work{Context: c.Context(), Steps: commandSteps, Replicates: commandReplicates}, spec, counted)
	switch {
	case err != nil:
		return err
	case o.Refusal != nil:
		return o.Refusal
	case asJSON:
		raw, err := resultjson.Encode(o.Result)
		if err != nil {
			return err
		}
		_, err = fmt.Fprintln(c.OutOrStdout(), string(raw))
		return err
	}
	return terminal.Write(c.OutOrStdout(), o.Document(claim.About{Units: document.Text(units)}), words)
}

// told says what is wrong in words, with its place in a file.
func told(file string, err error) error {
	words, loadErr := i18n.Load("en")
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
		return fmt.Errorf("%s%s (line %d)", file, words.Text("problem.intake."+string(problem.Code), values), problem.Line)
	}
	return fmt.Errorf("%s%w", file, err)
}

// read reads a file of answers, “-” for what comes through a pipe.
func read(c *cobra.Command, name string) (*intake.Table, error) {
	return readAs(c, name, recipe.Data{})
}

func readAs(c *cobra.Command, name string, as recipe.Data) (*intake.Table, error) {
	f, err := opened(c, name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	file := intake.File{R: f, Size: info.Size()}
	settings, err := recipes.SettingsOf(c.Context(), as, file)
	if err != nil {
		return nil, told(name, err)
	}
	table, err := intake.Read(c.Context(), file, settings, nil)
	if err != nil {
		return nil, told(name, err)
	}
	return table, nil
}

// opened opens a file; what comes through a pipe is put into one first, since reading looks twice.
func opened(c *cobra.Command, name string) (*os.File, error) {
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
