package client

import (
	"context"
	"io"
	"net/http"
	"strconv"

	"hemble/wire"
)

func number(n int64) string { return strconv.FormatInt(n, 10) }

// begin makes a call that begins a session, and keeps its token.
func (c *Client) begin(ctx context.Context, path string, in any) (*wire.Session, error) {
	s, err := call[wire.Session](ctx, c, http.MethodPost, path, in)
	if err != nil {
		return nil, err
	}
	if s.Token != "" {
		c.Token = s.Token
	}
	return &s, nil
}

// SetUp reports whether the service has no account yet.
func (c *Client) SetUp(ctx context.Context) (wire.SetUp, error) {
	return call[wire.SetUp](ctx, c, http.MethodGet, "/setup", nil)
}

// First makes the first account and begins its session.
func (c *Client) First(ctx context.Context, in wire.First) (*wire.Session, error) {
	return c.begin(ctx, "/setup", in)
}

// SignIn begins a session and keeps its token.
func (c *Client) SignIn(ctx context.Context, login, password string) (*wire.Session, error) {
	return c.begin(ctx, "/session", wire.SignIn{Login: login, Password: password})
}

// UseLink begins a session by a one-time link; a password given with it becomes the account's.
func (c *Client) UseLink(ctx context.Context, token, password string) (*wire.Session, error) {
	return c.begin(ctx, "/link", wire.Link{Token: token, Password: password})
}

// Join enters a class by its code.
func (c *Client) Join(ctx context.Context, in wire.Join) (*wire.Session, error) {
	return c.begin(ctx, "/join", in)
}

// Session tells who is signed in.
func (c *Client) Session(ctx context.Context) (*wire.Session, error) {
	s, err := call[wire.Session](ctx, c, http.MethodGet, "/session", nil)
	return &s, err
}

// SignOut ends the session.
func (c *Client) SignOut(ctx context.Context) error {
	return c.do(ctx, http.MethodDelete, "/session", nil)
}

// SetPassword changes one's password.
func (c *Client) SetPassword(ctx context.Context, old, password string) error {
	return c.do(ctx, http.MethodPut, "/account/password", wire.Password{Old: old, New: password})
}

// Sessions lists one's sessions.
func (c *Client) Sessions(ctx context.Context) ([]wire.Access, error) {
	return call[[]wire.Access](ctx, c, http.MethodGet, "/account/sessions", nil)
}

// SignOutEverywhere ends all of one's sessions.
func (c *Client) SignOutEverywhere(ctx context.Context) error {
	return c.do(ctx, http.MethodDelete, "/account/sessions", nil)
}

// EndSession ends one of one's sessions.
func (c *Client) EndSession(ctx context.Context, id int64) error {
	return c.do(ctx, http.MethodDelete, path("account", "sessions", number(id)), nil)
}

// Tokens lists one's personal tokens.
func (c *Client) Tokens(ctx context.Context) ([]wire.Access, error) {
	return call[[]wire.Access](ctx, c, http.MethodGet, "/account/tokens", nil)
}

// NewToken makes a personal token.
func (c *Client) NewToken(ctx context.Context, in wire.NewToken) (wire.Access, error) {
	return call[wire.Access](ctx, c, http.MethodPost, "/account/tokens", in)
}

// Accounts lists all accounts.
func (c *Client) Accounts(ctx context.Context) ([]wire.Account, error) {
	return call[[]wire.Account](ctx, c, http.MethodGet, "/accounts", nil)
}

// SetAccount makes or changes an account.
func (c *Client) SetAccount(ctx context.Context, login string, in wire.SetAccount) error {
	return c.do(ctx, http.MethodPut, path("accounts", login), in)
}

// AccountLink makes a link that signs an account in once.
func (c *Client) AccountLink(ctx context.Context, login string) (wire.OneTime, error) {
	return call[wire.OneTime](ctx, c, http.MethodPost, path("accounts", login, "link"), nil)
}

// Audit gives a page of what changed marks and rights: of a class, or ("") of all.
func (c *Client) Audit(ctx context.Context, class, after string) (wire.Page[wire.AuditEntry], error) {
	address := "/audit"
	if class != "" {
		address = path("classes", class, "audit")
	}
	return call[wire.Page[wire.AuditEntry]](ctx, c, http.MethodGet, query(address, "after", after), nil)
}

// Retry queues a job again that was quarantined.
func (c *Client) Retry(ctx context.Context, job int64) error {
	return c.do(ctx, http.MethodPost, path("queue", number(job)), nil)
}

// Backup writes a copy of everything.
func (c *Client) Backup(ctx context.Context, w io.Writer) error { return c.copyTo(ctx, w, "/backup") }
