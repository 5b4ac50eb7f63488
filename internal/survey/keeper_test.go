package survey_test

import (
	"compress/gzip"
	"context"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"runtime"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	japanese_ "golang.org/x/text/encoding/japanese"
	korean_ "golang.org/x/text/encoding/korean"

	"mastflag/core/bundle"
	"mastflag/internal/clock"
	"mastflag/internal/compiled"
	"mastflag/internal/delivery"
	"mastflag/internal/store"
	"mastflag/internal/survey"
)

// A large site is generated: page i lies in a section by i and misbehaves by i.
type large struct {
	*httptest.Server
	lock    sync.Mutex
	from, n int            // pages from..n-1 are there
	renamed map[int]bool   // have another title now
	asked   map[string]int // how often each page was asked for
	pages   int            // how many were in all
	at      func(pages int)
	gone    bool // hangs up on everybody
	body    string
}

func newLarge(t testing.TB, n int) *large {
	l := &large{
		n:       n,
		renamed: map[int]bool{},
		asked:   map[string]int{},
		at:      func(int) {},
		body:    strings.Repeat(filling, 20),
	}
	l.Server = httptest.NewServer(l)
	t.Cleanup(l.Close)
	return l
}

// The sections of a large site: what pages lie below, what they say about their
// language, and the language they are taken to have.
var sections = []struct{ path, language string }{
	{"/en", "en"}, {"/de", "de"}, {"/ko", "ko"}, {"/ja", "ja"}, {"/ar", "ar"}, {"/manual", ""}, {"/alternates", "fr"},
	{"/selves", "pt-BR"},
}

func (l *large) path(i int) string { return fmt.Sprintf("%s/p%05d", sections[i%len(sections)].path, i) }

// address is how the site itself writes it.
func (l *large) address(i int) string { return l.path(i) + "/" }

func (l *large) title(i int) string {
	if l.renamed[i] {
		return fmt.Sprintf("Renamed %d", i)
	}
	switch sections[i%len(sections)].path {
	case "/ko":
		return fmt.Sprintf("한국어 %d", i)
	case "/ja":
		return fmt.Sprintf("日本語 %d", i)
	}
	return fmt.Sprintf("Page %d", i)
}

// kind is how page i misbehaves.
func kind(i int) string {
	return map[int]string{
		1:  "moved",
		2:  "loop",
		3:  "missing",
		5:  "pdf",
		7:  "fails",
		9:  "slow",
		11: "busy",
		13: "private",
	}[i/len(sections)%100]
}

func (l *large) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	l.lock.Lock()
	if l.gone {
		l.lock.Unlock()
		panic(http.ErrAbortHandler)
	}
	var i int
	isPage := false
	if at := strings.LastIndex(r.URL.Path, "/p"); at >= 0 {
		_, err := fmt.Sscanf(r.URL.Path[at:], "/p%d", &i)
		isPage = err == nil
	}
	var again, pages int
	if isPage {
		l.asked[r.URL.Path]++
		l.pages++
		again, pages = l.asked[r.URL.Path], l.pages
	}
	title, from, n, at := l.title(i), l.from, l.n, l.at
	l.lock.Unlock()
	if isPage {
		at(pages)
		l.page(w, r, i, again, title)
		return
	}
	switch r.URL.Path {
	case "/robots.txt":
		fmt.Fprintf(
			w,
			"User-agent: *\nDisallow: /*private\n\nUser-agent: another\nDisallow: /\n\nSitemap: %s/maps/index.xml\nSitemap: "+
				"https://elsewhere.example/x.xml\n",
			l.URL,
		)
	case "/maps/index.xml":
		fmt.Fprintf(
			w,
			`<sitemapindex %s><sitemap><loc>%[2]s/maps/0.xml.gz</loc></sitemap><sitemap><loc>%[2]s/maps/1.xml</loc></sitemap>`+
				`<sitemap><loc>%[2]s/maps/2.xml</loc></sitemap><sitemap><loc>%[2]s/maps/3.txt</loc></sitemap><sitemap><loc>`+
				`%[2]s/maps/none.xml</loc></sitemap></sitemapindex>`,
			ns, l.URL,
		)
	case "/maps/0.xml.gz", "/maps/1.xml", "/maps/2.xml", "/maps/3.txt":
		var out io.Writer = w
		if strings.HasSuffix(r.URL.Path, ".gz") {
			zw := gzip.NewWriter(w)
			defer zw.Close()
			out = zw
		}
		text := strings.HasSuffix(r.URL.Path, ".txt")
		if !text {
			fmt.Fprintf(out, `<?xml version="1.0"?><urlset %s xmlns:x="http://www.w3.org/1999/xhtml">`, ns)
		}
		for i := from; i < n; i++ {
			if i%4 != int(r.URL.Path[6]-'0') {
				continue
			}
			address := l.URL + l.address(i)
			if kind(i) == "private" {
				address += "?private"
			}
			switch {
			case text:
				fmt.Fprintln(out, address)
			case sections[i%len(sections)].path == "/alternates":
				fmt.Fprintf(
					out,
					`<url><loc>%s</loc><x:link rel="alternate" hreflang="fr" href="%[1]s"/><x:link rel="alternate" `+
						`hreflang="x-default" href="%[1]s"/></url>`,
					address,
				)
			default:
				fmt.Fprintf(out, `<url><loc>%s</loc></url>`, address)
			}
		}
		if r.URL.Path != "/maps/2.xml" && !text { // one breaks off
			io.WriteString(out, `</urlset>`)
		}
	default:
		http.NotFound(w, r)
	}
}

