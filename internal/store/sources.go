package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"time"
)

// Source is the file as it arrived, kept beside the answers read from it.
type Source struct {
	ID        uint64
	StudyID   uint64
	Name      string
	Size      int64
	SHA256    string
	Settings  string // how it was read, as JSON
	Arrival   string // what was found when it arrived, as JSON
	ArrivedAt time.Time
}

type sourceRow struct {
	ID        uint64
	StudyID   uint64
	Name      string
	Size      int64
	Sha256    string
	Settings  string
	Arrival   string
	ArrivedAt time.Time
}

func (sourceRow) TableName() string { return "source_files" }

func (r sourceRow) source() Source {
	return Source{r.ID, r.StudyID, r.Name, r.Size, r.Sha256, r.Settings, r.Arrival, r.ArrivedAt}
}

// Sources lists the files from which a study was read, the newest first.
func (s *Store) Sources(ctx context.Context, studyID uint64) ([]Source, error) {
	var rows []sourceRow
	err := s.with(ctx).Where("study_id = ?", studyID).Order("id DESC").Find(&rows).Error
	out := make([]Source, len(rows))
	for i, r := range rows {
		out[i] = r.source()
	}
	return out, translate(err)
}

type sourceChunkRow struct {
	SourceFileID uint64 `gorm:"primaryKey"`
	Seq          int    `gorm:"primaryKey"`
	Checksum     uint32
	Data         []byte
}

func (sourceChunkRow) TableName() string { return "source_chunks" }

// sourceChunkBytes is the size of a stored piece of a file before compression.
const sourceChunkBytes = 1 << 20

// SaveSource stores a file in compressed pieces while it is read.
func (s *Store) SaveSource(ctx context.Context, src Source, r io.Reader) error {
	row := sourceRow{StudyID: src.StudyID, Name: src.Name, Settings: src.Settings, Arrival: src.Arrival, ArrivedAt: now()}
	if err := s.with(ctx).Create(&row).Error; err != nil {
		return translate(err)
	}
	digest := sha256.New()
	buffer := make([]byte, sourceChunkBytes)
	for seq := 0; ; seq++ {
		n, err := io.ReadFull(r, buffer)
		if n > 0 {
			digest.Write(buffer[:n])
			row.Size += int64(n)
			data, checksum := pack(buffer[:n])
			if err := s.with(ctx).Create(&sourceChunkRow{row.ID, seq, checksum, data}).Error; err != nil {
				return translate(err)
			}
		}
		if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) {
			break
		}
		if err != nil {
			return translate(err)
		}
	}
	return translate(s.with(ctx).Model(&row).Updates(map[string]any{"size": row.Size, "sha256": hex.EncodeToString(digest.Sum(nil))}).Error)
}

// SourceOf returns the file from which a study was read and writes its bytes to w.
func (s *Store) SourceOf(ctx context.Context, studyID uint64, w io.Writer) (Source, error) {
	var r sourceRow
	if err := s.with(ctx).Where("study_id = ?", studyID).Order("id DESC").Take(&r).Error; err != nil {
		return Source{}, translate(err)
	}
	for seq := 0; int64(seq)*sourceChunkBytes < r.Size; seq++ {
		var c sourceChunkRow
		if err := s.with(ctx).Where("source_file_id = ? AND seq = ?", r.ID, seq).Take(&c).Error; err != nil {
			return Source{}, translate(err)
		}
		raw, err := unpack(c.Data, c.Checksum)
		if err != nil {
			return Source{}, translate(err)
		}
		if _, err := w.Write(raw); err != nil {
			return Source{}, translate(err)
		}
	}
	return r.source(), nil
}
