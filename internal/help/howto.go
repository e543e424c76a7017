package help

import (
	"bytes"
	"path"
	"regexp"
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	table "github.com/yuin/goldmark/extension/ast"
	"github.com/yuin/goldmark/text"
)

// HowTo is a page of the guide.
type HowTo struct {
	// Name stands in its address.
	Name   string  `json:"name"`
	Title  string  `json:"title"`
	Blocks []Block `json:"blocks"`
}

// Block is a piece of a page; which of its members is set follows from Kind.
type Block struct {
	Kind   BlockKind `json:"kind"`
	Pieces []Piece   `json:"pieces,omitempty"`
	// Text is that of what is typed, or what a picture shows.
	Text string `json:"text,omitempty"`
	// File is that of a picture, and Rows those of a table, the first of which is its head.
	File string      `json:"file,omitempty"`
	Rows [][][]Piece `json:"rows,omitempty"`
}

// BlockKind says what a block is.
type BlockKind string

// The kinds of blocks.
const (
	Paragraph BlockKind = "paragraph"
	Typed     BlockKind = "typed"
	Picture   BlockKind = "picture"
	Table     BlockKind = "table"
)

var (
	numbered = regexp.MustCompile(`^\d+\. `)
	unnamed  = regexp.MustCompile(`[^a-z0-9]+`)
)

// HowTos reads the guide in Markdown: a page below each heading of the second level.
func HowTos(guide []byte) (out []HowTo) {
	parser := goldmark.New(goldmark.WithExtensions(extension.Table)).Parser()
	for node := parser.Parse(text.NewReader(guide)).FirstChild(); node != nil; node = node.NextSibling() {
		if h, isHeading := node.(*ast.Heading); isHeading && h.Level == 2 {
			title := numbered.ReplaceAllString(plain(h, guide), "")
			out = append(out, HowTo{strings.Trim(unnamed.ReplaceAllString(strings.ToLower(title), "-"), "-"), title, []Block{}})
			continue
		}
		if len(out) == 0 {
			continue
		}
		if b, ok := block(node, guide); ok {
			out[len(out)-1].Blocks = append(out[len(out)-1].Blocks, b)
		}
	}
	return out
}

func block(node ast.Node, page []byte) (Block, bool) {
	switch n := node.(type) {
	case *ast.Paragraph:
		if image, alone := n.FirstChild().(*ast.Image); alone && image.NextSibling() == nil {
			return Block{Kind: Picture, Text: plain(image, page), File: path.Base(string(image.Destination))}, true
		}
		return Block{Kind: Paragraph, Pieces: spans(n, page)}, true
	case *ast.FencedCodeBlock:
		return Block{Kind: Typed, Text: string(bytes.TrimRight(n.Lines().Value(page), "\n"))}, true
	case *table.Table:
		b := Block{Kind: Table}
		for row := n.FirstChild(); row != nil; row = row.NextSibling() {
			cells := [][]Piece{}
			for cell := row.FirstChild(); cell != nil; cell = cell.NextSibling() {
				cells = append(cells, spans(cell, page))
			}
			b.Rows = append(b.Rows, cells)
		}
		return b, true
	}
	return Block{}, false
}

// spans are the pieces of a line with what is strong and what is typed; a link is its words.
func spans(node ast.Node, page []byte) []Piece {
	out := []Piece{}
	for child := node.FirstChild(); child != nil; child = child.NextSibling() {
		kind := Plain
		switch n := child.(type) {
		case *ast.Emphasis:
			kind = Emphasis
			if n.Level == 2 {
				kind = Strong
			}
		case *ast.CodeSpan:
			kind = Code
		case *ast.Text:
			words := string(n.Segment.Value(page))
			if n.SoftLineBreak() {
				words += " "
			}
			out = append(out, Piece{Plain, words})
			continue
		}
		out = append(out, Piece{kind, plain(child, page)})
	}
	return out
}
