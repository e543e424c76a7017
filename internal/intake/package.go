package intake

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"path"
	"slices"
	"strings"

	"widetally/core/survey"
)

const descriptorName = "datapackage.json"

// sniffZip tells the formats that come as zip archives apart.
func sniffZip(ctx context.Context, f File) (Settings, error) {
	archive, err := zip.NewReader(f.R, f.Size)
	if err != nil {
		return Settings{}, &Problem{Code: OtherZip}
	}
	s := Settings{Shape: Rows, Encoding: UTF8, Delimiter: ","}
	for _, entry := range archive.File {
		switch name := entry.Name; {
		case name == "xl/workbook.xml":
			s.Format = XLSX
		case name == "content.xml":
			s.Format = ODS
		case path.Base(name) == descriptorName && s.Format == "":
			s.Format = DataPackage
		}
	}
	if s.Format == "" {
		return s, &Problem{Code: OtherZip}
	}
	src, err := open(f.until(ctx), s, f.memory())
	if err != nil {
		return s, err
	}
	defer src.rows.close()
	if s.Format != DataPackage {
		s.Part = src.part
	}
	rows, first, err := sample(src.rows)
	if ctx.Err() != nil {
		return s, fmt.Errorf("intake: %w", ctx.Err())
	}
	if len(rows) == 0 && err != nil {
		return s, err
	}
	if len(rows) == 0 {
		return s, &Problem{Code: Empty}
	}
	if s.Format == DataPackage || guessHeader(rows) {
		s.HeaderRow = first
	}
	return s, nil
}

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

// openPackage opens a table of a Data Package; "" is the first one.
func openPackage(f File, part string) (*source, error) {
	d, dir, archive, err := readDescriptor(f)
	if err != nil {
		return nil, err
	}
	var names []string
	var found *resource
	for i, r := range d.Resources {
		names = append(names, r.Name)
		if found == nil && (part == "" || r.Name == part) {
			found = &d.Resources[i]
		}
	}
	if found == nil {
		return nil, &Problem{Code: NoPart, Text: part}
	}
	src := &source{parts: func() []string { return names }, described: map[string]survey.Question{}, missing: map[string][]string{}}
	for _, field := range found.Schema.Fields {
		q, codes, err := field.question(found.Schema.MissingValues)
		if err != nil {
			return nil, &Problem{Code: BadPackage, Text: field.Name}
		}
		if d.Neutral {
			q, codes = restored(q, codes)
		}
		if err := lengths(q); err != nil {
			return nil, err
		}
		name := cleanName(q.Name)
		src.described[name], src.missing[name] = q, codes
	}
	if len(found.Data) > 0 {
		src.rows, err = inlineRows(found.Data)
		return src, err
	}
	var file string
	if json.Unmarshal(found.Path, &file) != nil {
		var several []string
		if json.Unmarshal(found.Path, &several) != nil || len(several) != 1 {
			return nil, &Problem{Code: BadPackage, Text: "path"}
		}
		file = several[0]
	}
	src.rows, err = found.file(archive, dir, file)
	if err == nil && d.Neutral {
		src.rows = restoredRows{src.rows}
	}
	return src, err
}

// restored takes the apostrophes away that keep a spreadsheet from running texts.
func restored(q survey.Question, codes []string) (survey.Question, []string) {
	q.Name = survey.Restored(q.Name)
	for i := range q.Answers {
		q.Answers[i].Code = survey.Restored(q.Answers[i].Code)
	}
	for i := range codes {
		codes[i] = survey.Restored(codes[i])
	}
	return q, codes
}

// restoredRows does the same to the cells of a table.
type restoredRows struct{ records }