// filling makes a page as long as it is to be.
const filling = `<p>Ferries sail from Aldwick to Fennay when the tide lets them, and from Fennay to Little Skarn ` +
	`when it does not.</p>`

func (l *large) page(w http.ResponseWriter, r *http.Request, i, again int, title string) {
	switch kind(i) {
	case "moved":
		if r.URL.Query().Get("to") == "" {
			http.Redirect(w, r, r.URL.Path+"?to=here", http.StatusMovedPermanently)
			return
		}
	case "loop":
		http.Redirect(w, r, r.URL.Path+"?round=and-round", http.StatusFound)
		return
	case "missing":
		http.NotFound(w, r)
		return
	case "pdf":
		w.Header().Set("Content-Type", "application/pdf")
		io.WriteString(w, "%PDF-2.0")
		return
	case "fails":
		http.Error(w, "broken", http.StatusInternalServerError)
		return
	case "slow":
		time.Sleep(2 * time.Millisecond)
	case "busy":
		if again == 1 {
			w.Header().Set("Retry-After", "30")
			w.WriteHeader(http.StatusTooManyRequests)
			return
		}
	}
	head, body := `<html><head>`, l.body
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	say := func(s string) string { return s }
	switch sections[i%len(sections)].path {
	case "/en", "/de":
		head = `<html lang="` + sections[i%len(sections)].language + `"><head>`
	case "/ko":
		w.Header().Set("Content-Type", "text/html; charset=euc-kr")
		say = func(s string) string { s, _ = korean_.EUCKR.NewEncoder().String(s); return s }
	case "/ja":
		w.Header().Set("Content-Type", "text/html")
		head += `<meta charset="shift_jis">`
		say = func(s string) string { s, _ = japanese_.ShiftJIS.NewEncoder().String(s); return s }
	case "/selves":
		head += `<link rel="alternate" hreflang="en" href="/en/other"><link rel="alternate" hreflang="pt-br" href="` +
			r.URL.Path + `">`
	}
	fmt.Fprintf(
		w, "<!doctype html>%s<title>%s | The islands</title><script src=\"https://notices.example%s\" async></script>%s",
		head, say(title), delivery.ScriptPath("big"), body,
	)
}

// want is what a reading has to find of page i; ok is false where it is no page.
func (l *large) want(i int) (p store.Page, ok bool) {
	s := sections[i%len(sections)]
	p = store.Page{
		Page:    bundle.Page{Path: l.path(i), Title: l.title(i), Language: s.language},
		Snippet: store.SnippetFound,
	}
	unread := func(why string) (store.Page, bool) {
		p.Title, p.Snippet, p.Language = "", why, ""
		if s.path == "/alternates" && i%4 != 3 && why != "" || s.path == "/alternates" && why == "" {
			p.Language = "fr"
		}
		return p, true
	}
	switch kind(i) {
	case "loop":
		return unread("could not be read: it leads around in circles")
	case "missing":
		return unread("answered with status 404")
	case "fails":
		return unread("answered with status 500")
	case "pdf":
		return p, false
	case "private":
		return unread("")
	}
	return p, true
}

