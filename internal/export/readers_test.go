package export

import (
	"bytes"
	"encoding/hex"
	"encoding/xml"
	"fmt"
	"math/rand/v2"
	"path"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/font/sfnt"
	"golang.org/x/net/html"

	"widetally/internal/faces"
)

// The letters in a document are fonts of the families that its styles name, once their key is taken off,
// and every part that is referred to is there and has its media type.
func TestLettersAndPartsOfDocuments(t *testing.T) {
	t.Parallel()
	r := hostile()
	docx := parts(t, written(t, r, DOCXReport))
	var table struct {
		Fonts []struct {
			Name string `xml:"name,attr"`
			Alt  struct {
				Val string `xml:"val,attr"`
			} `xml:"altName"`
			Embed []struct {
				XMLName xml.Name
				ID      string `xml:"id,attr"`
				Key     string `xml:"fontKey,attr"`
			} `xml:",any"`
		} `xml:"font"`
	}
	require.NoError(t, xml.Unmarshal([]byte(docx["word/fontTable.xml"]), &table))
	targets := map[string]string{}
	for _, found := range regexp.MustCompile(`Id="(\w+)" Type="[^"]+" Target="([^"]+)"`).FindAllStringSubmatch(docx["word/_rels/fontTable.xml.rels"], -1) {
		targets[found[1]] = found[2]
	}
	n := 0
	for i, f := range table.Fonts {
		assert.Equal(t, faces.All[i].Name, f.Name)
		assert.NotEmpty(t, f.Alt.Val, "what a reader takes instead")
		for _, e := range f.Embed {
			if !strings.HasPrefix(e.XMLName.Local, "embed") {
				continue
			}
			n++
			raw, key := []byte(docx["word/"+targets[e.ID]]), strings.NewReplacer("{", "", "}", "", "-", "").Replace(e.Key)
			bytesOfKey, err := hex.DecodeString(key)
			require.NoError(t, err)
			for at := range 32 {
				raw[at] ^= bytesOfKey[15-at%16]
			}
			font, err := opentype.Parse(raw)
			require.NoError(t, err, e.XMLName.Local)
			name, err := font.Name(nil, sfnt.NameIDFamily)
			require.NoError(t, err)
			assert.Equal(t, f.Name, name)
		}
	}
	assert.Equal(t, 4, n)
	for name, content := range docx {
		if !strings.HasSuffix(name, ".rels") {
			assert.Contains(t, docx["[Content_Types].xml"], fmt.Sprintf("Extension=%q", strings.TrimPrefix(path.Ext(name), ".")), name)
			continue
		}
		base := path.Dir(path.Dir(name))
		for _, found := range regexp.MustCompile(`Target="([^"]+)"( TargetMode="External")?`).FindAllStringSubmatch(content, -1) {
			if found[2] == "" {
				assert.Contains(t, docx, path.Join(base, found[1]), name)
			}
		}
	}
	for _, id := range regexp.MustCompile(`<w:(?:pStyle|rStyle|tblStyle) w:val="(\w+)"`).FindAllStringSubmatch(docx["word/document.xml"], -1) {
		assert.Contains(t, docx["word/styles.xml"], `w:styleId="`+id[1]+`"`)
	}
	for _, f := range []ReportForm{ODTReport, ODSReport} {
		odf := parts(t, written(t, r, f))
		listed := regexp.MustCompile(`full-path="([^"]+)"`).FindAllStringSubmatch(odf["META-INF/manifest.xml"], -1)
		assert.Len(t, listed, len(odf)-1, "all but the media type and the manifest, and the whole")
		for _, l := range listed[1:] {
			assert.Contains(t, odf, l[1])
		}
		for _, href := range regexp.MustCompile(`xlink:href="((?:Fonts|Pictures)/[^"]+)"`).FindAllStringSubmatch(odf["styles.xml"]+odf["content.xml"], -1) {
			require.Contains(t, odf, href[1])
			if strings.HasPrefix(href[1], "Fonts/") {
				_, err := opentype.Parse([]byte(odf[href[1]]))
				assert.NoError(t, err)
			}
		}
		for _, style := range regexp.MustCompile(`(?:text|table|draw):style-name="([^"]+)"`).FindAllStringSubmatch(odf["content.xml"], -1) {
			assert.Regexp(t, `style:name="`+regexp.QuoteMeta(style[1])+`"`, odf["styles.xml"]+odf["content.xml"])
		}
	}
}

