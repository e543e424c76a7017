package store

import (
	"context"
	"errors"
	"time"

	driver "github.com/go-sql-driver/mysql"
	"gorm.io/gorm"

	"widetally/core/people"
	"widetally/core/study"
)

type accountRow struct {
	ID            uint64
	Email         string
	Name          string
	Password      string // its argon2id hash
	Administrator bool
	CreatedAt     time.Time
	DisabledAt    *time.Time
}

func (accountRow) TableName() string { return "accounts" }

func (r accountRow) account() people.Account {
	return people.Account{ID: r.ID, Email: r.Email, Name: r.Name, Administrator: r.Administrator, CreatedAt: r.CreatedAt, DisabledAt: r.DisabledAt}
}

// duplicate is the server's number for a row that is there already.
const duplicate = 1062

// AddAccount keeps an account with the hash of its password; study.ErrStale where the email has one already.
func (s *Store) AddAccount(ctx context.Context, a people.Account, password string) (people.Account, error) {
	r := accountRow{Email: a.Email, Name: a.Name, Password: password, Administrator: a.Administrator, CreatedAt: now()}
	err := s.with(ctx).Create(&r).Error
	var said *driver.MySQLError
	if errors.As(err, &said) && said.Number == duplicate {
		return a, study.ErrStale
	}
	return r.account(), translate(err)
}

// Accounts lists them by name.
func (s *Store) Accounts(ctx context.Context) (out []people.Account, err error) {
	var rows []accountRow
	err = s.with(ctx).Order("name, id").Find(&rows).Error
	for _, r := range rows {
		out = append(out, r.account())
	}
	return out, translate(err)
}

// Account finds one; study.ErrNotFound where there is none.
func (s *Store) Account(ctx context.Context, id uint64) (people.Account, error) {
	var r accountRow
	err := s.with(ctx).Take(&r, id).Error
	return r.account(), translate(err)
}

// AccountByEmail finds one with the hash of its password.
func (s *Store) AccountByEmail(ctx context.Context, email string) (people.Account, string, error) {
	var r accountRow
	err := s.with(ctx).Where("email = ?", email).Take(&r).Error
	return r.account(), r.Password, translate(err)
}

// SetAccountDisabled closes an account, whose sessions end, or opens it again.
func (s *Store) SetAccountDisabled(ctx context.Context, id uint64, disabled bool) error {
	return s.InTx(ctx, func(ctx context.Context) error {
		var at any
		if disabled {
			at = now()
			if err := s.with(ctx).Delete(&sessionRow{}, "account_id = ?", id).Error; err != nil {
				return translate(err)
			}
		}
		return edited(s.with(ctx).Model(&accountRow{}).Where("id = ?", id).Update("disabled_at", at))
	})
}

// SetPassword keeps another hash, and ends every session of the account.
func (s *Store) SetPassword(ctx context.Context, id uint64, password string) error {
	return s.InTx(ctx, func(ctx context.Context) error {
		if err := s.with(ctx).Delete(&sessionRow{}, "account_id = ?", id).Error; err != nil {
			return translate(err)
		}
		return edited(s.with(ctx).Model(&accountRow{}).Where("id = ?", id).Update("password", password))
	})
}

type sessionRow struct {
	Hash      string `gorm:"primaryKey"`
	AccountID uint64
	CreatedAt time.Time
	SeenAt    time.Time
	ExpiresAt time.Time
	Agent     string
	Address   string
}

func (sessionRow) TableName() string { return "sessions" }

func (r sessionRow) session() people.Session {
	return people.Session{Hash: r.Hash, Account: r.AccountID, CreatedAt: r.CreatedAt, SeenAt: r.SeenAt, ExpiresAt: r.ExpiresAt, Agent: r.Agent, Address: r.Address}
}

// AddSession keeps one, and drops those of everybody that have ended.
func (s *Store) AddSession(ctx context.Context, of people.Session) error {
	return s.InTx(ctx, func(ctx context.Context) error {
		t := now()
		if err := s.with(ctx).Delete(&sessionRow{}, "expires_at < ? OR seen_at < ?", t, t.Add(-people.IdleTime)).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Create(&sessionRow{of.Hash, of.Account, of.CreatedAt.UTC(), of.SeenAt.UTC(), of.ExpiresAt.UTC(), of.Agent, of.Address}).Error)
	})
}

// Session finds one by its hash.
func (s *Store) Session(ctx context.Context, hash string) (people.Session, error) {
	var r sessionRow
	err := s.with(ctx).Take(&r, "hash = ?", hash).Error
	return r.session(), translate(err)
}

// Sessions are those of an account, the one used last first.
func (s *Store) Sessions(ctx context.Context, account uint64) (out []people.Session, err error) {
	var rows []sessionRow
	err = s.with(ctx).Order("seen_at DESC").Find(&rows, "account_id = ?", account).Error
	for _, r := range rows {
		out = append(out, r.session())
	}
	return out, translate(err)
}

