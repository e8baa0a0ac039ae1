// Package attack attacks a service, the real binary on loopback, as a malicious user would: hostile names, archives
// and programs, callers that never finish, parallel password guesses, work that never ends, one person's flood. Each
// attack is bounded in number and time, and states what must hold. `make test` does a little of each; `make attack`
// all of it.
package attack
