package httpapi

import (
	"io"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/book"
	"widetally/core/document"
	"widetally/core/study"
	"widetally/core/survey"
	"widetally/internal/export"
	"widetally/internal/reporting"
	"widetally/internal/said"
	"widetally/internal/service"
)

func (s *server) bookRoutes(r fiber.Router) {
	r.Get("/studies/:study/books", s.to((*server).getBooks))
	r.Post("/studies/:study/books", s.to((*server).saveBook))
	r.Put("/studies/:study/books/:part", s.to((*server).saveBook))
	r.Delete("/studies/:study/books/:part", s.deleteTables(study.TableBook))
	r.Get("/studies/:study/books/:part/tables", s.to((*server).bookTables))
	r.Get("/studies/:study/books/:part/chance", s.to((*server).bookChance))
	r.Get("/studies/:study/books/:part/file", s.to((*server).bookFile))
	r.Post("/studies/:study/banners", s.to((*server).saveBanner))
	r.Put("/studies/:study/banners/:part", s.to((*server).saveBanner))
	r.Delete("/studies/:study/banners/:part", s.deleteTables(study.Banner))
	r.Get("/studies/:study/banners/:part/sample", s.to((*server).bannerSample))
	r.Put("/studies/:study/nets/:question", s.to((*server).saveNets))
}

type bannerDTO struct {
	ID       uint64           `json:"id"`
	Name     string           `json:"name"`
	Version  int              `json:"version"`
	Banner   book.Banner      `json:"banner"`
	Problems []specProblemDTO `json:"problems"`
}

type bookDTO struct {
	ID       uint64           `json:"id"`
	Version  int              `json:"version"`
	Book     book.Book        `json:"book"`
	Problems []specProblemDTO `json:"problems"`
}

// columnQuestionDTO is a question as it can make columns, or be a table.
type columnQuestionDTO struct {
	ID      uint64      `json:"id"`
	Name    string      `json:"name"`
	Number  int         `json:"number"`
	Wording string      `json:"wording"`
	Short   string      `json:"short"`
	Section string      `json:"section"`
	Kind    survey.Kind `json:"kind"`
	// Listed says that it has the answers of a shared list.
	Listed bool `json:"listed"`
	// Outer says that its answers can be columns with others nested in them, Inner that they can be columns.
	Outer   bool         `json:"outer"`
	Inner   bool         `json:"inner"`
	Table   bool         `json:"table"`
	Scored  bool         `json:"scored"`
	Answers []bookAnswer `json:"answers"`
	Nets    []book.Net   `json:"nets"`
	OfList  []book.Net   `json:"netsOfList"`
}

type bookAnswer struct {
	Code  string `json:"code"`
	Label string `json:"label"`
}

// booksDTO is all that makes tables in a study.
type booksDTO struct {
	Study       studyDTO            `json:"study"`
	Banners     []bannerDTO         `json:"banners"`
	Books       []bookDTO           `json:"books"`
	NetsVersion int                 `json:"netsVersion"`
	Questions   []columnQuestionDTO `json:"questions"`
	Subgroups   []bookSubgroup      `json:"subgroups"`
	Undo        *editDTO            `json:"undo"`
	Redo        *editDTO            `json:"redo"`
}

type bookSubgroup struct {
	ID   uint64 `json:"id"`
	Name string `json:"name"`
}

func (s *server) getBooks(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendBooks(c, n, 0)
}

