package outbound_test

import (
	"net"
	"net/http"
	"net/netip"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

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
}
