package service

import (
	"context"
	"slices"
	"strings"

	"widetally/core/document"
	"widetally/core/people"
	"widetally/core/study"
)

// letIn says whether who signed in may do something with a study: by the role there, and an administrator what
// an owner may with what nobody owns. Where nobody signs in everybody may do everything.
func (s *People) letIn(ctx context.Context, who study.Actor, studyID uint64, to study.Access) error {
	if who.Account == 0 {
		return nil
	}
	if !who.Token.Lets(studyID, to) {
		return study.ErrNotAllowed
	}
	if who.Via == study.ViaLink {
		return nil // the scope is that of the link
	}
	return s.hasRole(ctx, who, people.Shared{Thing: people.Study, ID: studyID}, to)
}

// letInSet says the same of a set of the shelf. A script that serves one study sees sets and changes none.
func (s *People) letInSet(ctx context.Context, id uint64, to study.Access) error {
	who := study.ActorOf(ctx)
	if who.Account == 0 {
		return nil
	}
	if who.Token != nil && !slices.Contains(who.Token.May, to) || who.Token != nil && who.Token.Study > 0 && to != study.ToSee {
		return study.ErrNotAllowed
	}
	return s.hasRole(ctx, who, people.Shared{Thing: people.Set, ID: id}, to)
}

func (s *People) hasRole(ctx context.Context, who study.Actor, of people.Shared, to study.Access) error {
	role, owned, err := s.store.RoleIn(ctx, of, who.Account)
	if err != nil {
		return err
	}
	if who.Administrator && !owned {
		role = people.Owner
	}
	if !role.May(to) {
		return study.ErrNotAllowed
	}
	return nil
}

// mayUse refuses whoever has no access of this kind to a thing.
func (s *People) mayUse(ctx context.Context, of people.Shared, to study.Access) error {
	if of.Thing == people.Set {
		return s.letInSet(ctx, of.ID, to)
	}
	return s.may(ctx, of.ID, to)
}

// Members lists who may do what with a thing, for whoever sees it.
func (s *People) Members(ctx context.Context, of people.Shared) (list []people.Member, groups []people.GroupRole, everybody people.Role, err error) {
	if err := s.mayUse(ctx, of, study.ToSee); err != nil {
		return nil, nil, "", err
	}
	return s.store.Members(ctx, of)
}

// May refuses whoever has no access of a kind to a study.
func (s *People) May(ctx context.Context, studyID uint64, to study.Access) error {
	return s.may(ctx, studyID, to)
}

// Owns says whether who asks may share a thing and delete it.
func (s *People) Owns(ctx context.Context, of people.Shared) bool {
	return s.mayUse(ctx, of, study.ToOwn) == nil
}

// With is whom a thing is shared with: somebody, by their email; a group; or, where neither is given, everybody who signs in.
type With struct {
	Email string
	Group uint64
}

// Share gives a role in a thing; the role of nobody takes it away. A thing keeps an owner, and people alone own.
func (s *People) Share(ctx context.Context, of people.Shared, with With, role people.Role) error {
	if role != people.Nobody && !role.May(study.ToSee) || with.Email == "" && role.May(study.ToOwn) {
		return invalid("people.role", "/role", nil)
	}
	// Before it is told whether there is an account.
	if err := s.mayUse(ctx, of, study.ToOwn); err != nil {
		return err
	}
	var a people.Account
	var err error
	if with.Email != "" {
		if a, err = s.find(ctx, with.Email); err != nil {
			return err
		}
	}
	return s.holding(ctx, of, func(ctx context.Context) error {
		switch {
		case with.Email != "":
			return s.shareWith(ctx, of, a, role)
		case with.Group > 0:
			g, err := s.group(ctx, with.Group)
			if err != nil {
				return err
			}
			if err := s.store.SetGroupRole(ctx, of, with.Group, role); err != nil {
				return err
			}
			return s.noteShared(ctx, of, document.Text(g.Name), role)
		}
		if err := s.store.SetEverybody(ctx, of, role); err != nil {
			return err
		}
		return s.noteShared(ctx, of, document.Term("ui.people.everybody"), role)
	})
}

