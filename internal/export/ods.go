package export

import (
	"fmt"
	"html"
	"io"
	"maps"
	"slices"
	"strconv"
	"strings"
)

// odsWriter writes a workbook as OpenDocument: as the other workbook, its contents with links, a sheet for
// each table with the pictures of the same piece beside it, and all figures one by one.
type odsWriter struct {
	m      *markup
	sheets int
}

// ods writes the tables of a report, a sheet each, numbers as numbers as they are shown.
func (r Report) ods(w io.Writer) error {
	tables := r.signed()
	reserved := []string{r.Words.contents(), r.Words.figures()}
	names := slices.Concat(reserved[:1], sheetNames(tables, reserved...), reserved[1:])
	parts := map[string][]byte{"styles.xml": []byte(odsStyles()), "settings.xml": []byte(odsSettings(names))}
	for _, b := range r.Blocks {
		if b.Picture != nil && b.Picture.PNG != nil {
			parts[odsPicture(b.Picture)] = b.Picture.PNG
		}
	}
	return r.openDocument(w, odsMedia, parts, func(m *markup) {
		o := &odsWriter{m: m}
		m.start("office:automatic-styles")
		o.styles(r, tables)
		m.end()
		m.start("office:body")
		m.start("office:spreadsheet")
		o.contents(r, tables, names)
		beside := r.beside()
		for i, t := range tables {
			page := ""
			if beside[t.Number] != nil {
				page = "Sideways"
			}
			o.sheet(names[i+1], t.characters(), page)
			o.table(t, names[0], beside[t.Number])
			m.end()
		}
		o.figures(r, reserved[1])
	})
}

// looks are how the numbers of a report are shown.
func looks(tables []*Table) []numberLook {
	known := map[numberLook]bool{{kind: generalLook}: true}
	for _, t := range tables {
		for _, row := range t.Rows {
			for _, c := range row {
				if c.Number != nil {
					known[c.look()] = true
				}
			}
		}
	}
	return slices.SortedFunc(maps.Keys(known), func(a, b numberLook) int { return strings.Compare(a.name(), b.name()) })
}

func (l numberLook) name() string {
	name := string(l.kind) + strconv.Itoa(l.decimals)
	if l.few {
		name += "few"
	}
	if l.above != "" {
		name += fmt.Sprintf("x%x", l.above)
	}
	return name
}

// columnWidth is that of so many characters.
func columnWidth(n int) string { return strconv.FormatFloat(0.2*float64(n)+0.3, 'f', 2, 64) + "cm" }

func (o *odsWriter) styles(r Report, tables []*Table) {
	m := o.m
	for _, page := range []string{"Upright", "Sideways"} {
		m.start("style:style", "style:name", page, "style:family", "table", "style:master-page-name", page)
		m.empty("style:table-properties", "table:display", "true")
		m.end()
	}
	widths := map[int]bool{12: true, 90: true, 18: true}
	for _, t := range tables {
		for _, n := range t.characters() {
			widths[n] = true
		}
	}
	for _, n := range slices.Sorted(maps.Keys(widths)) {
		m.start("style:style", "style:name", "W"+strconv.Itoa(n), "style:family", "table-column")
		m.empty("style:table-column-properties", "style:column-width", columnWidth(n))
		m.end()
	}
	m.start("style:style", "style:name", "HighRow", "style:family", "table-row")
	m.empty("style:table-row-properties", "style:use-optimal-row-height", "true")
	m.end()
	for _, l := range looks(tables) {
		l.odf(m)
	}
	cell := func(name, data string, bold, wraps, foot bool, align string) {
		attributes := []string{"style:name", name, "style:family", "table-cell", "style:parent-style-name", "Default"}
		if data != "" {
			attributes = append(attributes, "style:data-style-name", data)
		}
		m.start("style:style", attributes...)
		of := []string{"style:vertical-align", "top"}
		if wraps {
			of = append(of, "fo:wrap-option", "wrap")
		}
		if foot {
			of = append(of, "fo:border-top", "0.5pt solid #20262b")
		}
		m.empty("style:table-cell-properties", of...)
		if align != "" {
			m.empty("style:paragraph-properties", "fo:text-align", align)
		}
		if bold {
			m.empty("style:text-properties", "fo:font-weight", "bold")
		}
		m.end()
	}
	cell("Title", "", true, false, false, "")
	cell("Head", "", true, true, false, "start")
	cell("FigureHead", "", true, true, false, "end")
	cell("Words", "", false, false, false, "")
	cell("Note", "", false, true, false, "")
	cell("Figure", "", false, false, false, "end")
	cell("FootWords", "", true, false, true, "")
	cell("FootFigure", "", true, false, true, "end")
	for _, l := range looks(tables) {
		cell("C"+l.name(), "N"+l.name(), false, false, false, "end")
		cell("F"+l.name(), "N"+l.name(), true, false, true, "end")
	}
}

