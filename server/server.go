package server

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net"
	"net/http"
	"path"
	"strings"
	"sync"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/labstack/echo/v5"
	"github.com/labstack/echo/v5/middleware"
	"golang.org/x/sync/semaphore"

	"glossator/core/fault"
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
	// Address is where other devices find the program; empty where none can.
	Address string
	// Version of the program, which archives tell.
	Version string
}

// Server answers the API and the app.
type Server struct {
	address string // where other devices find it
	version string
	store   *store.Store
	log     *slog.Logger
	echo    *echo.Echo
	cache   cache
	queue   *queue
	large   *semaphore.Weighted            // recordings that are read and measured at once: each may take 64 MB as it comes
	views   *lru.Cache[string, *sheetPart] // the sheets that are looked at

	sounds   *sounds
	renders  renders
	searches tasks[searching] // by sheet
	hearings tasks[Hearing]   // by show
}

// largeAtOnce is how many requests of more than BodyLimit are read at a time; the rest wait.
const largeAtOnce = 2

// BodyLimit is the largest request body: a file of the largest size.
const BodyLimit = formats.MaxSize

// New makes a server; it does not listen yet.
func New(cfg Config) *Server {
	s := &Server{address: cfg.Address, version: cfg.Version, store: cfg.Store, log: cfg.Log, cache: newCache(), views: newViews(), queue: newQueue(), large: semaphore.NewWeighted(largeAtOnce), echo: echo.NewWithConfig(echo.Config{Router: echo.NewRouter(echo.RouterConfig{UnescapePathParamValues: true})}), sounds: newSounds(cfg.Sounds)}
	if s.log == nil {
		s.log = slog.New(slog.DiscardHandler)
	}
	e := s.echo
	e.Logger = s.log
	e.HTTPErrorHandler = s.answerError
	e.Use(middleware.Recover(), headers, guard(cfg.Hosts), middleware.Gzip())
	for i := range Routes {
		r := &Routes[i]
		e.Add(r.Method, r.echoPath(), func(c *echo.Context) error { return r.serve(s, c) }, middleware.BodyLimit(r.Limit))
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
	sc := echo.StartConfig{Listener: patientListener{l}, HideBanner: true, HidePort: true, GracefulTimeout: 5 * time.Second,
		BeforeServeFunc: func(h *http.Server) error {
			h.ReadHeaderTimeout, h.ReadTimeout, h.IdleTimeout = 10*time.Second, 60*time.Second, 2*time.Minute
			h.WriteTimeout = 5 * time.Minute // a client that takes nothing lets go of what it holds; the longest answer is worked out in less
			h.MaxHeaderBytes = 64 << 10
			return nil
		}}
	ctx, end := context.WithCancel(ctx)
	var daily sync.WaitGroup
	daily.Go(func() { s.BackUpDaily(ctx) })
	defer daily.Wait()
	defer end()
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

// compiled gives a panel ready for use, the newest revision where revision is 0. A revision does not change; only undoing it does away with it, and with all
// that is kept.
func (s *Server) compiled(id string, revision int) (*panel.Compiled, error) {
	if revision == 0 {
		row, err := s.store.Panel(id, 0)
		if err != nil {
			return nil, err
		}
		return s.compiledRow(row)
	}
	return cached(s.cache, "panel", revisionKey(id, revision), func() (*panel.Compiled, error) {
		row, err := s.store.Panel(id, revision)
		if err != nil {
			return nil, err
		}
		return compileRow(row)
	})
}

func (s *Server) compiledRow(row *store.Panel) (*panel.Compiled, error) {
	return cached(s.cache, "panel", revisionKey(row.ID, row.Revision), func() (*panel.Compiled, error) { return compileRow(row) })
}

func revisionKey(id string, revision int) string { return fmt.Sprintf("%s@%d", id, revision) }

// errStored is returned where a stored panel does not open: it was written by another program, or by one whose checks were looser.
type errStored struct {
	panel string
	err   error
}

func (e errStored) Error() string { return fmt.Sprintf("stored panel %s: %v", e.panel, e.err) }

func (e errStored) Unwrap() error { return nil } // its faults are not those of the request

// told gives faults as the sentences that say them.
func told(l fault.List) error {
	var all []string
	for i, f := range l {
		if i == 3 {
			all = append(all, fmt.Sprintf("And %d more.", len(l)-i))
			break
		}
		all = append(all, f.Words)
	}
	return errors.New(strings.Join(all, " "))
}

func compileRow(row *store.Panel) (*panel.Compiled, error) {
	var p panel.Panel // it was checked when it was stored
	if err := json.Unmarshal(row.Document, &p); err != nil {
		return nil, errStored{row.ID, err}
	}
	c, err := panel.Compile(&p)
	if err != nil {
		if l := (fault.List{}); errors.As(err, &l) {
			err = told(p.Told(l))
		}
		return nil, errStored{row.ID, err}
	}
	return c, nil
}
