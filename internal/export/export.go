// Package export writes studies and codebooks in open formats.
package export

import (
	"archive/zip"
	"cmp"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"errors"
	"io"
	"strconv"
	"strings"

	"widetally/core/survey"
)

// CodebookHeader are the columns of a codebook as CSV, a row an answer. intake reads
// the same.
var CodebookHeader = []string{"question", "wording", "short", "section", "note", "kind", "code", "label", "missing", "score"}

// CodebookCSV writes a codebook as CSV. A question without answers has one row with an
// empty code.
func CodebookCSV(w io.Writer, questions []survey.Question) error {
	out := csv.NewWriter(w)
	put := func(cells ...string) error {
		for i := range cells {
			cells[i] = survey.Neutral(cells[i])
		}
		return out.Write(cells)
	}
	if err := put(append([]string{}, CodebookHeader...)...); err != nil {
		return err
	}
	for _, q := range questions {
		answers := q.Answers
		if len(answers) == 0 {
			answers = []survey.Answer{{}}
		}
		for _, a := range answers {
			score := ""
			if a.Score != nil {
				score = survey.FormatNumber(*a.Score)
			}
			if err := put(q.Name, q.Wording, q.Short, q.Section, q.Note, string(q.Kind), a.Code, a.Label, a.Missing, score); err != nil {
				return err
			}
		}
	}
	out.Flush()
	return out.Error()
}

// DDI-Codebook 2.5, as far as it is written and read here.
type (
	// DDI is the root of a codebook.
	DDI struct {
		XMLName xml.Name `xml:"ddi:codebook:2_5 codeBook"`
		Version string   `xml:"version,attr"`
		Title   string   `xml:"stdyDscr>citation>titlStmt>titl"`
		// Sampling and Weighting tell the design in words; "" for none.
		Sampling  string     `xml:"stdyDscr>method>dataColl>sampProc,omitempty"`
		Weighting string     `xml:"stdyDscr>method>dataColl>weight,omitempty"`
		Groups    []DDIGroup `xml:"dataDscr>varGrp"`
		Vars      []DDIVar   `xml:"dataDscr>var"`
	}
	// DDIGroup is a section of the questionnaire.
	DDIGroup struct {
		ID   string `xml:"ID,attr"`
		Type string `xml:"type,attr"`
		Vars string `xml:"var,attr"` // ids, parted by blanks
		Labl string `xml:"labl"`
	}
	// DDIVar is a question.
	DDIVar struct {
		ID       string `xml:"ID,attr"`
		Name     string `xml:"name,attr"`
		Interval string `xml:"intrvl,attr,omitempty"`
		Nature   string `xml:"nature,attr,omitempty"`
		// Weight marks a question of weights, WeightVar is the id of the one that weights this.
		Weight     string        `xml:"wgt,attr,omitempty"`
		WeightVar  string        `xml:"wgt-var,attr,omitempty"`
		Label      string        `xml:"labl,omitempty"`
		Literal    string        `xml:"qstn>qstnLit,omitempty"`
		Categories []DDICategory `xml:"catgry"`
		Notes      string        `xml:"notes,omitempty"`
	}
	// DDICategory is an answer.
	DDICategory struct {
		Missing string `xml:"missing,attr,omitempty"`
		MisType string `xml:"missType,attr,omitempty"`
		Value   string `xml:"catValu"`
		Label   string `xml:"labl,omitempty"`
	}
)

// SampleDesign tells how respondents were drawn: in words, and by the name of the question of the weights,
// "" for none.
type SampleDesign struct{ Sampling, Weighting, Weight string }

