package httpapi

import (
	"context"
	"errors"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"widetally/core/study"
)

// What the database could not do is told as what it is: nothing saved, saved, not known, too much; never as a fault of ours, and
// the first reason of several counts.
func TestWhatTheDatabaseCouldNotDo(t *testing.T) {
	t.Parallel()
	cause := errors.New("invalid connection")
	for _, c := range []struct {
		err    error
		status int
		code   string
	}{
		{fmt.Errorf("%w: %w", study.ErrGone, cause), 503, "http.database_gone"},
		{fmt.Errorf("%w: %w", study.ErrUnsure, cause), 503, "http.unsure"},
		{errors.Join(context.Canceled, fmt.Errorf("%w: %w", study.ErrUnsure, cause)), 503, "http.unsure"},
		{fmt.Errorf("%w: %w", study.ErrUnsure, study.ErrGone), 503, "http.unsure"},
		{errors.Join(study.ErrBusy, cause), 503, "http.busy"},
		{study.ErrPacking, 503, "http.packing"},
		{fmt.Errorf("%w: %w", study.ErrTooMuch, cause), 507, "http.too_much"},
		{fmt.Errorf("%w: %w", study.ErrFull, cause), 507, "http.disk_full"},
		{cause, 500, "http.internal"},
	} {
		status, code, _, _ := (&server{}).explain(c.err)
		assert.Equal(t, c.status, status, "%v", c.err)
		assert.Equal(t, c.code, code, "%v", c.err)
	}
}
