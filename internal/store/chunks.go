package store

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"math"

	"github.com/klauspost/compress/zstd"

	"widetally/core/survey"
)

// ChunkRows is the number of respondents in one stored piece of a column.
const ChunkRows = 65_536

// The encodings of a chunk before compression. Numbers are little-endian.
const (
	encodedU8   = 1
	encodedU16  = 2
	encodedF64  = 3
	encodedText = 4 // length as a varint, then the bytes
	encodedSets = 5 // a bit a chosen slot
)

type chunkRow struct {
	QuestionID uint64 `gorm:"primaryKey"`
	Generation int    `gorm:"primaryKey;autoIncrement:false"`
	Seq        int    `gorm:"primaryKey;autoIncrement:false"`
	Encoding   uint8
	RowCount   int
	Checksum   uint32 // CRC-32C of the uncompressed bytes
	Data       []byte
}

func (chunkRow) TableName() string { return "column_chunks" }

var castagnoli = crc32.MakeTable(crc32.Castagnoli)

// Coders without workers of their own are safe for concurrent EncodeAll/DecodeAll.
var (
	compressor, _   = zstd.NewWriter(nil, zstd.WithEncoderLevel(zstd.SpeedFastest), zstd.WithEncoderConcurrency(2))
	decompressor, _ = zstd.NewReader(nil, zstd.WithDecoderConcurrency(2), zstd.WithDecoderMaxMemory(256<<20))
)

var errChecksum = errors.New("the checksum does not match")

func pack(raw []byte) (data []byte, checksum uint32) {
	return compressor.EncodeAll(raw, nil), crc32.Checksum(raw, castagnoli)
}

func unpack(data []byte, checksum uint32) ([]byte, error) {
	raw, err := decompressor.DecodeAll(data, nil)
	if err != nil {
		return nil, err
	}
	if crc32.Checksum(raw, castagnoli) != checksum {
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

func decodeChunk(c *survey.Column, row chunkRow) error {
	raw, err := unpack(row.Data, row.Checksum)
	if err != nil {
		return err
	}
	short := fmt.Errorf("%d bytes do not hold %d answers", len(raw), row.RowCount)
	switch row.Encoding {
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

// SaveColumn stores a question's column in chunks. Each state of the answers is a
// generation of its own, never changed once stored.
func (s *Store) SaveColumn(ctx context.Context, questionID uint64, generation int, c survey.Column) error {
	for seq, from := 0, 0; from < c.Rows(); seq, from = seq+1, from+ChunkRows {
		to := min(from+ChunkRows, c.Rows())
		row := chunkRow{QuestionID: questionID, Generation: generation, Seq: seq, RowCount: to - from}
		var raw []byte
		row.Encoding, raw = encodeChunk(c, from, to)
		row.Data, row.Checksum = pack(raw)
		if err := s.with(ctx).Create(&row).Error; err != nil {
			return translate(err)
		}
	}
	return nil
}

// LoadColumn reads a generation of a question's column. A chunk that fails its checksum gives a
// *DamagedError.
func (s *Store) LoadColumn(ctx context.Context, questionID uint64, generation int) (survey.Column, error) {
	var rows []chunkRow
	if err := s.with(ctx).Where("question_id = ? AND generation = ?", questionID, generation).Order("seq").Find(&rows).Error; err != nil {
		return survey.Column{}, translate(err)
	}
	var c survey.Column
	for i, row := range rows {
		if row.Seq != i {
			return survey.Column{}, &DamagedError{questionID, i, errors.New("the chunk is lacking")}
		}
		if err := decodeChunk(&c, row); err != nil {
			return survey.Column{}, &DamagedError{questionID, row.Seq, err}
		}
	}
	return c, nil
}

// LastGeneration returns the newest generation of a question's column, 0 for none.
func (s *Store) LastGeneration(ctx context.Context, questionID uint64) (int, error) {
	var last int
	err := s.with(ctx).Model(&chunkRow{}).Where("question_id = ?", questionID).Select("COALESCE(MAX(generation), 0)").Scan(&last).Error
	return last, translate(err)
}
