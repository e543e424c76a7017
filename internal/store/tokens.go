package store

import (
	"context"
	"time"

	"widetally/core/people"
)

type tokenRow struct {
	Hash      string `gorm:"primaryKey"`
	AccountID uint64
	Name      string
	Scope     people.TokenScope
	StudyID   uint64
	CreatedAt time.Time
	ExpiresAt time.Time
	SeenAt    *time.Time
}

func (tokenRow) TableName() string { return "tokens" }

func (r tokenRow) token() people.Token {
	return people.Token{Hash: r.Hash, Account: r.AccountID, Name: r.Name, Scope: r.Scope, Study: r.StudyID, CreatedAt: r.CreatedAt, ExpiresAt: r.ExpiresAt, SeenAt: r.SeenAt}
}

// AddToken keeps one.
func (s *Store) AddToken(ctx context.Context, t people.Token) error {
	return translate(s.with(ctx).Create(&tokenRow{t.Hash, t.Account, t.Name, t.Scope, t.Study, t.CreatedAt.UTC(), t.ExpiresAt.UTC(), nil}).Error)
}

// Token finds one by its hash.
func (s *Store) Token(ctx context.Context, hash string) (people.Token, error) {
	var r tokenRow
	err := s.with(ctx).Take(&r, "hash = ?", hash).Error
	return r.token(), translate(err)
}

// Tokens are those of an account, the newest first.
func (s *Store) Tokens(ctx context.Context, account uint64) (out []people.Token, err error) {
	var rows []tokenRow
	err = s.with(ctx).Order("created_at DESC, hash").Find(&rows, "account_id = ?", account).Error
	for _, r := range rows {
		out = append(out, r.token())
	}
	return out, translate(err)
}

// SeeToken notes when a token was used last.
func (s *Store) SeeToken(ctx context.Context, hash string, at time.Time) error {
	return translate(s.with(ctx).Model(&tokenRow{}).Where("hash = ?", hash).Update("seen_at", at.UTC()).Error)
}

// EndToken ends one of an account.
func (s *Store) EndToken(ctx context.Context, account uint64, hash string) error {
	return translate(s.with(ctx).Delete(&tokenRow{}, "account_id = ? AND hash = ?", account, hash).Error)
}
