package server

import (
	"context"
	"encoding/json"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path"
	"regexp"
	"strings"
	"sync"
	"time"

	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"

	"glossator/core/panel"
	"glossator/formats"
	"glossator/store"
	"glossator/web"
)

// Config is what a server is made from.
type Config struct {
	Store *store.Store
	// Sounds is the folder in which rendered sounds are kept; a new temporary one where empty.
	Sounds string
	// Hosts that may be named beside the loopback ones.
	Hosts []string
	Log   *slog.Logger
}

// Server answers the API and the app.
type Server struct {
	store *store.Store
	log   *slog.Logger
	echo  *echo.Echo
	rack  sync.Map // compiled panels by id and revision
	rows  sync.Map // keptRow by patch id

	sounds   sounds
	renders  renders
	searches sync.Map // search by sheet id
	heard    sync.Map // how much the parts of a patch are heard, by content
}

// BodyLimit is the largest request body: a file of the largest size.
const BodyLimit = formats.MaxSize

// New makes a server; it does not listen yet.
func New(cfg Config) *Server {
	s := &Server{store: cfg.Store, log: cfg.Log, echo: echo.New(), sounds: sounds{dir: cfg.Sounds, limit: SoundsLimit}}
	if s.log == nil {
		s.log = slog.New(slog.DiscardHandler)
	}
	e := s.echo
	e.Logger = s.log
	e.HTTPErrorHandler = s.answerError
	e.Use(middleware.Recover(), headers, guard(cfg.Hosts), limited, middleware.Gzip())
	param := regexp.MustCompile(`\{(\w+)\}`)
	for i := range Routes {
		r := &Routes[i]
		e.Add(r.Method, Base+param.ReplaceAllString(r.Path, ":$1"), func(c *echo.Context) error { return r.handle(s, c) })
	}
	e.GET(Base+"/openapi.json", func(c *echo.Context) error { return c.JSON(http.StatusOK, OpenAPI()) })
	e.Any(Base+"/*", func(*echo.Context) error { return store.ErrNotFound })
	e.GET("/*", s.app())
	return s
}

// ServeHTTP makes a Server an http.Handler, for tests and benchmarks.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.echo.ServeHTTP(w, r) }

// Serve answers on a listener until the context ends, then lets running requests finish.
func (s *Server) Serve(ctx context.Context, l net.Listener) error {
	sc := echo.StartConfig{Listener: l, HideBanner: true, HidePort: true, GracefulTimeout: 5 * time.Second,
		BeforeServeFunc: func(h *http.Server) error {
			h.ReadHeaderTimeout, h.ReadTimeout, h.IdleTimeout = 10*time.Second, 60*time.Second, 2*time.Minute
			return nil
		}}
	return sc.Start(ctx, s.echo)
}

// app serves the built front end; every path that is no file is the app's own.
func (s *Server) app() echo.HandlerFunc {
	files, ok := web.App()
	return func(c *echo.Context) error {
		if !ok {
			return c.String(http.StatusServiceUnavailable, "The front end is not built: run `make build`, then start again.\n")
		}
		name := strings.TrimPrefix(path.Clean(c.Request().URL.Path), "/")
		if name == "" || name == "." {
			name = "index.html"
		}
		if info, err := fs.Stat(files, name); err != nil || info.IsDir() {
			if path.Ext(name) != "" && strings.HasPrefix(name, "assets/") {
				return store.ErrNotFound
			}
			name = "index.html"
		}
		if strings.HasPrefix(name, "assets/") {
			c.Response().Header().Set("Cache-Control", "public, max-age=31536000, immutable")
		} else {
			c.Response().Header().Set("Cache-Control", "no-cache")
		}
		return c.FileFS(name, files)
	}
}

// compiled gives a panel ready for use, the newest revision where revision is 0.
func (s *Server) compiled(id string, revision int) (*panel.Compiled, error) {
	if revision > 0 {
		if c, ok := s.rack.Load(rackKey(id, revision)); ok {
			return c.(*panel.Compiled), nil
		}
	}
	row, err := s.store.Panel(id, revision)
	if err != nil {
		return nil, err
	}
	return s.compiledRow(row)
}

func rackKey(id string, revision int) string { return fmt.Sprintf("%s@%d", id, revision) }

func (s *Server) compiledRow(row *store.Panel) (*panel.Compiled, error) {
	key := rackKey(row.ID, row.Revision)
	if c, ok := s.rack.Load(key); ok && string(c.(*panel.Compiled).Name) == row.Name {
		return c.(*panel.Compiled), nil
	}
	var p panel.Panel // it was checked when it was stored
	if err := json.Unmarshal(row.Document, &p); err != nil {
		return nil, fmt.Errorf("stored panel %s: %w", key, err)
	}
	c, err := panel.Compile(&p)
	if err != nil {
		return nil, fmt.Errorf("stored panel %s: %v", key, err)
	}
	s.rack.Store(key, c)
	return c, nil
}

// limited bounds request bodies: recordings are larger than anything else.
func limited(next echo.HandlerFunc) echo.HandlerFunc {
	usual, recordings := middleware.BodyLimit(BodyLimit)(next), middleware.BodyLimit(RecordingLimit)(next)
	return func(c *echo.Context) error {
		if c.Request().URL.Path == Base+"/sounds" {
			return recordings(c)
		}
		return usual(c)
	}
}
