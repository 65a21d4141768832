//go:build linux

package realtest

import (
	"testing"
	"time"

	"github.com/ebitengine/purego"
	"github.com/stretchr/testify/require"
)

// keyboard presses keys in an X server by its test extension, keycode by keycode. (The
// usual program for this changes the layout group around each key.)
type keyboard struct {
	display   uintptr
	fakeKey   func(display uintptr, keycode uint32, down int32, delay uint64) int32
	button    func(display uintptr, button uint32, down int32, delay uint64) int32
	lockGroup func(display uintptr, device, group uint32) int32
	sync      func(display uintptr, discard int32) int32
}

func newKeyboard(t testing.TB, name string) *keyboard {
	t.Helper()
	k := &keyboard{}
	var open func(name string) uintptr
	var end func(display uintptr) int32
	for lib, functions := range map[string]map[string]any{
		"libX11.so.6":  {"XOpenDisplay": &open, "XCloseDisplay": &end, "XkbLockGroup": &k.lockGroup, "XSync": &k.sync},
		"libXtst.so.6": {"XTestFakeKeyEvent": &k.fakeKey, "XTestFakeButtonEvent": &k.button},
	} {
		handle, err := purego.Dlopen(lib, purego.RTLD_NOW|purego.RTLD_GLOBAL)
		if err != nil {
			Missing(t, lib+" cannot be loaded", "libx11-6 libxtst6")
		}
		for name, f := range functions {
			purego.RegisterLibFunc(f, handle, name)
		}
	}
	k.display = open(name)
	require.NotZero(t, k.display, "the X server does not answer")
	t.Cleanup(func() { end(k.display) })
	return k
}

// key presses a key or a button or lets it go, by its evdev code.
func (s *Server) key(evdev int, down bool) {
	s.t.Helper()
	if s.keyboard == nil {
		s.keyboard = newKeyboard(s.t, s.Display)
	}
	var press int32
	if down {
		press = 1
	}
	if b, ok := buttons[evdev]; ok {
		require.NotZero(s.t, s.keyboard.button(s.keyboard.display, b, press, 0))
	} else {
		require.NotZero(s.t, s.keyboard.fakeKey(s.keyboard.display, uint32(evdev+evdevOffset), press, 0))
	}
	s.keyboard.sync(s.keyboard.display, 0)
	time.Sleep(time.Millisecond)
}

// chord presses keys one after the other and lets them go in the other order.
func (s *Server) chord(evdev []int) {
	s.t.Helper()
	for _, k := range evdev {
		s.key(k, true)
	}
	for i := len(evdev) - 1; i >= 0; i-- {
		s.key(evdev[i], false)
	}
}

// Tap presses a chord without looking at what arrives.
func (s *Server) Tap(evdev ...int) {
	s.t.Helper()
	s.chord(evdev)
}

// LockGroup switches the server to a layout group, from 0, as a layout switcher
// does.
func (s *Server) LockGroup(group uint32) {
	s.t.Helper()
	if s.keyboard == nil {
		s.keyboard = newKeyboard(s.t, s.Display)
	}
	const coreKeyboard = 0x100
	require.NotZero(s.t, s.keyboard.lockGroup(s.keyboard.display, coreKeyboard, group))
	s.keyboard.sync(s.keyboard.display, 0)
}
