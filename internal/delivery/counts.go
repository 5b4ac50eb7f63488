package delivery

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/base64"
	"encoding/binary"
	"errors"
	"fmt"
	"hash"
	"math/rand/v2"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/goccy/go-json"

	"mastflag/core/audience"
	"mastflag/core/decide"
	"mastflag/core/results"
	"mastflag/internal/access"
	"mastflag/internal/compiled"
	"mastflag/internal/problem"
	"mastflag/internal/store"
)

// What can be counted of a page view is what its decision carried, and nothing else: the answer
// has a mark, which is the minute, a number of its own, and the HMAC of those with the site, the
// page and the list of notices as they were shown. Whoever tells of acts gives list and mark back.

// How long a mark can be used: for acts on the page, and, beyond the time in which a goal can be
// reached, for that alone.
const (
	countLasts = 6 * time.Hour
	goalSlack  = time.Hour
)

// MaxCounts is how large the body that tells of acts may be, in bytes; maxActs how many acts, and
// maxShown how many notices, it may name.
const (
	MaxCounts = 32 << 10
	maxActs   = 200
	maxShown  = 100
)

// A CountState is what a page needs to tell what became of its notices.
type CountState struct {
	Mark string `json:"mark"`
	// Path of the page if it is known, else "".
	Page string `json:"page"`
	// What the page carries, as it is counted: id, version, wording and variant, with blanks between. Those that visitors
	// are held out of have the variant held-out.
	Shown []string `json:"shown"`
	// Of those held out, by their place in Shown: what has to come true before they would have shown.
	Held map[int]*audience.Node `json:"held,omitempty"`
	// Where those are that are compared and may lie below what visitors see, by their place in Shown.
	Places map[int]compiled.Place `json:"places,omitempty"`
	// What helps to count may be kept by the browser (rule E8).
	Keep bool `json:"keep,omitempty"`
	// A draw is to be made, and the decision asked for again with it (rule E4).
	Draw bool `json:"draw,omitempty"`
	// Ids of notices whose goal this page is.
	Reached []string `json:"reached,omitempty"`
	// Properties of events that texts and audiences want, as NAME.PROPERTY.
	Properties []string `json:"properties,omitempty"`
	// Of the site's published notices that have one, by id.
	Goals map[string]compiled.Goal `json:"goals,omitempty"`
}

// A CountReport is acts that a page tells of, with what was in its CountState.
type CountReport struct {
	Mark  string        `json:"mark"`
	Page  string        `json:"page"`
	Shown []string      `json:"shown"`
	Acts  []ReportedAct `json:"acts"`
	// A bar for the top stood at the bottom (rule G4).
	Blocked bool `json:"blocked,omitempty"`
}

// A ReportedAct is an act on a notice, by its place in Shown.
type ReportedAct struct {
	Of  int         `json:"of"`
	Act results.Act `json:"act"`
}

// countMarks makes and reads the marks of what can be counted.
type countMarks struct {
	macs sync.Pool // of hash.Hash
}

func newCountMarks(secret []byte) *countMarks {
	return &countMarks{macs: sync.Pool{New: func() any { return hmac.New(sha256.New, secret) }}}
}

// A countMark is when a decision was made, by the minute, and its number.
type countMark struct {
	minute uint32
	number uint64
}

const countMarkSize = 4 + 8

// sealed returns a mark, with its HMAC, of what a page of a site carries.
func (m *countMarks) sealed(mark countMark, site, page string, shown []string) []byte {
	out := binary.BigEndian.AppendUint32(make([]byte, 0, countMarkSize+sha256.Size), mark.minute)
	out = binary.BigEndian.AppendUint64(out, mark.number)
	h := m.macs.Get().(hash.Hash)
	defer m.macs.Put(h)
	h.Reset()
	h.Write([]byte("counts "))
	h.Write(out)
	var length [binary.MaxVarintLen64]byte
	put := func(text string) { // with its length, so that two lists are never written alike
		h.Write(length[:binary.PutUvarint(length[:], uint64(len(text)))])
		h.Write([]byte(text))
	}
	put(site)
	put(page)
	for _, s := range shown {
		put(s)
	}
	return h.Sum(out)[:countMarkSize+macSize]
}

