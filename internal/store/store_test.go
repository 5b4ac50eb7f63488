package store_test

import (
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/bundle"
	"mastflag/core/consent"
	"mastflag/core/speed"
	"mastflag/internal/history"
	"mastflag/internal/store"
)

var now = time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)

func open(t *testing.T) *store.Store {
	t.Helper()
	st, err := store.Open(t.Context(), t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddSite(t.Context(), bundle.Site{Key: "s", Name: "S", TimeZone: "UTC", Language: "en"}))
	require.NoError(t, st.AddNotice(t.Context(), "s", bundle.Notice{
		ID:    "a",
		Kind:  bundle.KindBar,
		Title: "first",
	}, store.Entry{At: now, By: store.By{Name: "Ines"}, Deed: history.Began.With()}))
	return st
}

// Of many who write from one revision, one is taken and all others are told.
func TestOneWriterWins(t *testing.T) {
	st := open(t)
	var wg sync.WaitGroup
	errs := make([]error, 20)
	for i := range errs {
		wg.Go(func() {
			_, errs[i] = st.Change(t.Context(), "s", "a", 1, func(n *store.Notice, _ int) (store.Entry, error) {
				n.Draft.Title = fmt.Sprint(i)
				return store.Entry{At: now, By: store.By{Name: fmt.Sprint(i)}, Deed: history.PagesBack.With()}, nil
			})
		})
	}
	wg.Wait()
	taken := 0
	for _, err := range errs {
		var stale store.Stale
		if err == nil {
			taken++
		} else if assert.ErrorAs(t, err, &stale) {
			assert.Equal(t, store.Stale{From: 1, Is: 2}, stale)
		}
	}
	assert.Equal(t, 1, taken)
	n, err := st.Notice(t.Context(), "s", "a")
	require.NoError(t, err)
	assert.Equal(t, 2, n.Revision)
	h, err := st.History(t.Context(), "s", "a")
	require.NoError(t, err)
	assert.Len(t, h, 2)
	assert.Equal(t, n.Draft.Title, h[0].By.Name)
}

func TestVersionsAreNumberedAndKept(t *testing.T) {
	st := open(t)
	for i := 1; i <= 3; i++ {
		n, err := st.Change(t.Context(), "s", "a", i, func(n *store.Notice, next int) (store.Entry, error) {
			d := bundle.Notice{ID: "a", Kind: bundle.KindBar, Title: fmt.Sprint("version ", next)}
			n.Published, n.Number, n.Draft, n.State, n.PublishedAt = &d, next, nil, bundle.Published, now
			return store.Entry{At: now, Deed: history.Published.With(), Number: next}, nil
		})
		require.NoError(t, err)
		assert.Equal(t, i, n.Number)
		assert.Equal(t, bundle.Published, n.Out().State)
		assert.Equal(t, now, *n.Out().PublishedAt)
	}
	for i := 1; i <= 3; i++ {
		v, err := st.Version(t.Context(), "s", "a", i)
		require.NoError(t, err)
		assert.Equal(t, fmt.Sprint("version ", i), v.Title)
	}
	_, err := st.Version(t.Context(), "s", "a", 4)
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// A change that fails half-way changes nothing.
func TestFailedChangeChangesNothing(t *testing.T) {
	st := open(t)
	broken := errors.New("broken")
	for _, change := range []func(*store.Notice, int) (store.Entry, error){
		func(n *store.Notice, _ int) (store.Entry, error) {
			n.Draft.Title = "other"
			return store.Entry{}, broken
		},
		func(n *store.Notice, _ int) (store.Entry, error) { n.Draft = nil; return store.Entry{}, nil },
	} {
		_, err := st.Change(t.Context(), "s", "a", 1, change)
		require.Error(t, err)
	}
	n, err := st.Notice(t.Context(), "s", "a")
	require.NoError(t, err)
	assert.Equal(t, 1, n.Revision)
	assert.Equal(t, "first", n.Draft.Title)
}

func TestNamesAreTakenOnce(t *testing.T) {
	st := open(t)
	assert.ErrorIs(t, st.AddSite(t.Context(), bundle.Site{Key: "s"}), store.ErrExists)
	assert.ErrorIs(t, st.AddNotice(t.Context(), "s", bundle.Notice{ID: "a"}, store.Entry{}), store.ErrExists)
	_, err := st.Notice(t.Context(), "s", "none")
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = st.Person(t.Context(), "nobody")
	assert.ErrorIs(t, err, store.ErrNotFound)
	a, err := st.Secret(t.Context(), "x")
	require.NoError(t, err)
	b, err := st.Secret(t.Context(), "x")
	require.NoError(t, err)
	assert.Equal(t, a, b)
	assert.Len(t, a, 32)
	_, err = store.Open(t.Context(), "/dev/null/data")
	assert.ErrorContains(t, err, "data folder")
}

// Of what is measured and inspected, the latest are kept.
func TestMeasuresAreKept(t *testing.T) {
	st := open(t)
	for i := range 110 {
		require.NoError(t, st.AddMeasure(t.Context(), "s", speed.Measure{At: now.Add(time.Duration(i) * time.Minute)}))
		require.NoError(t, st.AddRun(t.Context(), "s", consent.Run{Began: now.Add(time.Duration(i) * time.Minute)}, nil))
	}
	measures, err := st.Measures(t.Context(), "s")
	require.NoError(t, err)
	if assert.Len(t, measures, 104) {
		assert.Equal(t, now.Add(109*time.Minute), measures[0].At)
		assert.Equal(t, now.Add(6*time.Minute), measures[103].At)
	}
	runs, err := st.Runs(t.Context(), "s", 1000)
	require.NoError(t, err)
	assert.Len(t, runs, 20)
}
