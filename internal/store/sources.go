package store

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"hash/crc32"
	"io"
	"sync"
	"time"

	"github.com/klauspost/compress/s2"
	"gorm.io/gorm"
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
	// EditID is the edit that brought a later file in; nil for the first one.
	EditID *uint64
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
	EditID    *uint64
}

func (sourceRow) TableName() string { return "source_files" }

func (r sourceRow) source() Source {
	return Source{r.ID, r.StudyID, r.Name, r.Size, r.Sha256, r.Settings, r.Arrival, r.ArrivedAt, r.EditID}
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

// Packer compresses a file into the pieces in which it is kept, while it is written to
// it: S2, since speed matters more here than size. Close must be called.
type Packer struct {
	out    io.Writer
	piece  []byte
	pieces chan []byte
	done   chan error
}

// NewPacker returns a Packer that writes its pieces to out.
func NewPacker(out io.Writer) *Packer {
	p := &Packer{out: out, pieces: make(chan []byte, 4), done: make(chan error, 1)}
	go func() {
		var failed error
		for raw := range p.pieces {
			if failed == nil {
				failed = writePiece(p.out, raw)
			}
			sourceBuffers.Put(&raw)
		}
		p.done <- failed
	}()
	return p
}

// A packed piece is the length of its data, the CRC-32C of the uncompressed bytes, and
// the data.
func writePiece(out io.Writer, raw []byte) error {
	data := s2.Encode(nil, raw)
	head := binary.LittleEndian.AppendUint32(nil, uint32(len(data)))
	head = binary.LittleEndian.AppendUint32(head, crc32.Checksum(raw, castagnoli))
	if _, err := out.Write(head); err != nil {
		return err
	}
	_, err := out.Write(data)
	return err
}

func (p *Packer) Write(b []byte) (int, error) {
	for n := len(b); ; {
		if p.piece == nil {
			p.piece = (*sourceBuffers.Get().(*[]byte))[:0]
		}
		k := min(len(b), sourceChunkBytes-len(p.piece))
		p.piece, b = append(p.piece, b[:k]...), b[k:]
		if len(p.piece) == sourceChunkBytes {
			p.pieces <- p.piece
			p.piece = nil
		}
		if len(b) == 0 {
			return n, nil
		}
	}
}

// Close packs what is left and waits until all is written.
func (p *Packer) Close() error {
	if len(p.piece) > 0 {
		p.pieces <- p.piece
	}
	close(p.pieces)
	return <-p.done
}

// SaveSource stores a file that a Packer has packed; size is that of the file as it
// was. SourceDigest gives its SHA-256.
func (s *Store) SaveSource(ctx context.Context, src Source, packed io.Reader, size int64) error {
	row := sourceRow{StudyID: src.StudyID, Name: src.Name, Size: size, Settings: src.Settings, Arrival: src.Arrival, ArrivedAt: now()}
	if err := s.with(ctx).Create(&row).Error; err != nil {
		return translate(err)
	}
	in := bufio.NewReaderSize(packed, 1<<20)
	head := make([]byte, 8)
	for seq := 0; ; seq++ {
		if _, err := io.ReadFull(in, head); errors.Is(err, io.EOF) {
			return nil
		} else if err != nil {
			return translate(err)
		}
		n := binary.LittleEndian.Uint32(head)
		if int(n) > s2.MaxEncodedLen(sourceChunkBytes) {
			return translate(errChecksum)
		}
		piece := sourceChunkRow{row.ID, seq, binary.LittleEndian.Uint32(head[4:]), make([]byte, n)}
		if _, err := io.ReadFull(in, piece.Data); err != nil {
			return translate(err)
		}
		if err := s.with(ctx).Create(&piece).Error; err != nil {
			return translate(err)
		}
	}
}

// FileDamagedError says that a kept file is not whole any more.
type FileDamagedError struct {
	Name  string
	Cause error
}

func (e *FileDamagedError) Error() string {
	return fmt.Sprintf("store: the kept file %q is damaged: %v", e.Name, e.Cause)
}

func (e *FileDamagedError) Unwrap() error { return e.Cause }

// WriteSource writes the bytes of a kept file to w. What is lacking or fails its
// checksum gives a *FileDamagedError.
func (s *Store) WriteSource(ctx context.Context, src Source, w io.Writer) error {
	for seq := 0; int64(seq)*sourceChunkBytes < src.Size; seq++ {
		var c sourceChunkRow
		err := s.with(ctx).Where("source_file_id = ? AND seq = ?", src.ID, seq).Take(&c).Error
		if errors.Is(err, gorm.ErrRecordNotFound) {
			return &FileDamagedError{src.Name, errLacking}
		}
		if err != nil {
			return translate(err)
		}
		raw, err := unpackPiece(c, min(sourceChunkBytes, src.Size-int64(seq)*sourceChunkBytes))
		if err != nil {
			return &FileDamagedError{src.Name, err}
		}
		if _, err := w.Write(raw); err != nil {
			return translate(err)
		}
	}
	return nil
}

func unpackPiece(c sourceChunkRow, size int64) ([]byte, error) {
	if n, err := s2.DecodedLen(c.Data); err != nil || int64(n) != size {
		return nil, errChecksum
	}
	raw, err := s2.Decode(nil, c.Data)
	if err == nil && crc32.Checksum(raw, castagnoli) != c.Checksum {
		err = errChecksum
	}
	return raw, err
}

// SourcePieces counts the stored pieces of a kept file and how many there must be.
func (s *Store) SourcePieces(ctx context.Context, src Source) (stored, needed int64, err error) {
	err = s.with(ctx).Model(&sourceChunkRow{}).Where("source_file_id = ?", src.ID).Count(&stored).Error
	return stored, (src.Size + sourceChunkBytes - 1) / sourceChunkBytes, translate(err)
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

// SourceOfEdit notes which edit brought the newest file of a study in.
func (s *Store) SourceOfEdit(ctx context.Context, studyID, editID uint64) error {
	return translate(s.with(ctx).Model(&sourceRow{}).Where("study_id = ?", studyID).Order("id DESC").Limit(1).UpdateColumn("edit_id", editID).Error)
}
