package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"

	"github.com/labstack/echo/v5"

	"glossator/archive"
	"glossator/core/fault"
	"glossator/core/synth"
	"glossator/formats"
	"glossator/formats/photo"
	"glossator/store"
)

// Problem is an error as RFC 9457 has it, with the faults of a document as an extension.
type Problem struct {
	Type   string `json:"type"`
	Title  string `json:"title"`
	Status int    `json:"status"`
	Detail string `json:"detail"`
	// Faults name each place of a document that is at fault.
	Faults fault.List `json:"faults,omitempty"`
	// Clashes are what has been changed elsewhere and here in different ways.
	Clashes []store.Clash `json:"clashes,omitempty"`
}

// problemOf turns any error into what the user is told. Errors that are the program's own
// are not told in detail; the log has them.
func problemOf(err error) Problem {
	p := Problem{Type: "about:blank", Status: http.StatusInternalServerError, Title: "The program failed",
		Detail: "Nothing was changed. Try again; if it stays, look at the program's log."}
	var list fault.List
	var coder interface{ StatusCode() int }
	var bad badRequest
	var stale store.ErrStale
	var stored errStored
	var inUse store.InUse
	var there errThere
	var tooBig *http.MaxBytesError
	switch {
	case errors.As(err, &list):
		p.Status, p.Title, p.Faults = http.StatusUnprocessableEntity, "The input is at fault", list
		if len(list) > formats.MaxFaults {
			p.Faults = list[:formats.MaxFaults]
		}
		p.Detail = fmt.Sprintf("%d faults; nothing was stored. Mend the places named and try again.", len(list))
		if len(list) == 1 {
			if p.Detail = list[0].Words; p.Detail == "" {
				p.Detail = list[0].Message
			}
		}
	case errors.As(err, &stale):
		p.Status, p.Title, p.Detail, p.Clashes = http.StatusPreconditionFailed, "Changed elsewhere", capital(stale.Error())+". Nothing was stored: look at what stands there now, then change it again.", stale.Clashes
	case errors.Is(err, store.ErrNotLast):
		p.Status, p.Title, p.Detail = http.StatusConflict, "Not the last step", capital(err.Error())+". Nothing was taken back: look at what was changed elsewhere first."
	case errors.Is(err, store.ErrNoBackup), errors.Is(err, archive.ErrArchive), errors.Is(err, photo.ErrPicture), errors.Is(err, store.ErrNoSlot):
		p.Status, p.Title, p.Detail = http.StatusUnprocessableEntity, "The input is at fault", capital(err.Error())+". Nothing was changed."
	case errors.Is(err, store.ErrDisk):
		p.Status, p.Title, p.Detail = http.StatusInsufficientStorage, "The disk is in the way", capital(err.Error())+"."
	case errors.As(err, &bad):
		p.Status, p.Title, p.Detail = http.StatusUnprocessableEntity, "The input is at fault", bad.Error()
	case errors.Is(err, store.ErrNotFound):
		p.Status, p.Title, p.Detail = http.StatusNotFound, "Not here", "There is nothing under this address. It may have been deleted: go back to the desk, or undo."
	case errors.Is(err, store.ErrProtected):
		p.Status, p.Title, p.Detail = http.StatusConflict, "Protected", capital(err.Error())+". Take the protection away first, or choose another slot."
	case errors.Is(err, store.ErrTaken):
		p.Status, p.Title, p.Detail = http.StatusConflict, "In use", capital(err.Error())+"."
	case errors.Is(err, synth.ErrStopped):
		p.Status, p.Title, p.Detail = http.StatusConflict, "Given up", "Nobody waited for this sound any more. Ask for it again."
	case errors.As(err, &stored):
		p.Status, p.Title, p.Detail = http.StatusConflict, "A panel does not open", fmt.Sprintf("%s is stored with what this program cannot use (%v). Mend it in the workshop, or go back to an older revision.", stored.panel, stored.err)
	case errors.Is(err, errBusy):
		p.Status, p.Title, p.Detail = http.StatusServiceUnavailable, "Busy", "Too much is being worked out at once. Nothing was changed: try again in a moment."
	case errors.As(err, &inUse):
		p.Status, p.Title, p.Detail = http.StatusConflict, "In use", capital(err.Error())+"."
	case errors.As(err, &there):
		p.Status, p.Title, p.Detail = http.StatusConflict, "Here already", capital(err.Error())+"."
	case errors.Is(err, store.ErrInUse):
		p.Status, p.Title, p.Detail = http.StatusConflict, "In use", err.Error()+". Undo that first."
	case errors.As(err, &tooBig):
		p.Status, p.Title, p.Detail = http.StatusRequestEntityTooLarge, "Too large", tooLarge
	case errors.As(err, &coder):
		p.Status = coder.StatusCode()
		p.Title, p.Detail = http.StatusText(p.Status), "The request was refused."
		switch p.Status {
		case http.StatusRequestEntityTooLarge:
			p.Title, p.Detail = "Too large", tooLarge
		case http.StatusNotFound:
			p.Title, p.Detail = "Not here", "There is nothing under this address."
		case http.StatusForbidden:
			p.Detail = "The request did not come from this program's own page."
		}
	}
	return p
}

// tooLarge says what is taken.
var tooLarge = fmt.Sprintf("A file may have at most %d MB, a recording %d MB, a photograph %d MB, a backup or an archive %d GB.", BodyLimit>>20, RecordingLimit>>20, PhotographLimit>>20, int64(KeptLimit)>>30)

func capital(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

// badRequest is a fault of a request whose text the user may read.
type badRequest struct{ error }

func (s *Server) answerError(c *echo.Context, err error) {
	p := problemOf(err)
	if p.Status >= 500 {
		s.log.Error("request failed", "method", c.Request().Method, "path", c.Request().URL.Path, "error", err)
	}
	body, merr := json.Marshal(p)
	if merr != nil {
		body = []byte(`{"status":500}`)
	}
	if werr := c.Blob(p.Status, "application/problem+json", body); werr != nil {
		s.log.Warn("could not answer", "error", werr)
	}
}
