package store

import (
	"context"
	"errors"
	"fmt"
	"runtime"

	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
	"widetally/core/survey"
)

// ChunkRows is the number of respondents in one stored piece of a column.
const ChunkRows = 65_536

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
// ones are compressed. saved, which may be nil, hears how many columns are stored. Outside of a
// transaction each statement is kept by itself, so that there is no end to how much is stored: of a
// study that nobody sees yet. Done again, it stores what is lacking.
func (s *Store) SaveColumns(ctx context.Context, columns []study.Column, saved func(columns int)) error {
	var waiting []chunkRow // for the next statement
	size, last := 0, len(columns)-1
	send := func() error {
		if len(waiting) == 0 {
			return nil
		}
		err := study.Again(func() error {
			return s.withinOf(ctx, s.bulk, func(ctx context.Context) error {
				return translate(s.with(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(waiting).Error)
			})
		})
		waiting, size = nil, 0
		return err
	}
	return pipeline(ctx, len(columns), func(i int) []chunkRow { return chunkRowsOf(columns[i]) }, func(i int, rows []chunkRow) error {
		for _, row := range rows {
			if len(waiting) == mostChunksSent || size > 0 && size+len(row.Data) > mostBytesSent {
				if err := send(); err != nil {
					return err
				}
			}
			waiting, size = append(waiting, row), size+len(row.Data)
		}
		if i == last {
			if err := send(); err != nil {
				return err
			}
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

// LoadPiece reads the rows of a column from one, which is a multiple of ChunkRows, up to another. The column has this many
// rows in all. Errors are those of LoadColumn.
func (s *Store) LoadPiece(ctx context.Context, questionID uint64, generation int, rows, from, to int64) (survey.Column, error) {
	first, end := int(from/ChunkRows), chunksOf(min(to, rows))
	var stored []chunkRow
	err := s.with(ctx).Where("question_id = ? AND generation = ? AND seq >= ? AND seq < ?", questionID, generation, first, end).Order("seq").Find(&stored).Error
	if err != nil {
		return survey.Column{}, translate(err)
	}
	var c survey.Column
	for i := range end - first {
		if i >= len(stored) || stored[i].Seq != first+i {
			return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: first + i, Cause: errLacking}
		}
		if err := decodeChunk(&c, stored[i]); err != nil {
			return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: first + i, Cause: err}
		}
	}
	if int64(c.Rows()) != min(to, rows)-from || !oneSort(c) {
		return survey.Column{}, &study.DamagedError{QuestionID: questionID, Chunk: end - 1, Cause: fmt.Errorf("%d answers instead of %d", c.Rows(), min(to, rows)-from)}
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
