package intake

import (
	"archive/zip"
	"io"
	"slices"
)

// openMember opens a member of an archive. Past the limit of what may be unpacked,
// reading it is a *Problem: a table is read whole or refused, never cut.
func openMember(archive *zip.Reader, name string, most int64) (io.ReadCloser, int64, error) {
	at := slices.IndexFunc(archive.File, func(e *zip.File) bool { return e.Name == name })
	if at < 0 {
		return nil, 0, ErrNoMember
	}
	body, err := archive.File[at].Open()
	if err != nil {
		return nil, 0, err
	}
	return &bounded{body, most, most}, int64(min(archive.File[at].UncompressedSize64, uint64(most))), nil
}

// What a workbook may be unpacked to is in proportion to its size, since taking its markup apart
// takes its time: a cell of real answers needs a byte or two, however often it was said before.
const (
	workbookRatio = 100
	workbookFloor = 64 << 20
)

func workbookMost(size int64) int64 {
	return min(maxUnpacked, max(workbookFloor, workbookRatio*size))
}

type memberError string

func (e memberError) Error() string { return string(e) }

// ErrNoMember says that an archive, or a file that is none, lacks a member.
const ErrNoMember = memberError("intake: the archive lacks a member")

// bounded reads until its limit, beyond which there is a problem instead of an end.
type bounded struct {
	io.ReadCloser
	left, most int64
}

func (b *bounded) Read(p []byte) (int, error) {
	n, err := b.ReadCloser.Read(p)
	if b.left -= int64(n); b.left < 0 {
		return 0, &Problem{Code: TooMuchUnpacked, Wanted: int(b.most >> 20)}
	}
	return n, err
}

// memory is what reading one file may hold at once, in bytes.
type memory struct{ left int64 }

// defaultMemory serves where a File does not say.
const defaultMemory = 1 << 30

func (f File) memory() *memory {
	if f.Memory == 0 {
		return &memory{defaultMemory}
	}
	return &memory{f.Memory}
}

// take notes bytes that are held from now on.
func (m *memory) take(n int64) error {
	if m.left -= n; m.left < 0 {
		return &Problem{Code: TooMuchMemory}
	}
	return nil
}

// maxMember bounds a document that is read whole.
const maxMember = 32 << 20

// Member reads a document of a zip archive whole; ErrNoMember where there is none. Its name has
// to be the whole path.
func Member(f File, name string) ([]byte, error) {
	if !f.isZip() {
		return nil, ErrNoMember
	}
	archive, err := zip.NewReader(f.R, f.Size)
	if err != nil {
		return nil, ErrNoMember
	}
	body, _, err := openMember(archive, name, f.unpacked())
	if err != nil {
		return nil, err
	}
	defer body.Close()
	raw, err := io.ReadAll(io.LimitReader(body, maxMember+1))
	if err != nil {
		return nil, &Problem{Code: BadPackage, Text: name}
	}
	if len(raw) > maxMember {
		return nil, &Problem{Code: TooMuchUnpacked, Wanted: maxMember >> 20}
	}
	return raw, nil
}
