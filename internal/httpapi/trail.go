package httpapi

import (
	"cmp"
	"strconv"
	"time"

	"github.com/gofiber/fiber/v3"

	"widetally/core/study"
	"widetally/internal/export"
)

func (s *server) trailRoutes(r fiber.Router) {
	r.Get("/trail", s.to((*server).getTrail))
	r.Get("/studies/:study/trail", s.to((*server).getTrail))
}

// entryDTO is an entry of an audit trail, in words.
type entryDTO struct {
	Number  uint64    `json:"number"`
	At      time.Time `json:"at"`
	Actor   string    `json:"actor"`
	Name    string    `json:"name"`
	Via     study.Way `json:"via"`
	Address string    `json:"address"`
	Text    string    `json:"text"`
	Seal    string    `json:"seal"`
}

func (s *server) toEntry(e study.Entry) (entryDTO, error) {
	what, err := e.Said()
	return entryDTO{e.Number, e.At, e.Actor, cmp.Or(e.Name, s.authorOf(e.Actor)), e.Via, e.Address, s.say(what), e.Seal}, err
}

// getTrail answers with entries of an audit trail, that of the accounts where no study is named.
func (s *server) getTrail(c fiber.Ctx) error {
	var n uint64
	var err error
	if c.Params("study") != "" {
		if n, err = id(c, "study"); err != nil {
			return err
		}
	}
	of := study.Looked{Actor: c.Query("actor"), Words: c.Query("what")}
	day := func(name string, plus int) (at time.Time) {
		if text := c.Query(name); text != "" && err == nil {
			if at, err = time.Parse(time.DateOnly, text); err != nil {
				err = unknownQuery(name, text)
			}
			at = at.AddDate(0, 0, plus)
		}
		return at
	}
	of.From, of.To = day("from", 0), day("to", 1)
	if text := c.Query("before"); text != "" && err == nil {
		if of.Before, err = strconv.ParseUint(text, 10, 64); err != nil {
			err = unknownQuery("before", text)
		}
	}
	form := c.Query("form", "json")
	if form != "json" && form != "csv" {
		err = unknownQuery("form", form)
	}
	if err != nil {
		return err
	}
	entries, err := s.Trails.Of(c.Context(), n, of, form == "csv")
	if err != nil {
		return err
	}
	out := struct {
		Name    string     `json:"name"`
		Entries []entryDTO `json:"entries"`
	}{Entries: make([]entryDTO, len(entries))}
	if n > 0 {
		st, err := s.Studies.Get(c.Context(), n)
		if err != nil {
			return err
		}
		out.Name = st.Name
	}
	for i, e := range entries {
		if out.Entries[i], err = s.toEntry(e); err != nil {
			return err
		}
	}
	if form == "json" {
		return c.JSON(out)
	}
	t := export.Table{Title: s.words.Text("ui.trail.title", nil)}
	for _, head := range []string{"number", "at", "who", "id", "via", "address", "what", "seal"} {
		t.Head = append(t.Head, s.words.Text("ui.trail.head."+head, nil))
	}
	for _, e := range out.Entries {
		row := []export.Cell{}
		for _, text := range []string{strconv.FormatUint(e.Number, 10), e.At.Format(time.RFC3339), e.Name, e.Actor, string(e.Via), e.Address, e.Text, e.Seal} {
			row = append(row, export.Cell{Text: text})
		}
		t.Rows = append(t.Rows, row)
	}
	return s.sendTable(c, t, "trail")
}
