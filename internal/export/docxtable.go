package export

import "strconv"

func (d *docxWriter) table(b Block) {
	t := b.Table
	parts := t.parts(d.rooms)
	for k, p := range parts {
		caption := "Caption"
		switch {
		case t.caption() == "": // one of the prose
		case k == 0:
			d.caption(b.Anchor, t.Label, t.Number, t.Title)
		default:
			d.paragraph(caption, "", []Run{{Text: t.caption() + " (" + strconv.Itoa(k+1) + "/" + strconv.Itoa(len(parts)) + ")"}})
		}
		d.grid(*t, p)
		if k == len(parts)-1 {
			d.notes(t.Notes)
		}
	}
}

// grid writes a part of a table.
func (d *docxWriter) grid(t Table, p part) {
	m := d.m
	m.start("w:tbl")
	m.start("w:tblPr")
	m.empty("w:tblStyle", "w:val", d.style("Figures"))
	m.empty("w:tblW", "w:w", strconv.Itoa(p.width()), "w:type", "dxa")
	m.empty("w:tblLayout", "w:type", "fixed")
	m.empty("w:tblLook", "w:val", "0460", "w:firstRow", "1", "w:lastRow", "1")
	m.empty("w:tblCaption", "w:val", t.caption())
	m.end()
	m.start("w:tblGrid")
	for _, w := range p.widths {
		m.empty("w:gridCol", "w:w", strconv.Itoa(w))
	}
	m.end()
	row := func(cells []string, head, foot, keep bool) {
		m.start("w:tr")
		m.start("w:trPr")
		m.empty("w:cantSplit")
		if head {
			m.empty("w:tblHeader")
		}
		m.end()
		for k, at := range p.columns {
			m.start("w:tc")
			m.start("w:tcPr")
			m.empty("w:tcW", "w:w", strconv.Itoa(p.widths[k]), "w:type", "dxa")
			if head && len(t.Over) > 0 {
				m.start("w:tcBorders")
				m.empty("w:top", "w:val", "nil")
				m.empty("w:bottom", "w:val", "single", "w:sz", "8", "w:space", "0", "w:color", "20262B")
				m.end()
			}
			if foot {
				m.start("w:tcBorders")
				m.empty("w:top", "w:val", "single", "w:sz", "8", "w:space", "0", "w:color", "20262B")
				m.end()
			}
			m.end()
			style := "Cell"
			if at > 0 && !t.wordy(at) {
				style = "Figure"
			}
			text := ""
			if at < len(cells) {
				text = cells[at]
			}
			d.cell(style, text, p.points, head || foot, keep)
			m.end()
		}
		m.end()
	}
	for i, line := range t.over(p.columns) {
		d.spans(line, p, i > 0)
	}
	row(t.Head, true, false, true)
	for i, r := range t.Rows {
		row(shown(r), false, t.Foot > 0 && i == len(t.Rows)-t.Foot, kept(i, len(t.Rows)))
	}
	m.end()
}

// spans writes a line of headings over several columns, below another one or not.
func (d *docxWriter) spans(line []Spanning, p part, below bool) {
	m := d.m
	m.start("w:tr")
	m.start("w:trPr")
	m.empty("w:cantSplit")
	m.empty("w:tblHeader")
	m.end()
	at := 0
	for _, s := range line {
		width := 0
		for _, w := range p.widths[at : at+s.Columns] {
			width += w
		}
		at += s.Columns
		m.start("w:tc")
		m.start("w:tcPr")
		m.empty("w:tcW", "w:w", strconv.Itoa(width), "w:type", "dxa")
		if s.Columns > 1 {
			m.empty("w:gridSpan", "w:val", strconv.Itoa(s.Columns))
		}
		m.start("w:tcBorders")
		if below {
			m.empty("w:top", "w:val", "nil")
		}
		if s.Text != "" {
			m.empty("w:bottom", "w:val", "single", "w:sz", "4", "w:space", "0", "w:color", "20262B")
		} else {
			m.empty("w:bottom", "w:val", "nil")
		}
		m.end()
		m.end()
		style := "Figure"
		if at == 1 {
			style = "Cell"
		}
		if s.Columns > 1 {
			style = "Over"
		}
		d.cell(style, s.Text, p.points, true, true)
		m.end()
	}
	m.end()
}

// shown are the texts of a row.
func shown(row []Cell) []string {
	cells := make([]string, len(row))
	for i, c := range row {
		cells[i] = c.shown()
	}
	return cells
}

// cell is the paragraph of a cell, which may keep with that of the next row.
func (d *docxWriter) cell(style, text string, points float64, bold, keep bool) {
	m := d.m
	m.start("w:p")
	m.start("w:pPr")
	m.empty("w:pStyle", "w:val", d.style(style))
	if keep {
		m.empty("w:keepNext")
	}
	m.end()
	m.start("w:r")
	m.start("w:rPr")
	if bold {
		m.empty("w:b")
	}
	if points != usualPoints {
		m.empty("w:sz", "w:val", strconv.Itoa(int(2*points)))
	}
	m.end()
	m.leaf("w:t", text, "xml:space", "preserve")
	m.end()
	m.end()
}
