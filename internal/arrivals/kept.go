package arrivals

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
	"time"

	"widetally/core/study"
)

// Rows are the rows of the database that hold kept files.
type Rows interface {
	// SaveFile notes a file that waits beside the database, FileWaiting finds it there, and
	// PackFile takes it over.
	SaveFile(ctx context.Context, file study.File) (id uint64, err error)
	AdoptFile(ctx context.Context, id, studyID uint64) error
	FileWaiting(ctx context.Context, name string) (study.File, error)
	PackFile(ctx context.Context, file study.File, in io.Reader) error
	WriteFile(ctx context.Context, file study.File, w io.Writer) error
	FilePieces(ctx context.Context, file study.File) (stored, needed int64, err error)
	SetFileDigest(ctx context.Context, id uint64, sum string) error
}

// Kept are the files of studies that are kept already and still have to be packed into the
// database. Each lies in a folder under the name that its row in the database bears, from
// before that row is there until all of it has been packed, and is locked as long as somebody
// is at it: who starts next takes up what was left. So bringing a file in need not wait for its
// being packed, and a crash at any moment loses nothing.
type Kept struct {
	// Link gives a file a further name; os.Link unless a test has it refused.
	Link    func(from, to string) error
	dir     string
	rows    Rows
	packing sync.Mutex // one at a time
	at      sync.WaitGroup
	ctx     context.Context
	stop    context.CancelFunc
}

// keptFolder is the folder's name within that of the waiting files.
const keptFolder = "kept"

// OpenKept opens the folder of kept files within that of the waiting ones.
func OpenKept(dir string, rows Rows) (*Kept, error) {
	k := &Kept{dir: filepath.Join(dir, keptFolder), rows: rows, Link: os.Link}
	k.ctx, k.stop = context.WithCancel(context.Background())
	if err := os.MkdirAll(k.dir, 0o700); err != nil {
		return nil, fmt.Errorf("arrivals: kept files: %w", err)
	}
	return k, nil
}