// CodebookDDI writes a codebook as DDI-Codebook 2.5.
func CodebookDDI(w io.Writer, title string, drawn SampleDesign, questions []survey.Question) error {
	doc := DDI{Version: "2.5", Title: title, Sampling: drawn.Sampling, Weighting: drawn.Weighting}
	sections, weight := map[string]int{}, ""
	for i, q := range questions {
		if q.Name == drawn.Weight {
			weight = "V" + strconv.Itoa(i+1)
		}
	}
	for i, q := range questions {
		id := "V" + strconv.Itoa(i+1)
		v := DDIVar{ID: id, Name: q.Name, Label: cmp.Or(q.Short, q.Wording), Literal: q.Wording, Notes: q.Note, Interval: "discrete"}
		switch {
		case q.Kind.Measured():
			v.Interval, v.Nature = "contin", "ratio"
		case q.Kind == survey.Ordered:
			v.Nature = "ordinal"
		case q.Kind == survey.Single || q.Kind == survey.ChooseAll:
			v.Nature = "nominal"
		}
		switch {
		case q.Kind == survey.Weight:
			v.Weight = "wgt"
		case weight != "":
			v.WeightVar = weight
		}
		for _, a := range q.Answers {
			c := DDICategory{Value: a.Code, Label: a.Label}
			if a.Missing != "" {
				c.Missing, c.MisType = "Y", a.Missing
			}
			v.Categories = append(v.Categories, c)
		}
		doc.Vars = append(doc.Vars, v)
		if q.Section != "" {
			at, known := sections[q.Section]
			if !known {
				at = len(doc.Groups)
				sections[q.Section] = at
				doc.Groups = append(doc.Groups, DDIGroup{ID: "G" + strconv.Itoa(at+1), Type: "section", Labl: q.Section})
			}
			doc.Groups[at].Vars = strings.TrimSpace(doc.Groups[at].Vars + " " + id)
		}
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	e := xml.NewEncoder(w)
	e.Indent("", "  ")
	return errors.Join(e.Encode(doc), e.Close())
}

type packageField struct {
	Name              string         `json:"name"`
	Title             string         `json:"title,omitempty"`
	Short             string         `json:"short,omitempty"`
	Description       string         `json:"description,omitempty"`
	Type              string         `json:"type"`
	Categories        []packageValue `json:"categories,omitempty"`
	CategoriesOrdered bool           `json:"categoriesOrdered,omitempty"`
	MissingValues     []packageValue `json:"missingValues,omitempty"`
}

type packageValue struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// Document is a document beside the answers of a package; its content is written as JSON.
type Document struct {
	Name    string
	Content any
}

// Package writes a study as a Data Package, version 2: a zip archive of its
// description and its answers in codes, neutralised alike in both so that they still
// match. row gives a respondent's codes.
// The descriptor says by which rule, so that intake takes it back. Documents stand beside them.
func Package(w io.Writer, name string, questions []survey.Question, documents []Document, rows int, row func(i int) ([]string, error)) error {
	fields := make([]packageField, len(questions))
	header := make([]string, len(questions))
	for i, q := range questions {
		header[i] = survey.Neutral(q.Name)
		f := packageField{Name: header[i], Title: q.Wording, Short: q.Short, Description: q.Note, Type: "string", CategoriesOrdered: q.Kind == survey.Ordered}
		if q.Kind.Measured() {
			f.Type = "number"
		}
		for _, a := range q.Answers {
			switch {
			case a.Missing != "":
				f.MissingValues = append(f.MissingValues, packageValue{survey.Neutral(a.Code), a.Label})
			case q.Kind.Coded():
				f.Categories = append(f.Categories, packageValue{survey.Neutral(a.Code), a.Label})
			}
		}
		fields[i] = f
	}
	resources := []any{map[string]any{"name": "answers", "type": "table", "path": "answers.csv", "encoding": "utf-8", "format": "csv",
		"schema": map[string]any{"fields": fields}}}
	for _, d := range documents {
		resources = append(resources, map[string]any{"name": strings.TrimSuffix(d.Name, ".json"), "path": d.Name, "encoding": "utf-8", "format": "json", "mediatype": "application/json"})
	}
	descriptor := map[string]any{
		"$schema":          "https://datapackage.org/profiles/2.0/datapackage.json",
		"title":            name,
		survey.NeutralMark: true,
		"resources":        resources,
	}
	out := zip.NewWriter(w)
	entry, err := out.Create("datapackage.json")
	if err != nil {
		return err
	}
	e := json.NewEncoder(entry)
	e.SetIndent("", "  ")
	if err := e.Encode(descriptor); err != nil {
		return err
	}
	for _, d := range documents {
		if entry, err = out.Create(d.Name); err != nil {
			return err
		}
		e := json.NewEncoder(entry)
		e.SetIndent("", "  ")
		e.SetEscapeHTML(false)
		if err := e.Encode(d.Content); err != nil {
			return err
		}
	}
	if entry, err = out.Create("answers.csv"); err != nil {
		return err
	}
	table := csv.NewWriter(entry)
	if err := table.Write(header); err != nil {
		return err
	}
	for i := range rows {
		cells, err := row(i)
		if err != nil {
			return err
		}
		for k := range cells {
			cells[k] = survey.Neutral(cells[k])
		}
		if err := table.Write(cells); err != nil {
			return err
		}
	}
	table.Flush()
	return errors.Join(table.Error(), out.Close())
}
