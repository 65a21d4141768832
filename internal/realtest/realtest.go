// Package realtest lets tests ask the real components: X servers, desktops,
// compilers of native formats, Wine. On a user's machine a test whose component is
// missing says what to install and is skipped; under CI it fails.
package realtest

import (
	"bufio"
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"leitstand/internal/sample"
)

// Need requires a program, and names the Debian package that has it.
func Need(t testing.TB, program, debian string) {
	t.Helper()
	sample.OnlyUnit(t)
	if _, err := exec.LookPath(program); err == nil {
		return
	}
	Missing(t, program+" is not installed", debian)
}

// NeedFile requires a file of a Debian package.
func NeedFile(t testing.TB, path, debian string) {
	t.Helper()
	sample.OnlyUnit(t)
	if _, err := os.Stat(path); err == nil {
		return
	}
	Missing(t, path+" is not there", debian)
}

// Missing fails under CI and skips elsewhere.
func Missing(t testing.TB, what, debian string) {
	t.Helper()
	if os.Getenv("CI") != "" {
		t.Fatalf("%s: apt-get install %s", what, debian)
	}
	t.Skipf("%s; to run this test: apt-get install %s", what, debian)
}

// Server is an X server of the test's own.
type Server struct {
	Display  string
	t        testing.TB
	keyboard *keyboard
}

// XServer starts an X server without a screen and stops it with the test. It
// keeps its keymap when the last client leaves, and repeats no key: a machine that
// pauses with a key down must not press it again.
func XServer(t testing.TB) *Server {
	t.Helper()
	Need(t, "Xvfb", "xvfb")
	Need(t, "xkbcomp", "x11-xkb-utils")
	Need(t, "xdotool", "xdotool")
	Need(t, "xev", "x11-utils")
	r, w, err := os.Pipe()
	require.NoError(t, err)
	cmd := exec.Command("Xvfb", "-displayfd", "3", "-screen", "0", "1000x600x24", "-nolisten", "tcp", "-noreset", "-r")
	cmd.ExtraFiles = []*os.File{w}
	require.NoError(t, cmd.Start())
	w.Close()
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	line, err := bufio.NewReader(r).ReadString('\n')
	require.NoError(t, err, "Xvfb names no display")
	return &Server{Display: ":" + strings.TrimSpace(line), t: t}
}

// Env is the environment for a client of the server.
func (s *Server) Env(more ...string) []string {
	return append(append(os.Environ(), "DISPLAY="+s.Display, "LC_ALL=C.UTF-8"), more...)
}

// Run runs a client and returns what it prints.
func (s *Server) Run(name string, args ...string) string {
	s.t.Helper()
	cmd := exec.Command(name, args...)
	cmd.Env = s.Env()
	out, err := cmd.CombinedOutput()
	require.NoError(s.t, err, "%s %v: %s", name, args, out)
	return string(out)
}

// Output runs a client and returns what it prints, "" if it fails.
func (s *Server) Output(name string, args ...string) string {
	cmd := exec.Command(name, args...)
	cmd.Env = s.Env()
	out, err := cmd.Output()
	if err != nil {
		return ""
	}
	return string(out)
}

// LoadKeymap loads a keymap file into the server.
func (s *Server) LoadKeymap(file string) {
	s.t.Helper()
	out := s.Run("xkbcomp", "-w0", file, s.Display)
	require.NotContains(
		s.t, out, "Error", "xkbcomp goes on after these, and what it makes of them may change from run to run",
	)
}

// Press is one key event that a program received.
type Press struct {
	State   int    // the X modifier state
	Keycode int    // X keycode
	Keysym  string // by Xlib's name
	Value   uint32 // the keysym's number
}

// X keycodes are evdev codes and eight more.
const evdevOffset = 8

// buttons are the X server's numbers of the buttons of a mouse, by evdev code.
var buttons = map[int]uint32{0x110: 1, 0x111: 3, 0x112: 2, 0x113: 8, 0x114: 9, 0x115: 10, 0x116: 11, 0x117: 12}

// Presser presses keys by their evdev codes and says what a window receives.
type Presser struct {
	s     *Server
	out   *lockedBuffer
	calls int
}

