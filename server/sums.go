package server

import (
	"errors"
	"fmt"
	"net/http"
	"strconv"

	q "glossator/core/quantity"

	"github.com/labstack/echo/v5"

	"glossator/core/quantity"
	"glossator/core/reckon"
	"glossator/store"
)

// sums lists the sums; with a value, those that it fits are worked out with it.
func (s *Server) sums(c *echo.Context) error {
	p, err := s.pending()
	if err != nil {
		return err
	}
	out := Sums{Sums: reckon.Sums, Taken: []reckon.SumFit{}, Pending: p}
	if v := c.QueryParam("value"); v != "" {
		ctx, err := sumContext(c)
		if err != nil {
			return err
		}
		out.Taken = append(out.Taken, reckon.Taking(v, ctx)...)
	}
	return c.JSON(http.StatusOK, out)
}

func (s *Server) sum(c *echo.Context) error {
	sum := reckon.Find(c.Param("id"))
	if sum == nil {
		return store.ErrNotFound
	}
	ctx, err := sumContext(c)
	if err != nil {
		return err
	}
	left, right := c.QueryParam("left"), c.QueryParam("right")
	if (left == "") == (right == "") {
		return badRequest{errors.New("expected a value on one side")}
	}
	a, err := sum.Work(left+right, left != "", ctx)
	if err != nil {
		return badRequest{err}
	}
	return c.JSON(http.StatusOK, a)
}

// sumContext reads tempo, note and echo of a request.
func sumContext(c *echo.Context) (ctx q.Context, err error) {
	if text := c.QueryParam("tempo"); text != "" {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil || !(v >= 1 && v <= 1000) {
			return ctx, badRequest{fmt.Errorf("tempo: expected 1 to 1000 quarter notes a minute, got %q", text)}
		}
		ctx.Tempo = quantity.Tempo(v)
	}
	for _, f := range []struct {
		name  string
		forms []quantity.Form
		set   func(float64)
	}{
		{"note", []quantity.Form{quantity.FormNote, quantity.FormFreq}, func(v float64) { ctx.At = quantity.Frequency(v) }},
		{"time", []quantity.Form{quantity.FormDuration}, func(v float64) { ctx.Time = quantity.Duration(v) }},
	} {
		text := c.QueryParam(f.name)
		if text == "" {
			continue
		}
		e, err := quantity.Parse(text)
		if err != nil {
			return ctx, badRequest{fmt.Errorf("%s: %w", f.name, err)}
		}
		if e.Form != f.forms[0] && e.Form != f.forms[len(f.forms)-1] {
			return ctx, badRequest{fmt.Errorf("%s: expected a %s, got %q", f.name, f.forms[0], text)}
		}
		f.set(e.Value)
	}
	return ctx, nil
}