// odf is the look as a style of numbers.
func (l numberLook) odf(m *markup) {
	name, decimals := "N"+l.name(), strconv.Itoa(l.decimals)
	number := func(grouping bool) {
		m.empty("number:number", "number:decimal-places", decimals, "number:min-decimal-places", decimals, "number:min-integer-digits", "1", "number:grouping", strconv.FormatBool(grouping))
	}
	open, end := l.around()
	style := func(name string, before, after string, grouping bool) {
		before, after = open+before, after+end
		m.start("number:number-style", "style:name", name)
		if before != "" {
			m.leaf("number:text", before)
		}
		number(grouping)
		if after != "" {
			m.leaf("number:text", after)
		}
	}
	switch l.kind {
	case scientificLook:
		m.start("number:number-style", "style:name", name)
		m.empty("number:scientific-number", "number:decimal-places", decimals, "number:min-decimal-places", decimals, "number:min-integer-digits", "1", "number:min-exponent-digits", "2")
		m.end()
	case percentLook:
		style(name, "", "\u00a0%", false)
		m.end()
	case signedLook: // one style for what is above zero, one for what is below, and what is neither
		style(name+"P", "+", "", true)
		m.end()
		style(name+"N", "\u2212", "", true)
		m.end()
		style(name, "", "", true)
		m.empty("style:map", "style:condition", "value()>0", "style:apply-style-name", name+"P")
		m.empty("style:map", "style:condition", "value()<0", "style:apply-style-name", name+"N")
		m.end()
	case generalLook:
		m.start("number:number-style", "style:name", name)
		if open != "" {
			m.leaf("number:text", open)
		}
		m.empty("number:number", "number:min-integer-digits", "1")
		if end != "" {
			m.leaf("number:text", end)
		}
		m.end()
	default:
		style(name, "", "", l.kind == groupedLook)
		m.end()
	}
}

// sheet begins a sheet with columns of such widths in characters; it ends with the next end.
func (o *odsWriter) sheet(name string, widths []int, page string) {
	sum := 0
	for _, n := range widths {
		sum += n
	}
	if page == "" {
		page = "Upright"
		if sum > landscapeFrom {
			page = "Sideways"
		}
	}
	o.sheets++
	o.m.start("table:table", "table:name", name, "table:style-name", page)
	for _, n := range widths {
		o.m.empty("table:table-column", "table:style-name", "W"+strconv.Itoa(n))
	}
}

func (o *odsWriter) row(cells func()) {
	o.m.start("table:table-row", "table:style-name", "HighRow")
	cells()
	o.m.end()
}

// text is a cell of words; what a spreadsheet might run is neutralised. It may lead to a sheet and span
// columns.
func (o *odsWriter) text(style, text, to string, span int) {
	attributes := []string{"office:value-type", "string", "table:style-name", style}
	if span > 1 {
		attributes = append(attributes, "table:number-columns-spanned", strconv.Itoa(span), "table:number-rows-spanned", "1")
	}
	o.m.start("table:table-cell", attributes...)
	if to == "" {
		o.m.leaf("text:p", neutral(text))
	} else {
		o.m.start("text:p")
		o.m.leaf("text:a", neutral(text), "xlink:type", "simple", "xlink:href", "#'"+strings.ReplaceAll(to, "'", "''")+"'.A1")
		o.m.end()
	}
	o.m.end()
	for range span - 1 {
		o.m.empty("table:covered-table-cell")
	}
}

