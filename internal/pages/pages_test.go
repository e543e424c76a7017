package pages

import (
	"bytes"
	"context"
	"io"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// suite puts a program in the place of the office suite.
func suite(t *testing.T, script string) {
	t.Helper()
	folder := t.TempDir()
	if script != "" {
		require.NoError(t, os.WriteFile(filepath.Join(folder, "soffice"), []byte("#!/bin/sh\n"+script), 0o700)) //nolint:gosec // it has to run
	}
	t.Setenv("PATH", folder+":/bin:/usr/bin")
	if script == "" {
		t.Setenv("PATH", folder)
	}
}

// What the suite makes is handed on; where there is none, or it fails or is stopped, that is said.
func TestPagesOfADocument(t *testing.T) {
	document := func(w io.Writer) error { _, err := io.WriteString(w, "the document"); return err }
	var out bytes.Buffer
	suite(t, `for last; do :; done; test "$(cat "$last")" = "the document" && printf pages > "$(dirname "$last")/report.pdf"`)
	assert.True(t, Found())
	require.NoError(t, PDF(t.Context(), &out, "docx", document))
	assert.Equal(t, "pages", out.String())

	suite(t, "echo no room; exit 3")
	assert.ErrorContains(t, PDF(t.Context(), &out, "docx", document), "no room")
	suite(t, "exit 0")
	assert.ErrorContains(t, PDF(t.Context(), &out, "docx", document), "report.pdf")
	ended, end := context.WithCancel(t.Context())
	end()
	assert.ErrorIs(t, PDF(ended, &out, "docx", document), context.Canceled)
	suite(t, "")
	assert.False(t, Found())
	assert.ErrorIs(t, PDF(t.Context(), &out, "docx", document), ErrNoOffice)
}
