package records_test

import (
	"bufio"
	"context"
	"crypto/sha256"
	"database/sql"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/document"
	"mastflag/internal/gather"
	"mastflag/internal/records"
	"mastflag/internal/store"
)

var at = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// open opens a store with one site in a folder.
func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	st, err := store.Open(context.Background(), dir)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, ignore(st.AddSite(context.Background(), bundle.Site{
		Key:      "s",
		Name:     "S",
		TimeZone: "Europe/London",
		Language: "en",
	}), store.ErrExists))
	return st
}

func ignore(err, this error) error {
	if err == this {
		return nil
	}
	return err
}

// answer is the n-th answer.
func answer(n int) store.NewRecord {
	return store.NewRecord{Site: "s", Tally: consent.Tally{Day: "2026-12-04", Language: "en", Outcome: "accepted"},
		Record: &consent.Record{
			SchemaVersion: consent.RecordSchema,
			RecordID:      fmt.Sprintf("%032x", n),
			EventTime:     at.Add(time.Duration(n) * time.Minute),
			EventType:     consent.Accepted,
			Notice:        "ask",
			NoticeHash:    "h",
			Language:      "en",
			PlaceRule:     consent.OptIn,
			Purposes: []consent.Outcome{
				{Purpose: "measurement", EventState: consent.Given}, {Purpose: "marketing", EventState: consent.Given},
			},
			Method: "button",
			Page:   "/fares",
		}}
}

func verify(t testing.TB, st *store.Store) (consent.Proof, error) {
	t.Helper()
	head, err := st.ConsentHead(t.Context(), "s")
	require.NoError(t, err)
	return consent.Verify(st.ConsentLinks(t.Context(), "s"), head)
}

// Many at once make one chain; the same answer told again is kept once, another
// of the same id is refused, an erased one does not come back.
func TestKeeper(t *testing.T) {
	st := open(t, t.TempDir())
	k := records.NewKeeper(st)
	var wait sync.WaitGroup
	for n := range 400 {
		wait.Go(func() { assert.NoError(t, k.Add(t.Context(), answer(n%200))) })
	}
	wait.Wait()
	p, err := verify(t, st)
	require.NoError(t, err)
	assert.EqualValues(t, 200, p.Seq)
	counts, err := st.ConsentCounts(t.Context(), "s", "2026-12-01", "2026-12-31")
	require.NoError(t, err)
	require.Len(t, counts, 1)
	assert.Equal(t, 200, counts[0].N, "what is told again is counted once")

	var shortest, longest int
	require.NoError(t, st.DB().QueryRow(
		"SELECT min(length(salt)), max(length(salt)) FROM consent_record").Scan(&shortest, &longest))
	assert.Equal(t, []int{16, 16}, []int{shortest, longest}, "bytes that a commitment hides its content with")

	other := answer(7)
	other.Record.EventType = consent.Refused
	assert.ErrorIs(t, k.Add(t.Context(), other), store.ErrOther)
	require.NoError(t, st.EraseRecord(t.Context(), "s", answer(7).Record.RecordID, at))
	assert.ErrorIs(t, k.Add(t.Context(), answer(7)), store.ErrErased)
	assert.ErrorIs(t, st.EraseRecord(t.Context(), "s", answer(7).Record.RecordID, at), store.ErrErased)
	assert.ErrorIs(t, st.EraseRecord(t.Context(), "s", "nobody", at), store.ErrNotFound)
	p, err = verify(t, st)
	require.NoError(t, err)
	assert.Equal(t, int64(1), p.Erased)
	assert.EqualValues(t, 201, p.Seq)

	unknown := answer(1000)
	unknown.Site = "nowhere"
	assert.Error(t, k.Add(t.Context(), unknown), "a site that is not there")
	assert.NoError(t, k.Add(t.Context(), answer(1001)), "and those after it are kept")
}

