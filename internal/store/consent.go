package store

import (
	"bytes"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"maps"
	"slices"
	"time"

	"mastflag/core/consent"
	"mastflag/core/document"
)

// Errors of records that callers tell apart.
var (
	// ErrOther refuses a record whose id another one has, that says something else.
	ErrOther = errors.New("a record of this id says something else")
	// ErrErased says that the record was, and was erased.
	ErrErased = errors.New("this record was erased")
)

// A NewRecord is an answer to be kept; the first time it is, it is counted.
// Without a record it is only counted.
type NewRecord struct {
	Site   string
	Record *consent.Record
	Tally  consent.Tally
	// Of the record, made ready by Ready where many can do so side by side.
	body []byte
	mark consent.Digest
}

// Ready returns the record with all made ready that writing it needs.
func (n NewRecord) Ready() NewRecord {
	if n.Record != nil && n.body == nil {
		n.body, n.mark = n.Record.Body(), sha256.Sum256([]byte(n.Record.RecordID))
	}
	return n
}

const addTally = "INSERT INTO consent_count(site, day, place, language, device, version, outcome, n) VALUES(?, ?, ?, " +
	"?, ?, ?, ?, ?) ON CONFLICT DO UPDATE SET n = n + excluded.n"

// AddRecords keeps answers, in order, all or none; what is wrong with single
// ones is in the list of errors, nil for those that are kept, or were before.
func (s *Store) AddRecords(ctx context.Context, list []NewRecord) ([]error, error) {
	wrong := make([]error, len(list))
	err := s.tx(ctx, func(tx *sql.Tx) error {
		insert, err := tx.PrepareContext(ctx, insertRecord)
		if err != nil {
			return err
		}
		defer insert.Close()
		type tally struct {
			site string
			consent.Tally
		}
		tallies := map[tally]int{}
		salts := make([]byte, saltSize*len(list))
		if _, err := rand.Read(salts); err != nil {
			return err
		}
		heads := map[string]consent.Head{}
		for i, n := range list {
			n = n.Ready()
			if n.Record != nil {
				head, known := heads[n.Site]
				if !known {
					var broken *BrokenChain
					if head, err = s.soundHead(ctx, tx, n.Site); errors.As(err, &broken) {
						wrong[i] = err
						continue
					} else if err != nil {
						return err
					}
				}
				link := head.Next(salts[:saltSize:saltSize], n.body)
				salts = salts[saltSize:]
				r, err := insert.ExecContext(
					ctx, n.Site, link.Seq, n.mark[:], n.Record.EventTime.UnixMilli(), link.Salt, string(link.Body), link.Commitment[:],
					link.Hash[:],
				)
				if err != nil {
					return err
				}
				if added, _ := r.RowsAffected(); added == 0 {
					wrong[i] = compare(ctx, tx, n)
					continue
				}
				heads[n.Site] = link.Head()
			}
			tallies[tally{n.Site, n.Tally}]++
		}
		for t, n := range tallies {
			if _, err := tx.ExecContext(
				ctx, addTally, t.site, t.Day, t.Place, t.Language, t.Device, t.Version, t.Outcome, n,
			); err != nil {
				return err
			}
		}
		for site, head := range heads {
			if err := putHead(ctx, tx, site, head); err != nil {
				return err
			}
		}
		return nil
	})
	return wrong, err
}

const (
	saltSize     = 16
	insertRecord = "INSERT INTO consent_record(site, seq, mark, at, salt, body, commitment, hash) VALUES(?, ?, ?, ?, ?, " +
		"?, ?, ?) ON CONFLICT(site, mark) DO NOTHING"
)

// compare returns nil if the record that is kept under the same mark says the
// same, and what is so otherwise.
func compare(ctx context.Context, tx *sql.Tx, n NewRecord) error {
	link, err := one(query(ctx, tx, scanLink, linkColumns+"WHERE site = ? AND mark = ?", n.Site, n.mark[:]))
	if err != nil {
		return err
	}
	have, _, err := link.Read()
	switch {
	case link.Body == nil:
		return ErrErased
	case err == nil && have != nil && have.Same(*n.Record):
		return nil
	}
	return ErrOther
}

const linkColumns = "SELECT seq, salt, body, commitment, hash FROM consent_record "

func scanLink(row *sql.Rows) (consent.Link, error) { return scanAfter(row) }

// scanAfter reads a link that stands after other columns, which go into before.
func scanAfter(row *sql.Rows, before ...any) (consent.Link, error) {
	var l consent.Link
	var commitment, hash []byte
	if err := row.Scan(append(before, &l.Seq, &l.Salt, &l.Body, &commitment, &hash)...); err != nil {
		return l, err
	}
	if len(commitment) != len(l.Commitment) || len(hash) != len(l.Hash) {
		return l, alteredLink(l.Seq)
	}
	l.Commitment, l.Hash = consent.Digest(commitment), consent.Digest(hash)
	return l, nil
}

