package imports_test

import (
	"fmt"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/rogpeppe/go-internal/txtar"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/change"
	"leitstand/core/compile"
	"leitstand/core/imports"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/dconf"
	"leitstand/core/mechanism/linux/i3"
	"leitstand/core/mechanism/linux/plasma"
	"leitstand/core/mechanism/linux/xfce"
	"leitstand/core/mechanism/registry"
	"leitstand/examples"
	"leitstand/internal/sample"
)

// The files that we write for a desktop are taken over like those of anybody else, whatever
// the commands hold.
func TestOurOwnFiles(t *testing.T) {
	sample.Checks(60)
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{1,12}`))
	for desktop, by := range map[string]registry.Mechanism{
		"i3": i3.Mechanism{}, "sway": i3.Mechanism{Sway: true}, "xfce": xfce.Mechanism{}, "plasma": plasma.Mechanism{},
		"gnome": dconf.Mechanism{Desktop: "gnome"}, "mate": dconf.Mechanism{Desktop: "mate"},
		"cinnamon": dconf.Mechanism{Desktop: "cinnamon"},
	} {
		t.Run(desktop, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				here := &mapping.Machine{Name: "gauge", System: mapping.Linux, Desktop: desktop, Admin: true,
					Layouts: rapid.SampledFrom([][]string{{"us"}, {"de"}, {"ch(fr)"}}).Draw(t, "layouts")}
				m := sample.Machine(*here)
				list := sample.Launches(t, word, func(b behaviour.Binding) bool {
					c := b.Effect.Launch().Command
					return !b.Chord.Key.IsModifier() && by.Take(m, b).Verdict == mechanism.Exact &&
						c[0] != "gtk-launch" && c[0] != "xdg-open"
				})
				out, err := mechanism.Write(by, m, list)
				require.NoError(t, err)
				fsys := fstest.MapFS{}
				for _, f := range out.Files() {
					fsys[f.Path] = &fstest.MapFile{Data: f.Data}
				}
				if len(list) == 0 {
					return
				}
				got, err := imports.Files([]imports.Path{{FS: fsys, Name: "."}}, here, nil)
				require.NoError(t, err)
				require.Len(t, got.Sources, 1)
				for _, c := range behaviour.Compare(list, got.Sources[0].Bindings) {
					require.NotNil(t, c.Before, "%s", c.Press)
					require.Nil(t, c.After, "%s: %v, was %v", c.Press, c.After, c.Before)
				}
				require.Len(t, got.Sources[0].Bindings, len(list), "%v", got.Left)
			})
		})
	}
}

// A key that comes by a pattern of some boards is of those, and machines are told apart by
// what their files can only be for.
func TestMachines(t *testing.T) {
	fsys := fstest.MapFS{
		"config":     {Data: []byte("bindsym Mod4+g exec tidegauge\n")},
		"keys.hwdb":  {Data: []byte("evdev:input:b0003v1209p0001*\n KEYBOARD_KEY_70039=esc\n")},
		"gauge.map":  {Data: []byte("alt keycode 35 = Left\n")},
		"links.url":  {Data: []byte("[InternetShortcut]\r\nURL=https://tides.example/\r\nHotKey=1623\r\n")},
		"notes.text": {Data: []byte("nothing of ours")},
	}
	got, err := imports.Files([]imports.Path{{FS: fsys, Name: ".", Shown: "home"}}, here, nil)
	require.NoError(t, err)
	var names []string
	for _, s := range got.Sources {
		names = append(names, s.Machine.Name+" "+s.Machine.Place())
	}
	assert.Equal(t, []string{"i3 Linux with i3", "linux-console Linux console", "windows Windows"}, names)
	assert.Equal(t, []string{"board-1209-0001"}, got.Sources[0].Machine.Machine.Boards)
	assert.Len(t, got.Sources[0].Bindings, 2)

	_, err = imports.Files([]imports.Path{{FS: fsys, Name: "notes.text", Shown: "notes.text"}}, here, nil)
	assert.EqualError(t, err, "notes.text: it is none of the files that we read")
	_, err = imports.Files([]imports.Path{{FS: fstest.MapFS{"a/b": {}}, Name: "a", Shown: "a"}}, here, nil)
	assert.EqualError(t, err, "a: it holds none of the files that we read")
	_, err = imports.Files([]imports.Path{{FS: fsys, Name: "none", Shown: "none"}}, here, nil)
	assert.Error(t, err)
}

// Whatever a file holds, the mapping that is made of it is one.
func FuzzImport(f *testing.F) {
	for _, seed := range [][2]string{
		{"config", "set $mod Mod4\nbindsym $mod+Shift+q kill\nmode \"a\" {\nbindsym x exec y\n}\nbindsym z mode " +
			"\"a\"\nbindcode 38 exec true\n"},
		{"config", "input * {\nrepeat_rate 30\n}\nbindsym --locked XF86AudioMute exec pactl set-sink-mute " +
			"@DEFAULT_SINK@ toggle\n"},
		{"k.hwdb", "evdev:atkbd:dmi:*\n KEYBOARD_KEY_3a=!esc # x\n"},
		{"kglobalshortcutsrc", "[kwin]\nWindow Close=Meta+Q\\tAlt+F4,Alt+F4,Close\nOverview=none,Meta+W,x\n"},
		{"dump", "[org/gnome/desktop/wm/keybindings]\nclose=['<Super>q']\n\n[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/custom0]\nname='a'\nbinding='F9'\ncommand=\"b 'c'\"\n"},
		{"x.xml", `<channel name="xfce4-keyboard-shortcuts" version="1.0"><property name="commands" type="empty"><property name="custom" type="empty"><property name="&lt;Super&gt;t" type="string" value="xterm"/></property></property></channel>`},
		{"XCompose", "<Multi_key> <a> <b> : \"c\\012\"\n<F7> : \"d\"\n"},
		{"k.map", "shift keycode 59 = F61\nstring F61 = \"x\"\n"},
		{"k.reg", "[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Keyboard Layout]\n\"Scancode " +
			"Map\"=hex:00,00,00,00,00,00,00,00,02,00,00,00,01,00,3a,00,00,00,00,00\n"},
		{"k.xkb", "// The machine's layouts with the keyboard mapping on top. Load it with:\nxkb_keymap {\n  " +
			"xkb_symbols {\n    include \"pc+de\"\n    replace key <CAPS> { type[Group1] = \"ONE_LEVEL\", " +
			"symbols[Group1] = [ Hyper_L ] };\n    modifier_map Mod3 { <CAPS> };\n  };\n};\n"},
		{"k2.xkb", "xkb_keymap {\nxkb_keycodes { <CAPS> = 66; };\nxkb_types { type \"ONE_LEVEL\" { modifiers = " +
			"none; }; };\nxkb_compat { };\nxkb_symbols { key <CAPS> { [ Escape ] }; };\n};\n"},
		{"k.url", "[InternetShortcut]\nURL=https://tides.example/\nHotKey=1623\n"},
		{"k.plist", `{"Label"="a";"ProgramArguments"=("hidutil","property","--set","{\"UserKeyMapping\":[{\"HIDKeyboardModifierMappingSrc\":0x700000039,\"HIDKeyboardModifierMappingDst\":0x700000029}]}");}`},
	} {
		f.Add(seed[0], []byte(seed[1]))
	}
	f.Fuzz(func(t *testing.T, name string, text []byte) {
		for _, by := range registry.Importers() {
			if !by.Knows(name, text) {
				continue
			}
			m := sample.Machine(func() mapping.Machine {
				m := by.For()
				m.Layouts = []string{"de"}
				return m
			}())
			got, err := by.Import(m, text, mechanism.Folder(nil))
			if err != nil {
				continue
			}
			m.Boards = got.Boards
			for _, b := range got.Boards {
				m.Machine.Boards = append(m.Machine.Boards, b.Name)
			}
			mp, _, err := imports.Gathered{
				Sources: []imports.Source{{Machine: m, Bindings: got.Bindings}},
				Left:    got.Left,
			}.Text()
			require.NoError(t, err)
			loaded(t, mp)
		}
	})
}

// What is not taken over is listed: each line about keys, and the kinds of settings that are
// about something else.
func TestWhatIsLeft(t *testing.T) {
	for _, c := range []struct{ name, text, mapping, left string }{
		{"i3/config", "font pango:monospace 9\nbar {\n  status_command i3status\n}\nexec setxkbmap de -option " +
			"compose:menu\nexec xset r rate 250 40\ninclude more.conf\n" +
			"bindsym Mod4+1 workspace \"1: mail\"\nexec nm-applet\n", "rate  = 40\nworkspace-1",
			"compose:menu a layout and its options belong\ninclude more.conf the files that it includes\nthe " +
				"workspace's name is left out\nfont, bar, exec not about keys"},
		{"sway/config", "input * {\n  xkb_layout de,us\n  xkb_variant nodeadkeys,\n  xkb_options " +
			"compose:menu,grp:none-such\n}\nbindsym Mod4+Return exec foot\n",
			"layouts = [\"de(nodeadkeys)\", \"us\"]\noptions = [\"compose:menu\"]",
			"grp:none-such what this option does"},
		{"gnome.ini", "[org/gnome/desktop/input-sources]\nsources=[('xkb', 'fr'), ('xkb', " +
			"'us+intl')]\nxkb-options=['compose:ralt']\n\n[org/gnome/desktop/wm/keybindings]\nswitch-applications=[]\nclose=['<Super>w']\n",
			"layouts = [\"fr\", \"us(intl)\"]\noptions = [\"compose:ralt\"]\ndoes = \"close\"",
			"Alt+Tab is free: the desktop leaves it to programs\nMeta+Tab is free"},
		{"keys.reg", "Windows Registry Editor Version " +
			"5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Keyboard Layout]\r\n\"Scancode " +
			"Map\"=hex:00,00,00,00,00,00,00,00,02,00,00,00,1d,00,3a,00,00,00,00,00\r\n\r\n" +
			"[HKEY_CURRENT_USER\\Software\\Microsoft\\Windows\\CurrentVersion\\Explorer\\Advanced]\r\n\"DisabledHotkeys\"=\"HG\"\r\n" +
			"[HKEY_CURRENT_USER\\Control Panel\\Accessibility\\Keyboard Response]\r\n\"AutoRepeatDelay\"=\"220\"\r\n" +
			"\"Flags\"=\"3\"\r\n\"BounceTime\"=\"0\"\r\n\"DelayBeforeAcceptance\"=\"0\"\r\n" +
			"[HKEY_CURRENT_USER\\Control Panel\\Keyboard]\r\n\"KeyboardDelay\"=\"0\"\r\n",
			"CapsLock = \"ControlLeft\"\n\"Meta+g\" = \"off\"\n\"Meta+h\" = \"off\"\ndelay = \"220ms\"",
			"\"KeyboardDelay\" this value of the registry is not read"},
	} {
		got, err := imports.Files(
			[]imports.Path{{FS: fstest.MapFS{c.name: {Data: []byte(c.text)}}, Name: c.name, Shown: c.name}}, here, nil,
		)
		require.NoError(t, err, c.name)
		text, left, err := got.Text()
		require.NoError(t, err)
		for _, want := range strings.Split(c.mapping, "\n") {
			assert.Contains(
				t, strings.Join(strings.Fields(string(text)), " "), strings.Join(strings.Fields(want), " "), c.name,
			)
		}
		assert.Equal(t, strings.Contains(c.mapping, "off"), strings.Contains(string(text), "= \"off\""), c.name)
		for _, want := range strings.Split(c.left, "\n") {
			assert.Contains(t, fmt.Sprint(left), want, c.name)
		}
	}
	// Layouts that the user names come before those of a file.
	got, err := imports.Files([]imports.Path{{FS: fstest.MapFS{"sway/config": {Data: []byte("input * xkb_layout " +
		"de\nbindsym Mod4+z exec foot\n")}}, Name: "sway/config", Shown: "sway/config"}}, here, []string{"us"})
	require.NoError(t, err)
	assert.Equal(t, []string{"us"}, got.Sources[0].Machine.Machine.Layouts)
	// Keycodes and keysyms of X11 are no keymap of the console.
	_, err = imports.Files([]imports.Path{{FS: fstest.MapFS{"keys": {Data: []byte("keycode 66 = " +
		"Control_L\nclear Lock\n")}}, Name: "keys", Shown: "keys"}}, here, nil)
	assert.ErrorContains(t, err, "none of the files that we read")
}

// One file with all values that we write to a registry comes back whole, and nothing of it is left.
func TestRegistryComesBackFromOneFile(t *testing.T) {
	const text = `machine "vm" {
  system  = "windows"
  layouts = ["us"]
}
remap "CapsLock" { to = "ControlLeft" }
repeat {
  delay = "220ms"
  rate  = 20
}
disable "Meta+h" "Meta+g" "Meta+l" {}
launch "LaunchMail" { run = ["C:\\tide\\log.exe"] }
launch "BrowserHome" { run = ["C:\\tide\\tides.exe"] }
`
	builds, diags, err := compile.All(loaded(t, []byte(text)), here, nil)
	require.NoError(t, err)
	require.False(t, diags.HasErrors(), "%v", diags)
	var settings []change.Change
	var want []behaviour.Binding
	for _, l := range builds[0].Landings {
		require.NotNil(t, l.Mechanism, "%s", l.Binding)
		want = append(want, l.Written())
	}
	for _, c := range builds[0].Changes() {
		if c, ok := c.(change.Setting); ok {
			c.In, c.Merged = "keys.reg", ""
			settings = append(settings, c)
		}
	}
	file := change.Folder(settings)
	require.Len(t, file, 1)
	got, err := imports.Files([]imports.Path{{FS: fstest.MapFS{"keys.reg": {Data: file[0].Data}}, Name: "keys.reg", Shown: "keys.reg"}}, here, nil)
	require.NoError(t, err)
	var list []behaviour.Binding
	for _, s := range got.Sources {
		list = append(list, s.Bindings...)
	}
	assert.Empty(t, behaviour.Compare(want, list))
	_, left, err := got.Text()
	require.NoError(t, err)
	assert.Empty(t, left)
}

// What a configuration makes of itself is bounded, and the machine's name is one.
func TestWhatIsRefused(t *testing.T) {
	var doubling strings.Builder
	doubling.WriteString("set $a0 exec x\n")
	for n := range 60 {
		fmt.Fprintf(&doubling, "set $a%d $a%d $a%d\n", n+1, n, n)
	}
	doubling.WriteString("bindsym Mod4+z exec $a60\nbindsym Mod4+y exec foot\n")
	var modes strings.Builder
	for n := range 8 {
		fmt.Fprintf(&modes, "mode \"m%d\" {\nbindsym a mode \"m%d\"\nbindsym b mode \"m%[2]d\"\nbindsym c mode "+
			"\"m%[2]d\"\nbindsym d mode \"m%[2]d\"\n}\n", n, n+1)
	}
	modes.WriteString("mode \"m8\" {\nbindsym a exec foot\n}\nbindsym Mod4+m mode \"m0\"\n")
	for name, c := range map[string]struct{ text, wrong string }{
		"variables": {doubling.String(), "more than we put in"},
		"modes":     {modes.String(), "lead to more than"},
	} {
		fsys := fstest.MapFS{"i3/config": {Data: []byte(c.text)}}
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		got, err := imports.Files([]imports.Path{{FS: fsys, Name: "i3/config", Shown: "i3/config"}}, here, nil)
		runtime.ReadMemStats(&after)
		assert.Less(t, (after.TotalAlloc-before.TotalAlloc)>>20, uint64(400), "MB allocated in all for %s", name)
		if err == nil {
			assert.Contains(t, fmt.Sprint(got.Left), c.wrong, name)
		} else {
			assert.ErrorContains(t, err, c.wrong, name)
		}
	}
	for _, name := range []string{"../x", "con", "a b", ""} {
		m := *here
		m.Name = name
		_, err := imports.Files(nil, &m, nil)
		assert.ErrorContains(t, err, "cannot be a machine's name", name)
	}
}

// A file that breaks off anywhere is read as far as it goes, or refused.
func TestCutOffFiles(t *testing.T) {
	archives, err := filepath.Glob("testdata/*.txtar")
	require.NoError(t, err)
	files := map[string][]byte{
		"i3/config": []byte("bindsym Mod4+a exec --no-startup-id \"exec printf '%b' 'tide\\0141\\0142' | " +
			"sh\"\nmode \"x\" {\n bindsym b exec c\n}\nbindsym Mod4+m mode \"x\"\n"),
		"keys.reg": []byte("Windows Registry Editor Version " +
			"5.00\r\n\r\n[HKEY_LOCAL_MACHINE\\SYSTEM\\CurrentControlSet\\Control\\Keyboard Layout]\r\n\"Scancode " +
			"Map\"=hex:00,00,00,00,00,00,00,00,02,\\\r\n  00,00,00,1d,00,3a,00,00,00,00,00\r\n"),
	}
	for _, a := range archives {
		parsed, err := txtar.ParseFile(a)
		require.NoError(t, err)
		for _, f := range parsed.Files {
			files[f.Name] = f.Data
		}
	}
	builds, _, err := compile.All(loaded(t, examples.TideOffice), here, nil)
	require.NoError(t, err)
	for _, b := range builds {
		for _, f := range b.Files() {
			files[f.Path] = f.Data
		}
	}
	tried := 0
	for name, data := range files {
		for _, by := range registry.Importers() {
			if !by.Knows(name, data) {
				continue
			}
			tried++
			k := by.For()
			m := sample.Machine(
				mapping.Machine{System: k.System, Desktop: k.Desktop, Session: k.Session, Layouts: []string{"de"}},
			)
			step := max(1, len(data)/400)
			for n := 0; n <= len(data); n += step {
				for _, end := range []string{"", "\\", "\"", "'"} {
					got, err := by.Import(m, append(data[:n:n], end...), fstest.MapFS{})
					for _, l := range got.Left {
						require.False(t, err == nil && (l.Text == "" || l.Why == ""), "%s cut at %d: %+v", name, n, l)
					}
				}
			}
		}
	}
	assert.Greater(t, tried, 10)
}

// A launch by a key that GNOME cannot tell from another one is taken over, by the key that more boards have,
// though another chord starts the same.
func TestLaunchByKeysAlike(t *testing.T) {
	const group = "[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/custom%d]\n" +
		"binding='%s'\ncommand='tidegauge'\nname='Gauge'\n\n"
	dump := fmt.Sprintf(group+group, 0, "<Control>grave", 1, "<Control>KP_Decimal")
	here := &mapping.Machine{
		Name: "gauge", System: mapping.Linux, Desktop: "gnome", Admin: true, Layouts: []string{"us"},
	}
	got, err := imports.Files(
		[]imports.Path{{FS: fstest.MapFS{"gnome.ini": {Data: []byte(dump)}}, Name: "gnome.ini"}}, here, nil,
	)
	require.NoError(t, err)
	require.Len(t, got.Sources, 1)
	var presses []string
	for _, b := range got.Sources[0].Bindings {
		presses = append(presses, b.Press())
	}
	require.Equal(t, []string{"Ctrl+Backquote", "Ctrl+NumpadDecimal"}, presses)
	comma := behaviour.Binding{
		Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Ctrl, Key: sample.Key("NumpadComma")},
		Effect: behaviour.Launching(behaviour.Launch{Command: []string{"tidegauge"}}),
	}
	offer := dconf.Mechanism{Desktop: "gnome"}.Take(sample.Machine(*here), comma)
	require.Equal(t, mechanism.Limited, offer.Verdict, "NumpadDecimal starts it, too")
}
