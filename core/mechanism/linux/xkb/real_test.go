package xkb_test

import (
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/xkb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

func machine(session, desktop string, layouts ...string) *mechanism.Machine {
	return withOptions(nil, session, desktop, layouts...)
}

func withOptions(options []string, session, desktop string, layouts ...string) *mechanism.Machine {
	return sample.Machine(
		mapping.Machine{System: mapping.Linux, Desktop: desktop, Session: session, Layouts: layouts, Options: options},
	)
}

// everything has one of everything a layout can carry: modifiers exchanged, a
// letter moved, a lock moved, keys switched off, a Hyper.
var everything = []mechanism.Binding{
	sample.Modifier("CapsLock", keys.Hyper),
	sample.Becomes("AltLeft", "MetaLeft"),
	sample.Becomes("MetaLeft", "AltLeft"),
	sample.Becomes("IntlBackslash", "ShiftLeft"),
	sample.Becomes("ContextMenu", "KeyZ"),
	sample.Becomes("ScrollLock", "CapsLock"),
	sample.Becomes("PrintScreen", "NumpadEnter"),
	sample.Becomes("Pause", "F5"),
	sample.Nothing("Insert"),
	sample.Nothing("KeyQ"),
}

func write(t *testing.T, m *mechanism.Machine, list []mechanism.Binding) string {
	t.Helper()
	out, err := mechanism.Write(xkb.Mechanism{}, m, list)
	require.NoError(t, err)
	dir := t.TempDir()
	for _, f := range out.Files() {
		path := filepath.Join(dir, f.Path)
		require.NoError(t, os.MkdirAll(filepath.Dir(path), 0o755))
		require.NoError(t, os.WriteFile(path, f.Data, 0o644))
	}
	return dir
}

// The keys are pressed by their keycodes in a server that has the keymap.
func TestPressedInX(t *testing.T) {
	realtest.Pressed(t, "xkb", "X server", "keys, chords, layers, options and single boards; random mappings")
	for _, layouts := range [][]string{{"de"}, {"fr", "us"}, {"us(dvorak)"}, {"gr"}} {
		t.Run(strings.Join(layouts, ","), func(t *testing.T) {
			m := machine("x11", "i3", layouts...)
			dir := write(t, m, everything)
			server := realtest.XServer(t)
			server.LoadKeymap(filepath.Join(dir, "xkb/keymap.xkb"))
			p := server.Presser()
			for _, b := range everything {
				got := p.Chord(sample.Evdev(b.Chord.Key))[0].Keysym
				want := "VoidSymbol"
				switch b.Effect.Kind {
				case behaviour.Modifier:
					want = "Hyper_L"
				case behaviour.Becomes:
					s, ok := m.Layouts[0].Symbols(b.Effect.Key)
					require.True(t, ok)
					want = s.Level[0]
				}
				assert.Equal(t, want, xlibName(got), b.String())
			}
			// ScrollLock is CapsLock now and was pressed once: unlock again.
			p.Chord(sample.Evdev(sample.Key("ScrollLock")))

			const shift, lock, mod1, mod3, mod4 = 0x1, 0x2, 0x8, 0x20, 0x40
			hyper := p.Chord(sample.Evdev(sample.Key("CapsLock")), sample.Evdev(sample.Key("KeyT")))[1]
			assert.Equal(t, mod3, hyper.State, "Hyper+t is Hyper alone, not Super (%#x)", hyper.State)
			assert.Equal(
				t, mod4, p.Chord(sample.Evdev(sample.Key("AltLeft")), sample.Evdev(sample.Key("KeyT")))[1].State,
				"Super where Alt was",
			)
			assert.Equal(
				t, mod1, p.Chord(sample.Evdev(sample.Key("MetaLeft")), sample.Evdev(sample.Key("KeyT")))[1].State,
				"Alt where Super was",
			)
			assert.Equal(
				t, shift,
				p.Chord(sample.Evdev(sample.Key("IntlBackslash")), sample.Evdev(sample.Key("KeyT")))[1].State,
				"a second left Shift",
			)
			both := p.Chord(sample.Evdev(sample.Key("CapsLock")), sample.Evdev(sample.Key("AltLeft")), sample.Evdev(sample.Key("KeyT")))[2]
			assert.Equal(t, mod3|mod4, both.State, "Hyper and Super together")
			p.Chord(sample.Evdev(sample.Key("ScrollLock")))
			assert.Equal(t, lock, p.Chord(sample.Evdev(sample.Key("KeyT")))[0].State&lock, "ScrollLock locks capitals")
		})
	}
}

// xlibName undoes the one difference between the names of Xlib and of xkb-data.
func xlibName(s string) string {
	if s == "NoSymbol" {
		return "VoidSymbol"
	}
	return s
}

// The four modifiers that stand for Hyper arrive together.
func TestFourModifiersPressedInX(t *testing.T) {
	m := machine("x11", "plasma", "de")
	dir := write(t, m, []mechanism.Binding{sample.Modifier("CapsLock", intent.Four)})
	server := realtest.XServer(t)
	server.LoadKeymap(filepath.Join(dir, "xkb/keymap.xkb"))
	got := server.Presser().Chord(sample.Evdev(sample.Key("CapsLock")), sample.Evdev(sample.Key("KeyT")))[1]
	assert.Equal(t, 0x1|0x4|0x8|0x40, got.State)
}

// A Wayland compositor's keymap compiler takes the option without a word, for
// each layout of the machine, and each key means what it should.
func TestOptionCompiledByLibxkbcommon(t *testing.T) {
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	for _, layouts := range [][]string{{"de"}, {"fr", "us"}, {"us(intl)", "de(nodeadkeys)", "ru"}} {
		t.Run(strings.Join(layouts, ","), func(t *testing.T) {
			m := machine("wayland", "sway", layouts...)
			dir := write(t, m, everything)
			var names, variants []string
			for _, l := range layouts {
				name, variant := keys.SplitLayout(l)
				names, variants = append(names, name), append(variants, variant)
			}
			out, complaints := realtest.Output(
				t, "xkbcli", "compile-keymap", "--include", filepath.Join(dir, "xkb"), "--include-defaults",
				"--rules", "evdev", "--layout", strings.Join(names, ","), "--variant", strings.Join(variants, ","),
				"--options", "leitstand:mapping",
			)
			require.Empty(t, complaints)
			for _, b := range everything {
				x, _ := b.Chord.Key.XKB()
				got := stanza(t, out, x)
				for g := range m.Layouts {
					want := "VoidSymbol"
					switch b.Effect.Kind {
					case behaviour.Modifier:
						want = "Hyper_L"
					case behaviour.Becomes:
						s, _ := m.Symbols(g, b.Effect.Key)
						want = strings.Join(s.Level, ",")
					}
					assert.Equal(t, want, got[min(g, len(got)-1)], "%s in group %d", b, g+1)
				}
			}
			maps := regexp.MustCompile(`modifier_map (\w+) \{ (.*) \};`).FindAllStringSubmatch(out, -1)
			byMod := map[string]string{}
			for _, f := range maps {
				byMod[f[1]] = f[2]
			}
			assert.Regexp(t, "^<CAPS>(, <LVL5>)?$", byMod["Mod3"], "on which xkeyboard-config 2.42 has the key of "+
				"the fifth level")
			assert.Regexp(t, `(?s)key <HYPR>\s*\{[^}]*VoidSymbol`, out, "which is on Mod4")
			assert.Contains(t, byMod["Mod4"], "<LALT>")
			assert.Contains(t, byMod["Mod1"], "<LWIN>")
			assert.NotContains(t, byMod["Mod1"], "<LALT>")
			assert.Contains(t, byMod["Shift"], "<LSGT>")
			assert.Equal(t, "<SCLK>", byMod["Lock"])
		})
	}
}

// stanza is the symbols of a key in a compiled keymap, by group.
func stanza(t *testing.T, keymap, name string) []string {
	t.Helper()
	_, rest, ok := strings.Cut(keymap, "key <"+name+"> ")
	require.True(t, ok, name)
	rest, _, _ = strings.Cut(rest, "};")
	var groups []string
	for _, f := range regexp.MustCompile(`(?:symbols\[Group\d\]= |\{\s*)\[([^\]]*)\]`).FindAllStringSubmatch(rest, -1) {
		groups = append(groups, strings.ReplaceAll(strings.ReplaceAll(f[1], " ", ""), "\t", ""))
	}
	require.NotEmpty(t, groups, rest)
	return groups
}

// The autostart entry, read by GLib's own parser of desktop entries, loads the
// keymap.
func TestAutostartLoadsTheKeymap(t *testing.T) {
	realtest.Need(t, "gtk-launch", "libgtk-3-bin")
	dir := write(t, machine("x11", "xfce", "de"), everything)
	server := realtest.XServer(t)
	home, env := realtest.Home(t)
	apps := filepath.Join(home, ".local/share/applications")
	require.NoError(t, os.MkdirAll(apps, 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".config/leitstand"), 0o755))
	copyFile(t, filepath.Join(dir, "xkb/leitstand-keymap.desktop"), filepath.Join(apps, "leitstand-keymap.desktop"))
	copyFile(t, filepath.Join(dir, "xkb/keymap.xkb"), filepath.Join(home, ".config/leitstand/keymap.xkb"))
	caps := regexp.MustCompile(`key <CAPS> \{[^}]*Hyper_L`)
	server.Session(env, "gtk-launch leitstand-keymap; sleep 30")
	realtest.WaitFor(t, "the keymap", func() bool {
		return caps.MatchString(server.Run("xkbcomp", "-w0", "-xkb", server.Display, "-"))
	})
}

