package store

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"hash/crc32"
	"io"
	"sync"
	"time"

	"github.com/klauspost/compress/s2"
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

var sourceBuffers = sync.Pool{New: func() any { b := make([]byte, sourceChunkBytes); return &b }}

// SaveSource stores a file in compressed pieces (S2, since speed matters more here
// than size), each with its checksum. SourceDigest gives its SHA-256.
func (s *Store) SaveSource(ctx context.Context, src Source, r io.ReaderAt, size int64) error {
	row := sourceRow{StudyID: src.StudyID, Name: src.Name, Size: size, Settings: src.Settings, Arrival: src.Arrival, ArrivedAt: now()}
	if err := s.with(ctx).Create(&row).Error; err != nil {
		return translate(err)
	}
	type piece struct {
		row sourceChunkRow
		err error
	}
	pieces := int((size + sourceChunkBytes - 1) / sourceChunkBytes)
	return pipeline(ctx, pieces, func(i int) piece {
		buffer := sourceBuffers.Get().(*[]byte)
		defer sourceBuffers.Put(buffer)
		raw := (*buffer)[:min(sourceChunkBytes, size-int64(i)*sourceChunkBytes)]
		_, err := io.ReadFull(io.NewSectionReader(r, int64(i)*sourceChunkBytes, int64(len(raw))), raw)
		return piece{sourceChunkRow{row.ID, i, crc32.Checksum(raw, castagnoli), s2.Encode(nil, raw)}, err}
	}, func(_ int, p piece) error {
		if p.err != nil {
			return translate(p.err)
		}
		return translate(s.with(ctx).Create(&p.row).Error)
	})
}

// WriteSource writes the bytes of a kept file to w.
func (s *Store) WriteSource(ctx context.Context, src Source, w io.Writer) error {
	for seq := 0; int64(seq)*sourceChunkBytes < src.Size; seq++ {
		var c sourceChunkRow
		if err := s.with(ctx).Where("source_file_id = ? AND seq = ?", src.ID, seq).Take(&c).Error; err != nil {
			return translate(err)
		}
		if n, err := s2.DecodedLen(c.Data); err != nil || n > sourceChunkBytes {
			return translate(errChecksum)
		}
		raw, err := s2.Decode(nil, c.Data)
		if err == nil && crc32.Checksum(raw, castagnoli) != c.Checksum {
			err = errChecksum
		}
		if err == nil {
			_, err = w.Write(raw)
		}
		if err != nil {
			return translate(err)
		}
	}
	return nil
}

// SourceDigest returns the SHA-256 of a kept file. It is taken when first asked for,
// so that bringing a file in need not wait for it, and then kept.
func (s *Store) SourceDigest(ctx context.Context, src Source) (string, error) {
	if src.SHA256 != "" {
		return src.SHA256, nil
	}
	digest := sha256.New()
	if err := s.WriteSource(ctx, src, digest); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(digest.Sum(nil))
	return sum, translate(s.with(ctx).Model(&sourceRow{}).Where("id = ?", src.ID).UpdateColumn("sha256", sum).Error)
}

// DescribeSource notes how a kept file was read and how it arrived.
func (s *Store) DescribeSource(ctx context.Context, studyID uint64, settings, arrival string) error {
	return translate(s.with(ctx).Model(&sourceRow{}).Where("study_id = ?", studyID).Order("id DESC").Limit(1).
		UpdateColumns(map[string]any{"settings": settings, "arrival": arrival}).Error)
}
