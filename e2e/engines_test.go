package e2e

import (
	"bufio"
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
)

// An engine is a browser that is driven by the commands of W3C WebDriver: Firefox by its own socket, which takes them
// under the same names (Marionette), WebKit by Debian's driver. `make engines` has both.
type engine struct {
	t    *testing.T
	send func(command string, parameters any) (json.RawMessage, error)
}

// engines begin one, by the names that ENGINES takes.
var engines = map[string]func(*testing.T) *engine{"firefox": firefox, "webkit": webkit}

// begin starts a program of an engine's, which ends with the test.
func begin(t *testing.T, name string, environment []string, arguments ...string) {
	t.Helper()
	c := exec.Command(name, arguments...)
	c.Env = append(os.Environ(), environment...)
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true}
	require.NoError(t, c.Start())
	t.Cleanup(func() {
		_ = syscall.Kill(-c.Process.Pid, syscall.SIGKILL) // with what it has started
		_ = c.Wait()
	})
}

// firefox sends commands as [0, number, name, parameters] and reads [1, number, error, result], each with its length
// before it.
func firefox(t *testing.T) *engine {
	profile, port := t.TempDir(), strconv.Itoa(freePort(t))
	settings := fmt.Sprintf("user_pref('marionette.port', %s);\nuser_pref('app.update.enabled', false);\n"+
		"user_pref('network.captive-portal-service.enabled', false);\n"+
		"user_pref('network.connectivity-service.enabled', false);\n", port)
	require.NoError(t, os.WriteFile(filepath.Join(profile, "user.js"), []byte(settings), 0o600))
	begin(t, "firefox-esr", []string{"HOME=" + profile}, "--headless", "--marionette", "--profile", profile)
	var socket net.Conn
	require.Eventually(t, func() (is bool) {
		var err error
		socket, err = net.Dial("tcp", "127.0.0.1:"+port)
		return err == nil
	}, patience, 200*time.Millisecond)
	t.Cleanup(func() { _ = socket.Close() })
	from := bufio.NewReader(socket)
	read := func() ([]byte, error) {
		length, err := from.ReadString(':')
		if err != nil {
			return nil, err
		}
		var n int
		if _, err := fmt.Sscanf(length, "%d:", &n); err != nil {
			return nil, err
		}
		text := make([]byte, n)
		_, err = io.ReadFull(from, text)
		return text, err
	}
	_, err := read() // its greeting
	require.NoError(t, err)
	number := 0
	return &engine{t, func(command string, parameters any) (json.RawMessage, error) {
		number++
		text, err := json.Marshal([]any{0, number, "WebDriver:" + command, parameters})
		if err != nil {
			return nil, err
		}
		if _, err := fmt.Fprintf(socket, "%d:%s", len(text), text); err != nil {
			return nil, err
		}
		if text, err = read(); err != nil {
			return nil, err
		}
		var reply [4]json.RawMessage
		if err := json.Unmarshal(text, &reply); err != nil {
			return nil, err
		}
		if string(reply[2]) != "null" {
			return nil, fmt.Errorf("%s: %s", command, reply[2])
		}
		var out struct{ Value json.RawMessage }
		_ = json.Unmarshal(reply[3], &out) // some have no value
		return out.Value, nil
	}}
}

// webkit sends commands by HTTP. It wants a display, which is made.
func webkit(t *testing.T) *engine {
	display := ""
	for n := 90; ; n++ {
		if display = fmt.Sprintf(":%d", n); exec.Command("test", "-e", fmt.Sprintf("/tmp/.X11-unix/X%d", n)).Run() != nil {
			break
		}
	}
	begin(t, "Xvfb", nil, display, "-screen", "0", "1400x1000x24", "-nolisten", "tcp")
	port := strconv.Itoa(freePort(t))
	begin(t, "WebKitWebDriver", []string{"DISPLAY=" + display, "HOME=" + t.TempDir(), "GDK_BACKEND=x11",
		"WEBKIT_DISABLE_COMPOSITING_MODE=1"}, "--port="+port)
	session := ""
	paths := map[string]string{
		"NewSession": "", "Navigate": "/url", "ExecuteAsyncScript": "/execute/async", "SetTimeouts": "/timeouts",
		"SetWindowRect": "/window/rect",
	}
	return &engine{t, func(command string, parameters any) (json.RawMessage, error) {
		text, err := json.Marshal(parameters)
		if err != nil {
			return nil, err
		}
		address := "http://127.0.0.1:" + port + "/session" + session + paths[command]
		res, err := http.Post(address, "application/json", bytes.NewReader(text))
		if err != nil {
			return nil, err
		}
		defer res.Body.Close()
		var out struct{ Value json.RawMessage }
		if err := json.NewDecoder(res.Body).Decode(&out); err != nil {
			return nil, err
		}
		if res.StatusCode != http.StatusOK {
			return nil, fmt.Errorf("%s: %s", command, out.Value)
		}
		if command == "NewSession" {
			var s struct{ SessionID string }
			err = json.Unmarshal(out.Value, &s)
			session = "/" + s.SessionID
		}
		return out.Value, err
	}}
}

// must sends a command that has to succeed.
func (e *engine) must(command string, parameters any) {
	e.t.Helper()
	_, err := e.send(command, parameters)
	require.NoError(e.t, err)
}

// ready begins a session with a window of 1280 by 800.
func (e *engine) ready() {
	e.t.Helper()
	capabilities := map[string]any{"capabilities": map[string]any{"alwaysMatch": map[string]any{}}}
	require.Eventually(e.t, func() bool {
		_, err := e.send("NewSession", capabilities)
		if err != nil {
			e.t.Log(err)
		}
		return err == nil
	}, patience, time.Second)
	e.must("SetTimeouts", map[string]any{"script": patience.Milliseconds(), "pageLoad": patience.Milliseconds()})
	e.must("SetWindowRect", map[string]any{"width": 1280, "height": 800})
}

func (e *engine) open(address string) {
	e.t.Helper()
	e.must("Navigate", map[string]any{"url": address})
}

// value evaluates JavaScript on the page, and waits for what it promises.
func (e *engine) value(js string, to any) error {
	raw, err := e.send("ExecuteAsyncScript", map[string]any{"args": []any{}, "script": `const done = arguments[0]
		new Promise((then) => then(` + js + `)).then((v) => done(JSON.stringify([v])), (e) => done(String(e)))`})
	if err != nil {
		return err
	}
	var text string
	if err := json.Unmarshal(raw, &text); err != nil {
		return err
	}
	if !strings.HasPrefix(text, "[") {
		return fmt.Errorf("%s: %s", text, js)
	}
	return json.Unmarshal([]byte(text), &[]any{to})
}

// The gallery of layouts, in the engines that ENGINES names.
func TestLayoutsInOtherEngines(t *testing.T) {
	names := strings.Fields(strings.ReplaceAll(os.Getenv("ENGINES"), ",", " "))
	if len(names) == 0 {
		t.Skip("make engines runs it")
	}
	for _, name := range names {
		t.Run(name, func(t *testing.T) {
			require.Contains(t, engines, name, "ENGINES takes firefox and webkit")
			_, gallery := withLayouts(t)
			e := engines[name](t)
			e.ready()
			for n, l := range layouts {
				t.Run(l.name, func(t *testing.T) {
					forgets := &engine{t, e.send}
					forgets.open(gallery)
					require.NoError(t, forgets.value("(localStorage.clear(), sessionStorage.clear(), 1)", new(int)))
					checkLayout(t, forgets, fmt.Sprintf("%s/%d", gallery, n))
				})
			}
		})
	}
}
