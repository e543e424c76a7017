package store

import (
	"context"
	"encoding/binary"
	"errors"
	"fmt"
	"hash/crc32"
	"math"
	"runtime"

	"github.com/klauspost/compress/huff0"
	"github.com/klauspost/compress/zstd"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
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
	encodedFew  = 6 // numbers of few values: how many less one, the values, an index a row
	// byHuffman is added to the encoding of a chunk that is compressed symbol by symbol
	// (huff0) instead of with zstd: for answers without runs it is smaller and takes a
	// third of the time.
	byHuffman = 64
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

// packChunk compresses a chunk in the way that suits it.
func packChunk(row *chunkRow, raw []byte) {
	row.Checksum = crc32.Checksum(raw, castagnoli)
	if (row.Encoding == encodedU8 || row.Encoding == encodedFew) && len(raw) <= huff0.BlockSizeMax && !hasRuns(raw) {
		var scratch huff0.Scratch
		if data, _, err := huff0.Compress4X(raw, &scratch); err == nil {
			row.Encoding, row.Data = row.Encoding|byHuffman, append(binary.LittleEndian.AppendUint32(nil, uint32(len(raw))), data...)
			return
		}
	}
	row.Data = compressor.EncodeAll(raw, nil)
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
		return unpack(row.Data, row.Checksum)
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
	if crc32.Checksum(raw, castagnoli) != row.Checksum {
		return nil, errChecksum
	}
	return raw, nil
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
	switch row.Encoding &^ byHuffman {
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

// Bounds of what is sent to the database in one statement.
const (
	mostChunksSent = 64
	mostBytesSent  = 4 << 20
)

// SaveColumn stores one column, see SaveColumns.
func (s *Store) SaveColumn(ctx context.Context, questionID uint64, generation int, c survey.Column) error {
	return s.SaveColumns(ctx, []study.Column{{QuestionID: questionID, Generation: generation, Column: c}}, nil)
}

// SaveColumns stores columns in chunks. Each state of the answers is a generation of
// its own, never changed once stored. While the database takes one column the next
// ones are compressed. saved, which may be nil, hears how many columns are stored.
func (s *Store) SaveColumns(ctx context.Context, columns []study.Column, saved func(columns int)) error {
	return pipeline(ctx, len(columns), func(i int) []chunkRow { return chunkRowsOf(columns[i]) }, func(i int, rows []chunkRow) error {
		for len(rows) > 0 {
			n, size := 0, 0
			for n < len(rows) && n < mostChunksSent && (n == 0 || size+len(rows[n].Data) <= mostBytesSent) {
				size += len(rows[n].Data)
				n++
			}
			if err := s.with(ctx).Create(rows[:n]).Error; err != nil {
				return translate(err)
			}
			rows = rows[n:]
		}
		if saved != nil {
			saved(i + 1)
		}
		return nil
	})
}

func chunkRowsOf(c study.Column) []chunkRow {
	var rows []chunkRow
	for seq, from := 0, 0; from < c.Column.Rows(); seq, from = seq+1, from+ChunkRows {
		to := min(from+ChunkRows, c.Column.Rows())
		row := chunkRow{QuestionID: c.QuestionID, Generation: c.Generation, Seq: seq, RowCount: to - from}
		var raw []byte
		row.Encoding, raw = encodeChunk(c.Column, from, to)
		packChunk(&row, raw)
		rows = append(rows, row)
	}
	return rows
}

// pipeline makes n things in order, a few ahead on other goroutines, while use takes
// them one after another.
func pipeline[T any](ctx context.Context, n int, produce func(i int) T, use func(i int, made T) error) error {
	ctx, stop := context.WithCancel(ctx)
	defer stop()
	ahead := max(2, runtime.GOMAXPROCS(0))
	slots := make(chan chan T, ahead)
	go func() {
		defer close(slots)
		for i := range n {
			made := make(chan T, 1)
			select {
			case slots <- made:
			case <-ctx.Done():
				return
			}
			go func() { made <- produce(i) }()
		}
	}()
	i := 0
	for made := range slots {
		if err := use(i, <-made); err != nil {
			return err
		}
		i++
	}
	if i < n {
		return fmt.Errorf("store: %w", ctx.Err())
	}
	return nil
}

// LoadColumn reads a generation of a question's column, which must have this many
// rows. What is lacking or fails its checksum gives a *DamagedError.
func (s *Store) LoadColumn(ctx context.Context, questionID uint64, generation int, rows int64) (survey.Column, error) {
	stored, err := s.chunkRows(ctx, questionID, generation)
	if err != nil {
		return survey.Column{}, err
	}
	var c survey.Column
	for seq := range chunksOf(rows) {
		row, ok := stored[seq]
		if !ok {
			return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: seq, Cause: errLacking}
		}
		if err := decodeChunk(&c, row); err != nil {
			return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: seq, Cause: err}
		}
	}
	if int64(c.Rows()) != rows || len(stored) != chunksOf(rows) || !oneSort(c) {
		return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: max(0, chunksOf(rows)-1), Cause: fmt.Errorf("%d answers instead of %d", c.Rows(), rows)}
	}
	return c, nil
}

