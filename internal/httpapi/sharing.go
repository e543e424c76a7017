package httpapi

import (
	"github.com/gofiber/fiber/v3"

	"widetally/core/people"
	"widetally/internal/service"
)

func (s *server) sharingRoutes(r fiber.Router) {
	r.Get("/studies/:study/members", s.to((*server).getMembers))
	r.Put("/studies/:study/members", s.to((*server).share))
	r.Get("/shares/:set/members", s.to((*server).getMembers))
	r.Put("/shares/:set/members", s.to((*server).share))
	r.Get("/groups", s.to((*server).listGroups))
	r.Post("/groups", s.to((*server).putGroup))
	r.Put("/groups/:group", s.to((*server).putGroup))
	r.Delete("/groups/:group", s.to((*server).deleteGroup))
}

type memberDTO struct {
	Email string      `json:"email"`
	Name  string      `json:"name"`
	Role  people.Role `json:"role"`
}

type groupRoleDTO struct {
	Group uint64      `json:"group"`
	Name  string      `json:"name"`
	Role  people.Role `json:"role"`
}

type membersDTO struct {
	Members []memberDTO    `json:"members"`
	Groups  []groupRoleDTO `json:"groups"`
	// Everybody is the role of everybody who signs in; "" for none.
	Everybody people.Role `json:"everybody"`
	// Owns says that who asks may change this.
	Owns  bool          `json:"owns"`
	Roles []people.Role `json:"roles"`
}

// sharedOf is the thing that an address names.
func sharedOf(c fiber.Ctx) (of people.Shared, err error) {
	of.Thing = people.Study
	if c.Params("set") != "" {
		of.Thing = people.Set
	}
	of.ID, err = id(c, string(of.Thing))
	return of, err
}

func (s *server) getMembers(c fiber.Ctx) error {
	of, err := sharedOf(c)
	if err != nil {
		return err
	}
	return s.sendMembers(c, of)
}

func (s *server) sendMembers(c fiber.Ctx, of people.Shared) error {
	list, groups, everybody, err := s.People.Members(c.Context(), of)
	if err != nil {
		return err
	}
	out := membersDTO{Members: []memberDTO{}, Groups: []groupRoleDTO{}, Everybody: everybody, Roles: people.Roles, Owns: s.People.Owns(c.Context(), of)}
	for _, m := range list {
		out.Members = append(out.Members, memberDTO{m.Account.Email, m.Account.Name, m.Role})
	}
	for _, g := range groups {
		out.Groups = append(out.Groups, groupRoleDTO(g))
	}
	return c.JSON(out)
}

func (s *server) share(c fiber.Ctx) error {
	of, err := sharedOf(c)
	if err != nil {
		return err
	}
	var body struct {
		// Email is that of whom, Group a group; without either it is everybody who signs in.
		Email string      `json:"email"`
		Group uint64      `json:"group"`
		Role  people.Role `json:"role"`
	}
	if err := s.decode(c, &body); err != nil {
		return err
	}
	if err := s.People.Share(c.Context(), of, service.With{Email: body.Email, Group: body.Group}, body.Role); err != nil {
		return err
	}
	return s.sendMembers(c, of)
}

type accountGroupDTO struct {
	ID      uint64        `json:"id"`
	Name    string        `json:"name"`
	Members []*accountDTO `json:"members"`
}

func (s *server) listGroups(c fiber.Ctx) error {
	all, err := s.People.Groups(c.Context())
	if err != nil {
		return err
	}
	out := struct {
		Groups []accountGroupDTO `json:"groups"`
	}{[]accountGroupDTO{}}
	for _, g := range all {
		one := accountGroupDTO{g.ID, g.Name, []*accountDTO{}}
		for _, a := range g.Members {
			one.Members = append(one.Members, toAccount(a))
		}
		out.Groups = append(out.Groups, one)
	}
	return c.JSON(out)
}

// putGroup keeps a group: a new one where the address names none.
func (s *server) putGroup(c fiber.Ctx) error {
	var n uint64
	var err error
	if c.Params("group") != "" {
		if n, err = id(c, "group"); err != nil {
			return err
		}
	}
	var in struct {
		Name   string   `json:"name"`
		Emails []string `json:"emails"`
	}
	if err := s.decode(c, &in); err != nil {
		return err
	}
	if err := s.People.PutGroup(c.Context(), n, in.Name, in.Emails); err != nil {
		return err
	}
	return s.listGroups(c)
}

func (s *server) deleteGroup(c fiber.Ctx) error {
	n, err := id(c, "group")
	if err != nil {
		return err
	}
	if err := s.People.DeleteGroup(c.Context(), n); err != nil {
		return err
	}
	return s.listGroups(c)
}