func copyFile(t *testing.T, from, to string) {
	t.Helper()
	text, err := os.ReadFile(from)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(to, text, 0o644))
}

// For every user, the option lies where libxkbcommon looks beside a user's own folder.
func TestForEveryone(t *testing.T) {
	realtest.Need(t, "xkbcli", "libxkbcommon-tools")
	m := machine("wayland", "gnome", "de")
	m.LayoutForAll = true
	out, err := mechanism.Write(xkb.Mechanism{}, m, everything)
	require.NoError(t, err)
	etc := t.TempDir() // in place of /etc/xkb
	for _, f := range out.Files() {
		rest, ok := strings.CutPrefix(f.Goes, "/etc/xkb/")
		if !ok {
			assert.Equal(t, "/etc/dconf/db/local.d/50-leitstand-layout", f.Goes)
			continue
		}
		to := filepath.Join(etc, rest)
		require.NoError(t, os.MkdirAll(filepath.Dir(to), 0o755))
		require.NoError(t, os.WriteFile(to, f.Data, 0o644))
	}
	t.Setenv("XKB_CONFIG_EXTRA_PATH", etc)
	t.Setenv("XDG_CONFIG_HOME", t.TempDir())
	text, complaints := realtest.Output(
		t, "xkbcli", "compile-keymap", "--include-defaults", "--layout", "de", "--options", "leitstand:mapping",
	)
	assert.Empty(t, complaints)
	assert.Regexp(t, `modifier_map Mod3 \{ <CAPS>`, text)
	for _, s := range out.Steps() {
		for _, line := range s.Lines {
			assert.NotContains(t, line, "~/")
		}
	}
}

