package store

import (
	"context"
	"database/sql"
	"slices"
	"strings"
	"time"

	"mastflag/core/results"
)

// A CountBatch is acts on the notices of one page view.
type CountBatch struct {
	Site string
	// Of the view; what is told again under the same mark is counted once, until Until.
	Mark  int64
	Until time.Time
	// What each notice of the view is counted by; those without acts may be zero.
	Keys []results.Key
	Acts []CountedAct
	// Something of the page's keeps bars for the top at the bottom.
	Blocked bool
}

// A CountedAct is an act, by its place in results.Acts, on one of the notices of a view, by its
// place in Keys. What is set aside is in no sum.
type CountedAct struct {
	Notice, Act int
	Aside       bool
}

// bit is the act's place among all that can be counted of a view.
func (a CountedAct) bit() int { return a.Notice*len(results.Acts) + a.Act }

const (
	addCounted    = "INSERT INTO counted(site, mark, acts, until) VALUES(?, ?, ?, ?) ON CONFLICT DO NOTHING"
	changeCounted = "UPDATE counted SET acts = ?, until = max(until, ?) WHERE site = ? AND mark = ?"
)

// addResult adds sums to a row.
var addResult = func() string {
	var columns, places, sums []string
	for _, a := range results.Acts {
		columns, places = append(columns, string(a)), append(places, "?")
		sums = append(sums, string(a)+" = "+string(a)+" + excluded."+string(a))
	}
	return "INSERT INTO result(site, notice, day, version, wording, variant, page, device, " +
		strings.Join(columns, ", ") + ") VALUES(?, ?, ?, ?, ?, ?, ?, ?, " + strings.Join(places, ", ") +
		") ON CONFLICT DO UPDATE SET " + strings.Join(sums, ", ")
}()

// AddCounts counts acts, all or none. Each act of a notice counts once a view.
func (s *Store) AddCounts(ctx context.Context, list []CountBatch) ([]error, error) {
	type siteKey struct {
		site string
		results.Key
	}
	sums := map[siteKey]*results.Sums{}
	aside := map[siteKey]int{}
	err := s.tx(ctx, func(tx *sql.Tx) error {
		insert, err := tx.PrepareContext(ctx, addCounted)
		if err != nil {
			return err
		}
		defer insert.Close()
		for _, b := range list {
			fresh, err := b.fresh(ctx, tx, insert)
			if err != nil {
				return err
			}
			if b.Blocked && len(b.Keys) > 0 && b.Keys[0].Page != "" { // all are of one view
				if _, err := tx.ExecContext(
					ctx, "INSERT INTO blocked_top(site, page, day) VALUES(?, ?, ?) ON CONFLICT DO UPDATE SET day = "+
						"max(day, excluded.day)", b.Site, b.Keys[0].Page, b.Keys[0].Day,
				); err != nil {
					return err
				}
			}
			for _, a := range fresh {
				k := siteKey{b.Site, b.Keys[a.Notice]}
				if a.Aside {
					aside[siteKey{b.Site, results.Key{Notice: k.Notice, Day: k.Day}}]++
					continue
				}
				if sums[k] == nil {
					sums[k] = &results.Sums{}
				}
				*sums[k].Each()[a.Act]++
			}
		}
		add, err := tx.PrepareContext(ctx, addResult)
		if err != nil {
			return err
		}
		defer add.Close()
		for k, sum := range sums {
			if err := addSums(ctx, add, k.site, results.Row{Key: k.Key, Sums: *sum}); err != nil {
				return err
			}
		}
		for k, n := range aside {
			if _, err := tx.ExecContext(
				ctx, "INSERT INTO set_aside(site, notice, day, acts) VALUES(?, ?, ?, ?) ON CONFLICT DO UPDATE SET acts = acts + "+
					"excluded.acts", k.site, k.Notice, k.Day, n,
			); err != nil {
				return err
			}
		}
		return nil
	})
	return make([]error, len(list)), err
}

// SetAside returns how many acts were set aside, because far too many came from one network.
func (s *Store) SetAside(ctx context.Context, site string, f ResultFilter) (n int, err error) {
	err = s.on().QueryRowContext(
		ctx, "SELECT coalesce(sum(acts), 0) FROM set_aside WHERE site = ? AND ? IN ('', notice) AND day >= ? AND "+
			"(? = '' OR day <= ?)",
		site, f.Notice, f.From, f.Until, f.Until,
	).Scan(&n)
	return n, err
}

// blockedLasts is for how many days it is kept that bars for the top stood at the bottom of a page.
const blockedLasts = 7

