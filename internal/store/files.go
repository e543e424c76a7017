package store

import (
	"context"
	"errors"
	"hash/crc32"
	"io"
	"time"

	"github.com/klauspost/compress/s2"
	"gorm.io/gorm"
	"gorm.io/gorm/clause"

	"widetally/core/study"
)

type fileRow struct {
	ID        uint64
	StudyID   *uint64 // nil as long as it has only arrived
	Name      string
	Size      int64
	Sha256    string
	Settings  string
	Arrival   string
	ArrivedAt time.Time
	EditID    *uint64
	Waiting   string
	Author    string
}

func (fileRow) TableName() string { return "source_files" }

func (r fileRow) file() study.File {
	var of uint64
	if r.StudyID != nil {
		of = *r.StudyID
	}
	return study.File{ID: r.ID, StudyID: of, Name: r.Name, Size: r.Size, SHA256: r.Sha256, Settings: r.Settings, Arrival: r.Arrival,
		ArrivedAt: r.ArrivedAt, EditID: r.EditID, Waiting: r.Waiting, Author: r.Author}
}

// Files lists the files from which a study was read, the newest first.
func (s *Store) Files(ctx context.Context, studyID uint64) ([]study.File, error) {
	var rows []fileRow
	err := s.with(ctx).Where("study_id = ?", studyID).Order("id DESC").Find(&rows).Error
	out := make([]study.File, len(rows))
	for i, r := range rows {
		out[i] = r.file()
	}
	return out, translate(err)
}

type pieceRow struct {
	SourceFileID uint64 `gorm:"primaryKey"`
	Seq          int    `gorm:"primaryKey"`
	Checksum     uint32
	Data         []byte
}

func (pieceRow) TableName() string { return "source_chunks" }

// pieceBytes is the size of a stored piece of a file before compression.
const pieceBytes = 1 << 20

// SaveFile notes a file that waits beside the database under a name, or that has only arrived, where it is of no study;
// PackFile packs it.
func (s *Store) SaveFile(ctx context.Context, file study.File) (id uint64, err error) {
	var of *uint64
	if file.StudyID != 0 {
		of = &file.StudyID
	}
	row := fileRow{StudyID: of, Name: file.Name, Size: file.Size, Settings: file.Settings, Arrival: file.Arrival, ArrivedAt: now(), Waiting: file.Waiting, Author: study.ActorOf(ctx).ID}
	err = s.with(ctx).Create(&row).Error
	return row.ID, translate(err)
}

// FileWaiting finds the file that waits under a name.
func (s *Store) FileWaiting(ctx context.Context, name string) (study.File, error) {
	var row fileRow
	err := s.with(ctx).Where("waiting = ?", name).Take(&row).Error
	return row.file(), translate(err)
}

// piecesSent is how many pieces are sent to the database in one statement.
const piecesSent = 4

// PackFile compresses a file into the pieces in which it is kept: S2, since speed matters more
// here than size. Where some are stored already the others are added; in the end the file
// waits no longer.
func (s *Store) PackFile(ctx context.Context, file study.File, in io.Reader) error {
	raw, so := make([]byte, pieceBytes), int64(0)
	var rows []pieceRow
	send := func() error {
		if len(rows) == 0 {
			return nil
		}
		err := study.Again(func() error {
			return s.withinOf(ctx, s.bulk, func(ctx context.Context) error {
				return translate(s.with(ctx).Clauses(clause.OnConflict{DoNothing: true}).Create(rows).Error)
			})
		})
		rows = nil
		return err
	}
	for seq := 0; so < file.Size; seq++ {
		n, err := io.ReadFull(in, raw[:min(pieceBytes, file.Size-so)])
		if err != nil {
			return translate(err)
		}
		so += int64(n)
		rows = append(rows, pieceRow{file.ID, seq, crc32.Checksum(raw[:n], castagnoli), s2.Encode(nil, raw[:n])})
		if len(rows) == piecesSent {
			if err := send(); err != nil {
				return err
			}
		}
	}
	if err := send(); err != nil {
		return err
	}
	return translate(s.with(ctx).Model(&fileRow{}).Where("id = ?", file.ID).UpdateColumn("waiting", "").Error)
}

// WriteFile writes the bytes of a kept file to w. What is lacking or fails its
// checksum gives a *FileDamagedError.
func (s *Store) WriteFile(ctx context.Context, file study.File, w io.Writer) error {
	for seq := 0; int64(seq)*pieceBytes < file.Size; seq++ {
		var c pieceRow
		err := s.with(ctx).Where("source_file_id = ? AND seq = ?", file.ID, seq).Take(&c).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return &study.FileDamagedError{Name: file.Name, Cause: errLacking}
		}
		if err != nil {
			return translate(err)
		}
		raw, err := unpackPiece(c, min(pieceBytes, file.Size-int64(seq)*pieceBytes))
		if err != nil {
			return &study.FileDamagedError{Name: file.Name, Cause: err}
		}
		if _, err := w.Write(raw); err != nil {
			return translate(err)
		}
	}
	return nil
}

func unpackPiece(c pieceRow, size int64) ([]byte, error) {
	if n, err := s2.DecodedLen(c.Data); err != nil || int64(n) != size {
		return nil, errChecksum
	}
	raw, err := s2.Decode(nil, c.Data)
	if err == nil && crc32.Checksum(raw, castagnoli) != c.Checksum {
		err = errChecksum
	}
	return raw, err
}

// FilePieces counts the stored pieces of a kept file and how many there must be.
func (s *Store) FilePieces(ctx context.Context, file study.File) (stored, needed int64, err error) {
	err = s.with(ctx).Model(&pieceRow{}).Where("source_file_id = ?", file.ID).Count(&stored).Error
	return stored, (file.Size + pieceBytes - 1) / pieceBytes, translate(err)
}

// SetFileDigest keeps the SHA-256 of a file.
func (s *Store) SetFileDigest(ctx context.Context, id uint64, sum string) error {
	return translate(s.with(ctx).Model(&fileRow{}).Where("id = ?", id).UpdateColumn("sha256", sum).Error)
}

// DescribeFile notes how a kept file was read and how it arrived.
func (s *Store) DescribeFile(ctx context.Context, studyID uint64, settings, arrival string) error {
	return translate(s.with(ctx).Model(&fileRow{}).Where("study_id = ?", studyID).Order("id DESC").Limit(1).
		UpdateColumns(map[string]any{"settings": settings, "arrival": arrival}).Error)
}

// FileOfEdit notes which edit brought the newest file of a study in.
func (s *Store) FileOfEdit(ctx context.Context, studyID, editID uint64) error {
	return translate(s.with(ctx).Model(&fileRow{}).Where("study_id = ?", studyID).Order("id DESC").Limit(1).UpdateColumn("edit_id", editID).Error)
}
