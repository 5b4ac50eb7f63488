package server_test

import (
	"bytes"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"errors"
	"io"
	"math/big"
	"net"
	netmail "net/mail"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/emersion/go-sasl"
	"github.com/emersion/go-smtp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/form"
	"mastflag/core/rights"
	"mastflag/internal/admin/contacts"
	"mastflag/internal/admin/people"
	"mastflag/internal/mail"
	"mastflag/internal/standin"
	"mastflag/internal/store"
)

// mailServer is a small SMTP server: what it took, and how it is to behave.
type mailServer struct {
	mu       sync.Mutex
	took     []*netmail.Message
	raw      []string // of what it took
	from, to []string
	// The only name and password that it takes, with a space between; "" if it asks for none. How it can be told them.
	signIn string
	ways   []string
	refuse func(to string) error // of a recipient
	after  func() error          // once a letter was taken
}

func (m *mailServer) NewSession(*smtp.Conn) (smtp.Session, error) { return &mailSession{m: m}, nil }

type mailSession struct {
	m        *mailServer
	from, to string
	signedIn bool
}

func (s *mailSession) Mail(from string, _ *smtp.MailOptions) error {
	if s.m.signIn != "" && !s.signedIn {
		return smtp.ErrAuthRequired
	}
	s.from = from
	return nil
}
func (s *mailSession) AuthMechanisms() []string { return s.m.ways }
func (s *mailSession) Auth(way string) (sasl.Server, error) {
	check := func(name, password string) error {
		if name+" "+password != s.m.signIn {
			return smtp.ErrAuthFailed
		}
		s.signedIn = true
		return nil
	}
	if way == sasl.Login {
		return &login{check: check}, nil
	}
	return sasl.NewPlainServer(func(_, name, password string) error { return check(name, password) }), nil
}
func (s *mailSession) Rcpt(to string, _ *smtp.RcptOptions) error {
	s.to = to
	if s.m.refuse != nil {
		return s.m.refuse(to)
	}
	return nil
}
func (s *mailSession) Data(r io.Reader) error {
	raw, err := io.ReadAll(r)
	if err != nil {
		return err
	}
	letter, err := netmail.ReadMessage(bytes.NewReader(raw))
	if err != nil {
		return err
	}
	body, err := io.ReadAll(letter.Body)
	if err != nil {
		return err
	}
	letter.Body = strings.NewReader(string(body))
	s.m.mu.Lock()
	defer s.m.mu.Unlock()
	s.m.took, s.m.from, s.m.to = append(s.m.took, letter), append(s.m.from, s.from), append(s.m.to, s.to)
	s.m.raw = append(s.m.raw, string(raw))
	if s.m.after != nil {
		return s.m.after()
	}
	return nil
}
func (s *mailSession) Reset()        {}
func (s *mailSession) Logout() error { return nil }

// login asks for a name and then for a password (the SASL mechanism LOGIN, an expired Internet-Draft).
type login struct {
	check func(name, password string) error
	told  []string
}

func (l *login) Next(response []byte) (challenge []byte, done bool, err error) {
	if response != nil {
		l.told = append(l.told, string(response))
	}
	if len(l.told) == 2 {
		return nil, true, l.check(l.told[0], l.told[1])
	}
	return []byte([]string{"Username:", "Password:"}[len(l.told)]), false, nil
}

// serving has the server answer at an address of this machine until what is returned is called.
func (m *mailServer) serving(t *testing.T, address string, cert *tls.Config) (at string, stop func()) {
	t.Helper()
	l, err := net.Listen("tcp", address)
	require.NoError(t, err)
	s := smtp.NewServer(m)
	s.Domain, s.TLSConfig, s.AllowInsecureAuth = "localhost", cert, true
	go s.Serve(l)
	return l.Addr().String(), func() { s.Close() }
}

// withMail gives a bench a mail server.
func (b *bench) withMail(at string) *bench {
	server, err := mail.NewServer("smtp://"+at+"?tls=none", "")
	require.NoError(b.t, err)
	sender := mail.Sender{Address: "notices@s.example"}
	b.server.Carrier.Server, b.server.Carrier.Office = server, standin.NewPostOffice(b.dir, sender)
	return b
}