// An alteredLink is the place of a link that cannot be one.
type alteredLink int64

func (a alteredLink) Error() string {
	return fmt.Sprintf("record %d was altered: its hashes are not as long as they are made", int64(a))
}

// scanRow reads a link, and makes sure that the row says the moment and the id that its content does.
// Of one whose content was erased nothing can be known of them.
func scanRow(row *sql.Rows) (consent.Link, error) {
	var at int64
	var mark []byte
	l, err := scanAfter(row, &at, &mark)
	if err != nil {
		return l, err
	}
	record, erasure, err := l.Read()
	var says time.Time
	var as []byte
	switch {
	case err != nil: // which Verify says, of what it finds first
		return l, nil
	case record != nil:
		sum := sha256.Sum256([]byte(record.RecordID))
		says, as = record.EventTime, sum[:]
	case erasure != nil:
		says = erasure.EventTime
	default:
		return l, nil
	}
	if at != says.UnixMilli() || !bytes.Equal(mark, as) {
		return l, fmt.Errorf("record %d was altered: it lies under another moment, or another id, than it says", l.Seq)
	}
	return l, nil
}

func headOf(ctx context.Context, q queryer, site string) (consent.Head, error) {
	h, err := one(query(ctx, q, func(row *sql.Rows) (consent.Head, error) {
		var h consent.Head
		var hash []byte
		err := row.Scan(&h.Seq, &hash)
		if err == nil && len(hash) == len(h.Hash) {
			h.Hash = consent.Digest(hash)
		}
		return h, err
	}, "SELECT seq, hash FROM consent_head WHERE site = ?", site))
	if errors.Is(err, ErrNotFound) {
		return consent.Head{}, nil
	}
	return h, err
}

// A BrokenChain error refuses to go on with a chain whose end is not as it was
// left: what followed would hide that.
type BrokenChain struct{ Site, Why string }

func (b *BrokenChain) Error() string {
	return fmt.Sprintf("the chain of records of %s is broken, and is not continued: %s", b.Site, b.Why)
}

// soundHead returns where a site's chain ends, having made sure that it does;
// a BrokenChain if not.
func (s *Store) soundHead(ctx context.Context, q queryer, site string) (consent.Head, error) {
	head, err := headOf(ctx, q, site)
	if err != nil {
		return head, err
	}
	last, wrong := query(ctx, q, scanLink, linkColumns+"WHERE site = ? ORDER BY seq DESC LIMIT 2", site)
	slices.Reverse(last)
	var altered alteredLink
	if wrong != nil && !errors.As(wrong, &altered) {
		return head, wrong
	}
	if wrong == nil {
		wrong = head.Matches(last)
	}
	s.health.chain(site, wrong)
	if wrong != nil {
		return head, &BrokenChain{site, wrong.Error()}
	}
	return head, nil
}

// CheckChains looks whether the end of each site's chain is sound; BrokenChains
// then lists those that are not.
func (s *Store) CheckChains(ctx context.Context) error {
	sites, err := s.Sites(ctx)
	for _, site := range sites {
		var broken *BrokenChain
		if _, e := s.soundHead(ctx, s.on(), site.Key); e != nil && !errors.As(e, &broken) {
			err = errors.Join(err, e)
		}
	}
	return err
}

func putHead(ctx context.Context, tx *sql.Tx, site string, h consent.Head) error {
	_, err := tx.ExecContext(
		ctx,
		"INSERT INTO consent_head(site, seq, hash) VALUES(?, ?, ?) ON CONFLICT DO UPDATE SET seq = excluded.seq, hash = "+
			"excluded.hash",
		site, h.Seq, h.Hash[:],
	)
	return err
}

// ConsentHead returns where the chain of a site's records ends; zero if it has none.
func (s *Store) ConsentHead(ctx context.Context, site string) (consent.Head, error) {
	return headOf(ctx, s.on(), site)
}

// ConsentLinks yields the chain of a site's records from its beginning. A link whose row says another
// moment or another id than its content is an error: what is erased by its time, or found by its id,
// follows these.
func (s *Store) ConsentLinks(ctx context.Context, site string) iter.Seq2[consent.Link, error] {
	return func(yield func(consent.Link, error) bool) {
		rows, err := s.on().QueryContext(
			ctx, "SELECT at, mark, seq, salt, body, commitment, hash FROM consent_record WHERE site = ? ORDER BY seq", site,
		)
		if err != nil {
			yield(consent.Link{}, err)
			return
		}
		defer rows.Close()
		for rows.Next() {
			l, err := scanRow(rows)
			if !yield(l, err) || err != nil {
				return
			}
		}
		if err := rows.Err(); err != nil {
			yield(consent.Link{}, err)
		}
	}
}