// A spreadsheet leads to its sheets and back, keeps its heads where they are and on paper, shows numbers as
// numbers in their format, and has its pictures beside their tables.
func TestTheSheetsOfASpreadsheet(t *testing.T) {
	t.Parallel()
	r := hostile()
	p, d := 3.5e-7, -2.4
	r.Blocks[4].Table.Rows[0] = append(r.Blocks[4].Table.Rows[0][:1], Cell{Text: "3.50 × 10⁻⁷", Number: &p, Decimals: -1, Format: PValue}, Cell{Text: "−2.4", Number: &d, Decimals: 1, Format: Signed})
	ods := parts(t, written(t, r, ODSReport))
	type cell struct {
		Type  string `xml:"value-type,attr"`
		Value string `xml:"value,attr"`
		Style string `xml:"style-name,attr"`
		Link  string `xml:"p>a"`
		Image string `xml:"frame>desc"`
	}
	type row struct {
		Cells []cell `xml:"table-cell"`
	}
	var content struct {
		Tables []struct {
			Name  string `xml:"name,attr"`
			Style string `xml:"style-name,attr"`
			Heads []row  `xml:"table-header-rows>table-row"`
			Rows  []row  `xml:"table-row"`
		} `xml:"body>spreadsheet>table"`
	}
	require.NoError(t, xml.Unmarshal([]byte(ods["content.xml"]), &content))
	require.Len(t, content.Tables, 4)
	var names []string
	for _, s := range content.Tables {
		names = append(names, s.Name)
		if s.Name != "Contents" {
			assert.Contains(t, ods["settings.xml"], `config:name="`+strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;").Replace(s.Name)+`"`)
		}
	}
	assert.Equal(t, []string{"Contents", "Table 1 =cmd() & <b>", "Table 2 long long long long lon", "Figures"}, names)
	first := content.Tables[1]
	require.Len(t, first.Heads, 2)
	assert.Equal(t, []string{"float", "3.5e-07", "Cscientific2"}, []string{first.Rows[0].Cells[1].Type, first.Rows[0].Cells[1].Value, first.Rows[0].Cells[1].Style})
	assert.Equal(t, []string{"float", "-2.4", "Csigned1"}, []string{first.Rows[0].Cells[2].Type, first.Rows[0].Cells[2].Value, first.Rows[0].Cells[2].Style})
	assert.Equal(t, "Contents", first.Rows[len(first.Rows)-1].Cells[0].Link)
	assert.Equal(t, `Bars "of" <it>`, content.Tables[2].Rows[0].Cells[4].Image, "its picture stands beside it")
	links := regexp.MustCompile(`xlink:href="#&#39;([^"]+)&#39;\.A1"`).FindAllStringSubmatch(ods["content.xml"], -1)
	assert.Len(t, links, 5)
	for _, l := range links {
		assert.Contains(t, names, html.UnescapeString(l[1]))
	}
}

// signs are those that a text form might take for its own.
const signs = "ab; 1.-+*_#>`|[](){}<>&!\\~=:'\"/% ↓é"

func randomText(random *rand.Rand) string {
	list := []rune(signs)
	if random.IntN(8) == 0 {
		return []string{"&amp; more", "1. first", "- item", "=== x", "12) x", "+ plus", "&#33;", "# no head", "a\\", "**", "!", "<b>", "[x](y)", "`"}[random.IntN(14)]
	}
	out := make([]rune, 1+random.IntN(14))
	for i := range out {
		out[i] = list[random.IntN(len(list))]
	}
	return strings.Join(strings.Fields("x"+string(out)), " ")[1:]
}

// randomReport is a report of one heading, one paragraph, one list and one table of any texts.
func randomReport(random *rand.Rand) Report {
	some := func() string {
		for {
			if s := strings.TrimSpace(randomText(random)); s != "" {
				return s
			}
		}
	}
	r := hostile()
	table := Table{Number: 1, Label: "Table 1", Title: some(), Head: []string{some(), some()}, Rows: [][]Cell{{{Text: some()}, {Text: some()}}, {{Text: some()}, {Text: some()}}}, Notes: []string{some()}}
	r.Title, r.Of = some(), some()
	r.Blocks = []Block{
		{Kind: HeadingBlock, Level: 1, Runs: []Run{{Text: some()}}, Anchor: "part-1"},
		{Kind: ParagraphBlock, Runs: []Run{{Text: some()}}},
		{Kind: ParagraphBlock, Runs: []Run{{Text: some() + ": ", Bold: true}, {Text: some()}, {Text: some(), Link: "https://example.org/?a=1&b=(2)"}}},
		{Kind: QuoteBlock, Runs: []Run{{Text: some()}}},
		{Kind: ListBlock, Items: [][]Run{{{Text: some()}}, {{Text: some()}}}},
		{Kind: TableBlock, Table: &table, Anchor: "table-1"},
	}
	return r
}

// A reader of CommonMark with tables finds what was written, whatever signs are in it.
func TestMarkdownIsReadByAnother(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewPCG(27, 1))
	reader := goldmark.New(goldmark.WithExtensions(extension.Table))
	for range 1000 {
		r := randomReport(random)
		source := written(t, r, MarkdownReport)
		var page bytes.Buffer
		require.NoError(t, reader.Convert(source, &page))
		doc, err := html.Parse(&page)
		require.NoError(t, err)
		var kinds, texts, cells []string
		for n := range doc.Descendants() {
			switch {
			case n.Type != html.ElementNode:
			case n.Parent.Data == "body":
				kinds, texts = append(kinds, n.Data), append(texts, strings.TrimSpace(textOf(n)))
			case n.Data == "td" || n.Data == "th":
				cells = append(cells, textOf(n))
			case n.Data == "a":
				require.Equal(t, []html.Attribute{{Key: "href", Val: "https://example.org/?a=1&b=(2)"}}, n.Attr)
			}
		}
		require.Equal(t, []string{"h1", "p", "h2", "p", "p", "blockquote", "ul", "p", "table", "p"}, kinds, string(source))
		b := r.Blocks
		table := b[5].Table
		want := []string{r.Title, r.Of, Plain(b[0].Runs), Plain(b[1].Runs), Plain(b[2].Runs), Plain(b[3].Runs), Plain(b[4].Items[0]) + "\n" + Plain(b[4].Items[1]), table.caption()}
		require.Equal(t, want, texts[:8], string(source))
		require.Equal(t, slices.Concat(table.Head, shown(table.Rows[0]), shown(table.Rows[1])), cells, string(source))
		require.Equal(t, table.Notes[0], texts[9], string(source))
	}
}

