package delivery

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	_ "embed"
	"encoding/base64"
	"encoding/binary"
	"encoding/hex"
	"errors"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/goccy/go-json"

	"mastflag/core/bundle"
	"mastflag/core/decide"
	"mastflag/core/fault"
	"mastflag/core/form"
	"mastflag/core/lookup"
	"mastflag/core/pages"
	"mastflag/core/phrase"
	"mastflag/internal/compiled"
	"mastflag/internal/contacts"
	"mastflag/internal/problem"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// minFillTime is how long people take at least to fill in a form (rule F6).
const minFillTime = 2 * time.Second

// A FormSubmission is what the site script sends of a form.
type FormSubmission struct {
	// 32 hex digits, made by the browser: sent twice, it is kept once.
	ID string `json:"id"`
	// Fingerprint of what was shown.
	Hash   string      `json:"hash"`
	Values form.Values `json:"values"`
	URL    string      `json:"url"`
	// What only the page knows of what hidden fields ask.
	Facts map[string]any `json:"facts,omitempty"`
	// What stood in the field that nobody sees.
	Trap string `json:"trap,omitempty"`
}

var contactID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// formMark answers with a mark that lets the page send a form, a little later (rule F6).
func (d *Delivery) formMark(c *gin.Context) {
	if d.site(c) == nil {
		return
	}
	c.Header("Cache-Control", "no-store")
	c.String(http.StatusOK, d.marks.ofForm(c.Param("key"), d.clock.Now()))
}

// takeForm keeps what was filled in, and replies once it is on disk. The same told again is kept
// once.
func (d *Delivery) takeForm(c *gin.Context) {
	s := d.site(c)
	if s == nil || !d.mayWrite(c, d.forms) {
		return
	}
	body, err := readAll(c.Request, form.MaxBody)
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusRequestEntityTooLarge,
			Title:  "Too large",
			Detail: fmt.Sprintf("A form may take %d KB. Nothing was kept.", form.MaxBody>>10),
		})
		return
	}
	var submission FormSubmission
	if f := bundle.Unfit(body); f != nil {
		problem.Write(c, problem.Problem{Status: http.StatusBadRequest, Title: "Broken form", Detail: f.What + "."})
		return
	}
	if err := json.Unmarshal(body, &submission); err != nil || !contactID.MatchString(submission.ID) {
		problem.Write(c, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Broken form",
			Detail: "The body is not a form in JSON, or its id is not 32 hex digits. Nothing was kept.",
		})
		return
	}
	now := d.clock.Now()
	age, ok := d.marks.formAge(c.Param("key"), c.Query("mark"), now)
	switch {
	case !ok:
		problem.Write(c, problem.Problem{
			Status: http.StatusPreconditionRequired,
			Title:  "Ask first",
			Detail: "A form is taken with a mark that is not older than two hours. Get one, then send the form with it.",
		})
		return
	case age < minFillTime:
		c.Header("Retry-After", "2")
		problem.Write(c, problem.Problem{
			Status: http.StatusTooEarly,
			Title:  "Too early",
			Detail: "Nobody fills in a form so quickly. Send it again in two seconds.",
		})
		return
	}
	shown, err := d.shown(c, s, submission.Hash)
	if err != nil || shown.Form == nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Nothing like that was asked",
			Detail: "This site never showed such a form. Reload the page and fill it in again.",
		})
		return
	}
	if over, err := d.formIsOver(c, s, submission.Hash, shown.Notice, now); err != nil || over {
		if err != nil {
			slog.Error("whether a form is still on offer is not known", "site", c.Param("key"), "error", err)
		}
		problem.Write(c, problem.Problem{
			Status: http.StatusGone,
			Title:  "This form is over",
			Detail: "It is on offer no longer, for two hours or more. Nothing was kept. Reload the page.",
		})
		return
	}
	if submission.Trap != "" {
		problem.Write(c, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Not taken",
			Detail: "A field was filled in that people do not see. Empty it, and send the form again.",
		})
		return
	}
	contact, p := d.newContact(c, s, submission, shown, now)
	if p != nil {
		problem.Write(c, *p)
		return
	}
	ctx, cancel := context.WithTimeout(c.Request.Context(), recordTimeout)
	defer cancel()
	err = d.contacts.Add(ctx, c.Param("key"), contact, shown.Form.Form)
	var many contacts.TooMany
	if errors.As(err, &many) {
		tooMuch(c, many.Wait)
		return
	}
	acknowledge(c, err, "form")
}

