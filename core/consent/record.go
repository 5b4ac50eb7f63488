package consent

import (
	"crypto/sha256"
	"encoding/binary"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"iter"
	"regexp"
	"slices"
	"strings"
	"time"

	"github.com/invopop/jsonschema"

	"mastflag/core/closed"
	"mastflag/core/pages"
)

// A Record is one answer as it is kept for good. The names of fields are those
// of ISO/IEC TS 27560:2023 where it has them (record_id, schema_version,
// language, jurisdiction, purposes, event_time, event_type, event_state; from
// memory); the others are ours. It holds no address and nothing that tells one
// browser from another.
type Record struct {
	SchemaVersion string    `json:"schema_version"`
	RecordID      string    `json:"record_id"`
	EventTime     time.Time `json:"event_time"` // by the server's clock
	EventType     EventType `json:"event_type"`
	// The notice, when that version of it was published (RFC 3339), and the
	// fingerprint of exactly what was shown.
	Notice        string `json:"notice"`
	NoticeVersion string `json:"notice_version"`
	NoticeHash    string `json:"notice_hash"`
	Language      string `json:"language"`
	// What applied where the visitor was.
	Jurisdiction string `json:"jurisdiction,omitempty"`
	PlaceRule    Rule   `json:"place_rule,omitempty"`
	// Those that were answered, in the site's order.
	Purposes []Outcome `json:"purposes,omitempty"`
	// Of a disclaimer: the document that it was about, its version and the SHA-256
	// of that version's text; absent where the notice stood for itself.
	Document        string `json:"document,omitempty"`
	DocumentVersion int    `json:"document_version,omitempty"`
	DocumentHash    string `json:"document_hash,omitempty"`
	// One of Methods.
	Method string `json:"method"`
	// A privacy signal came along.
	Signal bool `json:"signal,omitempty"`
	// The path of the page, without query.
	Page string `json:"page,omitempty"`
}

// An Outcome is what was answered for one purpose.
type Outcome struct {
	Purpose    string     `json:"purpose"`
	EventState EventState `json:"event_state"`
}

// An EventType is what kind of answer it was.
type EventType string

// An EventState is what became of one purpose.
type EventState string

const (
	Accepted EventType = "accepted" // all that was asked
	Refused  EventType = "refused"  // all
	Chosen   EventType = "chosen"   // some
	// Of disclaimers: it was read; what it states is so of the visitor, or is not, or they did not acknowledge it.
	Acknowledged EventType = "acknowledged"
	Declared     EventType = "declared"
	Declined     EventType = "declined"

	Given  EventState = "consent_given"
	Denied EventState = "consent_refused"
)

func (EventState) Values() []string { return closed.Strings(Given, Denied) }

func (EventType) Values() []string {
	return closed.Strings(Accepted, Refused, Chosen, Acknowledged, Declared, Declined)
}

// RecordSchema names the one form of record there is.
const RecordSchema = "mastflag.record/1"

// A Submission is an answer as a page tells it. Nothing in it is believed before
// Record has looked at it.
type Submission struct {
	ID      string   `json:"id"`
	Hash    string   `json:"hash"`
	Granted []string `json:"granted"`
	Refused []string `json:"refused"`
	How     string   `json:"how"`
	Signal  bool     `json:"signal"`
	Page    string   `json:"page"`
	// It is no answer: the question was shown for the first time.
	Asked bool `json:"asked"`
	// Of a disclaimer: acknowledged, declared or declined; and of which version of the document.
	Outcome EventType `json:"outcome"`
	Version int       `json:"version"`
}

var recordID = regexp.MustCompile(`^[0-9a-f]{32}$`)

// Methods is how an answer can be given: by a button of the notice, by allowing
// a frame, by a call of the site's own, by the browser's privacy signal; and
// where the place's rule is not opt-in by closing or by going on.
var Methods = []string{"button", "frame", "call", "signal", "closing", "going-on"}

