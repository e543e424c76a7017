package store

import (
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"math"

	"github.com/klauspost/compress/huff0"
	"github.com/klauspost/compress/zstd"

	"widetally/core/survey"
)

// The encodings of a chunk before compression. Numbers are little-endian.
const (
	encodedU8   = 1
	encodedU16  = 2
	encodedF64  = 3
	encodedText = 4 // length as a varint, then the bytes
	encodedSets = 5 // a bit a chosen slot
	encodedFew  = 6 // numbers of few values: how many less one, the values, an index a row
	// byHuffman is added to the encoding of a chunk that is compressed symbol by symbol
	// (huff0) instead of with zstd: for answers without runs it is smaller and takes a
	// third of the time.
	byHuffman = 64
	// bound is added to the encoding of a chunk whose checksum covers where it belongs, too, so
	// that one that stands in another's place is damage. Older chunks are without it.
	bound = 128
)

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// Coders without workers of their own are safe for concurrent EncodeAll/DecodeAll.
var (
	compressor, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(2))
	decompressor, _ = zstd.NewReader(nil, zstd.WithDecoderConcurrency(2), zstd.WithDecoderMaxMemory(256<<20))
)

var errChecksum = errors.New("the checksum does not match")

// packChunk compresses a chunk in the way that suits it.
func packChunk(row *chunkRow, raw []byte) {
	defer func() { row.Encoding |= bound }()
	row.Checksum = crc32.Update(row.belonging(), castagnoli, raw)
	if (row.Encoding == encodedU8 || row.Encoding == encodedFew) && len(raw) <= huff0.BlockSizeMax && !hasRuns(raw) {
		var scratch huff0.Scratch
		if data, _, err := huff0.Compress4X(raw, &scratch); err == nil {
			row.Encoding, row.Data = row.Encoding|byHuffman, append(binary.LittleEndian.AppendUint32(nil, uint32(len(raw))), data...)
			return
		}
	}
	row.Data = compressor.EncodeAll(raw, nil)
}

// belonging is the checksum of where a chunk belongs: its question, which is of one study alone, the
// generation and the place, with the number of answers.
func (r *chunkRow) belonging() uint32 {
	where := binary.LittleEndian.AppendUint64(nil, r.QuestionID)
	for _, n := range []int{r.Generation, r.Seq, r.RowCount} {
		where = binary.LittleEndian.AppendUint64(where, uint64(n))
	}
	return crc32.Checksum(where, castagnoli)
}

// whole reports whether a chunk is what was stored, and stands where it was.
func (r *chunkRow) whole(raw []byte) bool {
	from := uint32(0)
	if r.Encoding&bound != 0 {
		from = r.belonging()
	}
	return crc32.Update(from, castagnoli, raw) == r.Checksum
}

// hasRuns reports whether most neighbours gave the same answer.
func hasRuns(raw []byte) bool {
	same := 0
	for i := 1; i < len(raw); i += 16 {
		if raw[i] == raw[i-1] {
			same++
		}
	}
	return same > len(raw)/24
}

func unpackChunk(row chunkRow) ([]byte, error) {
	if row.Encoding&byHuffman == 0 {
		raw, err := decompressor.DecodeAll(row.Data, nil)
		if err == nil && !row.whole(raw) {
			err = errChecksum
		}
		return raw, err
	}
	if len(row.Data) < 4 {
		return nil, errChecksum
	}
	size := binary.LittleEndian.Uint32(row.Data)
	if size > huff0.BlockSizeMax {
		return nil, fmt.Errorf("%d bytes in one block", size)
	}
	var scratch huff0.Scratch
	table, rest, err := huff0.ReadTable(row.Data[4:], &scratch)
	if err != nil {
		return nil, err
	}
	raw, err := table.Decoder().Decompress4X(make([]byte, 0, size), rest)
	if err != nil {
		return nil, err
	}
	if !row.whole(raw) {
		return nil, errChecksum
	}
	return raw, nil
}