// BlockedTops returns the pages of a site on which bars for the top stood at the bottom lately, in order.
func (s *Store) BlockedTops(ctx context.Context, site string) ([]string, error) {
	return query(ctx, s.on(), func(row *sql.Rows) (page string, err error) { return page, row.Scan(&page) },
		"SELECT page FROM blocked_top WHERE site = ? ORDER BY page", site)
}

// fresh returns the acts of a batch that were not counted before, and notes that they are.
func (b CountBatch) fresh(ctx context.Context, tx *sql.Tx, insert *sql.Stmt) ([]CountedAct, error) {
	bits := make([]byte, (len(b.Keys)*len(results.Acts)+7)/8)
	has := func(bits []byte, a CountedAct) bool {
		i := a.bit()
		return i/8 < len(bits) && bits[i/8]&(1<<(i%8)) != 0
	}
	var once []CountedAct
	for _, a := range b.Acts {
		if !has(bits, a) {
			bits[a.bit()/8] |= 1 << (a.bit() % 8)
			once = append(once, a)
		}
	}
	r, err := insert.ExecContext(ctx, b.Site, b.Mark, bits, b.Until.UnixMilli())
	if err != nil {
		return nil, err
	}
	if added, err := r.RowsAffected(); err != nil || added > 0 {
		return once, err
	}
	var before []byte
	row := tx.QueryRowContext(ctx, "SELECT acts FROM counted WHERE site = ? AND mark = ?", b.Site, b.Mark)
	if err := row.Scan(&before); err != nil {
		return nil, err
	}
	once = slices.DeleteFunc(once, func(a CountedAct) bool { return has(before, a) })
	for i := range min(len(bits), len(before)) {
		bits[i] |= before[i]
	}
	_, err = tx.ExecContext(ctx, changeCounted, bits, b.Until.UnixMilli(), b.Site, b.Mark)
	return once, err
}

// addSums adds a row's sums by the prepared statement addResult.
func addSums(ctx context.Context, add *sql.Stmt, site string, r results.Row) error {
	args := []any{site, r.Notice, r.Day, r.Version, r.Wording, r.Variant, r.Page, r.Device}
	for _, n := range r.Sums.Each() {
		args = append(args, *n)
	}
	_, err := add.ExecContext(ctx, args...)
	return err
}

// AddResults adds sums, all or none.
func (s *Store) AddResults(ctx context.Context, site string, rows []results.Row) error {
	return s.tx(ctx, func(tx *sql.Tx) error {
		add, err := tx.PrepareContext(ctx, addResult)
		if err != nil {
			return err
		}
		defer add.Close()
		for _, r := range rows {
			if err := addSums(ctx, add, site, r); err != nil {
				return err
			}
		}
		return nil
	})
}

// A ResultFilter is which sums are wanted; what is "" or zero wants all.
type ResultFilter struct {
	Notice string
	// Days on the site's clock, both included, as 2026-12-04.
	From, Until string
}

// Results returns sums by all that they are counted by, in the order of notice, day and the rest.
func (s *Store) Results(ctx context.Context, site string, f ResultFilter) ([]results.Row, error) {
	columns := make([]string, len(results.Acts))
	for i, a := range results.Acts {
		columns[i] = string(a)
	}
	where, args := "site = ?", []any{site}
	for _, c := range []struct{ value, is string }{
		{f.Notice, "notice = ?"}, {f.From, "day >= ?"}, {f.Until, "day <= ?"},
	} {
		if c.value != "" {
			where, args = where+" AND "+c.is, append(args, c.value)
		}
	}
	scan := func(row *sql.Rows) (r results.Row, err error) {
		to := []any{&r.Notice, &r.Day, &r.Version, &r.Wording, &r.Variant, &r.Page, &r.Device}
		for _, n := range r.Sums.Each() {
			to = append(to, n)
		}
		return r, row.Scan(to...)
	}
	return query(ctx, s.on(), scan, "SELECT notice, day, version, wording, variant, page, device, "+
		strings.Join(columns, ", ")+" FROM result WHERE "+where+
		" ORDER BY notice, day, version, wording, variant, page, device", args...)
}

// ExpireCounted forgets which acts were counted of views whose marks cannot be used any more, and where bars stood
// elsewhere long ago.
func (s *Store) ExpireCounted(ctx context.Context, now time.Time) (int64, error) {
	last := now.AddDate(0, 0, -blockedLasts).UTC().Format(time.DateOnly)
	if _, err := s.exec(ctx, "DELETE FROM blocked_top WHERE day < ?", last); err != nil {
		return 0, err
	}
	r, err := s.exec(ctx, "DELETE FROM counted WHERE until < ?", now.UnixMilli())
	if err != nil {
		return 0, err
	}
	return r.RowsAffected()
}