func (o *odsWriter) number(style string, c Cell) {
	o.m.start("table:table-cell", "office:value-type", "float", "office:value", exact(*c.Number), "table:style-name", style+c.look().name())
	o.m.leaf("text:p", c.shown())
	o.m.end()
}

func (o *odsWriter) contents(r Report, tables []*Table, names []string) {
	o.sheet(names[0], []int{12, 90}, "Upright")
	o.row(func() { o.text("Title", r.Title, "", 2) })
	o.row(func() { o.text("Words", r.Of, "", 2) })
	o.row(func() { o.m.empty("table:table-cell") })
	for i, t := range tables {
		o.row(func() { o.text("Words", sheetLabel(t), names[i+1], 1); o.text("Note", t.Title, "", 1) })
	}
	o.row(func() { o.text("Words", names[len(names)-1], names[len(names)-1], 1) })
	o.m.end()
}

// sheetLabel is what leads to a table.
func sheetLabel(t *Table) string {
	if t.Label == "" {
		return "→"
	}
	return t.Label
}

func (o *odsWriter) table(t *Table, contents string, pictures []*Picture) {
	m, across := o.m, max(1, len(t.Head))
	m.start("table:table-header-rows")
	o.row(func() { o.text("Title", t.caption(), "", 1) })
	spans := t.Spans()
	for _, line := range spans {
		o.row(func() {
			for _, s := range line {
				o.text("Head", s.Text, "", s.Columns)
			}
		})
	}
	o.row(func() {
		for i, h := range t.Head {
			style := "Head"
			if i > 0 && !t.wordy(i) {
				style = "FigureHead"
			}
			o.text(style, h, "", 1)
		}
	})
	m.end()
	rows := 2 + len(spans)
	for k, cells := range t.Rows {
		foot := t.Foot > 0 && k >= len(t.Rows)-t.Foot
		o.row(func() {
			for i := range t.Head {
				var c Cell
				if i < len(cells) {
					c = cells[i]
				}
				words, figure, number := "Words", "Figure", "C"
				if foot {
					words, figure, number = "FootWords", "FootFigure", "F"
				}
				switch {
				case c.Number != nil:
					o.number(number, c)
				case i > 0 && !t.wordy(i):
					o.text(figure, c.shown(), "", 1)
				default:
					o.text(words, c.shown(), "", 1)
				}
			}
			if k == 0 {
				o.pictures(across, pictures)
			}
		})
		rows++
	}
	o.row(func() { m.empty("table:table-cell") })
	for _, n := range t.Notes {
		o.row(func() { o.text("Note", n, "", across) })
	}
	o.row(func() { m.empty("table:table-cell") })
	o.row(func() { o.text("Words", contents, contents, 1) })
}

func odsPicture(p *Picture) string { return fmt.Sprintf("Pictures/picture-%d.png", p.Number) }

// pictures hang from a cell beside the table, one below the other.
func (o *odsWriter) pictures(across int, list []*Picture) {
	if len(list) == 0 {
		return
	}
	const gap = 40.0
	m, down := o.m, 0.0
	inch := func(px float64) string { return strconv.FormatFloat(px/96, 'f', 3, 64) + "in" }
	m.empty("table:table-cell")
	m.start("table:table-cell")
	for _, p := range list {
		m.start("draw:frame", "draw:name", p.Label, "svg:x", "0in", "svg:y", inch(down), "svg:width", inch(p.Width), "svg:height", inch(p.Height))
		m.empty("draw:image", "xlink:href", odsPicture(p), "xlink:type", "simple", "xlink:show", "embed", "xlink:actuate", "onLoad", "draw:mime-type", "image/png")
		m.leaf("svg:title", p.Label+". "+p.Caption)
		m.leaf("svg:desc", p.Alt)
		m.end()
		down += p.Height + gap
	}
	m.end()
}

