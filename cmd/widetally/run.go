package main

import (
	"cmp"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"widetally/core/recipe"
	"widetally/internal/chart"
	"widetally/internal/export"
	"widetally/internal/pages"
	"widetally/internal/recipes"
	"widetally/internal/reporting"
	"widetally/web"
)

// runCommand runs a recipe on a file, with no browser and no database.
func runCommand() *cobra.Command {
	var data, out, reportTo, tablesTo, template string
	var set map[string]string
	c := &cobra.Command{
		Use: "run RECIPE.yaml --data FILE", Short: "Run a recipe on a file of answers", Args: exactly(1),
		Long: `Run a recipe on a file of answers: the same figures as on the pages, with no browser and no database.

A mistake of the recipe is told with its line and column. What the file lacks or has besides is
told, and the rest runs; the exit code is 3 then if something that was asked was left out.`,
		Example: `  widetally run recipe.yaml --data answers.csv --out results.json --report report.html
  widetally run recipe.yaml --data next-year.xlsx --report report.docx
  widetally run recipe.yaml --data answers.csv --tables tables.xlsx
  cat answers.csv | widetally run recipe.yaml --data - > results.json`,
		RunE: func(c *cobra.Command, args []string) error {
			if data == "" {
				return usageError{errors.New("name the file of answers with --data")}
			}
			form, tablesForm := formOf(reportTo), formOf(tablesTo)
			if reportTo != "" && form.MediaType() == "" || tablesTo != "" && tablesForm.MediaType() == "" {
				return usageError{fmt.Errorf("a report or a table book is written as %s, by the ending of its name", forms())}
			}
			if (form == export.PDFReport || tablesForm == export.PDFReport) && !pages.Found() {
				return usageError{errors.New("a PDF is made by LibreOffice (soffice), which is not installed here; write a docx")}
			}
			if template != "" && form != export.PDFReport && form != export.DOCXReport {
				return usageError{errors.New("a template is for a report in the form docx or pdf")}
			}
			run, err := runRecipe(c, args[0], data, set)
			if err != nil {
				return err
			}
			raw, err := run.JSON()
			if err != nil {
				return err
			}
			if out == "" && reportTo == "" && tablesTo == "" || out == "-" {
				_, err = c.OutOrStdout().Write(raw)
			} else if out != "" {
				err = os.WriteFile(out, raw, 0o644) //nolint:gosec // results are for others to read
			}
			if err == nil && reportTo != "" {
				err = writeReport(c, run, form, reportTo, template)
			}
			if err == nil && tablesTo != "" {
				err = writeTables(c, run, tablesForm, tablesTo)
			}
			if err != nil {
				return err
			}
			return leftOut(c.ErrOrStderr(), args[0], run)
		},
	}
	c.Flags().StringToStringVar(&set, "set", nil, "values of the parameters of the recipe: wave=2,title=Spring")
	c.Flags().StringVar(&data, "data", "", "the file of answers; - for what comes through a pipe")
	c.Flags().StringVar(&out, "out", "", "where the results go, as JSON; to the terminal where neither this nor a report nor tables are asked for")
	c.Flags().StringVar(&template, "template", "", "a document (DOCX) of which a report in this form takes the styles and the pages")
	c.Flags().StringVar(&tablesTo, "tables", "", "where the table books go, in the form of the ending; of several each has its title in its name")
	c.Flags().StringVar(&reportTo, "report", "", "where the report goes, in the form of its ending: "+forms())
	return c
}

// formOf is the form of a report by the ending of its name.
func formOf(name string) export.ReportForm {
	if strings.HasSuffix(name, string(export.FiguresReport)+"."+export.FiguresReport.Extension()) {
		return export.FiguresReport
	}
	return export.ReportForm(strings.TrimPrefix(filepath.Ext(name), "."))
}

func forms() string {
	var list []string
	for _, f := range export.ReportForms {
		if f.Extension() != string(f) {
			list = append(list, string(f)+"."+f.Extension())
			continue
		}
		list = append(list, string(f))
	}
	return strings.Join(list, ", ")
}

// readRecipe reads a recipe with those that it includes and the values that are given for its parameters.
func readRecipe(c *cobra.Command, name string, set map[string]string) (*recipes.Text, error) {
	words, err := wordsOf(c)
	if err != nil {
		return nil, err
	}
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	text, err := recipes.Read(f, registry, words, recipes.Options{Name: filepath.ToSlash(name), Set: set, Open: func(name string) (io.ReadCloser, error) { return os.Open(filepath.FromSlash(name)) }})
	if err != nil {
		return nil, placed(c, name, err)
	}
	return text, nil
}

func runRecipe(c *cobra.Command, name, data string, set map[string]string) (*recipes.Run, error) {
	words, err := wordsOf(c)
	if err != nil {
		return nil, err
	}
	text, err := readRecipe(c, name, set)
	if err != nil {
		return nil, err
	}
	table, err := read(c, data, dataOf(text, name), text.Recipe.Study.CountedBy)
	if err != nil {
		return nil, err
	}
	told := func(int, int) {}
	if errs, ok := c.ErrOrStderr().(*os.File); ok && isTerminal(errs) {
		told = func(done, of int) { fmt.Fprintf(errs, "\r%d of %d analyses", done+1, of) }
		defer fmt.Fprint(errs, "\r\033[K")
	}
	run, err := recipes.On(c.Context(), text, table, filepath.Base(data), words, told)
	if err != nil {
		return nil, placed(c, name, err)
	}
	return run, nil
}

