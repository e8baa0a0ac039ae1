// Package people has the accounts: who may sign in and how, and the record of failed attempts. keeper.go creates and
// checks passwords and tokens.
package people

import (
	"context"
	"crypto/rand"
	"encoding/base32"
	"encoding/base64"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"sync"
	"time"
	"unicode/utf8"

	"github.com/alexedwards/argon2id"
	"golang.org/x/crypto/bcrypt"

	"hemble/service/db"
	"hemble/service/record"
	"hemble/wire"
)

// How long things last.
const (
	SessionLength = 14 * 24 * time.Hour
	LinkLength    = 7 * 24 * time.Hour
	MaxTokenDays  = 366
)

// Bounds of passwords, in bytes.
const (
	minPassword = 8
	maxPassword = 200
)

// A name or an address that was wrong this often in a row is locked out for a time. A try counts from its beginning;
// one that turns out to be right is taken back.
const (
	maxWrong     = 10
	maxWrongFrom = 100 // from one address: a school has one for many, who may all sign in at once
	lockTime     = 5 * time.Minute
)

// ErrWrong is for a login, a password or a link that is none.
var ErrWrong = errors.New("login or password is wrong")

// LockedError is for a login or an address that was wrong too often.
type LockedError struct{ Until time.Time }

func (e LockedError) Error() string {
	return "too many wrong tries; the next one counts from " + wire.Stamp(e.Until) + " on"
}

// cost is what a password costs to check: RFC 9106, section 4, with the memory that OWASP's password storage cheat
// sheet gives for servers.
var cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// Authenticator signs people in.
type Authenticator struct {
	store   *Store
	hashing chan struct{} // bounds the memory and the processors that passwords take
}

// NewAuthenticator makes a keeper over a store.
func NewAuthenticator(s *Store) *Authenticator {
	return &Authenticator{store: s, hashing: make(chan struct{}, 2)}
}

// Random gives n random bytes.
func Random(n int) []byte {
	b := make([]byte, n)
	_, _ = rand.Read(b)
	return b
}

// token gives a token that nobody guesses.
func token() string { return base64.RawURLEncoding.EncodeToString(Random(32)) }

// JoinCode gives a code that is read out and typed: eight letters and digits without those that look alike.
func JoinCode() string {
	const letters = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
	s := base32.NewEncoding(letters).WithPadding(base32.NoPadding).EncodeToString(Random(5))
	return s[:4] + "-" + s[4:]
}

// likeOthers are characters that no code has and that people read in the place of one that it may have.
var likeOthers = strings.NewReplacer("0", "Q", "O", "Q", "1", "L", "I", "L")

// ReadCode brings a code as somebody typed it into its one form: whatever its case, its dash, spaces, and letters that
// look alike.
func ReadCode(s string) string {
	s = strings.Map(func(r rune) rune {
		if r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' {
			return r
		}
		return -1
	}, strings.ToUpper(s))
	if s = likeOthers.Replace(s); len(s) != 8 {
		return s
	}
	return s[:4] + "-" + s[4:]
}

var loginForm = regexp.MustCompile(`^[a-z0-9][a-z0-9._@+-]{0,63}$`)

// Login brings a login into its one form.
func Login(s string) (string, error) {
	s = strings.ToLower(strings.TrimSpace(s))
	if !loginForm.MatchString(s) {
		return "", fmt.Errorf("a login is 1 to 64 letters, digits and . _ @ + -, beginning with a letter or a digit; %.40q is none", s)
	}
	return s, nil
}

// Name brings a person's name into form.
func Name(s string) (string, error) {
	s = strings.Join(strings.Fields(s), " ")
	if s == "" || utf8.RuneCountInString(s) > 120 || !utf8.ValidString(s) ||
		strings.ContainsFunc(s, func(r rune) bool {
			return r < ' ' || r == 0x7f || r == 0x2028 || r == 0x2029 ||
				r == 0x202e
		}) {
		return "", errors.New("a name has 1 to 120 characters")
	}
	return s, nil
}