// textOf is the text of an element as it is read.
func textOf(n *html.Node) string {
	var out strings.Builder
	for d := range n.Descendants() {
		if d.Type == html.TextNode {
			out.WriteString(d.Data)
		}
	}
	return out.String()
}

// A reader of HTML finds the same, with heads for every cell, links that lead somewhere and nothing that runs.
func TestHTMLIsReadByAnother(t *testing.T) {
	t.Parallel()
	random := rand.New(rand.NewPCG(27, 2))
	for range 100 {
		r := randomReport(random)
		doc, err := html.Parse(bytes.NewReader(written(t, r, HTMLReport)))
		require.NoError(t, err)
		ids, links, found := map[string]bool{}, []string{}, map[string][]string{}
		for n := range doc.Descendants() {
			if n.Type != html.ElementNode {
				continue
			}
			require.NotContains(t, []string{"script", "iframe", "link", "object", "form"}, n.Data)
			for _, a := range n.Attr {
				require.False(t, strings.HasPrefix(a.Key, "on"), a.Key)
				switch {
				case a.Key == "id":
					require.False(t, ids[a.Val], "two of %s", a.Val)
					ids[a.Val] = true
				case a.Key == "href" && strings.HasPrefix(a.Val, "#"):
					links = append(links, a.Val[1:])
				}
			}
			found[n.Data] = append(found[n.Data], textOf(n))
		}
		for _, l := range links {
			require.True(t, ids[l], l)
		}
		table := r.Blocks[5].Table
		require.Equal(t, slices.Concat(table.Head, []string{table.Rows[0][0].Text, table.Rows[1][0].Text}), found["th"])
		require.Equal(t, []string{table.Rows[0][1].Text, table.Rows[1][1].Text}, found["td"])
		require.Equal(t, []string{Plain(r.Blocks[4].Items[0]), Plain(r.Blocks[4].Items[1])}, found["li"])
		require.Contains(t, found["h1"], r.Title)
		require.Contains(t, found["h2"], Plain(r.Blocks[0].Runs))
	}
}