// Record makes a record of an answer to a notice that was shown as a rule wants
// it, whose asked purposes are given. Notice, version and language are left to
// whoever knows what was shown. The error says what is wrong with the answer.
func (s Submission) Record(asked []string, rule Rule, at time.Time) (Record, error) {
	r := Record{
		SchemaVersion: RecordSchema,
		RecordID:      s.ID,
		EventTime:     at.UTC().Truncate(time.Millisecond),
		NoticeHash:    s.Hash,
		PlaceRule:     rule,
		Method:        s.How,
		Signal:        s.Signal,
	}
	if !recordID.MatchString(s.ID) {
		return r, fmt.Errorf(`"id" is not 32 hexadecimal digits`)
	}
	if !slices.Contains(Methods, s.How) {
		return r, fmt.Errorf(`"how" %.40q is none of %s`, s.How, strings.Join(Methods, ", "))
	}
	if rule == OptIn && (s.How == "closing" || s.How == "going-on") {
		return r, fmt.Errorf("%s is no answer where the rule is opt-in (K6)", s.How)
	}
	if s.How == "signal" && !s.Signal {
		return r, fmt.Errorf(`"how" is signal, and no signal came`)
	}
	var err error
	if r.Page, err = s.path(); err != nil {
		return r, err
	}
	for _, list := range [][]string{s.Granted, s.Refused} {
		for _, p := range list {
			if !slices.Contains(asked, p) {
				return r, fmt.Errorf("purpose %.40q was not asked about", p)
			}
		}
	}
	given := 0
	for _, p := range asked {
		yes, no := slices.Contains(s.Granted, p), slices.Contains(s.Refused, p)
		if s.How == "frame" && !yes && !no {
			continue // it was not what was asked there
		}
		if yes == no {
			return r, fmt.Errorf("purpose %q has to be either granted or refused", p)
		}
		o := Outcome{p, Denied}
		if yes {
			o.EventState, given = Given, given+1
		}
		r.Purposes = append(r.Purposes, o)
	}
	switch given {
	case len(asked):
		r.EventType = Accepted
	case 0:
		r.EventType = Refused
	default:
		r.EventType = Chosen
	}
	return r, nil
}

// path returns the path of the page that tells it, with its route and without query.
func (s Submission) path() (string, error) {
	path, _, _ := strings.Cut(s.Page, "#")
	path, _, _ = strings.Cut(path, "?")
	route, _, _ := strings.Cut(pages.RouteOf(s.Page), "?")
	path += route
	if path != "" && path[0] != '/' || len(path) > 2048 {
		return "", fmt.Errorf(`"page" %.40q is not the path of a page`, s.Page)
	}
	return path, nil
}

// Acknowledgement makes a record of an answer to a disclaimer that was shown and
// asked to declare something, or to acknowledge it, about a version of a
// document; 0 of its own text. Notice, document and language are left to whoever
// knows what was shown. The error says what is wrong with the answer.
func (s Submission) Acknowledgement(declares bool, version int, at time.Time) (Record, error) {
	r := Record{
		SchemaVersion: RecordSchema,
		RecordID:      s.ID,
		EventTime:     at.UTC().Truncate(time.Millisecond),
		EventType:     s.Outcome,
		NoticeHash:    s.Hash,
		Method:        "button",
	}
	yes := Acknowledged
	if declares {
		yes = Declared
	}
	var err error
	switch {
	case !recordID.MatchString(s.ID):
		return r, fmt.Errorf(`"id" is not 32 hexadecimal digits`)
	case s.Outcome != yes && s.Outcome != Declined:
		return r, fmt.Errorf(`"outcome" %.40q is neither %s nor %s`, s.Outcome, yes, Declined)
	case s.Version != version:
		return r, fmt.Errorf("version %d was not what was shown: that was %d", s.Version, version)
	case len(s.Granted)+len(s.Refused) > 0:
		return r, fmt.Errorf("no purpose was asked about")
	}
	r.Page, err = s.path()
	return r, err
}

