package delivery

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/goccy/go-json"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/compiled"
	"mastflag/internal/gather"
	"mastflag/internal/problem"
	"mastflag/internal/sources"
	"mastflag/internal/store"
)

// MaxAnswer is how large the body that tells of an answer may be, in bytes.
const MaxAnswer = 16 << 10

// recordTimeout is how long a page waits for its answer to be kept.
const recordTimeout = 10 * time.Second

// answer keeps an answer to a consent question, or counts that one was asked.
// It replies once that is on disk. The same answer told again is kept once.
func (d *Delivery) answer(c *gin.Context) {
	s := d.site(c)
	if s == nil {
		return
	}
	if !d.mayWrite(c, d.answers) {
		return
	}
	if !d.marks.holds(c.Param("key"), c.Query("mark"), d.clock.Now()) {
		problem.Write(c, problem.Problem{
			Status: http.StatusPreconditionRequired,
			Title:  "Ask first",
			Detail: "An answer is taken with the mark of a decision that is not older than two hours. Ask for a decision " +
				"again, then tell the answer with its mark.",
		})
		return
	}
	body, err := readAll(c.Request, MaxAnswer)
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusRequestEntityTooLarge,
			Title:  "Too large",
			Detail: fmt.Sprintf("An answer may take %d KB.", MaxAnswer>>10),
		})
		return
	}
	var told consent.Submission
	if f := bundle.Unfit(body); f != nil {
		problem.Write(c, problem.Problem{Status: http.StatusBadRequest, Title: "Broken answer", Detail: f.What + "."})
		return
	}
	if err := json.Unmarshal(body, &told); err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Broken answer",
			Detail: "The body is not an answer in JSON: " + err.Error(),
		})
		return
	}
	shown, err := d.shown(c, s, told.Hash)
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusUnprocessableEntity,
			Title:  "Nothing like that was asked",
			Detail: "The answer is to no question that this site ever showed. Reload the page and answer again.",
		})
		return
	}
	at := d.clock.Now()
	facts := map[string]any{}
	d.source.Fill(facts, placeAndDevice, c.Request, s.Own)
	country, _ := facts["place.country"].(string)
	region, _ := facts["place.region"].(string)
	device, _ := facts["device.kind"].(string)
	n := store.NewRecord{
		Site: c.Param("key"),
		Tally: consent.Tally{
			Day:      at.In(s.Zone()).Format(time.DateOnly),
			Place:    country,
			Language: shown.Language,
			Device:   device,
			Version:  shown.Notice + " " + shown.Version,
			Outcome:  "asked",
		},
	}
	if shown.Disclaimer != nil {
		n.Tally.Version, n.Tally.Outcome = fmt.Sprintf("%s %d", shown.Notice, shown.Disclaimer.Version), "shown"
	}
	if !told.Asked {
		r, err := record(told, shown, at)
		if err != nil {
			problem.Write(c, problem.Problem{
				Status: http.StatusUnprocessableEntity,
				Title:  "No answer to what was asked",
				Detail: "The answer cannot be kept: " + err.Error() + ".",
			})
			return
		}
		r.Notice, r.NoticeVersion, r.Language = shown.Notice, shown.Version, shown.Language
		r.Jurisdiction = s.Consent().Place(country, region).Place
		n.Record, n.Tally.Outcome = &r, string(r.EventType)
		if shown.Disclaimer == nil && len(r.Purposes) < len(shown.Asked) {
			n.Tally.Outcome = "partly" // the question is still open
		}
	}
	var broken *store.BrokenChain
	ctx, cancel := context.WithTimeout(c.Request.Context(), recordTimeout)
	defer cancel()
	err = d.ledger.Add(ctx, n)
	if errors.As(err, &broken) {
		c.Header("Retry-After", "3600")
		problem.Write(c, problem.Problem{
			Status: http.StatusServiceUnavailable,
			Title:  "Nothing can be kept",
			Detail: "The records of this site are damaged, and are not continued before someone has seen to it. Send it again " +
				"later.",
		})
		return
	}
	acknowledge(c, err, "answer")
}

