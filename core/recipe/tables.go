package recipe

import (
	"fmt"
	"slices"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/survey"
)

// Banner is the columns of tables under a name; questions and subgroups go by their names.
type Banner struct {
	Name string `json:"name"`
	book.Banner
}

// Bounds of what makes tables in a recipe.
const (
	mostBanners = 200
	mostBooks   = 200
)

// checkTables refuses banners and books that cannot be, whatever the file.
func (r Recipe) checkTables(subgroups map[string]bool) error {
	switch {
	case len(r.Banners) > mostBanners:
		return wrong("/banners", "banners", document.Values{"most": document.N(mostBanners)})
	case len(r.Books) > mostBooks:
		return wrong("/books", "books", document.Values{"most": document.N(mostBooks)})
	}
	banners, titles := map[string]bool{}, map[string]bool{}
	for i, b := range r.Banners {
		if b.Name == "" || banners[b.Name] {
			return wrong(fmt.Sprintf("/banners/%d/name", i), "banner_name", nil)
		}
		banners[b.Name] = true
		for k, one := range b.Breaks {
			if one.Subgroup != "" && !subgroups[string(one.Subgroup)] {
				return wrongText(fmt.Sprintf("/banners/%d/breaks/%d/subgroup", i, k), "no_subgroup", string(one.Subgroup))
			}
		}
	}
	for i, b := range r.Books {
		at := fmt.Sprintf("/books/%d", i)
		switch {
		case b.Title == "" || titles[b.Title]:
			return wrong(at+"/title", "book_title", nil)
		case !banners[string(b.Banner)]:
			return wrongText(at+"/banner", "no_banner", string(b.Banner))
		case b.Subgroup != "" && !subgroups[string(b.Subgroup)]:
			return wrongText(at+"/subgroup", "no_subgroup", string(b.Subgroup))
		}
		titles[b.Title] = true
	}
	if r.SafeToPublish != nil {
		for _, p := range r.SafeToPublish.Check() {
			return &Error{"/safeToPublish" + p.Pointer, document.Say("problem."+p.Code, p.Values)}
		}
	}
	return nil
}

// tabulated are the names of all questions that banners and books speak of, with where they do.
func (r Recipe) tabulated(told func(name analysis.Key, at string)) {
	for i, b := range r.Banners {
		for k, one := range b.Breaks {
			for j, key := range one.Questions {
				told(key, fmt.Sprintf("/banners/%d/breaks/%d/questions/%d", i, k, j))
			}
		}
	}
	for i, b := range r.Books {
		for j, key := range b.Choice.Questions {
			told(key, fmt.Sprintf("/books/%d/choice/questions/%d", i, j))
		}
		for k, one := range b.Batteries {
			for j, key := range one.Questions {
				told(key, fmt.Sprintf("/books/%d/batteries/%d/questions/%d", i, k, j))
			}
		}
	}
}

// Tabulated is a book of a recipe over a file: what of it the file has.
type Tabulated struct {
	Book   book.Book
	Banner book.Banner
	// Problems keep it from being made, where they stand in the recipe.
	Problems []analysis.Problem
}

// Tabulate gives the book at a place of the recipe: without the questions and breaks that the file lacks, which is
// noticed already.
func (p *Prepared) Tabulate(place int) Tabulated {
	b := p.Recipe.Books[place]
	at := slices.IndexFunc(p.Recipe.Banners, func(one Banner) bool { return one.Name == string(b.Banner) })
	there := func(has func(analysis.Key) bool) book.Renamed {
		return func(key analysis.Key) (analysis.Key, bool) { return key, has(key) }
	}
	question := func(key analysis.Key) (survey.Question, bool) { return p.Question(string(key)) }
	asked := func(key analysis.Key) bool { _, is := question(key); return is }
	subgroup := func(key analysis.Key) bool { _, is := p.groups[string(key)]; return is }
	out := Tabulated{Banner: p.Recipe.Banners[at].Moved(there(asked), there(subgroup))}
	moved, whom := b.Moved(there(asked), there(subgroup), there(func(analysis.Key) bool { return true }))
	out.Book = moved
	add := func(pointer string, list []analysis.Problem) {
		for _, one := range list {
			one.Pointer = pointer + one.Pointer
			out.Problems = append(out.Problems, one)
		}
	}
	if !whom {
		add(fmt.Sprintf("/books/%d", place), []analysis.Problem{{Code: "book.subgroup", Pointer: "/subgroup"}})
		return out
	}
	if len(out.Banner.Breaks) == len(p.Recipe.Banners[at].Breaks) {
		add(fmt.Sprintf("/banners/%d", at), out.Banner.Check(question, subgroup))
	} else { // places are not those of the recipe
		for _, one := range out.Banner.Check(question, subgroup) {
			one.Pointer = ""
			add(fmt.Sprintf("/banners/%d", at), []analysis.Problem{one})
		}
	}
	add(fmt.Sprintf("/books/%d", place), out.Book.Check(question, subgroup))
	return out
}

// Listed are the questions under their names, in the order in which they stand.
func (p *Prepared) Listed() (out []book.Listed) {
	for _, s := range p.Questions {
		out = append(out, book.Listed{Key: analysis.Key(s.Question.Name), Question: s.Question})
	}
	return out
}

// Nets are those that the recipe gives a question.
func (p *Prepared) Nets(key analysis.Key) []book.Net {
	for _, q := range p.Recipe.Questions {
		if q.Name == string(key) {
			return q.Nets
		}
	}
	return nil
}