// formLasts is how long a form is taken after it was last shown.
const formLasts = 2 * time.Hour

// formIsOver reports whether a form was shown for the last time formLasts ago: its notice was
// unpublished, paused, deleted or changed, its time is over, or the site's notices were switched off.
func (d *Delivery) formIsOver(
	c *gin.Context, s *compiled.Site, hash, notice string, now time.Time,
) (bool, error) {
	ended, err := d.ledger.OfferEnded(c.Request.Context(), c.Param("key"), hash)
	if err != nil || !ended.IsZero() {
		return now.Sub(ended) >= formLasts, err
	}
	_, current := s.Shown[hash]
	return current && len(s.Schedule(notice).Range(now.Add(-formLasts), now.Add(time.Second))) == 0, nil
}

// newContact makes a contact of what was filled in, or says what is wrong with that.
func (d *Delivery) newContact(
	c *gin.Context, s *compiled.Site, submission FormSubmission, shown compiled.Shown, now time.Time,
) (form.Contact, *problem.Problem) {
	visit := decide.Visit{At: now, URL: submission.URL, Facts: map[string]any{}}
	allowed := strings.Split(s.Script.Facts, ",")
	for name, v := range submission.Facts {
		if slices.Contains(allowed, name) {
			visit.Facts[name] = v
		}
	}
	var facts []string
	for _, f := range shown.Form.Fields {
		if f.Fact != "" {
			facts = append(facts, f.Fact)
		}
	}
	if len(facts) > 0 {
		d.source.Fill(visit.Facts, sources.NewWants(facts), c.Request, s.Own)
	}
	if err := visit.Check(); err != nil {
		return form.Contact{}, &problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Broken form",
			Detail: err.Error() + ".",
		}
	}
	answers, wrong, err := form.Read(shown.Form.Fields, submission.Values, func(fact string) string {
		return s.FactText(visit, fact)
	})
	if err != nil {
		return form.Contact{}, &problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "No answer to what was asked",
			Detail: "The form cannot be kept: " + err.Error() + ".",
		}
	}
	if len(wrong) > 0 {
		p := problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Something is not right yet",
			Detail: "Nothing was kept. Mend what is named, and send the form again.",
		}
		for _, f := range shown.Form.Fields {
			if why := wrong[f.ID]; why != "" {
				p.Faults = append(p.Faults, fault.Fault{Pointer: fault.Pointer(f.ID), What: string(why)})
			}
		}
		return form.Contact{}, &p
	}
	out := form.Contact{
		ID: submission.ID, At: now, Notice: shown.Notice, Version: shown.Version, Language: shown.Language,
		Shown: submission.Hash, Page: pathOf(submission.URL), Answers: answers,
		Labels: shown.Form.Labels, Agreed: map[string]string{},
		Expires: shown.Form.Form.Expires(now, s.Zone()),
	}
	for _, a := range answers {
		if a.Kind == form.Agreement {
			out.Agreed[a.Field] = shown.Form.Agreed[a.Field]
		}
	}
	return out, nil
}

// pathOf returns the path of an address, without its query: what stands there may tell who
// somebody is.
func pathOf(address string) string {
	u, err := url.Parse(address)
	if err != nil {
		return ""
	}
	path, err := pages.NormalPath(u.EscapedPath() + "#" + u.EscapedFragment())
	if err != nil {
		return ""
	}
	return path
}

// ofForm returns a mark with which a form is taken: when it was made, and the HMAC of that and
// the site.
func (m *marks) ofForm(site string, now time.Time) string {
	return base64.RawURLEncoding.EncodeToString(m.sealedForm(site, now.UnixMilli()))
}

func (m *marks) sealedForm(site string, ms int64) []byte {
	out := binary.BigEndian.AppendUint64(nil, uint64(ms))
	h := hmac.New(sha256.New, m.secret)
	h.Write([]byte("form of " + site + " "))
	h.Write(out)
	return append(out, h.Sum(nil)[:macSize]...)
}

// formAge returns how old a mark of a site is; ok is false if it is none, or has run out.
func (m *marks) formAge(site, text string, now time.Time) (age time.Duration, ok bool) {
	raw, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(raw) != 8+macSize {
		return 0, false
	}
	ms := int64(binary.BigEndian.Uint64(raw))
	age = now.Sub(time.UnixMilli(ms))
	return age, hmac.Equal(raw, m.sealedForm(site, ms)) && age < markLasts && age > -markEarly
}