// What has been kept long enough is erased, and said to be.
func TestExpire(t *testing.T) {
	st := open(t, t.TempDir())
	k := records.NewKeeper(st)
	for n := range 5 {
		r := answer(n)
		r.Record.EventTime = at.AddDate(0, -10*n, 0)
		require.NoError(t, k.Add(t.Context(), r))
	}
	n, err := k.Expire(t.Context(), at)
	require.NoError(t, err)
	assert.Equal(t, 1, n, "three years are the default: 40 months are more")
	n, err = k.Expire(t.Context(), at.AddDate(0, 8, 0))
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	p, err := verify(t, st)
	require.NoError(t, err)
	assert.Equal(t, int64(2), p.Erased)
}

// Whatever is done to the file, it is found.
func TestTamperingWithTheFile(t *testing.T) {
	for says, statement := range map[string]string{
		"altered": "UPDATE consent_record SET body = replace(body, 'consent_given', 'consent_refused') WHERE seq " +
			"= 3",
		"dropped":          "DELETE FROM consent_record WHERE seq = 4",
		"the last dropped": "DELETE FROM consent_record WHERE seq = 6",
		"moved":            "UPDATE consent_record SET seq = CASE seq WHEN 2 THEN 99 ELSE seq END",
		"erased unsaid":    "UPDATE consent_record SET body = NULL, salt = NULL WHERE seq = 2",
		"another moment":   "UPDATE consent_record SET at = at - 1 WHERE seq = 2",
		"another id":       "UPDATE consent_record SET mark = zeroblob(32) WHERE seq = 2",
		"no id":            "UPDATE consent_record SET mark = NULL WHERE seq = 2",
		"a shorter hash":   "UPDATE consent_record SET hash = x'00' WHERE seq = 5",
		"the head":         "UPDATE consent_head SET seq = seq - 1",
	} {
		dir := t.TempDir()
		st := open(t, dir)
		k := records.NewKeeper(st)
		for n := range 6 {
			require.NoError(t, k.Add(t.Context(), answer(n)))
		}
		_, err := verify(t, st)
		require.NoError(t, err)
		db, err := sql.Open("sqlite", filepath.Join(dir, store.FileName))
		require.NoError(t, err)
		_, err = db.Exec(statement)
		require.NoError(t, err)
		db.Close()
		_, err = verify(t, st)
		assert.Error(t, err, says)
	}
}

// A chain whose end is not as it was left is reported and not continued: what
// followed would hide what was done to it. Other sites' go on, and it does once
// it is as it was.
func TestABrokenChainIsNotContinued(t *testing.T) {
	for name, harm := range map[string][2]string{
		"content": {
			"UPDATE consent_record SET body = replace(body, '/fares', '/rates') WHERE seq = 3",
			"UPDATE consent_record SET body = replace(body, '/rates', '/fares') WHERE seq = 3",
		},
		"a hash":   {"UPDATE consent_record SET hash = zeroblob(32) WHERE seq = 3", ""},
		"its size": {"UPDATE consent_record SET hash = zeroblob(2) WHERE seq = 3", ""},
		"dropped":  {"DELETE FROM consent_record WHERE seq = 3", ""},
		"the head": {"UPDATE consent_head SET seq = 2", "UPDATE consent_head SET seq = 3"},
		"no head":  {"DELETE FROM consent_head", ""},
		"no chain": {"DELETE FROM consent_record", ""},
	} {
		t.Run(name, func(t *testing.T) {
			st := open(t, t.TempDir())
			require.NoError(t, st.AddSite(t.Context(), bundle.Site{Key: "other", Name: "O", TimeZone: "UTC", Language: "en"}))
			k := records.NewKeeper(st)
			for n := range 3 {
				require.NoError(t, k.Add(t.Context(), answer(n)))
			}
			_, err := st.DB().Exec(harm[0])
			require.NoError(t, err)
			var before, after int
			require.NoError(t, st.DB().QueryRow("SELECT count(*) FROM consent_record").Scan(&before))
			var broken *store.BrokenChain
			require.ErrorAs(t, k.Add(t.Context(), answer(7)), &broken)
			require.Error(t, st.EraseRecord(t.Context(), "s", answer(0).Record.RecordID, at))
			elsewhere := answer(8)
			elsewhere.Site = "other"
			require.NoError(t, k.Add(t.Context(), elsewhere))
			require.NoError(t, st.DB().QueryRow("SELECT count(*) FROM consent_record WHERE site = 's'").Scan(&after))
			assert.Equal(t, before, after)
			assert.Contains(t, st.BrokenChains(), "s")
			if harm[1] == "" {
				return
			}
			_, err = st.DB().Exec(harm[1])
			require.NoError(t, err)
			require.NoError(t, k.Add(t.Context(), answer(7)))
			assert.Empty(t, st.BrokenChains())
			_, err = verify(t, st)
			require.NoError(t, err)
		})
	}
}

