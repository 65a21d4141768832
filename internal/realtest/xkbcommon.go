//go:build linux

package realtest

import (
	"testing"
	"unsafe"

	"github.com/ebitengine/purego"
	"github.com/stretchr/testify/require"
)

// Xkbcommon is the real libxkbcommon, asked in this process.
type Xkbcommon struct {
	contextNew   func(flags int32) uintptr
	keymapNew    func(context uintptr, text string, format, flags int32) uintptr
	keymapUnref  func(keymap uintptr)
	stateNew     func(keymap uintptr) uintptr
	stateUnref   func(state uintptr)
	updateKey    func(state uintptr, key uint32, direction int32) int32
	oneSym       func(state uintptr, key uint32) uint32
	serialize    func(state uintptr, components int32) uint32
	consumedMods func(state uintptr, key uint32, mode int32) uint32
	keyRepeats   func(keymap uintptr, key uint32) int32
	symName      func(sym uint32, buffer unsafe.Pointer, size uintptr) int32
	modIndex     func(keymap uintptr, name string) uint32
	context      uintptr
}

// NewXkbcommon loads the library.
func NewXkbcommon(t testing.TB) *Xkbcommon {
	t.Helper()
	lib, err := purego.Dlopen("libxkbcommon.so.0", purego.RTLD_NOW|purego.RTLD_GLOBAL)
	if err != nil {
		Missing(t, "libxkbcommon.so.0 cannot be loaded", "libxkbcommon0")
	}
	x := &Xkbcommon{}
	for name, f := range map[string]any{
		"xkb_context_new": &x.contextNew, "xkb_keymap_new_from_string": &x.keymapNew, "xkb_keymap_unref": &x.keymapUnref,
		"xkb_state_new": &x.stateNew, "xkb_state_unref": &x.stateUnref, "xkb_state_update_key": &x.updateKey,
		"xkb_state_key_get_one_sym": &x.oneSym, "xkb_state_serialize_mods": &x.serialize,
		"xkb_state_key_get_consumed_mods2": &x.consumedMods, "xkb_keymap_key_repeats": &x.keyRepeats,
		"xkb_keysym_get_name": &x.symName, "xkb_keymap_mod_get_index": &x.modIndex,
	} {
		purego.RegisterLibFunc(f, lib, name)
	}
	x.context = x.contextNew(0)
	require.NotZero(t, x.context)
	return x
}

// RealKeymap is a keymap that the library compiled.
type RealKeymap struct {
	x      *Xkbcommon
	keymap uintptr
	state  uintptr
	names  map[uint32]string
}

// Keymap compiles a whole keymap.
func (x *Xkbcommon) Keymap(t testing.TB, text string) *RealKeymap {
	t.Helper()
	k := &RealKeymap{x: x, keymap: x.keymapNew(x.context, text, 1, 0), names: map[uint32]string{}}
	require.NotZero(t, k.keymap, "libxkbcommon refuses the keymap")
	k.state = x.stateNew(k.keymap)
	t.Cleanup(func() { x.stateUnref(k.state); x.keymapUnref(k.keymap) })
	return k
}

// Press puts a key down, by its evdev code; Release lets it go.
func (k *RealKeymap) Press(evdev int) { k.x.updateKey(k.state, uint32(evdev+8), 1) }

// Release lets a key go.
func (k *RealKeymap) Release(evdev int) { k.x.updateKey(k.state, uint32(evdev+8), 0) }

// Reset lets everything go and unlocks everything.
func (k *RealKeymap) Reset() {
	k.x.stateUnref(k.state)
	k.state = k.x.stateNew(k.keymap)
}

// Get says what a press of a key would give now: the keysym, the real modifiers
// left over as bits from Shift to Mod5, and whether it repeats.
func (k *RealKeymap) Get(evdev int) (keysym string, left uint8, repeats bool) {
	code := uint32(evdev + 8)
	sym := k.x.oneSym(k.state, code)
	name, ok := k.names[sym]
	if !ok {
		var buffer [64]byte
		n := k.x.symName(sym, unsafe.Pointer(&buffer[0]), 64)
		if name = "NoSymbol"; n > 0 && sym != 0 {
			name = string(buffer[:n])
		}
		k.names[sym] = name
	}
	const effective = 1 << 3
	active := k.x.serialize(k.state, effective)
	return name, uint8(active &^ k.x.consumedMods(k.state, code, 0)), k.x.keyRepeats(k.keymap, code) == 1
}

// Composed gives the keysyms of presses, one after the other, to the library's compose
// table of a file, and returns the text it makes of them and whether it makes one.
func (x *Xkbcommon) Composed(t testing.TB, file, locale string, keysyms ...uint32) (string, bool) {
	t.Helper()
	lib, err := purego.Dlopen("libxkbcommon.so.0", purego.RTLD_NOW|purego.RTLD_GLOBAL)
	require.NoError(t, err)
	var table func(context uintptr, buffer string, length uintptr, locale string, format, flags int32) uintptr
	var state func(table uintptr, flags int32) uintptr
	var feed func(state uintptr, keysym uint32) int32
	var status func(state uintptr) int32
	var text func(state uintptr, buffer unsafe.Pointer, size uintptr) int32
	for name, f := range map[string]any{
		"xkb_compose_table_new_from_buffer": &table, "xkb_compose_state_new": &state, "xkb_compose_state_feed": &feed,
		"xkb_compose_state_get_status": &status, "xkb_compose_state_get_utf8": &text,
	} {
		purego.RegisterLibFunc(f, lib, name)
	}
	compiled := table(x.context, file, uintptr(len(file)), locale, 1, 0)
	require.NotZero(t, compiled, "libxkbcommon refuses the compose file")
	s := state(compiled, 0)
	for _, sym := range keysyms {
		feed(s, sym)
	}
	const composed = 2
	if status(s) != composed {
		return "", false
	}
	buffer := make([]byte, 512)
	n := text(s, unsafe.Pointer(&buffer[0]), uintptr(len(buffer)))
	return string(buffer[:n]), true
}
