package intake

import (
	"bytes"
	"encoding/xml"
	"io"
	"slices"
	"strings"

	"widetally/core/survey"
)

const maxCodebook = 64 << 20

// ReadCodebook reads what questions and codes mean from a Data Package's description,
// DDI-Codebook 2.5 or CSV, whichever the file is. Errors are *Problem.
func ReadCodebook(f File) ([]survey.Question, error) {
	if f.Size > maxCodebook {
		return nil, &Problem{Code: BadCodebook}
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
		out, err = csvCodebook(f)
	}
	if err == nil && len(out) == 0 {
		err = &Problem{Code: BadCodebook}
	}
	return out, err
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

func ddiCodebook(r io.Reader) ([]survey.Question, error) {
	var doc struct {
		XMLName xml.Name
		Groups  []struct {
			Vars  string `xml:"var,attr"`
			Label string `xml:"labl"`
		} `xml:"dataDscr>varGrp"`
		Vars []ddiVar `xml:"dataDscr>var"`
	}
	if err := xml.NewDecoder(io.LimitReader(r, maxCodebook)).Decode(&doc); err != nil || doc.XMLName.Local != "codeBook" {
		return nil, &Problem{Code: BadCodebook}
	}
	section := map[string]string{}
	for _, g := range doc.Groups {
		for _, id := range strings.Fields(g.Vars) {
			section[id] = strings.TrimSpace(g.Label)
		}
	}
	var out []survey.Question
	for _, v := range doc.Vars {
		q := survey.Question{Name: cleanName(v.Name), Wording: tidy(v.Literal), Note: tidy(v.Notes), Section: cleanName(section[v.ID])}
		if q.Wording == "" {
			q.Wording = tidy(v.Label)
		}
		switch {
		case v.Interval == "contin":
			q.Kind = survey.Continuous
		case v.Nature == "ordinal":
			q.Kind = survey.Ordered
		case v.Nature == "nominal":
			q.Kind = survey.Single
		}
		for _, c := range v.Categories {
			a := survey.Answer{Code: strings.TrimSpace(c.Value), Label: tidy(c.Label)}
			if strings.EqualFold(c.Missing, "Y") {
				if a.Missing = tidy(c.Type); a.Missing == "" {
					a.Missing = strings.ToLower(a.Label)
				}
				if a.Missing == "" {
					a.Missing = survey.NoAnswerReason
				}
			}
			q.Answers = append(q.Answers, a)
		}
		out = append(out, q)
	}
	return out, nil
}

// tidy folds blanks and bounds the length of a text from a codebook.
func tidy(s string) string {
	s = strings.Join(strings.Fields(strings.ToValidUTF8(s, "�")), " ")
	if r := []rune(s); len(r) > 300 {
		s = string(r[:300])
	}
	return s
}

// csvCodebook reads a row an answer under named columns, of which question and code,
// or question and wording, are needed.
func csvCodebook(f File) ([]survey.Question, error) {
	s, err := Sniff(f)
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
			return restored(tidy(string(cells[i])))
		}
		name := get("question")
		if name == "" {
			continue
		}
		k, known := index[name]
		if !known {
			q := survey.Question{Name: name, Wording: get("wording"), Note: get("note"), Section: get("section")}
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

// restored takes away the apostrophe that keeps a text from being taken for a formula.
func restored(s string) string {
	if len(s) > 1 && s[0] == '\'' && strings.ContainsRune("=+-@", rune(s[1])) {
		return s[1:]
	}
	return s
}
