package recipes

import (
	"context"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/disclosure"
	"widetally/core/document"
	"widetally/core/recipe"
	"widetally/internal/reporting"
)

// Book is a table book of the recipe as it was made of the file.
type Book struct {
	recipe.Tabulated
	Tables []BookTable
	// Problems keep it from being made, each where it stands in the recipe.
	Problems []*Mistake
}

// BookTable is a table of a book, as it may leave.
type BookTable struct {
	Made  *book.Made
	Shown book.Shown
}

// rule is what may be told of what the run writes.
func (r *Run) rule() disclosure.Rule {
	if is := r.Recipe.SafeToPublish; is != nil {
		return *is
	}
	return disclosure.Rule{}
}

// book makes the book at a place of the recipe.
func (r *Run) book(ctx context.Context, place int) (Book, error) {
	out := Book{Tabulated: r.Tabulate(place)}
	if out.Problems = r.told(out.Tabulated.Problems); len(out.Problems) > 0 {
		return out, nil
	}
	from := book.From{Columns: r.Source(), Rows: r.Rows, SubgroupName: func(key analysis.Key) string { return string(key) }, Rule: r.rule()}
	layout, err := book.Lay(out.Banner, from)
	if err != nil {
		return out, fmt.Errorf("recipes: %w", err)
	}
	tables := out.Book.Tables(r.Listed())
	if len(tables) > book.MostTables {
		tables = tables[:book.MostTables]
	}
	made, err := book.Make(ctx, out.Book, layout, tables, r.Nets, from)
	if err != nil {
		return out, fmt.Errorf("recipes: %w", err)
	}
	for _, m := range made {
		m.Protect(r.rule(), layout)
		out.Tables = append(out.Tables, BookTable{m, m.Document(out.Book, layout, r.Recipe.Study.Units, string(out.Book.Subgroup), r.rule())})
	}
	return out, nil
}

// told are problems where they stand in the recipe.
func (r *Run) told(problems []analysis.Problem) (out []*Mistake) {
	for _, p := range problems {
		out = append(out, r.text.At(p.Pointer, document.Say("problem."+p.Code, p.Values)))
	}
	return out
}

// Chance counts the comparisons of the tables.
func (b Book) Chance() book.Chance {
	var made []*book.Made
	for _, t := range b.Tables {
		made = append(made, t.Made)
	}
	return b.Book.ChanceOf(made)
}

// Tables is a book as a report that every form is written from.
func (r *Run) Tables(b Book) reporting.Book {
	out := reporting.Book{Title: b.Book.Title, Study: r.Recipe.Study.Name, At: r.At, Chance: b.Chance().Said()}
	if is := r.Recipe.Design; is != nil && !b.Book.Unweighted {
		by := is.Sampled(func(key analysis.Key) string { return string(key) })
		out.Design, out.Weight = by.Drawn(), by.Weight
	}
	for _, t := range b.Tables {
		out.Tables = append(out.Tables, reporting.BookTable{Section: t.Made.Questions[0].Section, Shown: t.Shown})
	}
	return out
}

// BookResult is a book in the results: how many tables and comparisons it has, or what keeps it from being made.
type BookResult struct {
	Title       string   `json:"title"`
	Banner      string   `json:"banner"`
	Tables      int      `json:"tables"`
	Comparisons int      `json:"comparisons"`
	Standing    int      `json:"standingOut"`
	Said        string   `json:"said,omitempty"`
	Problems    []string `json:"problems,omitempty"`
}

func (r *Run) booksResult() (out []BookResult) {
	for _, b := range r.Books {
		one := BookResult{Title: b.Book.Title, Banner: string(b.Book.Banner), Tables: len(b.Tables)}
		for _, p := range b.Problems {
			one.Problems = append(one.Problems, p.Why)
		}
		if len(b.Problems) == 0 {
			chance := b.Chance()
			one.Comparisons, one.Standing = chance.Tests, chance.Standing
			if said := chance.Said(); said.ID != "" {
				one.Said = r.words.Say(said)
			}
		}
		out = append(out, one)
	}
	return out
}
