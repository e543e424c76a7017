package intake

import (
	"archive/zip"
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
	if s.Format == DataPackage || guessHeader(rows) != areNotNames {
		s.HeaderRow = first
	}
	return s, nil
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
	src.rows, err = found.file(f, archive, dir, file)
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

// file opens a resource's file. Its path must lie within the package.
func (r *resource) file(f File, archive *zip.Reader, dir, name string) (records, error) {
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
	body, size, err := openMember(archive, archive.File[at].Name, f.unpacked())
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
