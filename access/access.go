// Package access guards a bench that is reached from other computers: one shop
// password, signed-in browsers, and attempts that are slowed down.
//
// It knows the store and nothing of HTTP.
package access

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"golang.org/x/crypto/argon2"

	"nowthen/store"
)

// Cost of a guess: argon2id with 64 MiB, three passes, two lanes (RFC 9106).
const (
	argonMemory = 64 << 10 // KiB
	argonPasses = 3
	argonLanes  = 2
	saltBytes   = 16
	keyBytes    = 32
)

// MinPassword is how many characters a shop password has at least.
const MinPassword = 10

// Lives of a signed-in browser.
const (
	longest = 30 * 24 * time.Hour
	idle    = 7 * 24 * time.Hour
	noting  = time.Minute // how often it is noted that one was seen
)

// passwordSetting is where the hash lies.
const passwordSetting = "password"

// Errors of signing in.
var (
	ErrWrong   = errors.New("that is not the shop's password")
	ErrNoneSet = errors.New("there is no shop password yet")
	ErrShort   = fmt.Errorf("a shop password has at least %d characters", MinPassword)
)

// SlowError says that there were too many attempts and how long to wait.
type SlowError struct{ Wait time.Duration }

func (e SlowError) Error() string {
	return fmt.Sprintf("too many attempts; wait %d s", int(e.Wait.Seconds()+0.999))
}

// Guard holds the password and the sessions of a shop.
type Guard struct {
	store *store.Store
	slow  limiter
	now   func() time.Time

	mu   sync.Mutex
	seen map[string]time.Time // hashed tokens that were good lately
}

// New returns the guard of a store.
func New(s *store.Store) *Guard {
	return &Guard{store: s, now: time.Now, seen: map[string]time.Time{}, slow: limiter{failed: map[string]attempts{}}}
}

// Set tells whether there is a shop password.
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
	salt := make([]byte, saltBytes)
	_, _ = rand.Read(salt) // never fails (crypto/rand)
	key := argon2.IDKey([]byte(password), salt, argonPasses, argonMemory, argonLanes, keyBytes)
	b64 := base64.RawStdEncoding.EncodeToString
	hash := fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$%s$%s", argon2.Version, argonMemory, argonPasses, argonLanes, b64(salt), b64(key))
	if err := g.store.SaveSetting(ctx, passwordSetting, hash); err != nil {
		return err
	}
	return g.EndAll(ctx)
}

// check compares a password with a hash in the usual notation.
func check(password, hash string) (bool, error) {
	var version, memory, passes uint32
	var lanes uint8
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false, errors.New("the stored password is in no notation that is known here")
	}
	if _, err := fmt.Sscanf(parts[2]+" "+parts[3], "v=%d m=%d,t=%d,p=%d", &version, &memory, &passes, &lanes); err != nil {
		return false, fmt.Errorf("the stored password: %w", err)
	}
	salt, err := base64.RawStdEncoding.DecodeString(parts[4])
	if err != nil {
		return false, fmt.Errorf("the stored password: %w", err)
	}
	want, err := base64.RawStdEncoding.DecodeString(parts[5])
	if err != nil {
		return false, fmt.Errorf("the stored password: %w", err)
	}
	got := argon2.IDKey([]byte(password), salt, passes, memory, lanes, uint32(len(want)))
	return subtle.ConstantTimeCompare(got, want) == 1, nil
}

// Verify tells whether a password is the shop's; attempts are slowed by address
// and by the one account there is.
func (g *Guard) Verify(ctx context.Context, password, address string) error {
	hash, err := g.store.Setting(ctx, passwordSetting)
	if errors.Is(err, store.ErrNotFound) {
		return ErrNoneSet
	}
	if err != nil {
		return err
	}
	if err := g.slow.begin(address, g.now()); err != nil {
		return err
	}
	good, err := check(password, hash)
	if err != nil {
		return err
	}
	if !good {
		return ErrWrong
	}
	g.slow.forget(address)
	return nil
}

// SignIn returns the token of a new session.
func (g *Guard) SignIn(ctx context.Context, password, address string) (token string, err error) {
	if err := g.Verify(ctx, password, address); err != nil {
		return "", err
	}
	raw := make([]byte, 32)
	_, _ = rand.Read(raw) // never fails (crypto/rand)
	token = base64.RawURLEncoding.EncodeToString(raw)
	now := g.now()
	return token, g.store.SaveSession(ctx, store.Session{Token: hashed(token), Since: now, Seen: now})
}

// hashed is what the store keeps of a token: who reads the database cannot sign in.
func hashed(token string) string {
	sum := sha256.Sum256([]byte(token))
	return hex.EncodeToString(sum[:])
}

// SignedIn tells whether a token is that of a session that still lives.
func (g *Guard) SignedIn(ctx context.Context, token string) (bool, error) {
	if token == "" {
		return false, nil
	}
	id, now := hashed(token), g.now()
	g.mu.Lock()
	at, ok := g.seen[id]
	g.mu.Unlock()
	if ok && now.Sub(at) < noting {
		return true, nil
	}
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
	s.Seen = now
	if err := g.store.SaveSession(ctx, *s); err != nil {
		return false, err
	}
	g.mu.Lock()
	g.seen[id] = now
	g.mu.Unlock()
	return true, nil
}

// End ends a session.
func (g *Guard) End(ctx context.Context, token string) error {
	if token == "" {
		return nil
	}
	id := hashed(token)
	g.mu.Lock()
	delete(g.seen, id)
	g.mu.Unlock()
	return g.store.EndSession(ctx, id)
}

// EndAll ends all sessions, on every device.
func (g *Guard) EndAll(ctx context.Context) error {
	g.mu.Lock()
	clear(g.seen)
	g.mu.Unlock()
	return g.store.EndSession(ctx, "")
}
