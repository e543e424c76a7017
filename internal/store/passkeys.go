package store

import (
	"context"
	"time"

	"widetally/core/people"
	"widetally/core/study"
)

type passkeyRow struct {
	ID         string `gorm:"primaryKey"`
	AccountID  uint64
	Name       string
	Credential string
	CreatedAt  time.Time
	SeenAt     *time.Time
}

func (passkeyRow) TableName() string { return "passkeys" }

func (r passkeyRow) passkey() people.Passkey {
	return people.Passkey{ID: r.ID, Account: r.AccountID, Name: r.Name, Credential: r.Credential, CreatedAt: r.CreatedAt, SeenAt: r.SeenAt}
}

// AddPasskey keeps one.
func (s *Store) AddPasskey(ctx context.Context, k people.Passkey) error {
	return translate(s.with(ctx).Create(&passkeyRow{k.ID, k.Account, k.Name, k.Credential, now(), nil}).Error)
}

// Passkeys are those of an account, the oldest first.
func (s *Store) Passkeys(ctx context.Context, account uint64) (out []people.Passkey, err error) {
	var rows []passkeyRow
	err = s.with(ctx).Order("created_at, id").Find(&rows, "account_id = ?", account).Error
	for _, r := range rows {
		out = append(out, r.passkey())
	}
	return out, translate(err)
}

// UsePasskey notes that one was used, and what it counts now.
func (s *Store) UsePasskey(ctx context.Context, id, credential string) error {
	return translate(s.with(ctx).Model(&passkeyRow{}).Where("id = ?", id).Updates(map[string]any{"credential": credential, "seen_at": now()}).Error)
}

// EndPasskey takes one of an account away.
func (s *Store) EndPasskey(ctx context.Context, account uint64, id string) error {
	return translate(s.with(ctx).Delete(&passkeyRow{}, "account_id = ? AND id = ?", account, id).Error)
}

// mostChallenges bounds those that wait for an answer: anybody may ask for one.
const mostChallenges = 10_000

type challengeRow struct {
	Hash      string `gorm:"primaryKey"`
	Data      string
	ExpiresAt time.Time
}

func (challengeRow) TableName() string { return "challenges" }

// AddChallenge keeps what has to be answered, until a time; those that were not go.
func (s *Store) AddChallenge(ctx context.Context, hash, data string, until time.Time) error {
	if err := s.with(ctx).Delete(&challengeRow{}, "expires_at < ?", now()).Error; err != nil {
		return translate(err)
	}
	var open int64
	if err := s.with(ctx).Model(&challengeRow{}).Count(&open).Error; err != nil {
		return translate(err)
	}
	if open >= mostChallenges { // whoever asks for more than can be answered
		return study.ErrBusy
	}
	return translate(s.with(ctx).Create(&challengeRow{hash, data, until.UTC()}).Error)
}

// TakeChallenge gives what has to be answered, once; study.ErrNotFound afterwards, or when it is too late.
func (s *Store) TakeChallenge(ctx context.Context, hash string) (data string, err error) {
	err = s.within(ctx, func(ctx context.Context) error {
		var r challengeRow
		if err := s.with(ctx).Take(&r, "hash = ? AND expires_at > ?", hash, now()).Error; err != nil {
			return translate(err)
		}
		data = r.Data
		gone := s.with(ctx).Delete(&challengeRow{}, "hash = ?", hash)
		if gone.Error == nil && gone.RowsAffected == 0 {
			return study.ErrNotFound // somebody was quicker
		}
		return translate(gone.Error)
	})
	return data, err
}