// Presser opens a window that takes all keys.
func (s *Server) Presser() *Presser {
	s.t.Helper()
	p := &Presser{s: s, out: &lockedBuffer{}}
	cmd := exec.Command("stdbuf", "-oL", "xev", "-event", "keyboard")
	cmd.Env = s.Env()
	cmd.Stdout = p.out
	require.NoError(s.t, cmd.Start())
	s.t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	WaitFor(s.t, "xev's window", func() bool {
		find := exec.Command("xdotool", "search", "--name", "Event Tester")
		find.Env = s.Env()
		id, err := find.Output()
		if err != nil {
			return false
		}
		focus := exec.Command("xdotool", "windowfocus", "--sync", strings.Fields(string(id))[0])
		focus.Env = s.Env()
		return focus.Run() == nil
	})
	return p
}

// Chord presses keys one after the other, lets them go in the other order, and
// returns the press events in their order.
func (p *Presser) Chord(evdev ...int) []Press {
	p.s.t.Helper()
	return p.Chords([][]int{evdev})[0]
}

// Chords presses several chords and returns the press events of each.
func (p *Presser) Chords(chords [][]int) [][]Press {
	p.s.t.Helper()
	from := p.out.Len()
	want := 0
	for _, evdev := range chords {
		p.s.chord(evdev)
		want += len(evdev)
	}
	var events []Press
	WaitFor(p.s.t, "the key events", func() bool {
		events = parseXev(p.out.From(from))
		return len(events) >= want
	})
	require.Len(p.s.t, events, want, "more events than presses")
	out := make([][]Press, len(chords))
	for i, evdev := range chords {
		out[i], events = events[:len(evdev)], events[len(evdev):]
	}
	return out
}

var xevPress = regexp.MustCompile(
	`(?s)KeyPress event.*?state 0x([0-9a-f]+), keycode (\d+) \(keysym 0x([0-9a-f]+), (\w+)\)`,
)

func parseXev(text string) []Press {
	var events []Press
	for _, f := range xevPress.FindAllStringSubmatch(text, -1) {
		state, _ := strconv.ParseInt(f[1], 16, 32)
		code, _ := strconv.Atoi(f[2])
		if code == 0 {
			continue // what the input method composed of a dead key and the next
		}
		value, _ := strconv.ParseUint(f[3], 16, 32)
		events = append(events, Press{int(state), code, f[4], uint32(value)})
	}
	return events
}

// WaitFor polls until a condition holds, for at most a minute.
func WaitFor(t testing.TB, what string, cond func() bool) {
	t.Helper()
	wait(t, time.Minute, what, cond)
}

func wait(t testing.TB, most time.Duration, what string, cond func() bool) {
	t.Helper()
	for end := time.Now().Add(most); time.Now().Before(end); time.Sleep(40 * time.Millisecond) {
		if cond() {
			return
		}
	}
	t.Fatalf("waited in vain for %s", what)
}

// Window is where a window is and how large, in pixels; Width 0 if there is none.
type Window struct{ X, Y, Width, Height int }

// Window finds the newest window of a class.
func (s *Server) Window(class string) Window {
	var w Window
	ids := strings.Fields(s.Output("xdotool", "search", "--onlyvisible", "--class", class))
	if len(ids) == 0 {
		return w
	}
	for line := range strings.Lines(s.Output("xdotool", "getwindowgeometry", "--shell", ids[len(ids)-1])) {
		for name, v := range map[string]*int{"X=%d": &w.X, "Y=%d": &w.Y, "WIDTH=%d": &w.Width, "HEIGHT=%d": &w.Height} {
			_, _ = fmt.Sscanf(line, name, v)
		}
	}
	return w
}

// Home makes a private home for a desktop's programs and returns its
// environment.
func Home(t testing.TB) (dir string, env []string) {
	t.Helper()
	dir = t.TempDir()
	run := filepath.Join(dir, "run")
	require.NoError(t, os.Mkdir(run, 0o700))
	return dir, []string{
		"HOME=" + dir, "XDG_CONFIG_HOME=" + filepath.Join(dir, ".config"), "XDG_RUNTIME_DIR=" + run,
		"XDG_CACHE_HOME=" + filepath.Join(dir, ".cache"), "XDG_DATA_HOME=" + filepath.Join(dir, ".local/share"),
		"NO_AT_BRIDGE=1", "GIO_USE_VFS=local",
	}
}

