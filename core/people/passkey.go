package people

import "time"

// Passkey is a key that a device keeps for somebody, who unlocks it there.
type Passkey struct {
	// ID is that of the key, in base64 for addresses.
	ID      string
	Account uint64
	Name    string
	// Credential is what a later answer is held against, as JSON: the public key, and how often it was used.
	Credential string
	CreatedAt  time.Time
	SeenAt     *time.Time // nil before it was used
}

// MostPasskeys bounds those of an account.
const MostPasskeys = 20
