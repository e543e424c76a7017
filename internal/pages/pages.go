// Package pages makes a PDF of a document by the office suite of the machine, where one is installed.
package pages

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"time"
)

// ErrNoOffice says that no office suite is installed that could make pages.
var ErrNoOffice = errors.New("pages: no office suite is installed (soffice)")

// Bounds of a conversion: one at a time, since each takes a few hundred MB, and no longer than this.
const longest = 2 * time.Minute

var one = make(chan struct{}, 1)

// Found says whether there is an office suite.
func Found() bool { _, err := office(); return err == nil }

func office() (string, error) {
	for _, name := range []string{"soffice", "libreoffice"} {
		if path, err := exec.LookPath(name); err == nil {
			return path, nil
		}
	}
	return "", ErrNoOffice
}

// PDF writes the pages of a text document with this extension. It waits while another conversion is on; a context that ends stops it.
// What it needs meanwhile stands in a folder of its own, which goes with it.
func PDF(ctx context.Context, w io.Writer, extension string, document func(w io.Writer) error) error {
	program, err := office()
	if err != nil {
		return err
	}
	select {
	case one <- struct{}{}:
		defer func() { <-one }()
	case <-ctx.Done():
		return ctx.Err()
	}
	ctx, cancel := context.WithTimeout(ctx, longest)
	defer cancel()
	folder, err := os.MkdirTemp("", "widetally-pages-*")
	if err != nil {
		return fmt.Errorf("pages: %w", err)
	}
	defer os.RemoveAll(folder)
	from := filepath.Join(folder, "report."+extension)
	f, err := os.Create(from)
	if err != nil {
		return fmt.Errorf("pages: %w", err)
	}
	if err := errors.Join(document(f), f.Close()); err != nil {
		return fmt.Errorf("pages: %w", err)
	}
	// A profile of its own keeps it apart from an office suite that somebody has open.
	run := exec.CommandContext(ctx, program, "-env:UserInstallation=file://"+filepath.Join(folder, "profile"), "--headless", "--norestore", "--convert-to", "pdf", "--outdir", folder, from)
	run.WaitDelay = time.Second
	if said, err := run.CombinedOutput(); err != nil {
		return fmt.Errorf("pages: %w: %s", err, said)
	}
	made, err := os.Open(filepath.Join(folder, "report.pdf"))
	if err != nil {
		return fmt.Errorf("pages: %w", err)
	}
	defer made.Close()
	_, err = io.Copy(w, made)
	return err
}