// ConfirmAddress is where the address of a contact is confirmed, for a program at the address
// base. Whoever has it got the letter: it cannot be made without the secret.
func ConfirmAddress(secret []byte, base, site, contact string) string {
	return base + "/forms/" + url.PathEscape(site) + "/" + confirmToken(secret, site, contact)
}

func confirmToken(secret []byte, site, contact string) string {
	raw, _ := hex.DecodeString(contact)
	h := hmac.New(sha256.New, secret)
	h.Write([]byte("confirm " + site + " " + contact))
	return base64.RawURLEncoding.EncodeToString(append(raw, h.Sum(nil)[:16]...))
}

// contactToConfirm returns the contact that a token is of, and what was shown to whoever sent it.
func (d *Delivery) contactToConfirm(c *gin.Context) (form.Contact, compiled.Shown, error) {
	s := d.hub.Site(c.Param("key"))
	raw, err := base64.RawURLEncoding.DecodeString(c.Param("token"))
	if s == nil || err != nil || len(raw) != 32 {
		return form.Contact{}, compiled.Shown{}, store.ErrNotFound
	}
	id := hex.EncodeToString(raw[:16])
	if !hmac.Equal([]byte(c.Param("token")), []byte(confirmToken(d.marks.secret, c.Param("key"), id))) {
		return form.Contact{}, compiled.Shown{}, store.ErrNotFound
	}
	contact, err := d.contacts.Contact(c.Request.Context(), c.Param("key"), id)
	if err != nil {
		return form.Contact{}, compiled.Shown{}, err
	}
	shown, err := d.shown(c, s, contact.Shown)
	if err == nil && shown.Form == nil {
		err = store.ErrNotFound
	}
	return contact, shown, err
}

//go:embed confirm.html
var confirmHTML string

var confirmPage = template.Must(template.New("confirm").Parse(confirmHTML))

// confirmPage asks whether the address is theirs. Opening it confirms nothing: programs that
// look into letters open it too.
func (d *Delivery) confirmPage(c *gin.Context) {
	contact, shown, err := d.contactToConfirm(c)
	d.writeConfirmPage(c, contact, shown, err, contact.Confirmed != nil)
}

func (d *Delivery) confirm(c *gin.Context) {
	contact, shown, err := d.contactToConfirm(c)
	if err == nil {
		err = d.contacts.Confirm(c.Request.Context(), c.Param("key"), contact, shown.Form.Form, d.clock.Now())
	}
	d.writeConfirmPage(c, contact, shown, err, true)
}

func (d *Delivery) writeConfirmPage(c *gin.Context, contact form.Contact, shown compiled.Shown, err error, done bool) {
	status := http.StatusOK
	tag, words := contact.Language, phrase.Words{}
	if shown.Form != nil {
		words = shown.Form.Words
	}
	if err != nil {
		status = http.StatusGone
		if !store.IsGone(err) {
			slog.Error("an address was not confirmed", "site", c.Param("key"), "error", err)
			status = http.StatusInternalServerError
		}
		tag = lookup.Choose(phrase.Ready, first(sources.Languages(c.GetHeader("Accept-Language"))), "en")
		words = phrase.In(tag)
	}
	values := map[string]any{
		"Lang": tag, "Dir": lookup.Direction(tag), "Done": done || err != nil, "Button": words[phrase.ConfirmButton],
		"Says": words[phrase.ConfirmAsk], "Address": contact.First(form.Email),
	}
	name := c.Param("key")
	if s := d.hub.Site(name); s != nil {
		name = s.Bundle().Site.Name
	}
	switch {
	case err != nil:
		values["Says"], values["Address"] = words[phrase.ConfirmOver], ""
	case done:
		values["Says"] = words[phrase.Confirmed]
	}
	values["Says"] = phrase.Fill(values["Says"].(string), map[string]string{"site": name})
	values["Site"] = name
	h := c.Writer.Header()
	h.Set("Cache-Control", "no-store")
	h.Set("Referrer-Policy", "no-referrer")
	h.Set("X-Robots-Tag", "noindex")
	h.Set(
		"Content-Security-Policy",
		"default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; base-uri 'none'; "+
			"frame-ancestors 'none'",
	)
	h.Set("Content-Type", "text/html; charset=utf-8")
	c.Status(status)
	if err := confirmPage.Execute(c.Writer, values); err != nil {
		slog.Error("a page was not written", "error", err)
	}
}

func first(list []string) string {
	if len(list) == 0 {
		return ""
	}
	return list[0]
}
