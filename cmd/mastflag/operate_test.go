package main

import (
	"bufio"
	"bytes"
	"database/sql"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/core/consent"
	"mastflag/internal/access"
	"mastflag/internal/store"
	"mastflag/internal/version"
)

// asProgram has the test binary be the program, so that it can be killed.
const asProgram = "MASTFLAG_TEST_AS_PROGRAM"

func TestMain(m *testing.M) {
	access.MakeHashesCheap()
	if os.Getenv(asProgram) != "" {
		os.Unsetenv(asProgram)
		main()
	}
	os.Exit(m.Run())
}

// program is serve on a folder, running by itself.
type program struct {
	t    *testing.T
	cmd  *exec.Cmd
	base string
	// Of whoever is signed in.
	session *http.Cookie
}

// serve starts the program and returns once it is ready.
func serve(t *testing.T, dir string, more ...string) *program {
	t.Helper()
	p := &program{t: t}
	p.cmd = exec.Command(os.Args[0], append([]string{"serve", "--data", dir, "--listen", "127.0.0.1:0"}, more...)...)
	p.cmd.Env = append(os.Environ(), asProgram+"=1")
	out, err := p.cmd.StderrPipe()
	require.NoError(t, err)
	require.NoError(t, p.cmd.Start())
	t.Cleanup(func() { p.cmd.Process.Kill(); p.cmd.Wait() })
	ready := make(chan string, 1)
	go func() {
		lines := bufio.NewScanner(out)
		for lines.Scan() {
			if m := regexp.MustCompile(`msg=ready address=(\S+)`).FindStringSubmatch(lines.Text()); m != nil {
				ready <- m[1]
			}
		}
		close(ready)
	}()
	select {
	case p.base = <-ready:
		require.NotEmpty(t, p.base, "it ended before it was ready")
	case <-time.After(30 * time.Second):
		require.Fail(t, "it was not ready in time")
	}
	return p
}

const siteOrigin = "https://www.sundrey.example"

// asks is the sample with a notice that asks for consent.
var asks = strings.Replace(
	strings.Replace(
		sample, `"language":"en"}`,
		`"language":"en","origins":["`+siteOrigin+`"],"consent":{"purposes":[{"id":"measurement"}],`+
			`"inventory":[{"kind":"cookie","name":"tw","by":"T","purpose":"measurement","lasts":"P1D"}]}}`,
		1,
	),
	`{"id":"later"`, `{"id":"ask","kind":"consent","state":"published","publishedAt":"2026-11-20T10:00:00Z",`+
		`"pages":{"include":[{"match":"all"}]},"content":{"wordings":{"en":{"message":"May we?"}}}},{"id":"later"`,
	1,
)

// question is what a page knows of the question that it shows.
type question struct{ Hash, Mark string }

func (p *program) post(path string, body any) (int, []byte, error) { return p.call("POST", path, body) }

func (p *program) call(method, path string, body any) (int, []byte, error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return 0, nil, err
	}
	r, err := http.NewRequest(method, p.base+path, bytes.NewReader(raw))
	if err != nil {
		return 0, nil, err
	}
	if !strings.HasPrefix(path, "/api/") {
		r.Header.Set("Origin", siteOrigin)
	}
	if p.session != nil {
		r.AddCookie(p.session)
	}
	res, err := http.DefaultClient.Do(r)
	if err != nil {
		return 0, nil, err
	}
	defer res.Body.Close()
	for _, c := range res.Cookies() {
		p.session = c
	}
	got, err := io.ReadAll(res.Body)
	return res.StatusCode, got, err
}

func (p *program) asked() (q question) {
	p.t.Helper()
	status, body, err := p.post("/d/sundrey", map[string]string{"url": "/"})
	require.NoError(p.t, err)
	require.Equal(p.t, 200, status, string(body))
	var d struct{ Consent question }
	require.NoError(p.t, json.Unmarshal(body, &d))
	require.NotEmpty(p.t, d.Consent.Mark)
	return d.Consent
}

