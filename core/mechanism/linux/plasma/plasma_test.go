package plasma_test

import (
	"io/fs"
	"regexp"
	"slices"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/linux/plasma"
	"leitstand/internal/sample"
)

func machine(layouts ...string) *mechanism.Machine {
	return sample.Machine(mapping.Machine{System: mapping.Linux, Desktop: "plasma", Session: "x11", Layouts: layouts})
}

const shortcuts = "plasma/kglobalshortcutsrc"

// fileOf is a file that was written.
func fileOf(t testing.TB, out mechanism.Output, path string) string {
	t.Helper()
	text, err := fs.ReadFile(mechanism.Folder(out.Files()), path)
	require.NoError(t, err)
	return string(text)
}

// back writes bindings and reads them again.
func back(t require.TestingT, m *mechanism.Machine, list []mechanism.Binding) (got []mechanism.Binding, text string) {
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	fsys := fstest.MapFS{}
	for _, f := range out.Files() {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
		text += f.Path + "\n" + string(f.Data)
	}
	got, err = plasma.Mechanism{}.Read(m, fsys)
	require.NoError(t, err, text)
	return got, text
}

// What is written reads back as what was meant, whatever the command holds.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{0,12}`))
	rapid.Check(t, func(t *rapid.T) {
		layouts := rapid.SampledFrom([][]string{{"us"}, {"de"}, {"fr", "us"}, {"ru", "de"}}).Draw(t, "layouts")
		m := machine(layouts...)
		list := sample.Launches(t, word, func(b behaviour.Binding) bool {
			c, answer := b.Effect.Launch().Command, plasma.Mechanism{}.Take(m, b)
			return answer.Verdict >= mechanism.Limited && c[0] != "" && c[0] != "gtk-launch" && c[0] != "xdg-open" &&
				c[0] != "sh"
		})
		got, text := back(t, m, list)
		require.Empty(t, behaviour.Compare(got, list), text)
	})
}

func TestActionsReadBack(t *testing.T) {
	m := machine("de")
	list := sample.Actions(
		func(b mechanism.Binding) bool { return plasma.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited },
	)
	assert.Greater(t, len(list), 55)
	got, _ := back(t, m, list)
	assert.Empty(t, behaviour.Compare(got, list))
}