// Letters and contacts go out by a mail server: one that refuses an address, is away for an hour,
// or breaks off after it took a letter. Nothing is lost, and twice comes only what the server took
// without its answer arriving, under the same Message-ID.
func TestMailServer(t *testing.T) {
	m := &mailServer{}
	at, stop := m.serving(t, "127.0.0.1:0", nil)
	b := newBench(t).signIn().withMail(at)
	carry := func(d time.Duration) {
		b.clock.Set(b.clock.Now().Add(d))
		require.NoError(t, b.server.Carrier.Carry(t.Context()))
	}
	state := func(to string) people.Mail {
		var box people.Mailbox
		b.call("GET", "/api/mailbox", nil, &box)
		assert.True(t, box.Real)
		for _, m := range box.Messages {
			if m.To == to {
				return m
			}
		}
		return people.Mail{}
	}
	invite := func(to string) {
		b.call("POST", "/api/people/invite", people.Person{Email: to, Role: rights.Editor, Sites: []string{"s"}}, nil)
	}
	files := func() int {
		list, err := os.ReadDir(filepath.Join(b.dir, standin.OutboxName))
		require.NoError(t, err)
		return len(list)
	}

	// An invitation: its way in stands in the letter alone, which is gone once it went out.
	invite("tomasz@s.example")
	assert.Equal(t, store.OutWaiting, state("tomasz@s.example").State)
	assert.Contains(t, state("tomasz@s.example").Body, "/join#", "whoever invites sees the letter as long as it lies here")
	require.Equal(t, 1, files())
	carry(0)
	require.Len(t, m.took, 1)
	assert.Equal(t, []string{"notices@s.example", "tomasz@s.example"}, []string{m.from[0], m.to[0]})
	assert.Equal(t, "<ines@s.example>", m.took[0].Header.Get("Reply-To"))
	assert.Equal(t, "auto-generated", m.took[0].Header.Get("Auto-Submitted"))
	body, _ := io.ReadAll(m.took[0].Body)
	assert.Regexp(t, `/join#[A-Za-z0-9_=-]`, string(body))
	assert.Equal(t, store.OutDone, state("tomasz@s.example").State)
	assert.Zero(t, files())

	// A refused address is said, and not tried again.
	m.refuse = func(to string) error {
		if strings.HasPrefix(to, "nobody@") {
			return &smtp.SMTPError{Code: 550, EnhancedCode: smtp.EnhancedCode{5, 1, 1}, Message: "no such mailbox"}
		}
		return &smtp.SMTPError{Code: 451, EnhancedCode: smtp.EnhancedCode{4, 3, 0}, Message: "come again later"}
	}
	invite("nobody@s.example")
	invite("orla@s.example")
	carry(0)
	assert.Equal(t, store.OutGivenUp, state("nobody@s.example").State)
	assert.Contains(t, state("nobody@s.example").Why, "no such mailbox")
	assert.Equal(t, store.OutWaiting, state("orla@s.example").State)
	assert.Contains(t, state("orla@s.example").Why, "come again later")
	m.refuse = nil

	// The server is away for an hour.
	stop()
	for range 12 {
		carry(5 * time.Minute)
	}
	assert.Greater(t, state("orla@s.example").Tries, 4)
	require.Len(t, m.took, 1)
	_, stop = m.serving(t, at, nil)
	carry(time.Hour)
	require.Len(t, m.took, 2)
	assert.Equal(t, store.OutDone, state("orla@s.example").State)

	// It takes a letter, and its answer does not arrive: it comes again, as the same.
	m.after = func() error { stop(); return errors.New("cut") }
	hash := b.withForm(form.Form{PassOn: []form.Receiver{{Mail: "desk@s.example"}}})
	status, said := b.tell("POST", "/forms/s?mark="+b.mark(), origin, filled(1, hash, nil))
	require.Equal(t, 204, status, said)
	carry(0)
	require.Len(t, m.took, 3)
	m.after = nil
	_, stop = m.serving(t, at, nil)
	defer func() { stop() }()
	carry(time.Hour)
	carry(24 * time.Hour)
	require.Len(t, m.took, 4)
	assert.Equal(t, m.took[2].Header.Get("Message-ID"), m.took[3].Header.Get("Message-ID"))
	assert.Equal(t, "<ada@visitor.example>", m.took[3].Header.Get("Reply-To"))
	var list contacts.ContactList
	b.call("GET", "/api/sites/s/contacts", nil, &list)
	assert.Equal(t, store.OutDone, list.Contacts[0].Deliveries[0].State)
}

