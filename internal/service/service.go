// Package service holds the use cases: what a researcher does with the shelf, the
// intake, the topline and the claims. It opens transactions, keeps loaded columns
// and calls the core; it knows nothing of HTTP.
package service

import (
	"context"
	"encoding/json"
	"fmt"
	"sync/atomic"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/arrivals"
	"widetally/internal/cache"
	"widetally/internal/i18n"
	"widetally/internal/statistics"
)

// Places is the use cases on one store: a value for each place of the application.
type Places struct {
	Studies     *Studies
	StudyFiles  *StudyFiles
	Uploads     *Uploads
	Codebooks   *Codebooks
	Toplines    *Toplines
	Claims      *Claims
	QuickChecks *QuickChecks
	Answers     *Answers
	UndoLine    *UndoLine
	Reports     *Reports
	Books       *Books
	Shares      *Shares
	People      *People
	Trails      *Trails
	Live        *Live
	Remarks     *Remarks
	Writings    *Writings
	base        *base
}

// The places. They share what they know of the studies, and nothing else.
type (
	// Studies is the shelf: start, edit, delete.
	Studies struct {
		*base
		store shelfRows
	}
	// StudyFiles is a whole study as a file that leaves and comes back, and its recipe.
	StudyFiles struct {
		*base
		store fileRows
	}
	// Uploads is what brings answers in, and whether they arrived right.
	Uploads struct {
		*base
		store uploadRows
	}
	// Codebooks is what every question, list and subgroup means.
	Codebooks struct {
		*base
		store partReader
		files *StudyFiles
	}
	// Toplines is the living page.
	Toplines struct{ *base }
	// Claims is what is asked of questions: claims and crossings.
	Claims struct {
		*base
		store analysisReader
	}
	// QuickChecks is a check without a study, and the study that is made of it.
	QuickChecks struct {
		*base
		uploads   *Uploads
		studies   *Studies
		codebooks *Codebooks
		claims    *Claims
	}
	// Answers is the answers one by one: looked at, corrected, rebuilt.
	Answers struct {
		*base
		store answerRows
	}
	// UndoLine takes edits back and does them again.
	UndoLine struct {
		*base
		store undoRows
	}
	// Trails tells who did what.
	Trails struct{ *base }
	// Reports is what of a study is chosen to leave, in order, with prose.
	Reports struct{ *base }
	// Books is banners, and the tables that are made by them.
	Books struct {
		*base
		layouts *cache.Cache[string, *book.Layout]
		tables  *cache.Cache[string, madeTable]
	}
	// Shares is the shelf of expected and published shares, and where they are taken from.
	Shares struct {
		*base
		store  shareRows
		office *statistics.Office
	}
)

// base is the shared data set: what is read of the studies, what was loaded of it, and what was
// counted; and how a study is changed.
type base struct {
	store    dataRows
	drafts   draftRows
	makers   makerRows
	words    *i18n.Catalogue
	methods  *analysis.Registry
	admit    Admit
	admitSet func(ctx context.Context, id uint64, to study.Access) error
	datasets *datasets
	columns  *cache.Cache[columnKey, survey.Column]
	counts   *cache.Cache[string, *survey.Distribution]
	samples  *cache.Cache[string, whom]
	outcomes *cache.Cache[string, result]
	turns    *turns
	room     *arrivals.Room
	kept     *arrivals.Kept
	jobs     *jobs // nil where this process is the only one
	// aheadFrom is from how many answers on those of a newer file are stored before the transaction that shows them.
	aheadFrom int64
}

// Options adjusts the Services.
type Options struct {
	// ArrivalsDir is where files wait between arriving and being kept, those of each
	// process in a folder of its own. Required.
	ArrivalsDir string
	// Several says that further processes may serve the database: what arrives is kept in it, so that any of them can go on.
	Several bool
	// MaxUpload bounds the size of an arriving file in bytes; 0 means what the disk allows.
	MaxUpload int64
	// ReadingBytes bounds the memory that reading one file may take; 0 means 1 GB.
	ReadingBytes int64
	// CacheBytes bounds the columns kept in memory; 0 means 256 MB. What was counted in them,
	// subgroups and results may take a quarter, a quarter and an eighth of it more, banners and the
	// tables of books a quarter and an eighth.
	CacheBytes int
	// Office is the address of a statistics office; "" for none.
	Office string
	// OfficeLimit is the time that it has for an answer; nil for the usual one.
	OfficeLimit statistics.Limit
	// Admit lets people in to studies; nil lets everybody in.
	Admit Admit
}

