package standin

import (
	"bytes"
	"errors"
	"fmt"
	"io/fs"
	"mime"
	"net/mail"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"
)

// A PostOffice stands in for a mail server: it lays each letter into a folder,
// as a file of RFC 5322, for whoever runs the program to pass on. Nothing
// leaves the machine. The zero PostOffice has no folder and keeps nothing.
type PostOffice struct{ dir string }

// OutboxName is the folder of letters within the data folder. What lets someone
// in stands in them and nowhere else.
const OutboxName = "outbox"

// NewPostOffice returns the post office of a data folder.
func NewPostOffice(data string) PostOffice { return PostOffice{filepath.Join(data, OutboxName)} }

// A Letter is mail.
type Letter struct {
	At                      time.Time
	From, To, Subject, Body string
}

var letterName = regexp.MustCompile(`^[0-9a-f]{16}\.eml$`)

// Send lays a letter into the folder under a name of 16 hex digits.
func (p PostOffice) Send(name string, l Letter) error {
	if !letterName.MatchString(name) {
		return fmt.Errorf("%q is no name of a letter", name)
	}
	if err := os.MkdirAll(p.dir, 0o700); err != nil {
		return err
	}
	var b bytes.Buffer
	header := func(name, value string) { fmt.Fprintf(&b, "%s: %s\r\n", name, value) }
	header("From", (&mail.Address{Name: "Mast Flag", Address: l.From}).String())
	header("To", (&mail.Address{Address: l.To}).String())
	header("Subject", mime.QEncoding.Encode("utf-8", l.Subject))
	header("Date", l.At.Format(time.RFC1123Z))
	header("Message-ID", "<"+strings.TrimSuffix(name, ".eml")+"@mastflag.invalid>")
	header("MIME-Version", "1.0")
	header("Content-Type", "text/plain; charset=utf-8")
	header("Content-Transfer-Encoding", "8bit")
	lines := strings.NewReplacer("\r\n", "\r\n", "\r", "\r\n", "\n", "\r\n").Replace(l.Body)
	b.WriteString("\r\n" + lines)
	return os.WriteFile(filepath.Join(p.dir, name), b.Bytes(), 0o600)
}

// Read returns what a letter says; an fs.ErrNotExist if it is not there any more.
func (p PostOffice) Read(name string) (string, error) {
	if !letterName.MatchString(name) {
		return "", fs.ErrNotExist
	}
	f, err := os.Open(filepath.Join(p.dir, name))
	if err != nil {
		return "", err
	}
	defer f.Close()
	m, err := mail.ReadMessage(f)
	if err != nil {
		return "", err
	}
	var b bytes.Buffer
	_, err = b.ReadFrom(m.Body)
	return strings.ReplaceAll(b.String(), "\r\n", "\n"), err
}

// Destroy removes a letter, if it is still there.
func (p PostOffice) Destroy(name string) error {
	if !letterName.MatchString(name) {
		return nil
	}
	err := os.Remove(filepath.Join(p.dir, name))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	return err
}

// Clear removes the letters that were laid there before an instant.
func (p PostOffice) Clear(before time.Time) error {
	list, err := os.ReadDir(p.dir)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	for _, e := range list {
		if at, wrong := e.Info(); wrong == nil && at.ModTime().Before(before) {
			err = errors.Join(err, p.Destroy(e.Name()))
		}
	}
	return err
}
