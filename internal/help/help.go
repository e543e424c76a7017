// Package help takes short explanations of figures and of kinds of claims out of the page on
// the methods, so that both say the same.
package help

import (
	"regexp"
	"slices"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"
)

// Topic is one explanation: what it is, when it serves, its formula and its source.
type Topic struct {
	// For are the keys of figures and the names of methods that it explains.
	For        []string  `json:"for"`
	Title      string    `json:"title"`
	Paragraphs [][]Piece `json:"paragraphs"`
}

// Piece is a part of a paragraph.
type Piece struct {
	Kind Kind   `json:"kind"`
	Text string `json:"text"`
}

// Kind says how a piece is written.
type Kind string

// The kinds.
const (
	Plain    Kind = "plain"
	Emphasis Kind = "emphasis"
	Math     Kind = "math" // TeX
	Strong   Kind = "strong"
	Code     Kind = "code" // as it is typed
)

// heading is that of the part of the page that holds the explanations.
const heading = "In short"

var marked = regexp.MustCompile(`<!-- for: ([\w, /-]+) -->`)

// Topics reads the explanations of a page in Markdown: below its heading “In short” each has a
// heading of its own, a comment that says what it is for, and paragraphs.
func Topics(page []byte) (out []Topic) {
	inside := false
	for node := goldmark.DefaultParser().Parse(text.NewReader(page)).FirstChild(); node != nil; node = node.NextSibling() {
		h, isHeading := node.(*ast.Heading)
		switch {
		case isHeading && h.Level <= 2:
			inside = plain(h, page) == heading
		case !inside:
		case isHeading:
			out = append(out, Topic{Title: plain(h, page), For: []string{}, Paragraphs: [][]Piece{}})
		case len(out) == 0:
		case node.Kind() == ast.KindHTMLBlock:
			lines := node.Lines()
			if found := marked.FindStringSubmatch(string(lines.Value(page))); found != nil {
				for _, key := range strings.Split(found[1], ",") {
					out[len(out)-1].For = append(out[len(out)-1].For, strings.TrimSpace(key))
				}
			}
		case node.Kind() == ast.KindParagraph:
			out[len(out)-1].Paragraphs = append(out[len(out)-1].Paragraphs, pieces(node, page))
		}
	}
	return out
}

func plain(node ast.Node, page []byte) string {
	var b strings.Builder
	for _, p := range pieces(node, page) {
		b.WriteString(p.Text)
	}
	return b.String()
}

// pieces flattens a paragraph. Mathematics stands between dollar signs.
func pieces(node ast.Node, page []byte) (out []Piece) {
	var b strings.Builder
	kind := Plain
	flush := func() {
		if b.Len() > 0 {
			out = append(out, split(b.String(), kind)...)
		}
		b.Reset()
	}
	for child := node.FirstChild(); child != nil; child = child.NextSibling() {
		switch n := child.(type) {
		case *ast.Text:
			b.Write(n.Segment.Value(page))
			if n.SoftLineBreak() {
				b.WriteByte(' ')
			}
		case *ast.Emphasis:
			// Within mathematics a star or a line below is no emphasis.
			if strings.Count(b.String(), "$")%2 == 1 {
				b.WriteString(strings.Repeat("_", n.Level) + plain(n, page) + strings.Repeat("_", n.Level))
				continue
			}
			flush()
			kind = Emphasis
			b.WriteString(plain(n, page))
			flush()
			kind = Plain
		default:
			b.WriteString(plain(n, page))
		}
	}
	flush()
	return out
}

func split(s string, kind Kind) (out []Piece) {
	for i, part := range strings.Split(s, "$") {
		switch {
		case part == "":
		case i%2 == 1:
			out = append(out, Piece{Math, part})
		default:
			out = append(out, Piece{kind, part})
		}
	}
	return out
}

// published is a source in brackets, as in “(Pearson 1900)”, or a name with its year, as in
// “Wilson’s (1927)”.
var published = regexp.MustCompile(`\(([^()]*\p{L}[^()]* (?:1[6-9]|20)\d\d[a-z]?)\)|(\p{Lu}[\p{L}]+(?: and \p{Lu}[\p{L}]+)?)(?:’s)?(?: [Qt])? \(((?:1[6-9]|20)\d\d)\)`)

// Sources are the publications that a topic names, in their order.
func (t Topic) Sources() (out []string) {
	for _, p := range t.Paragraphs {
		for _, piece := range p {
			for _, found := range published.FindAllStringSubmatch(piece.Text, -1) {
				source := found[1]
				if source == "" {
					source = found[2] + " " + found[3]
				}
				if !slices.Contains(out, source) {
					out = append(out, source)
				}
			}
		}
	}
	return out
}
