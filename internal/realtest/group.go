//go:build linux

package realtest

import (
	"github.com/ebitengine/purego"
	"github.com/stretchr/testify/require"
)

// LockGroup switches the server to a layout group, from 0, as a layout switcher
// does.
func (s *Server) LockGroup(group uint32) {
	s.t.Helper()
	lib, err := purego.Dlopen("libX11.so.6", purego.RTLD_NOW|purego.RTLD_GLOBAL)
	if err != nil {
		Missing(s.t, "libX11.so.6 cannot be loaded", "libx11-6")
	}
	var open func(name string) uintptr
	var lock func(display uintptr, device, group uint32) int32
	var sync func(display uintptr, discard int32) int32
	var end func(display uintptr) int32
	for name, f := range map[string]any{"XOpenDisplay": &open, "XkbLockGroup": &lock, "XSync": &sync, "XCloseDisplay": &end} {
		purego.RegisterLibFunc(f, lib, name)
	}
	display := open(s.Display)
	require.NotZero(s.t, display)
	const coreKeyboard = 0x100
	require.NotZero(s.t, lock(display, coreKeyboard, group))
	sync(display, 0)
	end(display)
}