// SeeSession notes when a session was used last.
func (s *Store) SeeSession(ctx context.Context, hash string, at time.Time) error {
	return translate(s.with(ctx).Model(&sessionRow{}).Where("hash = ?", hash).Update("seen_at", at.UTC()).Error)
}

// EndSession ends one of an account; hash is its own.
func (s *Store) EndSession(ctx context.Context, account uint64, hash string) error {
	return translate(s.with(ctx).Delete(&sessionRow{}, "account_id = ? AND hash = ?", account, hash).Error)
}

type invitationRow struct {
	Hash      string `gorm:"primaryKey"`
	Email     string
	Name      string
	InvitedBy uint64
	ExpiresAt time.Time
	UsedAt    *time.Time
}

func (invitationRow) TableName() string { return "invitations" }

// Invite keeps an invitation by the hash of its token; an earlier one of the same person ends.
func (s *Store) Invite(ctx context.Context, hash string, a people.Account, by uint64, until time.Time) error {
	return s.InTx(ctx, func(ctx context.Context) error {
		if err := s.with(ctx).Delete(&invitationRow{}, "email = ? AND used_at IS NULL", a.Email).Error; err != nil {
			return translate(err)
		}
		return translate(s.with(ctx).Create(&invitationRow{hash, a.Email, a.Name, by, until.UTC(), nil}).Error)
	})
}

// Invited is whom an invitation that holds still is for; study.ErrNotFound for any other.
func (s *Store) Invited(ctx context.Context, hash string) (people.Account, error) {
	var r invitationRow
	err := s.with(ctx).Take(&r, "hash = ? AND used_at IS NULL AND expires_at > ?", hash, now()).Error
	return people.Account{Email: r.Email, Name: r.Name}, translate(err)
}

// UseInvitation takes an invitation, which serves once; study.ErrNotFound where it was taken meanwhile.
func (s *Store) UseInvitation(ctx context.Context, hash string) error {
	done := s.with(ctx).Model(&invitationRow{}).Where("hash = ? AND used_at IS NULL AND expires_at > ?", hash, now()).Update("used_at", now())
	if done.Error == nil && done.RowsAffected == 0 {
		return study.ErrNotFound
	}
	return translate(done.Error)
}

type failureRow struct {
	What     string `gorm:"primaryKey"`
	Failures int
	LastAt   time.Time
}

func (failureRow) TableName() string { return "failed_sign_ins" }

// SignInFailures tells how often signing in failed for a thing, such as an address, lately and when last.
func (s *Store) SignInFailures(ctx context.Context, what string) (n int, last time.Time, err error) {
	var r failureRow
	err = s.with(ctx).Take(&r, "what = ?", what).Error
	if errors.Is(err, gorm.ErrRecordNotFound) {
		return 0, time.Time{}, nil
	}
	return r.Failures, r.LastAt, translate(err)
}

// NoteSignIn counts a failure for a thing, or forgets them all after a success.
func (s *Store) NoteSignIn(ctx context.Context, what string, failed bool) error {
	if !failed {
		return translate(s.with(ctx).Delete(&failureRow{}, "what = ?", what).Error)
	}
	return translate(s.with(ctx).Exec(`INSERT INTO failed_sign_ins (what, failures, last_at) VALUES (?, 1, ?)
		ON DUPLICATE KEY UPDATE failures = failures + 1, last_at = VALUES(last_at)`, what, now()).Error)
}

type identityRow struct {
	ID        string `gorm:"primaryKey"`
	AccountID uint64
	Issuer    string
	Subject   string
	CreatedAt time.Time
}

func (identityRow) TableName() string { return "identities" }

// AccountByIdentity finds whose an identity is, by its hash; study.ErrNotFound where nobody's.
func (s *Store) AccountByIdentity(ctx context.Context, hash string) (people.Account, error) {
	var r identityRow
	if err := s.with(ctx).Take(&r, "id = ?", hash).Error; err != nil {
		return people.Account{}, translate(err)
	}
	return s.Account(ctx, r.AccountID)
}

// AddIdentity notes that an identity is an account's; a subject of one institution is of one account.
func (s *Store) AddIdentity(ctx context.Context, hash string, account uint64, of people.Identity) error {
	return translate(s.with(ctx).Create(&identityRow{hash, account, of.Issuer, of.Subject, now()}).Error)
}

// InvitedByEmail is whom an invitation of an email that holds still is for, and its hash.
func (s *Store) InvitedByEmail(ctx context.Context, email string) (people.Account, string, error) {
	var r invitationRow
	err := s.with(ctx).Take(&r, "email = ? AND used_at IS NULL AND expires_at > ?", email, now()).Error
	return people.Account{Email: r.Email, Name: r.Name}, r.Hash, translate(err)
}
