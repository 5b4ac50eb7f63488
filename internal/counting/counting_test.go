package counting_test

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/results"
	"mastflag/internal/counting"
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