// Same reports whether two records say the same, whenever they came: a page
// that did not get the reply tells its answer again.
func (r Record) Same(o Record) bool {
	r.EventTime, o.EventTime = time.Time{}, time.Time{}
	return string(r.Body()) == string(o.Body())
}

// Body is a record as bytes, always the same for the same record.
func (r Record) Body() []byte {
	b, err := json.Marshal(r)
	if err != nil {
		panic(fmt.Sprintf("consent: a record cannot be written as JSON: %v", err))
	}
	return b
}

// An Erasure is a record too: that the content of others was erased, by the
// visitor's wish or because it had been kept long enough.
type Erasure struct {
	SchemaVersion string    `json:"schema_version"`
	EventTime     time.Time `json:"event_time"`
	EventType     string    `json:"event_type"` // erased
	Why           string    `json:"why"`        // visitor, or kept
	// Places in the chain.
	Erased []int64 `json:"erased"`
}

// erased is the event_type of an Erasure.
const erased = "erased"

// NewErasure returns the record that others were erased.
func NewErasure(at time.Time, why string, list []int64) Erasure {
	return Erasure{RecordSchema, at.UTC().Truncate(time.Millisecond), erased, why, list}
}

// Body is an erasure as bytes.
func (e Erasure) Body() []byte {
	b, err := json.Marshal(e)
	if err != nil {
		panic(fmt.Sprintf("consent: an erasure cannot be written as JSON: %v", err))
	}
	return b
}

// A Digest is a SHA-256.
type Digest [sha256.Size]byte

func (d Digest) String() string { return hex.EncodeToString(d[:]) }

// MarshalText writes a digest in hex.
func (d Digest) MarshalText() ([]byte, error) { return []byte(d.String()), nil }

// JSONSchema describes a digest as it is written.
func (Digest) JSONSchema() *jsonschema.Schema {
	return &jsonschema.Schema{Type: "string", Pattern: "^[0-9a-f]{64}$"}
}

// UnmarshalText reads a digest in hex.
func (d *Digest) UnmarshalText(b []byte) (err error) {
	*d, err = ReadDigest(string(b))
	return err
}

// ReadDigest reads a digest in hex.
func ReadDigest(s string) (d Digest, err error) {
	b, err := hex.DecodeString(s)
	if err != nil || len(b) != len(d) {
		return d, fmt.Errorf("%q is not a SHA-256 in hex", s)
	}
	return Digest(b), nil
}

// A Link is one place in a chain of records. Its commitment stands for the
// content without giving it away, so that the content can be erased and the
// chain still holds: SHA-256 of a random salt and the content. Its hash is
// SHA-256 of the hash before it, its place and its commitment.
type Link struct {
	Seq        int64 // from 1
	Salt, Body []byte
	Commitment Digest
	Hash       Digest
}

// A Head is where a chain ends: how many records it has, and the last one's hash.
type Head struct {
	Seq  int64  `json:"records"`
	Hash Digest `json:"hash"`
}

// Matches returns why a chain whose last links these are, in order, two at most,
// does not end at the head as it should; nil if it does. It proves nothing of
// what lies before: that is for Verify.
func (h Head) Matches(last []Link) error {
	if len(last) == 0 {
		if h != (Head{}) {
			return fmt.Errorf("the chain should have %d records, and has none", h.Seq)
		}
		return nil
	}
	l := last[len(last)-1]
	var before Digest
	if len(last) > 1 {
		before = last[0].Hash
	}
	switch {
	case l.Head() != h:
		return fmt.Errorf("the chain ends with record %d, %s; it should end with %d, %s", l.Seq, l.Hash, h.Seq, h.Hash)
	case len(last) > 1 && last[0].Seq != l.Seq-1 || len(last) == 1 && l.Seq != 1:
		return fmt.Errorf("record %d is missing", l.Seq-1)
	case l.Body != nil && commit(l.Salt, l.Body) != l.Commitment:
		return fmt.Errorf("record %d was altered: its content is not what was committed to", l.Seq)
	case l.hash(before) != l.Hash:
		return fmt.Errorf("record %d does not follow the one before it", l.Seq)
	}
	return nil
}