// read returns the mark that a text is; ok is false if it is not that of this page with these
// notices.
func (m *countMarks) read(text, site, page string, shown []string) (mark countMark, ok bool) {
	raw, err := base64.RawURLEncoding.DecodeString(text)
	if err != nil || len(raw) != countMarkSize+macSize {
		return countMark{}, false
	}
	mark = countMark{binary.BigEndian.Uint32(raw), binary.BigEndian.Uint64(raw[4:])}
	return mark, hmac.Equal(raw, m.sealed(mark, site, page, shown))
}

// age is how long ago the mark was made.
func (m countMark) at() time.Time { return time.Unix(int64(m.minute)*60, 0) }

func (m countMark) age(now time.Time) time.Duration { return now.Sub(m.at()) }

// maxCarried is how many notices a page view seldom has more of.
const maxCarried = 8

// counted appends a CountState: of the notices that the answer carries, in shown, and of those that
// the visitor is held out of. It is written by hand because every page view has one.
func (d *Delivery) counted(
	out []byte, shown []string, s *compiled.Site, decision decide.Decision, language string, a ask,
) []byte {
	held := map[int]*audience.Node{}
	for _, h := range decision.HeldOut {
		_, tag := s.Piece(h.ID, "", language, place(decision))
		if h.Remainder != nil {
			held[len(shown)] = h.Remainder
		}
		shown = append(shown, s.CountedAs(h.ID, tag, results.HeldOut))
	}
	if len(shown) == 0 && len(s.Goals) == 0 && s.PropertiesJSON == nil {
		return out
	}
	page, known := s.KnownPath(a.URL)
	if !known {
		page = ""
	}
	mark := countMark{uint32(decision.At.Unix() / 60), rand.Uint64()}
	sealed := d.countMarks.sealed(mark, s.Bundle().Site.Key, page, shown)
	out = append(base64.RawURLEncoding.AppendEncode(append(out, `,"results":{"mark":"`...), sealed), `","page":`...)
	out = append(append(out, scriptJSON(page)...), `,"shown":[`...)
	for i, text := range shown { // of ids, figures and language tags: nothing to be escaped
		if i > 0 {
			out = append(out, ',')
		}
		out = append(append(append(out, '"'), text...), '"')
	}
	out = append(out, ']')
	if len(held) > 0 {
		out = append(append(out, `,"held":`...), scriptJSON(held)...)
	}
	out = places(out, shown, s, a.URL)
	if decision.MayMeasure {
		out = append(out, `,"keep":true`...)
		if s.Draws() && a.Memory.Draw == "" {
			out = append(out, `,"draw":true`...)
		}
	}
	if s.PropertiesJSON != nil {
		out = append(append(out, `,"properties":`...), s.PropertiesJSON...)
	}
	if len(s.Goals) > 0 {
		if reached := s.GoalsOn(a.URL); reached != nil {
			out = append(append(out, `,"reached":`...), scriptJSON(reached)...)
		}
		out = append(append(out, `,"goals":`...), s.GoalsJSON...)
	}
	return append(out, '}')
}

// places appends where those that are compared are that may lie below what visitors see.
func places(out []byte, shown []string, s *compiled.Site, address string) []byte {
	first := true
	for i, text := range shown {
		id, _, _ := strings.Cut(text, " ")
		place := s.Place(id)
		if place == nil {
			continue
		}
		out = append(out, map[bool]string{true: `,"places":{"`, false: `,"`}[first]...)
		first = false
		out = append(strconv.AppendInt(out, int64(i), 10), '"', ':')
		out = append(spotted(append(out, place[:len(place)-1]...), s, id, address), '}')
	}
	if !first {
		out = append(out, '}')
	}
	return out
}

