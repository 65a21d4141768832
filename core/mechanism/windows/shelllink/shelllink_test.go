package shelllink_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/shelllink"
	"leitstand/internal/sample"
)

func folder(files []mechanism.File) fstest.MapFS {
	fsys := fstest.MapFS{}
	for _, f := range files {
		fsys[f.Path] = &fstest.MapFile{Data: f.Data}
	}
	return fsys
}

// What is written reads back as what was meant, under layouts that move letters.
func TestReadsWhatItWrites(t *testing.T) {
	word := rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€]{0,12}`),
		rapid.SampledFrom([]string{`C:\Program Files\Tide\a.exe`, `%USERPROFILE%\b.exe`, "wt"}))
	rapid.Check(t, func(t *rapid.T) {
		m := machine(rapid.SampledFrom([]string{"us", "de", "fr", "us(dvorak)"}).Draw(t, "layout"))
		list := sample.Launches(t, word, func(b behaviour.Binding) bool {
			return shelllink.Mechanism{}.Take(m, b).Verdict >= mechanism.Near
		})
		out, err := mechanism.Write(shelllink.Mechanism{}, m, list)
		require.NoError(t, err)
		require.Len(t, out.Files(), len(list))
		got, err := shelllink.Mechanism{}.Read(m, folder(out.Files()))
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

func TestWebAddress(t *testing.T) {
	m := machine("de")
	b := sample.Launch(ctrlAlt, "KeyW", behaviour.Launch{Open: "https://tides.example/süderhaff?q=100%25&x=%&ü"})
	out, err := mechanism.Write(shelllink.Mechanism{}, m, []behaviour.Binding{b})
	require.NoError(t, err)
	assert.Equal(
		t, "[InternetShortcut]\r\nURL=https://tides.example/s%C3%BCderhaff?q=100%25&x=%&%C3%BC\r\nHotKey=1623\r\n",
		string(out.Files()[0].Data),
	)
	got, err := shelllink.Mechanism{}.Read(m, folder(out.Files()))
	require.NoError(t, err)
	assert.Equal(t, []behaviour.Binding{b}, got)
}

func TestTake(t *testing.T) {
	start := behaviour.Launch{Command: []string{`C:\gauge\tidegauge.exe`}}
	for _, c := range []struct {
		layout  string
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{"us", sample.Launch(ctrlAlt, "KeyT", start), mechanism.Near, "may come forward instead"},
		{"de", sample.Launch(ctrlAlt, "KeyQ", start), mechanism.Near, "\"@\" can no longer be typed with AltGr"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{"wt", "-d", "x"}}), mechanism.Near, "console window flashes"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{"wt", "%PATH%"}}), mechanism.None, "command interpreter"},
		{"us", sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`bin\wt`}}), mechanism.None, "neither"},
		{"us", sample.Launch(keys.Meta, "KeyT", start), mechanism.None, "not Meta"},
		{"us", sample.Launch(keys.Shift, "KeyT", start), mechanism.None, "types a character"},
		{"us", sample.Launch(0, "F9", start), mechanism.Near, ""},
		{"us", sample.Launch(0, "F12", start), mechanism.None, "the debugger's"},
		{"us", sample.Launch(ctrlAlt, "Comma", start), mechanism.Near, ""}, {"ru", sample.Launch(ctrlAlt, "KeyA", start), mechanism.Near, ""},
		{"us", sample.Launch(ctrlAlt, "ArrowLeft", start), mechanism.Near, "some seconds"},
		{"us", sample.Launch(keys.Shift, "ArrowLeft", start), mechanism.None, "wants Ctrl or Alt"},
		{"us", sample.Launch(ctrlAlt, "Delete", start), mechanism.None, "not Delete under"},
	} {
		got := shelllink.Mechanism{}.Take(machine(c.layout), c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// What is for everyone goes into the Start menu of all users, where there is an administrator.
func TestEveryone(t *testing.T) {
	b := sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`C:\gauge\tidegauge.exe`}})
	b.Everyone = true
	m := machine("de")
	require.True(t, shelllink.Mechanism{}.Take(m, b).ForAll)
	out, err := mechanism.Write(
		shelllink.Mechanism{},
		m,
		[]behaviour.Binding{b, sample.Launch(ctrlAlt, "KeyG", b.Effect.Launch())},
	)
	require.NoError(t, err)
	var places []string
	for _, f := range out.Files() {
		places = append(places, f.Goes)
	}
	assert.ElementsMatch(t, []string{
		`%APPDATA%\Microsoft\Windows\Start Menu\Programs\Leitstand\tidegauge (Ctrl+Alt+KeyG).lnk`,
		`%ProgramData%\Microsoft\Windows\Start Menu\Programs\Leitstand\tidegauge (Ctrl+Alt+KeyT).lnk`,
	}, places)
	got, err := shelllink.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Len(t, got, 2)
}

func FuzzReadLink(f *testing.F) {
	m := machine("de")
	out, err := mechanism.Write(shelllink.Mechanism{}, m, []behaviour.Binding{
		sample.Launch(ctrlAlt, "KeyT", behaviour.Launch{Command: []string{`%X%\wt.exe`, "a b"}}),
		sample.Launch(ctrlAlt, "KeyG", behaviour.Launch{Command: []string{`C:\a b\wt.exe`, `\"`}, Dir: `C:\`}),
	})
	require.NoError(f, err)
	for _, file := range out.Files() {
		f.Add(file.Data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = shelllink.Mechanism{}.Read(
			m, fstest.MapFS{"shelllink/a.lnk": {Data: data}, "shelllink/b.url": {Data: data}},
		)
	})
}
