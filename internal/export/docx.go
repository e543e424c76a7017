package export

import (
	"archive/zip"
	"cmp"
	_ "embed"
	"fmt"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// Office Open XML, ISO/IEC 29500: a zip of parts. The styles never change.

//go:embed parts/docx-styles.xml
var docxStyles string

const (
	wordSpace = "http://schemas.openxmlformats.org/wordprocessingml/2006/main"
	relSpace  = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
	relTypes  = "http://schemas.openxmlformats.org/officeDocument/2006/relationships/"
	// emuPerPixel turns CSS pixels into the units of drawings.
	emuPerPixel = 9525
	pagePx      = 640.0 // the width of the text of a page, in CSS pixels
)

// docx writes a report as a text document with real headings, tables and pictures.
func (r Report) docx(w io.Writer) error {
	out := zip.NewWriter(w)
	part := func(name string, write func(m *markup)) error {
		entry, err := out.Create(name)
		if err != nil {
			return err
		}
		m := newMarkup(entry)
		write(m)
		return m.close()
	}
	d := &docxWriter{links: map[string]int{}, rooms: r.rooms(usualRooms)}
	styles := strings.ReplaceAll(docxStyles, "LANG", r.Lang)
	if t := r.Template; t != nil {
		d.template, d.rooms, d.ids, styles = t, r.rooms(t.rooms), t.idsIn(styles), t.with(styles)
	}
	steps := []func() error{
		func() error { return part("[Content_Types].xml", docxTypes) },
		func() error {
			return part("_rels/.rels", func(m *markup) {
				m.start("Relationships", "xmlns", "http://schemas.openxmlformats.org/package/2006/relationships")
				m.empty("Relationship", "Id", "rId1", "Type", relTypes+"officeDocument", "Target", "word/document.xml")
				m.empty("Relationship", "Id", "rId2", "Type", "http://schemas.openxmlformats.org/package/2006/relationships/metadata/core-properties", "Target", "docProps/core.xml")
			})
		},
		func() error { return part("docProps/core.xml", r.coreProperties) },
		func() error { return part("word/document.xml", func(m *markup) { d.m = m; d.document(r) }) },
		func() error { return text(out, "word/styles.xml", styles) },
		func() error { return part("word/numbering.xml", d.numbering) },
		func() error { return part("word/footer1.xml", func(m *markup) { docxFooter(m, r, d.ids, d.rooms) }) },
		func() error { return part("word/settings.xml", docxSettings) },
		func() error { return d.fontParts(out, part) },
		func() error { return part("word/_rels/document.xml.rels", d.relations) },
		func() error { return d.pictures(out, r) },
		out.Close,
	}
	for _, step := range steps {
		if err := step(); err != nil {
			return fmt.Errorf("export: %w", err)
		}
	}
	return nil
}

// text adds a part that is there already.
func text(out *zip.Writer, name, content string) error {
	entry, err := out.Create(name)
	if err != nil {
		return err
	}
	_, err = io.WriteString(entry, content)
	return err
}

func docxTypes(m *markup) {
	m.start("Types", "xmlns", "http://schemas.openxmlformats.org/package/2006/content-types")
	for _, kind := range [][2]string{{"rels", "application/vnd.openxmlformats-package.relationships+xml"}, {"xml", "application/xml"}, {"svg", "image/svg+xml"}, {"png", "image/png"},
		{"odttf", "application/vnd.openxmlformats-officedocument.obfuscatedFont"}} {
		m.empty("Default", "Extension", kind[0], "ContentType", kind[1])
	}
	const word = "application/vnd.openxmlformats-officedocument.wordprocessingml."
	for _, part := range [][2]string{{"/word/document.xml", word + "document.main+xml"}, {"/word/styles.xml", word + "styles+xml"}, {"/word/numbering.xml", word + "numbering+xml"},
		{"/word/footer1.xml", word + "footer+xml"}, {"/word/fontTable.xml", word + "fontTable+xml"}, {"/word/settings.xml", word + "settings+xml"},
		{"/docProps/core.xml", "application/vnd.openxmlformats-package.core-properties+xml"}} {
		m.empty("Override", "PartName", part[0], "ContentType", part[1])
	}
}

func (r Report) coreProperties(m *markup) {
	m.start("cp:coreProperties", "xmlns:cp", "http://schemas.openxmlformats.org/package/2006/metadata/core-properties", "xmlns:dc", "http://purl.org/dc/elements/1.1/",
		"xmlns:dcterms", "http://purl.org/dc/terms/", "xmlns:xsi", "http://www.w3.org/2001/XMLSchema-instance")
	m.leaf("dc:title", r.Title)
	m.leaf("dc:subject", r.Study)
	m.leaf("dc:creator", r.Author)
	m.leaf("dc:description", r.Of)
	m.leaf("dc:language", r.Lang)
	m.leaf("cp:lastModifiedBy", r.Author)
	m.leaf("dcterms:modified", r.At.UTC().Format("2006-01-02T15:04:05Z"), "xsi:type", "dcterms:W3CDTF")
	m.leaf("dcterms:created", r.At.UTC().Format("2006-01-02T15:04:05Z"), "xsi:type", "dcterms:W3CDTF")
}

type docxWriter struct {
	m *markup
	// links are the addresses with the number of their relation.
	links    map[string]int
	order    []string
	drawn    int
	anchored int
	lists    int  // numbered ones
	turned   bool // the pages lie on their side
	// template is that of which styles and pages are taken, nil for none; ids are those of our styles in it.
	template *Template
	ids      map[string]string
	rooms    rooms
}

// style is the id of one of our styles.
func (d *docxWriter) style(ours string) string { return cmp.Or(d.ids[ours], ours) }

// numbering describes the lists: one with bullets, and each numbered one, which begins at 1.
func (d *docxWriter) numbering(m *markup) {
	m.start("w:numbering", "xmlns:w", wordSpace)
	for i, kind := range [][2]string{{"bullet", "•"}, {"decimal", "%1."}} {
		m.start("w:abstractNum", "w:abstractNumId", strconv.Itoa(i))
		m.empty("w:multiLevelType", "w:val", "singleLevel")
		m.start("w:lvl", "w:ilvl", "0")
		m.empty("w:start", "w:val", "1")
		m.empty("w:numFmt", "w:val", kind[0])
		m.empty("w:lvlText", "w:val", kind[1])
		m.empty("w:lvlJc", "w:val", "left")
		m.start("w:pPr")
		m.empty("w:ind", "w:left", "454", "w:hanging", "284")
		m.end()
		m.end()
		m.end()
	}
	for i := range 1 + d.lists {
		m.start("w:num", "w:numId", strconv.Itoa(1+i))
		m.empty("w:abstractNumId", "w:val", strconv.Itoa(min(i, 1)))
		if i > 0 {
			m.start("w:lvlOverride", "w:ilvl", "0")
			m.empty("w:startOverride", "w:val", "1")
			m.end()
		}
		m.end()
	}
}

// The first relations are those of the parts that every document has.
const docxFixed = 5

func (d *docxWriter) relations(m *markup) {
	m.start("Relationships", "xmlns", "http://schemas.openxmlformats.org/package/2006/relationships")
	for i, to := range [][2]string{{"styles", "styles.xml"}, {"numbering", "numbering.xml"}, {"footer", "footer1.xml"}, {"fontTable", "fontTable.xml"}, {"settings", "settings.xml"}} {
		m.empty("Relationship", "Id", "rId"+strconv.Itoa(i+1), "Type", relTypes+to[0], "Target", to[1])
	}
	for i, link := range d.order {
		m.empty("Relationship", "Id", "rId"+strconv.Itoa(docxFixed+1+i), "Type", relTypes+"hyperlink", "Target", link, "TargetMode", "External")
	}
	for i := range d.drawn {
		for _, kind := range []string{"svg", "png"} {
			m.empty("Relationship", "Id", kind+strconv.Itoa(i+1), "Type", relTypes+"image", "Target", fmt.Sprintf("media/picture-%d.%s", i+1, kind))
		}
	}
}

// pictures adds each picture twice: as it was drawn, and as dots for readers that know no SVG.
func (d *docxWriter) pictures(out *zip.Writer, r Report) error {
	n := 0
	for _, b := range r.Blocks {
		if b.Picture == nil {
			continue
		}
		n++
		for kind, content := range map[string]string{"svg": b.Picture.SVG, "png": string(b.Picture.PNG)} {
			if err := text(out, fmt.Sprintf("word/media/picture-%d.%s", n, kind), content); err != nil {
				return err
			}
		}
	}
	return nil
}

func (d *docxWriter) document(r Report) {
	m := d.m
	m.start("w:document", "xmlns:w", wordSpace, "xmlns:r", relSpace, "xmlns:wp", "http://schemas.openxmlformats.org/drawingml/2006/wordprocessingDrawing",
		"xmlns:a", "http://schemas.openxmlformats.org/drawingml/2006/main", "xmlns:pic", "http://schemas.openxmlformats.org/drawingml/2006/picture",
		"xmlns:asvg", "http://schemas.microsoft.com/office/drawing/2016/SVG/main")
	m.start("w:body")
	d.paragraph("Title", "", []Run{{Text: r.Title}})
	d.paragraph("Source", "", []Run{{Text: r.Of}})
	d.contents(r)
	for i, b := range r.Blocks {
		if lies := r.lies(i, d.rooms); lies != d.turned {
			d.turn(d.turned)
			d.turned = lies
		}
		d.block(b)
	}
	d.section(d.turned)
}

// section is the layout of the pages before it: A4, upright or on its side, with the number of the page
// at the foot.
func (d *docxWriter) section(landscape bool) {
	m := d.m
	m.start("w:sectPr")
	m.empty("w:footerReference", "w:type", "default", "r:id", "rId3")
	size := map[string]string{"w": "11906", "h": "16838"}
	margins := map[string]string{"top": "1134", "right": "1134", "bottom": "1134", "left": "1134", "header": "709", "footer": "709", "gutter": "0"}
	if t := d.template; t != nil && t.size != nil && t.margins != nil {
		size, margins = t.size, t.margins
	}
	if landscape {
		m.empty("w:pgSz", "w:w", size["h"], "w:h", size["w"], "w:orient", "landscape")
	} else {
		m.empty("w:pgSz", "w:w", size["w"], "w:h", size["h"])
	}
	var attributes []string
	for _, name := range slices.Sorted(maps.Keys(margins)) {
		attributes = append(attributes, "w:"+name, margins[name])
	}
	m.empty("w:pgMar", attributes...)
	m.end()
}

// turn ends the pages so far; those behind it may lie otherwise.
func (d *docxWriter) turn(landscape bool) {
	m := d.m
	m.start("w:p")
	m.start("w:pPr")
	m.empty("w:pStyle", "w:val", d.style("Turn"))
	d.section(landscape)
	m.end()
	m.end()
}

func (d *docxWriter) block(b Block) {
	switch b.Kind {
	case HeadingBlock:
		d.paragraph("Heading"+strconv.Itoa(min(max(b.Level, 1), 4)), b.Anchor, b.Runs)
	case ParagraphBlock:
		d.paragraph("", b.Anchor, b.Runs)
	case QuoteBlock:
		d.paragraph("Quote", b.Anchor, b.Runs)
	case ListBlock:
		list := "1"
		if b.Numbered {
			d.lists++
			list = strconv.Itoa(1 + d.lists)
		}
		for _, item := range b.Items {
			d.paragraph("List", "", item, "w:numPr", list)
		}
	case TableBlock:
		d.table(b)
	case PictureBlock:
		d.picture(b)
	}
}

// paragraph writes one; numbered gives the list that it belongs to.
func (d *docxWriter) paragraph(style, anchor string, runs []Run, numbered ...string) {
	m := d.m
	m.start("w:p")
	m.start("w:pPr")
	if style != "" {
		m.empty("w:pStyle", "w:val", d.style(style))
	}
	if len(numbered) > 0 {
		m.start("w:numPr")
		m.empty("w:ilvl", "w:val", "0")
		m.empty("w:numId", "w:val", numbered[1])
		m.end()
	}
	m.end()
	if anchor != "" {
		d.anchored++
		m.empty("w:bookmarkStart", "w:id", strconv.Itoa(d.anchored), "w:name", bookmark(anchor))
		defer m.end()
		defer m.empty("w:bookmarkEnd", "w:id", strconv.Itoa(d.anchored))
	} else {
		defer m.end()
	}
	for _, r := range runs {
		d.run(r)
	}
}

func (d *docxWriter) run(r Run) {
	m := d.m
	if to, inside := strings.CutPrefix(r.Link, "#"); inside {
		d.field("REF "+bookmark(to)+` \h`, func() { d.run(Run{Text: r.Text, Bold: r.Bold, Italic: r.Italic}) })
		return
	} else if r.Link != "" {
		if d.links[r.Link] == 0 {
			d.order = append(d.order, r.Link)
			d.links[r.Link] = docxFixed + len(d.order)
		}
		m.start("w:hyperlink", "r:id", "rId"+strconv.Itoa(d.links[r.Link]))
		defer m.end()
	}
	m.start("w:r")
	m.start("w:rPr")
	if r.Link != "" {
		m.empty("w:rStyle", "w:val", d.style("Link"))
	}
	if r.Bold {
		m.empty("w:b")
	}
	if r.Italic {
		m.empty("w:i")
	}
	if r.Code {
		m.empty("w:rFonts", "w:ascii", "Courier New", "w:hAnsi", "Courier New")
	}
	m.end()
	m.leaf("w:t", r.Text, "xml:space", "preserve")
	m.end()
	if r.Stale != "" {
		d.run(Run{Text: " [" + r.Stale + "]", Italic: true})
	}
}

func (d *docxWriter) notes(list []string) {
	for i, n := range list {
		style := "Note"
		if i == len(list)-1 {
			style = "LastNote"
		}
		d.paragraph(style, "", []Run{{Text: n}})
	}
}

func (d *docxWriter) picture(b Block) {
	m, p := d.m, b.Picture
	d.drawn++
	scale := min(1, pagePx/p.Width)
	across, down := strconv.Itoa(int(p.Width*scale*emuPerPixel)), strconv.Itoa(int(p.Height*scale*emuPerPixel))
	id := strconv.Itoa(d.drawn)
	m.start("w:p")
	m.start("w:pPr")
	m.empty("w:pStyle", "w:val", d.style("Picture"))
	m.end()
	m.start("w:r")
	m.start("w:drawing")
	m.start("wp:inline", "distT", "0", "distB", "0", "distL", "0", "distR", "0")
	m.empty("wp:extent", "cx", across, "cy", down)
	m.empty("wp:docPr", "id", id, "name", "Picture "+id, "descr", p.Alt)
	m.start("a:graphic")
	m.start("a:graphicData", "uri", "http://schemas.openxmlformats.org/drawingml/2006/picture")
	m.start("pic:pic")
	m.start("pic:nvPicPr")
	m.empty("pic:cNvPr", "id", id, "name", "Picture "+id, "descr", p.Alt)
	m.empty("pic:cNvPicPr")
	m.end()
	m.start("pic:blipFill")
	m.start("a:blip", "r:embed", "png"+id)
	m.start("a:extLst")
	m.start("a:ext", "uri", "{96DAC541-7B7A-43D3-8B79-37D633B846F1}")
	m.empty("asvg:svgBlip", "r:embed", "svg"+id)
	m.end()
	m.end()
	m.end()
	m.start("a:stretch")
	m.empty("a:fillRect")
	m.end()
	m.end()
	m.start("pic:spPr")
	m.start("a:xfrm")
	m.empty("a:off", "x", "0", "y", "0")
	m.empty("a:ext", "cx", across, "cy", down)
	m.end()
	m.start("a:prstGeom", "prst", "rect")
	m.empty("a:avLst")
	m.end()
	m.end()
	for range 7 {
		m.end()
	}
	d.caption(b.Anchor, p.Label, p.Number, p.Caption)
	d.notes(p.Notes)
}
