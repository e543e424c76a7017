package export

import (
	"archive/zip"
	_ "embed"
	"fmt"
	"io"
	"maps"
	"path"
	"slices"
	"strconv"
	"strings"
)

// OpenDocument 1.3, ISO/IEC 26300: a zip whose first entry, not compressed, is its media type.

const (
	odtMedia = "application/vnd.oasis.opendocument.text"
	odsMedia = "application/vnd.oasis.opendocument.spreadsheet"
)

//go:embed parts/odt-styles.xml
var odtStyles string

// odfSpaces are the name spaces of the parts.
var odfSpaces = []string{
	"xmlns:office", "urn:oasis:names:tc:opendocument:xmlns:office:1.0", "xmlns:text", "urn:oasis:names:tc:opendocument:xmlns:text:1.0",
	"xmlns:table", "urn:oasis:names:tc:opendocument:xmlns:table:1.0", "xmlns:draw", "urn:oasis:names:tc:opendocument:xmlns:drawing:1.0",
	"xmlns:svg", "urn:oasis:names:tc:opendocument:xmlns:svg-compatible:1.0", "xmlns:style", "urn:oasis:names:tc:opendocument:xmlns:style:1.0",
	"xmlns:fo", "urn:oasis:names:tc:opendocument:xmlns:xsl-fo-compatible:1.0", "xmlns:number", "urn:oasis:names:tc:opendocument:xmlns:datastyle:1.0",
	"xmlns:ooow", "http://openoffice.org/2004/writer", "xmlns:xlink", "http://www.w3.org/1999/xlink", "xmlns:dc", "http://purl.org/dc/elements/1.1/", "xmlns:meta", "urn:oasis:names:tc:opendocument:xmlns:meta:1.0",
	"office:version", "1.3",
}

// openDocument writes the parts that every OpenDocument has around its content, and parts of its own.
func (r Report) openDocument(w io.Writer, media string, parts map[string][]byte, content func(m *markup)) error {
	out := zip.NewWriter(w)
	entry, err := out.CreateHeader(&zip.FileHeader{Name: "mimetype", Method: zip.Store})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	if _, err := io.WriteString(entry, media); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	put := func(name string, write func(m *markup)) {
		if err != nil {
			return
		}
		if entry, err = out.Create(name); err == nil {
			m := newMarkup(entry)
			write(m)
			err = m.close()
		}
	}
	put("content.xml", func(m *markup) {
		m.start("office:document-content", odfSpaces...)
		content(m)
	})
	put("meta.xml", func(m *markup) {
		m.start("office:document-meta", odfSpaces...)
		m.start("office:meta")
		m.leaf("dc:title", r.Title)
		m.leaf("dc:subject", r.Study)
		m.leaf("meta:initial-creator", r.Author)
		m.leaf("dc:creator", r.Author)
		m.leaf("dc:date", r.At.UTC().Format("2006-01-02T15:04:05"))
		m.leaf("dc:description", r.Of)
		m.leaf("dc:language", r.Lang)
		m.leaf("meta:creation-date", r.At.UTC().Format("2006-01-02T15:04:05"))
	})
	names := slices.Sorted(maps.Keys(parts))
	for _, name := range names {
		if err == nil {
			err = text(out, name, string(parts[name]))
		}
	}
	put("META-INF/manifest.xml", func(m *markup) {
		m.start("manifest:manifest", "xmlns:manifest", "urn:oasis:names:tc:opendocument:xmlns:manifest:1.0", "manifest:version", "1.3")
		file := func(path, media string) {
			m.empty("manifest:file-entry", "manifest:full-path", path, "manifest:media-type", media)
		}
		file("/", media)
		file("content.xml", "text/xml")
		file("meta.xml", "text/xml")
		for _, name := range names {
			file(name, partMedia[path.Ext(name)])
		}
	})
	if err == nil {
		err = out.Close()
	}
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	return nil
}

// partMedia are the media types of parts.
var partMedia = map[string]string{".xml": "text/xml", ".svg": "image/svg+xml", ".png": "image/png", ".ttf": "application/x-font-ttf"}

// odtCells are the cells of a table with the lines at them: word processors take them from the styles of the
// content alone.
var odtCells = []struct {
	name  string
	lines []string
}{
	{"Head", []string{"fo:border-top", inkLine, "fo:border-bottom", inkLine}},
	{"HeadBelow", []string{"fo:border-bottom", inkLine}},
	{"Body", []string{"fo:border-bottom", "0.5pt solid #ddd3bf"}},
	{"Foot", []string{"fo:border-top", inkLine, "fo:border-bottom", inkLine}},
	{"Above", nil}, {"AboveTop", []string{"fo:border-top", inkLine}},
	{"Over", []string{"fo:border-bottom", "0.5pt solid #20262b"}},
	{"OverTop", []string{"fo:border-top", inkLine, "fo:border-bottom", "0.5pt solid #20262b"}},
}