// Session starts a shell script in a session bus of its own and ends it, and all
// it started, with the test.
func (s *Server) Session(env []string, script string) *Background {
	s.t.Helper()
	Need(s.t, "dbus-run-session", "dbus")
	ctx, cancel := context.WithCancel(context.Background())
	cmd := exec.CommandContext(ctx, "dbus-run-session", "--", "sh", "-c", script)
	b := &Background{out: &lockedBuffer{}}
	cmd.Env = s.Env(env...)
	cmd.Stdout, cmd.Stderr = b.out, b.out
	isolate(cmd)
	require.NoError(s.t, cmd.Start())
	b.end = sync.OnceFunc(func() {
		endGroup(cmd)
		cancel()
		_ = cmd.Wait()
	})
	s.t.Cleanup(func() {
		b.end()
		if s.t.Failed() {
			s.t.Logf("the session printed:\n%s", b.out.From(0))
		}
	})
	return b
}

// Background is a running session.
type Background struct {
	out *lockedBuffer
	end func()
}

// End kills the session, and all that was started in it.
func (b *Background) End() { b.end() }

// Output is what the session has printed so far.
func (b *Background) Output() string { return b.out.From(0) }

// Output runs a program with its own arguments and returns what it prints on
// standard output and standard error.
func Output(t testing.TB, name string, args ...string) (stdout, stderr string) {
	t.Helper()
	var out, errs bytes.Buffer
	cmd := exec.Command(name, args...)
	cmd.Stdout, cmd.Stderr = &out, &errs
	require.NoError(t, cmd.Run(), "%s %v: %s", name, args, &errs)
	return out.String(), errs.String()
}

// Bus runs a shell script in a session bus of its own and returns what it prints on
// standard output.
func Bus(t testing.TB, env []string, script string) string {
	t.Helper()
	Need(t, "dbus-run-session", "dbus")
	var out, errs bytes.Buffer
	cmd := exec.Command("dbus-run-session", "--", "sh", "-c", script)
	cmd.Env = append(os.Environ(), append(env, "LC_ALL=C.UTF-8")...)
	cmd.Stdout, cmd.Stderr = &out, &errs
	require.NoError(t, cmd.Run(), "%s%s", &out, &errs)
	return out.String()
}

// Bus starts a session bus and returns its address.
func (s *Server) Bus(env []string) string {
	s.t.Helper()
	Need(s.t, "dbus-daemon", "dbus")
	out := &lockedBuffer{}
	cmd := exec.Command("dbus-daemon", "--session", "--nofork", "--print-address")
	cmd.Env = s.Env(env...)
	cmd.Stdout = out
	s.Background(cmd)
	WaitFor(s.t, "the bus", func() bool { return strings.Contains(out.From(0), "\n") })
	address, _, _ := strings.Cut(out.From(0), "\n")
	return address
}

// On starts a shell script on a bus and ends it, and all it started, with the test.
func (s *Server) On(address string, env []string, script string) {
	s.t.Helper()
	out := &lockedBuffer{}
	cmd := exec.Command("sh", "-c", script)
	cmd.Env = s.Env(append(env, "DBUS_SESSION_BUS_ADDRESS="+address)...)
	cmd.Stdout, cmd.Stderr = out, out
	s.Background(cmd)
	s.t.Cleanup(func() {
		if s.t.Failed() {
			s.t.Logf("the script printed:\n%s", out.From(0))
		}
	})
}

// TapUntil presses a chord again and again until something is done, since a desktop
// that has just started may not have asked for its keys yet, and lets what else the
// presses start come to an end.
func (s *Server) TapUntil(what string, done func() bool, evdev ...int) {
	s.t.Helper()
	WaitFor(s.t, what, func() bool {
		s.Tap(evdev...)
		time.Sleep(time.Second / 2)
		return done()
	})
	time.Sleep(time.Second)
}
