package store

import (
	"bufio"
	"context"
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"hash/crc32"
	"io"
	"sync"
	"time"

	"github.com/klauspost/compress/s2"
	"gorm.io/gorm"

	"widetally/core/study"
)

type fileRow struct {
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

func (fileRow) TableName() string { return "source_files" }

func (r fileRow) file() study.File {
	return study.File{ID: r.ID, StudyID: r.StudyID, Name: r.Name, Size: r.Size, SHA256: r.Sha256, Settings: r.Settings, Arrival: r.Arrival,
		ArrivedAt: r.ArrivedAt, EditID: r.EditID}
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

var pieceBuffers = sync.Pool{New: func() any { b := make([]byte, pieceBytes); return &b }}

// packer compresses a file into the pieces in which it is kept, while it is written to
// it: S2, since speed matters more here than size.
type packer struct {
	out    io.Writer
	piece  []byte
	pieces chan []byte
	done   chan error
}

// Pack returns a writer that compresses the file written to it and writes its pieces to out,
// in the form that SaveFile takes. Close must be called.
func (s *Store) Pack(out io.Writer) io.WriteCloser {
	p := &packer{out: out, pieces: make(chan []byte, 4), done: make(chan error, 1)}
	go func() {
		var failed error
		for raw := range p.pieces {
			if failed == nil {
				failed = writePiece(p.out, raw)
			}
			pieceBuffers.Put(&raw)
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

func (p *packer) Write(b []byte) (int, error) {
	for n := len(b); ; {
		if p.piece == nil {
			p.piece = (*pieceBuffers.Get().(*[]byte))[:0]
		}
		k := min(len(b), pieceBytes-len(p.piece))
		p.piece, b = append(p.piece, b[:k]...), b[k:]
		if len(p.piece) == pieceBytes {
			p.pieces <- p.piece
			p.piece = nil
		}
		if len(b) == 0 {
			return n, nil
		}
	}
}

// Close packs what is left and waits until all is written.
func (p *packer) Close() error {
	if len(p.piece) > 0 {
		p.pieces <- p.piece
	}
	close(p.pieces)
	return <-p.done
}

// SaveFile stores a file as Pack has packed it; size is that of the file as it
// was. FileDigest gives its SHA-256.
func (s *Store) SaveFile(ctx context.Context, file study.File, packed io.Reader, size int64) error {
	row := fileRow{StudyID: file.StudyID, Name: file.Name, Size: size, Settings: file.Settings, Arrival: file.Arrival, ArrivedAt: now()}
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
		if int(n) > s2.MaxEncodedLen(pieceBytes) {
			return translate(errChecksum)
		}
		piece := pieceRow{row.ID, seq, binary.LittleEndian.Uint32(head[4:]), make([]byte, n)}
		if _, err := io.ReadFull(in, piece.Data); err != nil {
			return translate(err)
		}
		if err := s.with(ctx).Create(&piece).Error; err != nil {
			return translate(err)
		}
	}
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

// FileDigest returns the SHA-256 of a kept file. It is taken when first asked for,
// so that bringing a file in need not wait for it, and then kept.
func (s *Store) FileDigest(ctx context.Context, file study.File) (string, error) {
	if file.SHA256 != "" {
		return file.SHA256, nil
	}
	digest := sha256.New()
	if err := s.WriteFile(ctx, file, digest); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(digest.Sum(nil))
	return sum, translate(s.with(ctx).Model(&fileRow{}).Where("id = ?", file.ID).UpdateColumn("sha256", sum).Error)
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