const inkLine = "0.75pt solid #20262b"

// odt writes a report as a text document.
func (r Report) odt(w io.Writer) error {
	parts, drawn := odfFonts(), 0
	parts["styles.xml"] = []byte(strings.Replace(odtStyles, "FACES", odfFaces(), 1))
	for _, b := range r.Blocks {
		if b.Picture != nil {
			drawn++
			parts[fmt.Sprintf("Pictures/picture-%d.svg", drawn)] = []byte(b.Picture.SVG)
		}
	}
	return r.openDocument(w, odtMedia, parts, func(m *markup) {
		d := &odtWriter{m: m, rooms: r.rooms(usualRooms)}
		m.start("office:automatic-styles")
		for k, t := range r.tables() {
			for n, p := range t.parts(r.rooms(usualRooms)) {
				p.styles(m, odtTable(k+1, n), len(t.Rows) > short)
			}
		}
		for _, of := range odtCells {
			m.start("style:style", "style:name", of.name, "style:family", "table-cell")
			m.empty("style:table-cell-properties", append([]string{"fo:padding-top", "0.06cm", "fo:padding-bottom", "0.06cm", "fo:padding-left", "0.1cm", "fo:padding-right", "0.1cm"}, of.lines...)...)
			m.end()
		}
		for name, of := range map[string][2]string{"Turned": {"Caption", "Landscape"}, "Upright": {"Turn", "Standard"},
			"Turned1": {"Heading_20_1", "Landscape"}, "Turned2": {"Heading_20_2", "Landscape"}, "Turned3": {"Heading_20_3", "Landscape"}, "Turned4": {"Heading_20_4", "Landscape"}} {
			m.empty("style:style", "style:name", name, "style:family", "paragraph", "style:parent-style-name", of[0], "style:master-page-name", of[1])
		}
		m.end()
		m.start("office:body")
		m.start("office:text")
		sequences := map[string]bool{}
		for _, b := range r.Blocks {
			if b.Table != nil && b.Table.Number > 0 {
				sequences[sequence(b.Table.Label, b.Table.Number)] = true
			}
			if b.Picture != nil {
				sequences[sequence(b.Picture.Label, b.Picture.Number)] = true
			}
		}
		m.start("text:sequence-decls")
		for _, name := range slices.Sorted(maps.Keys(sequences)) {
			m.empty("text:sequence-decl", "text:display-outline-level", "0", "text:name", name)
		}
		m.end()
		d.paragraph("Title", "", []Run{{Text: r.Title}})
		d.paragraph("Source", "", []Run{{Text: r.Of}})
		d.contents(r)
		for i, b := range r.Blocks {
			lies := r.lies(i, d.rooms)
			d.turning = lies && !d.turned
			if d.turned && !lies {
				d.paragraph("Upright", "", nil)
			}
			d.turned = lies
			d.block(b)
		}
	})
}

// contents lists the parts of a report, its tables and its pictures, with their pages.
func (d *odtWriter) contents(r Report) {
	headings, tables, pictures := r.outline()
	if len(headings) < fewHeadings {
		return
	}
	for _, l := range []struct {
		title   string
		least   int
		entries []entry
	}{{r.Words.Contents, 1, headings}, {r.Words.Tables, 2, tables}, {r.Words.Pictures, 2, pictures}} {
		if len(l.entries) < l.least {
			continue
		}
		d.paragraph("ContentsTitle", "", []Run{{Text: l.title}})
		for _, e := range l.entries {
			d.m.start("text:p", "text:style-name", "Contents"+strconv.Itoa(e.level))
			d.m.start("text:a", "xlink:type", "simple", "xlink:href", "#"+e.anchor)
			d.m.text(e.text)
			d.m.end()
			d.m.empty("text:tab")
			d.m.leaf("text:bookmark-ref", "–", "text:reference-format", "page", "text:ref-name", e.anchor)
			d.m.end()
		}
	}
}

type odtWriter struct {
	m             *markup
	drawn, tables int
	rooms         rooms
	turned        bool // the pages lie on their side
	turning       bool // and do so from this block on
}