// answers tells the n-th answer; whether it was acknowledged.
func (p *program) answers(q question, n int) bool {
	status, _, err := p.post("/r/sundrey?mark="+q.Mark, map[string]any{
		"id":      fmt.Sprintf("%032x", n),
		"hash":    q.Hash,
		"granted": []string{"measurement"},
		"refused": []string{},
		"how":     "button",
		"page":    "/",
	})
	return err == nil && status == http.StatusNoContent
}

// saves gives a draft its n-th title; whether that was acknowledged.
func (p *program) saves(n int) bool {
	var d struct {
		Card   struct{ Revision int }
		Notice map[string]any
	}
	status, body, err := p.call("GET", "/api/sites/sundrey/notices/later", nil)
	if err != nil || status != 200 || json.Unmarshal(body, &d) != nil {
		return false
	}
	d.Notice["title"] = fmt.Sprint(n)
	status, _, err = p.call("PUT", "/api/sites/sundrey/notices/later", map[string]any{
		"revision": d.Card.Revision,
		"notice":   d.Notice,
	})
	return err == nil && status == 200
}

// title is the number of the draft's title.
func (p *program) title() (n int) {
	p.t.Helper()
	status, body, err := p.call("GET", "/api/sites/sundrey/notices/later", nil)
	require.NoError(p.t, err)
	require.Equal(p.t, 200, status, string(body))
	var d struct{ Notice struct{ Title string } }
	require.NoError(p.t, json.Unmarshal(body, &d))
	fmt.Sscan(d.Notice.Title, &n)
	return n
}

// Killed thirty times in the middle of the load: each answer and each save that
// was acknowledged is there, the chain is whole, whoever was signed in still is,
// and it starts again each time.
func TestKilledUnderLoad(t *testing.T) {
	dir := t.TempDir()
	code, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	first := serve(t, dir)
	_, link, errs := command(t, "", "let-in", "--data", dir, "--email", "admin@example.org", "--address", first.base)
	require.Empty(t, errs)
	_, token, _ := strings.Cut(strings.TrimSpace(link), "#")
	status, body, err := first.post("/api/join", map[string]string{
		"token":    token,
		"name":     "Ines",
		"password": "five islands and a sound",
	})
	require.NoError(t, err)
	require.Equal(t, 200, status, string(body))
	session := first.session
	require.NoError(t, first.cmd.Process.Kill())
	first.cmd.Wait()
	tried, all := 0, 0
	var told atomic.Int64
	var next, acknowledged atomic.Int64
	var mu sync.Mutex
	var kept []int
	for range 30 {
		p := serve(t, dir)
		p.session = session
		require.GreaterOrEqual(t, int64(p.title()), told.Load())
		toldBefore := told.Load()
		q := p.asked()
		before := acknowledged.Load()
		var wg sync.WaitGroup
		wg.Go(func() {
			writer := *p
			for {
				tried++
				if !writer.saves(tried) {
					return // it may be kept though nobody was told
				}
				told.Store(int64(tried))
				all++
			}
		})
		for range 8 {
			wg.Go(func() {
				for {
					n := int(next.Add(1))
					if !p.answers(q, n) {
						return
					}
					acknowledged.Add(1)
					mu.Lock()
					kept = append(kept, n)
					mu.Unlock()
				}
			})
		}
		for acknowledged.Load() < before+20 || told.Load() < toldBefore+2 {
			time.Sleep(time.Millisecond)
		}
		require.NoError(t, p.cmd.Process.Kill())
		p.cmd.Wait()
		wg.Wait()
	}
	st, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	defer st.Close()
	head, err := st.ConsentHead(t.Context(), "sundrey")
	require.NoError(t, err)
	_, err = consent.Verify(st.ConsentLinks(t.Context(), "sundrey"), head)
	require.NoError(t, err)
	require.GreaterOrEqual(t, len(kept), 600)
	for _, n := range kept {
		_, err := st.ConsentLink(t.Context(), "sundrey", fmt.Sprintf("%032x", n))
		require.NoError(t, err, n)
	}
	t.Logf("%d answers and %d saves were acknowledged over 30 kills; %d answers are kept", len(kept), all, head.Seq)
}

