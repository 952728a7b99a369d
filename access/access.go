// Package access protects a bench that other computers can reach: one shop password, signed-in
// browsers, and a limit on attempts.
//
// It knows the store and nothing of HTTP.
package access

import (
	"context"
	"errors"
	"fmt"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"

	"nowthen/access/slow"
	"nowthen/access/token"
	"nowthen/store"
)

// cost of one guess: argon2id with 64 MiB, three passes, two lanes (RFC 9106).
var cost = &argon2id.Params{Memory: 64 << 10, Iterations: 3, Parallelism: 2, SaltLength: 16, KeyLength: 32}

// hashing is how many passwords are hashed at once: each takes 64 MiB for a moment.
const hashing = 2

// MinPassword is how many characters a shop password has at least.
const MinPassword = 10

// How long a browser stays signed in.
const (
	longest = 30 * 24 * time.Hour
	idle    = 7 * 24 * time.Hour
	noting  = time.Minute // how often it is noted that one was seen
)

// passwordSetting is the name of the setting that holds the hash.
const passwordSetting = "password"

// Errors of signing in.
var (
	ErrWrong   = errors.New("that is not the shop's password")
	ErrNoneSet = errors.New("there is no shop password yet")
	ErrShort   = fmt.Errorf("a shop password has at least %d characters", MinPassword)
)

// Store is what a guard needs of a store.
type Store interface {
	Write(ctx context.Context, c *store.Command, do func(tx *store.Tx) error) error
	Setting(ctx context.Context, name string) (string, error)
	SaveSetting(ctx context.Context, name, body string) error
	AddSession(ctx context.Context, v store.Session) error
	SeeSession(ctx context.Context, token string, at time.Time) error
	Session(ctx context.Context, token string) (*store.Session, error)
	EndSession(ctx context.Context, token string) error
}

// Guard holds the password and the sessions of a shop.
type Guard struct {
	store Store
	slow  slow.Limiter
	now   func() time.Time

	mu   sync.Mutex
	hash string // of the password, as it was when somebody tried last

	hashing chan struct{}
}

// New returns the guard of a store.
func New(s Store) *Guard {
	return &Guard{store: s, now: time.Now, hashing: make(chan struct{}, hashing)}
}

// Set reports whether there is a shop password.
func (g *Guard) Set(ctx context.Context) (bool, error) {
	_, err := g.store.Setting(ctx, passwordSetting)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	return err == nil, err
}

// SetPassword sets the shop password and ends all sessions.
func (g *Guard) SetPassword(ctx context.Context, password string) error {
	if utf8.RuneCountInString(password) < MinPassword || len(password) > 1024 {
		return ErrShort
	}
	hash, err := argon2id.CreateHash(password, cost)
	if err != nil {
		return err
	}
	return g.store.Write(ctx, nil, func(tx *store.Tx) error {
		if err := tx.SaveSetting(ctx, passwordSetting, hash); err != nil {
			return err
		}
		return tx.EndSession(ctx, "")
	})
}

// Verify reports whether a password is the shop's. A client is slowed by its own wrong attempts; other clients'
// attempts never lock it out.
func (g *Guard) Verify(ctx context.Context, password string, from slow.Client) error {
	hash, err := g.store.Setting(ctx, passwordSetting)
	if errors.Is(err, store.ErrNotFound) {
		return ErrNoneSet
	}
	if err != nil {
		return err
	}
	g.changed(hash)
	if err := g.slow.Begin(from, g.now()); err != nil {
		return err
	}
	select {
	case g.hashing <- struct{}{}:
		defer func() { <-g.hashing }()
	case <-ctx.Done():
		return ctx.Err()
	}
	good, err := argon2id.ComparePasswordAndHash(password, hash)
	if err != nil {
		return fmt.Errorf("the stored password: %w", err)
	}
	if !good {
		return ErrWrong
	}
	g.slow.Forget(from)
	return nil
}

// changed forgets all attempts if the password has changed since the last one: it was set again on the bench's
// own computer, perhaps by another program.
func (g *Guard) changed(hash string) {
	g.mu.Lock()
	defer g.mu.Unlock()
	if g.hash != "" && g.hash != hash {
		g.slow.Reset()
	}
	g.hash = hash
}

// SignIn returns the token of a new session.
func (g *Guard) SignIn(ctx context.Context, password string, from slow.Client) (secret string, err error) {
	if err := g.Verify(ctx, password, from); err != nil {
		return "", err
	}
	const bytes = 32
	secret, now := token.New(bytes), g.now()
	return secret, g.store.AddSession(ctx, store.Session{Token: token.Hash(secret), Since: now, Seen: now})
}

// SignedIn reports whether a token belongs to a session that hasn't expired.
func (g *Guard) SignedIn(ctx context.Context, secret string) (bool, error) {
	if secret == "" {
		return false, nil
	}
	id, now := token.Hash(secret), g.now()
	s, err := g.store.Session(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	if now.Sub(s.Since) > longest || now.Sub(s.Seen) > idle {
		return false, g.store.EndSession(ctx, id)
	}
	if now.Sub(s.Seen) >= noting {
		return true, g.store.SeeSession(ctx, id, now)
	}
	return true, nil
}

// End ends a session.
func (g *Guard) End(ctx context.Context, secret string) error {
	if secret == "" {
		return nil
	}
	return g.store.EndSession(ctx, token.Hash(secret))
}

// EndAll ends all sessions, on every device.
func (g *Guard) EndAll(ctx context.Context) error { return g.store.EndSession(ctx, "") }
