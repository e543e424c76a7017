package export

import (
	"strings"
	"unicode/utf8"
)

// How tables lie on a page of A4 with margins of 2 cm. Lengths are in twips, of which 1,440 make an inch
// and 567 a centimetre.
const (
	portraitTwips  = 9638
	landscapeTwips = 14570
	// charTwips is about how wide a character of the text of a table is in Arial of 10 points, boldTwips
	// one that is bold, and cellTwips the room at the sides of a cell.
	charTwips = 111
	boldTwips = 122
	cellTwips = 140
	// usualPoints is the size of the letters of a table that has room.
	usualPoints = 10.0
	// The longest line of words before it is broken, in characters, where there is room and where not.
	roomyLine, narrowLine = 56, 30
)

// part is as much of a table as goes beside each other on a page: its columns, how wide each is, and
// whether the page has to lie on its side.
type part struct {
	columns   []int
	widths    []int
	landscape bool
	// points is the size of its letters.
	points float64
}

// width is that of the whole part.
func (p part) width() (sum int) {
	for _, w := range p.widths {
		sum += w
	}
	return sum
}

// parts lays a table out: as wide as what it holds; where that is too wide, with its words broken into
// lines, then on a page on its side, and at last in several parts that each begin with the first column.
func (t Table) parts(of rooms) []part {
	all := make([]int, len(t.Head))
	for i := range all {
		all[i] = i
	}
	if len(all) == 0 {
		return nil
	}
	type attempt struct {
		line, room int
		points     float64
	}
	tries := []attempt{
		{roomyLine, of.portrait, 10}, {narrowLine, of.portrait, 10}, {narrowLine, of.portrait, 9}, {narrowLine, of.portrait, 8},
		{roomyLine, of.landscape, 9}, {narrowLine, of.landscape, 8},
	}
	if of.sideways {
		tries = []attempt{{roomyLine, of.landscape, 10}, {narrowLine, of.landscape, 9}, {narrowLine, of.landscape, 8}}
	}
	for _, try := range tries {
		p := part{all, t.twips(all, try.line, try.points), try.room == of.landscape, try.points}
		if p.width() <= try.room {
			return []part{p}
		}
	}
	var out []part
	widths := t.twips(all, narrowLine, 9)
	widths[0] = min(widths[0], of.landscape/2)
	open := part{[]int{0}, []int{widths[0]}, true, 9}
	for _, i := range all[1:] {
		if len(open.columns) > 1 && open.width()+widths[i] > of.landscape {
			out = append(out, open)
			open = part{[]int{0}, []int{widths[0]}, true, 9}
		}
		open.columns, open.widths = append(open.columns, i), append(open.widths, min(widths[i], of.landscape-widths[0]))
	}
	return append(out, open)
}

// onItsSide says that a block is a table for which a page has to lie on its side.
func (b Block) onItsSide(of rooms) bool {
	if b.Table == nil {
		return false
	}
	parts := b.Table.parts(of)
	return len(parts) > 0 && parts[0].landscape
}

// rooms are those of the report's pages.
func (r Report) rooms(of rooms) rooms {
	of.sideways = r.Sideways
	return of
}

// lies says whether the page of a block lies on its side: for a table that needs it, and for a heading over
// one.
func (r Report) lies(i int, of rooms) bool {
	for i < len(r.Blocks)-1 && r.Blocks[i].Kind == HeadingBlock {
		i++
	}
	return r.Blocks[i].onItsSide(of)
}

// Wide says that a table needs a page on its side.
func (t Table) Wide() bool { return Block{Table: &t}.onItsSide(usualRooms) }

// twips are how wide columns have to be so that no word and no figure is broken and no line is longer.
func (t Table) twips(columns []int, line int, points float64) []int {
	out := make([]int, len(columns))
	for k, at := range columns {
		longest, whole, head := t.measures(at)
		widest := max(max(3, longest, min(whole, line))*charTwips, head*boldTwips)
		out[k] = int(float64(widest)*points/usualPoints) + cellTwips
	}
	return out
}

// measures are the characters of the longest word or figure of a column, of its longest text, and of the
// longest word that is bold.
func (t Table) measures(at int) (longest, whole, head int) {
	word := func(text string) (n int) {
		for _, w := range strings.Fields(text) {
			n = max(n, utf8.RuneCountInString(w))
		}
		return n
	}
	head = word(t.Head[at])
	if at == 0 { // what the rows are is read in one line where there is room
		head = max(head, min(utf8.RuneCountInString(t.Head[0]), narrowLine/2))
	}
	for i, row := range t.Rows {
		if at >= len(row) {
			continue
		}
		text := row[at].shown()
		n := utf8.RuneCountInString(text)
		whole = max(whole, n)
		if at > 0 && (row[at].Number != nil || n < wordyFrom) {
			longest = max(longest, n) // a figure with its unit or mark is never broken
		} else {
			longest = max(longest, word(text)+1) // of words some letters are wide
		}
		if i >= len(t.Rows)-t.Foot {
			head = max(head, word(text))
			if row[at].Number != nil {
				head = max(head, n)
			}
		}
	}
	return longest, whole, head
}

// short is how many rows a table has that stays whole.
const short = 14

// kept says which rows keep with the next one, so that neither the first nor the last rows of a table
// stand alone on a page; a short table stays whole.
func kept(row, rows int) bool {
	const atEnds = 2
	if row >= rows-1 {
		return false
	}
	return rows <= short || row < atEnds || row >= rows-1-atEnds
}