// count counts what a page tells of. It replies once that is on disk. The same told again is
// counted once.
func (d *Delivery) count(c *gin.Context) {
	s := d.site(c)
	if s == nil || !d.mayWrite(c, d.counts) {
		return
	}
	body, err := readAll(c.Request, MaxCounts)
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusRequestEntityTooLarge,
			Title:  "Too large",
			Detail: fmt.Sprintf("What is counted at once may take %d KB. Send less at once.", MaxCounts>>10),
		})
		return
	}
	var report CountReport
	if err := json.Unmarshal(body, &report); err != nil {
		problem.Write(c, problem.Problem{
			Status: http.StatusBadRequest,
			Title:  "Broken counts",
			Detail: "The body does not tell of acts in JSON: " + err.Error(),
		})
		return
	}
	batch, status, err := d.batch(s, report, c.Param("key"), d.clock.Now())
	if err != nil {
		problem.Write(c, problem.Problem{
			Status: status, Title: "Not counted", Detail: "Nothing was counted: " + err.Error() + ".",
		})
		return
	}
	facts := map[string]any{}
	d.source.Fill(facts, placeAndDevice, c.Request, s.Own)
	device, _ := facts["device.kind"].(string)
	for i := range batch.Keys {
		batch.Keys[i].Device = device
	}
	d.setAside(&batch, access.Network(d.source.Address(c.Request)).String())
	ctx, cancel := context.WithTimeout(c.Request.Context(), recordTimeout)
	defer cancel()
	acknowledge(c, d.counter.Add(ctx, batch), "count")
}

// setAside marks the acts of a batch that are improbable, because far too many come from the
// network that they come from.
func (d *Delivery) setAside(b *store.CountBatch, network string) {
	acts := make([]int, len(b.Keys))
	for _, a := range b.Acts {
		acts[a.Notice]++
	}
	for i, n := range acts {
		if n == 0 || !d.crowds.take(crowdKey{b.Site, b.Keys[i].Notice, b.Keys[i].Day}, network, n) {
			continue
		}
		for k := range b.Acts {
			b.Acts[k].Aside = b.Acts[k].Aside || b.Acts[k].Notice == i
		}
	}
}

// batch reads what a page tells of; the error is why it is not counted, with its status.
func (d *Delivery) batch(
	s *compiled.Site, r CountReport, site string, now time.Time,
) (b store.CountBatch, status int, err error) {
	mark, ok := d.countMarks.read(r.Mark, site, r.Page, r.Shown)
	switch {
	case len(r.Shown) > maxShown || len(r.Acts) > maxActs:
		return b, http.StatusRequestEntityTooLarge, fmt.Errorf("at most %d acts are told of at once", maxActs)
	case !ok:
		return b, http.StatusUnprocessableEntity, errors.New("no decision of this site showed that on this page")
	case mark.age(now) < -markEarly:
		return b, http.StatusUnprocessableEntity, errors.New("its decision lies ahead")
	}
	day := mark.at().In(s.Zone()).Format(time.DateOnly) // of the page view, so that shares are of the same visitors
	b = store.CountBatch{
		Site: site, Mark: int64(mark.number), Until: now.Add(countLasts - mark.age(now)),
		Blocked: r.Blocked && mark.age(now) < countLasts,
	}
	for _, text := range r.Shown {
		k, err := compiled.ReadCountedAs(text)
		if err != nil {
			return b, http.StatusUnprocessableEntity, err
		}
		k.Day, k.Page = day, r.Page
		b.Keys = append(b.Keys, k)
	}
	for _, a := range r.Acts {
		act := slices.Index(results.Acts, a.Act)
		if act < 0 || a.Of < 0 || a.Of >= len(b.Keys) {
			return b, http.StatusBadRequest, fmt.Errorf(
				"there is no act %.40q on notice %d of those shown",
				a.Act,
				a.Of,
			)
		}
		key := b.Keys[a.Of]
		if key.Variant == results.HeldOut && a.Act != results.Visitors && a.Act != results.Reached {
			return b, http.StatusUnprocessableEntity, fmt.Errorf("%q was not shown to this visitor", key.Notice)
		}
		lasts := countLasts
		// Whoever met it may still reach its goal, and may tell with that, once more, that they met it.
		reaches := slices.ContainsFunc(r.Acts, func(b ReportedAct) bool { return b.Of == a.Of && b.Act == results.Reached })
		if goal, has := s.Goals[key.Notice]; has && reaches && (a.Act == results.Visitors || a.Act == results.Reached) {
			lasts = max(lasts, time.Duration(goal.Within)*time.Millisecond+goalSlack)
			b.Until = latest(b.Until, now.Add(lasts-mark.age(now)))
		}
		if mark.age(now) >= lasts {
			return b, http.StatusGone, errors.New("its decision is too old")
		}
		b.Acts = append(b.Acts, store.CountedAct{Notice: a.Of, Act: act})
	}
	return b, 0, nil
}

func latest(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}