// sendBooks answers with all banners and books; saved is the part that was made or changed, 0 for none.
func (s *server) sendBooks(c fiber.Ctx, studyID, saved uint64) error {
	v, err := s.Books.View(c.Context(), studyID)
	if err != nil {
		return err
	}
	out := booksDTO{
		Study: toStudy(v.Study), Banners: []bannerDTO{}, Books: []bookDTO{}, NetsVersion: v.NetsVersion,
		Questions: []columnQuestionDTO{}, Subgroups: []bookSubgroup{}, Undo: s.toEdit(v.Undo), Redo: s.toEdit(v.Redo),
	}
	for _, b := range v.Banners {
		out.Banners = append(out.Banners, bannerDTO{b.ID, b.Name, b.Version, b.Banner, s.toProblems(b.Problems)})
	}
	for _, b := range v.Books {
		out.Books = append(out.Books, bookDTO{b.ID, b.Version, b.Book, s.toProblems(b.Problems)})
	}
	for _, q := range v.Questions {
		one := columnQuestionDTO{
			ID: q.ID, Name: q.Name, Number: q.Number, Wording: q.Wording, Short: q.Short, Section: q.Section, Kind: q.Kind, Listed: q.ListID != nil,
			Outer: book.Serves(q.Question, false), Inner: book.Serves(q.Question, true), Table: book.Tabulates(q.Question),
			Scored: q.Kind == survey.Discrete || q.Kind.Coded() && analysis.ScoresOf(q.Question) != nil, Answers: []bookAnswer{}, Nets: []book.Net{}, OfList: []book.Net{},
		}
		for _, a := range q.Proper() {
			one.Answers = append(one.Answers, bookAnswer{a.Code, a.Label})
		}
		one.Nets = append(one.Nets, v.Nets.Questions[service.KeyOf(q.ID)]...)
		if q.ListID != nil {
			one.OfList = append(one.OfList, v.Nets.Lists[service.KeyOf(*q.ListID)]...)
		}
		out.Questions = append(out.Questions, one)
	}
	for _, p := range v.Subgroups {
		out.Subgroups = append(out.Subgroups, bookSubgroup{p.ID, p.Name})
	}
	return c.JSON(struct {
		booksDTO
		Saved uint64 `json:"saved"`
	}{out, saved})
}

