package service

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"sync"
	"syscall"

	"widetally/core/study"
)

// keptFiles are the files of studies that are kept already and still have to be packed into the
// database. Each lies in a folder under the name that its row in the database bears, from
// before that row is there until all of it has been packed, and is locked as long as somebody
// is at it: who starts next takes up what was left. So bringing a file in need not wait for its
// being packed, and a crash at any moment loses nothing.
type keptFiles struct {
	dir     string
	rows    fileRows
	packing sync.Mutex // one at a time
	at      sync.WaitGroup
	ctx     context.Context
	stop    context.CancelFunc
	link    func(from, to string) error
}

// keptFolder is the folder's name within that of the waiting files.
const keptFolder = "kept"

func newKeptFiles(dir string, rows fileRows) (*keptFiles, error) {
	k := &keptFiles{dir: filepath.Join(dir, keptFolder), rows: rows, link: os.Link}
	k.ctx, k.stop = context.WithCancel(context.Background())
	if err := os.MkdirAll(k.dir, 0o700); err != nil {
		return nil, fmt.Errorf("service: kept files: %w", err)
	}
	return k, nil
}

// takeUp packs what an earlier process left, and removes what no study has come to need.
func (k *keptFiles) takeUp(ctx context.Context) error {
	left, err := os.ReadDir(k.dir)
	if err != nil {
		return fmt.Errorf("service: kept files: %w", err)
	}
	for _, e := range left {
		f, err := lockedFile(filepath.Join(k.dir, e.Name()))
		if err != nil {
			continue // another process is at it
		}
		row, err := k.rows.FileWaiting(ctx, e.Name())
		switch {
		case errors.Is(err, study.ErrNotFound):
			os.Remove(f.Name())
			f.Close()
		case err != nil:
			f.Close()
			return err
		default:
			k.pack(row, f)
		}
	}
	return nil
}

func lockedFile(path string) (*os.File, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, err
	}
	return f, nil
}

// pack packs a locked file in the background and then removes it.
func (k *keptFiles) pack(row study.File, f *os.File) {
	k.at.Go(func() {
		defer f.Close()
		k.packing.Lock()
		defer k.packing.Unlock()
		if k.rows.PackFile(k.ctx, row, f) == nil { // else who starts next takes it up
			os.Remove(filepath.Join(k.dir, row.Waiting))
		}
	})
}

// keeping is a file that is being kept within a transaction.
type keeping struct {
	files  *keptFiles
	row    study.File
	f      *os.File
	synced chan error
}

// keep notes an arrived file with its study. The caller says with settle whether the
// transaction was kept; until then lasting tells whether the file outlives a loss of power.
func (k *keptFiles) keep(ctx context.Context, studyID uint64, w waiting) (*keeping, error) {
	f, err := lockedFile(w.path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, context.Canceled // it has been discarded meanwhile
	}
	if errors.Is(err, syscall.EWOULDBLOCK) {
		return nil, study.ErrBusy // it is being kept already, from another tab
	}
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	in := &keeping{files: k, f: f, synced: make(chan error, 1), row: study.File{StudyID: studyID, Name: w.name, Size: w.size, Settings: "{}", Arrival: "{}", Waiting: rand.Text()}}
	if in.f, err = k.placed(f, w, in.row.Waiting); err == nil {
		go func() { in.synced <- in.f.Sync() }()
		in.row.ID, err = k.rows.SaveFile(ctx, in.row)
	}
	if err != nil {
		in.settle(false)
		return nil, err
	}
	return in, nil
}

// placed gives a locked file a further name among the kept ones, or makes a copy of it, locked in
// its place, on a disk that has no further names for a file.
func (k *keptFiles) placed(f *os.File, w waiting, name string) (*os.File, error) {
	to := filepath.Join(k.dir, name)
	err := k.link(w.path, to)
	if err == nil || !errors.Is(err, errors.ErrUnsupported) && !errors.Is(err, syscall.EPERM) && !errors.Is(err, syscall.EXDEV) && !errors.Is(err, syscall.EMLINK) {
		return f, err
	}
	defer f.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o600)
	if err != nil {
		return f, err
	}
	if err = syscall.Flock(int(out.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err == nil {
		_, err = io.Copy(out, io.NewSectionReader(f, 0, w.size))
	}
	if err == nil {
		_, err = out.Seek(0, io.SeekStart)
	}
	return out, err
}

// lasting waits until the file is on the disk.
func (in *keeping) lasting() error {
	if err := <-in.synced; err != nil {
		return fmt.Errorf("service: %w", err)
	}
	folder, err := os.Open(in.files.dir)
	if err != nil {
		return fmt.Errorf("service: %w", err)
	}
	defer folder.Close()
	if err := folder.Sync(); err != nil {
		return fmt.Errorf("service: %w", err)
	}
	return nil
}

// settle has the file packed where its study was kept, and forgets it otherwise.
func (in *keeping) settle(kept bool) {
	switch {
	case in == nil:
	case kept:
		in.files.pack(in.row, in.f)
	default:
		os.Remove(filepath.Join(in.files.dir, in.row.Waiting))
		in.f.Close()
	}
}

// path is where a file lies that has not been packed yet.
func (k *keptFiles) path(f study.File) string { return filepath.Join(k.dir, f.Waiting) }

// write writes the bytes of a kept file.
func (k *keptFiles) write(ctx context.Context, f study.File, w io.Writer) error {
	if f.Waiting != "" {
		if in, err := os.Open(k.path(f)); err == nil {
			defer in.Close()
			if n, err := io.Copy(w, in); err != nil {
				return fmt.Errorf("service: %w", err)
			} else if n != f.Size {
				return &study.FileDamagedError{Name: f.Name, Cause: fmt.Errorf("%d bytes instead of %d", n, f.Size)}
			}
			return nil
		}
	}
	return k.rows.WriteFile(ctx, f, w) // where it was packed meanwhile, too
}

// whole reports whether nothing of a kept file is lacking.
func (k *keptFiles) whole(ctx context.Context, f study.File) (bool, error) {
	if f.Waiting != "" {
		if info, err := os.Stat(k.path(f)); err == nil {
			return info.Size() == f.Size, nil
		}
	}
	stored, needed, err := k.rows.FilePieces(ctx, f)
	return stored == needed, err
}

// digest is the SHA-256 of a kept file. It is taken when first asked for, so that bringing a
// file in need not wait for it, and then kept.
func (k *keptFiles) digest(ctx context.Context, f study.File) (string, error) {
	if f.SHA256 != "" {
		return f.SHA256, nil
	}
	digest := sha256.New()
	if err := k.write(ctx, f, digest); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(digest.Sum(nil))
	return sum, k.rows.SetFileDigest(ctx, f.ID, sum)
}

// close ends the packing; what is left is taken up at the next start.
func (k *keptFiles) close() {
	k.stop()
	k.at.Wait()
}
