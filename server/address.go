package server

import (
	"bufio"
	"bytes"
	"net"
)

// net/http answers a request whose address has a percent sign without two figures behind it by itself, with a line of plain text. So that such an address shows
// the page that says that there is nothing under it, as any other does, the sign is written out before net/http reads it.

// patientListener gives connections on which addresses are mended.
type patientListener struct{ net.Listener }

func (l patientListener) Accept() (net.Conn, error) {
	c, err := l.Listener.Accept()
	if err != nil {
		return nil, err
	}
	return &patientConn{Conn: c, in: bufio.NewReader(c)}, nil
}

// maxHead is how much of a request's head is waited for before it is passed on as it is.
const maxHead = 64 << 10

// patientConn reads the heads of requests without a body whole; from the first that has one on, all passes as it comes.
type patientConn struct {
	net.Conn
	in    *bufio.Reader
	head  []byte // of the request that is being read
	ready []byte // what net/http may have
	plain bool
}

func (c *patientConn) Read(p []byte) (int, error) {
	for len(c.ready) == 0 {
		if c.plain {
			return c.in.Read(p)
		}
		line, err := c.in.ReadSlice('\n')
		c.head = append(c.head, line...)
		if err != nil && err != bufio.ErrBufferFull { // what has come is kept: a deadline may have been set to look in between
			if len(c.head) > 0 && !isTimeout(err) {
				c.ready, c.head, c.plain = c.head, nil, true
				break
			}
			return 0, err
		}
		if whole := bytes.HasSuffix(c.head, []byte("\r\n\r\n")) || bytes.HasSuffix(c.head, []byte("\n\n")); whole || len(c.head) > maxHead {
			c.ready, c.head, c.plain = mended(c.head), nil, !whole || hasBody(c.head)
		}
	}
	n := copy(p, c.ready)
	c.ready = c.ready[n:]
	return n, nil
}

func isTimeout(err error) bool {
	t, ok := err.(net.Error)
	return ok && t.Timeout()
}

// hasBody tells whether more than the head may belong to a request.
func hasBody(head []byte) bool {
	low := bytes.ToLower(head)
	return !bytes.HasPrefix(head, []byte("GET ")) && !bytes.HasPrefix(head, []byte("HEAD ")) || bytes.Contains(low, []byte("\ncontent-length:")) ||
		bytes.Contains(low, []byte("\ntransfer-encoding:")) || bytes.Contains(low, []byte("\nupgrade:"))
}

// mended writes percent signs in the address of a request out where they are no part of an escape.
func mended(head []byte) []byte {
	line, rest, _ := bytes.Cut(head, []byte("\n"))
	from, to := bytes.IndexByte(line, ' '), bytes.LastIndexByte(line, ' ')
	if from < 0 || to <= from || bytes.IndexByte(line[from:to], '%') < 0 {
		return head
	}
	figure := func(b byte) bool { return b >= '0' && b <= '9' || b >= 'a' && b <= 'f' || b >= 'A' && b <= 'F' }
	out := append([]byte(nil), line[:from]...)
	for i := from; i < to; i++ {
		out = append(out, line[i])
		if line[i] == '%' && !(i+2 < to && figure(line[i+1]) && figure(line[i+2])) {
			out = append(out, '2', '5')
		}
	}
	out = append(append(out, line[to:]...), '\n')
	return append(out, rest...)
}