// Told to stop, it finishes what it took in: a request that has begun is
// answered, and none after it is taken.
func TestStoppedInMidRequest(t *testing.T) {
	dir := t.TempDir()
	code, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	p := serve(t, dir)
	q := p.asked()
	in, out := io.Pipe()
	r, err := http.NewRequest("POST", p.base+"/r/sundrey?mark="+q.Mark, in)
	require.NoError(t, err)
	r.Header.Set("Origin", siteOrigin)
	status := make(chan int, 1)
	go func() {
		res, err := http.DefaultClient.Do(r)
		if err != nil {
			status <- 0
			return
		}
		res.Body.Close()
		status <- res.StatusCode
	}()
	body := fmt.Sprintf(
		`{"id":"%032x","hash":"%s","granted":["measurement"],"refused":[],"how":"button","page":"/"}`, 7, q.Hash,
	)
	_, err = io.WriteString(out, body[:20])
	require.NoError(t, err)
	time.Sleep(200 * time.Millisecond) // for what was sent to arrive
	require.NoError(t, p.cmd.Process.Signal(syscall.SIGTERM))
	require.Eventually(
		t, func() bool { _, _, err := p.post("/d/sundrey", map[string]string{"url": "/"}); return err != nil },
		10*time.Second, 20*time.Millisecond,
	)
	_, err = io.WriteString(out, body[20:])
	require.NoError(t, err)
	require.NoError(t, out.Close())
	assert.Equal(t, http.StatusNoContent, <-status)
	require.NoError(t, p.cmd.Wait(), "it ended by itself, and well")
	st, err := store.Open(t.Context(), dir)
	require.NoError(t, err)
	defer st.Close()
	_, err = st.ConsentLink(t.Context(), "sundrey", fmt.Sprintf("%032x", 7))
	assert.NoError(t, err)
}

// Told to stop, it stops within fifteen seconds whatever is under way: here a request whose end
// never comes, and a receiver of contacts that does not answer (./internal/post).
func TestStopsWhateverIsUnderWay(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	code, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	p := serve(t, dir)
	in, out := io.Pipe()
	defer out.Close()
	r, err := http.NewRequest("POST", p.base+"/r/sundrey?mark="+p.asked().Mark, in)
	require.NoError(t, err)
	go func() {
		if res, err := http.DefaultClient.Do(r); err == nil {
			res.Body.Close()
		}
	}()
	_, err = io.WriteString(out, `{"id":`)
	require.NoError(t, err)
	time.Sleep(200 * time.Millisecond) // for what was sent to arrive
	began := time.Now()
	require.NoError(t, p.cmd.Process.Signal(syscall.SIGTERM))
	require.NoError(t, p.cmd.Wait())
	assert.Less(t, time.Since(began), 15*time.Second)
}

// Two programs on one folder: what either takes in makes one whole chain, and
// what is published by a third reaches the visitors of both.
func TestTwoProgramsOnOneFolder(t *testing.T) {
	dir := t.TempDir()
	code, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Equal(t, 0, code, errs)
	one, two := serve(t, dir), serve(t, dir)
	var wg sync.WaitGroup
	for i, p := range []*program{one, two} {
		q := p.asked()
		for w := range 4 {
			wg.Go(func() {
				for n := range 20 {
					assert.True(t, p.answers(q, 1000*i+100*w+n))
				}
			})
		}
	}
	wg.Wait()
	code, out, errs := command(t, "", "verify-records", "--data", dir)
	require.Equal(t, 0, code, out+errs)
	assert.Contains(t, out, `"records":160`)
	code, _, errs = command(
		t,
		strings.Replace(
			asks, `"kind":"bar","content":{"wordings":{"en":{"message":"A draft."`,
			`"kind":"bar","state":"published","content":{"wordings":{"en":{"message":"A new one."`, 1,
		),
		"import", "--data", dir, "--bundle", "-",
	)
	require.Equal(t, 0, code, errs)
	for _, p := range []*program{one, two} {
		require.Eventually(t, func() bool {
			_, body, err := p.post("/d/sundrey", map[string]string{"url": "/"})
			return err == nil && bytes.Contains(body, []byte("A new one."))
		}, 10*time.Second, 50*time.Millisecond)
	}
	// While they run nothing can be put in place of the data.
	copied := filepath.Join(t.TempDir(), "copy.db")
	code, _, errs = command(t, "", "backup", "--data", dir, "--to", copied)
	require.Equal(t, 0, code, errs)
	code, _, errs = command(t, "", "restore", "--data", dir, "--from", copied)
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "stop the program first")
}

