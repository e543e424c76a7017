package httpapi

import (
	"errors"
	"io"
	"strconv"
	"strings"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/shares"
	"widetally/internal/service"
	"widetally/internal/statistics"
)

func (s *server) sharesRoutes(r fiber.Router) {
	r.Get("/shares", s.to((*server).listShares))
	r.Post("/shares", s.to((*server).addShares))
	r.Post("/shares/tables", s.to((*server).readTable))
	r.Get("/shares/:set", s.to((*server).getShares))
	r.Put("/shares/:set", s.to((*server).editShares))
	r.Delete("/shares/:set", s.deleteShares(true))
	r.Post("/shares/:set/restore", s.deleteShares(false))
	r.Post("/shares/:set/fit", s.to((*server).fitShares))
	r.Post("/studies/:study/questions/:question/shelf", s.to((*server).sharesOf))
	r.Get("/office/tables", s.to((*server).officeTables))
	r.Get("/office/tables/:table", s.to((*server).officeTable))
}

type shareSetDTO struct {
	ID      uint64    `json:"id"`
	Version int       `json:"version"`
	At      time.Time `json:"at"`
	shares.Set
}

func toShareSet(s service.ShareSet) shareSetDTO {
	out := shareSetDTO{s.ID, s.Version, s.At, s.Set}
	if out.Answers == nil {
		out.Answers = []shares.SetAnswer{}
	}
	return out
}

type shareSetsDTO struct {
	Sets []shareSetDTO `json:"sets"`
}

func (s *server) sendShareSets(c fiber.Ctx, list []service.ShareSet, err error) error {
	if err != nil {
		return err
	}
	out := shareSetsDTO{make([]shareSetDTO, len(list))}
	for i, one := range list {
		out.Sets[i] = toShareSet(one)
	}
	return c.JSON(out)
}

func (s *server) sendShareSet(c fiber.Ctx, status int, set service.ShareSet, err error) error {
	if err != nil {
		return err
	}
	etag(c, set.Version)
	return c.Status(status).JSON(toShareSet(set))
}

func (s *server) listShares(c fiber.Ctx) error {
	list, err := s.Shares.ShareSets(c.Context())
	return s.sendShareSets(c, list, err)
}

// getShares answers with all versions of a set, the newest first.
func (s *server) getShares(c fiber.Ctx) error {
	n, err := id(c, "set")
	if err != nil {
		return err
	}
	list, err := s.Shares.ShareVersions(c.Context(), n)
	return s.sendShareSets(c, list, err)
}

func (s *server) addShares(c fiber.Ctx) error {
	var in shares.Set
	if err := s.decode(c, &in); err != nil {
		return err
	}
	set, err := s.Shares.AddShareSet(c.Context(), in)
	return s.sendShareSet(c, fiber.StatusCreated, set, err)
}

func (s *server) editShares(c fiber.Ctx) error {
	n, err := id(c, "set")
	if err != nil {
		return err
	}
	ver, err := version(c)
	if err != nil {
		return err
	}
	var in shares.Set
	if err := s.decode(c, &in); err != nil {
		return err
	}
	set, err := s.Shares.EditShareSet(c.Context(), n, ver, in)
	return s.sendShareSet(c, fiber.StatusOK, set, err)
}

func (s *server) deleteShares(deleted bool) fiber.Handler {
	return func(c fiber.Ctx) error {
		s := s.in(c)
		n, err := id(c, "set")
		if err != nil {
			return err
		}
		if err := s.Shares.SetShareSetDeleted(c.Context(), n, deleted); err != nil {
			return err
		}
		return c.SendStatus(fiber.StatusNoContent)
	}
}

type fittedDTO struct {
	Code   string     `json:"code"`
	Label  string     `json:"label"`
	From   []int      `json:"from"`
	How    shares.How `json:"how"`
	Figure string     `json:"figure"`
}