// acknowledge replies whether something of that name is kept: 204 if err is nil.
func acknowledge(c *gin.Context, err error, name string) {
	p := problem.Problem{Status: http.StatusInternalServerError, Title: "Not kept"}
	switch {
	case err == nil:
		c.Status(http.StatusNoContent)
		return
	case errors.Is(err, gather.ErrBusy), errors.Is(err, context.DeadlineExceeded):
		c.Header("Retry-After", "5")
		p.Status, p.Title = http.StatusServiceUnavailable, "Busy"
		p.Detail = "More comes in than can be written. Send it again in some seconds."
	case errors.Is(err, store.ErrOther):
		p.Status, p.Title = http.StatusConflict, "This id is taken"
		p.Detail = fmt.Sprintf("The %s kept under this id says something else. It was not changed.", name)
	case errors.Is(err, store.ErrErased):
		p.Status, p.Title = http.StatusGone, "It was erased"
		p.Detail = fmt.Sprintf("The %s kept under this id was erased. It is not kept again.", name)
	default:
		slog.Error("what a visitor sent was not kept", "what", name, "site", c.Param("key"), "error", err)
		p.Detail = fmt.Sprintf("The %s could not be written. Send it again later.", name)
	}
	problem.Write(c, p)
}

// record makes the record of an answer to what was shown.
func record(told consent.Submission, shown compiled.Shown, at time.Time) (consent.Record, error) {
	d := shown.Disclaimer
	if d == nil {
		return told.Record(shown.Asked, shown.Rule, at)
	}
	r, err := told.Acknowledgement(d.Ask == string(bundle.AskDeclare), d.Version, at)
	r.Document, r.DocumentVersion, r.DocumentHash = d.Document, d.Version, d.DocumentHash
	return r, err
}

var placeAndDevice = sources.NewWants([]string{"place.country", "place.region", "device.kind"})

// shown returns what was shown under a fingerprint: now, or in any version before.
func (d *Delivery) shown(c *gin.Context, s *compiled.Site, hash string) (compiled.Shown, error) {
	if shown, ok := s.Shown[hash]; ok {
		return shown, nil
	}
	var shown compiled.Shown
	doc, err := d.ledger.Shown(c.Request.Context(), c.Param("key"), hash)
	if err == nil {
		err = json.Unmarshal(doc, &shown)
	}
	return shown, err
}

// A Receipt is what a visitor gets who wants to see their record.
type Receipt struct {
	Record json.RawMessage `json:"record"`
	// With which anyone can work out the commitment: SHA-256 of salt and record.
	Salt       string         `json:"salt"`
	Commitment consent.Digest `json:"commitment"`
	Seq        int64          `json:"seq"`
	Hash       consent.Digest `json:"hash"`
	// What was shown.
	Shown json.RawMessage `json:"shown,omitempty"`
}

func (d *Delivery) receipt(c *gin.Context) {
	s := d.site(c)
	if s == nil {
		return
	}
	link, err := d.ledger.ConsentLink(c.Request.Context(), c.Param("key"), c.Param("id"))
	if err != nil {
		noRecord(c, err)
		return
	}
	out := Receipt{
		Record:     link.Body,
		Salt:       fmt.Sprintf("%x", link.Salt),
		Commitment: link.Commitment,
		Seq:        link.Seq,
		Hash:       link.Hash,
	}
	var r consent.Record
	if json.Unmarshal(link.Body, &r) == nil {
		out.Shown, _ = d.ledger.Shown(c.Request.Context(), c.Param("key"), r.NoticeHash)
	}
	c.Header("Cache-Control", "no-store")
	c.JSON(http.StatusOK, out)
}

func (d *Delivery) erase(c *gin.Context) {
	s := d.site(c)
	if s == nil {
		return
	}
	if !d.mayWrite(c, d.answers) {
		return
	}
	if err := d.ledger.EraseRecord(c.Request.Context(), c.Param("key"), c.Param("id"), d.clock.Now()); err != nil {
		noRecord(c, err)
		return
	}
	c.Status(http.StatusNoContent)
}

func noRecord(c *gin.Context, err error) {
	switch {
	case errors.Is(err, store.ErrErased):
		problem.Write(c, problem.Problem{
			Status: http.StatusGone,
			Title:  "Erased",
			Detail: "This answer was kept, and was erased.",
		})
	case errors.Is(err, store.ErrNotFound):
		problem.Write(c, problem.Problem{
			Status: http.StatusNotFound,
			Title:  "No such answer",
			Detail: "No answer of this id is kept here.",
		})
	default:
		problem.Write(c, problem.Problem{
			Status: http.StatusInternalServerError,
			Title:  "Not read",
			Detail: "The answer could not be read. Try again later.",
		})
	}
}
