// Package mail writes letters and gives them to a mail server.
package mail

import (
	"bytes"
	"cmp"
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	netmail "net/mail"
	"net/textproto"
	"net/url"
	"os"
	"slices"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"
	"github.com/wneessen/go-mail/smtp"

	"mastflag/internal/outbound"
)

// A Letter is mail, of plain text. From is whoever has it sent, "" where that is nobody.
type Letter struct {
	// The same however often it is sent: the left side of its Message-ID.
	Key                     string
	At                      time.Time
	From, To, Subject, Body string
	// Where answers go; where the sender wants them if "".
	Reply string
}

// A Sender is whom letters come from. With an address, that is what stands in them, and answers
// go to whoever had a letter sent; without, that person is named as the sender.
type Sender struct {
	Address, ReplyTo string
}

// Write returns a letter as RFC 5322 has it; an error where an address cannot stand in one.
func (s Sender) Write(l Letter) ([]byte, error) {
	m := gomail.NewMsg(gomail.WithNoDefaultUserAgent())
	const nowhere = "mastflag.invalid" // RFC 2606 §2
	from, host := cmp.Or(l.From, "notices@"+nowhere), nowhere
	if s.Address != "" {
		from, host = s.Address, s.Address[strings.LastIndexByte(s.Address, '@')+1:]
		l.Reply = cmp.Or(l.Reply, s.ReplyTo, l.From)
	}
	if l.Reply != "" && l.Reply != from {
		_ = m.ReplyTo(l.Reply) // one that cannot stand there is left out: the letter goes all the same
	}
	if err := errors.Join(m.FromFormat("Mast Flag", from), m.To(l.To)); err != nil {
		return nil, err
	}
	m.Subject(strings.NewReplacer("\r", " ", "\n", " ").Replace(l.Subject))
	m.SetDateWithValue(l.At)
	m.SetMessageIDWithValue(l.Key + "@" + host)
	// What a machine sends is not answered by a machine (RFC 3834 §5).
	m.SetGenHeader("Auto-Submitted", "auto-generated")
	m.SetBodyString(gomail.TypeTextPlain, strings.ReplaceAll(l.Body, "\r\n", "\n"))
	var b bytes.Buffer
	_, err := m.WriteTo(&b)
	return b.Bytes(), err
}

// Refused says that a mail server will never take a letter.
type Refused struct{ Why string }

func (r Refused) Error() string { return r.Why }

// A Server takes letters by SMTP (RFC 5321), encrypted unless it is on this machine.
type Server struct {
	host, user, password string
	port                 int
	implicit, plain      bool
	timeout              time.Duration
}

// NewServer reads an address such as smtp://user@mail.example.org:587 (STARTTLS), or
// smtps://mail.example.org (TLS from the start). One on this machine is reached without
// encryption if it says ?tls=none.
func NewServer(address, password string) (*Server, error) {
	u, err := url.Parse(address)
	if err != nil || u.Hostname() == "" || u.Scheme != "smtp" && u.Scheme != "smtps" || u.Path != "" {
		return nil, fmt.Errorf(
			"%q is not the address of a mail server: write it like smtp://user@mail.example.org:587",
			address,
		)
	}
	s := &Server{
		host:     u.Hostname(),
		implicit: u.Scheme == "smtps",
		port:     587,
		timeout:  30 * time.Second,
		password: password,
	}
	if s.implicit {
		s.port = 465
	}
	if p := u.Port(); p != "" {
		if s.port, err = strconv.Atoi(p); err != nil || s.port < 1 || s.port > 65535 {
			return nil, fmt.Errorf("%q: there is no port %s", address, p)
		}
	}
	if u.User != nil {
		s.user = u.User.Username()
		if own, ok := u.User.Password(); ok {
			s.password = own
		}
	}
	if u.Query().Get("tls") == "none" {
		ip := net.ParseIP(s.host)
		if s.host != "localhost" && (ip == nil || !ip.IsLoopback()) {
			return nil, fmt.Errorf("%q: only a mail server on this machine is reached without encryption", address)
		}
		s.plain = true
	}
	return s, nil
}