func (r restoredRows) next() ([][]byte, error) {
	cells, err := r.records.next()
	for i, c := range cells {
		if len(c) > 1 && c[0] == '\'' {
			cells[i] = []byte(survey.Restored(string(c)))
		}
	}
	return cells, err
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

// file opens a resource's file. Its path must lie within the package.
func (r *resource) file(archive *zip.Reader, dir, name string) (records, error) {
	full := path.Join(dir, name)
	if strings.Contains(name, "://") || path.IsAbs(name) || full != "." && (full == ".." || strings.HasPrefix(full, "../")) {
		return nil, &Problem{Code: BadPackage, Text: name}
	}
	if archive == nil {
		return nil, &Problem{Code: MissingFile, Text: name}
	}
	at := slices.IndexFunc(archive.File, func(e *zip.File) bool { return path.Clean(e.Name) == full })
	if at < 0 {
		return nil, &Problem{Code: MissingFile, Text: name}
	}
	body, size, err := openMember(archive, archive.File[at].Name)
	if err != nil {
		return nil, &Problem{Code: BadPackage, Text: name}
	}
	s := Settings{Format: Delimited, Encoding: UTF8, Delimiter: ","}
	if r.Dialect.Delimiter != "" {
		s.Delimiter = r.Dialect.Delimiter
	}
	if e := Encoding(strings.ToLower(r.Encoding)); slices.Contains(Encodings, e) {
		s.Encoding = e
	} else if r.Encoding != "" && !strings.EqualFold(r.Encoding, "utf8") {
		body.Close()
		return nil, &Problem{Code: BadPackage, Text: "encoding " + r.Encoding}
	}
	if len(s.Delimiter) != 1 {
		body.Close()
		return nil, &Problem{Code: BadPackage, Text: "delimiter " + s.Delimiter}
	}
	read := &counting{r: body}
	rows := &delimited{newSplitter(s.decode(read), s.Delimiter[0], s.Encoding == UTF8), read, size}
	return &packedRows{rows, body}, nil
}

// packedRows closes the archive's entry with the rows.
type packedRows struct {
	*delimited
	body io.Closer
}

func (p *packedRows) close() { p.body.Close() }

// inlineRows reads data written in the descriptor itself: a list of rows, or of
// objects by field name.
func inlineRows(raw json.RawMessage) (records, error) {
	var lists [][]json.RawMessage
	if json.Unmarshal(raw, &lists) == nil {
		m := &memoryRows{}
		for _, list := range lists {
			row := make([]string, len(list))
			for i, v := range list {
				row[i] = scalar(v)
			}
			m.rows = append(m.rows, row)
		}
		return m, nil
	}
	var objects []map[string]json.RawMessage
	if err := json.Unmarshal(raw, &objects); err != nil || len(objects) == 0 {
		return nil, &Problem{Code: BadPackage, Text: "data"}
	}
	var names []string
	seen := map[string]bool{}
	for _, o := range objects {
		var fresh []string
		for name := range o {
			if !seen[name] {
				seen[name] = true
				fresh = append(fresh, name)
			}
		}
		slices.Sort(fresh)
		names = append(names, fresh...)
	}
	m := &memoryRows{rows: [][]string{names}}
	for _, o := range objects {
		row := make([]string, len(names))
		for i, name := range names {
			row[i] = scalar(o[name])
		}
		m.rows = append(m.rows, row)
	}
	return m, nil
}

// Bundle makes a Data Package of a descriptor and a file that it names, or adds
// another file to one, so that both can arrive one after the other.
func Bundle(w io.Writer, f File, name string, more io.Reader) error {
	out := zip.NewWriter(w)
	add := func(name string, r io.Reader) error {
		entry, err := out.Create(name)
		if err == nil {
			_, err = io.Copy(entry, r)
		}
		return err
	}
	if f.isZip() {
		archive, err := zip.NewReader(f.R, f.Size)
		if err != nil {
			return fmt.Errorf("intake: %w", err)
		}
		for _, e := range archive.File {
			if err := out.Copy(e); err != nil {
				return fmt.Errorf("intake: %w", err)
			}
		}
	} else if err := add(descriptorName, f.reader()); err != nil {
		return fmt.Errorf("intake: %w", err)
	}
	if err := errors.Join(add(path.Clean(name), more), out.Close()); err != nil {
		return fmt.Errorf("intake: %w", err)
	}
	return nil
}
