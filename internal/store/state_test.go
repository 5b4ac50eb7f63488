package store_test

import (
	"crypto/sha256"
	"database/sql"
	"encoding/hex"
	"errors"
	"maps"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"slices"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	_ "modernc.org/sqlite"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

// frozen are the migrations that have landed, by the SHA-256 of their text. One
// that people have run is never changed: the next one is added, and its line
// here, and testdata gets a database of the state before.
var frozen = map[string]string{
	"001_first.sql":     "001eebe59c7ed05004677daa531e40c8b87745983a21f2a569a2cc8b3739a08c",
	"002_tokens.sql":    "3a8dc0141e424f24a29d97def5fd1991299ef3f8cedc49a7e26695598b820ce7",
	"003_documents.sql": "b3cb798e0435ceb6cd0d660fefcc66c904aa1509bd128aa089a22857ddf53fd3",
	"004_blocks.sql":    "cff68a3432b7509825c77ce715f0b4ef83de2e62126f70b62bc0e039d07d9ad6",
	"005_surveys.sql":   "991bccfebbc7326584fbf96c581449d0a29ba73f54994f8645f6750936072027",
	"006_names.sql":     "0bfa427f8d8cd523cb33a9fdba345552fb8f330fe2b2dc2d325548c3e30b279e",
	"007_contacts.sql":  "090ea4569d3aebe7cb2b5febff512848c1c7f07410b7da2c33bb181c2d047b53",
	"008_results.sql":   "8748d6e8c07f99f7c0c7f62baa6fb01cd0ad5e4aeff0fa23adb2063203b12e21",
	"009_speed.sql":     "27e6c839e49290b48802e230b2e404afc5e865c91147202d464c6c3e9d22454c",
	"010_letters.sql":   "69ff405f038b494b40e58201a04bba56023b417ba7c722cbc8f0a62eb10b5b22",
	"011_top.sql":       "c90e4ce68d4a5d0b561807faa2ac609ba58dee2569f0531aa88d37dea548de4a",
}

func TestMigrationsAreNeverChanged(t *testing.T) {
	files, err := filepath.Glob("migrations/*.sql")
	require.NoError(t, err)
	assert.Len(t, files, len(frozen), "a new migration has its line in frozen")
	for _, f := range files {
		raw, err := os.ReadFile(f)
		require.NoError(t, err)
		sum := sha256.Sum256(raw)
		assert.Equal(
			t, frozen[filepath.Base(f)], hex.EncodeToString(sum[:]), "%s has been changed; add another migration instead", f,
		)
	}
	states, err := filepath.Glob("testdata/*.sql")
	require.NoError(t, err)
	assert.Len(t, states, len(frozen)-1, "there is a database of every state before the last")
}

// restored makes a data folder of a state that is kept as SQL.
func restored(t *testing.T, state string) string {
	t.Helper()
	dir := t.TempDir()
	text, err := os.ReadFile(state)
	require.NoError(t, err)
	db, err := sql.Open("sqlite", filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	_, err = db.Exec(string(text))
	require.NoError(t, err)
	require.NoError(t, db.Close())
	return dir
}

// Each database of an earlier state opens with all that people have in it, and
// with no token in clear, nor where one lay.
func TestEarlierStatesOpen(t *testing.T) {
	states, err := filepath.Glob("testdata/*.sql")
	require.NoError(t, err)
	for _, state := range states {
		t.Run(filepath.Base(state), func(t *testing.T) {
			dir := restored(t, state)
			ctx := t.Context()
			require.ErrorIs(t, store.Current(ctx, dir), store.ErrEarlier)
			// A program is at work on the tables as they are.
			held, err := os.Create(filepath.Join(dir, ".lock"))
			require.NoError(t, err)
			require.NoError(t, syscall.Flock(int(held.Fd()), syscall.LOCK_SH))
			_, err = store.Open(ctx, dir)
			require.ErrorIs(t, err, store.ErrInUse)
			require.ErrorIs(t, store.Current(ctx, dir), store.ErrEarlier)
			require.NoError(t, held.Close())

			st, err := store.Open(ctx, dir)
			require.NoError(t, err)
			require.NoError(t, store.Current(ctx, dir))
			shared, err := store.Open(ctx, dir)
			require.NoError(t, err, "it is held alone no longer than need be")
			require.NoError(t, shared.Close())
			site, err := st.Site(ctx, "sundrey")
			require.NoError(t, err)
			assert.Equal(t, "Sundrey Isles Ferries", site.Name)
			assert.Len(t, site.Audiences, 1)
			list, err := st.Notices(ctx, "sundrey")
			require.NoError(t, err)
			byID := map[string]store.Notice{}
			for _, n := range list {
				byID[n.ID] = n
				assert.Empty(t, n.Working().Check(site.Site), n.ID)
			}
			require.Len(t, byID, 4)
			assert.Equal(t, bundle.Published, byID["storm"].State)
			assert.Equal(t, "Storm, second thoughts", byID["storm"].Draft.Title)
			assert.Equal(t, "Storm", byID["storm"].Published.Title)
			assert.Equal(t, bundle.Paused, byID["fridays"].State)
			v, err := st.Version(ctx, "sundrey", "storm", 1)
			require.NoError(t, err)
			assert.Equal(t, "Keine Fahrten.", v.Wordings()["de"].Message)
			lines, err := st.History(ctx, "sundrey", "storm")
			require.NoError(t, err)
			require.NotEmpty(t, lines)
			done := map[string]int{}
			all, err := st.Activity(ctx, "sundrey", "", true)
			require.NoError(t, err)
			for _, d := range all {
				done[d.By.ID()+" "+d.Deed.String()]++
				assert.NotContains(t, string(d.Deed.Act), " ", "what was done is kept as a code")
			}
			assert.Subset(t, slices.Collect(maps.Keys(done)), []string{
				"import imported it", "import published it", "ines@sundrey.example joined", "admin@example.org invited " +
					"ines@sundrey.example",
			})
			waiting, err := st.ReceivedWaiting(ctx, "sundrey")
			require.NoError(t, err)
			assert.Len(t, waiting, 1)
			head, err := st.ConsentHead(ctx, "sundrey")
			require.NoError(t, err)
			proof, err := consent.Verify(st.ConsentLinks(ctx, "sundrey"), head)
			require.NoError(t, err)
			assert.EqualValues(t, 3, proof.Seq)
			require.NoError(t, st.CheckChains(ctx))
			assert.Empty(t, st.BrokenChains())
			people, err := st.People(ctx)
			require.NoError(t, err)
			assert.Len(t, people, 3, "and whoever is invited")
			invited, err := st.Invitations(ctx)
			require.NoError(t, err)
			require.Len(t, invited, 2)
			for i, want := range []store.Invitation{
				{Person: store.Person{Email: "ines@sundrey.example", Role: "editor"}, Purpose: store.Password},
				{Person: store.Person{Email: "orla@sundrey.example", Role: "viewer"}, Purpose: store.ToJoin},
			} {
				have := invited[i]
				assert.Equal(t, []string{want.Email, want.Role, want.Purpose, "admin@example.org", "sundrey"}, []string{
					have.Email, have.Role, have.Purpose, have.Sender, strings.Join(have.Sites, " "),
				})
				assert.Equal(t, want.Purpose == store.ToJoin, have.Person.Password == "")
			}
			images, err := st.Images(ctx, "sundrey")
			require.NoError(t, err)
			assert.Len(t, images, 1)
			mail, err := st.Messages(ctx, "")
			require.NoError(t, err)
			require.Len(t, mail, 3)
			assert.Contains(t, mail[0].Body, "/join#…\n")
			pages, err := st.Pages(ctx, "sundrey")
			require.NoError(t, err)
			assert.Len(t, pages, 3)
			if filepath.Base(state) >= "004.sql" {
				assert.Equal(t, bundle.Extent{From: 3, To: 9}, pages[0].Spots["main"])
				assert.Equal(t, int64(1764000000000), pages[0].Since.UnixMilli())
			}
			if filepath.Base(state) == "005.sql" { // the last with the former names of four values
				for _, n := range []bundle.Notice{
					*byID["storm"].Draft, *byID["storm"].Published, v, site.StartingPoints[0].Notice,
				} {
					assert.Equal(t, bundle.Sticking, n.Position)
					assert.Equal(t, "<p>Until noon.</p>", n.Wordings()["en"].Details)
					assert.Equal(t, "Over.", n.Wordings()["en"].ExpiredMessage)
					assert.Equal(t, "0123456789ab", n.Wordings()["de"].SourceMark)
				}
				assert.Equal(t, "<p>All week.</p>", site.Wordings[0].Wordings["en"].Details)
				dropped := lines[len(lines)-1].Doc
				assert.Equal(t, "<p>Until noon.</p>", dropped.Wordings()["en"].Details)
				_, err = st.DB().Exec("UPDATE version SET number = 9")
				assert.ErrorContains(t, err, "a published version is never altered")
			}
			_, err = st.Survey(ctx, "sundrey")
			require.ErrorIs(t, err, store.ErrNotFound)
			if filepath.Base(state) >= "003.sql" {
				assert.Equal(t, []string{"#port"}, pages[0].Lost)
				versions, err := st.DocumentVersions(ctx, "sundrey", "privacy")
				require.NoError(t, err)
				require.Len(t, versions, 1)
				assert.Equal(t, "<p>Who we are.</p>", versions[0].Texts["en"].Text)
			}
			if filepath.Base(state) >= "007.sql" {
				c, err := st.Contact(ctx, "sundrey", "0123456789abcdef0123456789abcdef")
				require.NoError(t, err)
				assert.Equal(t, "ada@aldwick.example", c.Text("mail"))
			}

			// Opened again, it is as it was.
			require.NoError(t, st.Close())
			st, err = store.Open(ctx, dir)
			require.NoError(t, err)
			require.NoError(t, st.Close())
			text, err := os.ReadFile(state)
			require.NoError(t, err)
			raw, err := os.ReadFile(filepath.Join(dir, store.FileName))
			require.NoError(t, err)
			tokens := regexp.MustCompile(`(?:join#|INSERT INTO sessions VALUES\(')([A-Za-z0-9_-]{32,})`).
				FindAllSubmatch(text, -1)
			if filepath.Base(state) == "001.sql" { // later ones have none in clear
				require.NotEmpty(t, tokens)
			}
			for _, m := range tokens {
				assert.NotContains(t, string(raw), string(m[1]))
			}
		})
	}
}

// What the program cannot work with it says, and leaves as it is.
func TestWhatDoesNotOpen(t *testing.T) {
	dir := t.TempDir()
	st, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	_, err = st.DB().Exec("INSERT INTO goose_db_version(version_id, is_applied) VALUES(999, 1)")
	require.NoError(t, err)
	require.NoError(t, st.Close())
	_, err = store.Open(t.Context(), dir)
	require.ErrorContains(t, err, "written by a newer version of the program")
	assert.ErrorContains(t, err, "Nothing was changed")

	// A folder that can only be read: SQLite keeps beside the file what its readers share.
	if dir := small(t, "8m"); dir != "" {
		st, err := store.Open(t.Context(), dir)
		require.NoError(t, err)
		require.NoError(t, st.Close())
		require.NoError(t, exec.Command("mount", "-o", "remount,ro", dir).Run())
		for _, err := range []error{store.Current(t.Context(), dir), second(store.Open(t.Context(), dir))} {
			require.ErrorContains(t, err, "cannot be written")
			assert.ErrorContains(t, err, "Nothing was changed")
		}
	}

	dir = restored(t, "testdata/001.sql")
	path := filepath.Join(dir, store.FileName)
	raw, err := os.ReadFile(path)
	require.NoError(t, err)
	for i := 4096 * 2; i < 4096*8; i++ {
		raw[i] ^= 0xa5
	}
	require.NoError(t, os.WriteFile(path, raw, 0o600))
	_, err = store.Open(t.Context(), dir)
	require.ErrorContains(t, err, "the file is damaged")
	assert.ErrorContains(t, err, "mastflag restore")
	after, err := os.ReadFile(path)
	require.NoError(t, err)
	assert.Equal(t, raw[4096:], after[4096:], "but for the mode of its journal, in the first page")

	require.NoError(
		t, os.WriteFile(path, []byte("not a database, whatever it is called, and long enough to be looked at as one"), 0o600),
	)
	_, err = store.Open(t.Context(), dir)
	assert.ErrorContains(t, err, "not a database")
}

func second[T any](_ T, err error) error { return err }

// small returns a folder on a disk of its own of so many MB, or "" where none
// can be mounted.
func small(t *testing.T, size string) string {
	t.Helper()
	dir := t.TempDir()
	if exec.Command("mount", "-t", "tmpfs", "-o", "size="+size, "tmpfs", dir).Run() != nil {
		return ""
	}
	t.Cleanup(func() {
		if err := exec.Command("umount", "-l", dir).Run(); err != nil {
			t.Error("the small disk is still mounted:", err)
		}
	})
	return dir
}

// full opens a store that has no room for more, and returns what makes room. A
// disk is filled where one can be mounted; elsewhere the file may not grow.
func full(t *testing.T) (st *store.Store, free func()) {
	t.Helper()
	if dir := small(t, "8m"); dir != "" {
		st, err := store.Open(t.Context(), dir)
		require.NoError(t, err)
		t.Cleanup(func() { st.Close() })
		require.NoError(t, st.AddSite(t.Context(), bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"}))
		ballast := filepath.Join(dir, "ballast")
		f, err := os.Create(ballast)
		require.NoError(t, err)
		for block := make([]byte, 64<<10); err == nil; {
			_, err = f.Write(block)
		}
		for block := make([]byte, 512); err == nil; {
			_, err = f.Write(block)
		}
		f.Close()
		return st, func() { require.NoError(t, os.Remove(ballast)) }
	}
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddSite(t.Context(), bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"}))
	st.DB().SetMaxOpenConns(1)
	_, err = st.DB().Exec("PRAGMA max_page_count = 1")
	require.NoError(t, err)
	return st, func() {
		_, err := st.DB().Exec("PRAGMA max_page_count = 1000000")
		require.NoError(t, err)
	}
}

// With the disk full everything can be read, what cannot be kept says so and
// changes nothing, a backup leaves nothing half done, and once there is room all
// goes on.
func TestDiskFull(t *testing.T) {
	st, free := full(t)
	ctx := t.Context()
	var wrong store.Unwritable
	big := strings.Repeat("x", 1<<20)
	err := st.AddMessage(ctx, store.Message{At: now, Subject: "s", Body: big})
	require.ErrorAs(t, err, &wrong)
	assert.Equal(t, "the disk is full", wrong.Why)
	assert.Equal(t, "the disk is full", st.Trouble())
	site, err := st.Site(ctx, "s")
	require.NoError(t, err)
	assert.Equal(t, "S", site.Name)
	mail, err := st.Messages(ctx, "")
	require.NoError(t, err)
	assert.Empty(t, mail)
	if entries, err := os.ReadDir(st.Dir()); err == nil && len(entries) > 0 {
		to := filepath.Join(st.Dir(), "copy.db")
		if err := st.Backup(ctx, to); err != nil { // where the disk itself is full
			assert.ErrorContains(t, err, "is removed")
			_, err = os.Stat(to)
			assert.ErrorIs(t, err, os.ErrNotExist)
			_, err = store.Open(ctx, st.Dir())
			assert.ErrorContains(t, err, "cannot be written")
		}
	}
	free()
	require.NoError(t, st.AddMessage(ctx, store.Message{At: now, Subject: "s", Body: big}))
	assert.Empty(t, st.Trouble())
}

// While somebody else holds the file, what cannot be kept says so; reading goes on.
func TestLockHeld(t *testing.T) {
	st := open(t)
	other, err := sql.Open("sqlite", "file:"+filepath.Join(st.Dir(), store.FileName)+"?_txlock=immediate")
	require.NoError(t, err)
	defer other.Close()
	tx, err := other.Begin()
	require.NoError(t, err)
	var wrong store.Unwritable
	err = st.AddMessage(t.Context(), store.Message{At: now, Subject: "s"})
	require.ErrorAs(t, err, &wrong)
	assert.True(t, wrong.Busy)
	_, err = st.Notice(t.Context(), "s", "a")
	require.NoError(t, err)
	assert.Equal(t, "another program holds the data", st.Trouble())
	require.NoError(t, tx.Rollback())
	assert.Empty(t, st.Trouble(), "it is tried again")
	require.NoError(t, st.AddMessage(t.Context(), store.Message{At: now, Subject: "s"}))
}

// What belongs together is kept whole or not at all, and nobody sees the half.
func TestTogether(t *testing.T) {
	st := open(t)
	broken := errors.New("broken")
	stamps, err := st.Stamps(t.Context())
	require.NoError(t, err)
	err = st.Together(t.Context(), func(in *store.Store) error {
		require.NoError(t, in.AddMessage(t.Context(), store.Message{At: now, Subject: "one"}))
		require.NoError(t, in.AddNotice(t.Context(), "s", bundle.Notice{ID: "b", Kind: bundle.KindBar}, store.Entry{At: now}))
		seen, err := in.Messages(t.Context(), "")
		require.NoError(t, err)
		assert.Len(t, seen, 1, "what it wrote it reads")
		seen, err = st.Messages(t.Context(), "")
		require.NoError(t, err)
		assert.Empty(t, seen)
		return in.Together(t.Context(), func(*store.Store) error { return broken })
	})
	require.ErrorIs(t, err, broken)
	seen, err := st.Messages(t.Context(), "")
	require.NoError(t, err)
	assert.Empty(t, seen)
	_, err = st.Notice(t.Context(), "s", "b")
	assert.ErrorIs(t, err, store.ErrNotFound)
	after, err := st.Stamps(t.Context())
	require.NoError(t, err)
	assert.Equal(t, stamps, after)
}

// Backups that are made while others write are whole, each as it was at one moment.
func TestBackupUnderLoad(t *testing.T) {
	st := open(t)
	stop := make(chan struct{})
	var wg sync.WaitGroup
	for w := range 4 {
		wg.Go(func() {
			for i := 0; ; i++ {
				select {
				case <-stop:
					return
				default:
				}
				// Always two at once: a copy has an even number of them.
				err := st.Together(t.Context(), func(in *store.Store) error {
					return errors.Join(in.AddMessage(t.Context(), store.Message{
						At:      now.Add(time.Duration(w)),
						Subject: "a",
					}), in.AddMessage(t.Context(), store.Message{At: now, Subject: "b"}))
				})
				if err != nil {
					t.Error(err)
					return
				}
			}
		})
	}
	for range 5 {
		dir := t.TempDir()
		to := filepath.Join(dir, store.FileName)
		require.NoError(t, st.Backup(t.Context(), to))
		at, err := os.Stat(to)
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), at.Mode().Perm())
		copied, err := store.Open(t.Context(), dir)
		require.NoError(t, err)
		var n int
		require.NoError(t, copied.DB().QueryRow("SELECT count(*) FROM message").Scan(&n))
		assert.Zero(t, n%2)
		require.NoError(t, copied.Close())
	}
	close(stop)
	wg.Wait()
	assert.ErrorContains(t, st.Backup(t.Context(), filepath.Join(st.Dir(), store.FileName)), "exists already")
}

// What was kept as words is said in the same words once it is a code.
func TestConvertedActsSayTheSame(t *testing.T) {
	text, err := os.ReadFile("migrations/006_names.sql")
	require.NoError(t, err)
	rows := regexp.MustCompile(`(?m)^  \('([^']+)', '([^']+)'\)[,;]$`).FindAllStringSubmatch(string(text), -1)
	require.Greater(t, len(rows), 20)
	for _, row := range rows {
		assert.Equal(t, row[1], history.Act(row[2]).With().String())
	}
}