// The options that a user has work beside the mapping in a real X server.
func TestOptionsPressedInX(t *testing.T) {
	server := realtest.XServer(t)
	p := server.Presser()
	m := withOptions([]string{"compose:rctrl", "grp:win_space_toggle"}, "x11", "i3", "de", "us")
	server.LoadKeymap(
		filepath.Join(
			write(t, m, []mechanism.Binding{sample.Becomes("CapsLock", "Escape"), sample.Becomes("Pause", "KeyZ")}),
			"xkb/keymap.xkb",
		),
	)
	press := func(code string) string {
		events := p.Chord(sample.Evdev(sample.Key(code)))
		return events[len(events)-1].Keysym
	}
	assert.Equal(
		t, []string{"Multi_key", "Escape", "y", "y"},
		[]string{press("ControlRight"), press("CapsLock"), press("KeyZ"), press("Pause")},
	)
	server.Tap(sample.Evdev(sample.Key("MetaLeft")), sample.Evdev(sample.Key("Space")))
	assert.Equal(
		t, []string{"Multi_key", "Escape", "z", "z"},
		[]string{press("ControlRight"), press("CapsLock"), press("KeyZ"), press("Pause")},
	)
}

// What an X server says of its keymap is read as what is on top of its layouts: what we have
// loaded, and what an option of somebody's has changed.
func TestImportsKeymapOfServer(t *testing.T) {
	for _, layouts := range [][]string{{"de"}, {"fr", "us"}} {
		m := machine("x11", "i3", layouts...)
		list := []mechanism.Binding{
			sample.Modifier(
				"CapsLock", keys.Hyper,
			), sample.Becomes("AltLeft", "MetaLeft"), sample.Becomes("MetaLeft", "AltLeft"),
			sample.Becomes(
				"Pause", "F5",
			), sample.Nothing("Insert"), {Chord: keys.Chord{Key: sample.Key("ContextMenu")}, Effect: behaviour.Effect{Kind: behaviour.Composes}},
		}
		dir := write(t, m, list)
		server := realtest.XServer(t)
		server.LoadKeymap(filepath.Join(dir, "xkb/keymap.xkb"))
		dump := filepath.Join(dir, "dump.xkb")
		imported := func() mechanism.Imported {
			server.Run("xkbcomp", "-w0", server.Display, dump)
			text, err := os.ReadFile(dump)
			require.NoError(t, err)
			require.True(t, xkb.Mechanism{}.Knows(dump, text))
			got, err := xkb.Mechanism{}.Import(m, text, nil)
			require.NoError(t, err)
			assert.Empty(t, got.Left)
			return got
		}
		assert.Empty(t, behaviour.Compare(list, imported().Bindings), layouts)

		var names, variants []string
		for _, l := range layouts {
			names, variants = append(names, l), append(variants, "")
		}
		server.Run(
			"setxkbmap", "-layout", strings.Join(names, ","), "-variant", strings.Join(variants, ","), "-option",
			"ctrl:nocaps",
		)
		assert.Empty(
			t, behaviour.Compare([]mechanism.Binding{sample.Becomes("CapsLock", "ControlLeft")}, imported().Bindings),
			layouts,
		)
	}
	// A key that is something else only in one layout, or with one modifier, is none of ours.
	both, _ := realtest.Output(t, "xkbcli", "compile-keymap", "--layout", "fr,us")
	const insert = "key <INS>                {\t[          Insert ] };"
	require.Contains(t, both, insert)
	for symbols, left := range map[string]int{
		"[ VoidSymbol ]":                                                      0,
		"[ VoidSymbol ], [ VoidSymbol ]":                                      0,
		"[ VoidSymbol ], [ Insert ]":                                          1,
		"[ Insert ], [ VoidSymbol ]":                                          1,
		"[ VoidSymbol, Insert ], [ VoidSymbol, VoidSymbol ]":                  1,
		"[ VoidSymbol ], [ VoidSymbol, Insert ]":                              1,
		"type=\"FOUR_LEVEL\", [ VoidSymbol, VoidSymbol, Insert, VoidSymbol ]": 1,
	} {
		got, err := xkb.Mechanism{}.Import(
			machine("x11", "i3", "fr", "us"), []byte(strings.Replace(both, insert, "key <INS> { "+symbols+" };", 1)),
			nil,
		)
		require.NoError(t, err)
		assert.Len(t, got.Left, left, symbols)
		assert.Len(t, got.Bindings, 1-left, symbols)
	}
	text, _ := realtest.Output(t, "xkbcli", "compile-keymap", "--layout", "fr")
	_, err := xkb.Mechanism{}.Import(machine("x11", "i3", "ru"), []byte(text), nil)
	assert.ErrorContains(t, err, "of other layouts than ru")
}

