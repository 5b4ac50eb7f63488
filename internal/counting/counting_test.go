package counting_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"slices"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/results"
	"mastflag/internal/counting"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

var at = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

// open opens a store with one site in a folder.
func open(t testing.TB, dir string) *store.Store {
	t.Helper()
	st, err := store.Open(context.Background(), dir)
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	err = st.AddSite(context.Background(), bundle.Site{Key: "s", Name: "S", TimeZone: "Europe/London", Language: "en"})
	if err != store.ErrExists {
		require.NoError(t, err)
	}
	return st
}

// acts is how many are in a batch: each of five on four notices.
const acts = 20

// batch is the n-th page view, with all that can be done on it.
func batch(n int) store.CountBatch {
	b := store.CountBatch{Site: "s", Mark: int64(n), Until: at.Add(time.Hour)}
	for i := range 4 {
		b.Keys = append(b.Keys, results.Key{
			Notice: fmt.Sprintf("n%d", (n+i)%20), Version: 7, Wording: "en", Day: "2026-12-04",
			Page: fmt.Sprintf("/page-%d", n%50), Device: "phone",
		})
		for act := range 5 {
			b.Acts = append(b.Acts, store.CountedAct{Notice: i, Act: act})
		}
	}
	return b
}

// total is how many acts a store has counted.
func total(t testing.TB, st *store.Store) (sum int) {
	t.Helper()
	rows, err := st.Results(context.Background(), "s", store.ResultFilter{})
	require.NoError(t, err)
	for _, r := range rows {
		for _, n := range r.Sums.Each() {
			sum += *n
		}
	}
	return sum
}

// 200,000 acts by 64 clients, killed over and over without a chance to finish: a client tells again what was
// not acknowledged, and the sums are what was told.
func TestKilled(t *testing.T) {
	const child, from = "MASTFLAG_TEST_COUNTS", "MASTFLAG_TEST_FROM"
	const clients, batches = 64, 200_000 / acts
	if dir := os.Getenv(child); dir != "" {
		var done [clients]int // how far each client has come
		fmt.Sscan(os.Getenv(from), toPointers(&done)...)
		c := counting.New(open(t, dir))
		var mu sync.Mutex
		var wait sync.WaitGroup
		for w := range clients {
			wait.Go(func() {
				for n := done[w]; n*clients+w < batches; n++ {
					if c.Add(context.Background(), batch(n*clients+w)) != nil {
						return
					}
					mu.Lock()
					fmt.Println("counted", w, n+1)
					mu.Unlock()
				}
			})
		}
		wait.Wait()
		return
	}
	dir := t.TempDir()
	var done [clients]int
	killed := 0
	for round := 1; ; round++ {
		cmd := exec.Command(os.Args[0], "-test.run=TestKilled$")
		cmd.Env = append(os.Environ(), child+"="+dir, from+"="+fmt.Sprint(fromPointers(&done)...))
		out, err := cmd.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, cmd.Start())
		lines, these := bufio.NewScanner(out), 0
		for lines.Scan() {
			var client, n int
			if _, err := fmt.Sscanf(lines.Text(), "counted %d %d", &client, &n); err == nil {
				done[client] = n
				these++
			}
			if these == 300+40*round && round <= 12 { // each time at another moment
				require.NoError(t, cmd.Process.Kill())
			}
		}
		if cmd.Wait() == nil {
			break
		}
		killed++
	}
	assert.Equal(t, 12, killed)
	st := open(t, dir)
	assert.Equal(t, batches*acts, total(t, st))
	c := counting.New(st)
	for n := range 200 { // told again, nothing is counted twice
		require.NoError(t, c.Add(t.Context(), batch(n)))
	}
	assert.Equal(t, batches*acts, total(t, st))
	_, err := c.Expire(t.Context(), at.Add(2*time.Hour))
	require.NoError(t, err)
	assert.Equal(t, batches*acts, total(t, st), "sums stay")
}

// What was acknowledged is in the sums of the program: each act of a batch, told again as well, and nothing that was
// refused.
func TestTaken(t *testing.T) {
	c := counting.New(open(t, t.TempDir()))
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	said := func() [2]int64 { batches, acts := c.Taken(); return [2]int64{batches, acts} }
	assert.Equal(t, [2]int64{}, said())
	one := batch(2)
	one.Acts = one.Acts[:3]
	for _, step := range []struct {
		ctx  context.Context
		b    store.CountBatch
		want [2]int64
	}{
		{t.Context(), batch(1), [2]int64{1, acts}},
		{t.Context(), one, [2]int64{2, acts + 3}},
		{t.Context(), one, [2]int64{3, acts + 6}},
		{gone, batch(3), [2]int64{3, acts + 6}},
	} {
		err := c.Add(step.ctx, step.b)
		assert.Equal(t, step.ctx.Err(), err)
		assert.Equal(t, step.want, said())
	}
	again, err := c.Expire(t.Context(), at.Add(time.Hour-time.Second))
	require.NoError(t, err)
	assert.Zero(t, again, "they can be told again for an hour")
	again, err = c.Expire(t.Context(), at.Add(time.Hour+time.Second))
	require.NoError(t, err)
	assert.Positive(t, again)
}