// acknowledgement is the n-th answer to a disclaimer.
func acknowledgement(n int) store.NewRecord {
	r := answer(n)
	r.Record.EventType, r.Record.Purposes, r.Record.PlaceRule = consent.Acknowledged, nil, ""
	r.Record.Document, r.Record.DocumentVersion = "terms", 1
	r.Tally.Outcome = "acknowledged"
	return r
}

// Killed in the middle of the load, without a chance to finish: of answers to both kinds of questions,
// of erasures and of versions of documents whatever was acknowledged is there, and the chain is whole.
func TestKilled(t *testing.T) {
	const child = "MASTFLAG_TEST_RECORDS"
	nth := func(n int) store.NewRecord {
		if n%2 == 1 {
			return acknowledgement(n)
		}
		return answer(n)
	}
	if dir := os.Getenv(child); dir != "" {
		st := open(t, dir)
		k := records.NewKeeper(st)
		var mu sync.Mutex
		say := func(what string, n int) {
			mu.Lock()
			defer mu.Unlock()
			fmt.Println(what, n)
		}
		for w := range 32 {
			go func() {
				for n := w; ; n += 32 {
					if k.Add(context.Background(), nth(n)) != nil {
						continue
					}
					say("kept", n)
					if n%64 < 8 && st.EraseRecord(context.Background(), "s", nth(n).Record.RecordID, at) == nil {
						say("gone", n)
					}
				}
			}()
		}
		go func() {
			for n := 1; ; n++ {
				v := document.Version{Number: n, Texts: map[string]document.Text{"en": {Title: fmt.Sprint(n)}}}
				if st.AddDocumentVersion(context.Background(), "s", "terms", v) == nil {
					say("out", n)
				}
			}
		}()
		time.Sleep(time.Minute)
		return
	}
	dir := t.TempDir()
	cmd := exec.Command(os.Args[0], "-test.run=TestKilled$")
	cmd.Env = append(os.Environ(), child+"="+dir)
	out, err := cmd.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, cmd.Start())
	said := map[string][]int{}
	lines := bufio.NewScanner(out)
	for lines.Scan() {
		var what string
		var n int
		if _, err := fmt.Sscanf(lines.Text(), "%s %d", &what, &n); err == nil {
			said[what] = append(said[what], n)
		}
		if len(said["kept"]) == 2000 {
			require.NoError(t, cmd.Process.Kill())
		}
	}
	assert.Error(t, cmd.Wait(), "it was killed")
	require.GreaterOrEqual(t, len(said["kept"]), 2000)
	require.NotEmpty(t, said["gone"])
	require.NotEmpty(t, said["out"])
	st := open(t, dir)
	_, err = verify(t, st)
	require.NoError(t, err)
	for _, n := range said["kept"] {
		_, err := st.ConsentLink(t.Context(), "s", nth(n).Record.RecordID)
		require.NoError(t, ignore(err, store.ErrErased), n)
	}
	for _, n := range said["gone"] {
		_, err := st.ConsentLink(t.Context(), "s", nth(n).Record.RecordID)
		require.ErrorIs(t, err, store.ErrErased, n)
	}
	for _, n := range said["out"] {
		v, err := st.DocumentVersion(t.Context(), "s", "terms", n)
		require.NoError(t, err)
		require.Equal(t, fmt.Sprint(n), v.Texts["en"].Title)
	}
}

