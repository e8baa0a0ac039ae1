// Package web is what every HTTP call of the service shares: the route's declaration, reading requests within limits,
// answers, errors with their codes, and conditional changes. It knows no subject.
package web
