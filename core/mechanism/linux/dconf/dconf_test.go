package dconf_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/dconf"
	"leitstand/internal/sample"
)

var desktops = []string{"gnome", "mate", "cinnamon"}

func machine(desktop string, layouts ...string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: desktop, Session: "x11", Layouts: layouts})
}

// back writes bindings and reads them again.
func back(
	t require.TestingT, desktop string, m *mechanism.Machine, list []mechanism.Binding,
) ([]mechanism.Binding, string) {
	w := dconf.Mechanism{Desktop: desktop}
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	got, err := w.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err, "%s", out.Files())
	if len(out.Files()) == 0 { // of nothing
		return got, ""
	}
	return got, string(out.Files()[0].Data)
}

// What is written reads back as what was meant, whatever the command holds.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t\x01]{0,12}`))
	for _, desktop := range desktops {
		t.Run(desktop, func(t *testing.T) {
			rapid.Check(t, func(t *rapid.T) {
				layouts := rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}, {"ru", "de"}}).Draw(t, "layouts")
				m := machine(desktop, layouts...)
				list := sample.Launches(t, word, func(b behaviour.Binding) bool {
					c, answer := b.Effect.Launch().Command, dconf.Mechanism{Desktop: desktop}.Take(m, b)
					return answer.Verdict >= mechanism.Limited && c[0] != "" && c[0] != "gtk-launch" &&
						c[0] != "xdg-open" && c[0] != "sh"
				})
				list = sample.Apart(m, list)
				got, _ := back(t, desktop, m, list)
				require.Empty(t, behaviour.Compare(got, list))
			})
		})
	}
}

func TestActionsReadBack(t *testing.T) {
	for _, desktop := range desktops {
		m := machine(desktop, "de")
		list := sample.Actions(func(b mechanism.Binding) bool {
			return dconf.Mechanism{Desktop: desktop}.Take(m, b).Verdict >= mechanism.Limited
		})
		assert.Greater(t, len(list), 50, desktop)
		got, _ := back(t, desktop, m, list)
		assert.Empty(t, behaviour.Compare(got, list), desktop)
	}
}

// A chord that the desktop uses is taken away from its use only if the mapping says
// so; an action keeps the chords that it has where it can have several.
func TestTakenChords(t *testing.T) {
	m := machine("gnome", "de")
	other := sample.Act(keys.Meta, "ArrowLeft", "minimize")
	answer := dconf.Mechanism{Desktop: "gnome"}.Take(m, other)
	assert.Equal(t, mechanism.Limited, answer.Verdict)
	assert.Contains(t, answer.Why.String(), "GNOME uses it, too, to view split on left")
	other.Override = true
	assert.Equal(t, mechanism.Exact, dconf.Mechanism{Desktop: "gnome"}.Take(m, other).Verdict)
	_, text := back(t, "gnome", m, []mechanism.Binding{other})
	assert.Contains(t, text, "minimize=['<Super>Left', '<Super>h']\n")
	assert.Contains(t, text, "toggle-tiled-left=@as []\n")

	off := sample.Off(keys.Alt, "F4")
	got, text := back(t, "mate", machine("mate", "de"), []mechanism.Binding{off})
	assert.Empty(t, behaviour.Compare(got, []mechanism.Binding{off}))
	assert.Contains(t, text, "close='disabled'\n")
	assert.Contains(t, text, "action='true'\n")

	moved := sample.Act(keys.Hyper, "KeyQ", "close")
	answer = dconf.Mechanism{Desktop: "mate"}.Take(machine("mate", "de"), moved)
	assert.Equal(t, "MATE has one chord for it: Alt+F4 does it no longer", answer.Why.String())
	_, text = back(t, "cinnamon", machine("cinnamon", "de"), []mechanism.Binding{moved})
	assert.Contains(t, text, "close=['<Hyper>q', '<Alt>F4']\n")
}

func TestRepeat(t *testing.T) {
	for _, c := range []struct{ desktop, rate, text, words string }{
		{"gnome", "40/s", "repeat-interval=uint32 25\n", ""},
		{"cinnamon", "60/s", "repeat-interval=uint32 17\n", "every 17 ms, 58.8 times a second"},
		{"mate", "60/s", "rate=60\n", ""},
	} {
		m := machine(c.desktop, "us")
		answer := dconf.Mechanism{Desktop: c.desktop}.Take(m, sample.Setting("repeat rate", c.rate))
		assert.Contains(t, answer.Why.String(), c.words)
		got, text := back(
			t, c.desktop, m,
			[]mechanism.Binding{sample.Setting("repeat delay", "220ms"), sample.Setting("repeat rate", c.rate)},
		)
		assert.Contains(t, text, c.text)
		if answer.Does != nil {
			assert.Equal(t, *answer.Does, got[1].Effect)
		} else {
			assert.Equal(t, c.rate, got[1].Effect.Value.String())
		}
	}
}

// What is for everyone stands in files of its own, with every key locked.
func TestEveryone(t *testing.T) {
	for _, desktop := range desktops {
		m := machine(desktop, "de")
		w := dconf.Mechanism{Desktop: desktop}
		list := []mechanism.Binding{
			sample.Act(keys.Hyper, "KeyQ", "close"),
			sample.Launch(keys.Hyper, "KeyT", behaviour.Launch{Command: []string{"tidegauge"}}),
			sample.Setting("repeat delay", "220ms"),
		}
		assert.False(t, w.Take(m, list[0]).ForAll, "not asked for")
		for i := range list {
			list[i].Everyone = true
		}
		m.Admin = false
		assert.Contains(t, w.Take(m, list[0]).Why.String(), "a setting for everyone needs an administrator")
		m.Admin = true
		out, err := mechanism.Write(w, m, list)
		require.NoError(t, err)
		files := fstest.MapFS{}
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		got, err := w.Read(m, files)
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(got, list), desktop)
		files["dconf/everyone/locks"] = &fstest.MapFile{Data: []byte("/org/gnome\n")}
		_, err = w.Read(m, files)
		assert.ErrorContains(t, err, "is not locked")
	}
}