// Send gives a letter to the server byte for byte, and returns once ctx ends whatever that does. The
// error is Refused if it will never take it; any other may be over the next time, and the letter may
// have been taken all the same.
func (s *Server) Send(ctx context.Context, letter []byte) error {
	from, to, err := between(letter)
	if err != nil {
		return Refused{"the letter cannot be read: " + err.Error()}
	}
	c, err := s.connect(ctx)
	if err != nil {
		return outbound.FailureOf(err)
	}
	defer c.Close()
	if err := give(c, from, to, letter); err != nil {
		var said *textproto.Error
		if errors.As(err, &said) && said.Code >= 500 && said.Code < 600 {
			return Refused{err.Error()}
		}
		return outbound.FailureOf(err)
	}
	_ = c.Quit() // it is taken, whatever comes after
	return nil
}

// between returns whom a letter is from and to.
func between(letter []byte) (from, to string, err error) {
	read, err := netmail.ReadMessage(bytes.NewReader(letter))
	if err != nil {
		return "", "", err
	}
	sender, err := netmail.ParseAddress(read.Header.Get("From"))
	if err != nil {
		return "", "", err
	}
	receiver, err := netmail.ParseAddress(read.Header.Get("To"))
	if err != nil {
		return "", "", err
	}
	return sender.Address, receiver.Address, nil
}

// give has the server take a letter.
func give(c *smtp.Client, from, to string, letter []byte) error {
	if err := c.Mail(from); err != nil {
		return err
	}
	if err := c.Rcpt(to); err != nil {
		return err
	}
	w, err := c.Data()
	if err != nil {
		return err
	}
	if _, err := w.Write(letter); err != nil {
		return err
	}
	return w.Close()
}

// connect returns a connection on which letters can be given, which ends with ctx: encrypted unless the
// server is on this machine, and signed in where there is a user.
func (s *Server) connect(ctx context.Context) (*smtp.Client, error) {
	secure := &tls.Config{ServerName: s.host, MinVersion: tls.VersionTLS12}
	address := net.JoinHostPort(s.host, strconv.Itoa(s.port))
	d := net.Dialer{Timeout: s.timeout}
	conn, err := d.DialContext(ctx, "tcp", address)
	if err != nil {
		return nil, err
	}
	context.AfterFunc(ctx, func() { conn.Close() })
	if err := conn.SetDeadline(time.Now().Add(s.timeout)); err != nil {
		return nil, err
	}
	if s.implicit {
		conn = tls.Client(conn, secure)
	}
	c, err := smtp.NewClient(conn, s.host)
	if err != nil {
		conn.Close()
		return nil, err
	}
	if err := s.introduce(c, secure); err != nil {
		c.Close()
		return nil, err
	}
	return c, nil
}

func (s *Server) introduce(c *smtp.Client, secure *tls.Config) error {
	name, err := os.Hostname()
	if err != nil {
		name = "localhost"
	}
	if err := c.Hello(name); err != nil {
		return err
	}
	if !s.plain && !s.implicit {
		if has, _ := c.Extension("STARTTLS"); !has {
			return errors.New("the mail server does not encrypt: it offers no STARTTLS")
		}
		if err := c.StartTLS(secure); err != nil {
			return err
		}
	}
	if s.user == "" {
		return nil
	}
	_, offered := c.Extension("AUTH")
	ways := strings.Fields(strings.ToUpper(offered))
	// What does not tell the password comes first; the others are told where nobody listens.
	switch {
	case slices.Contains(ways, "SCRAM-SHA-256"):
		return c.Auth(smtp.ScramSHA256Auth(s.user, s.password))
	case slices.Contains(ways, "CRAM-MD5"):
		return c.Auth(smtp.CRAMMD5Auth(s.user, s.password))
	case slices.Contains(ways, "PLAIN"):
		return c.Auth(smtp.PlainAuth("", s.user, s.password, s.host, s.plain))
	case slices.Contains(ways, "LOGIN"):
		return c.Auth(smtp.LoginAuth(s.user, s.password, s.host, s.plain))
	}
	return fmt.Errorf("the mail server offers no way to sign in that is known here: %q", offered)
}
