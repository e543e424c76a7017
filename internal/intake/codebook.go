package intake

import (
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"golang.org/x/text/encoding/ianaindex"

	"widetally/core/survey"
)

// Bounds of a codebook: bytes of the file, and questions.
const (
	maxCodebook   = 16 << 20
	mostQuestions = MaxColumns
)

// ReadCodebook reads what questions and codes mean from a Data Package's description,
// DDI-Codebook 2.5 or CSV, whichever the file is. Errors are *Problem, one of them for
// a text that is too long to be kept: nothing is cut.
func ReadCodebook(ctx context.Context, f File) ([]survey.Question, error) {
	if f.Size > maxCodebook {
		return nil, &Problem{Code: TooMuchUnpacked, Wanted: maxCodebook >> 20}
	}
	head, err := f.head(sampleBytes)
	if err != nil {
		return nil, err
	}
	text := bytes.TrimSpace(bytes.TrimPrefix(head, []byte("\xef\xbb\xbf")))
	var out []survey.Question
	switch {
	case f.isZip() || bytes.HasPrefix(text, []byte("{")):
		out, err = packageCodebook(f)
	case bytes.HasPrefix(text, []byte("<")):
		out, err = ddiCodebook(f.reader())
	default:
		out, err = csvCodebook(ctx, f)
	}
	if err == nil && len(out) == 0 {
		err = &Problem{Code: BadCodebook}
	}
	if err == nil && len(out) > mostQuestions {
		err = &Problem{Code: TooManyCells, Line: 1, Wanted: mostQuestions}
	}
	for _, q := range out {
		if err == nil {
			err = lengths(q)
		}
	}
	return out, err
}

// lengths reports the first text of a question that is too long, as a *Problem.
func lengths(q survey.Question) error {
	err := survey.CheckLengths(q)
	var long *survey.LengthError
	if !errors.As(err, &long) {
		return nil
	}
	return &Problem{Code: Code("long_" + long.Part), Text: long.Name, Found: long.Found, Wanted: long.Most}
}

func packageCodebook(f File) ([]survey.Question, error) {
	d, _, _, err := readDescriptor(f)
	if err != nil {
		return nil, err
	}
	var out []survey.Question
	for _, r := range d.Resources {
		for _, field := range r.Schema.Fields {
			q, _, err := field.question(r.Schema.MissingValues)
			if err != nil {
				return nil, &Problem{Code: BadPackage, Text: field.Name}
			}
			if d.Neutral {
				q, _ = restored(q, nil)
			}
			out = append(out, q)
		}
	}
	return out, nil
}

// ddiVar is what is used of a DDI-Codebook 2.5 variable. Names match in any namespace,
// since versions and writers differ in it.
type ddiVar struct {
	ID         string `xml:"ID,attr"`
	Name       string `xml:"name,attr"`
	Interval   string `xml:"intrvl,attr"`
	Nature     string `xml:"nature,attr"`
	Weight     string `xml:"wgt,attr"`
	Label      string `xml:"labl"`
	Literal    string `xml:"qstn>qstnLit"`
	Notes      string `xml:"notes"`
	Categories []struct {
		Missing string `xml:"missing,attr"`
		Type    string `xml:"missType,attr"`
		Value   string `xml:"catValu"`
		Label   string `xml:"labl"`
	} `xml:"catgry"`
}

