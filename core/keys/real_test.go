package keys_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strconv"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/keys"
	"leitstand/internal/realtest"
)

// evdevName is the kernel's name for each key whose evdev name is not the code
// spelled otherwise.
var kernelNames = map[string]string{
	"Backquote": "GRAVE", "IntlYen": "YEN", "BracketLeft": "LEFTBRACE", "BracketRight": "RIGHTBRACE",
	"Quote":         "APOSTROPHE",
	"IntlBackslash": "102ND", "Period": "DOT", "IntlRo": "RO", "AltLeft": "LEFTALT", "AltRight": "RIGHTALT",
	"ContextMenu": "COMPOSE", "ControlLeft": "LEFTCTRL", "ControlRight": "RIGHTCTRL", "MetaLeft": "LEFTMETA",
	"MetaRight": "RIGHTMETA",
	"ShiftLeft": "LEFTSHIFT", "ShiftRight": "RIGHTSHIFT", "Convert": "HENKAN", "KanaMode": "KATAKANAHIRAGANA",
	"Lang1": "HANGEUL",
	"Lang2": "HANJA", "Lang3": "KATAKANA", "Lang4": "HIRAGANA", "Lang5": "ZENKAKUHANKAKU", "NonConvert": "MUHENKAN",
	"ArrowDown": "DOWN", "ArrowLeft": "LEFT", "ArrowRight": "RIGHT", "ArrowUp": "UP", "NumpadAdd": "KPPLUS",
	"NumpadComma":   "KPCOMMA",
	"NumpadDecimal": "KPDOT", "NumpadDivide": "KPSLASH", "NumpadEnter": "KPENTER", "NumpadEqual": "KPEQUAL",
	"NumpadHash":     "NUMERIC_POUND",
	"NumpadMultiply": "KPASTERISK", "NumpadParenLeft": "KPLEFTPAREN", "NumpadParenRight": "KPRIGHTPAREN",
	"NumpadStar":     "NUMERIC_STAR",
	"NumpadSubtract": "KPMINUS", "Escape": "ESC", "PrintScreen": "SYSRQ", "BrowserBack": "BACK",
	"BrowserFavorites": "BOOKMARKS",
	"BrowserForward":   "FORWARD", "BrowserHome": "HOMEPAGE", "BrowserRefresh": "REFRESH", "BrowserSearch": "SEARCH",
	"BrowserStop": "STOP",
	"Eject":       "EJECTCD", "LaunchApp1": "FILE", "LaunchApp2": "CALC", "LaunchMail": "MAIL", "MediaPlayPause": "PLAYPAUSE",
	"MediaSelect": "CONFIG", "MediaStop": "STOPCD", "MediaTrackNext": "NEXTSONG", "MediaTrackPrevious": "PREVIOUSSONG",
	"AudioVolumeDown": "VOLUMEDOWN", "AudioVolumeMute": "MUTE", "AudioVolumeUp": "VOLUMEUP", "WakeUp": "WAKEUP",
	"Select": "FRONT",
}

var spelledOtherwise = regexp.MustCompile(`^(?:Digit|Key)(.)$|^Numpad(\d)$`)

// The evdev codes are those of the kernel's header, by its own names.
func TestEvdevCodesAreTheKernels(t *testing.T) {
	const header = "/usr/include/linux/input-event-codes.h"
	realtest.NeedFile(t, header, "linux-libc-dev")
	text, err := os.ReadFile(header)
	require.NoError(t, err)
	codes := map[string]int{}
	for _, f := range regexp.MustCompile(`(?m)^#define KEY_(\w+)\s+(0x[0-9a-f]+|\d+)`).FindAllStringSubmatch(string(text), -1) {
		n, err := strconv.ParseInt(f[2], 0, 32)
		require.NoError(t, err)
		codes[f[1]] = int(n)
	}
	for _, k := range keys.All() {
		code, ok := k.Evdev()
		if !ok {
			continue
		}
		name := kernelNames[k.String()]
		if f := spelledOtherwise.FindStringSubmatch(k.String()); name == "" && f != nil {
			if name = f[1]; f[2] != "" {
				name = "KP" + f[2]
			}
		}
		if name == "" {
			name = regexp.MustCompile(`[a-z]+`).ReplaceAllStringFunc(k.String(), func(s string) string {
				return string(
					regexp.MustCompile(
						`.`,
					).ReplaceAllFunc([]byte(s), func(b []byte) []byte { return []byte{b[0] &^ 0x20} }),
				)
			})
		}
		want, known := codes[name]
		assert.True(t, known, "the kernel has no KEY_%s, wanted for %s", name, k)
		assert.Equal(t, want, code, "%s is KEY_%s", k, name)
	}
}

// The XKB names are those of xkeyboard-config for the keycode, which is the
// evdev code and eight more.
func TestXKBNamesAreXkeyboardConfigs(t *testing.T) {
	const file = "/usr/share/X11/xkb/keycodes/evdev"
	realtest.NeedFile(t, file, "xkb-data")
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	// A name in a comment is none: <HZTG> of Lang5 is another name of <TLDE>.
	plain := regexp.MustCompile(`//.*`).ReplaceAllString(string(text), "")
	code, named := map[string]int{}, map[int]bool{}
	for _, f := range regexp.MustCompile(`<(\S+)>\s*=\s*(\d+);`).FindAllStringSubmatch(plain, -1) {
		n, err := strconv.Atoi(f[2])
		require.NoError(t, err)
		code[f[1]], named[n] = n, true
	}
	seen := 0
	for _, k := range keys.All() {
		evdev, has := k.Evdev()
		name, ok := k.XKB()
		if !ok {
			assert.False(t, has && evdev <= 247 && named[evdev+8], "%s has no XKB name and could", k)
			continue
		}
		seen++
		assert.Equal(t, code[name], evdev+8, "%s is <%s>", k, name)
	}
	assert.Greater(t, seen, 140)
}

// The embedded characters and keysyms are what the generator makes of the
// installed xkeyboard-config and X headers.
func TestEmbeddedDataIsCurrent(t *testing.T) {
	t.Parallel()
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	realtest.NeedFile(t, "/usr/include/X11/keysymdef.h", "x11proto-dev")
	if realtest.Other() {
		t.Skip("the data are made of the layouts of this machine, not of that generation's")
	}
	dir := t.TempDir()
	out, err := exec.Command("go", "run", "./gen", dir).CombinedOutput()
	require.NoError(t, err, "%s", out)
	for _, name := range []string{"layouts.txt", "options.txt", "keysyms.txt", "characters.txt"} {
		want, err := os.ReadFile(filepath.Join(dir, name))
		require.NoError(t, err)
		got, err := os.ReadFile(filepath.Join("data", name))
		require.NoError(t, err)
		assert.True(t, string(want) == string(got), "data/%s is stale: run go generate ./core/keys", name)
	}
}