// New makes the use cases on an open store.
func New(s Store, w *i18n.Catalogue, m *analysis.Registry, opt Options) (*Places, error) {
	if opt.CacheBytes == 0 {
		opt.CacheBytes = 256 << 20
	}
	var board arrivals.Board
	if opt.Several {
		board = s
	}
	room, err := arrivals.OpenRoom(opt.ArrivalsDir, opt.MaxUpload, opt.ReadingBytes, board)
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	kept, err := arrivals.OpenKept(opt.ArrivalsDir, s)
	if err != nil {
		return nil, fmt.Errorf("service: %w", err)
	}
	b := &base{
		store: s, drafts: s, makers: s, words: w, methods: m, admit: opt.Admit, datasets: newDatasets(), room: room, kept: kept, turns: newTurns(), aheadFrom: usualAhead,
		columns:  cache.New[columnKey, survey.Column](opt.CacheBytes),
		counts:   cache.New[string, *survey.Distribution](opt.CacheBytes / 4),
		samples:  cache.New[string, whom](opt.CacheBytes / 4),
		outcomes: cache.New[string, result](opt.CacheBytes / 8),
	}
	p := &Places{
		Studies: &Studies{b, s}, StudyFiles: &StudyFiles{b, s}, Uploads: &Uploads{b, s}, Toplines: &Toplines{b}, Claims: &Claims{b, s},
		Answers: &Answers{b, s}, UndoLine: &UndoLine{b, s}, Reports: &Reports{b}, Trails: &Trails{b}, Remarks: &Remarks{b, s}, base: b,
		Shares: &Shares{b, s, statistics.NewOffice(opt.Office, opt.OfficeLimit)},
	}
	p.Books = &Books{b, cache.New[string, *book.Layout](opt.CacheBytes / 4), cache.New[string, madeTable](opt.CacheBytes / 8)}
	p.People, p.Live = newPeople(b, s), newLive(b, s)
	b.admitSet = p.People.letInSet
	if b.admit == nil {
		b.admit = p.People.letIn
	}
	p.Writings = &Writings{by: map[string]*atomic.Int64{}}
	if opt.Several {
		b.jobs, p.Writings.rows = newJobs(p.Studies, s), s
	}
	p.Codebooks = &Codebooks{b, s, p.StudyFiles}
	p.QuickChecks = &QuickChecks{b, p.Uploads, p.Studies, p.Codebooks, p.Claims}
	return p, nil
}

// TakeUp goes on with what an earlier process left to be done in the background, and from then on with what others leave.
func (p *Places) TakeUp(ctx context.Context) error {
	if p.base.jobs != nil {
		p.base.jobs.watch()
		p.base.jobs.help()
	}
	return p.base.kept.TakeUp(ctx)
}

// Close ends what is being done in the background; nothing is lost by it.
func (p *Places) Close() {
	p.Live.Close()
	if p.base.jobs != nil {
		p.base.jobs.close()
	}
	p.base.kept.Close()
}

// Methods are those that can be asked.
func (p *Places) Methods() *analysis.Registry { return p.base.methods }

// Words is the catalogue in which findings are said.
func (p *Places) Words() *i18n.Catalogue { return p.base.words }

// InvalidError says that a request holds a value that cannot be used. Field is
// the JSON pointer of the value; the text is in the catalogue under
// "problem." + Code.
type InvalidError struct {
	Code   string
	Field  string
	Values document.Values
}

func (e *InvalidError) Error() string { return fmt.Sprintf("service: %s at %s", e.Code, e.Field) }

// Message says it.
func (e *InvalidError) Message() document.Message { return document.Say("problem."+e.Code, e.Values) }

func invalid(code, field string, values map[string]string) error {
	out := document.Values{}
	for name, text := range values {
		out[name] = document.Text(text)
	}
	return invalidSaying(code, field, out)
}

// invalidSaying is invalid with values that are said.
func invalidSaying(code, field string, values document.Values) error {
	return &InvalidError{code, field, values}
}

func jsonText(v any) (string, error) {
	raw, err := json.Marshal(v)
	return string(raw), err
}
