package outbound_test

import (
	"context"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"os"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/net/dns/dnsmessage"

	"mastflag/internal/outbound"
)

func TestPrivateNetworks(t *testing.T) {
	for address, want := range map[string]bool{
		"10.1.2.3": false, "172.16.0.1": false, "192.168.1.1": false, "127.0.0.1": false, "0.0.0.0": false,
		"169.254.1.1": false, "100.64.0.1": false, "224.0.0.1": false, "255.255.255.255": false,
		"::1": false, "fe80::1": false, "fc00::1": false, "::ffff:10.0.0.1": false, "64:ff9b::a00:1": false,
		"2001:db8::1": false, "::10.0.0.1": false, "2001::1": false, "fec0::1": false, "::ffff:127.0.0.1": false,
		"fe80::1%eth0": false, "203.0.113.7": false,
		"9.9.9.9": true, "172.32.0.1": true, "2620:fe::fe": true,
	} {
		assert.Equal(t, want, outbound.Public(netip.MustParseAddr(address)), address)
	}
}

func TestHostPort(t *testing.T) {
	for origin, want := range map[string]string{
		"https://notices.example.org": "notices.example.org:443", "http://a.example": "a.example:80",
		"http://a.example:8080": "a.example:8080",
		"https://[2620:fe::fe]": "[2620:fe::fe]:443", "http://[::1]:9": "[::1]:9", "nothing": "", "http://%zz": "",
	} {
		assert.Equal(t, want, outbound.HostPort(origin), origin)
	}
}

// What people read of a connection that failed names neither what looks names up nor an address.
func TestFailuresNameNoAddress(t *testing.T) {
	closed, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	require.NoError(t, closed.Close())
	cut, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer cut.Close()
	go func() {
		for {
			c, err := cut.Accept()
			if err != nil {
				return
			}
			c.(*net.TCPConn).SetLinger(0)
			c.Close()
		}
	}()
	_, port, _ := net.SplitHostPort(closed.Addr().String())
	_, cutPort, _ := net.SplitHostPort(cut.Addr().String())
	g := outbound.New(outbound.Options{
		Flag: "--feed-hosts", Allowed: []string{"shut.test:" + port, "cut.test:" + cutPort, "none.invalid:80"},
		Names: func(host string) string {
			if strings.HasSuffix(host, ".test") {
				return "127.0.0.1"
			}
			return ""
		},
	})
	client := &http.Client{Transport: g.Transport()}
	for address, says := range map[string]string{
		"http://shut.test:" + port:   "the connection was refused",
		"http://cut.test:" + cutPort: "the connection was broken off",
		"http://none.invalid":        "none.invalid",
		"http://inside.test":         "inside.test:80 is on a private network: whoever runs the program can allow it with",
	} {
		_, err := client.Get(address)
		require.ErrorContains(t, err, says, address)
		assert.NotRegexp(t, `127\.0\.0\.1|:53|lookup .* on |\[::1\]`, err.Error())
	}
	assert.NoError(t, outbound.FailureOf(nil))
	for late, says := range map[error]string{
		context.DeadlineExceeded:                "it did not answer in time",
		&url.Error{Err: os.ErrDeadlineExceeded}: "it did not answer in time",
		context.Canceled:                        context.Canceled.Error(),
	} {
		assert.EqualError(t, outbound.FailureOf(late), says)
	}
}

// A name server of anybody's choice says of their name what it likes, and another thing each time: none of it leads
// inward, whatever was said before.
func TestNamesThatLeadInward(t *testing.T) {
	inside, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	defer inside.Close()
	reached := make(chan struct{}, 1)
	go func() {
		for {
			if _, err := inside.Accept(); err != nil {
				return
			}
			reached <- struct{}{}
		}
	}()
	_, port, _ := net.SplitHostPort(inside.Addr().String())

	turns := [][]string{
		{"127.0.0.1"}, {"::1"}, {"::ffff:127.0.0.1"}, {"10.0.0.1", "127.0.0.1"}, {"0.0.0.0"}, {"169.254.169.254"},
		{"fd00::1", "192.168.0.1", "127.0.0.2"}, {"64:ff9b::7f00:1"},
	}
	var turn atomic.Int32
	server, err := net.ListenPacket("udp", "127.0.0.1:0")
	require.NoError(t, err)
	defer server.Close()
	go func() {
		room := make([]byte, 1500)
		for {
			n, from, err := server.ReadFrom(room)
			if err != nil {
				return
			}
			var m dnsmessage.Message
			if m.Unpack(room[:n]) != nil {
				continue
			}
			m.Response, m.RecursionAvailable, m.Additionals = true, true, nil
			for _, said := range turns[turn.Load()] {
				a := netip.MustParseAddr(said)
				h := dnsmessage.ResourceHeader{Name: m.Questions[0].Name, Class: dnsmessage.ClassINET}
				switch {
				case a.Is4() && m.Questions[0].Type == dnsmessage.TypeA:
					m.Answers = append(m.Answers, dnsmessage.Resource{Header: h, Body: &dnsmessage.AResource{A: a.As4()}})
				case a.Is6() && m.Questions[0].Type == dnsmessage.TypeAAAA:
					m.Answers = append(m.Answers, dnsmessage.Resource{Header: h, Body: &dnsmessage.AAAAResource{AAAA: a.As16()}})
				}
			}
			if out, err := m.Pack(); err == nil {
				server.WriteTo(out, from)
			}
		}
	}()
	was := net.DefaultResolver
	defer func() { net.DefaultResolver = was }()
	net.DefaultResolver = &net.Resolver{PreferGo: true, Dial: func(ctx context.Context, _, _ string) (net.Conn, error) {
		return (&net.Dialer{}).DialContext(ctx, "udp", server.LocalAddr().String())
	}}
	g := outbound.New(outbound.Options{Flag: "--feed-hosts"})
	for i, said := range turns {
		turn.Store(int32(i))
		_, err := g.DialContext(t.Context(), "tcp", "turns.example:"+port)
		var private outbound.Private
		require.ErrorAs(t, err, &private, "%v", said)
		require.False(t, outbound.Public(private.Address))
	}
	require.Empty(t, reached)
}
