package main

import (
	"cmp"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"widetally/core/recipe"
	"widetally/internal/recipes"
)

// recipeCommand helps to write recipes by hand.
func recipeCommand() *cobra.Command {
	c := &cobra.Command{Use: "recipe", Short: "Begin a recipe from a file, or have one explained", Args: exactly(0), RunE: func(c *cobra.Command, _ []string) error { return c.Help() }}
	c.AddCommand(newRecipeCommand(), checkRecipeCommand())
	return c
}

// newRecipeCommand writes a start from a file.
func newRecipeCommand() *cobra.Command {
	var as recipe.Data
	var to, units string
	c := &cobra.Command{
		Use: "new FILE", Short: "Write a commented start of a recipe from a file of answers", Args: exactly(1),
		Example: "  widetally recipe new answers.csv > recipe.yaml\n  widetally recipe new answers.csv --labels codebook.csv --out recipe.yaml",
		RunE: func(c *cobra.Command, args []string) error {
			words, err := wordsOf(c)
			if err != nil {
				return err
			}
			table, err := read(c, args[0], as, "")
			if err != nil {
				return err
			}
			write := func(w io.Writer) error { return recipes.Start(w, words, table, as, filepath.Base(args[0]), units) }
			if to == "" || to == "-" {
				return write(c.OutOrStdout())
			}
			if _, err := os.Stat(to); err == nil {
				return usageError{fmt.Errorf("%s is there already; name another file with --out", to)}
			}
			return written(to, write)
		},
	}
	c.Flags().StringVar(&to, "out", "", "where it goes, a new file; to the terminal where this is left out")
	c.Flags().StringVar(&units, "units", "", "what a row is, in the plural")
	readingFlags(c, &as)
	return c
}

// checkRecipeCommand explains a recipe, and says what a file lacks for it.
func checkRecipeCommand() *cobra.Command {
	var data string
	var set map[string]string
	c := &cobra.Command{
		Use: "check RECIPE.yaml", Short: "Say in sentences what a recipe does, and whether a file has what it needs", Args: exactly(1),
		Long: `Say in sentences what a recipe does, or what is wrong with it, with its line and column. With --data
the columns of a file are held against it; nothing is counted. The exit code is 3 where the file lacks something.`,
		Example: "  widetally recipe check recipe.yaml --set wave=2\n  widetally recipe check recipe.yaml --data answers.csv",
		RunE: func(c *cobra.Command, args []string) error {
			text, err := readRecipe(c, args[0], set)
			if err != nil {
				return err
			}
			for _, line := range text.Explained(registry) {
				fmt.Fprintln(c.OutOrStdout(), line)
			}
			if data == "" {
				return nil
			}
			table, err := read(c, data, dataOf(text, args[0]), text.Recipe.Study.CountedBy)
			if err != nil {
				return err
			}
			noticed, faults, err := text.Held(table)
			if err != nil {
				return placed(c, args[0], err)
			}
			for _, line := range noticed {
				fmt.Fprintln(c.OutOrStdout(), line)
			}
			for _, p := range faults {
				fmt.Fprintf(c.OutOrStdout(), "%s:%d:%d: %s\n", cmp.Or(p.File, args[0]), p.Line, p.Column, p.Why)
			}
			if len(faults) > 0 {
				return errPartial
			}
			return nil
		},
	}
	c.Flags().StringVar(&data, "data", "", "a file of answers that it shall run on; - for what comes through a pipe")
	c.Flags().StringToStringVar(&set, "set", nil, "values of the parameters of the recipe: wave=2,title=Spring")
	return c
}
