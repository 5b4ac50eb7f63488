package signature_test

import (
	"encoding/hex"
	"encoding/json"
	"net/http"
	"os/exec"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"mastflag/internal/signature"
)

// RFC 4231 §4.3, test case 2 (from memory).
func TestPublishedMAC(t *testing.T) {
	assert.Equal(t, "5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843",
		hex.EncodeToString(signature.MAC([]byte("Jefe"), "what do ya want for nothing?")))
}

// What is signed here is verified by Node's crypto from the headers alone, and by Verify; with
// anything changed, by neither.
func TestSignedIsVerifiedElsewhere(t *testing.T) {
	secret, body := []byte("thirty-two bytes that nobody has"), []byte(`{"contact":{"id":"ä"}}`)
	at := time.Date(2026, 12, 4, 12, 0, 0, 0, time.UTC)
	signed := func() *http.Request {
		r, err := http.NewRequest(http.MethodPost, "https://desk.example/contacts?from=here", nil)
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set(signature.KeyHeader, `"0123"`)
		signature.Sign(r, body, "sundrey", secret, at)
		return r
	}
	elsewhere := func(r *http.Request, body []byte) bool {
		given, err := json.Marshal(map[string]any{
			"method": r.Method, "target": r.URL.String(), "body": string(body), "secret": string(secret),
			"headers": map[string]string{
				"content-digest": r.Header.Get("Content-Digest"), "content-type": r.Header.Get("Content-Type"),
				"idempotency-key": r.Header.Get("Idempotency-Key"), "signature": r.Header.Get("Signature"),
				"signature-input": r.Header.Get("Signature-Input"),
			},
		})
		require.NoError(t, err)
		node := exec.Command("node", "-e", `
			const crypto = require('node:crypto')
			const r = JSON.parse(require('node:fs').readFileSync(0, 'utf8')), h = r.headers
			const params = h['signature-input'].replace(/^[a-z]+=/, '')
			const names = [...params.slice(0, params.indexOf(')')).matchAll(/"([^"]+)"/g)].map((m) => m[1])
			const own = { '@method': r.method, '@target-uri': r.target }
			const base = [...names.map((n) => '"' + n + '": ' + (own[n] ?? h[n])), '"@signature-params": ' + params].join('\n')
			const mac = crypto.createHmac('sha256', r.secret).update(base).digest('base64')
			const digest = crypto.createHash('sha256').update(r.body).digest('base64')
			const holds = h.signature === 'mastflag=:' + mac + ':' && h['content-digest'] === 'sha-256=:' + digest + ':'
			console.log(holds ? 'holds' : 'does not hold')`)
		node.Stdin = strings.NewReader(string(given))
		said, err := node.Output()
		require.NoError(t, err)
		return strings.TrimSpace(string(said)) == "holds"
	}
	r := signed()
	assert.True(t, elsewhere(r, body))
	require.NoError(t, signature.Verify(r, r.URL.String(), body, secret, at.Add(time.Minute)))
	assert.ErrorContains(t, signature.Verify(r, r.URL.String(), body, secret, at.Add(2*time.Hour)), "too long ago")
	for name, change := range map[string]func(r *http.Request) []byte{
		"another body":   func(*http.Request) []byte { return []byte(`{}`) },
		"another key":    func(r *http.Request) []byte { r.Header.Set("Idempotency-Key", `"0124"`); return body },
		"another method": func(r *http.Request) []byte { r.Method = http.MethodPut; return body },
		"another address": func(r *http.Request) []byte {
			r.URL.RawQuery = "from=there"
			return body
		},
		"another time": func(r *http.Request) []byte {
			r.Header.Set("Signature-Input", strings.Replace(r.Header.Get("Signature-Input"), "created=1", "created=2", 1))
			return body
		},
	} {
		r := signed()
		changed := change(r)
		assert.False(t, elsewhere(r, changed), name)
		assert.Error(t, signature.Verify(r, r.URL.String(), changed, secret, at), name)
	}
}