func (d *odtWriter) block(b Block) {
	m := d.m
	switch b.Kind {
	case HeadingBlock:
		level := strconv.Itoa(min(max(b.Level, 1), 4))
		style := "Heading_20_" + level
		if d.turning {
			style = "Turned" + level
		}
		m.start("text:h", "text:style-name", style, "text:outline-level", level)
		d.inside(b.Anchor, b.Runs)
		m.end()
	case ParagraphBlock:
		d.paragraph("Standard", b.Anchor, b.Runs)
	case QuoteBlock:
		d.paragraph("Quotation", b.Anchor, b.Runs)
	case ListBlock:
		name := "Bullets"
		if b.Numbered {
			name = "Numbers"
		}
		m.start("text:list", "text:style-name", name)
		for _, item := range b.Items {
			m.start("text:list-item")
			d.paragraph("Standard", "", item)
			m.end()
		}
		m.end()
	case TableBlock:
		d.table(b)
	case PictureBlock:
		d.picture(b)
	}
}

func (d *odtWriter) paragraph(style, anchor string, runs []Run) {
	d.m.start("text:p", "text:style-name", style)
	d.inside(anchor, runs)
	d.m.end()
}

func (d *odtWriter) inside(anchor string, runs []Run) {
	if anchor != "" {
		d.m.empty("text:bookmark", "text:name", anchor)
	}
	for _, r := range runs {
		d.run(r)
	}
}

func (d *odtWriter) run(r Run) {
	m := d.m
	if to, inside := strings.CutPrefix(r.Link, "#"); inside {
		m.leaf("text:bookmark-ref", r.Text, "text:reference-format", "text", "text:ref-name", to)
		return
	}
	if r.Link != "" {
		m.start("text:a", "xlink:type", "simple", "xlink:href", r.Link)
		defer m.end()
	}
	style := ""
	for _, s := range []struct {
		is   bool
		name string
	}{{r.Code, "Code"}, {r.Bold && r.Italic, "BoldItalic"}, {r.Bold, "Bold"}, {r.Italic, "Italic"}} {
		if s.is && style == "" {
			style = s.name
		}
	}
	if style != "" {
		m.start("text:span", "text:style-name", style)
		defer m.end()
	}
	m.text(r.Text)
	if r.Stale != "" {
		m.leaf("text:span", " ["+r.Stale+"]", "text:style-name", "Italic")
	}
}

// odtTable names a part of a table and its styles.
func odtTable(table, part int) string { return fmt.Sprintf("T%dP%d", table, part+1) }

// styles are those of a part of a table: its width, those of its columns, the size of its letters, and
// whether a page may end within it.
func (p part) styles(m *markup, name string, breaks bool) {
	cm := func(twips int) string { return strconv.FormatFloat(float64(twips)/567, 'f', 3, 64) + "cm" }
	m.start("style:style", "style:name", name, "style:family", "table", "style:parent-style-name", "Figures")
	m.empty("style:table-properties", "style:width", cm(p.width()), "table:align", "left", "style:may-break-between-rows", strconv.FormatBool(breaks))
	m.end()
	for i, w := range p.widths {
		m.start("style:style", "style:name", name+"C"+strconv.Itoa(i+1), "style:family", "table-column")
		m.empty("style:table-column-properties", "style:column-width", cm(w))
		m.end()
	}
	for _, of := range []string{"Cell", "Figure"} {
		for _, keep := range []string{"", "Keep"} {
			m.start("style:style", "style:name", name+of+keep, "style:family", "paragraph", "style:parent-style-name", of)
			if keep != "" {
				m.empty("style:paragraph-properties", "fo:keep-with-next", "always")
			}
			m.empty("style:text-properties", "fo:font-size", strconv.FormatFloat(p.points, 'f', 1, 64)+"pt")
			m.end()
		}
	}
	m.start("style:style", "style:name", name+"Over", "style:family", "paragraph", "style:parent-style-name", "Cell")
	m.empty("style:paragraph-properties", "fo:keep-with-next", "always", "fo:text-align", "center")
	m.empty("style:text-properties", "fo:font-size", strconv.FormatFloat(p.points, 'f', 1, 64)+"pt")
	m.end()
}

func (d *odtWriter) table(b Block) {
	t := b.Table
	d.tables++
	parts := t.parts(d.rooms)
	for k, p := range parts {
		style := "Caption"
		if d.turning && k == 0 {
			style = "Turned"
		}
		switch {
		case t.caption() == "": // one of the prose
			d.paragraph(style, "", nil)
		case k == 0:
			d.caption(style, b.Anchor, t.Label, t.Number, t.Title)
		default:
			d.paragraph("Caption", "", []Run{{Text: fmt.Sprintf("%s (%d/%d)", t.caption(), k+1, len(parts))}})
		}
		d.grid(*t, p, odtTable(d.tables, k))
		if k == len(parts)-1 {
			d.notes(t.Notes)
		}
	}
}