// A notice is published five times. Visitors count from the latest time at which what is compared changed: by
// another goal they begin anew, by another name they do not, and a goal that comes back is another beginning.
func TestGroupsCountFromTheLastChangeOfWhatIsCompared(t *testing.T) {
	st, ctx := open(t, t.TempDir()), t.Context()
	when := func(version int) time.Time { return at.Add(time.Duration(version) * time.Hour) }
	require.NoError(t, st.AddNotice(ctx, "s", bundle.Notice{ID: "n", Title: "N"}, store.Entry{At: at}))
	link := bundle.Experiment{Goal: bundle.Goal{Link: true}, Variants: []bundle.Variant{{ID: "a"}, {ID: "b"}}}
	event := bundle.Experiment{Goal: bundle.Goal{Event: "booked"}, Variants: link.Variants}
	visitors := slices.Index(results.Acts, results.Visitors)
	for version, step := range []struct {
		compared bundle.Experiment
		name     string
		since    int // the version that they count from
	}{{link, "N", 0}, {link, "Of another name", 0}, {event, "N", 2}, {link, "N", 3}, {link, "Of another name", 3}} {
		n, err := st.Notice(ctx, "s", "n")
		require.NoError(t, err)
		n, err = st.Change(ctx, "s", "n", n.Revision, func(n *store.Notice, next int) (store.Entry, error) {
			out := bundle.Notice{ID: "n", Title: step.name, Experiment: &step.compared}
			n.State, n.Published, n.Draft, n.Number, n.PublishedAt = bundle.Published, &out, nil, next, when(version)
			return store.Entry{At: when(version), Number: next, Deed: history.Published.With()}, nil
		})
		require.NoError(t, err)
		for i, variant := range []string{"a", "b", results.HeldOut} {
			require.NoError(t, counting.New(st).Add(ctx, store.CountBatch{
				Site: "s", Mark: int64(10*version + i), Until: when(version).Add(time.Hour),
				Keys: []results.Key{{Notice: "n", Version: when(version).Unix(), Variant: variant, Day: "2026-12-04"}},
				Acts: []store.CountedAct{{Act: visitors}},
			}))
		}
		since, groups, err := counting.Groups(ctx, st, "s", n, store.ResultFilter{})
		require.NoError(t, err)
		assert.True(t, since.Equal(when(step.since)), "%d: %s", version, since)
		var want []results.Group
		for _, variant := range []string{"a", "b", results.HeldOut} {
			want = append(want, results.Group{Notice: "n", Variant: variant, Visitors: version - step.since + 1})
		}
		assert.Equal(t, want, groups, version)
	}
}

func toPointers(list *[64]int) (out []any) {
	for i := range list {
		out = append(out, &list[i])
	}
	return out
}

func fromPointers(list *[64]int) (out []any) {
	for _, n := range list {
		out = append(out, fmt.Sprintf(" %d ", n))
	}
	return out
}

// Acts a second in batches of 20, acknowledged, told by many at once, beside as many upserts of counters put
// into the same file in transactions of 500.
func BenchmarkCounts(b *testing.B) {
	const each = 400_000 / acts
	for b.Loop() {
		c := counting.New(open(b, b.TempDir()))
		began := time.Now()
		var wait sync.WaitGroup
		var next atomic.Int64
		for range 256 {
			wait.Go(func() {
				for n := int(next.Add(1)); n <= each; n = int(next.Add(1)) {
					if err := c.Add(b.Context(), batch(n)); err != nil {
						b.Error(err)
					}
				}
			})
		}
		wait.Wait()
		ours := time.Since(began)

		raw := open(b, b.TempDir())
		_, err := raw.DB().Exec("CREATE TABLE plain(name TEXT PRIMARY KEY, n INTEGER NOT NULL) STRICT, WITHOUT ROWID")
		require.NoError(b, err)
		began = time.Now()
		for n := 0; n < each*acts; n += 500 {
			tx, err := raw.DB().Begin()
			require.NoError(b, err)
			add, err := tx.Prepare("INSERT INTO plain VALUES(?, 1) ON CONFLICT DO UPDATE SET n = n + 1")
			require.NoError(b, err)
			for i := range 500 {
				_, err := add.Exec(fmt.Sprintf("counter %d", (n+i)%2000))
				require.NoError(b, err)
			}
			require.NoError(b, tx.Commit())
		}
		plain := time.Since(began)
		b.ReportMetric(float64(each*acts)/ours.Seconds(), "acts/s")
		b.ReportMetric(float64(each*acts)/plain.Seconds(), "upserts/s")
		b.ReportMetric(plain.Seconds()/ours.Seconds(), "ratio")
	}
}
