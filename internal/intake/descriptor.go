package intake

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"io"
	"path"
	"slices"
	"strings"

	"widetally/core/survey"
)

// sniffDescriptor recognises a descriptor that came without its archive; its tables
// must be within it or follow.
func sniffDescriptor(head []byte) (Settings, bool) {
	text := bytes.TrimSpace(bytes.TrimPrefix(head, []byte("\xef\xbb\xbf")))
	if !bytes.HasPrefix(text, []byte("{")) || !bytes.Contains(text, []byte(`"resources"`)) {
		return Settings{}, false
	}
	return Settings{Format: DataPackage, Shape: Rows, Encoding: UTF8, Delimiter: ",", HeaderRow: 1}, true
}

// descriptor is what is used of a Data Package's description (version 2).
type descriptor struct {
	Resources []resource `json:"resources"`
	// Neutral says that names, codes and cells bear an apostrophe where a spreadsheet
	// would run them, which goes when they are read: survey.NeutralMark.
	Neutral bool `json:"apostropheBeforeFormulas"`
}

type resource struct {
	Name     string          `json:"name"`
	Path     json.RawMessage `json:"path"`
	Data     json.RawMessage `json:"data"`
	Encoding string          `json:"encoding"`
	Dialect  struct {
		Delimiter string `json:"delimiter"`
		Header    *bool  `json:"header"`
	} `json:"dialect"`
	Schema tableSchema `json:"schema"`
}

type tableSchema struct {
	Fields        []field         `json:"fields"`
	MissingValues json.RawMessage `json:"missingValues"`
}

type field struct {
	Name              string          `json:"name"`
	Title             string          `json:"title"`
	Short             string          `json:"short"`
	Description       string          `json:"description"`
	Type              string          `json:"type"`
	Categories        json.RawMessage `json:"categories"`
	CategoriesOrdered bool            `json:"categoriesOrdered"`
	MissingValues     json.RawMessage `json:"missingValues"`
}

// labelled is a value with its label, written plain or as an object.
type labelled struct{ value, label string }

func parseLabelled(raw json.RawMessage) ([]labelled, error) {
	if len(raw) == 0 || string(raw) == "null" {
		return nil, nil
	}
	var items []json.RawMessage
	if err := json.Unmarshal(raw, &items); err != nil {
		return nil, err
	}
	out := make([]labelled, len(items))
	for i, item := range items {
		var pair struct {
			Value json.RawMessage `json:"value"`
			Label string          `json:"label"`
		}
		value := item
		if bytes.HasPrefix(bytes.TrimSpace(item), []byte("{")) {
			if err := json.Unmarshal(item, &pair); err != nil {
				return nil, err
			}
			value = pair.Value
		}
		out[i] = labelled{scalar(value), pair.Label}
	}
	return out, nil
}

// scalar writes a JSON value as a cell would hold it.
func scalar(raw json.RawMessage) string {
	var text string
	if json.Unmarshal(raw, &text) == nil {
		return text
	}
	if s := string(bytes.TrimSpace(raw)); s != "null" {
		return s
	}
	return ""
}

// question turns a field's description into that of a question.
func (f field) question(ofTable json.RawMessage) (survey.Question, []string, error) {
	q := survey.Question{Name: survey.CleanText(f.Name), Wording: survey.CleanText(f.Title), Short: survey.CleanText(f.Short), Note: survey.CleanText(f.Description)}
	if q.Wording == "" {
		q.Wording = q.Name
	}
	categories, err := parseLabelled(f.Categories)
	if err != nil {
		return q, nil, err
	}
	missing := f.MissingValues
	if len(missing) == 0 {
		missing = ofTable
	}
	gone, err := parseLabelled(missing)
	if err != nil {
		return q, nil, err
	}
	switch {
	case len(categories) > 0 && f.CategoriesOrdered:
		q.Kind = survey.Ordered
	case len(categories) > 0:
		q.Kind = survey.Single
	case f.Type == "number":
		q.Kind = survey.Continuous
	}
	for _, c := range categories {
		q.Answers = append(q.Answers, survey.Answer{Code: c.value, Label: survey.CleanText(c.label)})
	}
	var codes []string
	for _, g := range gone {
		label := survey.CleanText(g.label)
		reason := label
		if reason == "" {
			reason = survey.NoAnswerReason
		}
		if g.value == "" && g.label == "" {
			continue
		}
		codes = append(codes, g.value)
		q.Answers = append(q.Answers, survey.Answer{Code: g.value, Label: label, Missing: strings.ToLower(reason)})
	}
	return q, codes, nil
}

func readDescriptor(f File) (*descriptor, string, *zip.Reader, error) {
	bad := func(why string) error { return &Problem{Code: BadPackage, Text: why} }
	dir := ""
	var archive *zip.Reader
	var raw []byte
	var err error
	if f.isZip() {
		if archive, err = zip.NewReader(f.R, f.Size); err != nil {
			return nil, "", nil, bad("archive")
		}
		at := slices.IndexFunc(archive.File, func(e *zip.File) bool { return path.Base(e.Name) == descriptorName })
		if at < 0 {
			return nil, "", nil, bad(descriptorName)
		}
		dir = path.Dir(archive.File[at].Name)
		body, err := archive.File[at].Open()
		if err != nil {
			return nil, "", nil, bad(descriptorName)
		}
		defer body.Close()
		raw, err = io.ReadAll(io.LimitReader(body, maxDescriptor+1))
		if err != nil {
			return nil, "", nil, bad(descriptorName)
		}
	} else if raw, err = f.head(maxDescriptor + 1); err != nil {
		return nil, "", nil, err
	}
	if len(raw) > maxDescriptor {
		return nil, "", nil, &Problem{Code: TooMuchUnpacked, Wanted: maxDescriptor >> 20}
	}
	var d descriptor
	if err := json.Unmarshal(bytes.TrimPrefix(raw, []byte("\xef\xbb\xbf")), &d); err != nil {
		return nil, "", nil, bad(strings.TrimPrefix(err.Error(), "json: "))
	}
	if len(d.Resources) == 0 {
		return nil, "", nil, bad("resources")
	}
	return &d, dir, archive, nil
}