// grid writes a part of a table.
func (d *odtWriter) grid(t Table, p part, name string) {
	m := d.m
	m.start("table:table", "table:name", name, "table:style-name", name)
	for i := range p.columns {
		m.empty("table:table-column", "table:style-name", name+"C"+strconv.Itoa(i+1))
	}
	row := func(cells []Cell, style string, keep bool) {
		m.start("table:table-row", "table:style-name", "Row")
		for _, at := range p.columns {
			var c Cell
			if at < len(cells) {
				c = cells[at]
			}
			attributes := []string{"table:style-name", style, "office:value-type", "string"}
			if c.Number != nil {
				attributes = []string{"table:style-name", style, "office:value-type", "float", "office:value", exact(*c.Number)}
			}
			m.start("table:table-cell", attributes...)
			of := name + "Cell"
			if at > 0 && !t.wordy(at) {
				of = name + "Figure"
			}
			if keep {
				of += "Keep"
			}
			d.paragraph(of, "", []Run{{Text: c.shown(), Bold: style != "Body"}})
			m.end()
		}
		m.end()
	}
	m.start("table:table-header-rows")
	lines := t.over(p.columns)
	for n, line := range lines {
		m.start("table:table-row")
		for i, s := range line {
			cell := "Above"
			if s.Text != "" {
				cell = "Over"
			}
			if n == 0 {
				cell += "Top"
			}
			m.start("table:table-cell", "table:style-name", cell, "office:value-type", "string", "table:number-columns-spanned", strconv.Itoa(s.Columns))
			of := name + "FigureKeep"
			switch {
			case i == 0:
				of = name + "CellKeep"
			case s.Columns > 1:
				of = name + "Over"
			}
			d.paragraph(of, "", []Run{{Text: s.Text, Bold: true}})
			m.end()
			for range s.Columns - 1 {
				m.empty("table:covered-table-cell")
			}
		}
		m.end()
	}
	head := make([]Cell, len(t.Head))
	for i, h := range t.Head {
		head[i].Text = h
	}
	style := "Head"
	if len(lines) > 0 {
		style = "HeadBelow"
	}
	row(head, style, true)
	m.end()
	for i, r := range t.Rows {
		style := "Body"
		if i >= len(t.Rows)-t.Foot {
			style = "Foot"
		}
		row(r, style, kept(i, len(t.Rows)))
	}
	m.end()
}

// caption names a table or a picture by its place in its sequence.
func (d *odtWriter) caption(style, anchor, label string, number int, title string) {
	m := d.m
	m.start("text:p", "text:style-name", style)
	if number > 0 {
		of := sequence(label, number)
		m.empty("text:bookmark-start", "text:name", anchor)
		m.text(of + " ")
		m.leaf("text:sequence", strconv.Itoa(number), "text:ref-name", anchor, "text:name", of, "text:formula", "ooow:"+of+"+1", "style:num-format", "1")
		m.empty("text:bookmark-end", "text:name", anchor)
		title = ". " + title
	}
	m.text(title)
	m.end()
}

func (d *odtWriter) notes(list []string) {
	for i, n := range list {
		style := "Note"
		if i == len(list)-1 {
			style = "LastNote"
		}
		d.paragraph(style, "", []Run{{Text: n}})
	}
}

// exact writes a number with all its digits.
func exact(x float64) string { return strconv.FormatFloat(x, 'g', -1, 64) }

func (d *odtWriter) picture(b Block) {
	m, p := d.m, b.Picture
	d.drawn++
	scale := min(1, pagePx/p.Width) / 96
	inch := func(px float64) string { return strconv.FormatFloat(px*scale, 'f', 3, 64) + "in" }
	m.start("text:p", "text:style-name", "Picture")
	m.start("draw:frame", "draw:name", "Picture"+strconv.Itoa(d.drawn), "text:anchor-type", "as-char", "svg:width", inch(p.Width), "svg:height", inch(p.Height))
	m.empty("draw:image", "xlink:href", fmt.Sprintf("Pictures/picture-%d.svg", d.drawn), "xlink:type", "simple", "xlink:show", "embed", "xlink:actuate", "onLoad", "draw:mime-type", "image/svg+xml")
	m.leaf("svg:title", p.Caption)
	m.leaf("svg:desc", p.Alt)
	m.end()
	m.end()
	d.caption("Caption", b.Anchor, p.Label, p.Number, p.Caption)
	d.notes(p.Notes)
}