// fitShares says which categories of a set go to which answers of a question.
func (s *server) fitShares(c fiber.Ctx) error {
	n, err := id(c, "set")
	if err != nil {
		return err
	}
	var in struct {
		Study    uint64   `json:"study"`
		Question uint64   `json:"question"`
		From     *[][]int `json:"from,omitempty"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	var from [][]int
	if in.From != nil {
		from = append([][]int{}, *in.From...)
	}
	f, err := s.Shares.FitShares(c.Context(), n, in.Study, in.Question, from)
	if err != nil {
		return err
	}
	out := struct {
		Set     shareSetDTO `json:"set"`
		Answers []fittedDTO `json:"answers"`
		Left    []int       `json:"left"`
		// Scale is that of the figures as they are taken.
		Scale shares.Scale `json:"scale"`
	}{toShareSet(f.Set), []fittedDTO{}, f.Left, f.Set.Taken()}
	for i, a := range f.Answers {
		out.Answers = append(out.Answers, fittedDTO{a.Code, a.Label, append([]int{}, f.From[i]...), f.How[i], f.Figures[i]})
	}
	return c.JSON(out)
}

// sharesOf puts the counts of a question on the shelf.
func (s *server) sharesOf(c fiber.Ctx) error {
	studyID, question, err := ids(c, "question")
	if err != nil {
		return err
	}
	of, err := among(c)
	if err != nil {
		return err
	}
	set, err := s.Shares.SharesOf(c.Context(), studyID, question, of)
	return s.sendShareSet(c, fiber.StatusCreated, set, err)
}

type tableDimDTO struct {
	ID         string     `json:"id"`
	Label      string     `json:"label"`
	Categories []groupDTO `json:"categories"`
}

// cubeDTO is a table of open statistics, with the figures along one dimension once that and
// the rest are chosen.
type cubeDTO struct {
	Title      string             `json:"title"`
	Publisher  string             `json:"publisher"`
	Updated    string             `json:"updated"`
	Note       string             `json:"note"`
	Dimensions []tableDimDTO      `json:"dimensions"`
	Answers    []shares.SetAnswer `json:"answers"`
	// Totals are the categories that count everybody again; they are not among the answers.
	Totals []shares.SetAnswer `json:"totals"`
	// Lacking have no figure, Flagged have one of which the table says something.
	Lacking []flaggedDTO `json:"lacking"`
	Flagged []flaggedDTO `json:"flagged"`
}

type flaggedDTO struct {
	Label  string `json:"label"`
	Status string `json:"status"`
}

func toFlagged(list []statistics.Flagged) []flaggedDTO {
	out := make([]flaggedDTO, len(list))
	for i, f := range list {
		out[i] = flaggedDTO(f)
	}
	return out
}

// sendCube answers with a table. The dimension to take stands in the query as dim, what the
// others are fixed at as fix=id:code.
func (s *server) sendCube(c fiber.Ctx, cube *statistics.Cube, err error) error {
	if err != nil {
		return err
	}
	out := cubeDTO{Title: cube.Title, Publisher: cube.Publisher, Updated: cube.Updated, Note: strings.TrimSpace(cube.Note), Dimensions: []tableDimDTO{}, Answers: []shares.SetAnswer{}, Totals: []shares.SetAnswer{}, Lacking: []flaggedDTO{}, Flagged: []flaggedDTO{}}
	for _, d := range cube.Dims {
		dim := tableDimDTO{d.ID, d.Label, []groupDTO{}}
		for _, category := range d.Categories {
			dim.Categories = append(dim.Categories, groupDTO{category.Code, category.Label})
		}
		out.Dimensions = append(out.Dimensions, dim)
	}
	if dim := c.Query("dim"); dim != "" {
		fixed := map[string]string{}
		for _, raw := range c.RequestCtx().QueryArgs().PeekMulti("fix") {
			if of, code, ok := strings.Cut(string(raw), ":"); ok {
				fixed[of] = code
			}
		}
		taken, err := cube.Take(dim, fixed)
		switch {
		case errors.Is(err, statistics.ErrChoice): // chosen bit by bit
		case err != nil:
			return err
		default:
			out.Answers, out.Totals = taken.Answers, append(out.Totals, taken.Totals...)
			out.Lacking, out.Flagged = toFlagged(taken.Lacking), toFlagged(taken.Flagged)
		}
	}
	return c.JSON(out)
}

// readTable reads a file of JSON-stat or SDMX-CSV; nothing is kept.
func (s *server) readTable(c fiber.Ctx) error {
	raw, err := io.ReadAll(io.LimitReader(s.upload(c), statistics.MaxBytes+1))
	if err != nil {
		return err
	}
	if len(raw) > statistics.MaxBytes {
		return &refusal{status: fiber.StatusRequestEntityTooLarge, code: "too_large", values: map[string]string{"most": strconv.Itoa(statistics.MaxBytes >> 20)}}
	}
	cube, err := statistics.Parse(raw)
	return s.sendCube(c, cube, err)
}

func (s *server) officeTables(c fiber.Ctx) error {
	list, err := s.Shares.OfficeTables(c.Context())
	if err != nil {
		return err
	}
	return c.JSON(struct {
		Tables []statistics.Table `json:"tables"`
	}{list})
}

func (s *server) officeTable(c fiber.Ctx) error {
	cube, err := s.Shares.OfficeTable(c.Context(), c.Params("table"))
	return s.sendCube(c, cube, err)
}

// officeStatus is how a refusal of the office, or of a table, is answered.
func officeStatus(err error) (status int, code string, ok bool) {
	for _, k := range []struct {
		is     error
		status int
		code   string
	}{{statistics.ErrNoOffice, fiber.StatusNotFound, "office.none"}, {statistics.ErrBroken, fiber.StatusBadGateway, "office.broken"}, {statistics.ErrAway, fiber.StatusBadGateway, "office.away"},
		{statistics.ErrSlow, fiber.StatusGatewayTimeout, "office.slow"}, {statistics.ErrFails, fiber.StatusBadGateway, "office.fails"},
		{statistics.ErrChoice, fiber.StatusUnprocessableEntity, "office.choice"}} {
		if errors.Is(err, k.is) {
			return k.status, k.code, true
		}
	}
	return 0, "", false
}
