// Package service holds the use cases: what a researcher does with the shelf, the
// intake, the topline and the claims. It opens transactions, keeps loaded columns
// and calls the core; it knows nothing of HTTP.
package service

import (
	"context"
	"encoding/json"
	"fmt"

	"widetally/core/analysis"
	"widetally/core/survey"
	"widetally/internal/cache"
	"widetally/internal/i18n"
	"widetally/internal/statistics"
)

// Services is the use cases on one store, a type for each place of the application.
type Services struct {
	*base
	*Studies
	*Uploads
	*Codebooks
	*Toplines
	*Claims
	*Answers
	*UndoLine
	*Shares
	*Reports
}

// The places. They share what they know of the studies, and nothing else.
type (
	// Studies is the shelf: open, start, edit, delete.
	Studies struct{ *base }
	// Uploads is what brings answers in, and whether they arrived right.
	Uploads struct{ *base }
	// Codebooks is what every question, list and subgroup means.
	Codebooks struct{ *base }
	// Toplines is the living page.
	Toplines struct{ *base }
	// Claims is what is asked of questions: claims, crossings, a check without a study.
	Claims struct{ *base }
	// Answers is the answers one by one: looked at, corrected, rebuilt.
	Answers struct{ *base }
	// UndoLine takes edits back and does them again.
	UndoLine struct{ *base }
	// Reports is what of a study is chosen to leave, in order, with prose.
	Reports struct{ *base }
	// Shares is the shelf of expected and published shares, and where they are taken from.
	Shares struct{ *base }
)

// base is the shared data set: the store, what was loaded from it, and what was counted.
type base struct {
	store    Store
	words    *i18n.Catalogue
	methods  *analysis.Registry
	admit    Admit
	datasets *datasets
	columns  *cache.Cache[columnKey, survey.Column]
	counts   *cache.Cache[string, *survey.Distribution]
	samples  *cache.Cache[string, whom]
	outcomes *cache.Cache[string, result]
	turns    *turns
	arrivals *arrivals
	kept     *keptFiles
	office   *statistics.Office
}

// Options adjusts the Services.
type Options struct {
	// ArrivalsDir is where files wait between arriving and being kept, those of each
	// process in a folder of its own. Required.
	ArrivalsDir string
	// MaxUpload bounds the size of an arriving file in bytes; 0 means what the disk allows.
	MaxUpload int64
	// ReadingBytes bounds the memory that reading one file may take; 0 means 1 GB.
	ReadingBytes int64
	// CacheBytes bounds the columns kept in memory; 0 means 256 MB. What was counted in them,
	// subgroups and results may take a quarter, a quarter and an eighth of it more.
	CacheBytes int
	// Office is the address of a statistics office; "" for none.
	Office string
	// OfficeLimit is the time that it has for an answer; nil for the usual one.
	OfficeLimit statistics.Limit
	// Admit lets people in to studies; nil lets everybody in.
	Admit Admit
}

// New makes the use cases on an open store.
func New(s Store, w *i18n.Catalogue, m *analysis.Registry, opt Options) (*Services, error) {
	if opt.Admit == nil {
		opt.Admit = everybody
	}
	if opt.CacheBytes == 0 {
		opt.CacheBytes = 256 << 20
	}
	a, err := newArrivals(opt.ArrivalsDir, opt.MaxUpload, opt.ReadingBytes)
	if err != nil {
		return nil, err
	}
	kept, err := newKeptFiles(opt.ArrivalsDir, s)
	if err != nil {
		return nil, err
	}
	b := &base{
		store: s, words: w, methods: m, admit: opt.Admit, datasets: newDatasets(), arrivals: a, kept: kept, office: statistics.NewOffice(opt.Office, opt.OfficeLimit), turns: newTurns(),
		columns: cache.New[columnKey, survey.Column](opt.CacheBytes), counts: cache.New[string, *survey.Distribution](opt.CacheBytes / 4),
		samples: cache.New[string, whom](opt.CacheBytes / 4), outcomes: cache.New[string, result](opt.CacheBytes / 8),
	}
	return &Services{b, &Studies{b}, &Uploads{b}, &Codebooks{b}, &Toplines{b}, &Claims{b}, &Answers{b}, &UndoLine{b}, &Shares{b}, &Reports{b}}, nil
}

// TakeUp goes on with what an earlier process left to be done in the background.
func (s *Services) TakeUp(ctx context.Context) error { return s.kept.takeUp(ctx) }

// Close ends what is being done in the background; nothing is lost by it.
func (s *Services) Close() { s.kept.close() }

// Methods are those that can be asked.
func (s *Services) Methods() *analysis.Registry { return s.methods }

// Words is the catalogue in which findings are said.
func (s *Services) Words() *i18n.Catalogue { return s.words }

// InvalidError says that a request holds a value that cannot be used. Field is
// the JSON pointer of the value; the text is in the catalogue under
// "problem." + Code.
type InvalidError struct {
	Code   string
	Field  string
	Values map[string]string
}

func (e *InvalidError) Error() string { return fmt.Sprintf("service: %s at %s", e.Code, e.Field) }

func invalid(code, field string, values map[string]string) error {
	return &InvalidError{code, field, values}
}

func jsonText(v any) (string, error) {
	raw, err := json.Marshal(v)
	return string(raw), err
}
