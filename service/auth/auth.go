// Package auth makes passwords and tokens, and checks them.
package auth

import (
	"context"
	"crypto/rand"
	"encoding/base64"
	"errors"
	"strings"
	"sync"
	"time"

	"golang.org/x/crypto/bcrypt"
	"golang.org/x/time/rate"

	"hemble/service/store"
)

// Roles.
const Instructor = "instructor"

// SessionLength is how long a sign-in lasts.
const SessionLength = 14 * 24 * time.Hour

// Errors of signing in.
var (
	ErrWrong = errors.New("name or password is wrong")
	ErrOften = errors.New("too many tries with this name; wait a minute")
)

// Keeper signs people in.
type Keeper struct {
	store *store.Store
	mu    sync.Mutex
	tries map[string]*rate.Limiter
}

// NewKeeper makes a keeper over a store.
func NewKeeper(s *store.Store) *Keeper { return &Keeper{store: s, tries: map[string]*rate.Limiter{}} }

// random gives n random bytes as text.
func random(n int) string {
	b := make([]byte, n)
	_, _ = rand.Read(b)
	return base64.RawURLEncoding.EncodeToString(b)
}

// FirstAccount makes the instructor's account where there is no account yet, and gives its password:
// the wanted one, or a random one. It gives "" where there are accounts.
func (k *Keeper) FirstAccount(ctx context.Context, name, password string) (string, error) {
	n, err := k.store.Accounts(ctx)
	if err != nil || n > 0 {
		return "", err
	}
	if password == "" {
		password = strings.ToLower(strings.NewReplacer("-", "x", "_", "y").Replace(random(12)))
	}
	hash, err := bcrypt.GenerateFromPassword([]byte(password), bcrypt.DefaultCost)
	if err != nil {
		return "", err
	}
	return password, k.store.AddAccount(ctx, name, Instructor, string(hash))
}

// absent is compared with where no account has the name, so that both take as long.
var absent = sync.OnceValue(func() []byte {
	hash, _ := bcrypt.GenerateFromPassword([]byte("absent"), bcrypt.DefaultCost)
	return hash
})

// SignIn checks a password and begins a session.
func (k *Keeper) SignIn(ctx context.Context, name, password string) (*store.Account, string, time.Time, error) {
	if !k.limiter(name).Allow() {
		return nil, "", time.Time{}, ErrOften
	}
	a, err := k.store.Account(ctx, name)
	if errors.Is(err, store.ErrNotFound) {
		_ = bcrypt.CompareHashAndPassword(absent(), []byte(password))
		return nil, "", time.Time{}, ErrWrong
	}
	if err != nil {
		return nil, "", time.Time{}, err
	}
	if bcrypt.CompareHashAndPassword([]byte(a.Password), []byte(password)) != nil {
		return nil, "", time.Time{}, ErrWrong
	}
	token, expires := random(32), time.Now().Add(SessionLength)
	return a, token, expires, k.store.AddSession(ctx, a.ID, token, expires)
}

// limiter allows ten tries at once for a name, then one every six seconds.
func (k *Keeper) limiter(name string) *rate.Limiter {
	k.mu.Lock()
	defer k.mu.Unlock()
	if len(k.tries) > 10_000 { // names nobody has; forgetting them all is better than keeping them all
		clear(k.tries)
	}
	if k.tries[name] == nil {
		k.tries[name] = rate.NewLimiter(rate.Every(6*time.Second), 10)
	}
	return k.tries[name]
}