func newKeeper(t testing.TB, origin string) *survey.Keeper {
	t.Helper()
	ctx := t.Context()
	st, err := store.Open(ctx, t.TempDir())
	require.NoError(t, err)
	t.Cleanup(func() { st.Close() })
	require.NoError(t, st.AddSite(ctx, bundle.Site{Key: "big", Name: "Big", TimeZone: "Europe/London", Language: "en",
		Languages: []string{"en", "de", "ko", "ja", "ar"}, Origins: []string{origin}}))
	hub, err := compiled.NewHub(ctx, st, "http://notices.example", clock.System{})
	require.NoError(t, err)
	k := &survey.Keeper{Surveyor: survey.New(to(origin)), Store: st, Hub: hub, Clock: clock.System{}}
	return k
}

// A large site with all that goes wrong on large sites: it is read, interrupted, resumed
// on with and read again, and each page is asked for once.
func TestLargeSite(t *testing.T) {
	const n = 20_000
	l := newLarge(t, n)
	k := newKeeper(t, l.URL)
	ctx := t.Context()
	var waits []time.Duration
	var lock sync.Mutex
	k.SetWait(func(_ context.Context, d time.Duration) error {
		lock.Lock()
		defer lock.Unlock()
		waits = append(waits, d)
		return nil
	})
	stopped := make(chan struct{})
	l.at = func(pages int) {
		if pages == n/3 {
			go func() {
				k.Stop("big")
				close(stopped)
			}()
		}
	}
	done, err := k.Start(ctx, "big", false, false)
	require.NoError(t, err)
	same, err := k.Start(ctx, "big", false, false)
	require.NoError(t, err)
	assert.Equal(t, done, same, "it goes on already")
	<-done
	<-stopped
	v, err := k.Progress(ctx, "big")
	require.NoError(t, err)
	assert.Equal(t, store.SurveyStopped, v.State)
	assert.Empty(t, v.Why)
	assert.Equal(t, n, v.Listed)
	assert.Greater(t, v.Read, n/4)
	assert.Less(t, v.Read, n/2)
	known, err := k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	assert.Greater(t, len(known), n/4, "of the first reading what was read is there to begin with")

	// The program ended before it could say that it stops; another goes on.
	v.State = store.SurveyReading
	require.NoError(t, k.Store.PutSurvey(ctx, "big", v))
	v, err = k.Progress(ctx, "big")
	require.NoError(t, err)
	assert.Equal(t, store.SurveyStopped, v.State)
	l.at = func(int) {}
	done, err = k.Start(ctx, "big", true, false)
	require.NoError(t, err)
	<-done
	v, err = k.Progress(ctx, "big")
	require.NoError(t, err)
	require.Equal(t, store.SurveyDone, v.State, v.Why)
	assert.Equal(t, n, v.Read)
	assert.Zero(t, v.New.Count+v.Gone.Count+v.Changed.Count, "there was no reading before")
	known, err = k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	compare := func() {
		t.Helper()
		var want []store.Page
		for i := l.from; i < l.n; i++ {
			if p, ok := l.want(i); ok {
				want = append(want, p)
			}
		}
		slices.SortFunc(want, func(a, b store.Page) int { return strings.Compare(a.Path, b.Path) })
		require.Len(t, known, len(want))
		for i := range want {
			known[i].Since = time.Time{}
			require.Equal(t, want[i], known[i], want[i].Path)
		}
	}
	for _, p := range known {
		assert.True(t, p.Since.IsZero(), "all are the first")
	}
	compare()
	for path, times := range l.asked {
		var i int
		_, err := fmt.Sscanf(path[strings.LastIndex(path, "/p"):], "/p%d", &i)
		require.NoError(t, err)
		// One more for a redirect, for being busy, and for what was on its way when it was stopped.
		most := map[string]int{"moved": 3, "loop": 14, "busy": 3}[kind(i)]
		assert.LessOrEqual(t, times, max(most, 2), path)
	}
	assert.Less(t, l.pages, n+n/7, "pages are read once")
	require.NotEmpty(t, waits)
	for _, d := range waits {
		assert.Equal(t, 30*time.Second, d, "as long as the site asks for")
	}
	left := map[store.LeftCode]int{}
	for _, o := range v.LeftOut {
		left[o.Code] = o.Count
	}
	count := func(of string) (c int) {
		for i := l.from; i < l.n; i++ {
			if kind(i) == of {
				c++
			}
		}
		return c
	}
	assert.Equal(t, map[store.LeftCode]int{
		store.LeftElsewhere: 1,
		store.LeftMap:       2,
		store.LeftRobots:    count("private"),
		store.LeftKind:      count("pdf"),
	}, left)
	assert.Equal(t, count("missing")+count("fails")+count("loop"), v.Failing)

	// Read again: what is new, gone, and says something else.
	l.from, l.n = 16, n+24
	for i := 160; i < 170; i++ {
		l.renamed[i] = kind(i) == ""
	}
	done, err = k.Start(ctx, "big", true, false) // nothing is left to go on with
	require.NoError(t, err)
	<-done
	v, err = k.Progress(ctx, "big")
	require.NoError(t, err)
	require.Equal(t, store.SurveyDone, v.State, v.Why)
	assert.Equal(t, 16-count16(l), v.Gone.Count)
	assert.Equal(t, 24, v.New.Count)
	assert.Equal(t, len(l.renamed), v.Changed.Count)
	assert.Equal(t, store.Example{
		What: l.path(160),
		Why:  "title",
	}, v.Changed.First[slices.IndexFunc(v.Changed.First, func(e store.Example) bool { return e.What == l.path(160) })])
	known, err = k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	newer := 0
	for _, p := range known {
		if !p.Since.IsZero() {
			newer++
		}
	}
	assert.Equal(t, 24, newer)
	compare()
}