// A backup put back is what was there when it was made; what it replaces is
// kept; what is no sound backup is refused, and changes nothing.
func TestRestoreVerb(t *testing.T) {
	dir, elsewhere := t.TempDir(), t.TempDir()
	_, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Empty(t, errs)
	copied := filepath.Join(elsewhere, "copy.db")
	_, _, errs = command(t, "", "backup", "--data", dir, "--to", copied)
	require.Empty(t, errs)
	name := func(dir string) string {
		code, out, errs := command(t, "", "export", "--data", dir)
		require.Equal(t, 0, code, errs)
		var b struct{ Site struct{ Name string } }
		require.NoError(t, json.Unmarshal([]byte(out), &b))
		return b.Site.Name
	}
	_, _, errs = command(
		t, strings.Replace(asks, "Sundrey Isles Ferries", "Renamed", 1), "import", "--data", dir, "--bundle", "-",
	)
	require.Empty(t, errs)
	require.Equal(t, "Renamed", name(dir))

	raw, err := os.ReadFile(copied)
	require.NoError(t, err)
	damaged := bytes.Clone(raw)
	for i := 4096; i < 4096*6; i++ {
		damaged[i] ^= 0x5a
	}
	for says, content := range map[string][]byte{
		"damaged":        damaged,
		"not a database": []byte(strings.Repeat("no database at all ", 40)),
		"damaged or":     raw[:len(raw)/2],
	} {
		bad := filepath.Join(t.TempDir(), "bad.db")
		require.NoError(t, os.WriteFile(bad, content, 0o600))
		code, _, errs := command(t, "", "restore", "--data", dir, "--from", bad)
		assert.Equal(t, 2, code, says)
		assert.Contains(t, errs, "cannot be restored", says)
		assert.Contains(t, errs, "Nothing was changed", says)
		assert.Equal(t, "Renamed", name(dir), says)
	}
	code, _, errs := command(t, "", "restore", "--data", dir, "--from", filepath.Join(elsewhere, "none.db"))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "no such file")

	code, out, errs := command(t, "", "restore", "--data", dir, "--from", copied)
	require.Equal(t, 0, code, errs)
	var done struct{ Restored, Kept string }
	require.NoError(t, json.Unmarshal([]byte(out), &done))
	assert.Equal(t, "Sundrey Isles Ferries", name(dir))
	assert.Equal(t, "Renamed", name(done.Kept), "what was there is kept")
	left, err := filepath.Glob(filepath.Join(dir, ".restore-*"))
	require.NoError(t, err)
	assert.Empty(t, left)
	// Into a folder that is not there yet.
	fresh := filepath.Join(elsewhere, "fresh")
	code, out, errs = command(t, "", "restore", "--data", fresh, "--from", copied)
	require.Equal(t, 0, code, errs)
	assert.Contains(t, out, `"kept":""`)
	assert.Equal(t, "Sundrey Isles Ferries", name(fresh))
}

func TestVersionVerb(t *testing.T) {
	code, out, _ := command(t, "", "version")
	assert.Equal(t, 0, code)
	assert.True(t, strings.HasPrefix(out, version.Number))
}

