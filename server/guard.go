package server

import (
	"net"
	"net/http"
	"net/url"
	"strings"

	"github.com/labstack/echo/v5"
)

// contentPolicy lets the page load only what the program itself serves.
const contentPolicy = "default-src 'self'; img-src 'self' data:; style-src 'self'; script-src 'self'; connect-src 'self'; " +
	"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// headers sets what every answer carries.
func headers(next echo.HandlerFunc) echo.HandlerFunc {
	return func(c *echo.Context) error {
		h := c.Response().Header()
		h.Set("Content-Security-Policy", contentPolicy)
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "no-referrer")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Cross-Origin-Resource-Policy", "same-origin")
		return next(c)
	}
}

// guard refuses requests that name another host (DNS rebinding), and changes and answers of the API that another
// origin asks for (cross-site requests).
func guard(hosts []string) echo.MiddlewareFunc {
	allowed := map[string]bool{"localhost": true, "127.0.0.1": true, "::1": true}
	for _, h := range hosts {
		allowed[strings.ToLower(h)] = true
	}
	return func(next echo.HandlerFunc) echo.HandlerFunc {
		return func(c *echo.Context) error {
			r := c.Request()
			if !allowed[hostName(r.Host)] {
				return echo.NewHTTPError(http.StatusForbidden, "host")
			}
			site := r.Header.Get("Sec-Fetch-Site")
			if r.Method == http.MethodGet || r.Method == http.MethodHead {
				// another site may lead to a page, but not have anything worked out; "none" is an address that was typed
				if strings.HasPrefix(r.URL.Path, Base) && site != "" && site != "same-origin" && site != "none" {
					return echo.NewHTTPError(http.StatusForbidden, "site")
				}
				return next(c)
			}
			if site != "" && site != "same-origin" {
				return echo.NewHTTPError(http.StatusForbidden, "site")
			}
			if origin := r.Header.Get("Origin"); origin != "" {
				u, err := url.Parse(origin)
				if err != nil || !strings.EqualFold(u.Host, r.Host) {
					return echo.NewHTTPError(http.StatusForbidden, "origin")
				}
			}
			return next(c)
		}
	}
}

func hostName(hostport string) string {
	host := hostport
	if h, _, err := net.SplitHostPort(hostport); err == nil {
		host = h
	}
	return strings.ToLower(strings.Trim(host, "[]"))
}