func (o *odsWriter) figures(r Report, name string) {
	heads := r.Words.heads()
	o.sheet(name, slices.Repeat([]int{18}, len(heads)), "Sideways")
	o.m.start("table:table-header-rows")
	o.row(func() {
		for _, h := range heads {
			o.text("Head", h, "", 1)
		}
	})
	o.m.end()
	for _, line := range r.tidy() {
		o.row(func() {
			for _, c := range line {
				if c.Number == nil {
					o.text("Words", c.Text, "", 1)
					continue
				}
				o.m.start("table:table-cell", "office:value-type", "float", "office:value", exact(*c.Number), "table:style-name", "C"+numberLook{kind: generalLook}.name())
				o.m.leaf("text:p", exact(*c.Number))
				o.m.end()
			}
		})
	}
	o.m.end()
}

// odsStyles are the pages: A4, upright and on its side, one page wide.
func odsStyles() string {
	var out strings.Builder
	m := newMarkup(&out)
	m.start("office:document-styles", odfSpaces...)
	m.start("office:styles")
	m.start("style:style", "style:name", "Default", "style:family", "table-cell")
	m.empty("style:text-properties", "fo:font-family", "Arial", "fo:font-size", "10pt")
	m.end()
	m.end()
	m.start("office:automatic-styles")
	for _, p := range [][4]string{{"Upright", "21cm", "29.7cm", "portrait"}, {"Sideways", "29.7cm", "21cm", "landscape"}} {
		m.start("style:page-layout", "style:name", p[0])
		m.start("style:page-layout-properties", "fo:page-width", p[1], "fo:page-height", p[2], "style:print-orientation", p[3], "fo:margin", "2cm", "style:scale-to-X", "1", "style:scale-to-Y", "0")
		m.end()
		m.end()
	}
	m.end()
	m.start("office:master-styles")
	for _, p := range []string{"Upright", "Sideways"} {
		m.empty("style:master-page", "style:name", p, "style:page-layout-name", p)
	}
	m.end()
	_ = m.close() // a builder takes everything
	return out.String()
}

// odsSettings keep the heads of the sheets where they are when a sheet is scrolled.
func odsSettings(names []string) string {
	var out strings.Builder
	out.WriteString(`<?xml version="1.0" encoding="UTF-8"?>` + "\n" + `<office:document-settings xmlns:office="urn:oasis:names:tc:opendocument:xmlns:office:1.0" xmlns:config="urn:oasis:names:tc:opendocument:xmlns:config:1.0" office:version="1.3"><office:settings><config:config-item-set config:name="ooo:view-settings"><config:config-item-map-indexed config:name="Views"><config:config-item-map-entry><config:config-item-map-named config:name="Tables">`)
	for i, name := range names {
		across, down := 1, 2
		switch i {
		case 0:
			continue
		case len(names) - 1:
			across, down = 0, 1
		}
		out.WriteString(`<config:config-item-map-entry config:name="` + html.EscapeString(name) + `">`)
		for _, of := range []struct {
			name, kind string
			value      int
		}{{"HorizontalSplitMode", "short", 2 * across}, {"VerticalSplitMode", "short", 2}, {"HorizontalSplitPosition", "int", across}, {"VerticalSplitPosition", "int", down},
			{"ActiveSplitRange", "short", 2 + across}, {"PositionLeft", "int", 0}, {"PositionRight", "int", across}, {"PositionTop", "int", 0}, {"PositionBottom", "int", down}} {
			fmt.Fprintf(&out, `<config:config-item config:name=%q config:type=%q>%d</config:config-item>`, of.name, of.kind, of.value)
		}
		out.WriteString(`</config:config-item-map-entry>`)
	}
	out.WriteString(`</config:config-item-map-named></config:config-item-map-entry></config:config-item-map-indexed></config:config-item-set></office:settings></office:document-settings>`)
	return out.String()
}