// Hash hashes a password. Only that many are hashed at a time.
func (k *Authenticator) Hash(ctx context.Context, password string) (string, error) {
	if len(password) < minPassword || len(password) > maxPassword {
		return "", &db.Refusal{Code: "password", Text: fmt.Sprintf("a password has %d to %d bytes", minPassword,
			maxPassword)}
	}
	if err := k.begin(ctx); err != nil {
		return "", err
	}
	defer k.end()
	return argon2id.CreateHash(password, cost)
}

func (k *Authenticator) begin(ctx context.Context) error {
	select {
	case k.hashing <- struct{}{}:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

func (k *Authenticator) end() { <-k.hashing }

// absent is compared with where there is no password, so that both take as long.
var absent = sync.OnceValue(func() string {
	hash, _ := argon2id.CreateHash(token(), cost)
	return hash
})

// check reports whether a password is that of an account, and brings an old hash up to date.
func (k *Authenticator) check(ctx context.Context, a *record.Account, password string) (bool, error) {
	if err := k.begin(ctx); err != nil {
		return false, err
	}
	if len(password) > maxPassword {
		password = ""
	}
	hash := a.Password
	old := strings.HasPrefix(hash, "$2")
	var ok bool
	switch {
	case old:
		ok = bcrypt.CompareHashAndPassword([]byte(hash), []byte(password)) == nil
	case hash == "":
		_, _ = argon2id.ComparePasswordAndHash(password, absent())
	default:
		ok, _ = argon2id.ComparePasswordAndHash(password, hash)
	}
	k.end()
	if ok && old {
		if renewed, err := k.Hash(ctx, password); err == nil {
			if err := k.store.Rehash(ctx, a.ID, renewed); err != nil {
				return false, err
			}
		}
	}
	return ok, nil
}

// try counts a try to sign in before anything is computed, and refuses one too many.
func (k *Authenticator) try(ctx context.Context, key string, most int) error {
	until, err := k.store.Try(ctx, key, most, lockTime)
	if err == nil && !until.IsZero() {
		err = LockedError{until}
	}
	return err
}

// Client is what is noted of who signs in.
type Client struct{ Agent, Address string }

// SignIn checks a password and begins a session.
func (k *Authenticator) SignIn(ctx context.Context, login, password string, from Client) (*record.Account, string,
	time.Time,
	error) {
	login = strings.ToLower(strings.TrimSpace(login))
	if len(login) > 64 { // no account has it, and what is counted stays small
		login = login[:64]
	}
	byLogin, byAddress := "login "+login, "address "+from.Address
	if err := errors.Join(k.try(ctx, byAddress, maxWrongFrom), k.try(ctx, byLogin, maxWrong)); err != nil {
		return nil, "", time.Time{}, err
	}
	a, err := k.store.Account(ctx, login)
	if errors.Is(err, db.ErrNotFound) {
		a, err = &record.Account{}, nil
	}
	if err != nil {
		return nil, "", time.Time{}, err
	}
	ok, err := k.check(ctx, a, password)
	if err != nil {
		return nil, "", time.Time{}, err
	}
	if !ok || a.Disabled {
		return nil, "", time.Time{}, ErrWrong
	}
	if err := errors.Join(k.store.Right(ctx, byLogin, true), k.store.Right(ctx, byAddress, false)); err != nil {
		return nil, "", time.Time{}, err
	}
	token, expires, err := k.Begin(ctx, a, from)
	return a, token, expires, err
}

// Begin begins a session.
func (k *Authenticator) Begin(ctx context.Context, a *record.Account, from Client) (string, time.Time, error) {
	t, expires := token(), k.store.Now().Add(SessionLength)
	agent := from.Agent
	if len(agent) > 200 {
		agent = agent[:200]
	}
	_, err := k.store.AddSession(ctx, a.ID, t,
		record.Session{Kind: "session", Scope: wire.ScopeAll, Agent: strings.ToValidUTF8(agent, ""),
			Address: from.Address, Expires: expires})
	return t, expires, err
}

// Token makes a personal token.
func (k *Authenticator) Token(ctx context.Context, a *record.Account, in wire.NewToken) (*wire.Access, error) {
	name, err := Name(in.Name)
	switch {
	case err != nil:
		return nil, &db.Refusal{Code: "token", Text: "a token name of 1 to 120 characters is required"}
	case in.Scope != wire.ScopeRead && in.Scope != wire.ScopeSubmit && in.Scope != wire.ScopeAll:
		return nil, &db.Refusal{Code: "token", Text: fmt.Sprintf("expected the scope read, submit or all, got %q",
			in.Scope)}
	case in.Days < 1 || in.Days > MaxTokenDays:
		return nil, &db.Refusal{Code: "token", Text: fmt.Sprintf("expected 1 to %d days, got %d",
			MaxTokenDays, in.Days)}
	}
	t := token()
	out := &wire.Access{Kind: "token", Name: name, Scope: in.Scope, Token: t, Created: k.store.Now(),
		Expires: k.store.Now().AddDate(0, 0, in.Days)}
	out.ID, err = k.store.AddSession(ctx, a.ID, t, record.Session{Kind: out.Kind, Name: out.Name, Scope: out.Scope,
		Expires: out.Expires})
	return out, err
}

// ChangePassword changes one's own password; every other way in ends.
func (k *Authenticator) ChangePassword(ctx context.Context, a *record.Account, old, password string,
	session int64) error {
	if a.Password != "" {
		key := "login " + a.Login
		if err := k.try(ctx, key, maxWrong); err != nil {
			return err
		}
		ok, err := k.check(ctx, a, old)
		if err != nil {
			return err
		}
		if ok {
			err = k.store.Right(ctx, key, true)
		}
		if err != nil {
			return err
		}
		if !ok {
			return &db.Refusal{Code: "password", Text: "the old password is wrong"}
		}
	}
	hash, err := k.Hash(ctx, password)
	if err != nil {
		return err
	}
	return k.store.SetPassword(ctx, a.ID, hash, session)
}

// Link makes a link that signs somebody in once.
func (k *Authenticator) Link(ctx context.Context, by string, class int64, login string) (*wire.OneTime, error) {
	t, expires := token(), k.store.Now().Add(LinkLength)
	return &wire.OneTime{Login: login, Token: t, Path: "/link#" + t, Expires: expires},
		k.store.AddLink(ctx, by, class, login, t, expires)
}

const setupSetting = "setup-token-hash"

// SetUp gives the token of the set-up link where there is no account yet, "" else. It is a new one at each start: what
// was printed before is void.
func (k *Authenticator) SetUp(ctx context.Context) (string, error) {
	n, err := k.store.Accounts(ctx)
	if err != nil || n > 0 {
		return "", err
	}
	t := token()
	hash, err := argon2id.CreateHash(t, cost)
	if err != nil {
		return "", err
	}
	return t, k.store.Set(ctx, setupSetting, hash)
}

// First makes the first account, an admin, by the token of the set-up link.
func (k *Authenticator) First(ctx context.Context, token string, a record.Account, password string, from Client) error {
	if err := k.try(ctx, "set-up "+from.Address, maxWrong); err != nil {
		return err
	}
	hash, err := k.store.Setting(ctx, setupSetting)
	if err != nil {
		return err
	}
	if err := k.begin(ctx); err != nil {
		return err
	}
	ok, _ := argon2id.ComparePasswordAndHash(token, hash)
	k.end()
	if !ok {
		return &db.Refusal{Code: "set-up", Text: "this is not the set-up link of the running service; see its log"}
	}
	return k.first(ctx, a, password)
}

// FirstAccount makes the first account, an admin, where there is none yet.
func (k *Authenticator) FirstAccount(ctx context.Context, login, name, password string) error {
	if n, err := k.store.Accounts(ctx); err != nil || n > 0 {
		return err
	}
	return k.first(ctx, record.Account{Login: login, Name: name}, password)
}

func (k *Authenticator) first(ctx context.Context, a record.Account, password string) (err error) {
	if a.Login, err = Login(a.Login); err != nil {
		return &db.Refusal{Code: "login", Text: err.Error()}
	}
	if a.Name, err = Name(a.Name); err != nil {
		return &db.Refusal{Code: "name", Text: err.Error()}
	}
	if a.Password, err = k.Hash(ctx, password); err != nil {
		return err
	}
	a.Role = wire.Admin
	made, err := k.store.AddFirst(ctx, a)
	if err == nil && !made {
		err = &db.Refusal{Code: "set-up", Text: "the service is set up already"}
	}
	return err
}
