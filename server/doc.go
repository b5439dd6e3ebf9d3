// Package server answers the browser: the JSON API under /api/v1 and the app itself.
//
// Handlers compose store, formats and core and compute nothing themselves. Errors are
// answered in one place (problem.go) as RFC 9457 problems; who may ask is checked
// in guard.go; the routes, with their types, are one table (routes.go) from which the
// OpenAPI description is made.
package server
