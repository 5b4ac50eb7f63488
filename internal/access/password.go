package access

import (
	"context"
	"crypto/rand"
	"crypto/subtle"
	"encoding/base64"
	"fmt"
	"runtime"
	"strings"
	"sync"
	"testing"

	"golang.org/x/crypto/argon2"
)

// How many characters a password has.
const (
	MinPassword = 10
	MaxPassword = 200
)

// Argon2id (RFC 9106) with the memory and passes of §4's second recommendation,
// but one lane: each hash keeps one core busy and leaves the others to visitors.
const (
	argonTime    = 3
	argonMemory  = 64 * 1024 // KiB
	argonThreads = 1
)

// passes and memory (KiB) of new hashes: as above, but in tests that sign many people in.
var passes, memory uint32 = argonTime, argonMemory

// MakeHashesCheap has new hashes take next to nothing, in a test; anywhere else it panics.
func MakeHashesCheap() {
	if !testing.Testing() {
		panic("access: hashes are cheap in tests alone")
	}
	passes, memory = 1, 64
}

// hashSlots are where hashes are worked out: one core fewer than there are, one at
// least. Each takes 64 MB.
var hashSlots = make(chan struct{}, max(1, runtime.NumCPU()-1))

// maxWaiting is how many may wait for a desk.
const maxWaiting = 64

var waiting = make(chan struct{}, maxWaiting+cap(hashSlots))

// inHashSlot does the work of a hash when it is its turn; ErrBusy if too many wait.
func inHashSlot(ctx context.Context, work func()) error {
	select {
	case waiting <- struct{}{}:
		defer func() { <-waiting }()
	default:
		return ErrBusy
	}
	select {
	case hashSlots <- struct{}{}:
		defer func() { <-hashSlots }()
	case <-ctx.Done():
		return ctx.Err()
	}
	work()
	return nil
}

// parameters are those of new hashes as they stand in them.
func parameters() string {
	return fmt.Sprintf("$argon2id$v=%d$m=%d,t=%d,p=%d$", argon2.Version, memory, passes, argonThreads)
}

// current reports whether a hash has the parameters of new ones.
func current(hash string) bool { return strings.HasPrefix(hash, parameters()) }

// encodeHash writes a hash with its parameters and salt.
func encodeHash(salt, key []byte) string {
	enc := base64.RawStdEncoding
	return parameters() + enc.EncodeToString(salt) + "$" + enc.EncodeToString(key)
}

// HashPassword returns a password's hash with its salt and parameters; ErrBusy
// if too many are being worked out.
func HashPassword(ctx context.Context, password string) (hash string, err error) {
	salt := make([]byte, 16)
	rand.Read(salt)
	err = inHashSlot(ctx, func() {
		hash = encodeHash(salt, argon2.IDKey([]byte(password), salt, passes, memory, argonThreads, 32))
	})
	return hash, err
}

// PasswordFits reports whether a hash is that of the password; ErrBusy if too
// many are being worked out.
func PasswordFits(ctx context.Context, hash, password string) (fits bool, err error) {
	parts := strings.Split(hash, "$")
	if len(parts) != 6 || parts[1] != "argon2id" {
		return false, nil
	}
	var memory, passes uint32
	var threads uint8
	if _, err := fmt.Sscanf(
		parts[3], "m=%d,t=%d,p=%d", &memory, &passes, &threads,
	); err != nil || passes < 1 || threads < 1 || memory > 1<<20 {
		return false, nil
	}
	salt, errSalt := base64.RawStdEncoding.DecodeString(parts[4])
	key, errKey := base64.RawStdEncoding.DecodeString(parts[5])
	if errSalt != nil || errKey != nil || len(key) == 0 || len(password) > 4*MaxPassword {
		return false, nil
	}
	err = inHashSlot(ctx, func() {
		fits = subtle.ConstantTimeCompare(
			key, argon2.IDKey([]byte(password), salt, passes, memory, threads, uint32(len(key))),
		) == 1
	})
	return fits, err
}

// dummyHash is a hash that no password has.
var dummyHash = sync.OnceValue(func() string {
	raw := make([]byte, 48)
	rand.Read(raw)
	return encodeHash(raw[:16], raw[16:])
})

// RandomPassword returns a password of four groups that can be read aloud.
func RandomPassword() string {
	const letters = "abcdefghjkmnpqrstuvwxyz23456789"
	raw := make([]byte, 16)
	rand.Read(raw)
	var b strings.Builder
	for i, r := range raw {
		if i > 0 && i%4 == 0 {
			b.WriteByte('-')
		}
		b.WriteByte(letters[int(r)%len(letters)])
	}
	return b.String()
}
