package export

import (
	"strconv"
	"strings"
)

// What a word processor keeps up to date by itself: numbers of tables and pictures, references to them,
// contents, and numbers of pages.

// field writes one that shows what show writes until it is brought up to date.
func (d *docxWriter) field(instruction string, show func()) {
	m := d.m
	mark := func(kind string) {
		m.start("w:r")
		m.empty("w:fldChar", "w:fldCharType", kind)
		m.end()
	}
	mark("begin")
	m.start("w:r")
	m.leaf("w:instrText", " "+instruction+" ", "xml:space", "preserve")
	m.end()
	mark("separate")
	show()
	mark("end")
}

// bookmark is the name of an anchor, of which a word processor takes letters, digits and low lines.
func bookmark(anchor string) string { return strings.ReplaceAll(anchor, "-", "_") }

// sequence is what is counted together: a label without its number.
func sequence(label string, number int) string {
	return strings.TrimSpace(strings.Replace(label, strconv.Itoa(number), "", 1))
}

// caption names a table or a picture by its place in its sequence; a reference shows the label alone.
func (d *docxWriter) caption(anchor, label string, number int, title string) {
	m := d.m
	m.start("w:p")
	m.start("w:pPr")
	m.empty("w:pStyle", "w:val", d.style("Caption"))
	m.end()
	if number > 0 {
		d.anchored++
		id := strconv.Itoa(d.anchored)
		m.empty("w:bookmarkStart", "w:id", id, "w:name", bookmark(anchor))
		of := sequence(label, number)
		d.run(Run{Text: of + " "})
		d.field("SEQ "+of+` \* ARABIC`, func() { d.run(Run{Text: strconv.Itoa(number)}) })
		m.empty("w:bookmarkEnd", "w:id", id)
		title = ". " + title
	}
	d.run(Run{Text: title})
	m.end()
}

// fewHeadings need no contents.
const fewHeadings = 4

// entry is a line of contents: what it is called, how deep it lies, and where.
type entry struct {
	text, anchor string
	level        int
}

// outline lists the headings of a report, and its tables and its pictures.
func (r Report) outline() (headings, tables, pictures []entry) {
	for _, b := range r.Blocks {
		switch {
		case b.Kind == HeadingBlock && b.Level <= 3:
			headings = append(headings, entry{Plain(b.Runs), b.Anchor, max(b.Level, 1)})
		case b.Table != nil && b.Table.Number > 0:
			tables = append(tables, entry{b.Table.caption(), b.Anchor, 1})
		case b.Picture != nil:
			pictures = append(pictures, entry{b.Picture.Label + ". " + b.Picture.Caption, b.Anchor, 1})
		}
	}
	return headings, tables, pictures
}

// contents lists the parts of a report, its tables and its pictures, with their pages.
func (d *docxWriter) contents(r Report) {
	headings, tables, pictures := r.outline()
	if len(headings) < fewHeadings {
		return
	}
	lists := []struct {
		title, instruction string
		entries            []entry
	}{{r.Words.Contents, `TOC \o "1-3" \h \z`, headings}}
	for _, of := range []struct {
		title   string
		entries []entry
	}{{r.Words.Tables, tables}, {r.Words.Pictures, pictures}} {
		if len(of.entries) > 1 {
			first, _, _ := strings.Cut(of.entries[0].text, ".")
			lists = append(lists, struct {
				title, instruction string
				entries            []entry
			}{of.title, `TOC \h \z \c "` + sequence(first, 1) + `"`, of.entries})
		}
	}
	m := d.m
	for _, l := range lists {
		d.paragraph("ContentsTitle", "", []Run{{Text: l.title}})
		for i, e := range l.entries {
			m.start("w:p")
			m.start("w:pPr")
			m.empty("w:pStyle", "w:val", d.style("TOC"+strconv.Itoa(e.level)))
			m.end()
			if i == 0 {
				d.mark("begin", l.instruction)
			}
			m.start("w:hyperlink", "w:anchor", bookmark(e.anchor), "w:history", "1")
			d.run(Run{Text: e.text})
			m.start("w:r")
			m.empty("w:tab")
			m.end()
			d.field("PAGEREF "+bookmark(e.anchor)+` \h`, func() { d.run(Run{Text: "…"}) })
			m.end()
			if i == len(l.entries)-1 {
				d.mark("end", "")
			}
			m.end()
		}
	}
}

// mark begins or ends a field over several paragraphs, which is brought up to date when it is opened.
func (d *docxWriter) mark(kind, instruction string) {
	m := d.m
	m.start("w:r")
	if kind == "begin" {
		m.empty("w:fldChar", "w:fldCharType", kind, "w:dirty", "true")
	} else {
		m.empty("w:fldChar", "w:fldCharType", kind)
	}
	m.end()
	if instruction == "" {
		return
	}
	m.start("w:r")
	m.leaf("w:instrText", " "+instruction+" ", "xml:space", "preserve")
	m.end()
	m.start("w:r")
	m.empty("w:fldChar", "w:fldCharType", "separate")
	m.end()
}

// docxFooter has the title and the number of the page.
func docxFooter(m *markup, r Report, ids map[string]string, of rooms) {
	d := &docxWriter{m: m, links: map[string]int{}, ids: ids}
	m.start("w:ftr", "xmlns:w", wordSpace, "xmlns:r", relSpace)
	m.start("w:p")
	m.start("w:pPr")
	m.empty("w:pStyle", "w:val", d.style("Footer"))
	m.start("w:tabs")
	m.empty("w:tab", "w:val", "right", "w:pos", strconv.Itoa(of.portrait))
	m.end()
	m.end()
	d.run(Run{Text: r.Title})
	m.start("w:r")
	m.empty("w:tab")
	m.end()
	d.field("PAGE", func() { d.run(Run{Text: "1"}) })
	d.run(Run{Text: " / "})
	d.field("NUMPAGES", func() { d.run(Run{Text: "1"}) })
}