func (s *People) shareWith(ctx context.Context, of people.Shared, a people.Account, role people.Role) error {
	if err := s.store.SetMember(ctx, of, a.ID, role); err != nil {
		return err
	}
	_, owned, err := s.store.RoleIn(ctx, of, a.ID)
	if err == nil && !owned {
		err = invalid("people.last_owner", "/role", nil)
	}
	if err != nil {
		return err
	}
	return s.noteShared(ctx, of, document.Text(a.Name), role)
}

// holding runs f in a transaction that holds a thing.
func (s *People) holding(ctx context.Context, of people.Shared, f func(ctx context.Context) error) error {
	if of.Thing == people.Set {
		return s.store.InTx(ctx, f)
	}
	return s.changing(ctx, of.ID, study.ToOwn, func(ctx context.Context, _ study.Study) error { return f(ctx) })
}

// noteShared writes into the trail of a study, or into that of the accounts for a set.
func (s *People) noteShared(ctx context.Context, of people.Shared, whom document.Value, role people.Role) error {
	if role == people.Nobody {
		role = "none"
	}
	values := document.Values{"name": whom, "role": document.Term("ui.people.roles." + string(role))}
	if of.Thing == people.Study {
		return s.base.store.Note(ctx, of.ID, document.Say("trail.shared", values))
	}
	values["n"] = document.N(int64(of.ID))
	return s.base.store.Note(ctx, 0, document.Say("trail.account.set_shared", values))
}

// Groups lists the groups with their members, for everybody who signs in.
func (s *People) Groups(ctx context.Context) ([]people.Group, error) { return s.store.Groups(ctx) }

func (s *People) group(ctx context.Context, id uint64) (people.Group, error) {
	all, err := s.store.Groups(ctx)
	if err != nil {
		return people.Group{}, err
	}
	at := slices.IndexFunc(all, func(g people.Group) bool { return g.ID == id })
	if at < 0 {
		return people.Group{}, study.ErrNotFound
	}
	return all[at], nil
}

// PutGroup keeps a group with the people of these emails, a new one where id is 0. Only who keeps the accounts does.
func (s *People) PutGroup(ctx context.Context, id uint64, name string, emails []string) error {
	if who := study.ActorOf(ctx); who.Account > 0 && !who.Administrator {
		return study.ErrNotAllowed
	}
	name, err := plain(name, "/name", maxName, true)
	if err != nil {
		return err
	}
	all, err := s.store.Groups(ctx)
	if err != nil {
		return err
	}
	if id == 0 && len(all) >= people.MostGroups {
		return invalid("people.many_groups", "", nil)
	}
	if slices.ContainsFunc(all, func(g people.Group) bool { return g.ID != id && strings.EqualFold(g.Name, name) }) {
		return invalid("people.group_taken", "/name", nil)
	}
	g := people.Group{ID: id, Name: name}
	for _, email := range emails {
		a, err := s.find(ctx, email)
		if err != nil {
			return err
		}
		if !slices.ContainsFunc(g.Members, func(b people.Account) bool { return b.ID == a.ID }) {
			g.Members = append(g.Members, a)
		}
	}
	return s.store.InTx(ctx, func(ctx context.Context) error {
		if _, err := s.store.PutGroup(ctx, g); err != nil {
			return err
		}
		return s.base.store.Note(ctx, 0, document.Say("trail.account.group", document.Values{"name": document.Text(g.Name), "n": document.N(int64(len(g.Members)))}))
	})
}

// DeleteGroup takes a group away; its people lose what they may by it alone.
func (s *People) DeleteGroup(ctx context.Context, id uint64) error {
	if who := study.ActorOf(ctx); who.Account > 0 && !who.Administrator {
		return study.ErrNotAllowed
	}
	g, err := s.group(ctx, id)
	if err != nil {
		return err
	}
	return s.store.InTx(ctx, func(ctx context.Context) error {
		if err := s.store.DeleteGroup(ctx, id); err != nil {
			return err
		}
		return s.base.store.Note(ctx, 0, document.Say("trail.account.group_deleted", document.Values{"name": document.Text(g.Name)}))
	})
}