// count16 is how many of the first sixteen are no pages.
func count16(l *large) (n int) {
	for i := range 16 {
		if _, ok := l.want(i); !ok {
			n++
		}
	}
	return n
}

// A site that goes away, one that wants to be left alone for long, and one that has far
// fewer pages: each says so, and loses nothing.
func TestReadingThatCannotGoOn(t *testing.T) {
	l := newLarge(t, 400)
	k := newKeeper(t, l.URL)
	ctx := t.Context()
	run := func(resume, fewer bool) store.Survey {
		t.Helper()
		done, err := k.Start(ctx, "big", resume, fewer)
		require.NoError(t, err)
		<-done
		v, err := k.Progress(ctx, "big")
		require.NoError(t, err)
		return v
	}
	asked := 0
	k.SetWait(func(context.Context, time.Duration) error { asked++; return nil })
	l.at = func(pages int) {
		if pages == 200 {
			l.lock.Lock()
			l.gone = true
			l.lock.Unlock()
		}
	}
	v := run(false, false)
	assert.Equal(t, store.SurveyStopped, v.State)
	assert.Contains(t, v.Why, "the site no longer answers")
	assert.Less(t, v.Read, 250)
	v = run(true, false)
	assert.Equal(t, store.SurveyStopped, v.State, "it is still away")
	l.gone, l.at = false, func(int) {}
	v = run(true, false)
	assert.Equal(t, store.SurveyDone, v.State, v.Why)
	assert.Equal(t, 400, v.Read)
	before, err := k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	for _, p := range before { // what could not be reached while it was away was asked for again
		assert.NotContains(t, p.Snippet, "EOF", p.Path)
	}

	// Pages that lead elsewhere are no sign that the site is away.
	moved := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch {
		case r.URL.Path == "/sitemap.xml":
			for i := range 60 {
				fmt.Fprintf(w, "http://%s/%d\n", r.Host, i)
			}
		case strings.HasPrefix(r.URL.Path, "/5"):
			io.WriteString(w, "<title>A page")
		default:
			http.Redirect(w, r, "http://elsewhere.invalid/", http.StatusMovedPermanently)
		}
	}))
	defer moved.Close()
	k = newKeeper(t, moved.URL)
	v = run(false, false)
	assert.Equal(t, store.SurveyDone, v.State, v.Why)
	assert.Equal(t, []int{60, 49}, []int{v.Read, v.Failing})

	long := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		switch r.URL.Path {
		case "/robots.txt":
			io.WriteString(w, "User-agent: mastflag-survey\nCrawl-delay: 4\nUser-agent: *\nDisallow: /")
		case "/sitemap.xml":
			fmt.Fprintf(w, "http://%s/a\nhttp://%[1]s/b\nhttp://%[1]s/c\n", r.Host)
		case "/b":
			w.Header().Set("Date", "Fri, 27 Nov 2026 10:00:00 GMT")
			w.Header().Set("Retry-After", "Fri, 27 Nov 2026 10:45:00 GMT")
			w.WriteHeader(http.StatusServiceUnavailable)
		default:
			io.WriteString(w, "<title>A page")
		}
	}))
	defer long.Close()
	k = newKeeper(t, long.URL)
	var waits []time.Duration
	k.SetWait(func(_ context.Context, d time.Duration) error { waits = append(waits, d); return nil })
	v = run(false, false)
	assert.Equal(t, store.SurveyStopped, v.State)
	assert.Equal(t, "the site asks to be left alone for 45 minutes", v.Why)
	assert.Equal(t, 1, v.Read)
	assert.Equal(t, []time.Duration{4 * time.Second}, waits, "one page at a time, with the pause that robots.txt asks for")

	// Where nothing is said of when, it is asked again after a second and longer each time; up to two minutes are waited.
	pauses := map[string]string{"/b": "", "/c": "120", "/d": "121"}
	busy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/sitemap.xml" {
			fmt.Fprintf(w, "http://%s/b\nhttp://%[1]s/c\nhttp://%[1]s/d\n", r.Host)
			return
		}
		if after, is := pauses[r.URL.Path]; is {
			if after != "" {
				w.Header().Set("Retry-After", after)
			}
			w.WriteHeader(http.StatusServiceUnavailable)
		}
	}))
	defer busy.Close()
	for page, want := range map[string][]time.Duration{
		"/b": {time.Second, 2 * time.Second, 4 * time.Second},
		"/c": {2 * time.Minute, 2 * time.Minute, 2 * time.Minute},
		"/d": nil,
	} {
		k = newKeeper(t, busy.URL)
		waits = nil
		k.SetWait(func(_ context.Context, d time.Duration) error { waits = append(waits, d); return nil })
		read := []store.Listed{{Path: page, Address: page}}
		err := k.Read(ctx, busy.URL, read, survey.Sought{}, func(store.Reading) {})
		assert.Equal(t, want, waits, page)
		assert.Equal(t, page == "/d", err != nil, "%v", err)
	}

	// Far fewer: those known are kept until someone says that it is so.
	k = newKeeper(t, l.URL)
	require.NoError(t, k.Store.PutPages(ctx, "big", before, time.Time{}))
	l.n = 100
	v = run(false, false)
	assert.Equal(t, store.SurveyFewer, v.State)
	known, err := k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	assert.Len(t, known, len(before))
	require.NoError(t, k.Accept(ctx, "big"))
	v, err = k.Progress(ctx, "big")
	require.NoError(t, err)
	assert.Equal(t, store.SurveyDone, v.State)
	known, err = k.Store.Pages(ctx, "big")
	require.NoError(t, err)
	assert.Less(t, len(known), 100)
}

