package survey

import (
	"bytes"
	"encoding/binary"
	"slices"
	"strings"
)

// Reason says why a column was held for its kind; texts under kind_reason.
type Reason string

// The reasons.
const (
	FewWords     Reason = "few_words"
	FewCodes     Reason = "few_codes"
	CodeName     Reason = "code_name"
	Amounts      Reason = "amounts"
	SomeWholes   Reason = "some_wholes"
	ManyNumbers  Reason = "many_numbers"
	AllDifferent Reason = "all_different"
	ManyTexts    Reason = "many_texts"
	NothingAtAll Reason = "nothing"
	WeightName   Reason = "weight_name"
	Chosen       Reason = "chosen"   // a person said so
	Declared     Reason = "declared" // the file's own description says so
	Derived      Reason = "derived"
	FromForm     Reason = "from_form" // the form of the data says so, as a count column does
)

// Missing reasons and a label that the program itself gives.
const (
	NoAnswerReason = "no answer"
	NotANumber     = "not a number"
	noAnswerLabel  = "No answer"
)

// Builder gathers one column from its cells, one Add a respondent. Different cells
// get slots as they come; the narrow width is used until it is full. Past the wide
// width the column is numbers or text.
type Builder struct {
	slots        map[string]Slot
	codes        []string // by slot; codes[0] is the blank
	counts       []int64  // by slot; nil while they are not known
	u8           []uint8
	u16          []uint16
	text         *cells // set once there are too many different cells
	decimalComma bool
	missing      map[string]bool // codes that are no numbers even if they look like it
	single       [256]uint16     // the slots of cells of one byte; 0 while unknown
	recent       [recentCells]recentCell
	held         int64 // bytes of different cells, with what keeping each takes
}

// cells are texts one behind the other, with where each of them ends.
type cells struct {
	bytes []byte
	ends  []uint32
}

func (c *cells) add(cell []byte) {
	c.bytes = append(c.bytes, cell...)
	c.ends = append(c.ends, uint32(len(c.bytes)))
}

func (c *cells) len() int {
	if c == nil {
		return 0
	}
	return len(c.ends)
}

// all returns the texts; they share their memory.
func (c *cells) all() []string {
	joined := string(c.bytes)
	out := make([]string, len(c.ends))
	from := uint32(0)
	for i, to := range c.ends {
		out[i] = joined[from:to]
		from = to
	}
	return out
}

// recentCell remembers the slot of a short cell by its bytes, so that most cells
// need no look into the map.
type recentCell struct {
	key  uint64
	size uint8 // of the cell plus 1, so that 0 is an empty place
	slot Slot
}

const (
	recentBits  = 8
	recentCells = 1 << recentBits
)

// NewBuilder makes an empty builder. decimalComma says that a single comma in a
// number is its decimal mark.
func NewBuilder(decimalComma bool) *Builder {
	return &Builder{slots: map[string]Slot{"": Blank}, codes: []string{""}, decimalComma: decimalComma}
}

// Grow makes room for about as many respondents, which saves copying.
func (b *Builder) Grow(rows int) { b.u8 = slices.Grow(b.u8, rows) }

// Missing declares codes that mean missing, so that they are not read as numbers.
func (b *Builder) Missing(codes []string) {
	for _, c := range codes {
		if b.missing == nil {
			b.missing = map[string]bool{}
		}
		b.missing[c] = true
	}
}

// number reads a cell as a number.
func (b *Builder) number(cell string) (float64, bool) {
	cell = strings.TrimSpace(cell)
	if b.missing[cell] {
		return 0, false
	}
	return ParseNumber(cell, b.decimalComma)
}

// Rows returns how many cells were added.
func (b *Builder) Rows() int { return len(b.u8) + len(b.u16) + b.text.len() }

// Held estimates the bytes of memory that the builder holds.
func (b *Builder) Held() int64 {
	n := b.held + int64(cap(b.u8)) + 2*int64(cap(b.u16))
	if b.text != nil {
		n += int64(cap(b.text.bytes)) + 4*int64(cap(b.text.ends))
	}
	return n
}

// perCode is about what a slot takes beside its text: in the map, the list of codes and
// the counts.
const perCode = 96

// Cell returns the cell of a row as it was added, for a column that has not become text;
// "" otherwise.
func (b *Builder) Cell(row int) string {
	switch {
	case row < len(b.u8):
		return b.codes[b.u8[row]]
	case row < len(b.u16):
		return b.codes[b.u16[row]]
	}
	return ""
}

// Holds reports whether a cell reads so. Of a column that has become text it is not known and not
// so, since hardly anything comes back there.
func (b *Builder) Holds(code string) bool {
	slot, known := b.slots[code]
	return known && b.text == nil && b.tallied()[slot] > 0
}

// NumbersOnly reports whether every cell that is not blank is a number, and some are.
func (b *Builder) NumbersOnly() bool {
	if b.text != nil {
		for _, s := range b.text.all() {
			if _, ok := b.number(s); s != "" && !ok {
				return false
			}
		}
		return true
	}
	_, numbers, _ := b.countNumbers()
	return numbers > 0 && numbers == len(b.codes)-1
}

// Add takes the next respondent's cell; blanks alone are no answer.
func (b *Builder) Add(cell []byte) { b.AddColumn(cell, []uint32{uint32(len(cell))}, 0, 1) }

