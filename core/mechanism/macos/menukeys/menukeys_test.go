package menukeys_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"howett.net/plist"
	"pgregory.net/rapid"

	"leitstand/core/action"
	"leitstand/core/behaviour"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/menukeys"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// What is written reads back as what was meant, for all programs and for one.
func TestReadsWhatItWrites(t *testing.T) {
	m := sample.Mac("de")
	rapid.Check(t, func(t *rapid.T) {
		var list []behaviour.Binding
		for _, b := range sample.AnyAction(t, func(b behaviour.Binding) bool {
			return menukeys.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited
		}) {
			if rapid.Bool().Draw(t, "in one program") {
				b.Apps = []string{"org.example.chart"}
			}
			list = append(list, b)
		}
		behaviour.Sort(list)
		out, err := mechanism.Write(menukeys.Mechanism{}, m, list)
		require.NoError(t, err)
		got, err := menukeys.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

// chooses is a binding of an item of a menu.
func chooses(mods keys.Mods, code string, item ...string) behaviour.Binding {
	b := sample.Act(mods, code, "")
	b.Effect = behaviour.Choosing(item)
	return b
}

// Items by any title read back as what was chosen, with the nastiest title, too.
func TestItemsOfMenus(t *testing.T) {
	m := sample.Mac("de")
	list := []behaviour.Binding{
		chooses(keys.Ctrl|keys.Alt, "KeyE", "File", "Export…"), chooses(keys.Ctrl|keys.Alt, "KeyF", sample.Nasty),
		chooses(keys.Ctrl|keys.Alt, "KeyG", "View", sample.Nasty, "a: b"),
	}
	list[0].Apps = []string{"org.example.chart"}
	behaviour.Sort(list)
	out, err := mechanism.Write(menukeys.Mechanism{}, m, list)
	require.NoError(t, err)
	got, err := menukeys.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
	require.NoError(t, err)
	assert.Empty(t, behaviour.Compare(list, got))
}

func TestTake(t *testing.T) {
	m := sample.Mac("de")
	sends := sample.Act(keys.Ctrl, "KeyC", "")
	sends.Effect = behaviour.Effect{Kind: behaviour.Sends, Chord: keys.Chord{Mods: keys.Meta, Key: sample.Key("KeyC")}}
	inTerminal, nameless := sends, sends
	inTerminal.Apps, nameless.Apps = []string{"com.apple.Terminal"}, []string{"chart"}
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{sample.Act(keys.Ctrl|keys.Alt, "ArrowLeft", "tile-left"), mechanism.Limited, "Window, Move & Resize, Left in their menus"},
		{sample.Act(keys.Ctrl, "KeyC", "copy"), mechanism.Limited, "Meta+KeyC does it no longer"},
		{sample.Act(0, "F8", "minimize"), mechanism.Limited, "Minimize"},
		{sample.Act(0, "KeyM", "minimize"), mechanism.Unavailable, "only with"},
		{sample.Act(keys.Ctrl, "KeyC", "lock"), mechanism.Limited, "Lock Screen"},
		{sample.Act(keys.Ctrl, "KeyC", "play-pause"), mechanism.Unavailable, ""},
		{chooses(keys.Ctrl|keys.Alt, "KeyE", "File", "Export…"), mechanism.Limited, "File, Export…"},
		{chooses(keys.Ctrl|keys.Alt, "KeyE", "Kopieren"), mechanism.Limited, "Copy"},
		{sample.Off(keys.Meta, "KeyM"), mechanism.Limited, "Minimize"},
		{sample.Off(keys.Meta, "KeyK"), mechanism.Unavailable, ""},
		{sends, mechanism.Limited, "Copy"},
		{inTerminal, mechanism.Limited, "Copy"},
		{nameless, mechanism.Unavailable, "bundle identifiers"},
	} {
		got := menukeys.Mechanism{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words, c.binding.String())
	}
	m.Version = "14.5"
	for name, item := range map[string]string{
		"tile-left": "Move Window to Left Side of Screen", "maximize": "Zoom", "tile-top": "", "tile-top-left": "",
	} {
		o := menukeys.Mechanism{}.Take(m, sample.Act(keys.Ctrl, "ArrowLeft", name))
		assert.Equal(t, item != "", o.Verdict == mechanism.Limited, "%s: the other halves came with version 15", name)
		assert.Contains(t, o.Why.String(), item)
	}
}

// No title of one item is that of another in any language, so that each is read as what it is.
func TestTitlesAreOnes(t *testing.T) {
	m := sample.Mac("us")
	for i, u := range desktop.InMenus(m) {
		b := sample.Act(keys.Ctrl|keys.Meta, "F1", u.Name)
		b.Chord.Key = sample.Key([]string{"F1", "F2", "F3", "F4", "F5"}[i%5])
		if _, ours := action.Find(u.Name); !ours { // which no rule asks for by name
			b = sample.Off(u.Chord.Mods, u.Chord.Key.String())
		}
		out, err := mechanism.Write(menukeys.Mechanism{}, m, []behaviour.Binding{b})
		require.NoError(t, err)
		got, err := menukeys.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare([]behaviour.Binding{b}, got), u.Name)
	}
}

// The old form of property lists, which holds paths of titles, is read alike by a second parser.
func TestReadBySecondParser(t *testing.T) {
	m := sample.Mac("de")
	out, err := mechanism.Write(menukeys.Mechanism{}, m, []behaviour.Binding{
		sample.Act(keys.Ctrl|keys.Alt, "ArrowLeft", "tile-left"), sample.Act(keys.Ctrl, "KeyC", "copy"),
	})
	require.NoError(t, err)
	var whole struct{ NSUserKeyEquivalents map[string]string }
	_, err = plist.Unmarshal(out.Files()[0].Data, &whole)
	require.NoError(t, err)
	second := map[string]string{}
	_, err = plist.Unmarshal(realtest.Plget(t, out.Files()[0].Data, "NSUserKeyEquivalents"), &second)
	require.NoError(t, err)
	assert.Equal(t, whole.NSUserKeyEquivalents, second)
	assert.Equal(t, "~^\uf702", second["\x1bFenster\x1bBewegen & Größe anpassen\x1bLinks"])
}

func FuzzRead(f *testing.F) {
	m := sample.Mac("fr")
	f.Add([]byte("{NSUserKeyEquivalents = {Copy = \"^c\"; \"\\033Window\\033Fill\" = \"@~^$\\Uf71a\";};}"))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = menukeys.Mechanism{}.Read(m, fstest.MapFS{"menukeys/NSGlobalDomain.plist": {Data: data}})
	})
}