// What a hostile or careless sitemap names is left out once each, and takes little room.
func TestWhatIsLeftOutOnceAndShort(t *testing.T) {
	long := strings.Repeat("x", 3000)
	site := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/sitemap.xml" {
			for range 3 {
				fmt.Fprintf(
					w, "http://%s/%s\nhttp://%[1]s/%%2e%%2e//evil\nhttps://elsewhere.example/%[2]s\nhttp://%[1]s/a\n", r.Host, long,
				)
			}
			return
		}
		io.WriteString(w, "<title>"+long)
	}))
	defer site.Close()
	listing, err := survey.New(to(site.URL)).List(t.Context(), site.URL)
	require.NoError(t, err)
	require.Len(t, listing.Pages, 1)
	counts := map[store.LeftCode]int{}
	for _, o := range listing.LeftOut {
		counts[o.Code] = o.Count
		for _, e := range o.First {
			assert.Less(t, len(e.What)+len(e.Why), 700)
		}
	}
	assert.Equal(t, map[store.LeftCode]int{store.LeftBroken: 2, store.LeftElsewhere: 1}, counts)
	found, err := survey.New(to(site.URL)).Survey(t.Context(), site.URL, survey.Sought{Marker: "/s/x.js"})
	require.NoError(t, err)
	assert.Len(t, found[0].Title, 500, "as long as a bundle has it")
}