func (s *server) saveBanner(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	part, ver, err := partAndVersion(c)
	if err != nil {
		return err
	}
	var in struct {
		Name   string      `json:"name"`
		Banner book.Banner `json:"banner"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	saved, err := s.Books.SaveBanner(c.Context(), n, part, ver, in.Name, in.Banner)
	if err != nil {
		return err
	}
	return s.sendBooks(c, n, saved)
}

func (s *server) saveBook(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	part, ver, err := partAndVersion(c)
	if err != nil {
		return err
	}
	var in book.Book
	if err := s.decode(c, &in); err != nil {
		return err
	}
	saved, err := s.Books.SaveBook(c.Context(), n, part, ver, in)
	if err != nil {
		return err
	}
	return s.sendBooks(c, n, saved)
}

func (s *server) deleteTables(kind study.PartKind) fiber.Handler {
	return func(c fiber.Ctx) error {
		s := s.in(c)
		studyID, part, err := ids(c, "part")
		if err != nil {
			return err
		}
		if err := s.Books.Delete(c.Context(), studyID, part, kind); err != nil {
			return err
		}
		return s.sendBooks(c, studyID, 0)
	}
}

func (s *server) saveNets(c fiber.Ctx) error {
	n, question, err := ids(c, "question")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in struct {
		Nets []book.Net `json:"nets"`
		// OfList keeps them for all questions with the shared list of this one.
		OfList bool `json:"ofList"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.Books.SaveNets(c.Context(), n, ver, question, in.OfList, in.Nets); err != nil {
		return err
	}
	return s.sendBooks(c, n, 0)
}

// bookTableDTO is a table of a book; Table is null where Failed says why.
type bookTableDTO struct {
	Section   string      `json:"section"`
	Questions []uint64    `json:"questions"`
	Table     *said.Table `json:"table"`
	Notes     []string    `json:"notes"`
	Failed    string      `json:"failed"`
}

// bookTablesDTO is a window of a book.
type bookTablesDTO struct {
	Captions []string       `json:"captions"`
	From     int            `json:"from"`
	Tables   []bookTableDTO `json:"tables"`
	Columns  int            `json:"columns"`
	Design   []string       `json:"design"`
}

// mostTablesSent bounds a window, usualTablesSent is how many there are where nobody says.
const (
	mostTablesSent  = 40
	usualTablesSent = 10
)

func (s *server) bookTables(c fiber.Ctx) error {
	n, part, err := ids(c, "part")
	if err != nil {
		return err
	}
	from, most := fiber.Query(c, "from", 0), fiber.Query(c, "most", usualTablesSent)
	if from < 0 || most < 1 || most > mostTablesSent {
		return &service.InvalidError{Code: "window", Field: "/from", Values: document.Values{"most": document.N(mostTablesSent)}}
	}
	v, err := s.Books.Tables(c.Context(), n, part, from, most, nil)
	if err != nil {
		return err
	}
	return c.JSON(s.toTables(v))
}

func (s *server) bannerSample(c fiber.Ctx) error {
	n, part, err := ids(c, "part")
	if err != nil {
		return err
	}
	v, err := s.Books.Sample(c.Context(), n, part, uint64(max(0, fiber.Query(c, "question", 0))))
	if err != nil {
		return err
	}
	return c.JSON(s.toTables(v))
}

func (s *server) toTables(v *service.Tabulated) bookTablesDTO {
	out := bookTablesDTO{Captions: s.words.SayAll(v.Captions), From: v.From, Tables: []bookTableDTO{}, Columns: len(v.Layout.Columns), Design: s.words.SayAll(v.Design)}
	for _, t := range v.Tables {
		one := bookTableDTO{Section: t.Section, Questions: t.Questions, Notes: []string{}}
		if t.Damaged != nil {
			one.Failed = s.toDamage(t.Questions[0], t.Damaged).Text
		} else {
			one.Table, one.Notes = said.TableOf(&t.Shown.Table, s.words), s.words.SayAll(t.Shown.Notes)
		}
		out.Tables = append(out.Tables, one)
	}
	return out
}

// bookChance makes all tables and says how many comparisons there are, and how many would stand out by chance.
func (s *server) bookChance(c fiber.Ctx) error {
	n, part, err := ids(c, "part")
	if err != nil {
		return err
	}
	v, err := s.Books.Tables(c.Context(), n, part, 0, -1, nil)
	if err != nil {
		return err
	}
	chance := v.Chance()
	return c.JSON(struct {
		Tests    int    `json:"tests"`
		Standing int    `json:"standing"`
		Said     string `json:"said"`
	}{chance.Tests, chance.Standing, s.sayAny(chance.Said())})
}

// sayAny is say of a message that may be none.
func (s *server) sayAny(m document.Message) string {
	if m.ID == "" {
		return ""
	}
	return s.say(m)
}

// bookFile answers with the book in a form.
func (s *server) bookFile(c fiber.Ctx) error {
	n, part, err := ids(c, "part")
	if err != nil {
		return err
	}
	form := export.ReportForm(c.Query("form", string(export.XLSXReport)))
	if form.MediaType() == "" || form == export.PDFReport {
		return &service.InvalidError{Code: "report.form", Field: "/form"}
	}
	told, end := s.writing(c)
	defer end()
	v, err := s.Books.Tables(c.Context(), n, part, 0, -1, told)
	if err != nil {
		return err
	}
	made := reporting.BookReport(s.words, s.toBook(v))
	made.OneSheet = c.Query("sheets") == "one"
	name := export.FileName(made.Title, "tables", made.At, form.Extension())
	f, err := written(c.Context(), func(w io.Writer) error { return made.Write(w, form) })
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, form.MediaType())
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

func (s *server) toBook(v *service.Tabulated) reporting.Book {
	out := reporting.Book{Title: v.Book.Title, Study: v.Study, Revision: v.Revision, At: time.Now(), Design: v.Design, Weight: v.Weight, Chance: v.Chance().Said()}
	for _, t := range v.Tables {
		one := reporting.BookTable{Section: t.Section, Shown: t.Shown}
		if t.Damaged != nil {
			one.Failed = s.toDamage(t.Questions[0], t.Damaged).Text
		}
		out.Tables = append(out.Tables, one)
	}
	return out
}
