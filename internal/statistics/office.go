package statistics

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"time"
)

// Office is a statistics office that is asked over HTTP: a list of its tables at /tables, each
// of them in JSON-stat 2.0 or SDMX-CSV at /tables/{id}. The zero value has none.
type Office struct {
	base  string
	http  *http.Client
	limit Limit
}

// Limit gives a question to an office a time; one that is out of it ends with
// context.DeadlineExceeded as its cause.
type Limit func(context.Context) (context.Context, context.CancelFunc)

// Table is a table that an office offers.
type Table struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Updated string `json:"updated"`
}

// officePatience is how long an office may take.
const officePatience = 6 * time.Second

// NewOffice makes the office at an address; "" is none. Without a limit an office has six
// seconds.
func NewOffice(base string, limit Limit) *Office {
	if limit == nil {
		limit = func(ctx context.Context) (context.Context, context.CancelFunc) {
			return context.WithTimeout(ctx, officePatience)
		}
	}
	noRedirect := func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }
	return &Office{strings.TrimSuffix(base, "/"), &http.Client{CheckRedirect: noRedirect}, limit}
}

// What keeps an office from answering.
var (
	ErrNoOffice = errors.New("statistics: no office is set")
	ErrAway     = errors.New("statistics: the office cannot be reached")
	ErrSlow     = errors.New("statistics: the office takes too long")
	ErrFails    = errors.New("statistics: the office answers with an error")
	ErrBroken   = errors.New("statistics: the office answers with what cannot be read")
)

// sdmxCSV is the media type of SDMX-CSV.
const sdmxCSV = "application/vnd.sdmx.data+csv"

// tableID is what may stand in an address.
var tableID = regexp.MustCompile(`^[A-Za-z0-9_.-]{1,80}$`)

func (o *Office) get(ctx context.Context, path string) ([]byte, error) {
	if o.base == "" {
		return nil, ErrNoOffice
	}
	ctx, cancel := o.limit(ctx)
	defer cancel()
	req, err := http.NewRequestWithContext(ctx, http.MethodGet, o.base+path, nil)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrAway, err)
	}
	req.Header.Set("Accept", "application/json, "+sdmxCSV)
	res, err := o.http.Do(req)
	if err != nil {
		if errors.Is(context.Cause(ctx), context.DeadlineExceeded) {
			return nil, ErrSlow
		}
		return nil, fmt.Errorf("%w: %w", ErrAway, err)
	}
	defer res.Body.Close()
	if res.StatusCode != http.StatusOK {
		return nil, fmt.Errorf("%w: %d", ErrFails, res.StatusCode)
	}
	raw, err := io.ReadAll(io.LimitReader(res.Body, MaxBytes+1))
	switch {
	case err != nil && ctx.Err() != nil:
		return nil, ErrSlow
	case err != nil:
		return nil, fmt.Errorf("%w: %w", ErrAway, err)
	case len(raw) > MaxBytes:
		return nil, fmt.Errorf("%w: it is larger than %d MB", ErrBroken, MaxBytes>>20)
	}
	return raw, nil
}

// mostTables bounds a list of tables.
const mostTables = 2000

// Tables lists the tables of the office.
func (o *Office) Tables(ctx context.Context) ([]Table, error) {
	raw, err := o.get(ctx, "/tables")
	if err != nil {
		return nil, err
	}
	var in struct {
		Tables []Table `json:"tables"`
	}
	if err := json.Unmarshal(raw, &in); err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	out := []Table{}
	for _, t := range in.Tables {
		if tableID.MatchString(t.ID) && len(out) < mostTables {
			out = append(out, t)
		}
	}
	return out, nil
}

// Table fetches one table.
func (o *Office) Table(ctx context.Context, id string) (*Cube, error) {
	if !tableID.MatchString(id) {
		return nil, ErrChoice
	}
	raw, err := o.get(ctx, "/tables/"+url.PathEscape(id))
	if err != nil {
		return nil, err
	}
	c, err := Parse(raw)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrBroken, err)
	}
	return c, nil
}