// ConsentLink returns the link of the record of an id; ErrNotFound if there is
// none, ErrErased if there was.
func (s *Store) ConsentLink(ctx context.Context, site, id string) (consent.Link, error) {
	mark := sha256.Sum256([]byte(id))
	l, err := one(query(ctx, s.on(), scanLink, linkColumns+"WHERE site = ? AND mark = ?", site, mark[:]))
	if err == nil && l.Body == nil {
		err = ErrErased
	}
	return l, err
}

// EraseRecord takes the content of the record of an id out of the chain, and
// adds to the chain that it was.
func (s *Store) EraseRecord(ctx context.Context, site, id string, at time.Time) error {
	l, err := s.ConsentLink(ctx, site, id)
	if err != nil {
		return err
	}
	return s.erase(ctx, site, "visitor", at, func(*sql.Tx) ([]int64, error) { return []int64{l.Seq}, nil })
}

// EraseRecordsBefore does that with all records of answers before an instant,
// and returns how many it was.
func (s *Store) EraseRecordsBefore(ctx context.Context, site string, before, at time.Time) (int, error) {
	n := 0
	err := s.erase(ctx, site, "kept", at, func(tx *sql.Tx) ([]int64, error) {
		list, err := query(ctx, tx, func(row *sql.Rows) (seq int64, err error) { return seq, row.Scan(&seq) },
			"SELECT seq FROM consent_record WHERE site = ? AND mark IS NOT NULL AND body IS NOT NULL AND at < ? ORDER BY seq "+
				"LIMIT 10000", site, before.UnixMilli())
		n = len(list)
		return list, err
	})
	return n, err
}

func (s *Store) erase(ctx context.Context, site, why string, at time.Time, which func(*sql.Tx) ([]int64, error)) error {
	var list []int64
	defer func() {
		if len(list) > 0 {
			s.scrub(ctx)
		}
	}()
	return s.tx(ctx, func(tx *sql.Tx) (err error) {
		list, err = which(tx)
		if err != nil || len(list) == 0 {
			return err
		}
		head, err := s.soundHead(ctx, tx, site)
		if err != nil {
			return err
		}
		for _, seq := range list {
			if _, err := tx.ExecContext(
				ctx, "UPDATE consent_record SET salt = NULL, body = NULL WHERE site = ? AND seq = ?", site, seq,
			); err != nil {
				return err
			}
		}
		salt := make([]byte, saltSize)
		if _, err := rand.Read(salt); err != nil {
			return err
		}
		link := head.Next(salt, consent.NewErasure(at, why, list).Body())
		if _, err := tx.ExecContext(
			ctx, "INSERT INTO consent_record(site, seq, at, salt, body, commitment, hash) VALUES(?, ?, ?, ?, ?, ?, ?)", site,
			link.Seq, at.UnixMilli(), link.Salt, string(link.Body), link.Commitment[:], link.Hash[:],
		); err != nil {
			return err
		}
		return putHead(ctx, tx, site, link.Head())
	})
}

// KeepShown keeps what is shown of notices, by fingerprint, and since when what was shown before is
// on offer no longer: all of it where offered is false. It writes nothing where nothing changes.
func (s *Store) KeepShown(
	ctx context.Context, site string, docs map[string][]byte, offered bool, now time.Time,
) error {
	fresh := maps.Clone(docs)
	var ended, again []string
	_, err := query(ctx, s.on(), func(row *sql.Rows) (none struct{}, err error) {
		var hash string
		var over bool
		if err := row.Scan(&hash, &over); err != nil {
			return none, err
		}
		_, is := docs[hash]
		delete(fresh, hash)
		if is = is && offered; is && over {
			again = append(again, hash)
		} else if !is && !over {
			ended = append(ended, hash)
		}
		return none, nil
	}, "SELECT hash, ended IS NOT NULL FROM consent_shown WHERE site = ?", site)
	if err != nil || len(fresh)+len(ended)+len(again) == 0 {
		return err
	}
	return s.tx(ctx, func(tx *sql.Tx) error {
		var since any
		if !offered {
			since = now.UnixMilli()
		}
		for hash, doc := range fresh {
			if _, err := tx.ExecContext(
				ctx, "INSERT INTO consent_shown(site, hash, doc, ended) VALUES(?, ?, ?, ?) ON CONFLICT DO NOTHING", site, hash,
				string(doc), since,
			); err != nil {
				return err
			}
		}
		for _, change := range []struct {
			hashes []string
			ended  any
		}{{ended, now.UnixMilli()}, {again, nil}} {
			if len(change.hashes) == 0 {
				continue
			}
			if _, err := tx.ExecContext(
				ctx, "UPDATE consent_shown SET ended = ? WHERE site = ? AND hash IN (SELECT value FROM json_each(?))",
				change.ended, site, encode(change.hashes),
			); err != nil {
				return err
			}
		}
		return nil
	})
}

