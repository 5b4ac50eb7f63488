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
	"net/url"
	"strconv"
	"strings"
	"time"

	gomail "github.com/wneessen/go-mail"

	"mastflag/internal/outbound"
)

// A Letter is mail, of plain text. From is whoever has it sent.
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
	from, host := l.From, "mastflag.invalid"
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

// dial returns what connects to the server: a connection that ends with ctx, which bounds the whole
// of a letter and not each of its steps.
func (s *Server) dial(ctx context.Context) gomail.DialContextFunc {
	return func(dialing context.Context, network, address string) (c net.Conn, err error) {
		if s.implicit {
			c, err = (&tls.Dialer{Config: &tls.Config{ServerName: s.host, MinVersion: tls.VersionTLS12}}).
				DialContext(dialing, network, address)
		} else {
			c, err = (&net.Dialer{}).DialContext(dialing, network, address)
		}
		if err == nil {
			context.AfterFunc(ctx, func() { c.Close() })
		}
		return c, outbound.FailureOf(err)
	}
}

// Send gives a letter to the server, and returns once ctx ends whatever that does. The error is
// Refused if it will never take it; any other may be over the next time, and the letter may have
// been taken all the same.
func (s *Server) Send(ctx context.Context, letter []byte) error {
	m, err := gomail.EMLToMsgFromReader(bytes.NewReader(letter))
	if err != nil {
		return Refused{"the letter cannot be read: " + err.Error()}
	}
	if read, err := netmail.ReadMessage(bytes.NewReader(letter)); err == nil { // what the reader of letters leaves out
		if reply := read.Header.Get("Reply-To"); reply != "" {
			_ = m.ReplyTo(reply)
		}
		m.SetGenHeader("Auto-Submitted", read.Header.Get("Auto-Submitted"))
	}
	options := []gomail.Option{
		gomail.WithPort(s.port), gomail.WithTimeout(s.timeout), gomail.WithDialContextFunc(s.dial(ctx)),
	}
	switch {
	case s.plain:
		options = append(options, gomail.WithTLSPolicy(gomail.NoTLS))
	case s.implicit:
		options = append(options, gomail.WithSSL())
	default:
		options = append(options, gomail.WithTLSPolicy(gomail.TLSMandatory))
	}
	if s.user != "" {
		options = append(options, gomail.WithSMTPAuth(gomail.SMTPAuthAutoDiscover), gomail.WithUsername(s.user),
			gomail.WithPassword(s.password))
	}
	c, err := gomail.NewClient(s.host, options...)
	if err != nil {
		return err
	}
	err = c.DialAndSendWithContext(ctx, m)
	var wrong *gomail.SendError
	if errors.As(err, &wrong) {
		code := wrong.ErrorCode()
		if code >= 500 && code < 600 {
			return Refused{err.Error()}
		}
		// The letter is taken; what failed came after.
		if wrong.Reason == gomail.ErrSMTPReset {
			return nil
		}
	}
	return err
}
