package httpapi

import (
	"strconv"
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/core/disclosure"
	"widetally/internal/service"
)

type combinationDTO struct {
	Answers []string `json:"answers"`
	Count   int64    `json:"count"`
}

type rareAnswerDTO struct {
	Question string `json:"question"`
	Answer   string `json:"answer"`
	Count    int64  `json:"count"`
}

// anonymityDTO is how well respondents are hid in a file for others.
type anonymityDTO struct {
	Respondents  int64            `json:"respondents"`
	Combinations int              `json:"combinations"`
	Smallest     int64            `json:"smallest"`
	Alone        int64            `json:"alone"`
	Few          int64            `json:"few"`
	Withheld     int64            `json:"withheld"`
	Rare         []combinationDTO `json:"rare"`
	RareAnswers  []rareAnswerDTO  `json:"rareAnswers"`
}

func (s *server) getMicrodata(c fiber.Ctx) error {
	n, ask, err := microdataAsk(c)
	if err != nil {
		return err
	}
	a, err := s.Reports.Microdata(c.Context(), n, ask)
	if err != nil {
		return err
	}
	out := anonymityDTO{
		Respondents: a.Respondents, Combinations: a.Combinations, Smallest: a.Smallest, Alone: a.Alone, Few: a.Few, Withheld: a.Withheld,
		Rare: []combinationDTO{}, RareAnswers: []rareAnswerDTO{},
	}
	for _, one := range a.Rare {
		out.Rare = append(out.Rare, combinationDTO(one))
	}
	for _, one := range a.RareAnswers {
		out.RareAnswers = append(out.RareAnswers, rareAnswerDTO(one))
	}
	return c.JSON(out)
}

func (s *server) microdataFile(c fiber.Ctx) error {
	n, ask, err := microdataAsk(c)
	if err != nil {
		return err
	}
	name, err := s.nameOf(c, n, "for others", files[service.PackageFile][0])
	if err != nil {
		return err
	}
	f, err := s.Reports.MicrodataFile(c.Context(), n, ask)
	if err != nil {
		return err
	}
	c.Set(fiber.HeaderContentType, files[service.PackageFile][1])
	if err := s.leavesAs(c, name); err != nil {
		return err
	}
	return s.sendFile(c, f)
}

func microdataAsk(c fiber.Ctx) (studyID uint64, ask service.MicrodataAsk, err error) {
	if studyID, err = id(c, "study"); err != nil {
		return studyID, ask, err
	}
	if ask.Questions, err = idsIn(c, "questions"); err != nil {
		return studyID, ask, err
	}
	if ask.Keys, err = idsIn(c, "keys"); err != nil {
		return studyID, ask, err
	}
	ask.Release = disclosure.Release{Least: int64(fiber.Query(c, "least", 0)), Bands: fiber.Query(c, "bands", 0)}
	return studyID, ask, nil
}

// idsIn reads a list of ids between commas.
func idsIn(c fiber.Ctx, name string) (out []uint64, err error) {
	text := c.Query(name)
	if text == "" {
		return nil, nil
	}
	for _, one := range strings.Split(text, ",") {
		n, err := strconv.ParseUint(one, 10, 63)
		if err != nil {
			return nil, &service.InvalidError{Code: "microdata.questions", Field: "/" + name}
		}
		out = append(out, n)
	}
	return out, nil
}
