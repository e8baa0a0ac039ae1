package wire

import "time"

// Role is what somebody may do: of an account in the service, of a member in a class.
type Role string

// The roles. An admin runs the service; an account that is neither admin nor instructor is what its classes make it.
const (
	Admin      Role = "admin"
	Instructor Role = "instructor"
	Assistant  Role = "assistant"
	Student    Role = "student"
	Person     Role = "person"
)

// SetUp is how far a service is: Needed before its first account is made.
type SetUp struct {
	Needed bool `json:"needed"`
}

// First makes the first account, with the token of the set-up link.
type First struct {
	Token    string `json:"token"`
	Login    string `json:"login"`
	Name     string `json:"name"`
	Password string `json:"password"`
}

// SignIn asks for a session.
type SignIn struct {
	Login    string `json:"login"`
	Password string `json:"password"`
}

// Link uses a one-time link. A password given with it becomes the account's.
type Link struct {
	Token    string `json:"token"`
	Password string `json:"password,omitempty"`
}

// Join enters a class by its code. Somebody who is not signed in gives the account that is to be made, too.
type Join struct {
	Code     string `json:"code"`
	Login    string `json:"login,omitempty"`
	Name     string `json:"name,omitempty"`
	Password string `json:"password,omitempty"`
}

// Session is who is signed in. Token is given once, at sign-in.
type Session struct {
	Login   string     `json:"login"`
	Name    string     `json:"name"`
	Role    Role       `json:"role"`
	Token   string     `json:"token,omitempty"`
	Expires *time.Time `json:"expires,omitempty"`
	Classes []Class    `json:"classes,omitempty"`
}

// Password changes one's own. Old is empty where there was none.
type Password struct {
	Old string `json:"old"`
	New string `json:"new"`
}

// Access is one way in: a browser's session, or a personal token.
type Access struct {
	ID      int64      `json:"id"`
	Kind    string     `json:"kind"` // session or token
	Name    string     `json:"name"` // of a token
	Scope   Scope      `json:"scope"`
	Agent   string     `json:"agent"`
	Address string     `json:"address"`
	Created time.Time  `json:"created"`
	Seen    *time.Time `json:"seen,omitempty"`
	Expires time.Time  `json:"expires"`
	This    bool       `json:"this,omitempty"`  // the one that asks
	Token   string     `json:"token,omitempty"` // once, when it is made
}

// Scope is what a personal token is good for.
type Scope string

// The scopes: reading, reading and submitting, everything but the account's own security.
const (
	ScopeRead   Scope = "read"
	ScopeSubmit Scope = "submit"
	ScopeAll    Scope = "all"
)

// NewToken asks for a personal token.
type NewToken struct {
	Name  string `json:"name"`
	Scope Scope  `json:"scope"`
	Days  int    `json:"days" jsonschema:"description=days until it expires (at most 366)"`
}

// Account is somebody who can sign in.
type Account struct {
	Login    string    `json:"login"`
	Name     string    `json:"name"`
	Role     Role      `json:"role"`
	Disabled bool      `json:"disabled"`
	Created  time.Time `json:"created"`
}

// SetAccount makes or changes an account.
type SetAccount struct {
	Name     string `json:"name"`
	Role     Role   `json:"role"`
	Disabled bool   `json:"disabled"`
}

// OneTime is a link that signs in once. It is shown once.
type OneTime struct {
	Login   string    `json:"login"`
	Token   string    `json:"token"`
	Path    string    `json:"path"` // in the console
	Expires time.Time `json:"expires"`
}

// MakeLinks asks for links of all students of a class who have not signed in yet. Those who have a link already keep
// it, but for those that are named: theirs is replaced.
type MakeLinks struct {
	Replace []string `json:"replace"`
}

// Links are links of several students.
type Links struct {
	Links []StudentLink `json:"links"`
	Kept  []Member      `json:"kept"` // who have one already, which nobody can see any more
}

// StudentLink is a student's link.
type StudentLink struct {
	OneTime
	Name  string `json:"name"`
	Group string `json:"group"`
}