// Next returns the link that follows a head.
func (h Head) Next(salt, body []byte) Link {
	l := Link{Seq: h.Seq + 1, Salt: salt, Body: body, Commitment: commit(salt, body)}
	l.Hash = l.hash(h.Hash)
	return l
}

// Read returns what a link holds: a record, or an erasure; nothing where its
// content was erased.
func (l Link) Read() (*Record, *Erasure, error) {
	if l.Body == nil {
		return nil, nil, nil
	}
	var kind struct {
		EventType string `json:"event_type"`
	}
	err := json.Unmarshal(l.Body, &kind)
	if err == nil && kind.EventType == erased {
		var e Erasure
		if err = json.Unmarshal(l.Body, &e); err == nil {
			return nil, &e, nil
		}
	}
	var r Record
	if err == nil {
		err = json.Unmarshal(l.Body, &r)
	}
	if err != nil {
		return nil, nil, fmt.Errorf("record %d cannot be read: %w", l.Seq, err)
	}
	return &r, nil, nil
}

// Head returns the head of the chain that ends with the link.
func (l Link) Head() Head { return Head{l.Seq, l.Hash} }

func commit(salt, body []byte) Digest {
	h := sha256.New()
	h.Write(salt)
	h.Write(body)
	return Digest(h.Sum(nil))
}

func (l Link) hash(before Digest) Digest {
	h := sha256.New()
	h.Write([]byte(RecordSchema))
	h.Write(before[:])
	h.Write(binary.BigEndian.AppendUint64(nil, uint64(l.Seq)))
	h.Write(l.Commitment[:])
	return Digest(h.Sum(nil))
}

// A Proof is what a chain was found to be.
type Proof struct {
	Head
	// Whose content was erased, as other records of the chain say.
	Erased int64 `json:"erased"`
}

// Verify returns the proof that a chain of links, in order, is whole: that
// none was altered, dropped, put in or moved, and that it ends at the head
// that is kept apart from it. The error names the first place where it is not.
func Verify(links iter.Seq2[Link, error], head Head) (Proof, error) {
	var p Proof
	gone, said := map[int64]bool{}, map[int64]bool{}
	for l, err := range links {
		if err != nil {
			return p, err
		}
		if l.Seq != p.Seq+1 {
			return p, fmt.Errorf("record %d is missing: after %d comes %d", p.Seq+1, p.Seq, l.Seq)
		}
		if l.Body == nil {
			gone[l.Seq] = true
		} else if commit(l.Salt, l.Body) != l.Commitment {
			return p, fmt.Errorf("record %d was altered: its content is not what was committed to", l.Seq)
		}
		if l.hash(p.Hash) != l.Hash {
			return p, fmt.Errorf("record %d does not follow the one before it: one of them was altered, put in or moved", l.Seq)
		}
		switch _, e, err := l.Read(); {
		case err != nil:
			return p, err
		case e != nil:
			for _, seq := range e.Erased {
				said[seq] = true
			}
		}
		p.Head = l.Head()
	}
	if p.Head != head {
		return p, fmt.Errorf(
			"the chain ends with record %d, %s; it should end with %d, %s: records at its end were dropped or put in", p.Seq,
			p.Hash, head.Seq, head.Hash,
		)
	}
	for seq := range gone {
		if !said[seq] {
			return p, fmt.Errorf("the content of record %d is gone, and no record says that it was erased", seq)
		}
	}
	for seq := range said {
		if !gone[seq] {
			return p, fmt.Errorf("the content of record %d should be erased, and is there", seq)
		}
	}
	p.Erased = int64(len(gone))
	return p, nil
}