// ddiCodebook reads the variables of a codebook one after the other, in any encoding
// that its first line names.
func ddiCodebook(r io.Reader) ([]survey.Question, error) {
	bad := func() error { return &Problem{Code: BadCodebook} }
	d := xml.NewDecoder(&pieceLimit{r: r})
	d.CharsetReader = func(label string, in io.Reader) (io.Reader, error) {
		e, err := ianaindex.IANA.Encoding(label)
		if err != nil || e == nil {
			return nil, fmt.Errorf("intake: encoding %q", label)
		}
		return e.NewDecoder().Reader(in), nil
	}
	var out []survey.Question
	ids, sections := []string{}, map[string]string{}
	for isRoot := true; ; {
		t, err := d.Token()
		if errors.Is(err, io.EOF) && !isRoot {
			break
		}
		if err != nil {
			return nil, bad()
		}
		e, ok := t.(xml.StartElement)
		if !ok {
			continue
		}
		if isRoot && e.Name.Local != "codeBook" {
			return nil, bad()
		}
		isRoot = false
		switch e.Name.Local {
		case "varGrp":
			var g struct {
				Vars  string `xml:"var,attr"`
				Label string `xml:"labl"`
			}
			if d.DecodeElement(&g, &e) != nil {
				return nil, bad()
			}
			for _, id := range strings.Fields(g.Vars) {
				sections[id] = survey.CleanText(g.Label)
			}
		case "var":
			var v ddiVar
			if d.DecodeElement(&v, &e) != nil || len(out) > mostQuestions {
				return nil, bad()
			}
			out, ids = append(out, v.question()), append(ids, v.ID)
		}
	}
	for i, id := range ids {
		out[i].Section = sections[id]
	}
	return out, nil
}

func (v ddiVar) question() survey.Question {
	q := survey.Question{Name: cleanName(v.Name), Wording: survey.CleanText(v.Literal), Note: survey.CleanText(v.Notes)}
	switch label := survey.CleanText(v.Label); {
	case q.Wording == "":
		q.Wording = label
	case label != q.Wording && len([]rune(label)) <= survey.MaxShort:
		q.Short = label
	}
	switch {
	case v.Weight == "wgt":
		q.Kind = survey.Weight
	case v.Interval == "contin":
		q.Kind = survey.Continuous
	case v.Nature == "ordinal":
		q.Kind = survey.Ordered
	case v.Nature == "nominal":
		q.Kind = survey.Single
	}
	for _, c := range v.Categories {
		a := survey.Answer{Code: survey.CleanText(c.Value), Label: survey.CleanText(c.Label)}
		if strings.EqualFold(c.Missing, "Y") {
			if a.Missing = survey.CleanText(c.Type); a.Missing == "" {
				a.Missing = strings.ToLower(a.Label)
			}
			if a.Missing == "" {
				a.Missing = survey.NoAnswerReason
			}
		}
		q.Answers = append(q.Answers, a)
	}
	return q
}

// csvCodebook reads a row an answer under named columns, of which question and code,
// or question and wording, are needed.
func csvCodebook(ctx context.Context, f File) ([]survey.Question, error) {
	s, err := Sniff(ctx, f)
	if err != nil {
		return nil, err
	}
	s.PadShort = true
	rows := f.delimited(s)
	at := map[string]int{}
	var out []survey.Question
	index := map[string]int{}
	for {
		cells, err := rows.next()
		if err == io.EOF {
			return out, nil
		}
		if err != nil {
			return nil, err
		}
		if len(at) == 0 {
			for i, c := range cells {
				at[strings.ToLower(cleanName(string(c)))] = i
			}
			if _, ok := at["question"]; !ok {
				return nil, &Problem{Code: BadCodebook}
			}
			continue
		}
		get := func(name string) string {
			i, ok := at[name]
			if !ok || i >= len(cells) {
				return ""
			}
			return survey.Restored(survey.CleanText(string(cells[i])))
		}
		name := get("question")
		if name == "" {
			continue
		}
		k, known := index[name]
		if !known {
			q := survey.Question{Name: name, Wording: get("wording"), Short: get("short"), Note: get("note"), Section: get("section")}
			if kind := survey.Kind(get("kind")); slices.Contains(survey.Kinds, kind) {
				q.Kind = kind
			}
			k = len(out)
			index[name] = k
			out = append(out, q)
		}
		a := survey.Answer{Code: get("code"), Label: get("label"), Missing: get("missing")}
		if score, ok := survey.ParseNumber(get("score"), s.decimalComma()); ok {
			a.Score = &score
		}
		if a.Code != "" || a.Missing != "" {
			out[k].Answers = append(out[k].Answers, a)
		}
	}
}