func encodeChunk(c survey.Column, from, to int) (encoding uint8, raw []byte) {
	switch {
	case c.U8 != nil:
		return encodedU8, c.U8[from:to]
	case c.U16 != nil:
		raw = make([]byte, 0, 2*(to-from))
		for _, s := range c.U16[from:to] {
			raw = binary.LittleEndian.AppendUint16(raw, s)
		}
		return encodedU16, raw
	case c.F64 != nil:
		if raw, few := encodeFew(c.F64[from:to]); few {
			return encodedFew, raw
		}
		raw = make([]byte, 0, 8*(to-from))
		for _, x := range c.F64[from:to] {
			raw = binary.LittleEndian.AppendUint64(raw, math.Float64bits(x))
		}
		return encodedF64, raw
	case c.Sets != nil:
		raw = make([]byte, 0, 8*(to-from))
		for _, set := range c.Sets[from:to] {
			raw = binary.LittleEndian.AppendUint64(raw, set)
		}
		return encodedSets, raw
	}
	for _, s := range c.Text[from:to] {
		raw = binary.AppendUvarint(raw, uint64(len(s)))
		raw = append(raw, s...)
	}
	return encodedText, raw
}

// encodeFew writes numbers of at most 256 different values as a list and an index a row.
func encodeFew(numbers []float64) (raw []byte, few bool) {
	at := make(map[uint64]byte, 256)
	var values []uint64
	index := make([]byte, len(numbers))
	for i, x := range numbers {
		bits := math.Float64bits(x)
		k, known := at[bits]
		if !known {
			if len(values) == 256 {
				return nil, false
			}
			k = byte(len(values))
			at[bits] = k
			values = append(values, bits)
		}
		index[i] = k
	}
	raw = append(make([]byte, 0, 1+8*len(values)+len(index)), byte(len(values)-1))
	for _, bits := range values {
		raw = binary.LittleEndian.AppendUint64(raw, bits)
	}
	return append(raw, index...), true
}

func decodeFew(raw []byte, rows int) ([]float64, bool) {
	if len(raw) == 0 {
		return nil, false
	}
	n := int(raw[0]) + 1
	if len(raw) != 1+8*n+rows {
		return nil, false
	}
	out := make([]float64, rows)
	for i, k := range raw[1+8*n:] {
		if int(k) >= n {
			return nil, false
		}
		out[i] = math.Float64frombits(binary.LittleEndian.Uint64(raw[1+8*int(k):]))
	}
	return out, true
}

func decodeChunk(c *survey.Column, row chunkRow) error {
	raw, err := unpackChunk(row)
	if err != nil {
		return err
	}
	short := fmt.Errorf("%d bytes do not hold %d answers", len(raw), row.RowCount)
	switch row.Encoding &^ (byHuffman | bound) {
	case encodedU8:
		if len(raw) != row.RowCount {
			return short
		}
		c.U8 = append(c.U8, raw...)
	case encodedU16:
		if len(raw) != 2*row.RowCount {
			return short
		}
		for i := 0; i < len(raw); i += 2 {
			c.U16 = append(c.U16, binary.LittleEndian.Uint16(raw[i:]))
		}
	case encodedF64:
		if len(raw) != 8*row.RowCount {
			return short
		}
		for i := 0; i < len(raw); i += 8 {
			c.F64 = append(c.F64, math.Float64frombits(binary.LittleEndian.Uint64(raw[i:])))
		}
	case encodedFew:
		numbers, ok := decodeFew(raw, row.RowCount)
		if !ok {
			return short
		}
		c.F64 = append(c.F64, numbers...)
	case encodedSets:
		if len(raw) != 8*row.RowCount {
			return short
		}
		for i := 0; i < len(raw); i += 8 {
			c.Sets = append(c.Sets, binary.LittleEndian.Uint64(raw[i:]))
		}
	case encodedText:
		for range row.RowCount {
			n, used := binary.Uvarint(raw)
			if used <= 0 || uint64(len(raw)-used) < n {
				return short
			}
			c.Text = append(c.Text, string(raw[used:used+int(n)]))
			raw = raw[used+int(n):]
		}
	default:
		return fmt.Errorf("unknown encoding %d", row.Encoding)
	}
	return nil
}
