package export

import (
	"bufio"
	"encoding/xml"
	"io"
	"strings"
)

// markup writes XML piece by piece, so that a document of any length takes no memory. Its
// first error is kept and told at the end.
type markup struct {
	w    *bufio.Writer
	open []string
	err  error
}

func newMarkup(w io.Writer) *markup {
	m := &markup{w: bufio.NewWriter(w)}
	m.raw(xml.Header)
	return m
}

func (m *markup) raw(s string) {
	if m.err == nil {
		_, m.err = m.w.WriteString(s)
	}
}

// tag writes a start tag with attributes, name and value in turns.
func (m *markup) tag(name string, attributes ...string) {
	m.raw("<" + name)
	for i := 0; i+1 < len(attributes); i += 2 {
		m.raw(" " + attributes[i] + `="`)
		m.text(attributes[i+1])
		m.raw(`"`)
	}
}

// start opens an element, end closes the one that was opened last.
func (m *markup) start(name string, attributes ...string) {
	m.tag(name, attributes...)
	m.raw(">")
	m.open = append(m.open, name)
}

func (m *markup) end() {
	last := len(m.open) - 1
	m.raw("</" + m.open[last] + ">")
	m.open = m.open[:last]
}

// empty writes an element without content.
func (m *markup) empty(name string, attributes ...string) {
	m.tag(name, attributes...)
	m.raw("/>")
}

// leaf writes an element that holds text alone.
func (m *markup) leaf(name, text string, attributes ...string) {
	m.start(name, attributes...)
	m.text(text)
	m.end()
}

// text writes text as it is; what XML cannot hold is left out.
func (m *markup) text(s string) {
	if m.err == nil {
		m.err = xml.EscapeText(m.w, []byte(strings.Map(printable, s)))
	}
}

// printable drops the control characters that XML refuses.
func printable(r rune) rune {
	if r < 0x20 && r != '\t' && r != '\n' && r != '\r' || r == 0xFFFE || r == 0xFFFF {
		return -1
	}
	return r
}

func (m *markup) close() error {
	for len(m.open) > 0 {
		m.end()
	}
	if m.err != nil {
		return m.err
	}
	return m.w.Flush()
}
