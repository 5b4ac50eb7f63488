package outbound

import (
	"errors"
	"net"
	"syscall"
)

// A Failure is what went wrong with a connection in words for people who run a site: without the
// addresses of this network and of what looks names up, which are nobody's business there. What
// went wrong in full is behind Unwrap, for the log.
type Failure struct {
	Says string
	err  error
}

func (f Failure) Error() string { return f.Says }
func (f Failure) Unwrap() error { return f.err }

// Timeout reports whether it took too long.
func (f Failure) Timeout() bool {
	var e net.Error
	return errors.As(f.err, &e) && e.Timeout()
}

// Temporary reports what Timeout does: net.Error asks for it.
func (f Failure) Temporary() bool { return f.Timeout() }

// reasons are what connections fail for, in words.
var reasons = []struct {
	is   syscall.Errno
	says string
}{
	{syscall.ECONNREFUSED, "the connection was refused"},
	{syscall.ECONNRESET, "the connection was broken off"},
	{syscall.EPIPE, "the connection was broken off"},
	{syscall.EHOSTUNREACH, "there is no way to it"},
	{syscall.ENETUNREACH, "there is no way to it"},
}

// FailureOf returns an error of a connection as a Failure; any other, and nil, as it is.
func FailureOf(err error) error {
	var done Failure
	var private Private
	if err == nil || errors.As(err, &done) || errors.As(err, &private) {
		return err
	}
	var dns *net.DNSError
	if errors.As(err, &dns) {
		says := "its name could not be looked up: " + dns.Name
		if dns.IsNotFound {
			says = "there is no host of the name " + dns.Name
		}
		return Failure{says, err}
	}
	if late, ok := errors.AsType[net.Error](err); ok && late.Timeout() {
		return Failure{"it did not answer in time", err}
	}
	var op *net.OpError
	if !errors.As(err, &op) {
		return err
	}
	for _, r := range reasons {
		if errors.Is(err, r.is) {
			return Failure{r.says, err}
		}
	}
	return Failure{"the connection failed", err}
}

// failingConn is a connection whose errors are Failures.
type failingConn struct{ net.Conn }

func (c failingConn) Read(b []byte) (int, error) {
	n, err := c.Conn.Read(b)
	return n, FailureOf(err)
}

func (c failingConn) Write(b []byte) (int, error) {
	n, err := c.Conn.Write(b)
	return n, FailureOf(err)
}
