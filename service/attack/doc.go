// Package attack does to a service, the real binary on loopback, what somebody does who means it harm: hostile names,
// archives and programs, callers that never finish, guesses in parallel, work that never ends, one person's crowd. Each
// attack is bounded in number and time, and says what must hold. `make test` does a little of each; `make attack` all
// of it.
package attack