// Pages may each have a policy of their own: ten are told apart, and what was told of before stays as it was.
func TestPoliciesAreCounted(t *testing.T) {
	var seen []store.SeenPolicy
	for i := range 1000 {
		before, was := seen, slices.Clone(seen)
		seen = survey.CountPolicies(seen, store.Reading{
			Page:     store.Page{Page: bundle.Page{Path: fmt.Sprint("/", i)}},
			Policies: []string{fmt.Sprint("img-src ", i), "script-src *"},
		})
		require.Equal(t, was, before)
	}
	assert.Len(t, seen, 10)
	assert.Equal(t, store.SeenPolicy{Policy: "script-src *", Pages: 1000, Page: "/0"}, seen[0])
	assert.Equal(t, store.SeenPolicy{Policy: "img-src 0", Pages: 1, Page: "/0"}, seen[1])
}

// Pages a second against a plain fetch of the same pages by as many at once, and the
// memory that is held meanwhile.
func BenchmarkSurvey(b *testing.B) {
	for _, kB := range []int{7, 28} {
		b.Run(
			fmt.Sprintf("%dkB", kB), func(b *testing.B) { benchmarkSurvey(b, strings.Repeat(filling, kB*1024/len(filling))) },
		)
	}
}

func benchmarkSurvey(b *testing.B, body string) {
	const n = 20_000
	l := newLarge(b, n)
	l.body = body
	k := newKeeper(b, l.URL)
	k.SetWait(func(context.Context, time.Duration) error { return nil })
	var plain, read time.Duration
	var most uint64
	for range b.N {
		l.asked = map[string]int{}
		begun := time.Now()
		var wg sync.WaitGroup
		next := make(chan int)
		client := &http.Client{Transport: &http.Transport{MaxIdleConnsPerHost: 4}}
		for range 4 {
			wg.Go(func() {
				for i := range next {
					if res, err := client.Get(l.URL + l.address(i)); err == nil {
						_, _ = io.Copy(io.Discard, res.Body)
						res.Body.Close()
					}
				}
			})
		}
		for i := range n {
			next <- i
		}
		close(next)
		wg.Wait()
		plain += time.Since(begun)
		l.asked = map[string]int{}
		runtime.GC()
		var before, during runtime.MemStats
		runtime.ReadMemStats(&before)
		l.at = func(pages int) {
			if pages%1000 == 0 {
				runtime.ReadMemStats(&during)
				most = max(most, during.HeapInuse-min(during.HeapInuse, before.HeapInuse))
			}
		}
		begun = time.Now()
		done, err := k.Start(b.Context(), "big", false, false)
		require.NoError(b, err)
		<-done
		read += time.Since(begun)
		v, err := k.Progress(b.Context(), "big")
		require.NoError(b, err)
		require.Equal(b, store.SurveyDone, v.State, v.Why)
		l.at = func(int) {}
	}
	b.ReportMetric(float64(n*b.N)/plain.Seconds(), "plain-pages/s")
	b.ReportMetric(float64(n*b.N)/read.Seconds(), "pages/s")
	b.ReportMetric(plain.Seconds()/read.Seconds(), "of-plain")
	b.ReportMetric(float64(most)/(1<<20), "MB-more")
}
