package record

import (
	"time"

	"hemble/wire"
)

// Class is a class as somebody sees it.
type Class struct {
	ID        int64     `db:"id"`
	Name      string    `db:"name"`
	Title     string    `db:"title"`
	Archived  bool      `db:"archived"`
	Role      wire.Role `db:"role"` // of who asks
	JoinCode  string    `db:"join_code"`
	Students  int       `db:"students"`
	Exercises int       `db:"exercises"`
	Waiting   int       `db:"waiting"` // submissions
	Created   time.Time `db:"created"`
}

// Wire is what the API says of it, without what its role in it may not see.
func (c *Class) Wire() wire.Class {
	out := wire.Class{Name: c.Name, Title: c.Title, Archived: c.Archived, Role: c.Role, Created: c.Created}
	if c.Role == wire.Instructor {
		out.JoinCode = c.JoinCode
	}
	if c.Role != wire.Student {
		out.Students, out.Exercises, out.Waiting = c.Students, c.Exercises, c.Waiting
	}
	return out
}

// Member is somebody of a class.
type Member struct {
	AccountID int64     `db:"account_id"`
	Login     string    `db:"login"`
	Name      string    `db:"name"`
	Role      wire.Role `db:"role"`
	Group     string    `db:"group"`
	Number    string    `db:"number"` // at the school
	SignedIn  bool      `db:"signed_in"`
	Created   time.Time `db:"created"`
}

// Wire is what the API says of them.
func (m *Member) Wire() wire.Member {
	return wire.Member{Login: m.Login, Name: m.Name, Role: m.Role, Group: m.Group, Number: m.Number,
		SignedIn: m.SignedIn, Created: m.Created}
}

// WireMembers is what the API says of several.
func WireMembers(all []Member) []wire.Member {
	out := []wire.Member{}
	for i := range all {
		out = append(out, all[i].Wire())
	}
	return out
}
