package demo

import (
	"context"
	"fmt"

	"widetally/core/people"
	"widetally/core/study"
	"widetally/internal/service"
)

// TeamPassword is that of everybody in the demo's team.
const TeamPassword = "marsh lantern nine herons"

// Institution is what they call the one by which they sign in.
const Institution = "Fernmouth College (simulated)"

// Team are the people of the demo with what each may do with its study; the first one keeps the accounts.
var Team = []struct {
	Name, Email string
	Role        people.Role
}{
	{"Maren Holt", "maren@fernmouth.example", people.Owner},
	{"Tobin Reed", "tobin@fernmouth.example", people.Editor},
	{"Sela Quay", "sela@fernmouth.example", people.Analyst},
	{"Odd Ferrier", "odd@fernmouth.example", people.Reader},
}

// LoadTeam makes the accounts of the team and its study, and shares it, where nobody has an account yet.
func LoadTeam(ctx context.Context, s *service.Places, mark string) error {
	known, err := s.People.Known(ctx)
	if err != nil || known {
		return err
	}
	for i, one := range Team {
		a, err := s.People.AddAccount(ctx, one.Email, one.Name, TeamPassword, i == 0)
		if err != nil {
			return fmt.Errorf("demo: %w", err)
		}
		if i == 0 {
			who := a.Actor()
			who.Via = study.ViaTerminal
			ctx = study.WithActor(ctx, who)
		}
	}
	if err := Load(ctx, s, mark); err != nil {
		return err
	}
	list, err := s.Studies.List(ctx)
	if err != nil {
		return err
	}
	for _, st := range list {
		for _, one := range Team {
			if err := s.People.Share(ctx, people.Shared{Thing: people.Study, ID: st.ID}, service.With{Email: one.Email}, one.Role); err != nil {
				return fmt.Errorf("demo: %w", err)
			}
		}
	}
	sets, err := s.Shares.ShareSets(ctx)
	if err != nil {
		return err
	}
	for _, set := range sets {
		if err := s.People.Share(ctx, people.Shared{Thing: people.Set, ID: set.ID}, service.With{}, people.Reader); err != nil {
			return fmt.Errorf("demo: %w", err)
		}
	}
	return nil
}
