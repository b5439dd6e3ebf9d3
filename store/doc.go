// Package store keeps the user's panels, patches, sheets and ticks in one SQLite file.
//
// Every change is one transaction that also writes what it changed, so that it can be
// undone; a change that was acknowledged is on disk (WAL, synchronous full). Neighbours:
// formats checks documents before they come here; server asks for them.
package store