// OfferEnded returns since when what was shown under a fingerprint is on offer no longer, the zero
// time if it is; ErrNotFound if it never was.
func (s *Store) OfferEnded(ctx context.Context, site, hash string) (time.Time, error) {
	return one(query(
		ctx, s.on(), func(row *sql.Rows) (at time.Time, err error) {
			var ms sql.NullInt64
			if err = row.Scan(&ms); ms.Valid {
				at = time.UnixMilli(ms.Int64).UTC()
			}
			return at, err
		}, "SELECT ended FROM consent_shown WHERE site = ? AND hash = ?", site, hash,
	))
}

// Shown returns what was shown under a fingerprint, or ErrNotFound.
func (s *Store) Shown(ctx context.Context, site, hash string) ([]byte, error) {
	return one(query(
		ctx, s.on(), func(row *sql.Rows) (doc []byte, err error) { return doc, row.Scan(&doc) },
		"SELECT doc FROM consent_shown WHERE site = ? AND hash = ?", site, hash,
	))
}

// ConsentCounts returns what was counted of a site from one day to another, both included.
func (s *Store) ConsentCounts(ctx context.Context, site, from, to string) ([]consent.Count, error) {
	return s.counts(ctx, site, from, to, "outcome IN ('asked', 'accepted', 'refused', 'chosen', 'partly')")
}

// counts returns what was counted under some outcomes, a condition of SQL.
func (s *Store) counts(ctx context.Context, site, from, to, outcomes string) ([]consent.Count, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (c consent.Count, err error) {
		return c, row.Scan(&c.Day, &c.Place, &c.Language, &c.Device, &c.Version, &c.Outcome, &c.N)
	}, "SELECT day, place, language, device, version, outcome, n FROM consent_count WHERE site = ? AND day BETWEEN ? "+
		"AND ? AND "+outcomes+" ORDER BY day", site, from, to)
}

// maxRuns is how many inspections of a site are kept.
const maxRuns = 20

// AddRun keeps what an inspection found, and what its check for accessibility
// did; nil if there was none.
func (s *Store) AddRun(ctx context.Context, site string, r consent.Run, checked *document.Checked) error {
	found := ""
	if checked != nil {
		found = encode(checked)
	}
	return s.tx(ctx, func(tx *sql.Tx) error {
		if _, err := tx.ExecContext(
			ctx, "INSERT INTO inspection(site, began, doc, checked) VALUES(?, ?, ?, ?)", site, r.Began.UnixMilli(), encode(r),
			found,
		); err != nil {
			return err
		}
		return keepLatest(ctx, tx, "inspection", site, maxRuns)
	})
}

// Runs returns the last inspections of a site, at most so many, the latest first.
func (s *Store) Runs(ctx context.Context, site string, most int) ([]consent.Run, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (r consent.Run, err error) {
		var doc []byte
		var id int64
		if err := row.Scan(&id, &doc); err != nil {
			return r, err
		}
		err = json.Unmarshal(doc, &r)
		r.ID = id
		return r, err
	}, "SELECT id, doc FROM inspection WHERE site = ? ORDER BY id DESC LIMIT ?", site, most)
}

// ConsentLinksBefore returns the links before a place in the chain, the latest
// first, at most so many.
func (s *Store) ConsentLinksBefore(ctx context.Context, site string, before int64, most int) ([]consent.Link, error) {
	return query(
		ctx, s.on(), scanLink, linkColumns+"WHERE site = ? AND seq < ? ORDER BY seq DESC LIMIT ?", site, before, most,
	)
}

// FindRecords returns the records whose id begins with these digits, the latest
// first, at most so many.
func (s *Store) FindRecords(ctx context.Context, site, id string, most int) ([]consent.Link, error) {
	if len(id) == 32 {
		l, err := s.ConsentLink(ctx, site, id)
		if errors.Is(err, ErrNotFound) {
			return nil, nil
		}
		if errors.Is(err, ErrErased) {
			err = nil
		}
		return []consent.Link{l}, err
	}
	return query(
		ctx, s.on(), scanLink,
		linkColumns+"WHERE site = ? AND substr(json_extract(body, '$.record_id'), 1, ?) = ? ORDER BY seq DESC LIMIT ?", site,
		len(id), id, most,
	)
}
