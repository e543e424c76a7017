package arrivals

import (
	"bufio"
	"errors"
	"fmt"
	"io"
	"os"
	"syscall"
)

const usualReserve = 96 << 20

// keptTimes is how often a file lies on the disk at the most while it is brought in: as it
// arrived, packed, its columns, and what the server writes beside them to be able to take them
// back.
const keptTimes = 4

// free is what may still be written to the disk.
func (a *Room) free() (int64, error) {
	var disk syscall.Statfs_t
	if err := syscall.Statfs(a.dir, &disk); err != nil {
		return 0, fmt.Errorf("arrivals: %w", err)
	}
	return int64(disk.Bavail)*disk.Bsize - a.Reserve, nil
}

// Limit is how large a file may be, in bytes, as the disk is now.
func (a *Room) Limit() int64 {
	free, err := a.free()
	if most := max(0, free/keptTimes); err == nil && (a.most == 0 || most < a.most) {
		return most
	}
	return a.most
}

// Fits refuses to write so many more bytes where the disk would come near to full. The
// private server's files lie on the same disk as the folder of waiting files.
func (a *Room) Fits(more int64) error {
	free, err := a.free()
	if err == nil && free < more {
		err = fmt.Errorf("arrivals: %d MB free: %w", (free+a.Reserve)>>20, syscall.ENOSPC)
	}
	return err
}

// Outgoing writes a file that will be sent and returns it, open at its beginning. Where the disk
// is full it is written among the system's temporary files: what leaves makes room.
func (a *Room) Outgoing(fill func(io.Writer) error) (*os.File, error) {
	f, err := a.filled(a.dir, fill)
	if errors.Is(err, syscall.ENOSPC) {
		f, err = a.filled("", fill)
	}
	return f, err
}

func (a *Room) filled(dir string, fill func(io.Writer) error) (*os.File, error) {
	f, err := os.CreateTemp(dir, "out")
	if err != nil {
		return nil, fmt.Errorf("arrivals: %w", err)
	}
	out := bufio.NewWriterSize(f, 256<<10)
	if err = fill(out); err == nil {
		err = out.Flush()
	}
	if err == nil {
		_, err = f.Seek(0, io.SeekStart)
	}
	if err != nil {
		f.Close()
		os.Remove(f.Name())
		return nil, err
	}
	return f, nil
}

// write makes a file of bounded size, or none.
func (a *Room) write(path string, fill func(io.Writer) error) (int64, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_EXCL|os.O_WRONLY, 0o600)
	if err != nil {
		return 0, fmt.Errorf("arrivals: %w", err)
	}
	most := a.most
	if most == 0 {
		if most = a.Limit(); most == 0 {
			err = a.Fits(2 * lookEvery)
		}
	}
	if err != nil {
		f.Close()
		os.Remove(path)
		return 0, err
	}
	bounded := &boundedWriter{w: f, left: most, fits: a.Fits}
	err = fill(bounded)
	if closed := f.Close(); err == nil {
		err = closed
	}
	if err != nil {
		os.Remove(path)
		return 0, err
	}
	return most - bounded.left, nil
}

type boundedWriter struct {
	w    io.Writer
	left int64
	fits func(more int64) error
	due  int64 // bytes after which the disk is looked at again
}

// lookEvery is how many bytes are written between two looks at the disk.
const lookEvery = 8 << 20

func (b *boundedWriter) Write(p []byte) (int, error) {
	if b.due -= int64(len(p)); b.due < 0 {
		if err := b.fits(2 * lookEvery); err != nil {
			return 0, err
		}
		b.due = lookEvery
	}
	if b.left -= int64(len(p)); b.left < 0 {
		return 0, ErrTooLarge
	}
	return b.w.Write(p)
}
