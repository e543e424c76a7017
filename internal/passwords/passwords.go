// Package passwords says what a password has to be, and keeps it as a hash.
package passwords

import (
	"fmt"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"github.com/trustelem/zxcvbn"
)

const (
	leastLetters = 12
	mostLetters  = 128
	leastScore   = 3 // of zxcvbn's 0 … 4: safely unguessable
)

// Fault is what is wrong with a password; the texts are under problem.password.
type Fault string

// The faults.
const (
	Short  Fault = "short"
	Long   Fault = "long"
	Common Fault = "common"
)

// Check says what is wrong with a password of somebody of whom these words are known; "" for nothing. How
// easily it is guessed, common ones first, is estimated as Wheeler (2016, zxcvbn: low-budget password strength
// estimation) does.
func Check(password string, about ...string) Fault {
	n := utf8.RuneCountInString(password)
	switch {
	case n < leastLetters:
		return Short
	case n > mostLetters:
		return Long
	case zxcvbn.PasswordStrength(password, append(about, "wide", "tally", "widetally")).Score < leastScore:
		return Common
	}
	return ""
}

// hashing is how passwords are kept: argon2id with 64 MB in one pass (RFC 9106 asks for as much or more).
var hashing = &argon2id.Params{Memory: 64 << 10, Iterations: 1, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// Hash is what is kept of a password.
func Hash(password string) (string, error) {
	hash, err := argon2id.CreateHash(password, hashing)
	if err != nil {
		return "", fmt.Errorf("passwords: %w", err)
	}
	return hash, nil
}

// Same says whether a password is that of a hash.
func Same(password, hash string) (bool, error) {
	same, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return false, fmt.Errorf("passwords: %w", err)
	}
	return same, nil
}