// What the desktop would not take as meant is no file of ours.
func TestRead(t *testing.T) {
	for text, want := range map[string]string{
		"[org/gnome/desktop/wm/keybindings]\nclose='<Alt>F4'\n":                                                              "of another type than the desktop's",
		"[org/gnome/desktop/wm/keybindings]\nclose=['<Alt>F4'\n":                                                             "a list is not closed",
		"[org/gnome/desktop/wm/keybindings]\nclose=['<Wide>F4']\n":                                                           "names no modifier",
		"[org/gnome/desktop/peripherals/keyboard]\ndelay=250\n":                                                              "no number of the desktop's type",
		"[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/leitstand0]\nname='a'\n":                           "lacks its name, command or binding",
		"[org/gnome/settings-daemon/plugins/media-keys/custom-keybindings/leitstand1]\nname='a'\nbinding='a'\ncommand='a'\n": "leitstand0 is missing",
		"close=[]\n": "neither a group nor a key",
		"[org/gnome/desktop/background]\npicture='x'\n": "no folder of shortcuts",
		"[org/mate/desktop/keybindings/leitstand0]\n\nname='x'\n": "dconf/gnome.ini:3: " +
			"/org/mate/desktop/keybindings/leitstand0/ is no folder of this desktop",
	} {
		_, err := dconf.Mechanism{
			Desktop: "gnome",
		}.Read(machine("gnome", "us"), fstest.MapFS{"dconf/gnome.ini": {Data: []byte(text)}})
		assert.ErrorContains(t, err, want)
	}
}

func FuzzRead(f *testing.F) {
	m := machine("gnome", "fr", "us")
	out, err := mechanism.Write(
		dconf.Mechanism{Desktop: "gnome"},
		m,
		[]behaviour.Binding{sample.Act(keys.Meta, "KeyT", "close"), sample.Setting("repeat rate", "40/s"),
			sample.Launch(
				keys.Hyper|keys.Shift, "Digit7", behaviour.Launch{Command: []string{"a", sample.Nasty}, Dir: "/x"},
			)},
	)
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		for _, desktop := range desktops {
			_, _ = dconf.Mechanism{Desktop: desktop}.Read(m, fstest.MapFS{"dconf/" + desktop + ".ini": {Data: data}})
			_, _ = dconf.Mechanism{
				Desktop: desktop,
			}.Read(
				m,
				fstest.MapFS{"dconf/everyone/" + desktop + ".ini": {Data: data}, "dconf/everyone/locks": {Data: data}},
			)
		}
	})
}

// Meta alone shows GNOME's overview, or nothing.
func TestModifierAlone(t *testing.T) {
	m := machine("gnome", "de")
	w := dconf.Mechanism{Desktop: "gnome"}
	alone := func(mods keys.Mods, e behaviour.Effect) mechanism.Binding {
		return mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods}, Effect: e}
	}
	for value, e := range map[string]behaviour.Effect{"''": {Kind: behaviour.Nothing}, "'Super_L'": {Kind: behaviour.Acts, Action: "overview"}} {
		b := alone(keys.Meta, e)
		assert.Equal(
			t,
			map[behaviour.Kind]mechanism.Verdict{behaviour.Nothing: mechanism.Exact, behaviour.Acts: mechanism.Limited}[e.Kind],
			w.Take(m, b).Verdict,
		)
		got, text := back(t, "gnome", m, []mechanism.Binding{b})
		assert.Equal(t, "[org/gnome/mutter]\noverlay-key="+value+"\n", text)
		assert.Empty(t, behaviour.Compare(got, []mechanism.Binding{b}))
	}
	assert.Contains(
		t, w.Take(m, alone(keys.Ctrl, behaviour.Effect{Kind: behaviour.Nothing})).Why.String(),
		"one thing by a modifier alone",
	)
	assert.Contains(
		t, w.Take(m, alone(keys.Meta, behaviour.Effect{Kind: behaviour.Acts, Action: "close"})).Why.String(),
		"one thing by a modifier alone",
	)
	for desktop, words := range map[string]string{"mate": "MATE has no shortcut", "cinnamon": "its menu keeps"} {
		answer := dconf.Mechanism{
			Desktop: desktop,
		}.Take(machine(desktop, "de"), alone(keys.Meta, behaviour.Effect{Kind: behaviour.Nothing}))
		assert.Equal(t, mechanism.Unavailable, answer.Verdict)
		assert.Contains(t, answer.Why.String(), words)
	}
	got, err := w.Read(
		m, fstest.MapFS{"dconf/gnome.ini": {Data: []byte("[org/gnome/mutter]\noverlay-key='Control_L'\n")}},
	)
	require.NoError(t, err)
	assert.Contains(t, got[0].String(), "leaves the overview to")
	_, err = w.Read(m, fstest.MapFS{"dconf/gnome.ini": {Data: []byte("[org/gnome/mutter]\noverlay-key=['x']\n")}})
	assert.ErrorContains(t, err, "of another type")
}