// More than can wait is refused at once, and nothing of it is kept by half.
func TestBusy(t *testing.T) {
	dir := t.TempDir()
	st := open(t, dir)
	k := records.NewKeeper(st)
	// Someone else has the file for a moment.
	db, err := sql.Open("sqlite", "file:"+filepath.Join(dir, store.FileName)+"?_txlock=immediate")
	require.NoError(t, err)
	defer db.Close()
	hold, err := db.Begin()
	require.NoError(t, err)
	const many = gather.MaxWaiting + gather.BatchSize + 200
	kept, refused := make(chan int, many), make(chan int, many)
	var wait sync.WaitGroup
	for n := range many {
		wait.Go(func() {
			switch err := k.Add(t.Context(), answer(n)); err {
			case nil:
				kept <- n
			case gather.ErrBusy:
				refused <- n
			default:
				t.Error(err)
			}
		})
	}
	require.Eventually(t, func() bool { return len(refused) > 0 }, 20*time.Second, time.Millisecond)
	require.NoError(t, hold.Rollback())
	wait.Wait()
	assert.Equal(t, many, len(kept)+len(refused))
	p, err := verify(t, st)
	require.NoError(t, err)
	assert.EqualValues(t, len(kept), p.Seq)
}

// Records a second, told by many at once, beside as many rows put into the same
// file in batches of the same size with nothing worked out.
func BenchmarkRecords(b *testing.B) {
	const each = 20_000
	for b.Loop() {
		dir := b.TempDir()
		st := open(b, dir)
		k := records.NewKeeper(st)
		began := time.Now()
		var wait sync.WaitGroup
		for w := range 1024 {
			wait.Go(func() {
				for n := w; n < each; n += 1024 {
					if err := k.Add(b.Context(), answer(n)); err != nil {
						b.Error(err)
					}
				}
			})
		}
		wait.Wait()
		ours := time.Since(began)

		raw := open(b, b.TempDir())
		_, err := raw.DB().Exec("CREATE TABLE plain(site TEXT NOT NULL, seq INTEGER NOT NULL, mark BLOB, at INTEGER NOT " +
			"NULL, salt BLOB, body TEXT, commitment BLOB NOT NULL, hash BLOB NOT NULL, PRIMARY KEY(site, seq), UNIQUE(site, " +
			"mark)) STRICT, WITHOUT ROWID")
		require.NoError(b, err)
		body, blob := string(answer(0).Record.Body()), make([]byte, 32)
		began = time.Now()
		for n := 0; n < each; n += gather.BatchSize {
			tx, err := raw.DB().Begin()
			require.NoError(b, err)
			insert, err := tx.Prepare("INSERT INTO plain VALUES('s', ?, ?, ?, ?, ?, ?, ?)")
			require.NoError(b, err)
			for i := n; i < min(n+gather.BatchSize, each); i++ {
				mark := sha256.Sum256(fmt.Append(nil, i)) // as scattered as ours
				_, err := insert.Exec(i, mark[:], i, blob[:16], body, blob, blob)
				require.NoError(b, err)
			}
			require.NoError(b, tx.Commit())
		}
		plain := time.Since(began)
		b.ReportMetric(each/ours.Seconds(), "records/s")
		b.ReportMetric(each/plain.Seconds(), "rows/s")
		b.ReportMetric(plain.Seconds()/ours.Seconds(), "of-raw")
	}
}

// What visitors answer is no reason to compile sites anew; what people change is.
func TestStampTellsAnswersFromChanges(t *testing.T) {
	st := open(t, t.TempDir())
	stamp := func() int64 {
		s, err := st.Stamps(t.Context())
		require.NoError(t, err)
		return s["s"]
	}
	before := stamp()
	require.NoError(t, records.NewKeeper(st).Add(t.Context(), answer(1)))
	require.NoError(t, st.AddRun(t.Context(), "s", consent.Run{Began: at}, nil))
	assert.Equal(t, before, stamp())
	require.NoError(
		t, st.PutPages(t.Context(), "s", []store.Page{{Page: bundle.Page{Path: "/a", Title: "A"}}}, time.Time{}),
	)
	page := stamp()
	assert.NotEqual(t, before, page)
	site, err := st.Site(t.Context(), "s")
	require.NoError(t, err)
	require.NoError(t, st.PutSite(t.Context(), site.Site, site.Revision, store.Entry{At: at}))
	assert.NotEqual(t, page, stamp())
}
