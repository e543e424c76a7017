package httpapi

import (
	"strings"

	"github.com/gofiber/fiber/v3"

	"widetally/core/analysis"
	"widetally/core/design"
	"widetally/core/document"
	"widetally/internal/service"
)

func (s *server) designRoutes(r fiber.Router) {
	r.Get("/studies/:study/design", s.to((*server).getDesign))
	r.Put("/studies/:study/design", s.to((*server).putDesign))
}

// designBody is how the respondents were drawn, its questions by their ids.
type designBody struct {
	Weight    *uint64          `json:"weight"`
	Strata    []uint64         `json:"strata"`
	Cluster   *uint64          `json:"cluster"`
	Fraction  string           `json:"fraction"`
	SinglePSU design.SinglePSU `json:"singlePsu"`
	// Population is the question that tells how many there are in each stratum.
	Population *uint64 `json:"population"`
	// Replicates are the questions of replicate weights, Method, Fay, Factors and DF how they are used.
	Replicates []uint64               `json:"replicates"`
	Method     design.ReplicateMethod `json:"method"`
	Fay        string                 `json:"fay"`
	Factors    string                 `json:"factors"`
	DF         int                    `json:"df"`
	// Off counts respondents all the same.
	Off bool `json:"off"`
}

// designDTO is the design with what is said of it.
type designDTO struct {
	designBody
	// Stated says that there is one.
	Stated bool `json:"stated"`
	// Said tells it in sentences, Head in few words for the head of every page.
	Said []string `json:"said"`
	Head string   `json:"head"`
	// Weights are the questions that can weight, Parts those that can be strata or clusters, Numbers those
	// that can tell how many there are in a stratum, Sets those of replicate weights. Proposed is what
	// they look like, where no design is stated.
	Weights  []uint64          `json:"weights"`
	Parts    []uint64          `json:"parts"`
	Numbers  []uint64          `json:"numbers"`
	Sets     []replicateSetDTO `json:"sets"`
	Proposed proposedDTO       `json:"proposed"`
	// Problem is what keeps it from being used; null for nothing.
	Problem *string `json:"problem"`
}

// replicateSetDTO is questions of replicate weights, by what their names begin with.
type replicateSetDTO struct {
	Name      string   `json:"name"`
	Questions []uint64 `json:"questions"`
}

// proposedDTO is a design that the questions look like.
type proposedDTO struct {
	Weight     *uint64  `json:"weight"`
	Strata     []uint64 `json:"strata"`
	Cluster    *uint64  `json:"cluster"`
	Replicates []uint64 `json:"replicates"`
}

func idOrNone(id uint64) *uint64 {
	if id == 0 {
		return nil
	}
	return &id
}

func (s *server) toDesign(v service.DesignView) designDTO {
	out := designDTO{
		designBody: designBody{
			Strata: []uint64{}, Fraction: v.Drawn.Fraction, SinglePSU: v.Drawn.SinglePSU, Off: v.Off, Replicates: []uint64{},
			Method: v.Drawn.Method, Fay: v.Drawn.Fay, Factors: v.Drawn.Factors, DF: v.Drawn.DF,
		},
		Said: []string{}, Weights: append([]uint64{}, v.Weights...), Parts: append([]uint64{}, v.Parts...),
		Numbers: append([]uint64{}, v.Numbers...), Sets: []replicateSetDTO{},
		Proposed: proposedDTO{
			Weight: idOrNone(v.Proposed.Weight), Strata: append([]uint64{}, v.Proposed.Strata...),
			Cluster: idOrNone(v.Proposed.Cluster), Replicates: append([]uint64{}, v.Proposed.Replicates...),
		},
	}
	for _, set := range v.Sets {
		out.Sets = append(out.Sets, replicateSetDTO(set))
	}
	if out.SinglePSU == "" {
		out.SinglePSU = design.RefuseSingle
	}
	of := func(key analysis.Key) *uint64 {
		id, ok := service.IDOf(key)
		if !ok {
			return nil
		}
		return &id
	}
	out.Weight, out.Cluster, out.Population = of(v.Drawn.Weight), of(v.Drawn.Cluster), of(v.Drawn.Population)
	for _, key := range v.Drawn.Strata {
		if id := of(key); id != nil {
			out.Strata = append(out.Strata, *id)
		}
	}
	for _, key := range v.Drawn.Replicates {
		if id := of(key); id != nil {
			out.Replicates = append(out.Replicates, *id)
		}
	}
	out.Stated = len(v.Drawn.Questions()) > 0
	for _, m := range v.Said {
		out.Said = append(out.Said, s.say(m))
	}
	if v.Problem != nil {
		said := s.say(document.Say("problem."+v.Problem.Code, v.Problem.Values))
		out.Problem = &said
	}
	id := "design_head.estimates"
	if v.Off {
		id = "design_head.respondents"
	}
	out.Head = s.words.Text(id, map[string]string{"how": strings.Join(out.Said, " ")})
	return out
}

func (s *server) getDesign(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	return s.sendDesign(c, n)
}

func (s *server) sendDesign(c fiber.Ctx, n uint64) error {
	v, err := s.Codebooks.Design(c.Context(), n)
	if err != nil {
		return err
	}
	return c.JSON(s.toDesign(v))
}

// putDesign says how the respondents were drawn, and whether figures estimate the population by that.
func (s *server) putDesign(c fiber.Ctx) error {
	n, err := id(c, "study")
	if err != nil {
		return err
	}
	var in designBody
	if err := s.decode(c, &in); err != nil {
		return err
	}
	to := service.Design{Off: in.Off, Drawn: analysis.Drawn{Fraction: strings.TrimSpace(in.Fraction), SinglePSU: in.SinglePSU}}
	key := func(id *uint64) analysis.Key {
		if id == nil {
			return ""
		}
		return service.KeyOf(*id)
	}
	to.Drawn.Weight, to.Drawn.Cluster, to.Drawn.Population = key(in.Weight), key(in.Cluster), key(in.Population)
	for _, id := range in.Strata {
		to.Drawn.Strata = append(to.Drawn.Strata, service.KeyOf(id))
	}
	for _, id := range in.Replicates {
		to.Drawn.Replicates = append(to.Drawn.Replicates, service.KeyOf(id))
	}
	if len(in.Replicates) > 0 {
		to.Drawn.Method, to.Drawn.DF = in.Method, in.DF
		to.Drawn.Fay, to.Drawn.Factors = strings.TrimSpace(in.Fay), strings.TrimSpace(in.Factors)
	}
	if len(to.Drawn.Questions()) == 0 {
		to = service.Design{}
	}
	if err := s.Codebooks.SetDesign(c.Context(), n, to); err != nil {
		return err
	}
	return s.sendDesign(c, n)
}
