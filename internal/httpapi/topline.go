package httpapi

import (
	"encoding/json"
	"slices"
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/document"
	"widetally/core/survey"
	"widetally/internal/service"
)

// outlinedDTO is a question as long as it is not tabulated.
type outlinedDTO struct {
	ID       uint64      `json:"id"`
	Number   int         `json:"number"`
	Name     string      `json:"name"`
	Wording  string      `json:"wording"`
	Short    string      `json:"short"`
	Section  string      `json:"section"`
	Kind     survey.Kind `json:"kind"`
	ListID   *uint64     `json:"listId"`
	PartOf   uint64      `json:"partOf"`
	Answers  int         `json:"answers"`
	Analyses []uint64    `json:"analyses"`
	// Joins is the place, among the lists of methods, of those in which it can be a further
	// question.
	Joins int `json:"joins"`
	// Opens is the place of those that can be asked of it first.
	Opens int `json:"opens"`
}

// mostAtOnce bounds the questions of one window.
const mostAtOnce = 400

// windowOf reads which questions of a page are asked for: by their ids, or many from one on.
func windowOf(c fiber.Ctx) (w service.Window, err error) {
	bad := &service.InvalidError{Code: "window", Field: "/ids", Values: document.Values{"most": document.N(mostAtOnce)}}
	if text := c.Query("ids"); text != "" {
		for _, part := range strings.Split(text, ",") {
			id, err := strconv.ParseUint(part, 10, 63)
			if err != nil || len(w.IDs) >= mostAtOnce {
				return w, bad
			}
			w.IDs = append(w.IDs, id)
		}
		return w, nil
	}
	if c.Query("many") == "" {
		return w, nil
	}
	if w.Many, err = strconv.Atoi(c.Query("many")); err != nil || w.Many < 1 || w.Many > mostAtOnce {
		return w, bad
	}
	if w.From, err = strconv.Atoi(c.Query("from", "1")); err != nil || w.From < 1 {
		return w, bad
	}
	return w, nil
}

// getQuestions answers with the questions of a window.
func (s *server) getQuestions(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	of, err := among(c)
	if err != nil {
		return err
	}
	window, err := windowOf(c)
	if err != nil {
		return err
	}
	return s.remembered(c, n, func() (body any, revision uint64, keep bool, err error) {
		st, list, err := s.Toplines.Questions(c.Context(), n, of, window)
		if err != nil {
			return nil, 0, false, err
		}
		rendered, err := s.renderAll(c, list)
		return struct {
			Questions []json.RawMessage `json:"questions"`
		}{rendered}, st.Revision, whole(list), err
	})
}

// whole reports whether no column of the questions is damaged: such a one may be made whole
// without a change of the study.
func whole(list []*service.QuestionView) bool {
	return !slices.ContainsFunc(list, func(v *service.QuestionView) bool { return v.Damaged != nil })
}

func (s *server) renderAll(c fiber.Ctx, list []*service.QuestionView) ([]json.RawMessage, error) {
	order, err := orderOf(c)
	if err != nil {
		return nil, err
	}
	out := make([]json.RawMessage, len(list))
	for i, v := range list {
		if out[i], err = s.render(v, order); err != nil {
			return nil, err
		}
	}
	return out, nil
}

func (s *server) getTopline(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendTopline(c, n)
}

func (s *server) sendTopline(c fiber.Ctx, n uint64) error {
	of, err := among(c)
	if err != nil {
		return err
	}
	window, err := windowOf(c)
	if err != nil {
		return err
	}
	return s.remembered(c, n, func() (body any, revision uint64, keep bool, err error) {
		return s.topline(c, n, of, window)
	})
}

// mayDTO is what whoever asks may do with a study beside seeing it: to ask and report, to change answers and codebook.
type mayDTO struct {
	Ask    bool `json:"ask"`
	Change bool `json:"change"`
}

func (s *server) topline(c fiber.Ctx, n uint64, of *uint64, window service.Window) (body any, revision uint64, keep bool, err error) {
	t, err := s.Toplines.Topline(c.Context(), n, of, window)
	if err != nil {
		return nil, 0, false, err
	}
	out := struct {
		Study     studyDTO      `json:"study"`
		Subgroups []subgroupDTO `json:"subgroups"`
		Undo      *editDTO      `json:"undo"`
		Redo      *editDTO      `json:"redo"`
		// Outline is every question, Questions those that were asked for.
		Outline   []outlinedDTO     `json:"outline"`
		Joins     [][]string        `json:"joins"`
		Questions []json.RawMessage `json:"questions"`
		// Notes speak of the whole page.
		Notes []string `json:"notes"`
		May   mayDTO   `json:"may"`
	}{toStudy(t.Study), toSubgroups(t.Subgroups), s.toEdit(t.Undo), s.toEdit(t.Redo), nil, nil, nil, []string{}, mayDTO{s.sight <= noChanges, s.sight == everything}}
	if s.sight == byLink {
		out.Undo, out.Redo = nil, nil
	}
	if t.Weights != "" {
		out.Notes = append(out.Notes, s.words.Text("note.page.unweighted", map[string]string{"name": t.Weights, "units": t.Study.Units}))
	}
	if len(t.Design.Drawn.Questions()) > 0 {
		id := "note.page.designed"
		if t.Design.Off {
			id = "note.page.designed_off"
		}
		d := s.toDesign(t.Design)
		out.Notes = append(out.Notes, s.words.Text(id, map[string]string{"how": strings.Join(d.Said, " ")}))
		if d.Problem != nil {
			out.Notes = append(out.Notes, *d.Problem)
		}
	}
	out.Outline, out.Joins = s.toOutline(t.Outline, !t.Design.Off && len(t.Design.Drawn.Questions()) > 0)
	out.Questions, err = s.renderAll(c, t.Questions)
	return out, t.Study.Revision, whole(t.Questions) && !slices.ContainsFunc(t.Subgroups, func(g service.SubgroupView) bool { return g.N == nil }), err
}

// askedOf lists the methods in which a question can be at a place; where the population is estimated
// those that have a form for it.
func (s *server) askedOf(place int, q survey.Question, estimated bool) []string {
	names := s.Methods().AskedOf(place, q)
	if !estimated {
		return names
	}
	return slices.DeleteFunc(names, func(name string) bool {
		m, _ := s.Methods().Find(name)
		return !analysis.Serves(m.Asked.New())
	})
}

// toOutline tells of each question which methods can be asked of it, and in which it can be a
// further one; a few lists say so for all.
func (s *server) toOutline(list []service.Outlined, estimated bool) ([]outlinedDTO, [][]string) {
	out, joins, at := make([]outlinedDTO, len(list)), [][]string{}, map[string]int{}
	for i, q := range list {
		place := func(names []string) int {
			key := strings.Join(names, " ")
			if _, known := at[key]; !known {
				at[key] = len(joins)
				joins = append(joins, names)
			}
			return at[key]
		}
		out[i] = outlinedDTO{q.ID, q.Number, q.Name, q.Wording, q.Short, q.Section, q.Kind, q.ListID, q.PartOf, len(q.Proper()), append([]uint64{}, q.Analyses...), place(s.askedOf(1, q.Question.Question, estimated)), place(s.askedOf(0, q.Question.Question, estimated))}
	}
	return out, joins
}