// AddColumn takes the cells of one column of a block of rows. text holds the cells of
// all columns one behind the other, row by row, with one byte between them, ends where
// each of them ends; the column's cells are those at places at, at + width and so on.
func (b *Builder) AddColumn(text []byte, ends []uint32, at, width int) {
	b.counts = nil
	k := at
	if b.u16 == nil && b.text == nil {
		k = b.addNarrow(text, ends, at, width)
	}
	for ; k < len(ends); k += width {
		cell := cellAt(text, ends, k)
		if b.text != nil {
			b.text.add(cell)
		} else if slot, room := b.look(cell); room {
			b.u16 = append(b.u16, uint16(slot))
		}
	}
}

// cellAt is a cell of a block; blanks alone are no answer.
func cellAt(text []byte, ends []uint32, k int) []byte {
	from := uint32(0)
	if k > 0 {
		from = ends[k-1] + 1
	}
	cell := text[from:ends[k]]
	if len(cell) > 0 && cell[0] <= ' ' && len(bytes.TrimSpace(cell)) == 0 {
		return nil
	}
	return cell
}

// addNarrow adds cells as long as their slots take a byte, and returns the place of the first
// one that it leaves.
func (b *Builder) addNarrow(text []byte, ends []uint32, at, width int) int {
	rows, n := (len(ends)-at+width-1)/width, len(b.u8)
	b.u8 = slices.Grow(b.u8, rows)
	out := b.u8[:n+rows]
	k := at
	for ; k < len(ends); k += width {
		from := uint32(0)
		if k > 0 {
			from = ends[k-1] + 1
		}
		if ends[k]-from == 1 { // by far the most cells of a survey
			if known := b.single[text[from]]; known != 0 {
				out[n] = uint8(known)
				n++
				continue
			}
		}
		b.u8 = out[:n]
		slot, room := b.look(cellAt(text, ends, k))
		switch {
		case !room: // it is text now, and has the cell already
			return k + width
		case b.u8 == nil:
			b.u16 = append(b.u16, uint16(slot))
			return k + width
		}
		out[n] = uint8(slot)
		n++
	}
	b.u8 = out[:n]
	return k
}

// tallied counts the cells by slot; nothing once the column has become text.
func (b *Builder) tallied() []int64 {
	if b.counts == nil {
		b.counts = make([]int64, len(b.codes))
		if b.u16 != nil {
			copy(b.counts, count16(b.u16, Sample{}))
		} else {
			counts := count8(b.u8, len(b.codes), Sample{})
			copy(b.counts, counts[:])
		}
	}
	return b.counts
}

// look finds the slot of a cell, for short cells mostly without the map.
func (b *Builder) look(cell []byte) (s Slot, room bool) {
	switch {
	case len(cell) == 1:
		known := &b.single[cell[0]]
		if *known != 0 {
			return Slot(*known), true
		}
		if s, room = b.slot(cell); room {
			*known = uint16(s)
		}
		return s, room
	}
	key := packed(cell)
	place := &b.recent[(key*0x9e3779b97f4a7c15)>>(64-recentBits)]
	if place.key == key && int(place.size) == len(cell)+1 && (len(cell) <= 8 || b.codes[place.slot] == string(cell)) {
		return place.slot, true
	}
	if s, room = b.slot(cell); room && len(cell) < 255 {
		*place = recentCell{key, uint8(len(cell) + 1), s}
	}
	return s, room
}

// packed tells cells of up to eight bytes apart together with their lengths, and most longer
// ones.
func packed(cell []byte) uint64 {
	n := len(cell)
	if n >= 8 {
		key := binary.LittleEndian.Uint64(cell)
		if n > 8 {
			key += binary.LittleEndian.Uint64(cell[n-8:]) * 3
		}
		return key
	}
	key := uint64(0)
	for i, c := range cell {
		key |= uint64(c) << (8 * i)
	}
	return key
}

// slot finds or gives the slot of a cell. When there is no room for a further one
// the column becomes text, the cell is added to it, and room is false.
func (b *Builder) slot(cell []byte) (s Slot, room bool) {
	// Spaces around a number do not make it another one.
	if trimmed := bytes.TrimSpace(cell); len(trimmed) < len(cell) {
		if _, ok := b.number(string(trimmed)); ok {
			cell = trimmed
		}
	}
	if s, known := b.slots[string(cell)]; known {
		return s, true
	}
	if len(b.codes) >= SlotLimit || len(b.codes) > plainlyMany && 2*len(b.codes) > b.Rows() {
		b.toText()
		b.text.add(cell)
		return 0, false
	}
	s = Slot(len(b.codes))
	code := string(cell)
	b.held += int64(len(code)) + perCode
	b.slots[code] = s
	b.codes = append(b.codes, code)
	if s == 256 {
		b.u16 = make([]uint16, len(b.u8), 2*len(b.u8)+1024)
		for i, narrow := range b.u8 {
			b.u16[i] = uint16(narrow)
		}
		b.u8 = nil
	}
	return s, true
}

// plainlyMany is a number of different cells from which a column whose cells are mostly
// different is held as text at once: a list of answers is out of the question, and slots
// only take memory.
const plainlyMany = 4 * MostAnswers

func (b *Builder) toText() {
	b.text = &cells{}
	for _, s := range b.u16 {
		b.text.add([]byte(b.codes[s]))
	}
	b.u16, b.slots, b.codes, b.held = nil, nil, []string{""}, 0
}
