package store

import (
	"context"

	"gorm.io/gorm/clause"

	"widetally/core/people"
	"widetally/core/study"
)

// sharedIn are the tables in which it stands who may do what with a thing.
type sharedIn struct{ things, members, key string }

func sharedTables(t people.Thing) sharedIn {
	if t == people.Set {
		return sharedIn{"share_sets", "set_members", "set_id"}
	}
	return sharedIn{"studies", "members", "study_id"}
}

// RoleIn is the role that an account has in a thing, the widest of its own, those of its groups and that of everybody; owned says
// whether anybody whose account is open owns it.
func (s *Store) RoleIn(ctx context.Context, of people.Shared, account uint64) (role people.Role, owned bool, err error) {
	in := sharedTables(of.Thing)
	var roles []people.Role
	err = s.with(ctx).Raw(`SELECT everybody FROM `+in.things+` WHERE id = ? UNION ALL
		SELECT role FROM `+in.members+` WHERE `+in.key+` = ? AND account_id = ? UNION ALL
		SELECT r.role FROM group_roles r JOIN group_members m ON m.group_id = r.group_id WHERE r.thing = ? AND r.thing_id = ? AND m.account_id = ?`,
		of.ID, of.ID, account, of.Thing, of.ID, account).Scan(&roles).Error
	for _, r := range roles {
		role = people.Wider(role, r)
	}
	if err == nil && role != people.Owner {
		var owners int64
		err = s.with(ctx).Table(in.members+" m").Joins("JOIN accounts a ON a.id = m.account_id").Where("m."+in.key+" = ? AND m.role = ? AND a.disabled_at IS NULL", of.ID, people.Owner).Count(&owners).Error
		return role, owners > 0, translate(err)
	}
	return role, err == nil, translate(err)
}

// Members lists who has a role in a thing: people, groups, and everybody who signs in.
func (s *Store) Members(ctx context.Context, of people.Shared) (out []people.Member, groups []people.GroupRole, everybody people.Role, err error) {
	in := sharedTables(of.Thing)
	var rows []struct {
		Account accountRow `gorm:"embedded"`
		Role    people.Role
	}
	err = s.with(ctx).Table(in.members+" m").Select("a.*, m.role").Joins("JOIN accounts a ON a.id = m.account_id").Where("m."+in.key+" = ?", of.ID).Order("a.name, a.id").Scan(&rows).Error
	if err == nil {
		err = s.with(ctx).Table("group_roles r").Select("g.id AS `group`, g.name, r.role").Joins("JOIN account_groups g ON g.id = r.group_id").Where("r.thing = ? AND r.thing_id = ?", of.Thing, of.ID).Order("g.name").Scan(&groups).Error
	}
	if err == nil {
		err = s.with(ctx).Table(in.things).Select("everybody").Where("id = ?", of.ID).Scan(&everybody).Error
	}
	for _, r := range rows {
		out = append(out, people.Member{Account: r.Account.account(), Role: r.Role})
	}
	return out, groups, everybody, translate(err)
}

// SetMember gives somebody a role in a thing, or takes it where the role is that of nobody.
func (s *Store) SetMember(ctx context.Context, of people.Shared, account uint64, role people.Role) error {
	in := sharedTables(of.Thing)
	if role == people.Nobody {
		if of.Thing == people.Study {
			if err := s.with(ctx).Delete(&presenceRow{}, "study_id = ? AND account_id = ?", of.ID, account).Error; err != nil {
				return translate(err)
			}
		}
		return translate(s.with(ctx).Exec("DELETE FROM "+in.members+" WHERE "+in.key+" = ? AND account_id = ?", of.ID, account).Error)
	}
	return translate(s.with(ctx).Exec("INSERT INTO "+in.members+" ("+in.key+", account_id, role) VALUES (?, ?, ?) ON DUPLICATE KEY UPDATE role = VALUES(role)", of.ID, account, role).Error)
}

// SetEverybody gives a role in a thing to everybody who signs in.
func (s *Store) SetEverybody(ctx context.Context, of people.Shared, role people.Role) error {
	return translate(s.with(ctx).Table(sharedTables(of.Thing).things).Where("id = ?", of.ID).UpdateColumn("everybody", role).Error)
}

type groupRoleRow struct {
	Thing   people.Thing `gorm:"primaryKey"`
	ThingID uint64       `gorm:"primaryKey;autoIncrement:false"`
	GroupID uint64       `gorm:"primaryKey;autoIncrement:false"`
	Role    people.Role
}

func (groupRoleRow) TableName() string { return "group_roles" }

// SetGroupRole gives a group a role in a thing, or takes it where the role is that of nobody.
func (s *Store) SetGroupRole(ctx context.Context, of people.Shared, group uint64, role people.Role) error {
	if role == people.Nobody {
		return translate(s.with(ctx).Delete(&groupRoleRow{}, "thing = ? AND thing_id = ? AND group_id = ?", of.Thing, of.ID, group).Error)
	}
	return translate(s.with(ctx).Clauses(clause.OnConflict{UpdateAll: true}).Create(&groupRoleRow{of.Thing, of.ID, group, role}).Error)
}

type groupRow struct {
	ID   uint64
	Name string
}

func (groupRow) TableName() string { return "account_groups" }

// Groups lists them with their members, by name.
func (s *Store) Groups(ctx context.Context) (out []people.Group, err error) {
	var rows []groupRow
	if err := s.with(ctx).Order("name, id").Find(&rows).Error; err != nil {
		return nil, translate(err)
	}
	var in []struct {
		Account accountRow `gorm:"embedded"`
		GroupID uint64
	}
	err = s.with(ctx).Table("group_members m").Select("a.*, m.group_id").Joins("JOIN accounts a ON a.id = m.account_id").Order("a.name, a.id").Scan(&in).Error
	for _, r := range rows {
		g := people.Group{ID: r.ID, Name: r.Name}
		for _, m := range in {
			if m.GroupID == r.ID {
				g.Members = append(g.Members, m.Account.account())
			}
		}
		out = append(out, g)
	}
	return out, translate(err)
}

// PutGroup keeps a group, a new one where it has no id, with these accounts in it; study.ErrNotFound where there is none.
func (s *Store) PutGroup(ctx context.Context, g people.Group) (id uint64, err error) {
	err = s.within(ctx, func(ctx context.Context) error {
		row := groupRow{g.ID, g.Name}
		if g.ID == 0 {
			if err := s.with(ctx).Create(&row).Error; err != nil {
				return translate(err)
			}
		} else {
			var there groupRow
			if err := s.with(ctx).Clauses(clause.Locking{Strength: "UPDATE"}).Take(&there, g.ID).Error; err != nil {
				return translate(err)
			}
			if err := s.with(ctx).Model(&there).Update("name", g.Name).Error; err != nil {
				return translate(err)
			}
		}
		id = row.ID
		if err := s.with(ctx).Exec("DELETE FROM group_members WHERE group_id = ?", id).Error; err != nil {
			return translate(err)
		}
		for _, a := range g.Members {
			if err := s.with(ctx).Exec("INSERT INTO group_members (group_id, account_id) VALUES (?, ?)", id, a.ID).Error; err != nil {
				return translate(err)
			}
		}
		return nil
	})
	return id, err
}

// DeleteGroup takes a group away, with its roles.
func (s *Store) DeleteGroup(ctx context.Context, id uint64) error {
	gone := s.with(ctx).Delete(&groupRow{}, id)
	if gone.Error == nil && gone.RowsAffected == 0 {
		return study.ErrNotFound
	}
	return translate(gone.Error)
}