// TakeUp packs what an earlier process left, and removes what no study has come to need.
func (k *Kept) TakeUp(ctx context.Context) error {
	left, err := os.ReadDir(k.dir)
	if err != nil {
		return fmt.Errorf("arrivals: kept files: %w", err)
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

// packAgain is after how long packing is tried again that failed.
const packAgain = 2 * time.Second

// pack packs a locked file in the background and then removes it. Where it fails, as without the database, it goes on by itself;
// what a process leaves that ends, who starts next takes up.
func (k *Kept) pack(row study.File, f *os.File) {
	k.at.Go(func() {
		defer f.Close()
		k.packing.Lock()
		defer k.packing.Unlock()
		for {
			_, err := f.Seek(0, io.SeekStart)
			if err == nil {
				err = k.rows.PackFile(k.ctx, row, f)
			}
			if err == nil {
				os.Remove(filepath.Join(k.dir, row.Waiting))
				return
			}
			select {
			case <-k.ctx.Done():
				return
			case <-time.After(packAgain):
			}
		}
	})
}

// Pending is a file that is being kept with its study.
type Pending struct {
	files  *Kept
	row    study.File
	f      *os.File // nil for one that is in the database already
	synced chan error
}

// Hold holds an arrived file to be kept. The caller notes it with its study by Note, and says with Settle whether that
// was kept; until then Lasting tells whether the file outlives a loss of power.
func (k *Kept) Hold(w File) (*Pending, error) {
	if w.fileID != 0 {
		return &Pending{files: k, row: study.File{ID: w.fileID}}, nil
	}
	f, err := lockedFile(w.path)
	if errors.Is(err, os.ErrNotExist) {
		return nil, context.Canceled // it has been discarded meanwhile
	}
	if errors.Is(err, syscall.EWOULDBLOCK) {
		return nil, study.ErrBusy // it is being kept already, from another tab
	}
	if err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
	}
	in := &Pending{files: k, f: f, synced: make(chan error, 1), row: study.File{Name: w.Name, Size: w.Size, Settings: "{}", Arrival: "{}", Waiting: rand.Text()}}
	if in.f, err = k.placed(f, w, in.row.Waiting); err != nil {
		os.Remove(filepath.Join(k.dir, in.row.Waiting))
		in.f.Close()
		return nil, err
	}
	go func() {
		err := in.f.Sync()
		if err == nil {
			err = k.syncFolder()
		}
		in.synced <- err
	}()
	return in, nil
}

// Note notes a held file with a study, within the transaction in which that is kept.
func (in *Pending) Note(ctx context.Context, studyID uint64) (err error) {
	if in.f == nil {
		return in.files.rows.AdoptFile(ctx, in.row.ID, studyID)
	}
	in.row.StudyID = studyID
	in.row.ID, err = in.files.rows.SaveFile(ctx, in.row)
	return err
}

// placed gives a locked file a further name among the kept ones, or makes a copy of it, locked in
// its place, on a disk that has no further names for a file.
func (k *Kept) placed(f *os.File, w File, name string) (*os.File, error) {
	to := filepath.Join(k.dir, name)
	err := k.Link(w.path, to)
	if err == nil || !errors.Is(err, errors.ErrUnsupported) && !errors.Is(err, syscall.EPERM) && !errors.Is(err, syscall.EXDEV) && !errors.Is(err, syscall.EMLINK) {
		return f, err
	}
	defer f.Close()
	out, err := os.OpenFile(to, os.O_CREATE|os.O_EXCL|os.O_RDWR, 0o600)
	if err != nil {
		return f, err
	}
	if err = syscall.Flock(int(out.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err == nil {
		_, err = io.Copy(out, io.NewSectionReader(f, 0, w.Size))
	}
	if err == nil {
		_, err = out.Seek(0, io.SeekStart)
	}
	return out, err
}

// Lasting waits until the file is on the disk.
func (in *Pending) Lasting() error {
	if in.f == nil {
		return nil
	}
	err := <-in.synced
	in.synced <- err // a transaction that is tried again asks again
	if err != nil {
		return fmt.Errorf("arrivals: %w", err)
	}
	return nil
}

func (k *Kept) syncFolder() error {
	folder, err := os.Open(k.dir)
	if err != nil {
		return err
	}
	defer folder.Close()
	return folder.Sync()
}

// Settle has the file packed where its study was kept, and forgets it otherwise.
func (in *Pending) Settle(kept bool) {
	switch {
	case in == nil || in.f == nil:
	case kept:
		in.files.pack(in.row, in.f)
	default:
		os.Remove(filepath.Join(in.files.dir, in.row.Waiting))
		<-in.synced // which would hold the file's lock
		in.f.Close()
	}
}

// Wait waits until all that was kept has been packed.
func (k *Kept) Wait() { k.at.Wait() }

// path is where a file lies that has not been packed yet.
func (k *Kept) path(f study.File) string { return filepath.Join(k.dir, f.Waiting) }

// Write writes the bytes of a kept file.
func (k *Kept) Write(ctx context.Context, f study.File, w io.Writer) error {
	if f.Waiting != "" {
		if in, err := os.Open(k.path(f)); err == nil {
			defer in.Close()
			if n, err := io.Copy(w, in); err != nil {
				return fmt.Errorf("arrivals: %w", err)
			} else if n != f.Size {
				return &study.FileDamagedError{Name: f.Name, Cause: fmt.Errorf("%d bytes instead of %d", n, f.Size)}
			}
			return nil
		}
	}
	err := k.rows.WriteFile(ctx, f, w) // where it was packed meanwhile, too
	var damaged *study.FileDamagedError
	if f.Waiting != "" && errors.As(err, &damaged) { // another process is at it, perhaps on another machine
		return study.ErrPacking
	}
	return err
}

// Whole reports whether nothing of a kept file is lacking.
func (k *Kept) Whole(ctx context.Context, f study.File) (bool, error) {
	if f.Waiting != "" {
		if info, err := os.Stat(k.path(f)); err == nil {
			return info.Size() == f.Size, nil
		}
	}
	stored, needed, err := k.rows.FilePieces(ctx, f)
	return stored == needed || f.Waiting != "", err
}

// Digest is the SHA-256 of a kept file. It is taken when first asked for, so that bringing a
// file in need not wait for it, and then kept.
func (k *Kept) Digest(ctx context.Context, f study.File) (string, error) {
	if f.SHA256 != "" {
		return f.SHA256, nil
	}
	digest := sha256.New()
	if err := k.Write(ctx, f, digest); err != nil {
		return "", err
	}
	sum := hex.EncodeToString(digest.Sum(nil))
	return sum, k.rows.SetFileDigest(ctx, f.ID, sum)
}

// Close ends the packing; what is left is taken up at the next start.
func (k *Kept) Close() {
	k.stop()
	k.at.Wait()
}