var errLacking = errors.New("the chunk is lacking")

// oneSort reports whether all chunks of a column hold the same sort of values.
func oneSort(c survey.Column) bool {
	sorts := 0
	for _, n := range []int{len(c.U8), len(c.U16), len(c.F64), len(c.Text), len(c.Sets)} {
		if n > 0 {
			sorts++
		}
	}
	return sorts <= 1
}

func chunksOf(rows int64) int { return int((rows + ChunkRows - 1) / ChunkRows) }

func (s *Store) chunkRows(ctx context.Context, questionID uint64, generation int) (map[int]chunkRow, error) {
	var rows []chunkRow
	if err := s.with(ctx).Where("question_id = ? AND generation = ?", questionID, generation).Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	out := make(map[int]chunkRow, len(rows))
	for _, r := range rows {
		out[r.Seq] = r
	}
	return out, nil
}

// RepairColumn puts a column that was made anew in the place of a damaged one. Chunks
// that are whole stay as they are. The others are the old ones bit for bit where their
// checksums still agree; exact tells whether all of them do.
func (s *Store) RepairColumn(ctx context.Context, questionID uint64, generation int, anew survey.Column) (exact bool, err error) {
	stored, err := s.chunkRows(ctx, questionID, generation)
	if err != nil {
		return false, err
	}
	exact = true
	for _, was := range stored { // slots are as wide as they were
		if was.Encoding&^byHuffman == encodedU16 && anew.U8 != nil {
			anew = anew.Widened()
		}
	}
	for _, fresh := range chunkRowsOf(study.Column{QuestionID: questionID, Generation: generation, Column: anew}) {
		was, there := stored[fresh.Seq]
		delete(stored, fresh.Seq)
		var c survey.Column
		if there && was.RowCount == fresh.RowCount && decodeChunk(&c, was) == nil {
			continue
		}
		exact = exact && there && was.Checksum == fresh.Checksum
		if err := s.with(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&fresh).Error; err != nil {
			return false, translate(err)
		}
	}
	for seq := range stored { // past the end
		if err := s.with(ctx).Where("question_id = ? AND generation = ? AND seq = ?", questionID, generation, seq).Delete(&chunkRow{}).Error; err != nil {
			return false, translate(err)
		}
	}
	return exact, nil
}

// NextGeneration gives a question's column a number that none of its columns has had,
// since columns kept in memory are known by it.
func (s *Store) NextGeneration(ctx context.Context, questionID uint64) (int, error) {
	row := s.with(ctx).Model(&questionRow{}).Where("id = ?", questionID)
	if err := row.UpdateColumn("last_generation", gorm.Expr("last_generation + 1")).Error; err != nil {
		return 0, translate(err)
	}
	var next int
	err := s.with(ctx).Model(&questionRow{}).Where("id = ?", questionID).Select("last_generation").Scan(&next).Error
	return next, translate(err)
}