func TestTake(t *testing.T) {
	start := behaviour.Launch{Command: []string{"tidegauge"}}
	for _, c := range []struct {
		layouts []string
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{[]string{"de"}, sample.Launch(keys.Ctrl|keys.Alt, "KeyT", start), mechanism.Exact, ""},
		{[]string{"de"}, sample.Launch(keys.Hyper, "KeyT", start), mechanism.Unavailable, "know no Hyper"},
		{[]string{"de"}, sample.Launch(keys.Meta, "Comma", start), mechanism.Unavailable, "no name for Comma"},
		{[]string{"de"}, sample.Launch(keys.Meta, "Numpad1", start), mechanism.Unavailable, "no name for Numpad1"},
		{[]string{"fr", "us"}, sample.Launch(keys.Ctrl|keys.Meta, "KeyW", start), mechanism.Limited, "under layout us " +
			"it is the key that types Meta+Ctrl+Z there"},
		{[]string{"us"}, sample.Act(keys.Meta, "ArrowLeft", "close"), mechanism.Limited, `Plasma uses it, too, for "Quick Tile Window to the Left"`},
		{[]string{"us"}, sample.Act(keys.Meta, "ArrowLeft", "tile-left"), mechanism.Exact, ""},
		{[]string{"us"}, sample.Act(keys.Meta, "KeyI", "notifications"), mechanism.Unavailable, "no shortcut for " +
			"notifications"},
		{[]string{"us"}, sample.Setting("repeat of KeyA", "never"), mechanism.Unavailable, "all keys repeat alike"},
		{[]string{"us"}, sample.Nothing("Insert"), mechanism.Unavailable, ""},
	} {
		got := plasma.Mechanism{}.Take(machine(c.layouts...), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// An action keeps the shortcuts that it has; a chord that is taken over or switched
// off is taken from whoever has it.
func TestTakenChords(t *testing.T) {
	m := machine("de")
	taking := sample.Act(keys.Meta, "ArrowLeft", "close")
	taking.Override = true
	off := sample.Off(keys.Meta, "KeyD")
	got, text := back(t, m, []mechanism.Binding{off, taking})
	assert.Empty(t, behaviour.Compare(got, []mechanism.Binding{off, taking}))
	for _, line := range []string{`Window Close=Meta+Left\tAlt+F4,none,Close Window`, "Window Quick Tile " +
		"Left=none,none,Quick Tile Window to the Left", "Show Desktop=none,none,Peek at Desktop", "Exec=true"} {
		assert.Contains(t, text, line+"\n")
	}
}

func TestRead(t *testing.T) {
	const group = "[leitstand-0.desktop]\n_launch=Meta+T,none,x\n"
	for _, c := range []struct{ shortcuts, program, want string }{
		{"[kwin]\nWindow Close=Meta+T\n", "", "kglobalshortcutsrc:2: Window Close has not the three fields"},
		{"[kwin]\nWindow Close=Hyper+T,none,x\n", "", "names no modifier of Qt"},
		{"[kwin]\nWindow Close=Meta+Wide,none,x\n", "", "no key of the machine's layouts is called so"},
		{"Window Close=Meta+T,none,x\n", "", "neither a group nor a key"},
		{group, "", "leitstand-0.desktop"},
		{group, "[Desktop Entry]\nType=Link\n", "is no desktop file of a program"},
		{group, "[Other]\n", "leitstand-0.desktop:1: not a line of a desktop file"},
	} {
		fsys := fstest.MapFS{"plasma/kglobalshortcutsrc": {Data: []byte(c.shortcuts)}}
		if c.program != "" {
			fsys["plasma/leitstand-0.desktop"] = &fstest.MapFile{Data: []byte(c.program)}
		}
		_, err := plasma.Mechanism{}.Read(machine("us"), fsys)
		assert.ErrorContains(t, err, c.want)
	}
}

func FuzzRead(f *testing.F) {
	m := machine("fr", "us")
	out, err := mechanism.Write(plasma.Mechanism{}, m, []behaviour.Binding{sample.Act(keys.Meta, "KeyT", "close"),
		sample.Launch(
			keys.Ctrl|keys.Shift, "Digit7", behaviour.Launch{Command: []string{"a", sample.Nasty}, Dir: "/x"},
		)})
	require.NoError(f, err)
	f.Add(out.Files()[0].Data, out.Files()[1].Data)
	f.Fuzz(func(t *testing.T, shortcuts, program []byte) {
		_, _ = plasma.Mechanism{}.Read(
			m,
			fstest.MapFS{
				"plasma/kglobalshortcutsrc":  {Data: shortcuts},
				"plasma/kcminputrc":          {Data: shortcuts},
				"plasma/leitstand-0.desktop": {Data: program},
			},
		)
	})
}

// What modifiers do alone stands in the window manager's own file, and reads back.
func TestModifierAlone(t *testing.T) {
	m := machine("de")
	m.DesktopVersion = "5.27"
	modifierAlone := func(mods keys.Mods, e behaviour.Effect) mechanism.Binding {
		return mechanism.Binding{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: mods}, Effect: e}
	}
	run := func(words ...string) behaviour.Effect {
		return behaviour.Launching(behaviour.Launch{Command: words})
	}
	list := []mechanism.Binding{
		modifierAlone(
			keys.Meta, behaviour.Effect{Kind: behaviour.Acts, Action: "overview"},
		), modifierAlone(keys.Ctrl, run("tidegauge", sample.Nasty)),
		modifierAlone(
			keys.Alt, behaviour.Effect{Kind: behaviour.Nothing},
		), modifierAlone(keys.Shift, behaviour.Launching(behaviour.Launch{App: "org.tides.Gauge.desktop"})),
	}
	for _, b := range list {
		require.Equal(t, mechanism.Exact, plasma.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	assert.Contains(
		t, plasma.Mechanism{}.Take(m, modifierAlone(keys.MetaLeft, run("x"))).Why.String(),
		"nothing for MetaLeft alone",
	)
	assert.Contains(
		t, plasma.Mechanism{}.Take(m, modifierAlone(keys.Meta|keys.Alt, run("x"))).Why.String(),
		"nothing for Alt+Meta alone",
	)
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	files := fstest.MapFS{}
	for _, f := range out.Files() {
		files[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	assert.Contains(
		t, string(files["plasma/kwinrc"].Data),
		"\nMeta=org.kde.kglobalaccel,/component/kwin,org.kde.kglobalaccel.Component,invokeShortcut,Overview\n",
	)
	got, err := plasma.Mechanism{}.Read(m, files)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list))

	for text, want := range map[string]string{
		"[ModifierOnlyShortcuts]\nSuper=x\n": "no modifier alone", "[Windows]\nMeta=\n": "no modifier alone",
	} {
		_, err := plasma.Mechanism{}.Read(m, fstest.MapFS{"plasma/kwinrc": {Data: []byte(text)}})
		assert.ErrorContains(t, err, want)
	}
	const call = "org.kde.kglobalaccel,/component/kwin,org.kde.kglobalaccel.Component,invokeShortcut,Overview"
	for i, other := range append(strings.Split(call, ","), "a,b,c") { // another word for each of a call's
		value := other
		if f := strings.Split(call, ","); i < len(f) {
			f[i] += "x"
			value = strings.Join(f, ",")
		}
		got, err = plasma.Mechanism{}.Read(
			m, fstest.MapFS{"plasma/kwinrc": {Data: []byte("[ModifierOnlyShortcuts]\nMeta=" + value + "\n")}},
		)
		require.NoError(t, err)
		require.Len(t, got, 1)
		assert.Equal(t, behaviour.Other, got[0].Effect.Kind, "%s: %s", value, got[0])
	}
	got, err = plasma.Mechanism{}.Read(
		m, fstest.MapFS{"plasma/kwinrc": {Data: []byte("[ModifierOnlyShortcuts]\nMeta=" + call + "\n")}},
	)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list[:1]))
}

// The keeper of Plasma 6 moves the groups of desktop files and keeps the chords of each only
// (as kglobalacceld 6.3 writes them when it has started); what is read is the same.
func TestMovedByPlasma6(t *testing.T) {
	m := machine("de")
	list := []mechanism.Binding{
		sample.Launch(
			keys.Meta, "F9", behaviour.Launch{Command: []string{"tidegauge", "--all"}},
		), sample.Launch(keys.Ctrl|keys.Alt, "KeyG", behaviour.Launch{Command: []string{"plot"}}),
		sample.Off(keys.Meta, "F7"), sample.Act(keys.Meta|keys.Shift, "KeyU", "close"),
	}
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	files := fstest.MapFS{}
	for _, f := range out.Files() {
		files[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	moved := regexp.MustCompile(
		`(?m)^\[(leitstand-[0-9a-f]+\.desktop)\]\n_launch=([^,\n]*),.*$`,
	).ReplaceAllString(string(files[shortcuts].Data), "[services][$1]\n_launch=$2")
	require.Equal(t, 3, strings.Count(moved, "[services]["), moved)
	files[shortcuts] = &fstest.MapFile{Data: []byte(moved)}
	got, err := plasma.Mechanism{}.Read(m, files)
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list), moved)
	_, err = plasma.Mechanism{}.Read(m, fstest.MapFS{shortcuts: {Data: []byte("[kwin]\nWindow Close=Meta+F9\n")}})
	assert.ErrorContains(t, err, "three fields")
}

// In Plasma 6 a modifier alone is a shortcut as others are, and what Plasma has on it by itself
// must be taken.
func TestModifierAloneInPlasma6(t *testing.T) {
	m := machine("de")
	m.DesktopVersion = "6.3"
	run := behaviour.Launching(behaviour.Launch{Command: []string{"tidegauge", sample.Nasty}})
	list := []mechanism.Binding{
		{Level: behaviour.Hotkey, Chord: keys.Chord{Mods: keys.Ctrl}, Effect: run},
		{
			Level:  behaviour.Hotkey,
			Chord:  keys.Chord{Mods: keys.Alt},
			Effect: behaviour.Effect{Kind: behaviour.Acts, Action: "overview"},
		},
		{
			Level:   behaviour.Hotkey,
			Chord:   keys.Chord{Mods: keys.Meta},
			Effect:  run,
			Request: behaviour.Request{Override: true},
		}, sample.Act(keys.Meta, "KeyU", "close"),
	}
	for _, b := range list {
		require.Equal(t, mechanism.Exact, plasma.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	list[2].Override = false
	assert.Contains(t, plasma.Mechanism{}.Take(m, list[2]).Why.String(), "Plasma uses it, too")
	list[2].Override = true
	out, err := mechanism.Write(plasma.Mechanism{}, m, list)
	require.NoError(t, err)
	text := fileOf(t, out, shortcuts)
	assert.Contains(t, text, "\nOverview=Alt\\tMeta+W,none,Toggle Overview\n")
	assert.Contains(t, text, "\nactivate application launcher=Alt+F1,none,Activate Application Launcher\n")
	got, err := plasma.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(got, list))
}

// Two buttons of a mouse give a key or a chord, under Wayland.
func TestButtons(t *testing.T) {
	m := machine("de")
	back1 := sample.Becomes("MouseBack", "Enter")
	assert.Contains(t, plasma.Mechanism{}.Take(m, back1).Why.String(), "in its Wayland session")
	m.Session = "wayland"
	chord := mechanism.Binding{Chord: keys.Chord{Key: sample.Key("MouseForward")},
		Effect: behaviour.Effect{
			Kind:  behaviour.Sends,
			Chord: keys.Chord{Mods: keys.Ctrl | keys.Shift, Key: sample.Key("KeyZ")},
		}}
	list := []mechanism.Binding{back1, chord, sample.Setting("repeat rate", "40/s")}
	for _, b := range list[:2] {
		answer := plasma.Mechanism{}.Take(m, b)
		assert.Equal(t, mechanism.Exact, answer.Verdict, b.String())
	}
	m.DesktopVersion = "5.20"
	assert.Contains(t, plasma.Mechanism{}.Take(m, back1).Why.String(), "from 5.27 on")
	m.DesktopVersion = ""
	for _, b := range []mechanism.Binding{sample.Nothing("MouseBack"), sample.Becomes("Mouse6", "Enter"), sample.Becomes("MouseBack", "ControlLeft"), sample.On("chart-table", back1)} {
		assert.Equal(t, mechanism.Unavailable, plasma.Mechanism{}.Take(m, b).Verdict, b.String())
	}
	got, text := back(t, m, list)
	assert.Empty(t, behaviour.Compare(got, list), text)
	assert.Equal(
		t,
		"plasma/kcminputrc\n[Keyboard]\nRepeatRate=40\n\n[ButtonRebinds][Mouse]\nExtraButton1=Key,Return\nExtraButton2=Key,Ctrl+Shift+Y\n",
		text,
	)
	_, text = back(t, m, list[:1])
	assert.Equal(t, "plasma/kcminputrc\n[ButtonRebinds][Mouse]\nExtraButton1=Key,Return\n", text)
	_, err := plasma.Mechanism{}.Read(
		m, fstest.MapFS{"plasma/kcminputrc": {Data: []byte("[ButtonRebinds][Mouse]\nExtraButton1=Disabled\n")}},
	)
	assert.ErrorContains(t, err, "no button that we know")
}

// What programs read of KConfig by themselves may be for everyone, and must be marked then.
func TestEveryone(t *testing.T) {
	m := machine("de")
	w := plasma.Mechanism{}
	list := []mechanism.Binding{sample.Act(keys.Alt, "KeyC", "copy"), sample.Setting("repeat rate", "40/s")}
	for i := range list {
		assert.False(t, w.Take(m, list[i]).ForAll)
		list[i].Everyone = true
		assert.GreaterOrEqual(t, w.Take(m, list[i]).Verdict, mechanism.Limited)
	}
	launch := sample.Launch(keys.Meta, "F9", behaviour.Launch{Command: []string{"xterm"}})
	launch.Everyone = true
	assert.False(t, w.Take(m, launch).ForAll, "kglobalaccel reads a user's own file only")
	m.Admin = false
	assert.Contains(t, w.Take(m, list[0]).Why.String(), "a setting for everyone needs an administrator")
	m.Admin = true
	out, err := mechanism.Write(w, m, list)
	require.NoError(t, err)
	require.Len(t, out.Files(), 3)
	assert.Contains(t, strings.Join(out.Steps()[0].Lines, "\n"), "sudo mkdir -p /etc/xdg/plasma-workspace/env && "+
		"sudo cp plasma/everyone/leitstand.sh ")
	assert.Equal(t, "[Shortcuts][$i]\nCopy=Ctrl+C; Ctrl+Ins; Alt+C\n", string(out.Files()[0].Data))
	assert.Equal(t, "/etc/leitstand/xdg/kdeglobals", out.Files()[0].Goes)
	got, err := w.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
	files := mechanism.Folder(out.Files())
	files[0].Data = []byte("[Shortcuts]\nCopy=Alt+C\n")
	_, err = w.Read(m, files)
	assert.ErrorContains(t, err, "is not marked as immutable")
}

// What the steps say of Plasma's own shortcuts stands between quotation marks in a shell.
func TestNamesHaveNoQuotationMark(t *testing.T) {
	stock := desktop.Stock(machine("de"))
	require.NotEmpty(t, stock)
	for _, u := range stock {
		assert.NotContains(t, u.Key+u.Name, "'")
		assert.NotContains(t, u.Key+u.Name, `\`)
	}
}

// What the file of shortcuts has is kept before the keeper is told anything: it writes the file in its own time.
func TestKeptBeforeTold(t *testing.T) {
	out, err := mechanism.Write(plasma.Mechanism{}, machine("de"), []mechanism.Binding{
		sample.Act(keys.Meta, "F5", "tile-left"), sample.Act(keys.Meta, "F6", "maximize"),
	})
	require.NoError(t, err)
	lines := strings.Split(linesOf(out.Steps()), "\n")
	told := slices.IndexFunc(lines, func(l string) bool { return strings.HasPrefix(l, "shortcut ") })
	require.Positive(t, told)
	for _, action := range []string{"Window Quick Tile Left", "Window Maximize"} {
		kept := slices.Index(lines, "keep kglobalshortcutsrc --group kwin --key '"+action+"'")
		assert.Positive(t, kept, action)
		assert.Less(t, kept, told, action)
	}
}
