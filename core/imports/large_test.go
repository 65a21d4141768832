package imports_test

import (
	"fmt"
	"runtime"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/imports"
	"leitstand/core/machine"
)

// growing are native files with so many entries, and such as are nested so deep.
var growing = map[string]struct {
	name string
	text func(n int) string
}{
	"i3":             {"i3/config", many("bindsym Mod4+F%[2]d exec program%[1]d\n")},
	"i3 with modes":  {"i3/config", many("mode \"m%[1]d\" {\n  bindsym t exec xterm\n}\n")},
	"sway boards":    {"sway/config", many("input \"%[1]d:1:x\" xkb_layout de\nbindsym Mod4+F%[2]d exec x%[1]d\n")},
	"hwdb":           {"90-own.hwdb", many("evdev:input:b0003v1209p%04[1]X*\n KEYBOARD_KEY_70039=esc\n\n")},
	"hwdb of others": {"90-own.hwdb", many("evdev:input:b0011v%04[1]X*\n KEYBOARD_KEY_70039=esc\n\n")},
	"dconf": {"dump.dconf", func(n int) string {
		return "[org/gnome/settings-daemon/plugins/media-keys]\n" + many("k%[1]d=['<Super>F%[2]d']\n")(n)
	}},
	"dconf folders": {"dump.dconf", many("[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/custom%[1]d]\n" +
		"binding='<Super>F%[2]d'\ncommand='x%[1]d'\nname='x'\n\n")},
	"plasma":  {"kglobalshortcutsrc", many("[kwin]\nAction %[1]d=Meta+F%[2]d,none,Action %[1]d\n")},
	"compose": {".XCompose", many("<Multi_key> <a> <%[3]s> : \"x%[1]d\"\n")},
	"console": {"keys.map", many("keycode 30 = F%[2]d\n")},
	"registry": {"keys.reg", func(n int) string {
		return "Windows Registry Editor Version 5.00\n\n[HKEY_CURRENT_USER\\Software\\Microsoft\\Windows\\CurrentVersion" +
			"\\Explorer\\Advanced]\n" + many("\"DisabledHotkeys\"=\"X\"\n\"v%[1]d\"=\"1\"\n")(n)
	}},
	"property list": {"DefaultKeyBinding.dict", func(n int) string {
		return "{\n" + many("  \"^~%[3]s%[1]d\" = (\"insertText:\", \"x%[1]d\");\n")(n) + "}\n"
	}},
	"json": {"settings.json", func(n int) string {
		return "{\"actions\":[" + strings.TrimSuffix(many("{\"command\":{\"action\":\"sendInput\",\"input\":\"x%[1]d\"},"+
			"\"keys\":\"ctrl+alt+f%[2]d\"},\n")(n), ",\n") + "]}"
	}},
	"nested lists":    {"settings.json", func(n int) string { return strings.Repeat(`{"a":`, n) }},
	"nested elements": {"x.plist", func(n int) string { return strings.Repeat("<dict>", n) }},
}

func many(form string) func(n int) string {
	return func(n int) string {
		var b strings.Builder
		for i := range n {
			word := string([]rune{rune('a' + i%26), rune('a' + i/26%26)})
			text := fmt.Sprintf(form, i, i%12+1, word)
			text, _, _ = strings.Cut(text, "%!(EXTRA")
			b.WriteString(text)
			if !strings.HasSuffix(text, "\n") {
				b.WriteString("\n")
			}
		}
		return b.String()
	}
}

// importText imports a file of a user's.
func importText(name, text string) (imports.Gathered, error) {
	here := &machine.Machine{Name: "gauge", System: machine.Linux, Layouts: []string{"us"}}
	return imports.Files([]imports.Path{{FS: fstest.MapFS{name: {Data: []byte(text)}}, Name: name, Shown: name}}, here, nil)
}

// A file that is twice as large takes about twice as much memory, whatever it has in it.
func TestLargeFilesGrowEvenly(t *testing.T) {
	for name, of := range growing {
		t.Run(name, func(t *testing.T) {
			read := func(n int) (times, bytes float64) {
				var before, after runtime.MemStats
				runtime.GC()
				runtime.ReadMemStats(&before)
				got, err := importText(of.name, of.text(n))
				if strings.HasPrefix(name, "nested") {
					require.Error(t, err)
				} else {
					require.NoError(t, err)
					_, _, err = got.Text()
					require.NoError(t, err)
				}
				runtime.ReadMemStats(&after)
				return float64(after.Mallocs - before.Mallocs), float64(after.TotalAlloc - before.TotalAlloc)
			}
			const n = 400
			read(n) // what is worked out once
			times, bytes := read(n)
			twice, more := read(2 * n)
			assert.LessOrEqual(t, twice, 2.6*times+2000, "allocations")
			assert.LessOrEqual(t, more, 2.6*bytes+500_000, "bytes")
		})
	}
}

// What is nested too deep is refused before anything else is done with it.
func TestNestedTooDeep(t *testing.T) {
	for _, text := range []string{strings.Repeat(`{"a":`, 400_000), strings.Repeat("<dict>", 400_000), strings.Repeat("(", 4<<20-1)} {
		_, err := importText("deep", text)
		require.ErrorContains(t, err, "nested more than 5000 deep")
	}
}