// dataOf says how the file of a recipe is read; a codebook stands beside the recipe.
func dataOf(text *recipes.Text, name string) recipe.Data {
	as := text.Recipe.Data
	if as.Labels != "" && !filepath.IsAbs(as.Labels) {
		as.Labels = filepath.Join(filepath.Dir(name), as.Labels)
	}
	return as
}

// placed names the file of a mistake.
func placed(c *cobra.Command, name string, err error) error {
	var m *recipes.Mistake
	if errors.As(err, &m) {
		return usageError{fmt.Errorf("%s:%d:%d: %s", cmp.Or(m.File, name), m.Line, m.Column, m.Why)}
	}
	return told(c, name, err)
}

func isTerminal(f *os.File) bool {
	info, err := f.Stat()
	return err == nil && info.Mode()&os.ModeCharDevice != 0
}

// leftOut tells what of the file is not as the recipe has it, and what was left out for that.
func leftOut(to io.Writer, recipe string, run *recipes.Run) error {
	for _, n := range run.Told() {
		fmt.Fprintln(to, n.Text)
	}
	partial := false
	for _, r := range run.Results {
		for _, p := range r.Problems {
			partial = true
			fmt.Fprintf(to, "%s:%d:%d: %s is left out: %s\n", cmp.Or(p.File, recipe), p.Line, p.Column, r.Name, p.Why)
		}
	}
	for _, b := range run.Books {
		for _, p := range b.Problems {
			partial = true
			fmt.Fprintf(to, "%s:%d:%d: %s is left out: %s\n", cmp.Or(p.File, recipe), p.Line, p.Column, b.Book.Title, p.Why)
		}
	}
	if partial {
		return errPartial
	}
	return nil
}

// templateOf reads the document of which styles are taken.
func templateOf(name string) (*export.Template, error) {
	f, err := os.Open(name)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return nil, err
	}
	t, err := export.ReadTemplate(f, info.Size())
	if err != nil {
		return nil, usageError{fmt.Errorf("%s: no text document (DOCX) with styles that can be taken", name)}
	}
	return t, nil
}

func writeReport(c *cobra.Command, run *recipes.Run, form export.ReportForm, to, template string) error {
	words, err := wordsOf(c)
	if err != nil {
		return err
	}
	definition, content, err := run.Report()
	if err != nil {
		return err
	}
	maker := reporting.Maker{Words: words, Methods: registry}
	if drawer := chart.New(web.Charts()); drawer.Built() {
		maker.Draw = drawer.Draw
	}
	if errs, ok := c.ErrOrStderr().(*os.File); ok && isTerminal(errs) {
		maker.Told = func(done, of int) { fmt.Fprintf(errs, "\r%d of %d pieces", done+1, of) }
		defer fmt.Fprint(errs, "\r\033[K")
	}
	made, err := maker.For(form).Make(c.Context(), definition, content)
	if err != nil {
		return err
	}
	if template != "" {
		if made.Template, err = templateOf(template); err != nil {
			return err
		}
	}
	for name, content := range made.Beside(form) { // the pictures of a text
		at := filepath.Join(filepath.Dir(to), filepath.FromSlash(name))
		if err := os.MkdirAll(filepath.Dir(at), 0o755); err != nil { //nolint:gosec // as any folder that a person makes
			return err
		}
		if err := written(at, func(w io.Writer) error { _, err := w.Write(content); return err }); err != nil {
			return err
		}
	}
	return writeMade(c, made, form, to)
}

// writeTables writes the table books that could be made.
func writeTables(c *cobra.Command, run *recipes.Run, form export.ReportForm, to string) error {
	words, err := wordsOf(c)
	if err != nil {
		return err
	}
	if len(run.Books) == 0 {
		return usageError{errors.New("the recipe has no table book: list some under books")}
	}
	for i, b := range run.Books {
		if len(b.Problems) > 0 {
			continue
		}
		at := to
		if len(run.Books) > 1 {
			ending := "." + form.Extension()
			if form == export.FiguresReport {
				ending = "." + string(form) + ending
			}
			at = strings.TrimSuffix(to, ending) + "-" + export.FileName(b.Book.Title, strconv.Itoa(i+1), time.Time{}, strings.TrimPrefix(ending, "."))
		}
		made := reporting.BookReport(words, run.Tables(b))
		if err := writeMade(c, made, form, at); err != nil {
			return err
		}
	}
	return nil
}

// writeMade writes a report that is made to a file.
func writeMade(c *cobra.Command, made export.Report, form export.ReportForm, to string) error {
	write := func(w io.Writer) error { return made.Write(w, form) }
	if form == export.PDFReport {
		return written(to, func(w io.Writer) error { return pages.PDF(c.Context(), w, string(made.PagesFrom()), write) })
	}
	return written(to, write)
}

// written writes a file beside and puts it in its place, so that nothing half is ever there.
func written(to string, write func(w io.Writer) error) error {
	f, err := os.CreateTemp(filepath.Dir(to), ".widetally-*")
	if err != nil {
		return err
	}
	err = errors.Join(write(f), f.Close())
	if err == nil {
		err = os.Chmod(f.Name(), 0o644) //nolint:gosec // as any file that a person writes
	}
	if err == nil {
		err = os.Rename(f.Name(), to)
	}
	if err != nil {
		_ = os.Remove(f.Name())
	}
	return err
}
