package standin

import (
	"bytes"
	"encoding/base64"
	"errors"
	"fmt"
	"io/fs"
	"mime/quotedprintable"
	netmail "net/mail"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"time"

	"mastflag/internal/mail"
)

// A PostOffice stands in for a mail server: it lays each letter into a folder,
// as a file of RFC 5322, for whoever runs the program to pass on. Nothing
// leaves the machine. The zero PostOffice has no folder and keeps nothing.
type PostOffice struct {
	dir    string
	sender mail.Sender
}

// OutboxName is the folder of letters within the data folder. What lets someone
// in stands in them and nowhere else.
const OutboxName = "outbox"

// NewPostOffice returns the post office of a data folder, whose letters come from a sender.
func NewPostOffice(data string, sender mail.Sender) PostOffice {
	return PostOffice{filepath.Join(data, OutboxName), sender}
}

var letterName = regexp.MustCompile(`^[0-9a-f]{16,32}\.eml$`)

// unfinished is how the name of a letter begins that is being written.
const unfinished = ".letter-"

// Send lays a letter into the folder under a name of 16 to 32 hex digits. It is on disk, whole, once
// Send returns; where it cannot be, nothing of it is.
func (p PostOffice) Send(name string, l mail.Letter) error {
	if !letterName.MatchString(name) {
		return fmt.Errorf("%q is no name of a letter", name)
	}
	l.Key = strings.TrimSuffix(name, ".eml")
	text, err := p.sender.Write(l)
	if err != nil {
		return err
	}
	if err := os.MkdirAll(p.dir, 0o700); err != nil {
		return err
	}
	f, err := os.CreateTemp(p.dir, unfinished) // for nobody but the program's user
	if err != nil {
		return err
	}
	_, err = f.Write(text)
	if err = errors.Join(err, f.Sync(), f.Close()); err == nil {
		err = os.Rename(f.Name(), filepath.Join(p.dir, name))
	}
	if err != nil {
		return errors.Join(err, os.Remove(f.Name()))
	}
	return nil
}

// Write returns a letter as it would lie there.
func (p PostOffice) Write(l mail.Letter) ([]byte, error) { return p.sender.Write(l) }

// Raw returns a letter as it lies there; an fs.ErrNotExist if it is not there any more.
func (p PostOffice) Raw(name string) ([]byte, error) {
	if !letterName.MatchString(name) {
		return nil, fs.ErrNotExist
	}
	return os.ReadFile(filepath.Join(p.dir, name))
}

// Read returns what a letter says; an fs.ErrNotExist if it is not there any more.
func (p PostOffice) Read(name string) (string, error) {
	raw, err := p.Raw(name)
	if err != nil {
		return "", err
	}
	m, err := netmail.ReadMessage(bytes.NewReader(raw))
	if err != nil {
		return "", err
	}
	body := m.Body
	switch strings.ToLower(m.Header.Get("Content-Transfer-Encoding")) {
	case "quoted-printable":
		body = quotedprintable.NewReader(body)
	case "base64":
		body = base64.NewDecoder(base64.StdEncoding, body)
	}
	var b bytes.Buffer
	_, err = b.ReadFrom(body)
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
			if strings.HasPrefix(e.Name(), unfinished) { // the program ended while it was written
				err = errors.Join(err, os.Remove(filepath.Join(p.dir, e.Name())))
			}
		}
	}
	return err
}
