package main

import (
	"errors"
	"fmt"
	"path/filepath"
	"slices"
	"time"

	"github.com/spf13/cobra"

	"widetally/core/disclosure"
	"widetally/core/report"
	"widetally/internal/export"
	"widetally/internal/i18n"
	"widetally/internal/reporting"
)

// leaving is the form in which results leave the terminal, "" for lines of text, and what of them may be told.
type leaving struct {
	form string
	rule disclosure.Rule
}

// textForms are the forms that a terminal or a pipe takes.
var textForms = []string{string(export.CSVReport), string(export.MarkdownReport), string(export.HTMLReport), string(export.LaTeXReport)}

func (l *leaving) flag(c *cobra.Command) {
	c.Flags().StringVar(&l.form, "as", "", "write tables and sentences as csv, md, html or tex")
	_ = c.RegisterFlagCompletionFunc("as", cobra.FixedCompletions(textForms, cobra.ShellCompDirectiveNoFileComp))
	c.Flags().Int64Var(&l.rule.Least, "least-base", 0, "withhold figures of fewer respondents than this")
	c.Flags().Int64Var(&l.rule.Fewest, "fewest", 0, "withhold counts below this, and by which others these could be had")
	c.Flags().Int64Var(&l.rule.Rounding, "round", 0, "round counts to a multiple of 3, 5 or 10")
	c.Flags().BoolVar(&l.rule.CodeEnds, "code-ends", false, "tell the lowest and the highest values of a number together where fewer than --fewest gave one")
	c.Flags().BoolVar(&l.rule.PercentsOnly, "percents-only", false, "tell percents and bases, no counts")
}

func (l *leaving) check() error {
	if l.form != "" && !slices.Contains(textForms, l.form) {
		return usageError{fmt.Errorf("--as takes csv, md, html or tex, not %q", l.form)}
	}
	if len(l.rule.Check()) > 0 {
		return usageError{errors.New("--least-base and --fewest take 0 to 10000, --round 3, 5 or 10")}
	}
	return nil
}

// write writes tallies or an analysis of a file in the form.
func (l *leaving) write(c *cobra.Command, words *i18n.Catalogue, file, units string, tallies []*reporting.Tally, asked *reporting.Analysis) error {
	name := filepath.Base(file)
	if file == "-" {
		name = "stdin"
	}
	of := report.Report{Title: name, Without: report.Parts}
	content := reporting.Content{Study: name, Units: units, At: time.Now(), Tallies: map[int]*reporting.Tally{}, Analyses: map[int]*reporting.Analysis{}}
	for i, t := range tallies {
		of.Pieces = append(of.Pieces, report.Piece{ID: i + 1, Question: uint64(i) + 1})
		content.Tallies[i+1] = t
	}
	if asked != nil {
		of.Pieces = append(of.Pieces, report.Piece{ID: 1, Analysis: 1})
		content.Analyses[1] = asked
	}
	made, err := reporting.Maker{Words: words, Methods: registry}.Make(c.Context(), of, content)
	if err != nil {
		return err
	}
	return made.Write(c.OutOrStdout(), export.ReportForm(l.form))
}
