package record

import (
	"time"

	"hemble/wire"
)

// Account is somebody who can sign in.
type Account struct {
	ID       int64     `db:"id"`
	Login    string    `db:"login"`
	Name     string    `db:"name"`
	Role     wire.Role `db:"role"`
	Password string    `db:"password"` // hashed; "" where there is none yet
	Disabled bool      `db:"disabled"`
	Created  time.Time `db:"created"`
	Home     int64     `db:"home"` // the class that it was made in; 0 for none
}

// Wire is what the API says of it.
func (a *Account) Wire() wire.Account {
	return wire.Account{Login: a.Login, Name: a.Name, Role: a.Role, Disabled: a.Disabled, Created: a.Created}
}

// Session is a way in: a session of a browser or a personal token.
type Session struct {
	ID        int64      `db:"id"`
	AccountID int64      `db:"account_id"`
	Kind      string     `db:"kind"` // session or token
	Name      string     `db:"name"` // of a token
	Scope     wire.Scope `db:"scope"`
	Agent     string     `db:"agent"`
	Address   string     `db:"address"`
	Created   time.Time  `db:"created"`
	Seen      *time.Time `db:"seen"`
	Expires   time.Time  `db:"expires"`

	Account Account `db:"-"` // whose it is
}

// Wire is what the API says of it.
func (s *Session) Wire() wire.Access {
	return wire.Access{ID: s.ID, Kind: s.Kind, Name: s.Name, Scope: s.Scope, Agent: s.Agent, Address: s.Address,
		Created: s.Created, Seen: s.Seen, Expires: s.Expires}
}
