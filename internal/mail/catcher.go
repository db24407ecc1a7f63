package mail

import (
	"fmt"
	"io"
	"net"
	"os"
	"path/filepath"
	"sync"
	"time"

	"github.com/emersion/go-smtp"
)

// Catcher is a mail server on loopback that sends nothing on: it keeps every
// letter as a file. For the demo and for tests.
type Catcher struct {
	// URL is where to send letters.
	URL string

	dir    string
	server *smtp.Server
	mu     sync.Mutex
	n      int
}

// Catch starts a catcher that keeps letters in a folder, which it makes.
func Catch(dir string) (*Catcher, error) {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, fmt.Errorf("keeping letters: %w", err)
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, fmt.Errorf("catching letters: %w", err)
	}
	c := &Catcher{dir: dir, URL: "smtp+plain://" + l.Addr().String()}
	c.server = smtp.NewServer(smtp.BackendFunc(func(*smtp.Conn) (smtp.Session, error) { return &caught{c}, nil }))
	c.server.Domain = "localhost"
	c.server.ReadTimeout, c.server.WriteTimeout = 10*time.Second, 10*time.Second
	c.server.MaxMessageBytes = 1 << 20
	go c.server.Serve(l)
	return c, nil
}

// Close stops the catcher; the letters stay.
func (c *Catcher) Close() error { return c.server.Close() }

// Letters are the files caught so far, the oldest first.
func (c *Catcher) Letters() []string {
	found, _ := filepath.Glob(filepath.Join(c.dir, "*.eml"))
	return found
}

// caught is one letter on its way in.
type caught struct{ c *Catcher }

func (*caught) Reset()                               {}
func (*caught) Logout() error                        { return nil }
func (*caught) Mail(string, *smtp.MailOptions) error { return nil }
func (*caught) Rcpt(string, *smtp.RcptOptions) error { return nil }

// Data keeps the letter.
func (s *caught) Data(r io.Reader) error {
	b, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	s.c.mu.Lock()
	defer s.c.mu.Unlock()
	s.c.n++
	name := fmt.Sprintf("%s-%04d.eml", time.Now().UTC().Format("20060102T150405"), s.c.n)
	return os.WriteFile(filepath.Join(s.c.dir, name), b, 0o600)
}
