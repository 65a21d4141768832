package check_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/check"
	"leitstand/core/diag"
)

// What random mappings have found once stays proved: nothing here is an error, and the files
// do what the mapping says.
func TestFoundOnce(t *testing.T) {
	const board = "board \"chart-table\" { ids = [\"usb:1209:0001\"] }\n"
	for name, text := range map[string]string{
		"keys that an option makes alike": board + `board "wheelhouse" {
  ids  = ["any external"]
  legends = "mac"
}
machine "mess" {
  system  = "linux"
  desktop = "sway"
  layouts = ["us(mac)"]
  options = ["lv3:alt_switch"]
  boards  = ["chart-table", "wheelhouse"]
  rights  = "user"
}
hands {
  order = ["Meta", "Ctrl", "Alt"]
  sides = "both"
}
`,
		"a key whose second level Shift does not lead to": `machine "mess" {
  system  = "linux"
  desktop = "xfce"
  session = "x11"
  layouts = ["jp"]
}
launch "Ctrl+Alt+Shift+Meta+Backquote" { run = "tidegauge" }
`,
		"a held layer's key that types, and one for a press, in a layout library": `machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  layout_library = true
}
layer "signs" {
  while = "Backquote"
  keys = {
    KeyA = "α"
    KeyB = "off"
  }
}
layer "marks" {
  once = "KeyZ"
  keys = { KeyC = "Space" }
}
`,
		"keys of a Mac's layers that type what they type anyhow": `machine "pier" {
  system  = "macos"
  layouts = ["gb"]
}
layer "signs" {
  while = "KeyQ"
  keys = {
    Backquote = "off"
    Digit1    = "Tab"
  }
}
layer "marks" {
  once = "Digit1"
  keys = { KeyI = "Space" }
}
`,
		"a key that locks capitals under the second layout only": `machine "mess" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  layouts = ["gb(colemak)", "de(T3)"]
  rights  = "user"
}
remap "Backquote" {
  to    = "CapsLock"
  allow = ["lost-character"]
}
`,
		"a chord switched off, on one of two keys that type the same": `machine "mess" {
  system  = "linux"
  desktop = "gnome"
  layouts = ["br(nodeadkeys)"]
}
disable "Alt+BracketLeft" {}
`,
		"brackets in a layer": `machine "mess" {
  system  = "linux"
  session = "x11"
  layouts = ["de"]
}
layer "nav" {
  while = "CapsLock"
  keys = {
    KeyJ = "("
    KeyK = ")"
  }
}
`,
		"an abbreviation with a character whose key is the Compose key": `machine "vessel" {
  system  = "macos"
  layouts = ["us"]
}
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["us"]
}
remap "KeyF" { to = "Compose" }
abbreviation "shf" {
  text         = "€"
  allow        = ["unavailable"]
}
`,
		"a character by a function key, on Windows": `machine "lab" {
  system  = "windows"
  layouts = ["us"]
}
remap "F1" {
  to    = "!"
  allow = ["unavailable"]
}
`,
		"a key in a layer of CapsLock that types otherwise under each layout": `machine "vessel" {
  system  = "macos"
  layouts = ["us", "ru"]
}
layer "signs" {
  toggle = "CapsLock"
  keys = { Digit5 = "Backquote" }
}
`,
		"chords with Hyper of a key": `machine "mess" {
  system  = "linux"
  desktop = "xfce"
  session = "x11"
  layouts = ["de"]
}
hyper "CapsLock" {}
remap "F6" { to = "Hyper+PageDown" }
layer "nav" {
  while = "ControlRight"
  keys = { KeyC = "Ctrl+Meta+0" }
}
`,
		"a chord of a Mac switched off for one side only, and another board's key": `machine "vessel" {
  system  = "macos"
  layouts = ["at"]
  boards  = ["wheelhouse"]
}
board "wheelhouse" {
  ids     = ["any external"]
  legends = "pc"
}
disable "Meta+ShiftLeft+4" {}
remap "Backquote" { to = "CapsLock" }
on "wheelhouse" {
  remap "Backquote" { to = "Insert" }
}
`,
		"what a system does by itself, asked for with one side of a modifier": `machine "lab" {
  system  = "windows"
  layouts = ["us"]
}
action "MetaLeft" { does = "launcher" }
action "MetaLeft+d" { does = "show-desktop" }
action "MetaRight+ArrowLeft" { does = "tile-left" }
`,
		"a text by AltGr under layouts that have none": `machine "lab" {
  system         = "windows"
  layouts        = ["us"]
  rights         = "admin"
  layout_library = true
}
machine "office" {
  system         = "windows"
  layouts        = ["de", "us"]
  rights         = "admin"
  layout_library = true
}
snippet "AltGr+Digit7" { text = "x" }
snippet "Shift+AltGr+k" { text = "y" }
`,
		"keys in a layer for one press that begin another one, or Compose, or hold a layer": `machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  rights         = "admin"
  layout_library = true
}
layer "tide0" {
  once = "KeyY"
  keys = {
    KeyY          = { text = "a" }
    KeyX          = { text = "b" }
    KeyJ          = { text = "c" }
    IntlBackslash = { text = "d" }
  }
}
layer "tide1" {
  while = "KeyJ"
  keys = { KeyH = { text = "x" } }
}
layer "tide2" {
  once = "KeyX"
  keys = { KeyC = { text = "e" } }
}
remap "IntlBackslash" { to = "Compose" }
`,
		"keys in a layer for one press that type as others do": `machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  rights         = "admin"
  layout_library = true
}
layer "tide0" {
  once = "KeyY"
  keys = {
    KeyK = { text = "a" }
    KeyL = { text = "b" }
    KeyM = { text = "c" }
  }
}
layer "tide1" {
  while = "KeyJ"
  keys = {
    KeyC = { text = "k" }
    KeyV = "KeyL"
  }
}
snippet "AltGr+Digit8" { text = "M" }
`,
		"keys of a numpad that type as others do": `machine "mess" {
  system  = "linux"
  desktop = "plasma"
  session = "x11"
  options = ["keypad:hex"]
}
machine "vessel" {
  system  = "linux"
  desktop = "plasma"
  options = ["kpdl:dotoss"]
}
launch "NumpadDecimal" { run = "xterm" }
launch "NumpadDivide" { run = "xterm" }
launch "Ctrl+NumpadAdd" { run = "xterm" }
`,
		"a key that types nothing, in a layer for one press of a Mac": `machine "vessel" {
  system  = "macos"
  layouts = ["us"]
}
layer "tide0" {
  once = "Backquote"
  keys = { IntlRo = "off" }
}
layer "tide1" {
  once = "KeyU"
  keys = {
    IntlYen = { text = "q" }
    IntlRo  = { text = "r" }
  }
}
remap "KeyB" { to = "Compose" }
`,
		"a chord with Option beside a layer that Option holds": `machine "vessel" {
  system  = "macos"
  layouts = ["us"]
}
remap "Alt+KeyG" { to = "ArrowLeft" }
layer "tide0" {
  while = "Lang5"
  keys = { KeyH = "ArrowUp" }
}
`,
		"keys that type nothing, given by a layer of characters": `machine "vessel" {
  system  = "macos"
  layouts = ["us"]
}
machine "lab" {
  system         = "windows"
  layouts        = ["us"]
  rights         = "admin"
  layout_library = true
}
layer "tide0" {
  while = "F7"
  keys = {
    Digit1 = "IntlYen"
    Digit2 = "IntlRo"
  }
}
layer "tide1" {
  once = "Backquote"
  keys = { Digit3 = "IntlYen" }
}
`,
		"Pause and a key that types, exchanged": `machine "lab" {
  system         = "windows"
  layouts        = ["us"]
  rights         = "admin"
  layout_library = true
}
swap "Pause" "Digit1" {}
remap "Numpad5" { to = "Pause" }
layer "tide0" {
  once = "KeyC"
  keys = { KeyB = { text = "x" } }
}
on "lab" {
  remap "Pause" { to = "F7" }
}
`,
		"a layer that the right Alt holds, and Hyper": `machine "lab" {
  system         = "windows"
  layouts        = ["gb"]
  rights         = "admin"
  layout_library = true
}
machine "office" {
  system         = "windows"
  layouts        = ["de"]
  rights         = "admin"
  layout_library = true
}
hyper "CapsLock" {}
layer "tide0" {
  while = "AltRight"
  keys = { KeyE = { text = "x" } }
}
`,
		"Hyper in layouts of our own": `machine "lab" {
  system         = "windows"
  layouts        = ["de", "us"]
  rights         = "admin"
  layout_library = true
}
machine "office" {
  system         = "windows"
  layouts        = ["pl"]
  rights         = "admin"
  layout_library = true
}
hyper "CapsLock" {}
hyper "F6" {}
launch "Hyper+e" { run = "xterm" }
layer "tide0" {
  while = "F12"
  keys = { KeyE = { text = "x" } }
}
layer "tide1" {
  once = "KeyY"
  keys = {
    KeyA  = { text = "x" }
    Space = "KeyJ"
  }
}
`,
		"CapsLock on a key, where an option has a shift key give it": `machine "mess" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  rights  = "user"
  options = ["shift:rshift_both_capslock_cancel", "grp:caps_toggle"]
}
machine "vessel" {
  system  = "linux"
  desktop = "sway"
  rights  = "user"
  options = ["shift:rshift_both_capslock_cancel", "caps:escape"]
}
remap "KeyQ" { to = "CapsLock" }
remap "Digit1" { to = "ShiftRight" }
`,
		"a key that an option has give nothing, kept as it is": `machine "mess" {
  system  = "linux"
  desktop = "gnome"
  session = "wayland"
  rights  = "user"
  options = ["caps:none"]
}
remap "ControlRight" { to = "CapsLock" }
remap "CapsLock" {
  tap      = "Compose"
  hold     = "Ctrl+Escape"
  fallback = "CapsLock"
}
disable "ScrollLock" {}
`,
		"a key of a layer that types what another one does": `machine "lab" {
  system         = "windows"
  layouts        = ["ru"]
  rights         = "admin"
  layout_library = true
}
machine "office" {
  system         = "windows"
  layouts        = ["us", "ru", "de"]
  rights         = "admin"
  layout_library = true
}
layer "tide0" {
  once = "Digit0"
  keys = { Backquote = "IntlBackslash" }
}
layer "tide1" {
  while = "F9"
  keys = {
    KeyA = "IntlBackslash"
    KeyB = "Backslash"
  }
}
`,
		"a chord with Shift of a Compose key, or of one that begins a layer": `machine "chart" {
  system  = "macos"
  layouts = ["us"]
  rights  = "admin"
}
machine "lab" {
  system         = "windows"
  layouts        = ["de"]
  rights         = "admin"
  layout_library = true
}
remap "Digit3" { to = "Compose" }
disable "Shift+Digit3" {}
layer "tide0" {
  once = "Digit4"
  keys = { KeyA = "ß" }
}
remap "Shift+Digit4" { to = "€" }
layer "tide1" {
  while = "Digit5"
  keys = { KeyB = "ß" }
}
remap "AltGr+Digit5" { to = "x" }
`,
		"a Mac's key that two names have, on one of the external boards": board + `board "wheelhouse" { ids = ["any external"] }
machine "pier" {
  system  = "macos"
  boards  = ["wheelhouse", "chart-table"]
}
remap "Help" {
  tap      = "Compose"
  hold     = "Enter"
  fallback = "Insert"
  except   = ["wheelhouse"]
}
`,
		"repeat on a board": board + `machine "mess" {
  system  = "linux"
  desktop = "gnome"
  boards  = ["chart-table"]
}
repeat {
  rate = 40
  on   = ["chart-table"]
}
launch "ShiftRight" { run = ["xterm"] }
`,
	} {
		r, err := check.Mapping(load(t, text), here(func(string) bool { return true }), nil)
		require.NoError(t, err, name)
		for _, f := range r.Findings {
			assert.NotEqual(t, diag.Error, f.Severity, "%s: %s", name, f.Summary)
		}
		assert.Zero(t, r.Proof.Unexplained, name)
		assert.Positive(t, r.Proof.Presses, name)
	}
}