// Whoever runs the program lets people in who have forgotten their password.
func TestLetInVerb(t *testing.T) {
	dir := t.TempDir()
	p := serve(t, dir, "--admin", "ines@sundrey.example")
	code, out, errs := command(t, "", "let-in", "--data", dir, "--email", "Ines@sundrey.example", "--address", p.base)
	require.Equal(t, 0, code, errs)
	base, token, ok := strings.Cut(strings.TrimSpace(out), "/join#")
	require.True(t, ok, out)
	assert.Equal(t, p.base, base)
	raw, err := os.ReadFile(filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	assert.NotContains(t, string(raw), token)
	status, body, err := p.post("/api/join", map[string]string{
		"token":    token,
		"name":     "Ines",
		"password": "five islands and a sound",
	})
	require.NoError(t, err)
	assert.Equal(t, 200, status, string(body))
	assert.Contains(t, string(body), `"administrator"`)
	code, _, errs = command(t, "", "let-in", "--data", dir, "--email", "nobody@sundrey.example")
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "nobody with the address")
}

// Each line says what is so and what to do; something wrong is exit code 1.
func TestDoctorVerb(t *testing.T) {
	dir := t.TempDir()
	code, out, _ := command(t, "", "doctor", "--data", filepath.Join(dir, "none"))
	assert.Equal(t, 1, code)
	assert.Contains(t, out, "cannot be read")
	_, _, errs := command(t, asks, "import", "--data", dir, "--bundle", "-")
	require.Empty(t, errs)
	p := serve(t, dir)
	q := p.asked()
	require.True(t, p.answers(q, 1))
	code, out, errs = command(t, "", "doctor", "--data", dir, "--address", p.base)
	require.Equal(t, 0, code, out+errs)
	for _, says := range []string{
		"for nobody but its user", "is free", "can be read and written", "chain of 1 consent records is whole",
		"later than anything that is kept", "The program answers at " + p.base,
		"nobody has looked yet whether its pages carry the snippet",
	} {
		assert.Contains(t, out, says)
	}
	through := func(trusted ...string) string {
		behind := serve(t, t.TempDir(), trusted...)
		to, err := url.Parse(behind.base)
		require.NoError(t, err)
		proxy := httptest.NewServer(httputil.NewSingleHostReverseProxy(to))
		t.Cleanup(proxy.Close)
		_, out, _ := command(t, "", "doctor", "--data", dir, "--address", proxy.URL)
		assert.Contains(t, out, "The program answers at "+proxy.URL)
		return out
	}
	assert.Regexp(t, `wrong +proxies +The program does not trust the proxy in front of it`, through())
	assert.NotContains(t, through("--trusted-proxies", "127.0.0.1"), "proxies")
	require.NoError(t, os.Chmod(dir, 0o755))
	st, err := store.Open(t.Context(), dir) // makes it private again
	require.NoError(t, err)
	_, err = st.DB().Exec("UPDATE consent_record SET body = replace(body, 'measurement', 'marketing')")
	require.NoError(t, err)
	_, err = st.DB().Exec("UPDATE notice SET changed_at = ?", time.Now().AddDate(1, 0, 0).UnixMilli())
	require.NoError(t, err)
	require.NoError(t, st.Close())
	code, out, _ = command(t, "", "doctor", "--data", dir, "--address", "http://127.0.0.1:1")
	assert.Equal(t, 1, code)
	for _, says := range []string{"the chain of consent records is broken", "the clock is behind", "does not answer"} {
		assert.Contains(t, out, says)
	}
	db, err := sql.Open("sqlite", filepath.Join(dir, store.FileName))
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("DELETE FROM goose_db_version WHERE version_id = (SELECT max(version_id) FROM goose_db_version)")
	require.NoError(t, err)
	code, _, errs = command(t, "", "backup", "--data", dir, "--to", filepath.Join(dir, "copy.db"))
	assert.Equal(t, 2, code)
	assert.Contains(t, errs, "the data is of an earlier version")
	_, earlier, _ := command(t, "", "doctor", "--data", dir)
	assert.Contains(t, earlier, "The data is of an earlier version")
	for line := range strings.Lines(out) {
		assert.Regexp(t, `^(fine|look|wrong) +[a-z]+ +\S.*\.|--help$`, strings.TrimSpace(line))
	}
}
