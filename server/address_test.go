package server

import (
	"bufio"
	"context"
	"fmt"
	"io"
	"net"
	"net/http"
	"strings"
	"testing"

	"glossator/web"
)

// An address that no escape makes sense of is answered as any other without a view is: by the page, on a connection that goes on. What has a body passes as it is, also
// where it looks like an address.
func TestMalformedAddresses(t *testing.T) {
	if _, built := web.App(); !built {
		t.Fatal("the front end is not built: make build")
	}
	c := newClient(t, true)
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, stop := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- New(Config{Store: c.st, Sounds: t.TempDir()}).Serve(ctx, l) }()
	defer func() {
		stop()
		<-ended
	}()
	conn, err := net.Dial("tcp", l.Addr().String())
	if err != nil {
		t.Fatal(err)
	}
	defer func() { _ = conn.Close() }()
	in := bufio.NewReader(conn)
	ask := func(request string) (*http.Response, string) {
		t.Helper()
		if _, err := io.WriteString(conn, request); err != nil {
			t.Fatal(err)
		}
		res, err := http.ReadResponse(in, nil)
		if err != nil {
			t.Fatalf("%q: %v", request, err)
		}
		body, err := io.ReadAll(res.Body)
		if err != nil {
			t.Fatal(err)
		}
		return res, string(body)
	}
	get := func(path string) string {
		return fmt.Sprintf("GET %s HTTP/1.1\r\nHost: %s\r\n\r\n", path, l.Addr())
	}
	for _, path := range []string{"/%", "/%zz", "/sheets/%E0%A4%A", "/patches/%ff%fe", "/sheets/1e2", "/?line=%", "/a%2", "/patches/..%2f..%2fetc"} {
		if res, body := ask(get(path)); res.StatusCode != 200 || !strings.Contains(body, `id="app"`) {
			t.Errorf("%s: %d %.100s", path, res.StatusCode, body)
		}
	}
	if res, body := ask(get(Base + "/patches/%zz")); res.StatusCode != 404 || !strings.Contains(body, `"status":404`) {
		t.Errorf("in the API: %d %s", res.StatusCode, body)
	}
	body := `{"name":"100 % GET /%zz HTTP/1.1","kind":"bass","tempo":100}`
	request := fmt.Sprintf("PUT %s/patches/keel HTTP/1.1\r\nHost: %s\r\nContent-Length: %d\r\n\r\n%s", Base, l.Addr(), len(body), body)
	if res, got := ask(request); res.StatusCode != 200 || !strings.Contains(got, "100 % GET /%zz HTTP/1.1") {
		t.Errorf("a body: %d %.200s", res.StatusCode, got)
	}
	if res, _ := ask(get(Base + "/desk")); res.StatusCode != 200 {
		t.Errorf("after it: %d", res.StatusCode)
	}
}