// Answers go to whoever had a letter sent, to whom a contact is from, or where the site or whoever runs the program
// wants them; where that is nobody, no address is made up.
func TestWhereAnswersGo(t *testing.T) {
	real, kept := mail.Sender{Address: "notices@s.example"}, mail.Sender{}
	for _, c := range []struct {
		sender                mail.Sender
		from, reply           string
		wantFrom, wantReplyTo string
	}{
		{real, "ines@s.example", "", "notices@s.example", "<ines@s.example>"},
		{real, "", "", "notices@s.example", ""},
		{real, "", "ada@visitor.example", "notices@s.example", "<ada@visitor.example>"},
		{mail.Sender{Address: "notices@s.example", ReplyTo: "desk@s.example"}, "ines@s.example", "", "notices@s.example",
			"<desk@s.example>"},
		{kept, "ines@s.example", "", "ines@s.example", ""},
		{kept, "", "", "notices@mastflag.invalid", ""},
	} {
		raw, err := c.sender.Write(mail.Letter{Key: "1", At: start, From: c.from, Reply: c.reply, To: "a@b.example"})
		require.NoError(t, err)
		m, err := netmail.ReadMessage(bytes.NewReader(raw))
		require.NoError(t, err)
		from, err := netmail.ParseAddress(m.Header.Get("From"))
		require.NoError(t, err)
		assert.Equal(t, []string{c.wantFrom, c.wantReplyTo}, []string{from.Address, m.Header.Get("Reply-To")}, "%+v", c)
	}
}

// Letters travel encrypted, or not at all; to this machine alone without, where that is said.
func TestMailIsEncrypted(t *testing.T) {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	require.NoError(t, err)
	template := &x509.Certificate{SerialNumber: big.NewInt(1), Subject: pkix.Name{CommonName: "localhost"},
		NotAfter: time.Now().Add(time.Hour), DNSNames: []string{"localhost"}}
	der, err := x509.CreateCertificate(rand.Reader, template, template, &key.PublicKey, key)
	require.NoError(t, err)
	m := &mailServer{}
	at, stop := m.serving(t, "127.0.0.1:0", &tls.Config{Certificates: []tls.Certificate{{
		Certificate: [][]byte{der}, PrivateKey: key,
	}}})
	defer stop()
	letter, err := mail.Sender{Address: "notices@s.example"}.Write(mail.Letter{
		Key: "1", At: start, To: "a@b.example", Subject: "Änderungen\r\nBcc: eve@x.example", Body: "…\n.\nQUIT\n",
	})
	require.NoError(t, err)
	_, port, _ := net.SplitHostPort(at)
	s, err := mail.NewServer("smtp://localhost:"+port, "")
	require.NoError(t, err)
	assert.ErrorContains(t, s.Send(t.Context(), letter), "certificate", "one that nobody vouches for is not trusted")
	none, stopNone := m.serving(t, "127.0.0.1:0", nil)
	defer stopNone()
	s, err = mail.NewServer("smtp://"+none, "")
	require.NoError(t, err)
	assert.ErrorContains(t, s.Send(t.Context(), letter), "STARTTLS")
	assert.Empty(t, m.took)
	s, err = mail.NewServer("smtp://"+none+"?tls=none", "")
	require.NoError(t, err)
	require.NoError(t, s.Send(t.Context(), letter))
	require.Len(t, m.took, 1)
	assert.Equal(t, string(letter), m.raw[0], "it arrives as it was written")
	assert.Empty(t, m.took[0].Header.Get("Bcc"), "no header is smuggled in")
	for name, values := range m.took[0].Header {
		assert.Len(t, values, 1, name)
	}

	// Whoever signs in to a server on this machine need not encrypt what nobody hears.
	m.signIn = "ines five islands"
	for _, ways := range [][]string{{"PLAIN"}, {"LOGIN"}, {"LOGIN", "PLAIN"}, {"XOAUTH2"}} {
		m.ways = ways
		for password, wants := range map[string]string{"five islands": "", "six": "535"} {
			s, err := mail.NewServer("smtp://ines@"+none+"?tls=none", password)
			require.NoError(t, err)
			err = s.Send(t.Context(), letter)
			var refused mail.Refused
			require.NotErrorAs(t, err, &refused, "another password may be given")
			switch {
			case ways[0] == "XOAUTH2":
				require.ErrorContains(t, err, "no way to sign in")
			case wants == "":
				require.NoError(t, err, ways)
			default:
				require.ErrorContains(t, err, wants)
			}
		}
	}
	require.Len(t, m.took, 4)
	for _, bad := range []string{
		"mail.example.org", "http://mail.example.org", "smtp://", "smtp://mail.example.org:99999",
		"smtp://mail.example.org/x",
		"smtp://mail.example.org?tls=none", "smtp://10.0.0.1:25?tls=none",
	} {
		_, err := mail.NewServer(bad, "")
		assert.Error(t, err, bad)
	}
}