// The steps switch the option on beside those of the user's own, also when they are taken twice;
// taken back, it is as before, and what the user has added since stays.
func TestOptionBesideOthers(t *testing.T) {
	p := realtest.FindPlasma(t)
	realtest.Need(t, "dconf", "dconf-cli")
	for _, c := range []struct{ desktop, own, more, show string }{
		{"gnome", "dconf write " + optionsKey + ` "['compose:menu']"`, "dconf write " + optionsKey + ` "['compose:menu', 'leitstand:mapping', 'shift:both']"`, "dconf dump /"},
		{"gnome", "", "dconf write " + optionsKey + ` "['shift:both']"`, "dconf dump /"},
		{"plasma", p.Writer + " --file kxkbrc --group Layout --key Options compose:menu", p.Writer + " --file kxkbrc --group Layout --key Options compose:menu,leitstand:mapping,shift:both", "cat .config/kxkbrc"},
		{"plasma", "touch .config/kxkbrc", p.Writer + " --file kxkbrc --group Layout --key Options shift:both", "cat .config/kxkbrc"},
	} {
		m := machine("wayland", c.desktop, "de")
		m.DesktopVersion = p.Version
		out, err := mechanism.Write(xkb.Mechanism{}, m, everything)
		require.NoError(t, err)
		home, env := realtest.Home(t)
		for _, f := range out.Files() {
			file := filepath.Join(home, f.Path)
			require.NoError(t, os.MkdirAll(filepath.Dir(file), 0o755))
			require.NoError(t, os.WriteFile(file, f.Data, 0o644))
		}
		run := func(script string) string {
			return realtest.Bus(t, env, "set -e\ncd '"+home+"'; mkdir -p .config\n"+script+"\n"+c.show+"\n")
		}
		lines := func(steps []mechanism.Step) (all string) {
			for _, s := range steps {
				all += strings.Join(s.Lines, "\n") + "\n"
			}
			return all
		}
		before := run(c.own)
		assert.Equal(t, before, run(lines(out.Back())), "taken back before anything was done")
		is := run(lines(out.Steps()))
		assert.Contains(t, is, "leitstand:mapping")
		assert.Equal(t, c.own != "" && !strings.HasPrefix(c.own, "touch"), strings.Contains(is, "compose:menu"))
		assert.Equal(t, is, run(lines(out.Steps())))
		assert.Equal(t, before, run(lines(out.Back())), c.desktop)
		assert.NoDirExists(t, filepath.Join(home, ".config/xkb/rules/evdev"))

		run(lines(out.Steps()))
		after := run(c.more + "\n" + lines(out.Back()))
		assert.NotContains(t, after, "leitstand:")
		assert.Contains(t, after, "shift:both")
		assert.Equal(t, strings.Contains(before, "compose:menu"), strings.Contains(after, "compose:menu"))
	}
}

const optionsKey = "/org/gnome/desktop/input-sources/xkb-options"
