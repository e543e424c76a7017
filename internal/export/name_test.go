package export

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
)

// A file is called by what it holds, with letters that every system takes, and cannot lead elsewhere.
func TestFilesHaveNames(t *testing.T) {
	t.Parallel()
	day := time.Date(2026, 11, 29, 23, 0, 0, 0, time.UTC)
	for title, want := range map[string]string{
		"Kerbside collection":          "kerbside-collection-2026-11-29.docx",
		"Straße, Größe & Łódź: 3 %":    "strasse-grosse-lodz-3-2026-11-29.docx",
		"../../etc/passwd\r\nX: \"y\"": "etc-passwd-x-y-2026-11-29.docx",
		"Анкета":                       "report-2026-11-29.docx",
		"":                             "report-2026-11-29.docx",
		strings.Repeat("bins and ", 9): "bins-and-bins-and-bins-and-bins-and-bins-and-bins-and-bins-2026-11-29.docx",
	} {
		assert.Equal(t, want, FileName(title, "report", day, "docx"))
	}
	assert.Equal(t, "bins.csv", FileName("Bins", "table", time.Time{}, "csv"))
}
